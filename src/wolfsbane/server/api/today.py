"""Today: what waits for an instructor, one click away each."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.models import Model
from wolfsbane.server.core.current import database
from wolfsbane.server.core.security import INSTRUCTOR, roles
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


class TodayReply(Model):
    drafts: list[WaitingSheet]
    building: list[WaitingSheet]
    to_print: list[WaitingSheet]
    to_mark: list[WaitingSheet]
    #: marked to the last paper, and not released yet
    to_release: list[WaitingSheet]
    next_weeks: list[NextWeek]


@api.get("/today", responses={200: TodayReply})
@roles(INSTRUCTOR)
def today() -> dict[str, Any]:
    """Drafts, papers to print, to mark and to give back, and the next week of each course under way."""
    with database().transaction() as connection:
        return waiting(connection, g.user["school_id"])
