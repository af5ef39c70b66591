"""Correction keys: the right plan, its proof, and what wrong plans would have led to, all from the solver."""

import re
from dataclasses import replace

import pytest

from wolfsbane.acting.plan import judged_by
from wolfsbane.acting.script import play_on
from wolfsbane.acting.settling import arrive, moment, settled
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.correction import charge_to_target, consequence, correction, plan_line, steady
from wolfsbane.exercise.plan.scenario import scenario

VALVE, ORIFICE = "split-3t-r410a-txv", "split-3t-r410a-orifice"
PRACTICE = practice_by_id("plate_and_formula")


def key(machine_id, *faults, **more):
    machine = MACHINES[machine_id]
    return correction(
        machine, rating_conditions(machine), [Fault(id=i, severity=v, cause=None) for i, v in faults], PRACTICE, **more
    )


def number(text):
    return float(re.match(r"[−-]?[\d.]+", text).group().replace("−", "-"))


def test_the_first_action_is_the_one_that_matters_and_the_proof_is_the_sound_machine():
    found = key(VALVE, ("undercharge", 80), ("dirty_condenser", 55))
    assert found.first.action == "clean_condenser" and found.repairs == ("dirty_condenser", "undercharge")
    fault_free = solve(MACHINES[VALVE], rating_conditions(MACHINES[VALVE]))
    assert number(found.proof.figures["subcooling"]) == pytest.approx(fault_free.subcooling_dk * 1.8, abs=0.51)
    between = found.between[0].shown.figures
    assert number(between["subcooling"]) < 3, "cleaning uncovers the low charge"


def test_an_amount_is_what_is_missing_with_a_tolerance_from_the_band():
    step = next(s for s in key(VALVE, ("undercharge", 80)).steps if s.action == "add_liquid")
    missing = 0.2 * MACHINES[VALVE].circuit.charge_kg / 0.028349523125
    assert step.amount == pytest.approx(missing, abs=0.1)
    assert 2 < step.tolerance < 10
    si = next(s for s in key(VALVE, ("undercharge", 80), system="si").steps if s.action == "add_liquid")
    assert si.unit == "g" and si.amount == pytest.approx(missing * 28.3495, abs=2)


def test_a_consequence_told_is_where_playing_that_plan_ends():
    machine = MACHINES[VALVE]
    found = key(VALVE, ("dirty_condenser", 60))
    told = next(w for w in found.wrong if w.plan == "add_refrigerant")
    added = float(re.search(r"Adding ([\d.]+) oz", told.text).group(1))
    begun = arrive(on_site(machine, rating_conditions(machine), (Fault(id="dirty_condenser", severity=60),)))
    played = play_on(begun, [("add_liquid", {"oz": added}), ("release_hoses", {})]).site
    end = moment(settled(played)[0]).state
    assert number(told.figures["subcooling"]) == pytest.approx(end.subcooling_dk * 1.8, abs=0.8)
    assert number(told.figures["head_pressure"]) == pytest.approx((end.head_pa - end.barometer_pa) / 6894.757, abs=3)


def test_a_wrong_plan_that_trips_the_machine_says_so():
    machine = MACHINES["split-3t-r410a-microchannel"]
    from wolfsbane.cycle.conditions import conditions

    hot = conditions(outdoor_db_f=115, return_db_f=84, return_wb_f=71)
    found = correction(machine, hot, [Fault(id="dirty_condenser", severity=48)], PRACTICE)
    assert solve(machine, hot, (Fault(id="dirty_condenser", severity=48),)).trip is None
    told = next(w for w in found.wrong if w.plan == "add_refrigerant")
    assert told.trips and "cutout" in told.text and not told.figures


def test_charging_first_on_a_starved_coil_leaves_the_charge_wrong():
    told = next(w for w in key(ORIFICE, ("low_airflow", 50)).wrong if w.plan == "charged_first")
    assert "too little" in told.text and number(told.figures["superheat"]) > 18


def test_topping_up_a_flooding_valve_takes_the_rest_of_the_superheat():
    told = consequence(key(VALVE, ("valve_overfeeding", 88)), "add_refrigerant")
    assert "takes the rest of the superheat" in told


def test_a_condemned_part_costs_and_changes_nothing_but_hides_a_leak():
    wrong = {w.plan: w for w in key(VALVE, ("undercharge", 75)).wrong}
    assert "hides the leak" in wrong["replace_compressor"].text
    dirty = {w.plan: w for w in key(VALVE, ("dirty_condenser", 60)).wrong}
    before = solve(MACHINES[VALVE], rating_conditions(MACHINES[VALVE]), (Fault(id="dirty_condenser", severity=60),))
    assert number(dirty["replace_compressor"].figures["head_pressure"]) == pytest.approx(
        (before.head_pa - before.barometer_pa) / 6894.757, abs=1
    )


def test_nothing_is_planned_on_a_sound_machine():
    found = key(VALVE)
    assert not found.steps and found.first.action == "none" and "Nothing" in plan_line(found)
    assert {w.plan for w in found.wrong} == {"add_refrigerant", "take_refrigerant"}


def test_a_machine_that_cuts_out_still_has_its_plan():
    machine = MACHINES["split-3t-r410a-microchannel"]
    found = correction(machine, rating_conditions(machine), [Fault(id="overcharge", severity=150)], PRACTICE)
    assert found.refusal is None and any(s.action == "remove" for s in found.steps)


def test_marking_tells_what_the_wrong_first_step_would_have_done():
    call = vary(
        scenario(
            {
                "title": "t",
                "machine": VALVE,
                "faults": [{"id": "dirty_condenser", "severity": 55}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65,
            }
        ),
        "us",
        4,
    )
    call = call_from_json(call.to_json())
    assert call.key.correction.first.action == "clean_condenser"
    answers = perfect_answers(call)
    answers["action"] = next(r.letter for r in call.choices.action if r.id == "undercharge")
    mark = next(m for m in grade(call, answers) if m.question == "action")
    assert mark.earned == 0 and "would have" in mark.text and "Adding" in mark.text
    stored = call.to_json()
    del stored["key"]["correction"]
    old = call_from_json(stored)
    assert next(m for m in grade(old, answers) if m.question == "action").earned == 0, (
        "calls made before have no consequence to tell"
    )


@pytest.mark.parametrize(
    ("machine_id", "fault"),
    [(VALVE, ("dirty_condenser", 55)), (VALVE, ("low_airflow", 60)), (ORIFICE, ("low_airflow", 50))],
)
def test_the_charge_that_somebody_charges_to_brings_the_figure_to_its_target(machine_id, fault):
    machine = MACHINES[machine_id]
    site = on_site(machine, rating_conditions(machine), (Fault(id=fault[0], severity=fault[1]),))
    rising = judged_by(machine) == "subcooling"
    for target_dk in (4.0, 6.0, 8.0):
        kg = charge_to_target(site, target_dk)
        there = steady(replace(site, circuit_kg=kg))
        assert (there.subcooling_dk if rising else there.superheat_dk) == pytest.approx(target_dk, abs=0.02)
    assert charge_to_target(site, 60.0) is None, "no charge does"
