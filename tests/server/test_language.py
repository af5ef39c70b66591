"""What a student reads in Spanish: everything of a call on screen is in the catalog, numbers and ids stay, and what it
does not have stays English. Whether it is good trade Spanish a test cannot say: it was reviewed by nobody of the trade.
"""

import json
import random
import re
from dataclasses import asdict
from pathlib import Path
from string import Formatter

import polib
import pypdfium2
import pytest

from tests.server.conftest import Client
from tests.server.test_screen import begun, by_robot, opened, student  # noqa: F401
from wolfsbane.acting.actions import ACTIONS
from wolfsbane.cycle import field_tests
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instruments import label, points_for
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.drills import drill
from wolfsbane.exercise.draw.situations.drawing import situation
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.marking.frozen_body import choices_of, grade_body, key_answers, questions_of
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.routes import offered_steps, step_text
from wolfsbane.exercise.plan.brief import DRILLS, brief
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.exercise.screen.lesson import ASKS
from wolfsbane.exercise.screen.live import begun as begun_live
from wolfsbane.exercise.screen.live import step
from wolfsbane.exercise.screen.steps import LOOK_IDS
from wolfsbane.exercise.screen.worked import WORKED, issued, walked
from wolfsbane.server.core.current import database_of
from wolfsbane.server.language import FED_BACK, Catalog, catalog, drawn, said, unknown
from wolfsbane.server.language import __file__ as home
from wolfsbane.server.printing.paper import ON_PAPER, packet_pdf, page_words
from wolfsbane.server.printing.paper_items import packet_item
from wolfsbane.server.services import screen, screen_views, sheets

BOOK = polib.pofile(home.replace("__init__.py", "es.po"))


def test_every_message_keeps_its_names_and_none_is_left_open():
    for entry in BOOK:
        names = [{name for _, name, _, _ in Formatter().parse(text) if name} for text in (entry.msgid, entry.msgstr)]
        assert entry.msgstr and names[1] <= names[0], entry.msgid
        assert entry.msgstr.count("%") == entry.msgid.count("%") - entry.msgid.count("%%"), entry.msgid
    assert len({e.msgid for e in BOOK}) == len(BOOK) > 700


@pytest.mark.parametrize("name", sorted(WORKED))
def test_everything_of_a_worked_call_is_said_in_spanish(name):
    issue = issued(WORKED[name])
    path = walked(issue, WORKED[name])[1]
    rows = [
        {"number": n, "kind": s.kind, "data": s.data, "shown": s.shown.to_json() if s.shown else None}
        for n, s in enumerate(path.steps)
    ]
    live = begun_live(issue.setup)
    shown = []
    for test in field_tests.tests_for(issue.machine):
        kind = ("look", "check") if test.id in LOOK_IDS else ("test", "test")
        shown.append(step(live, kind[0], {kind[1]: test.id}).to_json())
    parts = [
        screen_views.scene(issue, rows),
        screen.judged(issue, path.steps, dict(screen.RUBRIC)),
        {"text": [q.text for q in issue.call.questions], "what": screen_views.RUBRIC_ROWS},
        shown,
    ]
    assert unknown(parts, "es") == set()


def test_every_reading_look_test_action_and_fault_of_every_machine_has_its_words():
    words = [label(p, m) for m in MACHINES.values() for p in points_for(m)]
    words += [t.name for m in MACHINES.values() for t in field_tests.tests_for(m)]
    words += [t.caution for m in MACHINES.values() for t in field_tests.tests_for(m)]
    words += [a.name for a in ACTIONS.values()] + [a.risk for a in ACTIONS.values()]
    words += [f.name for f in FAULTS.values()] + list(ASKS.values())
    assert unknown({"text": words}, "es") == set()


@pytest.mark.parametrize(
    ("english", "spanish"),
    [
        ("118 °F", "118 °F"),
        ("Settled after 32 minutes.", "Se estabilizó a los 32 minutos."),
        ("The hoses take 1.1 oz and purging them 0.1 oz.", "Las mangueras toman 1.1 oz y purgarlas 0.1 oz."),
        ("Read: suction pressure", "Leer: presión de succión"),
        ("Clean, between the rows too. Dry.", "Limpio, también entre hileras. Seco."),
        ("Run 10 to 15 minutes, then read again", "Trabajarlo de 10 a 15 minutos y leer otra vez"),
        ("6 to 14 °F", "6 a 14 °F"),
        ("Turn it to the left", "Turn it to the left"),
        ("Nobody ever wrote this sentence down.", "Nobody ever wrote this sentence down."),
    ],
)
def test_a_text_is_said(english, spanish):
    assert said({"text": english}, "es") == {"text": spanish}
    assert said({"text": english}, "en") == {"text": english}


