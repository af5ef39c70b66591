"""One explanation of what is read: the faults behind it, how bad they may be, and what each severity shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, overload

from wolfsbane.cycle.faults import NONE, Fault

if TYPE_CHECKING:
    import numpy as np


@dataclass(frozen=True)
class Severities(Sequence[tuple[Fault, ...]]):
    """Severities of one fault as tuples of it, made when they are asked for: most never are."""

    fault_id: str
    numbers: tuple[float, ...]
    cause: str | None = None

    def __len__(self) -> int:
        return len(self.numbers)

    @overload
    def __getitem__(self, at: int) -> tuple[Fault, ...]: ...

    @overload
    def __getitem__(self, at: slice) -> Severities: ...

    def __getitem__(self, at: int | slice) -> tuple[Fault, ...] | Severities:
        if isinstance(at, slice):
            return Severities(self.fault_id, self.numbers[at], self.cause)
        return (Fault(id=self.fault_id, severity=self.numbers[at], cause=self.cause),)


@dataclass(frozen=True)
class Crossed(Sequence[tuple[Fault, ...]]):
    """Severities of two faults together, the second one moving first, made when they are asked for."""

    a: Sequence[tuple[Fault, ...]]
    b: Sequence[tuple[Fault, ...]]

    def __len__(self) -> int:
        return len(self.a) * len(self.b)

    @overload
    def __getitem__(self, at: int) -> tuple[Fault, ...]: ...

    @overload
    def __getitem__(self, at: slice) -> list[tuple[Fault, ...]]: ...

    def __getitem__(self, at: int | slice) -> tuple[Fault, ...] | list[tuple[Fault, ...]]:
        if isinstance(at, slice):
            return [self[i] for i in range(*at.indices(len(self)))]
        i, j = divmod(range(len(self))[at], len(self.b))
        return self.a[i] + self.b[j]


@dataclass(frozen=True, kw_only=True)
class Family:
    """One explanation: ids of its faults, the vectors it can show (n, N),
    the severities behind them and their shares (n,).
    """

    ids: tuple[str, ...]
    vectors: np.ndarray
    severities: Sequence[tuple[Fault, ...]]
    shares: np.ndarray
    prior: float

    @property
    def id(self) -> str:
        """Ids joined in alphabetical order; ``none`` for a machine with nothing wrong."""
        return "+".join(sorted(self.ids)) or NONE
