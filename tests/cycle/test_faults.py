"""The patterns of the trade come out of the physics. Common practice, no source; differences in docs/validation.md."""

import pytest

from tests.conftest import ORIFICE, VALVE, solved
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, fault_kind, plant
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.units import PA_PER_PSI

UP, DOWN, SAME, EITHER = 1, -1, 0, None

# machine, fault, severity: suction psi, head psi, superheat, subcooling, CTOA in degrees F against the sound machine
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
    (VALVE, "valve_overfeeding", 100, UP, DOWN, DOWN, DOWN, EITHER),
    (ORIFICE, "orifice_oversized", 130, UP, DOWN, DOWN, DOWN, EITHER),
]


def direction(change, slack):
    return UP if change > slack else DOWN if change < -slack else SAME


@pytest.mark.parametrize(("machine_id", "fault", "severity", "suction", "head", "superheat", "subcooling", "ctoa"),
                         PATTERNS)
def test_pattern_runs_as_practice_says(machine_id, fault, severity, suction, head, superheat, subcooling, ctoa):
    sound, faulted = solved(machine_id), solved(machine_id, fault, severity)
    moves = {
        "suction": direction((faulted.suction_pa - sound.suction_pa) / PA_PER_PSI, 1.2),
        "head": direction((faulted.head_pa - sound.head_pa) / PA_PER_PSI, 1.0),
        "superheat": direction((faulted.superheat_dk - sound.superheat_dk) * 1.8, 1.2),
        "subcooling": direction((faulted.subcooling_dk - sound.subcooling_dk) * 1.8, 1.2),
        "ctoa": direction((faulted.ctoa_dk - sound.ctoa_dk) * 1.8, 0.3),
    }
    expected = dict(zip(moves, (suction, head, superheat, subcooling, ctoa), strict=True))
    assert moves == {k: moves[k] if v is EITHER else v for k, v in expected.items()}


def test_a_restriction_that_eats_the_subcooling_drops_the_temperature_across_the_drier():
    assert solved(VALVE).drier_drop_dk == pytest.approx(0, abs=0.02)
    assert solved(VALVE, "liquid_line_restriction", 50).drier_drop_dk < 0.6
    assert solved(VALVE, "liquid_line_restriction", 200).drier_drop_dk * 1.8 > 8


def test_low_airflow_raises_the_air_delta_t_and_the_evaporator_td():
    sound, choked = solved(VALVE), solved(VALVE, "low_airflow", 60)
    assert choked.air_delta_t_dk * 1.8 - sound.air_delta_t_dk * 1.8 > 5
    assert choked.evaporator_td_dk * 1.8 - sound.evaporator_td_dk * 1.8 > 3


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
    worn, sound = solved(VALVE, "leaking_compressor_valves", 30), solved(VALVE)
    assert worn.discharge_line_k > sound.discharge_line_k + 3
    assert worn.capacity_w < 0.8 * sound.capacity_w


@pytest.mark.parametrize("kind", FAULTS.values(), ids=lambda k: k.id)
def test_levels_run_from_sound_to_limit(kind):
    depth = [abs(v - kind.sound) for v in (kind.sound, kind.mild, kind.moderate, kind.severe, kind.limit)]
    assert depth == sorted(depth) and depth[1] > 0
    assert kind.level("mild") == kind.mild and kind.level(str(kind.severe)) == kind.severe


@pytest.mark.parametrize(("fault", "level"), [("undercharge", "awful"), ("undercharge", 20), ("overcharge", 90),
                                              ("undercharge", float("nan"))])
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
