"""The settings tried to get a fair call of a skill: machines, weather, and severities worth proving."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.pages import page_of, said_of
from wolfsbane.diagnosis.solved_cases import faulted_vector, solved, solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.technician import success
from wolfsbane.exercise.draw.judgement import hardness, judge_on
from wolfsbane.exercise.draw.looks import with_idle_looks
from wolfsbane.exercise.draw.rung import Drawn, Rung
from wolfsbane.exercise.draw.weather import drawn_weather

if TYPE_CHECKING:
    from random import Random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.draw.judgement import Judgement
    from wolfsbane.exercise.plan.brief import Brief

#: after this many settings a figure may lie on the edge of its target
_EDGES_AFTER = 12

#: after this many settings a variant may lie twice as far from its rung, with another kind of look
_WIDER_AFTER = 120

#: severities drawn in a setting, and those of them that are proved
_DRAWN, SEVERITIES = 10, 3

#: predicted success in the middle of each level
_USUAL_SUCCESS = {1: 0.95, 2: 0.875, 3: 0.8, 4: 0.725, 5: 0.6}

#: severities tried between one that is too easy and one that is too hard, until the predicted success is so near
_HALVED, _NEAR_AIM = 4, 0.02

#: looks on a page raise the predicted success by about so much; a severity farther from the aim is not proved
_BY_LOOKS, _HOPELESS = 0.03, 0.16


class NoClassSetError(ValueError):
    """The brief cannot be met; the message names the rung and what stood in the way."""


def rng_of(brief: Brief, *parts: Any) -> Random:
    return random.Random("/".join(map(str, (brief.seed, brief.title, *parts))))


def _machines(brief: Brief, skill: tuple[str, ...]) -> list[str]:
    fit = [m for m in brief.machines if all(fault_kind(f).suits(machine_by_id(m)) for f in skill)]
    if not fit:
        raise NoClassSetError(f"{'+'.join(skill)} can stand on none of {', '.join(brief.machines)}")
    return fit


def _severity(fault_id: str, machine: Machine, rng: random.Random) -> float:
    """A severity from beside mild to beyond severe."""
    kind = fault_kind(fault_id).on(machine)
    value = kind.mild + (kind.severe - kind.mild) * rng.uniform(-0.3, 1.3)
    low, high = sorted((kind.fault_free, kind.limit))
    return round(min(max(value, low), high), 1)


def _likely(
    cases: SolvedCases, skill: tuple[str, ...], practice: Practice, rng: random.Random, aim: float | None, only: bool
) -> list[tuple[Fault, ...]]:
    """Severities of a skill that are worth proving: those whose predicted success, before any look, comes nearest to
    ``aim`` (None: any), ``only`` those near it.
    """
    drawn = [
        tuple(Fault(id=f, severity=_severity(f, cases.machine, rng)) for f in skill)
        for _ in range(_DRAWN if skill else 1)
    ]
    if aim is None:
        return drawn[:SEVERITIES]
    offered = tuple(kind.id for kind in candidates(cases.machine, skill))
    found: list[tuple[float, int, tuple[Fault, ...]]] = []

    def tried(faults: tuple[Fault, ...]) -> float | None:
        """How far the predicted success lies from the aim, more where it is easier; None where nothing runs."""
        state = solved(cases.machine, cases.conditions, faults)
        if state is None:
            return None
        page = page_of(cases, faults, faulted_vector(cases.machine, state, faults), practice, offered)
        off = success(page, skill) - aim + _BY_LOOKS
        found.append((off, len(found), faults))
        return off

    for faults in drawn:
        tried(faults)
    _halve(found, tried)
    ranked = sorted((abs(off), i, faults) for off, i, faults in found)
    return [faults for away, _, faults in ranked if away <= _HOPELESS or not only][:SEVERITIES]


def _halve(
    found: list[tuple[float, int, tuple[Fault, ...]]], tried: Callable[[tuple[Fault, ...]], float | None]
) -> None:
    """Try severities between one that is too easy and one that is too hard, nearer and nearer to the aim."""
    easier = [row for row in found if row[0] > 0]
    harder = [row for row in found if row[0] <= 0]
    if not easier or not harder:
        return
    above, below = min(easier)[::2], max(harder)[::2]
    for _ in range(_HALVED):
        if min(above[0], -below[0]) <= _NEAR_AIM:
            return
        between = tuple(
            Fault(id=a.id, severity=round(0.5 * (a.severity + b.severity), 1))
            for a, b in zip(above[1], below[1], strict=True)
        )
        if between in (above[1], below[1]):
            return
        off = tried(between)
        if off is None:
            return
        above, below = ((off, between), below) if off > 0 else (above, (off, between))


def tries(
    brief: Brief,
    skill: tuple[str, ...],
    rung: Rung | None,
    rng: random.Random,
    settings_tried: int,
    wanted: int | None = None,
    pipes: bool = False,
    edges_after: int = _EDGES_AFTER,
    roughly: bool = False,
) -> Iterator[Drawn]:
    """Fair calls of a skill, :class:`Drawn` one after the other; only those that ``rung`` takes unless it is None.
    ``wanted`` is the level that severities lean to where there is no rung; ``roughly`` looks at single faults only:
    enough to learn what a skill can be, not enough to print it.
    """
    machines, practice = _machines(brief, skill), practice_by_id(brief.practice_id)
    aim = _USUAL_SUCCESS.get(wanted or 0) if rung is None else rung.success or _USUAL_SUCCESS[rung.level]

    for attempt in range(settings_tried):
        machine = machine_by_id(rng.choice(machines))
        weather = drawn_weather(brief, rng)
        cases = solved_cases(machine, weather, brief.instruments)
        for faults in _likely(cases, skill, practice, rng, aim, rung is not None):
            judged = _judged(
                brief,
                cases,
                faults,
                practice,
                rng.randrange(2**31),
                allow_edges=attempt > edges_after,
                pipes=pipes,
                looks_decide=rung is None or rung.look_decides is not False or attempt > _WIDER_AFTER,
                takes=None if rung is None else rung.may_take,
                pairs=not roughly,
            )
            if judged is None:
                continue
            _, proof, _ = judged.proved()
            said = said_of(cases, faults, proof.tests, skill)
            drawn = Drawn(
                judged=judged,
                faults=faults,
                hard=hardness(judged, faults, practice),
                look_decides=any(v > 0 for v in said.values()),
            )
            if rung is None or rung.takes(drawn, attempt > _WIDER_AFTER):
                yield drawn


def _judged(
    brief: Brief,
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    seed: int,
    *,
    allow_edges: Any,
    pipes: bool = False,
    looks_decide: bool = True,
    takes: Callable[[Difficulty, int], bool] | None = None,
    pairs: bool = True,
) -> Judgement | None:
    """A fair judgement with a unique proof, or None. Looks and tests that split the equals are given with the call, and
    so are others like them, so that what was looked at does not say what is wrong. ``looks_decide`` says whether a look
    may show what no figure does; what ``takes`` says no to is given up before ``pairs`` are weighed, where they are.
    """
    tests = tuple(t for t in brief.given_tests if FIELD_TESTS[t].suits(cases.machine))

    def judge(given: tuple[str, ...], splits: bool, whole: bool) -> tuple[Judgement, tuple[str, ...]]:
        """A judgement, and the tests that its proof adds to those given."""
        found = judge_on(
            cases,
            faults,
            practice,
            brief.units,
            tests=given,
            readings=brief.given_readings,
            allow_edges=allow_edges,
            wants_splits=splits,
            pipes=pipes,
            named=brief.faults,
            by_book=True,
            looks_decide=looks_decide,
            pairs=whole and pairs,
            seed=seed,
        )
        more, proof = found.needs, found.proof
        if splits and proof is not None and proof.refusal is None and proof.equals and not proof.left:
            more += tuple(s.id for s in proof.splits)
        return found, tuple(dict.fromkeys((*given, *more)))

    try:
        judged, more = judge(tests, True, False)
        if more != tests:
            tests = more
            judged, _ = judge(tests, False, False)
        if not _fair(judged) and not (looks_decide and len(faults) > 1 and judged.proof is not None):
            return None
        if takes is not None and _fair(judged) and not takes(hardness(judged, faults, practice), len(faults)):
            return None
        judged, more = judge(tests, True, True)
        if more != tests:
            judged, _ = judge(more, False, True)
        if _fair(judged):
            judged, _ = judge(with_idle_looks(cases, faults, more, random.Random(seed)), False, True)
    except NoConvergenceError:
        return None
    return judged if _fair(judged) else None


def _fair(judged: Judgement) -> bool:
    return judged.refusal is None and judged.proof is not None and judged.proof.unique
