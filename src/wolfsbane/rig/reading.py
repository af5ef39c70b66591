"""What good instruments would read where a rig's channels are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.instruments import reading
from wolfsbane.cycle.quantities import READINGS
from wolfsbane.rig.baseline import conditions_of
from wolfsbane.rig.points import kind_of

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.rig import Rig


def as_read(rig: Rig, profile: Machine, mean: Mapping[str, float], system: str) -> dict[str, float]:
    """Means of channels as digital instruments read them: reading -> number in the system's units."""
    weather = conditions_of(rig, profile, mean)
    points = {**mean, "return_wb": mean.get("return_wb", weather.return_wet_bulb_k)}
    found = {}
    for point, value in points.items():
        if point in READINGS:
            absolute = value + (weather.barometer_pa if kind_of(point) == "pressure" else 0.0)
            found[point] = reading(point, absolute, "digital", system, weather.barometer_pa).value
    return found
