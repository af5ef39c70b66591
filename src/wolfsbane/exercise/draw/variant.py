"""Variants: the same faults in another weather and at near severities, each refused unless it has one answer."""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import dataclass, replace
from itertools import product
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instruments import read
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k, from_display, to_display
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.difficulty import difficulty
from wolfsbane.diagnosis.patterns import bands_us, pattern_of, patterns
from wolfsbane.diagnosis.proof import prove, words
from wolfsbane.diagnosis.solved_cases import faulted_vector, id_of, solved, solved_cases
from wolfsbane.diagnosis.targets import FIGURES, NORMAL
from wolfsbane.exercise.paper.asked import slips
from wolfsbane.exercise.paper.call import EDGE_MARGIN, ESSENTIAL, bands_for, figures_of, make_call
from wolfsbane.exercise.paper.key import CallDifficulty, DifficultyReason
from wolfsbane.exercise.paper.pipes import GIVEN, PIPE_OF, PIPES, by_pipes, with_pipes
from wolfsbane.exercise.paper.repairs import repairing
from wolfsbane.exercise.paper.wrong_paths import wrong_paths
from wolfsbane.exercise.plan.scenario import require_paper
from wolfsbane.exercise.plan.story import draft

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.proof import Proof
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.paper.asked import Asked
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.plan.brief import Brief
    from wolfsbane.exercise.plan.scenario import Scenario

#: raise it when the same seed would draw other readings from the same solver and tables
VARIANT_VERSION = "2"
MAX_TRIES = 120
#: up to here no figure may lie on a target's edge; after that one may, where every accepted reading agrees
STRICT_TRIES = 70
_STEP = {"us": 1.0, "si": 0.5}

REFUSALS = {
    "cut_out": "the machine cuts out",
    "no_balance": "no balance was found",
    "weather": "the sound machine itself is off target in this weather",
    "edge": "a figure lies on the edge of its target",
    "look_alike": "the readings are within instrument tolerance of {fault}",
    "same_pattern": "the figures point to {fault} as much as to the planted fault",
    "pipes": "the pipes would lead to another verdict than gauges",
    "seen": "these readings were already given to somebody else",
}


class NoVariantError(ValueError):
    """No acceptable variant within MAX_TRIES. ``counts`` says how often each refusal came."""

    def __init__(self, title: str, counts: Counter) -> None:
        why = "; ".join(f"{n} times {text}" for text, n in counts.most_common(3))
        super().__init__(
            f"scenario {title!r}: no variant with one defensible answer in {sum(counts.values())} tries ({why}). "
            "Change the severity, or widen or move the weather."
        )
        self.title, self.counts = title, counts

    def __reduce__(self) -> tuple[type, tuple[str, Counter]]:
        """Crosses from a worker process as it was made."""
        return type(self), (self.title, self.counts)


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """Whether readings make a fair call: ``refusal`` is None, or a sentence; ``proof`` is None where it came to none.

    ``patterns`` are what each offered fault shows; ``offered`` the ids of the answers on the sheet, ``left_open`` those
    among them that the readings cannot rule out, where that is allowed.
    """

    refusal: str | None
    proof: Proof | None = None
    patterns: dict[str, Any] | None = None
    state: CircuitState | None = None
    cases: SolvedCases | None = None
    offered: tuple[str, ...] = ()
    left_open: tuple[str, ...] = ()

    def proved(self) -> tuple[SolvedCases, Proof, CircuitState]:
        """(cases, proof, state) of a judgement that came to a proof; raises ValueError where it came to none."""
        if self.cases is None or self.proof is None or self.state is None:
            raise ValueError(f"there is no proof: {self.refusal}")
        return self.cases, self.proof, self.state


def _without(
    cases: SolvedCases,
    state: CircuitState | None,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    allow_edges: bool,
) -> str | None:
    """The refusal that needs no proof, as a code, or None."""
    if state is None or cases.fault_free.trip is not None:
        return "cut_out"
    of_fault_free = _accepted(cases, cases.fault_free, practice, system)
    if any(NORMAL not in v or (len(v) > 1 and not allow_edges) for v in of_fault_free):
        return "weather"
    if not allow_edges and any(len(v) > 1 for v in _accepted(cases, state, practice, system)):
        return "edge"
    return None


