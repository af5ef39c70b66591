"""Variants: the same faults in another weather and at near severities, each refused unless it has one answer."""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import PIPES
from wolfsbane.diagnosis.proof import offered_claim
from wolfsbane.diagnosis.solved_cases import id_of, solved_cases
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.diagnosis.words import words
from wolfsbane.exercise.draw.judgement import REFUSALS, Judgement, hardness, judge_on
from wolfsbane.exercise.draw.weather import weather_for
from wolfsbane.exercise.paper.asked import slips
from wolfsbane.exercise.paper.call import make_call
from wolfsbane.exercise.paper.key import CallDifficulty, DifficultyReason, ProvedClaim
from wolfsbane.exercise.paper.pipes import PIPE_OF, by_pipes, with_pipes
from wolfsbane.exercise.paper.repairs import repairing
from wolfsbane.exercise.paper.visits import second_visit
from wolfsbane.exercise.paper.wrong_paths import wrong_paths
from wolfsbane.exercise.plan.call_kind import kind_of, reads_pipes
from wolfsbane.exercise.plan.scenario import require_paper
from wolfsbane.exercise.plan.story import draft, notices

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault, Graded
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.proof import Proof
    from wolfsbane.exercise.paper.asked import Asked
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.plan.scenario import Scenario

#: raise it when the same seed would draw other readings from the same solver and tables
VARIANT_VERSION = "9"
MAX_TRIES = 120
#: up to here no figure may lie on a target's edge; after that one may, where every accepted reading agrees
STRICT_TRIES = 70


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


def _draw(scenario: Scenario, rng: random.Random, system: str) -> tuple[Conditions, tuple[Fault, ...]]:
    """One weather and severities from the scenario's spreads."""
    out = rng.uniform(-1, 1) * scenario.spread_outdoor_df
    shift = rng.uniform(-1, 1) * scenario.spread_return_df
    met = {"outdoor_db_f": scenario.outdoor_db_f + out}
    if scenario.return_db_f is not None:
        met["return_db_f"] = scenario.return_db_f + shift
    if scenario.return_wb_f is not None and not scenario.profile.in_heating:
        damp = rng.uniform(-0.4, 0.4) * scenario.spread_return_df
        met["return_wb_f"] = scenario.return_wb_f + 0.8 * shift + damp
    if scenario.box_f is not None:
        met["box_f"] = scenario.box_f + shift
    if scenario.water_in_f is not None:
        met["water_in_f"] = scenario.water_in_f + out
    try:
        conditions = weather_for(scenario.profile, met, scenario.altitude_ft, system)
    except BadInputError:  # a spread that leads out of what this machine is ever met in: the middle of it
        conditions = weather_for(scenario.profile, _nominal(scenario), scenario.altitude_ft, system)
    faults = []
    for fault in scenario.faults:
        kind: Graded = INSTRUMENT_FAULTS.get(fault.id) or fault_kind(fault.id).on(scenario.profile)
        if fault.id in INSTRUMENT_FAULTS:  # a gauge may be off either way: by so much more or less than it is
            by = 1.0 + rng.uniform(-1, 1) * scenario.spread_depth_pct / 100.0
            low, high = sorted((kind.fault_free, kind.limit))
            faults.append(replace(fault, severity=round(min(max(fault.severity * by, low), high), 1)))
            continue
        depth = (fault.severity - kind.fault_free) * (1.0 + rng.uniform(-1, 1) * scenario.spread_depth_pct / 100.0)
        low, high = sorted((kind.fault_free, kind.limit))
        faults.append(
            Fault(id=fault.id, severity=round(min(max(kind.fault_free + depth, low), high), 2), cause=fault.cause)
        )
    return conditions, tuple(faults)


def _nominal(scenario: Scenario) -> dict[str, float]:
    """The weather a scenario names, degrees F."""
    names = ("outdoor_db_f", "return_db_f", "return_wb_f", "box_f", "water_in_f")
    named = {name: getattr(scenario, name) for name in names}
    if scenario.profile.in_heating:
        named["return_wb_f"] = None
    return {name: value for name, value in named.items() if value is not None}


def told(scenario: Scenario, judgement: Judgement, rng: random.Random) -> Scenario:
    """The scenario with complaint, history and inspection drafted where the instructor left them empty, by what a
    customer may notice of the solved state.
    """
    fault_free = None if judgement.cases is None else judgement.cases.fault_free
    noticed = notices(judgement.state, fault_free)
    complaint, history, look_round = draft(scenario.faults, scenario.given_tests, rng, scenario.profile, noticed)
    return replace(
        scenario,
        complaint=scenario.complaint or complaint,
        history=scenario.history or history,
        look_round=scenario.look_round or look_round,
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
    """The :class:`~wolfsbane.exercise.paper.call.Call` of a fair judgement, with the repair, difficulty, accepted
    answers and wrong paths in its key.
    """
    cases, _, state = judgement.proved()
    proof = judgement.with_weather(faults)
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
        judgement.offered,
        asked,
        judgement.stated,
    )
    offered = tuple(choice.id for choice in call.choices.fault)
    rng = random.Random(seed + 1)
    repair, steps = repairing(cases, faults, state, offered, system, rng, call.key.bands, proof.tests)
    key = replace(
        call.key,
        repair=repair,
        slips=() if asked is None else slips(cases, faults, asked.tests, system),
        difficulty=_difficulty(hardness(judgement, faults, practice)),
        accepted=(id_of(faults),),
        unique=proof.unique,
        claims=_claims(proof, judgement.offered, len(faults)),
        given_tests={t: min(words(cases, t, faults), key=str) for t in proof.tests},
        also_open=tuple(dict.fromkeys([*judgement.left_open, *(r.id for r in proof.equals)])),
        wrong_paths=wrong_paths(cases, faults, call, practice),
    )
    return replace(call, choices=replace(call.choices, order=steps), key=key)


