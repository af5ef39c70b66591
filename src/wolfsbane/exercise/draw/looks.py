"""Looks that a page carries beside those its proof needs, so that what was looked at does not say what is wrong.

A few looks are needed by most proofs that need any; they stand on almost every page where they came out as on a machine
with nothing wrong, one of the two that would part a dirty condenser from a weak fan among them. One more is drawn from
the whole catalog.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import fault_kind, faults_for
from wolfsbane.cycle.field_tests import FIELD_TESTS, tests_for
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.proof import STATED
from wolfsbane.diagnosis.words import words

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: looks that proofs need most, of each row one
USUAL = (("line_length",), ("condenser_entering_air",), ("condenser_fan", "condenser_coil"))
#: share of pages on which a usual look that is not needed was not taken either
_SKIPPED = 0.15
#: tests that take hours, or tell what a figure says already
_NOT_IDLE = ("run_on", "shell", "static_pressure", "amps", "supply_traverse", "mixed_air", "standing_pressure")


def with_idle_looks(
    cases: SolvedCases, faults: tuple[Fault, ...], tests: tuple[str, ...], rng: random.Random
) -> tuple[str, ...]:
    """``tests`` with the usual looks and one more, in the order of the catalog: a tuple of test ids."""

    def plain(option: str) -> bool:
        suits = FIELD_TESTS[option].suits(cases.machine)
        return suits and words(cases, option, faults) == words(cases, option, ())

    chosen = list(tests)
    for row in USUAL:
        options = [t for t in row if plain(t)]
        skipped, pick = rng.random() < _SKIPPED, rng.random()
        if options and not skipped and not set(row) & set(chosen):
            chosen.append(options[int(pick * len(options))])
    idle = list(_idle(cases.machine))
    rng.shuffle(idle)
    more = next((t for t in idle if t not in chosen and all(t not in row for row in USUAL) and plain(t)), None)
    chosen += [] if more is None else [more]
    return tuple(t.id for t in tests_for(cases.machine) if t.id in chosen)


@cache
def _idle(machine: Machine) -> tuple[str, ...]:
    """Looks and tests that part some family of this machine from its look-alike."""
    kinds = [k for k in faults_for(machine) if k.id not in NOT_ON_PAPER and k.id not in STATED]
    found = dict.fromkeys(
        t
        for k in kinds
        for one in (k.id, k.stands_for)
        if one
        for t in fault_kind(one).tests
        if t not in _NOT_IDLE and FIELD_TESTS[t].suits(machine)
    )
    return tuple(found)
