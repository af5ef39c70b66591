"""The machine profiles that ship with Wolfsbane. Parameters are assumed (tuned to plausible ratings, not to tests)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles.comfort import COMFORT
from wolfsbane.cycle.profiles.heating import HEATING, HEATING_OF
from wolfsbane.cycle.profiles.refrigeration import REFRIGERATION
from wolfsbane.cycle.profiles.sealed import SEALED

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

__all__ = ["HEATING_OF", "MACHINES", "machine"]

MACHINES = {machine.id: machine for machine in (*COMFORT, *HEATING, *REFRIGERATION, *SEALED)}


def machine(machine_id: str) -> Machine:
    """The profile called ``machine_id``; raises BadInputError for an unknown one."""
    if machine_id not in MACHINES:
        raise BadInputError("machine", machine_id, ", ".join(MACHINES))
    return MACHINES[machine_id]