def _claims(proof: Proof, offered: tuple[str, ...], number: int) -> tuple[ProvedClaim, ...]:
    claims = (offered_claim(proof, offered, number), *proof.claims)
    return tuple(ProvedClaim(**claim.to_json()) for claim in claims)


def _difficulty(found: Difficulty) -> CallDifficulty:
    row = found.to_json()
    return CallDifficulty(
        level=row["level"],
        points=row["points"],
        success=row["success"],
        reasons=tuple(DifficultyReason(points=r["points"], text=r["text"]) for r in row["reasons"]),
    )


def _judged(
    scenario: Scenario,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    system: str,
    asked: Asked | None,
    *,
    allow_edges: bool,
    seed: int,
) -> tuple[Judgement, tuple[str, ...]]:
    """The judgement of one draw, and the tests given with it: a fault that wants a test to prove it gets one."""
    cases = solved_cases(scenario.profile, conditions, scenario.instruments)

    def judge(tests: tuple[str, ...]) -> Judgement:
        return judge_on(
            cases,
            faults,
            scenario.practice,
            system,
            tests=tests,
            readings=scenario.given_readings,
            allow_edges=allow_edges,
            leave_open=asked is not None and asked.leave_open,
            pipes=by_line_temperatures(scenario, asked),
            seed=seed,
        )

    suited = [t for t in kind_of(cases.machine).looks if FIELD_TESTS[t].suits(cases.machine)]
    given = tuple(dict.fromkeys((*suited, *scenario.given_tests)))
    judgement = judge(given)
    if judgement.needs:
        given = (*given, *judgement.needs)
        judgement = judge(given)
    return judgement, given


def vary(
    scenario: Scenario,
    system: str,
    seed: int,
    seen: frozenset[tuple[float, ...]] = frozenset(),
    asked: Asked | None = None,
) -> Call:
    """Draw one acceptable :class:`Call` from a scenario. Same seed, versions and tables give the same readings.

    ``asked`` (:class:`~wolfsbane.exercise.paper.asked.Asked`) may change instruments and practice, and says what is
    asked.

    ``seen`` holds (suction, head, suction line, liquid line) tuples already given out for this scenario.
    Raises NoVariantError with the reasons when nothing acceptable is found, BadInputError for what paper cannot carry.
    """
    rng = random.Random(seed)
    scenario, pipes = chosen(scenario, asked), by_line_temperatures(scenario, asked)
    practice = require_paper(scenario).practice
    again = asked is not None and asked.second_visit
    if again and len(scenario.faults) != 2:
        raise BadInputError("asked.second_visit", True, "false: a second visit needs a scenario of two faults")
    counts: Counter[str] = Counter()
    for attempt in range(MAX_TRIES):
        conditions, faults = _draw(scenario, rng, system)
        first = solved(scenario.profile, conditions, faults) if again else None
        if again and first is None:
            counts[REFUSALS["cut_out"]] += 1
            continue
        repaired, faults = (faults[0], faults[1:]) if again else (None, faults)
        number = rng.randrange(2**31)
        judgement, given = _judged(
            scenario, conditions, faults, system, asked, allow_edges=attempt >= STRICT_TRIES, seed=number
        )
        if judgement.refusal:
            counts[judgement.refusal] += 1
            continue
        call = finished(
            judgement,
            told(replace(scenario, given_tests=given, faults=faults), judgement, rng),
            faults,
            practice,
            system,
            rng.randrange(2**31),
            asked,
        )
        if repaired is not None and first is not None:
            call = second_visit(call, scenario.profile, first, repaired)
        found = by_pipes(call) if pipes else call
        if found is None:
            counts[REFUSALS["pipes"]] += 1
            continue
        if fingerprint(found) in seen:
            counts[REFUSALS["seen"]] += 1
            continue
        return found
    raise NoVariantError(scenario.title, counts)


def by_line_temperatures(scenario: Scenario, asked: Asked | None) -> bool:
    """Whether a call goes by line temperatures: because the sheet asks for it, or because the circuit is sealed."""
    return reads_pipes(scenario.profile) or (asked is not None and asked.instruments == PIPES)


def chosen(scenario: Scenario, asked: Asked | None) -> Scenario:
    """The scenario with instruments and practice as the sheet asks for them."""
    if asked is not None and asked.practice_id is not None:
        scenario = replace(scenario, practice_id=asked.practice_id, own_practice=None)
    if by_line_temperatures(scenario, asked):
        return with_pipes(scenario)
    if asked is None or asked.instruments is None:
        return scenario
    return replace(scenario, instruments=asked.instruments)


def fingerprint(call: Call) -> tuple[float, ...]:
    """What makes two variants the same to somebody who copies."""
    keys = (
        *(PIPE_OF.values() if call.instruments == PIPES else ("suction_pressure", "head_pressure")),
        "suction_line",
        "liquid_line",
    )
    return tuple(call.readings[k].value for k in keys)
