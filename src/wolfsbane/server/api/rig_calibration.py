"""A rig made known: its baseline, how deep its devices plant, and a settled stretch frozen."""

from datetime import UTC, datetime, timedelta
from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.quantities import READINGS
from wolfsbane.rig.baseline import conditions_of, predicted
from wolfsbane.rig.devices import hazards
from wolfsbane.rig.planting import Set, astray, in_words, position_for
from wolfsbane.server.api.rig_models import (
    MeasureRigBody,
    PlanQuery,
    PlantPlan,
    RigBaselineBody,
    RigFrozen,
    RigFull,
    RigPath,
    RigUnits,
    SettingPath,
)
from wolfsbane.server.api.rigs import rig_full, write_event
from wolfsbane.server.core.current import database, for_account
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.security import ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.services import rig_rows, rigs

api = APIBlueprint("rig_calibration", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="rigs")])

#: a plant is measured in so much of the past
_MEASURED = timedelta(minutes=45)


@api.post("/rigs/<int:rig_id>/baselines", responses={201: RigFull})
@roles(INSTRUCTOR)
def baseline_make(path: RigPath, body: RigBaselineBody) -> tuple[dict[str, Any], int]:
    """Fit the rig to the last minutes, in which nothing was planted."""
    end = datetime.now(UTC)
    begin = end - timedelta(minutes=body.minutes)
    with database().transaction() as connection:
        rig = rigs.read_rig(rigs.rig_row(connection, path.rig_id))
        standing = rigs.positions_on(connection, path.rig_id)
        if standing:
            names = ", ".join(rig.device(d).name for d in standing)
            raise BadInputError("rig", f"planted: {names}", "a rig on which nothing is planted; undo it first")
        moved = [r["at"] for r in queries.rig_positions(connection, rig_id=path.rig_id)]
        begin = max([begin, *moved])
        samples = rigs.samples_between(connection, path.rig_id, begin, end)
        profile = rigs.profile_of(rig)
    made = for_account(rigs.fit_baseline, rig, profile, samples)
    with database().transaction() as connection:
        rigs.keep_baseline(connection, path.rig_id, begin, end, made)
        write_event(connection, path.rig_id, "baseline", points=made.points)
        return rig_full(connection, path.rig_id, "us"), 201


def _standing_still(connection: Connection, rig_id: int) -> Any:
    """(rig, profile, baseline, settled stretch at the end). Raises BadInputError."""
    rig = rigs.read_rig(rigs.rig_row(connection, rig_id))
    profile = rigs.profile_of(rig)
    baseline = rigs.newest_baseline(connection, rig_id)
    if baseline is None:
        raise BadInputError("rig", "no baseline", "a rig with a baseline: run it with nothing planted first")
    end = datetime.now(UTC)
    stretch = rigs.last_stretch(rigs.samples_between(connection, rig_id, end - _MEASURED, end))
    return rig, profile, baseline, stretch


@api.post("/rigs/<int:rig_id>/settings", responses={201: RigFull})
@roles(INSTRUCTOR)
def setting_measure(path: RigPath, body: MeasureRigBody) -> tuple[dict[str, Any], int]:
    """How deep the device that is set now plants: fitted to the settled stretch, and kept."""
    with database().transaction() as connection:
        rig = rigs.read_rig(rigs.rig_row(connection, path.rig_id))
        device, standing = rig.device(body.device), rigs.positions_on(connection, path.rig_id)
        if list(standing) != [device.id]:
            names = ", ".join(rig.device(d).name for d in standing) or "nothing"
            raise BadInputError("device", names, f"{device.name} alone set, so that what is measured is its doing")
        rig, profile, baseline, stretch = _standing_still(connection, path.rig_id)
    families = [f for f in device.of.faults if fault_kind(f).suits(profile)]
    family = body.fault or next(iter(families), "")
    if family not in families:
        raise BadInputError("fault", family, ", ".join(families) or "a device that plants a fault on this machine")
    found = for_account(rigs.measured, rig, profile, baseline, stretch, family)
    if not found.shows:
        raise BadInputError(
            "position", f"{standing[device.id]:g} {device.unit}", "a setting deep enough to show on the readings"
        )
    with database().transaction() as connection:
        queries.rig_setting_add(
            connection,
            school_id=g.user["school_id"],
            rig_id=path.rig_id,
            device=device.id,
            position=standing[device.id],
            fault=family,
            severity=found.severity,
            spread=found.spread,
            square=found.square,
            user_id=g.user["id"],
        )
        told = rig_rows.severity_words(family, found.severity, body.units)
        data = {"name": device.name, "position": standing[device.id], "unit": device.unit, "severity": told}
        write_event(connection, path.rig_id, "measured", **data)
        return rig_full(connection, path.rig_id, body.units), 201


