"""Whatever is written on a paper is marked: no text breaks the marker, no mark leaves its bounds,
the same paper earns the same.
"""

import json
from functools import cache

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import planned
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.marking.rules import NO_RULES, rules

ITEMS = {
    "call": {
        "kind": "scenario",
        "body": planned("undercharge", 78).to_json(),
        "asked": {"parts": ["diagnose", "correct", "because"]},
    },
    "pipes": {"kind": "scenario", "body": planned("undercharge", 72).to_json(), "asked": {"instruments": "pipes"}},
    **{
        kind: {"kind": "drill", "drill": kind, "items": 3, "brief": {"title": "x"}}
        for kind in ("conversion", "dial", "spot_the_error", "bookkeeping")
    },
}
#: what people write, what machines read wrongly, and anything at all
WRITTEN = st.one_of(
    st.sampled_from(
        [
            "",
            " ",
            "?",
            "-",
            "−",
            "+",
            "L",
            "high",
            "ok",
            "u",
            "D",
            "1 2 3",
            "3-1",
            "0",
            "-0",
            "1e9",
            "99999",
            "12,5 °F",
            "-4 K",
            "80 psi",
            "2 lb",
            "A",
            "AB",
            "A, C",
            "ABCDEFGHJ",
            "²",
            "٣",
            "１２",
            "½",
            "NaN",
            "inf",
            "0x1F",
            "null",
            "\x00",
            "ß",
            "'; --",
            "superheat 12 is high, sc low",
        ]
    ),
    st.floats(-500, 500, allow_nan=False).map(lambda v: f"{v:.1f}"),
    st.integers(-9, 99).map(str),
    st.text(max_size=40),
)
RULES = st.sampled_from(
    [
        NO_RULES,
        rules({"void": ["superheat", "order"]}),
        rules({"wider": {"sum": 3.0, "edge": 2.0, "amount": 1.5}}),
        rules({"accept": {"fault": ["overcharge", "nonsense"], "action": ["overcharge"]}}),
    ]
)


@cache
def body(name):
    drawn = items_of.draw(items_of.item(ITEMS[name]), 1, 0, "us", 11)
    return frozen_body.body_from_json(json.loads(json.dumps(drawn.to_json())))


@st.composite
def papers(draw):
    """An item, the answers on it (some of the key's own among them) and the rules it is marked by."""
    name = draw(st.sampled_from(sorted(ITEMS)))
    ids = [q.id for q in frozen_body.questions_of(body(name))]
    key = frozen_body.key_answers(body(name))
    kept = draw(st.sets(st.sampled_from(ids), max_size=len(ids)))
    written = {q: key.get(q, "") if q in kept else draw(WRITTEN) for q in ids if q in kept or draw(st.booleans())}
    return name, written, draw(RULES)


@settings(max_examples=300, deadline=None, derandomize=True)
@given(papers())
def test_anything_written_is_marked_within_bounds_and_the_same_each_time(paper):
    name, written, by = paper
    marks = frozen_body.grade_body(body(name), written, by)
    assert [m.question for m in marks] == [q.id for q in frozen_body.questions_of(body(name))]
    for mark in marks:
        assert 0 <= mark.earned <= mark.points and isinstance(mark.earned, int)
        assert mark.text and mark.raw in (
            written.get(mark.question, ""),
            written.get(mark.question, "")[:80],
            written.get(mark.question, "")[:600],
        )
        assert not (mark.earned and not written.get(mark.question, "").strip()), "nothing written earns nothing"
    assert frozen_body.grade_body(body(name), written, by) == marks
    told = feedback(
        body(name),
        written,
        [
            {"question": m.question, "points": m.points, "earned": m.earned, "code": m.code, "params": m.params}
            for m in marks
        ],
    )
    assert sum(len(step["rows"]) for step in told["steps"]) == len(marks) and told["earned"] == sum(
        m.earned for m in marks
    )
    json.dumps([m.params for m in marks])


@settings(max_examples=100, deadline=None, derandomize=True)
@given(papers(), st.data())
def test_wider_tolerances_never_cost_anybody_a_number(paper, data):
    """Every number that earned keeps its mark under a wider tolerance."""
    name, written, _ = paper
    numbers = {
        q.id
        for q in frozen_body.questions_of(body(name))
        if q.kind in ("temperature", "difference", "pressure", "mass")
    }
    wider = rules(
        {"wider": {key: data.draw(st.floats(1.0, 3.0)) for key in ("saturation", "sum", "amount", "reading")}}
    )
    before = {m.question: m.earned for m in frozen_body.grade_body(body(name), written)}
    after = {m.question: m.earned for m in frozen_body.grade_body(body(name), written, wider)}
    assert all(after[q] >= before[q] for q in numbers)
