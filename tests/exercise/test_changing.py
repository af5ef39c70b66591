"""One call of a ladder changed by itself: as asked, as hard as asked, and never something else in silence."""

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.changing import one_call, skills_on
from wolfsbane.exercise.draw.rung import SECOND_VISIT
from wolfsbane.exercise.draw.tries import NoClassSetError

BRIEF = {"title": "A sheet", "calls": 4, "levels": [1, 4], "minutes": 60, "drills": [{"kind": "dial", "items": 4}]}
RUNG = {
    "number": 2,
    "level": 2,
    "skill": "undercharge",
    "skills": ["undercharge", "none", "dirty_condenser"],
    "success": 0.86,
    "look_decides": False,
    "way": "usual",
}


def test_the_fault_that_was_asked_for_stands_on_every_paper():
    brief, rung = one_call(BRIEF, RUNG, skill="dirty_condenser")
    assert (rung.number, rung.level, rung.skill) == (2, 2, ("dirty_condenser",))
    assert rung.forms == (("dirty_condenser",),)
    assert (brief.calls, brief.levels, brief.minutes, brief.drills) == (1, (2, 2), None, ())
    drawn = items_of.draw(
        items_of.item({"kind": "rung", "brief": brief.to_json(), "rung": rung.to_json() | {"number": 2}}), 2, 0, "us", 5
    )
    assert drawn.key.faults == ("dirty_condenser",) and drawn.key.difficulty.level == 2


def test_a_harder_level_is_reached_or_refused_with_the_nearest_that_works():
    _, rung = one_call(BRIEF, RUNG, skill="undercharge", level=4)
    assert rung.level == 4 and rung.skill == ("undercharge",)
    weather = {"outdoor_db_f": [101.0, 102.0]}
    with pytest.raises(NoClassSetError, match="The closest that works is level [1-5]: fixed orifice"):
        one_call(BRIEF, RUNG, skill="orifice_oversized", level=5, weather=weather)


def test_a_swap_is_another_fault_as_hard():
    _, rung = one_call(BRIEF, RUNG, swap=True)
    assert rung.level == 2 and rung.forms == (rung.skill,)
    assert len(rung.skill) == 1 and set(rung.skill).isdisjoint({"undercharge", "dirty_condenser"})
    assert one_call(BRIEF, RUNG, swap=True)[1] == rung  # the same when asked again


def test_machines_and_weather_change_alone():
    brief, rung = one_call(BRIEF, RUNG | {"skills": ["undercharge"]}, machines=["split-3t-r22-txv"])
    assert brief.machines == ("split-3t-r22-txv",) and rung.skill == ("undercharge",)
    with pytest.raises(BadInputError, match="fixed orifice.*one of these machines"):
        one_call(BRIEF, RUNG, skill="orifice_oversized", machines=["split-3t-r22-txv"])
    with pytest.raises(BadInputError, match="outdoor_db_f"):
        one_call(BRIEF, RUNG, weather={"outdoor_db_f": [90.0, 300.0]})


def test_what_a_call_can_hide_follows_its_machines_and_its_way():
    valve = skills_on(BRIEF, ["split-3t-r22-txv"])
    assert valve[0] == () and ("valve_overfeeding",) in valve and ("orifice_oversized",) not in valve
    assert ("low_airflow", "undercharge") in valve
    visits = skills_on(BRIEF, ["split-3t-r22-txv"], SECOND_VISIT)
    assert ("dirty_condenser", "undercharge") in visits and () not in visits


def test_drawn_again_is_the_same_call_with_other_numbers_and_stays_that_way():
    brief, rung = one_call(BRIEF, RUNG, skill="undercharge")
    row = {"kind": "rung", "brief": brief.to_json(), "rung": {**rung.to_json(), "number": 2}}
    first, again = (items_of.item(row | more) for more in ({}, {"redraw": 1}))
    assert "redraw" not in items_of.item(row | {"redraw": 0}) and again["redraw"] == 1
    old, new, once_more = (items_of.draw(one, 1, 0, "us", 5) for one in (first, again, again))
    assert new == once_more and new.key.faults == old.key.faults
    assert new.readings != old.readings
    with pytest.raises(BadInputError, match="items.redraw"):
        items_of.item(row | {"redraw": -1})
