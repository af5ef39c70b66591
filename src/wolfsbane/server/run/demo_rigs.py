"""Rigs of the demo school: simulated ones, each with a baseline and settings measured beforehand on that very rig."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.rig.baseline import fitted
from wolfsbane.rig.planting import depth_of
from wolfsbane.rig.rig import RIG
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.rig.steady import stretches
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.rigs.simulated import usual_rig

if TYPE_CHECKING:
    from typing import Any

    from wolfsbane.rig.steady import Sample
    from wolfsbane.server.core.db.database import Connection

#: name, place, machine, seed; they run so many times as fast as real ones
RIGS = (
    ("Rig 1", "Bay 1, by the roll-up door", "split-3t-r410a-txv", 21),
    ("Rig 2", "Bay 2", "split-3t-r410a-orifice", 22),
)
SPEED = 10.0
_NOTES = "Simulated: a machine of its own behind Modbus, ten times as fast as a real one."
#: what was measured beforehand: device, positions
_MEASURED = (
    ("liquid_valve", (2.4, 3.2)),
    ("condenser_board", (40.0,)),
    ("indoor_fan", (30.0, 42.0)),
    ("charge", (10.0, 16.0)),
)


def add_rigs(connection: Connection, school_id: int, user_id: int, ports: list[int]) -> None:
    """Add the demo's rigs with what is known of each."""
    for (name, place, machine, seed), port in zip(RIGS, ports, strict=True):
        rig = replace(usual_rig(name, machine, port, place), notes=_NOTES)
        body = jsonb(RIG.write(rig))
        made = queries.rig_add(connection, school_id=school_id, name=name, body=body, user_id=user_id)["id"]
        running = SimulatedRig(rig=rig, profile=MACHINES[machine], seed=seed)
        baseline = fitted(rig, running.profile, stretches(_run(running, 9000))[::2])
        end = datetime.now(UTC) - timedelta(days=12)
        keys: dict[str, Any] = {"school_id": school_id, "rig_id": made, "user_id": user_id}
        queries.rig_baseline_add(
            connection,
            from_at=end - timedelta(hours=2.5),
            to_at=end,
            solver=str(SOLVER_VERSION),
            body=jsonb(baseline.to_json()),
            **keys,
        )
        for device, positions in _MEASURED:
            for position in positions:
                running.set(device, position)
                _run(running, 1500)
                found = stretches(_run(running, 900))
                if not found:
                    continue
                family = next(f for f in rig.device(device).of.faults)
                depth = depth_of(rig, running.profile, baseline.individual, found[-1], family)
                queries.rig_setting_add(
                    connection,
                    device=device,
                    position=position,
                    fault=family,
                    severity=depth.severity,
                    spread=depth.spread,
                    square=depth.square,
                    **keys,
                )
            running.set(device, 0.0)
            _run(running, 1500)


def at_ports(connection: Connection, school_id: int, ports: list[int], panel: int = 0) -> None:
    """The demo's rigs answer at these ports now, and show their fronts at ``panel``."""
    known = {row["name"]: row for row in queries.rig_list(connection, school_id=school_id)}
    for number, ((name, _, _, _), port) in enumerate(zip(RIGS, ports, strict=True), 1):
        row = known.get(name)
        if row is None:
            continue
        rig = replace(RIG.read(row["body"]), address=f"127.0.0.1:{port}")
        if panel and (not rig.notes or rig.notes.startswith(_NOTES)):
            rig = replace(rig, notes=f"{_NOTES} Its gauges, scale and valves: http://127.0.0.1:{panel}/{number}/")
        body = jsonb(RIG.write(rig))
        queries.rig_change(connection, school_id=school_id, rig_id=row["id"], name=name, body=body)


def _run(running: SimulatedRig, seconds: float) -> list[Sample]:
    rows: list[Sample] = []
    for _ in range(round(seconds / 6.0)):
        running.step(6.0)
        rows.append((running.seconds, running.readings()))
    return rows
