"""Worked cases with the marks written beside each: one slip costs one mark.

The paper is an undercharged valve machine, 33 points. Each case says what the apprentice wrote differently from the
key, the marks an examiner would give and why. The rule is common practice among examiners, no source.
"""

import itertools
from pathlib import Path

import pytest

from tests.conftest import ORIFICE, VALVE, offering, planned
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.paper.call import call_from_json


@pytest.fixture(scope="module")
def call():
    made = offering(planned("undercharge", 80, VALVE), "us", "overcharge", "dirty_condenser", "low_airflow")
    return call_from_json(made.to_json())


@pytest.fixture(scope="module")
def orifice_call():
    return vary(planned("low_airflow", 46, ORIFICE), "us", 3)


def n(value):
    return f"{value:.1f}"


def letter(call, kind, wanted):
    return call.choices.letter(kind, wanted)


def figure(call, name):
    return call.key.figures[name]


def all_right(call):
    return {}


def whole_degrees(call):
    return {
        k: str(round(float(v)))
        for k, v in perfect_answers(call).items()
        if k
        in ("suction_saturation", "liquid_saturation", "superheat", "subcooling", "evaporator_td", "ctoa", "target")
    }


def ring_misread_carried_through(call):
    wrong = figure(call, "suction_saturation") + 3
    return {
        "suction_saturation": n(wrong),
        "superheat": n(figure(call, "superheat") - 3),
        "evaporator_td": n(figure(call, "evaporator_td") - 3),
    }


def ring_misread_changes_the_verdicts(call):
    wrong = figure(call, "liquid_saturation") + 10
    return {
        "liquid_saturation": n(wrong),
        "subcooling": n(figure(call, "subcooling") + 10),
        "ctoa": n(figure(call, "ctoa") + 10),
        "subcooling_verdict": "right",
        "ctoa_verdict": "high",
        "fault": letter(call, "fault", "dirty_condenser"),
        "evidence": letter(call, "evidence", "ctoa"),
        "action": letter(call, "action", "dirty_condenser"),
    }


def gauge_taken_for_absolute(call):
    wrong = next(m.value for m in call.key.mistakes["suction_saturation"] if m.code == "absolute_for_gauge")
    shift = figure(call, "suction_saturation") - wrong
    return {
        "suction_saturation": n(wrong),
        "superheat": n(figure(call, "superheat") + shift),
        "evaporator_td": n(figure(call, "evaporator_td") + shift),
        "superheat_verdict": "high",
        "evaporator_td_verdict": "high",
    }


def wrong_ring(call):
    wrong = next(m.value for m in call.key.mistakes["suction_saturation"] if m.code.startswith("wrong_ring"))
    shift = figure(call, "suction_saturation") - wrong
    return {
        "suction_saturation": n(wrong),
        "superheat": n(figure(call, "superheat") + shift),
        "evaporator_td": n(figure(call, "evaporator_td") + shift),
        "superheat_verdict": "low",
        "evaporator_td_verdict": "low",
    }


def swapped(call):
    return {
        "superheat": n(figure(call, "subcooling")),
        "subcooling": n(figure(call, "superheat")),
        "superheat_verdict": "low",
        "subcooling_verdict": "high",
    }


def swapped_and_called_as_meant(call):
    """The two numbers stand in each other's box; the verdicts are those of the figures they belong to."""
    return {"superheat": n(figure(call, "subcooling")), "subcooling": n(figure(call, "superheat"))}


def swapped_and_one_verdict_of_neither(call):
    return {
        "superheat": n(figure(call, "subcooling")),
        "subcooling": n(figure(call, "superheat")),
        "subcooling_verdict": "right",
    }


def wrong_ring_on_both_gauges(call):
    """Another refrigerant's ring on both dials, everything after it followed through."""
    pt_scale = {
        name: {m.code: m.value for m in call.key.mistakes[name] if m.code.startswith("wrong_ring")}
        for name in ("suction_saturation", "liquid_saturation")
    }
    code = sorted(set(pt_scale["suction_saturation"]) & set(pt_scale["liquid_saturation"]))[0]
    low, high = pt_scale["suction_saturation"][code], pt_scale["liquid_saturation"][code]
    figures = {
        "superheat": call.readings["suction_line"].value - low,
        "subcooling": high - call.readings["liquid_line"].value,
        "evaporator_td": call.readings["return_db"].value - low,
        "ctoa": high - call.readings["outdoor_db"].value,
    }
    bands = {name: call.key.bands[name] for name in figures}
    return {
        "suction_saturation": n(low),
        "liquid_saturation": n(high),
        **{k: n(v) for k, v in figures.items()},
        **{f"{name}_verdict": bands[name].verdict(v) for name, v in figures.items()},
    }


