"""Trainer rigs: what stands planted on one, its samples, its baseline, how deep its devices plant."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from flask import g

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.exercise.show.bench import names
from wolfsbane.rig.baseline import Baseline, baseline_of, fitted
from wolfsbane.rig.planting import Depth, Set, astray, depth_of, in_words, severity_at
from wolfsbane.rig.points import ORDER
from wolfsbane.rig.reading import as_read
from wolfsbane.rig.rig import RIG, Rig
from wolfsbane.rig.steady import Sample, Stretch, settled, stretches
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.services.own_machines import machine_called

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.server.core.db.database import Connection


def rig_row(connection: Connection, rig_id: int) -> dict[str, Any]:
    """One rig of the school. Raises 404."""
    row = queries.rig_get(connection, school_id=g.user["school_id"], rig_id=rig_id)
    if row is None:
        raise not_found("the rig")
    return dict(row)


def read_rig(row: dict[str, Any]) -> Rig:
    """The rig of a row."""
    return RIG.read(row["body"])


def positions_on(connection: Connection, rig_id: int) -> dict[str, float]:
    """Where each device stands that is not at nothing."""
    rows = queries.rig_positions(connection, rig_id=rig_id)
    return {row["device"]: row["position"] for row in rows if row["position"]}


def planted_by(connection: Connection, rig_id: int, rig: Rig, profile: Machine) -> dict[str, Fault]:
    """Device -> what it plants where it stands, as deep as it was measured. A device that was never measured is not
    among them: nobody knows how deep it is.
    """
    standing = positions_on(connection, rig_id)
    if not standing:
        return {}
    possible = {k.id for k in faults_for(profile)}
    measured = list(queries.rig_settings(connection, rig_id=rig_id))
    found = {}
    for device, position in standing.items():
        own = [s for s in measured if s["device"] == device]
        if not own or own[-1]["fault"] not in possible:
            continue
        family = own[-1]["fault"]
        known = [
            Set(position=s["position"], severity=s["severity"], spread=s["spread"]) for s in own if s["fault"] == family
        ]
        found[device] = Fault(id=family, severity=round(severity_at(family, profile, known, position), 2))
    return found


def planted_on(connection: Connection, rig_id: int, rig: Rig, profile: Machine) -> tuple[Fault, ...]:
    """What stands planted on a rig, each family once."""
    return tuple({f.id: f for f in planted_by(connection, rig_id, rig, profile).values()}.values())


def samples_between(connection: Connection, rig_id: int, begin: datetime, end: datetime) -> list[Sample]:
    """Samples of a rig between two times, oldest first; from where its clock last went back."""
    rows = queries.rig_samples_between(connection, rig_id=rig_id, from_at=begin, to_at=end)
    found: list[Sample] = []
    for row in rows:
        if found and row["clock_s"] < found[-1][0]:
            found = []
        found.append((row["clock_s"], dict(zip(ORDER, row["shown"], strict=False))))
    return found


def newest_baseline(connection: Connection, rig_id: int) -> Baseline | None:
    """The baseline that counts, or None."""
    row = next(iter(queries.rig_baselines(connection, rig_id=rig_id)), None)
    return None if row is None else baseline_of(row["body"])


def profile_of(rig: Rig) -> Machine:
    """The machine of a rig, a profile or one of the school's own."""
    return machine_called(rig.machine)


def fit_baseline(rig: Rig, profile: Machine, samples: list[Sample]) -> Baseline:
    """The baseline of samples with nothing planted, from every settled stretch in them. Raises BadInputError."""
    return fitted(rig, profile, _spread(stretches(samples)))


def _spread(rows: list[Stretch], most: int = 12) -> list[Stretch]:
    """At most so many stretches, spread over all of them."""
    if len(rows) <= most:
        return rows
    return [rows[round(i * (len(rows) - 1) / (most - 1))] for i in range(most)]


def keep_baseline(connection: Connection, rig_id: int, begin: datetime, end: datetime, made: Baseline) -> None:
    """Keep a baseline as the newest one."""
    queries.rig_baseline_add(
        connection,
        school_id=g.user["school_id"],
        rig_id=rig_id,
        from_at=begin,
        to_at=end,
        solver=str(SOLVER_VERSION),
        body=jsonb(made.to_json()),
        user_id=g.user["id"],
    )


def last_stretch(samples: list[Sample]) -> Stretch:
    """The settled stretch at the end of samples. Raises BadInputError where it still moves."""
    still = settled(samples)
    if not still.ok:
        raise BadInputError("rig", "not settled", "a rig that stands still: " + "; ".join(still.why))
    last = [s for s in samples if s[0] >= samples[-1][0] - min(60.0 * still.minutes, 600.0)]
    found = stretches(last, longest_s=700.0)
    if not found:
        raise BadInputError("rig", "not settled", "a rig that stood still for five minutes")
    return found[-1]


def measured(rig: Rig, profile: Machine, baseline: Baseline, stretch: Stretch, fault_id: str) -> Depth:
    """How deep a fault stands. Raises BadInputError where the rig shows something else, or nothing."""
    found = depth_of(rig, profile, baseline.individual, stretch, fault_id)
    if not found.believable:
        off = astray(rig, profile, baseline.individual, stretch, (Fault(id=fault_id, severity=found.severity),))
        told = "; ".join(in_words(p, v) for p, v in off.items())
        raise BadInputError("fault", fault_id, f"what this rig shows, which is something else or more: {told}")
    return found


def one_answer(machine: Machine, weather: Conditions, faults: tuple[Fault, ...], points: tuple[str, ...]) -> str:
    """Whether the readings this rig has point to one answer: proved on the rig as it was calibrated, in its weather."""
    proof = prove(solved_cases(machine, weather, "digital"), faults, readings=points, wants_weather=True)
    if proof.refusal:
        return proof.refusal
    if proof.unique:
        return "One answer: nothing else shows these readings on this rig."
    others = list(dict.fromkeys(names(r.id, machine.in_heating) for r in proof.equals))[:4]
    return f"These readings fit as well: {', '.join(others)}. Give a test or a look with the call."


#: a reading is the mean of so much around its time, s of the rig's clock, and needs so many samples
_AROUND_S, _LEAST = 150.0, 3


def shown_around(connection: Connection, rig_id: int, at: datetime, system: str) -> dict[str, float]:
    """What good digital instruments would have read on a rig around a time, by reading, in the system's units.

    Raises 404, and BadInputError where it showed nothing then.
    """
    rig = read_rig(rig_row(connection, rig_id))
    near = samples_between(connection, rig_id, at - timedelta(seconds=_AROUND_S), at + timedelta(seconds=_AROUND_S))
    middle = near[len(near) // 2][0] if near else 0.0
    rows = [shown for clock_s, shown in near if abs(clock_s - middle) <= _AROUND_S]
    if len(rows) < _LEAST:
        raise BadInputError("time", at.isoformat(timespec="minutes"), f"a time at which {rig.name} was read")
    mean = {}
    for point in ORDER:
        found = [v for row in rows if (v := row.get(point)) is not None]
        if len(found) >= _LEAST:
            mean[point] = sum(found) / len(found)
    return as_read(rig, profile_of(rig), mean, system)


def decimals_of_position(unit: str) -> int:
    """A quarter turn has its hundredths; nobody sets a board to the tenth of a per cent."""
    return 2 if unit.startswith("turns") else 1 if unit.startswith("oz") else 0
