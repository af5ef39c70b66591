"""Tests an apprentice asks for: they come out differently for the look-alikes they are meant to separate."""

import pytest

from tests.conftest import ORIFICE, VALVE, weather
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.field_tests import tests_for as allowed
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve

#: answers of the contract that have a fixed vocabulary
WORDS = {
    "pump_down": {"suction_falls", "suction_holds", "suction_rises", "not_possible"},
    "bulb_warmed": {"responds", "no_response"},
    "bulb_chilled": {"responds", "no_response"},
    "standing_pressure": {"matches_chart", "above_chart", "below_chart"},
    "coil_face": {"even", "part_cold"},
    "sight_glass": {"clear", "bubbles"},
    "compressor_sound": {"normal", "noisy"},
    "filter": {"clean", "dirty"},
    "condenser_coil": {"clean", "dirty"},
    "evaporator_coil": {"clean", "dirty"},
    "blower_wheel": {"clean", "dirty"},
    "bulb": {"tight", "loose", "bare"},
    "evaporator_ice": {True, False},
    "oil_traces": {True, False},
    "condenser_wet": {True, False},
}


def word(test, *faults, machine_id=VALVE, where=None):
    m = machine(machine_id)
    planted = tuple(Fault(id=i, severity=s, cause=c[0] if c else None) for i, s, *c in faults)
    return ask(m, where or rating_conditions(m), planted, test).word


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_a_sound_machine_answers_every_test_like_a_sound_machine(m):
    found = {t.id: ask(m, rating_conditions(m), (), t.id) for t in allowed(m)}
    fault_free = {
        "drier_drop": "even",
        "sight_glass": "clear",
        "coil_face": "even",
        "amps": "normal",
        "shell": "warm",
        "compressor_sound": "normal",
        "standing_pressure": "matches_chart",
        "airflow": "right",
        "bulb_warmed": "responds",
        "static_pressure": "within_limit",
        "bulb_chilled": "responds",
        "filter": "clean",
        "oil_traces": False,
        "reversing_valve_step": "even",
        "condenser_entering_air": "as_outdoors",
        "water_in_out": "normal_rise",
    }
    assert {k: found[k].word for k in fault_free if k in found} == {k: v for k, v in fault_free.items() if k in found}
    if "pump_down" in found:
        assert found["pump_down"].word == ("not_possible" if m.condenser == "microchannel" else "suction_falls")
    assert all(a.text.endswith(".") for a in found.values())


@pytest.mark.parametrize("kind", FAULTS.values(), ids=lambda k: k.id)
def test_answers_keep_to_the_words_of_the_contract(kind):
    m = next(m for m in MACHINES.values() if kind.suits(m))
    for cause in kind.causes:
        planted = (Fault(id=kind.id, severity=kind.moderate, cause=cause.id),)
        for test in allowed(m):
            if test.id in WORDS:
                assert ask(m, rating_conditions(m), planted, test.id).word in WORDS[test.id] | {"cut_out"}


def test_a_pump_down_tells_worn_valves_from_high_load_and_an_overfeeding_valve():
    assert word("pump_down", ("leaking_compressor_valves", 36)) in ("suction_rises", "suction_holds")
    assert word("pump_down", ("high_load", 10)) == word("pump_down", ("valve_overfeeding", 95)) == "suction_falls"
    assert word("pump_down", ("compressor_not_pumping", 0)) == "suction_holds"


def test_a_pump_down_is_refused_where_the_condenser_cannot_hold_the_charge():
    assert word("pump_down", ("overcharge", 150)) == "not_possible"


def test_the_bulb_tells_a_stuck_valve_from_a_loose_bulb_and_one_way_failure():
    assert word("bulb_chilled", ("valve_overfeeding", 95, "stuck_open")) == "no_response"
    assert word("bulb_chilled", ("valve_overfeeding", 95, "bulb_loose")) == "responds"
    assert word("bulb", ("valve_overfeeding", 95, "bulb_loose")) == "loose"
    assert word("bulb_warmed", ("valve_underfeeding", 50, "lost_bulb_charge")) == "no_response"
    assert (
        word("bulb_warmed", ("valve_underfeeding", 50, "stuck_shut")),
        word("bulb_chilled", ("valve_underfeeding", 50, "stuck_shut")),
    ) == ("no_response", "responds"), "a valve may answer one way only"


def test_chilling_a_sound_bulb_makes_the_suction_dive_and_warming_it_takes_the_superheat():
    m = machine(VALVE)
    warmed = ask(m, weather(), (), "bulb_warmed").values
    assert warmed["suction_change_psi"] > 3 and warmed["superheat_change_df"] < -8
    assert "cutout" in ask(m, weather(), (), "bulb_chilled").text


