"""Answers that depend on the release alone: worked out once, and not sent twice."""

import pytest

from tests.server.conftest import Client
from wolfsbane.server.api import reference
from wolfsbane.server.core import by_version as kept

PT = "/api/v1/reference/pt/R-22?units=us"


@pytest.fixture(autouse=True)
def nothing_kept():
    kept._kept.clear()
    yield
    kept._kept.clear()


def test_a_browser_that_has_an_answer_is_told_so(teacher, nobody, monkeypatch):
    first = teacher._client.get(PT)
    tag = first.headers["ETag"]
    assert first.status_code == 200 and first.headers["Cache-Control"] == "private, no-cache"
    again = teacher._client.get(PT, headers={"If-None-Match": tag})
    assert (again.status_code, again.data) == (304, b"")
    other = teacher._client.get("/api/v1/reference/pt/R-22?units=si", headers={"If-None-Match": tag})
    assert other.status_code == 200 and other.headers["ETag"] != tag
    assert nobody._client.get(PT, headers={"If-None-Match": tag}).status_code == 401, "logged out is logged out"
    monkeypatch.setattr(kept, "_release", lambda: "a later release")
    assert teacher._client.get(PT, headers={"If-None-Match": tag}).status_code == 200


def test_it_is_worked_out_once_and_is_the_same(app, teacher, monkeypatch):
    count = []
    real = reference.pt_rows
    monkeypatch.setattr(reference, "pt_rows", lambda *a: count.append(a) or real(*a))
    answers = [Client(app, "teacher").get("/reference/pt/R-22?units=us").json for _ in range(3)]
    assert len(count) == 1 and answers[0] == answers[1] == answers[2] and len(answers[0]["rows"]) > 20


def test_what_is_refused_is_not_kept(teacher):
    assert teacher.get("/reference/pt/R-99?units=us").status_code in (404, 422)
    assert teacher.get("/reference/pt/R-22?units=furlong").status_code == 422
    assert not kept._kept


def test_a_schools_own_machine_is_worked_out_each_time(teacher):
    found = teacher._client.get("/api/v1/reference/faults/undercharge?machine=own-1&units=us")
    assert "ETag" not in found.headers and not kept._kept


def test_only_so_many_are_kept(teacher, monkeypatch):
    monkeypatch.setattr(kept, "_MOST", 2)
    for name in ("R-22", "R-410A", "R-32"):
        teacher.get(f"/reference/pt/{name}?units=us")
    assert len(kept._kept) == 2
