"""The evaporator with wet and dry coil, and the liquid it holds or passes on. Compiled."""

from __future__ import annotations

from math import exp, log
from typing import TYPE_CHECKING

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.parts.common import CP_AIR, smooth_clip, smooth_max
from wolfsbane.cycle.properties import H_F, H_G, RHO_F, RHO_G, T_BUBBLE, T_DEW, enthalpy_at_temperature, saturation_at

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays


_SATURATED_MIN_K = 203.15
#: flow that still seeps through a blocked evaporator circuit, against its share of a sound coil (assumed)
SEEP = 0.15
#: wetness of the gas at which an accumulator is full (assumed)
_ACCUMULATES = 0.12
#: rounds in which a wet coil's surface, or the heat capacity of the gas it superheats, comes to agree with itself, so
#: nearly; most take four
_ROUNDS, _AGREED_K, _AGREED_J_KG_K = 20, 1e-9, 1e-7


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
    q_wet, before, missed = 0.0, 0.0, 0.0
    for step in range(_ROUNDS):
        gap = max(t_surface - te, 0.05)
        c_s = (saturated_air_enthalpy(h_sat, te + gap) - h_te) / gap
        ntu = ua_o / cap / (1.0 + (c_s / cp_air) * ua_o / ua_i)
        q_wet = m_air * (1.0 - exp(-ntu)) * (h_return - h_te)
        miss = te + max(q_wet, 0.0) / ua_i - t_surface
        if abs(miss) < _AGREED_K:
            break
        slope = (miss - missed) / (t_surface - before) if step > 0 else -1.0
        before, missed = t_surface, miss
        t_surface -= miss / min(max(slope, -2.0), -0.5)
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
    dh, cp_gas, before, missed = 0.0, 1000.0, 0.0, 0.0
    for step in range(_ROUNDS):
        t1 = t_return - (t_return - t_d) * exp(-dry * cap * eps / (m * cp_gas))
        dh = enthalpy_at_temperature(tab, ln_pe, t1) - h_g
        if t1 - t_d <= 1e-3:
            break
        miss = dh / (t1 - t_d) - cp_gas
        if abs(miss) < _AGREED_J_KG_K:
            break
        slope = (miss - missed) / (cp_gas - before) if step > 0 else -1.0
        before, missed = cp_gas, miss
        cp_gas -= miss / min(max(slope, -2.0), -0.5)
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


@njit(cache=True, error_model="numpy")
def accumulated(c: Circuit, tab: PropertyArrays, ln_pe: float, h1: float) -> float:
    """Liquid in the suction accumulator, kg: it keeps what leaves the coil wet, more of it the wetter."""
    if c.accumulator_m3 <= 0.0:
        return 0.0
    h_f, h_g = saturation_at(tab, H_F, ln_pe), saturation_at(tab, H_G, ln_pe)
    wet = (h_g - h1) / (h_g - h_f) / _ACCUMULATES
    return c.accumulator_m3 * saturation_at(tab, RHO_F, ln_pe) * smooth_clip(wet, 0.0, 0.9, 0.01)
