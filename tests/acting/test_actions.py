"""The catalog of actions: every one says what it costs, needs and risks;
dangerous and pointless ones answer with their consequence.
"""

import re
from pathlib import Path

import pytest

from tests.acting.conftest import fault
from wolfsbane.acting.actions import ACTIONS, act, actions_for
from wolfsbane.acting.actions.kind import MONEY
from wolfsbane.acting.actions.repairs import repaired_by
from wolfsbane.acting.script import script
from wolfsbane.acting.settling import moment, settled
from wolfsbane.acting.time_constants import ASSUMED, FROM_MEMORY, TIME_CONSTANTS
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, faults_for
from wolfsbane.cycle.profiles import MACHINES

VALVE = "split-3t-r410a-txv"
NOT_MENDED = {
    "undercharge",
    "overcharge",
    "long_liquid_line",
    "wet_condenser",
    "non_condensables",
    "wrong_refrigerant",
    "high_load",
    "low_load",
    "undersized_unit",
    "stratified_air",
}


def do(site, action, **given):
    return act(site, ACTIONS[action], given)


@pytest.mark.parametrize("kind", ACTIONS.values(), ids=lambda k: k.id)
def test_every_action_says_what_it_costs_and_what_it_needs(kind):
    assert kind.name and kind.money in MONEY and kind.machine in ("on", "off", "either")
    assert kind.minutes is not None or kind.group in ("time", "refrigerant", "coils", "valve", "service valves")
    if kind.certification or kind.recovery:
        assert kind.risk, "what opens a circuit carries its caution"
    assert any(kind.suits(m) for m in MACHINES.values())


@pytest.mark.parametrize("machine", MACHINES.values(), ids=lambda m: m.id)
def test_every_cause_of_every_fault_has_a_repair_this_machine_allows(machine):
    allowed = {k.id for k in actions_for(machine)}
    for kind in faults_for(machine):
        if kind.id not in NOT_MENDED:
            for cause in kind.causes:
                repairs = repaired_by(Fault(id=kind.id, severity=kind.mild, cause=cause.id))
                assert repairs and repairs[0] in allowed, (kind.id, cause.id)


def test_the_list_of_what_is_not_mended_by_a_repair_names_only_real_faults():
    assert set(FAULTS) >= NOT_MENDED


@pytest.mark.parametrize(
    ("action", "given", "words"),
    [
        ("clean_condenser", {}, "machine off"),
        ("evacuate", {}, "machine off"),
        ("weigh_in", {}, "machine off"),
        ("release_hoses", {}, "hoses are empty"),
        ("uncover_condenser", {}, "Nothing is blocking"),
        ("undo_temporary", {}, "Nothing temporary"),
        ("start", {}, "already running"),
        ("thaw_coil", {}, "machine off"),
        ("dry_condenser", {}, "coil is dry"),
    ],
)
def test_what_cannot_be_done_now_is_refused_with_its_reason_and_changes_nothing(action, given, words, site):
    begun = site(VALVE)
    done = do(begun, action, **given)
    assert done.refused and words in done.said[0]
    assert done.site.circuit_kg == begun.circuit_kg and done.site.shown == begun.shown


def test_evacuating_a_full_circuit_is_refused(site):
    off = do(site(VALVE), "stop").site
    done = do(off, "evacuate")
    assert done.refused and "Recover first" in done.said[0]


def test_a_cylinder_is_never_filled_past_its_mark(site):
    full = site(VALVE, fault("overcharge", 140))
    into = full.cylinder("recovery")
    nearly = full.with_cylinder(type(into)(**{**into.__dict__, "kg": into.most_kg - 0.2}))
    done = do(nearly, "remove", oz=40)
    assert done.site.cylinder("recovery").kg <= into.most_kg + 1e-9
    assert any("80 %" in s for s in done.said)
    off = do(nearly, "stop").site
    assert do(off, "recover_all").refused


@pytest.mark.parametrize(
    ("machine_id", "faults", "action", "given", "words"),
    [
        (VALVE, (), "vent", {"oz": 5}, "against the law"),
        ("split-3t-r32-eev", (), "vent", {"oz": 5}, "It is flammable"),
        ("water-cooled-5t-r407c-txv", (), "add_vapour", {"oz": 5}, "not the same blend"),
        (VALVE, (), "add_liquid", {"oz": 12, "rate_oz_min": 40, "bursts": "no"}, "slugs"),
        (VALVE, (("undercharge", 75, "leak"),), "add_liquid", {"oz": 5}, "leak is not repaired"),
        (VALVE, (("wet_condenser", 90, None),), "add_liquid", {"oz": 3}, "condenser is wet"),
        (VALVE, (("wrong_refrigerant", 100, None),), "add_liquid", {"oz": 3}, "no longer any refrigerant"),
        (VALVE, (("valve_overfeeding", 95, "stuck_open"),), "adjust_stem", {"turns": -1}, "does not respond"),
        (VALVE, (), "wet_condenser", {}, "not because the charge is correct"),
    ],
)
def test_dangerous_and_pointless_actions_answer_with_their_consequence(machine_id, faults, action, given, words, site):
    done = do(site(machine_id, *(fault(*f) for f in faults)), action, **given)
    assert any(words in s for s in done.said), done.said