@api.delete("/rigs/<int:rig_id>/settings/<int:setting_id>", responses={200: RigFull})
@roles(INSTRUCTOR)
def setting_drop(path: SettingPath) -> dict[str, Any]:
    """Forget one measured setting."""
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        queries.rig_setting_drop(
            connection, school_id=g.user["school_id"], rig_id=path.rig_id, setting_id=path.setting_id
        )
        return rig_full(connection, path.rig_id, "us")


@api.get("/rigs/<int:rig_id>/plan", responses={200: PlantPlan})
@roles(INSTRUCTOR, ASSISTANT)
def rig_plan(path: RigPath, query: PlanQuery) -> dict[str, Any]:
    """Which position plants a fault so deep on this rig, and what it should then show in the weather it has now."""
    with database().transaction() as connection:
        row = rigs.rig_row(connection, path.rig_id)
        rig = rigs.read_rig(row)
        profile = rigs.profile_of(rig)
        baseline = rigs.newest_baseline(connection, path.rig_id)
        settings = list(queries.rig_settings(connection, rig_id=path.rig_id))
    device = rig.device(query.device)
    known = [
        Set(position=s["position"], severity=s["severity"], spread=s["spread"])
        for s in settings
        if s["device"] == device.id and s["fault"] == query.fault
    ]
    position, give = position_for(query.fault, profile, known, query.severity, device.most)
    expected: list[dict[str, Any]] = []
    shown = rig_rows.by_point(row["shown"])
    if baseline is not None and shown:
        planted = (Fault(id=query.fault, severity=query.severity),)
        weather = conditions_of(rig, profile, shown)
        healthy = predicted(rig, profile, baseline.individual, weather)
        should = predicted(rig, profile, baseline.individual, weather, planted)
        if should is None:
            raise BadInputError("severity", query.severity, "a depth at which this rig stays on in this weather")
        expected = rig_rows.shown_rows(rig, dict(should), healthy, should, {}, query.units)
        expected += rig_rows.figure_rows(rig, profile, dict(should), healthy, should, query.units)
    kind = device.of
    digits = rigs.decimals_of_position(device.unit)
    return {
        "position": round(position, digits),
        "give_or_take": round(give, digits),
        "unit": device.unit,
        "severity_text": rig_rows.severity_words(query.fault, query.severity, query.units),
        "set": kind.set,
        "undo": kind.undo,
        "limits": kind.limits,
        "hazards": list(hazards(kind.id)),
        "expected": expected,
    }


@api.get("/rigs/<int:rig_id>/frozen", responses={200: RigFrozen})
@roles(INSTRUCTOR)
def rig_frozen(path: RigPath, query: RigUnits) -> dict[str, Any]:
    """The settled stretch at the end as readings of instruments, and whether the rig went where it was predicted."""
    with database().transaction() as connection:
        rig = rigs.read_rig(rigs.rig_row(connection, path.rig_id))
        profile = rigs.profile_of(rig)
        end = datetime.now(UTC)
        samples = rigs.samples_between(connection, path.rig_id, end - _MEASURED, end)
        stretch = rigs.last_stretch(samples)
        baseline = rigs.newest_baseline(connection, path.rig_id)
        planted = rigs.planted_on(connection, path.rig_id, rig, profile)
    off: dict[str, float] = {}
    if baseline is not None:
        off = astray(rig, profile, baseline.individual, stretch, planted)
    weather = conditions_of(rig, profile, stretch.mean)
    answer = ""
    if baseline is not None and planted and not off:
        machine, read = baseline.individual.machine(profile), tuple(c.point for c in rig.channels)
        given = tuple(p for p in read if p in READINGS)
        answer = for_account(rigs.one_answer, machine, weather, planted, given)
    return {
        "minutes": round(stretch.minutes, 1),
        "begin": (end - timedelta(seconds=samples[-1][0] - stretch.begin_s)).isoformat(),
        "end": end.isoformat(),
        "readings": rigs.as_read(rig, profile, stretch.mean, query.units),
        "texts": rig_rows.shown_rows(rig, dict(stretch.mean), None, None, {}, query.units),
        "astray": [in_words(p, v) for p, v in off.items()],
        "answer": answer,
    }
