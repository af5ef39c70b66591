"""What must be earned: worked cases of answers without work behind them, of plans, harm, amounts, routes and typing.

Each case says what stands on the paper otherwise than on the key, the points an examiner would take off and why. Common
practice among examiners, no source.
"""

import itertools
from dataclasses import replace
from functools import cache
from pathlib import Path

import pytest

from tests.conftest import ORIFICE, VALVE, offering, planned
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.marking.rules import NO_RULES, rules
from wolfsbane.exercise.paper.call import call_from_json

FIGURES = ("superheat", "subcooling", "evaporator_td", "ctoa")
SATURATIONS = ("suction_saturation", "liquid_saturation")
NUMBERS = (*SATURATIONS, *FIGURES, "target")
AFTER = ("after_suction", "after_head", "after_superheat", "after_subcooling")
KINDS = {
    "short": ("undercharge", 80, VALVE, ("overcharge", "dirty_condenser", "low_airflow")),
    "overfull": ("overcharge", 124, VALVE, ("undercharge", "dirty_condenser")),
    "dirty": ("dirty_condenser", 52, VALVE, ("undercharge", "overcharge")),
    "compressor": ("leaking_compressor_valves", 52, VALVE, ("undercharge",)),
    "restricted": ("liquid_line_restriction", 200, VALVE, ("undercharge",)),
    "flooding": ("valve_overfeeding", 100, VALVE, ("undercharge",)),
    "orifice short": ("undercharge", 72, ORIFICE, ("low_airflow",)),
    "normal": ("none", None, VALVE, ("undercharge", "overcharge")),
}


@cache
def call(kind):
    fault, severity, machine, wanted = KINDS[kind]
    return call_from_json(offering(planned(fault, severity, machine), "us", *wanted).to_json())


def blank(*questions):
    return dict.fromkeys(questions, "")


def letter(b, question, wanted):
    return {question: b.choices.letter(question, wanted)}


def steps(b, *wanted):
    return {"order": " ".join(str(b.choices.number(s)) for s in wanted)}


def oz(value):
    return {"amount": f"{value:+.1f}"}


def nothing_but_letters(b):
    return blank(*NUMBERS)


def verdicts_without_their_figures(b):
    return blank(*FIGURES, *SATURATIONS)


def figures_left_out_but_saturations_read(b):
    return blank(*FIGURES)


def one_figure_and_the_rest_guessed(b):
    return blank(*SATURATIONS, "superheat", "evaporator_td", "ctoa")


def all_normal_and_nothing_wrong(b):
    rings = {f"{name}_verdict": "normal" for name in FIGURES}
    plan = letter(b, "fault", "none") | letter(b, "evidence", "all_on_target") | letter(b, "action", "none")
    same = dict.fromkeys(AFTER, "same")
    return blank(*NUMBERS) | rings | plan | steps(b, "leave") | {"amount": "0"} | same


def right_figures_then_nothing_wrong(b):
    return letter(b, "fault", "none") | letter(b, "evidence", "all_on_target") | letter(b, "action", "none")


def ten_in_every_box(b):
    return dict.fromkeys(NUMBERS, "10")


def one_ring_against_its_own_figure(b):
    return {"subcooling_verdict": {"low": "high", "high": "low", "normal": "low"}[b.key.verdicts["subcooling"]]}


def made_up_saturations_worked_through(b):
    known = {k: r.value for k, r in b.readings.items()} | {"suction_saturation": 61.0, "liquid_saturation": 148.0}
    differences = {
        "superheat": known["suction_line"] - 61.0,
        "subcooling": 148.0 - known["liquid_line"],
        "evaporator_td": known["return_db"] - 61.0,
        "ctoa": 148.0 - known["outdoor_db"],
    }
    rings = {f"{name}_verdict": b.key.bands[name].verdict(value) for name, value in differences.items()}
    numbers = {"suction_saturation": "61", "liquid_saturation": "148"} | {k: f"{v:.1f}" for k, v in differences.items()}
    return numbers | rings | letter(b, "fault", "overcharge")


