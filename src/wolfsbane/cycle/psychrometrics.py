"""psychrolib in SI units, as plain scalar functions.

Where numba is installed psychrolib wraps every function with it and compiles them again in each process, which costs
seconds at every start and gains nothing for single values. So it is imported with numba out of sight.
"""

import sys

_numba = sys.modules.get("numba")
sys.modules["numba"] = None  # type: ignore[assignment]
try:
    import psychrolib
finally:
    if _numba is None:
        del sys.modules["numba"]
    else:
        sys.modules["numba"] = _numba

psychrolib.SetUnitSystem(psychrolib.SI)
