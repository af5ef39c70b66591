"""A heat pump in heating: solved, frost named, defrost left out."""

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.heating import heating, heating_conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import W_PER_BTUH

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
    assert heats[3] / heats[1] < 0.8


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


def test_faults_run_as_they_should_in_heating():
    fault_free = at(47)
    assert at(47, Fault(id="undercharge", severity=75)).subcooling_dk < fault_free.subcooling_dk
    assert at(47, Fault(id="leaking_compressor_valves", severity=40)).suction_pa > fault_free.suction_pa
    indoor = at(47, Fault(id="dirty_condenser", severity=60))
    assert indoor.head_pa > fault_free.head_pa + 100e3, "little air over the condenser: indoors now"
    assert at(47, Fault(id="low_airflow", severity=50)).suction_pa < fault_free.suction_pa


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
