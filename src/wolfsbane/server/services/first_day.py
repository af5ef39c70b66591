"""The first day of a school: what the starter library gives it, and the five steps to a first marked paper."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.plan.starter_library import courses, ready_scenarios
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.services import rosters
from wolfsbane.server.services.courses import add_ready, draft_sheet

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.starter_library import ReadySheet
    from wolfsbane.server.core.db.database import Connection

SAMPLE_CLASS, SAMPLE_SHEET = "Sample class", "Sample sheet"
#: of a world of our own
SAMPLE_PEOPLE = ("Wren Aldous", "Pim Castor", "Odile Fray")
#: what a first marked paper takes, in order
STEPS = ("class", "sheet", "look", "issue", "mark")


def steps(connection: Connection, school_id: int) -> list[dict[str, Any]]:
    """The steps of a first day, {id, done, sheet_id} in order; none once a paper is marked. ``sheet_id`` is the sheet a
    step goes on with, None where there is none yet.
    """
    sheets = list(queries.sheet_list(connection, school_id=school_id))
    if any(row["marked"] for row in sheets):
        return []
    classes = list(queries.class_list(connection, school_id=school_id, archived=False))
    issued = [row for row in sheets if row["status"] in ("queued", "building", "ready")]
    filled = [row for row in sheets if row["calls"]]
    looked = bool(issued) or any(
        queries.document_at_hand(connection, school_id=school_id, sheet_id=row["id"], kind="preview") for row in sheets
    )
    done = {
        "class": any(c["size"] for c in classes),
        "sheet": bool(filled),
        "look": looked,
        "issue": bool(issued),
        "mark": False,
    }
    at = (issued or filled or sheets or [{"id": None}])[0]["id"]
    return [{"id": step, "done": done[step], "sheet_id": at} for step in STEPS]


def offers_starter(connection: Connection, user: dict[str, Any]) -> bool:
    """Whether the starter library is worth offering: a school without a scenario and without a sheet."""
    there = queries.scenario_list(connection, school_id=user["school_id"], user_id=user["id"])
    return not list(there) and not list(queries.sheet_list(connection, school_id=user["school_id"]))


def add_starter(connection: Connection, user: dict[str, Any], units: str = "us") -> int:
    """Put every ready scenario into the school's library, and a sample class with a sample sheet as a draft; returns
    the sheet's id. Raises ApiError 409 where the school has scenarios or sheets already.
    """
    if not offers_starter(connection, user):
        raise ApiError(
            409, "not_now", "this school has scenarios or sheets already: courses add theirs as they are drafted"
        )
    for title in ready_scenarios():
        add_ready(connection, user, title)
    class_id = queries.class_add(connection, school_id=user["school_id"], name=SAMPLE_CLASS, term="")["id"]
    people = [{"name": name, "number": "", "group": ""} for name in SAMPLE_PEOPLE]
    rosters.add_people(connection, user["school_id"], class_id, people)
    return draft_sheet(connection, user, _sample(), class_id, units, SAMPLE_SHEET)


def _sample() -> ReadySheet:
    """The first sheet of the first course that has calls on it, not drills alone."""
    weeks = next(iter(courses().values())).weeks
    return next(w.sheet for w in weeks if sum("scenario" in item for item in w.sheet.items) >= 2)
