"""A run: what its steps add up to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from wolfsbane.exercise.screen.shown import Shown
from wolfsbane.exercise.screen.steps import MACHINE


@dataclass(frozen=True, kw_only=True)
class Step:
    """One step as it was kept; ``shown`` is what the machine showed, None of what was written down. ``at`` is the
    server's clock, s.
    """

    kind: str
    data: dict[str, Any]
    at: float = 0.0
    shown: Shown | None = None


@dataclass(frozen=True, kw_only=True)
class Typed:
    """A number that was typed for a reading, and what the instrument had shown by then (None: nothing)."""

    text: str
    shown: Shown | None


@dataclass
class Run:
    """``answers`` by question, as they stood when the fault was named; ``before`` are machine steps up to then,
    ``after`` the rest.
    """

    answers: dict[str, str] = field(default_factory=dict)
    typed: dict[str, Typed] = field(default_factory=dict)
    proofs: dict[str, Typed] = field(default_factory=dict)
    before: list[Shown] = field(default_factory=list)
    after: list[Shown] = field(default_factory=list)
    named: bool = False
    hints: int = 0
    ticket: str = ""
    finished: bool = False

    @property
    def shown(self) -> list[Shown]:
        """Everything the machine showed, in order."""
        return [*self.before, *self.after]


def fold(steps: Sequence[Step]) -> Run:
    """The :class:`Run` that steps add up to."""
    run = Run()
    for step in steps:
        if step.kind in MACHINE:
            assert step.shown is not None, "the machine answered"
            # work on the machine ends the looking: what is named afterwards is what the work was for
            (run.after if run.named else run.before).append(step.shown)
        elif step.kind == "answer":
            _answer(run, step.data["question"], step.data["text"])
        elif step.kind == "proof":
            point = step.data["point"]
            run.proofs[point] = Typed(text=step.data["text"], shown=_last(run.after, point))
        elif step.kind == "name":
            run.named = True
        elif step.kind == "hint":
            run.hints += 1
        elif step.kind == "ticket":
            run.ticket = step.data["text"]
        elif step.kind == "finish":
            run.finished = True
    return run


def _answer(run: Run, question: str, text: str) -> None:
    if run.named:
        return
    if question.startswith("read_"):
        point = question.removeprefix("read_")
        run.typed[point] = Typed(text=text, shown=_last(run.before, point))
    else:
        run.answers[question] = text


def _last(shown: list[Shown], point: str) -> Shown | None:
    rows = [s for s in shown if s.kind == "read" and s.data["point"] == point and s.reading is not None]
    return rows[-1] if rows else None
