"""Cylinders and the refrigerant log: weighed, written down, explained, closed by the day, printed."""

from datetime import date
from typing import Any

from flask import Response, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.api.refrigerant_models import (
    CloseDayBody,
    CylinderBody,
    CylinderChange,
    CylinderPath,
    ExplainBody,
    LogQuery,
    LogReply,
    MoveBody,
    MovePath,
)
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.security import ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.printing import refrigerant_papers
from wolfsbane.server.services import refrigerant
from wolfsbane.tables import NAMES as REFRIGERANTS

api = APIBlueprint("refrigerant", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="refrigerant")])

_LONGEST_DAYS = 400


def _days(query: LogQuery) -> tuple[date, date]:
    today = refrigerant.today_of(g.user)
    last = query.last or today
    first = query.first or last
    if not 0 <= (last - first).days <= _LONGEST_DAYS:
        raise BadInputError("first", first.isoformat(), f"a day up to {_LONGEST_DAYS} days before the last")
    return first, last


def _reply(connection: Connection, system: str, first: date, last: date) -> dict[str, Any]:
    rows = refrigerant.moves(connection, g.user, first, last)
    days = queries.refrigerant_days(connection, school_id=g.user["school_id"])
    return {
        "cylinders": refrigerant.shelf(connection, g.user, system),
        "moves": [refrigerant.shown(r, system) for r in rows],
        **{f"by_{by}": refrigerant.balances(rows, by, system) for by in ("refrigerant", "cylinder", "rig")},
        "refrigerants": sorted(REFRIGERANTS),
        "today": refrigerant.today_of(g.user).isoformat(),
        "days": [
            {"day": d["day"].isoformat(), "closed_at": d["closed_at"].isoformat(), "who": d["who"] or ""} for d in days
        ],
        "no_advice": refrigerant.NO_ADVICE,
    }


def _now(connection: Connection, system: str) -> dict[str, Any]:
    today = refrigerant.today_of(g.user)
    return _reply(connection, system, today, today)


@api.get("/refrigerant", responses={200: LogReply})
@roles(INSTRUCTOR, ASSISTANT)
def log_read(query: LogQuery) -> dict[str, Any]:
    """Every cylinder, and the log of some days with its balances."""
    with database().transaction() as connection:
        return _reply(connection, query.units, *_days(query))


@api.post("/cylinders", responses={201: LogReply})
@roles(INSTRUCTOR, ASSISTANT)
def cylinder_add(body: CylinderBody) -> tuple[dict[str, Any], int]:
    """A cylinder as it is stamped."""
    with database().transaction() as connection:
        refrigerant.add(connection, g.user, body.model_dump())
        return _now(connection, body.units), 201


@api.put("/cylinders/<int:cylinder_id>", responses={200: LogReply})
@roles(INSTRUCTOR)
def cylinder_change(path: CylinderPath, body: CylinderChange) -> dict[str, Any]:
    """Its name, owner and test date; weights change by moves alone."""
    with database().transaction() as connection:
        refrigerant.cylinder(connection, g.user, path.cylinder_id)
        queries.cylinder_change(
            connection,
            school_id=g.user["school_id"],
            id=path.cylinder_id,
            name=body.name,
            owner=body.owner,
            retest_on=body.retest_on,
        )
        return _now(connection, body.units)


@api.delete("/cylinders/<int:cylinder_id>", responses={200: LogReply})
@roles(INSTRUCTOR)
def cylinder_drop(path: CylinderPath) -> dict[str, Any]:
    """A cylinder that has left the shop; its moves stay in the log."""
    with database().transaction() as connection:
        refrigerant.cylinder(connection, g.user, path.cylinder_id)
        queries.cylinder_archive(connection, school_id=g.user["school_id"], id=path.cylinder_id)
        return _now(connection, "us")


@api.post("/refrigerant/moves", responses={201: LogReply})
@roles(INSTRUCTOR, ASSISTANT)
def move_add(body: MoveBody) -> tuple[dict[str, Any], int]:
    """Refrigerant that moved. What must not be done is refused with its caution."""
    with database().transaction() as connection:
        refrigerant.write_down(connection, g.user, body.model_dump())
        return _now(connection, body.units), 201


@api.put("/refrigerant/moves/<int:move_id>/explained", responses={200: LogReply})
@roles(INSTRUCTOR)
def move_explain(path: MovePath, body: ExplainBody) -> dict[str, Any]:
    """Why scale, cylinder and log of a move do not agree."""
    with database().transaction() as connection:
        refrigerant.explain(connection, g.user, path.move_id, body.explained)
        return _now(connection, body.units)


@api.post("/refrigerant/close", responses={200: LogReply})
@roles(INSTRUCTOR)
def day_close(body: CloseDayBody) -> dict[str, Any]:
    """Close a day: every difference in it is explained."""
    with database().transaction() as connection:
        refrigerant.close_day(connection, g.user, body.day)
        return _now(connection, body.units)


@api.get("/refrigerant/log.csv")
@roles(INSTRUCTOR)
def log_csv(query: LogQuery) -> Response:
    """The log of some days as CSV, weights in kg."""
    first, last = _days(query)
    with database().transaction() as connection:
        rows = refrigerant.moves(connection, g.user, first, last)
    return Response(
        refrigerant.log_csv(rows, g.user["time_zone"]),
        mimetype="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="refrigerant-{first}-{last}.csv"'},
    )


@api.get("/refrigerant/log.pdf")
@roles(INSTRUCTOR)
def log_pdf(query: LogQuery) -> Response:
    """The log of some days with its balances, to be filed."""
    first, last = _days(query)
    with database().transaction() as connection:
        reply = _reply(connection, query.units, first, last)
        school = connection.execute("select name from schools where id = %s", (g.user["school_id"],)).fetchone()
    assert school is not None, "whoever asks is of a school"
    pdf = refrigerant_papers.log_pdf(reply, school["name"], first, last, query.units, g.user["time_zone"])
    return Response(pdf, mimetype="application/pdf")


@api.get("/cylinders/labels.pdf")
@roles(INSTRUCTOR, ASSISTANT)
def labels_pdf(query: LogQuery) -> Response:
    """A label with a QR code for every cylinder."""
    with database().transaction() as connection:
        shelf = refrigerant.shelf(connection, g.user, query.units)
    return Response(refrigerant_papers.labels_pdf(shelf, query.units), mimetype="application/pdf")
