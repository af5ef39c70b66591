"""The working-out: figures from printed readings, in the sheet's own units. One place for key, bench and marker."""

from __future__ import annotations

from collections.abc import Container, Mapping

from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import from_display, to_display

#: figure -> (minuend, subtrahend) among readings and saturation temperatures
SUBTRACTIONS = {
    "superheat": ("suction_line", "suction_saturation"),
    "evaporator_superheat": ("evaporator_outlet", "suction_saturation"),
    "subcooling": ("liquid_saturation", "liquid_line"),
    "evaporator_td": ("return_db", "suction_saturation"),
    "ctoa": ("liquid_saturation", "outdoor_db"),
    "drier_drop": ("liquid_line", "drier_out"),
    "air_delta_t": ("return_db", "supply_db"),
}
#: saturation temperature -> (pressure reading, point on the dome)
SATURATIONS = {"suction_saturation": ("suction_pressure", "dew"), "liquid_saturation": ("head_pressure", "bubble")}


def parts_of(name: str, given: Container[str]) -> tuple[str, str]:
    """(minuend, subtrahend) of a subtraction; where water cools the condenser CTOA counts from the water going in, if
    that is among the readings ``given``.
    """
    a, b = SUBTRACTIONS[name]
    return (a, "water_in") if name == "ctoa" and "water_in" in given else (a, b)


def subtracted(known: Mapping[str, float]) -> dict[str, float]:
    """Every subtraction whose two parts are known."""
    rows = {name: parts_of(name, known) for name in SUBTRACTIONS}
    return {name: known[a] - known[b] for name, (a, b) in rows.items() if a in known and b in known}


def saturation(refrigerant_name: str, gauge: float, point: str, system: str, barometer_pa: float) -> float:
    """Saturation temperature in the sheet's unit for a printed gauge pressure; raises BadInputError off the table."""
    pressure_pa = from_display("pressure", gauge, system, barometer_pa)
    return to_display("temperature", refrigerant(refrigerant_name).saturation_k(pressure_pa, point), system)


def work_out(refrigerant_name: str, values: dict[str, float], system: str, barometer_pa: float) -> dict[str, float]:
    """All figures from ``values`` (reading key -> number as printed): saturations first, then the subtractions.

    A subtraction whose reading was held back is left out.

    ``refrigerant_name`` is the one whose scale is read.
    """
    found = dict(values)
    for name, (pressure, point) in SATURATIONS.items():
        found[name] = saturation(refrigerant_name, values[pressure], point, system, barometer_pa)
    found |= subtracted(found)
    return {name: found[name] for name in (*SATURATIONS, *SUBTRACTIONS) if name in found}
