"""What was issued stays as it was: calls frozen with rubric 3 earn what rubric 3 gave, whatever the rubric in use says.

The file beside this test was written by the version that had rubric 3: its calls, 69 papers, and every mark.
"""

import json
from functools import cache
from pathlib import Path

import pytest

from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.rubric import LINES, lines_of

ISSUED = json.loads((Path(__file__).parent / "old" / "rubric_3.json").read_text())


@cache
def body(kind):
    return frozen_body.body_from_json(ISSUED["calls"][kind])


@pytest.mark.parametrize("kind", ISSUED["calls"])
def test_a_call_without_a_rubric_is_one_of_rubric_3(kind):
    assert "rubric" not in ISSUED["calls"][kind] and body(kind).rubric == frozen_body.rubric_of(body(kind)) == "3"
    assert not body(kind).bands_shown and body(kind).key.repair.slope and not body(kind).key.repair.routes


@pytest.mark.parametrize("paper", ISSUED["papers"], ids=[f"{p['call']}: {p['case']}" for p in ISSUED["papers"]])
def test_an_issued_paper_earns_what_it_earned(paper):
    marks = frozen_body.grade_body(body(paper["call"]), paper["answers"])
    assert [[m.question, m.points, m.earned, m.code] for m in marks] == paper["marks"]
    assert all(m.text and "{" not in m.text for m in marks)


def test_its_key_and_what_it_told_are_kept():
    for kind in ISSUED["calls"]:
        marks = frozen_body.grade_body(body(kind), frozen_body.key_answers(body(kind)))
        assert all(m.earned == m.points for m in marks), kind
    assert lines_of("3") != LINES and dict(lines_of("3"))["What is wrong"].endswith("your own verdicts point to.")


def test_what_rubric_3_could_not_read_it_still_cannot():
    """A weight in pounds and ounces is read today; a paper that was issued before is marked as it was then."""
    call = body("valve")
    right = frozen_body.key_answers(call)
    mark = {m.question: m for m in frozen_body.grade_body(call, right | {"amount": "1 lb 8 oz"})}["amount"]
    assert mark.code == "unreadable" and mark.earned == 0
