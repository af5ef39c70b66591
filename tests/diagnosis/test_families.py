"""A family of faults stands in several rooms: each place it needs is named here where it is missing."""

import pytest

from wolfsbane.acting import plan
from wolfsbane.acting.actions.repairs import REPAIRS
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.hypotheses import PRIORS
from wolfsbane.exercise.paper.questions import DECIDERS
from wolfsbane.exercise.show.catalog import PLACE_OF

REPAIRED = {fault for repair in REPAIRS for fault in repair.repairs}
#: cured by the scale, by a fresh charge or by drying: the plan knows how
OTHERWISE = {"undercharge", "overcharge", "long_liquid_line", "non_condensables", "wrong_refrigerant", "wet_condenser"}


@pytest.mark.parametrize("fault", FAULTS)
def test_every_family_stands_where_it_is_needed(fault):
    missing = [
        place
        for place, there in {
            "PRIORS in diagnosis/hypotheses.py: how often it stands behind a call": fault in PRIORS,
            "_PLACES in exercise/show/catalog.py: where it sits on the circuit": fault in PLACE_OF,
            "DECIDERS in exercise/paper/questions.py: the figures that decide": fault in NOT_ON_PAPER
            or fault in DECIDERS,
            "REPAIRS in acting/actions/repairs.py: what cures it": fault in REPAIRED | OTHERWISE
            or fault in plan.NOTHING_TO_REPAIR,
            "ORDER in acting/plan.py: when it is repaired": fault in plan.NOTHING_TO_REPAIR or fault in plan.ORDER,
        }.items()
        if not there
    ]
    assert not missing, f"{fault} is missing in {missing}"


def test_no_room_speaks_of_a_family_that_is_not_there():
    for place in (PRIORS, DECIDERS, plan.ORDER):
        assert {fault for fault in place if fault != "none"} <= {*FAULTS, *INSTRUMENT_FAULTS}
