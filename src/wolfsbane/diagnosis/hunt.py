"""The search for the nearest severities of one fault, or of two: an expectation says where to solve, the solve where
to look next, and slopes solved on the spot find the floor of a narrow valley.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from itertools import product
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis.vectors import vector_at

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.diagnosis.rivals import Rivals
    from wolfsbane.diagnosis.solved_cases import Curve

#: given up where no place around the first solve, or around a later one, is expected nearer than this
_HOPELESS = (4.0, 2.2)
#: how far those slopes are trusted, as a share of the range, one round after the other
_TRUSTED = (0.12, 0.06, 0.03, 0.015, 0.008)
#: the step a slope is solved over, as a share of the range, never more than a third of the way it is trusted; and how
#: much farther than a severity the air is trusted
_STEP, _AIR_TRUSTED = 0.02, 6.0
#: how far along its own slopes a rival that fits is followed, as a share of the range
_VALLEY = 0.3
#: two faults; the stride along their valley, and how far the other fault may bend it in one, as shares of the ranges
_TWO, _STRIDE, _BEND = 2, 0.12, 0.15
#: how far around a place is looked, as a share of the range, one solve after the other
_WIDTHS = (0.25, 0.14, 0.08, 0.05, 0.03, 0.015)
#: crossings looked at for a first place, along each fault's range
_CROSSINGS = 13
#: how far printed air may be off: outdoor (or water going in), return, its wet bulb, degrees F (common practice, no
#: source)
WEATHER_OFF_F = (2.0, 1.5, 1.5)
#: places around one that are looked at, as shares of the width
_AROUND = np.linspace(-1.0, 1.0, 9)
_AIRS = np.array(list(product((-1.0, -0.5, 0.0, 0.5, 1.0), (-1.0, 0.0, 1.0), (-1.0, 0.0, 1.0))))
_NO_AIR = np.zeros((1, 3))


def moved_weather(c: Conditions, moved: np.ndarray) -> Conditions:
    """Conditions with the air (or the water) off by shares (3,) of :data:`WEATHER_OFF_F`."""
    off = [float(m) * most / 1.8 for m, most in zip(moved, WEATHER_OFF_F, strict=True)]
    dry = c.return_k + off[1]
    found = replace(c, return_k=dry, return_wet_bulb_k=min(c.return_wet_bulb_k + off[2], dry))
    if c.water_in_k:
        return replace(found, water_in_k=c.water_in_k + off[0])
    return replace(found, outdoor_k=c.outdoor_k + off[0])


@lru_cache(maxsize=4096)
def _crossings(low: tuple[float, ...], high: tuple[float, ...], number: int) -> tuple[list[np.ndarray], np.ndarray]:
    """(axes, places (number ** d, d)) of ``number`` places along each range, and where they cross; read only."""
    axes = [np.linspace(lo, hi, number) for lo, hi in zip(low, high, strict=True)]
    return axes, _crossed(axes)


def _crossed(axes: list[np.ndarray]) -> np.ndarray:
    """Every crossing (n, d) of places along axes, the last axis moving first."""
    if not axes:
        return np.zeros((1, 0))
    return np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, len(axes))


def _carried_on(slopes: np.ndarray, step: np.ndarray, change: np.ndarray, span: np.ndarray) -> np.ndarray:
    """Slopes (d, N) carried on by what a step (d,), in shares of ``span``, showed (Broyden, 1965)."""
    scaled = slopes * span[:, None]
    off = (change - step @ scaled) / max(float(step @ step), 1e-12)
    return (scaled + step[:, None] * off[None, :]) / span[:, None]


def _same(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two places are one, but for rounding."""
    return bool((np.abs(a - b) <= 1e-8 + 1e-5 * np.abs(b)).all())


class Found(NamedTuple):
    """The nearest so far: distance, place, ``shift`` (what the expectation got wrong there), shares the air is off."""

    distance: float
    place: np.ndarray
    shift: np.ndarray
    moved: np.ndarray


