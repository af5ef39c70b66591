"""A whole family, mild to worst, solved in one go. Compiled."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.compiling import njit
from wolfsbane.diagnosis.short_way import CUT_OUT, UNUSUAL, vector_planted
from wolfsbane.diagnosis.space import N

if TYPE_CHECKING:
    from wolfsbane.diagnosis.short_way import Ground, Parts


@njit(cache=True, error_model="numpy")
def _along(
    found: np.ndarray,
    numbers: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    places: np.ndarray,
    lines: np.ndarray,
    ground: Parts,
) -> int:
    """Fill ``found`` (n, N) with the vectors of one fault at severities ``numbers`` (n,), each search begun further on
    the way it went from the last but one to the last. Returns how many there are before the machine cuts out, less than
    nought where it is not of the usual kind.
    """
    both, last, before = (places, lines, places, lines), x.copy(), x.copy()
    for i in range(len(numbers)):
        start = last.copy()
        if i > 1:
            start += (last - before) * ((numbers[i] - numbers[i - 1]) / (numbers[i - 1] - numbers[i - 2]))
        came_to = vector_planted(found[i], start, slopes, 1, numbers[i], 0.0, both, ground)
        if came_to == UNUSUAL:
            return -1
        if came_to == CUT_OUT:
            return i
        before, last = last, start
    return len(numbers)


def vectors_along(ground: Ground, fault_id: str, numbers: list[float]) -> np.ndarray | None:
    """Vectors (m, N) of a family at severities, as many as there are before the machine cuts out; None where only one
    after the other can be asked for.
    """
    lines = ground.lines_of(fault_id)
    if lines is None:
        return None
    start = ground.fault_free_start
    if start is None:
        return None
    found = np.empty((len(numbers), N))
    number = _along(
        found,
        np.array(numbers),
        start.x.copy(),
        start.slopes.copy(),
        lines.places,
        lines.lines,
        ground.parts(lines.refrigerant),
    )
    return None if number < 0 else found[:number]
