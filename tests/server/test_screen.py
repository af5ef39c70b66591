"""Calls on screen: opened, played from several devices, never lost, marked by their path, and nothing given away."""

import json
from collections import OrderedDict

import pytest

from tests.server.conftest import Client
from wolfsbane.exercise.screen import robots
from wolfsbane.exercise.screen.live import begun as begun_live
from wolfsbane.exercise.screen.live import step
from wolfsbane.server.core.current import database_of
from wolfsbane.server.services import screen


@pytest.fixture
def student(app, teacher, sheet):
    """The first apprentice of the sheet's class, logged in, and their name."""
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][0]
    reply = teacher.post(f"/apprentices/{person['id']}/login", {"login": "first", "password": "copper-elbow-9"})
    assert reply.status_code == 200, reply.json
    client = Client(app).choose("first", "copper-elbow-9", "copper-elbow-10")
    client.name, client.id = person["name"], person["id"]
    return client


class Run:
    """Somebody's device with a run: sends steps with ids of its own."""

    count = 0

    def __init__(self, client, run_id):
        self.client, self.path = client, f"/screen/mine/runs/{run_id}"
        self.state = client.get(self.path).json

    def row(self, kind, **data):
        Run.count += 1
        return {"uid": f"device-{id(self)}-{Run.count}", "kind": kind, "data": data}

    def send(self, *rows):
        reply = self.client.post(f"{self.path}/steps", {"after": len(self.state["steps"]), "steps": list(rows)})
        if reply.status_code == 200:
            self.state = reply.json
        return reply

    def do(self, kind, **data):
        reply = self.send(self.row(kind, **data))
        assert reply.status_code == 200, reply.json
        return reply.json["steps"][-1]


def opened(teacher, sheet, **body):
    reply = teacher.post(f"/sheets/{sheet['id']}/screen", {"mode": "practice", **body})
    assert reply.status_code == 201, reply.json
    return reply.json["opening"]


def begun(student, n=0):
    (*rows,) = student.get("/screen/mine").json["calls"]
    run_id = student.post(f"/screen/mine/{rows[n]['paper_call_id']}/begin", {}).json["run_id"]
    assert student.post(f"/screen/mine/{rows[n]['paper_call_id']}/begin", {}).json["run_id"] == run_id
    return Run(student, run_id)


def issue_of(app, run):
    with database_of(app).transaction() as connection:
        row = screen.run_row(connection, 1, run.state["id"])
        with app.test_request_context():
            return screen.issue_of(row), row


def by_robot(app, run, name="expert"):
    """The steps of a robot, sent as a student would, and what it was marked with by itself."""
    issue, _ = issue_of(app, run)
    expected, path = robots.play(name, issue, 3)
    for at in range(0, len(path.steps), 20):
        reply = run.send(*(run.row(s.kind, **s.data) for s in path.steps[at : at + 20]))
        assert reply.status_code == 200, reply.json
    return expected


def test_an_experts_way_earns_what_it_is_worth_and_stands_beside_the_students(app, teacher, sheet, student):
    opened(teacher, sheet)
    run = begun(student)
    expected = by_robot(app, run)
    judged = run.state["judged"]
    assert judged["marks"]["earned"] == expected.earned >= 95
    assert run.state["finished"] and run.send(run.row("plate")).json["error"]["code"] == "finished"
    row = next(r for r in teacher.get(f"/sheets/{sheet['id']}/screen").json["opening"]["rows"] if r["run_id"])
    assert (row["name"], row["earned"], row["minutes"]) == (student.name, expected.earned, judged["minutes"])
    review = teacher.get(f"/screen/runs/{row['run_id']}").json
    assert review["judged"]["expert"]["way"][:3] == review["judged"]["way"][:3]
    assert review["judged"]["answer"] and all(0 <= t["after"] <= 1 for t in review["judged"]["way"])


