"""On every machine: a worse fault is worse, without jumps or turning back, in the figure that tells it."""

import numpy as np
import pytest

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import FAULTS, Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve

#: family -> (figure, +1 rises or -1 falls, share of the way from normal to severe that is walked)
TELLS = {
    "dirty_condenser": (lambda s: s.condensing_pa, 1),
    "condenser_recirculation": (lambda s: s.condensing_pa, 1),
    "wet_condenser": (lambda s: s.condensing_pa, -1),
    "low_airflow": (lambda s: s.evaporating_pa, -1),
    "mismatched_coil": (lambda s: s.evaporating_pa, -1),
    "distributor_blocked": (lambda s: s.evaporating_pa, -1),
    "leaking_compressor_valves": (lambda s: s.capacity_w, -1),
    "compressor_not_pumping": (lambda s: s.mass_flow_kg_s, -1),
    "non_condensables": (lambda s: s.head_pa, 1),
    "liquid_line_restriction": (lambda s: s.evaporating_pa, -1),
    "suction_line_restriction": (lambda s: s.mass_flow_kg_s, -1),
    "valve_underfeeding": (lambda s: s.evaporating_pa, -1),
    "valve_overfeeding": (lambda s: s.evaporating_pa, 1),
    "orifice_undersized": (lambda s: s.evaporating_pa, -1),
    "orifice_oversized": (lambda s: s.evaporating_pa, 1),
    "high_load": (lambda s: s.evaporating_pa, 1),
    "low_load": (lambda s: s.evaporating_pa, -1),
    "undersized_unit": (lambda s: s.evaporating_pa, 1),
    "economizer_stuck_open": (lambda s: s.evaporating_pa, 1),
    "water_condenser_fouled": (lambda s: s.condensing_pa, 1),
    "low_water_flow": (lambda s: s.condensing_pa, 1),
    "reversing_valve_leak": (lambda s: s.reversing_step_dk, 1),
}
#: what the same families move in heating, where the other coil condenses
TELLS_IN_HEATING = TELLS | {
    "dirty_condenser": (lambda s: s.evaporating_pa, -1),
    "condenser_fan_weak": (lambda s: s.evaporating_pa, -1),
    "condenser_recirculation": (lambda s: s.evaporating_pa, -1),
    "low_airflow": (lambda s: s.condensing_pa, 1),
    "mismatched_coil": (lambda s: s.condensing_pa, 1),
    "high_load": (lambda s: s.condensing_pa, -1),
    "low_load": (lambda s: s.condensing_pa, 1),
    "undersized_unit": (lambda s: s.condensing_pa, -1),
}
CASES = [(m, FAULTS[f]) for f in TELLS for m in MACHINES.values() if FAULTS[f].suits(m)]


def walk(machine, kind, steps=9):
    """States from a touch of the fault to its severe level, each begun from the one before."""
    states, start = [], None
    first = (
        kind.severe + 0.85 * (kind.mild - kind.severe)
        if kind.id.startswith("valve_")
        else kind.fault_free + 0.05 * (kind.severe - kind.fault_free)
    )
    for severity in np.linspace(first, kind.severe, steps):
        state = solve(
            machine, rating_conditions(machine), (Fault(id=kind.id, severity=round(float(severity), 4)),), start=start
        )
        if state.trip or state.equalized:
            break
        states.append(state)
        start = state.solution
    return states


@pytest.mark.parametrize(("machine", "kind"), CASES, ids=lambda v: v.id)
def test_a_worse_fault_is_worse_without_turning_back(machine, kind):
    figure, sign = (TELLS_IN_HEATING if machine.in_heating else TELLS)[kind.id]
    states = walk(machine, kind)
    assert len(states) >= 2
    found = sign * np.array([figure(s) for s in states])
    assert np.all(np.diff(found) > -2e-3 * np.abs(found[:-1])), (
        "never the other way by more than an instrument could show"
    )
    assert found[-1] > found[0]


@pytest.mark.parametrize(("machine", "kind"), CASES[::7], ids=lambda v: v.id)
def test_a_state_begun_from_its_neighbour_is_the_state_begun_from_nothing(machine, kind):
    warm = walk(machine, kind)[-1]
    severity = kind.severe if len(walk(machine, kind)) == 9 else None
    if severity is None:
        pytest.skip("cuts out before it is severe")
    cold = solve(machine, rating_conditions(machine), (Fault(id=kind.id, severity=severity),))
    assert cold.suction_pa == pytest.approx(warm.suction_pa, rel=2e-6)
    assert cold.capacity_w == pytest.approx(warm.capacity_w, rel=2e-5)


@pytest.mark.parametrize("m", [m for m in MACHINES.values() if not m.receiver], ids=lambda m: m.id)
def test_every_ounce_shows_in_the_subcooling_of_a_machine_without_a_receiver(m):
    found = [
        solve(
            m, rating_conditions(m), (Fault(id="undercharge" if c < 100 else "overcharge", severity=c),)
        ).subcooling_dk
        for c in (92, 96, 104, 108, 112)
    ]
    assert np.all(np.diff(found) > 0)


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_nothing_leaves_colder_than_what_cools_it_or_warmer_than_what_warms_it(m):
    for fault in ((), (Fault(id="overcharge", severity=115),), (Fault(id="undercharge", severity=60),)):
        s = solve(m, rating_conditions(m), fault)
        if s.trip:
            continue
        assert (
            s.condenser_outlet_k > s.condenser_entering_k - 0.05
            and s.evaporator_outlet_k < s.coil_air.dry_bulb_k + 0.05
        )
        assert s.subcooling_dk < s.liquid_saturation_k - s.condenser_entering_k + 0.1
        assert s.evaporator_inlet_k < s.supply_high_air.dry_bulb_k and s.discharge_line_k > s.condenser_bend_k
