"""Lab sessions over the API: begun, carried on offline, signed off, weighed, judged by the rig, on the record."""

import csv
import io
import json
from datetime import UTC, datetime, timedelta

import pypdfium2
import pytest

from tests.server.conftest import Client, database_of
from tests.server.rig_stand_in import Lab
from tests.server.test_refrigerant_api import cylinder, named
from tests.server.test_rigs_api import calibrated, catch_up
from wolfsbane.exercise.lab.steps import PROOF, TICKS
from wolfsbane.exercise.marking.grade import perfect_answers
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.rig.reading import as_read


@pytest.fixture
def lab(monkeypatch, app, db):
    return Lab(monkeypatch, db)


@pytest.fixture
def people(teacher):
    """(class, student by name)."""
    made = teacher.post("/classes", {"name": "Seconds", "apprentices": ["Ada Quill", "Bo Fenn", "Cy Thorne"]}).json
    return made["id"], {p["name"]: p["id"] for p in teacher.get(f"/classes/{made['id']}").json["people"]}


@pytest.fixture
def typed_rig(teacher):
    """A rig without a logger."""
    rig = {"schema": 1, "name": "Rig T", "machine": "split-3t-r410a-txv", "devices": [{"kind": "charge"}]}
    return teacher.post("/rigs", {"rig": rig}).json["row"]["id"]


def begun(teacher, rig_id, people, *names, **more):
    ids = [people[1][n] for n in names or ("Ada Quill",)]
    return teacher.post("/lab/sessions", {"rig_id": rig_id, "people": ids, **more})


def student_of(app, teacher, people, name="Ada Quill"):
    """A client logged in as a student of the session."""
    made = teacher.post(
        f"/apprentices/{people[1][name]}/login", {"login": name.split()[1].lower(), "password": "copper-elbow-9"}
    )
    assert made.status_code == 200, made.json
    return Client(app).choose(name.split()[1].lower(), "copper-elbow-9", "copper-elbow-10")


class Said:
    """Events of one sender, each with an id of its own and a time."""

    def __init__(self, client, path, now=1000.0):
        self.client, self.path, self.now, self.count = client, path, now, 0

    def event(self, what, /, at=None, **data):
        self.count += 1
        return {
            "id": f"event-{id(self)}-{self.count}",
            "at": self.now if at is None else at,
            "kind": what,
            "data": data,
        }

    def __call__(self, what, /, at=None, **data):
        return self.send([self.event(what, at, **data)])

    def send(self, events):
        return self.client.post(self.path, {"now": self.now, "events": events})


def frozen(app, session_id):
    with database_of(app).transaction() as connection:
        row = connection.execute("select body from lab_sessions where id = %s", (session_id,)).fetchone()
    return call_from_json(row["body"])


def test_a_session_needs_a_rig_that_is_free_and_students_of_one_class(teacher, stranger, helper, typed_rig, people):
    made = begun(teacher, typed_rig, people, "Ada Quill", "Bo Fenn")
    assert made.status_code == 201 and made.json["people"] == ["Ada Quill", "Bo Fenn"]
    assert made.json["planted"] == "Nothing is wrong with this machine" and made.json["status"] == "at work"
    busy = begun(helper, typed_rig, people, "Cy Thorne")
    assert busy.status_code == 409 and busy.json["error"]["code"] == "rig_busy"
    other = teacher.post("/rigs", {"rig": {"schema": 1, "name": "Rig U", "machine": "split-3t-r410a-txv"}}).json
    wrong = teacher.post("/lab/sessions", {"rig_id": other["row"]["id"], "people": [99999]})
    assert wrong.status_code == 422 and wrong.json["error"]["field"] == "people"
    assert begun(stranger, typed_rig, people).status_code == 404
    assert stranger.get("/lab/sessions").json["sessions"] == []
    assert stranger.get(f"/lab/sessions/{made.json['id']}").status_code == 404
    (row,) = helper.get("/lab/sessions").json["sessions"]
    assert row["rig"] == "Rig T" and row["phase"] == "card"


