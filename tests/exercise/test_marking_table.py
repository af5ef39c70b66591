"""Worked cases with the marks written beside each: one slip costs one mark.

The paper is an undercharged valve machine, 14 marks. Each case says what the apprentice wrote differently from the
key, the marks an examiner would give and why. The rule is common practice among examiners, no source.
"""

import pytest

from tests.conftest import ORIFICE, VALVE, planned
from wolfsbane.exercise.call import call_from_json
from wolfsbane.exercise.grading import grade, perfect_answers, total
from wolfsbane.exercise.variant import vary


@pytest.fixture(scope="module")
def call():
    made = vary(planned("undercharge", 80, VALVE), "us", 19)
    return call_from_json(made.to_json())


@pytest.fixture(scope="module")
def orifice_call():
    return vary(planned("low_airflow", 46, ORIFICE), "us", 3)


def n(value):
    return f"{value:.1f}"


def letter(call, kind, wanted):
    return next(c["letter"] for c in call.choices[kind] if c["id"] == wanted)


def figure(call, name):
    return call.key["figures"][name]


def all_right(call):
    return {}


def whole_degrees(call):
    return {k: str(round(float(v))) for k, v in perfect_answers(call).items() if k in
            ("suction_saturation", "liquid_saturation", "superheat", "subcooling", "evaporator_td", "ctoa", "target")}


def ring_misread_carried_through(call):
    wrong = figure(call, "suction_saturation") + 3
    return {"suction_saturation": n(wrong), "superheat": n(figure(call, "superheat") - 3),
            "evaporator_td": n(figure(call, "evaporator_td") - 3)}


def ring_misread_changes_the_verdicts(call):
    wrong = figure(call, "liquid_saturation") + 10
    return {"liquid_saturation": n(wrong), "subcooling": n(figure(call, "subcooling") + 10),
            "ctoa": n(figure(call, "ctoa") + 10), "subcooling_verdict": "right", "ctoa_verdict": "high",
            "fault": letter(call, "fault", "dirty_condenser"), "evidence": letter(call, "evidence", "ctoa"),
            "action": letter(call, "action", "dirty_condenser")}


def gauge_taken_for_absolute(call):
    wrong = next(m["value"] for m in call.key["mistakes"]["suction_saturation"] if m["code"] == "absolute_for_gauge")
    shift = figure(call, "suction_saturation") - wrong
    return {"suction_saturation": n(wrong), "superheat": n(figure(call, "superheat") + shift),
            "evaporator_td": n(figure(call, "evaporator_td") + shift), "superheat_verdict": "high",
            "evaporator_td_verdict": "high"}


def wrong_ring(call):
    wrong = next(m["value"] for m in call.key["mistakes"]["suction_saturation"] if m["code"].startswith("wrong_ring"))
    shift = figure(call, "suction_saturation") - wrong
    return {"suction_saturation": n(wrong), "superheat": n(figure(call, "superheat") + shift),
            "evaporator_td": n(figure(call, "evaporator_td") + shift), "superheat_verdict": "low",
            "evaporator_td_verdict": "low"}


def swapped(call):
    return {"superheat": n(figure(call, "subcooling")), "subcooling": n(figure(call, "superheat")),
            "superheat_verdict": "low", "subcooling_verdict": "high"}


def one_sign_turned(call):
    return {"ctoa": n(-figure(call, "ctoa"))}


def superheat_turned_and_called_low(call):
    return {"superheat": n(-figure(call, "superheat")), "superheat_verdict": "low"}


def slip_in_one_subtraction(call):
    return {"evaporator_td": n(figure(call, "evaporator_td") + 9), "evaporator_td_verdict": "high"}


def slip_and_verdict_against_own_number(call):
    return {"evaporator_td": n(figure(call, "evaporator_td") + 9), "evaporator_td_verdict": "right"}


def other_saturation_used(call):
    return {"superheat": n(call.readings["suction_line"]["value"] - figure(call, "liquid_saturation")),
            "superheat_verdict": "low"}


def target_of_an_orifice(call):
    wb, out = call.readings["return_wb"]["value"], call.readings["outdoor_db"]["value"]
    return {"target": n((3 * wb - 80 - out) / 2)}


def one_field_blank(call):
    return {"superheat": ""}


def unreadable_number(call):
    return {"subcooling": "about ten"}


def wrong_fault_right_figures(call):
    return {"fault": letter(call, "fault", "overcharge")}


def wrong_fault_and_its_action(call):
    return {"fault": letter(call, "fault", "overcharge"), "action": letter(call, "action", "overcharge")}


def wrong_fault_and_a_third_action(call):
    return {"fault": letter(call, "fault", "overcharge"), "action": letter(call, "action", "low_airflow")}


