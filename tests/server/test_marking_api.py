"""Marking through the API: two markers on one pile, an instructor's own mark, rules, a CSV, a rig, late joiners,
feedback.
"""

import pickle
import re
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.server.conftest import SCENARIO, Client, as_key, bodies, build, codes
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.draw.variant import NoVariantError
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import Helpers
from wolfsbane.server.printing.merge import page_count
from wolfsbane.server.services import building, drawing, marking, sheets

RIG = {
    "suction_pressure": 128,
    "head_pressure": 418,
    "suction_line": 57,
    "liquid_line": 107,
    "return_db": 78,
    "return_wb": 65.5,
    "outdoor_db": 93,
}


# two markers
# ---------------------------------------------------------------------------


def test_two_markers_on_one_call_keep_each_others_work(app, teacher, helper, sheet):
    code = codes(teacher, sheet)[0]
    right = as_key(app, code)
    half = {q: right[q] for q in list(right)[:10]}
    rest = {q: right[q] for q in list(right)[10:]}
    nothing_seen = dict.fromkeys(right, 0)
    assert (
        teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": half, "base": nothing_seen}).json["calls"][0][
            "earned"
        ]
        >= 10
    )
    done = helper.put(f"/papers/{code}/answers", {"call": 1, "answers": rest, "base": nothing_seen}).json["calls"][0]
    assert (done["earned"], done["possible"]) == (33, 33)
    assert {q["writer"] for q in done["questions"]} == {"Teacher", "Helper"}


def test_an_answer_somebody_else_changed_meanwhile_is_not_overwritten_unasked(app, teacher, helper, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, superheat="11")})
    reply = helper.put(
        f"/papers/{code}/answers",
        {"call": 1, "answers": {"superheat": "12", "ctoa": "3"}, "base": {"superheat": 0, "ctoa": 1}},
    )
    assert (
        reply.status_code == 409
        and reply.json["error"]["field"] == "superheat"
        and "“11”" in reply.json["error"]["message"]
    )
    now = {q["id"]: q for q in teacher.get(f"/papers/{code}").json["calls"][0]["questions"]}
    assert now["superheat"]["raw"] == "11" and now["ctoa"]["raw"] != "3" and now["superheat"]["revision"] == 1
    after = helper.put(
        f"/papers/{code}/answers", {"call": 1, "answers": {"superheat": "12"}, "base": {"superheat": 1}}
    ).json
    assert next(q for q in after["calls"][0]["questions"] if q["id"] == "superheat") | {"key": ""} == now[
        "superheat"
    ] | {"raw": "12", "revision": 2, "writer": "Helper", "key": ""}


def test_the_same_answer_typed_twice_is_no_quarrel(app, teacher, helper, sheet):
    code = codes(teacher, sheet)[0]
    right = as_key(app, code)
    for client in (teacher, helper):
        assert (
            client.put(
                f"/papers/{code}/answers", {"call": 1, "answers": right, "base": dict.fromkeys(right, 0)}
            ).status_code
            == 200
        )


def test_a_code_is_taken_as_typed_or_as_a_scanner_types_it(teacher, sheet):
    code = codes(teacher, sheet)[0]
    for typed in (code.lower(), f"{code[:3]} {code[3:]}", f"WB:{code}"):
        assert teacher.get(f"/papers/{typed}").json["code"] == code
    swapped = ("C" if code[0] != "C" else "D") + code[1:]
    assert teacher.get(f"/papers/{swapped}").status_code == 422


# an instructor's own mark
# ---------------------------------------------------------------------------


def test_an_own_mark_needs_a_reason_stands_against_the_rubric_and_can_be_taken_back(app, teacher, helper, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, ctoa="")})

    def put(earned, reason=""):
        return teacher.put(
            f"/papers/{code}/override", {"call": 1, "question": "ctoa", "earned": earned, "reason": reason}
        )

    assert put(1).status_code == 422 and put(1).json["error"]["field"] == "reason"
    assert put(7, "x").json["error"]["field"] == "earned"
    assert put(1, "his dial was smudged").json["calls"][0]["earned"] == 33
    # Typing the paper again leaves it standing.
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": {"superheat": "99"}})
    mark = next(m for m in teacher.get(f"/papers/{code}").json["calls"][0]["marks"] if m["question"] == "ctoa")
    assert mark["overridden"] and mark["earned"] == 1 and "smudged" in mark["text"]
    assert next(m for m in put(None).json["calls"][0]["marks"] if m["question"] == "ctoa")["earned"] == 0
    assert (
        helper.put(f"/papers/{code}/override", {"call": 1, "question": "ctoa", "earned": 1, "reason": "x"}).status_code
        == 403
    )
    said = [
        (e["action"], e["question_id"], e["reason"])
        for e in teacher.get(f"/sheets/{sheet['id']}/audit").json["entries"]
    ]
    assert ("override", "ctoa", "his dial was smudged") in said and ("override taken back", "ctoa", "") in said


