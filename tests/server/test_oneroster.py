"""OneRoster files in and out: what comes in is added once, and what goes out comes in again."""

import csv
import io
import zipfile

import pytest

from tests.server.conftest import as_key
from wolfsbane.server.exchange.oneroster import COLUMNS

TERM = {"sourcedId": "t1", "title": "Autumn"}
CLASS = {"sourcedId": "c1", "status": "active", "title": "Refrigeration 1", "termSourcedIds": "t1"}
ADA = {
    "sourcedId": "u1",
    "enabledUser": "true",
    "role": "student",
    "username": "ada",
    "givenName": "Ada",
    "familyName": "Quill",
}
BO = {"sourcedId": "u2", "role": "student", "identifier": "2102", "givenName": "Bo", "familyName": "Fenn"}
IN = {"classSourcedId": "c1", "role": "student"}
FILES = {
    "academicSessions": [TERM],
    "classes": [CLASS, {"sourcedId": "c2", "status": "tobedeleted", "title": "Old"}],
    "users": [ADA, BO, {"sourcedId": "u3", "role": "teacher", "givenName": "Ilse", "familyName": "Tarn"}],
    "enrollments": [
        {"sourcedId": "e1", "userSourcedId": "u1", **IN},
        {"sourcedId": "e2", "userSourcedId": "u2", **IN},
        {"sourcedId": "e3", "userSourcedId": "u3", "classSourcedId": "c1", "role": "teacher"},
        {"sourcedId": "e4", "userSourcedId": "u1", "classSourcedId": "c2", "role": "student"},
    ],
}


def packed(mark="", **changes):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, rows in {**FILES, **changes}.items():
            if rows is None:
                continue
            text = io.StringIO()
            writer = csv.DictWriter(text, COLUMNS[name], restval="")
            writer.writeheader()
            writer.writerows(rows)
            archive.writestr(f"{name}.csv", mark + text.getvalue())
    return out.getvalue()


def send(client, data, query=""):
    return client._client.post(
        f"/api/v1/school/oneroster{query}",
        data=data,
        content_type="application/zip",
        headers={"X-CSRF-Token": client.csrf},
    )


def people(client):
    found = client.get("/classes").json["classes"]
    return {
        c["name"]: [(p["name"], p["number"], p["gone"]) for p in client.get(f"/classes/{c['id']}").json["people"]]
        for c in found
    }


def test_students_of_active_classes_come_in_once(teacher):
    dry = send(teacher, packed(mark="\ufeff"), "?dry=true").json
    assert dry == {
        "classes": [{"title": "Refrigeration 1", "new": True, "added": 2, "there": 0, "left": 0}],
        "kept": False,
    }
    assert people(teacher) == {}
    assert send(teacher, packed()).json == dry | {"kept": True}
    assert people(teacher) == {"Refrigeration 1": [("Ada Quill", "ada", False), ("Bo Fenn", "2102", False)]}
    assert teacher.get("/classes").json["classes"][0]["term"] == "Autumn"
    again = send(teacher, packed()).json["classes"][0]
    assert (again["new"], again["added"], again["there"]) == (False, 0, 2)
    ended = [{**row, "status": "tobedeleted"} if row["sourcedId"] == "e2" else row for row in FILES["enrollments"]]
    off = send(teacher, packed(enrollments=ended)).json["classes"][0]
    assert (off["there"], off["left"]) == (1, 1)
    assert people(teacher)["Refrigeration 1"][1] == ("Bo Fenn", "2102", True), "left, and still on record"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"no zip", "a OneRoster ZIP"),
        (packed(users=None), "users.csv"),
        (packed(users=[]), "enrollments.csv line 2"),
        (packed(classes=[{"sourcedId": "c1"}]), "classes.csv line 2"),
        (packed(users=[ADA | {"sourcedId": ""}]), "users.csv line 2"),
        (packed(users=[ADA | {"givenName": "x" * 90}, BO]), "a name of 1 to 80 characters"),
        (packed(users=[ADA | {"username": "x" * 40}, BO]), "an identifier of at most 30 characters"),
    ],
)
def test_what_cannot_be_read_is_named_and_nothing_comes_in(teacher, data, words):
    reply = send(teacher, data)
    assert reply.status_code == 422 and words in reply.json["error"]["message"]
    assert people(teacher) == {}


def test_what_goes_out_has_the_points_and_comes_in_elsewhere(app, teacher, stranger, sheet):
    rows = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]
    for call in (1, 2):
        teacher.put(f"/papers/{rows[0]['code']}/answers", {"call": call, "answers": as_key(app, rows[0]["code"], call)})
    data = teacher.get("/school/oneroster.zip").data
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        tables = {name: list(csv.DictReader(io.StringIO(archive.read(f"{name}.csv").decode()))) for name in COLUMNS}
        told = dict(csv.reader(io.StringIO(archive.read("manifest.csv").decode())))
    assert told["oneroster.version"] == "1.1" and all(told[f"file.{name}"] == "bulk" for name in COLUMNS)
    marked = [r for r in tables["results"] if r["scoreStatus"] == "fully graded"]
    after = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]
    assert [float(r["score"]) for r in marked] == [after["earned"]] and after["earned"] > 0
    assert float(tables["lineItems"][0]["resultValueMax"]) == after["possible"]
    ids = {name: {row["sourcedId"] for row in rows} for name, rows in tables.items()}
    assert {r["studentSourcedId"] for r in tables["results"]} <= ids["users"]
    assert {e["classSourcedId"] for e in tables["enrollments"]} <= ids["classes"]
    assert send(stranger, data).json["classes"][0]["added"] == 3
    assert {n for n, *_ in people(stranger)["Firsts"]} == {"Ada Quill", "Bo Fenn", "Cy Marl"}
