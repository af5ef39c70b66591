"""Liquid line and metering device. Compiled."""

from __future__ import annotations

from math import exp, log, sqrt
from typing import TYPE_CHECKING

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.parts.common import LIQUID_J_KG_K, smooth_clip, smooth_max
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    liquid_at,
    ln_p_of,
    saturation_at,
    subcooling_of,
    temperature_density_entropy,
)

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays


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
    return h3 - (1.0 - exp(-c.liquid_line_ua_w_k / (m * LIQUID_J_KG_K))) * LIQUID_J_KG_K * (t3 - t_air)


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