def test_free_text_earns_nothing_until_it_is_confirmed(app, teacher, mixed):
    code = codes(teacher, mixed)[0]
    key = bodies(app, code)[2].key
    words = f"subcooling {key.figures['subcooling']:.0f} is low, superheat {key.figures['superheat']:.0f}".replace(
        "-0 ", "0 "
    )
    done = teacher.put(f"/papers/{code}/answers", {"call": 3, "answers": as_key(app, code, 3, because=words)}).json[
        "calls"
    ][2]
    mark = next(m for m in done["marks"] if m["question"] == "because")
    assert (mark["earned"], mark["suggested"], mark["code"]) == (0, 2, "to_confirm") and done["earned"] == 31
    assert teacher.get(f"/sheets/{mixed['id']}/results").json["rows"][0]["to_confirm"] == 1
    done = teacher.put(f"/papers/{code}/override", {"call": 3, "question": "because", "earned": 2, "reason": ""}).json[
        "calls"
    ][2]
    assert done["earned"] == 33 and next(m for m in done["marks"] if m["question"] == "because")["code"] == "confirmed"


# rules
# ---------------------------------------------------------------------------


def not_open(*calls):
    """A fault that is offered and wrong on every one of these calls, whatever the sheet drew."""
    offered = set.intersection(*({c.id for c in call.choices.fault} for call in calls))
    right = {"none", *(f for call in calls for f in (*call.key.named, *call.key.also_open))}
    return sorted(offered - right)[0]


def test_a_changed_rule_shows_who_moves_and_moves_nobody_before_it_is_confirmed(app, teacher, sheet):
    first, second = codes(teacher, sheet)[:2]
    third = codes(teacher, sheet)[2]
    other = not_open(bodies(app, first)[0], bodies(app, third)[0])
    wrong = bodies(app, first)[0].choices.letter("fault", other)
    teacher.put(f"/papers/{first}/answers", {"call": 1, "answers": as_key(app, first, fault=wrong)})
    teacher.put(f"/papers/{second}/answers", {"call": 1, "answers": as_key(app, second)})
    body = {"position": 1, "rules": {"accept": {"fault": [other]}}}
    shown = teacher.put(f"/sheets/{sheet['id']}/rules", body).json
    # A plan for a fault that is accepted counts as well.
    move = shown["moves"][0]
    assert (move["code"], move["before"], move["after"], len(shown["moves"])) == (first, 15, 33, 1)
    assert {"fault", "action", "amount", "order"} < {c["question"] for c in move["changes"]}
    assert teacher.get(f"/papers/{first}").json["earned"] == 15
    assert teacher.put(f"/sheets/{sheet['id']}/rules", body | {"confirmed": True}).json["error"]["field"] == "reason"
    teacher.put(f"/sheets/{sheet['id']}/rules", body | {"confirmed": True, "reason": "the plate was unreadable"})
    assert [teacher.get(f"/papers/{c}").json["earned"] for c in (first, second)] == [33, 33]
    again = teacher.put(f"/sheets/{sheet['id']}/rules", body).json
    assert again["moves"] == []
    entries = teacher.get(f"/sheets/{sheet['id']}/audit").json["entries"]
    moved = next(e for e in entries if e["action"] == "re-marked")
    assert (moved["code"], moved["before"]["earned"], moved["after"]["earned"], moved["reason"]) == (
        first,
        15,
        33,
        "the plate was unreadable",
    )
    # What is marked from now on is marked by the rule.
    third = codes(teacher, sheet)[2]
    letter = bodies(app, third)[0].choices.letter("fault", other)
    assert (
        teacher.put(f"/papers/{third}/answers", {"call": 1, "answers": as_key(app, third, fault=letter)}).json["earned"]
        == 33
    )


