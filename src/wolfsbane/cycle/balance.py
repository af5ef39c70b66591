"""The whole circuit for one guess: residuals, charge inventory and every figure of the solved state. Compiled."""

from __future__ import annotations

from math import exp, log
from typing import TYPE_CHECKING, NamedTuple

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.parts.common import CP_AIR, CP_WATER, LIQUID_J_KG_K
from wolfsbane.cycle.parts.compressor import compressor, injected
from wolfsbane.cycle.parts.condenser import compensated, condenser, condenser_share, flooded_share, non_condensable_pa
from wolfsbane.cycle.parts.evaporator import accumulated, evaporator, void_density
from wolfsbane.cycle.parts.metering import expansion, inlet_state, line_cooling, throttled, valve_opening
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
    T_BUBBLE,
    T_DEW,
    enthalpy_at_temperature,
    saturation_at,
    temperature_density_entropy,
)

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays


class Figures(NamedTuple):
    """Every figure of a solved circuit. SI absolute: Pa, K, W, J/kg, kg; shares are fractions of a coil's area."""

    mass_flow_kg_s: float
    condenser_kg_s: float
    evaporating_pa: float
    suction_pa: float
    discharge_pa: float
    valve_inlet_pa: float
    h_evaporator_out: float
    h_suction: float
    h_discharge: float
    h_liquid: float
    h_valve_inlet: float
    evaporator_outlet_k: float
    suction_line_k: float
    discharge_k: float
    liquid_line_k: float
    after_drier_k: float
    condenser_gas_share: float
    condenser_two_phase_share: float
    evaporator_boiling_share: float
    valve_inlet_quality: float
    valve_opening: float
    evaporator_heat_w: float
    condenser_heat_w: float
    condenser_stream_heat_w: float
    work_w: float
    suction_line_gain_w: float
    shell_loss_w: float
    air_boiling_k: float
    air_superheat_k: float
    liquid_line_loss_w: float
    surface_k: float
    supply_air_kg_s: float
    stream_out_k: float
    charge_found_kg: float
    condensing_pa: float
    liquid_port_pa: float
    condenser_outlet_k: float
    compressor_in_k: float
    evaporator_inlet_k: float
    receiver_kg: float
    condenser_stream_share: float
    blocked_air_k: float
    evaporator_kg: float
    drier_quality: float
    low_side_kg: float
    bulb_k: float
    oil_kg: float
    flooded_share: float


class Boundary(NamedTuple):
    """What a circuit works against in one solve, and what it stores where the solve is a step through time.

    ``entering_k`` is the stream entering the condenser, ``coil_air_k`` and ``coil_air_j_kg`` the air entering the
    evaporator, ``density_ratio`` that of the air to standard air, ``receiver`` how the charge equation reads.
    A step knows the low side before it (``low_side_kg``), its length as ``per_second`` (1/s), the bulb before it
    (``bulb_k``) and the share of the way the bulb comes in it; the refrigerant in the oil before it (``oil_kg``), the
    share of the way that comes to what the oil would hold, and how much more cold oil holds (``oil_more``); the heat
    the shell takes from the gas (``shell_w``) and how much denser a cold shell leaves it (``shell_denser``); what the
    metal of both coils gives for each kelvin it is warmer than saturation, W/K, and how warm it was. The defaults are
    a step that never ends, which is the steady balance: nothing is stored, and bulb, oil, shell and metal are where
    they belong.
    """

    entering_k: float
    coil_air_k: float
    coil_air_j_kg: float
    density_ratio: float
    outdoor_k: float
    receiver: float
    low_side_kg: float = 0.0
    per_second: float = 0.0
    bulb_k: float = 0.0
    bulb_share: float = 1.0
    oil_kg: float = 0.0
    oil_share: float = 1.0
    oil_more: float = 1.0
    shell_w: float = 0.0
    shell_denser: float = 1.0
    evaporator_w_k: float = 0.0
    condenser_w_k: float = 0.0
    evaporator_metal_k: float = 0.0
    condenser_metal_k: float = 0.0


class Trial(NamedTuple):
    """One guess worked through the loop: what residuals and figures are made of. Units as in :class:`Figures`."""

    ln_pe: float
    ln_pc: float
    h_evaporator_out: float
    discharge_pa: float
    flow_kg_s: float
    condenser_kg_s: float
    suction_pa: float
    h_suction: float
    h_compressor_in: float
    h_discharge: float
    work_w: float
    stream_share: float
    h_condenser_out: float
    condenser_outlet_k: float
    gas_share: float
    two_phase_share: float
    stream_heat_w: float
    area_needed: float
    flooded_share: float
    port_pa: float
    h_liquid: float
    h_valve_inlet: float
    drier_pa: float
    valve_inlet_pa: float
    valve_inlet_quality: float
    evaporator_outlet_k: float
    bulb_k: float
    valve_opening: float
    expansion_kg_s: float
    h_evaporator_found: float
    evaporator_heat_w: float
    surface_k: float
    boiling_share: float
    air_boiling_k: float
    air_superheat_k: float
    blocked_air_k: float
    evaporator_kg: float
    low_side_kg: float
    oil_kg: float
    charge_kg: float
    receiver_kg: float


