"""Class sets from a brief: equal variants, a live "nothing wrong", two faults in their order, drills, wrong paths."""

import json
import re
from collections import Counter

import pytest

from tests.conftest import ORIFICE, VALVE, offering
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import f_to_k
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.exercise.draw.generator import class_set
from wolfsbane.exercise.draw.planning import begin, plan, planning_from_json, step
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.wrong_paths import MISTAKES
from wolfsbane.exercise.plan.brief import DRILLS, brief
from wolfsbane.exercise.plan.scenario import scenario

#: class sets take their time: left out of make quick
pytestmark = pytest.mark.slow

BRIEF = {
    "title": "Week 12",
    "calls": 4,
    "apprentices": 3,
    "two_faults": 1,
    "levels": [1, 5],
    "fault_free_share": 0.25,
    "seed": 5,
    "drills": [{"kind": kind, "items": 5} for kind in DRILLS],
}


@pytest.fixture(scope="module")
def made():
    return class_set(brief(BRIEF))


@pytest.fixture(scope="module")
def calls(made):
    return [(row, call_from_json(row["call"])) for sheet in made["sheets"] for row in sheet["calls"]]


def drilled(made, kind):
    return [item for sheet in made["sheets"] for d in sheet["drills"] if d["kind"] == kind for item in d["items"]]


def test_the_ladder_climbs_and_has_a_sound_machine_and_two_faults_on_top(made):
    levels = [r["level"] for r in made["ladder"]]
    assert levels == sorted(levels) and len(levels) == 4
    skills = [r["skill"] for r in made["ladder"]]
    assert "none" in skills and sum("+" in s for s in skills) == 1


def test_every_apprentice_gets_calls_of_the_same_levels_with_other_faults_and_numbers(made, calls):
    ladders = [sorted((row["rung"], row["level"]) for row in sheet["calls"]) for sheet in made["sheets"]]
    assert ladders[0] == ladders[1] == ladders[2]
    by_rung = {r["rung"]: r for r in made["ladder"]}
    for apprentice, sheet in enumerate(made["sheets"], 1):
        for row in sheet["calls"]:
            forms = by_rung[row["rung"]]["skills"]
            assert row["skill"] == forms[(apprentice - 1) % len(forms)]
    assert any(len(set(r["skills"])) > 1 for r in made["ladder"]), "neighbors have another fault at the same place"
    for form in zip(*(r["skills"] for r in made["ladder"]), strict=True):
        assert form.count("none") == sum(r["skill"] == "none" for r in made["ladder"])
    assert (
        made["shared_readings"] == 0
        and len({(row["rung"], *row["fingerprint"]) for row, _ in calls}) == len(calls) == 12
    )
    assert len({call.machine.id for _, call in calls}) > 3
    for row, call in calls:
        assert call.key.difficulty.level == row["level"] and ("+".join(call.key.faults) or "none") == row["skill"]


def test_every_call_is_proved_and_can_be_answered_in_full(made, calls):
    assert made["unique"] == made["calls"] == 12
    for _, call in calls:
        earned, possible = total(grade(call, perfect_answers(call)))
        assert earned == possible == 33


def test_every_call_has_its_story_its_readings_in_order_and_the_repair_solved(calls):
    for _, call in calls:
        assert call.complaint and call.history and call.look_round and call.machine.plate
        assert list(call.readings)[:2] == ["suction_pressure", "head_pressure"]
        assert call.key.after["suction_pressure"] and call.key.action_text