def test_a_rule_that_changes_while_somebody_marks_waits_and_then_moves_them_too(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    other_fault = not_open(bodies(app, code)[0])
    wrong = bodies(app, code)[0].choices.letter("fault", other_fault)
    rule = {
        "position": 1,
        "rules": {"accept": {"fault": [other_fault]}},
        "confirmed": True,
        "reason": "the plate was unreadable",
    }
    with ThreadPoolExecutor(1) as other:
        with database_of(app).transaction() as connection:
            user = queries.user_by_login(connection, login="teacher", school_id=1)
            paper = marking.paper_by_code(connection, user["school_id"], code)
            marking.enter_answers(connection, user, paper, 1, as_key(app, code, fault=wrong))
            changing = other.submit(teacher.put, f"/sheets/{sheet['id']}/rules", rule)
            waiting = (
                "select count(*) as n from pg_stat_activity where wait_event_type = 'Lock' and datname ="
                " current_database()"
            )
            wait(lambda: connection.execute(waiting).fetchone()["n"] == 1)
            assert not changing.done()
        assert [m["code"] for m in changing.result(30).json["moves"]] == [code]
    assert teacher.get(f"/papers/{code}").json["earned"] == 33


def wait(what, seconds=600):
    end = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end, "waited in vain"
        time.sleep(0.05)


def test_a_question_taken_out_counts_for_nobody(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, order="")})
    teacher.put(
        f"/sheets/{sheet['id']}/rules",
        {"position": 1, "rules": {"void": ["order"]}, "confirmed": True, "reason": "misprint"},
    )
    call = teacher.get(f"/papers/{code}").json["calls"][0]
    assert (call["earned"], call["possible"]) == (29, 29)


# CSV
# ---------------------------------------------------------------------------


def test_answers_are_read_from_a_csv_all_or_none(app, teacher, sheet):
    lines = ["Code, Call, Question, Answer"]
    for code in codes(teacher, sheet):
        lines += [f'{code},1,{q},"{raw}"' for q, raw in as_key(app, code).items()]
    good = "\n".join(lines)
    reply = teacher.post(f"/sheets/{sheet['id']}/answers", {"text": good + "\nZZZZZZ,1,ctoa,3"})
    assert reply.status_code == 422 and f"line {len(lines) + 1}" in reply.json["error"]["message"]
    assert not any(r["marked"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"])
    assert teacher.post(f"/sheets/{sheet['id']}/answers", {"text": good}).json == {
        "papers": 3,
        "answers": 60,
        "not_understood": [],
    }
    assert [r["earned"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]] == [33, 33, 33]


def test_what_a_csv_says_twice_is_said_back_and_kept(app, teacher, sheet):
    """Nothing typed becomes a silent zero: a range and a word are kept as written, and named at once."""
    code = codes(teacher, sheet)[0]
    text = f'code,call,question,answer\n{code},1,superheat,10-12\n{code},1,ctoa,"about ten"\n{code},1,subcooling,9.'
    told = teacher.post(f"/sheets/{sheet['id']}/answers", {"text": text}).json["not_understood"]
    assert {(row["question"], row["call"]) for row in told} == {("superheat", 1), ("ctoa", 1)}
    assert "10 to 12" in next(row["said"] for row in told if row["question"] == "superheat")
    kept = {q["id"]: q["raw"] for q in teacher.get(f"/papers/{code}").json["calls"][0]["questions"]}
    assert kept["superheat"] == "10-12" and kept["ctoa"] == "about ten"


def test_the_preview_says_what_guessing_earns(teacher, sheet):
    told = teacher.get(f"/sheets/{sheet['id']}/preview").json
    assert told["pages"] >= 2 and 0 <= told["guessing"] <= 0.25 and told["over"] == []


def test_the_csv_that_is_written_can_be_read_in_again(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, ctoa="-3", subcooling_verdict="=")})
    text = teacher.get(f"/sheets/{sheet['id']}/marks.csv").text
    before = teacher.get(f"/papers/{code}").json
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": {"ctoa": "7"}})
    kept = "\n".join(
        line
        for line in text.splitlines()
        if line.startswith(("code", f"{code},")) and not re.match(rf"{code},[^,]*,1,2,", line)
    )
    assert teacher.post(f"/sheets/{sheet['id']}/answers", {"text": kept}).status_code == 200
    now = teacher.get(f"/papers/{code}").json
    assert [q["raw"] for q in now["calls"][0]["questions"]] == [q["raw"] for q in before["calls"][0]["questions"]]


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("", "first line"),
        ("a,b\n1,2", "first line"),
        ("code,call,question,answer\nX,one,ctoa,3", "call by its number"),
        ("code,call,question,answer\nX,²,ctoa,3", "call by its number"),
        ("code,call,question,answer\nX,1,ctoa,3\x00", "zero bytes"),
        ('code,call,question,answer\nX,1,ctoa,"' + "a" * 140_000, "closed quotes"),
        ("code,call,question,answer\rX,1,ctoa,3", "six characters"),
    ],
)
def test_a_csv_that_cannot_be_read_says_why(teacher, sheet, text, word):
    reply = teacher.post(f"/sheets/{sheet['id']}/answers", {"text": text})
    assert reply.status_code == 422 and word in reply.json["error"]["message"]


