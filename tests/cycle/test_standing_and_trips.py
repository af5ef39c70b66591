"""A circuit at rest, and the cutouts on the way to a state."""

from dataclasses import replace

import pytest

from tests.conftest import VALVE, solved, weather
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.standing import internal_volume_m3, standing_pa
from wolfsbane.cycle.trips import rise_time_s

EVERY = pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)


@EVERY
def test_at_rest_a_charged_circuit_stands_at_saturation_of_its_coldest_part(m):
    fluid = refrigerant(m.refrigerant)
    for t_k in (285.0, 300.0):
        found = standing_pa(m.circuit, m.refrigerant, t_k)
        assert fluid.saturation_pa(t_k, "dew") * 0.999 <= found <= fluid.saturation_pa(t_k, "bubble") * 1.001


@EVERY
def test_a_circuit_with_hardly_any_charge_stands_below_the_chart_and_falls_to_nothing(m):
    pressures = [
        standing_pa(m.circuit._replace(charge_kg=m.circuit.charge_kg * share), m.refrigerant, 300.0)
        for share in (1.0, 0.05, 0.02, 0.01)
    ]
    assert pressures == sorted(pressures, reverse=True)
    if m.circuit.charge_kg * 0.01 / internal_volume_m3(m.circuit) < 1.0:
        assert pressures[-1] < 0.5 * pressures[0]


def test_air_adds_its_own_pressure_at_rest():
    circuit = machine(VALVE).circuit
    without, with_air = (standing_pa(circuit._replace(non_condensable_mol=n), "R-410A", 300.0) for n in (0.0, 0.4))
    share = 0.75 * internal_volume_m3(circuit)
    assert with_air - without == pytest.approx(0.4 * 8.314462618 * 300.0 / share), "the gas law in what vapor there is"


def test_the_pressure_of_thin_vapour_follows_the_gas_law():
    """Against the ideal gas: within three per cent at a tenth of saturation (textbook physics)."""
    circuit = machine(VALVE).circuit._replace(charge_kg=0.03)
    density = 0.03 / internal_volume_m3(circuit)
    ideal = density / 0.0725854 * 8.314462618 * 300.0
    assert standing_pa(circuit, "R-410A", 300.0) == pytest.approx(ideal, rel=0.03)


@pytest.mark.parametrize(
    ("start", "end", "limit", "expected"),
    [(1e6, 3e6, 2e6, 40.0), (1e6, 3e6, 2.9e6, 180.0), (1e6, 1.5e6, 2e6, 5.0), (2e6, 1e6, 1.5e6, 40.0)],
)
def test_a_first_order_rise_passes_its_limit_when_it_should(start, end, limit, expected):
    """-60 s ln(1 - fraction), to the nearest five seconds; at once where it never gets there."""
    assert rise_time_s(start, end, limit, 60.0) == expected


def test_every_cut_out_can_open():
    hot = weather(outdoor=112)
    m = machine(VALVE)
    assert solve(m, hot, (Fault(id="dirty_condenser", severity=30),)).trip.cutout == "high_pressure"
    starved = (Fault(id="undercharge", severity=45), Fault(id="liquid_line_restriction", severity=390))
    assert solve(m, weather(outdoor=62, return_db=64, return_wb=52), starved).trip.cutout == "low_pressure"
    tight = replace(
        m, plate=replace(m.plate, overload_amps=solved(VALVE).compressor_amps * 1.02, discharge_cutout_k=500.0)
    )
    assert solve(tight, hot).trip.cutout == "overload"
    cool = replace(m, plate=replace(m.plate, discharge_cutout_k=solved(VALVE).discharge_line_k + 5))
    assert solve(cool, weather(), (Fault(id="undercharge", severity=65),)).trip.cutout == "discharge_temperature"


def test_the_first_cut_out_to_open_is_the_one_named():
    m = machine(VALVE)
    both = replace(m, plate=replace(m.plate, overload_amps=solved(VALVE).compressor_amps * 1.02))
    found = solve(both, weather(outdoor=112), (Fault(id="dirty_condenser", severity=25),))
    assert found.trip.cutout in ("high_pressure", "overload") and found.trip.after_s <= 120


@EVERY
def test_the_rated_machine_stays_on(m):
    assert solve(m, rating_conditions(m)).trip is None


@pytest.mark.parametrize(
    ("machine_id", "given", "field"),
    [
        (VALVE, {}, "return_db_f"),
        (VALVE, {"return_db_f": 80}, "return_wb_f"),
        (VALVE, {"return_db_f": 80, "return_wb_f": 67, "box_f": 38}, "box_f"),
        (VALVE, {"return_db_f": 80, "return_wb_f": 67, "water_in_f": 80}, "water_in_f"),
        ("walkin-freezer-r404a-txv", {}, "box_f"),
        ("walkin-freezer-r404a-txv", {"box_f": 55}, "box_f"),
        ("walkin-freezer-r404a-txv", {"box_f": 0, "return_wb_f": 60}, "return_wb_f"),
        ("water-cooled-5t-r407c-txv", {"return_db_f": 80, "return_wb_f": 67}, "water_in_f"),
        ("water-cooled-5t-r407c-txv", {"return_db_f": 80, "return_wb_f": 67, "water_in_f": 30}, "water_in_f"),
        (VALVE, {"return_db_f": 27, "return_wb_f": 19}, "return_db_f"),
        (VALVE, {"return_db_f": "80", "return_wb_f": 67}, "return_db_f"),
        (VALVE, {"return_db_f": True, "return_wb_f": 67}, "return_db_f"),
    ],
)
def test_each_machine_asks_for_its_own_weather_and_refuses_the_rest(machine_id, given, field):
    with pytest.raises(BadInputError) as error:
        for_machine(machine(machine_id), outdoor_db_f=95, **given)
    assert error.value.field == field and error.value.allowed


def test_a_number_that_would_do_in_celsius_is_hinted_at():
    with pytest.raises(BadInputError, match="is it in degrees C") as error:
        for_machine(machine(VALVE), outdoor_db_f=95, return_db_f=27, return_wb_f=19)
    assert "81 °F" in error.value.allowed
    with pytest.raises(BadInputError) as error:
        for_machine(machine(VALVE), outdoor_db_f=95, return_db_f=500, return_wb_f=67)
    assert "degrees C" not in error.value.allowed
