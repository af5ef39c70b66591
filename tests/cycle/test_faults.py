"""The patterns of the trade come out of the physics. Common practice, no source; differences in docs/validation.md."""

from dataclasses import replace

import pytest

from tests.conftest import ORIFICE, VALVE, solved
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, fault_kind, plant
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import PA_PER_PSI

HEAT_PUMP, MICRO = "heatpump-3t-r410a-txv", "split-3t-r410a-microchannel"
COOLER, WATER, ROOFTOP = "walkin-cooler-r404a-txv", "water-cooled-5t-r407c-txv", "package-10t-r410a-two-circuits"
UP, DOWN, SAME, EITHER = 1, -1, 0, None

# machine, fault, severity: suction psi, head psi, superheat, subcooling, CTOA in degrees F against the machine with
# nothing wrong
PATTERNS = [
    (ORIFICE, "undercharge", 80, DOWN, DOWN, UP, DOWN, DOWN),
    (VALVE, "undercharge", 70, DOWN, DOWN, UP, DOWN, DOWN),
    (VALVE, "undercharge", 90, SAME, DOWN, SAME, DOWN, DOWN),
    (ORIFICE, "overcharge", 120, EITHER, UP, DOWN, UP, UP),
    (VALVE, "overcharge", 120, SAME, UP, SAME, UP, UP),
    (ORIFICE, "dirty_condenser", 60, UP, UP, DOWN, SAME, UP),
    (VALVE, "dirty_condenser", 60, UP, UP, SAME, EITHER, UP),
    (ORIFICE, "low_airflow", 60, DOWN, DOWN, DOWN, SAME, EITHER),
    (VALVE, "low_airflow", 60, DOWN, DOWN, SAME, SAME, EITHER),
    (VALVE, "liquid_line_restriction", 160, DOWN, DOWN, UP, UP, EITHER),
    (ORIFICE, "liquid_line_restriction", 160, DOWN, DOWN, UP, UP, EITHER),
    (VALVE, "leaking_compressor_valves", 20, UP, DOWN, SAME, DOWN, DOWN),
    (ORIFICE, "leaking_compressor_valves", 20, UP, DOWN, DOWN, DOWN, DOWN),
    (VALVE, "valve_overfeeding", 112, UP, DOWN, DOWN, DOWN, EITHER),
    (ORIFICE, "orifice_oversized", 140, UP, DOWN, DOWN, DOWN, EITHER),
    (ORIFICE, "orifice_undersized", 70, DOWN, DOWN, UP, UP, EITHER),
    (VALVE, "valve_underfeeding", 50, DOWN, DOWN, UP, UP, EITHER),
    (VALVE, "condenser_fan_weak", 60, UP, UP, SAME, EITHER, UP),
    (VALVE, "condenser_recirculation", 16, UP, UP, SAME, EITHER, UP),
    (ORIFICE, "condenser_recirculation", 16, UP, UP, DOWN, EITHER, UP),
    (VALVE, "wet_condenser", 60, DOWN, DOWN, SAME, EITHER, DOWN),
    (VALVE, "non_condensables", 1.5, SAME, UP, SAME, UP, UP),
    (ORIFICE, "non_condensables", 1.5, UP, UP, DOWN, UP, UP),
    (VALVE, "suction_line_restriction", 5.5, DOWN, DOWN, UP, SAME, EITHER),
    (VALVE, "distributor_blocked", 40, DOWN, DOWN, SAME, UP, EITHER),
    (ORIFICE, "distributor_blocked", 40, DOWN, DOWN, DOWN, SAME, EITHER),
    (VALVE, "high_load", 10, UP, UP, SAME, DOWN, UP),
    (ORIFICE, "high_load", 10, UP, UP, UP, EITHER, EITHER),
    (VALVE, "low_load", 10, DOWN, DOWN, SAME, EITHER, EITHER),
    (ORIFICE, "low_load", 10, DOWN, DOWN, DOWN, EITHER, EITHER),
    (VALVE, "mismatched_coil", 65, DOWN, EITHER, SAME, UP, EITHER),
    (VALVE, "long_liquid_line", 70, DOWN, DOWN, UP, DOWN, DOWN),
    (HEAT_PUMP, "reversing_valve_leak", 30, UP, DOWN, UP, DOWN, DOWN),
]


