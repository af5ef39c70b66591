"""A heat pump in heating: solved, frost named, defrost left out."""

import pytest

from wolfsbane.cli.contract import heating_row
from wolfsbane.cycle import field_tests
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.heating import heating, heating_conditions, metered
from wolfsbane.cycle.instruments import label, points_for, read, usual_points
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import W_PER_BTUH
from wolfsbane.diagnosis.targets import bands, practice_by_id

PUMP = MACHINES["heatpump-3t-r410a-txv"]


def at(outdoor_f, *faults, room_f=70):
    return solve(heating(PUMP), heating_conditions(outdoor_db_f=outdoor_f, return_db_f=room_f), faults)


def heat(state):
    return state.condenser_heat_w / W_PER_BTUH


def test_a_three_ton_heat_pump_heats_with_about_three_tons_at_47_degrees():
    """Heating capacity at 47 degF near the cooling capacity (common practice, no source)."""
    assert 30_000 < heat(at(47)) < 42_000


def test_heat_and_coefficient_of_performance_fall_with_the_outdoor_air():
    states = [at(f) for f in (60, 47, 35, 17)]
    heats = [heat(s) for s in states]
    assert heats == sorted(heats, reverse=True)
    cops = [s.condenser_heat_w / s.work_w for s in states]
    assert cops == sorted(cops, reverse=True) and cops[1] > 3.0
    assert heats[3] / heats[1] < 0.75


def test_frost_is_named_below_the_forties_and_not_above():
    assert at(35).frosting and at(17).frosting
    assert not at(60).frosting


def test_energy_and_mass_close_in_heating():
    for outdoor in (17, 35, 47, 60):
        state = at(outdoor)
        assert abs(state.energy_residual) < 1e-5 and abs(state.mass_residual) < 1e-5


def test_the_head_follows_the_room_and_the_suction_the_weather():
    """Unlike in cooling, where it is the other way round."""
    assert at(47, room_f=75).head_pa > at(47, room_f=65).head_pa + 50e3
    assert at(47).suction_pa > at(30).suction_pa + 100e3


def test_a_fault_stands_on_the_coil_it_is_about():
    """Indoors and outdoors stay where they are when the refrigerant turns round (common practice, no source)."""
    fault_free = at(47)
    filter_ = at(47, Fault(id="low_airflow", severity=50))
    assert filter_.head_pa > fault_free.head_pa + 400e3 and abs(filter_.suction_pa - fault_free.suction_pa) < 60e3
    outdoor = at(47, Fault(id="dirty_condenser", severity=50))
    assert outdoor.suction_pa < fault_free.suction_pa - 30e3 and outdoor.head_pa < fault_free.head_pa
    assert at(47, Fault(id="condenser_recirculation", severity=16)).suction_pa < fault_free.suction_pa - 100e3


def test_load_is_the_house():
    assert at(47, Fault(id="high_load", severity=10)).head_pa < at(47).head_pa - 200e3, "the house is colder"
    assert at(47, Fault(id="low_load", severity=10)).head_pa > at(47).head_pa + 200e3


@pytest.mark.parametrize("share", [100, 70, 50])
def test_indoor_airflow_times_its_rise_is_the_heat(share):
    faults = () if share == 100 else (Fault(id="low_airflow", severity=share),)
    row = heating_row(at(47, *faults), heating(PUMP), faults)
    sensible = 1.08 * row["airflow_cfm"] * row["air_delta_t_df"]
    assert sensible == pytest.approx(row["capacity_btuh"], rel=0.02)
    assert row["airflow_cfm"] == pytest.approx(11.5 * share, rel=0.01)


def test_a_compressor_that_pumps_nothing_blows_the_air_of_the_house():
    faults = (Fault(id="compressor_not_pumping", severity=0),)
    row = heating_row(at(47, *faults), heating(PUMP), faults)
    assert 70 < row["supply_db_f"] < 72 and row["equal_pressures"]


def test_the_sound_machine_heats_in_the_cold():
    """17 over 47 degF capacity, head and subcooling at 17 degF (usual .58 to .65, 260 to 300 psig, 10 to 15 degF: from
    memory; a switch for loss of charge instead of the cutout of cooling: common practice, no source).
    """
    states = {f: at(f) for f in (47, 17, 10, 5)}
    assert all(s.trip is None for s in states.values())
    for s in states.values():
        assert s.suction_line_k < s.coil_air.dry_bulb_k, "the suction line lies outdoors"
    cold = states[17]
    assert 0.55 < heat(cold) / heat(states[47]) < 0.70
    assert 250 < cold.head_pa / 6894.76 - 14.7 < 320 and 4 < cold.subcooling_dk * 1.8 < 16