#: heat that metal may give or take is held to so much of each kilogram that flows, J/kg: a step stays a step
_METAL_J_KG = 80e3
#: rounds in which gas and liquid that exchange heat come to agree, and the flooded share at which a regulator bypasses
#: enough hot gas to warm all the liquid (assumed)
_ROUNDS, _BYPASSES = 4, 0.05
#: part of the exchanged heat that has left the liquid where a capillary tube chokes its flow: most of the tube lies
#: behind that place (assumed)
_COOLS_FLOW = 0.25
#: how the charge equation reads: no receiver; receiver holding liquid; receiver empty; receiver full
NO_RECEIVER, HOLDS, EMPTY, FULL = 0.0, 1.0, 2.0, 3.0


@njit(cache=True, error_model="numpy")
def evaporator_charge(
    c: Circuit, tab: PropertyArrays, ln_pe: float, h_in: float, h_out: float, f_boil: float, area: float
) -> float:
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
def condenser_charge(
    c: Circuit, tab: PropertyArrays, ln_pc: float, h2: float, h3: float, f_gas: float, f_tp: float, x3: float
) -> float:
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
def suction_charge(c: Circuit, tab: PropertyArrays, ps: float, hs: float) -> float:
    """Gas in the suction line and the compressor shell, kg."""
    _, rho_s, _ = temperature_density_entropy(tab, log(ps), hs)
    rho_s = min(rho_s, 2.0 * saturation_at(tab, RHO_G, log(ps)))
    return (c.suction_line_volume_m3 + c.shell_volume_m3) * rho_s


@njit(cache=True, error_model="numpy")
def dissolved(c: Circuit, ps: float, b: Boundary) -> float:
    """Refrigerant in the compressor's oil, kg: on its way from what it was to what this pressure asks for."""
    asked = c.oil_kg * c.oil_solubility_per_mpa * ps * 1e-6 * b.oil_more
    return b.oil_kg + b.oil_share * (asked - b.oil_kg)