def judge_on(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    *,
    tests: Any = (),
    readings: Any = None,
    allow_edges: bool = False,
    wants_splits: bool = False,
    leave_open: bool = False,
    pipes: bool = False,
) -> Judgement:
    """Judge planted ``faults`` (a tuple of Fault) on a :class:`~wolfsbane.diagnosis.solved_cases.Ground`: a
    :class:`Judgement`.

    Refused: a cut-out, a sound machine off target, a figure on a target's edge (unless ``allow_edges``), readings
    within tolerance of the sound machine or of another answer that the sheet offers, and a verdict pattern that another
    offered fault shows too. Where edges are allowed, every pattern an examiner would accept has to be the planted
    fault's alone. With ``leave_open`` other offered faults may look the same: they are named in ``left_open`` and count
    as right. With ``pipes`` there are no gauges, and the proof has to stand on the pipes alone.
    """
    try:
        state = solved(cases.machine, cases.conditions, faults)
        code = _without(cases, state, faults, practice, system, allow_edges)
    except NoConvergenceError:
        code, state = "no_balance", None
    if code or state is None:
        return Judgement(refusal=REFUSALS[code or "cut_out"], state=state, cases=cases, patterns={})
    offered = tuple(k.id for k in candidates(cases.machine, tuple(f.id for f in faults), tests))
    table = patterns(cases, practice, offered)
    proof = prove(
        cases,
        faults,
        readings=GIVEN if pipes else printed(readings),
        tests=tests,
        offers_readings=False,
        wants_splits=wants_splits,
    )
    code, name = _from_proof(proof, faults, offered)
    if code is None and len(faults) == 1:
        told = {f for f in table if any(not words(cases, t, faults) & words(cases, t, _plain(f)) for t in tests)}
        name = _same_pattern(
            cases, state, faults, practice, system, {f: rows for f, rows in table.items() if f not in told}
        )
        code = "same_pattern" if name else None
    if code and leave_open and name != NONE and proof.refusal is None:
        others = [r.id for r in proof.equals if r.id in offered] + ([name] if name in offered else [])
        return Judgement(
            refusal=None,
            proof=proof,
            patterns=table,
            state=state,
            cases=cases,
            offered=offered,
            left_open=tuple(dict.fromkeys(others)),
        )
    if code:
        said = (
            "a machine with nothing wrong"
            if name in (NONE, None)
            else str(name).replace("_", " ").replace("+", " with ")
        )
        text = proof.refusal or REFUSALS[code].format(fault=said)
        return Judgement(refusal=text, proof=proof, patterns=table, state=state, cases=cases, offered=offered)
    return Judgement(refusal=None, proof=proof, patterns=table, state=state, cases=cases, offered=offered)


def _plain(fault_id: str) -> tuple[Fault, ...]:
    """A moderate fault of a family, as a tuple of planted faults."""
    return () if fault_id == NONE else (Fault(id=fault_id, severity=fault_kind(fault_id).moderate),)


def _from_proof(proof: Proof, faults: tuple[Fault, ...], offered: tuple[str, ...]) -> tuple[str | None, str | None]:
    """(code, name) of the refusal a proof leads to on a sheet that offers ``offered``."""
    if proof.refusal:
        return "look_alike", NONE
    for rival in proof.equals:
        ids = [] if rival.id == NONE else rival.id.split("+")
        named = len(ids) <= max(len(faults), 1) and (len(ids) == len(faults) or len(faults) > 1 or not faults)
        if faults and set(ids) <= set(offered) and (named or not ids):
            return "look_alike", rival.id
    return None, None


