"""A defrost by hot gas: discharge gas goes straight to the evaporator, warms it, and comes back as suction gas.

With one evaporator there is no other source of heat: the coil gets what the compressor puts into the gas, shell losses
taken off. Both pressures follow the coil, the low side by what the gas needs to condense against its wall, the high
side by what the hot-gas valve takes.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from wolfsbane.cycle.idling import pumped, saturated_pa
from wolfsbane.cycle.properties import H_G, RHO_G

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant

#: what hot-gas valve and line take at twice the rated flow, Pa (assumed)
_VALVE_PA = 150e3
#: most of the coil's pressure that the suction line takes (assumed)
_LINE_MAX = 0.2


class HotGas(NamedTuple):
    """Pressures at the gauges Pa, flow kg/s, the compressor's work W, heat the coil gets W, and the temperatures of
    discharge and suction line K.
    """

    low_pa: float
    high_pa: float
    flow_kg_s: float
    work_w: float
    heat_w: float
    discharge_k: float
    suction_k: float


def hot_gas(circuit: Circuit, fluid: Refrigerant, coil_k: float) -> HotGas:
    """The :class:`HotGas` of a compressor whose discharge warms a coil of ``coil_k``, settled at this temperature."""
    ref = circuit.mass_flow_ref_kg_s
    coil_pa = low = saturated_pa(fluid, coil_k + 2.0)
    high, flow, work, heat = 1.3 * low, ref, 0.0, 0.0
    for _ in range(40):
        flow = pumped(circuit, fluid, low, high)
        inside_w_k = circuit.evaporator_ua_two_phase_w_k * (flow / ref) ** 0.4
        coil_pa = 0.5 * (coil_pa + saturated_pa(fluid, coil_k + heat / inside_w_k))
        density = fluid.saturated(RHO_G, math.log(low))
        line_pa = circuit.suction_drop_pa_at_ref * circuit.suction_drop_density_kg_m3 / density * (flow / ref) ** 2
        low = max(0.5 * (low + coil_pa - min(line_pa, _LINE_MAX * coil_pa)), 1.01 * fluid.min_pa)
        high = 0.5 * (high + min(coil_pa + _VALVE_PA * (0.5 * flow / ref) ** 2, 0.9 * fluid.max_pa))
        ln_low = math.log(low)
        h_g = fluid.saturated(H_G, ln_low)
        entropy = fluid.state(ln_low, h_g)[2]
        lifted = max(fluid.compressed(math.log(high), entropy) - h_g, 0.0)
        work = flow * lifted / circuit.isentropic_peak
        heat = (1.0 - circuit.shell_loss) * work
    h_discharge = fluid.saturated(H_G, math.log(low)) + heat / flow
    discharge_k = fluid.state(math.log(high), h_discharge)[0]
    return HotGas(low, high, flow, work, heat, discharge_k, fluid.saturation_k(low, "dew"))
