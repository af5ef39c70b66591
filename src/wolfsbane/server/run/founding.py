"""Found a school with its first instructor: ``python -m wolfsbane.server.run.founding``, or ``make school``.

Asks for what is not given.
"""

from __future__ import annotations

import argparse
import getpass
import os
import re
import sys
import zoneinfo
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.database import ConflictError, Database, queries
from wolfsbane.server.core.db.migrate import MigrationError, migrate
from wolfsbane.server.core.security import hash_password, require_hard
from wolfsbane.server.run.postgres import PostgresError, the_database
from wolfsbane.server.services.first_day import add_starter

if TYPE_CHECKING:
    from argparse import Namespace

#: a password for those who cannot be asked; it stands in no argument list
PASSWORD_VARIABLE = "WOLFSBANE_FIRST_PASSWORD"


def found(db: Database, *, school: Any, name: str, login: str, password: str, time_zone: str = "UTC") -> int:
    """Write a school and its first instructor; returns the school's id. Raises BadInputError naming the field."""
    for field, value, most in (("school", school, 80), ("name", name, 80)):
        if not value.strip() or len(value) > most or "\x00" in value:
            raise BadInputError(field, value, f"1 to {most} characters")
    if not re.fullmatch(r"[A-Za-z0-9._-]{3,60}", login):
        raise BadInputError("login", login, "3 to 60 letters, digits, dots, dashes")
    if not 10 <= len(password) <= 200:
        raise BadInputError("password", f"{len(password)} characters", "10 to 200 characters")
    require_hard(password, school, name, login)
    if time_zone not in zoneinfo.available_timezones():
        raise BadInputError("time_zone", time_zone, "a zone such as UTC or America/Denver")
    try:
        with db.transaction() as connection:
            if queries.school_by_name(connection, name=school.strip()) is not None:
                raise BadInputError("school", school, "a name no other school here has")
            school_id = queries.school_add(connection, name=school.strip(), time_zone=time_zone)["id"]
            queries.user_add(
                connection,
                school_id=school_id,
                login=login.lower(),
                name=name.strip(),
                role="instructor",
                password_hash=hash_password(password),
            )
    except ConflictError:
        raise BadInputError("login", login, "a log-in nobody on this server has") from None
    return school_id


def _arguments(argv: list[str] | None) -> Namespace:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--school", help="name of the school")
    parser.add_argument("--name", help="name of its first instructor")
    parser.add_argument("--login", help="what they log in as")
    parser.add_argument(
        "--starter", action="store_true", help="with starter scenarios, a sample class and a sample sheet"
    )
    parser.add_argument("--time-zone", default="UTC", help="such as America/Denver (default: UTC)")
    return parser.parse_args(argv)


def _wants_starter() -> bool:
    return input("Starter scenarios and a sample sheet? [Y/n] ").strip().lower() in ("", "y", "yes")


def run(argv: list[str] | None = None) -> int:
    """Found a school on the database that the settings name, also while the server runs; returns the exit code."""
    args = _arguments(argv)
    try:
        config = from_environment()
        asked = {
            "school": args.school or input("Name of the school: "),
            "name": args.name or input("Name of its first instructor: "),
            "login": args.login or input("Log-in: "),
            "password": os.environ.get(PASSWORD_VARIABLE) or getpass.getpass("Password, 10 characters or more: "),
        }
        with the_database(config) as url:
            migrate(url)
            db = Database(url, size=1).open()
            try:
                school_id = found(db, time_zone=args.time_zone, **asked)
                if args.starter or (sys.stdin.isatty() and _wants_starter()):
                    with db.transaction() as connection:
                        user = queries.user_by_login(connection, login=asked["login"].lower(), school_id=school_id)
                        add_starter(connection, {"school_id": school_id, "id": user["id"]})
            finally:
                db.close()
        print(f"{asked['school'].strip()} is founded; {asked['login'].lower()} can log in.")
        return 0
    except (SettingError, PostgresError, MigrationError, BadInputError, EOFError) as error:
        print(f"wolfsbane: {error or 'nothing was typed'}", file=sys.stderr)
        return 2


if __name__ == "__main__":
    sys.exit(run())