def test_the_charge_is_the_one_of_cooling():
    assert heating(PUMP).circuit.charge_kg == PUMP.circuit.charge_kg
    assert at(47).charge_kg == pytest.approx(PUMP.circuit.charge_kg, rel=1e-5)


def test_the_other_faults_run_as_in_cooling():
    fault_free = at(47)
    assert at(47, Fault(id="undercharge", severity=75)).subcooling_dk < fault_free.subcooling_dk
    assert at(47, Fault(id="leaking_compressor_valves", severity=40)).suction_pa > fault_free.suction_pa
    with pytest.raises(BadInputError, match="wet_condenser"):
        at(47, Fault(id="wet_condenser", severity=60))


def test_only_a_heat_pump_heats_and_bad_weather_names_its_field():
    with pytest.raises(BadInputError, match="heating"):
        heating(MACHINES["split-3t-r410a-txv"])
    for given, field in (
        ({"outdoor_db_f": 95, "return_db_f": 70}, "outdoor_db_f"),
        ({"outdoor_db_f": 40, "return_db_f": 20}, "return_db_f"),
        ({"outdoor_db_f": 40, "return_db_f": 70, "return_wb_f": 80}, "return_wb_f"),
    ):
        with pytest.raises(BadInputError) as caught:
            heating_conditions(**given)
        assert caught.value.field == field


SHIPPED = MACHINES["heatpump-3t-r410a-heating"]


def test_the_shipped_profile_is_what_metering_it_finds():
    found = metered(PUMP)
    assert heating(PUMP) is SHIPPED
    for name in Circuit._fields:
        assert getattr(SHIPPED.circuit, name) == pytest.approx(getattr(found.circuit, name), rel=1e-6), name
    assert SHIPPED.plate.low_cutout_gauge_pa == pytest.approx(found.plate.low_cutout_gauge_pa, rel=1e-6)


@pytest.mark.parametrize("outdoor_f", (0, 17, 35, 47, 60))
@pytest.mark.parametrize("house_f", (62, 70, 78))
def test_nothing_wrong_is_on_target_from_a_cold_morning_to_a_mild_day(outdoor_f, house_f):
    """TD and head follow the outdoor air in heating, and so do their targets."""
    state = solve(SHIPPED, for_machine(SHIPPED, outdoor_db_f=outdoor_f, return_db_f=house_f))
    for practice in ("plate_and_formula", "large_coil"):
        for name, band in bands(SHIPPED, practice_by_id(practice), "us", outdoor_f, None).items():
            assert band.verdict(1.8 * getattr(state, f"{name}_dk")) == "normal", (name, practice)


def test_readings_are_called_by_where_they_are_taken():
    state = solve(SHIPPED, rating_conditions(SHIPPED))
    shown = {
        label(key, SHIPPED): r.value for key, r in read(state, "analogue", "us", keys=usual_points(SHIPPED)).items()
    }
    assert shown["Outdoor air, dry bulb"] == 47 and shown["Return air, dry bulb"] == 70
    assert 95 < shown["Supply air, dry bulb"] < 110, "a heat pump's supply air at 47 degF (common practice, no source)"
    assert "return_wb" not in points_for(SHIPPED)


def test_more_charge_than_the_indoor_coil_and_its_compensator_hold_trips_on_head():
    weather = for_machine(SHIPPED, outdoor_db_f=30, return_db_f=68)
    heads = []
    for charge in (100, 120, 130, 140, 150):
        state = solve(SHIPPED, weather, (Fault(id="overcharge", severity=charge),))
        if state.trip is not None:
            assert state.trip.cutout == "high_pressure"
            break
        heads.append(state.head_pa)
    assert heads == sorted(heads) and state.trip is not None


def test_tests_that_have_no_place_in_heating_are_not_offered():
    offered = {t.id: t.name for t in field_tests.tests_for(SHIPPED)}
    assert not {"pump_down", "run_on", "condenser_entering_air"} & set(offered)
    assert offered["condenser_coil"].startswith("Outdoor coil") and offered["evaporator_coil"] == "Indoor coil"
    weather = for_machine(SHIPPED, outdoor_db_f=30, return_db_f=68)
    assert field_tests.ask(SHIPPED, weather, (), "evaporator_ice").word is True
    dirty = (Fault(id="dirty_condenser", severity=50, cause="dirt_between_rows"),)
    assert field_tests.ask(SHIPPED, weather, dirty, "condenser_coil").word == "dirty"