def direction(change, slack):
    return UP if change > slack else DOWN if change < -slack else SAME


@pytest.mark.parametrize(
    ("machine_id", "fault", "severity", "suction", "head", "superheat", "subcooling", "ctoa"), PATTERNS
)
def test_pattern_runs_as_practice_says(machine_id, fault, severity, suction, head, superheat, subcooling, ctoa):
    fault_free, faulted = at_rating(machine_id), at_rating(machine_id, (fault, severity))
    moves = {
        "suction": direction((faulted.suction_pa - fault_free.suction_pa) / PA_PER_PSI, 1.2),
        "head": direction((faulted.head_pa - fault_free.head_pa) / PA_PER_PSI, 1.0),
        "superheat": direction((faulted.superheat_dk - fault_free.superheat_dk) * 1.8, 1.2),
        "subcooling": direction((faulted.subcooling_dk - fault_free.subcooling_dk) * 1.8, 1.2),
        "ctoa": direction((faulted.ctoa_dk - fault_free.ctoa_dk) * 1.8, 0.3),
    }
    expected = dict(zip(moves, (suction, head, superheat, subcooling, ctoa), strict=True))
    assert moves == {k: moves[k] if v is EITHER else v for k, v in expected.items()}


def at_rating(machine_id, *faults):
    m = machine(machine_id)
    return solve(m, rating_conditions(m), tuple(Fault(id=i, severity=s) for i, s in faults))


def psi(a, b):
    return (a - b) / PA_PER_PSI


def test_a_microchannel_overcharge_drives_the_head_far_more_than_a_tube_and_fin_one():
    rises = {m: psi(at_rating(m, ("overcharge", 130)).head_pa, at_rating(m).head_pa) for m in (VALVE, MICRO)}
    assert rises[MICRO] > 1.8 * rises[VALVE] > 50


def test_low_airflow_on_an_overfull_microchannel_drives_the_head_further():
    alone = psi(at_rating(MICRO, ("low_airflow", 45)).head_pa, at_rating(MICRO).head_pa)
    full = at_rating(MICRO, ("overcharge", 125)).head_pa
    both = at_rating(MICRO, ("overcharge", 125), ("low_airflow", 45)).head_pa
    assert alone < 2 and psi(both, full) > 5, "the valve pinches and backs liquid into a condenser without room"
    tube = [at_rating(VALVE, ("overcharge", 125), *more).head_pa for more in ((), (("low_airflow", 45),))]
    assert psi(tube[1], tube[0]) < psi(both, full)


def test_a_receiver_machine_shows_its_charge_in_the_glass_and_not_on_the_gauges():
    fault_free = at_rating(COOLER)
    for charge in (("undercharge", 75), ("overcharge", 130)):
        state = at_rating(COOLER, charge)
        assert (
            abs(psi(state.head_pa, fault_free.head_pa)) < 0.1
            and abs(psi(state.suction_pa, fault_free.suction_pa)) < 0.1
        )
        assert state.superheat_dk == pytest.approx(fault_free.superheat_dk, abs=0.01)
        assert abs(state.receiver.level - fault_free.receiver.level) > 0.1
    empty = at_rating(COOLER, ("undercharge", 45))
    assert (
        empty.receiver.holds == "empty"
        and empty.sight_glass_quality > 0.01
        and psi(empty.suction_pa, fault_free.suction_pa) < -5
    )


def test_an_overfull_receiver_backs_liquid_into_the_condenser():
    full = at_rating("walkin-cooler-r448a-txv", ("overcharge", 150))
    assert full.receiver.level > at_rating("walkin-cooler-r448a-txv").receiver.level + 0.2


