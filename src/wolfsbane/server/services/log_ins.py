"""Log-ins for a class: a name made of each name, and a one-time code by which its owner chooses a password."""

from __future__ import annotations

import re
import unicodedata
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.sign_in import CODE_DAYS, give_code

if TYPE_CHECKING:
    from collections.abc import Collection

    from wolfsbane.server.core.db.database import Connection

DAYS = CODE_DAYS["invitation"]
_LONGEST = 40


def log_in_of(name: str, taken: Collection[str]) -> str:
    """A log-in made of a name, plain letters and dots, that is not ``taken``: ``zoe.angstrom``, ``zoe.angstrom2``."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    made = ".".join(re.findall(r"[a-z0-9]+", plain))[:_LONGEST].strip(".")
    made = made if len(made) >= 3 else f"student.{made}".strip(".")
    found, number = made, 1
    while found in taken:
        number += 1
        found = f"{made}{number}"
    return found


def given(
    connection: Connection, user: dict[str, Any], class_id: int, only: Collection[int] | None
) -> list[dict[str, Any]]:
    """Give everybody of a class who is there and has no log-in one, or those whose ids are in ``only`` a fresh code.

    Returns {apprentice_id, name, login, code} of each. Raises BadInputError for an id that is not in the class.
    """
    school_id = user["school_id"]
    people = {
        p["id"]: p
        for p in queries.apprentice_list(connection, school_id=school_id, class_id=class_id)
        if not p["gone"] and p["erase_at"] is None
    }
    strangers = sorted(set(only or ()) - set(people))
    if strangers:
        raise BadInputError("apprentice_ids", strangers[0], "apprentices who are in this class")
    taken = {row["login"]: row["id"] for row in queries.account_list(connection, school_id=school_id)}
    slips = []
    for person in people.values():
        if (person["login"] is not None) if only is None else (person["id"] not in only):
            continue
        login, kind = person["login"], "reset"
        if login is None:
            login, kind = log_in_of(person["name"], taken), "invitation"
            made = queries.user_add(
                connection,
                school_id=school_id,
                login=login,
                name=person["name"],
                role="apprentice",
                password_hash="!",
            )
            taken[login] = made["id"]
            queries.apprentice_link(connection, school_id=school_id, id=person["id"], user_id=made["id"])
        account = {"school_id": school_id, "id": taken[login]}
        slips.append(
            {
                "apprentice_id": person["id"],
                "name": person["name"],
                "login": login,
                "code": give_code(connection, account, kind),
            }
        )
    return slips
