"""Cylinders and the refrigerant log: weighed, refused with a caution, explained, closed, printed."""

import csv
import io

import pypdfium2
import pytest

from tests.server.conftest import database_of


@pytest.fixture
def rig(teacher):
    made = teacher.post("/rigs", {"rig": {"schema": 1, "name": "Rig A", "machine": "split-3t-r410a-txv"}})
    return made.json["row"]["id"]


def cylinder(teacher, **more):
    body = {"name": "N1", "kind": "new", "refrigerant": "R-410A", "tare": "8.6", "water": "29.4", "gross": "25"} | more
    return teacher.post("/cylinders", body)


def named(reply, name):
    return next(c for c in reply.json["cylinders"] if c["name"] == name)


@pytest.fixture
def pair(teacher):
    """(a new cylinder, a recovery cylinder), numbers of both."""
    new = named(cylinder(teacher), "N1")["id"]
    more = {"name": "R1", "kind": "recovery", "refrigerant": "", "tare": "16 lb 10 oz", "water": "26.2", "gross": ""}
    return new, named(cylinder(teacher, **more), "R1")["id"]


def move(teacher, kind, cylinder_id, log, before, after, **more):
    body = {"kind": kind, "cylinder_id": cylinder_id, "log": log, "before": before, "after": after} | more
    return teacher.post("/refrigerant/moves", body)


def test_a_cylinder_is_entered_as_it_is_stamped_and_says_what_it_may_hold(teacher, stranger):
    made = cylinder(teacher, retest_on="2020-01-01", owner="School")
    row = named(made, "N1")
    assert made.status_code == 201 and row["net"] == "16 lb 6.4 oz" and row["tare"] == "8 lb 9.6 oz"
    assert row["limit"].startswith("24 lb ") and 0.6 < row["share"] < 0.7 and "Past its test date" in row["notes"][0]
    si = teacher.get("/refrigerant?units=si").json["cylinders"][0]
    assert si["net"] == "7.439 kg" and stranger.get("/refrigerant").json["cylinders"] == []
    assert cylinder(teacher).json["error"]["code"] == "taken"


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"refrigerant": "R-999"}, "refrigerant"),
        ({"refrigerant": ""}, "refrigerant"),
        ({"tare": "heavy"}, "tare"),
        ({"water": "0.1"}, "water"),
        ({"gross": "3"}, "gross"),
        ({"gross": "60"}, "gross"),
    ],
)
def test_a_cylinder_that_cannot_be_is_refused_with_its_field(teacher, wrong, field):
    reply = cylinder(teacher, **wrong)
    assert reply.status_code == 422 and reply.json["error"]["field"] == field, reply.json


def test_charge_and_recover_are_weighed_written_down_and_balanced(teacher, helper, pair, rig):
    new, recovery = pair
    first = move(helper, "charge", new, "12 oz", "25", "24 lb 4 oz", rig_id=rig, person="Ada Quill", why="short")
    assert first.status_code == 201, first.json
    (row,) = first.json["moves"]
    assert (row["log"], row["weighed"], row["differences"]) == ("12.0 oz", "12.0 oz", [])
    assert row["text"] == "charged into Rig A" and row["person"] == "Ada Quill"
    back = move(teacher, "recover", recovery, "5 oz", "16 lb 10 oz", "16 lb 15 oz", rig_id=rig)
    assert named(back, "R1")["refrigerant"] == "R-410A" and named(back, "N1")["gross"] == "24 lb 4.0 oz"
    (of_rig,) = back.json["by_rig"]
    assert (of_rig["charge"], of_rig["recover"], of_rig["net"]) == ("12.0 oz", "5.0 oz", "7.0 oz")


def test_what_must_not_be_done_is_refused_with_its_caution_and_nothing_is_written(teacher, pair, rig):
    new, recovery = pair
    refused = move(teacher, "recover", new, "5 oz", "25", "25 lb 5 oz", rig_id=rig)
    assert refused.status_code == 422 and "never filled again" in refused.json["error"]["message"]
    wrong = named(cylinder(teacher, name="N2", refrigerant="R-22"), "N2")["id"]
    mixed = move(teacher, "charge", wrong, "5 oz", "25", "24 lb 11 oz", rig_id=rig)
    assert mixed.json["error"]["field"] == "cylinder_id" and "Never mix" in mixed.json["error"]["message"]
    full = move(teacher, "recover", recovery, "26", "16 lb 10 oz", "42 lb 10 oz", rig_id=rig)
    assert full.json["error"]["field"] == "log" and "80 %" in full.json["error"]["message"]
    assert move(teacher, "charge", new, "5 oz", "25", "24 lb 11 oz").json["error"]["field"] == "rig_id"
    assert move(teacher, "charge", 999_999, "5 oz", "25", "24", rig_id=rig).json["error"]["field"] == "cylinder_id"
    assert (
        teacher.get("/refrigerant").json["moves"] == []
        and named(teacher.get("/refrigerant"), "N1")["gross"] == "25 lb 0.0 oz"
    )
    done = move(teacher, "charge", wrong, "5 oz", "25", "24 lb 11 oz", rig_id=rig, happened=True)
    (difference,) = done.json["moves"][0]["differences"]
    assert "done anyway" in difference["text"] and "Never mix" in difference["causes"][0]


