"""Feedback on one marked call: each step with one's own number, what was expected, why, and what to look at again."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.instruments import ALL_POINTS
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.drill_marks import asked_in_full
from wolfsbane.exercise.marking.frozen_body import Body, choices_of, grade_body, key_answers, questions_of, title_of
from wolfsbane.exercise.marking.grade import SAID
from wolfsbane.exercise.marking.results import STEPS, step_of
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.questions import Question
from wolfsbane.exercise.paper.situation import Situation
from wolfsbane.exercise.paper.wording import reason_text

_NUMBERS = ("temperature", "difference", "mass", "pressure", "number")
#: reason code -> what to look at again; codes that stand for something right have none
LOOK_AGAIN = {
    "wrong_number": "Do this one again, slowly: write both numbers down before you subtract.",
    "absolute_for_gauge": "Gauge and absolute: the PT scale and the chart are made for gauge pressure.",
    "added_atmosphere": "Gauge and absolute: add nothing; the PT scale is made for gauge pressure.",
    "wrong_ring": "Read the refrigerant on the nameplate first, then use its own PT scale.",
    "other_gauge": "Blue goes with the suction line, red with the liquid line.",
    "sign_turned": "Superheat is above saturation, subcooling below: draw a line and mark both.",
    "swapped": "Large cold line: superheat. Small warm line: subcooling.",
    "other_saturation": (
        "Which saturation goes with which line: low side with the suction line, high side with the liquid line."
    ),
    "target_wrong_device": "Look at the metering device before you look up a target.",
    "verdict_wrong": "Put your figure next to the target band before you call it.",
    "fault_wrong": "Read the pattern, not one number: which way do superheat and subcooling point?",
    "fault_wrong_path": "Read the pattern, not one number: which way do superheat and subcooling point?",
    "faults_part": "Two at once: repair the first in your head, then ask what is still off.",
    "evidence_not_off": "Evidence is a figure that is off target.",
    "evidence_not_deciding": "Ask which figure would be normal if another fault were the cause.",
    "action_wrong": "One step, the first one: airflow and coils first, charge last.",
    "action_led_to": "One step, the first one: airflow and coils first, charge last.",
    "action_second_first": "Two faults: the first hides the second. Repair, run, read again.",
    "action_second_led_to": "Two faults: the first hides the second. Repair, run, read again.",
    "amount_none_wanted": "Ask whether the charge is wrong at all before you get the cylinder out.",
    "amount_over": "Short bursts by the scale; stop, let it stabilize, read again.",
    "amount_under": "How many degrees short is it, and how much does one degree take?",
    "amount_sign": "Too much comes out, too little goes in: say it out loud first.",
    "order_wrong": "Leak before charge, air before charge, and a final check at the end.",
    "order_not_in_order": "Leak before charge, air before charge, and a final check at the end.",
    "order_not_complete": "Something is missing between the first step and the last check.",
    "change_wrong": "For each reading, say which way it was off; after the repair it goes back.",
    "no_plan": "Put the pattern of your figures next to the fault you named: do they agree?",
    "foreign": "Start again at the gauges of this page.",
    "no_work": "Write the figures down first: a verdict or a fault without them is a guess.",
    "no_conclusion": "Name what you found before you plan what to do about it.",
    "amount_harms": "Ask whether it is short at all: high subcooling or no superheat means no more goes in.",
    "amount_floods": "Read the chart again: where does the superheat go with that much in it?",
    "amount_short": "Read both points off the chart: where you stand and where you want to be.",
    "order_harms": "Before anything else: who or what could this step hurt?",
    "order_needless": "Which of these steps changes what the figures show?",
    "asked_back": "Write one answer.",
    "measured_off": "Zero the gauge, clean the pipe, insulate over the clamp, wait for it to stabilize.",
    "drill_slip": "The mistake has a name; do the next three of these without it.",
    "drill_wrong": "Do this one again, then check it backward.",
    "drill_line": "Follow the lines one by one and recompute each.",
    "number_slip": "The mistake has a name; do it again without it.",
    "letter_wrong": "Put your numbers next to what each answer would show.",
    "letter_follows": "Your conclusion was right for your number; the mistake came earlier.",
    "right_not_own": "Your number is right but does not come from your own numbers.",
    "ring_not_own": "Your number is right but does not come from your own pressure.",
    "fault_right_despite": "You named it correctly, but against your own figures: find the mistake in them.",
    "evidence_right_despite": "You named it correctly, but against your own verdict: find the mistake in that.",
    "fault_follows": "Your conclusion was right; the mistake came earlier.",
}


def feedback(body: Body, answers: dict[str, str], marks: list[dict[str, Any]]) -> dict[str, Any]:
    """One call as plain data: title, steps: [{step, name, rows: [{question, text, own, expected, differs, earned,
    points, why, again}]}].

    ``own`` and ``expected`` are in words where letters or numbers of steps stand for something; ``differs`` says that a
    number is another than on the key, also where it earned its mark by following from an earlier one. A question that
    is ``excluded`` from the score still says whether its answer is ``right``. ``shown`` are the readings of the page.
    ``answers`` question id -> raw text, ``marks`` a list of dicts {question, points, earned, code, params}.
    """
    questions = {q.id: q for q in questions_of(body)}
    excluded = {m["question"] for m in marks if m["code"] == "void"}
    counted = {m.question: m for m in grade_body(body, answers)} if excluded else {}
    if isinstance(body, Situation):  # its questions stand in the order of its page
        place = {question: i for i, question in enumerate(questions)}
        marks = sorted(marks, key=lambda m: place.get(m["question"], len(place)))
    expected = key_answers(body)
    rows: dict[str, list[dict[str, Any]]] = {}
    for mark in marks:
        question = mark["question"]
        if question not in questions:
            continue
        asked = questions[question]
        own, key = answers.get(question, ""), expected.get(question, "")
        row = {
            "question": question,
            "text": asked_in_full(body.drill, asked) if isinstance(body, DrillBody) else asked.text,
            "own": own if asked.kind in _NUMBERS else _said(body, asked, own) or own,
            "unit": asked.unit or "",
            "expected": _said(body, asked, key),
            "differs": _differs(asked, own, key),
            "earned": mark["earned"],
            "points": mark["points"],
            "why": reason_text(mark["code"], mark["params"]),
            "again": LOOK_AGAIN.get(mark["code"], ""),
            "suggested": mark.get("suggested"),
            "excluded": question in excluded,
            "right": counted[question].earned == counted[question].points if question in excluded else None,
        }
        rows.setdefault("figures" if isinstance(body, Situation) else step_of(question), []).append(row)
    parts = [{"step": step, "name": name, "rows": rows[step]} for step, (name, _) in STEPS.items() if step in rows]
    return {
        "title": title_of(body),
        "earned": sum(m["earned"] for m in marks),
        "possible": sum(m["points"] for m in marks),
        "hazard": "" if isinstance(body, DrillBody) else body.key.hazard,
        "shown": _shown(body),
        "steps": parts,
    }


def _shown(body: Body) -> list[dict[str, str]]:
    """What was read on the page, so that it can be worked again: list of {label, text}."""
    if isinstance(body, Call):
        order = {key: i for i, key in enumerate(ALL_POINTS)}
        rows = [(r, ", first visit") for r in body.before.values()] + [(r, "") for r in body.readings.values()]
        rows.sort(key=lambda row: (row[1] == "", order.get(row[0].key, len(order))))
        return [{"label": r.label + when, "text": r.text} for r, when in rows]
    if isinstance(body, Situation):
        return [
            {"label": f"{row[0]}, {column}" if len(table.columns) > 2 else row[0], "text": cell}
            for table in body.tables
            for row in table.rows
            for column, cell in zip(table.columns[1:], row[1:], strict=False)
            if cell
        ]
    return []


def _differs(question: Question, own: str, key: str) -> bool:
    """Whether a number is further from the key than whole degrees would be."""
    if question.kind not in _NUMBERS:
        return False
    given, true = (parse(question.kind, text, question.unit).value for text in (own, key))
    return given is not None and true is not None and abs(given - true) > 1.0


def _said(body: Body, question: Question, answer: str) -> str:
    """An answer in words: what stands behind a letter, the steps behind their numbers; empty where it stands for
    nothing.
    """
    if question.kind == "change":
        return SAID.get(parse("change", answer).value, answer)
    if isinstance(body, DrillBody):
        return answer
    if question.kind in ("steps", "letter", "letters"):
        behind: dict[str | int, str] = {letter: text for letter, _, text in choices_of(body, question.id)}
        if question.kind == "steps" and isinstance(body, Call):
            behind |= {step.number: step.text for step in body.choices.order}
        named = parse(question.kind, answer).value
        several = (named,) if isinstance(named, str) else named or ()
        return "; ".join(f"{n} {behind[n]}" for n in several if n in behind)
    return answer.replace("-", "−") if question.kind in _NUMBERS else answer
