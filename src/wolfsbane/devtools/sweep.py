"""``wolfsbane sweep``: many random machines, weathers and faults; does every one balance, or name its cutout?"""

from __future__ import annotations

import random
import time
from collections import Counter
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import BOX_RANGES_F, for_machine
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

#: closure that is asked for
CLOSURE = 1e-3


def random_conditions(machine: Machine, rng: random.Random) -> Conditions:
    """Weather (or box, or water) drawn over most of what the machine accepts. ``rng`` is a random.Random."""
    altitude_ft = rng.choice((0.0, 0.0, 0.0, 2500.0, 5200.0))
    if machine.refrigeration:
        low, high = BOX_RANGES_F[machine.application]
        outdoor = rng.uniform(65, 108) if machine.application == "reach_in" else rng.uniform(0, 115)
        return for_machine(
            machine, outdoor_db_f=outdoor, box_f=rng.uniform(low, low + 0.75 * (high - low)), altitude_ft=altitude_ft
        )
    if machine.in_heating:
        return for_machine(
            machine,
            outdoor_db_f=rng.uniform(0, 65),
            return_db_f=rng.uniform(58, 82),
            altitude_ft=altitude_ft,
        )
    return_db = rng.uniform(64, 92)
    return_wb = rng.uniform(max(46.0, return_db - 25.0), return_db - 1.0)
    water = rng.uniform(60, 100) if machine.condenser == "water_cooled" else None
    return for_machine(
        machine,
        outdoor_db_f=rng.uniform(60, 118),
        return_db_f=return_db,
        return_wb_f=min(return_wb, 84.0),
        water_in_f=water,
        altitude_ft=altitude_ft,
    )


def random_faults(machine: Machine, rng: random.Random, most: int = 3) -> tuple[Fault, ...]:
    """Up to ``most`` different faults at severities from just noticeable to the worst accepted."""
    kinds = rng.sample(faults_for(machine), rng.randint(0, most))
    if {"valve_overfeeding", "valve_underfeeding"} <= {k.id for k in kinds}:
        kinds = [k for k in kinds if k.id != "valve_underfeeding"]
    return tuple(
        Fault(id=k.id, severity=round(k.fault_free + (k.limit - k.fault_free) * rng.uniform(0.03, 1.0), 3))
        for k in kinds
    )


def case(number: int, seed: int = 1) -> tuple[Machine, Conditions, tuple[Fault, ...]]:
    """(machine, conditions, faults) number ``number`` of a sweep; the same for the same seed."""
    rng = random.Random(f"{seed}/{number}")
    machine = list(MACHINES.values())[number % len(MACHINES)]
    for _ in range(20):
        try:
            return machine, random_conditions(machine, rng), random_faults(machine, rng)
        except BadInputError:
            continue
    raise RuntimeError("no acceptable weather drawn")


def run(cases: Any = 20_000, seed: int = 1) -> Any:
    """Solve ``cases`` cases. Returns {cases, settled, at_rest, cut_out {name: n}, failed [report], worst_energy,
    worst_mass, over_limit, seconds, per_machine [rows]}.
    """
    cutouts: Counter[str] = Counter()
    failed: list[Any] = []
    per_machine: dict[Any, Any] = {}
    worst = {"energy": 0.0, "mass": 0.0}
    settled = at_rest = over = 0
    began = time.perf_counter()
    for number in range(cases):
        machine, weather, faults = case(number, seed)
        row = per_machine.setdefault(
            machine.id,
            {"machine": machine.id, "cases": 0, "settled": 0, "cut_out": 0, "failed": 0, "worst_closure": 0.0},
        )
        row["cases"] += 1
        try:
            state = solve(machine, weather, faults)
        except NoConvergenceError as error:
            row["failed"] += 1
            failed.append(
                {
                    "case": number,
                    "machine": machine.id,
                    "residual": error.report["best_residual"],
                    "faults": [f"{f.id}:{f.severity:g}" for f in faults],
                }
            )
            continue
        if state.trip:
            row["cut_out"] += 1
            cutouts[state.trip.cutout] += 1
            continue
        row["settled"] += 1
        settled += 1
        at_rest += state.equalized
        for part in (state, *filter(None, (state.twin,)), *(state.swing or ())):
            worst["energy"] = max(worst["energy"], abs(part.energy_residual))
            worst["mass"] = max(worst["mass"], abs(part.mass_residual))
            row["worst_closure"] = max(row["worst_closure"], abs(part.energy_residual), abs(part.mass_residual))
        over += max(abs(state.energy_residual), abs(state.mass_residual)) > CLOSURE
    return {
        "cases": cases,
        "seed": seed,
        "settled": settled,
        "at_rest": at_rest,
        "cut_out": dict(cutouts.most_common()),
        "failed": failed,
        "worst_energy": worst["energy"],
        "worst_mass": worst["mass"],
        "over_limit": over,
        "seconds": round(time.perf_counter() - began, 1),
        "per_machine": list(per_machine.values()),
    }
