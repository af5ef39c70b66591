"""Cutouts: which opens first on the way to a state, and about when."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

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


class Drawn(NamedTuple):
    """What cutouts look at: discharge and suction pressure (Pa), discharge line (K), compressor amps, and what the
    circuit takes in (W).
    """

    discharge_pa: float
    suction_pa: float
    discharge_k: float
    amps: float
    capacity_w: float


class Limits(NamedTuple):
    """What cutouts open at: discharge and suction pressure (Pa), discharge line (K), compressor amps, and the capacity
    (W) below which the motor overheats where it draws more than ``works_amps``.
    """

    high_pa: float
    low_pa: float
    discharge_k: float
    overload_amps: float
    least_w: float
    works_amps: float


def limits_of(machine: Machine, refrigerant_name: str, conditions: Conditions) -> Limits:
    """The :class:`Limits` of a machine with a refrigerant in it, in a weather."""
    plate = machine.plate
    high, low = _pressures(machine, refrigerant_name, conditions)
    return Limits(
        high_pa=high,
        low_pa=low,
        discharge_k=plate.discharge_cutout_k,
        overload_amps=plate.overload_amps,
        least_w=_NO_COOLING * plate.capacity_w / machine.circuits,
        works_amps=_WORKS * plate.rated_amps,
    )


def opened(machine: Machine, refrigerant_name: str, conditions: Conditions, found: Drawn) -> list[tuple[str, float]]:
    """(cutout, its setting) of every cutout that a running machine would open; an overload for want of cooling has the
    setting nought.
    """
    limits, trips = limits_of(machine, refrigerant_name, conditions), []
    if found.discharge_pa > limits.high_pa:
        trips.append(("high_pressure", limits.high_pa))
    if found.suction_pa < limits.low_pa:
        trips.append(("low_pressure", limits.low_pa))
    if found.discharge_k > limits.discharge_k:
        trips.append(("discharge_temperature", limits.discharge_k))
    if found.amps > limits.overload_amps:
        trips.append(("overload", limits.overload_amps))
    if found.capacity_w < limits.least_w and found.amps > limits.works_amps:
        trips.append(("overload", 0.0))
    return trips


def _pressures(machine: Machine, refrigerant_name: str, conditions: Conditions) -> tuple[float, float]:
    """Settings of the high- and the low-pressure cutout, Pa absolute."""
    plate, barometer = machine.plate, conditions.barometer_pa
    return (
        plate.high_cutout_gauge_pa + barometer,
        max(plate.low_cutout_gauge_pa + barometer, 1.02 * refrigerant(refrigerant_name).min_pa),
    )


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
    if not settled:
        high, _ = _pressures(machine, faulted.refrigerant, conditions)
        began = _standing(faulted, state, conditions)
        return Trip(
            cutout="high_pressure", after_s=rise_time_s(began, max(discharge_pa, 1.05 * high), high, _HEAD_TIME_S)
        )
    found = Drawn(discharge_pa, state.suction_pa, state.discharge_line_k, state.compressor_amps, state.capacity_w)
    trips = opened(machine, faulted.refrigerant, conditions, found)
    if not trips:
        return None
    standing = _standing(faulted, state, conditions)

    def after_s(cutout: str, limit: float) -> float:
        if cutout == "high_pressure":
            return rise_time_s(standing, discharge_pa, limit, _HEAD_TIME_S)
        if cutout == "low_pressure":
            return rise_time_s(standing, state.suction_pa, limit, _SUCTION_TIME_S)
        if cutout == "discharge_temperature":
            return rise_time_s(conditions.outdoor_k, state.discharge_line_k, limit, _DISCHARGE_TIME_S)
        return rise_time_s(0.0, state.compressor_amps**2, limit**2, _OVERLOAD_TIME_S) if limit else _NO_COOLING_S

    return min((Trip(cutout=c, after_s=after_s(c, limit)) for c, limit in trips), key=lambda t: t.after_s)


def _standing(faulted: Machine, state: CircuitState, conditions: Conditions) -> float:
    """The pressure it started from, Pa."""
    return standing_pa(faulted.circuit, faulted.refrigerant, min(conditions.outdoor_k, state.return_air.dry_bulb_k))