def test_a_dirty_condenser_hides_a_low_charge_and_also_an_overcharge():
    fault_free = at_rating(VALVE)
    low, hidden = at_rating(VALVE, ("undercharge", 85)), at_rating(VALVE, ("undercharge", 85), ("dirty_condenser", 60))
    assert low.head_pa < fault_free.head_pa < hidden.head_pa, "the head no longer says low charge"
    over, both = at_rating(VALVE, ("overcharge", 115)), at_rating(VALVE, ("overcharge", 115), ("dirty_condenser", 60))
    dirty = at_rating(VALVE, ("dirty_condenser", 60))
    assert over.head_pa < dirty.head_pa < both.head_pa
    assert both.subcooling_dk > dirty.subcooling_dk + 2, "only subcooling still tells"


def test_head_control_holds_the_head_up_in_the_cold():
    m = machine(COOLER)
    mild, cold = (solve(m, for_machine(m, outdoor_db_f=t, box_f=38)) for t in (60, 5))
    assert cold.head_pa - 101_325 > 145 * PA_PER_PSI and cold.condenser_stream_share < 0.5 < mild.condenser_stream_share
    without = replace(m, circuit=m.circuit._replace(head_control_high_pa=0.0))
    assert solve(without, for_machine(m, outdoor_db_f=5, box_f=38)).head_pa < 0.6 * cold.head_pa


def test_a_fouled_water_condenser_leaves_the_water_and_low_flow_warms_it():
    fault_free = at_rating(WATER)
    fouled, slow = at_rating(WATER, ("water_condenser_fouled", 40)), at_rating(WATER, ("low_water_flow", 50))
    assert (
        psi(fouled.head_pa, fault_free.head_pa) > 20 and fouled.condenser_rise_dk < fault_free.condenser_rise_dk + 0.3
    )
    assert psi(slow.head_pa, fault_free.head_pa) > 5 and slow.condenser_rise_dk > 1.7 * fault_free.condenser_rise_dk


def test_a_blocked_distributor_leaves_part_of_the_coil_at_the_airs_temperature():
    state, fault_free = at_rating(VALVE, ("distributor_blocked", 40)), at_rating(VALVE)
    assert state.blocked_air_k > fault_free.supply_air.dry_bulb_k + 5
    assert state.air_delta_t_dk < fault_free.air_delta_t_dk - 1 and state.suction_pa < fault_free.suction_pa


def test_a_compressor_that_moves_nothing_leaves_the_pressures_equal():
    state = at_rating(VALVE, ("compressor_not_pumping", 0))
    assert state.equalized and state.suction_pa == state.head_pa and state.capacity_w == 0
    weak = at_rating(VALVE, ("compressor_not_pumping", 30))
    assert not weak.equalized and weak.head_pa < 2.0 * weak.suction_pa


def test_a_part_closed_service_valve_lowers_what_the_high_gauge_shows():
    closed, drier = (
        at_rating(VALVE, ("service_valve_part_closed", 160)),
        at_rating(VALVE, ("liquid_line_restriction", 160)),
    )
    assert psi(closed.head_pa, drier.head_pa) < -50, "the gauge port lies behind the valve"
    assert closed.liquid_line_k < closed.condenser_outlet_k - 4 and closed.drier_drop_dk < 0.5
    assert closed.suction_pa == pytest.approx(drier.suction_pa, rel=0.01)


def test_the_wrong_refrigerant_is_read_on_the_plates_ring():
    state = at_rating("split-3t-r22-txv", ("wrong_refrigerant", 100))
    assert state.refrigerant == "R-407C" and state.pt_scale == "R-22"
    assert state.suction_saturation_k == pytest.approx(refrigerant("R-22").saturation_k(state.suction_pa, "dew"))


