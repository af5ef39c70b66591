"""Moist air in compiled code, for searches that ask for it a thousand times: what :mod:`wolfsbane.cycle.air` finds with
the psychrometric library, and held to it by a test.

Source: saturation pressure over ice and water, humidity ratio and enthalpy of moist air, ASHRAE Handbook -
Fundamentals, chapter on psychrometrics (from memory); the psychrometric library uses the same.
"""

from __future__ import annotations

from math import exp, log

from wolfsbane.cycle.air import SATURATION_STEP_K
from wolfsbane.cycle.compiling import njit

_DRIEST, _TRIPLE_C = 1e-7, 0.01


@njit(cache=True, error_model="numpy")
def saturated_ratio(celsius: float, barometer_pa: float) -> float:
    """Humidity ratio of saturated air, kg/kg, over ice up to the triple point of water."""
    t = celsius + 273.15
    if celsius <= _TRIPLE_C:
        ln_p = -5.6745359e3 / t + 6.3925247 - 9.677843e-3 * t + 6.2215701e-7 * t**2
        ln_p += 2.0747825e-9 * t**3 - 9.484024e-13 * t**4 + 4.1635019 * log(t)
    else:
        ln_p = -5.8002206e3 / t + 1.3914993 - 4.8640239e-2 * t + 4.1764768e-5 * t**2
        ln_p += -1.4452093e-8 * t**3 + 6.5459673 * log(t)
    p = exp(ln_p)
    return max(0.621945 * p / (barometer_pa - p), _DRIEST)


@njit(cache=True, error_model="numpy")
def ratio_of_wet_bulb(celsius: float, wet_bulb_c: float, barometer_pa: float) -> float:
    """Humidity ratio, kg/kg, of air by its wet bulb, which is over ice below freezing."""
    saturated = saturated_ratio(wet_bulb_c, barometer_pa)
    if wet_bulb_c >= 0.0:
        water = (2501.0 - 2.326 * wet_bulb_c) * saturated - 1.006 * (celsius - wet_bulb_c)
        return max(water / (2501.0 + 1.86 * celsius - 4.186 * wet_bulb_c), _DRIEST)
    water = (2830.0 - 0.24 * wet_bulb_c) * saturated - 1.006 * (celsius - wet_bulb_c)
    return max(water / (2830.0 + 1.86 * celsius - 2.1 * wet_bulb_c), _DRIEST)


@njit(cache=True, error_model="numpy")
def enthalpy_of(celsius: float, humidity: float) -> float:
    """Enthalpy of moist air, J/kg of dry air."""
    return (1.006 * celsius + humidity * (2501.0 + 1.86 * celsius)) * 1000.0


@njit(cache=True, error_model="numpy")
def off_the_coil_k(dry_bulb_k: float, enthalpy_j_kg: float, humidity: float, barometer_pa: float) -> float:
    """Dry bulb, K, of air taken for ``dry_bulb_k`` with an enthalpy and at most ``humidity`` kg/kg of water: as it is,
    or so much warmer that what it cannot hold is met.
    """
    celsius = dry_bulb_k - 273.15
    ratio = max((enthalpy_j_kg / 1000.0 - 1.006 * celsius) / (2501.0 + 1.86 * celsius), _DRIEST)
    if min(ratio, humidity) <= saturated_ratio(celsius, barometer_pa):
        return dry_bulb_k
    low, high = dry_bulb_k, dry_bulb_k + SATURATION_STEP_K
    for _ in range(30):
        middle = 0.5 * (low + high)
        c = middle - 273.15
        if enthalpy_of(c, saturated_ratio(c, barometer_pa)) < enthalpy_j_kg:
            low = middle
        else:
            high = middle
    return low
