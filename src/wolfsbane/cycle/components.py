"""The parts of the circuit as compiled functions. Equations and their assumptions: docs/model.md."""

from __future__ import annotations

from math import exp, log, sqrt
from typing import TYPE_CHECKING

from numba import njit

from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
    T_BUBBLE,
    T_DEW,
    enthalpy_at_entropy,
    enthalpy_at_temperature,
    liquid_at,
    ln_p_of,
    saturation_at,
    subcooling_of,
    temperature_density_entropy,
)

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays

CP_AIR = 1006.0
CP_WATER = 4186.0
_SATURATED_MIN_K = 203.15
#: flow that still seeps through a blocked evaporator circuit, against its share of a sound coil (assumed)
SEEP = 0.15
_GAS_CONSTANT = 8.314462618
#: part of the condenser's volume that vapor and air share when non-condensable gas is in it (assumed)
_RUNNING_VAPOR_SHARE = 0.8


@njit(cache=True, error_model="numpy")
def smooth_max(a: float, b: float, width: float) -> float:
    """Larger of ``a`` and ``b``, rounded off over ``width``."""
    d = a - b
    return b + 0.5 * (d + sqrt(d * d + width * width))


@njit(cache=True, error_model="numpy")
def smooth_clip(value: float, low: float, high: float, width: float) -> float:
    """``value`` held between ``low`` and ``high`` with rounded corners."""
    return -smooth_max(-smooth_max(value, low, width), -high, width)


@njit(cache=True, error_model="numpy")
def saturated_air_enthalpy(table: np.ndarray, t_k: float) -> float:
    """Linear look-up in the 1 K table of :func:`wolfsbane.cycle.air.saturated_enthalpy`, J/kg."""
    u = min(max(t_k - _SATURATED_MIN_K, 0.0), table.size - 1.000001)
    i = int(u)
    return table[i] + (u - i) * (table[i + 1] - table[i])


@njit(cache=True, error_model="numpy")
def moist_cp(h_air: float, t_k: float) -> float:
    """Heat capacity of moist air for each kg of dry air, J/(kg K), from its enthalpy and temperature.

    Source: the ideal-gas relation h = 1006 t + W (2501000 + 1860 t), ASHRAE Handbook - Fundamentals, chapter on
    psychrometrics (from memory); the psychrometric library uses it as well.
    """
    t = t_k - 273.15
    return CP_AIR + 1860.0 * max((h_air - CP_AIR * t) / (2501000.0 + 1860.0 * t), 0.0)


@njit(cache=True, error_model="numpy")
def non_condensable_pa(c: Circuit, t_condensing: float) -> float:
    """Partial pressure of air left in the condenser, Pa."""
    return c.non_condensable_mol * _GAS_CONSTANT * t_condensing / (_RUNNING_VAPOR_SHARE * c.condenser_volume_m3)