# a rig
# ---------------------------------------------------------------------------


def test_a_rig_call_is_kept_unmarked_until_the_rig_is_read_and_then_everybody_is_marked(app, teacher, mixed):
    first, second, _ = codes(teacher, mixed)
    seen = teacher.get(f"/sheets/{mixed['id']}/measurements/2").json
    assert (
        [r["key"] for r in seen["rows"]][:2] == ["suction_pressure", "head_pressure"]
        and seen["card"][0]["undo"]
        and seen["entered_at"] is None
    )
    done = teacher.put(f"/papers/{first}/answers", {"call": 2, "answers": as_key(app, first, 2)}).json["calls"][1]
    assert done["waits"] and done["answered"] and done["marks"] == []
    shown = teacher.put(f"/sheets/{mixed['id']}/measurements/2", {"readings": RIG | {"head_pressure": 520}}).json
    assert any("far from the model" in w for w in shown["warnings"]) and [m["code"] for m in shown["moves"]] == [first]
    assert teacher.get(f"/papers/{first}").json["calls"][1]["marks"] == []
    shown = teacher.put(f"/sheets/{mixed['id']}/measurements/2", {"readings": RIG, "confirmed": True}).json
    assert shown["warnings"] == [] and shown["moves"][0]["before"] is None
    call = teacher.get(f"/papers/{first}").json["calls"][1]
    assert call["measured"] and call["earned"] > 20 and call["possible"] == 48
    # The next paper is marked against the rig at once; all as key then earns everything.
    key = {q["id"]: q["key"] for q in teacher.get(f"/papers/{second}").json["calls"][1]["questions"]}
    assert key["read_head_pressure"] == "418"
    assert teacher.put(f"/papers/{second}/answers", {"call": 2, "answers": key}).json["calls"][1]["earned"] == 48
    assert "rig read" in [e["action"] for e in teacher.get(f"/sheets/{mixed['id']}/audit").json["entries"]]


def test_measuring_what_is_no_rig_or_leaving_a_reading_out_is_named(teacher, mixed):
    def put(position, readings):
        return teacher.put(f"/sheets/{mixed['id']}/measurements/{position}", {"readings": readings}).json["error"][
            "field"
        ]

    assert put(1, RIG) == "position" and put(9, RIG) == "position" and put(2, {}) == "readings.suction_pressure"
    assert put(2, RIG | {"head_pressure": 4000}) == "readings.head_pressure"


# papers
# ---------------------------------------------------------------------------


def test_a_late_joiner_gets_a_paper_and_a_retake_has_other_numbers(app, teacher, sheet):
    class_id = sheet["class_id"]
    late = teacher.post(f"/classes/{class_id}/apprentices", {"people": [{"name": "Dot Hale"}]}).json["people"][-1]
    code = teacher.post(f"/sheets/{sheet['id']}/papers", {"apprentice_id": late["id"]}).json["code"]
    again = teacher.post(f"/sheets/{sheet['id']}/papers", {"apprentice_id": late["id"]}).json["code"]
    assert code != again and teacher.get(f"/papers/{again}").json["attempt"] == 2
    drawn = [str(b.readings) for c in (*codes(teacher, sheet),) for b in bodies(app, c)]
    assert len(drawn) == len(set(drawn)) == 10
    for one in (code, again):
        teacher.put(
            f"/papers/{one}/answers", {"call": 1, "answers": as_key(app, one, **({"ctoa": ""} if one == code else {}))}
        )
    rows = {r["code"]: r["earned"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]}
    assert (rows[code], rows[again]) == (32, 33)
    header, table = (teacher.get(f"/classes/{class_id}/gradebook").json[k] for k in ("header", "rows"))
    assert next(r for r in table if r[1] == "Dot Hale")[3:5] == [33, 66] and header[3] == "Friday"
    stranger_id = teacher.post("/classes", {"name": "Others", "apprentices": ["Eve Tarn"]}).json["people"][0]["id"]
    assert (
        teacher.post(f"/sheets/{sheet['id']}/papers", {"apprentice_id": stranger_id}).json["error"]["field"]
        == "apprentice_id"
    )


