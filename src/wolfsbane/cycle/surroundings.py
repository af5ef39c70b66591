"""What a circuit really meets: the air and water around it, as faults have changed them."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle import air
from wolfsbane.cycle.balance import Boundary

if TYPE_CHECKING:
    from wolfsbane.cycle.air import MoistAir
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Circuit


class Surroundings(NamedTuple):
    """Return air, the air entering the coil, and the stream (air or water) entering the condenser, K."""

    return_air: MoistAir
    coil_air: MoistAir
    entering_k: float

    def boundary(self, conditions: Conditions, receiver: float) -> Boundary:
        """The :class:`~wolfsbane.cycle.balance.Boundary` of a steady solve; ``receiver`` says how its charge reads."""
        return Boundary(
            entering_k=self.entering_k,
            coil_air_k=self.coil_air.dry_bulb_k,
            coil_air_j_kg=self.coil_air.enthalpy_j_kg,
            density_ratio=conditions.air_density_ratio,
            outdoor_k=conditions.outdoor_k,
            receiver=receiver,
        )


def surroundings_of(circuit: Circuit, conditions: Conditions, offset_k: float = 0.0) -> Surroundings:
    """The :class:`Surroundings` of a circuit in a weather; ``offset_k`` is what its half of the coil meets warmer.

    Load faults shift the return air, an economizer mixes outdoor air in (at the return's humidity: assumed), layers
    shift the mixture, hot exhaust or water on the coil shift what the condenser draws in.
    """
    barometer = conditions.barometer_pa
    wet_k = min(conditions.return_wet_bulb_k, conditions.return_k)
    returned = air.from_wet_bulb(conditions.return_k, wet_k, barometer)
    if circuit.return_offset_k:
        returned = air.as_humid(returned, circuit.return_offset_k)
    if circuit.return_dry_offset_k:
        returned = air.cooled_or_warmed(returned, returned.dry_bulb_k + circuit.return_dry_offset_k)
    return_k = returned.dry_bulb_k
    mixed_k = return_k + circuit.outdoor_air_share * (conditions.outdoor_k - return_k) + offset_k
    coil = returned
    if mixed_k != return_k:
        coil = air.cooled_or_warmed(returned, mixed_k)
    if conditions.water_in_k is not None:
        entering = conditions.water_in_k
    else:
        entering = conditions.outdoor_k + circuit.condenser_entering_offset_k
        if circuit.condenser_wet_share > 0.0:
            entering -= circuit.condenser_wet_share * (conditions.outdoor_k - conditions.outdoor_wet_bulb_k)
    return Surroundings(return_air=returned, coil_air=coil, entering_k=entering)


def saturated_air(conditions: Conditions) -> np.ndarray:
    """Enthalpy of saturated air at this barometer, the table wet coils are worked out with."""
    return air.saturated_enthalpy(round(conditions.barometer_pa, 1))
