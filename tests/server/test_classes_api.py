"""Classes, rosters and accounts: typed, pasted, CSV; groups, terms, archive, who left;
what is kept of one and how it goes.
"""

import pytest

from tests.server.conftest import Client, as_key, codes
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.current import database_of
from wolfsbane.server.services.roster_text import read_roster


@pytest.mark.parametrize(
    ("text", "people", "problems"),
    [
        ("Ada Quill\n\n  Bo Fenn  \n", [("Ada Quill", "", ""), ("Bo Fenn", "", "")], 0),
        ("name,number,group\nAda Quill,7,A\nBo Fenn,8,B", [("Ada Quill", "7", "A"), ("Bo Fenn", "8", "B")], 0),
        ("\ufeffGroup;No.;Name\nA;7;Ada Quill", [("Ada Quill", "7", "A")], 0),
        ("Ada Quill\t7\tA\nAda Quill\t7\tA", [("Ada Quill", "7", "A")], 1),
        ("Ada Quill,7\nAda Quill,9", [("Ada Quill", "7", ""), ("Ada Quill", "9", "")], 0),
        ('"Quill, Ada",7', [("Ada Quill", "7", "")], 0),
        (",7\nAda Quill,8", [("Ada Quill", "8", "")], 1),
        ("x" * 99, [], 1),
        ("", [], 0),
        # a family name first, with nothing to quote it
        ("Patel, Asha\nFenn, Bo", [("Asha Patel", "", ""), ("Bo Fenn", "", "")], 0),
        ("Asha\tPatel\t101\nBo\tFenn\t102", [("Asha Patel", "101", ""), ("Bo Fenn", "102", "")], 0),
        ("Last Name,First Name,E-mail\nPatel,Asha,a@school.example", [("Asha Patel", "", "")], 0),
        ("Student ID;Surname;Given name;Section\nS-17;Müller;Zoë;B", [("Zoë Müller", "S-17", "B")], 0),
        (
            "Ada Quill,ada@school.example,A\nBo Fenn,bo@school.example,A",
            [("Ada Quill", "", "A"), ("Bo Fenn", "", "A")],
            0,
        ),
        ("Ada Quill,A\nBo Fenn,B\nCy Marl,A\nDi Rook,B", [("Ada Quill", "", "A"), ("Bo Fenn", "", "B")], 0),
        ("#12,Ada Quill\n#13,Bo Fenn", [("Ada Quill", "12", ""), ("Bo Fenn", "13", "")], 0),
        ("Students\nAda Quill", [("Students", "", ""), ("Ada Quill", "", "")], 0),
        ("Student\nAda Quill", [("Ada Quill", "", "")], 0),
    ],
)
def test_a_roster_is_read_as_it_comes(text, people, problems):
    found = read_roster(text)
    assert [(p["name"], p["number"], p["group"]) for p in found.people][: len(people)] == people
    assert len(found.problems) == problems and all(line.startswith("line ") for line in found.problems)


def test_what_a_column_is_can_be_corrected():
    text = "Asha,Patel\nBo,Fenn"
    assert [p["name"] for p in read_roster(text).people] == ["Patel Asha", "Fenn Bo"]
    assert [p["name"] for p in read_roster(text, columns=["first", "last"]).people] == ["Asha Patel", "Bo Fenn"]
    headed = read_roster("Pupils,Mark\nAda Quill,3", header=True, columns=["name", "skip"])
    assert headed.people == [{"name": "Ada Quill", "number": "", "group": ""}]
    assert headed.columns == (("name", "Pupils"), ("skip", "Mark")) and headed.lines[0].number == 2
    # a first line that is a person after all
    assert [p["name"] for p in read_roster("Name\nAda Quill", header=False).people] == ["Name", "Ada Quill"]
    with pytest.raises(BadInputError, match="columns"):
        read_roster(text, columns=["shoe size"])


