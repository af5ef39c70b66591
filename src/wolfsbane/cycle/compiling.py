"""numba as this project uses it: without what it looks for and nothing here needs.

As it is imported numba looks whether scipy with its linear algebra, a reader of YAML, foreign C functions and a
measurer of coverage are there, and importing those takes the better part of half a second of every start. So it looks
while they are out of sight. Import ``njit`` from here; what multiplies matrices or solves systems in compiled code has
to do so by hand (:mod:`wolfsbane.cycle.elimination`).

And before it takes up code that it compiled earlier, numba prepares to compile whatever it knows, a quarter of a second
in which nothing of it is used: only the runtime is begun here then. What has to be compiled after all prepares for it.
"""

import sys
from typing import Any

_NOT_NEEDED = ("scipy", "scipy.linalg", "yaml", "cffi", "coverage")

_hidden = [name for name in _NOT_NEEDED if name not in sys.modules and "numba" not in sys.modules]
for _name in _hidden:
    sys.modules[_name] = None  # type: ignore[assignment]
try:
    import numba.core.typing.cffi_utils  # noqa: F401 - where it looks for foreign functions
    import numba.np.arraymath  # noqa: F401 - and for linear algebra
    from numba import njit
    from numba.core.caching import Cache
    from numba.core.runtime import rtsys
finally:
    for _name in _hidden:
        del sys.modules[_name]


def _load_overload(cache: Any, signature: Any, context: Any) -> Any:
    """What ``Cache.load_overload`` does, but for the preparation."""
    rtsys.initialize(context)
    with cache._guard_against_spurious_io_errors():
        return cache._load_overload(signature, context)
    return None


Cache.load_overload = _load_overload  # type: ignore[method-assign]

__all__ = ["njit"]
