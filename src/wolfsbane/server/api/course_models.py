"""Shapes of requests and replies about courses."""

from typing import Annotated, Literal

from pydantic import Field

from wolfsbane.server.api.models import Id, Model, Text, Units


class CourseItem(Model):
    kind: Literal["drill", "scenario"]
    title: str
    level: int | None
    items: int | None = None
    machine: str | None = None


class CourseWeek(Model):
    week: int
    skill: str
    title: str
    aim: str
    items: list[CourseItem]
    minutes: int


class CourseRow(Model):
    id: str
    title: str
    aim: str
    weeks: list[CourseWeek]


class CourseList(Model):
    courses: list[CourseRow]


class CoursePath(Model):
    course_id: Annotated[Text, Field(max_length=60)]


class DraftWeeks(Model):
    class_id: Id
    units: Units = "us"
    weeks: Annotated[list[int], Field(max_length=40)] | None = None


class DraftedSheet(Model):
    id: int
    title: str


class DraftedWeeks(Model):
    sheets: list[DraftedSheet]
