"""What an instructor types from a paper is read generously, and never guessed."""

import random
import unicodedata

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from wolfsbane.cycle.faults import FAULTS, Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, candidates
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


@pytest.mark.parametrize("raw", ["about ten", "4 5", "1e3", "--3", "12..5", "10 psi", "½", "1234567"])
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
        assert all(story.draft(planted(fault), (), random.Random(1)))


def test_letters_of_fault_evidence_and_action_never_overlap():
    for machine in MACHINES.values():
        found = questions.choices(machine, random.Random(3), tuple(k.id for k in candidates(machine)))
        letters = [c.letter for kind in ("fault", "evidence", "action") for c in found.lettered(kind)]
        assert len(letters) == len(set(letters)) and "O" not in letters
        assert {c.id for c in found.fault} == {c.id for c in found.action}


def test_question_ids_are_stable():
    """Answers on old paper are kept under these names: adding is fine, renaming or removing is not."""
    kept = [
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
    assert [q for q in questions.QUESTIONS if q in kept] == kept


def test_a_reason_needs_its_parameters_and_an_unknown_code_is_an_error():
    assert reason_text("wrong_number", {"given": "3", "expected": "5"}) == "3 instead of 5."
    with pytest.raises(KeyError):
        reason_text("wrong_number", {})
    with pytest.raises(KeyError):
        reason_text("no_such_code", {})
    assert all(text.endswith((".", "}")) for text in REASONS.values())


def test_an_electronic_valve_is_spoken_of_by_its_sensor():
    def actions(name):
        found = questions.choices(MACHINES[name], random.Random(3), ("valve_overfeeding", "valve_underfeeding"))
        return " ".join(c.text.lower() for c in found.action)

    assert "bulb" not in actions("split-3t-r32-eev") and "coil sensor" in actions("split-3t-r32-eev")
    assert "bulb" in actions("split-3t-r410a-txv")


#: what people write: (kind, raw, unit of the sheet, what it is read as)
TYPED = [
    ("mass", "2 lbs", "oz", 32),
    ("mass", "1 lb 15 oz", "oz", 31),
    ("mass", "7 lb 7 oz", "oz", 119),
    ("mass", "-1lb 2oz", "oz", -18),
    ("mass", "2 pounds and 3 ounces", "oz", 35),
    ("mass", "1,990 g", "g", 1990),
    ("mass", "1,99 kg", "g", 1990),
    ("mass", "1.990 kg", "g", 1990),
    ("difference", "24.", "°F", 24),
    ("difference", ".5", "°F", 0.5),
    ("temperature", "24 deg", "°F", 24),
    ("temperature", "24ºF", "°F", 24),
    ("temperature", "24 degrees F", "°F", 24),
    ("difference", "~24", "°F", 24),
    ("difference", "about 24", "°F", 24),
    ("pressure", "118 lbs", "psig", 118),
    ("verdict", "good", None, "normal"),
    ("verdict", "ok", None, "normal"),
    ("verdict", "hi", None, "high"),
    ("verdict", "too low", None, "low"),
    ("change", "no change", None, "same"),
    ("change", "drops", None, "down"),
    ("change", "Goes up", None, "up"),
    ("steps", "11 then 1", None, (11, 1)),
    ("steps", "9→4→2", None, (9, 4, 2)),
    ("steps", "9, 4 and 2", None, (9, 4, 2)),
    ("steps", "3 5 3", None, (3, 5, 3)),
]
CHOICES = (
    ("A", "undercharge", "Low charge (undercharged)"),
    ("B", "dirty_condenser", "Dirty condenser"),
    ("C", "none", "Nothing is wrong with this machine"),
)


@pytest.mark.parametrize(("kind", "raw", "unit", "value"), TYPED, ids=[row[1] for row in TYPED])
def test_what_people_write_is_read(kind, raw, unit, value):
    found = parse(kind, raw, unit).value
    assert found == (pytest.approx(value) if isinstance(value, (int, float)) else value)


@pytest.mark.parametrize(
    ("raw", "letter"),
    [("A)", "A"), ("(b)", "B"), ("low charge", "A"), ("Dirty condenser", "B"), ("undercharge", "A"), ("nothing", "C")],
)
def test_a_choice_may_be_written_by_its_name(raw, letter):
    assert parse("letter", raw, None, CHOICES).value == letter


@pytest.mark.parametrize(
    ("kind", "raw", "understood"),
    [("difference", "10-12", "10 to 12"), ("temperature", "44 to 46", "44 to 46"), ("letter", "A or B", "A and B")],
)
def test_what_could_mean_two_things_is_said_back_and_never_guessed(kind, raw, understood):
    found = parse(kind, raw, "°F", CHOICES)
    assert found.unreadable and found.value is None and found.understood == understood


@settings(max_examples=300, derandomize=True, deadline=None)
@given(st.text(max_size=30), st.sampled_from(["temperature", "difference", "mass", "pressure", "letter", "steps"]))
def test_nothing_typed_is_silently_a_zero(raw, kind):
    """Anything that is read as nought has a nought in it, and a blank is a blank."""
    found = parse(kind, raw, {"mass": "oz", "pressure": "psig"}.get(kind, "°F"), CHOICES)
    assert found.raw == raw[:80] and found.blank == (not raw.strip())
    if found.value == 0:
        assert any(unicodedata.digit(c, -1) == 0 for c in raw) or "32" in raw
