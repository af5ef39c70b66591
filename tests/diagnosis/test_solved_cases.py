"""What is solved of a machine in one weather: once, only what is asked for, and the same whichever way it is asked."""

import numpy as np
import pytest

from tests.conftest import ORIFICE, VALVE, weather
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import SolvedCases, solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.judgement import judge_on

PLAIN = practice_by_id("plate_and_formula")


def fresh(machine_id=VALVE, **where):
    return SolvedCases(machine=machine(machine_id), conditions=weather(**where), kit="analogue")


@pytest.mark.parametrize(
    ("machine_id", "family"), [(VALVE, "low_airflow"), (VALVE, "valve_overfeeding"), (ORIFICE, "undercharge")]
)
def test_one_family_alone_is_what_it_is_among_all(machine_id, family):
    alone, among = fresh(machine_id), fresh(machine_id)
    among.singles  # noqa: B018  solved for all
    one, same = alone.family(family), among.family(family)
    assert "singles" not in alone.__dict__
    assert one.severities == same.severities and np.array_equal(one.vectors, same.vectors)


def test_a_family_the_machine_cannot_have_is_none():
    assert fresh().family("orifice_oversized") is None


def test_the_last_machines_in_their_weather_are_kept_and_others_are_their_own():
    first = solved_cases(machine(VALVE), weather())
    assert solved_cases(machine(VALVE), weather()) is first
    assert solved_cases(machine(VALVE), weather(outdoor=96)) is not first
    assert solved_cases(machine(VALVE), weather(), "digital") is not first


@pytest.mark.parametrize("severity", [98.0, 96.5])
def test_a_fault_too_mild_to_show_is_refused_before_any_other_family_is_solved(severity):
    cases = fresh()
    judged = judge_on(cases, (Fault(id="low_airflow", severity=severity),), PLAIN, "us")
    assert "singles" not in cases.__dict__ and "pairs" not in cases.__dict__
    assert (
        "within what the instruments may be off" in judged.refusal and judged.proof.threshold["fault"] == "low_airflow"
    )
    assert 60 < judged.proof.threshold["severity"] < severity


def test_a_proof_does_not_depend_on_what_was_proved_before_in_this_weather():
    faults = (Fault(id="dirty_condenser", severity=55),)
    before = prove(fresh(), faults).to_json()
    used = fresh()
    for other in ("undercharge", "overcharge"):
        prove(used, (Fault(id=other, severity=80 if other == "undercharge" else 120),))
    assert prove(used, faults).to_json() == before
