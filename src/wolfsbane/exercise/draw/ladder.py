"""The ladder of a brief: what each call trains, at which level; and the settings tried to get there."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.judgement import hardness, judge_on
from wolfsbane.exercise.draw.weather import drawn_weather

if TYPE_CHECKING:
    from random import Random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.draw.judgement import Judgement
    from wolfsbane.exercise.plan.brief import Brief

#: two faults that a machine may well have at once, the one to be repaired first named first: airflow and coils, then
#: parts, then charge
PAIRS = (
    ("dirty_condenser", "undercharge"),
    ("low_airflow", "undercharge"),
    ("dirty_condenser", "overcharge"),
    ("low_airflow", "overcharge"),
    ("low_airflow", "dirty_condenser"),
    ("valve_overfeeding", "undercharge"),
    ("liquid_line_restriction", "undercharge"),
)

#: minutes an apprentice is given for a call: to start with, and for each level (assumed)
_MINUTES = (3, 2)

_DRILL_MINUTES = 1.5

#: settings drawn for one variant at most: a level that one setting in 20 reaches is then missed by one apprentice in
#: 200,000
MAX_SETTINGS = 240

#: after this many settings a figure may lie on the edge of its target
_EDGES_AFTER = 30

#: severities tried in a setting, and how many settings are spent on finding out what a rung can be
_SEVERITIES, _SCOUTS = 4, 4

#: ladders tried where the levels that are found take longer than the time there is
_PLANS = 3

#: skills tried for a rung before one level beside the wanted one is good enough
_SKILLS = 3


class NoClassSetError(ValueError):
    """The brief cannot be met; the message names the rung and what stood in the way."""


@dataclass(frozen=True, kw_only=True)
class Rung:
    """One call of the ladder: its number, the stated level and the skill (fault ids in the order they are repaired)."""

    number: int
    level: int
    skill: tuple[str, ...]

    @property
    def minutes(self) -> int:
        """Time an apprentice is given."""
        return _MINUTES[0] + _MINUTES[1] * self.level

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "rung": self.number,
            "level": self.level,
            "skill": "+".join(self.skill) or NONE,
            "minutes": self.minutes,
        }


def rng_of(brief: Brief, *parts: Any) -> Random:
    return random.Random("/".join(map(str, (brief.seed, brief.title, *parts))))


def plan(brief: Brief) -> list[Rung]:
    """The ladder of a brief, easiest first: list of :class:`Rung`. Where time is short the middle rungs come down
    first.

    Raises NoClassSetError, BadInputError for too little time.
    """
    wanted, needed = _wanted(brief), None
    for _ in range(_PLANS):
        ladder = _ladder(brief, wanted)
        needed = _time(brief, [r.level for r in ladder])
        if brief.minutes is None or needed <= brief.minutes:
            return ladder
        lower = _eased(wanted, brief.levels[0], -(-(needed - brief.minutes) // _MINUTES[1]))
        if lower == wanted:
            break
        wanted = lower
    raise BadInputError(
        "minutes", brief.minutes, f"at least {needed} for these calls and drills, or fewer or easier ones"
    )


def shortfall(brief: Brief, ladder: list[Rung]) -> str:
    """A sentence where ``ladder`` does not reach the hardest level of the brief, or an empty one."""
    top, wanted = max((r.level for r in ladder), default=brief.levels[1]), brief.levels[1]
    if top >= wanted:
        return ""
    if brief.minutes is not None and _time(brief, [*(r.level for r in ladder[:-1]), wanted]) > brief.minutes:
        return (
            f"Level {wanted} does not fit into {brief.minutes} minutes beside the others; fewer calls or more time"
            " would reach it."
        )
    return f"No fault in this request turned out as hard as level {wanted} on these machines."


def _time(brief: Brief, levels: list[int]) -> int:
    """Minutes that calls of these levels and the drills take."""
    return sum(_MINUTES[0] + _MINUTES[1] * level for level in levels) + round(
        _DRILL_MINUTES * sum(n for _, n in brief.drills)
    )


def _wanted(brief: Brief) -> list[int]:
    """Levels of the rungs, spread over the brief's span and eased where they would take too long."""
    low, wanted = brief.levels[0], _spread(brief)
    over = 0 if brief.minutes is None else _time(brief, wanted) - brief.minutes
    return _eased(wanted, low, -(-over // _MINUTES[1])) if over > 0 else wanted


def _spread(brief: Brief) -> list[int]:
    """Levels from easiest to hardest, evenly over the calls."""
    low, high = brief.levels
    return [low + round((high - low) * i / max(brief.calls - 1, 1)) for i in range(brief.calls)]


def _eased(wanted: list[int], low: int, steps: int) -> list[int]:
    """``wanted`` with ``steps`` levels taken off, never below ``low``;
    the hardest rung keeps its level as long as another can give.
    """
    wanted = list(wanted)
    for _ in range(steps):
        giving = [i for i in range(len(wanted) - 1) if wanted[i] > low] or [
            i for i in range(len(wanted)) if wanted[i] > low
        ]
        if not giving:
            break
        most = max(wanted[i] for i in giving)
        wanted[next(i for i in giving if wanted[i] == most)] -= 1
    return sorted(wanted)


def _ladder(brief: Brief, wanted: list[int]) -> list[Rung]:
    rng = rng_of(brief, "plan")
    skills = _skills(brief, rng)
    found: list[Any] = []
    used: list[Any] = []
    for number, level in enumerate(wanted, start=1):
        rung = _rung(brief, number, level, skills[number - 1], used)
        used.append(rung.skill)
        found.append(rung)
    found.sort(key=lambda r: (r.level, r.number))
    return [Rung(number=i, level=r.level, skill=r.skill) for i, r in enumerate(found, start=1)]


def _skills(brief: Brief, rng: random.Random) -> list[list[tuple[str, ...]]]:
    """For every rung the skills to be tried, best first: machines with nothing wrong in the middle,
    two faults on top.
    """
    calls = brief.calls
    pairs: list[tuple[str, ...]] = [p for p in PAIRS if set(p) <= set(brief.faults)]
    if brief.two_faults and not pairs:
        raise BadInputError("two_faults", brief.two_faults, "0: none of the usual pairs can be made from these faults")
    fault_free = min(round(brief.fault_free_share * calls), calls - brief.two_faults)
    singles: list[tuple[str, ...]] = [(f,) for f in brief.faults]
    rows: list[list[tuple[str, ...]]] = []
    for i in range(calls):
        rng.shuffle(singles)
        rng.shuffle(pairs)
        rows.append(list(pairs) if i >= calls - brief.two_faults else list(singles))
    middle = sorted(range(calls - brief.two_faults), key=lambda i: (abs(i - (calls - 1) / 2), i))[:fault_free]
    for i in middle:
        rows[i] = [()]
    return rows


def _rung(brief: Brief, number: int, level: int, skills: list[tuple[str, ...]], used: list[tuple[str, ...]]) -> Rung:
    """The first skill that reaches the level; failing that the one that comes nearest, at its own level."""
    fresh = [s for s in skills if s not in used] or skills
    best = None
    for tried, (skill, effort) in enumerate([(s, 1) for s in fresh] + [(s, 4) for s in fresh]):
        if best is not None and tried >= _SKILLS and abs(best.level - level) <= 1:
            break
        if effort > 1 and best is not None:
            break
        reached = _levels(brief, skill, level, number, effort)
        if level in reached:
            return Rung(number=number, level=level, skill=skill)
        for other in reached:
            allowed = brief.levels[0] <= other <= brief.levels[1] or skill == ()
            if allowed and (best is None or abs(other - level) < abs(best.level - level)):
                best = Rung(number=number, level=other, skill=skill)
    if best is None:
        raise NoClassSetError(
            f"call {number}: none of {', '.join('+'.join(s) or NONE for s in skills)} makes a fair call of level "
            f"{brief.levels[0]} to {brief.levels[1]} on these machines in this weather. "
            "Widen the weather, the machines, the faults or the levels."
        )
    return best


def _levels(brief: Brief, skill: tuple[str, ...], level: int, number: int, effort: int) -> set[int]:
    """Levels that a few tries of a skill reach, ``effort`` times as many as usual; stops at the second of the wanted
    level.

    One hit of the wanted level is enough in the usual few tries; in many it has to be reached twice, since a class
    needs one for everybody.

    A machine with nothing wrong has no severity to turn, so it is tried in more weathers.
    """
    reached: dict[Any, Any] = {}
    settings_tried = _SCOUTS * effort * (1 if skill else _SEVERITIES)
    for _, _, got in tries(
        brief,
        skill,
        None,
        rng_of(brief, "scout", number, skill, effort),
        settings_tried,
        wanted=level,
        edges_after=settings_tried // 2,
    ):
        reached[got] = reached.get(got, 0) + 1
        if reached.get(level, 0) >= 2:
            break
    return {lv for lv, count in reached.items() if count >= 2 or (lv == level and effort == 1)}


def _machines(brief: Brief, skill: tuple[str, ...]) -> list[str]:
    fit = [m for m in brief.machines if all(fault_kind(f).suits(machine_by_id(m)) for f in skill)]
    if not fit:
        raise NoClassSetError(f"{'+'.join(skill)} can stand on none of {', '.join(brief.machines)}")
    return fit


def _severity(fault_id: str, rng: random.Random, level: int) -> float:
    """A severity for a level: easy calls lean to severe, hard ones to mild."""
    kind = fault_kind(fault_id)
    middle = {1: 0.95, 2: 0.75, 3: 0.4, 4: 0.2, 5: 0.1}.get(level, 0.5)
    share = min(max(rng.gauss(middle, 0.3), -0.25), 1.25)
    value = kind.mild + (kind.severe - kind.mild) * share
    low, high = sorted((kind.fault_free, kind.limit))
    return round(min(max(value, low), high), 1)


def tries(
    brief: Brief,
    skill: tuple[str, ...],
    level: Any,
    rng: random.Random,
    settings_tried: int,
    wanted: int | None = None,
    pipes: bool = False,
    edges_after: int = _EDGES_AFTER,
) -> Iterator[tuple[Judgement, tuple[Fault, ...], int]]:
    """Fair (judgement, faults, level) of a skill, drawn one after the other;
    only those of ``level`` unless it is None.
    """
    machines, practice = _machines(brief, skill), practice_by_id(brief.practice_id)

    for attempt in range(settings_tried):
        machine = machine_by_id(rng.choice(machines))
        weather = drawn_weather(brief, rng)
        cases = solved_cases(machine, weather, brief.instruments)
        for _ in range(_SEVERITIES if skill else 1):
            faults = tuple(Fault(id=f, severity=_severity(f, rng, level or wanted or 0), cause=None) for f in skill)
            judged = _judged(
                brief, cases, faults, practice, rng.randrange(2**31), allow_edges=attempt > edges_after, pipes=pipes
            )
            if judged is None:
                continue
            got = hardness(judged, faults, practice).level
            if level in (None, got):
                yield judged, faults, got


def _judged(
    brief: Brief,
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    seed: int,
    *,
    allow_edges: Any,
    pipes: bool = False,
) -> Judgement | None:
    """A fair judgement with a unique proof, or None. Looks and tests that split the equals are given with the call."""
    tests = tuple(t for t in brief.given_tests if FIELD_TESTS[t].suits(cases.machine))
    given = dict(
        readings=brief.given_readings,
        allow_edges=allow_edges,
        wants_splits=True,
        pipes=pipes,
        named=brief.faults,
        by_book=True,
        seed=seed,
    )
    try:
        judged = judge_on(cases, faults, practice, brief.units, tests=tests, **given)
        more = judged.needs
        if judged.proof is not None and judged.proof.refusal is None and judged.proof.equals and not judged.proof.left:
            more += tuple(s.id for s in judged.proof.splits)
        if more:
            judged = judge_on(
                cases, faults, practice, brief.units, tests=tuple(dict.fromkeys((*tests, *more))), **given
            )
    except NoConvergenceError:
        return None
    return judged if judged.refusal is None and judged.proof is not None and judged.proof.unique else None
