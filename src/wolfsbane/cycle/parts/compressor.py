"""Suction line, heat exchange with the liquid, reversing valve, compressor and liquid injection. Compiled."""

from __future__ import annotations

from math import exp, log, sqrt
from typing import TYPE_CHECKING

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.parts.common import LIQUID_J_KG_K, smooth_clip
from wolfsbane.cycle.properties import enthalpy_at_entropy, enthalpy_at_temperature, temperature_density_entropy

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays


#: most liquid that injection gives for each kilogram that is pumped (assumed)
_INJECTED_MAX = 0.35
#: transfer units between gas and shell at the reference flow: with them gas that differs from its shell comes a third
#: of the way to it (assumed)
_SHELL_NTU = 0.41
#: rounds in which flow and heat that leaks back come to agree, to this share; most of them take five
_ROUNDS, _AGREED = 40, 1e-12
#: the flow that is tried first leaves at most so much of the pressure in the suction line, and so much heat in the gas
_DROPS, _AT_FIRST_J_KG = 0.3, 1e5
#: how far they move in one round at most, as shares of the flow and of this much heat, J/kg
_FURTHEST, _HOT_J_KG = 0.5, 1e5
#: gas that has come nearer to its surroundings than this share may have come all the way
_TRICKLE = 0.5


@njit(cache=True, error_model="numpy")
def shell_share(flow_share: float) -> float:
    """What shell and gas exchange at ``flow_share`` of the reference flow, as a share of what they exchange there.

    A trickle comes all the way to its shell and carries next to nothing.
    """
    r = max(flow_share, 1e-6)
    return float(r * (1.0 - exp(-_SHELL_NTU / r)) / (1.0 - exp(-_SHELL_NTU)))


