"""Mass and energy close in every state, over a few hundred random machines, weathers and faults."""

from dataclasses import replace

import pytest

from tests.conftest import weather
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.sweep import case


def test_balances_close_to_a_thousandth_over_fifteen_hundred_random_states():
    """The same cases as ``wolfsbane sweep``, which takes twenty thousand; every machine, up to three faults."""
    solved, cut_out = 0, set()
    for number in range(1500):
        machine, where, planted = case(number, seed=20261123)
        state = solve(machine, where, planted)
        if state.trip is not None:
            cut_out.add(state.trip.cutout)
            continue
        solved += 1
        for part in (state, *filter(None, (state.twin,)), *(state.swing or ())):
            assert abs(part.energy_residual) <= 1e-3, (number, machine.id, where, planted)
            assert abs(part.mass_residual) <= 1e-3, (number, machine.id, where, planted)
    assert solved > 1300 and {"high_pressure", "low_pressure", "discharge_temperature"} <= cut_out


def test_a_receiver_and_its_condenser_never_contradict_each_other():
    """An empty receiver passes on whatever backs up, a holding one stands between no liquid and full."""
    seen = set()
    for number in range(6000):
        machine, where, planted = case(number, seed=3)
        if not machine.receiver:
            continue
        state = solve(machine, where, planted)
        if state.trip or state.equalized:
            continue
        seen.add(state.receiver.holds)
        if state.receiver.holds == "empty":
            floods = machine.circuit.flood_below_pa
            assert state.condenser_liquid_share < 0.005 or state.head_pa < floods, number
        else:
            assert 0.0 <= state.receiver.level <= 1.0 and state.sight_glass_quality >= 0.0, number
    assert seen >= {"liquid", "empty"}


@pytest.mark.parametrize("machine", MACHINES.values(), ids=lambda m: m.id)
def test_heat_in_and_work_leave_through_the_condenser(machine):
    """Told from the readings alone: the stream's own temperatures and flow, not the solver's balance."""
    state = solve(machine, rating_conditions(machine))
    one = state if state.twin is None else solve(replace(machine, circuits=1), rating_conditions(machine))
    water = machine.condenser == "water_cooled"
    stream = machine.circuit.condenser_air_kg_s * one.condenser_stream_share * (4186 if water else 1006)
    rejected = stream * one.condenser_rise_dk
    gained = rejected - one.capacity_w - one.work_w * (1 - machine.circuit.shell_loss)
    assert -0.02 * one.capacity_w < gained < 0.12 * one.capacity_w, (
        "what is left the two lines exchange with the air around them"
    )


def test_the_closure_test_can_fail():
    """Energy taken from one part alone shows in the residual: the balance is not true by construction."""
    state = solve(MACHINES["split-3t-r410a-txv"], weather())
    closure = state.capacity_w + state.work_w * (1 - 0.06) - state.capacity_w
    assert closure / state.capacity_w > 0.1
    assert state.energy_residual == pytest.approx(0, abs=1e-6)


def test_heat_given_to_the_outdoor_air_is_heat_taken_inside_plus_work():
    machine = MACHINES["split-3t-r410a-txv"]
    state = solve(machine, weather())
    rejected_w = machine.circuit.condenser_air_kg_s * 1006 * (state.condenser_air_out_k - state.outdoor_k)
    gained_w = rejected_w - state.capacity_w - 0.94 * state.work_w
    assert 0 < gained_w < 0.03 * state.capacity_w, "what is left is the warmth the suction line picks up"


def test_less_air_at_altitude_raises_the_condensing_temperature():
    machine = MACHINES["split-3t-r410a-txv"]
    assert solve(machine, weather(altitude=6000)).ctoa_dk > solve(machine, weather()).ctoa_dk + 0.5
