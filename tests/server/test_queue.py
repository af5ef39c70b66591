"""The job queue: fair to the schools that share it, small before large, and taken up where it was left."""

import pytest

from tests.server.conftest import bodies, codes
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.jobs.queue import LARGE, SMALL, queue_print, queue_sheet
from wolfsbane.server.services import building


@pytest.fixture
def schools(app):
    with database_of(app).transaction() as connection:
        return [queries.school_by_name(connection, name=f"{name} School")["id"] for name in ("Test", "Other")]


def queued(app, work):
    """(school, priority, lane) of what ``work(connection)`` queues, in the order in which a worker takes it."""
    with database_of(app).transaction() as connection:
        connection.execute("delete from procrastinate_jobs")
        work(connection)
        rows = connection.execute(
            "select (args ->> 'school_id')::int as school, priority, queue_name from procrastinate_jobs"
            " order by priority desc, id"
        ).fetchall()
    return [(r["school"], r["priority"], r["queue_name"]) for r in rows]


def test_a_school_that_queues_much_waits_behind_one_that_queues_little(app, sheet, schools):
    one, two = schools

    def work(connection):
        for _ in range(3):
            queue_sheet(connection, one, sheet["id"])
        queue_sheet(connection, two, sheet["id"])
        queue_print(connection, two, sheet["id"], ["key"])

    assert [(school, priority) for school, priority, _ in queued(app, work)] == [
        (one, 0),
        (two, 0),
        (one, -1),
        (two, -1),
        (one, -2),
    ]


def test_what_is_small_has_a_lane_of_its_own(app, teacher, sheet, schools):
    people = [{"name": f"P {i}"} for i in range(24)]
    assert queued(app, lambda c: queue_sheet(c, schools[0], sheet["id"]))[0][2] == SMALL
    teacher.post(f"/classes/{sheet['class_id']}/apprentices", {"people": people})
    assert queued(app, lambda c: queue_sheet(c, schools[0], sheet["id"]))[0][2] == LARGE


class Killed(BaseException):
    """What no handler of the job sees, as a kill is."""


def test_a_job_that_was_killed_goes_on_from_what_was_drawn_and_comes_out_the_same(app, teacher, sheet, monkeypatch):
    db, sheet_id = database_of(app), sheet["id"]
    whole = {code: [b.to_json() for b in bodies(app, code)] for code in codes(teacher, sheet)}
    with db.transaction() as connection:
        school_id = connection.execute("select school_id from sheets where id = %s", (sheet_id,)).fetchone()[
            "school_id"
        ]
        queries.sheet_status(connection, id=sheet_id, status="queued", total=None)
    drawn, draw = [], items_of.draw

    def counted(*given, again=0):
        if len(drawn) == 4:
            raise Killed
        if not again:
            drawn.append(given[1:3])
        return draw(*given, again=again)

    monkeypatch.setattr(items_of, "draw", counted)
    with pytest.raises(Killed):
        building.build(db, school_id, sheet_id, {})
    row = teacher.get(f"/sheets/{sheet_id}").json
    assert row["status"] == "building" and row["done"] >= 3
    first = list(drawn)
    drawn.clear()
    building.build(db, school_id, sheet_id, {})
    assert teacher.get(f"/sheets/{sheet_id}").json["status"] == "ready"
    assert set(drawn).isdisjoint(first) and len(first) + len(drawn) == 6, "nothing is drawn twice"
    assert {code: [b.to_json() for b in bodies(app, code)] for code in codes(teacher, sheet)} == whole
    with db.transaction() as connection:
        assert list(queries.drawn_list(connection, sheet_id=sheet_id, person=None)) == []