@njit(cache=True, error_model="numpy")
def trial(x: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray) -> Trial:
    """The :class:`Trial` of a guess x = (ln Pe, ln Pc, h1) of circuit ``c`` against the :class:`Boundary` ``b``."""
    ln_pe, ln_pc, h1 = x[0], x[1], x[2]
    pe, pc = exp(ln_pe), exp(ln_pc)
    p_nc = non_condensable_pa(c, saturation_at(tab, T_BUBBLE, ln_pc))
    p_head = pc + p_nc
    t_around = b.coil_air_k if c.suction_line_outdoors > 0.5 else c.suction_line_ambient_k
    t_b, h_f = saturation_at(tab, T_BUBBLE, ln_pc), saturation_at(tab, H_F, ln_pc)
    share, flooded = condenser_share(c, p_head), flooded_share(c, p_head)
    t_liquid, h_out = t_b, h_f
    # The gas is warmed by the liquid and the discharge cooled by it, which both come of this gas: a few rounds.
    for _ in range(_ROUNDS if c.exchange_ua_w_k > 0.0 or c.injects_above_k > 0.0 else 1):
        m, ps, hs, h_in, h_pumped, work, exchanged = compressor(
            c, tab, ln_pe, h1, p_head, t_around, b.shell_denser, b.shell_w, t_liquid
        )
        injection, h2 = injected(c, tab, p_head, h_pumped, h_out)
        m_cond = m * (1.0 + injection)
        # Metal that has to warm takes its heat from the gas, and gives it back as the condensing temperature falls.
        into_metal = b.condenser_w_k * (t_b - b.condenser_metal_k)
        h2_in = h2 - min(max(into_metal / m_cond, -_METAL_J_KG), _METAL_J_KG)
        h3, t3, f_gas, f_tp, x3, q_stream, needed = condenser(
            c, tab, ln_pc, m_cond, h2_in, b.entering_k, share, b.density_ratio, p_nc / pc
        )
        # A receiver that holds liquid gives liquid, however the guess for the condenser still stands; what a regulator
        # lets past a flooded condenser warms the cold liquid again.
        h_out, t_out = h3, t3
        if b.receiver == HOLDS:
            h_out = h_f
        if flooded > 0.0 and h3 < h_f:
            warmed = 1.0 if b.receiver == HOLDS else min(flooded / _BYPASSES, 1.0)
            h_out, t_out = h3 + warmed * (h_f - h3), t3 + warmed * (t_b - t3)
            q_stream -= m_cond * (h_out - h3)
        p_port = throttled(c, tab, p_head, m, h_out, c.liquid_valve_pa_at_ref)
        h_line = line_cooling(c, tab, log(p_port), m, h_out, t_out, b.outdoor_k)
        t_liquid = t_out - max(h_out - h_line, 0.0) / LIQUID_J_KG_K
    p_drier = throttled(c, tab, p_port, m, h_line, c.restriction_pa_at_ref)
    p_in = throttled(c, tab, p_drier, m, h_line, c.line_drop_pa_at_ref)
    h_valve = h_line - exchanged / m
    h_metered = h_line - _COOLS_FLOW * exchanged / m
    rho_in, x_in = inlet_state(tab, p_in, h_metered)
    t1, _, _ = temperature_density_entropy(tab, ln_pe, h1)
    t_bulb = b.bulb_k + b.bulb_share * (t1 - b.bulb_k)
    opening = valve_opening(c, t_bulb, saturation_at(tab, T_DEW, ln_pe))
    m_exp = expansion(c, tab, p_in, rho_in, x_in, h_metered, pe, opening) * (1.0 - c.liquid_shut)
    m_coil = max(m - c.port_kg_s, 0.02 * m)
    h1_found, q_evap, t_surface, f_boil, h_open, t_boil, t_dry, f_two, h_two, t_two = evaporator(
        c, tab, ln_pe, m_coil, h_valve, b.coil_air_k, b.coil_air_j_kg, b.density_ratio, h_sat
    )
    out_of_metal = b.evaporator_w_k * (b.evaporator_metal_k - saturation_at(tab, T_DEW, ln_pe))
    given = min(max(out_of_metal / m_coil, -_METAL_J_KG), _METAL_J_KG)
    if given > 0.0:  # no gas leaves warmer than the warmest it has touched
        h_warmest = enthalpy_at_temperature(tab, ln_pe, max(b.coil_air_k, b.evaporator_metal_k))
        given = min(given, max(h_warmest - h1_found, 0.0))
    h1_found += given
    blocked = c.distributor_blocked_share
    evaporator_kg = evaporator_charge(c, tab, ln_pe, h_valve, h_open, f_boil, 1.0 - blocked) + evaporator_charge(
        c, tab, ln_pe, h_valve, h_two, f_two, blocked
    )
    oil = dissolved(c, ps, b)
    low_side = evaporator_kg + suction_charge(c, tab, ps, hs) + oil + accumulated(c, tab, ln_pe, h1)
    _, rho_line, _ = temperature_density_entropy(tab, log(p_in), h_line)
    charge = condenser_charge(c, tab, ln_pc, h2_in, h3, f_gas, f_tp, x3) + low_side + c.liquid_line_volume_m3 * rho_line
    charge += compensated(c, tab, ln_pc, t_b - t3)
    h_leaves = h_out if flooded > 0.0 else h3
    receiver = 0.0
    if b.receiver == HOLDS:
        receiver = c.charge_kg - charge
    elif b.receiver == EMPTY:
        receiver = c.receiver_volume_m3 * saturation_at(tab, RHO_G, ln_pc)
    elif b.receiver == FULL:
        receiver = c.receiver_volume_m3 * saturation_at(tab, RHO_F, ln_pc)
    return Trial(
        ln_pe=ln_pe,
        ln_pc=ln_pc,
        h_evaporator_out=h1,
        discharge_pa=p_head,
        flow_kg_s=m,
        condenser_kg_s=m_cond,
        suction_pa=ps,
        h_suction=hs,
        h_compressor_in=h_in,
        h_discharge=h2,
        work_w=work,
        stream_share=share,
        h_condenser_out=h_leaves,
        condenser_outlet_k=t3,
        gas_share=f_gas,
        two_phase_share=f_tp,
        stream_heat_w=q_stream,
        area_needed=needed,
        flooded_share=flooded,
        port_pa=p_port,
        h_liquid=h_line,
        h_valve_inlet=h_valve,
        drier_pa=p_drier,
        valve_inlet_pa=p_in,
        valve_inlet_quality=x_in,
        evaporator_outlet_k=t1,
        bulb_k=t_bulb,
        valve_opening=opening,
        expansion_kg_s=m_exp,
        h_evaporator_found=h1_found,
        evaporator_heat_w=q_evap,
        surface_k=t_surface,
        boiling_share=f_boil,
        air_boiling_k=t_boil,
        air_superheat_k=t_dry,
        blocked_air_k=t_two,
        evaporator_kg=evaporator_kg,
        low_side_kg=low_side,
        oil_kg=oil,
        charge_kg=charge,
        receiver_kg=receiver,
    )