def test_ids_numbers_and_what_was_typed_stay():
    reply = {"id": "time", "point": "low", "data": {"text": "low"}, "parameters": [{"name": "valve"}], "minutes": 3}
    assert said(reply, "es") == reply
    assert catalog("en") is None and catalog("../es") is None


def test_a_paper_is_printed_in_the_language_of_whoever_gets_it():
    call = issued(WORKED["Low charge, the expert's way"]).call
    sheet = {"title": "Week 9", "class_name": "Second years", "units": "us"}
    papers = [{"name": "A", "code": "ABCDEF", "language": "es", "calls": [call]}]
    papers.append({"name": "B", "code": "ABCDEG", "calls": [call]})
    pages = pypdfium2.PdfDocument(packet_pdf(sheet, papers))
    text = [re.sub(r"\s+", " ", page.get_textpage().get_text_range()) for page in pages]
    assert len(text) == 4
    for spanish in ("servicio 1 de 1", "Temperatura de saturación de succión", "Modelo", "BAJO", "página 1 de 2"):
        assert spanish in text[0] and spanish not in text[2]
    for english in ("Suction saturation temperature", "LOW NORMAL HIGH", "page 1 of 2"):
        assert english in text[2] and english not in text[0]
    assert "Cuánto refrigerante".upper() in text[1].upper() and "IGUAL" in text[1]
    assert unknown(packet_item(call), "es", ON_PAPER) == set()


@pytest.mark.parametrize("kind", SITUATIONS)
def test_a_situation_is_printed_in_spanish_and_takes_no_more_paper(kind):
    for seed, system in ((905, "us"), (71, "si")):
        body = situation(kind, brief({"title": "x", "units": system}), seed)
        assert unknown(packet_item(body), "es", ON_PAPER) == set()
        papers = [{"name": "A", "code": "ABCDEF", "language": language, "calls": [body]} for language in ("en", "es")]
        sheet = {"title": "Week 9", "class_name": "Second years", "units": system}
        pages = [pypdfium2.PdfDocument(packet_pdf(sheet, [paper])) for paper in papers]
        assert [len(p) for p in pages] == [1, 1]
        spanish = re.sub(r"\s+", " ", pages[1][0].get_textpage().get_text_range())
        assert "página 1 de 1" in spanish and "CALCULE" in spanish.upper() and "minutes" not in spanish


@pytest.mark.parametrize("kind", DRILLS)
@pytest.mark.parametrize("system", ["us", "si"])
def test_a_drill_is_printed_in_spanish(kind, system):
    for seed in range(4):
        made = drill(kind, 10, brief({"title": "x", "units": system}), random.Random(seed))
        item = packet_item(DrillBody(drill=made, units=system, seed=seed))
        assert unknown(item, "es", ON_PAPER) == set()


def test_the_words_of_a_drawing_are_said_and_its_numbers_stay():
    svg = '<svg><text x="1">Suction pressure, psig</text><text>0.5</text><text>R-410A</text><path d="M1 2"/></svg>'
    assert drawn(svg, "es") == svg.replace("Suction pressure", "Presión de succión")
    assert drawn(svg, "en") == svg and drawn("<text>a &amp; b</text>", "es") == "<text>a &amp; b</text>"


def test_every_word_of_the_pages_and_every_step_and_first_action_is_there():
    assert {k for k, v in page_words("es").items() if k == v} == set()
    steps = [step_text(s, m) for m in MACHINES.values() for s in offered_steps(m)]
    assert unknown({"text": steps + [f.remedy for f in FAULTS.values() if isinstance(f.remedy, str)]}, "es") == set()


def test_a_student_chooses_their_language_and_marks_stay_what_they_are(app, teacher, sheet, student):  # noqa: F811
    opened(teacher, sheet)
    assert student.put("/session/language", {"language": "tlh"}).status_code == 422
    reply = student.put("/session/language", {"language": "es"}).json
    assert reply["user"]["language"] == student.get("/session").json["user"]["language"] == "es"
    run = begun(student)
    assert {p["label"] for p in run.state["points"]} >= {"Presión de succión", "Línea de líquido, afuera"}
    expected = by_robot(app, run)
    judged = run.state["judged"]
    assert judged["marks"]["earned"] == expected.earned
    assert judged["marks"]["parts"][0]["name"] == "Lecturas" and re.search("Leer: ", judged["way"][2]["text"])
    kept = teacher.get(f"/screen/runs/{run.state['id']}").json["judged"]
    assert kept["marks"]["parts"][0]["name"] == "Readings", "an instructor reads English"


