"""The settings tried to get a fair call of a skill: machines, weather, and severities worth proving."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any, NamedTuple

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, of_instruments
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.pages import page_of, said_of
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.technician import success
from wolfsbane.diagnosis.vectors import solved, vector_on
from wolfsbane.exercise.draw.judgement import Judgement, Weighed, foul_weather, hardness, weigh, without_proof
from wolfsbane.exercise.draw.looks import with_idle_looks
from wolfsbane.exercise.draw.rung import Drawn, Rung, in_words, with_trouble
from wolfsbane.exercise.draw.weather import drawn_weather
from wolfsbane.exercise.plan.call_kind import kind_of, reads_pipes

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.plan.brief import Brief

#: after this many settings a figure may lie on the edge of its target
_EDGES_AFTER = 12

#: after this many settings a variant may lie twice as far from its rung, with another kind of look
_WIDER_AFTER = 120

#: so many settings are drawn on machines that are likely to reach a rung
_LIKELY_FIRST = 40

#: sets of answers tried on a page whose predicted success is beside its rung's
_OFFERS = 8

#: severities drawn in a setting, of which so many at least are looked at, and those of them that are proved
_DRAWN, _AT_LEAST, SEVERITIES = 8, 3, 3

#: predicted success in the middle of each level
_USUAL_SUCCESS = {1: 0.95, 2: 0.875, 3: 0.8, 4: 0.725, 5: 0.6}

#: severities tried between one that is too easy and one that is too hard, until the predicted success is so near
_HALVED, _NEAR_AIM = 4, 0.02

#: share of gauges and probes off zero that read low
_READS_LOW = 0.4

#: looks on a page raise the predicted success by about so much, and one that decides by up to so much more; a severity
#: so much harder than the aim, or so much easier, is not proved: other answers beside it make a page harder less often
_BY_LOOKS, _BY_DECIDING, _TOO_HARD, _TOO_EASY = 0.03, 0.3, 0.16, 0.1


class NoClassSetError(ValueError):
    """The brief cannot be met; the message names the rung and what stood in the way."""


def _machines(brief: Brief, skill: tuple[str, ...]) -> list[str]:
    fit = [m for m in brief.machines if all(_can_have(brief.machine(m), f) for f in skill)]
    if not fit:
        names = ", ".join(brief.machine(m).name for m in brief.machines)
        raise NoClassSetError(f"{in_words(skill)}: none of these machines can have it: {names}")
    return fit


def _can_have(machine: Machine, fault_id: str) -> bool:
    """Whether a fault can stand on a machine; nobody puts gauges on a sealed one."""
    return not machine.sealed if fault_id in INSTRUMENT_FAULTS else fault_kind(fault_id).suits(machine)


def faulted(fault_id: str, machine: Machine, rng: random.Random) -> Fault:
    """A fault from beside mild to beyond severe; an instrument may be off either way, by any of its causes."""
    trouble = INSTRUMENT_FAULTS.get(fault_id)
    kind = trouble or fault_kind(fault_id).on(machine)
    value = kind.mild + (kind.severe - kind.mild) * rng.uniform(-0.3, 1.3)
    low, high = sorted((trouble.mild if trouble else kind.fault_free, kind.limit))
    value = round(min(max(value, low), high), 1)
    if trouble is None:
        return Fault(id=fault_id, severity=value)
    either_way = trouble.fault_free < 0 < trouble.limit and rng.random() < _READS_LOW
    return Fault(id=fault_id, severity=-value if either_way else value, cause=rng.choice(trouble.causes).id)


class _Severities:
    """Severities of a skill in one setting, the likeliest first: those whose predicted success, before any look, comes
    nearest to what is wanted. What looks add is learned from the ones that were judged.
    """

    def __init__(
        self,
        cases: SolvedCases,
        skill: tuple[str, ...],
        practice: Practice,
        rng: random.Random,
        aim: float | None,
        *,
        only_near: bool,
        look_decides: bool,
        refused: Callable[[CircuitState], bool],
    ) -> None:
        self.cases, self.skill, self.practice, self.aim = cases, skill, practice, aim
        self.only_near, self.refused, self.lifted = only_near, refused, look_decides
        self.eased = _BY_LOOKS
        own = tuple(f for f in skill if f not in INSTRUMENT_FAULTS)
        self.offered = tuple(kind.id for kind in candidates(cases.machine, own))
        self.given: set[tuple[Fault, ...]] = set()
        #: severities -> predicted success
        self.found: dict[tuple[Fault, ...], float] = {}
        self.drawn = [tuple(faulted(f, cases.machine, rng) for f in skill) for _ in range(_DRAWN if skill else 1)]
        if aim is not None:
            for number, faults in enumerate(self.drawn):
                if number >= _AT_LEAST and self._on_both_sides(aim - self.eased):
                    break
                self._tried(faults)

    def __iter__(self) -> Iterator[tuple[Fault, ...]]:
        for number in range(SEVERITIES):
            if self.aim is None:
                if number < len(self.drawn):
                    yield self.drawn[number]
                continue
            faults = self._nearest(self.aim - self.eased)
            if faults is None:
                return
            yield faults

    def learn(self, faults: tuple[Fault, ...], judged: float | None) -> None:
        """Take in the success that was predicted with looks, None where it came to none."""
        if judged is not None and faults in self.found:
            self.eased, self.lifted = judged - self.found[faults], False

    def _tried(self, faults: tuple[Fault, ...]) -> float | None:
        """The predicted success, None where nothing runs."""
        if faults not in self.found:
            vector, _ = vector_on(self.cases.ground, faults)
            if vector is None:
                return None
            self.found[faults] = success(page_of(self.cases, faults, vector, self.practice, self.offered), self.skill)
        return self.found[faults]

    def _makes_a_call(self, faults: tuple[Fault, ...]) -> bool:
        state = solved(self.cases.machine, self.cases.conditions, faults)
        return state is not None and not self.refused(state)

    def _nearest(self, wanted: float) -> tuple[Fault, ...] | None:
        """The severities nearest to a success whose figures make a call, none twice."""
        self._halve(wanted)
        rows = [(abs(found - wanted), i, faults) for i, (faults, found) in enumerate(self.found.items())]
        far = _TOO_HARD + (_BY_DECIDING if self.lifted else 0.0)
        for _, _, faults in sorted(rows):
            near = wanted - far <= self.found[faults] <= wanted + _TOO_EASY
            if faults not in self.given and (near or not self.only_near):
                self.given.add(faults)
                if self._makes_a_call(faults):
                    return faults
        return None

    def _on_both_sides(self, wanted: float) -> bool:
        """Whether one severity is easier than what is wanted and one as hard."""
        return min(self.found.values(), default=1.0) <= wanted < max(self.found.values(), default=0.0)

    def _halve(self, wanted: float) -> None:
        """Try severities between one that is too easy and one that is too hard, nearer and nearer to a success."""
        easier = [(found, i, faults) for i, (faults, found) in enumerate(self.found.items()) if found > wanted]
        harder = [(found, i, faults) for i, (faults, found) in enumerate(self.found.items()) if found <= wanted]
        if not easier or not harder:
            return
        above, below = min(easier)[::2], max(harder)[::2]
        for _ in range(_HALVED):
            if min(above[0] - wanted, wanted - below[0]) <= _NEAR_AIM:
                return
            middle = tuple(
                Fault(id=a.id, severity=round(0.5 * (a.severity + b.severity), 1))
                for a, b in zip(above[1], below[1], strict=True)
            )
            found = None if middle in (above[1], below[1]) else self._tried(middle)
            if found is None:
                return
            above, below = ((found, middle), below) if found > wanted else (above, (found, middle))


def tries(
    brief: Brief,
    skill: tuple[str, ...],
    rung: Rung | None,
    rng: random.Random,
    settings_tried: int,
    wanted: int | None = None,
    pipes: bool = False,
    edges_after: int = _EDGES_AFTER,
    beside: tuple[str, ...] = (),
    likely: tuple[str, ...] = (),
) -> Iterator[Drawn]:
    """Fair calls of a skill, :class:`Drawn` one after the other; only those that ``rung`` takes unless it is None.
    ``wanted`` is the level that severities lean to where there is no rung: what is of another level is then weighed
    against single faults only, enough to learn what a skill can be and not enough to print it. The machine can have the
    faults ``beside`` as well; settings are drawn among the machines ``likely`` to reach the rung, where any are, before
    all. Trouble of an instrument is drawn without aiming at a success.
    """
    machines, practice = _machines(brief, (*beside, *skill)), practice_by_id(brief.practice_id)
    likeliest = [m for m in machines if m in likely] or machines
    trouble = with_trouble(skill)
    aim = _USUAL_SUCCESS.get(wanted or 0) if rung is None else rung.success or _USUAL_SUCCESS[rung.level]
    aim = None if trouble else aim

    for attempt in range(settings_tried):
        machine = brief.machine(rng.choice(likeliest if attempt < _LIKELY_FIRST else machines))
        weather = drawn_weather(brief, machine, rng)
        cases, edges = solved_cases(machine, weather, brief.kit), attempt > edges_after
        try:
            if foul_weather(cases, practice, brief.units, edges) is not None:
                continue
        except NoConvergenceError:
            continue

        def refused(state: CircuitState, on: SolvedCases = cases, edges: bool = edges) -> bool:
            return without_proof(on, state, practice, brief.units, edges) is not None

        severities = _Severities(
            cases,
            skill,
            practice,
            rng,
            aim,
            only_near=rung is not None,
            look_decides=rung is not None and bool(rung.look_decides),
            refused=refused,
        )
        for faults in severities:
            judged, early, alike = _judged(
                brief,
                cases,
                faults,
                practice,
                rng.randrange(2**31),
                allow_edges=edges,
                pipes=pipes or reads_pipes(machine),
                looks_decide=rung is None or rung.look_decides is not False or attempt > _WIDER_AFTER,
                takes=None if rung is None or trouble else rung.may_take,
                wanted=wanted if len(skill) < 2 and not trouble else None,
            )
            severities.learn(faults, early)
            if judged is None:
                if alike:  # other answers would look the same at the next severity too
                    break
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


class _Outcome(NamedTuple):
    """What a severity came to: a fair judgement with a unique proof, or None; the success predicted before pairs were
    weighed, or None; and whether other answers look the same, as they will at the next severity in this setting.
    """

    judged: Judgement | None
    early: float | None
    alike: bool = False


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
    wanted: int | None = None,
) -> _Outcome:
    """What a severity came to.

    Looks and tests that split the equals are given with the call, and so are others like them, so that what was looked
    at does not say what is wrong. ``looks_decide`` says whether a look may show what no figure does, or the fault by
    itself; what ``takes`` says no to is given up before pairs are weighed, and what is not of the level ``wanted`` is
    left as it is then.
    """
    wished = (*kind_of(cases.machine).looks, *brief.given_tests)
    tests = tuple(t for t in dict.fromkeys(wished) if FIELD_TESTS[t].suits(cases.machine))

    def weighed(given: tuple[str, ...], splits: bool, pairs: bool) -> tuple[Weighed | Judgement, Judgement, Any]:
        """What was weighed, its judgement with the first answers, and the tests that its proof adds to those given."""
        scales = weigh(
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
            by_book=not of_instruments(faults),
            looks_decide=looks_decide,
            pairs=pairs,
        )
        found = scales if isinstance(scales, Judgement) else scales.judged(seed)
        more, proof = found.needs, found.proof
        if splits and proof is not None and proof.refusal is None and proof.equals and not proof.left:
            more += tuple(s.id for s in proof.splits)
        return scales, found, tuple(dict.fromkeys((*given, *more)))

    def offered(scales: Weighed | Judgement, first: Judgement) -> tuple[Judgement | None, int]:
        """The judgement that the rung takes, with other answers beside the hidden one where need be, and its seed."""
        if takes is None:
            return first, seed
        for other in range(seed, seed + _OFFERS):
            judged = first if other == seed or isinstance(scales, Judgement) else scales.judged(other)
            if _fair(judged) and takes(hardness(judged, faults, practice), len(faults)):
                return judged, other
        return None, seed

    def given_away(given: tuple[str, ...]) -> bool:
        """Whether a look or test shows a fault by itself where none may."""
        own = tuple(f.id for f in faults)
        return not looks_decide and any(v > 0 for v in said_of(cases, faults, given, own).values())

    early: float | None = None
    try:
        scales, judged, more = weighed(tests, True, False)
        if more != tests:
            tests = more
            scales, judged, _ = weighed(tests, False, False)
        if not _fair(judged) and not (looks_decide and len(faults) > 1 and judged.proof is not None):
            return _Outcome(None, early)
        if _fair(judged) and (takes is not None or wanted is not None):
            expected = hardness(judged, faults, practice)
            early = expected.success
            found, seed = (None, seed) if given_away(tests) else offered(scales, judged)
            if found is None:
                return _Outcome(None, early)
            if wanted is not None and expected.level != wanted:
                return _Outcome(judged, early)
        scales, judged, more = weighed(tests, True, True)
        if more != tests:
            if given_away(more):
                return _Outcome(None, early, True)
            scales, judged, _ = weighed(more, False, True)
        if not _fair(judged):
            return _Outcome(None, early, True)
        scales, judged, _ = weighed(with_idle_looks(cases, faults, more, random.Random(seed)), False, True)
        last, _ = offered(scales, judged)
    except NoConvergenceError:
        return _Outcome(None, early)
    return _Outcome(last if last is not None and _fair(last) else None, early)


def _fair(judged: Judgement) -> bool:
    return judged.refusal is None and judged.proof is not None and judged.proof.unique
