"""Weather of a call: drawn at random, on whole steps of the sheet's unit."""

from __future__ import annotations

import random
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k, from_display, to_display

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.brief import Brief


_STEP = {"us": 1.0, "si": 0.5}


def snapped(value_f: float, system: str) -> float:
    """Degrees F on whole steps of the sheet's unit, as the number in that unit."""
    step = _STEP[system]
    return round(to_display("temperature", f_to_k(value_f), system) / step) * step


def weather_at(outdoor_f: float, return_f: float, wet_f: float, altitude_ft: float, system: str) -> Conditions:
    """Conditions from degrees F, snapped to whole steps of the sheet's unit."""
    outdoor, dry = snapped(outdoor_f, system), snapped(return_f, system)
    wet = min(snapped(wet_f, system), dry)
    return Conditions(
        outdoor_k=from_display("temperature", outdoor, system),
        return_k=from_display("temperature", dry, system),
        return_wet_bulb_k=from_display("temperature", wet, system),
        barometer_pa=barometer_at_altitude_pa(altitude_ft * M_PER_FT),
    )


def drawn_weather(brief: Brief, rng: random.Random) -> Conditions:
    """Conditions drawn from a brief's weather, the wet bulb at least 2 degF under the dry bulb."""

    def draw(name: str) -> Any:
        return rng.uniform(*brief.weather[name])

    dry = draw("return_db_f")
    return weather_at(draw("outdoor_db_f"), dry, min(draw("return_wb_f"), dry - 2.0), brief.altitude_ft, brief.units)