@njit(cache=True, error_model="numpy")
def compressor(
    c: Circuit,
    tab: PropertyArrays,
    ln_pe: float,
    h1: float,
    p_discharge: float,
    t_around: float,
    denser: float = 1.0,
    shell_w: float = 0.0,
) -> tuple[float, ...]:
    """Suction line, reversing valve and compressor.

    Returns (m, p_suction, h_suction, h_compressor_in, h_discharge, work_w): ``h_suction`` at the service valve,
    ``h_compressor_in`` after a leaking reversing valve has mixed hot gas into it. What enters through the port mixes
    into the suction line, and the coil gives so much less. ``t_around`` is the air around the suction line, K. A
    shell that is still cold leaves the gas ``denser`` (times) and takes ``shell_w`` from it.
    """
    t1, rho1, _ = temperature_density_entropy(tab, ln_pe, h1)
    pe = exp(ln_pe)
    ln_pd = log(p_discharge)
    k_line = (
        (c.suction_drop_pa_at_ref + c.suction_restriction_pa_at_ref)
        * c.suction_drop_density_kg_m3
        / c.mass_flow_ref_kg_s**2
    )
    m = c.mass_flow_ref_kg_s * rho1 / c.suction_drop_density_kg_m3 * c.pumping_share
    phi, phi_valve, h2, ps, hs, h_in, work = 0.0, 0.0, 0.0, pe, h1, h1, 0.0
    leaking = c.leak_fraction + c.reversing_leak_fraction > 0.0
    for step in range(14):
        m_coil = max(m - c.port_kg_s, 0.02 * m)
        drop = k_line * m_coil * m_coil / rho1
        ps = pe - drop if drop <= 0.25 * pe else 0.75 * pe * exp(-(drop / pe - 0.25) / 0.75)
        ln_ps = log(ps)
        hs = h1 + (1.0 - exp(-c.suction_line_ua_w_k / (1000.0 * m_coil))) * 1000.0 * (t_around - t1)
        if c.port_kg_s > 0.0:
            hs = (m_coil * hs + (m - m_coil) * c.port_enthalpy_j_kg) / m
        h_in = h_mix = hs
        if leaking:
            root = sqrt(max(p_discharge - ps, 0.0) / c.leak_reference_pa)
            phi = min(c.leak_fraction * root, 0.9)
            phi_valve = min(c.reversing_leak_fraction * root, 0.9)
            if step > 0:
                h_in = (1.0 - phi_valve) * hs + phi_valve * h2
                h_mix = (1.0 - phi) * h_in + phi * h2
        ratio = max(p_discharge / ps, 1.0001)
        eta_v = max(c.volumetric_a - c.volumetric_b * (ratio**c.volumetric_exponent - 1.0), 0.05)
        eta = c.isentropic_peak * exp(-c.isentropic_fall * log(ratio / c.isentropic_best_ratio) ** 2)
        _, rho_mix, s_mix = temperature_density_entropy(tab, ln_ps, h_mix)
        m_cylinder = eta_v * c.displacement_m3_s * c.pumping_share * rho_mix * denser
        m = max((1.0 - phi) * (1.0 - phi_valve) * m_cylinder, 1e-4 * c.mass_flow_ref_kg_s)
        work = m_cylinder * max(enthalpy_at_entropy(tab, ln_pd, s_mix) - h_mix, 0.0) / eta
        h2 = hs + (work * (1.0 - c.shell_loss) - shell_w) / m
    return m, ps, hs, h_in, h2, work


@njit(cache=True, error_model="numpy")
def condenser_share(c: Circuit, p_head: float) -> float:
    """Share of the condenser's stream that flows: the fault's share times what a head-pressure controller allows."""
    if c.head_control_high_pa <= 0.0:
        return c.condenser_air_fraction
    speed = (p_head - c.head_control_low_pa) / (c.head_control_high_pa - c.head_control_low_pa)
    return c.condenser_air_fraction * smooth_clip(speed, 0.06, 1.0, 0.02)


