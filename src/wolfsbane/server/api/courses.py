"""Courses: an order of skills over a term, each week's sheet to be copied as a draft and changed."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.course_models import CourseList, CoursePath, DraftedWeeks, DraftWeeks
from wolfsbane.server.core.current import database
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services import courses

api = APIBlueprint("courses", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="courses")])


@api.get("/courses", responses={200: CourseList})
@roles(INSTRUCTOR)
def course_list() -> dict[str, list[dict[str, Any]]]:
    """Every course with its weeks and what stands on their sheets."""
    return {"courses": courses.listed()}


@api.post("/courses/<string:course_id>/drafts", responses={201: DraftedWeeks})
@roles(INSTRUCTOR)
def course_draft(path: CoursePath, body: DraftWeeks) -> tuple[dict[str, list[dict[str, Any]]], int]:
    """Draft the sheets of some weeks, or of all, for a class; scenarios they need come into the library."""
    with database().transaction() as connection:
        made = courses.draft_weeks(connection, g.user, path.course_id, body.class_id, body.units, body.weeks)
    return {"sheets": made}, 201