def test_a_lost_paper_is_printed_again_as_it_was(teacher, sheet):
    code = codes(teacher, sheet)[1]
    reply = teacher.get(f"/papers/{code}/print")
    assert reply.mimetype == "application/pdf" and reply.data[:5] == b"%PDF-"
    assert "reprinted" in [e["action"] for e in teacher.get(f"/sheets/{sheet['id']}/audit").json["entries"]]


def test_a_draft_is_changed_previewed_and_issued_with_the_very_numbers_it_showed(app, teacher):
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO).json["id"]
    draft = teacher.post("/sheets", {"title": "Draft", "class_id": class_id, "items": [], "draft": True}).json
    assert draft["status"] == "draft" and teacher.get(f"/sheets/{draft['id']}/preview").status_code == 409
    assert teacher.post(f"/sheets/{draft['id']}/issue", {}).json["error"]["field"] == "items"
    items = [{"kind": "scenario", "scenario_id": scenario_id, "asked": {"instruments": "digital"}}]
    changed = teacher.put(
        f"/sheets/{draft['id']}", {"title": "Draft two", "class_id": class_id, "items": items, "paper": "A4"}
    ).json
    assert changed["title"] == "Draft two" and changed["items"][0]["data"]["asked"]["instruments"] == "digital"
    assert teacher.get(f"/sheets/{draft['id']}/preview").json["pages"] == 2
    both = [*items, {"kind": "drill", "drill": "conversion", "items": 3, "brief": {"title": "x"}}, *items]
    of_three = {"title": "Part 1 of 3 · call 2 of 3", "class_id": class_id, "items": both, "paper": "A4"}
    assert teacher.put(f"/sheets/{draft['id']}", of_three).status_code == 200
    told = teacher.get(f"/sheets/{draft['id']}/preview").json
    assert (told["pages"], told["starts"]) == (5, [1, 3, 4])
    page = teacher.get(f"/sheets/{draft['id']}/preview/1.png")
    assert (
        page.mimetype == "image/png"
        and page.data[1:4] == b"PNG"
        and teacher.get(f"/sheets/{draft['id']}/preview/9.png").status_code == 404
    )
    with database_of(app).transaction() as connection:
        shown = connection.execute("select pdf from documents where kind = 'preview'").fetchone()["pdf"]
    assert teacher.post(f"/sheets/{draft['id']}/issue", {}).json["status"] == "queued"
    build(app, draft["id"])
    code = codes(teacher, draft)[0]
    from tests.server.test_printing import tool

    text = tool("pdftotext", "-layout", "-", "-", data=bytes(shown)).decode()
    assert all(
        bodies(app, code)[0].readings[key].text in text
        for key in ("suction_pressure", "head_pressure", "suction_line", "outdoor_db")
    )
    assert teacher.put(f"/sheets/{draft['id']}", {"title": "x", "class_id": class_id, "items": []}).status_code == 409
    assert teacher.delete(f"/sheets/{draft['id']}").status_code == 409


def test_a_sheet_is_cancelled_while_it_is_drawn_and_can_be_issued_after_all(app, teacher, monkeypatch):

    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["A B", "C D", "E F"]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO).json["id"]
    made = teacher.post("/sheets", {"title": "Cut short", "class_id": class_id, "scenario_ids": [scenario_id]}).json
    true, drawn = drawing.draw, []

    def draw(work):
        drawn.append(work)
        if len(drawn) == 2:
            assert teacher.post(f"/sheets/{made['id']}/cancel", {}).json["status"] == "cancelling"
        return true(work)

    monkeypatch.setattr(drawing, "draw", draw)
    build(app, made["id"])
    assert (
        len(drawn) == 2
        and teacher.get(f"/sheets/{made['id']}").json["status"] == "cancelled"
        and codes(teacher, made) == []
    )
    monkeypatch.setattr(drawing, "draw", true)
    assert teacher.post(f"/sheets/{made['id']}/issue", {}).json["status"] == "queued"
    build(app, made["id"])
    assert teacher.get(f"/sheets/{made['id']}").json["status"] == "ready" and len(codes(teacher, made)) == 3


