"""A circuit at rest: what both gauges show when nothing moves."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from wolfsbane.cycle.properties import (
    RHO_F,
    RHO_G,
    refrigerant,
)

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit

_GAS_CONSTANT = 8.314462618
#: share of a resting circuit's volume that vapor and air share (assumed)
_RESTING_VAPOR_SHARE = 0.75


def internal_volume_m3(circuit: Circuit) -> float:
    """Everything that holds refrigerant, m3."""
    return (
        circuit.condenser_volume_m3
        + circuit.evaporator_volume_m3
        + circuit.liquid_line_volume_m3
        + circuit.suction_line_volume_m3
        + circuit.shell_volume_m3
        + circuit.receiver_volume_m3
    )


def standing_pa(circuit: Circuit, refrigerant_name: str, coldest_k: float) -> float:
    """Pressure at rest, Pa absolute, with the coldest part that can hold liquid at ``coldest_k`` (K).

    Saturation there while liquid is left; otherwise the pressure of the vapor at that density. Air left in adds its
    own pressure. Held at the ends of the property table.
    """
    fluid = refrigerant(refrigerant_name)
    low, high = fluid.saturation_k(fluid.min_pa * 1.001, "dew"), fluid.saturation_k(fluid.max_pa * 0.999, "bubble")
    coldest_k = min(max(coldest_k, low), high)
    volume = internal_volume_m3(circuit)
    density = circuit.charge_kg / volume
    saturated_pa = fluid.saturation_pa(coldest_k, "bubble")
    rho_g = fluid.saturated(RHO_G, math.log(saturated_pa))
    rho_f = fluid.saturated(RHO_F, math.log(saturated_pa))
    if density >= rho_g:
        share = min((density - rho_g) / (rho_f - rho_g), 1.0)
        dew_pa = fluid.saturation_pa(coldest_k, "dew")
        pressure = dew_pa + (saturated_pa - dew_pa) * min(1.0, 3.0 * share)
    else:
        pressure = fluid.vapor_pa(density, coldest_k, fluid.min_pa, saturated_pa)
    return pressure + circuit.non_condensable_mol * _GAS_CONSTANT * coldest_k / (_RESTING_VAPOR_SHARE * volume)
