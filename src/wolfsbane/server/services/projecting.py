"""Cases on a projector: put up, turned, revealed, taken down. The token opens what is revealed and nothing else."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import SYSTEMS
from wolfsbane.exercise.show.projection import checked, parts, revealed
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.server.core.db.database import Connection

TOKEN_HEADER = "X-Wolfsbane-Projection"
#: a case stays up for a school day
_HOURS = 12
_MAX_TESTS = 12


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def put_up(
    connection: Connection,
    user: dict[str, Any],
    situation: tuple[Machine, Conditions, tuple[Fault, ...]],
    practice: Practice,
    bench: dict[str, Any],
    story: dict[str, Any],
) -> tuple[int, str]:
    """A new case in place of the one before; returns (id, token). ``situation`` is (machine, conditions, faults),
    ``bench`` what was typed at the bench.
    """
    machine, conditions, faults = situation
    made = {
        system: parts(
            machine, conditions, faults, practice, bench["instruments"], system, story, bench["given_readings"]
        )
        for system in SYSTEMS
    }
    token = secrets.token_urlsafe(24)
    queries.projection_end(connection, school_id=user["school_id"], user_id=user["id"])
    row = queries.projection_add(
        connection,
        school_id=user["school_id"],
        user_id=user["id"],
        token_hash=_digest(token),
        bench=jsonb(bench),
        parts=jsonb(made),
        hours=_HOURS,
    )
    return row["id"], token


def turn(
    connection: Connection,
    user: dict[str, Any],
    projection_id: int,
    step: str,
    shown: list[str],
    ask: Callable[..., Any] | None,
) -> None:
    """Go to a step, reveal what is in ``shown``; ``ask(bench, system)`` gives the result of one more test,
    or is None.
    """
    row = queries.projection_mine(connection, school_id=user["school_id"], user_id=user["id"], id=projection_id)
    if row is None:
        raise not_found("this case on the projector")
    step, shown = checked(step, shown)
    tests = row["tests"]
    if ask is not None:
        result = {system: ask(row["bench"], system) for system in SYSTEMS}
        tests = [t for t in tests if t["us"]["id"] != result["us"]["id"]] + [result]
        if len(tests) > _MAX_TESTS:
            raise BadInputError("test", result["us"]["id"], f"at most {_MAX_TESTS} tests on one case")
    queries.projection_turn(connection, id=row["id"], step=step, shown=jsonb(shown), tests=jsonb(tests))


def told(row: dict[str, Any]) -> dict[str, Any]:
    """What the instructor's remote shows of a case."""
    return {
        "id": row["id"],
        "step": row["step"],
        "shown": row["shown"],
        "tests": [t["us"]["name"] for t in row["tests"]],
        "created_at": row["created_at"].isoformat(),
    }


def opened(connection: Connection, token: str, system: str, since: int) -> tuple[int, dict[str, Any] | None]:
    """What a token opens: (revision, what is revealed, or None when nothing changed ``since``). Raises ApiError 404."""
    row = queries.projection_by_token(connection, token_hash=_digest(token)) if token else None
    if row is None:
        raise ApiError(
            404, "not_shown", "nothing is on the projector under this link; ask your instructor for a new one"
        )
    if since == row["revision"]:
        return row["revision"], None
    return row["revision"], revealed(row["parts"], row["step"], row["shown"], row["tests"], system) | {
        "school": row["school"]
    }
