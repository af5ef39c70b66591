"""The projector: nothing leaves before it is revealed, and what is shown is what the machine shows."""

import json

import pytest

from tests.conftest import VALVE, weather
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.instruments import POINTS
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.show.projection import REVEALS, STEPS, answer_to, checked, parts, revealed

FAULTS = (Fault(id="dirty_condenser", severity=60), Fault(id="undercharge", severity=80))
STORY = {"complaint": "Warm after lunch.", "history": "", "look_round": ["Filter clean."]}


def made(faults=FAULTS, **more):
    return {
        s: parts(machine(VALVE), weather(), faults, practice_by_id("plate_and_formula"), "analogue", s, STORY, **more)
        for s in ("us", "si")
    }


def test_nothing_is_sent_before_it_is_revealed():
    whole = made()
    secrets = {
        "answer": ("Dirty", "fault_free_fill"),
        "verdicts": ('"verdict"',),
        "targets": ("13.0 to 22.0",),
        "readings": ("psig",),
    }
    for part, words in secrets.items():
        text = json.dumps(
            revealed(
                whole,
                "confirm",
                [p for p in REVEALS if p != part and not (part == "readings" and p != "story")],
                [],
                "us",
            )
        )
        for word in words:
            assert word not in text, (part, word)
            assert word in json.dumps(revealed(whole, "confirm", list(REVEALS), [], "us"))


def test_the_dials_of_a_class_carry_no_fault_free_value_and_no_conversion():
    for drawing in made()["us"]["readings"]["dials"]:
        assert not {"fault_free_value", "saturation"} & set(drawing)


def test_conversions_figures_and_verdicts_agree_with_one_another():
    us = made()["us"]

    def number(text):
        return float(text.split()[0])

    saturation = {c["id"]: number(c["text"]) for c in us["conversions"]}
    line = {r["id"]: number(r["text"]) for r in us["readings"]["rows"]}
    figure = {f["id"]: number(f["text"]) for f in us["figures"]}
    assert figure["superheat"] == pytest.approx(line["suction_line"] - saturation["suction_saturation"], abs=0.11)
    assert figure["subcooling"] == pytest.approx(saturation["liquid_saturation"] - line["liquid_line"], abs=0.11)
    assert {v["id"]: v["verdict"] for v in us["verdicts"]}["subcooling"] == "low"


def test_a_withheld_reading_takes_what_follows_from_it_away():
    us = made(given_readings=["suction_pressure", "suction_line"])["us"]
    assert [r["id"] for r in us["readings"]["rows"]] == ["suction_pressure", "suction_line"]
    assert [c["id"] for c in us["conversions"]] == ["suction_saturation"] and us["figures"] == [] == us["verdicts"]


def test_where_water_cools_ctoa_waits_for_the_water():
    m = machine("water-cooled-5t-r407c-txv")
    shown = [
        parts(
            m,
            for_machine(m, outdoor_db_f=95, return_db_f=80, return_wb_f=67, water_in_f=85),
            (),
            practice_by_id("plate_and_formula"),
            "digital",
            "us",
            STORY,
            given,
        )
        for given in (list(POINTS), None)
    ]
    assert ["ctoa" in {f["id"] for f in s["figures"]} for s in shown] == [False, True]
    assert next(f for f in shown[1]["figures"] if f["id"] == "ctoa")["how"].endswith("water in")


def test_a_gauge_set_to_another_refrigerant_shows_that_ring():
    us = made((Fault(id="wrong_refrigerant_scale", severity=100),))["us"]
    assert us["readings"]["dials"][0]["refrigerant"] != "R-410A"


def test_tests_are_answered_by_the_machine_as_planted():
    assert "dirt" in answer_to(machine(VALVE), weather(), FAULTS, "condenser_coil", "us")["text"].lower()
    with pytest.raises(BadInputError):
        answer_to(machine(VALVE), weather(), FAULTS, "tea_leaves", "us")


def test_a_machine_that_cuts_out_is_not_put_up():
    with pytest.raises(BadInputError, match="trips"):
        parts(
            machine(VALVE),
            weather(outdoor=115),
            (Fault(id="dirty_condenser", severity=25),),
            practice_by_id("plate_and_formula"),
            "analogue",
            "us",
            STORY,
        )


def test_steps_and_reveals_are_ours_only():
    assert checked("compare", ["verdicts", "story"]) == ("compare", ["story", "verdicts"]) and STEPS[0] == "look"
    for step, shown in (("peek", []), ("look", ["all"])):
        with pytest.raises(BadInputError):
            checked(step, shown)
