"""The search for the nearest severities of one fault, or of two: an expectation says where to solve, the solve where
to look next, and slopes solved on the spot find the floor of a narrow valley.
"""

from __future__ import annotations

from functools import cached_property
from itertools import product
from math import inf
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis import chase
from wolfsbane.diagnosis.chase import (
    AIR_TRUSTED,
    AROUND,
    GAINS,
    HOPELESS,
    NEAR_ENOUGH,
    ROUNDS,
    STEP,
    TRUSTED,
    WIDTHS,
    vector_at,
)
from wolfsbane.diagnosis.compared import crossed_vectors, distances
from wolfsbane.diagnosis.curves import alone
from wolfsbane.diagnosis.hunting import around, beginnings, least_step
from wolfsbane.diagnosis.short_way import NOWHERE, SHOWN, UNUSUAL, Ground, Start
from wolfsbane.diagnosis.space import N
from wolfsbane.diagnosis.vectors import vector_on
from wolfsbane.diagnosis.weather_off import moved_weather

if TYPE_CHECKING:
    from wolfsbane.diagnosis.chase import Severities
    from wolfsbane.diagnosis.compared import Expects
    from wolfsbane.diagnosis.curves import Curve
    from wolfsbane.diagnosis.rivals import Rivals
    from wolfsbane.diagnosis.short_way import Lines
    from wolfsbane.diagnosis.solved_cases import Pair

#: how far straight lines are believed where only a rough look is wanted, as a share of the range
_REACH = 0.3
#: how far along its own slopes a rival that fits is followed, as a share of the range
_VALLEY = 0.3
#: two faults; the stride along their valley, and how far the other fault may bend it in one, as shares of the ranges
_TWO, _STRIDE, _BEND = 2, 0.12, 0.15
#: places looked at for a first one along the range of one fault, and crossings along the range of each of two; a second
#: first place lies farther from it than this share of a range
PLACES, CROSSINGS, FAR_OFF = 61, 13, 0.3
#: shares that the air is tried off by: not at all, first
_AIRS = np.array(sorted(product((-1.0, -0.5, 0.0, 0.5, 1.0), (-1.0, 0.0, 1.0), (-1.0, 0.0, 1.0)), key=lambda m: any(m)))
_NO_AIR, _UNMOVED = np.zeros((1, 3)), np.empty(0)
_ZERO, _NOTHING = np.zeros(1), np.empty(0)


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


def faults_at(curves: tuple[Curve, ...], place: list[float]) -> tuple[Fault, ...]:
    """The faults at a place, one of each curve."""
    return tuple(Fault(id=c.id, severity=c.severity(p)) for c, p in zip(curves, place, strict=True))


