"""Whole tables of a school: read, asked for, written; names are quoted, never pasted."""

import psycopg
import pytest

from wolfsbane.server.core.db.tables import columns_of, holds_any, insert, rows_of


@pytest.fixture
def school(db):
    with db.transaction() as connection:
        yield connection, insert(connection, "schools", [{"name": "Marrow Hill", "time_zone": "UTC"}], numbered=True)[0]


def a_class(connection, school_id, name="Firsts"):
    return insert(connection, "classes", [{"school_id": school_id, "name": name, "term": ""}], numbered=True)[0]


def test_a_row_that_is_written_is_found_in_its_school_alone(school):
    connection, ours = school
    theirs = insert(connection, "schools", [{"name": "Elsewhere", "time_zone": "UTC"}], numbered=True)[0]
    made = [a_class(connection, ours, name) for name in ("Firsts", "Seconds")]
    assert [row["id"] for row in rows_of(connection, "classes", ours)] == made
    assert holds_any(connection, "classes", ours) and not holds_any(connection, "classes", theirs)
    assert list(rows_of(connection, "classes", theirs)) == []


def test_columns_come_with_their_types(school):
    found = columns_of(school[0], "paper_calls")
    assert found["body"] == "jsonb" and found["position"] == "integer" and columns_of(school[0], "no_such") == {}


def test_a_name_that_is_no_table_is_an_error_and_does_nothing(school):
    connection, ours = school
    hostile = "classes; drop table classes"
    with pytest.raises(psycopg.errors.UndefinedTable), connection.transaction():
        list(rows_of(connection, hostile, ours))
    with pytest.raises(ValueError, match="invalid name"), connection.transaction():
        insert(connection, "classes", [{"school_id": ours, 'name") values (1) --': "x"}], numbered=True)
    assert list(rows_of(connection, "classes", ours)) == []
