"""Display units. The inside of the core is SI absolute; these are the only conversions."""

from __future__ import annotations

from wolfsbane.cycle.psychrometrics import psychrolib

STANDARD_ATMOSPHERE_PA = 101_325.0
PA_PER_PSI = 6_894.757293168
W_PER_BTUH = 0.29307107
KG_PER_OZ = 0.028349523125
M_PER_FT = 0.3048


def f_to_k(temperature_f: float) -> float:
    """Degrees Fahrenheit to kelvin."""
    return (temperature_f - 32.0) / 1.8 + 273.15


def k_to_f(temperature_k: float) -> float:
    """Kelvin to degrees Fahrenheit."""
    return (temperature_k - 273.15) * 1.8 + 32.0


def c_to_k(temperature_c: float) -> float:
    """Degrees Celsius to kelvin."""
    return temperature_c + 273.15


def k_to_c(temperature_k: float) -> float:
    """Kelvin to degrees Celsius."""
    return temperature_k - 273.15


def barometer_at_altitude_pa(altitude_m: float) -> float:
    """Air pressure in Pa at ``altitude_m`` above sea level, -500 to 11,000 m.

    Source: the standard-atmosphere relation of ASHRAE Handbook - Fundamentals, chapter 1, equation 3, as
    implemented by psychrolib.
    """
    return psychrolib.GetStandardAtmPressure(altitude_m)


def altitude_of_barometer_m(barometer_pa: float) -> float:
    """Height above sea level in m at which the standard atmosphere has ``barometer_pa``; the inverse of
    :func:`barometer_at_altitude_pa`, same source.
    """
    share = barometer_pa / barometer_at_altitude_pa(0.0)
    return float((1.0 - share ** (1.0 / 5.2559)) / 2.25577e-5)


PA_PER_INWC = 249.08891
M3_S_PER_CFM = M_PER_FT**3 / 60.0

#: unit system -> kind of quantity -> (unit text, decimals)
SYSTEMS = {
    "us": {
        "pressure": ("psig", 0),
        "temperature": ("°F", 1),
        "difference": ("°F", 1),
        "mass": ("oz", 1),
        "flow": ("cfm", 0),
        "static": ("in w.c.", 2),
        "current": ("A", 1),
    },
    "si": {
        "pressure": ("kPa", 0),
        "temperature": ("°C", 1),
        "difference": ("K", 1),
        "mass": ("g", 0),
        "flow": ("L/s", 0),
        "static": ("Pa", 0),
        "current": ("A", 1),
    },
}
#: kind -> value of one display unit in SI, per system; pressure and temperature have an offset as well
_SIZES = {
    "difference": {"us": 1 / 1.8, "si": 1.0},
    "mass": {"us": KG_PER_OZ, "si": 1e-3},
    "flow": {"us": M3_S_PER_CFM, "si": 1e-3},
    "static": {"us": PA_PER_INWC, "si": 1.0},
    "current": {"us": 1.0, "si": 1.0},
}


def to_display(kind: str, value_si: float, system: str, barometer_pa: float = STANDARD_ATMOSPHERE_PA) -> float:
    """Convert an SI value to the sheet's unit. ``kind`` is one of :data:`SYSTEMS`.

    Pressures in are absolute Pa, pressures out are gauge; flow is m3/s, static pressure Pa, current A.
    """
    us = system == "us"
    if kind == "pressure":
        return (value_si - barometer_pa) / (PA_PER_PSI if us else 1_000.0)
    if kind == "temperature":
        return k_to_f(value_si) if us else k_to_c(value_si)
    return value_si / _SIZES[kind][system]


def from_display(kind: str, value: float, system: str, barometer_pa: float = STANDARD_ATMOSPHERE_PA) -> float:
    """Inverse of :func:`to_display`."""
    us = system == "us"
    if kind == "pressure":
        return value * (PA_PER_PSI if us else 1_000.0) + barometer_pa
    if kind == "temperature":
        return f_to_k(value) if us else c_to_k(value)
    return value * _SIZES[kind][system]