def _same_pattern(
    cases: SolvedCases,
    state: CircuitState,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    table: dict[str, list[tuple[str, ...]]],
) -> str | None:
    """Another offered fault that shows one of the patterns an examiner would accept here, or None."""
    targets = bands_us(cases.machine, cases.conditions, practice)
    drier = pattern_of(faulted_vector(cases.machine, state, faults), cases.conditions, targets, practice)[-1]
    mine = set(product(*_accepted(cases, state, practice, system), (drier,)))
    return next((f for f, rows in table.items() if f != faults[0].id and mine & set(rows)), None)


def judge(
    machine: Machine,
    conditions: Conditions,
    fault: Fault,
    practice: Practice,
    kit: str,
    system: str,
    *,
    allow_edges: bool = False,
) -> Judgement:
    """Solve and judge one candidate. ``fault`` is a Fault, a tuple of them or None; returns a :class:`Judgement`."""
    faults = () if fault is None else fault if isinstance(fault, tuple) else (fault,)
    return judge_on(solved_cases(machine, conditions, kit), faults, practice, system, allow_edges=allow_edges)


def _accepted(cases: SolvedCases, state: CircuitState, practice: Practice, system: str) -> list[set[str]]:
    """For each figure the set of verdicts an examiner would accept from the printed readings."""
    machine = cases.machine
    readings = read(state, cases.kit, system, machine=cases.machine)
    figures = figures_of(machine, readings, system, cases.conditions.barometer_pa)
    targets = bands_for(machine, practice, system, readings)
    return [
        targets[name].verdicts_within(figures[name], EDGE_MARGIN[system]) if name in targets else {NORMAL}
        for name in FIGURES
    ]


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


def _draw(scenario: Scenario, rng: random.Random, system: str) -> tuple[Conditions, tuple[Fault, ...]]:
    """One weather and severities from the scenario's spreads."""
    outdoor = scenario.outdoor_db_f + rng.uniform(-1, 1) * scenario.spread_outdoor_df
    shift = rng.uniform(-1, 1) * scenario.spread_return_df
    dry, wet = scenario.return_db_f, scenario.return_wb_f
    if dry is None or wet is None:
        raise BadInputError("return_wb_f", wet, "a number: a call on paper needs the air of a room")
    wet = wet + 0.8 * shift + rng.uniform(-0.4, 0.4) * scenario.spread_return_df
    conditions = weather_at(outdoor, dry + shift, wet, scenario.altitude_ft, system)
    faults = []
    for fault in scenario.faults:
        kind = fault_kind(fault.id)
        depth = (fault.severity - kind.fault_free) * (1.0 + rng.uniform(-1, 1) * scenario.spread_depth_pct / 100.0)
        low, high = sorted((kind.fault_free, kind.limit))
        faults.append(
            Fault(id=fault.id, severity=round(min(max(kind.fault_free + depth, low), high), 2), cause=fault.cause)
        )
    return conditions, tuple(faults)


def told(scenario: Scenario, rng: random.Random) -> Scenario:
    """The scenario with complaint, history and look round drafted where the instructor left them empty."""
    complaint, history, look_round = draft(scenario.faults, scenario.given_tests, rng)
    return replace(
        scenario,
        complaint=scenario.complaint or complaint,
        history=scenario.history or history,
        look_round=scenario.look_round or look_round,
    )


def hardness(judgement: Judgement, faults: tuple[Fault, ...]) -> Difficulty:
    """The :class:`~wolfsbane.diagnosis.difficulty.Difficulty` of a fair judgement."""
    cases, proof, _ = judgement.proved()
    return difficulty(
        cases,
        faults,
        proof,
        lambda some: prove(cases, some, readings=proof.readings, tests=proof.tests, wants_splits=False),
    )


