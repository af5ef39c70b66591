"""The parts on their own: each keeps its own balance, in every regime it knows."""

import math

import numpy as np
import pytest

from wolfsbane.cycle import air
from wolfsbane.cycle.parts.compressor import compressor, shell_share
from wolfsbane.cycle.parts.condenser import condenser
from wolfsbane.cycle.parts.evaporator import evaporator, void_density
from wolfsbane.cycle.parts.metering import expansion, throttled, valve_opening
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
    enthalpy_at_temperature,
    refrigerant,
    saturation_at,
    subcooling_of,
    temperature_density_entropy,
)

CIRCUIT = machine("split-3t-r410a-txv").circuit
TAB = refrigerant("R-410A").arrays
LN_PC, LN_PE = math.log(2.74e6), math.log(1.0e6)
H_SAT = air.saturated_enthalpy(101_325.0)
RETURN = air.from_wet_bulb(299.8, 292.6, 101_325.0)
COLD_WATER = CIRCUIT._replace(condenser_water=1.0, condenser_air_kg_s=0.5)


def condense(m=0.064, h2=None, t_in=308.15, share=1.0, circuit=CIRCUIT, nc=0.0):
    h2 = saturation_at(TAB, H_G, LN_PC) + 45e3 if h2 is None else h2
    return h2, condenser(circuit, TAB, LN_PC, m, h2, t_in, share, 1.0, nc)


@pytest.mark.parametrize("m", [0.02, 0.064, 0.11, 0.4])
@pytest.mark.parametrize("circuit", [CIRCUIT, COLD_WATER], ids=["air", "water"])
def test_what_the_refrigerant_loses_the_stream_gains_whether_it_leaves_as_liquid_or_not(m, circuit):
    h2, (h3, t3, gas, two_phase, quality, heat, needed) = condense(m=m, circuit=circuit)
    assert heat == pytest.approx(m * (h2 - h3), rel=1e-9)
    assert 0 <= gas <= 1 and 0 <= two_phase <= 1 and gas + two_phase <= 1 + 1e-12
    assert (quality > 0) == (needed > 1), "not all condenses where more coil is needed than there is"
    assert t3 >= 308.15 - 0.01, "nothing leaves colder than what cools it"


def test_a_condenser_of_pure_gas_only_cools_it():
    h2, (h3, _, gas, two_phase, quality, heat, needed) = condense(m=4.0)
    assert (gas, two_phase, quality) == (1.0, 0.0, 1.0) and h3 > saturation_at(TAB, H_G, LN_PC) and needed > 1
    assert heat == pytest.approx(4.0 * (h2 - h3), rel=1e-9)


def test_wet_gas_from_a_flooding_compressor_has_no_gas_zone():
    h2 = saturation_at(TAB, H_G, LN_PC) - 20e3
    _, (h3, _, gas, *_rest) = condense(h2=h2)
    assert gas == 0.0 and h3 < saturation_at(TAB, H_F, LN_PC)


def test_air_in_the_circuit_covers_surface():
    assert condense(nc=0.2)[1][6] > condense()[1][6]


def test_less_air_needs_more_coil_and_leaves_warmer_liquid():
    full, less = condense()[1], condense(share=0.6)[1]
    assert less[6] > full[6] and less[1] > full[1]


@pytest.mark.parametrize(("t_k", "expected"), [(240.0, 0.06), (600.0, 1.0)])
def test_a_thermostatic_valve_stops_at_its_stops(t_k, expected):
    assert valve_opening(CIRCUIT, t_k, 280.0) == pytest.approx(expected, abs=0.01)


def test_a_valve_opens_steadily_over_its_range_and_a_stuck_one_not_at_all():
    found = [valve_opening(CIRCUIT, 280.0 + sh, 280.0) for sh in np.linspace(2.0, 8.0, 25)]
    assert np.all(np.diff(found) >= 0) and found[0] < 0.1 < 0.9 < found[-1]
    stuck = CIRCUIT._replace(valve_fixed_opening=0.5)
    assert {valve_opening(stuck, t, 280.0) for t in (270.0, 290.0, 310.0)} == {0.5}


def test_vapour_at_the_inlet_chokes_the_metering_device():
    p = math.exp(LN_PC)
    h_f = saturation_at(TAB, H_F, LN_PC)
    liquid = expansion(CIRCUIT, TAB, p, saturation_at(TAB, RHO_F, LN_PC), 0.0, h_f, 1e6, 0.75)
    flashing = expansion(CIRCUIT, TAB, p, saturation_at(TAB, RHO_F, LN_PC), 0.1, h_f + 15e3, 1e6, 0.75)
    assert flashing < 0.7 * liquid


