"""What a QTI item scores: every answer against the frozen key, with all that the key lets count in full.

What follows from an apprentice's own slip cannot be said in QTI's response processing without a solved machine beside
it; that is marked by Wolfsbane alone.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any
from xml.etree import ElementTree as Xml

from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.situation import Situation

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.paper.questions import Question

NUMERIC = ("temperature", "difference", "pressure", "mass", "number")


def add(parent: Element, tag: str, text: str | None = None, **attributes: Any) -> Element:
    """A child element with its text and attributes."""
    made = Xml.SubElement(parent, tag, {k.rstrip("_"): str(v) for k, v in attributes.items()})
    made.text = text
    return made


def tolerance_of(body: Body, q: Question) -> float:
    """How far a numeric answer may be off the key."""
    if isinstance(body, Situation):
        return body.key.numbers[q.id].tolerance
    if isinstance(body, DrillBody):
        number, _, part = q.id.removeprefix("d").partition("_")
        item = next(i for i in body.drill["items"] if str(i.get("number")) == number)
        return item["second"]["tolerance"] if part == "second" else item["tolerance"]
    found = body.key.tolerance
    if q.id.startswith("read_") and found.readings is not None:
        return found.readings[q.id.removeprefix("read_")]
    if q.kind == "mass" and body.key.repair is not None:
        return body.key.repair.amount.tolerance
    return found.saturation if q.id.endswith("_saturation") else found.sum


def also_right(body: Body, q: Question) -> list[str]:
    """Answers beside the key's own that earn in full: letters, words or numbers as text."""
    if isinstance(body, DrillBody):
        return []
    if isinstance(body, Situation):
        return [body.letter(q.id, also) for also in body.key.letters[q.id].also] if q.kind == "letter" else []
    key, own = body.key, frozen_body.key_answers(body)[q.id]
    found: list[str] = []
    if q.id == "fault" and q.kind == "letter":
        found = [choice.letter for choice in body.choices.fault if choice.id in key.also_open]
    elif q.kind == "verdict":
        name = q.id.removesuffix("_verdict")
        found = sorted(key.bands[name].verdicts_within(key.figures[name], key.tolerance.edge))
    elif q.kind == "change" and key.repair is not None:
        found = list(key.repair.changes[q.id])
    elif q.kind == "mass" and key.repair is not None:
        found = [f"{value:g}" for value in key.repair.amount.also]
    return [answer for answer in found if answer != own]


def processing(root: Element, body: Body, asked: list[Question]) -> None:
    """Response processing of an item: points of each question added to SCORE where the answer is right."""
    made = add(root, "responseProcessing")
    for q in asked:
        condition = add(add(made, "responseCondition"), "responseIf")
        _right(condition, body, q)
        total = add(add(condition, "setOutcomeValue", identifier="SCORE"), "sum")
        add(total, "variable", identifier="SCORE")
        add(total, "baseValue", str(q.points), baseType="float")


def _right(parent: Element, body: Body, q: Question) -> None:
    if q.id == "evidence" and isinstance(body, Call):
        _evidence(parent, body)
        return
    others = also_right(body, q)
    parent = add(parent, "or") if others else parent
    for other in (None, *others):
        if q.kind in NUMERIC:
            size = f"{tolerance_of(body, q):g}"
            test = add(parent, "equal", toleranceMode="absolute", tolerance=f"{size} {size}")
        else:
            test = add(parent, "match")
        add(test, "variable", identifier=q.id)
        if other is None:
            add(test, "correct", identifier=q.id)
        else:
            add(test, "baseValue", other, baseType="float" if q.kind in NUMERIC else "identifier")


def _evidence(parent: Element, body: Call) -> None:
    """One of the deciding figures, and none that is on target."""
    key, letter = body.key, {choice.id: choice.letter for choice in body.choices.evidence}
    deciding = {name for fault in key.faults or ("none",) for name in key.deciders[fault]} & set(key.evidence)
    both = add(parent, "and")
    _any_of(both, [letter[name] for name in key.evidence if name in deciding or not deciding])
    idle = [one for name, one in letter.items() if name not in key.evidence]
    if idle:
        _any_of(add(both, "not"), idle)


def _any_of(parent: Element, letters: list[str]) -> None:
    """Whether one of ``letters`` is among the figures named."""
    some = add(parent, "or")
    for one in letters:
        named = add(some, "member")
        add(named, "baseValue", one, baseType="identifier")
        add(named, "variable", identifier="evidence")
