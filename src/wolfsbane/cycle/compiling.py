"""numba as this project uses it: without the linear algebra library, which nothing here needs.

When compiled code is first loaded numba looks whether scipy's linear algebra is there, and importing that takes a third
of a second of every start. So it looks while that is out of sight. Import ``njit`` from anywhere; what multiplies
matrices or solves systems in compiled code has to do so by hand (:mod:`wolfsbane.cycle.elimination`).
"""

import sys

if "scipy.linalg" not in sys.modules:
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
    try:
        import numba.np.arraymath  # noqa: F401
    finally:
        del sys.modules["scipy.linalg"]
