"""Cylinders and hoses: where refrigerant is when it is not in the machine, by weight."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.properties import RHO_F, RHO_G, refrigerant

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: never fuller than this share of its volume with liquid at 25 degC (common practice, no source)
FULL_SHARE = 0.80
_FILL_K = 298.15
#: a service hose, m3 (1.5 m of quarter-inch bore, assumed)
HOSE_M3 = 0.03e-3
#: a full cylinder from stock holds this share of what it may hold (assumed)
_STOCKED = 0.75


@dataclass(frozen=True, kw_only=True)
class Cylinder:
    """A cylinder on the scale: net refrigerant ``kg`` over its ``tare_kg``; ``volume_m3`` inside.

    ``mixed`` holds more than one.
    """

    id: str
    refrigerant: str
    kg: float
    tare_kg: float
    volume_m3: float
    mixed: bool = False

    @property
    def gross_kg(self) -> float:
        """What the scale shows."""
        return self.tare_kg + self.kg

    @property
    def most_kg(self) -> float:
        """Net refrigerant at which it counts as full."""
        return FULL_SHARE * self.volume_m3 * liquid_density(self.refrigerant, _FILL_K)

    @property
    def room_kg(self) -> float:
        """What may still go in."""
        return max(self.most_kg - self.kg, 0.0)


def liquid_density(name: str, t_k: float) -> float:
    """Density of saturated liquid, kg/m3, at ``t_k`` held to the property table."""
    fluid = refrigerant(name)
    low, high = fluid.saturation_k(fluid.min_pa * 1.001, "bubble"), fluid.saturation_k(fluid.max_pa * 0.999, "bubble")
    return fluid.saturated(RHO_F, math.log(fluid.saturation_pa(min(max(t_k, low), high), "bubble")))


def vapor_density(name: str, pressure_pa: float) -> float:
    """Density of saturated vapor, kg/m3, at a pressure held to the property table."""
    fluid = refrigerant(name)
    return fluid.saturated(RHO_G, math.log(min(max(pressure_pa, fluid.min_pa), fluid.max_pa)))


def stock(machine: Machine) -> tuple[Cylinder, Cylinder]:
    """What the van carries: a cylinder of the plate's refrigerant and an empty one for recovery,
    sized for the machine.
    """
    size = max(machine.circuit.charge_kg * machine.circuits, 0.5)
    volume = 2.4 * size / liquid_density(machine.refrigerant, _FILL_K)
    tare = 1.0 + 0.35 * volume * 1000.0
    new = Cylinder(id="new", refrigerant=machine.refrigerant, kg=0.0, tare_kg=round(tare, 2), volume_m3=volume)
    filled = Cylinder(
        id="new",
        refrigerant=machine.refrigerant,
        kg=round(_STOCKED * new.most_kg, 3),
        tare_kg=new.tare_kg,
        volume_m3=volume,
    )
    return filled, Cylinder(
        id="recovery", refrigerant=machine.refrigerant, kg=0.0, tare_kg=round(tare + 0.4, 2), volume_m3=volume
    )
