"""Accounts of a school: instructors, assistant markers, apprentices."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.class_models import AccountBody, AccountChange, AccountList, AccountPath, AccountRow
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import INSTRUCTOR, hash_password, require_hard, roles

api = APIBlueprint("accounts", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="accounts")])


def _read(connection: Connection, account_id: int) -> dict[str, Any]:
    row = queries.account_get(connection, school_id=g.user["school_id"], id=account_id)
    if row is None:
        raise not_found(f"account {account_id}")
    return row


@api.get("/accounts", responses={200: AccountList})
@roles(INSTRUCTOR)
def account_list() -> dict[str, list[dict[str, Any]]]:
    """Everybody of the school who can log in, or could."""
    with database().transaction() as connection:
        return {"accounts": list(queries.account_list(connection, school_id=g.user["school_id"]))}


@api.post("/accounts", responses={201: AccountRow})
@roles(INSTRUCTOR)
def account_add(body: AccountBody) -> tuple[dict[str, Any], int]:
    """Add an instructor, an assistant marker or an apprentice."""
    require_hard(body.password, body.login, body.name, g.user["school"])
    with database().transaction() as connection:
        made = queries.user_add(
            connection,
            school_id=g.user["school_id"],
            login=body.login.lower(),
            name=body.name,
            role=body.role,
            password_hash=hash_password(body.password),
        )
        return _read(connection, made["id"]), 201


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
            require_hard(body.password, row["login"], body.name, g.user["school"])
            queries.account_password(
                connection, school_id=g.user["school_id"], id=row["id"], password_hash=hash_password(body.password)
            )
        return _read(connection, row["id"])
