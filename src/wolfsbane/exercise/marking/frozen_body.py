"""A frozen body of a sheet, a call, a drill or a situation: asked, marked and keyed here, so that nobody else has to
know which of them it is.
"""

from __future__ import annotations

from typing import Any, TypeAlias

from wolfsbane.exercise.draw.variant import fingerprint
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, grade_drill, title
from wolfsbane.exercise.marking.grade import Mark, grade, perfect_answers
from wolfsbane.exercise.marking.rules import NO_RULES, Rules
from wolfsbane.exercise.marking.situation_marks import grade_situation, situation_answers
from wolfsbane.exercise.paper.call import Call, call_from_json
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.questions import Question
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION
from wolfsbane.exercise.paper.situation import Situation, situation_from_json

Body: TypeAlias = Call | DrillBody | Situation


def body_from_json(data: dict[str, Any]) -> Body:
    """A stored body back, of any schema. Raises BadInputError naming the field."""
    if "drill" in data:
        return DrillBody(drill=data["drill"], units=data["units"], seed=data["seed"])
    if "situation" in data:
        return situation_from_json(data)
    return call_from_json(data)


def mark_of_copy(body: Body) -> tuple[float, ...] | None:
    """What makes two bodies the same to somebody who copies, or None where everybody may have the same (rig, drill)."""
    if isinstance(body, Situation):
        return tuple(number.value for number in body.key.numbers.values())
    return None if isinstance(body, DrillBody) or body.key.rig is not None else fingerprint(body)


def title_of(body: Body) -> str:
    """What a body is called on a key: the fault, the drill, or the situation with what it is."""
    if isinstance(body, Situation):
        colon = "" if body.title.endswith("?") else ":"
        return f"{body.title}{colon} {body.key.title[:1].lower()}{body.key.title[1:]}"
    return title(body.drill["kind"]) if isinstance(body, DrillBody) else body.key.fault_name


def questions_of(body: Body) -> tuple[Question, ...]:
    """The questions of a body."""
    return drill_questions(body.drill) if isinstance(body, DrillBody) else body.questions


def key_answers(body: Body) -> dict[str, str]:
    """The answers that earn every mark."""
    if isinstance(body, Situation):
        return situation_answers(body)
    return drill_answers(body.drill) if isinstance(body, DrillBody) else perfect_answers(body)


def on_rig(body: Body) -> bool:
    """Whether a body is a call on a trainer rig."""
    return isinstance(body, Call) and body.key.rig is not None


def waits(body: Body) -> bool:
    """Whether a body cannot be marked yet, because nobody has entered what the rig read."""
    return isinstance(body, Call) and body.key.rig is not None and not body.key.measured


def grade_body(body: Body, answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Marks of a body; none while it waits for the rig."""
    if waits(body):
        return []
    if isinstance(body, Situation):
        return grade_situation(body, answers, rules)
    return grade_drill(body.drill, answers, rules) if isinstance(body, DrillBody) else grade(body, answers, rules)


def level_of(body: Body) -> int | None:
    """Stated difficulty of a body, or None."""
    return None if isinstance(body, DrillBody) else body.key.level


def rubric_of(body: Body) -> str:
    """The version of the rubric a body is marked by."""
    return body.rubric if isinstance(body, Call) else RUBRIC_VERSION


def choices_of(body: Body, question: str) -> tuple[tuple[str, str, str], ...]:
    """(letter, id, text) of what is offered for a question that is answered by letters; none of any other."""
    if isinstance(body, Situation):
        return tuple((c.letter, c.id, c.text) for c in body.choices.get(question, ()))
    if isinstance(body, Call):
        return tuple((c.letter, c.id, c.text) for c in body.choices.lettered(question))
    return ()
