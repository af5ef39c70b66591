"""The three named rubrics: how many points each question of a call is worth.

In every one of them figures and their verdicts carry at most 40 % of a whole call, the conclusion with its evidence at
least 30 % and the plan with its outcome at least 25 %. Which rubric a class is marked by is a choice of its instructor;
the shares are common practice among examiners, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

#: raise it when a mark could change for the same answers; calls are marked by the version they were frozen with
RUBRIC_VERSION = "4"
BALANCED, FIGURES_FIRST, DIAGNOSIS_FIRST = "balanced", "figures_first", "diagnosis_first"
#: answers without figures behind them earn at most this share of their points
NO_WORK_SHARE = 0.25
#: shares of a whole call that every rubric keeps: figures with verdicts at most, the other two at least
MAX_FIGURES, MIN_CONCLUSION, MIN_PLAN = 0.40, 0.30, 0.25


@dataclass(frozen=True, kw_only=True)
class Rubric:
    """Points by question where it is not one; ``rig`` and ``diagnosis_only`` are added where readings are taken on a
    rig, or where no repair is asked.
    """

    id: str
    name: str
    points: dict[str, int]
    rig: dict[str, int]
    diagnosis_only: dict[str, int]


_PLAN = {"action": 2, "amount": 2, "order": 4}
_RIG = {"fault": 4, "evidence": 2, "action": 2}
_DIAGNOSIS = {"fault": 4, "evidence": 2, "action": 2}
RUBRICS = {
    rubric.id: rubric
    for rubric in (
        Rubric(
            id=BALANCED,
            name="Balanced",
            points={"fault": 6, "evidence": 4, **_PLAN},
            rig=_RIG,
            diagnosis_only=_DIAGNOSIS,
        ),
        Rubric(
            id=FIGURES_FIRST,
            name="Figures first",
            points={"superheat": 2, "subcooling": 2, "fault": 8, "evidence": 4, **_PLAN, "order": 2},
            rig=_RIG | {"amount": 2},
            diagnosis_only=_DIAGNOSIS,
        ),
        Rubric(
            id=DIAGNOSIS_FIRST,
            name="Diagnosis first",
            points={"fault": 10, "evidence": 6, **_PLAN},
            rig=_RIG,
            diagnosis_only=_DIAGNOSIS,
        ),
    )
}
#: questions of the plan beside what the readings become
_OF_PLAN = ("action", "amount", "order")


def part_of(question: str) -> str:
    """Which of three parts a question belongs to: figures, conclusion or plan."""
    if question in ("fault", "evidence", "because"):
        return "conclusion"
    return "plan" if question in _OF_PLAN or question.startswith("after_") else "figures"


def points_of(rubric: str, questions: tuple[str, ...], faults: int = 1) -> dict[str, int]:
    """Points by question id for the ``questions`` of a call; one point each where the rubric says nothing.

    With two faults the points of the conclusion are the same; with more, one share each. Raises KeyError for an unknown
    rubric.
    """
    chosen = RUBRICS[rubric]
    found = {q: chosen.points.get(q, 1) for q in questions}
    extra = [chosen.rig] if any(q.startswith("read_") for q in questions) else []
    extra += [] if "order" in questions else [chosen.diagnosis_only]
    for more in extra:
        for q, points in more.items():
            if q in found:
                found[q] += points
    if "because" in found:
        found["because"] = 2
    if "fault" in found and faults > 1:
        found["fault"] += -found["fault"] % faults
    return found


def shares(points: dict[str, int]) -> dict[str, float]:
    """Share of each part in the points of a call: {figures, conclusion, plan}."""
    total = sum(points.values()) or 1
    found = {"figures": 0, "conclusion": 0, "plan": 0}
    for question, worth in points.items():
        found[part_of(question)] += worth
    return {part: worth / total for part, worth in found.items()}