def test_the_drier_tells_a_restriction_from_an_underfeeding_valve():
    assert word("drier_drop", ("liquid_line_restriction", 160)) == "drop"
    assert word("drier_drop", ("valve_underfeeding", 50)) == "even"


def test_standing_pressure_tells_air_from_an_overcharge_and_a_dirty_coil():
    assert word("standing_pressure", ("non_condensables", 1.5)) == "above_chart"
    assert (
        word("standing_pressure", ("overcharge", 125))
        == word("standing_pressure", ("dirty_condenser", 60))
        == "matches_chart"
    )


def test_the_coils_face_tells_a_blocked_distributor_from_low_airflow():
    assert word("coil_face", ("distributor_blocked", 40)) == "part_cold"
    assert word("coil_face", ("low_airflow", 50)) == "even"


def test_airflow_and_static_pressure_tell_a_blocked_way_from_a_slow_blower():
    for cause, static in (("dirty_filter", "high"), ("duct", "high"), ("speed_tap", "low"), ("belt", "low")):
        assert word("airflow", ("low_airflow", 55, cause)) == "low"
        assert word("static_pressure", ("low_airflow", 55, cause)) == static
    assert (
        word("airflow", ("mismatched_coil", 60)) == "right"
        and word("coil_match", ("mismatched_coil", 60)) == "too small"
    )


def test_the_step_across_the_reversing_valve_tells_it_from_worn_compressor_valves():
    pump = "heatpump-3t-r410a-txv"
    assert word("reversing_valve_step", ("reversing_valve_leak", 30), machine_id=pump) == "warms"
    assert word("reversing_valve_step", ("leaking_compressor_valves", 30), machine_id=pump) == "even"


def test_water_in_and_out_tells_fouling_from_low_flow():
    water = "water-cooled-5t-r407c-txv"
    assert word("water_in_out", ("low_water_flow", 45), machine_id=water) == "large_rise"
    assert word("water_in_out", ("water_condenser_fouled", 40), machine_id=water) == "normal_rise"


def test_looks_tell_causes_and_the_condensers_place():
    assert word("condenser_coil", ("dirty_condenser", 60)) == "dirty"
    assert (
        word("condenser_coil", ("condenser_fan_weak", 60)) == "clean"
        and word("condenser_fan", ("condenser_fan_weak", 60)) == "slow"
    )
    assert word("condenser_entering_air", ("condenser_recirculation", 16)) == "warmer"
    assert word("oil_traces", ("undercharge", 80, "leak")) is True
    assert word("oil_traces", ("undercharge", 80, "undercharged_at_start")) is False
    assert word("second_circuit", ("one_circuit_off", 0), machine_id="package-10t-r410a-two-circuits") == "off"


def test_a_machine_that_cuts_out_gives_no_running_answer():
    m = machine(VALVE)
    faults = (Fault(id="dirty_condenser", severity=25),)
    assert ask(m, weather(outdoor=115), faults, "amps").word == "cut_out"
    assert ask(m, weather(outdoor=115), faults, "condenser_coil").word == "dirty"


def test_running_on_tells_what_the_ice_does():
    dry = weather(outdoor=75, return_db=68, return_wb=55)
    assert (
        word("run_on", ("low_airflow", 35), where=dry) in ("closed", "cut_out", "growing")
        and word("run_on") == "no_frost"
    )


def test_slugging_is_heard():
    flooded = solve(machine(ORIFICE), weather(), (Fault(id="orifice_oversized", severity=150),))
    assert flooded.slugging and word("compressor_sound", ("orifice_oversized", 150), machine_id=ORIFICE) == "noisy"


@pytest.mark.parametrize(
    ("machine_id", "test"),
    [
        (VALVE, "water_in_out"),
        (ORIFICE, "bulb"),
        (VALVE, "tea_leaves"),
        ("reachin-r134a-capillary", "pump_down"),
        ("walkin-cooler-r404a-txv", "filter"),
    ],
)
def test_a_test_without_a_place_here_is_refused_with_those_that_have_one(machine_id, test):
    m = machine(machine_id)
    with pytest.raises(BadInputError) as error:
        ask(m, rating_conditions(m), (), test)
    assert error.value.field == "test" and "standing_pressure" in error.value.allowed


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_every_sentence_is_written_in_either_system(m):
    for test in allowed(m):
        us, si = (ask(m, rating_conditions(m), (), test.id, system) for system in ("us", "si"))
        assert us.word == si.word and us.values == si.values
        assert not any(unit in si.text for unit in ("°F", "psi", "cfm", "w.c.")), si.text
        assert not any(unit in us.text for unit in ("°C", "kPa", "L/s")), us.text


def test_every_test_has_a_place_somewhere():
    assert {t.id for m in MACHINES.values() for t in allowed(m)} == set(FIELD_TESTS)