def both_scales_misread_a_little(b):
    """Two honest slips of three degrees, each carried through."""
    low, high = b.key.figures["suction_saturation"] + 1.7, b.key.figures["liquid_saturation"] + 1.6
    known = {k: r.value for k, r in b.readings.items()}
    values = {
        "suction_saturation": low,
        "liquid_saturation": high,
        "superheat": known["suction_line"] - low,
        "subcooling": high - known["liquid_line"],
        "evaporator_td": known["return_db"] - low,
        "ctoa": high - known["outdoor_db"],
    }
    rings = {f"{name}_verdict": b.key.bands[name].verdict(values[name]) for name in FIGURES}
    return {name: f"{value:.1f}" for name, value in values.items()} | rings


def fault_left_blank_and_the_step_right(b):
    return {"fault": ""}


def fault_and_step_left_blank(b):
    return {"fault": "", "action": ""}


def calls_it_low_and_adds_twenty(b):
    low = letter(b, "fault", "undercharge") | letter(b, "action", "undercharge") | letter(b, "evidence", "subcooling")
    return low | {"subcooling_verdict": "low"} | oz(20) | steps(b, "leak", "add", "settle", "close")


def adds_to_it_all_the_same(b):
    return oz(20)


def recovers_a_pound_too_much(b):
    return oz(b.key.repair.amount.value - 40)


def weighs_in_the_whole_charge(b):
    return steps(b, "recover", "weigh_in", "settle", "close") | oz(b.key.repair.amount.charge)


def lets_the_extra_gas_out(b):
    return steps(b, "vent", "settle", "close")


def takes_gas_out_of_a_dirty_machine(b):
    return steps(b, "wash", "remove", "settle")


def locks_out_and_dries_it_too(b):
    return steps(b, "lock_out", "wash", "dry", "settle", "close")


def looks_at_the_airflow_as_well(b):
    return steps(b, "airflow", "wash", "settle")


def reads_before_it_is_washed(b):
    return steps(b, "settle", "wash")


def does_two_needless_things(b):
    return steps(b, "airflow", "outside", "wash", "settle")


def condemns_the_compressor_unproven(b):
    return steps(b, "recover", "part", "pressure_test", "evacuate", "weigh_in", "settle", "close")


def opens_it_with_the_charge_inside(b):
    return steps(b, "prove", "part", "pressure_test", "evacuate", "weigh_in", "settle", "close")


def evacuates_before_the_pressure_test(b):
    return steps(b, "prove", "recover", "part", "evacuate", "pressure_test", "weigh_in", "settle", "close")


def reads_while_it_is_charging(b):
    return steps(
        b, "prove", "recover", "part", "pressure_test", "evacuate", "weigh_in", "read_charging", "settle", "close"
    )


def stops_after_the_weigh_in(b):
    return steps(b, "prove", "recover", "part", "pressure_test", "evacuate", "weigh_in")


def pours_liquid_into_the_suction(b):
    return steps(b, "leak", "slug", "settle", "close")


def finds_the_leak_and_charges_by_weight(b):
    return steps(b, "recover", "leak", "pressure_test", "evacuate", "weigh_in", "settle", "close")


def proves_the_drier_first(b):
    return steps(b, "prove", "recover", "part", "pressure_test", "evacuate", "weigh_in", "settle", "close")


def straps_the_bulb_and_reads(b):
    return steps(b, "outside", "settle")


def replaces_the_valve_after_the_bulb(b):
    return steps(b, "outside", "prove", "recover", "part", "pressure_test", "evacuate", "weigh_in", "settle", "close")


def adds_to_raise_the_subcooling(b):
    return steps(b, "add", "settle", "close") | oz(20)


def just_inside_the_band(b):
    return oz(b.key.repair.amount.low + 0.06)


def just_outside_the_band(b):
    return oz(b.key.repair.amount.high + 1.5)


def seventy_ounces_on_an_orifice(b):
    return oz(70)


