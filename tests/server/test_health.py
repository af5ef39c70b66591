"""Live and ready: what is told to whoever watches, and to nobody else."""

import shutil
from collections import namedtuple

import pytest

from wolfsbane.server.api import health
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import DatabaseDownError


def ready(app, address="127.0.0.1"):
    return app.test_client().get("/health/ready", environ_base={"REMOTE_ADDR": address})


def said(reply):
    return {c["name"]: (c["ok"], c["said"]) for c in reply.json["checks"]}


@pytest.fixture
def worker(app):
    with database_of(app).transaction() as connection:
        connection.execute("insert into procrastinate_workers default values")


def test_a_process_that_answers_lives(app):
    assert app.test_client().get("/health/live").json == {"live": True}


def test_all_is_well_where_database_migrations_worker_and_disk_are(app, worker):
    reply = ready(app)
    assert reply.status_code == 200 and reply.json["ready"], reply.json
    assert set(said(reply)) == {"database", "migrations", "job worker", "disk"}


def test_a_worker_that_never_began_or_fell_silent_is_told(app, worker):
    with database_of(app).transaction() as connection:
        connection.execute("update procrastinate_workers set last_heartbeat = now() - interval '5 minutes'")
    assert ready(app).status_code == 503 and "300 s ago" in said(ready(app))["job worker"][1]
    with database_of(app).transaction() as connection:
        connection.execute("delete from procrastinate_workers")
    assert said(ready(app))["job worker"] == (False, "none has begun")


def test_a_database_at_another_migration_is_told(app, worker):
    with database_of(app).transaction() as connection:
        connection.execute("delete from migrations where number = (select max(number) from migrations)")
    assert ready(app).status_code == 503 and not said(ready(app))["migrations"][0]


def test_a_full_disk_is_told(app, worker, monkeypatch):
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage(1e12, 1e12, 1e8))
    assert ready(app).status_code == 503 and said(ready(app))["disk"] == (False, "0.1 GB left")


def test_a_database_that_is_down_is_told_and_does_not_raise(app, monkeypatch):
    class Down:
        def transaction(self):
            raise DatabaseDownError("the database does not answer")

    monkeypatch.setattr(health, "database", Down)
    reply = ready(app)
    assert reply.status_code == 503 and said(reply)["database"] == (False, "the database does not answer")


@pytest.mark.parametrize("address", ["10.1.2.3", "::ffff:10.0.0.1", "not an address"])
def test_another_machine_hears_yes_or_no_and_nothing_else(app, worker, address):
    reply = ready(app, address)
    assert reply.json == {"ready": True, "checks": []}


def test_whoever_asks_through_a_front_is_another_machine(app, worker):
    reply = app.test_client().get("/health/ready", headers={"X-Forwarded-For": "10.1.2.3"})
    assert reply.json == {"ready": True, "checks": []}
