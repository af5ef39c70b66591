"""What the parts share: constants and rounded corners. Compiled."""

from __future__ import annotations

from math import sqrt

from wolfsbane.cycle.compiling import njit

CP_AIR = 1006.0
CP_WATER = 4186.0
#: heat capacity of liquid refrigerant in a line, J/(kg K) (assumed, alike for all)
LIQUID_J_KG_K = 1400.0


@njit(cache=True, error_model="numpy")
def smooth_max(a: float, b: float, width: float) -> float:
    """Larger of ``a`` and ``b``, rounded off over ``width``."""
    d = a - b
    return b + 0.5 * (d + sqrt(d * d + width * width))


@njit(cache=True, error_model="numpy")
def smooth_clip(value: float, low: float, high: float, width: float) -> float:
    """``value`` held between ``low`` and ``high`` with rounded corners."""
    return -smooth_max(-smooth_max(value, low, width), -high, width)
