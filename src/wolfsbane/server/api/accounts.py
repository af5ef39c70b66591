"""Accounts of a school: instructors, assistant markers, apprentices; and the trail of what was done to them."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.account_models import (
    AccountBody,
    AccountChange,
    AccountList,
    AccountMade,
    AccountPath,
    AccountRow,
    TrailList,
    TrailQuery,
)
from wolfsbane.server.core import sign_in
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import INSTRUCTOR, hash_password, require_hard, roles
from wolfsbane.server.services import trail

api = APIBlueprint("accounts", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="accounts")])

#: a hash that no password fits: a one-time code is the way in
_NO_PASSWORD = "!"


def _row(row: dict[str, Any]) -> dict[str, Any]:
    return row | {key: row[key] and row[key].isoformat() for key in ("code_until", "seen_at")}


def _read(connection: Connection, account_id: int) -> dict[str, Any]:
    row = queries.account_get(connection, school_id=g.user["school_id"], id=account_id)
    if row is None:
        raise not_found(f"account {account_id}")
    return _row(row)


@api.get("/accounts", responses={200: AccountList})
@roles(INSTRUCTOR)
def account_list() -> dict[str, list[dict[str, Any]]]:
    """Everybody of the school who can log in, or could."""
    with database().transaction() as connection:
        return {"accounts": [_row(r) for r in queries.account_list(connection, school_id=g.user["school_id"])]}


@api.post("/accounts", responses={201: AccountMade})
@roles(INSTRUCTOR)
def account_add(body: AccountBody) -> tuple[dict[str, Any], int]:
    """Add an instructor, an assistant marker or an apprentice: with a one-time code, by which they choose a password,
    or with a first password, which they change at their first log-in.
    """
    if body.password is not None:
        require_hard(body.password, body.login, body.name, g.user["school"])
    with database().transaction() as connection:
        made = queries.user_add(
            connection,
            school_id=g.user["school_id"],
            login=body.login.lower(),
            name=body.name,
            role=body.role,
            password_hash=_NO_PASSWORD if body.password is None else hash_password(body.password),
        )
        code = ""
        if body.password is None:
            code = sign_in.give_code(connection, g.user | {"id": made["id"]}, "invitation")
        else:
            queries.account_must_change(connection, school_id=g.user["school_id"], id=made["id"])
        row = _read(connection, made["id"])
        trail.note(connection, g.user, f"added {trail.called(row)}" + (" by invitation" if code else ""))
        return row | {"code": code}, 201


@api.put("/accounts/<int:account_id>", responses={200: AccountRow})
@roles(INSTRUCTOR)
def account_change(path: AccountPath, body: AccountChange) -> dict[str, Any]:
    """Change name or role, give a new password, switch off. The last instructor of a school stays one."""
    with database().transaction() as connection:
        queries.school_hold(connection, school_id=g.user["school_id"])
        row = _read(connection, path.account_id)
        leaves = row["role"] == "instructor" and not row["disabled"] and (body.role != "instructor" or body.disabled)
        if leaves and queries.account_instructors(connection, school_id=g.user["school_id"])["number"] < 2:
            raise ApiError(
                409, "last_instructor", "this is the school's last instructor; add another one first", "role"
            )
        queries.account_put(
            connection,
            school_id=g.user["school_id"],
            id=row["id"],
            name=body.name,
            role=body.role,
            disabled=body.disabled,
        )
        if body.password is not None:
            if row["id"] == g.user["id"]:
                raise ApiError(409, "own_password", "change your own password by the old one", "password")
            require_hard(body.password, row["login"], body.name, g.user["school"])
            queries.account_password(
                connection,
                school_id=g.user["school_id"],
                id=row["id"],
                password_hash=hash_password(body.password),
                must_change=True,
            )
        after = _read(connection, row["id"])
        changes = [f"role now {after['role']}"] if row["role"] != after["role"] else []
        if row["name"] != after["name"]:
            changes.append("another name")
        if row["disabled"] != after["disabled"]:
            changes.append("switched off" if after["disabled"] else "switched on")
        if body.password is not None:
            changes.append("a new password given")
        if changes:
            trail.note(connection, g.user, f"changed {trail.called(after)}: {', '.join(changes)}")
        return after


@api.post("/accounts/<int:account_id>/code", responses={200: AccountMade})
@roles(INSTRUCTOR)
def account_code(path: AccountPath) -> dict[str, Any]:
    """A one-time code by which somebody chooses a new password. The one they had no longer fits, their second factor is
    off, and they are logged out.
    """
    with database().transaction() as connection:
        row = _read(connection, path.account_id)
        if row["id"] == g.user["id"]:
            raise ApiError(409, "own_password", "change your own password by the old one", "password")
        code = sign_in.give_code(connection, g.user | {"id": row["id"]}, "reset")
        trail.note(connection, g.user, f"gave {trail.called(row)} a one-time code; their password no longer fits")
        return _read(connection, row["id"]) | {"code": code}


@api.delete("/accounts/<int:account_id>/places", responses={200: AccountRow})
@roles(INSTRUCTOR)
def account_log_out(path: AccountPath) -> dict[str, Any]:
    """Log somebody out everywhere."""
    with database().transaction() as connection:
        row = _read(connection, path.account_id)
        queries.sessions_end(
            connection,
            school_id=g.user["school_id"],
            user_id=row["id"],
            but=g.user["session_id"] if row["id"] == g.user["id"] else 0,
        )
        trail.note(connection, g.user, f"logged {trail.called(row)} out everywhere")
        return _read(connection, row["id"])


@api.get("/school/trail", responses={200: TrailList})
@roles(INSTRUCTOR)
def school_trail(query: TrailQuery) -> dict[str, list[dict[str, Any]]]:
    """What was done to accounts, classes and the school, newest first."""
    with database().transaction() as connection:
        return {"rows": trail.listed(connection, g.user["school_id"], query.before)}
