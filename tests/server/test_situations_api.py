"""Situations on a sheet: issued, printed, keyed, marked, told and carried out."""

import csv
import io
import zipfile
from xml.etree import ElementTree as Xml

import pytest

from tests.server.conftest import THREE, as_key, bodies, codes, issued
from tests.server.test_printing import SHEET, flat
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.server.exchange.qti import NS
from wolfsbane.server.printing.extras import charts_pdf, feedback_pdf
from wolfsbane.server.printing.paper import key_pdf, packet_pdf


def papers_of(app, teacher, sheet):
    return [
        {"name": name, "code": code, "calls": bodies(app, code)}
        for name, code in zip(THREE, codes(teacher, sheet), strict=True)
    ]


def test_everybody_has_other_numbers_under_the_same_titles(app, teacher, situations):
    assert [i["kind"] for i in situations["items"]] == ["situation"] * 3
    assert [i["level"] for i in situations["items"]] == [
        SITUATIONS[i["data"]["situation"]].level for i in situations["items"]
    ]
    papers = papers_of(app, teacher, situations)
    for position in range(3):
        same = [p["calls"][position] for p in papers]
        assert len({b.title for b in same}) == 1
        assert len({frozen_body.mark_of_copy(b) for b in same}) == 3


def test_the_packet_shows_what_was_seen_and_no_answer(app, teacher, situations):
    papers = papers_of(app, teacher, situations)
    text = flat(packet_pdf(SHEET, papers))
    for body in papers[0]["calls"]:
        assert body.title.upper() in text.upper() and body.machine.name[:16].upper() in text.upper()
        assert all(q.text.split(",")[0][:16].upper() in text.upper() for q in body.questions)
        assert all(line not in text for line in (*body.key.told, *(c.text for c in body.key.claims), body.key.hazard))
    large = flat(packet_pdf(SHEET | {"large": True}, papers[:1]))
    assert papers[0]["calls"][2].tables[0].title.split("(")[0].strip().upper() in large.upper()


def test_the_key_prints_every_answer_and_what_was_proved(app, teacher, situations):
    papers = papers_of(app, teacher, situations)
    text = flat(key_pdf(SHEET, papers))
    for paper in papers:
        for body in paper["calls"]:
            answers = frozen_body.key_answers(body)
            assert all(answers[q].replace("-", "−") in text for q in body.key.numbers)
            assert body.key.claims[0].text[:40] in text and body.key.hazard[:40] in text
    assert charts_pdf(SHEET, papers[0]["calls"]) is not None


def test_marks_reasons_and_files_come_out_as_of_any_call(app, teacher, situations):
    code = codes(teacher, situations)[0]
    for position in (1, 2, 3):
        changed = {"do": ""} if position == 2 else {}
        reply = teacher.put(
            f"/papers/{code}/answers", {"call": position, "answers": as_key(app, code, position, **changed)}
        )
        assert reply.status_code == 200
    paper = teacher.get(f"/papers/{code}").json
    marked = paper["calls"]
    assert [c["earned"] == c["possible"] for c in marked] == [True, False, True]
    heads = list(marked[0]["choices"])
    assert len(heads) == 2 and heads[0].split(" · ")[0] < heads[1].split(" · ")[0]
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"/sheets/{situations['id']}/marks.csv").text)))
    own = [r for r in rows if r["code"] == code]
    assert {r["question"] for r in own} >= {"saturation", "over_air", "what", "do", "target", "should"}
    assert any(r["reason"].startswith("Right") for r in own) and any(r["answer"] == "" for r in own)
    told = teacher.get(f"/papers/{code}/feedback").json
    pdf = feedback_pdf(SHEET, [(told, None)])
    assert "Left blank" in flat(pdf)
    results = teacher.get(f"/sheets/{situations['id']}/results").json
    assert results["rows"][0]["earned"] > 0
    assert all("Drill" not in miss["text"] for miss in results["misses"])


def test_a_class_over_the_term_counts_a_situation_as_a_skill(app, teacher, situations):
    code = codes(teacher, situations)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, 1)})
    found = teacher.get(f"/classes/{situations['class_id']}/results")
    assert found.status_code == 200 and "Standing pressure" in found.text


