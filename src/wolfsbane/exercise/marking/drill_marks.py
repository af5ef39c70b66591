"""A drill on a sheet: its questions, its marking and its key. Works on the frozen drill alone."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.credit import Credit, Mark, full, mark_of, none, slip
from wolfsbane.exercise.marking.rules import NO_RULES
from wolfsbane.exercise.paper.drill import Drill, DrillItem, SecondAnswer, WrittenLine
from wolfsbane.exercise.paper.questions import Question

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
    "wrong_ring": "wrong refrigerant's PT scale",
    "absolute_for_gauge": "treated gauge pressure as absolute",
    "sign_turned": "subtracted backward",
    "hoses_forgotten": "forgot the hoses",
    "purge_forgotten": "forgot the purge",
    "vacuum_for_absolute": "converted the vacuum instead of the pressure that is left",
    "end_for_rise": "took the last reading for the rise",
    "shares_swapped": "took the share of outdoor air for that of return air",
    "other_end_of_glide": "read the other end of the glide",
    "offset_in_a_difference": "took 32 off a difference of temperature",
    "other_line": "took another line for the liquid line",
}
_TITLES = {
    "conversion": "Convert",
    "dial": "Read the dial",
    "superheat": "Superheat",
    "subcooling": "Subcooling",
    "spot_the_error": "Find the mistake",
    "bookkeeping": "Scale, cylinder, log",
    "vacuum": "Vacuum and microns",
    "two_manifolds": "Digital and analog side by side",
    "pipe_pressure": "Line temperature to pressure",
    "mixed_air": "Mixed air",
    "glide": "Glide: dew or bubble",
    "target_superheat": "Target superheat, five at a time",
    "units": "Units",
    "which_line": "Which line is which",
}


def title(kind: str) -> str:
    """What a kind of drill is called."""
    return _TITLES[kind]


def _kind(drill: Drill, unit: str) -> str:
    if drill["kind"] in ("superheat", "subcooling", "target_superheat"):
        return "difference"
    return _KINDS.get(unit, "difference")


class LetteredLine(WrittenLine):
    """A line of a worked sheet with its letter."""

    letter: str


def lettered(item: DrillItem) -> list[LetteredLine]:
    """The lines of an item that finds a mistake, or that one is chosen from, with their letters."""
    lines = [line for line in item.get("lines") or () if isinstance(line, dict)]
    return [
        {"letter": letter, "line": line["line"], "text": line["text"], "value": line["value"]}
        for letter, line in zip("ABCDEFGHI", lines, strict=False)
    ]


def _wanted_line(item: DrillItem) -> LetteredLine:
    """The line the mistake stands in, or the one to be chosen."""
    return next(row for row in lettered(item) if row["line"] == item.get("answer_line"))


def _parts(drill: Drill) -> Iterator[tuple[str, DrillItem, str]]:
    """(question id, item, part) of everything that is asked; the first subtraction of a drill is worked and not
    asked.
    """
    for item in drill["items"]:
        if item.get("worked"):
            continue
        number = item.get("number", 0)
        if item.get("answer_line"):
            yield f"d{number}_line", item, "line"
        yield f"d{number}", item, "answer"
        if item.get("second"):
            yield f"d{number}_second", item, "second"


def _asked(item: DrillItem, part: str) -> SecondAnswer:
    """Answer, unit and tolerance of a part of an item."""
    if part == "second":
        return item["second"]
    return {"answer": item["answer"], "unit": item["unit"], "tolerance": item["tolerance"]}


def _wording(item: DrillItem, part: str) -> str:
    if part == "line":
        return item.get("pick") or "which line is wrong"
    if part == "second":
        return item.get("second_asks") or "saturation on the PT scale"
    if item.get("answer_line") and not item.get("pick"):
        return "what is right"
    if "second_asks" in item:
        return "target"
    return "pressure" if item.get("second") else "answer"


def drill_questions(drill: Drill) -> tuple[Question, ...]:
    """The questions of a frozen drill, one point each."""
    found = []
    for question, item, part in _parts(drill):
        unit = None if part == "line" else _asked(item, part)["unit"]
        kind = "letter" if unit is None else _kind(drill, unit)
        text = f"Item {item.get('number')}: {_wording(item, part)}"
        found.append(Question(id=question, text=text, kind=kind, unit=unit, points=1))
    return tuple(found)


def asked_in_full(drill: Drill, question: Question) -> str:
    """What a question of a drill asks, with the task it belongs to."""
    number = question.id.removeprefix("d").partition("_")[0]
    item = next(i for i in drill["items"] if str(i.get("number")) == number)
    _, _, part = question.text.partition(": ")
    return f"{number}. {item['prompt']}" + ("" if part == "answer" else f" ({part})")


def drill_answers(drill: Drill) -> dict[str, str]:
    """The key of a drill as an apprentice would write it."""
    return {
        question: _wanted_line(item)["letter"] if part == "line" else f"{_asked(item, part)['answer']:g}"
        for question, item, part in _parts(drill)
    }


def grade_drill(drill: Drill, answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Mark a frozen drill. The PT scale of a dial follows the pressure the apprentice read."""
    marks, questions = [], {q.id: q for q in drill_questions(drill)}
    for question, item, part in _parts(drill):
        asked = questions[question]
        given = parse(asked.kind, answers.get(question), asked.unit if asked.unit != "°C or K" else "°C")
        credit = _credit(item, part, given, answers, rules)
        marks.append(rules.applied(mark_of(question, asked.points, credit, given.raw)))
    return marks


def _credit(item: DrillItem, part: str, given: Answer, answers: dict[str, str], rules: Rules) -> Credit:
    if given.blank:
        return none("blank")
    if given.unreadable:
        return none("unreadable", raw=given.raw, allowed="one letter" if part == "line" else "a number")
    if part == "line":
        line = _wanted_line(item)
        expected = f"{line['letter']} ({line['text'].split(':')[0]})"
        if given.value == line["letter"]:
            return full("drill_right", expected=expected)
        return none("drill_pick" if item.get("pick") else "drill_line", expected=expected)
    row = _asked(item, part)
    true, tolerance, per = row["answer"], row["tolerance"] * rules.widened("sum"), row.get("per")
    if part == "second" and per is not None:
        own = parse("pressure", answers.get(f"d{item.get('number')}"), item["unit"])
        true += (own.value - item["answer"]) * per if own.value is not None else 0.0
    said = {"given": f"{given.value:g}".replace("-", "−"), "expected": f"{true:.1f}".replace("-", "−")}
    if min(abs(given.value - true), abs(given.value - row["answer"])) <= tolerance + 1e-9:
        return full("drill_right", **said)
    known = item.get("mistakes", []) if part == "answer" else []
    named = next((m["mistake"] for m in known if abs(given.value - m["value"]) <= tolerance), "")
    if named in SLIPS:
        return slip("drill_slip", mistake=SLIPS[named], **said)
    return none("drill_wrong", **said)
