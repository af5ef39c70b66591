"""Trends: a little more of a cause gives a little more of its effect, without jumps."""

import numpy as np
import pytest

from tests.conftest import ORIFICE, R22, VALVE, solved


def series(machine_id, fault, severities, figure, **where):
    return np.array([figure(solved(machine_id, fault, float(s), **where)) for s in severities])


SUBCOOLING, SUPERHEAT = (lambda s: s.subcooling_dk * 1.8), (lambda s: s.superheat_dk * 1.8)
HEAD, SUCTION, CTOA = (lambda s: s.head_pa), (lambda s: s.suction_pa), (lambda s: s.ctoa_dk * 1.8)


@pytest.mark.parametrize("machine_id", [VALVE, ORIFICE, R22])
def test_subcooling_rises_with_every_ounce_until_the_condenser_runs_out_of_it(machine_id):
    less = series(machine_id, "undercharge", np.linspace(70, 99.5, 25), SUBCOOLING)
    more = series(machine_id, "overcharge", np.linspace(100.5, 135, 25), SUBCOOLING)
    both = np.concatenate([less, more])
    assert np.all(np.diff(both) > -0.02) and np.max(np.diff(both)) < 2.0
    assert less[0] == pytest.approx(0, abs=0.05) and more[-1] > 18


@pytest.mark.parametrize("machine_id", [VALVE, ORIFICE])
def test_head_rises_as_the_condenser_clogs(machine_id):
    head = series(machine_id, "dirty_condenser", np.linspace(99, 35, 25), HEAD)
    assert np.all(np.diff(head) > 0)
    assert np.all(np.diff(head, 2) > -3e3), "and faster the worse it gets"


@pytest.mark.parametrize("machine_id", [VALVE, ORIFICE])
def test_suction_falls_as_the_airflow_falls(machine_id):
    assert np.all(np.diff(series(machine_id, "low_airflow", np.linspace(99, 30, 20), SUCTION)) < 0)


def test_an_orifice_floods_little_by_little_and_a_valve_holds_its_superheat():
    orifice = series(ORIFICE, "low_airflow", np.linspace(99, 60, 15), SUPERHEAT)
    valve = series(VALVE, "low_airflow", np.linspace(99, 60, 15), SUPERHEAT)
    assert np.all(np.diff(orifice) < 0.01) and orifice[0] - orifice[-1] > 9
    assert np.ptp(valve) < 1.0


def test_superheat_climbs_with_the_restriction_once_the_valve_stands_open():
    found = series(VALVE, "liquid_line_restriction", np.linspace(5, 390, 30), SUPERHEAT)
    assert np.all(np.diff(found) > -0.05) and found[-1] > 45 and abs(found[4] - found[0]) < 1.5


@pytest.mark.parametrize("machine_id", [VALVE, ORIFICE, R22])
def test_hotter_weather_raises_the_head_and_costs_capacity(machine_id):
    states = [solved(machine_id, outdoor=t) for t in range(75, 111, 5)]
    assert np.all(np.diff([s.head_pa for s in states]) > 0)
    assert np.all(np.diff([s.capacity_w for s in states][2:]) < 0)


def test_wetter_return_air_lowers_the_delta_t_and_raises_the_suction():
    states = [solved(VALVE, return_wb=t) for t in (60, 63, 67, 70, 73)]
    assert np.all(np.diff([s.air_delta_t_dk for s in states]) < 0)
    assert np.all(np.diff([s.suction_pa for s in states]) > 0)


def test_supply_air_is_never_wetter_than_the_return_or_colder_than_the_surface():
    for wb in (58, 63, 67, 72):
        for air in (100, 60, 45):
            state = solved(VALVE, "low_airflow" if air < 100 else None, air if air < 100 else None, return_wb=wb)
            assert state.supply_air.humidity_ratio <= state.return_air.humidity_ratio + 1e-9
            assert state.supply_air.dry_bulb_k > state.surface_k - 0.5
            assert state.supply_air.wet_bulb_k <= state.supply_air.dry_bulb_k + 1e-6


def test_two_faults_add_up_on_the_gauges():
    from tests.conftest import weather
    from wolfsbane.cycle.faults import Fault
    from wolfsbane.cycle.profiles import machine
    from wolfsbane.cycle.solver import solve

    both = solve(
        machine(VALVE), weather(), (Fault(id="undercharge", severity=85), Fault(id="dirty_condenser", severity=60))
    )
    dirty = solved(VALVE, "dirty_condenser", 60)
    assert CTOA(both) < CTOA(dirty) and SUBCOOLING(both) < SUBCOOLING(dirty) - 5
    assert CTOA(both) > CTOA(solved(VALVE, "undercharge", 85)) + 5, "a dirty condenser hides a low charge"
