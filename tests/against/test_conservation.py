"""Mass and energy close in every state, over a few hundred random machines, weathers and faults."""

import random

import pytest

from tests.conftest import weather
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve


def random_case(rng):
    machine = rng.choice(list(MACHINES.values()))
    return_db = rng.uniform(66, 88)
    where = weather(rng.uniform(65, 112), return_db, rng.uniform(max(52, return_db - 22), return_db - 3), rng.choice([0, 0, 5000]))
    kinds = rng.sample(faults_for(machine), rng.choice([0, 1, 1, 2]))
    planted = tuple(Fault(id=k.id, severity=k.sound + (k.severe - k.sound) * rng.random()) for k in kinds)
    return machine, where, planted


def test_balances_close_to_a_thousandth_over_three_hundred_random_states():
    rng, solved = random.Random(20261123), 0
    for _ in range(300):
        machine, where, planted = random_case(rng)
        state = solve(machine, where, planted)
        if state.trip is not None:
            continue
        solved += 1
        assert abs(state.energy_residual) <= 1e-3, (machine.id, where, planted)
        assert abs(state.mass_residual) <= 1e-3, (machine.id, where, planted)
    assert solved > 270


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
