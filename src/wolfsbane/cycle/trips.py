"""Cutouts: which opens first on the way to a state, and about when."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.standing import standing_pa
from wolfsbane.cycle.state import Trip

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: with less than this share of its rated capacity a machine does not hold its box or room, and its suction gas does not
#: cool the motor: the overload opens after so many seconds (assumed)
_NO_COOLING, _NO_COOLING_S = 0.05, 1200.0
#: a motor that draws less than this share of its rated amps does not overheat without cold gas (assumed)
_WORKS = 0.4
#: assumed first-order time constants, s
_HEAD_TIME_S, _SUCTION_TIME_S, _DISCHARGE_TIME_S, _OVERLOAD_TIME_S = 60.0, 30.0, 240.0, 120.0


def rise_time_s(start: float, end: float, limit: float, time_constant_s: float) -> float:
    """Seconds, to the nearest 5, until a first-order approach from ``start`` to ``end`` passes ``limit``."""
    if (end - limit) * (end - start) <= 0:
        return 5.0
    fraction = min(max((limit - start) / (end - start), 0.02), 0.999)
    return max(5.0, 5.0 * round(-time_constant_s * math.log(1.0 - fraction) / 5.0))


def first_trip(
    machine: Machine,
    faulted: Machine,
    state: CircuitState,
    discharge_pa: float,
    conditions: Conditions,
    *,
    settled: Any,
) -> Trip | None:
    """The first cutout that opens on the way to ``state``, or None.

    A balance beyond the table is a high-pressure trip.
    """
    plate = machine.plate
    standing = standing_pa(faulted.circuit, faulted.refrigerant, min(conditions.outdoor_k, state.return_air.dry_bulb_k))
    high = plate.high_cutout_gauge_pa + conditions.barometer_pa
    if not settled:
        return Trip(
            cutout="high_pressure", after_s=rise_time_s(standing, max(discharge_pa, 1.05 * high), high, _HEAD_TIME_S)
        )
    trips = []
    if discharge_pa > high:
        trips.append(Trip(cutout="high_pressure", after_s=rise_time_s(standing, discharge_pa, high, _HEAD_TIME_S)))
    low = max(plate.low_cutout_gauge_pa + conditions.barometer_pa, 1.02 * refrigerant(faulted.refrigerant).min_pa)
    if state.suction_pa < low:
        trips.append(Trip(cutout="low_pressure", after_s=rise_time_s(standing, state.suction_pa, low, _SUCTION_TIME_S)))
    if state.discharge_line_k > plate.discharge_cutout_k:
        trips.append(
            Trip(
                cutout="discharge_temperature",
                after_s=rise_time_s(
                    conditions.outdoor_k, state.discharge_line_k, plate.discharge_cutout_k, _DISCHARGE_TIME_S
                ),
            )
        )
    if state.compressor_amps > plate.overload_amps:
        trips.append(
            Trip(
                cutout="overload",
                after_s=rise_time_s(0.0, state.compressor_amps**2, plate.overload_amps**2, _OVERLOAD_TIME_S),
            )
        )
    if (
        state.capacity_w < _NO_COOLING * plate.capacity_w / machine.circuits
        and state.compressor_amps > _WORKS * plate.rated_amps
    ):
        trips.append(Trip(cutout="overload", after_s=_NO_COOLING_S))
    return min(trips, key=lambda t: t.after_s, default=None)