def test_a_difference_has_to_be_explained_before_the_day_closes(teacher, helper, pair, rig):
    new, _ = pair
    made = move(teacher, "charge", new, "12 oz", "25", "24 lb 2 oz", rig_id=rig, scale="13 oz")
    (row,) = made.json["moves"]
    assert [d["text"] for d in row["differences"]] == ["cylinder and log: 2.0 oz"] and row["differences"][0]["causes"]
    today = made.json["today"]
    still_open = teacher.post("/refrigerant/close", {"day": today})
    assert still_open.status_code == 422 and "N1 charged into Rig A" in still_open.json["error"]["message"]
    path = f"/refrigerant/moves/{row['id']}/explained"
    assert helper.put(path, {"explained": "left in the hoses"}).status_code == 403
    assert teacher.put(path, {"explained": "left in the hoses"}).json["moves"][0]["explained_by"]
    assert teacher.put("/refrigerant/moves/999999/explained", {"explained": "nothing"}).status_code == 404
    assert [d["day"] for d in teacher.post("/refrigerant/close", {"day": today}).json["days"]] == [today]
    assert teacher.post("/refrigerant/close", {"day": today}).status_code == 409
    assert teacher.post("/refrigerant/close", {"day": "2199-01-01"}).json["error"]["field"] == "day"
    assert move(teacher, "charge", new, "1 oz", "24", "23 lb 15 oz", rig_id=rig).status_code == 409


def test_a_transfer_weighs_both_and_a_second_weighing_of_the_other_agrees(teacher, pair):
    _, recovery = pair
    more = {"name": "R2", "kind": "recovery", "tare": "16.6", "water": "26.2", "gross": "20"}
    other = named(cylinder(teacher, **more), "R2")["id"]
    moved = move(teacher, "transfer", other, "1 lb", "20", "19", other_id=recovery)
    assert moved.status_code == 201, moved.json
    assert named(moved, "R1")["gross"] == "17 lb 10.0 oz" and named(moved, "R1")["refrigerant"] == "R-410A"
    swapped = move(teacher, "returned", other, "1 lb", "17 lb 10 oz", "16 lb 10 oz")
    assert "cylinders swapped: R1" in swapped.json["moves"][0]["differences"][0]["causes"][0]


def text_of(pdf):
    document = pypdfium2.PdfDocument(pdf)
    return " ".join(" ".join(page.get_textpage().get_text_bounded().split()) for page in document)


def test_the_log_is_printed_and_sent_as_csv_and_runs_no_formula(teacher, pair, rig):
    new, _ = pair
    why = '-2+3+cmd|" /C calc"!A0'
    move(teacher, "charge", new, "12 oz", "25", "24 lb 2 oz", rig_id=rig, person="=1+1", why=why)
    rows = list(csv.DictReader(io.StringIO(teacher.get("/refrigerant/log.csv").data.decode())))
    assert len(rows) == 1 and rows[0]["log_kg"] == "0.340" and rows[0]["weighed_kg"] == "0.397"
    assert rows[0]["person"] == "'=1+1" and rows[0]["why"] == "'" + why
    told = text_of(teacher.get("/refrigerant/log.pdf").data)
    for words in ("not legal advice", "charged into Rig A", "12.0 oz", "14.0 oz", "Not explained.", "N1", "BY RIG"):
        assert words in told, words
    labels = text_of(teacher.get("/cylinders/labels.pdf").data)
    assert "R1" in labels and "RECOVERY" in labels and "never refill" in labels
    assert teacher.get("/refrigerant?first=2026-01-05&last=2026-01-01").json["error"]["field"] == "first"


def test_names_stay_in_the_log_when_a_cylinder_has_left(app, teacher, pair, rig):
    new, _ = pair
    move(teacher, "charge", new, "12 oz", "25", "24 lb 4 oz", rig_id=rig)
    changed = teacher.put(f"/cylinders/{new}", {"name": "N1 red tag", "retest_on": "2030-01-01"})
    assert named(changed, "N1 red tag")["retest_on"] == "2030-01-01"
    gone = teacher.delete(f"/cylinders/{new}")
    assert [c["name"] for c in gone.json["cylinders"]] == ["R1"] and gone.json["moves"][0]["cylinder"].startswith("N1")
    with database_of(app).transaction() as connection:
        kept = connection.execute("select count(*) as n from refrigerant_moves").fetchone()["n"]
    assert kept == 1
