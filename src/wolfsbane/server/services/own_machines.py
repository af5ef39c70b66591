"""The school's own machines, beside the profiles."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from flask import g

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.tuning.first_guess import restored

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.server.core.db.database import Connection


def own_machines() -> list[Machine]:
    """Every machine of the school's own, as :class:`Machine`."""
    with database().transaction() as connection:
        return [restored(row["tuned"]) for row in queries.own_machine_list(connection, school_id=g.user["school_id"])]


def own_machine_rows(connection: Connection, school_id: int) -> tuple[dict[str, Any], ...]:
    """Plate and circuit of every machine of the school's own, by name."""
    rows = queries.own_machine_list(connection, school_id=school_id)
    return tuple({"plate": row["tuned"]["plate"], "circuit": row["tuned"]["circuit"]} for row in rows)


def own_machine(machine_id: str) -> dict[str, dict[str, Any]] | None:
    """Plate and circuit of one of the school's own as a scenario keeps them; None for a profile.

    Raises BadInputError.
    """
    if machine_id in MACHINES:
        return None
    with database().transaction() as connection:
        return _kept(connection, g.user["school_id"], machine_id, "machine")


def _kept(connection: Connection, school_id: int, machine_id: str, field: str) -> dict[str, dict[str, Any]]:
    row = queries.own_machine_get(connection, school_id=school_id, machine_id=machine_id)
    if row is None:
        raise BadInputError(field, machine_id, "one of " + ", ".join(MACHINES) + ", or one of the school's own")
    return {"plate": row["tuned"]["plate"], "circuit": row["tuned"]["circuit"]}


def with_own(connection: Connection, school_id: int, brief: dict[str, Any]) -> dict[str, Any]:
    """Plain data of a brief with plate and circuit of every machine of the school's own that it names and does not
    bring along. Raises BadInputError for one that the school does not have.
    """
    named = brief.get("machines") if isinstance(brief, dict) else None
    if not isinstance(named, (list, tuple)) or brief.get("own"):
        return brief
    ids = dict.fromkeys(m for m in named if isinstance(m, str) and m.startswith("own-"))
    own = [_kept(connection, school_id, machine_id, "machines") for machine_id in ids]
    return {**brief, "own": own} if own else brief


def machine_called(machine_id: str) -> Machine:
    """The profile or own machine called so. Raises BadInputError."""
    own = own_machine(machine_id)
    return machine(machine_id) if own is None else restored(own)
