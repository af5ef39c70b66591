"""Worked lab sessions on the stepped machine: each is marked as its story deserves, and as the document says."""

from functools import cache
from pathlib import Path

import pytest

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.devtools.lab_report import BEGIN, END, report
from wolfsbane.exercise.lab.forecast import faults_now, forecast
from wolfsbane.exercise.lab.marks import RUBRIC, total_of
from wolfsbane.exercise.lab.scripted import worked_rig
from wolfsbane.exercise.lab.worked import WORKED

DOC = Path(__file__).parents[3] / "docs" / "lab-sessions.md"


@cache
def played(name):
    lab = WORKED[name]()
    return lab, lab.judged()


def parts(name):
    return {p.part: p for p in played(name)[1].parts}


def lost(name):
    """Part -> points lost, of those that lost some."""
    return {p.part: p.points - p.earned for p in played(name)[1].parts if p.earned < p.points}


def test_what_is_safe_and_right_earns_everything():
    _, judged = played("Safe and right")
    earned, possible = total_of(list(judged.parts))
    assert earned == possible and judged.outcome.proved and judged.outcome.weight_ok
    assert {s.skill for s in judged.skills if s.level == "alone"} >= {
        "hook_up", "zero", "read", "convert", "superheat", "subcooling", "diagnose", "charge", "leak_check", "prove",
    }  # fmt: skip


def test_right_but_unsafe_loses_safety_and_the_result_with_it():
    assert lost("Right but unsafe") == {"safety": 10, "result": 15}
    assert "Work began before the go-ahead." in parts("Right but unsafe")["safety"].reasons


def test_a_plan_stopped_at_sign_off_costs_its_point_and_does_no_harm():
    lab, judged = played("Wrong plan stopped at sign-off")
    assert lost("Wrong plan stopped at sign-off") == {"method": 2} and judged.outcome.proved
    assert len(lab.foreseen) == 3 and lab.foreseen[1].moved_kg < 0.0 < lab.foreseen[2].moved_kg
    assert lab.foreseen[1].subcooling_k < lab.foreseen[0].subcooling_k


def test_an_overshoot_that_is_recovered_costs_less_than_one_that_is_left():
    recovered, left = (played(n)[1].outcome for n in ("Overshot and recovered", "Overshot and left"))
    assert recovered.recovered and recovered.proved and left.overshot and not left.recovered and not left.proved
    assert lost("Overshot and recovered") == {"result": 2}
    assert lost("Overshot and left")["result"] > 8
    assert left.moved_kg / KG_PER_OZ == pytest.approx(24.0, abs=0.6)


def test_a_record_that_does_not_balance_costs_the_record_and_nothing_else():
    assert lost("Record does not balance") == {"record": 5}
    assert "cylinder and log differ" in parts("Record does not balance")["record"].reasons[0]


@pytest.mark.parametrize(
    ("name", "word"),
    [("Dial misread", "division miscounted"), ("Clamp on the wrong line", "the clamp sat on the wrong pipe")],
)
def test_one_slip_of_reading_costs_one_mark(name, word):
    assert lost(name) == {"readings": 1}
    (why,) = parts(name)["readings"].reasons
    assert word in why


def test_an_instrument_that_is_off_counts_as_read_and_its_zero_does_not():
    assert lost("Gauges not zeroed") == {"method": 1}
    assert "6 psi high" in parts("Gauges not zeroed")["readings"].reasons[0]
    assert "zero" not in {s.skill for s in played("Gauges not zeroed")[1].skills}


def test_a_proof_read_too_early_proves_nothing():
    assert lost("Proof read too early") == {"method": 2, "result": 15}


def test_a_copied_session_earns_little_although_the_rig_is_right():
    _, judged = played("Copied from the pair before")
    earned, possible = total_of(list(judged.parts))
    assert judged.outcome.proved and earned < 0.4 * possible
    assert parts("Copied from the pair before")["result"].earned <= RUBRIC["result"] // 4
    assert not {"read", "convert", "diagnose"} & {s.skill for s in judged.skills}


def test_a_rig_that_was_not_undone_is_seen_by_the_logger():
    lab, judged = played("Rig not undone")
    assert not judged.outcome.proved and "CTOA" in parts("Rig not undone")["result"].reasons[0]
    assert "within" not in lab.undone()


def test_a_limit_passed_on_the_way_fails_safety_and_result_and_was_foreseen():
    lab, judged = played("Limit passed on the way")
    assert judged.outcome.proved and judged.outcome.limits
    assert parts("Limit passed on the way")["safety"].earned == parts("Limit passed on the way")["result"].earned == 0
    assert "over 390 psig" in lab.foreseen[0].warnings[0] and lab.foreseen[0].harms


def test_a_forecast_of_the_right_plan_comes_to_what_the_rig_then_shows():
    lab, judged = played("Safe and right")
    shown = {f.name: f.shown_k for f in judged.outcome.figures}
    assert not lab.foreseen[0].warnings
    assert lab.foreseen[0].subcooling_k == pytest.approx(shown["subcooling"], abs=0.8)
    assert lab.foreseen[0].superheat_k == pytest.approx(shown["superheat"], abs=0.8)


def test_a_forecast_of_putting_a_fault_right_takes_it_away():
    lab, _ = played("Rig not undone")
    machine = lab.bench.individual.machine(lab.bench.profile)
    dirty = (Fault(id="dirty_condenser", severity=55.0),)
    left, washed = (forecast(worked_rig(), machine, lab.weather, dirty, 0.0, r) for r in ("", "dirty_condenser"))
    assert washed.head_pa < left.head_pa - 1e5


def test_what_went_in_already_counts_for_what_a_plan_would_do():
    lab, _ = played("Safe and right")
    machine = lab.bench.individual.machine(lab.bench.profile)
    charge = machine.circuit.charge_kg
    planted = (Fault(id="undercharge", severity=90.0), Fault(id="dirty_condenser", severity=70.0))
    dirty = planted[1:]
    assert faults_now(machine, planted, 0.1 * charge) == dirty
    assert faults_now(machine, planted, 0.0) == (*dirty, Fault(id="undercharge", severity=90.0))
    assert faults_now(machine, planted, 0.2 * charge) == (*dirty, Fault(id="overcharge", severity=110.0))
    assert faults_now(machine, (), -0.05 * charge) == (Fault(id="undercharge", severity=95.0),)


@pytest.mark.parametrize(("oz", "word"), [(1e6, "and its lines hold"), (-1e6, "than is in it")])
def test_a_weight_no_machine_holds_is_said_and_followed_no_further(oz, word):
    lab, _ = played("Safe and right")
    machine = lab.bench.individual.machine(lab.bench.profile)
    seen = forecast(worked_rig(), machine, lab.weather, (), oz * KG_PER_OZ)
    assert word in seen.warnings[0] and abs(seen.moved_kg) <= 1.5 * machine.circuit.charge_kg


def test_the_document_says_what_the_sessions_are_marked():
    text = DOC.read_text()
    told = text[text.index(BEGIN) + len(BEGIN) : text.index(END)]
    assert told == report(lambda name: played(name))
