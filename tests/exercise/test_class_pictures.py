"""What a class shows, feedback, a brief in a sentence, the station rotation: worked out by hand beside."""

import pytest

from tests.conftest import planned
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.draw.ladder import eased, ladder_minutes, shortfall, wanted_levels
from wolfsbane.exercise.draw.rung import Rung
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking import results
from wolfsbane.exercise.marking.credit import exactly, full, none, slip
from wolfsbane.exercise.marking.feedback import LOOK_AGAIN, feedback
from wolfsbane.exercise.marking.grade import grade, perfect_answers
from wolfsbane.exercise.marking.rubric import LINES, PARTIAL
from wolfsbane.exercise.paper.rotation import DESK, groups_of, rotation, timetable
from wolfsbane.exercise.paper.wording import REASONS
from wolfsbane.exercise.plan.brief import brief


def row(person, question, earned, *, points=1, order=1, position=1, level=2, skill="undercharge", named=None):
    return {
        "apprentice": person,
        "sheet": f"Week {order}",
        "sheet_id": order,
        "order": order,
        "position": position,
        "level": level,
        "skill": skill,
        "question": question,
        "points": points,
        "earned": earned,
        "code": "right",
        "named": named,
    }


ROWS = [
    row(1, "fault", 1, named="undercharge"),
    row(2, "fault", 0, named="overcharge"),
    row(3, "fault", 0, named="overcharge"),
    row(1, "superheat", 1),
    row(2, "superheat", 0),
    row(3, "superheat", 1),
    row(1, "order", 1, points=2),
    row(1, "fault", 1, order=2, level=3, skill="low_airflow", named="low_airflow"),
    row(2, "fault", 1, order=2, level=3, skill="low_airflow", named="low_airflow"),
]


def test_who_was_taken_for_whom_is_counted():
    found = results.confusion(ROWS, str.upper)
    assert {(c["planted"], c["named"]): c["count"] for c in found["cells"]} == {
        ("undercharge", "undercharge"): 1,
        ("undercharge", "overcharge"): 2,
        ("low_airflow", "low_airflow"): 2,
    }
    assert (found["right"], found["wrong"]) == (3, 2) and found["planted"] == ["undercharge", "low_airflow"]


def test_what_was_expected_to_be_named_stands_beside_what_was():
    rows = [dict(r, success=0.8) if r["question"] == "fault" and r["order"] == 1 else r for r in ROWS]
    first, second = results.calls(rows)
    assert first["expected"] == pytest.approx(0.8) and first["named"] == pytest.approx(1 / 3)
    assert second["expected"] is None and second["named"] == 1.0


def test_marks_are_lost_at_the_step_of_the_work():
    found = {s["step"]: s for s in results.steps(ROWS)}
    assert (found["conclude"]["lost"], found["conclude"]["points"], found["conclude"]["share"]) == (2, 5, 0.6)
    assert (
        found["subtract"]["lost"] == 1
        and found["act"]["share"] == 0.5
        and [s["step"] for s in results.steps(ROWS)] == ["subtract", "conclude", "act"]
    )


def test_difficulty_found_stands_beside_the_stated_one_and_movement_is_told():
    first, second = results.calls(ROWS)
    assert (first["stated"], first["share"], first["found"], second["found"]) == (2.0, 0.5, 5, 1)
    people = {p["apprentice"]: p for p in results.people(ROWS, [1, 2, 3, 4])}
    assert (
        people[2]["sheets"] == [{"order": 1, "share": 0.0}, {"order": 2, "share": 1.0}] and people[4]["share"] is None
    )
    assert [s["skill"] for s in results.skills(ROWS, str)] == ["undercharge", "low_airflow"]
    assert (
        results.missed(ROWS)[0] == {"position": 1, "question": "superheat", "missed": 1, "of": 3}
        or results.missed(ROWS)[0]["missed"] >= 1
    )


@pytest.mark.parametrize(("share", "level"), [(None, None), (1.0, 1), (0.85, 2), (0.75, 3), (0.6, 4), (0.2, 5)])
def test_the_level_that_a_share_speaks_for(share, level):
    assert results.found_level(share) == level


@pytest.mark.parametrize(("earned", "level"), [(4, 4), (2, 3), (1, 2)])
def test_the_next_call_is_harder_after_a_good_one_and_easier_after_a_bad_one(earned, level):
    assert results.next_level([row(1, "fault", earned, points=4, level=3)]) == level
    assert results.next_level([]) == 1


def test_next_comes_what_cost_most():
    assert results.next_skill([r for r in ROWS if r["apprentice"] == 2]) == "undercharge"
    assert results.next_skill([r for r in ROWS if r["apprentice"] == 1 and r["order"] == 2]) is None