def test_a_two_fault_call_says_what_is_mended_first_and_what_is_read_in_between(calls):
    call = next(call for _, call in calls if len(call.key.faults) == 2)
    opened = "weigh_in" in call.key.repair.steps  # a circuit that is opened first gets its charge by weight at once
    assert len(call.key.repairs) == 2 and (call.key.between != call.key.after or opened)
    right = perfect_answers(call)
    letters = right["fault"].split()
    assert len(letters) == 2
    by_id = {m.question: m for m in grade(call, right | {"fault": letters[0]})}
    assert by_id["fault"].earned == 3 and by_id["fault"].code == "faults_part"
    wrong = next(c.letter for c in call.choices.fault if c.id not in call.key.faults)
    assert {m.question: m.earned for m in grade(call, right | {"fault": f"{letters[0]} {wrong}"})}["fault"] == 3
    second = next(c.letter for c in call.choices.action if c.id == call.key.faults[1])
    first = {m.question: m for m in grade(call, right | {"action": second})}["action"]
    assert first.earned == 1 and first.code == "action_second_led_to" and call.key.repairs[0] in first.text
    assert "would have" in first.text


def test_the_same_brief_gives_the_same_set_and_another_seed_another(made):
    small = BRIEF | {"apprentices": 1, "calls": 2, "two_faults": 0, "drills": [], "levels": [2, 3]}
    first, again, other = (class_set(brief(small | {"seed": seed})) for seed in (5, 5, 6))
    assert first == again and first["sheets"] != other["sheets"]
    assert first["brief_sha256"] != other["brief_sha256"] and first["table_hash"] == made["table_hash"]


def test_sheets_do_not_depend_on_who_makes_them_or_in_which_order():
    small = brief(BRIEF | {"apprentices": 3, "calls": 1, "two_faults": 0, "drills": [], "levels": [2, 3]})

    def backwards(work, items):
        return list(reversed([work(i) for i in reversed(list(items))]))

    assert class_set(small) == class_set(small, backwards)


def test_a_brief_in_si_is_printed_in_si():
    call = call_from_json(
        class_set(
            brief(
                BRIEF
                | {
                    "units": "si",
                    "calls": 1,
                    "apprentices": 1,
                    "two_faults": 0,
                    "drills": [],
                    "fault_free_share": 0,
                    "levels": [2, 3],
                }
            )
        )["sheets"][0]["calls"][0]["call"]
    )
    assert call.readings["suction_pressure"].unit == "kPa" and call.units == "si"


