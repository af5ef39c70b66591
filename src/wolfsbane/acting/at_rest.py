"""A machine that stands: pressures equalize, pipes take the temperature of the air,
refrigerant goes where it is cold.
"""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.time_constants import constant
from wolfsbane.cycle.balance import Figures
from wolfsbane.cycle.idling import idle
from wolfsbane.cycle.properties import (
    RHO_F,
    RHO_G,
    refrigerant,
)
from wolfsbane.cycle.standing import internal_volume_m3, standing_pa
from wolfsbane.cycle.transient import OIL_MORE_PER_K, OIL_MOST, Warmth

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant

_LOW = ("suction_pa", "evaporating_pa")
_HIGH = ("discharge_pa", "condensing_pa", "liquid_port_pa", "valve_inlet_pa")
_OUTDOORS = (
    "suction_line_k",
    "compressor_in_k",
    "liquid_line_k",
    "after_drier_k",
    "condenser_outlet_k",
    "discharge_k",
    "stream_out_k",
)
_INDOORS = ("evaporator_outlet_k", "evaporator_inlet_k", "air_boiling_k", "air_superheat_k", "blocked_air_k", "bulb_k")
#: share of the liquid that lies on the low side after a rest: a valve shuts, an orifice stays open (assumed)
_MIGRATED = {"txv": 0.12, "eev": 0.12, "fixed_orifice": 0.22, "capillary": 0.22}


#: what even good compressor valves let back into a pumped-down low side that waits for its box, as a share of the rated
#: flow (assumed)
_SEEPS = 0.001
#: a crankcase heater keeps the shell so much warmer than the air around it, K (assumed)
HEATED_K = 15.0


def low_side_m3(circuit: Circuit) -> float:
    """Everything between metering device and compressor valves, m3."""
    return circuit.evaporator_volume_m3 + circuit.suction_line_volume_m3 + circuit.shell_volume_m3


def rest_pa(site: Site, conditions: Conditions) -> tuple[float, float]:
    """(low, high) pressure towards which a standing machine goes, Pa."""
    circuit = site.circuit()
    coldest = min(conditions.outdoor_k, conditions.return_k)
    if not site.liquid_shut:
        pressure = standing_pa(circuit, site.refrigerant, coldest)
        if not site.running or circuit.pumping_share >= 1.0 or (site.keeper and not site.keeper.runs):
            return pressure, pressure
        trickle = idle(circuit, refrigerant(site.refrigerant), conditions.return_k, conditions.outdoor_k, pressure)
        return trickle.low_pa, trickle.high_pa
    held = site.low_side_kg or rest_split_kg(site, conditions)
    heavy = site.heavy_parts
    gas = max(held - (0.0 if heavy is None else heavy.oil_kg), 1e-6)
    return _closed_pa(circuit, refrigerant(site.refrigerant), gas, conditions.return_k), standing_pa(
        circuit, site.refrigerant, conditions.outdoor_k
    )


def _closed_pa(circuit: Circuit, fluid: Refrigerant, kg: float, t_k: float) -> float:
    """Pressure of ``kg`` of gas shut into the low side at ``t_k``, Pa; by halving."""
    saturated = fluid.saturation_pa(t_k, "dew")
    return fluid.vapor_pa(kg / low_side_m3(circuit), t_k, fluid.min_pa, saturated)


def rest_split_kg(site: Site, conditions: Conditions) -> float:
    """Refrigerant on the low side of a machine that has stood for long, kg."""
    circuit, fluid = site.circuit(), refrigerant(site.refrigerant)
    pressure = standing_pa(circuit, site.refrigerant, min(conditions.outdoor_k, conditions.return_k))
    ln_p = math.log(min(max(pressure, fluid.min_pa), fluid.max_pa))
    rho_g, rho_f = (fluid.saturated(row, ln_p) for row in (RHO_G, RHO_F))
    volume = internal_volume_m3(circuit)
    liquid = max(circuit.charge_kg - volume * rho_g, 0.0) / max(1.0 - rho_g / rho_f, 0.5)
    gas = min(circuit.charge_kg / volume, rho_g) * low_side_m3(circuit)
    return min(gas + _MIGRATED[site.machine.metering] * liquid, 0.9 * circuit.charge_kg)


