"""Where a rig's channels are clamped, and the units a logger may give them in.

A sample keeps SI: gauge pressures in Pa, temperatures K, currents A, masses kg, humidity as a share of saturation.
"""

from __future__ import annotations

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.quantities import READINGS
from wolfsbane.cycle.units import KG_PER_OZ, M3_S_PER_CFM, PA_PER_INWC, PA_PER_PSI

#: points in the order in which stored samples hold them; new ones go to the end, none is ever moved or taken out
ORDER = (
    "suction_pressure",
    "head_pressure",
    "suction_line",
    "liquid_line",
    "drier_out",
    "discharge_line",
    "return_db",
    "return_wb",
    "supply_db",
    "outdoor_db",
    "evaporator_inlet",
    "evaporator_outlet",
    "condenser_inlet",
    "condenser_bend",
    "condenser_outlet",
    "suction_before_valve",
    "mixed_air",
    "supply_high",
    "supply_low",
    "condenser_entering_air",
    "condenser_leaving_air",
    "water_in",
    "water_out",
    "compressor_amps",
    "airflow",
    "static",
    "return_rh",
    "weight",
)
#: points that are no reading of a technician's: name and kind
_OTHERS = {"return_rh": ("Return air, relative humidity", "humidity"), "weight": ("Scale", "mass")}
#: kind -> unit -> (SI of one unit, SI of nought)
_UNITS: dict[str, dict[str, tuple[float, float]]] = {
    "pressure": {"psig": (PA_PER_PSI, 0.0), "kPa": (1e3, 0.0), "bar": (1e5, 0.0), "MPa": (1e6, 0.0)},
    "temperature": {"°F": (1 / 1.8, 273.15 - 32 / 1.8), "°C": (1.0, 273.15), "K": (1.0, 0.0)},
    "current": {"A": (1.0, 0.0), "mA": (1e-3, 0.0)},
    "flow": {"cfm": (M3_S_PER_CFM, 0.0), "L/s": (1e-3, 0.0), "m³/h": (1 / 3600, 0.0)},
    "static": {"in w.c.": (PA_PER_INWC, 0.0), "Pa": (1.0, 0.0)},
    "humidity": {"%": (0.01, 0.0), "share": (1.0, 0.0)},
    "mass": {"oz": (KG_PER_OZ, 0.0), "lb": (16 * KG_PER_OZ, 0.0), "kg": (1.0, 0.0), "g": (1e-3, 0.0)},
}
#: kind -> what a sensor of it can read at all, SI
_POSSIBLE = {
    "pressure": (-101_325.0, 7e6),
    "temperature": (200.0, 470.0),
    "current": (0.0, 500.0),
    "flow": (0.0, 20.0),
    "static": (-2500.0, 2500.0),
    "humidity": (0.0, 1.05),
    "mass": (-5.0, 200.0),
}


def kind_of(point: str) -> str:
    """The kind of quantity a point shows. Raises BadInputError for an unknown point."""
    if point in _OTHERS:
        return _OTHERS[point][1]
    if point not in ORDER:
        raise BadInputError("point", point, ", ".join(ORDER))
    return READINGS[point].kind


def label_of(point: str) -> str:
    """What a point is called."""
    return _OTHERS[point][0] if point in _OTHERS else READINGS[point].label


def units_of(point: str) -> tuple[str, ...]:
    """Units a channel of this point may be in."""
    return tuple(_UNITS[kind_of(point)])


def to_si(point: str, unit: str, shown: float) -> float:
    """What a channel shows, in SI. Raises BadInputError for a unit that is none of this point's."""
    sizes = _UNITS[kind_of(point)]
    if unit not in sizes:
        raise BadInputError("unit", unit, f"one of {', '.join(sizes)} for {label_of(point).lower()}")
    size, nought = sizes[unit]
    return shown * size + nought


def from_si(point: str, unit: str, value: float) -> float:
    """Inverse of :func:`to_si`."""
    size, nought = _UNITS[kind_of(point)][unit]
    return (value - nought) / size


def possible(point: str, value: float) -> bool:
    """Whether a sensor can show this at all, SI."""
    low, high = _POSSIBLE[kind_of(point)]
    return low <= value <= high