def one_sign_turned(call):
    return {"ctoa": n(-figure(call, "ctoa"))}


def superheat_turned_and_called_low(call):
    return {"superheat": n(-figure(call, "superheat")), "superheat_verdict": "low"}


def slip_in_one_subtraction(call):
    return {"evaporator_td": n(figure(call, "evaporator_td") + 9), "evaporator_td_verdict": "high"}


def slip_and_verdict_against_own_number(call):
    return {"evaporator_td": n(figure(call, "evaporator_td") + 9), "evaporator_td_verdict": "right"}


def other_saturation_used(call):
    return {
        "superheat": n(call.readings["suction_line"].value - figure(call, "liquid_saturation")),
        "superheat_verdict": "low",
    }


def target_of_an_orifice(call):
    wb, out = call.readings["return_wb"].value, call.readings["outdoor_db"].value
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
    return {
        "superheat": n(figure(call, "superheat") + 9),
        "superheat_verdict": "high",
        "evidence": letter(call, "evidence", "superheat"),
    }


def evidence_that_is_on_target(call):
    return {"evidence": letter(call, "evidence", "evaporator_td")}


def letter_of_another_question(call):
    return {"fault": letter(call, "action", "undercharge")}


def commas_and_units(call):
    return {
        "superheat": n(figure(call, "superheat")).replace(".", ",") + " °F",
        "suction_saturation": n((figure(call, "suction_saturation") - 32) / 1.8) + " C",
    }


def nothing_written(call):
    return dict.fromkeys(perfect_answers(call), "")


def slip_of_two_that_cancel(call):
    """The PT scale misread by three, and the subtraction wrong by three the other way:
    the right number stands there.
    """
    return {"suction_saturation": n(figure(call, "suction_saturation") + 3)}


def half_of_the_figures_from_the_slip(call):
    """The PT scale misread; superheat follows it, the evaporator TD was taken from the neighbor's paper."""
    return {
        "suction_saturation": n(figure(call, "suction_saturation") + 6),
        "superheat": n(figure(call, "superheat") - 6),
        "superheat_verdict": "low",
        "evaporator_td": n(figure(call, "evaporator_td") + 20),
    }


def atmosphere_added_to_the_gauge(call):
    wrong = next(m.value for m in call.key.mistakes["liquid_saturation"] if m.code == "added_atmosphere")
    shift = wrong - figure(call, "liquid_saturation")
    return {
        "liquid_saturation": n(wrong),
        "subcooling": n(figure(call, "subcooling") + shift),
        "ctoa": n(figure(call, "ctoa") + shift),
        "ctoa_verdict": "right",
        "subcooling_verdict": "low",
    }


def gauges_exchanged(call):
    low, high = figure(call, "suction_saturation"), figure(call, "liquid_saturation")
    line = {k: call.readings[k].value for k in ("suction_line", "liquid_line", "return_db", "outdoor_db")}
    return {
        "suction_saturation": n(high),
        "liquid_saturation": n(low),
        "superheat": n(line["suction_line"] - high),
        "subcooling": n(low - line["liquid_line"]),
        "evaporator_td": n(line["return_db"] - high),
        "ctoa": n(low - line["outdoor_db"]),
        "superheat_verdict": "low",
        "subcooling_verdict": "low",
        "evaporator_td_verdict": "low",
        "ctoa_verdict": "low",
    }


def sheet_in_celsius(call):
    """A degree sign with C is read as Celsius; a difference in K as well."""
    return {
        "liquid_saturation": n((figure(call, "liquid_saturation") - 32) / 1.8) + " °C",
        "superheat": n(figure(call, "superheat") / 1.8) + " K",
    }