@njit(cache=True, error_model="numpy")
def condenser(
    c: Circuit,
    tab: PropertyArrays,
    ln_pc: float,
    m: float,
    h2: float,
    t_in: float,
    share: float,
    density_ratio: float,
    nc_ratio: float,
) -> tuple[float, ...]:
    """Cross-flow condenser in three zones; the stream (air or water) is shared by area.

    ``share`` of the rated stream enters at ``t_in``; ``nc_ratio`` is the partial pressure of air over that of the
    refrigerant. Returns (h3, t3, share_gas, share_two_phase, quality_out, stream_heat_w, area_needed): t3 is the
    leaving temperature, ``area_needed`` what gas and condensing zones would take of the coil (above 1: not all
    condenses).
    """
    h_f, h_g = saturation_at(tab, H_F, ln_pc), saturation_at(tab, H_G, ln_pc)
    t_b, t_d = saturation_at(tab, T_BUBBLE, ln_pc), saturation_at(tab, T_DEW, ln_pc)
    water = c.condenser_water > 0.5
    flow_ratio = share if water else share * density_ratio
    cap = c.condenser_air_kg_s * flow_ratio * (CP_WATER if water else CP_AIR)
    flow = m / c.mass_flow_ref_kg_s
    r_out = 1.0 / (c.condenser_ua_air_w_k * flow_ratio ** (0.8 if water else 0.6))
    ua_two_phase = c.condenser_ua_two_phase_w_k * flow**0.3 / (1.0 + 3.0 * nc_ratio)
    eps_g = 1.0 - exp(-1.0 / (cap * (r_out + 1.0 / (c.condenser_ua_gas_w_k * flow**0.8))))
    eps_tp = 1.0 - exp(-1.0 / (cap * (r_out + 1.0 / ua_two_phase)))
    eps_l = 1.0 - exp(-1.0 / (cap * (r_out + 1.0 / (c.condenser_ua_liquid_w_k * flow**0.8))))
    # Log mean over the glide: a blend does not condense to liquid colder than its air.
    dew_over, bubble_over = max(t_d - t_in, 0.02), t_b - t_in
    if bubble_over < 0.02:
        bubble_over = 0.02 * exp(max((bubble_over - 0.02) / 0.02, -500.0))
    drive = dew_over
    if dew_over - bubble_over > 1e-3:
        drive = (dew_over - bubble_over) / log(dew_over / bubble_over)
    f_gas = 0.0
    h_start = min(h2, h_g)
    if h2 > h_g:
        t2, _, _ = temperature_density_entropy(tab, ln_pc, h2)
        cp_gas = (h2 - h_g) / max(t2 - t_d, 1e-3)
        f_gas = log(max(t2 - t_in, 0.03) / max(t_d - t_in, 0.02)) * m * cp_gas / (cap * eps_g)
        f_gas = max(f_gas, 0.0)
    f_tp = m * (h_start - h_f) / (cap * eps_tp * drive)
    needed = f_gas + f_tp
    if f_gas >= 1.0:
        t3 = t_in + (t2 - t_in) * exp(-cap * eps_g / (m * cp_gas))
        h3 = h_g + cp_gas * (t3 - t_d)
        return h3, t3, 1.0, 0.0, 1.0, m * (h2 - h3), needed
    if needed >= 1.0:
        f_tp = 1.0 - f_gas
        h3 = h_start - f_tp * cap * eps_tp * drive / m
        x3 = (h3 - h_f) / (h_g - h_f)
        heat = f_tp * cap * eps_tp * drive
        if f_gas > 0.0:
            heat += m * (h2 - h_g)
        return h3, t_b + x3 * (t_d - t_b), f_gas, f_tp, x3, heat, needed
    span = max(t_b - t_in, 0.02)
    c_liquid = -liquid_at(tab, 0, ln_pc, span) / span
    f_liquid = 1.0 - needed
    cooled = span * (1.0 - exp(-f_liquid * cap * eps_l / (m * c_liquid)))
    h3 = h_f - c_liquid * cooled
    heat = m * (h2 - h_start) + f_tp * cap * eps_tp * drive + m * c_liquid * cooled
    return h3, t_b - subcooling_of(tab, ln_pc, h3), f_gas, f_tp, 0.0, heat, needed


@njit(cache=True, error_model="numpy")
def compensated(c: Circuit, tab: PropertyArrays, ln_pc: float, subcooling: float) -> float:
    """Liquid in the compensator of a heat pump in heating, kg: it fills as liquid backs up in the condenser."""
    if c.compensator_m3 <= 0.0:
        return 0.0
    share = smooth_clip((subcooling - c.compensator_from_k) / c.compensator_span_k, 0.0, 1.0, 0.05)
    return c.compensator_m3 * saturation_at(tab, RHO_F, ln_pc) * share


@njit(cache=True, error_model="numpy")
def throttled(c: Circuit, tab: PropertyArrays, p: float, m: float, h: float, pa_at_ref: float) -> float:
    """Pressure after a flow resistance of ``pa_at_ref`` at rated flow of liquid,
    K m2/rho with what really flows there.
    """
    if pa_at_ref <= 0.0:
        return p
    _, rho, _ = temperature_density_entropy(tab, log(p), h)
    drop = pa_at_ref * (m / c.mass_flow_ref_kg_s) ** 2 * 1000.0 / max(rho, 150.0)
    return smooth_max(p - drop, 0.08 * p, 0.01 * p)


@njit(cache=True, error_model="numpy")
def line_cooling(c: Circuit, tab: PropertyArrays, ln_p: float, m: float, h3: float, t3: float, t_air: float) -> float:
    """Enthalpy after the liquid line has given heat to (or taken it from) the air around it."""
    if c.liquid_line_ua_w_k <= 0.0:
        return h3
    heat_capacity = 1400.0
    return h3 - (1.0 - exp(-c.liquid_line_ua_w_k / (m * heat_capacity))) * heat_capacity * (t3 - t_air)


