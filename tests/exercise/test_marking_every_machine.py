"""Worked cases on every kind of machine, a second visit and an instrument that lies; marks beside each.

Each case says what stands on the paper otherwise than on the key, the marks an examiner would take off and why. Common
practice among examiners, no source.
"""

import json
from functools import cache
from pathlib import Path

import pytest

from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.grade import total
from wolfsbane.exercise.plan.starter_library import ready_scenarios

#: kind -> ready scenario, what is asked of it
KINDS = {
    "walk-in": ("The walk-in creeps up", {}),
    "reach-in": ("Salad bar, warm greens", {}),
    "rooftop": ("Half the store is warm", {}),
    "water-cooled": ("Half a strainer", {}),
    "heating": ("Lukewarm on Linden Court", {}),
    "instrument": ("Hot hand, wrong pipe", {}),
    "second visit": ("Dirt over a leak", {"second_visit": True}),
}


@cache
def body(kind):
    title, asked = KINDS[kind]
    one = items_of.item({"kind": "scenario", "body": ready_scenarios()[title].scenario.to_json(), "asked": asked})
    return frozen_body.body_from_json(json.loads(json.dumps(items_of.draw(one, 1, 0, "us", 4).to_json())))


def n(value):
    return f"{value:.1f}"


def steps(b, *wanted):
    return " ".join(str(b.choices.number(s)) for s in wanted)


def verdict(b, figure, value):
    return b.key.bands[figure].verdict(value)


def takes_superheat_at_the_compressor(b):
    value = b.readings["suction_line"].value - b.key.figures["suction_saturation"]
    return {
        "evaporator_superheat": n(value),
        "evaporator_superheat_verdict": verdict(b, "evaporator_superheat", value),
    }


def tops_it_off_and_leaves_the_leak(b):
    return {"order": steps(b, "add", "settle", "close")}


def adds_half_a_charge_too_much(b):
    amount = b.key.repair.amount
    return {"amount": n(amount.value + 0.5 * amount.charge)}


def names_the_glass_alone(b):
    return {"evidence": b.choices.letter("evidence", "sight_glass")}


def takes_the_pipes_for_each_other(b):
    low, high = b.key.figures["liquid_saturation"], b.key.figures["suction_saturation"]
    r = {k: v.value for k, v in b.readings.items()}
    own = {
        "superheat": r["suction_line"] - low,
        "subcooling": high - r["liquid_line"],
        "evaporator_td": r["return_db"] - low,
        "ctoa": high - r["outdoor_db"],
    }
    return {
        "suction_saturation": n(low),
        "liquid_saturation": n(high),
        **{name: n(value) for name, value in own.items()},
        **{f"{name}_verdict": verdict(b, name, value) for name, value in own.items()},
    }


def reads_the_gas_into_the_condenser(b):
    hot = b.readings["discharge_line"].value
    own = {"subcooling": hot - b.readings["liquid_line"].value, "ctoa": hot - b.readings["outdoor_db"].value}
    return {
        "liquid_saturation": n(hot),
        **{name: n(value) for name, value in own.items()},
        **{f"{name}_verdict": verdict(b, name, value) for name, value in own.items()},
    }


def charges_a_sealed_circuit_by_feel(b):
    return {"order": steps(b, "leak", "add", "settle", "close")}


def takes_superheat_of_the_other_circuit(b):
    value = b.twin["suction_line"].value - b.key.figures["suction_saturation"]
    return {"superheat": n(value), "superheat_verdict": verdict(b, "superheat", value)}


def takes_the_water_going_out(b):
    value = b.key.figures["liquid_saturation"] - b.readings["water_out"].value
    return {"ctoa": n(value), "ctoa_verdict": verdict(b, "ctoa", value)}


def takes_the_house_for_the_outdoors(b):
    value = b.readings["outdoor_db"].value - b.key.figures["suction_saturation"]
    return {"evaporator_td": n(value), "evaporator_td_verdict": verdict(b, "evaporator_td", value)}


def washes_the_outdoor_coil(b):
    return {"order": steps(b, "wash", "settle")}


def charges_by_the_clamp_on_the_hot_pipe(b):
    return {"amount": "20", "order": steps(b, "add", "settle", "close")}


def names_what_was_repaired_last_time(b):
    return {"fault": b.choices.letter("fault", "dirty_condenser")}


