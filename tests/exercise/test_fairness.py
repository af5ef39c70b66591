"""What is never issued: keys that a page does not lead to."""

import random

import pytest

from tests.conftest import ORIFICE, VALVE, weather
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL, practice_by_id
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.fairness import unfair
from wolfsbane.exercise.draw.judgement import judge_on
from wolfsbane.exercise.draw.looks import USUAL, with_idle_looks

PRACTICE = practice_by_id("plate_and_formula")


@pytest.fixture(scope="module")
def cases():
    return solved_cases(machine(VALVE), weather(93, 78, 65.5))


def planted(*rows):
    return tuple(Fault(id=i, severity=s) for i, s in rows)


def judged(cases, faults, verdicts, tests=()):
    state = solved(cases.machine, cases.conditions, faults)
    return unfair(cases, state, faults, [{v} for v in verdicts], tests)


def test_all_on_target_with_something_wrong_is_never_issued(cases):
    assert judged(cases, planted(("low_airflow", 70)), [NORMAL] * 5)[0] == "on_target"
    edge = [{NORMAL, HIGH}, {NORMAL}, {NORMAL}, {NORMAL}, {NORMAL}]
    faults = planted(("low_airflow", 70))
    assert unfair(cases, solved(cases.machine, cases.conditions, faults), faults, edge, ())[0] == "on_target"
    assert judged(cases, (), [NORMAL] * 5) is None


def test_a_charge_whose_own_figure_is_off_the_other_way_is_never_issued(cases):
    short = planted(("undercharge", 78))
    assert judged(cases, short, [HIGH, HIGH, NORMAL, NORMAL, NORMAL])[:2] == ("points_away", "undercharge")
    assert judged(cases, short, [HIGH, LOW, NORMAL, NORMAL, NORMAL]) is None


def test_one_of_two_that_shows_nowhere_is_never_issued_unless_a_look_shows_it(cases):
    both = planted(("undercharge", 72), ("dirty_condenser", 70))
    hidden = [NORMAL, LOW, NORMAL, NORMAL, NORMAL]
    assert judged(cases, both, hidden)[:2] == ("hides", "dirty_condenser")
    assert judged(cases, both, hidden, ("condenser_coil",)) is None
    assert judged(cases, both, [NORMAL, LOW, NORMAL, HIGH, NORMAL]) is None


def test_valves_that_leak_a_little_want_a_test_that_proves_it(cases):
    weak = planted(("leaking_compressor_valves", 34))
    code, fault, needs = judged(cases, weak, [NORMAL, NORMAL, LOW, NORMAL, NORMAL])
    assert (code, fault, needs) == ("unproved", "leaking_compressor_valves", ("pump_down",))
    assert judged(cases, weak, [NORMAL, NORMAL, LOW, LOW, NORMAL]) is None


def test_low_airflow_beside_a_dirty_coil_that_reads_as_an_overcharge_is_refused():
    cases = solved_cases(machine("split-3t-r410a-microchannel"), weather(90, 77, 64))
    refused = []
    for air, coil in ((48, 56), (52, 55), (55, 60), (44, 62)):
        found = judge_on(
            cases,
            planted(("low_airflow", air), ("dirty_condenser", coil)),
            PRACTICE,
            "us",
            allow_edges=True,
            by_book=True,
        )
        refused.append(found.refusal is not None)
    assert all(refused)


def test_idle_looks_came_out_plain_and_stand_in_the_order_of_the_catalog(cases):
    faults = planted(("dirty_condenser", 58))
    seen = set()
    for seed in range(30):
        looks = with_idle_looks(cases, faults, ("condenser_fan",), random.Random(seed))
        assert "condenser_fan" in looks and "condenser_coil" not in looks and 1 < len(looks) <= 5
        seen |= set(looks)
    assert {"line_length", "condenser_entering_air"} <= seen and len(seen) > 8
    wholly = [with_idle_looks(cases, (), (), random.Random(seed)) for seed in range(30)]
    assert all(sum(t in looks for t in USUAL[2]) <= 1 for looks in wholly)


def test_a_page_says_what_was_checked_unless_that_is_hidden():
    from tests.conftest import planned
    from wolfsbane.exercise.draw.variant import vary

    plain = vary(planned("overcharge", 126), "us", 3)
    assert any("Checked: R-410A in the system" in line and "condenser dry" in line for line in plain.look_round)
    wet = vary(planned("wet_condenser", 70), "us", 3)
    assert not any("condenser dry" in line for line in wet.look_round)
    assert any("R-410A in the system" in line for line in wet.look_round)


def test_a_key_carries_what_was_proved_of_it():
    from tests.conftest import planned
    from wolfsbane.exercise.draw.variant import vary
    from wolfsbane.exercise.paper.call import call_from_json

    made = vary(planned("undercharge", 74, ORIFICE), "us", 5)
    claims = {c.id: c for c in made.key.claims}
    assert list(claims)[:3] == ["offered", "singles", "pairs"] and claims["offered"].holds
    assert 0 < made.key.difficulty.success <= 1 and call_from_json(made.to_json()) == made
