"""Schools of practice of the school's own, beside ours."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from flask import g

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.own_practice import restored_school, to_json
from wolfsbane.diagnosis.practices import SCHOOLS, school
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import jsonb, queries

if TYPE_CHECKING:
    from wolfsbane.diagnosis.practices import School
    from wolfsbane.server.core.db.database import Connection


def own_practices() -> list[School]:
    """Every one of the school's own, as :class:`School`."""
    with database().transaction() as connection:
        return [
            restored_school(row["body"]) for row in queries.practice_list(connection, school_id=g.user["school_id"])
        ]


def own_practice(practice_id: str) -> Any:
    """One of the school's own as a scenario carries it; None for one of ours. Raises BadInputError."""
    if practice_id in SCHOOLS:
        return None
    with database().transaction() as connection:
        row = queries.practice_get(connection, school_id=g.user["school_id"], practice_id=practice_id)
    if row is None:
        raise BadInputError("school", practice_id, ", ".join(SCHOOLS) + ", or one of your own")
    return row["body"]


def practice_called(practice_id: str) -> School:
    """The :class:`School` called so, ours or own. Raises BadInputError."""
    own = own_practice(practice_id)
    return school(practice_id) if own is None else restored_school(own)


def keep_practice(connection: Connection, user: dict[str, Any], made: School) -> None:
    """Keep a :class:`School` of one's own, or change the one of that name."""
    queries.practice_put(
        connection,
        school_id=user["school_id"],
        practice_id=made.id,
        name=made.name,
        body=jsonb(to_json(made)),
        user_id=user["id"],
    )
