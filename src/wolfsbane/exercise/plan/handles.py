"""The handles of a machine's weather: what a slider of the bench turns, and how far."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import BOX_RANGES_F
from wolfsbane.cycle.units import k_to_f

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


def weather_of(machine: Machine) -> list[dict[str, Any]]:
    """The handles of a machine's weather: rows of {field, label, low, high, rated} in degrees F."""
    outdoor_k, return_k, wet_bulb_k, water_k = machine.rating

    def handle(field: Any, label: Any, low: Any, high: Any, rated_k: Any) -> Any:
        return {
            "field": field,
            "label": label,
            "low": low,
            "high": high,
            "rated": round(k_to_f(rated_k), 1),
        }

    if machine.in_heating:
        return [
            handle("outdoor_db_f", "Outdoor air", 0, 65, return_k),
            handle("return_db_f", "Return air, from the house", 55, 85, outdoor_k),
        ]
    if machine.refrigeration:
        low, high = (60, 110) if machine.application == "reach_in" else (0, 118)
        box_low, box_high = BOX_RANGES_F[machine.application]
        return [
            handle("outdoor_db_f", "Air at the condensing unit", low, high, outdoor_k),
            handle("box_f", "Box", box_low, box_high, return_k),
        ]
    rows = [
        handle("outdoor_db_f", "Outdoor air", 60, 118, outdoor_k),
        handle("return_db_f", "Return air", 66, 92, return_k),
        handle("return_wb_f", "Return wet bulb", 52, 78, wet_bulb_k),
    ]
    return rows if water_k is None else [*rows, handle("water_in_f", "Condenser water in", 50, 105, water_k)]
