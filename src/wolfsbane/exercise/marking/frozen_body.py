"""A frozen body of a sheet, a call or a drill: asked, marked and keyed here,
so that nobody else has to know which of the two it is.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.draw.variant import fingerprint
from wolfsbane.exercise.marking.drill_marks import drill_answers, drill_questions, grade_drill, title
from wolfsbane.exercise.marking.grading import grade, perfect_answers
from wolfsbane.exercise.marking.rules import NO_RULES
from wolfsbane.exercise.paper.call import call_from_json

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.grading import Mark
    from wolfsbane.exercise.marking.rules import Rules


def mark_of_copy(body: dict[str, Any]) -> tuple[float, float, float, float] | None:
    """What makes two bodies the same to somebody who copies, or None where everybody may have the same (rig, drill)."""
    if is_drill(body) or body["key"].get("rig"):
        return None
    return fingerprint(call_from_json(body))


def is_drill(body: dict[str, Any]) -> bool:
    """Whether a frozen body is a drill."""
    return "drill" in body


def title_of(body: dict[str, Any]) -> str:
    """What a body is called on a key: the fault, or the drill."""
    return title(body["drill"]) if is_drill(body) else body["key"]["fault_name"]


def questions_of(body: dict[str, Any]) -> list[dict[str, Any]]:
    """The questions of a body as plain data."""
    return drill_questions(body["drill"]) if is_drill(body) else body["questions"]


def key_answers(body: dict[str, Any]) -> dict[str, str]:
    """The answers that earn every mark."""
    return drill_answers(body["drill"]) if is_drill(body) else perfect_answers(call_from_json(body))


def waits(body: dict[str, Any]) -> bool:
    """Whether a body cannot be marked yet, because nobody has entered what the rig read."""
    return not is_drill(body) and bool(body["key"].get("rig")) and not body["key"].get("measured")


def grade_body(body: dict[str, Any], answers: dict[str, str], rules: Rules = NO_RULES) -> list[Mark]:
    """Marks of a body: list of :class:`~wolfsbane.exercise.marking.grading.Mark`; none while it waits for the rig."""
    if waits(body):
        return []
    return grade_drill(body["drill"], answers, rules) if is_drill(body) else grade(call_from_json(body), answers, rules)


def level_of(body: dict[str, Any]) -> int:
    """Stated difficulty of a body, or None."""
    return None if is_drill(body) else (body["key"].get("difficulty") or {}).get("level")


def skills_of(body: dict[str, Any]) -> str:
    """Skill a body trains: fault ids joined by "+", none, or the drill."""
    return f"drill:{body['drill']['kind']}" if is_drill(body) else "+".join(body["key"].get("faults") or []) or "none"
