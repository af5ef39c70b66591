"""The condenser, across its stream or against it, and what controls its head. Compiled."""

from __future__ import annotations

from math import exp, log
from typing import TYPE_CHECKING

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.parts.common import CP_AIR, CP_WATER, smooth_clip, smooth_max
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    T_BUBBLE,
    T_DEW,
    liquid_at,
    saturation_at,
    subcooling_of,
    temperature_density_entropy,
)

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays


_GAS_CONSTANT = 8.314462618
#: part of the condenser's volume that vapor and air share when non-condensable gas is in it (assumed)
_RUNNING_VAPOR_SHARE = 0.8
#: most of a condenser that a regulator floods (assumed)
_FLOODED_MAX = 0.93


@njit(cache=True, error_model="numpy")
def non_condensable_pa(c: Circuit, t_condensing: float) -> float:
    """Partial pressure of air left in the condenser, Pa."""
    return c.non_condensable_mol * _GAS_CONSTANT * t_condensing / (_RUNNING_VAPOR_SHARE * c.condenser_volume_m3)


@njit(cache=True, error_model="numpy")
def condenser_share(c: Circuit, p_head: float) -> float:
    """Share of the condenser's stream that flows: the fault's share times what a head-pressure controller allows (the
    speed of a fan, the opening of a water valve; of a fan that cycles the share of the time that it runs).
    """
    low, high = c.head_control_low_pa, c.head_control_high_pa
    if c.fan_on_above_pa > 0.0:
        low, high = c.fan_off_below_pa, c.fan_on_above_pa
    if high <= 0.0:
        return c.condenser_air_fraction
    return c.condenser_air_fraction * smooth_clip((p_head - low) / (high - low), 0.06, 1.0, 0.02)


@njit(cache=True, error_model="numpy")
def flooded_share(c: Circuit, p_head: float) -> float:
    """Share of the condenser that a head-pressure regulator keeps full of liquid."""
    if c.flood_below_pa <= 0.0:
        return 0.0
    return smooth_clip((c.flood_below_pa - p_head) / c.flood_span_pa, 0.0, _FLOODED_MAX, 0.002)


@njit(cache=True, error_model="numpy")
def mean_drive(one: float, other: float) -> float:
    """Log mean of two temperature differences, K; one that is used up stays at a little."""
    low, high = smooth_max(min(one, other), 0.05, 0.05), smooth_max(max(one, other), 0.06, 0.05)
    return 0.5 * (low + high) if high - low < 1e-3 * high else (high - low) / log(high / low)


@njit(cache=True, error_model="numpy")
def _counter_flow(ntu: float, ratio: float) -> float:
    """Effectiveness of a counter-flow exchanger by its NTU; ``ratio`` is the other stream over this one."""
    if abs(ratio - 1.0) < 1e-3:
        return ntu / (1.0 + ntu)
    fall = exp(-ntu * (1.0 - 1.0 / ratio))
    return (1.0 - fall) / (1.0 - fall / ratio)


@njit(cache=True, error_model="numpy")
def _zones(
    liquid_w: float,
    condensed_w: float,
    gas_w: float,
    t_in: float,
    t_end: float,
    t_d: float,
    t2: float,
    cap: float,
    ua_tp: float,
    ua_g: float,
) -> tuple[float, float, float]:
    """(share of the coil that gas and condensing take, gas alone, condensing alone) behind a zone of liquid that has
    warmed the water by ``liquid_w``; condensing ends at ``t_end``.
    """
    t_one = t_in + liquid_w / cap
    t_two = t_one + condensed_w / cap
    condensing = condensed_w / (ua_tp * mean_drive(t_end - t_one, t_d - t_two))
    gas = 0.0
    if gas_w > 0.0:
        gas = gas_w / (ua_g * mean_drive(t_d - t_two, t2 - t_two - gas_w / cap))
    return gas + condensing, gas, condensing


