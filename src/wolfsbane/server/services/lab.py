"""The lab on one screen: a class that goes round the rigs, who is where, and what follows."""

from __future__ import annotations

from datetime import timedelta
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.rounds import DESK, enough, planned, replanned
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.sheets import people_of

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection


def running(connection: Connection, school_id: int) -> dict[str, Any] | None:
    """The rotation that runs now as the lab shows it, or None: round, minutes, who is at each rig and who is next."""
    row = queries.rotation_running(connection, school_id=school_id)
    if row is None:
        return None
    people = people_of(connection, school_id, row["class_id"])
    names = {p["id"]: p["name"] for p in people}
    away = set(row["away"])
    now, following = ([*row["rounds"], {}][row["current"] + k] for k in (0, 1))

    def at(one: dict[str, list[int]], place: int) -> list[str]:
        return [names[p] for p in one.get(str(place), []) if p in names]

    return {
        "id": row["id"],
        "class_name": row["class_name"],
        "minutes": row["minutes"],
        "number": row["current"] + 1,
        "of": len(row["rounds"]),
        "ends_at": (row["round_began"] + timedelta(minutes=row["minutes"])).isoformat(),
        "places": [{"rig_id": rig, "now": at(now, rig), "following": at(following, rig)} for rig in row["rigs"]],
        "desk": at(now, DESK),
        "desk_following": at(following, DESK),
        "people": [{"id": p["id"], "name": p["name"], "away": p["id"] in away} for p in people],
    }


def begin(connection: Connection, user: dict[str, Any], asked: dict[str, Any]) -> None:
    """Start a rotation of a class over some rigs (all of them where none is named). Raises BadInputError, and ApiError
    409 while another one runs.
    """
    school_id = user["school_id"]
    if queries.rotation_running(connection, school_id=school_id) is not None:
        raise ApiError(409, "lab_runs", "a rotation runs already; end it first")
    if queries.class_get(connection, school_id=school_id, id=asked["class_id"]) is None:
        raise BadInputError("class_id", asked["class_id"], "a class of this school")
    known = [r["id"] for r in queries.rig_list(connection, school_id=school_id)]
    rigs = asked["rigs"] or known
    if unknown := [r for r in rigs if r not in known]:
        raise BadInputError("rigs", unknown[0], "rigs of this school")
    rigs = list(dict.fromkeys(rigs))
    if not rigs:
        raise BadInputError("rigs", "none", "a school with a rig to go round; add one first")
    people = [p["id"] for p in people_of(connection, school_id, asked["class_id"])]
    if not people:
        raise BadInputError("class_id", asked["class_id"], "a class with somebody in it")
    away = [p for p in asked["away"] if p in people]
    here = [p for p in people if p not in away]
    rounds = planned(here, rigs, asked["rounds"] or enough(len(here), len(rigs), asked["seats"]), asked["seats"])
    queries.rotation_add(
        connection,
        school_id=school_id,
        class_id=asked["class_id"],
        minutes=asked["minutes"],
        seats=asked["seats"],
        rigs=rigs,
        away=away,
        rounds=jsonb(rounds),
        user_id=user["id"],
    )


def _row(connection: Connection, user: dict[str, Any]) -> dict[str, Any]:
    row = queries.rotation_running(connection, school_id=user["school_id"])
    if row is None:
        raise not_found("a rotation that runs")
    return dict(row)


def who_is_here(connection: Connection, user: dict[str, Any], away: list[int]) -> None:
    """Plan again with these apprentices away. Raises 404 where no rotation runs."""
    row = _row(connection, user)
    people = [p["id"] for p in people_of(connection, user["school_id"], row["class_id"])]
    gone = [p for p in away if p in people]
    rounds = replanned(row["rounds"], row["current"], [p for p in people if p not in gone], row["rigs"], row["seats"])
    queries.rotation_change(connection, school_id=user["school_id"], id=row["id"], away=gone, rounds=jsonb(rounds))


def turn(connection: Connection, user: dict[str, Any], to_round: int) -> None:
    """On to a round (from 1). Asked for the one that runs already, as two screens may, nothing happens.

    Raises 404 where no rotation runs, BadInputError for a round that is not the next.
    """
    row = _row(connection, user)
    if to_round == row["current"] + 1:
        return
    if to_round != row["current"] + 2 or to_round > len(row["rounds"]):
        raise BadInputError("number", to_round, f"the next round, {row['current'] + 2} of {len(row['rounds'])}")
    queries.rotation_turn(connection, school_id=user["school_id"], id=row["id"], to_round=to_round - 1)


def end(connection: Connection, user: dict[str, Any]) -> None:
    """End the rotation that runs. Raises 404 where none does."""
    queries.rotation_end(connection, school_id=user["school_id"], id=_row(connection, user)["id"])
