"""A two-stage compressor: in low stage it pumps less, and both fans run slower with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit

#: a variable-speed blower's power follows its flow to this power (from the fan laws, ducts and motor losses taken off;
#: assumed)
_BLOWER_POWER = 2.5


@dataclass(frozen=True, kw_only=True)
class LowStage:
    """What is left of high stage in low stage: displacement, and air over the indoor and the outdoor coil, shares."""

    displacement: float
    indoor_air: float
    outdoor_air: float


def in_low_stage(circuit: Circuit, low: LowStage) -> Circuit:
    """The circuit as it runs in low stage."""
    return circuit._replace(
        displacement_m3_s=circuit.displacement_m3_s * low.displacement,
        evaporator_air_kg_s=circuit.evaporator_air_kg_s * low.indoor_air,
        blower_w=circuit.blower_w * low.indoor_air**_BLOWER_POWER,
        condenser_air_kg_s=circuit.condenser_air_kg_s * low.outdoor_air,
    )
