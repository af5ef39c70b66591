"""QTI packages against another implementation of the standard: pyslet's classes of IMS QTI 2.1 and IMS content
packaging 1.1.

pyslet follows the element, attribute and content definitions of the published schema and runs response processing as
the specification has it; it is no schema validator, and where it is silent nothing is claimed.
"""

import io
import logging
import zipfile
from dataclasses import replace

import pytest
from pyslet.imscpv1p2 import ManifestDocument
from pyslet.qtiv2 import expressions, items
from pyslet.qtiv2.tests import AssessmentTest
from pyslet.qtiv2.variables import ItemSessionState
from pyslet.qtiv2.xml import QTIDocument

from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.grade import grade
from wolfsbane.exercise.plan.brief import DRILLS
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.exercise.plan.starter_library import ready_scenarios
from wolfsbane.server.exchange.qti import package
from wolfsbane.server.exchange.qti_scoring import also_right

#: the library reads this list of numbers as one word; the schema, which it quotes, has a list
expressions.Equal.XMLATTR_tolerance = ("tolerance", str, str, list)
SCENARIO = {
    "schema": 1,
    "title": "t",
    "machine": "split-3t-r410a-txv",
    "fault": "undercharge",
    "severity": 80,
    "outdoor_db_f": 93,
    "return_db_f": 78,
    "return_wb_f": 65.5,
}
BRIEF = {"title": "b", "levels": [1, 3]}
ITEMS = {
    "valve": {"kind": "scenario", "body": SCENARIO},
    "orifice in SI": {
        "kind": "scenario",
        "body": SCENARIO | {"machine": "split-3t-r410a-orifice", "fault": "low_airflow", "severity": 48},
    },
    "sound": {"kind": "scenario", "body": SCENARIO | {"fault": "none", "severity": None}},
    "rig": {"kind": "rig", "body": SCENARIO},
    "words": {
        "kind": "scenario",
        "body": SCENARIO,
        "asked": {"parts": ["diagnose", "correct", "because"], "instruments": "digital"},
    },
    **{kind: {"kind": "drill", "drill": kind, "items": 4, "brief": BRIEF} for kind in DRILLS},
    "box": {"kind": "scenario", "body": ready_scenarios()["The walk-in creeps up"].scenario.to_json()},
    "pipes": {"kind": "scenario", "body": ready_scenarios()["Lint and fryer grease"].scenario.to_json()},
    "second visit": {
        "kind": "scenario",
        "body": ready_scenarios()["Dirt over a leak"].scenario.to_json(),
        "asked": {"second_visit": True},
    },
    "instrument": {"kind": "scenario", "body": ready_scenarios()["Hot hand, wrong pipe"].scenario.to_json()},
    **{kind: {"kind": "situation", "situation": kind, "brief": BRIEF} for kind in SITUATIONS},
}


@pytest.fixture(scope="module")
def bodies():
    return {
        name: items_of.draw(items_of.item(data), 1, 0, "si" if "SI" in name else "us", 11)
        for name, data in ITEMS.items()
    }


@pytest.fixture(scope="module")
def archive(bodies):
    papers = [{"code": "ABC234", "calls": list(bodies.values())}]
    return zipfile.ZipFile(io.BytesIO(package({"id": 1, "title": "Week 9: <air> & charge"}, papers)))


def read(archive, name, kind=QTIDocument):
    document = kind()
    document.read(src=io.BytesIO(archive.read(name)))
    return document.root


def scored(item, answers):
    """SCORE that the library works out for answers (question id -> value, list of identifiers, or None for blank)."""
    state = ItemSessionState(item)
    state.begin_session()
    state.map["numAttempts"].set_value(1)
    for declared in item.ResponseDeclaration:
        state.map[declared.identifier].set_value(answers.get(declared.identifier))
    state.end_attempt()
    return state.map["SCORE"].value