def test_a_needle_is_shown_and_no_number_and_nothing_of_the_answer(app, teacher, sheet, student):
    opened(teacher, sheet, mode="exam", minutes=30)
    run = begun(student)
    issue, _ = issue_of(app, run)
    assert run.state["refrigerant"] == "" and run.state["plate"] == []
    run.do("plate")
    assert run.state["refrigerant"] == issue.call.machine.refrigerant and run.state["plate"]
    run.do("zero")
    assert run.do("read", point="suction_pressure")["refused"], "no gauge is on"
    run.do("gauges", low="suction", high="liquid")
    shown = run.do("read", point="suction_pressure")["reading"]
    assert shown["side"] == "low" and shown["needle_deg"] > -135 and "value" not in shown and "past" in shown["spoken"]
    everything = json.dumps([run.state, student.get("/screen/mine").json])
    key = issue.call.key
    for secret in (key.action_text, key.hazard, "belief", '"severity"', '"causes"', "accepted", f'"{key.fault}"'):
        assert secret not in everything, secret
    assert run.send(run.row("hint")).json["error"]["message"] == "there are no hints in an exam"
    run.do("answer", question="fault", text=issue.call.choices.letter("fault", key.fault))
    run.do("name")
    run.do("finish")
    assert run.state["finished"] and run.state["judged"] is None, "not before it is told"
    assert teacher.post(f"/sheets/{sheet['id']}/screen/told", {}).status_code == 409
    teacher.delete(f"/sheets/{sheet['id']}/screen")
    assert teacher.post(f"/sheets/{sheet['id']}/screen/told", {}).status_code == 200
    marks = student.get(run.path).json["judged"]["marks"]
    fault = next(p for p in marks["parts"] if p["part"] == "fault")
    assert fault["earned"] <= 0.25 * fault["points"] + 1, "a letter with nothing behind it"


def test_what_is_sent_twice_is_done_once_and_a_second_device_is_told(app, teacher, sheet, student):
    opened(teacher, sheet)
    phone = begun(student)
    tablet = Run(student, phone.state["id"])
    row = phone.row("look", check="filter")
    first = phone.send(row).json
    assert phone.send(row).json["steps"] == first["steps"] and len(first["steps"]) == 1
    moved = tablet.send(tablet.row("look", check="duct"))
    assert (moved.status_code, moved.json["error"]["code"]) == (409, "moved_on")
    written = tablet.send(tablet.row("answer", question="superheat", text="12"))
    assert written.status_code == 200 and written.json["answers"]["superheat"] == "12", "what is written is merged"
    assert phone.send(phone.row("look", check="duct")).status_code == 200
    assert [s["kind"] for s in phone.state["steps"]] == ["look", "answer", "look"]


def test_after_the_server_was_killed_the_machine_is_where_it_was(app, teacher, sheet, student):
    opened(teacher, sheet)
    run = begun(student)
    for kind, data in (
        ("gauges", {"low": "suction", "high": "liquid"}),
        ("act", {"action": "add_liquid", "arguments": {"oz": 4}}),
        ("wait", {"minutes": 3}),
    ):
        run.do(kind, **data)
    screen._kept.clear()
    after = run.do("read", point="head_pressure")
    other = Client(app).log_in("first", "copper-elbow-10") and begun(student, 1)
    for kind, data in (("gauges", {"low": "suction", "high": "liquid"}), ("wait", {"minutes": 3})):
        other.do(kind, **data)
    screen._kept.clear()
    again = Run(student, run.state["id"])
    assert again.state["minutes"] == run.state["minutes"] and again.state["bill"] == run.state["bill"] > 0
    with database_of(app).transaction() as connection:
        rows = connection.execute(
            "select data, kind, shown from screen_steps where run_id = %s order by number", (run.state["id"],)
        )
        kept = [r for r in rows.fetchall() if r["shown"]]
    issue, _ = issue_of(app, run)
    live = begun_live(issue.setup)
    for row in kept:
        step(live, row["kind"], row["data"])
    assert [s.to_json() for s in live.shown] == [r["shown"] for r in kept], "the same steps, the same machine"
    assert after["reading"]["needle_deg"] == kept[-1]["shown"]["reading"]["needle_deg"]


