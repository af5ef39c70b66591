"""Courses and the starter library: ready sheets are copied as drafts for a class, with the scenarios they need."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw.item import minutes
from wolfsbane.exercise.marking.drill_marks import title as drill_title
from wolfsbane.exercise.paper.asked import asked
from wolfsbane.exercise.plan.scenario import SCHEMA
from wolfsbane.exercise.plan.starter_library import course, courses, ready_scenarios
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.services.library import prove_newest
from wolfsbane.server.services.sheets import draft

if TYPE_CHECKING:
    from wolfsbane.exercise.plan.starter_library import Course, ReadySheet
    from wolfsbane.server.core.db.database import Connection


def listed() -> list[dict[str, Any]]:
    """Every course with its weeks, what stands on each sheet, and how long it takes."""
    return [
        {
            "id": one.id,
            "title": one.title,
            "aim": one.aim,
            "weeks": [
                {"week": w.week, "skill": w.skill, "title": w.sheet.title, "aim": w.sheet.aim, **_contents(w.sheet)}
                for w in one.weeks
            ],
        }
        for one in courses().values()
    ]


def _contents(sheet: ReadySheet) -> dict[str, Any]:
    rows, total = [], 0
    for item in sheet.items:
        if "drill" in item:
            rows.append({"kind": "drill", "title": drill_title(item["drill"]), "level": None, "items": item["items"]})
            total += minutes({"kind": "drill", "items": item["items"]})
            continue
        ready = ready_scenarios()[item["scenario"]]
        made = ready.scenario
        rows.append({"kind": "scenario", "title": made.title, "level": ready.level, "machine": made.profile.name})
        total += minutes({"kind": "scenario"}, ready.level)
    return {"items": rows, "minutes": total}


def add_ready(connection: Connection, user: dict[str, Any], title: str) -> int:
    """The id of a ready scenario in the school's library, which gets it where it is not there yet."""
    ready = ready_scenarios()[title]
    made, ours = ready.scenario, {"school_id": user["school_id"], "user_id": user["id"]}
    there = queries.scenario_by_hash(connection, **ours, sha256=made.content_hash())
    if there is not None:
        return int(there["id"])
    scenario_id = queries.scenario_add(connection, **ours, shared=True)["id"]
    version = queries.scenario_version_add(
        connection,
        **ours,
        scenario_id=scenario_id,
        schema_version=SCHEMA,
        body=jsonb(made.to_json()),
        sha256=made.content_hash(),
    )
    if ready.solver_version != SOLVER_VERSION:
        prove_newest(connection, user, scenario_id)
        return int(scenario_id)
    queries.scenario_proof_put(
        connection,
        version_id=version["id"],
        school_id=user["school_id"],
        solver_version=SOLVER_VERSION,
        level=ready.level,
        one_answer=ready.one_answer,
        sentence=ready.sentence,
    )
    return int(scenario_id)


def draft_weeks(
    connection: Connection,
    user: dict[str, Any],
    course_id: str,
    class_id: int,
    units: str,
    weeks: list[int] | None = None,
) -> list[dict[str, Any]]:
    """Draft sheets for a class from the weeks of a course (None: all of them): {id, title} of each. Raises
    BadInputError.
    """
    wanted = course(course_id)
    chosen = _chosen(wanted, weeks)
    return [
        {"id": draft_sheet(connection, user, week.sheet, class_id, units, title), "title": title}
        for week in chosen
        for title in [f"Week {week.week}: {week.sheet.title}"]
    ]


def _chosen(wanted: Course, weeks: list[int] | None) -> list[Any]:
    last = len(wanted.weeks)
    unknown = [w for w in weeks or () if not 1 <= w <= last]
    if unknown:
        raise BadInputError("weeks", unknown[0], f"1 to {last}")
    return [w for w in wanted.weeks if weeks is None or w.week in weeks]


def draft_sheet(
    connection: Connection, user: dict[str, Any], sheet: ReadySheet, class_id: int, units: str, title: str
) -> int:
    """A draft of a ready sheet for a class; returns its id."""
    items = []
    for item in sheet.items:
        if "drill" in item:
            brief = {"title": drill_title(item["drill"]), **item.get("brief", {})}
            items.append({"kind": "drill", "drill": item["drill"], "items": item["items"], "brief": brief})
        else:
            wanted = asked(item.get("asked")).to_json()
            scenario_id = add_ready(connection, user, item["scenario"])
            items.append({"kind": "scenario", "scenario_id": scenario_id, "asked": wanted})
    return draft(connection, user, title=title, class_id=class_id, units=units, items=items)
