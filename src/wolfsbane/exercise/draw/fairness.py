"""What is never issued though its proof holds: keys that a page does not lead to."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.diagnosis.patterns import figures_of_vectors
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL, charged_by, judged
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.diagnosis.words import words

if TYPE_CHECKING:
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: faults of the charge, told by the figure that a machine is charged by
_OF_CHARGE = ("undercharge", "overcharge", "long_liquid_line")
#: faults that one weak figure does not prove, and the tests that do
_NEED_PROOF = {
    "leaking_compressor_valves": ("pump_down",),
    "reversing_valve_leak": ("reversing_valve_step", "pump_down"),
}
#: a figure that moves by less than this is not moved, degrees F
_MOVED_F = 1.0
_SIGN = {LOW: -1.0, NORMAL: 0.0, HIGH: 1.0}


def unfair(
    cases: SolvedCases,
    state: CircuitState,
    faults: tuple[Fault, ...],
    verdicts: list[set[str]],
    tests: tuple[str, ...],
) -> tuple[str, str, tuple[str, ...]] | None:
    """(code, fault id, tests that would help) of what makes a proved machine unfair on paper, or None.

    ``verdicts`` are, figure by figure in the order of ``judged`` and then the drier drop, all an examiner would accept.
    ``hides``: a fault of several shows in no figure that is off its own way and in no look or test given.
    ``on_target``: every figure can be called normal. ``points_away``: the figure that tells a fault of the charge is
    off the other way. ``unproved``: a fault that wants a test to prove it moves one figure, and none is given.
    """
    if not faults:
        return None
    if all(NORMAL in accepted for accepted in verdicts):
        return "on_target", faults[0].id, ()
    off = [next(iter(v)) if len(v) == 1 else NORMAL for v in verdicts]
    signs = np.array([_SIGN[v] for v in off])
    here = _figures(cases, faulted_vector(cases.machine, state, faults))
    fault_free = _figures(cases, cases.fault_free_vector)
    for fault in faults:
        others = tuple(f for f in faults if f is not fault)
        alone_state = solved(cases.machine, cases.conditions, (fault,))
        if alone_state is None:
            continue
        alone = _figures(cases, faulted_vector(cases.machine, alone_state, (fault,))) - fault_free
        if fault.id in _OF_CHARGE:
            told_by = charged_by(cases.machine)
            for i in (1,) if told_by is None else (judged(cases.machine).index(told_by), 1):
                if abs(alone[i]) >= _MOVED_F and signs[i] * alone[i] < 0:
                    return "points_away", fault.id, ()
        if others and not _shows(cases, faults, others, here, alone, signs, tests):
            return "hides", fault.id, ()
        proof = [t for t in _NEED_PROOF.get(fault.id, ()) if t in FIELD_TESTS and FIELD_TESTS[t].suits(cases.machine)]
        if proof and np.count_nonzero(signs) < 2 and not _told(cases, faults, others, tests):
            return "unproved", fault.id, (proof[0],)
    return None


def _figures(cases: SolvedCases, vector: np.ndarray) -> np.ndarray:
    """The judged figures of a vector and its drier drop, degrees F, (5,)."""
    return np.array(
        [*figures_of_vectors(vector[None], cases.conditions, cases.machine)[:, 0], vector[AT["drier_drop"]]]
    )


def _shows(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    others: tuple[Fault, ...],
    here: np.ndarray,
    alone: np.ndarray,
    signs: np.ndarray,
    tests: tuple[str, ...],
) -> bool:
    """Whether one of several faults shows: a figure off the way this fault moves it, or a look or test given."""
    without = solved(cases.machine, cases.conditions, others)
    if without is None:
        return True
    moved = here - _figures(cases, faulted_vector(cases.machine, without, others))
    own_way = (np.abs(alone) >= _MOVED_F) & (signs * alone > 0) & (moved * alone > 0) & (np.abs(moved) >= _MOVED_F)
    return bool(own_way.any()) or _told(cases, faults, others, tests)


def _told(cases: SolvedCases, faults: tuple[Fault, ...], others: tuple[Fault, ...], tests: tuple[str, ...]) -> bool:
    """Whether a given look or test answers otherwise than it would without the fault."""
    return any(not words(cases, t, faults) & words(cases, t, others) for t in tests)