class Hunt:
    """The search for the nearest severities of one fault, or of two. Places are indices into the solved severities."""

    def __init__(
        self,
        rivals: Rivals,
        curves: tuple[Curve, ...],
        lows: tuple[float, ...],
        readings: tuple[str, ...],
        model: Callable[..., np.ndarray],
        fixed: tuple[Fault, ...] = (),
    ) -> None:
        self.rivals, self.curves, self.readings, self.model = rivals, curves, readings, model
        self.low = np.array(lows)
        self.high = np.array([len(c.severities) - 1.0 for c in curves])
        self.fixed = fixed
        #: where the next solve begins: the balance of what was planted, which shows what is looked for, then the last
        self._start = rivals.state.solution
        self._solved: dict[tuple[bytes, bytes], np.ndarray | None] = {}

    def faults(self, place: np.ndarray) -> tuple[Fault, ...]:
        """The faults at a place."""
        if not self.curves:
            return self.fixed
        return tuple(
            Fault(id=c.id, severity=c.severity(float(p)))
            for c, p in zip(self.curves, place[: len(self.curves)], strict=True)
        )

    def _expected(self, axes: list[np.ndarray], shift: np.ndarray | float = 0.0) -> np.ndarray:
        """Distances at every crossing of places, flat."""
        return self.rivals.away(self.model(*axes) + shift, self.readings)

    def starts(self) -> list[tuple[float, np.ndarray]]:
        """(expected distance, place) of the best start, and of the best one far from it."""
        if (self.low >= self.high).any():
            return []
        number = 61 if len(self.curves) == 1 else _CROSSINGS
        axes, places = _crossings(tuple(self.low), tuple(self.high), number)
        expected = self._expected(axes)
        first = int(np.argmin(expected))
        span = self.high - self.low
        away = (np.abs(places - places[first]) / span).max(axis=1) > 0.3
        found = [(float(expected[first]), places[first])]
        if away.any():
            second = int(np.argmin(np.where(away, expected, np.inf)))
            found.append((float(expected[second]), places[second]))
        return found

    def true(self, place: np.ndarray, moved: np.ndarray | None = None) -> np.ndarray | None:
        """The solved vector at a place, or None where it does not run."""
        key = (place.tobytes(), b"" if moved is None or not moved.any() else moved.tobytes())
        if key not in self._solved:
            cases = self.rivals.cases
            conditions = moved_weather(cases.conditions, moved) if moved is not None and key[1] else cases.conditions
            try:
                found, start = vector_at(cases.machine, conditions, self.faults(place), self._start)
            except BadInputError:
                found, start = None, None
            self._solved[key], self._start = found, start or self._start
        return self._solved[key]

    def follow(self, place: np.ndarray, weather: bool = False) -> Found | None:
        """The nearest from a start on; None where nothing runs."""
        slopes = self.rivals.weather_slopes() if weather else np.zeros((3, len(self.rivals.here)))
        air = _AIRS if weather else _NO_AIR
        moved, span = np.zeros(3), self.high - self.low
        best: Found | None = None
        for tried, width in enumerate(_WIDTHS):
            true = self.true(place, moved)
            if true is None:
                place = self.low + 0.8 * (place - self.low)
                continue
            here = self.model(*(place[i : i + 1] for i in range(len(place))))[0] + moved @ slopes
            shift = true - here
            distance = float(self.rivals.away(true[None], self.readings)[0])
            if best is None or distance < best.distance:
                best = Found(distance, place, shift, moved)
            if distance < 0.05:
                break
            axes = [
                np.minimum(np.maximum(p + width * s * _AROUND, lo), hi)
                for p, s, lo, hi in zip(place, span, self.low, self.high, strict=True)
            ]
            vectors = self.model(*axes) if axes else self.model()
            crossed = (vectors[:, None, :] + (air @ slopes)[None, :, :]).reshape(-1, vectors.shape[1]) + shift
            expected = self.rivals.away(crossed, self.readings)
            at = int(np.argmin(expected))
            if expected[at] > _HOPELESS[min(tried, 1)]:
                break
            spot = np.unravel_index(at // len(air), tuple(len(a) for a in axes)) if axes else ()
            following = np.array([a[i] for a, i in zip(axes, spot, strict=True)])
            air_there = air[at % len(air)]
            if _same(following, place) and _same(air_there, moved):
                if width <= _WIDTHS[2]:
                    break
                continue
            place, moved = following, air_there
        return best

    def closer(self, best: Found, weather: bool = False) -> Found:
        """The nearest along slopes that are solved where the search ended, of the air as well with ``weather``: an
        expectation drawn from severities far apart does not see the floor of a narrow valley.
        """
        air = 3 if weather else 0
        low, high = np.append(self.low, -np.ones(air)), np.append(self.high, np.ones(air))
        span, number = high - low, len(self.low)
        slopes: np.ndarray | None = None
        for width in _TRUSTED:
            step = min(_STEP, width / 3.0)
            at = np.append(best.place, best.moved[:air])
            true = self.true(best.place, best.moved)
            if true is None or best.distance <= 1.0:
                break
            if slopes is None:
                slopes = self._slopes(at, true, step * span, high, weather)
            if slopes is None:
                return best
            wide = width * span * np.append(np.ones(number), _AIR_TRUSTED * np.ones(air))
            following = at + self.rivals.least_step(
                true, slopes, np.maximum(low - at, -wide), np.minimum(high - at, wide), self.readings
            )
            place, moved = following[:number], following[number:] if weather else best.moved
            found = self.true(place, moved)
            if found is None:
                slopes = None
                continue
            nearer = float(self.rivals.away(found[None], self.readings)[0])
            if nearer < best.distance:
                here = self.model(*(place[i : i + 1] for i in range(number)))[0]
                best = Found(nearer, place, found - here, moved)
                slopes = _carried_on(slopes, (following - at) / span, found - true, span)
            else:
                slopes = None
        return best

    def _slopes(
        self, at: np.ndarray, true: np.ndarray, steps: np.ndarray, high: np.ndarray, weather: bool
    ) -> np.ndarray | None:
        """Slopes (d, N) of the solved vector at a place (and air, with ``weather``), or None where it does not run."""
        number, found = len(self.low), []
        for i, step in enumerate(steps):
            beside = at.copy()
            beside[i] += step if at[i] + step <= high[i] else -step
            there = self.true(beside[:number], beside[number:] if weather else None)
            if there is None:
                return None
            found.append((there - true) / (beside[i] - at[i]))
        return np.array(found)

    def spots(self, at: Found) -> tuple[tuple[Fault, ...], ...]:
        """Severities within tolerance, as far from one another as they go, along each fault and across, each solved."""
        place, shift = at.place, at.shift
        number, span = 61 if len(self.curves) == 1 else 21, self.high - self.low
        axes = [np.linspace(lo, hi, number) for lo, hi in zip(self.low, self.high, strict=True)]
        places, expected = _crossed(axes), self._expected(axes, shift)
        true = self.true(place)
        slopes = None if true is None else self._slopes(place, true, _STEP * span, self.high, False)
        inside = places[expected <= 0.97]
        if true is not None and slopes is not None:  # a valley runs where its own slopes say, not the far ones
            near = place + _VALLEY * span * _crossed([np.linspace(-1.0, 1.0, 31)] * len(place))
            near = near[((near >= self.low) & (near <= self.high)).all(axis=1)]
            away = self.rivals.away(true + (near - place) @ slopes, self.readings)
            inside = np.vstack((inside, near[away <= 0.97]))
        found: list[tuple[Fault, ...]] = []
        if not len(inside):
            return ()
        along = [*(inside / span).T]
        if len(axes) > 1:
            along += [along[0] + along[1], along[0] - along[1]]
        ends = [inside[pick(values)] for values in along for pick in (np.argmin, np.argmax)]
        for end in ends:
            for share in (1.0, 0.7, 0.4):
                to = place + share * (end - place)
                true = self.true(to)
                if true is not None and self.rivals.away(true[None], self.readings)[0] <= 1.0:
                    found.append(self.faults(to))
                    break
        if len(place) == _TWO:
            found += [self.faults(to) for to in self._valley(place, shift)]
        return tuple(dict.fromkeys(found))

    def _valley(self, place: np.ndarray, shift: np.ndarray) -> list[np.ndarray]:
        """Places that fit on from one that does, each fault a step further either way and the other where it answers
        it best: a valley may bend where no straight line follows it.
        """
        span, found = self.high - self.low, []
        for axis, way in product(range(_TWO), (-1.0, 1.0)):
            at, off, stride = place, shift, _STRIDE
            while stride >= _STRIDE / _TWO:
                further = float(np.clip(at[axis] + way * stride * span[axis], self.low[axis], self.high[axis]))
                if further == at[axis]:
                    break
                other = 1 - axis
                beside = at[other] + _BEND * span[other] * np.linspace(-1.0, 1.0, 41)
                axes = [np.array([further])] * _TWO
                axes[other] = np.clip(beside, self.low[other], self.high[other])
                to = at.copy()
                to[axis], to[other] = further, axes[other][int(np.argmin(self._expected(axes, off)))]
                true = self.true(to)
                if true is None or self.rivals.away(true[None], self.readings)[0] > 1.0:
                    stride /= _TWO
                    continue
                at, off = to, true - self.model(*(to[i : i + 1] for i in range(_TWO)))[0]
                found.append(at)
        return found