def weight_in_pounds_and_ounces(b):
    value = round(b.key.repair.amount.value)
    return {"amount": f"{value // 16} lb {value % 16} oz"}


def writes_the_fault_by_its_name(b):
    return {"fault": "low charge", "superheat_verdict": b.key.verdicts["superheat"].upper()}


def writes_ranges(b):
    low = b.key.figures["superheat"]
    return {"superheat": f"{low - 1:.0f}-{low + 1:.0f}"}


def arrows_between_the_steps(b):
    return {"order": perfect_answers(b)["order"].replace(" ", "→")}


def says_it_drops(b):
    words = {"down": "drops", "same": "no change", "up": "goes up"}
    return {q: words[perfect_answers(b)[q]] for q in AFTER}


def adds_to_a_normal_machine(b):
    return oz(10) | steps(b, "add", "settle", "close")


#: (kind, what is written differently from the key, points lost, codes, why)
CASES = [
    (
        "short",
        nothing_but_letters,
        30,
        {"suction_saturation": "blank", "superheat_verdict": "no_work"},
        "right letters with no figure behind them: a quarter, rounded down",
    ),
    (
        "short",
        verdicts_without_their_figures,
        29,
        {"suction_saturation": "blank", "superheat_verdict": "no_work"},
        "verdicts, conclusion and plan with no figures behind them",
    ),
    (
        "short",
        figures_left_out_but_saturations_read,
        4,
        {"subcooling_verdict": "verdict_follows"},
        "the figures follow from the saturations that stand there",
    ),
    (
        "short",
        one_figure_and_the_rest_guessed,
        24,
        {"suction_saturation": "blank", "superheat_verdict": "no_work"},
        "subcooling carries its verdict and the evidence; one figure of four carries no conclusion",
    ),
    (
        "short",
        all_normal_and_nothing_wrong,
        33,
        {"suction_saturation": "blank", "superheat_verdict": "no_work"},
        "no work and a wrong conclusion",
    ),
    (
        "short",
        right_figures_then_nothing_wrong,
        22,
        {"fault": "fault_wrong", "evidence": "evidence_not_off"},
        "all on target on a machine that is not; the figures alone earn",
    ),
    (
        "short",
        ten_in_every_box,
        29,
        {"suction_saturation": "wrong_number", "superheat_verdict": "no_work"},
        "numbers that came about by nothing carry nothing; the target happens to be ten",
    ),
    (
        "short",
        one_ring_against_its_own_figure,
        1,
        {"subcooling_verdict": "verdict_wrong"},
        "the conclusion follows the figures, not the word circled",
    ),
    (
        "short",
        made_up_saturations_worked_through,
        31,
        {"suction_saturation": "wrong_number", "superheat": "foreign", "ctoa_verdict": "no_work"},
        "saturations that belong to no reading here: nothing follows from them",
    ),
    (
        "short",
        both_scales_misread_a_little,
        2,
        {"suction_saturation": "wrong_number", "superheat": "follows_own", "fault": "fault_right"},
        "two slips, two marks; everything after them follows",
    ),
    ("short", fault_left_blank_and_the_step_right, 6, {"action": "action_right"}, "the first step says what was found"),
    (
        "short",
        fault_and_step_left_blank,
        18,
        {"fault": "blank", "amount": "no_conclusion"},
        "nothing was concluded, so no plan follows",
    ),
    ("short", pours_liquid_into_the_suction, 4, {"order": "order_harms"}, "slugging the compressor costs the order"),
    ("short", finds_the_leak_and_charges_by_weight, 0, {"order": "order_right"}, "the other legal route"),
    ("short", just_inside_the_band, 0, {"amount": "amount_right"}, "on target by the solved curve"),
    (
        "short",
        just_outside_the_band,
        1,
        {"amount": "amount_over"},
        "the repaired machine stands off its target: half of two",
    ),
    ("short", weight_in_pounds_and_ounces, 0, {"amount": "amount_right"}, "pounds and ounces are added up"),
    ("short", writes_the_fault_by_its_name, 0, {}, "everyday names are read"),
    ("short", writes_ranges, 1, {"superheat": "asked_back"}, "a range is no answer; it is said back"),
    ("short", arrows_between_the_steps, 0, {"order": "order_right"}, "any sign between the numbers"),
    ("short", says_it_drops, 0, {"after_head": "change_right"}, "everyday words for down, same and up"),
    (
        "overfull",
        calls_it_low_and_adds_twenty,
        19,
        {"subcooling_verdict": "verdict_wrong", "fault": "fault_wrong"},
        "right figures, a word against them, and a plan that harms",
    ),
    (
        "overfull",
        adds_to_it_all_the_same,
        2,
        {"amount": "amount_harms"},
        "adding to an overfull machine; the consequence is told",
    ),
    ("overfull", recovers_a_pound_too_much, 1, {"amount": "amount_over"}, "the right way, too far: half of two"),
    (
        "overfull",
        weighs_in_the_whole_charge,
        0,
        {"amount": "amount_whole", "order": "order_right"},
        "all out and weighed in is a legal route, and the whole charge its weight",
    ),
    ("overfull", lets_the_extra_gas_out, 4, {"order": "order_harms"}, "refrigerant is recovered, never vented"),
    ("dirty", takes_gas_out_of_a_dirty_machine, 4, {"order": "order_harms"}, "lowering a head that dirt raises"),
    ("dirty", locks_out_and_dries_it_too, 0, {"order": "order_right"}, "what is allowed costs nothing"),
    (
        "dirty",
        looks_at_the_airflow_as_well,
        2,
        {"order": "order_needless"},
        "one needless, harmless step: half of four",
    ),
    (
        "dirty",
        reads_before_it_is_washed,
        2,
        {"order": "order_not_in_order"},
        "the reading comes after the wash: half of four",
    ),
    ("dirty", does_two_needless_things, 4, {"order": "order_wrong"}, "two needless steps are no plan"),
    (
        "dirty",
        right_figures_then_nothing_wrong,
        22,
        {"fault": "fault_wrong", "evidence": "evidence_not_off"},
        "the figures alone earn",
    ),
    (
        "compressor",
        condemns_the_compressor_unproven,
        4,
        {"order": "order_harms"},
        "a compressor is proved before it is condemned",
    ),
    (
        "compressor",
        opens_it_with_the_charge_inside,
        4,
        {"order": "order_harms"},
        "recover before the circuit is opened",
    ),
    (
        "compressor",
        evacuates_before_the_pressure_test,
        2,
        {"order": "order_not_in_order"},
        "all steps, two of them exchanged: half of four",
    ),
    (
        "compressor",
        reads_while_it_is_charging,
        4,
        {"order": "order_harms"},
        "readings while refrigerant goes in mean nothing",
    ),
    (
        "compressor",
        stops_after_the_weigh_in,
        2,
        {"order": "order_not_complete"},
        "in order, no reading and no caps: half of four",
    ),
    ("restricted", proves_the_drier_first, 0, {"order": "order_right"}, "a proof test is allowed where none is due"),
    (
        "restricted",
        opens_it_with_the_charge_inside,
        4,
        {"order": "order_harms"},
        "recover before the circuit is opened",
    ),
    ("flooding", straps_the_bulb_and_reads, 0, {"order": "order_right"}, "the bulb first is a legal route"),
    (
        "flooding",
        replaces_the_valve_after_the_bulb,
        0,
        {"order": "order_right"},
        "bulb, proof, then the valve: legal too",
    ),
    (
        "flooding",
        adds_to_raise_the_subcooling,
        6,
        {"amount": "amount_harms", "order": "order_harms"},
        "adding to a flooding machine costs weight and order",
    ),
    (
        "orifice short",
        seventy_ounces_on_an_orifice,
        2,
        {"amount": "amount_floods"},
        "it would flood: nothing, and the consequence is told",
    ),
    ("orifice short", just_inside_the_band, 0, {"amount": "amount_right"}, "on target by the solved curve"),
    ("orifice short", finds_the_leak_and_charges_by_weight, 0, {"order": "order_right"}, "the other legal route"),
    (
        "normal",
        adds_to_a_normal_machine,
        6,
        {"amount": "amount_none_wanted", "order": "order_wrong"},
        "found normal and charged all the same",
    ),
    (
        "normal",
        all_normal_and_nothing_wrong,
        30,
        {"suction_saturation": "blank", "superheat_verdict": "no_work"},
        "the right letters with no figure behind them",
    ),
]


