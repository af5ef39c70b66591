"""What a student reads is what a real machine could show: air, loads, orifices over the weather, machines that hardly
cool, levels of a machine with a receiver.
"""

import numpy as np
import pytest

from wolfsbane.cli.contract import solved_row
from wolfsbane.cycle import air
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.faults import FAULTS, LEVELS, Fault
from wolfsbane.cycle.parts.evaporator import moist_cp
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import total_superheat_target_df

SEA_LEVEL_PA = 101_325.0
ORIFICES = [m for m in MACHINES.values() if m.metering == "fixed_orifice"]
RECEIVERS = [m for m in MACHINES.values() if m.receiver]


def at(machine_id, fault, severity, **where):
    m = MACHINES[machine_id]
    weather = for_machine(m, **where) if where else rating_conditions(m)
    return solve(m, weather, (Fault(id=fault, severity=severity),))


def rh(moist):
    return 100 * moist.relative_humidity


@pytest.mark.parametrize(("dry_k", "ratio"), [(250.0, 0.0004), (300.0, 0.0), (300.0, 0.011), (310.0, 0.02)])
def test_moist_air_takes_what_it_needs_to_warm(dry_k, ratio):
    """Against psychrolib's enthalpy at two temperatures."""
    one, two = (psychrolib.GetMoistAirEnthalpy(dry_k - 273.15 + d, ratio) for d in (0.0, 1.0))
    assert moist_cp(one, dry_k) == pytest.approx(two - one, rel=2e-3)


def test_air_that_would_come_out_too_wet_is_saturated_and_meets_its_enthalpy():
    h = psychrolib.GetSatAirEnthalpy(14.0, SEA_LEVEL_PA)
    leaving = air.from_enthalpy(285.0, h, 0.02, SEA_LEVEL_PA)
    assert rh(leaving) == pytest.approx(100, abs=0.1) and leaving.dry_bulb_k == pytest.approx(287.15, abs=0.01)
    assert leaving.enthalpy_j_kg == pytest.approx(h, abs=20)
    dry = air.from_enthalpy(300.0, psychrolib.GetMoistAirEnthalpy(26.85, 0.008), 0.02, SEA_LEVEL_PA)
    assert dry.humidity_ratio == pytest.approx(0.008, rel=1e-3) and rh(dry) < 60


@pytest.mark.parametrize(
    ("machine_id", "where", "usual"),
    [
        ("walkin-freezer-r404a-txv", {"outdoor_db_f": 90, "box_f": 0}, 75),
        ("walkin-cooler-r404a-txv", {"outdoor_db_f": 90, "box_f": 36}, 85),
        ("reachin-r290-capillary", {"outdoor_db_f": 85, "box_f": 36}, 60),
    ],
)
@pytest.mark.parametrize(("fault", "severity"), [("high_load", 15), ("low_load", 12)])
def test_load_leaves_a_box_as_humid_as_it_was(machine_id, where, usual, fault, severity):
    found = at(machine_id, fault, severity, **where).return_air
    assert rh(found) == pytest.approx(usual, abs=1.5)
    assert found.dry_bulb_k * 1.8 - 459.67 == pytest.approx(where["box_f"] + (15 if fault == "high_load" else -12))


def test_sun_brings_no_water():
    m = MACHINES["split-3t-r410a-txv"]
    sound = solve(m, rating_conditions(m)).return_air
    found = at(m.id, "undersized_unit", 9).return_air
    assert found.humidity_ratio == pytest.approx(sound.humidity_ratio, rel=1e-6)
    assert found.dry_bulb_k == pytest.approx(sound.dry_bulb_k + 5.0)


@pytest.mark.parametrize("machine", MACHINES.values(), ids=lambda m: m.id)
def test_the_air_gives_the_heat_the_refrigerant_takes(machine):
    """Within what leaves with the condensate, 1.5 %."""
    s = solve(machine, rating_conditions(machine))
    air_w = s.airflow_kg_s * (s.coil_air.enthalpy_j_kg - s.supply_air.enthalpy_j_kg)
    blowers = machine.circuit.blower_w * machine.circuits
    assert air_w + blowers == pytest.approx(s.capacity_w, rel=0.015)


def test_a_dry_coil_takes_no_water_out_of_the_air():
    s = at("split-3t-r410a-txv", "undercharge", 100, outdoor_db_f=95, return_db_f=85, return_wb_f=56)
    assert s.supply_air.humidity_ratio == pytest.approx(s.coil_air.humidity_ratio, rel=5e-3)
    assert s.sensible_w == pytest.approx(s.capacity_w, rel=5e-3)


@pytest.mark.parametrize("machine", ORIFICES, ids=lambda m: m.id)
def test_an_orifice_follows_the_charging_formula_over_the_weather(machine):
    """Total superheat against (3 WB - 80 - OD) / 2 within 3 degF rms (common practice, no source)."""
    missed = []
    for outdoor in (75, 85, 95, 105):
        for dry, wet in ((72, 58), (75, 63), (76, 60), (80, 64), (80, 67), (82, 70)):
            target = total_superheat_target_df(wet, outdoor)
            if target >= 5.0:
                weather = for_machine(machine, outdoor_db_f=outdoor, return_db_f=dry, return_wb_f=wet)
                missed.append(solve(machine, weather).superheat_dk * 1.8 - target)
    assert len(missed) > 15 and (sum(x * x for x in missed) / len(missed)) ** 0.5 < 3.0


