"""Which question rubric 3 judges how, in the order in which one answer leads to the next."""

from __future__ import annotations

from collections.abc import Callable

from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.diagnosis.targets import FIGURES
from wolfsbane.exercise.marking.credit import Credit, Share
from wolfsbane.exercise.marking.evidence_text import suggest
from wolfsbane.exercise.marking.rubric_3.conclusion import action, evidence, fault
from wolfsbane.exercise.marking.rubric_3.figures import difference, reading, saturation, target, verdict
from wolfsbane.exercise.marking.rubric_3.repair import amount, change, order, repair_answers
from wolfsbane.exercise.marking.rubric_3.work import ASKED, Work
from wolfsbane.exercise.paper.questions import MEASURED

__all__ = ["JUDGES", "repair_answers"]

_CHANGES = ("after_suction", "after_head", "after_superheat", "after_subcooling")


def _because(work: Work, question: str) -> Credit:
    share, found = suggest(work.answers[question].value, work)
    proposed = int(work.questions[question].points * share + 1e-9)
    return Credit(code="to_confirm", share=Share.NONE, suggested=proposed, params={"found": found})


JUDGES: dict[str, Callable[[Work, str], Credit]] = {
    **dict.fromkeys(MEASURED, reading),
    **dict.fromkeys(SATURATIONS, saturation),
    **dict.fromkeys(ASKED, difference),
    "target": target,
    **{f"{name}_verdict": verdict for name in FIGURES},
    "fault": fault,
    "evidence": evidence,
    "action": action,
    "amount": amount,
    "order": order,
    **dict.fromkeys(_CHANGES, change),
    "because": _because,
}
