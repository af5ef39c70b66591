"""What an instructor types from a paper is read generously, and never guessed."""

import random

import pytest

from wolfsbane.cycle.faults import FAULTS, Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.paper import questions
from wolfsbane.exercise.paper.wording import REASONS, reason_text
from wolfsbane.exercise.plan import story


@pytest.mark.parametrize(
    ("raw", "unit", "value"),
    [
        ("45", "°F", 45),
        (" 45.5 ", "°F", 45.5),
        ("45,5", "°F", 45.5),
        ("-3", "°F", -3),
        ("+3", "°F", 3),
        ("45°F", "°F", 45),
        ("45 f", "°F", 45),
        ("7.2 C", "°F", 44.96),
        ("45 F", "°C", 7.222),
        ("0", "°C", 0),
    ],
)
def test_temperatures(raw, unit, value):
    assert parse("temperature", raw, unit).value == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize(
    ("raw", "unit", "value"), [("10 K", "°F", 18), ("18 F", "K", 10), ("10 C", "°F", 18), ("10", "K", 10)]
)
def test_a_difference_converts_without_the_offset(raw, unit, value):
    assert parse("difference", raw, unit).value == pytest.approx(value)


@pytest.mark.parametrize("raw", ["about 10", "4 5", "1e3", "--3", "12..5", "10 psi", "½", "123456"])
def test_what_is_no_number_is_unreadable_and_kept(raw):
    answer = parse("temperature", raw, "°F")
    assert answer.unreadable and answer.raw == raw and answer.value is None


@pytest.mark.parametrize("raw", ["", "   ", None])
def test_nothing_is_blank_and_not_unreadable(raw):
    answer = parse("difference", raw, "°F")
    assert answer.blank and not answer.unreadable


@pytest.mark.parametrize(
    ("raw", "value"),
    [
        ("l", "low"),
        ("LOW", "low"),
        ("n", "normal"),
        ("Normal", "normal"),
        ("R", "normal"),
        ("right", "normal"),
        ("ok", "normal"),
        ("h", "high"),
        ("x", None),
    ],
)
def test_verdicts(raw, value):
    assert parse("verdict", raw).value == value


@pytest.mark.parametrize(
    ("kind", "raw", "value"),
    [
        ("letter", "c", "C"),
        ("letter", " C. ", "C"),
        ("letter", "CD", None),
        ("letter", "7", None),
        ("letters", "jk", ("J", "K")),
        ("letters", "J, K", ("J", "K")),
        ("letters", "J+J", ("J",)),
        ("letters", "J?", None),
    ],
)
def test_letters(kind, raw, value):
    assert parse(kind, raw).value == value


def planted(fault):
    return () if fault == "none" else (Fault(id=fault, severity=FAULTS[fault].moderate),)


def test_every_fault_that_can_be_asked_has_its_words_its_action_its_hazard_and_its_deciding_figures():
    asked = {"none", *(k for k in FAULTS if k not in NOT_ON_PAPER)}
    assert asked <= set(questions.DECIDERS)
    for fault in asked:
        assert (
            questions.ACTIONS[fault]
            and questions.HAZARDS[fault]
            and set(questions.DECIDERS[fault]) <= set(questions.EVIDENCE)
        )
        assert story.COMPLAINTS[fault] and all(story.draft(planted(fault), (), random.Random(1)))


def test_letters_of_fault_evidence_and_action_never_overlap():
    for machine in MACHINES.values():
        found = questions.choices(machine, random.Random(3))
        letters = [c.letter for kind in ("fault", "evidence", "action") for c in found.lettered(kind)]
        assert len(letters) == len(set(letters)) and "O" not in letters
        assert {c.id for c in found.fault} == {c.id for c in found.action}


def test_question_ids_are_stable():
    """Answers on old paper are kept under these names: adding is fine, renaming or removing is not."""
    assert list(questions.QUESTIONS)[:14] == [
        "suction_saturation",
        "liquid_saturation",
        "superheat",
        "subcooling",
        "evaporator_td",
        "ctoa",
        "target",
        "superheat_verdict",
        "subcooling_verdict",
        "evaporator_td_verdict",
        "ctoa_verdict",
        "fault",
        "evidence",
        "action",
    ]


def test_a_reason_needs_its_parameters_and_an_unknown_code_is_an_error():
    assert reason_text("wrong_number", {"given": "3", "expected": "5"}) == "3 instead of 5."
    with pytest.raises(KeyError):
        reason_text("wrong_number", {})
    with pytest.raises(KeyError):
        reason_text("no_such_code", {})
    assert all(text.endswith((".", "}")) for text in REASONS.values())


def test_an_electronic_valve_is_spoken_of_by_its_sensor():
    found = questions.choices(MACHINES["split-3t-r32-eev"], random.Random(3))
    assert not any("bulb" in c.text.lower() for c in found.action)
    assert any("bulb" in c.text for c in questions.choices(MACHINES["split-3t-r410a-txv"], random.Random(3)).action)