@njit(cache=True, error_model="numpy")
def inlet_state(tab: PropertyArrays, p: float, h: float) -> tuple[float, ...]:
    """(density of the liquid part, quality) at the metering device."""
    ln_p = log(p)
    h_f = saturation_at(tab, H_F, ln_p)
    if h <= h_f:
        return liquid_at(tab, 1, ln_p, subcooling_of(tab, ln_p, h)), 0.0
    return saturation_at(tab, RHO_F, ln_p), (h - h_f) / (saturation_at(tab, H_G, ln_p) - h_f)


@njit(cache=True, error_model="numpy")
def valve_opening(c: Circuit, t_bulb: float, t_evaporating: float) -> float:
    """Opening 0.06..1 of a thermostatic valve, or the fixed opening of a stuck valve or an orifice."""
    if c.valve_fixed_opening >= 0.0:
        return c.valve_fixed_opening
    superheat = t_bulb - t_evaporating
    return smooth_clip((superheat - c.valve_static_superheat_k) / c.valve_superheat_range_k, 0.06, 1.0, 0.02)


@njit(cache=True, error_model="numpy")
def expansion(
    c: Circuit, tab: PropertyArrays, p_in: float, rho_in: float, x_in: float, h3: float, pe: float, opening: float
) -> float:
    """Mass flow in kg/s through the metering device, with the throat near the flash pressure."""
    p_flash = min(exp(ln_p_of(tab, H_F, h3)), p_in)
    p_throat = smooth_max(c.throat_ratio * p_flash, pe, 0.02 * p_in)
    drop = smooth_max(p_in - p_throat, 0.0, 0.005 * p_in)
    return c.expansion_area_m2 * opening * sqrt(2.0 * rho_in * drop) / (1.0 + 6.0 * x_in)


@njit(cache=True, error_model="numpy")
def evaporator_part(
    c: Circuit,
    tab: PropertyArrays,
    ln_pe: float,
    m: float,
    h_in: float,
    t_return: float,
    h_return: float,
    air_density_ratio: float,
    h_sat: np.ndarray,
    area: float,
) -> tuple[float, ...]:
    """``area`` of the evaporator as a boiling zone and a dry superheat zone sharing the air by area.

    Returns (h1, share_boiling, heat_w, t_air_boiling, t_air_superheat, h_air_drop, t_surface): air leaving each zone
    in K before the blower, the enthalpy the air loses in the boiling zone in J/kg and the surface temperature in K.
    """
    t_b, t_d = saturation_at(tab, T_BUBBLE, ln_pe), saturation_at(tab, T_DEW, ln_pe)
    h_g = saturation_at(tab, H_G, ln_pe)
    te = 0.5 * (t_b + t_d)
    share = c.evaporator_air_fraction
    m_air = c.evaporator_air_kg_s * share * air_density_ratio * area
    cp_air = moist_cp(h_return, t_return)
    cap = m_air * cp_air
    flow = m / area / c.mass_flow_ref_kg_s
    ua_o = c.evaporator_ua_air_w_k * (share * air_density_ratio) ** 0.7 * area
    ua_i = c.evaporator_ua_two_phase_w_k * flow**0.4 * area
    q_dry = cap * (1.0 - exp(-1.0 / (cap * (1.0 / ua_o + 1.0 / ua_i)))) * max(t_return - te, 0.0)
    h_te = saturated_air_enthalpy(h_sat, te)
    t_surface = te + 0.25 * max(t_return - te, 0.1)
    q_wet = 0.0
    for _ in range(6):
        gap = max(t_surface - te, 0.05)
        c_s = (saturated_air_enthalpy(h_sat, te + gap) - h_te) / gap
        ntu = ua_o / cap / (1.0 + (c_s / cp_air) * ua_o / ua_i)
        q_wet = m_air * (1.0 - exp(-ntu)) * (h_return - h_te)
        t_surface = te + max(q_wet, 0.0) / ua_i
    q_full = smooth_max(smooth_max(q_dry, q_wet, 0.02 * q_dry + 1.0), 0.0, 1.0)
    t_surface = te + q_full / ua_i
    bypass = exp(-ua_o / cap)
    # A coil that is not wet takes all its heat from the temperature of the air.
    t_all_dry = t_return - q_full / cap
    wetness = min(max((q_wet - q_dry) / (0.05 * q_dry + 1.0), 0.0), 1.0)
    t_air_boiling = t_all_dry + wetness * max(t_surface + (t_return - t_surface) * bypass - t_all_dry, 0.0)
    share_boiling = m * (h_g - h_in) / q_full
    if share_boiling >= 1.0:
        return h_in + q_full / m, 1.0, q_full, t_air_boiling, t_return, q_full / m_air, t_surface
    eps = 1.0 - exp(-1.0 / (cap * (1.0 / ua_o + 1.0 / (c.evaporator_ua_gas_w_k * flow**0.8 * area))))
    dry = 1.0 - share_boiling
    dh = 0.0
    t1 = t_d
    cp_gas = 1000.0
    for _ in range(6):
        t1 = t_return - (t_return - t_d) * exp(-dry * cap * eps / (m * cp_gas))
        h1 = enthalpy_at_temperature(tab, ln_pe, t1)
        dh = h1 - h_g
        cp_gas = dh / max(t1 - t_d, 1e-4) if t1 - t_d > 1e-3 else cp_gas
    t_air_dry = t_return - m * dh / (cap * max(dry, 1e-9))
    heat = m * (h_g - h_in) + m * dh
    return h_g + dh, share_boiling, heat, t_air_boiling, t_air_dry, q_full / m_air, t_surface


