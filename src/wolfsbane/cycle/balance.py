"""The whole circuit for one guess: residuals, charge inventory and every figure of the solved state. Compiled."""

from math import exp, log

from numba import njit

from wolfsbane.cycle.components import (
    CP_AIR,
    compressor,
    condenser,
    evaporator,
    expansion,
    liquid_line,
    valve_opening,
    void_density,
)
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
    T_DEW,
    saturation_at,
    temperature_density_entropy,
)

#: order of the figures that ``evaluate`` writes
FIGURES = (
    "mass_flow_kg_s", "expansion_flow_kg_s", "evaporating_pa", "suction_pa", "discharge_pa", "valve_inlet_pa",
    "h_evaporator_out", "h_suction", "h_discharge", "h_liquid",
    "evaporator_outlet_k", "suction_line_k", "discharge_k", "liquid_line_k", "after_drier_k",
    "condenser_gas_share", "condenser_two_phase_share", "condenser_out_quality",
    "evaporator_boiling_share", "valve_inlet_quality", "valve_opening",
    "evaporator_heat_w", "condenser_heat_w", "condenser_air_heat_w", "work_w", "suction_line_gain_w", "shell_loss_w",
    "air_boiling_k", "air_superheat_k", "air_enthalpy_drop_j_kg", "surface_k", "supply_air_kg_s",
    "condenser_air_out_k", "charge_found_kg", "evaporator_mix_heat_w",
)
N_FIGURES = len(FIGURES)


@njit(cache=True, error_model="numpy")
def charge_inventory(c, tab, ln_pe, ln_pc, ps, p_in, h1, hs, h2, h3, f_gas, f_tp, x3, f_boil):
    """Refrigerant mass in kg: condenser, evaporator, liquid line, suction line, shell and oil."""
    rho_gc, rho_fc = saturation_at(tab, RHO_G, ln_pc), saturation_at(tab, RHO_F, ln_pc)
    h_fc, h_gc = saturation_at(tab, H_F, ln_pc), saturation_at(tab, H_G, ln_pc)
    _, rho2, _ = temperature_density_entropy(tab, ln_pc, h2)
    _, rho3, _ = temperature_density_entropy(tab, ln_pc, h3)
    x_start = min(max((h2 - h_fc) / (h_gc - h_fc), 0.0), 1.0)
    f_liquid = 1.0 - f_gas - f_tp
    condenser_kg = c.condenser_volume_m3 * (
        f_gas * 0.5 * (rho2 + rho_gc) + f_tp * void_density(tab, ln_pc, x3, x_start)
        + f_liquid * 0.5 * (rho3 + rho_fc))
    h_fe, h_ge = saturation_at(tab, H_F, ln_pe), saturation_at(tab, H_G, ln_pe)
    rho_ge = saturation_at(tab, RHO_G, ln_pe)
    _, rho1, _ = temperature_density_entropy(tab, ln_pe, h1)
    x_in = min(max((h3 - h_fe) / (h_ge - h_fe), 0.0), 1.0)
    x_out = min(max((h1 - h_fe) / (h_ge - h_fe), 0.0), 1.0)
    evaporator_kg = c.evaporator_volume_m3 * (
        f_boil * void_density(tab, ln_pe, x_in, x_out) + (1.0 - f_boil) * 0.5 * (min(rho1, rho_ge) + rho_ge))
    _, rho_line, _ = temperature_density_entropy(tab, log(p_in), h3)
    _, rho_s, _ = temperature_density_entropy(tab, log(ps), hs)
    rho_s = min(rho_s, 2.0 * saturation_at(tab, RHO_G, log(ps)))
    lines_kg = c.liquid_line_volume_m3 * rho_line + (c.suction_line_volume_m3 + c.shell_volume_m3) * rho_s
    return condenser_kg + evaporator_kg + lines_kg + c.oil_kg * c.oil_solubility_per_mpa * ps * 1e-6


@njit(cache=True, error_model="numpy")
def evaluate(x, c, tab, w, h_sat, residuals, out):
    """Fill ``residuals`` (flow, charge, evaporator energy) and ``out`` (FIGURES) for x = (ln Pe, ln Pc, h1).

    ``w`` is (outdoor K, return K, return enthalpy J/kg, air density ratio).
    """
    ln_pe, ln_pc, h1 = x[0], x[1], x[2]
    pe, pc = exp(ln_pe), exp(ln_pc)
    m, ps, hs, h2, work = compressor(c, tab, ln_pe, h1, pc)
    h3, t3, f_gas, f_tp, x3, q_air = condenser(c, tab, ln_pc, m, h2, w[0], w[3])
    p_in, rho_in, x_in = liquid_line(c, tab, pc, m, h3)
    t1, _, _ = temperature_density_entropy(tab, ln_pe, h1)
    opening = valve_opening(c, t1, saturation_at(tab, T_DEW, ln_pe))
    m_exp = expansion(c, tab, p_in, rho_in, x_in, h3, pe, opening)
    h1_found, f_boil, q_evap, t_boil, t_dry, dh_air, t_surface = evaporator(
        c, tab, ln_pe, m, h3, w[1], w[2], w[3], h_sat)
    charge = charge_inventory(c, tab, ln_pe, ln_pc, ps, p_in, h1, hs, h2, h3, f_gas, f_tp, x3, f_boil)
    residuals[0] = (m_exp - m) / c.mass_flow_ref_kg_s
    residuals[1] = (charge - c.charge_kg) / c.charge_kg
    residuals[2] = (h1_found - h1) / 5e4

    m_air = c.evaporator_air_kg_s * c.evaporator_air_fraction * w[3]
    cap_out = c.condenser_air_kg_s * c.condenser_air_fraction * w[3] * CP_AIR
    out[0], out[1], out[2], out[3], out[4], out[5] = m, m_exp, pe, ps, pc, p_in
    out[6], out[7], out[8], out[9] = h1, hs, h2, h3
    out[10] = t1
    out[11] = temperature_density_entropy(tab, log(ps), hs)[0]
    out[12] = temperature_density_entropy(tab, ln_pc, h2)[0]
    out[13] = t3
    out[14] = temperature_density_entropy(tab, log(p_in), h3)[0]
    out[15], out[16], out[17], out[18], out[19], out[20] = f_gas, f_tp, x3, f_boil, x_in, opening
    out[21], out[22], out[23], out[24] = q_evap, m * (h2 - h3), q_air, work
    out[25], out[26] = m * (hs - h1), work * c.shell_loss
    out[27], out[28], out[29], out[30], out[31] = t_boil, t_dry, dh_air, t_surface, m_air
    out[32] = w[0] + q_air / cap_out
    out[33] = charge
    out[34] = m * (h1 - h3)
