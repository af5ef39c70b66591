"""Readings of a rig from elsewhere and out again: another logger's samples, CSV both ways."""

import hashlib
import secrets
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

from flask import Response, g, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig import registers
from wolfsbane.rig.points import ORDER, label_of, units_of
from wolfsbane.rig.rig import RIG, Rig
from wolfsbane.server.api.rig_models import (
    ExportQuery,
    RigFileBody,
    RigFileReply,
    RigPath,
    RigPushBody,
    RigPushReply,
    RigTokenReply,
)
from wolfsbane.server.api.rigs import time_given, write_event
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.security import ANYONE, INSTRUCTOR, by_own_token, roles, takes
from wolfsbane.server.services import rig_files, rigs

api = APIBlueprint("rig_data", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="rigs")])

TOKEN_HEADER = "X-Rig-Token"
#: a logger's file has at most so many bytes
_FILE_BYTES = 16_000_000


@api.post("/rigs/<int:rig_id>/token", responses={201: RigTokenReply})
@roles(INSTRUCTOR)
def rig_token(path: RigPath) -> tuple[dict[str, str], int]:
    """A new token for another logger; the one before no longer counts. It is shown once."""
    token = secrets.token_urlsafe(24)
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        queries.rig_token(
            connection,
            school_id=g.user["school_id"],
            rig_id=path.rig_id,
            token_hash=hashlib.sha256(token.encode()).hexdigest(),
        )
    return {"token": token}, 201


@api.post("/rigs/<int:rig_id>/samples", responses={201: RigPushReply})
@by_own_token
@roles(ANYONE)
def rig_push(path: RigPath, body: RigPushBody) -> tuple[dict[str, int], int]:
    """Samples from another logger, in the units of the rig's channels; its token stands in the header X-Rig-Token."""
    digest = hashlib.sha256(request.headers.get(TOKEN_HEADER, "").encode()).hexdigest()
    with database().transaction() as connection:
        row = queries.rig_by_token(connection, token_hash=digest)
        if row is None or row["id"] != path.rig_id:
            raise ApiError(401, "wrong_token", "this token is no rig's; make a new one on the rig's page", TOKEN_HEADER)
        rig = RIG.read(row["body"])
        rows = [_pushed(rig, i, s.at, s.values) for i, s in enumerate(body.samples, start=1)]
        if rows:
            queries.rig_sample_add(connection, [{"rig_id": path.rig_id, **r} for r in rows])
    return {"stored": len(rows)}, 201


def _pushed(rig: Rig, number: int, at: str, values: dict[str, float | None]) -> dict[str, Any]:
    when = time_given(f"samples {number}, at", at)
    if when > datetime.now(UTC) + timedelta(minutes=5):
        raise BadInputError(f"samples {number}, at", at, "a time that is not ahead: the logger's clock is wrong")
    shown: list[float | None] = [None] * len(ORDER)
    for point, value in values.items():
        channel = rig.channel(point)
        if channel is None:
            names = ", ".join(c.point for c in rig.channels) or "a channel of this rig"
            raise BadInputError(f"samples {number}, values", point, names)
        if value is not None:
            shown[ORDER.index(point)] = registers.shown(channel, value / channel.scale)
    return {"at": when, "clock_s": when.timestamp(), "shown": shown}


@api.post("/rigs/<int:rig_id>/file", responses={200: RigFileReply})
@takes("application/json", _FILE_BYTES)
@roles(INSTRUCTOR)
def rig_file(path: RigPath, body: RigFileBody) -> dict[str, Any]:
    """A logger's CSV: what its columns are taken for, and with ``confirmed`` its readings stored."""
    _, heads = rig_files.head_of(body.text)
    with database().transaction() as connection:
        row = rigs.rig_row(connection, path.rig_id)
        remembered = {h: c for h, c in (row["columns"] or {}).items() if h == "time" or h in heads}
        zone = body.zone or g.user["time_zone"]
        columns = body.columns if body.columns is not None else (remembered or rig_files.guessed(heads))
        rows, left = rig_files.read(body.text, columns, zone)
        if body.confirmed and rows:
            queries.rig_sample_add(connection, [{"rig_id": path.rig_id, **r} for r in rows])
            queries.rig_columns(connection, school_id=g.user["school_id"], rig_id=path.rig_id, columns=jsonb(columns))
            first, last = rows[0]["at"].isoformat(), rows[-1]["at"].isoformat()
            write_event(connection, path.rig_id, "imported", rows=len(rows), first=first, last=last)
    return {
        "heads": heads,
        "columns": columns,
        "points": [{"id": p, "name": label_of(p), "units": list(units_of(p))} for p in ORDER],
        "rows": len(rows),
        "first": rows[0]["at"].isoformat() if rows else "",
        "last": rows[-1]["at"].isoformat() if rows else "",
        "left_out": left,
        "stored": body.confirmed and bool(rows),
    }


@api.get("/rigs/<int:rig_id>/samples.csv")
@roles(INSTRUCTOR)
def rig_export(path: RigPath, query: ExportQuery) -> Response:
    """What a rig showed between two times (the last day where none are given), as CSV with units in the head."""
    end = time_given("end", query.end) if query.end else datetime.now(UTC)
    begin = time_given("begin", query.begin) if query.begin else end - timedelta(days=1)
    with database().transaction() as connection:
        row = rigs.rig_row(connection, path.rig_id)
        rig = rigs.read_rig(row)
        rows = list(queries.rig_samples_between(connection, rig_id=path.rig_id, from_at=begin, to_at=end))
    lines: Iterator[str] = iter(rig_files.written(rows, [c.point for c in rig.channels], query.units))
    return Response(
        lines,
        mimetype="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="rig-{path.rig_id}.csv"'},
    )
