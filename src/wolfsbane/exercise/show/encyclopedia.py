"""The fault encyclopedia: every family as the solved machine shows it, with look-alikes, tests, remedy and caution."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.exercise.plan import severity
from wolfsbane.exercise.show.bench import CUTOUTS, names
from wolfsbane.exercise.show.pictures import trend

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

LEVELS = ("mild", "moderate", "severe")
#: drawn quantity -> what counts as moved, in US display units (about one honest reading; common practice, no source)
_MOVES = {
    "suction_pressure": 3.0,
    "head_pressure": 8.0,
    "superheat": 2.0,
    "subcooling": 2.0,
    "ctoa": 2.0,
    "evaporator_td": 2.0,
    "air_delta_t": 1.5,
    "discharge_line": 5.0,
    "drier_drop": 2.0,
    "compressor_amps": 0.4,
}
#: one US display unit in the SI one
_SI_SIZE = {"kPa": PA_PER_PSI / 1000.0, "K": 1 / 1.8, "°C": 1 / 1.8}


def signature(machine: Machine, fault_id: str, practice: Practice, system: str) -> dict[str, Any]:
    """How a family shows on ``machine`` in its rated weather, as plain data.

    {fault, machine, rows: [{id, label, unit, sound, levels: [{level, severity, value, arrow}], step, values}], shows,
    trips, look_alikes: [{fault, name, distance}], tests: [{id, name, minutes}]}. Arrows are up, down or same. Raises
    BadInputError for a fault the machine cannot have.
    """
    if fault_id in INSTRUMENT_FAULTS:
        raise BadInputError(
            "fault", fault_id, "a fault of the machine: an instrument problem shows on its own reading only"
        )
    kind = fault_kind(fault_id).on(machine)
    if not kind.suits(machine):
        raise BadInputError("fault", fault_id, f"one that {machine.id} can have")
    conditions = rating_conditions(machine)
    planted = (Fault(id=fault_id, severity=kind.moderate),)
    drawn = trend(machine, conditions, planted, practice, system, fault_id)
    us = drawn if system == "us" else trend(machine, conditions, planted, practice, "us", fault_id)
    rows = [
        _row(kind, row, judged, us["xs"], system)
        for row, judged in zip(drawn["series"], us["series"], strict=True)
        if row["id"] in _MOVES and row["values"][0] is not None
    ]
    return {
        "fault": fault_id,
        "machine": machine.id,
        "machine_name": machine.name,
        "parameter": kind.parameter,
        "unit": severity.shown(kind.unit, 0.0, system)[1],
        "rows": rows,
        "shows": drawn["shows"],
        "trips": [{**row, "cutout": CUTOUTS[row["cutout"]]} for row in drawn["trips"]],
        "look_alikes": _look_alikes(machine, conditions, kind),
        "tests": [{"id": t, "name": FIELD_TESTS[t].name, "minutes": FIELD_TESTS[t].minutes} for t in kind.tests],
    }


def _row(kind: FaultKind, row: dict[str, Any], judged: dict[str, Any], xs: list[float], system: str) -> dict[str, Any]:
    """One quantity over severity: its values at the three levels and which way they point;
    ``xs`` are in the family's unit.
    """
    levels = []
    for level in LEVELS:
        own = getattr(kind, level)
        at = min((abs(x - own), i) for i, x in enumerate(xs))[1]
        value, moved = row["values"][at], judged["values"][at]
        arrow = None
        if moved is not None:
            change, limit = moved - judged["values"][0], _MOVES[row["id"]]
            arrow = "up" if change > limit else "down" if change < -limit else "same"
        levels.append(
            {"level": level, "severity": severity.shown(kind.unit, own, system)[0], "value": value, "arrow": arrow}
        )
    step = _MOVES[row["id"]] * _SI_SIZE.get(row["unit"], 1.0)
    return {
        "id": row["id"],
        "label": row["label"],
        "unit": row["unit"],
        "fault_free": row["values"][0],
        "levels": levels,
        "step": round(step, 2),
        "values": row["values"],
    }


def _look_alikes(machine: Machine, conditions: Conditions, kind: FaultKind) -> list[dict[str, Any]]:
    """Families whose usual readings come nearest to the moderate level of this one; empty where no proof stands."""
    planted = (Fault(id=kind.id, severity=kind.moderate),)
    if solve(machine, conditions, planted).trip is not None:
        return []
    proof = prove(solved_cases(machine, conditions), planted)
    if proof.refusal:
        return []
    return [
        {"fault": r.id, "name": names(r.id), "distance": round(r.distance, 1)}
        for r in (*proof.equals, *proof.nearest)
        if kind.id not in r.id.split("+")
    ][:6]
