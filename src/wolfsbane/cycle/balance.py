"""The whole circuit for one guess: residuals, charge inventory and every figure of the solved state. Compiled."""

from math import exp, log

from numba import njit

from wolfsbane.cycle.components import (
    CP_AIR,
    CP_WATER,
    compressor,
    condenser,
    condenser_share,
    evaporator,
    expansion,
    inlet_state,
    line_cooling,
    non_condensable_pa,
    throttled,
    valve_opening,
    void_density,
)
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
    T_BUBBLE,
    T_DEW,
    saturation_at,
    temperature_density_entropy,
)

#: order of the figures that ``evaluate`` writes
FIGURES = (
    "mass_flow_kg_s",
    "expansion_flow_kg_s",
    "evaporating_pa",
    "suction_pa",
    "discharge_pa",
    "valve_inlet_pa",
    "h_evaporator_out",
    "h_suction",
    "h_discharge",
    "h_liquid",
    "evaporator_outlet_k",
    "suction_line_k",
    "discharge_k",
    "liquid_line_k",
    "after_drier_k",
    "condenser_gas_share",
    "condenser_two_phase_share",
    "condenser_out_quality",
    "evaporator_boiling_share",
    "valve_inlet_quality",
    "valve_opening",
    "evaporator_heat_w",
    "condenser_heat_w",
    "condenser_stream_heat_w",
    "work_w",
    "suction_line_gain_w",
    "shell_loss_w",
    "air_boiling_k",
    "air_superheat_k",
    "liquid_line_loss_w",
    "surface_k",
    "supply_air_kg_s",
    "stream_out_k",
    "charge_found_kg",
    "evaporator_mix_heat_w",
    "condensing_pa",
    "liquid_port_pa",
    "condenser_outlet_k",
    "compressor_in_k",
    "evaporator_inlet_k",
    "receiver_kg",
    "condenser_stream_share",
    "blocked_air_k",
    "blocked_boiling_share",
    "port_quality",
    "evaporator_kg",
    "drier_quality",
    "low_side_kg",
    "bulb_k",
)
N_FIGURES = len(FIGURES)
#: how the charge equation reads: no receiver; receiver holding liquid; receiver empty; receiver full
NO_RECEIVER, HOLDS, EMPTY, FULL = 0.0, 1.0, 2.0, 3.0
#: what ``w`` ends with in the steady case: nothing is stored, and the bulb is as warm as the pipe
STEADY = (0.0, 0.0, 0.0, 1.0)


@njit(cache=True, error_model="numpy")
def evaporator_charge(c, tab, ln_pe, h_in, h_out, f_boil, area):
    """Refrigerant in ``area`` of the evaporator, kg."""
    h_f, h_g = saturation_at(tab, H_F, ln_pe), saturation_at(tab, H_G, ln_pe)
    rho_g = saturation_at(tab, RHO_G, ln_pe)
    _, rho_out, _ = temperature_density_entropy(tab, ln_pe, h_out)
    x_in = min(max((h_in - h_f) / (h_g - h_f), 0.0), 1.0)
    x_out = min(max((h_out - h_f) / (h_g - h_f), 0.0), 1.0)
    return (
        area
        * c.evaporator_volume_m3
        * (f_boil * void_density(tab, ln_pe, x_in, x_out) + (1.0 - f_boil) * 0.5 * (min(rho_out, rho_g) + rho_g))
    )


@njit(cache=True, error_model="numpy")
def condenser_charge(c, tab, ln_pc, h2, h3, f_gas, f_tp, x3):
    """Refrigerant in the condenser, kg."""
    rho_g, rho_f = saturation_at(tab, RHO_G, ln_pc), saturation_at(tab, RHO_F, ln_pc)
    h_f, h_g = saturation_at(tab, H_F, ln_pc), saturation_at(tab, H_G, ln_pc)
    _, rho2, _ = temperature_density_entropy(tab, ln_pc, h2)
    _, rho3, _ = temperature_density_entropy(tab, ln_pc, h3)
    x_start = min(max((h2 - h_f) / (h_g - h_f), 0.0), 1.0)
    return c.condenser_volume_m3 * (
        f_gas * 0.5 * (rho2 + rho_g)
        + f_tp * void_density(tab, ln_pc, min(x3, 1.0), x_start)
        + (1.0 - f_gas - f_tp) * 0.5 * (rho3 + rho_f)
    )


@njit(cache=True, error_model="numpy")
def suction_charge(c, tab, ps, hs):
    """Refrigerant in the suction line, the compressor shell and its oil, kg."""
    _, rho_s, _ = temperature_density_entropy(tab, log(ps), hs)
    rho_s = min(rho_s, 2.0 * saturation_at(tab, RHO_G, log(ps)))
    return (c.suction_line_volume_m3 + c.shell_volume_m3) * rho_s + c.oil_kg * c.oil_solubility_per_mpa * ps * 1e-6