@njit(cache=True, error_model="numpy")
def evaporator(
    c: Circuit,
    tab: PropertyArrays,
    ln_pe: float,
    m: float,
    h_in: float,
    t_return: float,
    h_return: float,
    air_density_ratio: float,
    h_sat: np.ndarray,
) -> tuple[float, ...]:
    """The whole coil. Blocked distributor circuits get only what seeps through; their outlet mixes with the rest.

    Returns (h1, heat_w, t_surface, f_boil, h_out, t_boil, t_dry, f_boil_2, h_out_2, t_air_2): the open part (outlet
    enthalpy, boiling share, air off its boiling and its dry zone), then the blocked part with its mean leaving air.
    """
    blocked = c.distributor_blocked_share
    if blocked <= 0.0:
        h1, f, q, t_boil, t_dry, _, t_surface = evaporator_part(
            c, tab, ln_pe, m, h_in, t_return, h_return, air_density_ratio, h_sat, 1.0
        )
        return h1, q, t_surface, f, h1, t_boil, t_dry, 0.0, h1, t_return
    seep = SEEP * blocked
    ha, fa, qa, t_boil, t_dry, _, t_surface = evaporator_part(
        c, tab, ln_pe, m * (1.0 - seep), h_in, t_return, h_return, air_density_ratio, h_sat, 1.0 - blocked
    )
    hb, fb, qb, tb_boil, tb_dry, _, _ = evaporator_part(
        c, tab, ln_pe, m * seep, h_in, t_return, h_return, air_density_ratio, h_sat, blocked
    )
    return (
        (1.0 - seep) * ha + seep * hb,
        qa + qb,
        t_surface,
        fa,
        ha,
        t_boil,
        t_dry,
        fb,
        hb,
        fb * tb_boil + (1.0 - fb) * tb_dry,
    )


@njit(cache=True, error_model="numpy")
def void_density(tab: PropertyArrays, ln_p: float, x1: float, x2: float) -> float:
    """Mean density of a two-phase zone between qualities, by Zivi's void fraction.

    Source: S. M. Zivi, J. Heat Transfer 86 (1964) 247 (from memory); closed mean linear in quality.
    """
    rho_f, rho_g = saturation_at(tab, RHO_F, ln_p), saturation_at(tab, RHO_G, ln_p)
    c = (rho_g / rho_f) ** (2.0 / 3.0)
    low, high = min(x1, x2), max(x1, x2)
    b = 1.0 - c
    if high - low < 1e-6:
        alpha = low / (low + c * (1.0 - low))
    else:
        alpha = ((high - low) / b - (c / (b * b)) * log((c + b * high) / (c + b * low))) / (high - low)
    return alpha * rho_g + (1.0 - alpha) * rho_f