def test_a_sheet_that_could_not_be_made_is_drawn_anew_and_a_cancelled_one_as_it_was(app, teacher, sheet):
    for status, same in (("cancelled", True), ("failed", False)):
        with database_of(app).transaction() as connection:
            connection.execute("update sheets set status = %s", (status,))
        before = teacher.get(f"/sheets/{sheet['id']}").json["seed"]
        after = teacher.post(f"/sheets/{sheet['id']}/issue", {}).json
        assert after["status"] == "queued" and (after["seed"] == before) == same


@pytest.mark.parametrize(
    "error",
    [
        BadInputError("fault", "x", "one that shows"),
        NoVariantError("Too faint", Counter({"it does not show": 60})),
        NoClassSetError("rung 3"),
        NoConvergenceError({"machine": "m", "attempts": 3, "best_residual": 0.1}),
    ],
    ids=lambda e: type(e).__name__,
)
def test_a_refusal_comes_out_of_a_worker_process_as_it_went_in(error):
    assert isinstance(error, sheets.REFUSED)
    back = pickle.loads(pickle.dumps(error))
    assert type(back) is type(error) and str(back) == str(error) and back.__dict__ == error.__dict__


def test_processes_draw_and_print_the_same_as_one(app, teacher):
    from wolfsbane.server.printing.paper import PRINTERS

    class_id = teacher.post("/classes", {"name": "Many", "apprentices": [f"P {i}" for i in range(12)]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO | {"instruments": "digital"}).json["id"]
    body = {
        "title": "Twins",
        "class_id": class_id,
        "seed": 3,
        "items": [{"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}],
    }
    one, two = (teacher.post("/sheets", body).json for _ in range(2))
    build(app, one["id"])
    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    helpers = Helpers(2)
    building.build(database_of(app), school_id, two["id"], {"packet": PRINTERS["packet"]}, helpers)
    helpers.stop()
    drawn = [[bodies(app, code) for code in codes(teacher, sheet)] for sheet in (one, two)]
    assert drawn[0] == drawn[1]
    assert page_count(teacher.get(f"/sheets/{two['id']}/documents/packet").data) == 12


def print_now(app, sheet_id, *kinds, meanwhile=None):
    """What the worker does with a queued job; ``meanwhile(n)`` runs before the n-th piece is printed."""
    from wolfsbane.server.services import documents

    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    pieces = []

    def watched(printer):
        def printed(sheet, papers, progress):
            pieces.append(len(papers))
            if meanwhile:
                meanwhile(len(pieces))
            return printer(sheet, papers, progress)

        return printed

    jobs = documents.wanted(school_id, sheet_id, kinds)
    building.print_again(
        database_of(app),
        school_id,
        sheet_id,
        {kind: (watched(printer), papers) for kind, (printer, papers) in jobs.items()},
    )
    return pieces


def test_a_large_packet_is_printed_in_the_background_and_then_at_hand(app, teacher, helper, many):
    path = f"/sheets/{many['id']}"
    assert many["at_hand"] == [] and teacher.get(f"{path}/documents/packet").json["error"]["code"] == "not_printed"
    assert helper.post(f"{path}/print", {"kinds": ["packet"]}).status_code == 403
    assert teacher.post(f"{path}/print", {"kinds": ["packet", "packet"]}).json["printing"] == "on"
    assert teacher.post(f"{path}/print", {"kinds": ["key"]}).status_code == 409
    print_now(app, many["id"], "packet")
    row = teacher.get(path).json
    assert (row["printing"], row["at_hand"]) == (None, ["packet"])
    assert page_count(teacher.get(f"{path}/documents/packet").data) == 13


def test_printing_in_the_background_can_be_stopped(app, teacher, many, monkeypatch):
    monkeypatch.setattr(building, "_CALLS_AT_ONCE", 3)
    path = f"/sheets/{many['id']}"
    teacher.post(f"{path}/print", {"kinds": ["key"]})
    pieces = print_now(app, many["id"], "key", meanwhile=lambda n: n == 2 and teacher.post(f"{path}/print/stop", {}))
    row = teacher.get(path).json
    assert len(pieces) == 2 and (row["status"], row["printing"], row["at_hand"]) == ("ready", None, [])


def test_somebody_erased_while_their_class_is_printed_is_on_no_page(app, teacher, many, monkeypatch):
    monkeypatch.setattr(building, "_CALLS_AT_ONCE", 3)
    person = teacher.get(f"/classes/{many['class_id']}").json["people"][0]
    teacher.post(f"/sheets/{many['id']}/print", {"kinds": ["packet"]})
    print_now(app, many["id"], "packet", meanwhile=lambda n: n == 3 and teacher.delete(f"/apprentices/{person['id']}"))
    pdf = teacher.get(f"/sheets/{many['id']}/documents/packet").data
    assert page_count(pdf) == 12


def test_feedback_of_a_class_is_at_hand_until_something_is_marked_again(app, teacher, many):
    path, two = f"/sheets/{many['id']}", codes(teacher, many)[:2]
    for code in two:
        teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code)})
    teacher.post(f"{path}/print", {"kinds": ["feedback"]})
    print_now(app, many["id"], "feedback")
    assert (
        teacher.get(path).json["at_hand"] == ["feedback"]
        and page_count(teacher.get(f"{path}/documents/feedback").data) == 2
    )

    # What is marked while it prints is not on it: it does not count as printed then.
    def again(n):
        return teacher.put(f"/papers/{two[1]}/answers", {"call": 1, "answers": as_key(app, two[1], target="")})

    teacher.post(f"{path}/print", {"kinds": ["feedback"]})
    print_now(app, many["id"], "feedback", meanwhile=again)
    assert teacher.get(path).json["at_hand"] == []
    teacher.post(f"{path}/print", {"kinds": ["feedback"]})
    print_now(app, many["id"], "feedback")
    assert teacher.get(path).json["at_hand"] == ["feedback"]
    teacher.put(f"/papers/{two[0]}/answers", {"call": 1, "answers": as_key(app, two[0], fault="")})
    assert teacher.get(path).json["at_hand"] == [] and teacher.get(f"{path}/documents/feedback").status_code == 409


