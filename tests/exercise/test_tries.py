"""What is tried to get a fair call: what cannot be taken is given up before it costs anything."""

import random

import pytest

from tests.conftest import VALVE
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw import tries
from wolfsbane.exercise.draw.rung import Rung
from wolfsbane.exercise.plan.brief import brief

BRIEF, PRACTICE = brief({"title": "Monday", "machines": [VALVE]}), practice_by_id("plate_and_formula")
SHORT, DIRTY = (Fault(id="undercharge", severity=75.0),), (Fault(id="dirty_condenser", severity=55.0),)


@pytest.fixture
def weighings(monkeypatch):
    """Whether each weighing was against pairs as well."""
    found, weigh = [], tries.weigh

    def noted(*given, pairs, **more):
        found.append(pairs)
        return weigh(*given, pairs=pairs, **more)

    monkeypatch.setattr(tries, "weigh", noted)
    return found


def outcome(faults, **more):
    m = machine(VALVE)
    cases = solved_cases(m, rating_conditions(m), BRIEF.kit)
    return tries._judged(BRIEF, cases, faults, PRACTICE, 1, allow_edges=True, takes=lambda *hard: True, **more)


def test_what_a_look_gives_away_is_given_up_before_pairs_where_none_may(monkeypatch, weighings):
    monkeypatch.setattr(tries, "said_of", lambda cases, faults, tests, families: dict.fromkeys(families, 1))
    found = outcome(SHORT, looks_decide=False)
    assert found.judged is None and 0.0 < found.early < 1.0 and not found.alike
    assert weighings and not any(weighings)
    weighings.clear()
    found = outcome(SHORT, looks_decide=True)
    assert found.judged is not None and any(weighings), "where one may, it is proved"


def test_a_look_that_only_pairs_ask_for_gives_away_as_much(weighings):
    """Air in a short charge reads like a dirty condenser, and only the coil itself tells them apart."""
    found = outcome(DIRTY, looks_decide=False)
    assert found.judged is None and found.alike and weighings.count(True) == 1
    assert outcome(DIRTY, looks_decide=True).judged is not None


@pytest.mark.parametrize(("alike", "weighed"), [(False, tries.SEVERITIES), (True, 1)])
def test_a_setting_is_left_where_the_next_severity_would_look_the_same(monkeypatch, alike, weighed):
    seen = []

    def judged(asked, cases, faults, *given, **more):
        seen.append((cases.conditions, faults))
        return tries._Outcome(None, None, alike)

    monkeypatch.setattr(tries, "_judged", judged)
    monkeypatch.setattr(tries, "foul_weather", lambda *given: None)
    monkeypatch.setattr(tries, "without_proof", lambda *given: None)
    # nothing is too easy or too hard to be weighed
    monkeypatch.setattr(tries, "_TOO_HARD", 1.0)
    monkeypatch.setattr(tries, "_TOO_EASY", 1.0)
    rung = Rung(number=1, level=2, skill=("low_airflow",), success=0.85)
    assert not list(tries.tries(BRIEF, ("low_airflow",), rung, random.Random(3), 4))
    settings = {conditions for conditions, _ in seen}
    assert len(settings) == 4 and len(set(seen)) == len(seen) == 4 * weighed


def test_severities_are_looked_at_until_they_lie_on_both_sides_of_what_is_wanted():
    m = machine(VALVE)
    cases = solved_cases(m, rating_conditions(m), BRIEF.kit)

    def looked_at(aim):
        asked = {"only_near": False, "look_decides": False, "refused": lambda state: False}
        return tries._Severities(cases, ("low_airflow",), PRACTICE, random.Random(5), aim, **asked)

    beyond = looked_at(1.5)
    assert len(beyond.found) == tries._DRAWN, "none is as easy as that"
    first = list(beyond.found.values())[: tries._AT_LEAST]
    wanted = 0.5 * (min(first) + max(first))
    between = looked_at(wanted + beyond.eased)
    assert len(between.found) == tries._AT_LEAST
    assert min(between.found.values()) <= wanted < max(between.found.values())
