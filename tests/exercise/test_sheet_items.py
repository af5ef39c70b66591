"""Items of a sheet: what is asked and given, drills and rigs on paper, rules, free text,
answers the proof leaves open.
"""

import json
import random

import pytest

from tests.conftest import ORIFICE, VALVE, offering, planned
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.profiles import machine
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw import rig
from wolfsbane.exercise.draw.ladder import PAIRS
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.drill_marks import lettered
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.marking.rules import rules
from wolfsbane.exercise.paper.asked import asked
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.repairs import ways_back
from wolfsbane.exercise.paper.routes import listed, routes
from wolfsbane.exercise.plan.scenario import scenario

BRIEF = {"title": "Friday", "machines": [VALVE, ORIFICE]}


def frozen(data, index=0, system="us", **more):
    """A body as the database gives it back."""
    drawn = items_of.draw(items_of.item(data), 1, index, system, 77, **more)
    return frozen_body.body_from_json(json.loads(json.dumps(drawn.to_json())))


def by_id(marks):
    return {m.question: m for m in marks}


@pytest.fixture(scope="module")
def rig_body():
    return frozen({"kind": "rig", "body": planned("dirty_condenser", 60).to_json()})


MEASURED = {
    "suction_pressure": 128,
    "head_pressure": 418,
    "suction_line": 57,
    "liquid_line": 107,
    "return_db": 78,
    "return_wb": 65.5,
    "outdoor_db": 93,
}


def measured(call, **changes):
    planned_ = scenario(planned("dirty_condenser", 60).to_json())
    values = rig.checked_readings(call, MEASURED | changes)
    made = rig.measured_call(call, planned_.profile, planned_.practice, values)
    return made, rig.warnings(call, planned_.profile, planned_, values, made)


# what is asked and given
# ---------------------------------------------------------------------------


def test_a_call_asks_what_the_sheet_wants_with_the_points_it_gives():
    body = frozen(
        {
            "kind": "scenario",
            "body": planned().to_json(),
            "asked": {
                "parts": ["diagnose", "because"],
                "points": {"fault": 3, "because": 4},
                "instruments": "digital",
                "chart": True,
            },
        }
    )
    questions = {q.id: q.points for q in frozen_body.questions_of(body)}
    assert questions["fault"] == 3 and questions["because"] == 4 and "amount" not in questions and len(questions) == 15
    assert body.instruments == "digital" and body.key.chart is True
    # Where no repair is asked the evidence and the first step weigh double; free text waits for the instructor.
    assert total(frozen_body.grade_body(body, frozen_body.key_answers(body))) == (24, 28)