def test_processes_take_turns_and_the_machine_is_one(app, teacher, sheet, student, monkeypatch):
    """Two application processes, each with its own memory: what the other did is caught up with, and a step that was
    not kept in the end leaves nothing behind.
    """
    opened(teacher, sheet)
    run, memories, asked = begun(student), ({}, {}), []
    monkeypatch.setattr(screen, "begun", lambda setup: asked.append(setup) or begun_live(setup))
    moves = [("gauges", {"low": "suction", "high": "liquid"}), ("look", {"check": "filter"}), ("wait", {"minutes": 7})]
    moves += [("read", {"point": "suction_pressure"}), ("read", {"point": "head_pressure"}), ("settle", {})]
    moves += [("act", {"action": "stop"}), ("act", {"action": "start"}), ("read", {"point": "head_pressure"})]
    for n, (kind, data) in enumerate(moves):
        monkeypatch.setattr(screen, "_kept", OrderedDict(memories[n % 2]))
        if n == 5:
            with monkeypatch.context() as fails:
                fails.setattr(screen.queries, "screen_step_add", None)
                assert run.send(run.row("wait", minutes=90)).status_code == 500
        run.do(kind, **data)
        memories[n % 2].clear()
        memories[n % 2].update(screen._kept)
    assert len(asked) == 3, "each process begins once, and once more after what failed"
    issue, _ = issue_of(app, run)
    alone = begun_live(issue.setup)
    for kind, data in moves:
        step(alone, kind, data)
    shown = [s.to_json() for s in alone.shown]
    assert [s["said"] for s in run.state["steps"]] == [s["said"] for s in shown]
    assert [(s["reading"] or {}).get("needle_deg") for s in run.state["steps"]] == [
        (s["reading"] or {}).get("needle_deg") for s in shown
    ]


def test_an_exam_ends_by_the_clock_and_some_have_longer(app, teacher, sheet, student):
    opened(teacher, sheet, mode="exam", minutes=10)
    run = begun(student)
    assert 590 < run.state["left_s"] <= 600
    path = f"/sheets/{sheet['id']}/screen/allowances"
    assert teacher.put(path, {"apprentice_id": student.id, "factor": 1.5}).status_code == 200
    assert teacher.put(path, {"apprentice_id": 9999, "factor": 1.5}).status_code == 422
    with database_of(app).transaction() as connection:
        connection.execute("update screen_runs set began_at = began_at - interval '12 minutes'")
    assert Run(student, run.state["id"]).state["left_s"] > 170 and run.do("plate")
    with database_of(app).transaction() as connection:
        connection.execute("update screen_runs set began_at = began_at - interval '5 minutes'")
    late = run.send(run.row("plate"))
    assert (late.status_code, late.json["error"]["code"]) == (409, "finished")
    row = next(r for r in teacher.get(f"/sheets/{sheet['id']}/screen").json["opening"]["rows"] if r["run_id"])
    assert row["finished_at"] and row["earned"] == 0, "what was there is marked"


def test_hints_cost_and_name_nothing(app, teacher, sheet, student):
    opened(teacher, sheet)
    run = begun(student)
    issue, _ = issue_of(app, run)
    said = [run.do("hint")["said"][0] for _ in range(3)]
    assert len(set(said)) == 3 and said[2].startswith("Read next")
    assert not any(name.lower() in " ".join(said).lower() for name in (issue.call.key.fault_name,))
    by_robot(app, run)
    marks = run.state["judged"]["marks"]
    assert marks["off"] == 13 and "3 hints −13" in marks["off_for"]


@pytest.mark.parametrize(
    ("kind", "data", "field"),
    [
        ("look", {"check": "moon"}, "check"),
        ("gauges", {"low": "suction", "high": "suction"}, "high"),
        ("act", {"action": "add_liquid", "arguments": {"oz": "much"}}, "oz"),
        ("act", {"action": "add_liquid", "arguments": []}, "arguments"),
        ("dance", {}, "kind"),
        ("wait", {"minutes": 1e308}, "minutes"),
        ("answer", {"question": "superheat"}, "text"),
    ],
)
def test_a_step_that_is_none_is_refused_and_nothing_of_it_is_kept(app, teacher, sheet, student, kind, data, field):
    opened(teacher, sheet)
    run = begun(student)
    reply = run.send(run.row("plate"), run.row(kind, **data) if kind != "kind" else {})
    assert reply.status_code == 422 and field in reply.json["error"]["field"], reply.json
    assert student.get(run.path).json["steps"] == []


