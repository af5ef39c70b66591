"""What is compared a thousand times for one page: vectors of two faults together, and how far they read from another
machine. Compiled.
"""

from __future__ import annotations

import numpy as np

from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.space import AT

_LIQUID_SATURATION, _LIQUID_LINE = AT["liquid_saturation"], AT["liquid_line"]
_SUCTION_SATURATION, _SUCTION_LINE = AT["suction_saturation"], AT["suction_line"]


#: what a fault or two are expected to show: ``a`` (n, N) and ``b`` (m, N), what each shows alone, from the machine with
#: nothing wrong on (``b`` is empty for one fault); ``depths_a`` (n, 1) and ``depths_b``, how deep each is; ``solved``
#: (4,), the depths they were solved together at, two of each; ``missed`` (3, 3, N), what adding up misses there
Expects = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]
#: how readings are told apart from those of one machine: the barometer, Pa; what is shown of it, as it is and as it is
#: printed, (2, 1, k); and the reader: its weights (N, k), pressure columns (p,), their scales in degrees F and in Pa
#: (p, points), and tolerances (k,)
Reads = tuple[float, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


@njit(cache=True, error_model="numpy")
def rows_at(table: np.ndarray, places: np.ndarray) -> np.ndarray:
    """Rows (m, N) of a table (n, N) at fractional ``places`` (m,), held at the ends."""
    last = len(table) - 1
    found = np.empty((len(places), table.shape[1]))
    for i in range(len(places)):
        place = min(max(places[i], 0.0), float(last))
        low = min(int(place), max(last - 1, 0))
        share = place - low
        for k in range(table.shape[1]):
            found[i, k] = table[low, k] * (1.0 - share) + table[min(low + 1, last), k] * share
    return found


@njit(cache=True, error_model="numpy")
def _weights(depth: float, first: float, second: float) -> tuple[float, float, float]:
    """Weights of straight lines between no fault and the two depths that were solved, held at the end."""
    beyond = min(max((depth - first) / (second - first), 0.0), 1.0)
    up_to = min(max(depth / first, 0.0), 1.0)
    return 1.0 - up_to, up_to - beyond, beyond


@njit(cache=True, error_model="numpy")
def _together(
    y: np.ndarray,
    a: np.ndarray,
    b: np.ndarray,
    sound: np.ndarray,
    one: tuple[float, float, float],
    two: tuple[float, float, float],
    missed: np.ndarray,
) -> None:
    """Fill ``y`` (N,) with what two faults show together of which each shows ``a`` and ``b`` (N,) alone."""
    size = len(y)
    normal = min(sound[_LIQUID_SATURATION] - sound[_LIQUID_LINE], 0.0)
    for k in range(size):
        y[k] = a[k] + b[k] - sound[k]
    short = min(y[_LIQUID_SATURATION] - y[_LIQUID_LINE], 0.0) - normal
    y[_LIQUID_LINE] += min(short, 0.0)
    y[_SUCTION_LINE] -= min(y[_SUCTION_LINE] - y[_SUCTION_SATURATION], 0.0)
    for p in range(3):
        for q in range(3):
            weight = one[p] * two[q]
            if weight != 0.0:
                for k in range(size):
                    y[k] += weight * missed[p, q, k]


@njit(cache=True, error_model="numpy")
def crossed_vectors(expects: Expects, places_a: np.ndarray, places_b: np.ndarray) -> np.ndarray:
    """Vectors (m_a * m_b, N) expected at every crossing of ``places_a`` of one fault and ``places_b`` of another; of
    one fault alone, whatever ``places_b`` (1,) is. Effects add up, but a line cannot be filled below empty nor boil
    past dry.
    """
    a, depths_a, b, depths_b, solved, missed = expects
    alone_a = rows_at(a, places_a)
    if len(b) == 0:
        return alone_a
    alone_b = rows_at(b, places_b)
    deep_a, deep_b = rows_at(depths_a, places_a), rows_at(depths_b, places_b)
    found = np.empty((len(places_a) * len(places_b), a.shape[1]))
    row = 0
    for i in range(len(places_a)):
        one = _weights(deep_a[i, 0], solved[0], solved[1])
        for j in range(len(places_b)):
            two = _weights(deep_b[j, 0], solved[2], solved[3])
            _together(found[row], alone_a[i], alone_b[j], a[0], one, two, missed)
            row += 1
    return found


@njit(cache=True, error_model="numpy")
def _psi(value_f: float, scale_f: np.ndarray, scale_pa: np.ndarray, barometer_pa: float) -> float:
    """What a gauge shows, psi, where saturation is ``value_f``, degrees F, on the scale (points,)."""
    last = len(scale_f) - 1
    if value_f <= scale_f[0]:
        pa = scale_pa[0]
    elif value_f >= scale_f[last]:
        pa = scale_pa[last]
    else:
        at = np.searchsorted(scale_f, value_f) - 1
        share = (value_f - scale_f[at]) / (scale_f[at + 1] - scale_f[at])
        pa = scale_pa[at] + share * (scale_pa[at + 1] - scale_pa[at])
    return (pa - barometer_pa) / PA_PER_PSI


@njit(cache=True, error_model="numpy")
def _told_f(vectors: np.ndarray, weights: np.ndarray) -> np.ndarray:
    """Readings (n, k) of vectors (n, N), pressures still as saturation in degrees F."""
    n, size, k = len(vectors), weights.shape[0], weights.shape[1]
    found = np.zeros((n, k))
    for e in range(size):
        for j in range(k):
            weight = weights[e, j]
            if weight != 0.0:
                for i in range(n):
                    found[i, j] += weight * vectors[i, e]
    return found


@njit(cache=True, error_model="numpy")
def shown(
    vectors: np.ndarray,
    weights: np.ndarray,
    columns: np.ndarray,
    grids_f: np.ndarray,
    grids_pa: np.ndarray,
    barometer_pa: float,
) -> np.ndarray:
    """Readings (n, k) of vectors (n, N): ``weights`` (N, k) of the entries each shows; pressures stand in ``columns``
    (p,), each with its scale (p, points) of degrees F and Pa, and are told in psi.
    """
    found = _told_f(vectors, weights)
    for p in range(len(columns)):
        j, scale_f, scale_pa = columns[p], grids_f[p], grids_pa[p]
        for i in range(len(vectors)):
            found[i, j] = _psi(found[i, j], scale_f, scale_pa, barometer_pa)
    return found


@njit(cache=True, error_model="numpy")
def apart(readings: np.ndarray, own: np.ndarray, tolerances: np.ndarray) -> np.ndarray:
    """Distances (n,) of readings (n, k) from the nearer of ``own`` (2, 1, k): the largest difference in units of what
    an honest one may be off, ``tolerances`` (k,).
    """
    n, k = readings.shape
    found, shares = np.empty(n), 1.0 / tolerances
    for i in range(n):
        worst, other = 0.0, 0.0
        for j in range(k):
            worst = max(worst, abs(readings[i, j] - own[0, 0, j]) * shares[j])
            other = max(other, abs(readings[i, j] - own[1, 0, j]) * shares[j])
        found[i] = min(worst, other)
    return found


@njit(cache=True, error_model="numpy")
def distances(vectors: np.ndarray, reads: Reads) -> np.ndarray:
    """Distances (n,) of vectors (n, N): :func:`apart` of what is :func:`shown` of them."""
    barometer_pa, own, weights, columns, scales_f, scales_pa, tolerances = reads
    return apart(shown(vectors, weights, columns, scales_f, scales_pa, barometer_pa), own, tolerances)


@njit(cache=True, error_model="numpy")
def nearest(vectors: np.ndarray, moves: np.ndarray, allowed: np.ndarray, reads: Reads) -> tuple[float, int, int]:
    """(distance, row, row) of the nearest sum of one of ``vectors`` (n, N) that is ``allowed`` (n,) and one of
    ``moves`` (m, N), as :func:`distances` has it; infinite where none is allowed. A sum is given up at the first
    reading that leaves it farther than another; pressures, which take a look at their scale, are read last.
    """
    barometer_pa, own, weights, columns, scales_f, scales_pa, tolerances = reads
    told, moved = _told_f(vectors, weights), _told_f(moves, weights)
    k, pressures = told.shape[1], len(columns)
    shares, order = 1.0 / tolerances, np.empty(k, dtype=np.int64)
    scale_of = np.full(k, -1, dtype=np.int64)
    for p in range(pressures):
        scale_of[columns[p]] = p
    first, last = 0, k - pressures
    for j in range(k):
        if scale_of[j] < 0:
            order[first] = j
            first += 1
        else:
            order[last] = j
            last += 1
    best, row, move = np.inf, -1, -1
    for i in range(len(told)):
        if not allowed[i]:
            continue
        for m in range(len(moved)):
            worst, other, far = 0.0, 0.0, False
            for at in range(k):
                j = order[at]
                value = told[i, j] + moved[m, j]
                if scale_of[j] >= 0:
                    value = _psi(value, scales_f[scale_of[j]], scales_pa[scale_of[j]], barometer_pa)
                worst = max(worst, abs(value - own[0, 0, j]) * shares[j])
                other = max(other, abs(value - own[1, 0, j]) * shares[j])
                if worst >= best and other >= best:
                    far = True
                    break
            if not far:
                best, row, move = min(worst, other), i, m
    return best, row, move
