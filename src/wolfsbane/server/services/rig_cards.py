"""A call on a rig, on the school's own rigs: how far each device is moved, and what each rig should then read."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.instruments import reading
from wolfsbane.rig.baseline import predicted
from wolfsbane.rig.planting import Set, position_for
from wolfsbane.rig.points import kind_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.services import rigs

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.rig.rig import Rig
    from wolfsbane.server.core.db.database import Connection

#: rigs that have room beside the prediction on a setup card
_ON_A_CARD = 3


def on_own_rigs(connection: Connection, school_id: int, body: Call) -> list[dict[str, Any]]:
    """How a call on a rig is set on the school's rigs of its machine, and what each should then read: {rig, ways,
    predicted: reading -> text}. Rigs without a baseline bring no prediction.
    """
    found: list[dict[str, Any]] = []
    weather = Conditions(**asdict(body.conditions))
    for row in queries.rig_list(connection, school_id=school_id):
        rig = rigs.read_rig(row)
        if rig.machine != body.machine.id or len(found) == _ON_A_CARD:
            continue
        profile = rigs.profile_of(rig)
        settings = list(queries.rig_settings(connection, rig_id=row["id"]))
        faults = tuple(Fault(id=f, severity=body.key.severities[f]) for f in body.key.faults)
        baseline = rigs.newest_baseline(connection, row["id"])
        should = None if baseline is None else predicted(rig, profile, baseline.individual, weather, faults)
        found.append(
            {
                "rig": f"{rig.name}, {rig.place}" if rig.place else rig.name,
                "ways": [way for fault in faults for way in _ways(rig, profile, settings, fault)],
                "predicted": {
                    name: _read(name, should[name], body)
                    for name in body.readings
                    if should is not None and name in should
                },
            }
        )
    return found


def _read(name: str, value: float, body: Call) -> str:
    """A channel's value (SI, gauge pressure) as the instruments of a call show it, with its unit."""
    shown, barometer = body.readings[name], body.conditions.barometer_pa
    absolute = value + (barometer if kind_of(name) == "pressure" else 0.0)
    read = reading(name, absolute, "digital", body.units, barometer).value
    return f"{read:.{0 if shown.resolution >= 1.0 else 1}f} {shown.unit}"


def _ways(rig: Rig, profile: Machine, settings: list[dict[str, Any]], fault: Fault) -> list[str]:
    """How far each device of a rig is moved for a fault, with its spread."""
    found = []
    for device in rig.devices:
        if fault.id not in device.of.faults:
            continue
        known = [
            Set(position=s["position"], severity=s["severity"], spread=s["spread"])
            for s in settings
            if s["device"] == device.id and s["fault"] == fault.id
        ]
        if known:
            try:
                position, give = position_for(fault.id, profile, known, fault.severity, device.most)
            except BadInputError as error:
                found.append(f"{device.name}: not deep enough: {error.allowed}; set it deeper and measure first")
                continue
            digits = rigs.decimals_of_position(device.unit)
            found.append(f"{device.name}: {position:.{digits}f} ± {give:.{digits}f} {device.unit}")
        else:
            found.append(f"{device.name}: never measured for this fault; set it, let it settle, measure")
    return found or [f"no device of this rig sets {fault_kind(fault.id).name.lower()}"]
