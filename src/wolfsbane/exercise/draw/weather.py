"""Weather of a call: drawn at random, on whole steps of the sheet's unit."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

from wolfsbane.cycle.conditions import Conditions, for_machine
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k, from_display, k_to_f, to_display
from wolfsbane.exercise.plan.usual_weather import weather_spans

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.plan.brief import Brief


_STEP = {"us": 1.0, "si": 0.5}
#: a wet bulb stands at least so far under the dry bulb, degrees F
_WET_UNDER_F = 2.0


def snapped(value_f: float, system: str) -> float:
    """Degrees F on whole steps of the sheet's unit, as the number in that unit."""
    step = _STEP[system]
    return round(to_display("temperature", f_to_k(value_f), system) / step) * step


def weather_at(outdoor_f: float, return_f: float, wet_f: float, altitude_ft: float, system: str) -> Conditions:
    """Conditions of a machine that cools rooms with outdoor air, from degrees F, snapped to whole steps of the sheet's
    unit.
    """
    outdoor, dry = snapped(outdoor_f, system), snapped(return_f, system)
    wet = min(snapped(wet_f, system), dry)
    return Conditions(
        outdoor_k=from_display("temperature", outdoor, system),
        return_k=from_display("temperature", dry, system),
        return_wet_bulb_k=from_display("temperature", wet, system),
        barometer_pa=barometer_at_altitude_pa(altitude_ft * M_PER_FT),
    )


def weather_for(machine: Machine, met_f: dict[str, float], altitude_ft: float, system: str) -> Conditions:
    """Conditions of any machine from what its weather takes, name -> degrees F, snapped to whole steps of the sheet's
    unit. Raises BadInputError where a value is out of range.
    """
    if set(met_f) == {"outdoor_db_f", "return_db_f", "return_wb_f"}:
        return weather_at(met_f["outdoor_db_f"], met_f["return_db_f"], met_f["return_wb_f"], altitude_ft, system)
    on_step = {
        name: round(k_to_f(from_display("temperature", snapped(value, system), system)), 6)
        for name, value in met_f.items()
    }
    if "return_wb_f" in on_step:
        on_step["return_wb_f"] = min(on_step["return_wb_f"], on_step["return_db_f"])
    if "water_in_f" in on_step:
        on_step.setdefault("outdoor_db_f", 85.0)
    return for_machine(machine, altitude_ft=altitude_ft, **on_step)


def met_of(machine: Machine, c: Conditions) -> dict[str, float]:
    """What a machine's weather takes, name -> degrees F, from its conditions."""
    if machine.in_heating:
        found = {"outdoor_db_f": c.return_k, "return_db_f": c.outdoor_k}
    elif machine.refrigeration:
        found = {"outdoor_db_f": c.outdoor_k, "box_f": c.return_k}
    else:
        found = {"outdoor_db_f": c.outdoor_k, "return_db_f": c.return_k, "return_wb_f": c.return_wet_bulb_k}
    if c.water_in_k is not None:
        found["water_in_f"] = c.water_in_k
    return {name: round(k_to_f(k), 1) for name, k in found.items()}


def drawn_weather(brief: Brief, machine: Machine, rng: random.Random) -> Conditions:
    """Conditions drawn from a brief's weather for a machine, the wet bulb at least 2 degF under the dry bulb."""
    spans = weather_spans(machine, brief.weather)
    names = ("return_db_f", "outdoor_db_f", "return_wb_f", "box_f", "water_in_f")
    met: dict[str, float] = {name: rng.uniform(*spans[name]) for name in names if name in spans}
    if "return_wb_f" in met:
        met["return_wb_f"] = min(met["return_wb_f"], met["return_db_f"] - _WET_UNDER_F)
    return weather_for(machine, met, brief.altitude_ft, brief.units)