def test_an_instructor_chooses_for_who_has_no_log_in_and_it_stays_one_language(app, teacher, sheet):
    person = teacher.get(f"/classes/{sheet['class_id']}").json["people"][1]
    path, body = f"/apprentices/{person['id']}", {"name": person["name"], "number": person["number"]}
    assert person["language"] == "en"
    assert teacher.put(path, body | {"language": "tlh"}).status_code == 422
    people = teacher.put(path, body | {"language": "es"}).json["people"]
    assert [p["language"] for p in people] == ["es" if p["id"] == person["id"] else "en" for p in people]
    with database_of(app).transaction() as connection:
        papers = sheets.printed_papers(connection, 1, sheet["id"])
    assert {p["name"] for p in papers if p["language"] == "es"} == {person["name"]}
    assert teacher.put(path, body).json["people"][1]["language"] == "es", "left out, it stays"
    assert teacher.post(f"{path}/login", {"login": "second", "password": "copper-elbow-9"}).status_code == 200
    pupil = Client(app).choose("second", "copper-elbow-9", "copper-elbow-10")
    assert pupil.get("/session").json["user"]["language"] == "es"
    pupil.put("/session/language", {"language": "en"})
    assert teacher.get(f"/classes/{sheet['class_id']}").json["people"][1]["language"] == "en"
    teacher.put(path, body | {"language": "es"})
    assert pupil.get("/session").json["user"]["language"] == "es"
    assert json.loads(teacher.get(f"{path}/data").data)["language"] == "es"


@pytest.mark.parametrize("seed", range(4))
def test_feedback_is_given_in_spanish_with_right_and_wrong_answers(seed):
    """Everything a student reads of it but what they wrote themselves; of calls, drills and situations."""
    rng = random.Random(seed)
    bodies = [issued(way).call for way in WORKED.values()]
    made = [drill(kind, 6, brief({"title": "x"}), random.Random(seed)) for kind in DRILLS]
    bodies += [DrillBody(drill=one, units="us", seed=seed) for one in made]
    bodies += [situation(kind, brief({"title": "x"}), 905 + seed) for kind in SITUATIONS]
    for body in bodies:
        key, answers = key_answers(body), {}
        for question in questions_of(body):
            letters = [letter for letter, _, _ in choices_of(body, question.id)]
            right = key[question.id]
            number = re.fullmatch(r"-?\d+(\.\d+)?", right)
            wrong = str(round(float(right) + rng.choice((-14.7, -5, 3, 14.7)), 1)) if number else "low"
            answers[question.id] = right if rng.random() < 0.4 else rng.choice(letters) if letters else wrong
        marks = [asdict(mark) | {"reason": mark.code} for mark in grade_body(body, answers)]
        assert unknown(feedback(body, answers, marks), "es", FED_BACK) == set()


def test_what_a_student_gets_back_is_in_their_language_on_screen_and_on_paper(app, teacher, sheet, student):  # noqa: F811
    student.put("/session/language", {"language": "es"})
    row = next(r for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"] if r["name"] == student.name)
    answers = {"suction_saturation": "45", "superheat": "99"}
    assert teacher.put(f"/papers/{row['code']}/answers", {"call": 1, "answers": answers}).status_code == 200
    assert teacher.put(f"/sheets/{sheet['id']}/release", {"released": True}).status_code == 200
    own, other = student.get(f"/mine/{row['code']}").json, teacher.get(f"/papers/{row['code']}/feedback").json
    names = [[step["name"] for step in told["calls"][0]["steps"]] for told in (own, other)]
    assert names[0][0] == "Convertir a saturación" and names[1][0] == "Convert to saturation"
    assert own["earned"] == other["earned"] and own["next"]["reason"].endswith(".")
    for path, words in (("feedback.pdf", "Lo esperado"), ("print", "Temperatura de saturación")):
        page = pypdfium2.PdfDocument(teacher.get(f"/papers/{row['code']}/{path}").data)[0]
        assert words in re.sub(r"\s+", " ", page.get_textpage().get_text_range()), path
    lines = student.get("/reference/rubric").json["lines"]
    assert (
        unknown(teacher.get("/reference/rubric").json, "es") == set()
        and lines[0]["what"] == "Temperaturas de saturación"
    )


@pytest.mark.parametrize("text", ["1, 2, 3 and 4 " * 40 + ": ; ? ", "a; b: c? " * 60, "Ab. (c) " * 70])
def test_what_somebody_typed_at_length_is_not_looked_up_without_end(text, monkeypatch):
    book, asked = Catalog(Path(home).with_name("es.po")), []
    whole = book._whole
    monkeypatch.setattr(book, "_whole", lambda part: asked.append(part) or whole(part))
    assert book.text(text) in (text, text.strip()) and len(asked) < 3 * len(text)
