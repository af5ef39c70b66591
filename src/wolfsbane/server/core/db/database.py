"""The connection pool and the named queries."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeAlias

import aiosql
import psycopg
from psycopg.rows import dict_row
from psycopg.types.json import Jsonb
from psycopg_pool import ConnectionPool, PoolTimeout

#: a connection whose rows are dicts
Connection: TypeAlias = psycopg.Connection[dict[str, Any]]

queries: Any = aiosql.from_path(Path(__file__).parent / "queries", "psycopg", mandatory_parameters=False)


#: no statement and no wait for a lock goes on for ever, nor a transaction whose client is gone, ms
_LIMITS = {"statement_timeout": 120_000, "lock_timeout": 60_000, "idle_in_transaction_session_timeout": 900_000}


class DatabaseDownError(RuntimeError):
    """The database does not answer; the caller may try again."""


class ConflictError(ValueError):
    """A row with this name or code exists already."""


#: what the database says of a row that cannot stand in a table
ROW_ERRORS = (psycopg.DataError, psycopg.IntegrityError, psycopg.ProgrammingError)


def jsonb(value: Any) -> Jsonb:
    """Wrap plain data for a jsonb parameter."""
    return Jsonb(value)


class Database:
    """A pool of connections to one PostgreSQL."""

    def __init__(self, url: str, *, size: int = 8) -> None:
        self._pool: ConnectionPool[Connection] = ConnectionPool(
            url,
            min_size=1,
            max_size=size,
            timeout=5,
            open=False,
            name="wolfsbane",
            check=ConnectionPool.check_connection,
            kwargs={
                "row_factory": dict_row,
                "options": " ".join(f"-c {name}={ms}" for name, ms in _LIMITS.items()),
            },
        )

    def open(self) -> Database:
        """Start the pool; returns self."""
        self._pool.open()
        return self

    def close(self) -> None:
        """Give every connection back."""
        self._pool.close()

    @contextmanager
    def transaction(self) -> Iterator[Connection]:
        """A connection in one transaction: committed at the end, rolled back on any error.

        Raises DatabaseDownError when no connection can be had and ConflictError on a duplicate.
        """
        try:
            with self._pool.connection() as connection:
                yield connection
        except (PoolTimeout, psycopg.OperationalError) as error:
            raise DatabaseDownError("the database does not answer; try again in a moment") from error
        except psycopg.errors.UniqueViolation as error:
            raise ConflictError(error.diag.constraint_name or "duplicate") from error


class Lone:
    """Something that one process at a time does, on whatever machine: held as long as its connection lives."""

    def __init__(self, url: str, key: int) -> None:
        self._url, self._key = url, key
        self._connection: psycopg.Connection[Any] | None = None

    def held(self) -> bool:
        """Whether it is ours now; it is taken where nobody has it. False too where the database does not answer."""
        try:
            if self._connection is None:
                self._connection = psycopg.connect(self._url, autocommit=True, connect_timeout=10)
            else:
                self._connection.execute("select 1")
                return True
            row = self._connection.execute("select pg_try_advisory_lock(%s)", (self._key,)).fetchone()
            if row is not None and row[0]:
                return True
        except psycopg.OperationalError:
            pass
        self.give_up()
        return False

    def give_up(self) -> None:
        """Leave it to others."""
        if self._connection is not None:
            self._connection.close()
            self._connection = None
