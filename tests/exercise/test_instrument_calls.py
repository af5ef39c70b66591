"""Calls where an instrument lies: what is printed cannot be, nothing is wrong with the machine, and nothing goes in."""

import json
from functools import cache

import pytest

from tests.conftest import VALVE, planned
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.candidates import instruments_on_paper
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.troubled import alone, beside_one, fine_families
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.plan.scenario import require_paper, scenario

#: id -> severity, cause, kit
CASES = {
    "gauge_not_zeroed": (14, "low_gauge", "analogue"),
    "core_not_depressed": (90, "low_port", "analogue"),
    "clamp_loose": (45, "suction_clamp", "analogue"),
    "clamp_wrong_line": (100, None, "analogue"),
    "absolute_pressure_read": (100, None, "digital"),
    "hoses_swapped": (100, None, "digital"),
}
EVERY = pytest.mark.parametrize("trouble", CASES)


def troubled(trouble, *more):
    severity, cause, kit = CASES[trouble]
    body = planned().to_json()
    body["faults"] = [{"id": trouble, "severity": severity, "cause": cause}, *more]
    return scenario(body | {"instruments": kit})


@cache
def call(trouble, *more):
    one = items_of.item({"kind": "scenario", "body": troubled(trouble, *map(dict, more)).to_json()})
    return frozen_body.body_from_json(json.loads(json.dumps(items_of.draw(one, 1, 0, "us", 5).to_json())))


@EVERY
def test_an_instrument_is_named_put_right_and_nothing_is_charged(trouble):
    made = call(trouble)
    assert total(grade(made, perfect_answers(made))) == (33, 33) and made.key.unique
    assert made.key.fault_name == INSTRUMENT_FAULTS[trouble].name and made.key.action_text
    assert made.key.repair.amount.value == 0 and made.key.repair.steps == ("instrument",)
    assert set(made.key.verdicts.values()) != {"normal"}


@EVERY
def test_others_of_its_kind_stand_among_the_answers(trouble):
    offered = {choice.id for choice in call(trouble).choices.fault}
    assert len(offered & set(INSTRUMENT_FAULTS)) >= 3 and "none" in offered
    plain = items_of.draw(items_of.item({"kind": "scenario", "body": planned().to_json()}), 1, 0, "us", 5)
    assert not {choice.id for choice in plain.choices.fault} & set(INSTRUMENT_FAULTS)


@EVERY
def test_the_machine_behind_it_has_nothing_wrong(trouble):
    """After the instrument is put right the readings are those of the machine with nothing wrong."""
    made = call(trouble)
    assert not made.key.after_off
    wrong = {name: row.text for name, row in made.readings.items()} | {}
    differ = {name for name, text in made.key.after.items() if wrong.get(name) != text}
    touched = {
        "gauge_not_zeroed": {"suction_pressure"},
        "core_not_depressed": {"suction_pressure"},
        "clamp_loose": {"suction_line"},
        "clamp_wrong_line": {"liquid_line"},
        "absolute_pressure_read": {"suction_pressure", "head_pressure"},
        "hoses_swapped": {"suction_pressure", "head_pressure"},
    }[trouble]
    assert differ == touched


def test_charging_by_a_gauge_that_lies_earns_nothing_for_the_plan():
    made = call("clamp_wrong_line")
    right = perfect_answers(made)
    add = " ".join(str(made.choices.number(s)) for s in ("add", "settle", "close"))
    marks = {m.question: m for m in grade(made, right | {"amount": "20", "order": add})}
    assert marks["amount"].earned == 0 and marks["order"].earned == 0 and marks["fault"].earned == marks["fault"].points


def test_behind_a_loose_clamp_a_machine_can_be_overfull_as_well():
    made = call("clamp_loose", (("id", "overcharge"), ("severity", 125)))
    assert made.key.faults == ("clamp_loose", "overcharge") and made.key.repair.amount.value < 0
    assert total(grade(made, perfect_answers(made))) == (33, 33)
    only = made.choices.letter("fault", "overcharge")
    marks = {m.question: m for m in grade(made, perfect_answers(made) | {"fault": only})}
    assert 2 * marks["fault"].earned == marks["fault"].points


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"faults": [{"id": "hoses_swapped", "severity": 100}]}, "fault"),
        ({"faults": [{"id": "thermometers_disagree", "severity": 6}]}, "fault"),
        (
            {"faults": [{"id": "clamp_loose", "severity": 40}, {"id": "gauge_not_zeroed", "severity": 8}]},
            "faults",
        ),
    ],
)
def test_what_no_dial_can_show_or_nobody_can_prove_is_for_the_bench(body, said):
    with pytest.raises(BadInputError) as error:
        require_paper(scenario(planned().to_json() | body))
    assert error.value.field == said and "paper" in error.value.allowed
    assert not scenario(planned().to_json() | body).on_paper


def test_a_sealed_circuit_has_no_gauges_that_could_lie():
    reach_in = {
        "title": "x",
        "machine": "reachin-r134a-capillary",
        "faults": [{"id": "clamp_loose", "severity": 40}],
        "outdoor_db_f": 78,
        "box_f": 39,
    }
    assert not scenario(reach_in).on_paper and "hoses_swapped" in instruments_on_paper("digital")


# ---------------------------------------------------------------------------
# rivals
# ---------------------------------------------------------------------------


@pytest.fixture(scope="module")
def cases():
    return solved_cases(machine(VALVE), planned().conditions())


def test_every_trouble_is_what_the_instruments_really_show(cases):
    troubles, vectors = alone(cases)
    for i in range(0, len(troubles), 17):
        assert vectors[i] == pytest.approx(faulted_vector(cases.machine, cases.fault_free, (troubles[i],)))
    assert {f.ids[0] for f in fine_families(cases)} >= set(CASES)


def test_an_instrument_and_a_fault_together_are_found_again(cases):
    """Planted together, found by the search as the nearest of its kind."""
    hidden = (Fault(id="gauge_not_zeroed", severity=-9.0, cause="low_gauge"), Fault(id="overcharge", severity=122.0))
    here = faulted_vector(cases.machine, solved(cases.machine, cases.conditions, hidden[1:]), hidden)
    shown = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "discharge_line", "supply_db")
    rows = beside_one(cases, cases.curves, lambda v: cases.apart(v, here, shown), 1.0)
    faults, distance = min(rows, key=lambda row: row[1])
    assert {f.id for f in faults} == {"gauge_not_zeroed", "overcharge"} and distance < 0.5
    assert faults[0].severity == pytest.approx(-9, abs=1.5) and faults[1].severity == pytest.approx(122, abs=2)