@njit(cache=True, error_model="numpy")
def against_the_stream(
    c: Circuit, tab: PropertyArrays, ln_pc: float, m: float, h2: float, t_in: float, share: float, nc_ratio: float
) -> tuple[float, ...]:
    """Condenser whose water runs against the refrigerant: it meets the liquid first and the hot gas last.

    Each zone is a counter-flow exchanger of its own, with the log mean of its ends. Returns what :func:`condenser`
    does.
    """
    h_f, h_g = saturation_at(tab, H_F, ln_pc), saturation_at(tab, H_G, ln_pc)
    t_b, t_d = saturation_at(tab, T_BUBBLE, ln_pc), saturation_at(tab, T_DEW, ln_pc)
    cap = c.condenser_air_kg_s * share * CP_WATER
    flow = m / c.mass_flow_ref_kg_s
    r_out = 1.0 / (c.condenser_ua_air_w_k * share**0.8)
    ua_g = 1.0 / (r_out + 1.0 / (c.condenser_ua_gas_w_k * flow**0.8))
    ua_tp = 1.0 / (r_out + (1.0 + 3.0 * nc_ratio) / (c.condenser_ua_two_phase_w_k * flow**0.3))
    ua_l = 1.0 / (r_out + 1.0 / (c.condenser_ua_liquid_w_k * flow**0.8))
    t2, _, _ = temperature_density_entropy(tab, ln_pc, h2)
    gas_w, h_start = m * max(h2 - h_g, 0.0), min(h2, h_g)
    condensing_w, liquid_w = m * (h_start - h_f), 0.0
    # Gas that comes wet begins to condense below its dew point.
    t_top = t_b + min((h_start - h_f) / (h_g - h_f), 1.0) * (t_d - t_b)
    span = max(t_b - t_in, 0.02)
    c_liquid = -liquid_at(tab, 0, ln_pc, span) / span
    # What leaves as liquid warms the water for the zones behind it: its share is where all three fill the coil. Where
    # even without liquid they want more than there is, not all of it condenses.
    whole = _zones(0.0, condensing_w, gas_w, t_in, t_b, t_top, t2, cap, ua_tp, ua_g)
    all_of_it = whole[0] < 1.0 and t_b > t_in
    low, miss_low, high, miss_high = 0.0, whole[0] - 1.0, 1.0 - whole[0], 1.0
    if not all_of_it:
        # A blend whose bubble point lies below the water condenses down to the water only.
        most_w = condensing_w * min(max((t_top - t_in) / max(t_top - t_b, 1e-6), 1e-3), 1.0)
        low, miss_low, high, miss_high = 0.0, -1.0, most_w, max(whole[0] - 1.0, 1e-3)
    share_gas, share_two_phase, condensed_w, at, side = whole[1], whole[2], condensing_w, high, 0
    for step in range(60):
        if step > 0:
            at = low + (high - low) * miss_low / (miss_low - miss_high)
        if all_of_it:
            liquid_w = m * c_liquid * span * _counter_flow(at * ua_l / (m * c_liquid), cap / (m * c_liquid))
            t_end = t_b
        else:
            condensed_w = at
            t_end = t_top - (t_top - t_b) * condensed_w / condensing_w
        found = _zones(liquid_w, condensed_w, gas_w, t_in, t_end, t_top, t2, cap, ua_tp, ua_g)
        share_gas, share_two_phase = found[1], found[2]
        miss = found[0] - 1.0 + (at if all_of_it else 0.0)
        if abs(miss) < 1e-12 or abs(high - low) < 1e-14 * max(abs(high), 1e-3):
            break
        if miss < 0.0:
            low, miss_low, miss_high, side = at, miss, (0.5 * miss_high if side < 0 else miss_high), -1
        else:
            high, miss_high, miss_low, side = at, miss, (0.5 * miss_low if side > 0 else miss_low), 1
    if all_of_it:
        h3 = h_f - liquid_w / m
        heat = gas_w + condensing_w + liquid_w
        return (
            h3,
            t_b - subcooling_of(tab, ln_pc, h3),
            share_gas,
            share_two_phase,
            0.0,
            heat,
            share_gas + share_two_phase,
        )
    h3 = h_start - condensed_w / m
    x3 = (h3 - h_f) / (h_g - h_f)
    return h3, t_b + x3 * (t_d - t_b), share_gas, share_two_phase, x3, gas_w + condensed_w, whole[0]


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
    water = c.condenser_water > 0.5
    if water and c.counter_flow > 0.5:
        return against_the_stream(c, tab, ln_pc, m, h2, t_in, share, nc_ratio)
    h_f, h_g = saturation_at(tab, H_F, ln_pc), saturation_at(tab, H_G, ln_pc)
    t_b, t_d = saturation_at(tab, T_BUBBLE, ln_pc), saturation_at(tab, T_DEW, ln_pc)
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
