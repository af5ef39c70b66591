"""What was issued stays as it was: files that an earlier version wrote are read, and old calls earn the old marks.

The files in ``old/`` were written by the version before practices, verdicts and the key got their present names.
"""

import json
from pathlib import Path

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.marking.grade import grade, perfect_answers
from wolfsbane.exercise.paper.asked import asked
from wolfsbane.exercise.paper.call import SCHEMA, call_from_json
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.scenario import scenario

OLD = Path(__file__).parent / "old"


def stored(name):
    return json.loads((OLD / name).read_text())


@pytest.fixture(scope="module")
def issued():
    return stored("call_2.json")


@pytest.fixture(scope="module")
def call(issued):
    return call_from_json(issued["call"])


def rows(call, answers):
    return [[m.question, m.earned, m.points, m.code] for m in grade(call, answers)]


def test_an_old_call_shows_and_asks_what_it_showed_and_asked(issued, call):
    old = issued["call"]
    assert {k: r.text for k, r in call.readings.items()} == {k: r["text"] for k, r in old["readings"].items()}
    assert [q.text for q in call.questions] == [q["text"] for q in old["questions"]]
    assert [c.text for c in call.choices.fault] == [c["text"] for c in old["choices"]["fault"]]
    assert [c.text for c in call.choices.order] == [c["text"] for c in old["choices"]["order"]]
    assert call.verdict_words == ("LOW", "RIGHT", "HIGH") and call.practice["id"] == "tight_plate"


def test_an_old_call_has_the_old_key(issued, call):
    old = issued["call"]["key"]
    assert call.key.figures == old["figures"] and list(call.key.repairs) == old["mend"]
    assert call.key.repair.amount.value == old["amount"]["value"] and list(call.key.repair.steps) == old["steps"]
    assert call.key.verdicts == {k: "normal" if v == "right" else v for k, v in old["verdicts"].items()}
    assert perfect_answers(call) | {k: v for k, v in issued["right"].items() if v == "right"} == issued["right"]


@pytest.mark.parametrize(("answers", "marks"), [("right", "marks"), ("slips", "slip_marks")])
def test_an_old_call_earns_the_old_marks(issued, call, answers, marks):
    assert rows(call, issued[answers]) == [row[:4] for row in issued[marks]]


def test_right_and_normal_are_the_same_answer(call):
    said = {k: "normal" if v == "right" else v for k, v in perfect_answers(call).items()}
    assert rows(call, said) == rows(call, {k: "R" if v == "normal" else v for k, v in said.items()})


def test_an_old_call_comes_out_of_storage_the_same_once_it_is_written_anew(call):
    again = call_from_json(json.loads(json.dumps(call.to_json())))
    assert again == call and again.schema == SCHEMA and again.rubric == "3"
    answers = perfect_answers(call)
    marks = [
        {"question": m.question, "points": m.points, "earned": m.earned, "code": m.code, "params": m.params}
        for m in grade(call, answers)
    ]
    assert feedback(call, answers, marks)["earned"] == sum(m["earned"] for m in marks)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda body: body.pop("readings"), "call.readings"),
        (lambda body: body["key"].pop("figures"), "call.key.figures"),
        (lambda body: body.update(mood=1), "call.mood"),
        (lambda body: body["choices"]["fault"][0].pop("letter"), "call.choices.fault.0.letter"),
    ],
)
def test_what_is_wrong_with_a_call_is_named(issued, change, field):
    body = json.loads(json.dumps(issued["call"]))
    change(body)
    with pytest.raises(BadInputError) as error:
        call_from_json(body)
    assert error.value.field == field


def test_old_scenarios_briefs_and_wishes_are_read():
    old = scenario(stored("scenario_2.json"))
    assert old.practice_id == "tight_plate" and scenario(old.to_json()) == old
    assert "school" not in old.to_json()
    made = brief(stored("brief_1.json"))
    assert (made.practice_id, made.fault_free_share) == ("chart", 0.25) and brief(made.to_json()) == made
    assert asked(stored("asked_1.json")).practice_id == "chart"
