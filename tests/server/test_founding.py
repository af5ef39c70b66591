"""Founding a school from the command line, and bringing an exported one into it."""

import pytest

from tests.server.conftest import Client
from wolfsbane.server.run import founding

GIVEN = {"school": "Marrow Hill College", "name": "Ilse Tarn", "login": "Ilse.Tarn"}


def found(monkeypatch, database_url, password="ten letters or so", **changes):
    monkeypatch.setenv("WOLFSBANE_DATABASE_URL", database_url)
    monkeypatch.setenv(founding.PASSWORD_VARIABLE, password)
    given = GIVEN | changes
    return founding.run([part for key, value in given.items() for part in (f"--{key.replace('_', '-')}", value)])


def test_a_school_is_founded_and_its_instructor_logs_in_and_brings_another_school_in(
    app, teacher, sheet, database_url, monkeypatch, capsys
):
    assert found(monkeypatch, database_url, time_zone="America/Denver") == 0 and "is founded" in capsys.readouterr().out
    client = Client(app)
    reply = client.post("/session", {"login": "ilse.tarn", "password": "ten letters or so"})
    assert (
        reply.status_code == 200
        and reply.json["user"]["role"] == "instructor"
        and reply.json["user"]["school"] == "Marrow Hill College"
    )
    client.csrf = reply.json["csrf"]
    assert client.get("/classes?archived=false").json["classes"] == []
    whole = teacher.get("/school/export.zip").data
    moved = client._client.post(
        "/api/v1/school/import", data=whole, content_type="application/zip", headers={"X-CSRF-Token": client.csrf}
    )
    assert moved.status_code == 200 and moved.json["rows"]["sheets"] == 1
    assert [s["title"] for s in client.get("/sheets").json["sheets"]] == [
        s["title"] for s in teacher.get("/sheets").json["sheets"]
    ]


@pytest.mark.parametrize(
    ("changes", "field"),
    [
        ({"school": "Test School"}, "school"),
        ({"school": " "}, "school"),
        ({"login": "a b"}, "login"),
        ({"password": "short"}, "password"),
        ({"time_zone": "Mars/Olympus"}, "time_zone"),
        ({"name": "x" * 81}, "name"),
    ],
)
def test_what_cannot_be_founded_is_named_and_leaves_nothing(app, db, database_url, monkeypatch, capsys, changes, field):
    assert found(monkeypatch, database_url, **changes) == 2
    told = capsys.readouterr().err
    assert told.startswith(f"wolfsbane: {field} ") and told.count("\n") == 1 and "short" not in told
    with db.transaction() as connection:
        assert connection.execute("select count(*) as n from schools").fetchone()["n"] == 2


def test_a_school_is_founded_with_the_starter_set(app, database_url, monkeypatch):
    monkeypatch.setenv("WOLFSBANE_DATABASE_URL", database_url)
    monkeypatch.setenv(founding.PASSWORD_VARIABLE, "ten letters or so")
    given = [part for key, value in GIVEN.items() for part in (f"--{key}", value)]
    assert founding.run([*given, "--starter"]) == 0
    client = Client(app)
    client.csrf = client.post("/session", {"login": "ilse.tarn", "password": "ten letters or so"}).json["csrf"]
    assert [s["title"] for s in client.get("/sheets").json["sheets"]] == ["Sample sheet"]
