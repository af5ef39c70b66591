"""A few linear equations with as many unknowns, by elimination with pivoting. Compiled."""

from __future__ import annotations

import numpy as np

from wolfsbane.cycle.compiling import njit


@njit(cache=True, error_model="numpy")
def eliminated(a: np.ndarray) -> np.ndarray:
    """The solution (n,) of n equations ``a`` (n, n + 1), right sides last; ``a`` is used up. Not finite where they have
    none.
    """
    n = len(a)
    for k in range(n):
        pivot = k
        for i in range(k + 1, n):
            if abs(a[i, k]) > abs(a[pivot, k]):
                pivot = i
        for j in range(n + 1):
            a[k, j], a[pivot, j] = a[pivot, j], a[k, j]
        for i in range(k + 1, n):
            factor = a[i, k] / a[k, k]
            for j in range(k, n + 1):
                a[i, j] -= factor * a[k, j]
    found = np.empty(n)
    for k in range(n - 1, -1, -1):
        found[k] = a[k, n]
        for j in range(k + 1, n):
            found[k] -= a[k, j] * found[j]
        found[k] /= a[k, k]
    return found
