"""Hints in steps: a question back, then the figure that matters, then the look. None names the fault."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.instruments import label
from wolfsbane.exercise.screen.evidence import seen, weighed
from wolfsbane.exercise.screen.expert import essential

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.exercise.screen.run import Run

_KINDS = {"look": "A look", "test": "A test", "reading": "A reading"}


def hint(issue: Issue, run: Run) -> str:
    """The next hint: each third one names the step that tells most now."""
    setup, depth = issue.setup, run.hints % 3
    taken = {s.data["point"] for s in run.shown if s.kind == "read" and not s.refused}
    missing = [p for p in essential(setup) if p not in taken]
    if run.named:
        return (
            "What has to be true of the machine when you leave, and which readings show it?",
            "Let it settle, then read pressures and lines again, and hold them beside the targets.",
            "Settle, read again, type the proof, take the hoses off, write the ticket.",
        )[depth]
    if missing:
        first = label(missing[0], issue.machine)
        return (
            "What do you have to know before anything can be judged here?",
            f"{len(missing)} readings are missing that everything is worked out from.",
            f"Read next: {first}.",
        )[depth]
    steps = weighed(seen(setup.machine, run.before, setup.system), issue.practice).steps
    if not steps or not run.answers:
        return (
            "Which of your figures is off, and which is where it should be?",
            "Work out superheat and subcooling first, then the air side and the head.",
            "Write down low, normal or high beside each figure, then name what fits all of them.",
        )[depth]
    best = steps[0]
    return (
        "Which two things would still look the same with what you have? What would tell them apart?",
        f"{_KINDS.get(best.kind, 'A step')} tells most now, for about {best.cost:.0f} minutes' worth.",
        f"{best.text}.",
    )[depth]
