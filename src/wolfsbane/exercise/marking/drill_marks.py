"""A drill on a sheet: its questions, its marking and its key. Works on the frozen drill alone."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.grading import Mark
from wolfsbane.exercise.marking.rubric import earned_of
from wolfsbane.exercise.marking.rules import NO_RULES

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.answers import Answer
    from wolfsbane.exercise.marking.rules import Rules

#: unit -> kind of answer
_KINDS = {
    "psig": "pressure",
    "kPa": "pressure",
    "oz": "mass",
    "g": "mass",
    "°F": "temperature",
    "°C": "temperature",
    "K": "difference",
    "°C or K": "temperature",
}
#: what a reader of the marks is told of a slip
SLIPS = {
    "wrong_ring": "another refrigerant's ring",
    "absolute_for_gauge": "gauge pressure taken for absolute",
    "sign_turned": "subtracted the wrong way round",
    "hoses_forgotten": "the hoses are forgotten",
    "purge_forgotten": "the purge is forgotten",
}
_TITLES = {
    "conversion": "Convert",
    "dial": "Read the dial",
    "superheat": "Superheat",
    "subcooling": "Subcooling",
    "spot_the_error": "Find the mistake",
    "bookkeeping": "Scale, cylinder, log",
}


def title(drill: dict[str, Any]) -> str:
    """What a drill is called."""
    return _TITLES[drill["kind"]]


def _kind(drill: dict[str, Any], unit: str) -> str:
    if drill["kind"] in ("superheat", "subcooling"):
        return "difference"
    return _KINDS.get(unit, "difference")


def lettered(item: dict[str, Any]) -> list[dict[str, Any]]:
    """The lines of an item that finds a mistake, with their letters."""
    return [
        {"letter": "ABCDEFGHI"[i], **line} for i, line in enumerate(item.get("lines") or ()) if isinstance(line, dict)
    ]


def _parts(drill: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any], str]]:
    """(question id, item, part) of everything that is asked;
    the first subtraction of a drill is worked and not asked.
    """
    for item in drill["items"]:
        if item.get("worked"):
            continue
        if item.get("answer_line"):
            yield f"d{item['number']}_line", item, "line"
        yield f"d{item['number']}", item, "answer"
        if item.get("second"):
            yield f"d{item['number']}_second", item, "second"


def drill_questions(drill: dict[str, Any]) -> list[dict[str, Any]]:
    """The questions of a frozen drill as plain data, one point each."""
    found = []
    for question, item, part in _parts(drill):
        row = item["second"] if part == "second" else item
        kind, unit = ("letter", None) if part == "line" else (_kind(drill, row["unit"]), row["unit"])
        text = {
            "line": "which line is wrong",
            "second": "saturation on the ring",
            "answer": (
                "what is right"
                if item.get("answer_line")
                else "pressure"
                if part == "answer" and item.get("second")
                else "answer"
            ),
        }[part]
        found.append(
            {"id": question, "text": f"Item {item['number']}: {text}", "kind": kind, "unit": unit, "points": 1}
        )
    return found


def asked_in_full(drill: dict[str, Any], question: dict[str, Any]) -> str:
    """What a question of a drill asks, with the task it belongs to."""
    item = next(i for i in drill["items"] if str(i["number"]) == question["id"].removeprefix("d").partition("_")[0])
    _, _, part = question["text"].partition(": ")
    return f"{item['number']}. {item['prompt']}" + ("" if part == "answer" else f" ({part})")


def drill_answers(drill: dict[str, Any]) -> dict[str, str]:
    """The key of a drill as an apprentice would write it."""
    found = {}
    for question, item, part in _parts(drill):
        if part == "line":
            found[question] = next(row["letter"] for row in lettered(item) if row["line"] == item["answer_line"])
        else:
            found[question] = f"{(item['second'] if part == 'second' else item)['answer']:g}"
    return found


def grade_drill(drill: dict[str, Any], answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Mark a frozen drill: list of :class:`Mark`. The ring of a dial follows the pressure the apprentice read."""
    marks, questions = [], {q["id"]: q for q in drill_questions(drill)}
    for question, item, part in _parts(drill):
        asked = questions[question]
        given = parse(asked["kind"], answers.get(question), asked["unit"] if asked["unit"] != "°C or K" else "°C")
        share, code, params = _worth(item, part, given, answers, rules)
        points = asked["points"]
        marks.append(
            rules.applied(
                Mark(
                    question=question,
                    points=points,
                    earned=earned_of(share, code, points),
                    code=code,
                    params=params,
                    raw=given.raw,
                )
            )
        )
    return marks


def _worth(
    item: dict[str, Any], part: str, given: Answer, answers: dict[str, str], rules: Rules
) -> tuple[bool, str, dict[str, str]]:
    if given.blank:
        return False, "blank", {}
    if given.unreadable:
        return False, "unreadable", {"raw": given.raw, "allowed": "one letter" if part == "line" else "a number"}
    if part == "line":
        true = next(row for row in lettered(item) if row["line"] == item["answer_line"])
        right = given.value == true["letter"]
        said = {"expected": f"{true['letter']} ({true['text'].split(':')[0]})"}
        return right, "drill_right" if right else "drill_line", said
    row = item["second"] if part == "second" else item
    true, tolerance = row["answer"], row["tolerance"] * rules.widened("sum")
    if part == "second" and row.get("per") is not None:
        own = parse("pressure", answers.get(f"d{item['number']}"), item["unit"])
        true += (own.value - item["answer"]) * row["per"] if own.value is not None else 0.0
    said = {"given": f"{given.value:g}".replace("-", "−"), "expected": f"{true:.1f}".replace("-", "−")}
    if min(abs(given.value - true), abs(given.value - row["answer"])) <= tolerance + 1e-9:
        return True, "drill_right", said
    slips = item.get("mistakes", ()) if part == "answer" else ()
    slip = next((m["mistake"] for m in slips if abs(given.value - m["value"]) <= tolerance), None)
    if slip in SLIPS:
        return None, "drill_slip", said | {"mistake": SLIPS[slip]}
    return False, "drill_wrong", said