@njit(cache=True, error_model="numpy")
def residuals(t: Trial, c: Circuit, b: Boundary, r: np.ndarray) -> None:
    """Fill ``r`` (3,) with what does not balance in a :class:`Trial`: flow, charge, evaporator energy."""
    stored = (t.low_side_kg - b.low_side_kg) * b.per_second
    r[0] = (t.expansion_kg_s + c.port_kg_s - t.flow_kg_s - stored) / c.mass_flow_ref_kg_s
    if b.receiver == HOLDS:
        r[1] = min(max(1.0 - t.flooded_share - t.area_needed, -3.0), 3.0)
    else:
        r[1] = (t.charge_kg + t.receiver_kg - c.charge_kg) / c.charge_kg
    r[2] = (t.h_evaporator_found - t.h_evaporator_out) / 5e4


@njit(cache=True, error_model="numpy")
def figures(t: Trial, c: Circuit, tab: PropertyArrays, b: Boundary) -> Figures:
    """The :class:`Figures` of a :class:`Trial`."""
    pe, pc, m = exp(t.ln_pe), exp(t.ln_pc), t.flow_kg_s
    ln_ps, ln_port = log(t.suction_pa), log(t.port_pa)
    capacity_rate = CP_WATER if c.condenser_water > 0.5 else CP_AIR * b.density_ratio
    return Figures(
        mass_flow_kg_s=m,
        condenser_kg_s=t.condenser_kg_s,
        evaporating_pa=pe,
        suction_pa=t.suction_pa,
        discharge_pa=t.discharge_pa,
        valve_inlet_pa=t.valve_inlet_pa,
        h_evaporator_out=t.h_evaporator_out,
        h_suction=t.h_suction,
        h_discharge=t.h_discharge,
        h_liquid=t.h_liquid,
        h_valve_inlet=t.h_valve_inlet,
        evaporator_outlet_k=t.evaporator_outlet_k,
        suction_line_k=temperature_density_entropy(tab, ln_ps, t.h_suction)[0],
        discharge_k=temperature_density_entropy(tab, log(t.discharge_pa), t.h_discharge)[0],
        liquid_line_k=temperature_density_entropy(tab, ln_port, t.h_liquid)[0],
        after_drier_k=temperature_density_entropy(tab, log(t.drier_pa), t.h_liquid)[0],
        condenser_gas_share=t.gas_share,
        condenser_two_phase_share=t.two_phase_share,
        evaporator_boiling_share=t.boiling_share,
        valve_inlet_quality=t.valve_inlet_quality,
        valve_opening=t.valve_opening,
        evaporator_heat_w=t.evaporator_heat_w,
        condenser_heat_w=t.condenser_kg_s * (t.h_discharge - t.h_condenser_out),
        condenser_stream_heat_w=t.stream_heat_w,
        work_w=t.work_w,
        suction_line_gain_w=m * (t.h_suction - t.h_evaporator_out),
        shell_loss_w=t.work_w * c.shell_loss,
        air_boiling_k=t.air_boiling_k,
        air_superheat_k=t.air_superheat_k,
        liquid_line_loss_w=m * (t.h_condenser_out - t.h_valve_inlet),
        surface_k=t.surface_k,
        supply_air_kg_s=c.evaporator_air_kg_s * c.evaporator_air_fraction * b.density_ratio,
        stream_out_k=b.entering_k + t.stream_heat_w / (c.condenser_air_kg_s * t.stream_share * capacity_rate),
        charge_found_kg=t.charge_kg + t.receiver_kg,
        condensing_pa=pc,
        liquid_port_pa=t.port_pa,
        condenser_outlet_k=t.condenser_outlet_k,
        compressor_in_k=temperature_density_entropy(tab, ln_ps, t.h_compressor_in)[0],
        evaporator_inlet_k=temperature_density_entropy(tab, t.ln_pe, t.h_valve_inlet)[0],
        receiver_kg=t.receiver_kg,
        condenser_stream_share=t.stream_share,
        blocked_air_k=t.blocked_air_k,
        evaporator_kg=t.evaporator_kg,
        drier_quality=inlet_state(tab, t.drier_pa, t.h_liquid)[1],
        low_side_kg=t.low_side_kg,
        bulb_k=t.bulb_k,
        oil_kg=t.oil_kg,
        flooded_share=t.flooded_share,
    )


@njit(cache=True, error_model="numpy")
def figures_at(x: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray) -> Figures:
    """The :class:`Figures` of a circuit at x = (ln Pe, ln Pc, h1)."""
    return figures(trial(x, c, tab, b, h_sat), c, tab, b)
