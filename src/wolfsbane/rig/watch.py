"""A watch over a running rig: limits that must not be passed, and channels that lie."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.units import PA_PER_PSI, k_to_f
from wolfsbane.rig.baseline import WEATHER, conditions_of, predicted
from wolfsbane.rig.planting import in_words, tolerance_of
from wolfsbane.rig.points import label_of

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.individual import Individual
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Sample

#: a limit is announced so far before it is reached: share of the way from normal, psi and degrees F
_WARNS_PSI, _WARNS_F = 25.0, 10.0
#: a channel that shows one and the same number so often while the others move is stuck
_SAME = 20
#: at most so many readings astray speak for sensors; more of them for the machine
_FEW = 2


@dataclass(frozen=True, kw_only=True)
class Alarm:
    """A limit that is passed (``passed``) or near: what is read, the limit, and what to do."""

    point: str
    passed: bool
    text: str
    action: str


@dataclass(frozen=True, kw_only=True)
class Doubt:
    """A channel that is not to be believed: ``why`` is dead, stuck or astray, ``text`` says it."""

    point: str
    why: str
    text: str


def alarms(rig: Rig, machine: Machine, shown: Mapping[str, float | None], planted: bool) -> tuple[Alarm, ...]:
    """Limits of the rig (where it has none, its machine's cutouts) that are passed or near."""
    plate, limits = machine.plate, rig.limits
    head = limits.head_psig if limits.head_psig is not None else plate.high_cutout_gauge_pa / PA_PER_PSI - 50.0
    low = limits.suction_psig if limits.suction_psig is not None else plate.low_cutout_gauge_pa / PA_PER_PSI
    hot = limits.discharge_f if limits.discharge_f is not None else min(220.0, k_to_f(plate.discharge_cutout_k) - 10.0)
    found: list[Alarm] = []
    undo = "Stop. Undo the fault." if planted else "Stop the rig and look for the cause."
    rows = [
        ("head_pressure", PA_PER_PSI, 0.0, head, 1.0, _WARNS_PSI, "psig"),
        ("suction_pressure", PA_PER_PSI, 0.0, low, -1.0, 0.2 * _WARNS_PSI, "psig"),
    ]
    for point, size, nought, limit, side, near, unit in rows:
        value = shown.get(point)
        if value is not None:
            _over(found, point, (value - nought) / size, limit, side, near, unit, undo)
    discharge = shown.get("discharge_line")
    if discharge is not None:
        _over(found, "discharge_line", k_to_f(discharge), hot, 1.0, _WARNS_F, "°F", undo + " The pipe burns.")
    box = shown.get("return_db")
    if limits.box_f is not None and box is not None:
        _over(found, "return_db", k_to_f(box), limits.box_f, 1.0, 2.0, "°F", undo)
    return tuple(found)


def _over(
    found: list[Alarm], point: str, value: float, limit: float, side: float, near: float, unit: str, action: str
) -> None:
    over = side * (value - limit)
    if over <= -near:
        return
    passed = over > 0.0
    name = label_of(point)
    way = ("is over" if side > 0 else "is under") if passed else "comes near"
    found.append(
        Alarm(
            point=point,
            passed=passed,
            text=f"{name} {value:.0f} {unit} {way} the limit of {limit:.0f} {unit}.",
            action=action if passed else "Watch it.",
        )
    )


def doubts(
    rig: Rig,
    profile: Machine,
    individual: Individual | None,
    window: Sequence[Sample],
    faults: tuple[Fault, ...] = (),
    still: bool = True,
) -> tuple[Doubt, ...]:
    """Channels that are dead, stuck, or that contradict the rest of a calibrated rig that stands still.

    ``individual`` is the rig's baseline, None before it has one; ``faults`` what is planted.
    """
    found = []
    last = [row for _, row in window[-_SAME:]]
    for channel in rig.channels:
        shown = [row.get(channel.point) for row in last]
        if len(shown) >= _SAME // 2 and all(v is None for v in shown):
            found.append(Doubt(point=channel.point, why="dead", text=f"{label_of(channel.point)}: no reading."))
        elif len(shown) >= _SAME and channel.point != "weight" and len(set(shown)) == 1:
            found.append(
                Doubt(
                    point=channel.point,
                    why="stuck",
                    text=f"{label_of(channel.point)} has not moved at all while the others did: stuck.",
                )
            )
    named = {d.point for d in found}
    if individual is None or not still or not last:
        return tuple(found)
    mean = {
        c.point: float(np.mean(rows))
        for c in rig.channels
        if (rows := [v for row in last if (v := row.get(c.point)) is not None])
    }
    off = _astray(rig, profile, individual, mean, faults)
    strange = {p: v for p, v in off.items() if p not in named}
    if 0 < len(strange) <= _FEW:
        for point, value in strange.items():
            found.append(Doubt(point=point, why="astray", text=f"{in_words(point, value)}; the others fit. Check it."))
    return tuple(found)


def _astray(
    rig: Rig, profile: Machine, individual: Individual, mean: Mapping[str, float], faults: tuple[Fault, ...]
) -> dict[str, float]:
    shown = predicted(rig, profile, individual, conditions_of(rig, profile, mean), faults)
    if shown is None:
        return {}
    return {
        p: mean[p] - v
        for p, v in shown.items()
        if p in mean and p not in WEATHER and abs(mean[p] - v) > tolerance_of(p)
    }


def mapped_wrong(rig: Rig, machine: Machine, shown: Mapping[str, float | None]) -> str:
    """What readings say that no running machine can show, so that the register map or a unit is wrong; "" for none."""
    read = {c.point: shown.get(c.point) for c in rig.channels}
    known = {p: v for p, v in read.items() if v is not None}
    if len(read) >= 4 and len(known) < len(read) / 2:
        return (
            f"{len(read) - len(known)} of {len(read)} channels show what no sensor can: check the register map, and the"
            " order of the words in a float."
        )
    low, high = known.get("suction_pressure"), known.get("head_pressure")
    if low is not None and high is not None and high < low - 70_000.0:
        return "The head reads below the suction: the two gauges are exchanged in the map."
    discharge, liquid = known.get("discharge_line"), known.get("liquid_line")
    running = (known.get("compressor_amps") or 0.0) > 0.25 * machine.plate.rated_amps
    if running and discharge is not None and liquid is not None and discharge < liquid - 3.0:
        return "The discharge line reads colder than the liquid line: the two clamps are exchanged."
    for point in ("outdoor_db", "return_db", "supply_db"):
        value = known.get(point)
        if value is not None and not 235.0 < value < 330.0:
            return f"{label_of(point)} reads {k_to_f(value):.0f} °F: is its channel in °C, or in tenths of a degree?"
    if running and high is not None and high < 300_000.0:
        return f"The head reads {high / PA_PER_PSI:.0f} psig on a running machine: is its channel in bar or in kPa?"
    return ""