@njit(cache=True, error_model="numpy")
def exchanged_w(
    c: Circuit, tab: PropertyArrays, ln_pe: float, h1: float, t1: float, m: float, t_liquid: float
) -> float:
    """Heat that liquid of ``t_liquid`` gives to the gas leaving the coil (counter-flow, effectiveness by NTU), W.

    Gas that still carries liquid takes more, at the temperature it boils at.
    """
    span = t_liquid - t1
    if span < 0.05:
        return 0.0
    gas = m * max((enthalpy_at_temperature(tab, ln_pe, t_liquid) - h1) / span, 300.0)
    liquid = m * LIQUID_J_KG_K
    low, high = min(gas, liquid), max(gas, liquid)
    ntu, ratio = c.exchange_ua_w_k / low, low / high
    if ratio > 0.999:
        return ntu / (1.0 + ntu) * low * span
    fall = exp(-ntu * (1.0 - ratio))
    return (1.0 - fall) / (1.0 - ratio * fall) * low * span


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
    t_liquid: float = 0.0,
) -> tuple[float, ...]:
    """Suction line, reversing valve and compressor.

    Returns (m, p_suction, h_suction, h_compressor_in, h_discharge, work_w, exchanged_w): ``h_suction`` at the service
    valve, ``h_compressor_in`` after a leaking reversing valve has mixed hot gas into it. What enters through the port
    mixes into the suction line, and the coil gives so much less. ``t_around`` is the air around the suction line, K. A
    shell that is still cold leaves the gas ``denser`` (times) and takes ``shell_w`` from it at the reference flow, at
    another by :func:`shell_share`. Liquid of ``t_liquid``, K, gives ``exchanged_w`` to the gas where the lines exchange
    heat.
    """
    t1, rho1, _ = temperature_density_entropy(tab, ln_pe, h1)
    pe = exp(ln_pe)
    ln_pd = log(p_discharge)
    k_line = (
        (c.suction_drop_pa_at_ref + c.suction_restriction_pa_at_ref)
        * c.suction_drop_density_kg_m3
        / c.mass_flow_ref_kg_s**2
    )
    least = 1e-4 * c.mass_flow_ref_kg_s
    pumped = hot = 0.0
    m = c.mass_flow_ref_kg_s * rho1 / c.suction_drop_density_kg_m3 * c.pumping_share
    if k_line * m * m > _DROPS * pe * rho1:
        m = sqrt(_DROPS * pe * rho1 / k_line)
    m = max(m, least)
    phi, phi_valve, h2, ps, hs, h_in, work, exchanged = 0.0, 0.0, 0.0, pe, h1, h1, 0.0, 0.0
    leaking = c.leak_fraction + c.reversing_leak_fraction > 0.0
    # The flow (and, where gas leaks back, how hot it comes back) is what it makes of itself: a miss in both, and slopes
    # carried on from one round to the next (Broyden, 1965).
    a11, a12, a21, a22 = 1.0, 0.0, 0.0, 1.0
    miss_m, miss_h, moved_m, moved_h = 0.0, 0.0, 0.0, 0.0
    for step in range(_ROUNDS):
        m_coil = max(m - c.port_kg_s, 0.02 * m)
        drop = k_line * m_coil * m_coil / rho1
        ps = pe - drop if drop <= 0.25 * pe else 0.75 * pe * exp(-(drop / pe - 0.25) / 0.75)
        ln_ps = log(ps)
        hx, tx = h1, t1
        if c.exchange_ua_w_k > 0.0:
            exchanged = exchanged_w(c, tab, ln_pe, h1, t1, m_coil, t_liquid)
            hx = h1 + exchanged / m_coil
            tx, _, _ = temperature_density_entropy(tab, ln_pe, hx)
        nearer = 1.0 - exp(-c.suction_line_ua_w_k / (1000.0 * m_coil))
        hs = hx + nearer * 1000.0 * (t_around - tx)
        if nearer > _TRICKLE and t_around > tx:
            # A trickle comes to the air around its line, and no further.
            hs = min(hs, max(enthalpy_at_temperature(tab, ln_ps, t_around), hx))
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
        pumped = max((1.0 - phi) * (1.0 - phi_valve) * m_cylinder, least)
        work = m_cylinder * max(enthalpy_at_entropy(tab, ln_pd, s_mix) - h_mix, 0.0) / eta
        taken = shell_w * shell_share(pumped / c.mass_flow_ref_kg_s) if shell_w != 0.0 else 0.0
        hot = hs + (work * (1.0 - c.shell_loss) - taken) / pumped
        if not leaking:
            h2 = hot  # nothing comes of it
        elif step == 0:
            h2 = min(hot, hs + _AT_FIRST_J_KG)
        off_m, off_h = pumped / m - 1.0, (hot - h2) / _HOT_J_KG
        if abs(off_m) < _AGREED and abs(off_h) < _AGREED and (step > 0 or not leaking):
            break
        if step > 1 or (step == 1 and not leaking):
            y_m, y_h = off_m - miss_m, off_h - miss_h
            b_m, b_h = a11 * y_m + a12 * y_h, a21 * y_m + a22 * y_h
            told = -(moved_m * b_m + moved_h * b_h)
            if abs(told) > 1e-3 * (moved_m * moved_m + moved_h * moved_h):
                left_m, left_h = (moved_m + b_m) / told, (moved_h + b_h) / told
                row_m, row_h = moved_m * a11 + moved_h * a21, moved_m * a12 + moved_h * a22
                a11, a12 = a11 + left_m * row_m, a12 + left_m * row_h
                a21, a22 = a21 + left_h * row_m, a22 + left_h * row_h
        miss_m, miss_h = off_m, off_h
        moved_m = min(max(a11 * off_m + a12 * off_h, -_FURTHEST), _FURTHEST)
        moved_h = min(max(a21 * off_m + a22 * off_h, -_FURTHEST), _FURTHEST)
        before, hot_before = m, h2
        m, h2 = max(m * (1.0 + moved_m), least), h2 + moved_h * _HOT_J_KG
        moved_m, moved_h = m / before - 1.0, (h2 - hot_before) / _HOT_J_KG
    return pumped, ps, hs, h_in, hot, work, exchanged


@njit(cache=True, error_model="numpy")
def injected(c: Circuit, tab: PropertyArrays, p_discharge: float, h2: float, h_liquid: float) -> tuple[float, float]:
    """(liquid injected for each kilogram that is pumped, enthalpy of the discharge gas with it): the valve opens as
    the discharge gas gets hotter than ``injects_above_k`` and gives up to :data:`_INJECTED_MAX`.
    """
    if c.injects_above_k <= 0.0:
        return 0.0, h2
    h_held = enthalpy_at_temperature(tab, log(p_discharge), c.injects_above_k)
    asked = (h2 - h_held) / max(h_held - h_liquid, 2e4)
    share = c.injection_share * smooth_clip(asked, 0.0, _INJECTED_MAX, 0.003)
    return share, (h2 + share * h_liquid) / (1.0 + share)
