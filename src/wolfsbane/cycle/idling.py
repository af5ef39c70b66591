"""A compressor that hardly pumps: what two pressures its trickle holds apart once the liquid has left the condenser.

With so little flow the metering device passes all of it as gas. The liquid then lies in the colder coil, whose
temperature sets the low side; the high side stands above it by what the trickle needs to get through the device, and
no higher than the condenser's air lets gas condense, from where on the circuit is solved like any other.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    RHO_F,
    RHO_G,
)

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant

#: with less than this share of its displacement no compressor is solved as a circuit, whatever the device
_IDLES = 0.03
#: where a thermostatic valve rests when its bulb is as cold as its coil, and how much of a device's flow gas has (both
#: as in :func:`wolfsbane.cycle.parts.metering.valve_opening` and ``expansion``)
_SHUT, _GAS_SHARE = 0.06, 1.0 / 7.0
#: already where this many times as much is pumped: some of it then still passes as liquid
_NEARLY = 1.5
#: highest share of a displacement at which a circuit may still be idling: a large device in cold weather
MOST = 0.10


class Idle(NamedTuple):
    """A trickle: pressures Pa, its flow kg/s, the compressor's work W, what little the coil takes from its air W
    and the temperature of its surface K.
    """

    low_pa: float
    high_pa: float
    flow_kg_s: float
    work_w: float
    coil_w: float
    surface_k: float


def hardly_pumps(circuit: Circuit) -> bool:
    """Whether so little of the displacement is left that the circuit may be idling."""
    return circuit.pumping_share < MOST


def idles(circuit: Circuit, fluid: Refrigerant, coil_k: float, entering_k: float) -> bool:
    """Whether the compressor pumps so little that its metering device passes all of it as gas."""
    share = circuit.pumping_share
    if not hardly_pumps(circuit):
        return False
    if share < _IDLES:
        return True
    low, most = saturated_pa(fluid, coil_k), saturated_pa(fluid, entering_k)
    if most <= low:
        return share < 0.5 * MOST and circuit.valve_fixed_opening >= 0.0
    return pumped(circuit, fluid, low, most) <= _NEARLY * _passed(circuit, fluid, most, most - low, _GAS_SHARE)


def idle(circuit: Circuit, fluid: Refrigerant, coil_k: float, entering_k: float, rest_pa: float) -> Idle:
    """The :class:`Idle` of a compressor that hardly pumps, between a coil in air of ``coil_k`` and a condenser in a
    stream of ``entering_k``; ``rest_pa`` is the pressure without it.
    """
    low, most = min(rest_pa, saturated_pa(fluid, coil_k)), max(saturated_pa(fluid, entering_k), rest_pa)
    high = flow = coil_w = 0.0
    condenses = most > rest_pa
    for _ in range(16):
        flow = pumped(circuit, fluid, low, max(high, low))
        needs = (flow / max(_passed(circuit, fluid, most, 1.0, _GAS_SHARE), 1e-12)) ** 2
        high = min(low + needs, most)
        liquid = 0.0
        if low + needs > most > low:
            # Not all of it passes as gas: the rest condenses, and boils in the coil, which it cools.
            quality = (_passed(circuit, fluid, most, most - low, 1.0) / max(flow, 1e-12) - 1.0) / 6.0
            liquid = 1.0 - min(max(quality, 0.0), 1.0)
        ln_p = math.log(low)
        latent = fluid.saturated(H_G, ln_p) - fluid.saturated(H_F, ln_p)
        coil_w = flow * liquid * latent
        low = 0.5 * (low + min(rest_pa, saturated_pa(fluid, coil_k - coil_w / _coil_w_k(circuit, flow))))
        if condenses:
            most = saturated_pa(fluid, entering_k + 1.2 * coil_w / _condenser_w_k(circuit, flow), "bubble")
    ln_low = math.log(low)
    h_g = fluid.saturated(H_G, ln_low)
    entropy = fluid.state(ln_low, h_g)[2]
    lifted = max(fluid.compressed(math.log(max(high, low)), entropy) - h_g, 0.0)
    work = flow * lifted / circuit.isentropic_peak
    surface_k = coil_k - coil_w / _coil_w_k(circuit, flow)
    return Idle(low, max(high, low), flow, work, coil_w, surface_k)


def saturated_pa(fluid: Refrigerant, t_k: float, line: str = "dew") -> float:
    """Pressure at which a refrigerant boils or condenses at ``t_k``, held inside its table, Pa."""
    low_k, high_k = fluid.saturation_k(fluid.min_pa * 1.01, "dew"), fluid.saturation_k(fluid.max_pa * 0.99, "bubble")
    return float(fluid.saturation_pa(min(max(t_k, low_k), high_k), line))


def pumped(circuit: Circuit, fluid: Refrigerant, low_pa: float, high_pa: float) -> float:
    """What the compressor moves from ``low_pa`` to ``high_pa``, kg/s."""
    ratio = max(high_pa / low_pa, 1.0001)
    filled = max(circuit.volumetric_a - circuit.volumetric_b * (ratio**circuit.volumetric_exponent - 1.0), 0.05)
    density = fluid.saturated(RHO_G, math.log(low_pa))
    return circuit.pumping_share * circuit.displacement_m3_s * filled * density


def _passed(circuit: Circuit, fluid: Refrigerant, high_pa: float, drop_pa: float, share: float) -> float:
    """What the metering device passes under ``drop_pa``, kg/s: ``share`` of what it would pass of liquid."""
    opening = circuit.valve_fixed_opening if circuit.valve_fixed_opening >= 0.0 else _SHUT
    density = fluid.saturated(RHO_F, math.log(high_pa))
    return share * circuit.expansion_area_m2 * opening * math.sqrt(2.0 * density * max(drop_pa, 0.0))


def _coil_w_k(circuit: Circuit, flow_kg_s: float) -> float:
    """Conductance of the evaporator between air and a trickle that boils, W/K."""
    inside = circuit.evaporator_ua_two_phase_w_k * (flow_kg_s / circuit.mass_flow_ref_kg_s + 1e-4) ** 0.4
    return 1.0 / (1.0 / circuit.evaporator_ua_air_w_k + 1.0 / inside)


def _condenser_w_k(circuit: Circuit, flow_kg_s: float) -> float:
    """Conductance of the condenser between its stream and a trickle that condenses, W/K."""
    inside = circuit.condenser_ua_two_phase_w_k * (flow_kg_s / circuit.mass_flow_ref_kg_s + 1e-4) ** 0.3
    air = circuit.condenser_ua_air_w_k * max(circuit.condenser_air_fraction, 0.05) ** 0.6
    return 1.0 / (1.0 / air + 1.0 / inside)