def verdict_letters_and_words(call):
    return {
        "superheat_verdict": {"low": "L", "normal": "ok", "high": "+"}[call.key.verdicts["superheat"]],
        "subcooling_verdict": {"low": "l", "normal": "R", "high": "H"}[call.key.verdicts["subcooling"]],
    }


def nonsense_everywhere(call):
    return dict.fromkeys(perfect_answers(call), "?!")


def emoji_and_a_long_story(call):
    return {"superheat": "\U0001f600", "fault": "it is cold " * 9}


def over_charging_plan(call):
    return {"amount": n(2 * call.key.repair.amount.value)}


def under_charging_plan(call):
    return {"amount": "4"}


def takes_out_what_is_missing(call):
    return {"amount": n(-call.key.repair.amount.value)}


def amount_in_pounds(call):
    return {"amount": f"{call.key.repair.amount.value / 16:.2f} lb"}


def on_the_chart(call, subcooling):
    """The charge at which the chart on the page shows a subcooling."""
    rows = [(charge, value) for charge, _, value in call.key.repair.chart.points]
    for (a, low), (b, high) in itertools.pairwise(rows):
        if low <= subcooling <= high:
            return a + (subcooling - low) / (high - low) * (b - a)
    raise AssertionError(subcooling)


def amount_by_the_printed_chart(call):
    now, wanted = on_the_chart(call, figure(call, "subcooling")), on_the_chart(call, call.key.target)
    return {"amount": n(wanted - now)}


def amount_by_the_chart_from_an_own_slip(call):
    own = figure(call, "subcooling") + 5
    amount = on_the_chart(call, call.key.target) - on_the_chart(call, own)
    return {"subcooling": n(own), "amount": n(amount)}


def amount_left_blank(call):
    return {"amount": ""}


def number_of(call, step):
    return str(call.choices.number(step))


def charges_before_the_leak(call):
    return {"order": " ".join(number_of(call, s) for s in ("add", "leak", "settle"))}


def charges_and_never_looks_for_the_leak(call):
    return {"order": " ".join(number_of(call, s) for s in ("add", "settle"))}


def does_everything_there_is(call):
    return {"order": " ".join(str(row.number) for row in call.choices.order)}


def order_with_dashes(call):
    return {"order": "-".join(number_of(call, s) for s in ("leak", "add", "settle", "close"))}


def a_step_that_is_not_there(call):
    return {"order": "1 2 77"}


def wrong_fault_and_its_whole_plan(call):
    """Names an overcharge against right figures, and plans consistently for it: one slip."""
    return {
        "fault": letter(call, "fault", "overcharge"),
        "action": letter(call, "action", "overcharge"),
        "amount": "-20",
        "order": f"{number_of(call, 'remove')} {number_of(call, 'settle')} {number_of(call, 'close')}",
        "after_suction": "same",
        "after_head": "down",
        "after_superheat": "same",
        "after_subcooling": "down",
    }


def says_the_head_falls(call):
    return {"after_head": "D"}


def verdict_slip_carried_into_what_it_becomes(call):
    """Calls a right superheat high from an own slip, and then expects it to fall."""
    return {"superheat": n(figure(call, "superheat") + 9), "superheat_verdict": "high", "after_superheat": "down"}


def right_fault_with_wrong_evidence(call):
    return {"evidence": letter(call, "evidence", "all_on_target")}


def two_letters_where_one_is_asked(call):
    return {"fault": letter(call, "fault", "undercharge") + letter(call, "fault", "overcharge")}


def minus_sign_of_a_typesetter(call):
    return {"ctoa": n(figure(call, "ctoa")).replace("-", "−"), "amount": n(call.key.repair.amount.value)}