def possible(kind):
    """Points a call of a kind is worth."""
    return sum(q.points for q in call(kind).questions)


@pytest.mark.parametrize("kind", KINDS)
def test_the_key_earns_all(kind):
    assert total(grade(call(kind), perfect_answers(call(kind)))) == (possible(kind), possible(kind))


@pytest.mark.parametrize(
    ("kind", "case", "lost", "codes", "why"), CASES, ids=[f"{c[0]}: {c[1].__name__}" for c in CASES]
)
def test_worked_case(kind, case, lost, codes, why):
    marks = grade(call(kind), perfect_answers(call(kind)) | case(call(kind)))
    assert {m.question: m.code for m in marks if m.question in codes} == codes, why
    assert total(marks) == (possible(kind) - lost, possible(kind)), [
        (m.question, m.text) for m in marks if m.earned < m.points
    ]
    assert all(m.text and "{" not in m.text for m in marks)


def test_the_page_in_the_docs_is_the_same():
    assert len(CASES) >= 40 and {c[0] for c in CASES} == set(KINDS)
    page = (Path(__file__).parents[2] / "docs/marking.md").read_text()
    for kind, case, lost, _, why in CASES:
        said = case.__name__.replace("_", " ")
        assert f"| {kind} | {said} | {possible(kind) - lost} of {possible(kind)} | {why} |" in page


