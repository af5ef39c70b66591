"""Instrument trouble acts on readings and never on the machine; measuring points; frost."""

import pytest

from tests.conftest import VALVE, solved, weather
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.dials import BOX_SCALES, angle_deg, dial
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.frost import grow
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, scale_of
from wolfsbane.cycle.instruments import points_for, read
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve

M = machine(VALVE)


def readings(*faults, state=None, m=M):
    made = tuple(Fault(id=i, severity=s, cause=c[0] if c else None) for i, s, *c in faults)
    return {
        k: r.value
        for k, r in read(
            state or solved(), "digital", "us", machine=m, keys=points_for(m), instrument_faults=made
        ).items()
    }


TRUE = readings()


@pytest.mark.parametrize(
    ("fault", "moved", "by"),
    [
        (("gauge_not_zeroed", 6), "suction_pressure", 6),
        (("gauge_not_zeroed", -4, "high_gauge"), "head_pressure", -4),
        (("absolute_pressure_read", 100), "head_pressure", 14.7),
        (("thermometers_disagree", 4), "supply_db", 4),
    ],
)
def test_an_offset_moves_its_own_reading(fault, moved, by):
    found = readings(fault)
    assert found[moved] - TRUE[moved] == pytest.approx(by, abs=0.5)
    others = {k for k in TRUE if found[k] != TRUE[k]}
    assert others <= {moved, "suction_pressure"}


def test_a_core_that_is_not_depressed_keeps_the_pressure_of_rest():
    found = readings(("core_not_depressed", 100))
    assert found["suction_pressure"] == pytest.approx(235.5, abs=2), "R-410A at the 80 degrees indoors"
    assert found["head_pressure"] == TRUE["head_pressure"]


def test_a_loose_clamp_drifts_towards_the_air_and_one_on_the_wrong_pipe_reads_that_pipe():
    loose = readings(("clamp_loose", 30))
    assert loose["suction_line"] == pytest.approx(TRUE["suction_line"] + 0.3 * (95 - TRUE["suction_line"]), abs=0.6)
    assert readings(("clamp_wrong_line", 100))["liquid_line"] == TRUE["discharge_line"]


def test_swapped_hoses_swap_the_gauges():
    found = readings(("hoses_swapped", 100))
    assert found["suction_pressure"] == TRUE["head_pressure"] > found["head_pressure"] == TRUE["suction_pressure"]


def test_a_wrong_scale_changes_the_ring_and_no_pressure():
    assert readings(("wrong_refrigerant_scale", 100)) == TRUE
    assert scale_of(M, (Fault(id="wrong_refrigerant_scale", severity=100),)) == M.substitute != M.refrigerant


@pytest.mark.parametrize("kind", INSTRUMENT_FAULTS.values(), ids=lambda k: k.id)
def test_every_instrument_fault_can_be_planted_and_never_reaches_the_machine(kind):
    before = solved()
    readings((kind.id, kind.severe), state=before)
    assert before == solved() and kind.seen and kind.remedy and kind.rig
    with pytest.raises(BadInputError, match=f"{kind.id} level"):
        kind.level(1e6)


def test_an_unknown_instrument_fault_is_refused():
    with pytest.raises(BadInputError, match="instrument fault"):
        readings(("bent_needle", 1))


@pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)
def test_every_point_of_a_machine_can_be_read_in_both_systems(m):
    state = solve(m, rating_conditions(m))
    for system in ("us", "si"):
        found = read(state, "analogue", system, machine=m, keys=points_for(m))
        assert set(found) == set(points_for(m))
        assert all(r.text.endswith(r.unit) for r in found.values())
    assert ("water_in" in found) == (m.condenser == "water_cooled") and ("return_wb" in found) == (
        m.comfort and not m.in_heating
    )
    assert ("suction_before_valve" in found) == (m.application.startswith("heat_pump"))


def test_gaugeless_checks_read_where_the_refrigerant_is_two_phase():
    """The evaporator inlet and a bend half-way down the condenser tell the pressures;
    the condenser's inlet reads far too high.
    """
    m = machine("reachin-r134a-capillary")
    state = solve(m, rating_conditions(m))
    assert state.evaporator_inlet_k == pytest.approx(state.suction_saturation_k, abs=1.5)
    assert state.condenser_bend_k == pytest.approx(state.liquid_saturation_k, abs=0.2)
    assert state.discharge_line_k > state.condenser_bend_k + 15


def test_a_fluttering_reading_is_a_range_around_its_middle():
    state = solve(M, weather(), (Fault(id="valve_hunting", severity=18),))
    found = read(state, "analogue", "us")["suction_line"]
    assert found.low < found.value < found.high and " to " in found.text
    assert read(solved(), "analogue", "us")["suction_line"].low is None


def test_ice_grows_on_a_cold_coil_and_chokes_the_air():
    cooler = machine("walkin-cooler-r404a-txv")
    grown = grow(cooler, rating_conditions(cooler), (), hours=6)
    hours, suction = [s.hours for s in grown.stages], [s.state.suction_pa for s in grown.stages]
    assert len(hours) > 3 and hours == sorted(hours)
    iced = [s for s in grown.stages if s.blocked > 0.0]
    assert len(iced) > 2 and suction[-1] < suction[0] - 20e3
    assert all(
        b.state.suction_pa < a.state.suction_pa for a, b in zip(iced, iced[1:], strict=False) if b.blocked > a.blocked
    )
    assert all(abs(s.state.energy_residual) < 1e-3 for s in grown.stages)


def test_ice_on_a_comfort_coil_ends_somewhere_named():
    grown = grow(M, weather(outdoor=70, return_db=68, return_wb=55), (Fault(id="low_airflow", severity=30),), hours=24)
    assert grown.end in ("closed", "cut_out", "balance") and len(grown.stages) > 2
    assert grow(M, weather()).end == "no_frost"
    assert grow(M, weather(outdoor=115), (Fault(id="dirty_condenser", severity=25),)).end == "cut_out"


def test_a_compound_gauge_reads_below_zero():
    scale = BOX_SCALES[("low", "us")]
    angles = [angle_deg(scale, v) for v in (-14.696, -7, 0, 10, 150)]
    assert angles == sorted(angles) and angles[0] == pytest.approx(-135) and angles[-1] == pytest.approx(135)
    drawing = dial("low", "us", -3.0, "R-600a", 101_325, refrigeration=True)
    assert drawing["labels"][-1]["text"] == "30″" and -135 < drawing["needle_deg"] < -105
