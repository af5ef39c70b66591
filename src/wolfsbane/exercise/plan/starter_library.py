"""The starter library: ready scenarios with their proofs, ready sheets, and courses over a term.

The files stand in ``starter/``; ``make starter`` proves every scenario again and says which no longer makes a fair
call. All of it is invented.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.plan.scenario import Scenario, scenario

#: where the files stand in this package
STARTER = "starter"


@dataclass(frozen=True, kw_only=True)
class ReadyScenario:
    """A scenario with what its proof said under ``solver_version``: level, whether it has one answer, a sentence."""

    scenario: Scenario
    solver_version: str
    level: int | None
    one_answer: bool | None
    sentence: str


@dataclass(frozen=True, kw_only=True)
class ReadySheet:
    """A sheet to copy: ``items`` name a scenario by its title, or a drill with its number of items."""

    id: str
    title: str
    aim: str
    items: tuple[dict[str, Any], ...]


@dataclass(frozen=True, kw_only=True)
class Week:
    """A week of a course: its skill, and the sheet that trains it."""

    week: int
    skill: str
    sheet: ReadySheet


@dataclass(frozen=True, kw_only=True)
class Course:
    """An order of skills over a term."""

    id: str
    title: str
    aim: str
    weeks: tuple[Week, ...]


def _read(name: str) -> Any:
    return json.loads((resources.files(__package__) / STARTER / f"{name}.json").read_text(encoding="utf-8"))


@cache
def ready_scenarios() -> dict[str, ReadyScenario]:
    """Every ready scenario by its title, in the order of the library."""
    rows = [(scenario(row["scenario"]), row["proof"]) for row in _read("scenarios")]
    return {made.title: ReadyScenario(scenario=made, **proof) for made, proof in rows}


@cache
def ready_sheets() -> dict[str, ReadySheet]:
    """Every ready sheet by its id."""
    return {row["id"]: ReadySheet(**{**row, "items": tuple(row["items"])}) for row in _read("sheets")}


@cache
def courses() -> dict[str, Course]:
    """Every course by its id."""
    found = {}
    for row in _read("courses"):
        weeks = tuple(
            Week(week=number, skill=week["skill"], sheet=ready_sheets()[week["sheet"]])
            for number, week in enumerate(row["weeks"], 1)
        )
        found[row["id"]] = Course(id=row["id"], title=row["title"], aim=row["aim"], weeks=weeks)
    return found


def course(course_id: str) -> Course:
    """The course called ``course_id``; raises BadInputError for an unknown one."""
    if course_id not in courses():
        raise BadInputError("course", course_id, ", ".join(courses()))
    return courses()[course_id]
