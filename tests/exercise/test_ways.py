"""Calls of another way on a generated ladder: a second visit after a repair, an instrument that reads wrong."""

import json
from dataclasses import replace

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.exercise.draw.generator import variant
from wolfsbane.exercise.draw.item import draw, item
from wolfsbane.exercise.draw.ladder import ways
from wolfsbane.exercise.draw.planning import begin, plan, planning_from_json, step
from wolfsbane.exercise.draw.rung import INSTRUMENT, SECOND_VISIT, USUAL_WAY, Rung, rung_from_json
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.request.read import read_request

ASKED = {
    "title": "Ways",
    "machines": ["split-3t-r410a-txv", "split-3t-r22-orifice"],
    "calls": 3,
    "levels": [1, 5],
    "fault_free_share": 0,
    "second_visits": 2,
    "instrument_faults": 1,
    "apprentices": 2,
    "instruments": "digital",
}


@pytest.fixture(scope="module")
def asked():
    return brief(ASKED)


@pytest.fixture(scope="module")
def ladder(asked):
    return plan(asked)


def visit(brief_, forms, level, **more):
    return Rung(number=1, level=level, skill=forms[0], forms=forms, way=SECOND_VISIT, **more)


def test_a_ladder_has_as_many_of_each_way_as_were_asked_for(ladder):
    assert sorted(r.way for r in ladder) == [INSTRUMENT, SECOND_VISIT, SECOND_VISIT]
    assert [r.level for r in ladder] == sorted(r.level for r in ladder)
    for rung in ladder:
        lies = {any(f in INSTRUMENT_FAULTS for f in form) for form in rung.forms}
        assert lies == {rung.way == INSTRUMENT}
        # every form of a second visit leaves as much to be found
        assert len({len(form) for form in rung.forms}) == 1 or rung.way == INSTRUMENT


def test_usual_calls_come_first_and_two_faults_on_top():
    made = brief(ASKED | {"calls": 6, "second_visits": 1, "two_faults": 2})
    assert ways(made) == [USUAL_WAY, USUAL_WAY, INSTRUMENT, SECOND_VISIT, USUAL_WAY, USUAL_WAY]


def test_a_second_visit_shows_both_visits_and_hides_what_is_left(asked, ladder):
    for rung in (r for r in ladder if r.way == SECOND_VISIT):
        call = variant(asked, rung, 1)
        skill = rung.skill_of(1)
        assert call.key.faults == skill[1:]
        assert call.key.unique and call.key.difficulty.level == rung.level
        assert call.done.startswith("First visit: ") and set(call.before) == set(call.readings)
        # the repair moved what is read by more than readers differ
        moved = [abs(call.before[k].value - r.value) for k, r in call.readings.items() if r.unit == "°F"]
        assert max(moved) > 2
        assert call_from_json(json.loads(json.dumps(call.to_json()))) == call


def test_nothing_may_be_left_on_a_second_visit(asked):
    call = variant(asked, visit(asked, (("dirty_condenser",),), 4), 1)
    assert call.key.faults == () and call.before and "condenser was dirty" in call.done


def test_a_call_on_instruments_names_the_trouble_and_the_machine_s_fault(asked, ladder):
    rung = next(r for r in ladder if r.way == INSTRUMENT)
    call = variant(asked, rung, 1)
    assert call.key.faults == rung.skill_of(1) and call.key.unique
    offered = {choice.id for choice in call.choices.fault}
    # as many kinds of trouble stand among the answers as these instruments can have
    assert len(offered & set(INSTRUMENT_FAULTS)) >= 4


def test_the_same_request_draws_the_same_calls(asked, ladder):
    rung = ladder[0]
    assert variant(asked, rung, 2) == variant(asked, rung_from_json(json.loads(json.dumps(rung.to_json()))), 2)


def test_a_plan_is_the_same_a_piece_at_a_time(asked, ladder):
    so_far = begin(asked)
    while not so_far.done:
        so_far = step(asked, planning_from_json(asked, json.loads(json.dumps(so_far.to_json()))))
    assert list(so_far.found) == ladder


def test_trouble_that_other_instruments_cannot_have_gives_way(asked):
    dials = replace(asked, instruments="analogue")
    forms = (("hoses_swapped", "undercharge"), ("clamp_wrong_line", "dirty_condenser"))
    rung = Rung(number=1, level=4, skill=forms[0], forms=forms, way=INSTRUMENT)
    assert variant(dials, rung, 1).key.faults == forms[1]


def rung_item(way, skill, asked=None, **more):
    row = {"number": 1, "level": 4, "skill": skill, "way": way}
    return {"kind": "rung", "brief": ASKED | more, "rung": row, "asked": asked}


def test_an_item_of_a_sheet_keeps_its_way():
    kept = item(rung_item(SECOND_VISIT, "dirty_condenser+undercharge"))
    assert kept["rung"]["way"] == SECOND_VISIT
    call = draw(kept, 1, 0, "us", 3)
    assert call.key.faults == ("undercharge",) and call.before
    # a sheet of before there were ways
    old = item({"kind": "rung", "brief": ASKED, "rung": {"number": 1, "level": 2, "skill": "undercharge"}})
    assert old["rung"]["way"] == USUAL_WAY


@pytest.mark.parametrize(
    ("data", "field"),
    [
        (rung_item("backwards", "undercharge"), "items.rung.way"),
        (rung_item(SECOND_VISIT, "none"), "items.rung.skill"),
        (rung_item(USUAL_WAY, "clamp_loose"), "items.rung.skill"),
        (rung_item(INSTRUMENT, "hoses_swapped", instruments="analogue"), "items.rung.skill"),
        (rung_item(INSTRUMENT, "clamp_loose", {"instruments": "pipes"}), "asked.instruments"),
    ],
)
def test_what_an_item_may_not_be(data, field):
    with pytest.raises(BadInputError) as refused:
        item(data)
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"second_visits": 3}, "instrument_faults"),
        ({"second_visits": 4}, "second_visits"),
        ({"instrument_faults": -1}, "instrument_faults"),
        ({"two_faults": 1}, "instrument_faults"),
    ],
)
def test_ways_cannot_be_more_than_calls(change, field):
    with pytest.raises(BadInputError) as refused:
        brief(ASKED | change)
    assert refused.value.field == field


def test_a_second_visit_wants_faults_that_hide_one_another():
    made = brief(ASKED | {"faults": ["valve_overfeeding"]})
    with pytest.raises(BadInputError, match="second_visits"):
        plan(made)


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("six calls, one with a bad gauge", {"calls": 6, "instrument_faults": 1}),
        ("five calls, two where an instrument reads wrong", {"calls": 5, "instrument_faults": 2}),
        ("4 calls, 1 instrument trouble, two second visits", {"calls": 4, "instrument_faults": 1, "second_visits": 2}),
        ("three calls, one return visit", {"calls": 3, "second_visits": 1}),
    ],
)
def test_ways_in_words(text, found):
    read = read_request(text)
    assert read.brief == found and read.settled