def true_but_idle_evidence(call):
    """Superheat is wrongly called high against an own slip, and named as the evidence: it does not decide."""
    return {"superheat": n(figure(call, "superheat") + 9), "superheat_verdict": "high",
            "evidence": letter(call, "evidence", "superheat")}


def evidence_that_is_on_target(call):
    return {"evidence": letter(call, "evidence", "evaporator_td")}


def letter_of_another_question(call):
    return {"fault": letter(call, "action", "undercharge")}


def commas_and_units(call):
    return {"superheat": n(figure(call, "superheat")).replace(".", ",") + " °F",
            "suction_saturation": n((figure(call, "suction_saturation") - 32) / 1.8) + " C"}


def nothing_written(call):
    return dict.fromkeys(perfect_answers(call), "")


CASES = [
    (all_right, 14, {}),
    (whole_degrees, 14, {}),
    (ring_misread_carried_through, 13, {"suction_saturation": "wrong_number", "superheat": "follows_own"}),
    (ring_misread_changes_the_verdicts, 13, {"liquid_saturation": "wrong_number", "fault": "fault_follows",
                                             "evidence": "evidence_right", "action": "action_follows"}),
    (gauge_taken_for_absolute, 13, {"suction_saturation": "absolute_for_gauge"}),
    (wrong_ring, 13, {"suction_saturation": "wrong_ring"}),
    (swapped, 13, {"superheat": "swapped", "subcooling": "swapped_paid"}),
    (one_sign_turned, 13, {"ctoa": "sign_turned", "ctoa_verdict": "verdict_follows"}),
    (superheat_turned_and_called_low, 13, {"superheat": "sign_turned", "superheat_verdict": "verdict_follows"}),
    (slip_in_one_subtraction, 13, {"evaporator_td": "wrong_number", "evaporator_td_verdict": "verdict_follows"}),
    (slip_and_verdict_against_own_number, 12, {"evaporator_td": "wrong_number", "evaporator_td_verdict": "verdict_wrong"}),
    (other_saturation_used, 13, {"superheat": "other_saturation"}),
    (target_of_an_orifice, 13, {"target": "target_wrong_device"}),
    (one_field_blank, 13, {"superheat": "blank", "superheat_verdict": "verdict_follows"}),
    (unreadable_number, 13, {"subcooling": "unreadable"}),
    (wrong_fault_right_figures, 13, {"fault": "fault_wrong", "evidence": "evidence_right", "action": "action_right"}),
    (wrong_fault_and_its_action, 13, {"fault": "fault_wrong", "action": "action_follows"}),
    (wrong_fault_and_a_third_action, 12, {"fault": "fault_wrong", "action": "action_wrong"}),
    (true_but_idle_evidence, 12, {"evidence": "evidence_not_deciding"}),
    (evidence_that_is_on_target, 13, {"evidence": "evidence_not_off"}),
    (letter_of_another_question, 13, {"fault": "unknown_letter"}),
    (commas_and_units, 14, {}),
    (nothing_written, 0, {"fault": "blank", "superheat": "blank"}),
]


@pytest.mark.parametrize(("case", "marks", "codes"), CASES, ids=[c[0].__name__ for c in CASES])
def test_worked_case(call, case, marks, codes):
    given = grade(call, perfect_answers(call) | case(call))
    assert {m.question: m.code for m in given if m.question in codes} == codes
    assert total(given) == (marks, 14), [(m.question, m.text) for m in given if not m.earned]


def test_every_reason_has_a_sentence(call):
    for case, _, _ in CASES:
        for mark in grade(call, perfect_answers(call) | case(call)):
            assert mark.text and "{" not in mark.text


def test_the_orifice_target_comes_from_the_formula_and_ten_is_named(orifice_call):
    right = perfect_answers(orifice_call)
    assert total(grade(orifice_call, right)) == (14, 14)
    marks = {m.question: m for m in grade(orifice_call, right | {"target": "22"})}
    assert marks["target"].earned == 0
    # The verdict follows the apprentice's own target.
    assert marks["superheat_verdict"].earned == 1


def test_own_target_moves_the_verdict(orifice_call):
    own = figure(orifice_call, "superheat")
    answers = perfect_answers(orifice_call) | {"target": n(own), "superheat_verdict": "right"}
    marks = {m.question: m for m in grade(orifice_call, answers)}
    assert (marks["target"].earned, marks["superheat_verdict"].earned) == (0, 1)


def test_a_copied_paper_earns_little(call):
    """Somebody else's right answers are wrong here: other needles, other weather, other letters."""
    neighbour = vary(planned("dirty_condenser", 55, VALVE), "us", 5)
    earned, _ = total(grade(call, perfect_answers(neighbour)))
    assert earned <= 9
