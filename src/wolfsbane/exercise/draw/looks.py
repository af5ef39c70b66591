"""Looks that a page carries beside those its proof needs, so that what was looked at does not say what is wrong.

Every page has about as many results as every other. Those that are added came out as on a machine with nothing wrong,
and are drawn as if the proof of another family had asked for them.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import fault_kind, faults_for
from wolfsbane.cycle.field_tests import FIELD_TESTS, tests_for
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.proof import STATED
from wolfsbane.diagnosis.rivals import words

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: results on a page, where so many came out as usual
RESULTS = 4
#: tests that take hours, or tell what a figure says already
_NOT_IDLE = ("run_on", "shell", "static_pressure", "amps", "supply_traverse", "mixed_air", "standing_pressure")


def with_idle_looks(
    cases: SolvedCases, faults: tuple[Fault, ...], tests: tuple[str, ...], rng: random.Random
) -> tuple[str, ...]:
    """``tests`` with others up to :data:`RESULTS`, in the order of the catalog: a tuple of test ids."""
    idle = list(_idle(cases.machine))
    rng.shuffle(idle)
    chosen = list(tests)
    for option in idle:
        if len(chosen) >= RESULTS:
            break
        if option not in chosen and words(cases, option, faults) == words(cases, option, ()):
            chosen.append(option)
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
