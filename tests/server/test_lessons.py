"""A lesson: a class decides together by vote, and the class's screen and students' devices are sent no answer."""

import json

import pytest

from tests.server.conftest import Client
from wolfsbane.exercise.screen import expert
from wolfsbane.exercise.screen.lesson import middle, tally
from wolfsbane.server.core.current import database_of
from wolfsbane.server.services import lessons, screen


@pytest.fixture
def class_of_three(app, teacher, sheet):
    """Three apprentices of the sheet's class, logged in."""
    people = teacher.get(f"/classes/{sheet['class_id']}").json["people"][:3]
    found = []
    for n, person in enumerate(people):
        login = {"login": f"voter{n}", "password": "copper-elbow-9"}
        assert teacher.post(f"/apprentices/{person['id']}/login", login).status_code == 200
        found.append(Client(app).choose(f"voter{n}", "copper-elbow-9", "copper-elbow-10"))
    return found


class Lesson:
    """An instructor's remote, with the class's screen."""

    def __init__(self, app, teacher, sheet, position=1):
        reply = teacher.post(f"/sheets/{sheet['id']}/lessons", {"position": position})
        assert reply.status_code == 201, reply.json
        self.app, self.teacher, self.id, self.token = app, teacher, reply.json["id"], reply.json["token"]
        self.path = f"/lessons/{self.id}"
        self.state = teacher.get(self.path).json

    def ask(self, kind):
        return self.after(self.teacher.post(f"{self.path}/vote", {"kind": kind}))

    def after(self, reply):
        assert reply.status_code == 200, reply.json
        self.state = reply.json
        return self.state

    def count(self):
        return self.after(self.teacher.delete(f"{self.path}/vote"))["vote"]

    def do(self, choice, **more):
        return self.after(self.teacher.post(f"{self.path}/steps", {"choice": choice, **more}))

    def wall(self, since=0):
        return self.app.test_client().get(
            f"/api/v1/lessons/seen?since={since}", headers={lessons.TOKEN_HEADER: self.token}
        )

    def vote(self, pupil, choice):
        on = pupil.get("/lessons/mine").json["lesson"]
        return pupil.put(f"/lessons/mine/{on['id']}/vote", {"round": on["vote"]["round"], "choice": choice})


@pytest.fixture
def on(app, teacher, sheet):
    return Lesson(app, teacher, sheet)


def test_votes_and_hands_are_counted_and_the_machine_answers(on, class_of_three):
    assert on.ask("next")["vote"]["open"]
    for pupil, choice in zip(class_of_three, ("look:filter", "read:suction_pressure", "look:filter"), strict=True):
        assert on.vote(pupil, choice).json["lesson"]["vote"]["own"] == choice
    assert on.vote(class_of_three[0], "read:suction_pressure").status_code == 200, "one may think again"
    on.after(on.teacher.put(f"{on.path}/hands", {"choice": "look:filter", "count": 2}))
    assert on.wall().json["shown"]["vote"]["voted"] == 5 and on.state["vote"]["counted"] == []
    found = on.count()
    assert [(c["id"], c["votes"]) for c in found["counted"]] == [("look:filter", 3), ("read:suction_pressure", 2)]
    assert on.vote(class_of_three[1], "look:duct").json["error"]["code"] == "not_now", "it was counted"
    after = on.do("look:filter")
    assert [s["kind"] for s in after["steps"]] == ["look"] and after["steps"][0]["said"]
    assert on.wall().json["shown"]["steps"] == after["steps"]


def test_a_class_reads_a_needle_together(on, class_of_three):
    on.do("read:suction_pressure")
    assert [s["kind"] for s in on.state["steps"]] == ["zero", "gauges", "read"], "gauges go on as they should"
    assert "text" not in on.state["steps"][-1]["reading"]
    on.ask("read_off")
    for pupil, typed in zip(class_of_three, ("117,5", "118", "240"), strict=True):
        assert on.vote(pupil, typed).status_code == 200
    assert on.vote(class_of_three[0], "quite high").json["error"]["field"] == "choice"
    assert on.count()["middle"] == "118"
    assert on.do("number:118")["read_off"] == {"suction_pressure": "118"}
    on.do("read:return_db")
    assert on.state["read_off"]["return_db"] == on.state["steps"][-2]["reading"]["text"], "digits stand as they are"


