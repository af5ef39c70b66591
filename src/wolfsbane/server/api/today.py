"""Today: what waits for an instructor, one click away each; and the first day of a school."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.models import Model, Units
from wolfsbane.server.core.current import database
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services import first_day
from wolfsbane.server.services.today import waiting

api = APIBlueprint("today", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="today")])


class WaitingSheet(Model):
    id: int
    title: str
    class_name: str
    papers: int
    marked: int


class NextWeek(Model):
    class_id: int
    class_name: str
    course_id: str
    course: str
    week: int
    title: str


class FirstStep(Model):
    id: str
    done: bool
    #: the sheet it goes on with, None where there is none yet
    sheet_id: int | None


class StarterBody(Model):
    units: Units = "us"


class StarterReply(Model):
    sheet_id: int


class WaitingRig(Model):
    id: int
    name: str
    why: str


class TodayReply(Model):
    #: the way to a first marked paper; empty once one is marked
    first_steps: list[FirstStep]
    #: whether the starter scenarios and a sample sheet can be had
    starter: bool

    drafts: list[WaitingSheet]
    building: list[WaitingSheet]
    to_print: list[WaitingSheet]
    to_mark: list[WaitingSheet]
    #: marked to the last paper, and not released yet
    to_release: list[WaitingSheet]
    next_weeks: list[NextWeek]
    #: rigs that want a look, with the reason
    rigs: list[WaitingRig]


@api.get("/today", responses={200: TodayReply})
@roles(INSTRUCTOR)
def today() -> dict[str, Any]:
    """Drafts, papers to print, to mark and to give back, and the next week of each course under way."""
    with database().transaction() as connection:
        return {
            "first_steps": first_day.steps(connection, g.user["school_id"]),
            "starter": first_day.offers_starter(connection, g.user),
            **waiting(connection, g.user["school_id"]),
        }


@api.post("/today/starter", responses={201: StarterReply})
@roles(INSTRUCTOR)
def starter_add(body: StarterBody) -> tuple[dict[str, int], int]:
    """Starter scenarios for the library, and a sample class with a sample sheet, for a school that has none."""
    with database().transaction() as connection:
        return {"sheet_id": first_day.add_starter(connection, g.user, body.units)}, 201