def test_a_rule_counts_another_letter_for_everybody(app, teacher, situations):
    code = codes(teacher, situations)[0]
    body = bodies(app, code)[0]
    other = next(c for c in body.choices["what"] if c.id != body.key.letters["what"].right)
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, 1, what=other.letter)})
    before = teacher.get(f"/papers/{code}").json["calls"][0]["earned"]
    assert before < teacher.get(f"/papers/{code}").json["calls"][0]["possible"]


def test_qti_carries_tables_choices_and_numbers(app, teacher, situations):
    archive = zipfile.ZipFile(io.BytesIO(teacher.get(f"/sheets/{situations['id']}/qti.zip").data))
    code = codes(teacher, situations)[0]
    root = Xml.fromstring(archive.read(f"items/item-{code}-3.xml"))
    body = bodies(app, code)[2]
    cells = [e.text for e in root.iter(f"{{{NS}}}td")]
    assert set(body.tables[0].columns) <= set(cells) and body.tables[0].rows[0][1] in cells
    choices = [e.text for e in root.iter(f"{{{NS}}}simpleChoice")]
    assert {c.text for rows in body.choices.values() for c in rows} == set(choices)


def test_a_late_joiner_gets_a_situation_of_their_own(app, teacher, situations):
    added = teacher.post(f"/classes/{situations['class_id']}/apprentices", {"people": [{"name": "Di Late"}]})
    person = added.json["people"][-1]
    made = teacher.post(f"/sheets/{situations['id']}/papers", {"apprentice_id": person["id"]})
    assert made.status_code in (200, 201), made.json
    marks = {frozen_body.mark_of_copy(bodies(app, code)[0]) for code in codes(teacher, situations)}
    assert len(marks) == len(codes(teacher, situations))


@pytest.mark.parametrize(
    ("item", "field"),
    [
        ({"kind": "situation", "situation": "juggling", "brief": {"title": "x"}}, "items.situation"),
        ({"kind": "situation", "brief": {"title": "x"}}, "items.situation"),
        ({"kind": "situation", "situation": "trips", "brief": {"title": "x", "machines": ["toaster"]}}, "machines"),
    ],
)
def test_what_is_no_situation_is_refused_by_name(app, teacher, item, field):
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    reply = teacher.post("/sheets", {"title": "x", "class_id": class_id, "items": [item]})
    assert reply.status_code == 422 and field in reply.json["error"]["field"]


def test_the_catalogue_lists_them_with_the_machines_they_fit(teacher):
    rows = {r["id"]: r for r in teacher.get("/catalogue").json["situations"]}
    assert list(rows) == list(SITUATIONS)
    assert rows["economizer"]["machines"] == ["package-10t-r410a-two-circuits"] and rows["trips"]["minutes"] == 12


def test_a_machine_of_ones_own_makes_plans_calls_and_situations(app, teacher, stranger):
    plate = {"name": "Yard split", "refrigerant": "R-410A", "metering": "txv", "capacity_btuh": 30000, "ctoa_df": 16}
    teacher.post("/machines", plate | {"subcooling_df": 9})
    own = teacher.get("/machines").json["machines"][0]["id"]
    asked = {"title": "x", "machines": [own], "calls": 1, "levels": [1, 5]}
    plan = teacher.post("/briefs/plan", {"brief": asked | {"fault_free_share": 0}})
    assert plan.status_code == 200 and plan.json["ladder"], plan.json
    refused = stranger.post("/briefs/plan", {"brief": asked})
    assert refused.status_code == 422 and own in refused.json["error"]["message"]
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    row = plan.json["ladder"][0]
    rung = {"number": row["rung"], "level": row["level"], "skill": row["skill"], "skills": row["skills"]}
    items = [
        {"kind": "rung", "brief": asked, "rung": rung},
        {"kind": "situation", "situation": "no_gauges", "brief": {"title": "x", "machines": [own]}},
    ]
    sheet_id = issued(app, teacher, {"title": "Own", "class_id": class_id, "seed": 2, "items": items})
    code = teacher.get(f"/sheets/{sheet_id}/results").json["rows"][0]["code"]
    assert {b.machine.id for b in bodies(app, code)} == {own}