def test_an_amount_is_right_exactly_where_the_solved_curve_is_on_target():
    """Every weight over the whole curve: right if and only if the figure lies in its band and nothing floods."""
    for kind in ("short", "overfull", "orifice short"):
        b = call(kind)
        amount, band, figure = b.key.repair.amount, b.key.bands[b.key.target_of], b.key.target_of
        rows = [(p.moved, getattr(p, figure), p.superheat) for p in amount.curve]
        least = max(0.02 * amount.charge, 0.1)
        for (a, va, sa), (z, vz, sz) in itertools.pairwise(rows):
            for share in (0.0, 0.25, 0.5, 0.75):
                moved, value, superheat = (p + share * (q - p) for p, q in ((a, z), (va, vz), (sa, sz)))
                inside = band.low <= value <= band.high and superheat >= 3.0
                edge = min(abs(moved - amount.low), abs(moved - amount.high)) < 0.2
                close = abs(moved - amount.value) <= least + 0.1
                mark = next(m for m in grade(b, perfect_answers(b) | oz(moved)) if m.question == "amount")
                if not edge and not close:
                    assert (mark.earned == mark.points) == inside, (kind, moved, value, superheat, mark.code)


def test_an_unsafe_step_fails_the_call_only_where_the_practice_says_so():
    b = call("overfull")
    answers = perfect_answers(b) | lets_the_extra_gas_out(b)
    earned, _ = total(grade(b, answers))
    strict = replace(b, practice=b.practice | {"unsafe_fails": True})
    failed = grade(strict, answers)
    assert earned > 20 and total(failed) == (0, possible("overfull"))
    assert {m.code for m in failed} == {"call_failed"} and "never vented" in failed[0].text
    assert total(grade(strict, perfect_answers(b))) == (possible("overfull"), possible("overfull"))


def test_a_fault_question_that_is_taken_out_costs_no_plan():
    b = call("overfull")
    wrong = perfect_answers(b) | letter(b, "fault", "undercharge")
    asked, out = (total(grade(b, wrong, by)) for by in (NO_RULES, rules({"void": ["fault"]})))
    assert asked == (15, 33) and out == (27, 27)