def test_the_whole_way_of_a_class_stands_beside_the_experts(app, on):
    with database_of(app).transaction() as connection, app.test_request_context():
        row = lessons.held(connection, {"school_id": 1}, on.id)
        issue = lessons.issue_of(row)
    live = expert.looked(issue.setup, issue.practice, issue.accepted)
    for shown in live.shown:
        if shown.kind in ("look", "test", "read"):
            what = shown.data.get("check") or shown.data.get("test") or shown.data["point"]
            on.do(f"{shown.kind}:{what}")
    everything = json.dumps([on.state, on.wall().json])
    key = issue.call.key
    for secret in (key.action_text, "belief", '"severity"', '"causes"', "accepted", f'"{key.fault}"'):
        assert secret not in everything, secret
    letter = issue.call.choices.letter("fault", key.fault)
    on.ask("name")
    on.after(on.teacher.put(f"{on.path}/hands", {"choice": f"name:{letter}", "count": 20}))
    on.count()
    assert on.do(f"name:{letter}")["named_as"] and on.state["named"]
    assert on.teacher.post(f"{on.path}/vote", {"kind": "next"}).json["error"]["field"] == "kind"
    worked = expert.worked(live, issue.practice)
    for shown in worked.shown:
        if shown.kind == "act" and shown.data["action"] != "settle":
            on.do(f"act:{shown.data['action']}", arguments=shown.data["arguments"])
    assert on.state["judged"] is None
    judged = on.after(on.teacher.delete(on.path))["judged"]
    parts = {p["part"]: p for p in judged["marks"]["parts"]}
    assert set(parts) == set(lessons.CLASS_PARTS)
    for part in ("fault", "evidence", "economy", "work"):
        assert parts[part]["earned"] == parts[part]["points"], parts[part]
    assert on.wall().json["shown"]["judged"] == judged
    assert on.teacher.delete(on.path).json["error"]["code"] == "finished"
    rows = on.teacher.get(f"/sheets/{row['sheet_id']}/lessons").json["lessons"]
    assert [(r["id"], r["ended"], r["minutes"]) for r in rows] == [(on.id, True, judged["minutes"])]


def test_the_call_is_nobodys_paper_and_every_lesson_has_its_own(app, on, teacher, sheet):
    def bodies(table):
        with database_of(app).transaction() as connection:
            return [json.dumps(r["body"]["readings"]) for r in connection.execute(f"select body from {table}")]

    Lesson(app, teacher, sheet)
    made = bodies("screen_lessons")
    assert len(set(made)) == 2 and not set(made) & set(bodies("paper_calls"))


def test_after_the_server_was_killed_the_lesson_goes_on_where_it_was(on):
    on.do("read:suction_pressure")
    before = on.state["minutes"]
    screen._kept.clear()
    after = on.do("read:head_pressure")
    assert [s["kind"] for s in after["steps"]] == ["zero", "gauges", "read", "read"], "the gauges are on"
    assert after["minutes"] == before + after["steps"][-1]["minutes"]


def test_a_link_opens_one_lesson_and_a_new_one_closes_the_old(app, on, teacher):
    assert on.wall(on.wall().json["revision"]).json["shown"] is None
    old = on.token
    on.token = teacher.post(f"{on.path}/link", {}).json["token"]
    assert on.wall().status_code == 200
    on.token = old
    assert on.wall().status_code == 404
    assert app.test_client().get("/api/v1/lessons/seen").status_code == 404


def test_what_has_no_place_is_refused(app, on, class_of_three, teacher, sheet):
    for kind, field in (("work", "kind"), ("read_off", "kind")):
        assert teacher.post(f"{on.path}/vote", {"kind": kind}).json["error"]["field"] == field
    assert teacher.delete(f"{on.path}/vote").json["error"]["code"] == "not_now"
    for choice in ("look:moon", "act:replace_filter", "name:Z"):
        assert teacher.post(f"{on.path}/steps", {"choice": choice}).json["error"]["field"] == "choice"
    on.ask("next")
    assert teacher.post(f"{on.path}/steps", {"choice": "plate"}).json["error"]["code"] == "not_now", "count it first"
    pupil = class_of_three[0]
    on_now = pupil.get("/lessons/mine").json["lesson"]
    other = pupil.put(f"/lessons/mine/{on.id + 1}/vote", {"round": 1, "choice": "plate"})
    late = pupil.put(f"/lessons/mine/{on.id}/vote", {"round": on_now["vote"]["round"] + 1, "choice": "plate"})
    assert (other.status_code, late.status_code) == (404, 409)
    assert teacher.post(f"/sheets/{sheet['id']}/lessons", {"position": 40}).json["error"]["field"] == "position"


def test_votes_are_told_as_they_stand():
    assert tally(["a", "b", "b"], {"a": 3, "c": 0}) == [("a", 4), ("b", 2)]
    assert middle([("118", 2), ("240", 1)]) == "118" and middle([]) is None