def test_a_small_unit_reads_sound_in_a_warm_room():
    state = at_rating(VALVE, ("undersized_unit", 7))
    assert state.subcooling_dk == pytest.approx(at_rating(VALVE).subcooling_dk, abs=0.7)
    assert 10 < state.superheat_dk * 1.8 < 20 and 13 < state.ctoa_dk * 1.8 < 22


def test_one_circuit_of_two_leaves_half_the_air_uncooled():
    state, fault_free = at_rating(ROOFTOP, ("one_circuit_off", 0)), at_rating(ROOFTOP)
    assert state.twin.equalized and state.suction_pa == pytest.approx(fault_free.suction_pa, rel=1e-3)
    assert state.capacity_w == pytest.approx(fault_free.capacity_w / 2, rel=0.02)
    assert state.supply_low_air.dry_bulb_k > state.supply_high_air.dry_bulb_k + 5


def test_a_fault_of_one_circuit_leaves_the_twin_as_a_comparison():
    state = at_rating(ROOFTOP, ("undercharge", 70))
    assert state.twin.subcooling_dk > state.subcooling_dk + 3
    assert at_rating(ROOFTOP, ("dirty_condenser", 60)).twin.ctoa_dk > at_rating(ROOFTOP).twin.ctoa_dk + 3


def test_layers_and_the_economiser_load_the_coil():
    layered, fault_free = at_rating(ROOFTOP, ("stratified_air", 16)), at_rating(ROOFTOP)
    assert layered.supply_high_air.dry_bulb_k > layered.supply_low_air.dry_bulb_k + 2
    assert at_rating(ROOFTOP, ("economizer_stuck_open", 90)).coil_air.dry_bulb_k > fault_free.coil_air.dry_bulb_k + 5


def test_a_hunting_valve_swings_every_reading_and_keeps_its_mean():
    state = at_rating(VALVE, ("valve_hunting", 18))
    shut, wide = state.swing
    assert shut.superheat_dk > state.superheat_dk > wide.superheat_dk and shut.suction_pa < wide.suction_pa
    assert state.superheat_dk == pytest.approx(at_rating(VALVE).superheat_dk, abs=0.01)


def test_a_hunting_circuit_of_two_swings_the_mixed_supply_around_its_mean():
    state = at_rating(ROOFTOP, ("valve_hunting", 18))
    low, high = sorted(end.supply_air.dry_bulb_k for end in state.swing)
    assert low - 0.05 <= state.supply_air.dry_bulb_k <= high + 0.05 and all(end.twin is not None for end in state.swing)


def test_an_electronic_valve_holds_its_superheat_where_a_bulb_lets_it_wander():
    spans = []
    for machine_id in ("split-3t-r32-eev", "split-2t-r32-txv"):
        m = machine(machine_id)
        found = [
            solve(m, for_machine(m, outdoor_db_f=t, return_db_f=78, return_wb_f=65)).evaporator_superheat_dk
            for t in (75, 90, 105)
        ]
        spans.append(max(found) - min(found))
    assert spans[0] < 0.5 * spans[1]


def test_every_fault_says_how_it_is_seen_planted_mended_and_told_apart():
    for kind in FAULTS.values():
        assert kind.effect and kind.remedy and kind.hazard and kind.causes and kind.tests and kind.rig.limits, kind.id
        assert set(kind.tests) <= set(FIELD_TESTS), kind.id
        assert bool(kind.rig.plant) == bool(kind.rig.undo), "what is planted can be undone"
        assert not kind.stands_for or kind.stands_for in FAULTS
        assert all(cause.look for cause in kind.causes)


@pytest.mark.parametrize("kind", FAULTS.values(), ids=lambda k: k.id)
def test_every_fault_moves_some_reading_by_more_than_an_instrument_may_be_off(kind):
    m = next(m for m in MACHINES.values() if kind.suits(m) and not m.receiver)
    fault_free, harmed = at_rating(m.id), at_rating(m.id, (kind.id, kind.severe))
    moved = [
        abs(psi(harmed.suction_pa, fault_free.suction_pa)) / 2,
        abs(psi(harmed.head_pa, fault_free.head_pa)) / 5,
        abs(harmed.superheat_dk - fault_free.superheat_dk) * 0.9,
        abs(harmed.supply_low_air.dry_bulb_k - fault_free.supply_low_air.dry_bulb_k),
    ]
    assert harmed.trip or harmed.swing or max(moved) > 1.0


