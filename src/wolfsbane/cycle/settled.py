"""From the solver's figures to a :class:`CircuitState`, running or at rest."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import air
from wolfsbane.cycle.balance import EMPTY, FULL, NO_RECEIVER
from wolfsbane.cycle.idling import idle
from wolfsbane.cycle.parts.evaporator import moist_cp
from wolfsbane.cycle.properties import H_F, H_G, RHO_F, RHO_G, refrigerant
from wolfsbane.cycle.standing import internal_volume_m3, standing_pa
from wolfsbane.cycle.state import CircuitState, Receiver

if TYPE_CHECKING:
    from wolfsbane.cycle.air import MoistAir
    from wolfsbane.cycle.balance import Figures
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Circuit, Machine
    from wolfsbane.cycle.properties import Refrigerant
    from wolfsbane.cycle.surroundings import Surroundings

#: pressures this close are equal to a technician
_EQUAL = 1.02
#: liquid in the suction beyond this share knocks in the compressor and spoils the discharge temperature as a figure
_SLUGGING = 0.05


def receiver_of(circuit: Circuit, fluid: Refrigerant, found: Figures, mode: float) -> Receiver | None:
    """The :class:`Receiver` of a solved circuit, or None where there is none."""
    if mode == NO_RECEIVER:
        return None
    if mode == EMPTY:
        return Receiver(holds="empty", level=0.0)
    if mode == FULL:
        return Receiver(holds="full", level=1.0)
    ln_pc = math.log(found.condensing_pa)
    rho_g, rho_f = fluid.saturated(RHO_G, ln_pc), fluid.saturated(RHO_F, ln_pc)
    level = (found.receiver_kg / circuit.receiver_volume_m3 - rho_g) / (rho_f - rho_g)
    return Receiver(holds="liquid", level=float(min(max(level, 0.0), 1.0)))


def _held(fluid: Refrigerant, pressure_pa: float) -> float:
    return min(max(pressure_pa, fluid.min_pa), fluid.max_pa)


def supply_of(circuit: Circuit, found: Figures, coil: MoistAir, barometer_pa: float) -> tuple[MoistAir, float, float]:
    """Mix the zone airs by area, add the blower, and return (supply MoistAir, sensible W, air kg/s)."""
    boil, blocked = found.evaporator_boiling_share, circuit.distributor_blocked_share
    m_air = found.supply_air_kg_s
    enthalpy = coil.enthalpy_j_kg - found.evaporator_heat_w / m_air
    mixed_k = (1.0 - blocked) * (
        boil * found.air_boiling_k + (1.0 - boil) * found.air_superheat_k
    ) + blocked * found.blocked_air_k
    capacity_rate = m_air * moist_cp(coil.enthalpy_j_kg, coil.dry_bulb_k)
    rise_k = circuit.blower_w / capacity_rate
    leaving = air.from_enthalpy(mixed_k, enthalpy, coil.humidity_ratio, barometer_pa)
    sensible_w = capacity_rate * (coil.dry_bulb_k - leaving.dry_bulb_k)
    return air.from_humidity_ratio(leaving.dry_bulb_k + rise_k, leaving.humidity_ratio, barometer_pa), sensible_w, m_air


def settled_state(
    machine: Machine,
    faulted: Machine,
    conditions: Conditions,
    surroundings: Surroundings,
    fluid: Refrigerant,
    f: Figures,
    *,
    evaluations: Any,
    solution: Any,
    receiver: Any,
) -> CircuitState:
    """The running state from the :class:`~wolfsbane.cycle.balance.Figures` ``f`` of a solve, in its surroundings."""
    circuit = faulted.circuit
    returned, coil, entering = surroundings
    supply, sensible_w, m_air = supply_of(circuit, f, coil, conditions.barometer_pa)
    pt_scale = refrigerant(machine.refrigerant)
    suction_saturation_k = pt_scale.saturation_k(_held(pt_scale, f.suction_pa), "dew")
    liquid_saturation_k = pt_scale.saturation_k(_held(pt_scale, f.liquid_port_pa), "bubble")
    evaporating_k = pt_scale.saturation_k(_held(pt_scale, f.evaporating_pa), "dew")
    ln_ps = math.log(_held(fluid, f.suction_pa))
    h_g, h_f = fluid.saturated(H_G, ln_ps), fluid.saturated(H_F, ln_ps)
    quality = min(1.0, (f.h_suction - h_f) / (h_g - h_f))
    heat_w, work_w = f.evaporator_heat_w, f.work_w
    closure = (
        heat_w + f.suction_line_gain_w + work_w - f.shell_loss_w - f.condenser_stream_heat_w - f.liquid_line_loss_w
    )
    suction_line_k = f.compressor_in_k if machine.application.startswith("heat_pump") else f.suction_line_k
    condensing = _held(fluid, f.condensing_pa)
    bend_k = 0.5 * (fluid.saturation_k(condensing, "bubble") + fluid.saturation_k(condensing, "dew"))
    return CircuitState(
        machine_id=machine.id,
        refrigerant=faulted.refrigerant,
        pt_scale=machine.refrigerant,
        barometer_pa=conditions.barometer_pa,
        outdoor_k=conditions.outdoor_k,
        condenser_entering_k=entering,
        ctoa_from_k=conditions.water_in_k or conditions.outdoor_k,
        return_air=returned,
        coil_air=coil,
        supply_air=supply,
        supply_high_air=supply,
        supply_low_air=supply,
        suction_pa=f.suction_pa,
        head_pa=f.liquid_port_pa,
        evaporating_pa=f.evaporating_pa,
        condensing_pa=f.condensing_pa,
        suction_saturation_k=suction_saturation_k,
        liquid_saturation_k=liquid_saturation_k,
        suction_line_k=suction_line_k,
        suction_before_valve_k=f.suction_line_k,
        evaporator_outlet_k=f.evaporator_outlet_k,
        evaporator_inlet_k=f.evaporator_inlet_k,
        condenser_outlet_k=f.condenser_outlet_k,
        condenser_bend_k=bend_k,
        liquid_line_k=f.liquid_line_k,
        after_drier_k=f.after_drier_k,
        discharge_line_k=f.discharge_k,
        condenser_air_out_k=f.stream_out_k,
        blocked_air_k=f.blocked_air_k,
        superheat_dk=suction_line_k - suction_saturation_k,
        evaporator_superheat_dk=f.evaporator_outlet_k - evaporating_k,
        subcooling_dk=liquid_saturation_k - f.liquid_line_k,
        mass_flow_kg_s=f.mass_flow_kg_s,
        capacity_w=heat_w,
        sensible_w=min(sensible_w, heat_w),
        work_w=work_w,
        power_w=work_w + machine.outdoor_fan_w / machine.circuits,
        compressor_amps=amps(machine, work_w),
        charge_kg=f.charge_found_kg,
        evaporator_kg=f.evaporator_kg,
        airflow_kg_s=m_air,
        condenser_gas_share=f.condenser_gas_share,
        condenser_two_phase_share=f.condenser_two_phase_share,
        condenser_stream_share=f.condenser_stream_share,
        evaporator_boiling_share=f.evaporator_boiling_share,
        valve_inlet_quality=f.valve_inlet_quality,
        sight_glass_quality=f.drier_quality,
        valve_opening=f.valve_opening,
        suction_quality=quality,
        surface_k=f.surface_k,
        frosting=f.surface_k < 273.15,
        flood_back=f.h_suction < h_g,
        slugging=quality < 1.0 - _SLUGGING,
        receiver=receiver,
        energy_residual=closure / max(heat_w, 1.0),
        mass_residual=f.charge_found_kg / circuit.charge_kg - 1.0,
        evaluations=evaluations,
        solution=solution,
        condenser_heat_w=f.condenser_stream_heat_w,
        path=_path(f),
    )


def _path(f: Figures) -> tuple[tuple[float, float], ...]:
    """(Pa, J/kg) around the circuit, in the order of :data:`wolfsbane.cycle.loop.CORNERS`."""
    leaves_condenser = f.h_discharge - f.condenser_heat_w / f.condenser_kg_s
    return (
        (f.suction_pa, f.h_suction),
        (f.discharge_pa, f.h_discharge),
        (f.condensing_pa, leaves_condenser),
        (f.liquid_port_pa, f.h_liquid),
        (f.valve_inlet_pa, f.h_valve_inlet),
        (f.evaporating_pa, f.h_valve_inlet),
        (f.evaporating_pa, f.h_evaporator_out),
    )


def amps(machine: Machine, work_w: float) -> float:
    """Compressor amps from shaft power, power factor and a magnetizing part."""
    return math.hypot(work_w / (machine.volts * machine.power_factor), machine.magnetizing_amps)


def _resting_receiver(circuit: Circuit, fluid: Refrigerant, pressure_pa: float) -> Receiver | None:
    """At rest the liquid gathers in the receiver (assumed)."""
    if circuit.receiver_volume_m3 <= 0.0:
        return None
    ln_p = math.log(_held(fluid, pressure_pa))
    rho_g, rho_f = fluid.saturated(RHO_G, ln_p), fluid.saturated(RHO_F, ln_p)
    liquid_m3 = (circuit.charge_kg - internal_volume_m3(circuit) * rho_g) / (rho_f - rho_g)
    level = float(min(max(liquid_m3 / circuit.receiver_volume_m3, 0.0), 1.0))
    return Receiver(holds="full" if level >= 1.0 else "liquid" if level > 0.0 else "empty", level=level)


def at_rest(machine: Machine, faulted: Machine, conditions: Conditions, surroundings: Surroundings) -> CircuitState:
    """Power on, fans on, nothing pumped: both gauges show the pressure of the coldest liquid. A compressor that still
    moves a trickle holds them a little apart (:mod:`wolfsbane.cycle.idling`).
    """
    returned, coil, entering = surroundings
    fluid, pt_scale = refrigerant(faulted.refrigerant), refrigerant(machine.refrigerant)
    circuit = faulted.circuit
    pressure = standing_pa(circuit, faulted.refrigerant, min(coil.dry_bulb_k, entering))
    m_air = circuit.evaporator_air_kg_s * circuit.evaporator_air_fraction * conditions.air_density_ratio
    supply = air.from_humidity_ratio(
        coil.dry_bulb_k + circuit.blower_w / (m_air * moist_cp(coil.enthalpy_j_kg, coil.dry_bulb_k)),
        coil.humidity_ratio,
        conditions.barometer_pa,
    )
    trickle = idle(circuit, fluid, coil.dry_bulb_k, entering, pressure)
    supply = air.from_humidity_ratio(
        supply.dry_bulb_k - trickle.coil_w / (m_air * moist_cp(coil.enthalpy_j_kg, coil.dry_bulb_k)),
        supply.humidity_ratio,
        conditions.barometer_pa,
    )
    low_pa, high_pa = trickle.low_pa, trickle.high_pa
    unit_k = coil.dry_bulb_k if circuit.suction_line_outdoors else conditions.outdoor_k
    suction_k, liquid_k = (
        pt_scale.saturation_k(_held(pt_scale, low_pa), "dew"),
        pt_scale.saturation_k(_held(pt_scale, high_pa), "bubble"),
    )
    return CircuitState(
        machine_id=machine.id,
        refrigerant=faulted.refrigerant,
        pt_scale=machine.refrigerant,
        barometer_pa=conditions.barometer_pa,
        outdoor_k=conditions.outdoor_k,
        condenser_entering_k=entering,
        ctoa_from_k=conditions.water_in_k or conditions.outdoor_k,
        return_air=returned,
        coil_air=coil,
        supply_air=supply,
        supply_high_air=supply,
        supply_low_air=supply,
        suction_pa=low_pa,
        head_pa=high_pa,
        evaporating_pa=low_pa,
        condensing_pa=_held(fluid, high_pa),
        suction_saturation_k=suction_k,
        liquid_saturation_k=liquid_k,
        suction_line_k=unit_k,
        suction_before_valve_k=unit_k,
        evaporator_outlet_k=coil.dry_bulb_k,
        evaporator_inlet_k=trickle.surface_k,
        condenser_outlet_k=entering,
        condenser_bend_k=entering,
        liquid_line_k=conditions.outdoor_k,
        after_drier_k=conditions.outdoor_k,
        discharge_line_k=unit_k,
        condenser_air_out_k=entering,
        blocked_air_k=coil.dry_bulb_k,
        superheat_dk=unit_k - suction_k,
        evaporator_superheat_dk=coil.dry_bulb_k - suction_k,
        subcooling_dk=liquid_k - conditions.outdoor_k,
        mass_flow_kg_s=trickle.flow_kg_s,
        capacity_w=trickle.coil_w,
        sensible_w=trickle.coil_w,
        work_w=trickle.work_w,
        power_w=trickle.work_w + machine.outdoor_fan_w / machine.circuits,
        compressor_amps=amps(machine, trickle.work_w),
        charge_kg=circuit.charge_kg,
        evaporator_kg=0.0,
        airflow_kg_s=m_air,
        condenser_gas_share=1.0,
        condenser_two_phase_share=0.0,
        condenser_stream_share=1.0,
        evaporator_boiling_share=0.0,
        valve_inlet_quality=1.0,
        sight_glass_quality=1.0,
        valve_opening=0.0,
        suction_quality=1.0,
        surface_k=trickle.surface_k,
        frosting=False,
        flood_back=False,
        slugging=False,
        receiver=_resting_receiver(circuit, fluid, pressure),
        energy_residual=0.0,
        mass_residual=0.0,
        evaluations=0,
        solution=None,
        equalized=high_pa < _EQUAL * low_pa,
    )
