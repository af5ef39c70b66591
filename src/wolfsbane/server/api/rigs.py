"""Trainer rigs: entered, watched, calibrated, planted."""

from datetime import UTC, datetime, timedelta
from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig import registers
from wolfsbane.rig.rig import RIG, Device, Rig
from wolfsbane.server.api.rig_models import (
    DevicePath,
    LiveQuery,
    ReleaseRigBody,
    RigBody,
    RigFull,
    RigLab,
    RigLive,
    RigMapBody,
    RigPath,
    RigPositionBody,
    RigUndoBody,
    RigUnits,
)
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, jsonb, queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.security import ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.rigs.modbus import RigLine, RigSilentError
from wolfsbane.server.services import lab, rig_files, rig_rows, rigs

api = APIBlueprint("rigs", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="rigs")])

#: the live page begins with so much of the past, thinned to so many samples
_PAST_S, _MOST = 1800.0, 400
_EVENTS_DAYS, _EVENTS = 30, 60


def _row(connection: Connection, row: dict[str, Any], system: str) -> dict[str, Any]:
    rig = rigs.read_rig(row)
    profile = rigs.profile_of(rig)
    positions = row["standing"] or []
    planted = rigs.planted_by(connection, row["id"], rig, profile) if positions else {}
    standing = rig_rows.standing_rows(rig, positions, planted, system)
    made_at = None if row["baseline_at"] is None else row["baseline_at"].isoformat()
    return rig_rows.rig_row(row, rig, profile, standing, made_at, system)


def rig_full(connection: Connection, rig_id: int, system: str) -> dict[str, Any]:
    """One rig as its page shows it. Raises 404."""
    row = rigs.rig_row(connection, rig_id)
    rig = rigs.read_rig(row)
    profile = rigs.profile_of(rig)
    settings = list(queries.rig_settings(connection, rig_id=rig_id))
    since = datetime.now(UTC) - timedelta(days=_EVENTS_DAYS)
    events = queries.rig_events(connection, rig_id=rig_id, from_at=since, most=_EVENTS)
    return {
        "rig": RIG.write(rig),
        "row": _row(connection, row, system),
        "devices": rig_rows.device_rows(rig, profile, rigs.positions_on(connection, rig_id), settings, system),
        "baselines": rig_rows.baseline_rows(list(queries.rig_baselines(connection, rig_id=rig_id)), system),
        "events": [
            {
                "at": e["at"].isoformat(),
                "kind": e["kind"],
                "text": rig_rows.event_text(e["kind"], e["data"], g.user["time_zone"]),
                "who": e["who"] or "",
                "begin": e["data"].get("from") if e["kind"] == "gap" else None,
                "end": e["data"].get("to") if e["kind"] == "gap" else None,
            }
            for e in events
        ],
        "has_token": row["has_token"],
        "map": registers.written(rig),
    }


def write_event(connection: Connection, rig_id: int, kind: str, **data: Any) -> None:
    """Writes down what somebody did on a rig."""
    queries.rig_event_add(
        connection,
        school_id=g.user["school_id"],
        rig_id=rig_id,
        kind=kind,
        data=jsonb(data),
        user_id=g.user["id"],
        at=None,
    )


@api.get("/rigs", responses={200: RigLab})
@roles(INSTRUCTOR, ASSISTANT)
def rig_list(query: RigUnits) -> dict[str, Any]:
    """Every rig of the school with what it shows now, and who is there: the lab on one screen."""
    with database().transaction() as connection:
        return lab_seen(connection, query.units)


def lab_seen(connection: Connection, system: str) -> dict[str, Any]:
    """Every rig and the rotation that runs, as one reply."""
    found = queries.rig_list(connection, school_id=g.user["school_id"])
    return {
        "rigs": [_row(connection, r, system) for r in found],
        "now": datetime.now(UTC).isoformat(),
        "rotation": lab.running(connection, g.user["school_id"]),
    }