def test_no_fault_stands_where_it_has_no_place():
    with pytest.raises(BadInputError, match="reversing_valve_leak"):
        at_rating(VALVE, ("reversing_valve_leak", 20))
    with pytest.raises(BadInputError, match="too much or too little"):
        at_rating(VALVE, ("valve_overfeeding", 95), ("valve_underfeeding", 50))
    with pytest.raises(BadInputError, match="each fault once"):
        at_rating(VALVE, ("undercharge", 80), ("undercharge", 70))


def test_a_restriction_that_eats_the_subcooling_drops_the_temperature_across_the_drier():
    assert solved(VALVE).drier_drop_dk == pytest.approx(0, abs=0.02)
    assert solved(VALVE, "liquid_line_restriction", 50).drier_drop_dk < 0.6
    assert solved(VALVE, "liquid_line_restriction", 200).drier_drop_dk * 1.8 > 8


def test_low_airflow_raises_the_air_delta_t_and_the_evaporator_td():
    fault_free, choked = solved(VALVE), solved(VALVE, "low_airflow", 60)
    assert choked.air_delta_t_dk * 1.8 - fault_free.air_delta_t_dk * 1.8 > 5
    assert choked.evaporator_td_dk * 1.8 - fault_free.evaporator_td_dk * 1.8 > 3


def test_flood_back_shows_no_superheat_and_a_cool_discharge():
    flooded = solved(VALVE, "valve_overfeeding", 105)
    assert flooded.flood_back
    assert flooded.superheat_dk == pytest.approx(0, abs=0.1)
    assert flooded.discharge_line_k < solved(VALVE).discharge_line_k - 20


def test_subcooling_never_exceeds_ctoa():
    for severity in (110, 130, 150):
        state = solved(VALVE, "overcharge", severity)
        assert state.subcooling_dk < state.ctoa_dk


def test_leaking_valves_heat_the_discharge_and_cost_capacity():
    worn, fault_free = solved(VALVE, "leaking_compressor_valves", 30), solved(VALVE)
    assert worn.discharge_line_k > fault_free.discharge_line_k + 3
    assert worn.capacity_w < 0.8 * fault_free.capacity_w


@pytest.mark.parametrize("kind", FAULTS.values(), ids=lambda k: k.id)
def test_levels_run_from_sound_to_limit(kind):
    depth = [abs(v - kind.fault_free) for v in (kind.fault_free, kind.mild, kind.moderate, kind.severe, kind.limit)]
    assert depth == sorted(depth) and depth[1] > 0
    assert kind.level("mild") == kind.mild and kind.level(str(kind.severe)) == kind.severe


@pytest.mark.parametrize(
    ("fault", "level"),
    [("undercharge", "awful"), ("undercharge", 15), ("overcharge", 90), ("undercharge", float("nan"))],
)
def test_a_level_outside_its_range_is_refused_with_the_range(fault, level):
    with pytest.raises(BadInputError, match="undercharge level|overcharge level") as error:
        fault_kind(fault).level(level)
    assert "100" in error.value.allowed


def test_an_orifice_machine_cannot_have_a_valve_fault():
    with pytest.raises(BadInputError, match="valve_overfeeding"):
        plant(machine(ORIFICE), (Fault(id="valve_overfeeding", severity=100),))


def test_planting_leaves_the_profile_alone():
    before = machine(VALVE).circuit
    plant(machine(VALVE), (Fault(id="undercharge", severity=70), Fault(id="low_airflow", severity=60)))
    assert machine(VALVE).circuit is before
