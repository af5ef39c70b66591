"""The projector: an instructor puts a case up and reveals it part by part;
the projector's page needs the token alone.
"""

from typing import Any

from flask import g, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import KITS, points_for
from wolfsbane.exercise.show.projection import answer_to
from wolfsbane.server.api.bench import situation
from wolfsbane.server.api.bench_models import BenchBody
from wolfsbane.server.api.projection_models import (
    CurrentReply,
    ProjectedQuery,
    ProjectedReply,
    ProjectionBody,
    ProjectionPath,
    PutUpReply,
    RemoteReply,
    TurnBody,
)
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import ANYONE, INSTRUCTOR, roles
from wolfsbane.server.services import projecting
from wolfsbane.server.services.own_practices import practice_called

api = APIBlueprint("projections", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="projections")])


def _latest(connection: Connection) -> dict[str, Any] | None:
    return queries.projection_latest(connection, school_id=g.user["school_id"], user_id=g.user["id"])


def _told(connection: Connection) -> dict[str, Any]:
    row = _latest(connection)
    if row is None:
        raise not_found("a case on the projector")
    return projecting.told(row)


@api.get("/projections", responses={200: CurrentReply})
@roles(INSTRUCTOR)
def projection_current() -> dict[str, dict[str, Any] | None]:
    """The case one has up, if any."""
    with database().transaction() as connection:
        row = _latest(connection)
    return {"projection": None if row is None else projecting.told(row)}


@api.post("/projections", responses={201: PutUpReply})
@roles(INSTRUCTOR)
def projection_put_up(body: ProjectionBody) -> tuple[dict[str, Any], int]:
    """Put the machine as planted on the projector, nothing revealed but the story; the case before it is taken down."""
    if body.instruments not in KITS:
        raise BadInputError("instruments", body.instruments, ", ".join(KITS))
    found = situation(body)
    for key in body.given_readings or ():
        if key not in points_for(found[0]):
            raise BadInputError("given_readings", key, ", ".join(points_for(found[0])))
    story = {"complaint": body.complaint, "history": body.history, "look_round": body.look_round}
    practice = practice_called(body.practice)
    with database().transaction() as connection:
        _, token = projecting.put_up(connection, g.user, found, practice, body.model_dump(), story)
        return {**_told(connection), "token": token}, 201


@api.put("/projections/<int:projection_id>", responses={200: RemoteReply})
@roles(INSTRUCTOR)
def projection_turn(path: ProjectionPath, body: TurnBody) -> dict[str, Any]:
    """Go to a step, reveal or hide parts, ask for a test in front of the class."""

    test = body.test

    def ask(bench: dict[str, Any], system: str) -> dict[str, Any]:
        assert test is not None, "asked for only with a test"
        planted = BenchBody(**{key: value for key, value in bench.items() if key in BenchBody.model_fields})
        return answer_to(*situation(planted), test, system)

    with database().transaction() as connection:
        projecting.turn(connection, g.user, path.projection_id, body.step, body.shown, ask if test else None)
        return _told(connection)


@api.delete("/projections", responses={200: CurrentReply})
@roles(INSTRUCTOR)
def projection_end() -> dict[str, None]:
    """Take the case down; its link opens nothing any more."""
    with database().transaction() as connection:
        queries.projection_end(connection, school_id=g.user["school_id"], user_id=g.user["id"])
    return {"projection": None}


@api.get("/projected", responses={200: ProjectedReply})
@roles(ANYONE)
def projected(query: ProjectedQuery) -> dict[str, Any]:
    """What is revealed of the case the token opens; null when nothing changed since the revision named."""
    with database().transaction() as connection:
        revision, shown = projecting.opened(
            connection, request.headers.get(projecting.TOKEN_HEADER, ""), query.units, query.since
        )
    return {"revision": revision, "shown": shown}
