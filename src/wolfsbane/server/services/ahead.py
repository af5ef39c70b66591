"""Drawing ahead: the calls of a draft are drawn and proved while it is still being looked at, so that issuing it is a
matter of printing. Whatever is changed is drawn again; what comes out is what would have been drawn on issue.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import suppress
from typing import TYPE_CHECKING, Any, NamedTuple

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.services import drawing, sheets

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.server.core.db.database import Connection, Database


class _ChangedError(Exception):
    """The draft is no longer what was being drawn."""


class _Draft(NamedTuple):
    """What a draft is drawn from."""

    work: list[drawing.Work]
    people: int
    of_items: dict[int, str]
    stamp: str
    complete: bool


def _draft(connection: Connection, school_id: int, sheet_id: int) -> _Draft | None:
    """None for a sheet that is no draft, or has nothing to be drawn; it is held."""
    held = queries.sheet_hold(connection, school_id=school_id, id=sheet_id)
    if held is None or held["status"] != "draft":
        return None
    items = sheets.full_items(connection, sheet_id)
    people = len(sheets.people_of(connection, school_id, held["class_id"]))
    of_items = drawing.stamps(items, held["units"], held["seed"])
    stamp = drawing.stamp_of_all(of_items, people)
    work = drawing.work_of(items, people, held["units"], held["seed"])
    return _Draft(work, people, of_items, stamp, held["drawn_ahead"] == stamp) if work else None


def how_far(connection: Connection, school_id: int, sheet_id: int) -> dict[str, Any]:
    """How many calls of a draft are drawn, of how many, and why it cannot be drawn as it is. Raises ApiError 404."""
    row = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}")
    found = _draft(connection, school_id, sheet_id)
    if found is None:
        return {"drawn": 0, "of": 0, "problem": None}
    drawn = queries.drawn_count(
        connection,
        sheet_id=sheet_id,
        people=found.people,
        positions=list(found.of_items),
        stamps=list(found.of_items.values()),
        of_all=found.stamp,
    )["drawn"]
    return {"drawn": drawn, "of": len(found.work), "problem": row["problem"]}


def draw_ahead(db: Database, school_id: int, sheet_id: int, each: Callable[..., Iterable[Any]] = map) -> None:
    """Draw what a draft still lacks, until it is complete, changed or issued. ``each`` is a ``map`` that should ask for
    little at a time: what is under way when the draft changes is thrown away.

    What cannot be drawn is written on the draft as its problem. Safe to run twice.
    """
    with db.transaction() as connection:
        begun = _draft(connection, school_id, sheet_id)
        if begun is None or begun.complete:
            return
        kept = drawing.kept_calls(connection, sheet_id, begun.of_items, begun.stamp)

    def write(bodies: dict[tuple[int, int], Body], problem: str | None = None, *, complete: bool = False) -> None:
        with db.transaction() as connection:
            now = _draft(connection, school_id, sheet_id)
            if now is None or now.stamp != begun.stamp:
                raise _ChangedError
            for place, body in bodies.items():
                row = drawing.row_of(place, body, begun.stamp if complete else begun.of_items[place[0]])
                queries.drawn_add(connection, school_id=school_id, sheet_id=sheet_id, **row)
            queries.sheet_drawn_ahead(
                connection, id=sheet_id, drawn_ahead=begun.stamp if complete else None, problem=problem
            )

    with suppress(_ChangedError):
        try:
            found = drawing.drawn(begun.work, each, kept, lambda place, body: write({place: body}))
            write(drawing.without_paying(begun.work, found, each), complete=True)
        except sheets.REFUSED as error:
            write({}, str(error))