def test_a_restricted_suction_line_reads_high_behind_a_valve_and_low_behind_an_orifice():
    """Gauge and clamp are at the outdoor unit, behind the restriction; an orifice floods the coil (docs/model.md)."""
    for machine_id, way in (("split-3t-r410a-txv", 1), ("split-3t-r410a-orifice", -1), ("split-3t-r22-orifice", -1)):
        sound = solve(MACHINES[machine_id], rating_conditions(MACHINES[machine_id]))
        found = at(machine_id, "suction_line_restriction", 9)
        assert way * (found.superheat_dk - sound.superheat_dk) > 1.0, machine_id
        assert found.suction_pa < sound.suction_pa - 30e3 < found.evaporating_pa


@pytest.mark.parametrize("air_share", [0.8, 2.4])
def test_gas_that_is_pushed_against_air_leaves_hotter(air_share):
    """Compression to the gauge's pressure, not to the refrigerant's share of it: 2.5 to 8 degF."""
    from math import log

    from wolfsbane.cycle.properties import refrigerant, temperature_density_entropy

    s = at("split-3t-r410a-txv", "non_condensables", air_share)
    h = s.path[1][1]
    partial = temperature_density_entropy(refrigerant("R-410A").arrays, log(s.condensing_pa), h)[0]
    assert 1.0 < 1.8 * (s.discharge_line_k - partial) < 12.0


@pytest.mark.parametrize(("machine_id", "box_f"), [("reachin-r290-capillary", 0), ("walkin-freezer-r404a-txv", -20)])
def test_a_machine_that_hardly_cools_says_so_instead_of_a_reading(machine_id, box_f):
    where = {"outdoor_db_f": 100, "box_f": box_f}
    found = [at(machine_id, "leaking_compressor_valves", pct, **where) for pct in range(20, 76, 5)]
    assert found[-1].trip is not None
    for s in found:
        assert s.trip is not None or s.capacity_w > 0.05 * MACHINES[machine_id].plate.capacity_w
        assert s.trip is not None or s.supply_air.dry_bulb_k < s.return_air.dry_bulb_k + 1.5


def test_net_and_gross_are_both_told():
    m = MACHINES["split-3t-r410a-txv"]
    row = solved_row(solve(m, rating_conditions(m)), m)
    assert row["capacity_btuh"] - row["net_capacity_btuh"] == pytest.approx(400 * 3.412, rel=1e-3)
    assert row["total_power_w"] - row["power_w"] == pytest.approx(400)


@pytest.mark.parametrize("machine", RECEIVERS, ids=lambda m: m.id)
def test_levels_of_a_receiver_machine_are_level_then_glass_then_gauges(machine):
    sound = solve(machine, rating_conditions(machine))
    kind = FAULTS["undercharge"].on(machine)
    mild, moderate, severe = (at(machine.id, "undercharge", kind.level(level)) for level in LEVELS)
    assert mild.receiver.level < 0.1 and abs(mild.suction_pa - sound.suction_pa) < 7e3
    assert moderate.sight_glass_quality > 1e-3
    assert severe.superheat_dk > sound.superheat_dk + 4.0 and severe.head_pa < sound.head_pa - min(
        70e3, 0.05 * sound.head_pa
    )
    full = FAULTS["overcharge"].on(machine)
    assert at(machine.id, "overcharge", full.mild).receiver.level > 0.75
    assert at(machine.id, "overcharge", full.limit).trip.cutout == "high_pressure"
    plain = MACHINES["split-3t-r410a-txv"]
    assert FAULTS["undercharge"].on(plain).mild == 88 and FAULTS["undercharge"].on(plain).limit == 40


def test_head_of_a_counter_flow_condenser_does_not_jump_where_its_subcooling_runs_out():
    """With little water the liquid warms most of it: the last degree of subcooling is no step in the head."""
    m = MACHINES["water-cooled-3t-r410a-regulated"]
    weather = for_machine(m, outdoor_db_f=113, return_db_f=85, return_wb_f=66, water_in_f=74)
    slow = Fault(id="low_water_flow", severity=32)
    found = [solve(m, weather, (slow, Fault(id="undercharge", severity=c))) for c in np.linspace(80, 95, 31)]
    heads = np.array([s.head_pa for s in found])
    assert min(s.subcooling_dk for s in found) < 0.1 < 4.0 < max(s.subcooling_dk for s in found)
    assert np.all(np.diff(heads) > 0) and np.diff(heads).max() < 0.006 * heads[0]


def test_a_fan_that_cycles_and_more_charge_than_fits_trips_instead_of_finding_nothing():
    m = MACHINES["walkin-cooler-r134a-fan-cycling"]
    weather = for_machine(m, outdoor_db_f=30, box_f=46)
    worst = {"wrong_refrigerant": 115, "overcharge": 180, "condenser_recirculation": 17}
    planted = tuple(Fault(id=k, severity=v) for k, v in worst.items())
    assert solve(m, weather, planted).trip.cutout == "high_pressure"


def test_a_cycling_fan_keeps_its_swing_where_the_receiver_runs_empty():
    m = MACHINES["walkin-cooler-r134a-fan-cycling"]
    weather = for_machine(m, outdoor_db_f=4.2, box_f=35)
    short = {"undercharge": 39.7, "low_load": 10, "service_valve_part_closed": 200}
    state = solve(m, weather, tuple(Fault(id=k, severity=v) for k, v in short.items()))
    assert state.receiver.holds == "empty" and state.swing is not None
