"""A lesson: the class decides together, by vote, what is done next. What may be voted on, and what a vote leads to."""

from __future__ import annotations

import statistics
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import actions_for
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import tests_for
from wolfsbane.exercise.screen.expert import essential, ways_to_read
from wolfsbane.exercise.screen.live import readable
from wolfsbane.exercise.screen.marks import worked_out
from wolfsbane.exercise.screen.run import Step, fold
from wolfsbane.exercise.screen.steps import LOOK_IDS

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.exercise.screen.live import Live
    from wolfsbane.exercise.screen.run import Run
    from wolfsbane.exercise.screen.shown import Shown

NEXT, READ_OFF, NAME, WORK = "next", "read_off", "name", "work"
#: kind of a vote -> what the class is asked
ASKS = {
    NEXT: "What do we do next?",
    READ_OFF: "What does it read?",
    NAME: "What is wrong with it?",
    WORK: "What do we do about it?",
}
#: a class that is sure goes on to name it
ENOUGH = "enough"


@dataclass(frozen=True, kw_only=True)
class Choice:
    """One thing that can be voted for: ``id`` as it is sent, ``group`` under which it is listed, minutes it takes."""

    id: str
    group: str
    text: str
    minutes: float = 0.0

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {"id": self.id, "group": self.group, "text": self.text, "minutes": self.minutes}


def choices(issue: Issue, run: Run, kind: str) -> list[Choice]:
    """What may be voted for in a vote of a kind; none for a number, which is typed. Raises BadInputError for a vote
    that has no place now.
    """
    if kind not in ASKS:
        raise BadInputError("kind", kind, ", ".join(ASKS))
    if kind == READ_OFF:
        if on_dial(run.shown) is None:
            raise BadInputError("kind", kind, "a vote on a reading, once an instrument shows one")
        return []
    if (kind in (NEXT, NAME)) == run.named:
        raise BadInputError("kind", kind, "a vote on the work: it was named" if run.named else "one before the work")
    if kind == NAME:
        return [Choice(id=f"name:{c.letter}", group="", text=c.text) for c in issue.call.choices.fault]
    machine = issue.machine
    reads = [Choice(id=f"read:{p['point']}", group="Read", text=p["label"], minutes=1.0) for p in readable(machine)]
    settle = Choice(id="settle", group="Wait", text="Let it settle")
    if kind == WORK:
        work = [Choice(id=f"act:{a.id}", group="Do", text=a.name) for a in actions_for(machine) if a.id != "settle"]
        return [*work, settle, *reads]
    tests = tests_for(machine)
    looks = [Choice(id=f"look:{t.id}", group="Look", text=t.name, minutes=t.minutes) for t in tests if t.id in LOOK_IDS]
    others = [
        Choice(id=f"test:{t.id}", group="Test", text=t.name, minutes=t.minutes) for t in tests if t.id not in LOOK_IDS
    ]
    plate = Choice(id="plate", group="Look", text="Nameplate", minutes=1.0)
    return [
        plate,
        *looks,
        *reads,
        *others,
        settle,
        Choice(id=ENOUGH, group="Name it", text="We have enough: name it"),
    ]


def on_dial(shown: Sequence[Shown]) -> str | None:
    """The point that an instrument showed last, None where none did."""
    rows = [s for s in shown if s.kind == "read" and s.reading is not None]
    return str(rows[-1].data["point"]) if rows else None


def require_choice(issue: Issue, run: Run, kind: str, choice: str) -> str:
    """A choice of a vote, as it is kept. Raises BadInputError."""
    if kind == READ_OFF:
        text = choice.strip().replace(",", ".").replace("−", "-")
        try:
            value = float(text)
        except ValueError:
            raise BadInputError("choice", choice, "a number, as it stands on the instrument") from None
        if not -1e5 < value < 1e5:
            raise BadInputError("choice", choice, "a number that an instrument can show")
        return f"{value:g}"
    if choice not in {c.id for c in choices(issue, run, kind)}:
        raise BadInputError("choice", choice, "one of the choices of this vote")
    return choice


def tally(votes: Iterable[str], hands: Mapping[str, int]) -> list[tuple[str, int]]:
    """(choice, votes) with hands counted in the room added, most first; those with as many stand in the order of their
    ids.
    """
    found = Counter(votes)
    for choice, count in hands.items():
        found[choice] += count
    return sorted(((c, n) for c, n in found.items() if n), key=lambda row: (-row[1], row[0]))


def middle(counted: Sequence[tuple[str, int]]) -> str | None:
    """What a class read off together: the middle of all it typed."""
    values = [float(choice) for choice, n in counted for _ in range(n)]
    return f"{statistics.median_low(values):g}" if values else None


def follow(live: Live, choice: str) -> list[tuple[str, dict[str, Any]]]:
    """The steps that a choice leads to from where the machine stands; gauges and clamps go on as they should. Actions
    take their usual amounts. ``name:…`` and ``enough`` are none of the machine's.
    """
    kind, _, what = choice.partition(":")
    if kind == "look":
        return [("look", {"check": what})]
    if kind == "test":
        return [("test", {"test": what})]
    if kind == "read":
        return ways_to_read(live, what)
    if kind == "act":
        return [("act", {"action": what, "arguments": {}})]
    return [(kind, {})] if kind in ("plate", "settle") else []


def board(issue: Issue, steps: Sequence[Step]) -> list[tuple[str, dict[str, Any]]]:
    """What is written on the board before the fault is named: readings nobody read off, as the instrument showed them,
    and the figures worked out from all of them.
    """
    run = fold(steps)
    coming: list[tuple[str, dict[str, Any]]] = []
    for point in essential(issue.setup):
        rows = [s.reading for s in run.before if s.kind == "read" and s.data["point"] == point and s.reading]
        if rows and point not in run.typed:
            coming.append(("answer", {"question": f"read_{point}", "text": f"{rows[-1]['value']:g}"}))
    run = fold([*steps, *(Step(kind=kind, data=data) for kind, data in coming)])
    figures = {q: text for q, text in worked_out(issue, run).items() if q not in ("fault", "evidence")}
    return coming + [("answer", {"question": q, "text": text}) for q, text in figures.items()]
