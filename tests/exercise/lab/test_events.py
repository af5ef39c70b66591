"""Events of a lab session: what each may hold, and what they add up to."""

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.lab.events import Event, checked, fold
from wolfsbane.exercise.lab.skills import LEVELS, SKILLS, over_term
from wolfsbane.exercise.lab.steps import PHASES, TICKS, phase_of_question, ticks_of

WEIGH = {"cylinder_id": 3, "kind": "charge", "before": "29 lb", "after": "28 lb", "log": "16", "began_at": 5.0}


def said(*rows):
    return fold([Event(kind=k, at=t, data=checked(k, d, True), desk=True) for k, t, d in rows], 100.0)


@pytest.mark.parametrize(
    ("kind", "data", "word"),
    [
        ("phase", {"to": "lunch"}, "lunch"),
        ("tick", {"step": "glasses"}, "on"),
        ("tick", {"step": "shoes", "on": True}, "shoes"),
        ("answer", {"question": "superheat", "text": 5}, "text"),
        ("answer", {"question": "weight", "text": "5"}, "weight"),
        ("answer", {"question": "superheat", "text": "x" * 601}, "text"),
        ("weigh", {**WEIGH, "kind": "vent"}, "vent"),
        ("weigh", {k: v for k, v in WEIGH.items() if k != "after"}, "after"),
        ("weigh", {**WEIGH, "cylinder_id": "3"}, "cylinder_id"),
        ("proof", {"reading": "static", "text": "1"}, "static"),
        ("note", {"text": "ok", "more": 1}, "more"),
        ("dance", {}, "dance"),
        ("go", {}, "go"),
        ("weighed", {"move_id": 1, "said": ""}, "weighed"),
        ("observe", {"part": "safety", "points": 1, "why": "x"}, "observe"),
    ],
)
def test_what_a_student_may_not_say_is_refused_by_name(kind, data, word):
    with pytest.raises(BadInputError) as error:
        checked(kind, data, desk=False)
    assert word in str(error.value)


@pytest.mark.parametrize(
    ("kind", "data"),
    [
        ("stop", {}),
        ("stop", {"why": "  "}),
        ("observe", {"part": "readings", "points": 1, "why": "x"}),
        ("observe", {"part": "safety", "points": 11, "why": "x"}),
        ("skill", {"skill": "juggling", "level": "alone"}),
        ("skill", {"skill": "zero", "level": "expert"}),
        ("weighed", {"move_id": 1, "said": ""}),
    ],
)
def test_neither_is_what_the_desk_may_not(kind, data):
    with pytest.raises(BadInputError):
        checked(kind, data, desk=True)


def test_the_desk_may_say_what_a_student_may():
    assert checked("answer", {"question": "superheat", "text": "12"}, desk=True)["text"] == "12"
    assert checked("help", None, desk=False) == {}


def test_a_session_adds_up_and_times_its_phases():
    session = said(
        ("phase", 130.0, {"to": "safety"}),
        ("tick", 140.0, {"step": "glasses", "on": True}),
        ("tick", 141.0, {"step": "glasses", "on": True}),
        ("phase", 190.0, {"to": "measure"}),
        ("phase", 190.0, {"to": "measure"}),
        ("answer", 200.0, {"question": "read_head_pressure", "text": "340"}),
        ("answer", 210.0, {"question": "read_head_pressure", "text": "341"}),
        ("phase", 250.0, {"to": "safety"}),
        ("tick", 260.0, {"step": "glasses", "on": False}),
        ("tick", 270.0, {"step": "glasses", "on": True}),
        ("end", 310.0, {}),
    )
    assert session.minutes(999.0) == {"card": 0.5, "safety": 2.0, "measure": 1.0}
    assert session.answers["read_head_pressure"].text == "341" and session.answers["read_head_pressure"].at == 210.0
    assert session.ticks == {"glasses": 270.0} and session.phase == "safety" and session.ended_at == 310.0


def test_a_plan_keeps_what_it_said_and_the_last_word_on_it_stands():
    session = said(
        ("answer", 110.0, {"question": "fault", "text": "A"}),
        ("plan", 120.0, {}),
        ("stop", 130.0, {"why": "Look at the subcooling."}),
        ("answer", 140.0, {"question": "fault", "text": "B"}),
        ("plan", 150.0, {}),
        ("go", 160.0, {}),
        ("answer", 170.0, {"question": "fault", "text": "C"}),
    )
    assert session.planned == {"fault": "B"} and session.go_at == 160.0 and session.stops == ["Look at the subcooling."]
    assert said(("plan", 120.0, {}), ("stop", 130.0, {"why": "no"})).go_at is None


def test_help_is_open_until_somebody_came():
    asked = [("phase", 105.0, {"to": "act"}), ("help", 110.0, {})]
    assert said(*asked).wants_help and said(*asked).helped_in(("act",)) and not said(*asked).helped_in(("card",))
    assert not said(*asked, ("helped", 120.0, {})).wants_help
    assert said(*asked, ("helped", 120.0, {}), ("help", 130.0, {})).wants_help


def test_every_question_has_a_phase_and_every_tick_one_that_exists():
    assert {t.phase for t in TICKS} <= set(PHASES)
    assert phase_of_question("read_head_pressure") == "measure"
    assert phase_of_question("subcooling_verdict") == "work_out" and phase_of_question("order") == "plan"


def test_a_flammable_refrigerant_asks_for_one_more_step():
    # R-32 is A2L and R-410A A1 in ASHRAE Standard 34
    assert {t.id for t in ticks_of("R-32")} - {t.id for t in ticks_of("R-410A")} == {"no_flame"}


def test_a_record_over_the_term_keeps_the_best_level_and_every_piece_of_evidence():
    def row(skill, level, session):
        return {"skill": skill, "level": level, "evidence": "x", "session_id": session, "at": "2026-11-01", "rig": "1"}

    rows = [row("zero", "alone", 1), row("zero", "helped", 2), row("charge", "shown", 2)]
    found = {r["skill"]: r for r in over_term(rows)}
    assert list(found) == list(SKILLS)
    assert (found["zero"]["level"], found["zero"]["times"], len(found["zero"]["evidence"])) == ("alone", 2, 2)
    assert found["charge"]["level_text"] == "Shown" and found["evacuate"]["level"] == ""
    assert LEVELS.index("alone") > LEVELS.index("helped") > LEVELS.index("shown")