def test_readings_that_are_held_back_are_not_printed():
    call = vary(
        scenario(
            {
                "title": "x",
                "machine": VALVE,
                "faults": [{"id": "undercharge", "severity": 75}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
                "given_readings": ["supply_db"],
            }
        ),
        "us",
        2,
    )
    assert "supply_db" in call.readings and "discharge_line" not in call.readings and "drier_out" not in call.readings
    assert total(grade(call, perfect_answers(call))) == (33, 33)


def test_results_of_given_tests_are_printed_as_the_machine_answers():
    call = vary(
        scenario(
            {
                "title": "x",
                "machine": VALVE,
                "faults": [{"id": "non_condensables", "severity": 1.8}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
                "given_tests": ["standing_pressure", "filter"],
            }
        ),
        "us",
        2,
    )
    lines = " ".join(call.look_round)
    assert "the chart says" in lines and "All filters clean." in lines
    assert call.key.fault == "non_condensables"


def test_conversions_are_what_the_tables_say(made):
    for item in drilled(made, "conversion"):
        name, point = item["prompt"].split(",")[0], "dew" if "dew" in item["prompt"] else "bubble"
        number = next(float(w) for w in item["prompt"].replace(":", " ").split()[1:] if w.replace(".", "").isdigit())
        gauge = item["answer"] if item["unit"] == "psig" else number
        temperature = number if item["unit"] == "psig" else item["answer"]
        pa = refrigerant(name).saturation_pa(f_to_k(temperature), point)
        assert (pa - 101325) / 6894.757 == pytest.approx(gauge, abs=max(1.0, 0.012 * gauge))


def test_a_dial_drill_points_its_needle_at_the_answer(made):
    for item in drilled(made, "dial"):
        assert (
            item["dial"]["value"] == item["answer"]
            and item["second"]["answer"]
            and item["dial"]["refrigerant"] in item["prompt"]
        )


def test_subtraction_drills_work_the_first_and_leave_the_rest(made):
    for kind in ("superheat", "subcooling"):
        for sheet in made["sheets"]:
            items = next(d["items"] for d in sheet["drills"] if d["kind"] == kind)
            assert ["worked" in item for item in items] == [True, False, False, False, False]


def test_the_planted_error_is_the_only_one_and_what_follows_is_carried_through(made):
    for item in drilled(made, "spot_the_error"):
        lines = {row["line"]: row for row in item["lines"]}
        assert lines[item["answer_line"]]["value"] != pytest.approx(item["answer"], abs=item["tolerance"])
        readings = {k: float(v.split()[0]) for k, v in item["readings"].items()}
        for name, (a, b) in {
            "superheat": ("suction_line", "suction_saturation"),
            "subcooling": ("liquid_saturation", "liquid_line"),
            "ctoa": ("liquid_saturation", "outdoor_db"),
        }.items():
            if name != item["answer_line"]:
                first, second = (lines[key]["value"] if key in lines else readings[key] for key in (a, b))
                assert lines[name]["value"] == pytest.approx(first - second, abs=0.11), (item["mistake"], name)
        name = re.search(r"R-\d+\w*", item["prompt"])[0]
        true = work_out(name, readings, "us", 101325)
        for saturation in ("suction_saturation", "liquid_saturation"):
            if saturation != item["answer_line"]:
                assert lines[saturation]["value"] == pytest.approx(true[saturation], abs=0.3)
    assert len({item["mistake"] for item in drilled(made, "spot_the_error")}) == 5


def test_wrong_paths_carry_the_number_or_the_conclusion_they_lead_to(calls):
    seen = set()
    for _, call in calls:
        for row in call.key.wrong_paths:
            assert row.mistake in MISTAKES and row.text and row.feedback and (row.value is not None or row.leads_to)
            seen.add(row.mistake)
    assert {
        "wrong_ring",
        "sign_turned",
        "swapped",
        "second_first",
        "add_refrigerant",
        "acts_on_a_sound_machine",
    } <= seen


def test_a_wrong_conclusion_is_named_in_the_marking():
    call = offering(
        scenario(
            {
                "title": "x",
                "machine": ORIFICE,
                "faults": [{"id": "low_airflow", "severity": 46}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
            }
        ),
        "us",
        "undercharge",
    )
    letter = next(c.letter for c in call.choices.fault if c.id == "undercharge")
    mark = {m.question: m for m in grade(call, perfect_answers(call) | {"fault": letter})}["fault"]
    assert mark.earned == 0 and "low suction" in mark.text and "airflow" in mark.text.lower()


def test_what_a_tenth_too_much_leads_to_is_solved():
    call = vary(
        scenario(
            {
                "title": "x",
                "machine": VALVE,
                "faults": [{"id": "valve_overfeeding", "severity": 98}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
            }
        ),
        "us",
        3,
    )
    row = next(r for r in call.key.wrong_paths if r.mistake == "add_refrigerant")
    c = call.conditions
    state = solve(
        machine(VALVE),
        Conditions(
            outdoor_k=c.outdoor_k,
            return_k=c.return_k,
            return_wet_bulb_k=c.return_wet_bulb_k,
            barometer_pa=c.barometer_pa,
        ),
        (Fault(id="valve_overfeeding", severity=call.key.severity), Fault(id="overcharge", severity=110)),
    )
    assert f"subcooling {state.subcooling_dk * 1.8:.0f} °F" in row.leads_to


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"title": ""}, "title"),
        ({"calls": -1}, "calls"),
        ({"levels": [4, 2]}, "levels"),
        ({"machines": ["toaster"]}, "machines"),
        ({"faults": ["gremlins"]}, "faults"),
        ({"apprentices": 500}, "apprentices"),
        ({"minutes": 1}, "minutes"),
        ({"fault_free_share": 2}, "fault_free_share"),
        ({"weather": {"snow": [1, 2]}}, "weather"),
        ({"weather": {"outdoor_db_f": [90]}}, "outdoor_db_f"),
        ({"drills": [{"kind": "naps"}]}, "drills.kind"),
        ({"colour": 1}, "colour"),
        ({"schema": 7}, "schema"),
        ({"units": "furlongs"}, "units"),
        ({"seed": True}, "seed"),
        ({"two_faults": 9}, "two_faults"),
    ],
)
def test_a_bad_brief_is_refused_naming_the_field(change, field):
    with pytest.raises(BadInputError) as error:
        brief(BRIEF | change)
    assert error.value.field == field


