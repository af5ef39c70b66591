"""What each fault can be on each machine, known beforehand: a chart that plans are chosen from instead of searched.

``make chart`` draws and proves calls of every skill on every usual machine in the usual weather, aimed at each level in
turn, and writes which levels they came to and how many simulated apprentices would name them (``planning_chart.json``
beside this file). It holds for the solver, the tables and the variants it was made with, and for requests that change
nothing a level depends on; any other request is scouted.
"""

from __future__ import annotations

import json
import random
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import fault_kind
from wolfsbane.cycle.instruments import PIPES
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw.ladder import PAIRS
from wolfsbane.exercise.draw.rung import BAND, skill_from_id, skill_id
from wolfsbane.exercise.draw.tries import tries
from wolfsbane.exercise.draw.variant import VARIANT_VERSION
from wolfsbane.exercise.plan.brief import USUAL, USUAL_MACHINES, WEATHER, brief
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from wolfsbane.exercise.draw.rung import Known, Rung
    from wolfsbane.exercise.plan.brief import Brief

FILE = "planning_chart.json"
LEVELS = (1, 2, 3, 4, 5)
#: settings tried for each level (a machine with nothing wrong has no severity to turn, and is tried in more), and
#: proofs after which it is known
_SETTINGS, _SETTINGS_FAULT_FREE, _ENOUGH = 6, 14, 3
#: of a request's usual faults so many may be left out: the answers offered, and with them the levels, hardly change
_LEFT_OUT = 4
#: with fewer machines than this a class would see the same one again and again
_FEW = 2


@dataclass(frozen=True, kw_only=True)
class Piece:
    """One skill on one machine, as work that can be sent to another process."""

    machine: str
    skill: tuple[str, ...]


def pieces() -> list[Piece]:
    """Every skill on every usual machine that can have it."""
    found = []
    for name in USUAL_MACHINES:
        m = machine(name)
        skills = [(), *((f,) for f in USUAL), *PAIRS]
        found += [Piece(machine=name, skill=s) for s in skills if all(fault_kind(f).suits(m) for f in s)]
    return found


def charted(piece: Piece) -> dict[str, Any]:
    """A row of the chart: machine, skill, and [level, look decides, success] of every call that was proved."""
    made = brief({"title": "Chart", "machines": [piece.machine]})
    calls: list[list[Any]] = []
    for level in LEVELS:
        rng, hit = random.Random(f"chart/{piece.machine}/{skill_id(piece.skill)}/{level}"), 0
        settings = _SETTINGS if piece.skill else _SETTINGS_FAULT_FREE
        for drawn in tries(made, piece.skill, None, rng, settings, wanted=level, edges_after=settings // 2):
            # another level of a single fault was weighed against single faults only: it is no proof
            if len(piece.skill) > 1 or drawn.hard.level == level:
                calls.append([drawn.hard.level, int(drawn.look_decides), round(drawn.hard.success, 3)])
                hit += 1
            if hit >= _ENOUGH:
                break
    return {"machine": piece.machine, "skill": skill_id(piece.skill), "calls": sorted(calls)}


def made_with() -> dict[str, str]:
    """What a chart depends on."""
    return {"solver": SOLVER_VERSION, "variants": VARIANT_VERSION, "tables": combined_hash()}


def chart(each: Callable[..., Iterable[Any]] = map) -> dict[str, Any]:
    """The whole chart as plain data; ``each(work, items)`` may spread it over processes."""
    return {"made_with": made_with(), "rows": list(each(charted, pieces()))}


@cache
def _rows() -> dict[str, dict[tuple[str, ...], list[list[Any]]]]:
    """The chart that ships, machine by machine; nothing where it was made with another solver."""
    text = (resources.files(__package__) / FILE).read_text()
    data = json.loads(text)
    if data["made_with"] != made_with():
        return {}
    found: dict[str, dict[tuple[str, ...], list[list[Any]]]] = {}
    for row in data["rows"]:
        found.setdefault(row["machine"], {})[skill_from_id(row["skill"])] = row["calls"]
    return found


def usual(asked: Brief) -> bool:
    """Whether a request changes nothing that a level depends on, so that the chart holds for it."""
    rows = _rows()
    possible = {f for f in USUAL if any(fault_kind(f).suits(asked.machine(m)) for m in asked.machines)}
    return (
        all(m in rows for m in asked.machines)
        and all(asked.weather[name] == given for name, (given, _) in WEATHER.items())
        and asked.practice_id == "plate_and_formula"
        and asked.instruments != PIPES
        and asked.given_readings is None
        and not asked.given_tests
        and asked.altitude_ft == 0.0
        and set(asked.faults) <= possible
        and len(possible - set(asked.faults)) <= _LEFT_OUT
    )


def likely(asked: Brief, skill: tuple[str, ...], rung: Rung) -> tuple[str, ...]:
    """Machines of a request on which a skill came near the level and success of a rung; none where that is not known,
    or where hardly one of them did.
    """
    if not usual(asked):
        return ()
    found = [m for m in asked.machines if any(_near(call, rung) for call in _rows()[m].get(skill, ()))]
    return tuple(found) if len(found) >= min(_FEW, len(asked.machines)) else ()


def _near(call: list[Any], rung: Rung) -> bool:
    level, decides, success = call
    return (
        level == rung.level
        and rung.look_decides in (None, bool(decides))
        and (rung.success is None or abs(success - rung.success) <= 1.5 * BAND)
    )


def known_of(asked: Brief) -> Known:
    """What the chart knows of every skill of a usual request, over its machines."""
    found: Known = {}
    for name in asked.machines:
        for skill, calls in _rows()[name].items():
            if set(skill) <= set(asked.faults):
                reached = found.setdefault(skill, {})
                for level, decides, success in calls:
                    reached.setdefault((level, bool(decides)), []).append(success)
    return found
