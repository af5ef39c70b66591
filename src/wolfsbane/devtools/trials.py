"""Trials of the diagnosis: machines whose fault is known, read with noise by a stranger, and what was made of the
readings.

``run`` answers how often the true fault is among the accepted answers, how often it comes first where the proof says
there is no other, whether weights mean what they say, and what is taken for what.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.instruments import points_for, read, tool_for, usual_points
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import k_to_f
from wolfsbane.devtools.sweep import random_conditions
from wolfsbane.diagnosis.diagnose import diagnose
from wolfsbane.diagnosis.hypotheses import EXCLUSIVE, LOADS, NOT_PAIRED, PRIORS
from wolfsbane.diagnosis.observed import Observed, Seen, observed, plate_of
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import given_readings, id_of, solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import faulted_vector, solved

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.practices import Practice

#: point of measurement -> name in a readings file
NAMES = {
    "suction_pressure": "suction",
    "head_pressure": "head",
    "suction_line": "suction_line",
    "liquid_line": "liquid_line",
    "drier_out": "drier_out",
    "discharge_line": "discharge_line",
    "supply_db": "supply_db",
    "evaporator_outlet": "evaporator_outlet",
    "condenser_leaving_air": "condenser_leaving_air",
    "water_in": "water_in",
    "water_out": "water_out",
}
#: families that no full set of steady readings can show, or that are the weather's
NOT_TRIED = (*LOADS, "valve_hunting", "economizer_stuck_open", "stratified_air", "one_circuit_off", "wrong_refrigerant")
_FAULT_FREE, _TWO = 0.12, 0.06
#: how far parts of an unlisted unit differ from our nearest one, one standard deviation as a share (assumed)
_STRANGE = 0.12
_VARIED = (
    "displacement_m3_s",
    "condenser_air_kg_s",
    "condenser_ua_air_w_k",
    "condenser_ua_two_phase_w_k",
    "evaporator_air_kg_s",
    "evaporator_ua_air_w_k",
    "evaporator_ua_two_phase_w_k",
    "condenser_volume_m3",
    "evaporator_volume_m3",
    "suction_line_ua_w_k",
    "isentropic_peak",
)


@dataclass(frozen=True, kw_only=True)
class Case:
    """One trial: the machine, its weather, what was planted and what was read."""

    machine: Machine
    conditions: Conditions
    faults: tuple[Fault, ...]
    seen: Observed


def stranger(machine: Machine, rng: random.Random) -> Machine | None:
    """The machine with its parts off by chance, charged right again by its plate,
    or None where that finds no steady operating point.
    """
    circuit = machine.circuit

    def spread(name: str) -> Any:
        return _STRANGE * (0.3 if name == "isentropic_peak" else 1.0)

    circuit = circuit._replace(
        **{name: getattr(circuit, name) * max(rng.gauss(1.0, spread(name)), 0.6) for name in _VARIED}
    )
    fault_free = solve(machine, rating_conditions(machine))
    wanted = fault_free.superheat_dk if machine.metering in ("fixed_orifice", "capillary") else fault_free.subcooling_dk
    sign = -1.0 if machine.metering in ("fixed_orifice", "capillary") else 1.0
    low, high = 0.7, 1.5
    if machine.receiver:
        return replace(machine, circuit=circuit)
    for _ in range(18):
        share = 0.5 * (low + high)
        made = replace(machine, circuit=circuit._replace(charge_kg=circuit.charge_kg * share))
        try:
            state = solve(made, rating_conditions(machine))
        except NoConvergenceError:
            return None
        figure = state.superheat_dk if sign < 0 else state.subcooling_dk
        low, high = (share, high) if sign * (figure - wanted) < 0 else (low, share)
    return made if abs(figure - wanted) < 1.0 and state.trip is None else None


def _planted(machine: Machine, rng: random.Random, by_prior: bool) -> tuple[Fault, ...]:
    """Faults drawn evenly over the families, or as often as the diagnosis expects them."""
    fit = [k for k in faults_for(machine) if k.id not in NOT_TRIED]
    draw = rng.random()
    if draw < _FAULT_FREE:
        return ()
    two = draw < _FAULT_FREE + _TWO
    if two:
        fit = [k for k in fit if k.id not in NOT_PAIRED]
    kinds = rng.choices(fit, [PRIORS[k.id] for k in fit], k=1 + two) if by_prior else rng.sample(fit, 1 + two)
    if {k.id for k in kinds} in EXCLUSIVE:
        kinds = kinds[:1]
    found = {
        k.id: Fault(id=k.id, severity=round(k.mild + (k.severe - k.mild) * rng.uniform(0.0, 1.2), 2)) for k in kinds
    }
    return tuple(found.values())


def noisy(
    machine: Machine,
    conditions: Conditions,
    state: CircuitState,
    faults: tuple[Fault, ...],
    rng: random.Random,
    *,
    known: Any,
    kit: str = "analogue",
) -> Observed:
    """What a technician would write down: every usual reading off by chance, shown by its tool; air as it was."""
    keys = [k for k in points_for(machine) if k in usual_points(machine) or k in ("water_in", "water_out")]
    readings = {}
    for key, reading in read(state, kit, "us", machine=machine, keys=keys, faults=faults).items():
        if key in NAMES:
            tool = tool_for(key, kit)
            off = rng.gauss(0.0, 0.5 * tool.tolerance_us)
            readings[NAMES[key]] = Seen(
                value=round((reading.value + off) / tool.resolution["us"]) * tool.resolution["us"]
            )
    air = {"outdoor_db": k_to_f(conditions.outdoor_k)}
    if machine.refrigeration:
        air["box"] = k_to_f(state.return_air.dry_bulb_k)
    else:
        air |= {"return_db": k_to_f(state.return_air.dry_bulb_k), "return_wb": k_to_f(state.return_air.wet_bulb_k)}
    air["altitude"] = 2.0 * round(0.5 * (1.0 - (conditions.barometer_pa / 101_325.0) ** (1 / 5.2559)) / 6.8755856e-6)
    plate = plate_of(machine)
    return Observed(
        plate=plate if known else replace(plate, profile=None),
        readings=readings,
        conditions={k: round(v * 2) / 2 for k, v in air.items()},
    )


def cases(count: int, seed: int, *, known: bool = True, by_prior: bool = False, machines: Any = None) -> Iterator[Case]:
    """Yield ``count`` :class:`Case` whose faults the instruments show. ``known`` machines are our own; the others
    differ from ours and are known by their plate alone.
    """
    rng = random.Random(f"trial/{seed}/{known}")
    # Readings are diagnosed of machines that cool, by one circuit and one stage.
    usual = [m for m in MACHINES.values() if m.circuits == 1 and not m.in_heating and not m.stage]
    pool = [MACHINES[m] for m in machines] if machines else usual
    made = 0
    while made < count:
        machine = rng.choice(pool)
        built = machine if known else stranger(machine, rng)
        if built is None:
            continue
        conditions, faults = _fair_weather(machine, rng), _planted(machine, rng, by_prior)
        try:
            state = solved(built, conditions, faults)
        except ValueError:
            continue
        fault_free = solved(built, conditions, ())
        if (
            state is None
            or fault_free is None
            or state.equalized
            or faults
            and hidden(built, conditions, faults, state)
        ):
            continue
        made += 1
        yield Case(
            machine=built,
            conditions=conditions,
            faults=faults,
            seen=noisy(built, conditions, state, faults, rng, known=known),
        )


def hidden(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], state: CircuitState) -> bool:
    """Whether one of the faults changes nothing that the instruments would show."""
    cases, readings = solved_cases(machine, conditions), given_readings(machine)
    here = faulted_vector(machine, state, faults)
    for fault in faults:
        without = solved(machine, conditions, tuple(f for f in faults if f is not fault))
        if without is not None and cases.apart(faulted_vector(machine, without, ())[None], here, readings)[0] <= 1.0:
            return True
    return False


def _fair_weather(machine: Machine, rng: random.Random) -> Conditions:
    """Weather in which instructors and callers read machines:
    random, but not beyond what a machine with nothing wrong is judged in.
    """
    while True:
        found = random_conditions(machine, rng)
        outdoor, inside = k_to_f(found.outdoor_k), k_to_f(found.return_k)
        if (
            machine.refrigeration
            and 60.0 <= outdoor <= 105.0
            or machine.comfort
            and 75.0 <= outdoor <= 108.0
            and 71.0 <= inside <= 83.0
        ):
            return found


def run(
    count: int = 300,
    seed: int = 1,
    *,
    known: bool = True,
    by_prior: bool = False,
    proofs: bool = True,
    practice: Practice | None = None,
) -> dict[str, Any]:
    """A trial of ``count`` cases as plain data: shares, calibration bins, confusion counts and the misses."""
    practice = practice or practice_by_id("plate_and_formula")
    accepted = first = unique = unique_first = 0
    singles = single_first = 0
    bins = [[0, 0.0, 0] for _ in range(10)]
    taken: Counter[tuple[str, str]] = Counter()
    misses: list[Any] = []
    for case in cases(count, seed, known=known, by_prior=by_prior):
        found, truth = diagnose(case.seen, practice), id_of(case.faults)
        ranked = [a for a in found.ranked if a.fault not in ("not_enough_readings", "not_settled")]
        hit, top = truth in found.accepted, ranked[0].fault == truth
        accepted, first = accepted + hit, first + top
        if len(case.faults) == 1:
            singles, single_first = singles + 1, single_first + top
        for answer in found.ranked:
            row = bins[min(int(10 * answer.weight), 9)]
            row[0], row[1], row[2] = row[0] + 1, row[1] + answer.weight, row[2] + (answer.fault == truth)
        taken[(truth, ranked[0].fault)] += 1
        if proofs and known and not by_prior and prove(solved_cases(case.machine, case.conditions), case.faults).unique:
            unique, unique_first = unique + 1, unique_first + top
            if not top:
                misses.append(
                    {
                        "machine": case.machine.id,
                        "true": truth,
                        "said": ranked[0].fault,
                        "weight": round(ranked[0].weight, 2),
                        "severities": [f.severity for f in case.faults],
                        "unique": True,
                    }
                )
        if not hit:
            misses.append(
                {
                    "machine": case.machine.id,
                    "true": truth,
                    "said": found.accepted,
                    "severities": [f.severity for f in case.faults],
                }
            )
    return {
        "cases": count,
        "seed": seed,
        "known": known,
        "accepted": accepted,
        "first": first,
        "singles": singles,
        "single_first": single_first,
        "unique": unique,
        "unique_first": unique_first,
        "calibration": [
            {
                "from": i / 10,
                "to": (i + 1) / 10,
                "answers": n,
                "mean_weight": total / n if n else None,
                "true_share": right / n if n else None,
            }
            for i, (n, total, right) in enumerate(bins)
        ],
        "confusion": [
            {"true": t, "said": s, "count": c} for (t, s), c in sorted(taken.items(), key=lambda kv: (-kv[1], kv[0]))
        ],
        "misses": misses,
    }


def hand_rows(rows: list[dict[str, Any]], practice: Practice | None = None) -> list[dict[str, Any]]:
    """Cases judged by hand against the diagnosis: list of {id, says, expect, first, weight, open, next, agrees}."""
    practice = practice or practice_by_id("plate_and_formula")
    found = []
    for row in rows:
        answer = diagnose(observed(row["readings"]), practice).to_json()
        top = answer["ranked"][0]
        found.append(
            {
                "id": row["id"],
                "says": row["says"],
                "expect": row["expect"],
                "first": top["fault"],
                "weight": top["weight"],
                "reasons": top["reasons"],
                "open": answer["left_open"],
                "next": answer["next_test"],
                "figures": answer["computed"],
                "agrees": top["fault"] in row["expect"],
            }
        )
    return found