def test_a_careful_burst_does_not_knock(site):
    assert not any("slugs" in s for s in do(site(VALVE), "add_liquid", oz=3).said)


def test_a_part_that_was_sound_changes_nothing_but_the_time_and_the_purse(site):
    begun = site(VALVE, fault("dirty_condenser", 60))
    off = do(begun, "stop").site
    done = do(off, "replace_compressor")
    assert "was good" in done.said[-1] and done.minutes > 240
    assert done.site.log[-1].money == "large"
    again, _ = settled(do(done.site, "start").site)
    assert moment(again).state.head_pa == pytest.approx(moment(begun).state.head_pa, abs=2000)


def test_opening_the_circuit_weighs_the_charge_in_by_the_plate_and_hides_what_leaked(site):
    low = site(VALVE, fault("undercharge", 75, "leak"))
    done = do(do(low, "stop").site, "replace_drier")
    assert done.site.circuit_kg == pytest.approx(low.right_kg, rel=0.01)
    assert done.site.leaking, "and the leak is still open"
    assert done.site.cylinder("recovery").kg > 0.7 * low.circuit_kg


def test_hoses_are_counted(site):
    begun = site(VALVE)
    fed = do(begun, "add_liquid", oz=10).site
    assert fed.hoses_kg > 0.02 and fed.lost_kg > 0.0
    assert begun.cylinder("new").kg - fed.cylinder("new").kg == pytest.approx(10 * 0.028349523125)
    emptied = do(fed, "release_hoses").site
    assert emptied.hoses_kg == 0.0
    assert emptied.circuit_kg - begun.circuit_kg == pytest.approx(10 * 0.028349523125 - fed.lost_kg)


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({}, "actions"),
        ([], "actions"),
        ("x", "actions"),
        ([{"do": "dance"}], "do"),
        ([{"minutes": 5}], "actions"),
        ([{"do": "wait", "minutes": 0}], "wait.minutes"),
        ([{"do": "wait", "minutes": "long"}], "wait.minutes"),
        ([{"do": "add_liquid"}], "add_liquid.oz"),
        ([{"do": "add_liquid", "oz": -3}], "add_liquid.oz"),
        ([{"do": "add_liquid", "oz": 3, "cylinder": "mine"}], "add_liquid.cylinder"),
        ([{"do": "stop", "hard": True}], "stop.hard"),
        ({"actions": [{"do": "stop"}], "weather": {"snow": 1}}, "weather.snow"),
        ({"actions": [{"do": "stop"}], "speed": 2}, "speed"),
        ({"actions": [{"do": "stop"}], "weather": {"outdoor_df_per_h": 90}}, "weather.outdoor_df_per_h"),
        ([{"do": "stop"}] * 201, "actions"),
        ([{"do": "wait", "minutes": 600}] * 5, "actions"),
        ({"schema": 9, "actions": [{"do": "stop"}]}, "schema"),
        ({"actions": [{"do": "stop"}], "weather": 5}, "weather"),
    ],
)
def test_a_bad_script_names_the_field(data, field):
    with pytest.raises(BadInputError) as caught:
        script(data)
    assert caught.value.field == field


def test_an_action_a_machine_does_not_allow_is_refused_by_name(site):
    with pytest.raises(BadInputError, match="water-cooled"):
        do(site("water-cooled-5t-r407c-txv"), "clean_condenser")


def test_each_time_constant_is_sourced_or_marked_assumed_and_stands_in_the_page():
    page = (Path(__file__).resolve().parents[2] / "docs" / "model.md").read_text()
    for constant in TIME_CONSTANTS.values():
        assert constant.source in (ASSUMED, FROM_MEMORY) and constant.why
        row = next((line for line in page.splitlines() if line.startswith(f"| {constant.id} |")), None)
        assert row, constant.id
        number = re.search(r"\| ([0-9.]+) ", row[len(constant.id) + 3 :])
        assert float(number.group(1)) == constant.value and constant.source in row