@api.post("/rigs", responses={201: RigFull})
@roles(INSTRUCTOR)
def rig_add(body: RigBody) -> tuple[dict[str, Any], int]:
    """A new rig."""
    rig = _checked(body.rig)
    with database().transaction() as connection:
        made = queries.rig_add(
            connection,
            school_id=g.user["school_id"],
            name=rig.name,
            body=jsonb(RIG.write(rig)),
            user_id=g.user["id"],
        )
        return rig_full(connection, made["id"], "us"), 201


def _checked(plain: dict[str, Any]) -> Rig:
    rig = RIG.read(plain)
    rigs.profile_of(rig)
    if rig.address:
        RigLine(rig).close()
    return rig


@api.get("/rigs/<int:rig_id>", responses={200: RigFull})
@roles(INSTRUCTOR, ASSISTANT)
def rig_read(path: RigPath, query: RigUnits) -> dict[str, Any]:
    """One rig: what it is, its devices and what they were measured to plant, its baselines, what happened."""
    with database().transaction() as connection:
        return rig_full(connection, path.rig_id, query.units)


@api.put("/rigs/<int:rig_id>", responses={200: RigFull})
@roles(INSTRUCTOR)
def rig_change(path: RigPath, body: RigBody) -> dict[str, Any]:
    """The rig changed as a whole."""
    rig = _checked(body.rig)
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        _change(connection, path.rig_id, rig)
        return rig_full(connection, path.rig_id, "us")


def _change(connection: Connection, rig_id: int, rig: Rig) -> None:
    queries.rig_change(
        connection, school_id=g.user["school_id"], rig_id=rig_id, name=rig.name, body=jsonb(RIG.write(rig))
    )


@api.delete("/rigs/<int:rig_id>", responses={200: RigLab})
@roles(INSTRUCTOR)
def rig_drop(path: RigPath) -> dict[str, Any]:
    """Put a rig away; what it showed stays. The others are sent."""
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        queries.rig_archive(connection, school_id=g.user["school_id"], rig_id=path.rig_id)
    return rig_list(RigUnits())


@api.put("/rigs/<int:rig_id>/map", responses={200: RigFull})
@roles(INSTRUCTOR)
def rig_map(path: RigPath, body: RigMapBody) -> dict[str, Any]:
    """Channels, devices and clock from a register map (CSV)."""
    with database().transaction() as connection:
        rig = registers.read(rigs.read_rig(rigs.rig_row(connection, path.rig_id)), body.text)
        _change(connection, path.rig_id, rig)
        return rig_full(connection, path.rig_id, "us")


