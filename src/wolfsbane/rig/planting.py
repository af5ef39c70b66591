"""How deep a fault stands on a rig: fitted from a settled stretch, and which position of a device brings it there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.rig.baseline import WEATHER, conditions_of, predicted
from wolfsbane.rig.points import kind_of, label_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.individual import Individual
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Stretch

#: kind -> how closely a calibrated rig is predicted, SI: 2 psi (5 on the high side), 1.5 degrees F
TOLERANCES = {"pressure": 14_000.0, "temperature": 1.5 / 1.8, "current": 0.5, "flow": 0.03, "static": 15.0}
_HIGH, _DISCHARGE = 2.5, 4.0
#: solves on the way from nothing wrong to the worst, then between the nearest two
_STEPS = 24
#: a fault shows where the miss without it is so much, in tolerances squared (a third of one in the mean)
_SHOWS = 0.1


def tolerance_of(point: str) -> float:
    """How far a calibrated rig's reading may be from its prediction, SI."""
    times = {"head_pressure": _HIGH, "discharge_line": _DISCHARGE}.get(point, 1.0)
    return TOLERANCES[kind_of(point)] * times


@dataclass(frozen=True, kw_only=True)
class Depth:
    """A fault's ``severity`` on a rig, in its own unit, and its ``spread``; ``square`` is the mean square miss in
    tolerances with it, ``without`` the one with nothing wrong.
    """

    fault: str
    severity: float
    spread: float
    square: float
    without: float

    @property
    def believable(self) -> bool:
        """Whether this fault explains what the rig shows: beyond 1 it is something else, or more than that."""
        return self.square <= 1.0

    @property
    def shows(self) -> bool:
        """Whether it can be told from nothing wrong: a receiver takes up a charge, a light restriction hides."""
        return self.without > max(_SHOWS, 4.0 * self.square)


def _misses(
    rig: Rig, profile: Machine, individual: Individual, stretch: Stretch, faults: tuple[Fault, ...]
) -> np.ndarray | None:
    shown = predicted(rig, profile, individual, conditions_of(rig, profile, stretch.mean), faults)
    if shown is None:
        return None
    points = [p for p in shown if p in stretch.mean and p not in WEATHER]
    return np.array([(stretch.mean[p] - shown[p]) / tolerance_of(p) for p in points])


def depth_of(rig: Rig, profile: Machine, individual: Individual, stretch: Stretch, fault_id: str) -> Depth:
    """The :class:`Depth` of one fault that explains a settled stretch best. Raises BadInputError where none of its
    severities is one this machine runs with.
    """
    from scipy.optimize import minimize_scalar

    kind = fault_kind(fault_id).on(profile)

    def cost(severity: float) -> float:
        found = _misses(rig, profile, individual, stretch, (Fault(id=fault_id, severity=severity),))
        return 1e6 if found is None else float(np.mean(found**2))

    steps = np.linspace(kind.fault_free, kind.limit, _STEPS + 1)
    costs = [cost(float(s)) for s in steps]
    best = int(np.argmin(costs))
    if costs[best] >= 1e6:
        raise BadInputError("fault", fault_id, "a fault with which this rig stays on in this weather")
    low, high = sorted((float(steps[max(best - 1, 0)]), float(steps[min(best + 1, _STEPS)])))
    found = minimize_scalar(cost, bounds=(low, high), method="bounded", options={"xatol": abs(high - low) * 1e-3})
    severity = float(found.x) if found.fun <= costs[best] else float(steps[best])
    # how far it may go until the misses grow by what one tolerance in the mean is worth
    width = abs(kind.limit - kind.fault_free) * 0.01
    ends = [
        min(max(severity + s, min(kind.fault_free, kind.limit)), max(kind.fault_free, kind.limit))
        for s in (-width, width)
    ]
    curve = max((cost(ends[0]) + cost(ends[1]) - 2.0 * cost(severity)) / 2.0, 1e-9)
    spread = min(width * (0.05 / curve) ** 0.5, abs(kind.limit - kind.fault_free))
    return Depth(
        fault=fault_id,
        severity=round(severity, 2),
        spread=round(spread, 2),
        square=round(cost(severity), 3),
        without=round(costs[0], 3),
    )