def rest_after(site: Site, conditions: Conditions, seconds: float) -> Site:
    """The standing site ``seconds`` later: pressures, temperatures and the refrigerant on the low side move towards
    rest.
    """
    circuit = site.circuit()
    warmth = cooled(site, conditions, seconds)
    low_kg = site.low_side_kg or rest_split_kg(site, conditions)
    equal = 1.0 - math.exp(-seconds / constant("equalise"))
    if site.liquid_shut:
        low_kg = min(low_kg + _leaked_back_kg_s(site, circuit) * seconds, rest_split_kg(site, conditions))
    else:
        low_kg += (rest_split_kg(site, conditions) - low_kg) * equal
    site = replace(
        site,
        low_side_kg=low_kg,
        time_s=site.time_s + seconds,
        ran_s=0.0,
        moving=None,
        warmth=warmth,
        heat_share=site.heat_share * math.exp(-seconds / constant("overload")),
    )
    low, high = rest_pa(site, conditions)
    fresh = site.shown is None
    shown = site.shown if site.shown is not None else Figures._make([0.0] * len(Figures._fields))
    warmed = 1.0 if fresh else 1.0 - math.exp(-seconds / constant("rest_temperature"))
    for names, towards, share in (
        (_LOW, low, 1.0 if fresh or (site.liquid_shut > 0.0 and site.keeper) else equal),
        (_HIGH, high, 1.0 if fresh else equal),
        (_OUTDOORS, conditions.outdoor_k, warmed),
        (_INDOORS, conditions.return_k, warmed),
    ):
        moved = {name: getattr(shown, name) for name in names}
        shown = shown._replace(**{name: now + (towards - now) * share for name, now in moved.items()})
    return replace(site, shown=shown)


def cooled(site: Site, conditions: Conditions, seconds: float) -> Warmth:
    """How warm the heavy parts of a standing machine are ``seconds`` later: the shell comes to the air around it
    (warmer with a crankcase heater, unless it is locked out), the coils to their air, and the oil takes up what it
    holds at that pressure.
    """
    circuit = site.circuit()
    rest_k = conditions.return_k if circuit.suction_line_outdoors else conditions.outdoor_k
    if site.running and site.keeper is not None and site.keeper.controls.crankcase_heater:
        rest_k += HEATED_K
    pressure = rest_pa(site, conditions)[0]
    before = site.heavy_parts
    fresh = before is None or site.shown is None
    if before is None:
        before = Warmth(
            shell_k=rest_k,
            shell_to_k=rest_k,
            oil_kg=0.0,
            evaporator_k=conditions.return_k,
            condenser_k=conditions.outdoor_k,
        )

    def nearer(from_: float, towards: float, time_s: float) -> float:
        return towards if fresh else from_ + (towards - from_) * (1.0 - math.exp(-seconds / time_s))

    shell_k = nearer(before.shell_k, rest_k, constant("rest_shell"))
    more = min(max(1.0 + OIL_MORE_PER_K * (before.shell_to_k - shell_k), 1.0), OIL_MOST)
    holds = min(circuit.oil_kg * circuit.oil_solubility_per_mpa * pressure * 1e-6 * more, 0.25 * circuit.charge_kg)
    return Warmth(
        shell_k=shell_k,
        shell_to_k=before.shell_to_k,
        oil_kg=nearer(before.oil_kg, holds, constant("rest_oil" if holds > before.oil_kg else "rest_boils")),
        evaporator_k=nearer(before.evaporator_k, conditions.return_k, constant("rest_temperature")),
        condenser_k=nearer(before.condenser_k, conditions.outdoor_k, constant("rest_temperature")),
    )


def _leaked_back_kg_s(site: Site, circuit: Circuit) -> float:
    """Gas that worn compressor valves let back into a pumped-down low side, kg/s; as the steady leak scales."""
    low, high = (0.0, 0.0) if site.shown is None else (site.shown.suction_pa, site.shown.discharge_pa)
    leak = circuit.leak_fraction + circuit.reversing_leak_fraction + max(1.0 - site.liquid_shut, 0.0)
    leak += 0.0 if site.keeper is None else _SEEPS
    return leak * circuit.mass_flow_ref_kg_s * math.sqrt(max(high - low, 0.0) / circuit.leak_reference_pa)
