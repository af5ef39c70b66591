"""What one family shows over its severities, with straight lines between those that were solved."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import floor
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.diagnosis.compared import rows_at
from wolfsbane.diagnosis.space import N

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.diagnosis.compared import Expects


def alone(vectors: np.ndarray) -> Expects:
    """Vectors (n, N) of one fault as :data:`~wolfsbane.diagnosis.compared.Expects`, without another."""
    none = np.zeros((0, 1))
    return vectors, none, np.zeros((0, N)), none, np.zeros(4), np.zeros((3, 3, N))


@dataclass(frozen=True, kw_only=True)
class Curve:
    """One family from the machine with nothing wrong on: severities (n,) and vectors (n, N), with straight lines
    between them. ``kind`` has the levels of this machine.
    """

    kind: FaultKind
    severities: np.ndarray
    vectors: np.ndarray

    @property
    def id(self) -> str:
        """The family's id."""
        return self.kind.id

    @property
    def ends(self) -> tuple[float, float]:
        """Its first severity, with nothing wrong, and the worst one at which the machine was solved."""
        return self._severities[0], self._severities[-1]

    @cached_property
    def depths(self) -> np.ndarray:
        """Every severity as a share of the way to the mild level, (n,)."""
        kind = self.kind
        return (self.severities - kind.fault_free) / (kind.mild - kind.fault_free)

    def at(self, places: np.ndarray) -> np.ndarray:
        """Vectors (m, N) at fractional ``places`` (m,), held at the ends."""
        return rows_at(self.vectors, places)

    @cached_property
    def parts(self) -> Expects:
        """What it shows alone, in the order compiled code takes it."""
        return alone(self.vectors)

    def severity(self, place: float) -> float:
        """Severity at a fractional place, to two decimals as :func:`wolfsbane.diagnosis.chase.severity_at` has it."""
        rows = self._severities
        low = min(max(int(place), 0), len(rows) - 2)
        share = min(max(place - low, 0.0), 1.0)
        return floor((rows[low] + share * (rows[low + 1] - rows[low])) * 100.0 + 0.5) / 100.0

    @cached_property
    def _severities(self) -> list[float]:
        """Plain numbers: a look-up costs less than a call of numpy."""
        found: list[float] = self.severities.tolist()
        return found

    def place_at(self, severity: float) -> float:
        """Fractional place of a severity, held at the ends."""
        places, severities = np.arange(len(self.severities)), self.severities
        if severities[0] > severities[-1]:
            places, severities = places[::-1], severities[::-1]
        return float(np.interp(severity, severities, places))

    def place_of(self, depth: float) -> float | None:
        """Fractional place of a share of the way to the mild level, or None where the family does not run so far."""
        kind = self.kind
        if float(self.depths[-1]) <= depth:
            return None
        return self.place_at(kind.fault_free + depth * (kind.mild - kind.fault_free))
