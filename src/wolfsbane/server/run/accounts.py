"""The operator's way to accounts: ``python -m wolfsbane.server.run.accounts``, or ``wolfsbane account``.

    list [--school SHORT]          who can log in, by school
    code LOGIN [--school SHORT]    a one-time code by which they choose a new password; what they had no longer fits
    log-out LOGIN [--school SHORT] end every session of theirs

For a school whose last instructor cannot get in any more; written into the school's trail.
"""

from __future__ import annotations

import argparse
import sys
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.core.db.migrate import MigrationError, migrate
from wolfsbane.server.core.sign_in import CODE_DAYS, give_code
from wolfsbane.server.run.postgres import PostgresError, the_database
from wolfsbane.server.services import trail

if TYPE_CHECKING:
    from argparse import Namespace
    from collections.abc import Iterator

    from wolfsbane.server.core.db.database import Connection


def _found(connection: Connection, school: str, login: str) -> dict[str, Any]:
    rows = list(queries.users_everywhere(connection, school=school, login=login.strip().lower()))
    if not rows:
        raise BadInputError("login", login, "a log-in of somebody on this server" + (f" in {school}" if school else ""))
    if len(rows) > 1:
        raise BadInputError("--school", school or "nothing", "one of " + ", ".join(row["short"] for row in rows))
    return rows[0]


def done(connection: Connection, what: str, school: str, login: str) -> Iterator[str]:
    """Do one thing and say what was done, line by line. Raises BadInputError."""
    if what == "list":
        for row in queries.users_everywhere(connection, school=school, login=""):
            off = " (switched off)" if row["disabled"] else ""
            yield f"{row['short']:24} {row['login']:24} {row['role']:11} {row['name']}{off}"
        return
    row = _found(connection, school, login)
    operator = {"school_id": row["school_id"], "name": ""}
    if what == "log-out":
        queries.sessions_end(connection, school_id=row["school_id"], user_id=row["id"], but=0)
        trail.note(connection, operator, f"logged {trail.called(row)} out everywhere")
        yield f"{row['login']} is logged out everywhere."
        return
    if row["disabled"]:
        queries.account_put(
            connection, school_id=row["school_id"], id=row["id"], name=row["name"], role=row["role"], disabled=False
        )
    code = give_code(connection, row, "reset")
    trail.note(connection, operator, f"gave {trail.called(row)} a one-time code; their password no longer fits")
    yield f"One-time code for {row['name']} ({row['login']} of {row['school']}): {code}"
    yield f"It is typed in at /welcome, lets in once, and is good for {CODE_DAYS['reset']} days."


def _arguments(argv: list[str] | None) -> Namespace:
    parser = argparse.ArgumentParser(
        prog="wolfsbane account", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("what", choices=("list", "code", "log-out"))
    parser.add_argument("login", nargs="?", default="", help="whose")
    parser.add_argument("--school", default="", help="short name of their school")
    return parser.parse_args(argv)


def run(argv: list[str] | None = None) -> int:
    """Run on the database that the settings name, also while the server runs; returns the exit code."""
    args = _arguments(argv)
    try:
        if args.what != "list" and not args.login:
            raise BadInputError("login", "nothing", "the log-in of somebody on this server")
        with the_database(from_environment()) as url:
            migrate(url)
            db = Database(url, size=1).open()
            try:
                with db.transaction() as connection:
                    for line in done(connection, args.what, args.school, args.login):
                        print(line)
            finally:
                db.close()
        return 0
    except (SettingError, PostgresError, MigrationError, BadInputError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(run())
