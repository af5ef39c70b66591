"""numba as this project uses it: without what it looks for and nothing here needs.

As it is imported numba looks whether scipy with its linear algebra, a reader of YAML, foreign C functions and a
measurer of coverage are there, and importing those takes the better part of half a second of every start. So it looks
while they are out of sight. Import ``njit`` from here; what multiplies matrices or solves systems in compiled code has
to do so by hand (:mod:`wolfsbane.cycle.elimination`).
"""

import sys

_NOT_NEEDED = ("scipy", "scipy.linalg", "yaml", "cffi", "coverage")

_hidden = [name for name in _NOT_NEEDED if name not in sys.modules and "numba" not in sys.modules]
for _name in _hidden:
    sys.modules[_name] = None  # type: ignore[assignment]
try:
    import numba.core.typing.cffi_utils  # noqa: F401 - where it looks for foreign functions
    import numba.np.arraymath  # noqa: F401 - and for linear algebra
    from numba import njit
finally:
    for _name in _hidden:
        del sys.modules[_name]

__all__ = ["njit"]
