"""What waits for an instructor today: drafts, papers to print, to mark and to give back, the next week of a course."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.plan.starter_library import courses
from wolfsbane.server.core.db.database import queries

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wolfsbane.server.core.db.database import Connection

#: lines of one kind that are shown; the rest stands on the page of sheets
MOST = 6


def waiting(connection: Connection, school_id: int) -> dict[str, list[dict[str, Any]]]:
    """Lists of {id, title, class_name, papers, marked} of the sheets of classes that are not archived, newest first,
    and of {class_id, class_name, course_id, course, week, title} for classes under way in a course.
    """
    open_classes = {c["id"]: c["name"] for c in queries.class_list(connection, school_id=school_id, archived=False)}
    rows = [r for r in queries.sheet_list(connection, school_id=school_id) if r["class_id"] in open_classes]
    ready = [r for r in rows if r["status"] == "ready"]
    return {
        "drafts": _some(r for r in rows if r["status"] in ("draft", "cancelled", "failed")),
        "building": _some(r for r in rows if r["status"] in ("queued", "building", "cancelling")),
        "to_print": _some(r for r in ready if r["papers"] and not r["marked"]),
        "to_mark": _some(
            sorted((r for r in ready if 0 < r["marked"] < r["papers"]), key=lambda r: r["papers"] - r["marked"])
        ),
        "to_release": _some(r for r in ready if r["papers"] and r["marked"] == r["papers"] and not r["released"]),
        "next_weeks": _next_weeks(rows, open_classes),
        "rigs": _rigs(connection, school_id),
    }


def _rigs(connection: Connection, school_id: int) -> list[dict[str, Any]]:
    """Rigs that want a look: something stands planted, the logger hears nothing, or a limit is passed."""
    found = []
    for row in queries.rig_list(connection, school_id=school_id):
        watch = row["watch"] or {}
        standing = row["standing"] or []
        alarm = next((a["text"] for a in watch.get("alarms", []) if a["passed"]), "")
        silent = f"silent: {row['told']}" if row["state"] == "silent" else ""
        wrong = row["told"] if row["state"] == "wrong" else ""
        planted = f"{len(standing)} set, not undone" if standing else ""
        why = alarm or silent or wrong or planted or "; ".join(d["text"] for d in watch.get("doubts", [])[:1])
        if why:
            found.append({"id": row["id"], "name": row["name"], "why": why})
    return found[:MOST]


def _some(rows: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    keys = ("id", "title", "class_name", "papers", "marked")
    return [{key: row[key] for key in keys} for row in list(rows)[:MOST]]


def _next_weeks(rows: list[dict[str, Any]], classes: dict[int, str]) -> list[dict[str, Any]]:
    """The week after the last one of a course that a class has a sheet of, drafted or issued; of courses that begin
    alike the one that most of its sheets are of.
    """
    found = []
    for class_id, name in classes.items():
        titles = {row["title"] for row in rows if row["class_id"] == class_id}
        begun = [
            (course, [w.week for w in course.weeks if f"Week {w.week}: {w.sheet.title}" in titles])
            for course in courses().values()
        ]
        course, weeks = max(begun, key=lambda one: len(one[1]))
        if weeks and max(weeks) < len(course.weeks):
            following = course.weeks[max(weeks)]
            found.append(
                {
                    "class_id": class_id,
                    "class_name": name,
                    "course_id": course.id,
                    "course": course.title,
                    "week": following.week,
                    "title": following.sheet.title,
                }
            )
    return found[:MOST]
