"""Calls on screen of the demo school: one sheet open for practice, its first call played by some of the class. Nobody
there is a person: robots play, each its own way.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.screen import robots
from wolfsbane.exercise.screen.issue import PRACTICE
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.services import screen

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

#: who of the class plays, by place in the list, and how
_PLAYS = (
    (1, "expert"),
    (2, "random"),
    (3, "expert"),
    (5, "random"),
    (6, "reads everything first"),
    (8, "always wrong"),
)


def add_runs(connection: Connection, user: dict[str, Any], sheet: dict[str, Any]) -> None:
    """Add them where the sheet never was open on screen."""
    school_id = user["school_id"]
    if queries.screen_opening(connection, school_id=school_id, sheet_id=sheet["id"]) is not None:
        return
    opening = screen.open_sheet(connection, user, sheet, PRACTICE, None)
    calls = [r for r in queries.screen_rows(connection, school_id=school_id, id=opening) if r["position"] == 1]
    for place, robot in _PLAYS:
        run_id = queries.screen_begin(
            connection,
            school_id=school_id,
            opening_id=opening,
            paper_call_id=calls[place]["paper_call_id"],
            solver_version=SOLVER_VERSION,
        )["id"]
        _, path = robots.play(robot, screen.issue_of(screen.run_row(connection, school_id, run_id)), place)
        for number, one in enumerate(path.steps, 1):
            queries.screen_step_add(
                connection,
                school_id=school_id,
                run_id=run_id,
                number=number,
                uid=f"demo-{run_id}-{number}",
                kind=one.kind,
                data=jsonb(one.data),
                shown=None if one.shown is None else jsonb(one.shown.to_json()),
            )
        screen.finish(connection, screen.run_row(connection, school_id, run_id))
