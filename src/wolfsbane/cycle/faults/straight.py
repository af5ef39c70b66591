"""What a severity does to the figures of a circuit, as straight lines: for searches that plant in compiled code.

Every family so far takes some figures of a circuit and makes of each a straight line of it, the lines' ends straight
lines of the severity. That is found out here from what the family itself does, and checked; a family that does
otherwise is planted the long way.
"""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.faults import fault_kind, faults_for, planter
from wolfsbane.cycle.machine import Circuit

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.cycle.machine import Machine

#: how near they have to come, and the shares of the way from no fault to the worst at which they are checked
_ALIKE, _CHECKED = 1e-12, (0.13, 0.81)


class Straight(NamedTuple):
    """Places of figures in a :class:`~wolfsbane.cycle.machine.Circuit`, (k,), and the lines of each, (k, 4): at a
    severity s a figure x becomes x (m0 + m1 s) + k0 + k1 s. Not beside the families ``not_beside``, which change what
    the lines come from. ``refrigerant`` is what comes with it, None for the machine's own.
    """

    places: np.ndarray
    lines: np.ndarray
    not_beside: frozenset[str]
    refrigerant: str | None


@lru_cache(maxsize=2000)
def straight(machine: Machine, fault_id: str) -> Straight | None:
    """The :class:`Straight` of a family by its first cause, None where a circuit alone does not tell: on a machine with
    two circuits or one that heats, or where lines are not straight.
    """
    found = planter(machine, fault_id)
    if found is None:
        return None
    (apply, refrigerant), kind, own = found, fault_kind(fault_id).on(machine), machine.circuit
    ends = (kind.fault_free, kind.limit)
    changed = [i for i, (a, b) in enumerate(zip(own, apply(own, ends[1]), strict=True)) if a != b]
    lines = np.array([_line(apply, own, i, ends) for i in changed]).reshape(-1, 4)
    told = Straight(np.array(changed, dtype=np.int64), lines, frozenset(), refrigerant)

    def holds(circuit: Circuit, share: float) -> bool:
        severity = ends[0] + share * (ends[1] - ends[0])
        rows = zip(apply(circuit, severity), by_lines(circuit, told, severity), strict=True)
        return all(a == b or abs(a - b) <= _ALIKE * abs(a) for a, b in rows)

    if not all(holds(own, share) for share in _CHECKED):
        return None
    others = [k for k in faults_for(machine) if k.id != fault_id and not k.second_circuit]
    return told._replace(not_beside=frozenset(k.id for k in others if not holds(k.apply(own, k.limit), _CHECKED[0])))


def _line(
    apply: Callable[[Circuit, float], Circuit], circuit: Circuit, i: int, ends: tuple[float, float]
) -> tuple[float, float, float, float]:
    """(m0, m1, k0, k1) of one figure, from what becomes of it and of another in its place at two severities."""
    name = Circuit._fields[i]
    one = circuit[i]
    two = 2.0 * one if one else 1.0
    rows = []
    for severity in ends:
        a, b = (apply(circuit._replace(**{name: x}), severity)[i] for x in (one, two))
        slope = (b - a) / (two - one)
        rows.append((slope, a - slope * one))
    (m_low, k_low), (m_high, k_high) = rows
    span = ends[1] - ends[0]
    m1, k1 = (m_high - m_low) / span, (k_high - k_low) / span
    return m_low - m1 * ends[0], m1, k_low - k1 * ends[0], k1


def by_lines(circuit: Circuit, lines: Straight, severity: float) -> Circuit:
    """The circuit with a severity planted by its lines."""
    values = list(circuit)
    for i, (m0, m1, k0, k1) in zip(lines.places.tolist(), lines.lines.tolist(), strict=True):
        values[i] = values[i] * (m0 + m1 * severity) + k0 + k1 * severity
    return Circuit._make(values)
