"""What an instructor may take back: people added, moved or erased, an issued sheet; and a call changed in place."""

import pytest

from tests.server.conftest import as_key, build
from wolfsbane.server.core.current import database_of
from wolfsbane.server.services import rosters


@pytest.fixture
def firsts(teacher, sheet):
    """The class of the ready sheet."""
    return teacher.get(f"/classes/{sheet['class_id']}").json


def answer_right(app, teacher, code):
    """The first call of a paper answered as the key has it."""
    marked = teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code)})
    assert marked.status_code == 200, marked.json


def names(teacher, class_id):
    return [p["name"] for p in teacher.get(f"/classes/{class_id}").json["people"]]


def test_somebody_who_moves_takes_nothing_away_and_keeps_everything(app, teacher, sheet, firsts):
    seconds = teacher.post("/classes", {"name": "Seconds", "apprentices": ["Dot Hale"]}).json["id"]
    ada = firsts["people"][0]
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    answer_right(app, teacher, code)
    before = teacher.get(f"/classes/{firsts['id']}/gradebook").json
    body = {"name": ada["name"], "number": "", "group": "", "class_id": seconds}
    assert teacher.put(f"/apprentices/{ada['id']}", body).status_code == 200
    assert names(teacher, seconds) == ["Dot Hale", ada["name"]] and ada["name"] not in names(teacher, firsts["id"])
    after = teacher.get(f"/classes/{firsts['id']}/gradebook").json
    row = next(r for r in after["rows"] if r[1] == f"{ada['name']} (now in Seconds)")
    assert row[3:] == next(r for r in before["rows"] if r[1] == ada["name"])[3:] and row[-2] > 0
    assert any(ada["name"] in p["name"] for p in teacher.get(f"/classes/{firsts['id']}/results").json["people"])
    assert [p["code"] for p in teacher.get(f"/apprentices/{ada['id']}/results").json["papers"]] == [code]
    teacher.put(f"/apprentices/{ada['id']}", body | {"class_id": firsts["id"]})
    assert names(teacher, firsts["id"])[-1] == ada["name"]
    # a class of another school, and one where somebody of that name is
    assert teacher.put(f"/apprentices/{ada['id']}", body | {"class_id": 999_999}).json["error"]["field"] == "class_id"
    teacher.post(f"/classes/{seconds}/apprentices", {"people": [{"name": ada["name"].upper()}]})
    refused = teacher.put(f"/apprentices/{ada['id']}", body)
    assert refused.status_code == 422 and ada["name"] in refused.json["error"]["message"]


def test_an_erasure_waits_ten_minutes_and_can_be_taken_back(app, teacher, sheet, firsts):
    ada = firsts["people"][0]
    reply = teacher.put(f"/apprentices/{ada['id']}/erasing", {"erasing": True}).json
    assert reply["people"][0]["erase_at"] and reply["size"] == firsts["size"] - 1
    db = database_of(app)
    assert rosters.erase_due(db) == 0 and ada["name"] in names(teacher, firsts["id"])
    assert teacher.put(f"/apprentices/{ada['id']}/erasing", {"erasing": False}).json["people"][0]["erase_at"] is None
    teacher.put(f"/apprentices/{ada['id']}/erasing", {"erasing": True})
    with db.transaction() as connection:
        connection.execute("update apprentices set erase_at = erase_at - interval '10 minutes 1 second'")
        connection.execute("update sheets set status = 'building' where id = %s", (sheet["id"],))
    assert rosters.erase_due(db) == 0  # a sheet of the class is being made
    with db.transaction() as connection:
        connection.execute("update sheets set status = 'ready' where id = %s", (sheet["id"],))
    assert rosters.erase_due(db) == 1 and ada["name"] not in names(teacher, firsts["id"])
    assert len(teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]) == 2


def test_people_who_were_just_added_can_be_taken_off_until_they_have_a_paper(teacher, sheet, firsts):
    made = teacher.post(f"/classes/{firsts['id']}/apprentices", {"people": [{"name": "Dot Hale"}, {"name": "Ed Orm"}]})
    fresh = [p["id"] for p in made.json["people"][-2:]]
    back = teacher.post(f"/classes/{firsts['id']}/apprentices/undo", {"apprentice_ids": fresh})
    assert back.status_code == 200 and back.json["size"] == firsts["size"]
    ada = firsts["people"][0]
    refused = teacher.post(f"/classes/{firsts['id']}/apprentices/undo", {"apprentice_ids": [ada["id"]]})
    assert refused.status_code == 409 and "has a paper" in refused.json["error"]["message"]
    assert ada["name"] in names(teacher, firsts["id"])
    assert teacher.post(f"/classes/{firsts['id']}/apprentices/undo", {"apprentice_ids": fresh}).status_code == 422


