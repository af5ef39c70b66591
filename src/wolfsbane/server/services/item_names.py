"""What the items of a sheet are called for an instructor."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.faults import NONE
from wolfsbane.exercise.draw.rung import SECOND_VISIT
from wolfsbane.exercise.marking.drill_marks import title
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.server.services import results


def item_name(data: dict[str, Any]) -> str:
    """A drill, a situation, or what the forms of a rung hide."""
    if data["kind"] == "situation":
        return SITUATIONS[data["situation"]].name
    return title(data["drill"]) if data["kind"] == "drill" else rung_name(data["rung"])


def rung_name(rung: dict[str, Any]) -> str:
    """What the forms of a rung hide, in words."""
    skills = dict.fromkeys(rung.get("skills") or [rung["skill"]])
    if rung.get("way") == SECOND_VISIT:
        return " / ".join(map(_visit_name, skills))
    return " / ".join(results.skill_name(skill) for skill in skills)


def _visit_name(skill: str) -> str:
    """A second visit in words: what was repaired, and what is left."""
    repaired, _, left = skill.partition("+")
    return f"{results.skill_name(repaired)} repaired, then {results.skill_name(left or NONE).lower()}"
