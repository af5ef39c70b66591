"""Tests an apprentice can ask for on one machine, each answered by the solved model or by an honest look.

``ask(machine, conditions, faults, "pump_down")`` gives an :class:`Answer`.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import looks, running, valve, vessel
from wolfsbane.cycle.field_tests.kind import Answer, Asked, FieldTest
from wolfsbane.cycle.solver import solve

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

__all__ = ["FIELD_TESTS", "Answer", "FieldTest", "ask", "field_test_on", "tests_for"]

FIELD_TESTS = {test.id: test for test in (*running.TESTS, *valve.TESTS, *vessel.TESTS, *looks.TESTS)}


#: what a test is called where the evaporator stands outdoors
_IN_HEATING = {
    "coil_face": "Outdoor coil face by hand",
    "condenser_air_rise": "Supply air rise over return air",
    "condenser_coil": "Outdoor coil, front and between the rows",
    "condenser_fan": "Outdoor fan",
    "condenser_place": "Outdoor unit, location and clearance",
    "condenser_wet": "Outdoor coil wet or dry",
    "evaporator_coil": "Indoor coil",
    "evaporator_ice": "Frost on the outdoor coil",
}


def tests_for(machine: Machine) -> list[FieldTest]:
    """The tests that can be asked for on ``machine``, named as they are on it."""
    return [field_test_on(test.id, machine) for test in FIELD_TESTS.values() if test.suits(machine)]


def field_test_on(test_id: str, machine: Machine) -> FieldTest:
    """The test of this id as it is named on ``machine``."""
    found = FIELD_TESTS[test_id]
    return replace(found, name=_IN_HEATING.get(test_id, found.name)) if machine.in_heating else found


def ask(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    test_id: str,
    system: str = "us",
    state: CircuitState | None = None,
) -> Answer:
    """The :class:`Answer` of one test, its sentence in the units of ``system``; ``state`` is the machine solved, where
    somebody has it.

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
    state = solve(machine, conditions, faults) if state is None else state
    if state.trip is not None and test.running:
        return Answer(
            test=test_id, word="cut_out", text="The machine does not stay on long enough for this test.", values={}
        )
    word, text, values = test.answer(
        Asked(machine=machine, conditions=conditions, faults=faults, state=state, system=system)
    )
    return Answer(test=test_id, word=word, text=text, values=values)