@api.get("/rigs/<int:rig_id>/live", responses={200: RigLive})
@roles(INSTRUCTOR, ASSISTANT)
def rig_live(path: RigPath, query: LiveQuery) -> dict[str, Any]:
    """What a rig shows now and since ``after``: whoever was away for a while asks from where they were."""
    with database().transaction() as connection:
        row = rigs.rig_row(connection, path.rig_id)
        rig = rigs.read_rig(row)
        if query.after:
            rows = list(
                queries.rig_samples_after(
                    connection, rig_id=path.rig_id, after=time_given("after", query.after), most=_MOST
                )
            )
        else:
            rows = list(queries.rig_samples_last(connection, rig_id=path.rig_id, seconds=_PAST_S, most=2000))[::-1]
            rows = rows[:: max(1, len(rows) // _MOST)]
        points = [c.point for c in rig.channels]
        shown = {} if row["state"] != "answers" else rig_rows.by_point(row["shown"])
        return {
            "rig": _row(connection, row, query.units),
            "dials": rig_rows.dials(rig, rigs.profile_of(rig), shown, query.units),
            "samples": [_sample(r, points, query.units) for r in rows],
            "units": {p: rig_files.unit_in(query.units, p) for p in points},
        }


def _sample(row: dict[str, Any], points: list[str], system: str) -> dict[str, Any]:
    shown = rig_rows.by_point(row["shown"])
    found: dict[str, float | None] = {}
    for p in points:
        value = shown.get(p)
        found[p] = None if value is None else round(rig_rows.from_si(p, rig_files.unit_in(system, p), value), 2)
    return {"at": row["at"].isoformat(), "shown": found}


def time_given(name: str, text: str) -> datetime:
    """A time from text, UTC where no zone stands. Raises BadInputError."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        raise BadInputError(name, text, "a time as 2026-11-30T09:15:00Z") from None
    return found if found.tzinfo else found.replace(tzinfo=UTC)


def _may_set(device: Device) -> None:
    if device.who == "instructor" and g.user["role"] != INSTRUCTOR:
        raise ApiError(403, "forbidden", f"{device.name} is set by an instructor only")


@api.put("/rigs/<int:rig_id>/devices/<string:device>", responses={200: RigFull})
@roles(INSTRUCTOR, ASSISTANT)
def rig_set(path: DevicePath, body: RigPositionBody) -> dict[str, Any]:
    """A device moved: over the rig's line where it has a register, else by hand, which is written down here."""
    with database().transaction() as connection:
        row = rigs.rig_row(connection, path.rig_id)
        rig = rigs.read_rig(row)
        standing = rigs.positions_on(connection, path.rig_id)
    device = rig.device(path.device)
    _may_set(device)
    if body.position and not standing and (why := rig_rows.held(row, [])):
        raise ApiError(
            409,
            "rig_held",
            f"{rig.name} was undone and is not back at its baseline: {why}. Wait, look for what was left, or have an "
            "instructor release it with a reason.",
        )
    if body.position > device.most:
        raise BadInputError("position", body.position, f"0 to {device.most:g} {device.unit}")
    if device.register is not None and rig.address:
        _over_the_line(rig, {device: body.position})
    with database().transaction() as connection:
        kind = "set" if body.position else "undone"
        data = {"device": device.id, "name": device.name, "position": body.position, "unit": device.unit}
        write_event(connection, path.rig_id, kind, **data, signed=body.signed)
        return rig_full(connection, path.rig_id, "us")


def _over_the_line(rig: Rig, positions: dict[Device, float]) -> None:
    line = RigLine(rig)
    try:
        for device, position in positions.items():
            line.set(device, position)
    except RigSilentError as error:
        raise ApiError(503, "rig_silent", f"{rig.name} does not answer: {error}. Set it by hand.") from error
    finally:
        line.close()


@api.post("/rigs/<int:rig_id>/release", responses={200: RigFull})
@roles(INSTRUCTOR)
def rig_release(path: RigPath, body: ReleaseRigBody) -> dict[str, Any]:
    """A rig that was not seen back at its baseline is used all the same, for a reason that is written down."""
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        write_event(connection, path.rig_id, "released", text=body.reason)
        return rig_full(connection, path.rig_id, "us")


@api.post("/rigs/<int:rig_id>/undo", responses={200: RigFull})
@roles(INSTRUCTOR, ASSISTANT)
def rig_undo(path: RigPath, body: RigUndoBody) -> dict[str, Any]:
    """Everything back to nothing, signed by whoever looked."""
    with database().transaction() as connection:
        rig = rigs.read_rig(rigs.rig_row(connection, path.rig_id))
        standing = rigs.positions_on(connection, path.rig_id)
    moved = [d for d in rig.devices if d.id in standing]
    remote = {d: 0.0 for d in moved if d.register is not None}
    if remote and rig.address:
        _over_the_line(rig, remote)
    with database().transaction() as connection:
        for d in moved:
            data = {"device": d.id, "name": d.name, "position": 0.0, "unit": d.unit, "signed": body.signed}
            write_event(connection, path.rig_id, "undone", **data)
        return rig_full(connection, path.rig_id, "us")
