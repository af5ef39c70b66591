"""grade(call, answers) -> marks that follow the apprentice's own numbers, so that one slip costs one mark.

Works on the frozen call alone: nothing is solved again, so a later solver never re-marks old paper.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.exercise.marking import rubric_3
from wolfsbane.exercise.marking.conclusion import action, evidence, fault
from wolfsbane.exercise.marking.credit import Credit, Mark, Share, mark_of, none
from wolfsbane.exercise.marking.evidence_text import suggest
from wolfsbane.exercise.marking.figures import difference, reading, saturation, target, verdict
from wolfsbane.exercise.marking.repair import amount, change, order, repair_answers
from wolfsbane.exercise.marking.rules import NO_RULES
from wolfsbane.exercise.marking.work import ASKED, Work
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION

__all__ = ["RUBRIC_VERSION", "Mark", "grade", "perfect_answers", "total"]

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call

_ALLOWED = {
    "temperature": "a temperature",
    "difference": "a number",
    "verdict": "low, normal or high (L, N, H)",
    "letter": "one letter",
    "letters": "letters of the choices",
    "mass": "a weight, 0 for none",
    "pressure": "a gauge pressure",
    "steps": "numbers of the steps",
    "change": "down, same or up (D, S, U)",
    "text": "text",
}
#: how an answer of three words is said
SAID = {"down": "falls", "same": "stays", "up": "rises"}
_CHANGES = ("after_suction", "after_head", "after_superheat", "after_subcooling")


def _because(work: Work, question: str) -> Credit:
    """Free text: points are only ever proposed."""
    share, found = suggest(work.answers[question].value, work)
    proposed = int(work.questions[question].points * share + 1e-9)
    return Credit(code="to_confirm", share=Share.NONE, suggested=proposed, params={"found": found})


#: question -> what judges it, in the order in which one answer leads to the next
JUDGES: dict[str, Callable[[Work, str], Credit]] = {
    **dict.fromkeys(MEASURED, reading),
    **dict.fromkeys(SATURATIONS, saturation),
    **dict.fromkeys(ASKED, difference),
    "target": target,
    **{f"{name}_verdict": verdict for name in ASKED},
    "fault": fault,
    "evidence": evidence,
    "action": action,
    "amount": amount,
    "order": order,
    **dict.fromkeys(_CHANGES, change),
    "because": _because,
}


def _credit(work: Any, question: str, judges: dict[str, Any]) -> Credit:
    """What one answer earns; one that is blank or cannot be read earns nothing and carries nothing on."""
    answer = work.answers[question]
    if answer.blank:
        return none("blank")
    if answer.unreadable:
        understood = getattr(answer, "understood", "")
        if understood:
            return none("asked_back", raw=answer.raw, understood=understood)
        return none("unreadable", raw=answer.raw, allowed=_ALLOWED[work.questions[question].kind])
    return judges[question](work, question)


def grade(call: Call, answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Mark one call by the rubric it was frozen with.

    ``call`` is a :class:`wolfsbane.exercise.paper.call.Call`, ``answers`` a dict question id -> raw text (missing is
    blank), ``rules`` the :class:`~wolfsbane.exercise.marking.rules.Rules` an instructor made for this call. Returns a
    list of :class:`Mark` in the order of the questions.
    """
    old = call.rubric != RUBRIC_VERSION
    work: Any = rubric_3.Work(call, answers, rules) if old else Work(call, answers, rules)
    judges: dict[str, Any] = rubric_3.JUDGES if old else JUDGES
    marks = {}
    for question in judges:
        if question == next(iter(SATURATIONS)):
            work.follow_rig()
        if question in work.questions:
            points, raw = work.questions[question].points, work.answers[question].raw
            credit = _credit(work, question, judges)
            if not old:
                work.note(question, credit)
            marks[question] = mark_of(question, points, credit, raw)
    ordered = [rules.applied(marks[question.id]) for question in call.questions]
    return ordered if old or not work.unsafe or not call.practice.get("unsafe_fails") else _failed(ordered, work.unsafe)


def _failed(marks: list[Mark], harm: list[str]) -> list[Mark]:
    """A call that an unsafe step fails, by the practice printed on the sheet: nothing of it earns."""
    return [
        replace(m, earned=0, code="call_failed", params={"harm": " ".join(harm)}, suggested=None) if m.points else m
        for m in marks
    ]


def total(marks: list[Mark]) -> tuple[int, int]:
    """(earned, possible) points of a list of marks."""
    return sum(m.earned for m in marks), sum(m.points for m in marks)


def perfect_answers(call: Call) -> dict[str, str]:
    """Answers that earn every mark (free text aside): the key written the way an apprentice would."""
    key, choices = call.key, call.choices
    found = {name: f"{key.figures[name]:.1f}" for name in (*SATURATIONS, *ASKED) if name in key.figures}
    if key.target is not None:
        found["target"] = f"{key.target:.1f}"
    found |= {f"{name}_verdict": verdict for name, verdict in key.verdicts.items()}
    named = key.faults or ("none",)
    deciding = [name for one in named for name in key.deciders[one] if name in key.evidence]
    found["fault"] = " ".join(choices.letter("fault", one) for one in named)
    found["action"] = choices.letter("action", key.action)
    found["evidence"] = choices.letter("evidence", (deciding or list(key.evidence))[0])
    found |= {
        question: f"{call.readings[name].value:g}" for question, name in MEASURED.items() if name in call.readings
    }
    found |= rubric_3.repair_answers(call) if call.rubric != RUBRIC_VERSION else repair_answers(call)
    asked = {question.id for question in call.questions}
    return {question: answer for question, answer in found.items() if question in asked}