@njit(cache=True, error_model="numpy")
def evaluate(x, c, tab, w, h_sat, residuals, out):
    """Fill ``residuals`` (flow, charge, evaporator energy) and ``out`` (FIGURES) for x = (ln Pe, ln Pc, h1).

    ``w`` is (stream entering the condenser K, air entering the evaporator K, its enthalpy J/kg, air density ratio, how
    the charge equation reads, outdoor K, low side kg before the step, 1/step in 1/s, bulb K before the step, share of
    the way the bulb comes in the step). A step that never ends, :data:`STEADY`, is the steady balance.
    """
    ln_pe, ln_pc, h1 = x[0], x[1], x[2]
    pe, pc = exp(ln_pe), exp(ln_pc)
    p_nc = non_condensable_pa(c, saturation_at(tab, T_BUBBLE, ln_pc))
    p_head = pc + p_nc
    m, ps, hs, h_in, h2, work = compressor(c, tab, ln_pe, h1, p_head)
    share = condenser_share(c, p_head)
    h3, t3, f_gas, f_tp, x3, q_stream, needed = condenser(c, tab, ln_pc, m, h2, w[0], share, w[3], p_nc / pc)
    # A receiver that holds liquid gives liquid, however the guess for the condenser still stands.
    h_out = saturation_at(tab, H_F, ln_pc) if w[4] == HOLDS else h3
    p_port = throttled(c, tab, p_head, m, h_out, c.liquid_valve_pa_at_ref)
    h_line = line_cooling(c, tab, log(p_port), m, h_out, t3, w[5])
    p_drier = throttled(c, tab, p_port, m, h_line, c.restriction_pa_at_ref)
    p_in = throttled(c, tab, p_drier, m, h_line, c.line_drop_pa_at_ref)
    rho_in, x_in = inlet_state(tab, p_in, h_line)
    t1, _, _ = temperature_density_entropy(tab, ln_pe, h1)
    t_bulb = w[8] + w[9] * (t1 - w[8])
    opening = valve_opening(c, t_bulb, saturation_at(tab, T_DEW, ln_pe))
    m_exp = expansion(c, tab, p_in, rho_in, x_in, h_line, pe, opening) * (1.0 - c.liquid_shut)
    m_coil = max(m - c.port_kg_s, 0.02 * m)
    h1_found, q_evap, t_surface, f_boil, h_open, t_boil, t_dry, f_two, h_two, t_two = evaporator(
        c, tab, ln_pe, m_coil, h_line, w[1], w[2], w[3], h_sat
    )
    blocked = c.distributor_blocked_share
    evaporator_kg = evaporator_charge(c, tab, ln_pe, h_line, h_open, f_boil, 1.0 - blocked) + evaporator_charge(
        c, tab, ln_pe, h_line, h_two, f_two, blocked
    )
    low_side = evaporator_kg + suction_charge(c, tab, ps, hs)
    _, rho_line, _ = temperature_density_entropy(tab, log(p_in), h_line)
    charge = condenser_charge(c, tab, ln_pc, h2, h3, f_gas, f_tp, x3) + low_side + c.liquid_line_volume_m3 * rho_line
    receiver = 0.0
    if w[4] == EMPTY:
        receiver = c.receiver_volume_m3 * saturation_at(tab, RHO_G, ln_pc)
    elif w[4] == FULL:
        receiver = c.receiver_volume_m3 * saturation_at(tab, RHO_F, ln_pc)
    residuals[0] = (m_exp + c.port_kg_s - m - (low_side - w[6]) * w[7]) / c.mass_flow_ref_kg_s
    residuals[1] = (charge + receiver - c.charge_kg) / c.charge_kg
    if w[4] == HOLDS:
        receiver = c.charge_kg - charge
        residuals[1] = min(max(1.0 - needed, -3.0), 3.0)
    residuals[2] = (h1_found - h1) / 5e4

    out[0], out[1], out[2], out[3], out[4], out[5] = m, m_exp, pe, ps, p_head, p_in
    out[6], out[7], out[8], out[9] = h1, hs, h2, h_line
    out[10] = t1
    out[11] = temperature_density_entropy(tab, log(ps), hs)[0]
    out[12] = temperature_density_entropy(tab, ln_pc, h2)[0]
    out[13] = temperature_density_entropy(tab, log(p_port), h_line)[0]
    out[14] = temperature_density_entropy(tab, log(p_drier), h_line)[0]
    out[15], out[16], out[17], out[18], out[19], out[20] = f_gas, f_tp, x3, f_boil, x_in, opening
    out[21], out[22], out[23], out[24] = q_evap, m * (h2 - h3), q_stream, work
    out[25], out[26] = m * (hs - h1), work * c.shell_loss
    out[27], out[28], out[29], out[30] = t_boil, t_dry, m * (h3 - h_line), t_surface
    out[31] = c.evaporator_air_kg_s * c.evaporator_air_fraction * w[3]
    capacity_rate = CP_WATER if c.condenser_water > 0.5 else CP_AIR * w[3]
    out[32] = w[0] + q_stream / (c.condenser_air_kg_s * share * capacity_rate)
    out[33] = charge + receiver
    out[34] = m_coil * (h1 - h_line)
    out[35], out[36], out[37] = pc, p_port, t3
    out[38] = temperature_density_entropy(tab, log(ps), h_in)[0]
    out[39] = temperature_density_entropy(tab, ln_pe, h_line)[0]
    out[40], out[41], out[42], out[43] = receiver, share, t_two, f_two
    out[44] = inlet_state(tab, p_port, h_line)[1]
    out[45], out[46] = evaporator_kg, inlet_state(tab, p_drier, h_line)[1]
    out[47], out[48] = low_side, t_bulb