def works_from_the_first_visit(b):
    old = b.before
    own = {
        "superheat": old["suction_line"].value - b.key.figures["suction_saturation"],
        "subcooling": b.key.figures["liquid_saturation"] - old["liquid_line"].value,
    }
    return {name: n(value) for name, value in own.items()}


#: (kind, what is written differently from the key, marks lost, codes, why)
CASES = [
    (
        "walk-in",
        takes_superheat_at_the_compressor,
        1,
        {"evaporator_superheat": "wrong_number"},
        "the line's gain is not the coil's; the verdict follows",
    ),
    ("walk-in", tops_it_off_and_leaves_the_leak, 4, {"order": "order_harms"}, "what goes in comes out again"),
    (
        "walk-in",
        adds_half_a_charge_too_much,
        2,
        {"amount": "amount_floods"},
        "past a full receiver the condenser floods",
    ),
    ("walk-in", names_the_glass_alone, 0, {"evidence": "evidence_right"}, "bubbles or an empty receiver decide"),
    (
        "reach-in",
        takes_the_pipes_for_each_other,
        1,
        {"suction_saturation": "other_gauge", "liquid_saturation": "same_slip_paid"},
        "two pipes exchanged once; all sums follow",
    ),
    (
        "reach-in",
        reads_the_gas_into_the_condenser,
        1,
        {"liquid_saturation": "wrong_number"},
        "superheated gas reads high; all sums follow",
    ),
    (
        "reach-in",
        charges_a_sealed_circuit_by_feel,
        4,
        {"order": "order_wrong"},
        "grams are weighed in whole, never added by feel",
    ),
    (
        "rooftop",
        takes_superheat_of_the_other_circuit,
        1,
        {"superheat": "wrong_number"},
        "the line of circuit 2 on the gauge of circuit 1",
    ),
    (
        "water-cooled",
        takes_the_water_going_out,
        1,
        {"ctoa": "wrong_number"},
        "condensing is counted from the water going in",
    ),
    (
        "heating",
        takes_the_house_for_the_outdoors,
        1,
        {"evaporator_td": "wrong_number"},
        "in heating the evaporator stands outdoors",
    ),
    ("heating", washes_the_outdoor_coil, 4, {"order": "order_wrong"}, "the coil that lacks air is indoors"),
    (
        "instrument",
        charges_by_the_clamp_on_the_hot_pipe,
        6,
        {"amount": "amount_none_wanted", "order": "order_wrong"},
        "the machine had nothing wrong",
    ),
    (
        "second visit",
        names_what_was_repaired_last_time,
        18,
        {"fault": "fault_wrong"},
        "that was repaired; the plan goes with it",
    ),
    (
        "second visit",
        works_from_the_first_visit,
        2,
        {"superheat": "wrong_number", "subcooling": "wrong_number"},
        "two lines of another day",
    ),
]


def possible(kind):
    """Marks a call of a kind is worth."""
    return sum(q.points for q in frozen_body.questions_of(body(kind)))


@pytest.mark.parametrize("kind", KINDS)
def test_the_key_earns_all(kind):
    given = frozen_body.grade_body(body(kind), frozen_body.key_answers(body(kind)))
    assert total(given) == (possible(kind), possible(kind))


@pytest.mark.parametrize(
    ("kind", "case", "lost", "codes", "why"), CASES, ids=[f"{c[0]}: {c[1].__name__}" for c in CASES]
)
def test_worked_case(kind, case, lost, codes, why):
    given = frozen_body.grade_body(body(kind), frozen_body.key_answers(body(kind)) | case(body(kind)))
    assert {m.question: m.code for m in given if m.question in codes} == codes, [
        (m.question, m.code) for m in given if m.question in codes
    ]
    assert total(given) == (possible(kind) - lost, possible(kind)), [
        (m.question, m.text) for m in given if m.earned < m.points
    ]


def test_every_kind_has_its_cases_and_the_page_in_the_docs_is_the_same():
    assert {c[0] for c in CASES} == set(KINDS)
    page = (Path(__file__).parents[2] / "docs/marking.md").read_text()
    for kind, case, lost, _, why in CASES:
        told = case.__name__.replace("_", " ")
        assert f"| {kind} | {told} | {possible(kind) - lost} of {possible(kind)} | {why} |" in page