def test_sealed_results_are_asked_of_the_solved_machine_and_only_where_they_suit():
    body = frozen(
        {
            "kind": "scenario",
            "body": planned("undercharge", 75, ORIFICE).to_json(),
            "asked": {"tests": ["standing_pressure", "bulb_warmed"]},
        }
    )
    assert [s.id for s in body.key.slips] == ["standing_pressure"] and body.key.slips[0].text


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({"parts": ["correct"]}, "asked.parts"),
        ({"parts": ["dance"]}, "asked.parts"),
        ({"points": {"fault": 13}}, "asked.points.fault"),
        ({"points": {"mood": 1}}, "asked.points"),
        ({"points": {"fault": True}}, "asked.points.fault"),
        ({"instruments": "spoon"}, "asked.instruments"),
        ({"tests": ["taste"]}, "asked.tests"),
        ({"practice": "hearsay"}, "practice"),
        ({"school": "hearsay"}, "practice"),
        ({"colour": 1}, "asked.colour"),
    ],
)
def test_a_wrong_wish_is_named(data, field):
    with pytest.raises(BadInputError) as error:
        asked(data)
    assert error.value.field == field


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({"kind": "dance"}, "items.kind"),
        ({"kind": ["drill"]}, "items.kind"),
        ([], "items.kind"),
        ({"kind": "drill", "drill": "dial"}, "items.brief"),
        ({"kind": "rung", "brief": [], "rung": {}}, "items.brief"),
        ({"kind": "rung", "brief": BRIEF, "rung": [1]}, "items.rung"),
        ({"kind": "rung", "brief": BRIEF, "rung": {"number": 1, "level": 1, "skills": "none"}}, "items.rung"),
        ({"kind": "rung", "brief": BRIEF, "rung": {"number": True, "level": 1, "skill": "none"}}, "items.rung.number"),
        ({"kind": "rung", "brief": BRIEF, "rung": {"number": 1, "level": 1, "way": ["usual"]}}, "items.rung.way"),
        ({"kind": "situation", "brief": BRIEF, "situation": []}, "items.situation"),
        ({"kind": "drill", "brief": BRIEF, "drill": {}}, "items.drill"),
        ({"kind": "drill", "brief": BRIEF, "drill": "dial", "items": True}, "items.items"),
        ({"kind": "drill", "brief": BRIEF, "drill": "dance"}, "items.drill"),
        ({"kind": "drill", "brief": BRIEF, "drill": "dial", "items": 99}, "items.items"),
        ({"kind": "rung", "brief": BRIEF, "rung": {"number": 1, "level": 9, "skill": "none"}}, "items.rung.level"),
        ({"kind": "rung", "brief": BRIEF, "rung": {"number": 1, "level": 1, "skill": "gremlins"}}, "items.rung.skill"),
    ],
)
def test_an_item_that_cannot_be_is_named(data, field):
    with pytest.raises(BadInputError) as error:
        items_of.item(data)
    assert error.value.field == field


def test_the_same_item_gives_the_same_body_and_a_retake_another():
    data = {"kind": "scenario", "body": planned().to_json()}
    assert frozen(data) == frozen(data)
    others = [frozen(data, index=1), frozen(data, attempt=2), frozen(data, again=1)]
    assert len({frozen_body.mark_of_copy(b) for b in (frozen(data), *others)}) == 4


def test_a_rung_has_the_level_and_the_skill_it_states():
    body = frozen({"kind": "rung", "brief": BRIEF, "rung": {"number": 1, "level": 2, "skill": "undercharge"}})
    assert frozen_body.level_of(body) == 2 and body.key.faults == ("undercharge",) and body.key.unique


@pytest.mark.parametrize(
    ("fault", "severity", "machine"),
    [("undercharge", 72, VALVE), ("dirty_condenser", 52, VALVE), ("low_airflow", 44, ORIFICE), ("none", None, VALVE)],
)
def test_a_call_without_gauges_is_read_off_two_pipes_and_leads_to_the_same_verdicts(fault, severity, machine):
    """Mid-condenser bend and evaporator inlet stand for the saturations: common practice, no source."""
    body = frozen(
        {"kind": "scenario", "body": planned(fault, severity, machine).to_json(), "asked": {"instruments": "pipes"}}
    )
    assert body.instruments == "pipes" and not any(key.endswith("_pressure") for key in body.readings)
    figures, readings = body.key.figures, {k: r.value for k, r in body.readings.items()}
    assert (
        figures["suction_saturation"] == readings["evaporator_inlet"]
        and figures["liquid_saturation"] == readings["condenser_bend"]
    )
    assert figures["superheat"] == pytest.approx(readings["suction_line"] - readings["evaporator_inlet"], abs=0.01)
    marks = frozen_body.grade_body(body, frozen_body.key_answers(body))
    assert total(marks) == (33, 33) and body.key.fault == fault
    assert (
        by_id(
            frozen_body.grade_body(
                body, frozen_body.key_answers(body) | {"suction_saturation": f"{figures['liquid_saturation']:.1f}"}
            )
        )["suction_saturation"].code
        == "other_gauge"
    )