#: (what is written differently from the key, points lost of 33, codes, why)
CASES = [
    (all_right, 0, {}, "nothing is wrong"),
    (whole_degrees, 0, {}, "whole degrees lie within half a division and one rounding"),
    (
        ring_misread_carried_through,
        1,
        {"suction_saturation": "wrong_number", "superheat": "follows_own"},
        "one slip, followed through",
    ),
    (
        ring_misread_changes_the_verdicts,
        1,
        {
            "liquid_saturation": "wrong_number",
            "fault": "fault_follows",
            "evidence": "evidence_right",
            "action": "action_follows",
        },
        "one slip; verdicts, fault and step follow from it",
    ),
    (
        slip_of_two_that_cancel,
        1,
        {"suction_saturation": "wrong_number", "superheat": "right_not_own"},
        "two slips that cancel: the PT scale costs its mark, the right figure earns its own and is pointed out",
    ),
    (
        half_of_the_figures_from_the_slip,
        3,
        {"superheat": "follows_own", "evaporator_td": "wrong_number", "evaporator_td_verdict": "verdict_wrong"},
        "the TD follows from nothing on the paper, and its verdict contradicts it",
    ),
    (gauge_taken_for_absolute, 1, {"suction_saturation": "absolute_for_gauge"}, "a named slip, followed through"),
    (atmosphere_added_to_the_gauge, 1, {"liquid_saturation": "added_atmosphere"}, "the same the other way round"),
    (wrong_ring, 1, {"suction_saturation": "wrong_ring"}, "wrong refrigerant's PT scale, followed through"),
    (
        wrong_ring_on_both_gauges,
        1,
        {"suction_saturation": "wrong_ring", "liquid_saturation": "same_slip_paid", "ctoa": "follows_own"},
        "the same wrong PT scale on both dials is one slip",
    ),
    (
        gauges_exchanged,
        1,
        {"suction_saturation": "other_gauge", "liquid_saturation": "same_slip_paid", "superheat": "follows_own"},
        "hoses taken for each other once; all sums follow",
    ),
    (
        swapped,
        1,
        {"superheat": "swapped", "subcooling": "swapped_paid", "superheat_verdict": "verdict_follows"},
        "one slip, one mark; the verdicts fit the boxes as written",
    ),
    (
        swapped_and_called_as_meant,
        1,
        {"superheat": "swapped", "superheat_verdict": "verdict_meant", "subcooling_verdict": "verdict_meant"},
        "one slip, one mark; the verdicts fit the figures that were meant",
    ),
    (
        swapped_and_one_verdict_of_neither,
        2,
        {"superheat": "swapped", "subcooling_verdict": "verdict_wrong"},
        "right fits neither number, that is a second slip",
    ),
    (
        one_sign_turned,
        1,
        {"ctoa": "sign_turned", "ctoa_verdict": "verdict_meant"},
        "the verdict fits the figure that was meant",
    ),
    (
        superheat_turned_and_called_low,
        1,
        {"superheat": "sign_turned", "superheat_verdict": "verdict_follows"},
        "low fits the negative number written",
    ),
    (
        slip_in_one_subtraction,
        1,
        {"evaporator_td": "wrong_number", "evaporator_td_verdict": "verdict_follows"},
        "the verdict follows the slip",
    ),
    (
        slip_and_verdict_against_own_number,
        2,
        {"evaporator_td": "wrong_number", "evaporator_td_verdict": "verdict_wrong"},
        "two slips",
    ),
    (other_saturation_used, 1, {"superheat": "other_saturation"}, "a named slip"),
    (target_of_an_orifice, 1, {"target": "target_wrong_device"}, "target of another metering device"),
    (
        one_field_blank,
        1,
        {"superheat": "blank", "superheat_verdict": "verdict_follows"},
        "blank earns nothing and spoils nothing",
    ),
    (unreadable_number, 1, {"subcooling": "unreadable"}, "words where a number is asked"),
    (
        wrong_fault_right_figures,
        18,
        {"fault": "fault_wrong", "evidence": "evidence_right", "action": "no_plan"},
        "a wrong conclusion from right figures: the fault and every plan after it",
    ),
    (
        wrong_fault_and_its_action,
        18,
        {"fault": "fault_wrong", "action": "no_plan"},
        "a plan for a fault the own figures do not show earns nothing",
    ),
    (
        wrong_fault_and_a_third_action,
        18,
        {"fault": "fault_wrong", "action": "no_plan"},
        "the plan is lost with the conclusion, whatever it is",
    ),
    (
        wrong_fault_and_its_whole_plan,
        18,
        {"fault": "fault_wrong", "amount": "no_plan", "order": "no_plan", "after_head": "no_outcome"},
        "a whole plan that follows from a conclusion the figures do not give",
    ),
    (
        true_but_idle_evidence,
        3,
        {"evidence": "evidence_not_deciding"},
        "an own slip, and evidence that supports and does not decide: half of four",
    ),
    (evidence_that_is_on_target, 4, {"evidence": "evidence_not_off"}, "a figure on target is no evidence"),
    (
        right_fault_with_wrong_evidence,
        4,
        {"fault": "fault_right", "evidence": "evidence_not_off"},
        "right fault, wrong evidence",
    ),
    (letter_of_another_question, 6, {"fault": "unknown_letter"}, "no such choice"),
    (
        two_letters_where_one_is_asked,
        6,
        {"fault": "asked_back"},
        "hedging is not an answer; it is said back as understood",
    ),
    (commas_and_units, 0, {}, "a comma, a unit, degrees Celsius on a Fahrenheit sheet"),
    (sheet_in_celsius, 0, {}, "units written are taken at their word"),
    (verdict_letters_and_words, 0, {}, "L, ok, + are verdicts"),
    (minus_sign_of_a_typesetter, 0, {}, "any minus sign"),
    (
        over_charging_plan,
        1,
        {"amount": "amount_over"},
        "twice as much as is missing: the consequence is told, from the solved machine",
    ),
    (under_charging_plan, 1, {"amount": "amount_short"}, "a fifth of what is missing"),
    (takes_out_what_is_missing, 1, {"amount": "amount_sign"}, "the other way round"),
    (amount_in_pounds, 0, {"amount": "amount_right"}, "pounds are converted"),
    (amount_by_the_printed_chart, 0, {"amount": "amount_right"}, "read off the charge chart printed on the call"),
    (
        amount_by_the_chart_from_an_own_slip,
        1,
        {"subcooling": "wrong_number", "amount": "amount_by_own"},
        "one slip; the weight follows the own figure on the printed chart",
    ),
    (amount_left_blank, 2, {"amount": "blank"}, "blank is not 0"),
    (
        charges_before_the_leak,
        4,
        {"order": "order_harms"},
        "charging before the leak is found is harm: no points for the order",
    ),
    (charges_and_never_looks_for_the_leak, 4, {"order": "order_harms"}, "the leak stays open: no points for the order"),
    (
        does_everything_there_is,
        4,
        {"order": "order_harms"},
        "venting and slugging among the steps is harm, and no plan",
    ),
    (order_with_dashes, 0, {"order": "order_right"}, "dashes part numbers as well"),
    (a_step_that_is_not_there, 4, {"order": "unknown_step"}, "no such step"),
    (says_the_head_falls, 1, {"after_head": "change_wrong"}, "a fuller machine has a higher head"),
    (
        verdict_slip_carried_into_what_it_becomes,
        1,
        {"superheat": "wrong_number", "superheat_verdict": "verdict_follows"},
        "what is high must fall: it follows from the slip",
    ),
    (nothing_written, 33, {"fault": "blank", "superheat": "blank"}, "nothing"),
    (nonsense_everywhere, 33, {"fault": "unreadable", "superheat": "unreadable", "order": "unreadable"}, "nonsense"),
    (emoji_and_a_long_story, 7, {"superheat": "unreadable", "fault": "unreadable"}, "no crash, no marks"),
]


@pytest.mark.parametrize(("case", "lost", "codes", "why"), CASES, ids=[c[0].__name__ for c in CASES])
def test_worked_case(call, case, lost, codes, why):
    given = grade(call, perfect_answers(call) | case(call))
    assert {m.question: m.code for m in given if m.question in codes} == codes, why
    assert total(given) == (33 - lost, 33), [(m.question, m.text) for m in given if m.earned < m.points]


def test_the_table_is_long_enough_and_its_page_in_the_docs_is_the_same():
    assert len(CASES) >= 40
    page = (Path(__file__).parents[2] / "docs/marking.md").read_text()
    for case, lost, _, why in CASES:
        assert f"| {case.__name__.replace('_', ' ')} | {33 - lost} | {why} |" in page


def test_every_reason_has_a_sentence(call):
    for case, _, _, _ in CASES:
        for mark in grade(call, perfect_answers(call) | case(call)):
            assert mark.text and "{" not in mark.text


def test_the_orifice_target_comes_from_the_formula_and_ten_is_named(orifice_call):
    right = perfect_answers(orifice_call)
    assert total(grade(orifice_call, right)) == (33, 33)
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
    assert earned <= 6