def test_who_is_in_the_class_already_is_said_before_anything_is_added(teacher):
    made = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json
    read = teacher.post("/rosters", {"text": "ada quill\nBo Fenn", "class_id": made["id"]}).json
    assert [p["name"] for p in read["people"]] == ["Bo Fenn"]
    assert [row["problem"] for row in read["rows"]] == ["ada quill is in this class already", ""]
    assert read["columns"] == [{"role": "name", "head": ""}] and read["header"] is False
    assert teacher.post("/rosters", {"text": "x", "class_id": 999}).status_code == 404


def test_a_roster_is_shown_before_it_is_kept(teacher):
    assert teacher.post("/rosters", {"text": "Ada Quill\nAda Quill"}).json["problems"] == [
        "line 2: Ada Quill is in the list twice; give them numbers to tell them apart"
    ]
    assert teacher.get("/classes").json["classes"] == []


def test_a_class_has_term_groups_and_late_joiners_and_can_be_archived(teacher):
    made = teacher.post(
        "/classes",
        {
            "name": "Firsts",
            "term": "Autumn",
            "apprentices": ["Ada Quill", {"name": "Bo Fenn", "number": "8", "group": "B"}],
        },
    ).json
    assert [(p["name"], p["number"], p["group"]) for p in made["people"]] == [
        ("Ada Quill", "", ""),
        ("Bo Fenn", "8", "B"),
    ]
    more = teacher.post(f"/classes/{made['id']}/apprentices", {"people": [{"name": "Cy Marl", "group": "B"}]}).json
    assert more["size"] == 3
    again = teacher.post(f"/classes/{made['id']}/apprentices", {"people": [{"name": "cy marl"}]})
    assert again.status_code == 422 and again.json["error"]["field"] == "apprentices"
    bo = more["people"][1]
    left = teacher.put(
        f"/apprentices/{bo['id']}", {"name": "Bo Fennick", "number": "8", "group": "A", "gone": True}
    ).json
    assert left["size"] == 2 and left["people"][1] | {"id": 0} == {
        "id": 0,
        "name": "Bo Fennick",
        "number": "8",
        "group": "A",
        "language": "en",
        "gone": True,
        "erase_at": None,
        "login": None,
    }
    teacher.put(f"/classes/{made['id']}", {"name": "Firsts", "term": "Autumn", "archived": True})
    assert teacher.get("/classes").json["classes"] == []
    assert [c["name"] for c in teacher.get("/classes?archived=true").json["classes"]] == ["Firsts"]
    assert teacher.post("/classes", {"name": "Firsts", "term": "Autumn"}).status_code == 409


def test_who_left_gets_no_paper_but_keeps_the_old_ones(app, teacher, sheet):
    people = teacher.get(f"/classes/{sheet['class_id']}").json["people"]
    teacher.put(f"/apprentices/{people[0]['id']}", {"name": people[0]["name"], "gone": True})
    assert len(codes(teacher, sheet)) == 3
    made = teacher.post(
        "/sheets", {"title": "Next", "class_id": sheet["class_id"], "scenario_ids": [sheet["items"][0]["scenario_id"]]}
    ).json
    assert made["total"] == 2 * (1 + 1)


def test_everything_kept_of_an_apprentice_is_handed_over_or_forgotten(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code)})
    teacher.get(f"/papers/{code}/print")
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][0]
    teacher.post(f"/apprentices/{person['id']}/login", {"login": "ada", "password": "right-and-long"})
    kept = teacher.get(f"/apprentices/{person['id']}/data").json
    assert kept["name"] == "Ada Quill" and kept["login"] == "ada" and kept["papers"][0]["code"] == code
    assert (
        len(kept["papers"][0]["calls"][0]["answers"]) == 20
        and sum(m["earned"] for m in kept["papers"][0]["calls"][0]["marks"]) == 33
    )
    assert teacher.get(f"/sheets/{sheet['id']}/documents/key").status_code == 200
    teacher.delete(f"/apprentices/{person['id']}")
    with database_of(app).transaction() as connection:
        for table, column in (("apprentices", "name"), ("users", "login"), ("audit", "after"), ("audit", "reason")):
            rows = connection.execute(f"select {column}::text as v from {table}").fetchall()
            assert not any("Ada" in (r["v"] or "") or r["v"] == "ada" for r in rows), table
        assert connection.execute("select count(*) as n from answers").fetchone()["n"] == 0
        assert connection.execute("select count(*) as n from documents").fetchone()["n"] == 0
    assert teacher.get(f"/papers/{code}").status_code == 404 and len(codes(teacher, sheet)) == 2
    assert Client(app).post("/session", {"login": "ada", "password": "right-and-long"}).status_code == 401