def test_pipes_are_refused_in_mild_weather_and_on_a_rig():
    mild = planned("undercharge", 75, outdoor_db_f=72).to_json()
    for data in (
        {"kind": "scenario", "body": mild, "asked": {"instruments": "pipes"}},
        {"kind": "rig", "body": planned("dirty_condenser", 60).to_json(), "asked": {"instruments": "pipes"}},
    ):
        with pytest.raises(BadInputError) as error:
            frozen(data)
        assert error.value.field == "asked.instruments"


def test_a_rung_of_a_brief_can_be_read_off_pipes_too():
    body = frozen(
        {
            "kind": "rung",
            "brief": BRIEF,
            "rung": {"number": 1, "level": 2, "skill": "undercharge"},
            "asked": {"instruments": "pipes"},
        }
    )
    assert body.instruments == "pipes" and total(frozen_body.grade_body(body, frozen_body.key_answers(body))) == (
        33,
        33,
    )


# drills
# ---------------------------------------------------------------------------


@pytest.mark.parametrize("system", ["us", "si"])
@pytest.mark.parametrize("kind", ["conversion", "dial", "superheat", "subcooling", "spot_the_error", "bookkeeping"])
def test_a_drill_on_paper_earns_all_for_its_key_and_nothing_for_nothing(kind, system):
    body = frozen({"kind": "drill", "brief": BRIEF, "drill": kind, "items": 5}, system=system)
    right = frozen_body.grade_body(body, frozen_body.key_answers(body))
    assert right and all(m.earned == m.points == 1 for m in right), [
        (m.question, m.text) for m in right if not m.earned
    ]
    assert not any(m.earned for m in frozen_body.grade_body(body, {})) and body.drill["kind"] == kind


def test_the_ring_of_a_dial_follows_the_pressure_somebody_read():
    body = frozen({"kind": "drill", "brief": BRIEF, "drill": "dial", "items": 2})
    first = body.drill["items"][0]
    off = first["answer"] + 8
    follows = first["second"]["answer"] + 8 * first["second"]["per"]
    marks = by_id(
        frozen_body.grade_body(body, frozen_body.key_answers(body) | {"d1": f"{off:g}", "d1_second": f"{follows:.1f}"})
    )
    assert (marks["d1"].earned, marks["d1_second"].earned) == (0, 1)


def test_a_known_slip_in_a_drill_is_named():
    body = frozen({"kind": "drill", "brief": BRIEF, "drill": "superheat", "items": 3})
    item = next(i for i in body.drill["items"] if not i.get("worked"))
    mark = by_id(frozen_body.grade_body(body, {f"d{item['number']}": f"{-item['answer']:g}"}))[f"d{item['number']}"]
    assert mark.code == "drill_slip" and "subtracted backward" in mark.text and not mark.earned


def test_the_wrong_line_is_asked_by_its_letter():
    body = frozen({"kind": "drill", "brief": BRIEF, "drill": "spot_the_error", "items": 1})
    item = body.drill["items"][0]
    letters = {row["letter"]: row["line"] for row in lettered(item)}
    wrong = next(letter for letter, line in letters.items() if line != item["answer_line"])
    mark = by_id(frozen_body.grade_body(body, frozen_body.key_answers(body) | {"d1_line": wrong}))["d1_line"]
    assert mark.code == "drill_line" and not mark.earned and letters[mark.text.split(": ")[1][0]] == item["answer_line"]


# more points, free text, rules
# ---------------------------------------------------------------------------


def weighty(**points):
    return offering(
        planned(), "us", "overcharge", asked=asked({"parts": ["diagnose", "correct", "because"], "points": points})
    )


def test_a_recognised_slip_earns_half_where_a_question_carries_two_points():
    call = weighty(ctoa=2, suction_saturation=4, amount=2)
    right = perfect_answers(call)
    marks = by_id(
        grade(
            call,
            right | {"ctoa": f"{-call.key.figures['ctoa']:.1f}", "amount": f"{2.5 * call.key.repair.amount.value:g}"},
        )
    )
    assert (marks["ctoa"].code, marks["ctoa"].earned) == ("sign_turned", 1)
    assert (marks["amount"].code, marks["amount"].earned) == ("amount_over", 1)
    pt_scale = next(m.value for m in call.key.mistakes["suction_saturation"] if m.code.startswith("wrong_ring"))
    assert by_id(grade(call, right | {"suction_saturation": f"{pt_scale:.1f}"}))["suction_saturation"].earned == 2


