"""Whole tables of a school, for taking it out and bringing it in: the only place where SQL is put together by name."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from psycopg import sql

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.server.core.db.database import Connection


def rows_of(connection: Connection, table: str, school_id: int) -> list[dict[str, Any]]:
    """Every row of a table that belongs to a school, in the order they were written."""
    query = sql.SQL("select * from {} where school_id = %s order by 1").format(sql.Identifier(table))
    return connection.execute(query, (school_id,)).fetchall()


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


def insert(connection: Connection, table: str, values: Mapping[str, Any], *, numbered: bool) -> int | None:
    """Write one row; returns its new id where the table is ``numbered``."""
    query = sql.SQL("insert into {} ({}) values ({})").format(
        sql.Identifier(table),
        sql.SQL(", ").join(map(sql.Identifier, values)),
        sql.SQL(", ").join(map(sql.Placeholder, values)),
    )
    if not numbered:
        connection.execute(query, values)
        return None
    row = connection.execute(query + sql.SQL(" returning id"), values).fetchone()
    assert row is not None, "an insert that returns gives a row"
    return int(row["id"])
