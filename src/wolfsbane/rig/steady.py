"""When a rig has settled: slopes and scatter of the last minutes, and the stretches in which nothing moved."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from wolfsbane.rig.points import ORDER, kind_of, label_of

#: one sample: seconds of the rig's clock, and what its channels showed, SI by point
Sample = tuple[float, Mapping[str, float | None]]
#: points that have to stand still, as far as a rig has them
WATCHED = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "discharge_line")
#: the air may wander, but no faster than so
_AIR = ("outdoor_db", "return_db", "condenser_entering_air", "water_in")
#: a window of so many seconds is judged, and needs so many samples
WINDOW_S, _LEAST = 300.0, 8
#: samples further apart leave a gap, s
GAP_S = 20.0
#: kind -> (most that may change in ten minutes, most a sample may scatter about its line), SI: 2 psi, 1 degree F; the
#: discharge line follows its shell and may still creep (assumed)
_MOST = {"pressure": (14_000.0, 14_000.0), "temperature": (0.55, 0.45)}
_HIGH_SIDE, _DISCHARGE, _AIR_K = 2.0, 3.0, 1.7


@dataclass(frozen=True, kw_only=True)
class Settled:
    """Whether a rig has settled: for how many ``minutes`` (0 where it has not), else ``why`` not, in words."""

    minutes: float
    why: tuple[str, ...] = ()

    @property
    def ok(self) -> bool:
        """Whether it has."""
        return self.minutes > 0.0


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """A stretch in which nothing moved, seconds of the rig's clock, with ``mean`` and ``scatter`` by point, SI."""

    begin_s: float
    end_s: float
    mean: dict[str, float]
    scatter: dict[str, float]
    samples: int

    @property
    def minutes(self) -> float:
        """How long it is."""
        return (self.end_s - self.begin_s) / 60.0

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return dict(vars(self))


#: what follows the air outdoors, and by how much for each kelvin (usual figures, from memory)
_FOLLOWS = {"head_pressure": 45_000.0, "liquid_line": 1.1, "suction_pressure": 4_000.0, "discharge_line": 1.5}


def _allowed(point: str, weather_k: float) -> tuple[float, float]:
    """(most change in ten minutes, most scatter) while the air outdoors moves by ``weather_k`` in ten minutes."""
    slope, scatter = _MOST[kind_of(point)]
    slope += _FOLLOWS.get(point, 0.0) * abs(weather_k)
    if point == "head_pressure":
        return slope * _HIGH_SIDE, scatter * _HIGH_SIDE
    if point == "discharge_line":
        return slope * _DISCHARGE, scatter * _DISCHARGE
    return (_AIR_K, 2.0 * scatter) if point in _AIR else (slope, scatter)


def moving(window: Sequence[Sample]) -> tuple[str, ...]:
    """What still moves in a window of samples, in words; nothing where all stands."""
    times = np.array([t for t, _ in window])
    if len(window) < _LEAST or times[-1] - times[0] < 0.8 * WINDOW_S:
        return ("not watched for five minutes yet",)
    if float(np.max(np.diff(times))) > max(GAP_S, 0.25 * WINDOW_S):
        return ("readings are missing in between",)
    found = []
    weather_k = 600.0 * _slope(window, times, "outdoor_db")
    for point in (*WATCHED, *_AIR):
        shown = np.array([v if (v := row.get(point)) is not None else math.nan for _, row in window])
        good = ~np.isnan(shown)
        if good.sum() < _LEAST:
            continue
        slope, level = np.polyfit(times[good] - times[-1], shown[good], 1)
        most, spread = _allowed(point, weather_k)
        scatter = float(np.std(shown[good] - slope * (times[good] - times[-1]) - level))
        if scatter > spread and abs(slope) * WINDOW_S < 4.0 * scatter:
            found.append(f"{label_of(point).lower()} swings")
        elif abs(slope) * 600.0 > most or scatter > spread:
            found.append(f"{label_of(point).lower()} is still {'rising' if slope > 0 else 'falling'}")
    return tuple(found)


def _slope(window: Sequence[Sample], times: np.ndarray, point: str) -> float:
    """How fast a point changes, SI a second; nought where it is not read."""
    shown = np.array([v if (v := row.get(point)) is not None else math.nan for _, row in window])
    good = ~np.isnan(shown)
    return float(np.polyfit(times[good] - times[-1], shown[good], 1)[0]) if good.sum() >= _LEAST else 0.0


def settled(samples: Sequence[Sample]) -> Settled:
    """How long a rig has stood still at the end of these samples, or what still moves."""
    if not samples:
        return Settled(minutes=0.0, why=("no readings",))
    last = _windows(samples)
    why = moving(last[-1])
    if why:
        return Settled(minutes=0.0, why=why)
    begin = last[-1][0][0]
    for window in reversed(last[:-1]):
        if moving(window):
            break
        begin = window[0][0]
    return Settled(minutes=round((samples[-1][0] - begin) / 60.0, 1))


def _windows(samples: Sequence[Sample]) -> list[Sequence[Sample]]:
    """Windows of :data:`WINDOW_S` that end a minute apart, the last one with the last sample."""
    times = [t for t, _ in samples]
    found, end = [], times[-1]
    while True:
        first = next(i for i, t in enumerate(times) if t >= end - WINDOW_S)
        after = next((i for i, t in enumerate(times) if t > end), len(times))
        if after > first:
            found.append(samples[first:after])
        if first == 0:
            return found[::-1]
        end -= 60.0


def stretches(samples: Sequence[Sample], longest_s: float = 600.0) -> list[Stretch]:
    """Every stretch in which nothing moved, each at most ``longest_s``: weather that wanders makes several."""
    if not samples:
        return []
    found: list[Stretch] = []
    begin: float | None = None
    end = 0.0
    for window in _windows(samples):
        still = not moving(window)
        if still and begin is not None and window[-1][0] - begin <= longest_s:
            end = window[-1][0]
            continue
        if begin is not None:
            found.append(_mean(samples, begin, end))
            begin = None
            if still and window[0][0] < end:  # the window overlaps what was taken: wait for the next one
                continue
        if still:
            begin, end = window[0][0], window[-1][0]
    if begin is not None:
        found.append(_mean(samples, begin, end))
    return found


def _mean(samples: Sequence[Sample], begin_s: float, end_s: float) -> Stretch:
    rows = [row for t, row in samples if begin_s <= t <= end_s]
    mean, scatter = {}, {}
    for point in ORDER:
        shown = [v for row in rows if (v := row.get(point)) is not None]
        if len(shown) >= max(_LEAST // 2, len(rows) // 2):
            mean[point], scatter[point] = float(np.mean(shown)), float(np.std(shown))
    return Stretch(begin_s=begin_s, end_s=end_s, mean=mean, scatter=scatter, samples=len(rows))
