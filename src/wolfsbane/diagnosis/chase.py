"""A hunt that solves as it goes: it follows what is expected, corrected by every solve, and then slopes solved on the
spot. Compiled.

What is expected, and how far it reads from what was planted, is as in :mod:`wolfsbane.diagnosis.hunting`. What is true
is solved, as :func:`~wolfsbane.diagnosis.short_way.vector_planted` has it, beginning at ``x`` (3,) with ``slopes``
(3, 3), which are left where it ends.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.properties import H_G, T_BUBBLE, T_DEW, enthalpy_at_temperature, ln_p_of, saturation_at
from wolfsbane.diagnosis.compared import Expects, Reads, crossed_vectors, distances
from wolfsbane.diagnosis.hunting import around, least_step
from wolfsbane.diagnosis.short_way import CUT_OUT, SHOWN, UNUSUAL, Lines, Parts, vector_planted
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.weather_off import in_air_off

if TYPE_CHECKING:
    from wolfsbane.cycle.properties import PropertyArrays

#: severities of each of two faults, (n,) and (m,)
Severities = tuple[np.ndarray, np.ndarray]
#: given up where no place around the first solve, or around a later one, is expected nearer than this; and not gone on
#: with once this near
HOPELESS, NEAR_ENOUGH = (4.0, 2.2), 0.05
#: how far slopes are trusted, as a share of the range: as far again while a step leaves less than this share of the
#: distance, else less far, in so many rounds at most
TRUSTED, GAINS, ROUNDS = (0.12, 0.06, 0.03, 0.015, 0.008), 0.9, 14
#: how much farther than a severity the air is trusted
AIR_TRUSTED = 6.0
#: the step a slope is solved over, as a share of the range, never more than a third of the way it is trusted
STEP = 0.02
#: how far around a place is looked, as a share of the range, one solve after the other, and at which shares of that
WIDTHS, AROUND = (0.25, 0.14, 0.08, 0.05, 0.03, 0.015), np.linspace(-1.0, 1.0, 9)
#: an outlet so much warmer than its dew point is dry, K
_DRY_K = 0.05
_OUTLET, _COIL, _BEND = AT["evaporator_outlet"], AT["coil_saturation"], AT["condenser_bend"]


@njit(cache=True, error_model="numpy")
def severity_at(place: float, severities: np.ndarray) -> float:
    """Severity at a fractional place among severities (n,), to two decimals."""
    low = min(max(int(place), 0), len(severities) - 2)
    share = min(max(place - low, 0.0), 1.0)
    return np.floor((severities[low] + share * (severities[low + 1] - severities[low])) * 100.0 + 0.5) / 100.0


@njit(cache=True, error_model="numpy")
def _begin_at(expected: np.ndarray, tab: PropertyArrays, x: np.ndarray) -> None:
    """Fill ``x`` (3,) with the balance that an expected vector (N,) tells of; where the coil's outlet is wet, its
    enthalpy stays as far from the dew point as it was.
    """
    outlet_k = (expected[_OUTLET] - 32.0) / 1.8 + 273.15
    bend_k = (expected[_BEND] - 32.0) / 1.8 + 273.15
    above = x[2] - saturation_at(tab, H_G, x[0])
    x[0] = ln_p_of(tab, T_DEW, (expected[_COIL] - 32.0) / 1.8 + 273.15)
    x[1] = ln_p_of(tab, T_BUBBLE, bend_k)
    x[1] = ln_p_of(tab, T_BUBBLE, bend_k - 0.5 * (saturation_at(tab, T_DEW, x[1]) - bend_k))
    x[2] = saturation_at(tab, H_G, x[0]) + min(above, 0.0)
    if outlet_k > saturation_at(tab, T_DEW, x[0]) + _DRY_K:
        x[2] = enthalpy_at_temperature(tab, x[0], outlet_k)


@njit(cache=True, error_model="numpy")
def vector_at(
    y: np.ndarray,
    expected: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    place: np.ndarray,
    severities: Severities,
    lines: Lines,
    ground: Parts,
) -> int:
    """:func:`~wolfsbane.diagnosis.short_way.vector_planted` at a place (d,), begun at what is ``expected`` there (N,),
    or where that is empty at ``x``. Where the machine cuts out, ``x`` and ``slopes`` stay as they were.
    """
    d = len(place)
    a = severity_at(place[0], severities[0])
    b = severity_at(place[1], severities[1]) if d > 1 else 0.0
    start, carried = x.copy(), slopes.copy()
    if len(expected) > 0:
        _begin_at(expected, ground[7][0], start)
    came_to = vector_planted(y, start, carried, d, a, b, lines, ground)
    if came_to == SHOWN:
        x[:], slopes[:] = start, carried
    return came_to


@njit(cache=True, error_model="numpy")
def _there(
    y: np.ndarray,
    expected: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    place: np.ndarray,
    moved: np.ndarray,
    severities: Severities,
    lines: Lines,
    ground: Parts,
    air: np.ndarray,
) -> int:
    """:func:`vector_at` with the ``air`` of the ground off by shares ``moved`` (3,), or (0,) where it is not."""
    if len(moved) > 0 and np.any(moved != 0.0):
        return vector_at(y, expected, x, slopes, place, severities, lines, in_air_off(ground, air, moved))
    return vector_at(y, expected, x, slopes, place, severities, lines, ground)


@njit(cache=True, error_model="numpy")
def follow(
    place: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    severities: Severities,
    lines: Lines,
    ground: Parts,
    air: np.ndarray,
    airs: np.ndarray,
    blows: np.ndarray,
    expects: Expects,
    reads: Reads,
) -> tuple[int, float, np.ndarray, np.ndarray, np.ndarray]:
    """(what it came to, distance, place (d,), what the expectation got wrong there (N,), shares the air is off (3,)) of
    the nearest from a start on between ``low`` and ``high`` (d,): a solve says what is wrong with what is expected,
    that where to look next. The ``air`` of the ground may be off by any of the shares ``airs`` (k, 3), of which each
    changes a vector by ``blows`` (k, N); the first of them is none.
    """
    at, size = place.copy(), expects[0].shape[1]
    y = np.empty((1, size))
    shift, off = np.zeros(size), 0
    best, best_place, best_shift, best_off, again = np.inf, at.copy(), np.zeros(size), 0, False
    for tried in range(len(WIDTHS)):
        width = WIDTHS[tried]
        if not again:
            across = at[1:2] if len(at) > 1 else at[:1]
            expected = crossed_vectors(expects, at[:1], across)[0] + blows[off]
            came_to = _there(y[0], expected + shift, x, slopes, at, airs[off], severities, lines, ground, air)
            if came_to == UNUSUAL:
                return UNUSUAL, best, best_place, best_shift, airs[best_off]
            if came_to == CUT_OUT:
                at = low + 0.8 * (at - low)
                continue
            shift = y[0] - expected
        distance = distances(y, reads)[0]
        if distance < best:
            best, best_place, best_shift, best_off = distance, at.copy(), shift.copy(), off
        if distance < NEAR_ENOUGH:
            break
        nearest, following, blown = around(at, low, high, width * AROUND, blows + shift, expects, reads)
        if nearest > HOPELESS[min(tried, 1)]:
            break
        again = blown == off
        for i in range(len(at)):
            again = again and abs(following[i] - at[i]) <= 1e-8 + 1e-5 * abs(at[i])
        if again:
            if width <= WIDTHS[2]:
                break
            continue
        at, off = following, blown
    return (SHOWN if best < np.inf else CUT_OUT), best, best_place, best_shift, airs[best_off]


@njit(cache=True, error_model="numpy")
def closer(
    place: np.ndarray,
    moved: np.ndarray,
    distance: float,
    low: np.ndarray,
    high: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    severities: Severities,
    lines: Lines,
    ground: Parts,
    air: np.ndarray,
    rounds: int,
    reads: Reads,
) -> tuple[int, float, np.ndarray, np.ndarray, np.ndarray]:
    """(what it came to, distance, place (d,), vector (N,), shares the air is off) of the nearest along slopes that are
    solved where a search ended, at ``place`` and ``distance``, with the air off by ``moved``: (3,) where it may move
    within -1 and 1, (0,) where it may not.
    """
    d, size, extra = len(place), reads[2].shape[0], len(moved)
    at, low, high = np.append(place, moved), np.append(low, -np.ones(extra)), np.append(high, np.ones(extra))
    span, n = high - low, d + extra
    true, found = np.empty((1, size)), np.empty((1, size))
    rates, known, nothing = np.empty((n, size)), False, np.empty(0)
    came_to = _there(true[0], nothing, x, slopes, at[:d], at[d:], severities, lines, ground, air)
    if came_to != SHOWN:
        return came_to, distance, at[:d], true[0], at[d:]
    trusted = 0
    for _ in range(rounds):
        if distance <= 1.0 or trusted >= len(TRUSTED):
            break
        width = TRUSTED[trusted]
        trusted += 1
        step = min(STEP, width / 3.0)
        if not known:
            for i in range(n):
                beside = at.copy()
                beside[i] += step * span[i] if at[i] + step * span[i] <= high[i] else -step * span[i]
                came_to = _there(found[0], true[0], x, slopes, beside[:d], beside[d:], severities, lines, ground, air)
                if came_to != SHOWN:
                    return (UNUSUAL if came_to == UNUSUAL else SHOWN), distance, at[:d], true[0], at[d:]
                rates[i] = (found[0] - true[0]) / (beside[i] - at[i])
            known = True
        wide = width * span
        wide[d:] *= AIR_TRUSTED
        following = at + least_step(true[0], rates, np.maximum(low - at, -wide), np.minimum(high - at, wide), reads)
        expected = true[0].copy()
        for i in range(n):
            expected += (following[i] - at[i]) * rates[i]
        came_to = _there(found[0], expected, x, slopes, following[:d], following[d:], severities, lines, ground, air)
        if came_to == UNUSUAL:
            return UNUSUAL, distance, at[:d], true[0], at[d:]
        if came_to == CUT_OUT:
            known = False
            continue
        nearer = distances(found, reads)[0]
        if nearer >= distance:
            known = False
            continue
        # The slopes are carried on by what the step showed (Broyden, 1965).
        step_there = (following - at) / span
        length = max(np.sum(step_there * step_there), 1e-12)
        for e in range(size):
            told = 0.0
            for i in range(n):
                told += step_there[i] * rates[i, e] * span[i]
            wrong = (found[0, e] - true[0, e] - told) / length
            for i in range(n):
                rates[i, e] += step_there[i] * wrong / span[i]
        trusted -= nearer < GAINS * distance
        at, distance = following, nearer
        true[0] = found[0]
    return SHOWN, distance, at[:d], true[0], at[d:]
