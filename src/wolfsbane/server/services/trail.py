"""The trail of a school: what was done to accounts, classes and the school as a whole, by whom and when. It is kept."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.server.core.db.database import queries

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

_MOST = 300


def note(connection: Connection, user: dict[str, Any], did: str) -> None:
    """Write down what ``user`` did, in the transaction that does it. Apprentices are written of by number: the trail is
    kept when they are forgotten.
    """
    queries.trail_add(connection, school_id=user["school_id"], writer=user["name"], did=did[:_MOST])


def called(account: dict[str, Any]) -> str:
    """An account as the trail names it."""
    if account["role"] == "apprentice":
        return f"apprentice account {account['id']}"
    return f"{account['name']} ({account['login']}, {account['role']})"


def listed(connection: Connection, school_id: int, before: int | None) -> list[dict[str, Any]]:
    """What was done, newest first, fifty rows before the row ``before``."""
    return [
        row | {"at": row["at"].isoformat()}
        for row in queries.trail_list(connection, school_id=school_id, before=before)
    ]