def correct(item):
    """What the package declares as correct, as the library reads it."""
    state = ItemSessionState(item)
    return {d.identifier: state.map[f"{d.identifier}.CORRECT"].value for d in item.ResponseDeclaration}


def listed(answers):
    return {q: list(v) if isinstance(v, (dict, list, tuple)) else v for q, v in answers.items()}


@pytest.mark.parametrize("name", ITEMS)
def test_every_item_is_read_without_a_complaint_and_its_key_scores_all_points(archive, bodies, name, caplog):
    number = list(ITEMS).index(name) + 1
    with caplog.at_level(logging.WARNING):
        item = read(archive, f"items/item-ABC234-{number}.xml")
    assert isinstance(item, items.AssessmentItem) and not caplog.records
    asked = [q for q in frozen_body.questions_of(bodies[name]) if q.kind != "text"]
    assert sorted(d.identifier for d in item.ResponseDeclaration) == sorted(q.id for q in asked)
    assert scored(item, listed(correct(item))) == sum(q.points for q in asked)
    assert scored(item, {}) == 0


@pytest.mark.parametrize("name", ["valve", "orifice in SI", "sound"])
def test_a_single_wrong_answer_scores_as_the_rubric_marks_it_where_nothing_follows_from_it(archive, bodies, name):
    item = read(archive, f"items/item-ABC234-{list(ITEMS).index(name) + 1}.xml")
    call = bodies[name]
    right, key = listed(correct(item)), frozen_body.key_answers(bodies[name])
    letters = [c.letter for c in call.choices.evidence]
    cases = [("evidence", [letter], letter) for letter in letters] + [
        ("after_head", word, word) for word in ("down", "same", "up")
    ]
    for question, value, typed in cases:
        ours = {m.question: m for m in grade(call, key | {question: typed})}[question]
        points = ours.points
        gained = scored(item, right | {question: value}) - scored(item, right | {question: None})
        assert (gained == points) == (ours.earned == points), (question, typed, ours.code)


def test_answers_that_the_readings_leave_open_score_in_full(bodies):
    valve = bodies["valve"]
    body = replace(valve, key=replace(valve.key, also_open=("low_airflow",)))
    item = read(
        zipfile.ZipFile(io.BytesIO(package({"id": 1, "title": "t"}, [{"code": "ABC234", "calls": [body]}]))),
        "items/item-ABC234-1.xml",
    )
    letter = body.choices.letter("fault", "low_airflow")
    assert also_right(body, next(q for q in body.questions if q.id == "fault")) == [letter]
    right = listed(correct(item))
    assert scored(item, right | {"fault": letter}) == scored(item, right) == 33
    other = next(c.letter for c in body.choices.fault if c.id not in ("low_airflow", "undercharge"))
    assert scored(item, right | {"fault": other}) == 27


@pytest.mark.parametrize(("off", "gains"), [(0.0, True), (0.9, True), (-0.9, True), (1.6, False), (-1.6, False)])
def test_numbers_count_within_the_tolerance_of_the_key(archive, off, gains):
    item = read(archive, "items/item-ABC234-1.xml")
    right = listed(correct(item))
    changed = scored(item, right | {"suction_saturation": right["suction_saturation"] + off})
    assert (changed == 33) == gains and changed in (32, 33)


def test_the_manifest_and_the_test_are_read_and_lead_to_every_file(archive):
    root = read(archive, "imsmanifest.xml", ManifestDocument)
    resources = {r.id: r for r in root.Resources.Resource}
    files = [str(f.href) for r in resources.values() for f in r.File]
    assert sorted(files) == sorted(n for n in archive.namelist() if n != "imsmanifest.xml")
    assert [d.identifierref for d in resources["test-ABC234"].Dependency] == [
        f"item-ABC234-{n}" for n in range(1, len(ITEMS) + 1)
    ]
    assert isinstance(read(archive, "test-ABC234.xml"), AssessmentTest)
