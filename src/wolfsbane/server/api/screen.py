"""Calls on screen: opened by an instructor, played by a student step by step, looked at as ways."""

from typing import Any, cast

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.api.screen_models import (
    ScreenAllowBody,
    ScreenBegun,
    ScreenCallPath,
    ScreenMineList,
    ScreenOpenBody,
    ScreenReplay,
    ScreenReview,
    ScreenRun,
    ScreenRunPath,
    ScreenSheet,
    ScreenStepsBody,
    ScreenWays,
    ScreenWaysPath,
)
from wolfsbane.server.api.sheet_models import SheetPath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.language import said
from wolfsbane.server.services import screen, screen_views

api = APIBlueprint("screen", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="screen")])


def _said(reply: dict[str, Any]) -> dict[str, Any]:
    """A reply in the language of the student who asks."""
    return cast("dict[str, Any]", said(reply, g.user["language"]))


def _opening(connection: Connection, sheet_id: int) -> dict[str, Any]:
    row: dict[str, Any] | None = queries.screen_opening(connection, school_id=g.user["school_id"], sheet_id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}, open on screen,")
    return row


@api.get("/sheets/<int:sheet_id>/screen", responses={200: ScreenSheet})
@roles(INSTRUCTOR, ASSISTANT)
def sheet_screen(path: SheetPath) -> dict[str, Any]:
    """Who is how far with a sheet's calls on screen, and their marks."""
    with database().transaction() as connection:
        return screen_views.for_sheet(connection, g.user["school_id"], path.sheet_id)


@api.post("/sheets/<int:sheet_id>/screen", responses={201: ScreenSheet})
@roles(INSTRUCTOR)
def sheet_open(path: SheetPath, body: ScreenOpenBody) -> tuple[dict[str, Any], int]:
    """Open a ready sheet's calls on screen, for practice or as an exam."""
    with database().transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=g.user["school_id"], id=path.sheet_id)
        if sheet is None:
            raise not_found(f"sheet {path.sheet_id}")
        screen.open_sheet(connection, g.user, sheet, body.mode, body.minutes)
        return screen_views.for_sheet(connection, g.user["school_id"], path.sheet_id), 201


@api.delete("/sheets/<int:sheet_id>/screen", responses={200: ScreenSheet})
@roles(INSTRUCTOR)
def sheet_close(path: SheetPath) -> dict[str, Any]:
    """Close it: whatever is under way is marked as it stands."""
    with database().transaction() as connection:
        queries.screen_close(connection, school_id=g.user["school_id"], id=_opening(connection, path.sheet_id)["id"])
        return screen_views.for_sheet(connection, g.user["school_id"], path.sheet_id)


@api.post("/sheets/<int:sheet_id>/screen/told", responses={200: ScreenSheet})
@roles(INSTRUCTOR)
def sheet_tell(path: SheetPath) -> dict[str, Any]:
    """Show everybody their marks and ways."""
    with database().transaction() as connection:
        opening = _opening(connection, path.sheet_id)
        if opening["closed_at"] is None and opening["mode"] == "exam":
            raise ApiError(409, "not_now", "close the exam first")
        queries.screen_tell(connection, school_id=g.user["school_id"], id=opening["id"])
        return screen_views.for_sheet(connection, g.user["school_id"], path.sheet_id)


@api.put("/sheets/<int:sheet_id>/screen/allowances", responses={200: ScreenSheet})
@roles(INSTRUCTOR)
def sheet_allow(path: SheetPath, body: ScreenAllowBody) -> dict[str, Any]:
    """Give somebody longer in an exam: so many times the limit."""
    school_id = g.user["school_id"]
    with database().transaction() as connection:
        opening = _opening(connection, path.sheet_id)
        people = {r["apprentice_id"] for r in queries.screen_rows(connection, school_id=school_id, id=opening["id"])}
        if body.apprentice_id not in people:
            raise BadInputError("apprentice_id", body.apprentice_id, "somebody who has a paper of this sheet")
        queries.screen_allow(
            connection,
            school_id=school_id,
            opening_id=opening["id"],
            apprentice_id=body.apprentice_id,
            factor=body.factor,
        )
        return screen_views.for_sheet(connection, school_id, path.sheet_id)


@api.get("/screen/runs/<int:run_id>", responses={200: ScreenReview})
@roles(INSTRUCTOR)
def run_review(path: ScreenRunPath) -> dict[str, Any]:
    """A finished run: its way beside the expert's, and its marks."""
    with database().transaction() as connection:
        row = screen.run_row(connection, g.user["school_id"], path.run_id)
        if row["judged"] is None:
            raise ApiError(409, "not_now", "this call is still under way")
        return {"name": row["name"], "title": row["title"], "position": row["position"], "judged": row["judged"]}


@api.get("/sheets/<int:sheet_id>/screen/ways/<int:position>", responses={200: ScreenWays})
@roles(INSTRUCTOR)
def sheet_ways(path: ScreenWaysPath) -> dict[str, Any]:
    """The ways of a class through one call as one picture: where they part."""
    with database().transaction() as connection:
        return screen_views.ways_of(connection, g.user["school_id"], path.sheet_id, path.position)


@api.get("/screen/runs/<int:run_id>/bench", responses={200: ScreenReplay})
@roles(INSTRUCTOR)
def run_on_bench(path: ScreenRunPath) -> dict[str, Any]:
    """A finished run as the bench plays it again: the machine as it was found, and what was done to it."""
    with database().transaction() as connection:
        row = screen.run_row(connection, g.user["school_id"], path.run_id)
        if row["judged"] is None:
            raise ApiError(409, "not_now", "this call is still under way")
        return screen_views.on_bench(connection, row)


@api.get("/screen/mine", responses={200: ScreenMineList})
@roles(APPRENTICE)
def mine_calls() -> dict[str, Any]:
    """Calls that are open on screen for a student, and those they played."""
    with database().transaction() as connection:
        return {"calls": screen_views.mine(connection, g.user)}


@api.post("/screen/mine/<int:paper_call_id>/begin", responses={200: ScreenBegun})
@roles(APPRENTICE)
def mine_begin(path: ScreenCallPath) -> dict[str, int]:
    """Begin a call, or go on with it."""
    with database().transaction() as connection:
        return {"run_id": screen.begin(connection, g.user, path.paper_call_id)}


@api.get("/screen/mine/runs/<int:run_id>", responses={200: ScreenRun})
@roles(APPRENTICE)
def mine_run(path: ScreenRunPath) -> dict[str, Any]:
    """A run of one's own as it stands."""
    with database().transaction() as connection:
        return _said(screen_views.for_student(connection, screen.own_run(connection, g.user, path.run_id)))


@api.post("/screen/mine/runs/<int:run_id>/steps", responses={200: ScreenRun})
@roles(APPRENTICE)
def mine_steps(path: ScreenRunPath, body: ScreenStepsBody) -> dict[str, Any]:
    """Steps, each kept once whichever device sends it how often; the run as it then stands."""
    with database().transaction() as connection:
        steps = [s.model_dump() for s in body.steps]
        row = screen.take(connection, g.user, path.run_id, body.after, steps)
        return _said(screen_views.for_student(connection, row))