# feedback
# ---------------------------------------------------------------------------


def test_an_apprentice_sees_their_own_feedback_once_it_is_released_and_nobody_elses(app, teacher, sheet):
    people = teacher.get(f"/classes/{sheet['class_id']}").json["people"]
    mine, other = codes(teacher, sheet)[:2]
    assert (
        teacher.post(
            f"/apprentices/{people[0]['id']}/login", {"login": "ada", "password": "right-and-long"}
        ).status_code
        == 200
    )
    for code in (mine, other):
        teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, ctoa="")})
    ada = Client(app).choose("ada", "right-and-long", "tanager-pleat-7")
    assert ada.get("/mine").json["papers"] == [] and ada.get(f"/mine/{mine}").status_code == 404
    teacher.put(f"/sheets/{sheet['id']}/release", {"released": True})
    assert [p["code"] for p in ada.get("/mine").json["papers"]] == [mine]
    told = ada.get(f"/mine/{mine}").json
    assert told["earned"] == 32 and "expected" in str(told["calls"]) and told["next"]["level"]
    assert ada.get(f"/mine/{other}").status_code == 404
    for path in (
        f"/papers/{mine}",
        f"/papers/{mine}/feedback",
        f"/sheets/{sheet['id']}/results",
        f"/sheets/{sheet['id']}/documents/key",
        f"/apprentices/{people[1]['id']}/results",
    ):
        assert ada.get(path).status_code == 403, path
    teacher.put(f"/sheets/{sheet['id']}/release", {"released": False})
    assert ada.get(f"/mine/{mine}").status_code == 404


def test_the_next_call_is_suggested_from_the_library(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    assert teacher.get(f"/papers/{code}/feedback").json["next"]["reason"].startswith("No marked paper")
    for position in (1, 2):
        teacher.put(f"/papers/{code}/answers", {"call": position, "answers": as_key(app, code, position)})
    person = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["apprentice_id"]
    found = teacher.get(f"/apprentices/{person}/results").json["next"]
    assert "one level up" in found["reason"].lower() and {s["title"] for s in found["scenarios"]} <= {
        "Runs all afternoon",
        "No air",
    }