def test_no_resistance_no_drop_and_a_drop_grows_with_the_square_of_the_flow():
    p, h = math.exp(LN_PC), saturation_at(TAB, H_F, LN_PC) - 15e3
    assert throttled(CIRCUIT, TAB, p, 0.064, h, 0.0) == p
    one, two = (p - throttled(CIRCUIT, TAB, p, m, h, 1e5) for m in (0.032, 0.064))
    assert two == pytest.approx(4 * one, rel=0.02)


def test_flash_feeds_the_drop():
    p, h_f = math.exp(LN_PC), saturation_at(TAB, H_F, LN_PC)
    liquid, damp, wet = (p - throttled(CIRCUIT, TAB, p, 0.064, h, 1e5) for h in (h_f - 15e3, h_f + 8e3, h_f + 40e3))
    assert wet > 2 * liquid and liquid < damp < wet


@pytest.mark.parametrize("m", [0.03, 0.064, 0.12])
def test_the_evaporator_gives_the_refrigerant_what_it_takes_from_the_air(m):
    h_in = saturation_at(TAB, H_F, LN_PE) + 55e3
    h1, heat, surface, boiling, *_ = evaporator(
        CIRCUIT, TAB, LN_PE, m, h_in, RETURN.dry_bulb_k, RETURN.enthalpy_j_kg, 1.0, H_SAT
    )
    assert heat == pytest.approx(m * (h1 - h_in), rel=1e-6)
    assert (boiling < 1.0) == (h1 > saturation_at(TAB, H_G, LN_PE))
    assert refrigerant("R-410A").saturation_k(1.0e6, "bubble") < surface < RETURN.dry_bulb_k


def test_blocked_circuits_take_heat_away_and_nothing_else_is_lost():
    h_in = saturation_at(TAB, H_F, LN_PE) + 55e3
    whole, blocked = (
        evaporator(
            CIRCUIT._replace(distributor_blocked_share=b),
            TAB,
            LN_PE,
            0.064,
            h_in,
            RETURN.dry_bulb_k,
            RETURN.enthalpy_j_kg,
            1.0,
            H_SAT,
        )
        for b in (0.0, 0.4)
    )
    assert blocked[1] < whole[1] and blocked[1] == pytest.approx(0.064 * (blocked[0] - h_in), rel=1e-6)
    assert evaporator(
        CIRCUIT._replace(distributor_blocked_share=1e-9),
        TAB,
        LN_PE,
        0.064,
        h_in,
        RETURN.dry_bulb_k,
        RETURN.enthalpy_j_kg,
        1.0,
        H_SAT,
    )[1] == pytest.approx(whole[1], rel=1e-6)


@pytest.mark.parametrize("leak", [0.0, 0.2, 0.4])
def test_the_compressor_gives_the_gas_its_work_less_what_the_shell_loses(leak):
    h1 = saturation_at(TAB, H_G, LN_PE) + 9e3
    m, ps, hs, h_in, h2, work, _ = compressor(
        CIRCUIT._replace(leak_fraction=leak), TAB, LN_PE, h1, math.exp(LN_PC), 302.0
    )
    assert m * (h2 - hs) == pytest.approx(work * (1 - CIRCUIT.shell_loss), rel=1e-9)
    assert ps < math.exp(LN_PE) and h_in == hs


@pytest.mark.parametrize("leak", [0.0, 0.3, 0.6])
@pytest.mark.parametrize("restriction_pa", [0.0, 2e5, 1e6, 4e6])
def test_flow_suction_pressure_and_hot_gas_that_leaks_back_agree_with_one_another(leak, restriction_pa):
    """What the compressor pumps is what its swept volume holds of the gas at the pressure that flow leaves it."""
    c = CIRCUIT._replace(leak_fraction=leak, suction_restriction_pa_at_ref=restriction_pa)
    h1, pd, pe = saturation_at(TAB, H_G, LN_PE) + 9e3, math.exp(LN_PC), math.exp(LN_PE)
    m, ps, _, h_in, h2, _, _ = compressor(c, TAB, LN_PE, h1, pd, 302.0)
    rho1 = temperature_density_entropy(TAB, LN_PE, h1)[1]
    drop = (c.suction_drop_pa_at_ref + restriction_pa) * (m / c.mass_flow_ref_kg_s) ** 2
    drop *= c.suction_drop_density_kg_m3 / rho1
    if drop <= 0.25 * pe:
        assert ps == pytest.approx(pe - drop, rel=1e-9)
    assert 0.0 < ps < pe
    phi = leak * math.sqrt((pd - ps) / c.leak_reference_pa)
    rho = temperature_density_entropy(TAB, math.log(ps), (1.0 - phi) * h_in + phi * h2)[1]
    filled = c.volumetric_a - c.volumetric_b * ((pd / ps) ** c.volumetric_exponent - 1.0)
    assert m == pytest.approx((1.0 - phi) * filled * c.displacement_m3_s * c.pumping_share * rho, rel=1e-9)


