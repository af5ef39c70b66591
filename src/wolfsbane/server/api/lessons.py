"""Lessons: begun and led by an instructor, seen on the class's screen, voted on by students."""

from typing import Any

from flask import g, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.lesson_models import (
    LessonAskBody,
    LessonBeginBody,
    LessonBegun,
    LessonDoBody,
    LessonHandsBody,
    LessonLink,
    LessonList,
    LessonMineReply,
    LessonPath,
    LessonSeen,
    LessonSeenQuery,
    LessonShown,
    LessonVoteBody,
)
from wolfsbane.server.api.sheet_models import SheetPath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import ANYONE, APPRENTICE, INSTRUCTOR, roles
from wolfsbane.server.language import said
from wolfsbane.server.services import lessons

api = APIBlueprint("lessons", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="lessons")])


def _shown(connection: Connection, lesson_id: int) -> dict[str, Any]:
    return lessons.shown(connection, lessons.held(connection, g.user, lesson_id))


def _mine(connection: Connection) -> dict[str, Any]:
    return {"lesson": said(lessons.mine(connection, g.user), g.user["language"])}


def _sheet(connection: Connection, sheet_id: int) -> dict[str, Any]:
    sheet: dict[str, Any] | None = queries.sheet_get(connection, school_id=g.user["school_id"], id=sheet_id)
    if sheet is None:
        raise not_found(f"sheet {sheet_id}")
    return sheet


@api.get("/sheets/<int:sheet_id>/lessons", responses={200: LessonList})
@roles(INSTRUCTOR)
def sheet_lessons(path: SheetPath) -> dict[str, Any]:
    """The lessons that were held with a sheet's calls."""
    with database().transaction() as connection:
        _sheet(connection, path.sheet_id)
        return {"lessons": lessons.of_sheet(connection, g.user["school_id"], path.sheet_id)}


@api.post("/sheets/<int:sheet_id>/lessons", responses={201: LessonBegun})
@roles(INSTRUCTOR)
def lesson_begin(path: SheetPath, body: LessonBeginBody) -> tuple[dict[str, Any], int]:
    """Begin a lesson with a call of a ready sheet, drawn for it alone."""
    with database().transaction() as connection:
        given = lessons.to_draw(connection, g.user, _sheet(connection, path.sheet_id), body.position)
    call = lessons.drawn(given)
    with database().transaction() as connection:
        begun, token = lessons.begin(connection, g.user, path.sheet_id, body.position, call)
        return {"id": begun, "token": token}, 201


@api.get("/lessons/<int:lesson_id>", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_show(path: LessonPath) -> dict[str, Any]:
    """A lesson as it stands."""
    with database().transaction() as connection:
        return _shown(connection, path.lesson_id)


@api.post("/lessons/<int:lesson_id>/link", responses={200: LessonLink})
@roles(INSTRUCTOR)
def lesson_link(path: LessonPath) -> dict[str, str]:
    """A link for the class's screen; the one before opens nothing any more."""
    with database().transaction() as connection:
        return {"token": lessons.new_link(connection, g.user, path.lesson_id)}


@api.post("/lessons/<int:lesson_id>/vote", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_ask(path: LessonPath, body: LessonAskBody) -> dict[str, Any]:
    """Ask the class."""
    with database().transaction() as connection:
        lessons.ask(connection, g.user, path.lesson_id, body.kind)
        return _shown(connection, path.lesson_id)


@api.put("/lessons/<int:lesson_id>/hands", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_hands(path: LessonPath, body: LessonHandsBody) -> dict[str, Any]:
    """Hands counted in the room for one choice."""
    with database().transaction() as connection:
        lessons.count_hands(connection, g.user, path.lesson_id, body.choice, body.count)
        return _shown(connection, path.lesson_id)


@api.delete("/lessons/<int:lesson_id>/vote", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_count(path: LessonPath) -> dict[str, Any]:
    """Count the vote."""
    with database().transaction() as connection:
        lessons.close(connection, g.user, path.lesson_id)
        return _shown(connection, path.lesson_id)


@api.post("/lessons/<int:lesson_id>/steps", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_do(path: LessonPath, body: LessonDoBody) -> dict[str, Any]:
    """Do what the class decided."""
    with database().transaction() as connection:
        lessons.do(connection, g.user, path.lesson_id, body.choice, body.arguments)
        return _shown(connection, path.lesson_id)


@api.delete("/lessons/<int:lesson_id>", responses={200: LessonShown})
@roles(INSTRUCTOR)
def lesson_end(path: LessonPath) -> dict[str, Any]:
    """End it: the class's way beside the expert's."""
    with database().transaction() as connection:
        lessons.end(connection, g.user, path.lesson_id)
        return _shown(connection, path.lesson_id)


@api.get("/lessons/seen", responses={200: LessonSeen})
@roles(ANYONE)
def lesson_seen(query: LessonSeenQuery) -> dict[str, Any]:
    """What the class's screen shows; null where nothing changed since the revision named."""
    with database().transaction() as connection:
        revision, shown = lessons.opened(connection, request.headers.get(lessons.TOKEN_HEADER, ""), query.since)
    return {"revision": revision, "shown": shown}


@api.get("/lessons/mine", responses={200: LessonMineReply})
@roles(APPRENTICE)
def lesson_mine() -> dict[str, Any]:
    """The lesson that is on for a student, with the vote that is open."""
    with database().transaction() as connection:
        return _mine(connection)


@api.put("/lessons/mine/<int:lesson_id>/vote", responses={200: LessonMineReply})
@roles(APPRENTICE)
def lesson_vote(path: LessonPath, body: LessonVoteBody) -> dict[str, Any]:
    """A student's vote; a later one stands for the earlier."""
    with database().transaction() as connection:
        lessons.cast(connection, g.user, path.lesson_id, body.round, body.choice)
        return _mine(connection)