class Hunt:
    """The search for the nearest severities of one fault, or of two. Places are indices into the solved severities."""

    def __init__(
        self,
        rivals: Rivals,
        curves: tuple[Curve, ...],
        lows: tuple[float, ...],
        readings: tuple[str, ...],
        model: Pair | None = None,
        fixed: tuple[Fault, ...] = (),
    ) -> None:
        self.rivals, self.curves = rivals, curves
        #: what is expected at a place, and how far that is from what was planted, as compiled code takes both
        self._expects: Expects = model.parts if model else curves[0].parts if curves else alone(rivals.shown_by(fixed))
        self._reads = rivals.reads(readings)
        self.low = np.array(lows)
        self.high = np.array([len(c.severities) - 1.0 for c in curves])
        self.fixed = fixed
        #: where the next solve begins: the balance of what was planted, which shows what is looked for, then the last
        self._start = rivals.start or NOWHERE
        self._solved: dict[tuple[bytes, bytes], np.ndarray | None] = {}

    def faults(self, place: np.ndarray) -> tuple[Fault, ...]:
        """The faults at a place."""
        if not self.curves:
            return self.fixed
        return faults_at(self.curves, place[: len(self.curves)].tolist())

    def _shown(self, *axes: np.ndarray) -> np.ndarray:
        """Vectors (n, N) expected at every crossing of places."""
        return crossed_vectors(self._expects, *(*axes, _ZERO, _ZERO)[:2])

    def _expected(self, axes: list[np.ndarray], shift: np.ndarray | float = 0.0) -> np.ndarray:
        """Distances at every crossing of places, flat."""
        return self._away(self._shown(*axes) + shift)

    def _away(self, vectors: np.ndarray) -> np.ndarray:
        """Distances (n,) of vectors (n, N) from what was planted."""
        return distances(vectors, self._reads)

    def _distance(self, vector: np.ndarray) -> float:
        return float(distances(vector[None], self._reads)[0])

    def _at(self, place: np.ndarray) -> np.ndarray:
        """The vector (N,) expected at one place."""
        return self._shown(*(place[i : i + 1] for i in range(len(place))))[0]

    def starts(self) -> list[tuple[float, np.ndarray]]:
        """(expected distance, place) of the best start, and of the best one far from it."""
        if (self.low >= self.high).any():
            return []
        number = PLACES if len(self.curves) == 1 else CROSSINGS
        near, first, further, second = beginnings(self.low, self.high, number, FAR_OFF, self._expects, self._reads)
        return [(d, place) for d, place in ((near, first), (further, second)) if d < inf]

    def true(
        self, place: np.ndarray, moved: np.ndarray | None = None, expected: np.ndarray = _NOTHING
    ) -> np.ndarray | None:
        """The solved vector at a place, or None where it does not run; begun at what is ``expected`` there (N,), where
        that is known.
        """
        key = (place.tobytes(), b"" if moved is None or not moved.any() else moved.tobytes())
        if key not in self._solved:
            cases = self.rivals.cases
            ground = cases.ground
            if moved is not None and key[1]:
                ground = Ground(cases.machine, moved_weather(cases.conditions, moved))
            try:
                found, start = self._solve(ground, place, expected)
            except BadInputError:
                found, start = None, None
            self._solved[key], self._start = found, start or self._start
        return self._solved[key]

    @cached_property
    def _plan(self) -> tuple[Severities, Lines] | None:
        """The severities of each fault and how they are planted in compiled code; None where they are not."""
        cases = self.rivals.cases
        if not self.curves:
            return None
        lines = [cases.ground.lines_of(curve.id) for curve in self.curves]
        ids = {curve.id for curve in self.curves}
        found = [one for one in lines if one is not None and not one.not_beside & ids and not one.refrigerant]
        if len(found) < len(lines):
            return None
        severities = [curve.severities for curve in self.curves]
        a, b = found[0], found[-1]
        return (severities[0], severities[-1]), (a.places, a.lines, b.places, b.lines)

    def _compiled(self, weather: bool) -> tuple[Severities, Lines] | None:
        """The :attr:`_plan` of a hunt that goes in compiled code, None where it does not."""
        return None if self._start is NOWHERE or (weather and not len(self.rivals.air)) else self._plan

    def _solve(self, ground: Ground, place: np.ndarray, expected: np.ndarray) -> tuple[np.ndarray | None, Start | None]:
        """The vector at a place on a ground, and where a neighbor may begin; (None, None) where it does not run."""
        if self._start is not NOWHERE and self._plan is not None:
            parts = self.rivals.parts if ground is self.rivals.cases.ground else ground.parts()
            y, x, slopes = np.empty(N), self._start.x.copy(), self._start.slopes.copy()
            came_to = vector_at(y, expected, x, slopes, place, *self._plan, parts)
            if came_to != UNUSUAL:
                return (y, Start(x, slopes)) if came_to == SHOWN else (None, None)
        return vector_on(ground, self.faults(place), None if self._start is NOWHERE else self._start)

    def follow(self, place: np.ndarray, weather: bool = False) -> Found | None:
        """The nearest from a start on; None where nothing runs."""
        slopes = self.rivals.weather_slopes() if weather else np.zeros((3, len(self.rivals.here)))
        air = _AIRS if weather else _NO_AIR
        blown = air @ slopes
        plan = self._compiled(weather)
        if plan is not None:
            x, carried = self._start.x.copy(), self._start.slopes.copy()
            came_to, distance, ended, shift, moved = chase.follow(
                place,
                self.low,
                self.high,
                x,
                carried,
                *plan,
                self.rivals.parts,
                self.rivals.air,
                air,
                blown,
                self._expects,
                self._reads,
            )
            if came_to != UNUSUAL:
                self._start = Start(x, carried)
                return Found(distance, ended, shift, moved) if came_to == SHOWN else None
        best: Found | None = None
        shift, moved = np.zeros(N), np.zeros(3)
        for tried, width in enumerate(WIDTHS):
            here = self._at(place) + moved @ slopes
            true = self.true(place, moved, here + shift)
            if true is None:
                place = self.low + 0.8 * (place - self.low)
                continue
            shift = true - here
            distance = self._distance(true)
            if best is None or distance < best.distance:
                best = Found(distance, place, shift, moved)
            if distance < NEAR_ENOUGH:
                break
            expected, following, at = around(
                place, self.low, self.high, width * AROUND, blown + shift, self._expects, self._reads
            )
            if expected > HOPELESS[min(tried, 1)]:
                break
            air_there = air[at]
            if _same(following, place) and _same(air_there, moved):
                if width <= WIDTHS[2]:
                    break
                continue
            place, moved = following, air_there
        return best

    def reach(self, place: np.ndarray) -> float:
        """How near straight lines bring a place that runs, with the air off by all it may be; far where none do."""
        true = self.true(place)
        air, span = self.rivals.weather_slopes(), self.high - self.low
        rates = None if true is None else self._slopes(place, true, STEP * span, self.high, False)
        if true is None or rates is None:
            return np.inf
        low = np.append(np.maximum(self.low - place, -_REACH * span), -np.ones(3))
        high = np.append(np.minimum(self.high - place, _REACH * span), np.ones(3))
        slopes = np.vstack((rates, air)) if len(place) else air
        return self._distance(true + least_step(true, slopes, low, high, self._reads) @ slopes)

    def here(self, place: np.ndarray) -> Found:
        """A place that runs, in the printed air."""
        true = self.true(place)
        shown = self._at(place)
        distance = np.inf if true is None else self._distance(true)
        return Found(distance, place, np.zeros(N) if true is None else true - shown, np.zeros(3))

    def closer(self, best: Found, weather: bool = False) -> Found:
        """The nearest along slopes that are solved where the search ended, of the air as well with ``weather``: an
        expectation drawn from severities far apart does not see the floor of a narrow valley.
        """
        rounds = len(TRUSTED) if weather else ROUNDS
        plan = self._compiled(weather)
        if plan is not None:
            x, slopes = self._start.x.copy(), self._start.slopes.copy()
            came_to, distance, place, vector, moved = chase.closer(
                best.place,
                best.moved if weather else _UNMOVED,
                best.distance,
                self.low,
                self.high,
                x,
                slopes,
                *plan,
                self.rivals.parts,
                self.rivals.air,
                rounds,
                self._reads,
            )
            if came_to != UNUSUAL:
                self._start = Start(x, slopes)
                if distance >= best.distance:
                    return best
                return Found(distance, place, vector - self._at(place), moved if weather else best.moved)
        air = 3 if weather else 0
        low, high = np.append(self.low, -np.ones(air)), np.append(self.high, np.ones(air))
        span, number = high - low, len(self.low)
        rates: np.ndarray | None = None
        trusted = 0
        for _ in range(rounds):
            if trusted >= len(TRUSTED):
                break
            width = TRUSTED[trusted]
            trusted += 1
            step = min(STEP, width / 3.0)
            at = np.append(best.place, best.moved[:air])
            true = self.true(best.place, best.moved)
            if true is None or best.distance <= 1.0:
                break
            if rates is None:
                rates = self._slopes(at, true, step * span, high, weather)
            if rates is None:
                return best
            wide = width * span * np.append(np.ones(number), AIR_TRUSTED * np.ones(air))
            following = at + least_step(
                true, rates, np.maximum(low - at, -wide), np.minimum(high - at, wide), self._reads
            )
            place, moved = following[:number], following[number:] if weather else best.moved
            found = self.true(place, moved, true + (following - at) @ rates)
            if found is None:
                rates = None
                continue
            nearer = self._distance(found)
            if nearer < best.distance:
                trusted -= nearer < GAINS * best.distance
                best = Found(nearer, place, found - self._at(place), moved)
                rates = _carried_on(rates, (following - at) / span, found - true, span)
            else:
                rates = None
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
        number, span = PLACES if len(self.curves) == 1 else 21, self.high - self.low
        axes = [np.linspace(lo, hi, number) for lo, hi in zip(self.low, self.high, strict=True)]
        places, expected = _crossed(axes), self._expected(axes, shift)
        true = self.true(place)
        slopes = None if true is None else self._slopes(place, true, STEP * span, self.high, False)
        inside = places[expected <= 0.97]
        if true is not None and slopes is not None:  # a valley runs where its own slopes say, not the far ones
            near = place + _VALLEY * span * _crossed([np.linspace(-1.0, 1.0, 31)] * len(place))
            near = near[((near >= self.low) & (near <= self.high)).all(axis=1)]
            away = self._away(true + (near - place) @ slopes)
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
                there = self.true(to, None, _NOTHING if slopes is None else true + (to - place) @ slopes)
                if there is not None and self._distance(there) <= 1.0:
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
                expected = self._at(to)
                true = self.true(to, None, expected + off)
                if true is None or self._distance(true) > 1.0:
                    stride /= _TWO
                    continue
                at, off = to, true - expected
                found.append(at)
        return found
