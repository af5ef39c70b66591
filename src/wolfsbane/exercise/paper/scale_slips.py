"""Numbers that known slips at the pressure-temperature scale lead to."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import units
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.diagnosis.figures import SATURATIONS, saturation
from wolfsbane.exercise.paper.key import Slip

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


def slips_of_scale(
    machine: Machine, readings: dict[str, Any], system: str, barometer: float, figures: dict[str, float]
) -> dict[str, tuple[Slip, ...]]:
    """Numbers that known slips lead to, by question."""
    found: dict[str, tuple[Slip, ...]] = {}
    for name, (pressure, point) in SATURATIONS.items():
        gauge = readings[pressure].value
        rows = [
            ("absolute_for_gauge", machine.refrigerant, _gauge_taken_as_absolute(gauge, system, barometer)),
            ("added_atmosphere", machine.refrigerant, _gauge_plus_atmosphere(gauge, system, barometer)),
        ]
        other = "R-22" if machine.refrigerant != "R-22" else "R-410A"
        rows.append((f"wrong_ring:{other}", other, gauge))
        slips = [
            Slip(code=code, value=round(value, 2))
            for code, fluid, wrong in rows
            if (value := _saturation_or_none(fluid, wrong, point, system, barometer)) is not None
        ]
        swapped = "liquid_saturation" if name == "suction_saturation" else "suction_saturation"
        found[name] = (*slips, Slip(code="other_gauge", value=round(figures[swapped], 2)))
    return found


def _gauge_taken_as_absolute(gauge: float, system: str, barometer: float) -> float:
    return gauge - units.to_display("pressure", 2 * barometer, system, barometer)


def _gauge_plus_atmosphere(gauge: float, system: str, barometer: float) -> float:
    return gauge + units.to_display("pressure", 2 * barometer, system, barometer)


def _saturation_or_none(fluid: str, gauge: float, point: str, system: str, barometer: float) -> float | None:
    pressure = units.from_display("pressure", gauge, system, barometer)
    table = refrigerant(fluid)
    return saturation(fluid, gauge, point, system, barometer) if table.min_pa < pressure < table.max_pa else None
