"""What changed between two versions, and the story's drafts."""

import random
from dataclasses import replace

import pytest

from tests.conftest import ORIFICE, planned
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.own_practice import changed, to_json
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.plan.history import changes
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.plan.story import draft
from wolfsbane.exercise.show.bench import faults_of

OLD = planned("undercharge", 80)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"outdoor_db_f": 101.0}, "Outdoors 93 °F → 101 °F"),
        ({"title": "Another"}, "Title changed"),
        ({"faults": (Fault(id="undercharge", severity=70),)}, "Low charge (undercharged) 80 → 70 %"),
        ({"faults": ()}, "Low charge (undercharged) removed"),
        ({"faults": (*OLD.faults, Fault(id="dirty_condenser", severity=60))}, "Dirty condenser 60 % planted"),
        ({"faults": (Fault(id="undercharge", severity=80, cause="undercharged_at_start"),)}, "cause"),
        ({"given_tests": ("filter",)}, "Test given: Filters"),
        ({"tags": ("week 9",)}, "Tag: week 9"),
        ({"given_readings": ("suction_pressure", "condenser_bend")}, "Given: Condenser, return bend halfway"),
        ({"practice_id": "chart"}, "Manufacturer's chart"),
        ({"complaint": "Hot."}, "Complaint changed"),
        ({"box_f": 38.0}, "Box none → 38 °F"),
    ],
)
def test_a_change_is_told_in_words(change, said):
    assert any(said in line for line in changes(OLD, replace(OLD, **change)))


def test_nothing_is_said_of_what_is_the_same():
    assert changes(OLD, OLD) == () and changes(None, OLD) == ("First version",)
    moved = planned("undercharge", 80, ORIFICE)
    assert changes(OLD, moved)[0].startswith("Machine: Larkspur 36 with valve → ")


def test_changes_are_told_in_the_units_that_are_shown():
    drier, other = planned("liquid_line_restriction", 160), planned("liquid_line_restriction", 240, outdoor_db_f=104)
    assert changes(drier, other) == ("Restricted drier or liquid line 160 → 240 psi", "Outdoors 93 °F → 104 °F")
    assert changes(drier, other, "si") == (
        "Restricted drier or liquid line 1103 → 1655 kPa",
        "Outdoors 33.9 °C → 40.0 °C",
    )
    assert changes(OLD, replace(OLD, spread_outdoor_df=9.0), "si") == ("Spread of outdoor air 3.3 K → 5 K",)


def test_a_school_of_ones_own_is_carried_and_told():
    own = changed(practice_by_id("plate_and_formula"), "Ours", {"subcooling_tolerance_df": 5})
    made = scenario({**OLD.to_json(), "practice": own.id, "own_practice": to_json(own)})
    assert made.practice.subcooling_tolerance_df == 5 and any("Ours" in line for line in changes(OLD, made))
    assert scenario(made.to_json()) == made


def test_every_machine_and_every_fault_gets_a_story_that_does_not_name_it():
    for m in MACHINES.values():
        for kind in (*faults_for(m), *INSTRUMENT_FAULTS.values()):
            complaint, history, lines = draft(faults_of([{"id": kind.id}], m), (), random.Random(3), m)
            assert complaint and history and lines
            assert kind.name.lower() not in complaint.lower()
        assert draft((), (), random.Random(3), m)[0]


def test_a_box_is_not_spoken_of_as_a_house():
    cooler = MACHINES["walkin-cooler-r404a-txv"]
    for turn in range(10):
        for kind in faults_for(cooler):
            complaint, _, lines = draft(faults_of([{"id": kind.id}], cooler), (), random.Random(turn), cooler)
            said = " ".join((complaint, *lines)).lower()
            assert not any(word in said for word in ("bedroom", "house", "lawn", "room ", "vents", "filter")), said
