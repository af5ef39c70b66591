"""A second visit: a call whose first fault was repaired, with the readings of the first visit beside those of now."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.instruments import KITS, read
from wolfsbane.exercise.paper.call import named
from wolfsbane.exercise.paper.questions import done_text

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.exercise.paper.call import Call


def second_visit(call: Call, machine: Machine, found: CircuitState, repaired: Fault) -> Call:
    """The call as it stands on a second visit: the machine was ``found`` so on the first one, and one fault was
    repaired.
    """
    keys = tuple(call.readings)
    return replace(
        call,
        before=named(read(found, _kit(call), call.units, machine=machine, keys=keys), machine),
        done=f"First visit: {done_text(repaired.id, machine)}. It has run 15 minutes since.",
    )


def _kit(call: Call) -> str:
    """The instruments of a call; line temperatures are read with digital ones."""
    return call.instruments if call.instruments in KITS else "digital"