@pytest.mark.parametrize(
    ("text", "suggested", "word"),
    [
        ("Subcooling {sc} is low and superheat {sh}", 2, "supported by your work"),
        ("subcooling is low", 1, "subcooling low"),
        ("Subcooling 25 is low", 0, "not supported"),
        ("it is cold outside", 0, "no figure"),
        ("Subcooling {sc} but CTOA is high", 1, "not supported: ctoa high"),
    ],
)
def test_free_text_is_matched_on_its_figures_and_only_suggested(text, suggested, word):
    call = weighty()
    said = text.format(
        sc=f"{call.key.figures['subcooling']:.0f}".replace("-0", "0"), sh=f"{call.key.figures['superheat']:.0f}"
    )
    mark = by_id(grade(call, perfect_answers(call) | {"because": said}))["because"]
    assert (mark.earned, mark.suggested, mark.code) == (0, suggested, "to_confirm") and word in mark.text


def test_a_rule_accepts_widens_and_takes_out():
    call = weighty()
    over = next(c for c in call.choices.fault if c.id == "overcharge")
    wrong = perfect_answers(call) | {
        "fault": over.letter,
        "suction_saturation": f"{call.key.figures['suction_saturation'] + 1.8:.1f}",
        "ctoa": "",
    }
    before = by_id(grade(call, wrong))
    after = by_id(
        grade(call, wrong, rules({"accept": {"fault": ["overcharge"]}, "wider": {"saturation": 2}, "void": ["ctoa"]}))
    )
    assert [before[q].earned for q in ("fault", "suction_saturation", "ctoa")] == [0, 0, 0]
    assert [after[q].code for q in ("fault", "suction_saturation", "ctoa")] == ["accepted", "right_reading", "void"]
    # what does not count still says whether it is right
    marks = [
        {"question": m.question, "points": m.points, "earned": m.earned, "code": m.code, "params": m.params}
        for m in after.values()
    ]
    rights = {}
    for ctoa in ("", perfect_answers(call)["ctoa"]):
        told = feedback(call, wrong | {"ctoa": ctoa}, marks)
        lines = {r["question"]: r for part in told["steps"] for r in part["rows"]}
        assert lines["ctoa"]["excluded"] and not lines["fault"]["excluded"] and lines["fault"]["right"] is None
        rights[ctoa] = lines["ctoa"]["right"]
    assert list(rights.values()) == [False, True]
    assert [one["text"] for one in told["shown"]] == [r.text for r in call.readings.values()]
    assert after["fault"].earned == 6 and after["ctoa"].points == 0


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({"accept": {"mood": []}}, "rules.accept"),
        ({"wider": {"sum": 9}}, "rules.wider.sum"),
        ({"wider": {"mood": 2}}, "rules.wider"),
        ({"void": ["mood"]}, "rules.void"),
        ({"mood": 1}, "rules.mood"),
        ({"accept": {"fault": "overcharge"}}, "rules.accept.fault"),
    ],
)
def test_a_rule_that_cannot_be_is_named(data, field):
    with pytest.raises(BadInputError) as error:
        rules(data)
    assert error.value.field == field


def test_every_answer_the_readings_leave_open_earns_in_full():
    """An orifice a size too large reads like an overcharge here; refused unless the sheet lets it stay open."""
    planned_ = planned("orifice_oversized", 122, ORIFICE, spread_depth_pct=2)
    call = vary(planned_, "us", 1, asked=asked({"leave_open": True}))
    offered = {c.id: c.letter for c in call.choices.fault}
    others = [f for f in call.key.also_open if f in offered and f not in call.key.faults]
    assert "overcharge" in others
    # Without that leave the same seed has to look for readings that tell them apart, or gives up.
    try:
        strict = vary(planned_, "us", 1)
    except ValueError as error:
        assert "no variant with one defensible answer" in str(error)
    else:
        assert "overcharge" not in strict.key.also_open and strict.readings != call.readings
    mark = by_id(grade(call, perfect_answers(call) | {"fault": offered[others[0]]}))["fault"]
    assert (mark.earned, mark.code) == (6, "fault_open")