def test_a_cold_shell_takes_its_share_of_the_flow_and_a_trickle_leaves_at_the_shell():
    """What is taken from a kilogram grows as the flow falls, and never past what the gas differs from its shell by."""
    assert shell_share(1.0) == pytest.approx(1.0)
    shares = np.array([1.0, 0.5, 0.2, 0.05, 0.001])
    whole, per_kg = np.array([shell_share(r) for r in shares]), np.array([shell_share(r) / r for r in shares])
    assert (np.diff(whole) < 0.0).all() and (np.diff(per_kg) > 0.0).all()
    assert per_kg[-1] == pytest.approx(1.0 / (1.0 - math.exp(-0.41)), rel=1e-3)
    h1 = saturation_at(TAB, H_G, LN_PE) + 9e3
    m, _, hs, _, h2, work, _ = compressor(CIRCUIT, TAB, LN_PE, h1, math.exp(LN_PC), 302.0, 1.0, 500.0)
    taken = work * (1 - CIRCUIT.shell_loss) - m * (h2 - hs)
    assert taken == pytest.approx(500.0 * shell_share(m / CIRCUIT.mass_flow_ref_kg_s), rel=1e-6)


def test_a_leaking_reversing_valve_warms_the_gas_before_the_compressor():
    h1 = saturation_at(TAB, H_G, LN_PE) + 9e3
    _, _, hs, h_in, *_ = compressor(
        CIRCUIT._replace(reversing_leak_fraction=0.2), TAB, LN_PE, h1, math.exp(LN_PC), 302.0
    )
    assert h_in > hs + 5e3


def test_the_void_fraction_runs_from_liquid_to_gas_and_is_the_same_either_way():
    ends = [void_density(TAB, LN_PE, x, x) for x in (0.0, 0.5, 1.0)]
    assert ends[0] == pytest.approx(saturation_at(TAB, RHO_F, LN_PE)) and ends[2] == pytest.approx(
        saturation_at(TAB, RHO_G, LN_PE)
    )
    assert ends[0] > ends[1] > ends[2]
    assert void_density(TAB, LN_PE, 0.2, 0.9) == void_density(TAB, LN_PE, 0.9, 0.2)
    mean = np.mean([void_density(TAB, LN_PE, x, x) for x in np.linspace(0.2, 0.9, 4001)])
    assert void_density(TAB, LN_PE, 0.2, 0.9) == pytest.approx(mean, rel=1e-3), "the closed mean is the mean"


@pytest.mark.parametrize("name", ["R-410A", "R-407C", "R-290", "R-600a"])
def test_inverses_of_the_tables_are_inverses(name):
    tab = refrigerant(name).arrays
    for ln_p in np.linspace(tab.ln_p_min + 0.3, tab.ln_p_max - 0.2, 12):
        h_g, h_f = saturation_at(tab, H_G, ln_p), saturation_at(tab, H_F, ln_p)
        for dh in (50.0, 8e3, 60e3):
            t = temperature_density_entropy(tab, ln_p, h_g + dh)[0]
            assert enthalpy_at_temperature(tab, ln_p, t) == pytest.approx(h_g + dh, abs=1.0)
        for drop in (20.0, 4e3, 20e3):
            t = temperature_density_entropy(tab, ln_p, h_f - drop)[0]
            assert t == pytest.approx(
                refrigerant(name).saturation_k(math.exp(ln_p), "bubble") - subcooling_of(tab, ln_p, h_f - drop)
            )


def test_quality_runs_the_temperature_from_bubble_to_dew():
    tab, fluid = refrigerant("R-407C").arrays, refrigerant("R-407C")
    ln_p = math.log(6e5)
    h_f, h_g = saturation_at(tab, H_F, ln_p), saturation_at(tab, H_G, ln_p)
    found = [temperature_density_entropy(tab, ln_p, h_f + x * (h_g - h_f))[0] for x in (1e-9, 0.5, 1 - 1e-9)]
    assert found[0] == pytest.approx(fluid.saturation_k(6e5, "bubble"), abs=1e-3)
    assert found[2] == pytest.approx(fluid.saturation_k(6e5, "dew"), abs=1e-3) and found[0] < found[1] < found[2]
