"""Students who are none: each goes through a call its own way, and their marks show whether the rubric can be gamed."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import actions_for
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.field_tests import tests_for
from wolfsbane.exercise.screen.expert import essential, looked, proofs, proved, taken, worked
from wolfsbane.exercise.screen.live import Live, begun, readable, step
from wolfsbane.exercise.screen.marks import Marked, marked, on_screen, worked_out
from wolfsbane.exercise.screen.run import Run, Step, fold
from wolfsbane.exercise.screen.steps import LOOK_IDS

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.issue import Issue

#: tests nobody who reads everything leaves out
_TICKET = "Found it, put it right, read it again."


@dataclass
class Path:
    """A way through a call under way: the machine, and the steps so far."""

    issue: Issue
    live: Live
    steps: list[Step] = field(default_factory=list)
    kept: int = 0

    def catch_up(self) -> None:
        """Take over what the machine answered since the last time."""
        for shown in self.live.shown[self.kept :]:
            self.steps.append(Step(kind=shown.kind, data=shown.data, shown=shown))
        self.kept = len(self.live.shown)

    def write(self, kind: str, **data: Any) -> None:
        """Write something down."""
        self.catch_up()
        self.steps.append(Step(kind=kind, data=data))

    def type_readings(self) -> None:
        """Type every reading that counts as the instrument showed it."""
        self.catch_up()
        for point in essential(self.issue.setup):
            rows = [s for s in self.live.shown if s.kind == "read" and s.data["point"] == point and s.reading]
            if rows and rows[-1].reading is not None:
                self.write("answer", question=f"read_{point}", text=f"{rows[-1].reading['value']:g}")

    def type_answers(self, **changes: str) -> None:
        """Work everything out from one's own readings, as the key would; ``changes`` stand over it."""
        for question, text in (worked_out(self.issue, fold(self.steps)) | changes).items():
            self.write("answer", question=question, text=text)

    def type_proof(self) -> None:
        """Type what proves the work."""
        self.catch_up()
        for point in proofs(self.issue.setup):
            rows = [s for s in self.live.shown if s.kind == "read" and s.data["point"] == point and s.reading]
            if rows and rows[-1].reading is not None:
                self.write("proof", point=point, text=f"{rows[-1].reading['value']:g}")

    def ended(self) -> Run:
        """The run as it was left."""
        self.write("finish")
        return fold(self.steps)


def _expert(issue: Issue, rng: random.Random) -> Path:
    path = Path(issue=issue, live=looked(issue.setup, issue.practice, issue.accepted))
    return _finished(path)


def _finished(path: Path, fault: str | None = None) -> Path:
    """From what was seen to the end: typed, worked out, named, put right, proved."""
    path.type_readings()
    path.type_answers(**({} if fault is None else {"fault": fault}))
    path.write("name")
    worked(path.live, path.issue.practice)
    path.type_proof()
    path.write("ticket", text=_TICKET)
    return path


def _reads_everything(issue: Issue, rng: random.Random) -> Path:
    live = begun(issue.setup)
    for point in essential(issue.setup):
        taken(live, point)
    for row in readable(issue.machine):
        taken(live, row["point"])
    for test in tests_for(issue.machine):
        if live.site.running:
            step(live, "look" if test.id in LOOK_IDS else "test", _named(test.id))
    return _finished(Path(issue=issue, live=live))


def _named(test_id: str) -> dict[str, str]:
    return {"check" if test_id in LOOK_IDS else "test": test_id}


def _wrong_letter(issue: Issue, rng: random.Random) -> str:
    right = set(issue.call.key.named) | {f for a in issue.accepted for f in a.split("+")}
    return rng.choice([c.letter for c in issue.call.choices.fault if c.id not in right])


def _always_wrong(issue: Issue, rng: random.Random) -> Path:
    path = Path(issue=issue, live=begun(issue.setup))
    for point in essential(issue.setup):
        path.write("answer", question=f"read_{point}", text=str(rng.randint(500, 900)))
    for question in issue.call.questions:
        if on_screen(question.id):
            text = "high" if issue.call.key.verdicts.get(question.id.removesuffix("_verdict")) != "high" else "low"
            number = str(rng.randint(200, 400))
            path.write("answer", question=question.id, text=text if question.id.endswith("_verdict") else number)
    path.write("answer", question="fault", text=_wrong_letter(issue, rng))
    path.write("name")
    path.write("ticket", text="It was all of it.")
    return path


def _random(issue: Issue, rng: random.Random) -> Path:
    live = begun(issue.setup)
    path = Path(issue=issue, live=live)
    points = [r["point"] for r in readable(issue.machine)]
    tests, actions = tests_for(issue.machine), actions_for(issue.machine)
    for _ in range(rng.randint(4, 16)):
        draw = rng.random()
        if draw < 0.45:
            taken(live, rng.choice(points))
        elif draw < 0.8:
            test = rng.choice(tests)
            step(live, "look" if test.id in LOOK_IDS else "test", _named(test.id))
        else:
            step(live, "wait", {"minutes": rng.choice((1, 5, 10))})
    path.type_readings()
    for question in issue.call.questions:
        if on_screen(question.id):
            text = rng.choice(("low", "normal", "high"))
            if not question.id.endswith("_verdict"):
                text = f"{rng.uniform(0, 40):.0f}"
            path.write("answer", question=question.id, text=text)
    path.write("answer", question="fault", text=rng.choice(issue.call.choices.fault).letter)
    path.write("name")
    for _ in range(rng.randint(0, 3)):
        action = rng.choice([a for a in actions if all(p.default is not None or p.optional for p in a.parameters)])
        try:
            step(live, "act", {"action": action.id, "arguments": {}})
        except (BadInputError, NoConvergenceError):
            continue
    proved(live)
    path.type_proof()
    path.write("ticket", text="Done what could be done.")
    return path


ROBOTS: dict[str, Callable[[Issue, random.Random], Path]] = {
    "expert": _expert,
    "reads everything first": _reads_everything,
    "random": _random,
    "always wrong": _always_wrong,
}


def play(name: str, issue: Issue, seed: int) -> tuple[Marked, Path]:
    """One robot through one call: its marks and its way. Raises NoConvergenceError."""
    path = ROBOTS[name](issue, random.Random(seed))
    run = path.ended()
    expert = looked(issue.setup, issue.practice, issue.accepted)
    return marked(issue, run, path.live, expert.minutes), path
