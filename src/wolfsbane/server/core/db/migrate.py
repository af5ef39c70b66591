"""Numbered migrations, each applied and recorded in one transaction."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import TYPE_CHECKING

import psycopg

if TYPE_CHECKING:
    from pathlib import Path

FOLDER = Path(__file__).parent / "migrations"
_LOCK = 7_330_421


class MigrationError(RuntimeError):
    """A migration that was edited after it ran, or a database newer than this program."""


def files(folder: Path = FOLDER) -> list[tuple[int, str, str, str]]:
    """[(number, name, sql, sha256)] in order."""
    found = []
    for path in sorted(folder.glob("*.sql")):
        sql = path.read_text()
        found.append((int(path.name[:4]), path.stem, sql, hashlib.sha256(sql.encode()).hexdigest()))
    return found


def pending(url: str, folder: Path = FOLDER) -> list[str]:
    """Names of the migrations that the database at ``url`` has not seen. Raises MigrationError."""
    try:
        with psycopg.connect(url, connect_timeout=10) as connection:
            there = connection.execute("select to_regclass('migrations')").fetchone()
            done = set()
            if there is not None and there[0] is not None:
                done = {row[0] for row in connection.execute("select number from migrations")}
    except psycopg.OperationalError as error:
        raise MigrationError(
            f"the database cannot be reached; check WOLFSBANE_DATABASE_URL: {error}".strip()
        ) from error
    return [name for number, name, _, _ in files(folder) if number not in done]


def migrate(url: str, folder: Path = FOLDER) -> list[str]:
    """Bring the database at ``url`` up to date; returns the names applied now.

    Raises MigrationError, also when the database cannot be reached.
    """
    known = files(folder)
    applied_now = []
    try:
        opened = psycopg.connect(url, autocommit=True, connect_timeout=10)
    except psycopg.OperationalError as error:
        raise MigrationError(
            f"the database cannot be reached; check WOLFSBANE_DATABASE_URL: {error}".strip()
        ) from error
    with opened as connection:
        connection.execute("select pg_advisory_lock(%s)", (_LOCK,))
        connection.execute(
            "create table if not exists migrations (number int primary key, name text not null, "
            "sha256 text not null, applied_at timestamptz not null default now())"
        )
        done = {n: (name, sha) for n, name, sha in connection.execute("select number, name, sha256 from migrations")}
        newest = max((n for n, *_ in known), default=0)
        if done and max(done) > newest:
            raise MigrationError(f"the database is at migration {max(done)}, this program knows {newest}; update it")
        for number, name, sql, sha in known:
            if number in done:
                if done[number][1] != sha:
                    raise MigrationError(f"migration {name} was edited after it ran; restore it and add a new one")
                continue
            with connection.transaction():
                connection.execute(sql)
                connection.execute(
                    "insert into migrations (number, name, sha256) values (%s, %s, %s)", (number, name, sha)
                )
            applied_now.append(name)
        connection.execute("select pg_advisory_unlock(%s)", (_LOCK,))
    return applied_now
