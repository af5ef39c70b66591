"""What a page says to somebody who knows no model: looks that show, rule out or are silent, and what is withheld."""

import pytest

from tests.conftest import ORIFICE, VALVE, weather
from wolfsbane.cycle.faults import NONE, Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.pages import may_say, page_of, said_of
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import faulted_vector, solved

PRACTICE = practice_by_id("plate_and_formula")
ASKED = (NONE, "dirty_condenser", "condenser_fan_weak", "undercharge")


@pytest.fixture(scope="module")
def cases():
    return solved_cases(machine(VALVE), weather(93, 78, 65.5))


def planted(*rows):
    return tuple(Fault(id=i, severity=s) for i, s in rows)


def page(cases, faults, **more):
    state = solved(cases.machine, cases.conditions, faults)
    return page_of(cases, faults, faulted_vector(cases.machine, state, faults), PRACTICE, ASKED[1:], **more)


def test_a_dirty_coil_seen_shows_itself_and_rules_out_what_leaves_it_clean(cases):
    said = said_of(cases, planted(("dirty_condenser", 60)), ("condenser_coil",), ASKED)
    assert said == {NONE: -1, "dirty_condenser": 1, "condenser_fan_weak": -1, "undercharge": -1}


def test_a_clean_coil_rules_out_dirt_and_says_nothing_of_the_rest(cases):
    said = said_of(cases, planted(("undercharge", 75)), ("condenser_coil",), ASKED)
    assert said == {NONE: 0, "dirty_condenser": -1, "condenser_fan_weak": 0, "undercharge": 0}


def test_of_two_faults_a_look_that_shows_one_does_not_rule_out_the_other(cases):
    both = planted(("dirty_condenser", 60), ("undercharge", 75))
    said = said_of(cases, both, ("condenser_coil",), ASKED)
    assert said["dirty_condenser"] == 1 and said["undercharge"] == 0 and said[NONE] == -1


def test_two_looks_add_up_and_what_is_ruled_out_stays_out(cases):
    fan = planted(("condenser_fan_weak", 55))
    one, two = (
        said_of(cases, fan, tests, ASKED) for tests in (("condenser_coil",), ("condenser_coil", "condenser_fan"))
    )
    assert one["dirty_condenser"] == two["dirty_condenser"] == -1
    assert one["condenser_fan_weak"] == 0 and two["condenser_fan_weak"] == 1


def test_no_look_says_nothing(cases):
    assert set(said_of(cases, planted(("undercharge", 75)), (), ASKED).values()) == {0}


def test_every_word_a_family_may_get_counts_over_its_causes(cases):
    filters = may_say(cases, "filter", "low_airflow")
    assert len(filters) > 1, "a dirty filter is one of several causes"
    assert may_say(cases, "filter", NONE) < filters
    assert len(may_say(cases, "condenser_coil", "dirty_condenser")) == 1


def test_a_page_holds_what_is_printed_and_nothing_else(cases):
    whole = page(cases, planted(("undercharge", 75)))
    assert whole.number == 1 and whole.card == "valve" and set(whole.told) == set(ASKED)
    assert whole.values["outdoor_db"] == pytest.approx(k_to_f(cases.conditions.outdoor_k))
    assert whole.bands["subcooling"].target == 10.0
    short = page(cases, planted(("undercharge", 75)), readings=("suction_pressure", "suction_line"))
    assert short.values["liquid_saturation"] is None and short.values["liquid_line"] is None
    assert short.values["suction_saturation"] == pytest.approx(whole.values["suction_saturation"])
    assert page(cases, ()).number == 1 and page(cases, planted(("undercharge", 80), ("low_airflow", 60))).number == 2


def test_an_orifice_is_judged_by_its_own_card():
    cases = solved_cases(machine(ORIFICE), weather(90, 77, 64.5))
    found = page(cases, planted(("undercharge", 80)))
    assert found.card == "orifice" and "superheat" in found.bands
