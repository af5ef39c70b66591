"""Whole tables of a school, for taking it out and bringing it in: the only place where SQL is put together by name."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from psycopg import sql

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from wolfsbane.server.core.db.database import Connection

#: rows that are in memory at once while a table is read
_AT_ONCE = 200


def rows_of(connection: Connection, table: str, school_id: int) -> Iterator[dict[str, Any]]:
    """Every row of a table that belongs to a school, in the order they were written, some at a time."""
    query = sql.SQL("select * from {} where school_id = %s order by 1").format(sql.Identifier(table))
    with connection.cursor(name=f"rows_of_{table[:40]}") as cursor:
        cursor.itersize = _AT_ONCE
        cursor.execute(query, (school_id,))
        yield from cursor


def holds_any(connection: Connection, table: str, school_id: int) -> bool:
    """Whether a school has a row in a table."""
    query = sql.SQL("select 1 from {} where school_id = %s limit 1").format(sql.Identifier(table))
    return connection.execute(query, (school_id,)).fetchone() is not None


def columns_of(connection: Connection, table: str) -> dict[str, str]:
    """Column -> data type of a table."""
    rows = connection.execute(
        "select column_name, data_type from information_schema.columns where table_name = %s "
        "and table_schema = current_schema()",
        (table,),
    ).fetchall()
    return {row["column_name"]: row["data_type"] for row in rows}


def insert(
    connection: Connection, table: str, rows: Sequence[Mapping[str, Any]], *, numbered: bool
) -> list[int] | None:
    """Write rows that have the same columns; returns their new ids, in order, where the table is ``numbered``."""
    names = list(rows[0])
    query = sql.SQL("insert into {} ({}) values ({})").format(
        sql.Identifier(table),
        sql.SQL(", ").join(map(sql.Identifier, names)),
        sql.SQL(", ").join(map(sql.Placeholder, names)),
    )
    with connection.cursor() as cursor:
        if not numbered:
            cursor.executemany(query, rows)
            return None
        cursor.executemany(query + sql.SQL(" returning id"), rows, returning=True)
        made = []
        while True:
            row = cursor.fetchone()
            assert row is not None, "an insert that returns gives a row"
            made.append(int(row["id"]))
            if not cursor.nextset():
                return made
