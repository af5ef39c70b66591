"""What is compared a thousand times for one page: vectors of two faults together, and how far they read from another
machine. Compiled.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.space import AT

_LIQUID_SATURATION, _LIQUID_LINE = AT["liquid_saturation"], AT["liquid_line"]
_SUCTION_SATURATION, _SUCTION_LINE = AT["suction_saturation"], AT["suction_line"]


@njit(cache=True, error_model="numpy")
def _along(table: np.ndarray, places: np.ndarray) -> np.ndarray:
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
def pair_vectors(
    a: np.ndarray,
    depths_a: np.ndarray,
    solved_a: tuple[float, float],
    places_a: np.ndarray,
    b: np.ndarray,
    depths_b: np.ndarray,
    solved_b: tuple[float, float],
    places_b: np.ndarray,
    missed: np.ndarray,
) -> np.ndarray:
    """Vectors (m_a * m_b, N) of two faults together at every crossing of ``places_a`` and ``places_b``.

    ``a`` (n, N) and ``b`` are what each does alone, from the machine with nothing wrong on; ``depths_a`` (n, 1) and
    ``solved_a`` how deep each is and the depths they were solved together at; ``missed`` (3, 3, N) what adding up
    misses there. Effects add up, but a line cannot be filled below empty nor boil past dry.
    """
    alone_a, alone_b = _along(a, places_a), _along(b, places_b)
    deep_a, deep_b = _along(depths_a, places_a), _along(depths_b, places_b)
    sound = a[0]
    normal = min(sound[_LIQUID_SATURATION] - sound[_LIQUID_LINE], 0.0)
    size = a.shape[1]
    found = np.empty((len(places_a) * len(places_b), size))
    row = 0
    for i in range(len(places_a)):
        one = _weights(deep_a[i, 0], solved_a[0], solved_a[1])
        for j in range(len(places_b)):
            two = _weights(deep_b[j, 0], solved_b[0], solved_b[1])
            y = found[row]
            for k in range(size):
                y[k] = alone_a[i, k] + alone_b[j, k] - sound[k]
            short = min(y[_LIQUID_SATURATION] - y[_LIQUID_LINE], 0.0) - normal
            y[_LIQUID_LINE] += min(short, 0.0)
            y[_SUCTION_LINE] -= min(y[_SUCTION_LINE] - y[_SUCTION_SATURATION], 0.0)
            for p in range(3):
                for q in range(3):
                    weight = one[p] * two[q]
                    if weight != 0.0:
                        for k in range(size):
                            y[k] += weight * missed[p, q, k]
            row += 1
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
    n, size, k = len(vectors), weights.shape[0], weights.shape[1]
    found = np.zeros((n, k))
    for e in range(size):
        for j in range(k):
            weight = weights[e, j]
            if weight != 0.0:
                for i in range(n):
                    found[i, j] += weight * vectors[i, e]
    for p in range(len(columns)):
        j, scale_f, scale_pa = columns[p], grids_f[p], grids_pa[p]
        last = len(scale_f) - 1
        for i in range(n):
            value = found[i, j]
            if value <= scale_f[0]:
                pa = scale_pa[0]
            elif value >= scale_f[last]:
                pa = scale_pa[last]
            else:
                at = np.searchsorted(scale_f, value) - 1
                share = (value - scale_f[at]) / (scale_f[at + 1] - scale_f[at])
                pa = scale_pa[at] + share * (scale_pa[at + 1] - scale_pa[at])
            found[i, j] = (pa - barometer_pa) / PA_PER_PSI
    return found


@njit(cache=True, error_model="numpy")
def apart(readings: np.ndarray, own: np.ndarray, tolerances: np.ndarray) -> np.ndarray:
    """Distances (n,) of readings (n, k) from the nearer of ``own`` (2, 1, k): the largest difference in units of what
    an honest one may be off, ``tolerances`` (k,).
    """
    n, k = readings.shape
    found = np.empty(n)
    for i in range(n):
        nearest = np.inf
        for o in range(2):
            worst = 0.0
            for j in range(k):
                worst = max(worst, abs(readings[i, j] - own[o, 0, j]) / tolerances[j])
            nearest = min(nearest, worst)
        found[i] = nearest
    return found