def test_accounts_are_added_changed_switched_off_and_one_instructor_stays(app, teacher):
    made = teacher.post(
        "/accounts", {"login": "Second", "name": "Second Pair", "role": "assistant", "password": "long-enough-1"}
    )
    assert made.status_code == 201 and made.json["login"] == "second"
    assert (
        teacher.post(
            "/accounts", {"login": "second", "name": "x", "role": "assistant", "password": "long-enough-1"}
        ).status_code
        == 409
    )
    assert (
        teacher.post("/accounts", {"login": "third", "name": "x", "role": "assistant", "password": "short"}).json[
            "error"
        ]["field"]
        == "password"
    )
    second = Client(app).choose("second", "long-enough-1", "tanager-pleat-7")
    assert second.get("/sheets").status_code == 200 and second.get("/classes").status_code == 403
    path = f"/accounts/{made.json['id']}"
    teacher.put(path, {"name": "Second Pair", "role": "instructor"})
    assert second.get("/classes").status_code == 200
    teacher.put(path, {"name": "Second Pair", "role": "assistant", "disabled": True})
    assert second.get("/sheets").status_code == 401
    assert Client(app).post("/session", {"login": "second", "password": "tanager-pleat-7"}).status_code == 401
    me = next(a for a in teacher.get("/accounts").json["accounts"] if a["login"] == "teacher")
    refused = teacher.put(f"/accounts/{me['id']}", {"name": "Teacher", "role": "assistant"})
    assert refused.status_code == 409 and "last instructor" in refused.json["error"]["message"]


def test_nobody_reaches_another_schools_people(teacher, stranger, sheet):
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][0]["id"]
    account = teacher.get("/accounts").json["accounts"][0]["id"]
    for method, path, body in (
        ("GET", f"/apprentices/{person}/data", None),
        ("DELETE", f"/apprentices/{person}", {}),
        ("PUT", f"/apprentices/{person}", {"name": "x"}),
        ("POST", f"/apprentices/{person}/login", {"login": "xxx", "password": "long-enough-1"}),
        ("GET", f"/apprentices/{person}/results", None),
        ("PUT", f"/accounts/{account}", {"name": "x", "role": "instructor"}),
        ("GET", f"/classes/{sheet['class_id']}/results", None),
        ("GET", f"/classes/{sheet['class_id']}/gradebook.csv", None),
        ("PUT", f"/sheets/{sheet['id']}/rules", {"position": 1, "rules": {}}),
        ("PUT", f"/sheets/{sheet['id']}/measurements/1", {"readings": {}}),
        ("GET", f"/sheets/{sheet['id']}/audit", None),
        ("POST", f"/sheets/{sheet['id']}/papers", {"apprentice_id": person}),
        ("POST", f"/sheets/{sheet['id']}/answers", {"text": "code,call,question,answer\nX,1,y,z"}),
        ("GET", f"/sheets/{sheet['id']}/qti.zip", None),
        ("GET", f"/sheets/{sheet['id']}/preview", None),
        ("POST", f"/sheets/{sheet['id']}/cancel", {}),
        ("PUT", f"/sheets/{sheet['id']}/release", {"released": True}),
        ("DELETE", f"/sheets/{sheet['id']}", {}),
    ):
        assert stranger.call(method, path, body).status_code == 404, (method, path)


def test_nobody_is_erased_while_a_sheet_of_their_class_is_being_made(app, teacher, sheet):
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][0]
    with database_of(app).transaction() as connection:
        connection.execute("update sheets set status = 'building'")
    reply = teacher.delete(f"/apprentices/{person['id']}")
    assert reply.status_code == 409 and "Friday" in reply.json["error"]["message"]
    with database_of(app).transaction() as connection:
        connection.execute("update sheets set status = 'ready'")
    assert teacher.delete(f"/apprentices/{person['id']}").status_code == 200
