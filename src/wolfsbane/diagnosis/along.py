"""A whole family, mild to worst, solved in one go. Compiled."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.compiling import njit
from wolfsbane.diagnosis.short_way import CUT_OUT, UNUSUAL, vector_planted
from wolfsbane.diagnosis.space import N

if TYPE_CHECKING:
    from collections.abc import Sequence

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
) -> tuple[int, bool]:
    """Fill ``found`` (n, N) with the vectors of one fault at severities ``numbers`` (n,), each search begun further on
    the way it went from the last but one to the last. Returns how many there are, and whether only the whole solve can
    tell of the next.
    """
    both, last, before = (places, lines, places, lines), x.copy(), x.copy()
    for i in range(len(numbers)):
        start = last.copy()
        if i > 1:
            start += (last - before) * ((numbers[i] - numbers[i - 1]) / (numbers[i - 1] - numbers[i - 2]))
        came_to = vector_planted(found[i], start, slopes, 1, numbers[i], 0.0, both, ground)
        if came_to == UNUSUAL:
            return i, True
        if came_to == CUT_OUT:
            return i, False
        before, last = last, start
    return len(numbers), False


def vectors_along(ground: Ground, fault_id: str, numbers: Sequence[float]) -> tuple[np.ndarray, bool]:
    """(vectors (m, N) of a family at severities, as many as there are; whether those after them have to be asked for
    one by one: the machine is not of the usual kind there, where it is it cuts out).
    """
    lines, start = ground.lines_of(fault_id), ground.fault_free_start
    if lines is None or start is None:
        return np.empty((0, N)), True
    found = np.empty((len(numbers), N))
    number, more = _along(
        found,
        np.array(numbers),
        start.x.copy(),
        start.slopes.copy(),
        lines.places,
        lines.lines,
        ground.parts(lines.refrigerant),
    )
    return found[:number], more
