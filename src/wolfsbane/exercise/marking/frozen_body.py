"""A frozen body of a sheet, a call or a drill: asked, marked and keyed here, so that nobody else has to know which of
the two it is.
"""

from __future__ import annotations

from typing import Any, TypeAlias

from wolfsbane.exercise.draw.variant import fingerprint
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, grade_drill, title
from wolfsbane.exercise.marking.grade import Mark, grade, perfect_answers
from wolfsbane.exercise.marking.rules import NO_RULES, Rules
from wolfsbane.exercise.paper.call import Call, call_from_json
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.questions import Question
from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION

Body: TypeAlias = Call | DrillBody


def body_from_json(data: dict[str, Any]) -> Body:
    """A stored body back, of any schema. Raises BadInputError naming the field."""
    if "drill" in data:
        return DrillBody(drill=data["drill"], units=data["units"], seed=data["seed"])
    return call_from_json(data)


def mark_of_copy(body: Body) -> tuple[float, ...] | None:
    """What makes two bodies the same to somebody who copies, or None where everybody may have the same (rig, drill)."""
    return None if isinstance(body, DrillBody) or body.key.rig is not None else fingerprint(body)


def title_of(body: Body) -> str:
    """What a body is called on a key: the fault, or the drill."""
    return title(body.drill["kind"]) if isinstance(body, DrillBody) else body.key.fault_name


def questions_of(body: Body) -> tuple[Question, ...]:
    """The questions of a body."""
    return drill_questions(body.drill) if isinstance(body, DrillBody) else body.questions


def key_answers(body: Body) -> dict[str, str]:
    """The answers that earn every mark."""
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
    return grade_drill(body.drill, answers, rules) if isinstance(body, DrillBody) else grade(body, answers, rules)


def level_of(body: Body) -> int | None:
    """Stated difficulty of a body, or None."""
    return None if isinstance(body, DrillBody) else body.key.level


def rubric_of(body: Body) -> str:
    """The version of the rubric a body is marked by."""
    return RUBRIC_VERSION if isinstance(body, DrillBody) else body.rubric