def test_too_little_time_and_impossible_wishes_are_said():
    with pytest.raises(BadInputError, match="at least"):
        plan(brief(BRIEF | {"minutes": 6}))
    with pytest.raises(BadInputError, match="two_faults"):
        plan(brief(BRIEF | {"faults": ["valve_overfeeding"], "two_faults": 1}))
    hopeless = BRIEF | {
        "calls": 1,
        "two_faults": 0,
        "fault_free_share": 0,
        "levels": [5, 5],
        "faults": ["overcharge"],
        "machines": [VALVE],
    }
    with pytest.raises(
        NoClassSetError, match=r"call 1: .* level 5 .*: overcharged\. The closest .* level [1-4]: overch"
    ):
        plan(brief(hopeless))


@pytest.mark.parametrize("changes", [{}, {"machines": ["split-3t-r410a-txv"]}, {"levels": [1, 5]}])
@pytest.mark.parametrize("calls", [13, 15, 20])
def test_a_ladder_longer_than_there_are_faults_asks_some_of_them_again(calls, changes):
    ladder = plan(brief({"title": "Long", "calls": calls, **changes}))
    assert len(ladder) == calls and [r.level for r in ladder] == sorted(r.level for r in ladder)
    often = Counter(r.skill for r in ladder if r.skill)
    assert len(often) >= 7 and max(often.values()) <= 3, "all of them before one comes a fourth time"


def test_a_plan_a_piece_at_a_time_is_the_same_plan_and_survives_json():
    made = brief(BRIEF | {"calls": 3, "two_faults": 0, "levels": [1, 2], "machines": [VALVE], "apprentices": 2})
    so_far, seen = begin(made), []
    while not so_far.done:
        so_far = step(made, planning_from_json(made, json.loads(json.dumps(so_far.to_json()))))
        seen.append(len(so_far.found))
    assert list(so_far.found) == plan(made) and seen == [1, 2, 3, 3]
    assert all(len(r.forms) == 2 for r in so_far.found)
    for bad in ({}, {"wanted": 3}, {**begin(made).to_json(), "known": [["undercharge", [[1]]]]}):
        with pytest.raises(BadInputError, match="so_far"):
            planning_from_json(made, bad)


def test_a_brief_survives_json():
    made = brief(BRIEF | {"weather": {"outdoor_db_f": [85, 95]}, "given_tests": ["filter"], "minutes": 90})
    assert brief(json.loads(json.dumps(made.to_json()))) == made


def test_a_call_stored_before_there_were_two_faults_is_still_marked():
    new = vary(
        scenario(
            {
                "title": "x",
                "machine": VALVE,
                "faults": [{"id": "undercharge", "severity": 78}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
            }
        ),
        "us",
        3,
    )
    old = new.to_json() | {"schema": 1}
    del old["history"]
    old["key"] = {
        k: v
        for k, v in old["key"].items()
        if k
        not in (
            "faults",
            "severities",
            "mend",
            "between",
            "wrong_paths",
            "difficulty",
            "accepted",
            "unique",
            "also_open",
        )
    }
    assert total(grade(call_from_json(old), perfect_answers(call_from_json(old)))) == (33, 33)
