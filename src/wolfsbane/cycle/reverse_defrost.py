"""A heat pump that clears its outdoor coil: for some minutes it runs in cooling with the outdoor fan off.

The outdoor coil condenses against its own cold metal and the ice on it, so head is low and pushes little liquid through
the metering device; suction falls with it, and the indoor coil, which boils now, gives less gas than it could. Given a
machine in heating (its ``condenser`` is the indoor coil, its ``evaporator`` the outdoor one), both pressures are
those at which the compressor takes what the metering device lets pass.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from wolfsbane.cycle.idling import pumped, saturated_pa
from wolfsbane.cycle.properties import H_F, H_G, RHO_F

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant

#: of the way from the condensing temperature to the metal the liquid leaves the outdoor coil (assumed)
_LEAVES = 0.5
#: halvings of the suction pressure, and rounds for the head
_HALVED, _ROUNDS = 40, 30


class Clearing(NamedTuple):
    """Pressures at the gauges Pa, flow kg/s, the compressor's work W, heat the outdoor coil gets and heat taken from
    the house W, temperatures of discharge, suction and liquid line K, and whether liquid comes back.
    """

    low_pa: float
    high_pa: float
    flow_kg_s: float
    work_w: float
    heat_w: float
    taken_w: float
    discharge_k: float
    suction_k: float
    liquid_k: float
    floods: bool


def clearing(circuit: Circuit, fluid: Refrigerant, coil_k: float, room_k: float) -> Clearing:
    """The :class:`Clearing` of a heat pump whose outdoor coil has come to ``coil_k``, in a house at ``room_k``, settled
    at these temperatures.
    """
    ref = circuit.mass_flow_ref_kg_s
    indoors_w_k = 1.0 / (1.0 / circuit.condenser_ua_air_w_k + 1.0 / circuit.condenser_ua_two_phase_w_k)
    warmest = saturated_pa(fluid, room_k)
    high, found = max(saturated_pa(fluid, coil_k + 8.0), 1.2 * fluid.min_pa), None
    for _ in range(_ROUNDS):
        low, flow = _met(circuit, fluid, high, min(warmest, 0.98 * high))
        boils_k = fluid.saturation_k(low, "dew")
        h_f, h_g = fluid.saturated(H_F, math.log(high)), fluid.saturated(H_G, math.log(low))
        needed, offered = flow * (h_g - h_f), indoors_w_k * (room_k - boils_k)
        taken = max(min(needed, offered), 0.0)
        entropy = fluid.state(math.log(low), h_g)[2]
        lifted = max(fluid.compressed(math.log(high), entropy) - h_g, 0.0)
        work = flow * lifted / circuit.isentropic_peak
        heat = taken + (1.0 - circuit.shell_loss) * work
        inside_w_k = circuit.evaporator_ua_two_phase_w_k * (flow / ref + 1e-3) ** 0.4
        condenses_k = coil_k + heat / inside_w_k
        spare = 0.0 if needed >= offered else 1.0 - needed / offered
        h_suction = min(h_f + taken / flow, h_g)
        h_discharge = h_suction + (1.0 - circuit.shell_loss) * work / flow
        found = Clearing(
            low_pa=low,
            high_pa=high,
            flow_kg_s=flow,
            work_w=work,
            heat_w=heat,
            taken_w=taken,
            discharge_k=fluid.state(math.log(high), h_discharge)[0],
            suction_k=boils_k + spare * (room_k - boils_k),
            liquid_k=condenses_k + _LEAVES * (coil_k - condenses_k),
            floods=needed > offered,
        )
        high = 0.5 * (high + min(max(saturated_pa(fluid, condenses_k), 1.1 * fluid.min_pa), 0.9 * fluid.max_pa))
    assert found is not None, "there are rounds"
    return found


def _met(circuit: Circuit, fluid: Refrigerant, high_pa: float, most_pa: float) -> tuple[float, float]:
    """(suction Pa, flow kg/s) at which the compressor takes what a metering device that stands open lets pass."""
    low, top = 1.01 * fluid.min_pa, max(most_pa, 1.02 * fluid.min_pa)
    density = fluid.saturated(RHO_F, math.log(high_pa))

    def short(suction_pa: float) -> bool:
        """Whether the device passes more than the compressor takes."""
        passes = circuit.expansion_area_m2 * math.sqrt(2.0 * density * max(high_pa - suction_pa, 0.0))
        return pumped(circuit, fluid, suction_pa, high_pa) < passes

    for _ in range(_HALVED):
        middle = math.sqrt(low * top)
        low, top = (middle, top) if short(middle) else (low, middle)
    return low, pumped(circuit, fluid, low, high_pa)
