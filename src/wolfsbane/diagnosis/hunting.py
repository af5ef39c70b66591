"""The steps of a hunt between two solves: where to begin, where to look next, and the step along slopes. Compiled.

What a fault or two show at a place is expected, as :func:`~wolfsbane.diagnosis.compared.crossed_vectors` has it; how
far that reads from what was planted is as :func:`~wolfsbane.diagnosis.compared.distances` has it.
"""

from __future__ import annotations

import numpy as np

from wolfsbane.cycle.compiling import njit
from wolfsbane.diagnosis.compared import Expects, Reads, apart, crossed_vectors, nearest, shown
from wolfsbane.diagnosis.least_largest import least_largest

#: up to so many severities at once steps are tried on a grid with so many lines each
_BY_GRID, _GRID = 2, 17
#: the step that a slope of what is shown is taken over
_SMALL = 0.05


@njit(cache=True, error_model="numpy")
def _line(low: float, high: float, number: int) -> np.ndarray:
    """``number`` places from ``low`` to ``high``."""
    found = np.empty(number)
    for i in range(number):
        found[i] = low + i * ((high - low) / (number - 1))
    found[number - 1] = high
    return found


@njit(cache=True, error_model="numpy")
def beginnings(
    low: np.ndarray,
    high: np.ndarray,
    number: int,
    far: float,
    expects: Expects,
    reads: Reads,
) -> tuple[float, np.ndarray, float, np.ndarray]:
    """(expected distance, place (d,)) of the best of ``number`` places along each range (``low`` to ``high``, (d,)),
    and of the best farther from it than the share ``far`` of a range: infinite where there is none.
    """
    d = len(low)
    along, across = _line(low[0], high[0], number), _line(low[d - 1], high[d - 1], number if d > 1 else 1)
    vectors = crossed_vectors(expects, along, across)
    still, allowed = np.zeros((1, vectors.shape[1])), np.ones(len(vectors), dtype=np.bool_)
    near, first, _ = nearest(vectors, still, allowed, reads)
    i, j = first // len(across), first % len(across)
    for at in range(len(vectors)):
        k, m = at // len(across), at % len(across)
        off = abs(along[k] - along[i]) / (high[0] - low[0])
        if d > 1:
            off = max(off, abs(across[m] - across[j]) / (high[1] - low[1]))
        allowed[at] = off > far
    further, second, _ = nearest(vectors, still, allowed, reads)
    best, other = np.empty(d), np.empty(d)
    best[0] = along[i]
    other[0] = along[max(second, 0) // len(across)]
    if d > 1:
        best[1], other[1] = across[j], across[max(second, 0) % len(across)]
    return near, best, further, other


#: all pairs of a ground as compiled code takes them: what each of c families shows alone, (c, n, N), and how deep it
#: is, (c, n, 1), of which only so many severities (c,) are its own; the two families of each pair (p, 2), the depths
#: they were solved together at (p, 4) and what adding up misses there (p, 3, 3, N)
Pairs = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


@njit(cache=True, error_model="numpy")
def beginnings_of_pairs(
    asked: np.ndarray, lows: np.ndarray, number: int, far: float, pairs: Pairs, reads: Reads
) -> tuple[np.ndarray, np.ndarray]:
    """:func:`beginnings` of every pair of a ground that is ``asked`` for (p,): (expected distances (p, 2), places
    (p, 2, 2)) of the best and of the best far from it. Families go from ``lows`` (c,) on; where that is nan, or there
    is nothing beyond it, a pair has no place and is infinitely far.
    """
    alone, depths, lengths, of, solved, missed = pairs
    expected, places = np.full((len(of), 2), np.inf), np.zeros((len(of), 2, 2))
    low, high = np.empty(2), np.empty(2)
    for p in range(len(of)):
        a, b = of[p, 0], of[p, 1]
        low[0], low[1] = lows[a], lows[b]
        high[0], high[1] = lengths[a] - 1.0, lengths[b] - 1.0
        if not (asked[p] and low[0] < high[0] and low[1] < high[1]):
            continue
        expects = (
            alone[a, : lengths[a]],
            depths[a, : lengths[a]],
            alone[b, : lengths[b]],
            depths[b, : lengths[b]],
            solved[p],
            missed[p],
        )
        near, first, further, second = beginnings(low, high, number, far, expects, reads)
        expected[p, 0], expected[p, 1] = near, further
        places[p, 0], places[p, 1] = first, second
    return expected, places


@njit(cache=True, error_model="numpy")
def around(
    place: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    steps: np.ndarray,
    moves: np.ndarray,
    expects: Expects,
    reads: Reads,
) -> tuple[float, np.ndarray, int]:
    """(expected distance, place (d,), row of ``moves``) of the best place around one: ``steps`` (m,) shares of each
    range (``low`` to ``high``, (d,)) away, with each of ``moves`` (k, N) added to what is expected. No place (d = 0) is
    the one vector expected.
    """
    d, m = len(place), len(steps)
    along, across = np.zeros(1), np.zeros(1)
    if d > 0:
        along = np.minimum(np.maximum(place[0] + (high[0] - low[0]) * steps, low[0]), high[0])
    if d > 1:
        across = np.minimum(np.maximum(place[1] + (high[1] - low[1]) * steps, low[1]), high[1])
    expected = crossed_vectors(expects, along, across)
    allowed = np.ones(len(expected), dtype=np.bool_)
    distance, at, move = nearest(expected, moves, allowed, reads)
    found = np.empty(d)
    if d == 1:
        found[0] = along[at]
    elif d > 1:
        found[0], found[1] = along[at // m], across[at % m]
    return distance, found, move


@njit(cache=True, error_model="numpy")
def least_step(
    true: np.ndarray,
    slopes: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    reads: Reads,
) -> np.ndarray:
    """The step (d,) within ``low`` and ``high`` (d,) that brings a vector ``true`` (N,) with ``slopes`` (d, N) nearest,
    the largest difference of a reading counting: looked up where there are few severities, searched for otherwise.
    """
    barometer_pa, own, weights, columns, scales_f, scales_pa, tolerances = reads
    d = len(slopes)
    vectors = np.empty((d + 1, len(true)))
    vectors[0] = true
    for i in range(d):
        vectors[i + 1] = true + _SMALL * slopes[i]
    there = shown(vectors, weights, columns, scales_f, scales_pa, barometer_pa)
    k = there.shape[1]
    rates = np.empty((d, k))
    for i in range(d):
        rates[i] = (there[i + 1] - there[0]) / _SMALL
    if d <= _BY_GRID:
        lines = [_line(low[i], high[i], _GRID) for i in range(d)]
        count = _GRID**d
        steps = np.empty((count, d))
        for at in range(count):
            rest = at
            for i in range(d - 1, -1, -1):
                steps[at, i] = lines[i][rest % _GRID]
                rest //= _GRID
    else:
        steps = np.empty((len(own), d))
        scaled = np.empty((k, d))
        for i in range(d):
            scaled[:, i] = rates[i] / tolerances
        for o in range(len(own)):
            steps[o] = least_largest(scaled, (own[o, 0] - there[0]) / tolerances, low, high)
    told = np.empty((len(steps), k))
    for at in range(len(steps)):
        for j in range(k):
            told[at, j] = there[0, j]
            for i in range(d):
                told[at, j] += steps[at, i] * rates[i, j]
    return steps[int(np.argmin(apart(told, own, tolerances)))]