def finished(
    judgement: Judgement,
    scenario: Scenario,
    faults: tuple[Fault, ...],
    practice: Practice,
    system: str,
    seed: int,
    asked: Asked | None = None,
) -> Call:
    """The :class:`~wolfsbane.exercise.paper.call.Call` of a fair judgement, with the repair, difficulty, accepted answers
    and wrong paths in its key.
    """
    cases, proof, state = judgement.proved()
    call = make_call(
        scenario,
        cases.machine,
        cases.conditions,
        faults,
        state,
        practice,
        system,
        judgement.patterns or {},
        seed,
        asked,
    )
    offered = tuple(choice.id for choice in call.choices.fault)
    repair, steps = repairing(cases, faults, state, offered, call.key.correction, system, random.Random(seed + 1))
    key = replace(
        call.key,
        repair=repair,
        slips=() if asked is None else slips(cases, faults, asked.tests, system),
        difficulty=_difficulty(hardness(judgement, faults)),
        accepted=(id_of(faults),),
        unique=proof.unique,
        also_open=tuple(dict.fromkeys([*judgement.left_open, *(r.id for r in proof.equals)])),
        wrong_paths=wrong_paths(cases, faults, call, practice),
    )
    return replace(call, choices=replace(call.choices, order=steps), key=key)


def _difficulty(found: Difficulty) -> CallDifficulty:
    row = found.to_json()
    return CallDifficulty(
        level=row["level"],
        points=row["points"],
        reasons=tuple(DifficultyReason(points=r["points"], text=r["text"]) for r in row["reasons"]),
    )


def vary(
    scenario: Scenario,
    system: str,
    seed: int,
    seen: frozenset[tuple[float, ...]] = frozenset(),
    asked: Asked | None = None,
) -> Call:
    """Draw one acceptable :class:`Call` from a scenario. Same seed, versions and tables give the same readings.

    ``asked`` (:class:`~wolfsbane.exercise.paper.asked.Asked`) may change instruments and school, and says what is
    asked.

    ``seen`` holds (suction, head, suction line, liquid line) tuples already given out for this scenario.
    Raises NoVariantError with the reasons when nothing acceptable is found, BadInputError for what paper cannot carry.
    """
    rng = random.Random(seed)
    scenario, pipes = chosen(scenario, asked), asked is not None and asked.instruments == PIPES
    machine, practice = require_paper(scenario).profile, scenario.practice
    scenario = told(scenario, rng)
    counts: Counter[str] = Counter()
    for attempt in range(MAX_TRIES):
        conditions, faults = _draw(scenario, rng, system)
        judgement = judge_on(
            solved_cases(machine, conditions, scenario.instruments),
            faults,
            practice,
            system,
            tests=scenario.given_tests,
            readings=scenario.given_readings,
            allow_edges=attempt >= STRICT_TRIES,
            leave_open=asked is not None and asked.leave_open,
            pipes=pipes,
        )
        if judgement.refusal:
            counts[judgement.refusal] += 1
            continue
        call = finished(judgement, scenario, faults, practice, system, rng.randrange(2**31), asked)
        found = by_pipes(call) if pipes else call
        if found is None:
            counts[REFUSALS["pipes"]] += 1
            continue
        if fingerprint(found) in seen:
            counts[REFUSALS["seen"]] += 1
            continue
        return found
    raise NoVariantError(scenario.title, counts)


def chosen(scenario: Scenario, asked: Asked | None) -> Scenario:
    """The scenario with instruments and school as the sheet asks for them."""
    if asked is None:
        return scenario
    if asked.practice_id is not None:
        scenario = replace(scenario, practice_id=asked.practice_id, own_practice=None)
    if asked.instruments == PIPES:
        return with_pipes(scenario)
    return scenario if asked.instruments is None else replace(scenario, instruments=asked.instruments)


def fingerprint(call: Call) -> tuple[float, ...]:
    """What makes two variants the same to somebody who copies."""
    keys = (
        *(PIPE_OF.values() if call.instruments == PIPES else ("suction_pressure", "head_pressure")),
        "suction_line",
        "liquid_line",
    )
    return tuple(call.readings[k].value for k in keys)


def printed(given: Any) -> Any:
    """The readings on paper when ``given`` are asked for: those without which nothing can be worked out come with
    them.
    """
    return None if given is None else tuple(dict.fromkeys((*ESSENTIAL, *given)))