def test_an_issued_sheet_goes_back_to_a_draft_until_somebody_worked_on_it(app, teacher, sheet):
    codes = {r["code"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]}
    back = teacher.post(f"/sheets/{sheet['id']}/draft", {})
    assert back.status_code == 200 and back.json["status"] == "draft" and back.json["papers"] == 0
    assert len(back.json["items"]) == 2
    assert all(teacher.get(f"/papers/{code}").status_code == 404 for code in codes)
    teacher.post(f"/sheets/{sheet['id']}/issue", {})
    build(app, sheet["id"])
    again = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]
    assert len(again) == 3 and codes.isdisjoint(r["code"] for r in again)
    answer_right(app, teacher, again[0]["code"])
    refused = teacher.post(f"/sheets/{sheet['id']}/draft", {})
    assert refused.status_code == 409 and "stays as it was issued" in refused.json["error"]["message"]
    actions = [e["action"] for e in teacher.get(f"/sheets/{sheet['id']}/audit").json["entries"]]
    assert "taken back to a draft" in actions


def test_one_call_of_a_request_is_changed_by_itself(teacher, stranger):
    brief = {"title": "A sheet", "calls": 2, "levels": [1, 3]}
    rung = {"number": 1, "level": 2, "skill": "undercharge"}
    made = teacher.post("/briefs/call", {"brief": brief, "rung": rung, "skill": "dirty_condenser"})
    assert made.status_code == 200, made.json
    assert made.json["rung"]["skill"] == "dirty_condenser" and made.json["rung"]["number"] == 1
    assert made.json["title"] == "Dirty condenser" and made.json["note"] == ""
    item = {"kind": "rung", "brief": made.json["brief"], "rung": made.json["rung"], "redraw": 3}
    class_id = teacher.post("/classes", {"name": "Thirds", "apprentices": ["Ada Quill"]}).json["id"]
    draft = teacher.post("/sheets", {"title": "x", "class_id": class_id, "items": [item], "draft": True}).json
    assert "items" in draft, draft
    assert draft["items"][0]["title"] == "Dirty condenser" and draft["items"][0]["data"]["redraw"] == 3
    # a machine with nothing wrong has no severity to turn: what level it turned out at is said
    sound = teacher.post("/briefs/call", {"brief": brief, "rung": rung, "skill": "none", "level": 1}).json
    assert sound["rung"]["level"] == 1 or f"level {sound['rung']['level']}" in sound["note"]
    skills = teacher.post("/briefs/skills", {"brief": brief, "machines": ["split-3t-r22-txv"]}).json["skills"]
    row = next(s for s in skills if s["id"] == "undercharge")
    assert row["name"] == "Low charge (undercharged)" and "low charge" in row["also"]
    refused = teacher.post("/briefs/call", {"brief": brief, "rung": rung, "machines": ["no-such"]})
    assert refused.status_code == 422 and refused.json["error"]["field"] == "machines"


@pytest.mark.parametrize("position", [1, 2])
def test_a_whole_call_is_excluded_and_counts_again(app, teacher, mixed, position):
    code = teacher.get(f"/sheets/{mixed['id']}/results").json["rows"][0]["code"]
    if position == 2:
        figures = teacher.get(f"/sheets/{mixed['id']}/measurements/2").json["rows"]
        read = {r["key"]: float(r["predicted"].split()[0]) for r in figures if r["needed"]}
        teacher.put(f"/sheets/{mixed['id']}/measurements/2", {"readings": read, "confirmed": True})
    wrong = {q["id"]: "1" for q in teacher.get(f"/papers/{code}").json["calls"][position - 1]["questions"]}
    marked = teacher.put(f"/papers/{code}/answers", {"call": position, "answers": wrong})
    assert marked.status_code == 200, marked.json
    url, rule = f"/sheets/{mixed['id']}/rules", {"position": position, "rules": {"excluded": True}}
    before = teacher.get(f"/papers/{code}").json["calls"][position - 1]
    shown = teacher.put(url, rule).json["moves"]
    assert [(m["code"], m["before"], m["after"], m["after_possible"]) for m in shown] == [
        (code, before["earned"], 0, 0)
    ]
    assert teacher.get(f"/papers/{code}").json["calls"][position - 1]["earned"] == before["earned"]  # only shown
    teacher.put(url, rule | {"confirmed": True, "reason": "misprint"})
    rows = teacher.get(f"/sheets/{mixed['id']}/results").json["rows"]  # of whoever is not marked yet as well
    assert [[r["cells"][position - 1][k] for k in ("earned", "possible")] for r in rows] == [[0, 0]] * 3
    assert teacher.get(f"/sheets/{mixed['id']}").json["items"][position - 1]["rules"]["excluded"] is True
    teacher.put(url, {"position": position, "rules": {}, "confirmed": True, "reason": "it was none"})
    assert teacher.get(f"/papers/{code}").json["calls"][position - 1]["earned"] == before["earned"]