# the correcting half
# ---------------------------------------------------------------------------


WHOLE = ("recover", "evacuate", "weigh_in", "settle", "close")
OPENED = ("recover", "part", "pressure_test", "evacuate", "weigh_in", "settle", "close")


@pytest.mark.parametrize(
    ("fault", "ways"),
    [
        ("undercharge", [("leak", "add", "settle", "close"), (WHOLE[0], "leak", "pressure_test", *WHOLE[1:])]),
        ("overcharge", [("remove", "settle", "close"), ("recover", "weigh_in", "settle", "close")]),
        ("dirty_condenser", [("wash", "settle")]),
        ("wet_condenser", [("dry", "settle")]),
        ("non_condensables", [("prove", *WHOLE)]),
        ("low_airflow", [("airflow", "settle")]),
        ("liquid_line_restriction", [OPENED]),
        ("leaking_compressor_valves", [("prove", *OPENED)]),
        ("valve_overfeeding", [("outside", "settle"), ("prove", *OPENED)]),
        ("orifice_oversized", [OPENED]),
        ("low_load", [("leave",)]),
    ],
)
def test_the_routes_are_those_a_good_technician_takes(fault, ways):
    """Leak before charge, proof before the torch, all of it out before anew: common practice, no source."""
    found = routes((Fault(id=fault, severity=fault_kind(fault).moderate),))
    assert [listed(route) for route in found] == ways


def test_a_step_left_out_does_not_undo_the_order_of_the_rest():
    """An optional step between two others keeps them apart whether it is taken or not."""
    for route in routes((Fault(id="overcharge", severity=120),)):
        assert "weigh_in" not in route.needed or ("recover", "weigh_in") in route.before
    for fault in ("non_condensables", "leaking_compressor_valves", "undercharge"):
        for route in routes((Fault(id=fault, severity=fault_kind(fault).moderate),)):
            for a, b in route.before:
                for c, d in route.before:
                    assert b != c or a == "lock_out" or (a, d) in route.before, (fault, a, b, d)


def test_a_test_that_is_given_need_not_be_made_again():
    fault = (Fault(id="leaking_compressor_valves", severity=30),)
    assert "prove" not in routes(fault, ("pump_down",))[0].needed and "prove" in routes(fault, ("filter",))[0].needed


def test_of_two_faults_air_comes_before_charge_and_an_opened_circuit_takes_one_charge():
    air = (Fault(id="low_airflow", severity=50), Fault(id="undercharge", severity=80))
    assert listed(routes(air)[0]) == ("airflow", "leak", "add", "settle", "close")
    both = routes((Fault(id="liquid_line_restriction", severity=150), Fault(id="undercharge", severity=80)))
    assert all("add" not in route.needed and "weigh_in" in route.needed for route in both)
    assert listed(routes(())[0]) == ("leave",)


@pytest.mark.parametrize("pair", PAIRS, ids="+".join)
def test_every_route_can_be_walked(pair):
    """No two steps each wait for the other."""
    for route in routes(tuple(Fault(id=f, severity=fault_kind(f).moderate) for f in pair)):
        walk = listed(route)
        assert set(walk) == set(route.needed)
        assert all(walk.index(a) < walk.index(b) for a, b in route.before if a in walk and b in walk)


def test_what_it_becomes_is_the_difference_of_two_solved_machines():
    from tests.conftest import solved

    fault_free, dirty = solved(), solved(fault="dirty_condenser", severity=50)
    ways = ways_back(machine(VALVE), dirty, fault_free)
    assert (
        dirty.head_pa > fault_free.head_pa
        and ways["after_head"][0] == "down"
        and ways_back(machine(VALVE), fault_free, fault_free)["after_head"] == ["same"]
    )


