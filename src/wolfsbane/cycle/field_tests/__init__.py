"""Tests an apprentice can ask for on one machine, each answered by the solved model or by an honest look.

``ask(machine, conditions, faults, "pump_down")`` gives an :class:`Answer`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import looks, running, valve, vessel
from wolfsbane.cycle.field_tests.kind import Answer, Asked, FieldTest
from wolfsbane.cycle.solver import solve

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

__all__ = ["FIELD_TESTS", "Answer", "FieldTest", "ask", "tests_for"]

FIELD_TESTS = {test.id: test for test in (*running.TESTS, *valve.TESTS, *vessel.TESTS, *looks.TESTS)}


def tests_for(machine: Machine) -> list[FieldTest]:
    """The tests that can be asked for on ``machine``."""
    return [test for test in FIELD_TESTS.values() if test.suits(machine)]


def ask(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], test_id: str, system: str = "us"
) -> Answer:
    """The :class:`Answer` of one test, its sentence in the units of ``system``.

    Raises BadInputError for a test that is unknown or has no place on this machine.
    """
    test = FIELD_TESTS.get(test_id)
    if test is None:
        raise BadInputError("test", test_id, ", ".join(FIELD_TESTS))
    if not test.suits(machine):
        raise BadInputError(
            "test", test_id, f"one that {machine.id} allows: " + ", ".join(t.id for t in tests_for(machine))
        )
    faults = tuple(faults)
    state = solve(machine, conditions, faults)
    if state.trip is not None and test.running:
        return Answer(
            test=test_id, word="cut_out", text="The machine does not stay on long enough for this test.", values={}
        )
    word, text, values = test.answer(
        Asked(machine=machine, conditions=conditions, faults=faults, state=state, system=system)
    )
    return Answer(test=test_id, word=word, text=text, values=values)
