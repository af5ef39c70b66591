"""Variants: the same fault in another weather and at a near severity, each refused unless it has one answer."""

import random
from collections import Counter
from dataclasses import dataclass, replace
from itertools import product

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instruments import read
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k, from_display, to_display
from wolfsbane.diagnosis.lookalike import bands_us, nearest, pattern_of, patterns, surroundings, vector
from wolfsbane.diagnosis.targets import FIGURES, RIGHT, school
from wolfsbane.exercise.call import EDGE_MARGIN, bands_for, figures_of, make_call
from wolfsbane.exercise.story import draft

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
    "seen": "these readings were already given to somebody else",
}


class NoVariantError(ValueError):
    """No acceptable variant within MAX_TRIES. ``counts`` says how often each refusal came."""

    def __init__(self, title, counts):
        why = "; ".join(f"{n} times {text}" for text, n in counts.most_common(3))
        super().__init__(f"scenario {title!r}: no variant with one defensible answer in {sum(counts.values())} tries ({why}). "
                         "Change the severity, or widen or move the weather.")
        self.counts = counts


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """Whether readings make a fair call: ``refusal`` is None, or a sentence; ``look_alikes`` nearest first."""

    refusal: str | None
    look_alikes: list
    patterns: dict
    state: object


def judge(machine, conditions, fault, practice, kit, system, *, allow_edges=False):
    """Solve and judge one candidate. ``fault`` is a Fault or None; returns a :class:`Judgement`.

    Refused: a cut-out, a sound machine off target, a figure on a target's edge (unless ``allow_edges``), readings
    within tolerance of the sound machine or another fault, and a verdict pattern that another fault shows too. Where
    edges are allowed, every pattern an examiner would accept has to be the planted fault's alone.
    """
    try:
        state = solve(machine, conditions, (fault,) if fault else ())
        if state.trip is not None:
            return _refused("cut_out", state=state)
        sound = solve(machine, conditions)
    except NoConvergenceError:
        return _refused("no_balance")
    of_sound = [] if sound.trip else _accepted(machine, conditions, sound, practice, kit, system)
    if not of_sound or any(RIGHT not in v or (len(v) > 1 and not allow_edges) for v in of_sound):
        return _refused("weather", state=state)
    accepted = _accepted(machine, conditions, state, practice, kit, system)
    if not allow_edges and any(len(v) > 1 for v in accepted):
        return _refused("edge", state=state)
    fault_id = fault.id if fault else NONE
    around = surroundings(machine, conditions, fault_id)
    table = patterns(around, practice)
    alikes = nearest(state, around, fault_id, kit)
    if fault and alikes[0].distance <= 1.0:
        return _refused("look_alike", alikes, table, state)
    drier = pattern_of(vector(state), bands_us(machine, conditions, practice), practice)[-1]
    mine = set(product(*accepted, (drier,)))
    others = [f for f, rows in table.items() if f != fault_id and mine & set(rows)] if fault else []
    if others:
        return _refused("same_pattern", alikes, table, state, others[0])
    return Judgement(refusal=None, look_alikes=alikes, patterns=table, state=state)


def _refused(code, alikes=(), table=None, state=None, fault=None):
    name = fault or (alikes[0].fault if alikes else "")
    name = "the sound machine" if name == NONE else name.replace("_", " ")
    return Judgement(refusal=REFUSALS[code].format(fault=name), look_alikes=list(alikes), patterns=table or {}, state=state)


def _accepted(machine, conditions, state, practice, kit, system):
    """For each figure the set of verdicts an examiner would accept from the printed readings."""
    readings = read(state, kit, system)
    figures = figures_of(machine, readings, system, conditions.barometer_pa)
    targets = bands_for(machine, practice, system, readings)
    return [targets[name].verdicts_within(figures[name], EDGE_MARGIN[system]) if name in targets else {RIGHT} for name in FIGURES]


def _draw(scenario, rng, system):
    """One weather and severity from the scenario's spreads, on whole steps of the sheet's unit."""
    step = _STEP[system]
    snap = lambda f: round(to_display("temperature", f_to_k(f), system) / step) * step  # noqa: E731
    outdoor = snap(scenario.outdoor_db_f + rng.uniform(-1, 1) * scenario.spread_outdoor_df)
    shift = rng.uniform(-1, 1) * scenario.spread_return_df
    return_db = snap(scenario.return_db_f + shift)
    return_wb = min(snap(scenario.return_wb_f + 0.8 * shift + rng.uniform(-0.4, 0.4) * scenario.spread_return_df),
                    return_db)
    conditions = Conditions(
        outdoor_k=from_display("temperature", outdoor, system), return_k=from_display("temperature", return_db, system),
        return_wet_bulb_k=from_display("temperature", return_wb, system),
        barometer_pa=barometer_at_altitude_pa(scenario.altitude_ft * M_PER_FT))
    if scenario.fault == NONE:
        return conditions, None
    kind = fault_kind(scenario.fault)
    depth = (scenario.severity - kind.sound) * (1.0 + rng.uniform(-1, 1) * scenario.spread_depth_pct / 100.0)
    low, high = sorted((kind.sound, kind.limit))
    return conditions, Fault(id=scenario.fault, severity=round(min(max(kind.sound + depth, low), high), 2))


def vary(scenario, system, seed, seen=frozenset()):
    """Draw one acceptable :class:`Call` from a scenario. Same seed, versions and tables give the same readings.

    ``seen`` holds (suction, head, suction line, liquid line) tuples already given out for this scenario.
    Raises NoVariantError with the reasons when nothing acceptable is found.
    """
    rng = random.Random(seed)
    machine, practice = machine_by_id(scenario.machine), school(scenario.school)
    if not scenario.complaint or not scenario.look_round:
        complaint, look_round = draft(scenario.fault, rng)
        scenario = replace(scenario, complaint=scenario.complaint or complaint,
                           look_round=scenario.look_round or look_round)
    counts = Counter()
    for attempt in range(MAX_TRIES):
        conditions, fault = _draw(scenario, rng, system)
        judgement = judge(machine, conditions, fault, practice, scenario.instruments, system,
                          allow_edges=attempt >= STRICT_TRIES)
        if judgement.refusal:
            counts[judgement.refusal] += 1
            continue
        call = make_call(scenario, machine, conditions, fault, judgement.state, practice, system,
                         judgement.patterns, rng.randrange(2**31))
        if fingerprint(call) in seen:
            counts[REFUSALS["seen"]] += 1
            continue
        return call
    raise NoVariantError(scenario.title, counts)


def fingerprint(call):
    """What makes two variants the same to somebody who copies."""
    return tuple(call.readings[k]["value"] for k in ("suction_pressure", "head_pressure", "suction_line", "liquid_line"))