@dataclass(frozen=True, kw_only=True)
class Set:
    """A device that was set to ``position`` and found to plant ``severity``, give or take ``spread``."""

    position: float
    severity: float
    spread: float


def severity_at(fault_id: str, profile: Machine, known: Sequence[Set], position: float) -> float:
    """What a position plants, between the settings that were measured; nothing at position 0."""
    kind = fault_kind(fault_id).on(profile)
    rows = _curve(kind.fault_free, known)
    return float(np.interp(position, [p for p, _ in rows], [s for _, s in rows]))


def position_for(
    fault_id: str, profile: Machine, known: Sequence[Set], severity: float, most: float
) -> tuple[float, float]:
    """(position, give or take) of a device that plants ``severity``. Raises BadInputError where nothing was measured
    yet or the severity lies beyond the deepest setting that was.
    """
    kind = fault_kind(fault_id).on(profile)
    if not known:
        raise BadInputError("device", "not calibrated", "a device that was set and measured at least once")
    rows = _curve(kind.fault_free, known)
    depths = [abs(s - kind.fault_free) for _, s in rows]
    wanted = abs(severity - kind.fault_free)
    if wanted > depths[-1] * 1.02 or (severity - kind.fault_free) * (kind.limit - kind.fault_free) < 0.0:
        raise BadInputError(
            "severity",
            f"{severity:g}",
            f"{kind.fault_free:g} to {rows[-1][1]:g} {kind.unit}, as far as it was measured",
        )
    position = float(np.interp(wanted, depths, [p for p, _ in rows]))
    steep = max(abs(_slope(rows, position)), 1e-9)
    nearest = min(known, key=lambda s: abs(s.position - position))
    return round(min(position, most), 2), round(nearest.spread / steep, 2)


def _curve(fault_free: float, known: Sequence[Set]) -> list[tuple[float, float]]:
    """(position, severity) from nothing on, deeper with every step; what was measured twice is the mean."""
    by: dict[float, list[float]] = {}
    for row in known:
        by.setdefault(row.position, []).append(row.severity)
    rows = [(0.0, fault_free)]
    for position, found in sorted(by.items()):
        mean = sum(found) / len(found)
        if position > rows[-1][0] and abs(mean - fault_free) > abs(rows[-1][1] - fault_free):
            rows.append((position, mean))
    return rows


def _slope(rows: Sequence[tuple[float, float]], position: float) -> float:
    for (p, s), (q, t) in zip(rows, rows[1:], strict=False):
        if p <= position <= q:
            return (t - s) / (q - p)
    return (rows[-1][1] - rows[-2][1]) / (rows[-1][0] - rows[-2][0]) if len(rows) > 1 else 0.0


def astray(
    rig: Rig, profile: Machine, individual: Individual, stretch: Stretch, faults: tuple[Fault, ...]
) -> dict[str, float]:
    """Points that did not go where they were predicted to with these faults: what is read over the prediction, SI."""
    shown = predicted(rig, profile, individual, conditions_of(rig, profile, stretch.mean), faults)
    if shown is None:
        return {}
    return {
        p: stretch.mean[p] - shown[p]
        for p in shown
        if p in stretch.mean and p not in WEATHER and abs(stretch.mean[p] - shown[p]) > tolerance_of(p)
    }


def in_words(point: str, off: float) -> str:
    """ "Liquid line, outdoors reads 4 °F lower than predicted"."""
    way = "higher" if off > 0.0 else "lower"
    kind = kind_of(point)
    size = f"{abs(off) / 6894.757:.0f} psi" if kind == "pressure" else f"{abs(off) * 1.8:.1f} °F"
    if kind not in ("pressure", "temperature"):
        size = f"{abs(off):.2f}"
    return f"{label_of(point)} reads {size} {way} than predicted"