def test_nobody_plays_somebody_elses_call(app, teacher, sheet, student, stranger):
    opened(teacher, sheet)
    run = begun(student)
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][1]
    teacher.post(f"/apprentices/{person['id']}/login", {"login": "second", "password": "copper-elbow-9"})
    other = Client(app).choose("second", "copper-elbow-9", "copper-elbow-10")
    assert other.get(run.path).status_code == 404
    assert other.post(f"{run.path}/steps", {"after": 0, "steps": [run.row("plate")]}).status_code == 404
    mine = {r["paper_call_id"] for r in student.get("/screen/mine").json["calls"]}
    theirs = {r["paper_call_id"] for r in other.get("/screen/mine").json["calls"]}
    assert mine and theirs and not mine & theirs
    assert other.post(f"/screen/mine/{min(mine)}/begin", {}).status_code == 404
    assert stranger.get(f"/screen/runs/{run.state['id']}").status_code == 404


def test_a_sheet_is_open_once_and_within_its_limits(teacher, sheet):
    opened(teacher, sheet)
    path = f"/sheets/{sheet['id']}/screen"
    assert teacher.post(path, {"mode": "exam"}).status_code == 409
    assert teacher.delete(path).json["opening"]["closed"] is True
    assert teacher.post(path, {"mode": "exam", "minutes": 2}).status_code == 422
    assert teacher.post(path, {"mode": "practice", "minutes": 20}).status_code == 422
    assert teacher.post(path, {"mode": "exam", "minutes": 20}).status_code == 201


def test_what_is_for_paper_is_not_played(teacher, situations):
    found = teacher.get(f"/sheets/{situations['id']}/screen").json
    assert (found["opening"], found["playable"]) == (None, False)
    assert teacher.post(f"/sheets/{situations['id']}/screen", {"mode": "practice"}).status_code == 409


def test_the_ways_of_a_class_are_one_picture_and_one_is_played_again_on_the_bench(app, teacher, sheet, student):
    opened(teacher, sheet)
    assert teacher.get(f"/sheets/{sheet['id']}/screen/ways/1").json["people"] == 0
    run = begun(student)
    by_robot(app, run)
    ways = teacher.get(f"/sheets/{sheet['id']}/screen/ways/1").json
    assert ways["people"] == 1 and all(c["who"] == [student.name] for c in ways["cells"])
    assert ways["cells"][-1]["text"] == "Named it right" and all(c["expert"] for c in ways["cells"])
    found = teacher.get(f"/screen/runs/{run.state['id']}/bench").json
    setup = issue_of(app, run)[0].setup
    assert found["name"] == student.name and found["found"]["machine"] == setup.machine.id
    bench = {k: v for k, v in found["found"].items() if k not in ("title", "complaint") and v is not None}
    played = teacher.post("/act", {**bench, "steps": found["steps"], "frames": True, "units": "us"})
    assert played.status_code == 200 and not played.json["refusal"], played.json
    assert [s["do"] for s in played.json["steps"]] == [s["do"] for s in found["steps"]]
    other = begun(student, 1)
    assert teacher.get(f"/screen/runs/{other.state['id']}/bench").json["error"]["code"] == "not_now"


def test_an_exam_stands_in_the_gradebook_and_practice_does_not(app, teacher, sheet, student):
    def column():
        book = teacher.get(f"/classes/{sheet['class_id']}/gradebook").json
        row = next(r for r in book["rows"] if r[1] == student.name)
        title = f"Screen: {sheet['title']}"
        return row[book["header"].index(title)] if title in book["header"] else None

    opened(teacher, sheet)
    by_robot(app, begun(student))
    assert column() is None, "practice is no grade"
    teacher.delete(f"/sheets/{sheet['id']}/screen")
    opened(teacher, sheet, mode="exam", minutes=60)
    expected = sum(by_robot(app, begun(student, n), name).earned for n, name in ((0, "expert"), (1, "always wrong")))
    assert column() == expected >= 95
    kept = teacher.get(f"/apprentices/{student.id}/data").json["calls_on_screen"]
    assert [(k["mode"], k["position"]) for k in kept] == [("practice", 1), ("exam", 1), ("exam", 2)]
    assert kept[0]["steps"][-1]["kind"] == "finish" and kept[0]["marks"]["earned"] >= 95
