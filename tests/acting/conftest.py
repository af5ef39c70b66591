"""Sites to work on."""

import pytest

from wolfsbane.acting.settling import arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES


def fault(fault_id, severity, cause=None):
    return Fault(id=fault_id, severity=severity, cause=cause)


@pytest.fixture
def site():
    """site(machine id, *faults): a settled site at the machine's rating point."""

    def made(machine_id, *faults, conditions=None, **more):
        machine = MACHINES[machine_id]
        return arrive(on_site(machine, conditions or rating_conditions(machine), faults, **more))

    return made
