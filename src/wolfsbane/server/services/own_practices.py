"""Practices (target sets) of a school's own, beside ours."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from flask import g

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.own_practice import restored_practice, to_json
from wolfsbane.diagnosis.practices import PRACTICES, practice_by_id
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import jsonb, queries

if TYPE_CHECKING:
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.server.core.db.database import Connection


def own_practices() -> list[Practice]:
    """Every one of the school's own, as :class:`Practice`."""
    with database().transaction() as connection:
        return [
            restored_practice(row["body"]) for row in queries.practice_list(connection, school_id=g.user["school_id"])
        ]


def own_practice(practice_id: str) -> Any:
    """One of the school's own as a scenario carries it; None for one of ours. Raises BadInputError."""
    if practice_id in PRACTICES:
        return None
    with database().transaction() as connection:
        row = queries.practice_get(connection, school_id=g.user["school_id"], practice_id=practice_id)
    if row is None:
        raise BadInputError("practice", practice_id, ", ".join(PRACTICES) + ", or one of your own")
    return row["body"]


def practice_called(practice_id: str) -> Practice:
    """The :class:`Practice` called so, ours or own. Raises BadInputError."""
    own = own_practice(practice_id)
    return practice_by_id(practice_id) if own is None else restored_practice(own)


def keep_practice(connection: Connection, user: dict[str, Any], made: Practice) -> None:
    """Keep a :class:`Practice` of one's own, or change the one of that name."""
    queries.practice_put(
        connection,
        school_id=user["school_id"],
        practice_id=made.id,
        name=made.name,
        body=jsonb(to_json(made)),
        user_id=user["id"],
    )
