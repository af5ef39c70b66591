"""What the solver answers at the edges: cutouts, no balance, and the same answer every time."""

import pytest

from tests.conftest import ORIFICE, VALVE, solved, weather
from wolfsbane.cycle import solver
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine


def test_a_blocked_condenser_on_a_hot_day_trips_on_high_pressure_after_a_while():
    state = solved(VALVE, "dirty_condenser", 30, outdoor=112)
    assert state.trip.cutout == "high_pressure"
    assert 10 <= state.trip.after_s <= 300


def test_a_worse_fault_trips_sooner():
    slow, fast = (solved(VALVE, "dirty_condenser", s, outdoor=112).trip.after_s for s in (33, 25))
    assert fast < slow


def test_pressures_above_the_table_are_a_trip_and_not_a_number():
    state = solver.solve(
        machine(VALVE),
        weather(outdoor=118),
        (Fault(id="dirty_condenser", severity=25), Fault(id="overcharge", severity=150)),
    )
    assert state.trip.cutout == "high_pressure"


def test_an_empty_machine_trips_on_low_pressure():
    state = solver.solve(
        machine(ORIFICE),
        weather(outdoor=70, return_db=68, return_wb=56),
        (
            Fault(id="undercharge", severity=55),
            Fault(id="low_airflow", severity=25),
            Fault(id="liquid_line_restriction", severity=400),
        ),
    )
    assert state.trip.cutout == "low_pressure"


def test_no_convergence_raises_with_a_report(monkeypatch):
    real = solver.search

    def never(*args):
        x, figures, _, attempts, evals = real(*args)
        return x * 0.0 + [13.0, 14.5, 4e5], figures, 0.5, attempts, evals

    monkeypatch.setattr(solver, "search", never)
    with pytest.raises(NoConvergenceError, match="no balance found for split-3t-r410a-txv") as error:
        solved(VALVE)
    assert error.value.report["best_residual"] == 0.5


def test_the_same_case_gives_the_same_bits():
    assert solved(VALVE, "undercharge", 77.7) == solved(VALVE, "undercharge", 77.7)


def test_coil_shares_fill_the_coil():
    state = solved(VALVE)
    shares = (state.condenser_gas_share, state.condenser_two_phase_share, state.condenser_liquid_share)
    assert sum(shares) == pytest.approx(1) and min(shares) > 0.02
    assert solved(VALVE, "overcharge", 130).condenser_liquid_share > 2 * state.condenser_liquid_share
    assert solved(VALVE, "undercharge", 70).evaporator_boiling_share < 0.7 * state.evaporator_boiling_share


def test_dew_and_bubble_are_kept_apart():
    state = solved(VALVE)
    assert state.superheat_dk == pytest.approx(state.suction_line_k - state.suction_saturation_k)
    assert state.subcooling_dk == pytest.approx(state.liquid_saturation_k - state.liquid_line_k)


def test_a_cold_coil_is_flagged_as_frosting():
    assert solved(VALVE, "low_airflow", 25, return_db=68, return_wb=55, outdoor=70).frosting
    assert not solved(VALVE).frosting


@pytest.mark.parametrize(
    ("field", "bad"),
    [
        ("outdoor_db_f", 200),
        ("return_db_f", 20),
        ("return_wb_f", 81),
        ("outdoor_db_f", float("nan")),
        ("altitude_ft", "high"),
    ],
)
def test_bad_weather_is_refused_naming_the_field(field, bad):
    from wolfsbane.cycle.conditions import conditions

    with pytest.raises(BadInputError) as error:
        conditions(**{"outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67, field: bad})
    assert error.value.field == field and error.value.allowed
