"""Where a class parts, as columns and rows; and a way played again on the bench ends where it ended."""

import pytest

from tests.exercise.screen.test_screen import issue
from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.settling import arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.instrument_faults import of_machine
from wolfsbane.cycle.units import altitude_of_barometer_m, barometer_at_altitude_pa
from wolfsbane.exercise.screen import replay, robots
from wolfsbane.exercise.screen.class_ways import MOST, Way, picture

PLATE, FILTER, DUCT = ("plate", "Read the nameplate"), ("look", "Look: filters"), ("look", "Look: ducts")
LOW, HIGH = ("read", "Read: suction pressure"), ("read", "Read: head pressure")


def way(who, *steps, right=True, earned=90):
    return Way(who=who, steps=steps, right=right, earned=earned)


def at(cells, column):
    return [(c.top, c.text, c.who, c.earned, c.expert) for c in cells if c.column == column]


def test_a_class_parts_where_steps_differ_and_the_most_stand_first():
    ways = [
        way("A", FILTER, LOW, HIGH),
        way("B", PLATE, FILTER, right=False, earned=20),
        way("C", FILTER, HIGH, LOW, earned=70),
        way("D", FILTER, LOW, HIGH, DUCT, right=None, earned=50),
    ]
    cells = picture(ways, (FILTER, LOW, HIGH))
    assert at(cells, 0) == [
        (0, "Look: filters", ("A", "C", "D"), 70.0, True),
        (3, "Read the nameplate", ("B",), 20.0, False),
    ]
    assert at(cells, 1)[0][:3] == (0, "2 readings", ("A", "C", "D")), "the order of readings parts nobody"
    assert at(cells, 2) == [
        (0, "Named it right", ("A", "C"), 80.0, True),
        (2, "Look: ducts", ("D",), 50.0, False),
        (3, "Named it wrong", ("B",), 20.0, False),
    ]
    assert at(cells, 3) == [(2, "Did not name it", ("D",), 50.0, False)]


def test_every_column_holds_everybody_once_and_no_way_is_longer_than_the_picture():
    long = [way(f"{n}", *([PLATE, FILTER, DUCT, LOW] * 5)[n:]) for n in range(7)]
    cells = picture(long, ())
    assert max(c.column for c in cells) == MOST - 1
    for column in range(MOST):
        rows = [c for c in cells if c.column == column]
        taken = [row for c in rows for row in range(c.top, c.top + len(c.who))]
        assert len(taken) == len(set(taken)), "nobody stands on anybody"
    assert picture([], ()) == []


@pytest.mark.parametrize("feet", [0, 1200, 5280, 9000])
def test_a_barometer_gives_the_height_back(feet):
    metres = feet * 0.3048
    assert altitude_of_barometer_m(barometer_at_altitude_pa(metres)) == pytest.approx(metres, abs=0.5)


@pytest.mark.parametrize("fault", ["undercharge", "low_airflow"])
def test_a_way_played_again_on_the_bench_ends_where_it_ended(fault):
    call = issue(fault)
    setup, path = call.setup, robots.play("expert", call, 3)[1]
    steps = replay.played(path.live.shown)
    assert any(s["do"] not in ("wait", "settle") for s in steps)
    site = arrive(on_site(setup.machine, setup.conditions, of_machine(setup.faults), units=setup.system))
    for one in steps:
        site = act(site, action_kind(one["do"]), one["arguments"]).site
    assert site.circuit_kg == pytest.approx(path.live.site.circuit_kg, abs=1e-4)
    assert {f.id for f in site.faults} == {f.id for f in path.live.site.faults}
    assert site.time_s == pytest.approx(path.live.site.time_s, abs=90.0)
    found = replay.found(call)
    assert found["machine"] == setup.machine.id and [f["id"] for f in found["faults"]] == [f.id for f in setup.faults]