# rigs
# ---------------------------------------------------------------------------


def test_a_rig_call_waits_for_what_the_rig_read_and_is_the_same_for_everybody(rig_body):
    data = {"kind": "rig", "body": planned("dirty_condenser", 60).to_json()}
    assert frozen_body.waits(rig_body) and frozen_body.grade_body(rig_body, frozen_body.key_answers(rig_body)) == []
    assert frozen(data, index=5) == rig_body
    card = rig_body.key.rig.rows[0]
    assert card.set and card.undo and card.limits and card.settle_min >= 5 and card.caution


def test_the_class_is_marked_against_what_the_rig_read(rig_body):
    made, said = measured(rig_body)
    assert said == []
    body = call_from_json(json.loads(json.dumps(made.to_json())))
    assert not frozen_body.waits(body)
    marks = frozen_body.grade_body(body, frozen_body.key_answers(body))
    assert total(marks)[0] == total(marks)[1] == 48
    by_hand = made.readings["suction_line"].value - made.key.figures["suction_saturation"]
    assert made.key.figures["superheat"] == pytest.approx(by_hand, abs=0.01)


def test_somebody_who_read_the_rig_wrongly_loses_that_reading_alone(rig_body):
    made, _ = measured(rig_body)
    body, key = made, made.key
    right = frozen_body.key_answers(body)
    slope = key.scale_slope["suction_saturation"]
    shifted = {
        "read_suction_pressure": "138",
        "suction_saturation": f"{key.figures['suction_saturation'] + 10 * slope:.1f}",
        "superheat": f"{key.figures['superheat'] - 10 * slope:.1f}",
        "evaporator_td": f"{key.figures['evaporator_td'] - 10 * slope:.1f}",
    }
    lost = [m.question for m in frozen_body.grade_body(body, right | shifted) if m.earned < m.points]
    assert lost in (
        ["read_suction_pressure"],
        ["read_suction_pressure", "superheat_verdict"],
        ["read_suction_pressure", "evaporator_td_verdict"],
    )


@pytest.mark.parametrize(
    ("changes", "word"),
    [
        ({"suction_line": 35}, "colder than its own saturation"),
        ({"liquid_line": 130}, "hotter than its saturation"),
        ({"suction_pressure": 420}, "as high as the high-side"),
        ({"return_wb": 80}, "Wet bulb is above"),
        ({"supply_db": 80}, "no colder than return"),
        ({"head_pressure": 250, "liquid_line": 84}, "below the outdoor air"),
        ({"head_pressure": 640}, "nameplate's high-pressure cutout"),
        ({"head_pressure": 500}, "far from the model's"),
        ({"liquid_line": 85}, "colder than the outdoor air"),
        ({"discharge_line": 90}, "colder than condensing"),
    ],
)
def test_readings_that_contradict_each_other_the_plate_or_the_weather_are_said(rig_body, changes, word):
    _, said = measured(rig_body, **changes)
    assert any(word in line for line in said), said


def test_a_reading_that_is_missing_or_impossible_is_named(rig_body):
    call = rig_body
    for values, field in (
        (MEASURED | {"head_pressure": 5000}, "readings.head_pressure"),
        ({k: v for k, v in MEASURED.items() if k != "return_wb"}, "readings.return_wb"),
        (MEASURED | {"head_pressure": 690}, "readings.head_pressure"),
        (MEASURED | {"mood": 3}, "readings.mood"),
    ):
        with pytest.raises(BadInputError) as error:
            rig.checked_readings(call, values)
        assert error.value.field == field


def test_what_must_not_be_planted_is_refused():
    """Nitrogen is never put on a student rig without the owner's word:
    read it from the sheet (common practice, no source).
    """
    with pytest.raises(BadInputError) as error:
        rig.rig_call(planned("non_condensables", fault_kind("non_condensables").moderate), "us", random.Random(1))
    assert error.value.field == "fault"