def test_a_student_sees_their_own_session_and_neither_answer_nor_reading(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    ada, bo = (student_of(app, teacher, people, n) for n in ("Ada Quill", "Bo Fenn"))
    assert [s["id"] for s in ada.get("/lab/mine").json["sessions"]] == [session_id]
    assert bo.get("/lab/mine").json["sessions"] == []
    for asked in (
        bo.get(f"/lab/mine/{session_id}"),
        bo.post(f"/lab/mine/{session_id}/events", {"now": 1, "events": []}),
    ):
        assert asked.status_code == 404
    for path in (
        f"/lab/sessions/{session_id}",
        "/lab/sessions",
        "/rigs",
        f"/rigs/{typed_rig}",
        f"/rigs/{typed_rig}/live",
    ):
        assert ada.get(path).status_code == 403
    reply = ada.get(f"/lab/mine/{session_id}")
    call, text = frozen(app, session_id), reply.get_data(as_text=True)
    assert reply.status_code == 200 and reply.json["result"] is None
    for reading in call.readings.values():
        assert f'"{reading.text}"' not in text
    assert not {"key", "planted", "forecast", "judged"} & set(reply.json)
    right = call.choices.letter("fault", call.key.fault)
    chosen = next(q for q in reply.json["questions"] if q["id"] == "fault")
    assert {c["letter"] for c in chosen["choices"]} >= {right} and len(chosen["choices"]) > 4


def test_what_is_typed_offline_is_kept_once_at_its_own_time_and_what_is_wrong_alone_is_refused(
    app, teacher, typed_rig, people
):
    session_id = begun(teacher, typed_rig, people).json["id"]
    with database_of(app).transaction() as connection:
        connection.execute("update lab_sessions set began_at = now() - interval '1 hour'")
    ada = student_of(app, teacher, people)
    say = Said(ada, f"/lab/mine/{session_id}/events", now=5000.0)
    batch = [
        say.event("tick", at=4000.0, step="glasses", on=True),
        say.event("answer", at=4100.0, question="read_suction_pressure", text="118"),
        say.event("answer", question="no_such", text="1"),
        say.event("go"),
    ]
    first = say.send(batch)
    told = {t["id"]: t for t in first.json["told"]}
    assert [bool(t["refused"]) for t in first.json["told"]] == [False, False, True, True]
    assert "question" in told[batch[2]["id"]]["refused"] and "kind" in told[batch[3]["id"]]["refused"]
    again = say.send(batch[:2])
    assert again.json["session"]["state"] == first.json["session"]["state"]
    with database_of(app).transaction() as connection:
        rows = connection.execute(
            "select kind, extract(epoch from came_at - at)::float as late from lab_events order by at"
        ).fetchall()
    assert [r["kind"] for r in rows] == ["tick", "answer"]
    assert abs(rows[0]["late"] - 1000.0) < 5.0 and abs(rows[1]["late"] - 900.0) < 5.0
    # a clock that is ahead of ours is not believed
    say("note", at=9000.0, text="from the future")
    with database_of(app).transaction() as connection:
        assert connection.execute("select count(*) as n from lab_events where at > now()").fetchone()["n"] == 0


def test_a_later_answer_stands_whichever_device_sends_first(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people, "Ada Quill", "Bo Fenn").json["id"]
    with database_of(app).transaction() as connection:
        connection.execute("update lab_sessions set began_at = now() - interval '1 hour'")
    path = f"/lab/mine/{session_id}/events"
    ada, bo = (Said(student_of(app, teacher, people, n), path, now=5000.0) for n in ("Ada Quill", "Bo Fenn"))
    bo("answer", at=4900.0, question="superheat", text="14")
    late = ada("answer", at=4800.0, question="superheat", text="9")
    assert late.json["session"]["state"]["answers"]["superheat"] == "14"


def test_the_plan_waits_for_a_word_and_help_is_asked_and_given(app, teacher, helper, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    student = Said(student_of(app, teacher, people), f"/lab/mine/{session_id}/events")
    desk = Said(helper, f"/lab/sessions/{session_id}/events")
    student("help")
    assert teacher.get("/lab/sessions").json["sessions"][0]["wants_help"]
    assert not desk("helped", why="hose on the wrong port").json["session"]["wants_help"]
    student("answer", question="amount", text="+12 oz")
    student("plan")
    (row,) = teacher.get("/lab/sessions").json["sessions"]
    assert (
        row["status"] == "sign-off" and row["plan"]["amount"] == "+12 oz" and row["plan"]["text"].startswith("It would")
    )
    refused = desk("stop")
    assert refused.json["told"][0]["refused"] and refused.json["session"]["signed"] == "asked"
    stopped = desk("stop", why="What does the subcooling say?")
    assert stopped.json["session"]["status"] == "stopped"
    seen = student.client.get(f"/lab/mine/{session_id}").json
    assert seen["signed"] == "stop" and seen["why"] == "What does the subcooling say?" and not seen["state"]["planned"]
    student("plan")
    assert desk("go").json["session"]["signed"] == "go"


def finish(teacher, session_id):
    return Said(teacher, f"/lab/sessions/{session_id}/events")("end")


def work(student, call, own, *, ticks=True):
    """Everything up to the plan: ticks, readings, figures, verdicts, fault and plan as the key has them."""
    if ticks:
        for one in TICKS:
            if one.phase in ("safety", "look", "hook_up") and not one.flammable:
                student("tick", step=one.id, on=True)
    answers = perfect_answers(call)
    for q in call.questions:
        text = own.get(MEASURED[q.id], answers[q.id]) if q.id in MEASURED else answers.get(q.id, "")
        student("answer", question=q.id, text=text)
    student("plan")


def test_without_a_logger_typed_readings_stand_against_the_last_calibration_and_say_so(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    student = Said(student_of(app, teacher, people), f"/lab/mine/{session_id}/events")
    desk = Said(teacher, f"/lab/sessions/{session_id}/events")
    call = frozen(app, session_id)
    work(student, call, {})
    desk("go")
    for name in PROOF:
        student("proof", reading=name, text=call.readings[name].text)
    student("done")
    ended = desk("end")
    result = ended.json["session"]["result"]
    assert not result["logged"] and "no logger" in " ".join(result["outcome"]["notes"])
    parts = {p["part"]: (p["earned"], p["points"]) for p in result["parts"]}
    assert parts["readings"][0] == parts["readings"][1] and parts["diagnosis"][0] == parts["diagnosis"][1]
    seen = student.client.get(f"/lab/mine/{session_id}").json
    assert seen["result"]["earned"] == result["earned"] and seen["status"] == "ended"
    late = student("record", text="One more thing.")
    assert "ended" in late.json["told"][0]["refused"]


@pytest.fixture
def played(app, db, teacher, lab, people):
    """A calibrated rig that is short of charge, a cylinder on its scale, a session whose clock is the lab's."""
    rig_id, _ = calibrated(teacher, lab)
    running = lab.rigs["127.0.0.1:5020"]
    teacher.put(f"/rigs/{rig_id}/devices/charge", {"position": 14})
    lab.tick(45)
    catch_up(lab)
    measured = teacher.post(f"/rigs/{rig_id}/settings", {"device": "charge"})
    assert measured.status_code == 201, measured.json
    more = {"name": "R1", "kind": "recovery", "refrigerant": "R-410A", "tare": "16", "water": "26.2", "gross": "26"}
    bottle = named(cylinder(teacher, **more), "R1")["id"]
    made = begun(teacher, rig_id, people, "Ada Quill", "Bo Fenn")
    assert made.status_code == 201, made.json
    return rig_id, made.json["id"], running, bottle


def at_lab_time(app, session_id, lab):
    with database_of(app).transaction() as connection:
        connection.execute("update lab_sessions set began_at = %s", (lab.now,))


def test_a_short_charge_is_found_signed_off_weighed_in_overshot_recovered_and_proved(app, teacher, lab, people, played):
    rig_id, session_id, running, bottle = played
    # The rig runs on while the session does: its clock is moved back as far as the session will take.
    back = timedelta(minutes=90)
    with lab.db.transaction() as connection:
        connection.execute("update rig_samples set at = at - %s", (back,))
        connection.execute("update rig_events set at = at - %s", (back,))
    lab.now -= back
    lab.logger._rigs[rig_id].last_at -= back
    at_lab_time(app, session_id, lab)
    ada = student_of(app, teacher, people)

    class AtLab(Said):
        def send(self, events):
            lab.tick(1 / 6)
            lag = datetime.now(UTC).timestamp() - lab.now.timestamp()
            at = self.now - lag
            return super().send([{**e, "at": at if e["at"] == self.now else e["at"]} for e in events])

    student, desk = (
        AtLab(ada, f"/lab/mine/{session_id}/events", 1e6),
        AtLab(teacher, f"/lab/sessions/{session_id}/events", 1e6),
    )
    call = frozen(app, session_id)
    assert call.key.fault == "undercharge"

    def instruments():
        rig = running.rig
        mean = {k: v for k, v in running.readings().items() if v is not None}
        return as_read(rig, running.profile, mean, "us")

    shown = instruments()
    own = {name: f"{shown[name]:.0f}" for name in call.readings if name in shown}
    lab.tick(1)
    work(student, call, own)
    assert teacher.get("/lab/sessions").json["sessions"][0]["plan"]["by"] in ("rig", "typed")
    desk("go")
    started = 26.0 * 16.0

    def weigh(oz, gross):
        began = student.now - (datetime.now(UTC).timestamp() - lab.now.timestamp())
        lab.tick(1)
        running.by_hand(oz)
        lab.tick(8)
        return student(
            "weigh", cylinder_id=bottle, kind="charge" if oz > 0 else "recover", before=f"{gross:.1f} oz",
            after=f"{gross - oz:.1f} oz", log=f"{abs(oz):g}", began_at=began,
        )  # fmt: skip

    first = weigh(24.0, started)
    (kept,) = first.json["session"]["state"]["weighs"]
    assert kept["kept"] and kept["said"] == "", kept
    second = weigh(-10.0, started - 24.0)
    assert [w["said"] for w in second.json["session"]["state"]["weighs"]] == ["", ""]
    student("done")
    lab.tick(20)
    shown = instruments()
    for name in PROOF:
        student("proof", reading=name, text=f"{shown[name]:.0f}")
    for one in TICKS:
        if one.phase == "close":
            student("tick", step=one.id, on=True)
    student("record", text="Charged by the scale, overshot, took it back, proved.")
    student("finish")
    ended = desk("end")
    result = ended.json["session"]["result"]
    assert result["logged"] and result["outcome"]["proved"], result
    assert result["outcome"]["overshot"] and result["outcome"]["recovered"]
    parts = {p["part"]: p for p in result["parts"]}
    assert [p["reasons"] for p in parts.values() if p["reasons"]] == [["Overshot: 24.0 oz at the most."]]
    assert parts["result"]["earned"] == 13 and parts["record"]["earned"] == 10, parts
    assert parts["readings"]["earned"] == parts["readings"]["points"], parts["readings"]
    # The log holds both moves, with what the rig's own scale saw, and balances.
    log = teacher.get("/refrigerant").json
    assert [(m["kind"], m["log"]) for m in log["moves"]] == [("recover", "10.0 oz"), ("charge", "1 lb 8.0 oz")]
    assert all(m["scale"] and not m["differences"] and "Ada Quill, Bo Fenn" in m["person"] for m in log["moves"])
    assert named(teacher.get("/refrigerant"), "R1")["gross"] == "25 lb 2.0 oz"
    # Marks of both stand in the gradebook, skills on their records.
    book = teacher.get(f"/classes/{people[0]}/gradebook").json
    column = next(i for i, h in enumerate(book["header"]) if h.startswith("Lab: "))
    cells = {row[1]: row[column] for row in book["rows"]}
    assert cells == {"Ada Quill": result["earned"], "Bo Fenn": result["earned"], "Cy Thorne": ""}
    skills = {r["skill"]: r for r in teacher.get(f"/apprentices/{people[1]['Bo Fenn']}/skills").json["rows"]}
    assert {s for s, r in skills.items() if r["level"] == "alone"} >= {"read", "charge", "recover", "prove", "diagnose"}
    assert skills["evacuate"]["level"] == "" and ada.get("/lab/mine/skills").json["name"] == "Ada Quill"
    lines = list(csv.reader(io.StringIO(teacher.get(f"/apprentices/{people[1]['Bo Fenn']}/skills.csv").text)))
    assert lines[0][:3] == ["name", "skill", "level"] and len(lines) > len(skills)
    pdf = pypdfium2.PdfDocument(teacher.get(f"/apprentices/{people[1]['Bo Fenn']}/skills.pdf").data)
    assert "Charge by weight" in pdf[0].get_textpage().get_text_range()
    # The rig is put back by whoever runs the lab, and held until it is seen back.
    early = begun(teacher, rig_id, people, "Cy Thorne")
    assert early.status_code == 409 and early.json["error"]["code"] == "rig_not_undone"
    teacher.post(f"/rigs/{rig_id}/undo", {"signed": "T. Teacher"})
    held = begun(teacher, rig_id, people, "Cy Thorne")
    assert held.status_code == 409 and held.json["error"]["code"] == "rig_held"


def test_what_must_not_be_done_with_a_cylinder_is_not_logged_and_its_caution_is_kept(app, teacher, typed_rig, people):
    bottle = named(cylinder(teacher), "N1")["id"]
    session_id = begun(teacher, typed_rig, people).json["id"]
    student = Said(student_of(app, teacher, people), f"/lab/mine/{session_id}/events")
    reply = student("weigh", cylinder_id=bottle, kind="recover", before="25", after="26", log="16", began_at=900.0)
    (kept,) = reply.json["session"]["state"]["weighs"]
    assert "never filled again" in kept["said"] and not kept["kept"]
    assert teacher.get("/refrigerant").json["moves"] == []


def test_observations_and_skills_of_the_instructor_stand_with_their_reasons(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    desk = Said(teacher, f"/lab/sessions/{session_id}/events")
    before = {p["part"]: p["earned"] for p in desk("end").json["session"]["result"]["parts"]}
    desk("observe", part="safety", points=-3, why="Reached past the fan guard.")
    reply = desk("skill", skill="evacuate", level="helped", why="Pulled to 400 microns on rig 2.")
    parts = {p["part"]: p for p in reply.json["session"]["result"]["parts"]}
    assert parts["safety"]["earned"] == max(before["safety"] - 3, 0)
    assert "−3 by the instructor: Reached past the fan guard." in parts["safety"]["reasons"]
    rows = teacher.get(f"/apprentices/{people[1]['Ada Quill']}/skills").json["rows"]
    seen = next(r for r in rows if r["skill"] == "evacuate")
    assert (seen["level"], seen["evidence"][0]["evidence"]) == ("helped", "Pulled to 400 microns on rig 2.")


def test_the_session_on_paper_has_every_tick_and_question_and_no_answer(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    pdf = pypdfium2.PdfDocument(teacher.get(f"/lab/sessions/{session_id}/sheet.pdf").data)
    text = " ".join(" ".join(page.get_textpage().get_text_range().split()) for page in pdf)
    for one in TICKS:
        assert (one.text in text) == (not one.flammable), one.id
    call = frozen(app, session_id)
    assert "Suction saturation temperature" in text and "Go ahead (instructor)" in text
    assert call.readings["suction_pressure"].text not in text


def test_the_instructor_enters_a_session_from_paper(app, teacher, typed_rig, people):
    session_id = begun(teacher, typed_rig, people).json["id"]
    desk = Said(teacher, f"/lab/sessions/{session_id}/events")
    work(desk, frozen(app, session_id), {})
    result = desk("end").json["session"]["result"]
    parts = {p["part"]: p for p in result["parts"]}
    assert parts["diagnosis"]["earned"] == parts["diagnosis"]["points"]


def test_a_student_who_is_erased_is_in_no_session_and_the_weights_stay(app, teacher, typed_rig, people):
    bottle = named(cylinder(teacher), "N1")["id"]
    session_id = begun(teacher, typed_rig, people, "Ada Quill", "Bo Fenn").json["id"]
    student = Said(student_of(app, teacher, people), f"/lab/mine/{session_id}/events")
    student("weigh", cylinder_id=bottle, kind="charge", before="25", after="24.5", log="8", began_at=900.0)
    ada = people[1]["Ada Quill"]
    kept = teacher.get(f"/apprentices/{ada}/data").json["lab_sessions"]
    assert [e["kind"] for e in kept[0]["events"]] == ["weigh", "weighed"]
    assert teacher.delete(f"/apprentices/{ada}").status_code == 200
    assert teacher.get(f"/lab/sessions/{session_id}").json["people"] == ["Bo Fenn"]
    (move,) = teacher.get("/refrigerant").json["moves"]
    assert move["log"] == "8.0 oz" and "Ada" not in json.dumps(move)
