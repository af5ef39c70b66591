"""The weather each class of machine is usually met in, for a request that names none. Common practice, no source."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.conditions import BOX_RANGES_F
from wolfsbane.cycle.units import k_to_f

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

Spans = dict[str, tuple[float, float]]

#: name -> (low, high) degrees F, for machines that cool rooms, and the range that is accepted
WEATHER = {
    "outdoor_db_f": ((82.0, 102.0), (-10.0, 125.0)),
    "return_db_f": ((74.0, 80.0), (55.0, 100.0)),
    "return_wb_f": ((61.0, 67.0), (45.0, 85.0)),
}
#: what a request may name beside these, and the range that is accepted
MORE = {"box_f": (-25.0, 75.0), "water_in_f": (45.0, 110.0)}
#: a tower in season, and city water behind a regulating valve
_TOWER_F, _CITY_F = (72.0, 87.0), (64.0, 80.0)
#: boxes near their set points; a reach-in's is around what its plate is rated for
_BOXES: dict[str, Spans] = {
    "walk_in_cooler": {"outdoor_db_f": (70.0, 100.0), "box_f": (34.0, 40.0)},
    "walk_in_freezer": {"outdoor_db_f": (70.0, 100.0), "box_f": (-8.0, 2.0)},
    "reach_in": {"outdoor_db_f": (70.0, 86.0)},
}
_HEATING: Spans = {"outdoor_db_f": (28.0, 52.0), "return_db_f": (66.0, 73.0)}


def usual_weather(machine: Machine) -> Spans:
    """Where a machine is usually met: what its weather takes -> (low, high) degrees F."""
    if machine.in_heating:
        return _HEATING
    if machine.application == "reach_in":
        rated_f = k_to_f(machine.rating[1])
        return _BOXES["reach_in"] | {"box_f": (round(rated_f - 2.0), round(rated_f + 3.0))}
    if machine.refrigeration:
        return _BOXES[machine.application]
    rooms = {name: given for name, (given, _) in WEATHER.items()}
    if machine.condenser != "water_cooled":
        return rooms
    city = machine.circuit.head_control_high_pa > 0.0
    return rooms | {"water_in_f": _CITY_F if city else _TOWER_F}


def _taken(machine: Machine, name: str) -> tuple[float, float]:
    """The range a machine's weather accepts."""
    if name == "box_f":
        return BOX_RANGES_F[machine.application]
    if machine.in_heating:
        return {"outdoor_db_f": (-10.0, 65.0), "return_db_f": (55.0, 85.0)}[name]
    if machine.refrigeration:
        return (60.0, 110.0) if machine.application == "reach_in" else (-10.0, 125.0)
    cooling = {"outdoor_db_f": (55.0, 125.0), "return_db_f": (60.0, 100.0)}
    return cooling.get(name) or (MORE.get(name) or WEATHER[name][1])


def weather_spans(machine: Machine, asked: Spans) -> Spans:
    """The spans a call on this machine is drawn from: what was ``asked`` for as far as this machine is ever met in it,
    and otherwise where it is usually met. What stands there because a request named nothing counts as not asked.
    """
    found = {}
    for name, usual in usual_weather(machine).items():
        span = asked.get(name, usual)
        if name in WEATHER and tuple(span) == WEATHER[name][0]:
            span = usual
        low, high = _taken(machine, name)
        span = max(span[0], low), min(span[1], high)
        found[name] = span if span[0] <= span[1] else usual
    return found
