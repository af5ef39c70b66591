"""What a machine with faults shows, as a vector: by its state, or the short way."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, disturb, scale_of
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.short_way import NO_SLOPES, Start, UnusualError, ground_of
from wolfsbane.diagnosis.space import vector_of

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.short_way import Ground


def faulted_vector(machine: Machine, state: CircuitState, faults: tuple[Fault, ...]) -> np.ndarray:
    """Vector of a solved machine as its instruments show it; ``faults`` of machine and instruments mixed."""
    disturbed = tuple(f for f in faults if f.id in INSTRUMENT_FAULTS)
    taken = disturb(
        values(machine, state, tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)), machine, state, disturbed
    )
    return vector_of(machine, state, taken, scale_of(machine, disturbed))


#: solved states that are kept: a page is judged several times, with other looks and answers beside the same readings
_KEPT = 2000


@lru_cache(maxsize=_KEPT)
def _state(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState:
    return solve(machine, conditions, faults)


def state_of(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState:
    """The state with the machine's own faults among ``faults``; causes that act as their families do are one. Raises as
    :func:`wolfsbane.cycle.solver.solve` does.
    """
    own = tuple(f if acts(f) else replace(f, cause=None) for f in faults if f.id not in INSTRUMENT_FAULTS)
    return _state(machine, conditions, own)


def acts(fault: Fault) -> bool:
    """Whether a fault is told from others of its family by what its cause does to the machine."""
    if fault.cause is None:
        return True
    kind = FAULTS.get(fault.id)
    return kind is None or kind.cause(fault.cause).apply is not None


def solved(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState | None:
    """:func:`state_of`, or None where it finds no steady operating point or cuts out."""
    try:
        state = state_of(machine, conditions, faults)
    except NoConvergenceError:
        return None
    return None if state.trip is not None else state


def vector_at(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], start: Start | None = None
) -> tuple[np.ndarray | None, Start | None]:
    """(:func:`faulted_vector` of what :func:`solved` gives or None, where a neighbor may begin or None).

    Raises BadInputError for a fault the machine cannot have.
    """
    return vector_on(ground_of(machine, conditions), faults, start)


def vector_on(
    ground: Ground, faults: tuple[Fault, ...], start: Start | None = None
) -> tuple[np.ndarray | None, Start | None]:
    """:func:`vector_at` on a ground: the short way where the machine runs as any other does."""
    if not any(f.id in INSTRUMENT_FAULTS for f in faults):
        try:
            return ground.vector(faults, start)
        except UnusualError:
            pass
    state = solved(ground.machine, ground.conditions, faults)
    return (None, None) if state is None else (faulted_vector(ground.machine, state, faults), start_at(state))


def start_at(state: CircuitState) -> Start | None:
    """Where the search of a state's neighbor may begin."""
    return None if state.solution is None else Start(np.array(state.solution), NO_SLOPES)