def test_feedback_says_own_number_expected_why_and_what_to_look_at_again():
    call = vary(planned(), "us", 19)
    answers = perfect_answers(call) | {"ctoa": f"{-call.key.figures['ctoa']:.1f}", "order": "1", "after_head": "d"}
    marks = [
        {"question": m.question, "points": m.points, "earned": m.earned, "code": m.code, "params": m.params}
        for m in grade(call, answers)
    ]
    told = feedback(call, answers, marks)
    rows = {r["question"]: r for s in told["steps"] for r in s["rows"]}
    assert told["title"] == "Low charge (undercharged)" and told["possible"] == 33 and told["hazard"]
    assert (
        rows["ctoa"]["own"].startswith("-")
        and "draw a line" in rows["ctoa"]["again"]
        and rows["superheat"]["again"] == ""
    )
    assert "Find and repair the leak" in rows["order"]["expected"] and rows["after_head"]["expected"] == "rises"
    assert rows["fault"]["expected"].endswith("Low charge (undercharged)")


def test_every_pointer_belongs_to_a_reason_there_is():
    assert set(LOOK_AGAIN) <= set(REASONS) and set(PARTIAL) <= set(REASONS) and len(LINES) >= 10


@pytest.mark.parametrize(
    ("credit", "points", "earned"),
    [
        (full("right"), 3, 3),
        (none("blank"), 3, 0),
        (slip("sign_turned"), 2, 1),
        (slip("sign_turned"), 1, 0),
        (slip("wrong_number"), 4, 0),
        (exactly(9, "faults_part"), 2, 2),
        (exactly(-1, "faults_part"), 2, 0),
    ],
)
def test_the_rubric_shares_points_out(credit, points, earned):
    assert credit.earned(points) == earned


def test_where_time_is_short_the_middle_of_the_ladder_comes_down_first():
    made = brief({"title": "x", "calls": 6, "levels": [2, 4], "minutes": 50})
    wanted = wanted_levels(made)
    assert wanted[0] == 2 and wanted[-1] == 4 and ladder_minutes(made, wanted) <= 50
    assert eased([2, 2, 2], 2, 5) == [2, 2, 2] and eased([1, 3, 4], 1, 1) == [1, 2, 4]


def test_a_ladder_that_stays_below_the_hardest_level_says_why():
    def rungs(*levels):
        return [Rung(number=i, level=level, skill=()) for i, level in enumerate(levels, 1)]

    timed = brief({"title": "x", "calls": 3, "levels": [2, 4], "minutes": 27})
    assert shortfall(timed, rungs(2, 3, 4)) == "" and "27 minutes" in shortfall(timed, rungs(3, 3, 3))
    assert "level 4 on these machines" in shortfall(timed, rungs(2, 2, 3)) and "27" not in shortfall(
        timed, rungs(2, 2, 3)
    )


def test_everybody_comes_to_every_rig_once_and_no_rig_holds_two_groups():
    people = [f"P{i}" for i in range(11)]
    groups = groups_of(people, 4)
    table = rotation(groups, ["A", "B", "C", "D"], 30)
    assert sorted(map(len, groups)) == [2, 3, 3, 3] and sorted(n for g in groups for n in g) == sorted(people)
    seen = {g: set() for g in range(1, 5)}
    for turn in table["rounds"]:
        stations = [p["station"] for p in turn["places"]]
        assert len(set(stations)) == len(stations) == 4
        for place in turn["places"]:
            seen[place["group"]].add(place["station"])
    assert all(len(s) == 4 for s in seen.values()) and table["minutes"] == 4 * 30 + 3 * 5


@pytest.mark.parametrize(
    ("groups", "minutes", "field"), [([["A"], ["B"]], 30, "groups"), ([["A"]], 2, "minutes"), ([], 30, "groups")]
)
def test_a_rotation_that_cannot_be_is_named(groups, minutes, field):
    with pytest.raises(BadInputError) as error:
        rotation(groups, ["A"], minutes)
    assert error.value.field == field


@pytest.mark.parametrize(
    ("people", "plants", "rigs", "desk"),
    [(24, 3, 6, True), (24, 3, 7, True), (11, 2, None, True), (5, 1, 4, True), (2, 2, 8, False), (12, 1, 4, False)],
)
def test_on_several_rigs_everybody_reads_every_plant_once_and_no_rig_holds_two_groups(people, plants, rigs, desk):
    names = [{"name": f"P{i}", "group_name": ""} for i in range(people)]
    table = timetable(names, [f"Plant {i}" for i in range(plants)], 30, rigs, desk)
    assert sum(c["rig"] is not None for c in table["columns"]) <= (rigs or plants)
    assert sorted(n for g in table["groups"] for n in g["names"]) == sorted(p["name"] for p in names)
    met = {g["number"]: [] for g in table["groups"]}
    for turn in table["rounds"]:
        here = [g for cell in turn["cells"] for g in cell]
        assert len(here) == len(set(here)), "nobody stands in two places"
        for column, cell in zip(table["columns"], turn["cells"], strict=True):
            assert len(cell) <= 1 or column["rig"] is None
            for group in cell:
                met[group].append(column["title"])
    everything = sorted([f"Plant {i}" for i in range(plants)] + ([DESK] if desk else []))
    assert all(sorted(found) == everything for found in met.values())


def test_fewer_rigs_than_plants_is_named():
    with pytest.raises(BadInputError) as error:
        timetable([{"name": "P", "group_name": ""}], ["A", "B"], 30, 1)
    assert error.value.field == "rigs"
