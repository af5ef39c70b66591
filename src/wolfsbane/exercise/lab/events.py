"""What happens in a lab session, as events; the session is what they add up to. Nothing is ever changed or taken back:
a later event stands over an earlier one.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.fields import at, fields_of, flag, number, text, whole, word
from wolfsbane.exercise.lab.skills import LEVELS, SKILLS
from wolfsbane.exercise.lab.steps import PHASES, PROOF, TICKS
from wolfsbane.exercise.paper.questions import MEASURED, QUESTIONS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wolfsbane.cycle.fields import Accept

#: parts of the marks to which an instructor may add or take, for a reason
PARTS = ("safety", "method", "result", "record")
_MOST_TEXT = 600
_WHY = text(1, _MOST_TEXT, strip=True)
_NAME = word(tuple(PHASES))

#: what a student may say: kind -> its fields
STUDENT: dict[str, Accept] = {
    "phase": fields_of({"to": _NAME}, required=("to",)),
    "tick": fields_of({"step": word([t.id for t in TICKS]), "on": flag()}, required=("step", "on")),
    "answer": fields_of(
        {"question": word((*QUESTIONS, *MEASURED)), "text": text(0, _MOST_TEXT)}, required=("question", "text")
    ),
    "note": fields_of({"text": text(0, _MOST_TEXT)}, required=("text",)),
    "help": fields_of({}),
    "plan": fields_of({}),
    "weigh": fields_of(
        {
            "cylinder_id": whole(1, 2**31 - 1),
            "kind": word(("charge", "recover")),
            "before": text(1, 40, strip=True),
            "after": text(1, 40, strip=True),
            "log": text(1, 40, strip=True),
            "began_at": number(0.0, 1e11, "s"),
        },
        required=("cylinder_id", "kind", "before", "after", "log", "began_at"),
    ),
    "done": fields_of({}),
    "proof": fields_of({"reading": word(PROOF), "text": text(0, 40)}, required=("reading", "text")),
    "record": fields_of({"text": text(0, _MOST_TEXT)}, required=("text",)),
    "finish": fields_of({}),
}
#: what whoever runs the lab may say
DESK: dict[str, Accept] = {
    "countersign": fields_of({}),
    "go": fields_of({"why": text(0, _MOST_TEXT, strip=True)}),
    "stop": fields_of({"why": _WHY}, required=("why",)),
    "helped": fields_of({"why": text(0, _MOST_TEXT, strip=True)}),
    "observe": fields_of(
        {"part": word(PARTS), "points": whole(-10, 10), "why": _WHY}, required=("part", "points", "why")
    ),
    "skill": fields_of(
        {"skill": word(tuple(SKILLS)), "level": word(LEVELS), "why": text(0, _MOST_TEXT, strip=True)},
        required=("skill", "level"),
    ),
    "weighed": fields_of({"move_id": whole(0, 2**31 - 1), "said": text(0, 900)}, required=("move_id", "said")),
    "end": fields_of({"why": text(0, _MOST_TEXT, strip=True)}),
}
#: what only the application itself writes
OWN = ("weighed",)


@dataclass(frozen=True, kw_only=True)
class Event:
    """One thing that happened, ``at`` seconds of the server's clock; ``desk`` where whoever runs the lab said it."""

    kind: str
    at: float
    data: dict[str, Any]
    desk: bool = False


def checked(kind: str, data: Any, desk: bool) -> dict[str, Any]:
    """The data of an event, checked. Raises BadInputError naming what is wrong; those at the desk may say all."""
    allowed = STUDENT | {k: v for k, v in DESK.items() if k not in OWN} if desk else STUDENT
    if kind not in allowed:
        raise BadInputError("kind", kind, ", ".join(allowed))
    return dict(at(f"{kind}", allowed[kind].check, data if data is not None else {}))


@dataclass
class Answer:
    """What stands in a field, and since when."""

    text: str
    at: float


@dataclass
class Session:
    """A lab session as its events have made it. Times are seconds of the server's clock; ``signed`` is "", asked, go
    or stop; ``entered`` are phases with the time at which they were entered, in order.
    """

    phase: str = "card"
    began_at: float = 0.0
    entered: list[tuple[str, float]] = field(default_factory=list)
    ticks: dict[str, float] = field(default_factory=dict)
    answers: dict[str, Answer] = field(default_factory=dict)
    note: str = ""
    helps: list[tuple[str, float]] = field(default_factory=list)
    helped: list[tuple[float, str]] = field(default_factory=list)
    countersigned_at: float | None = None
    signed: str = ""
    signed_at: float | None = None
    why: str = ""
    stops: list[str] = field(default_factory=list)
    planned: dict[str, str] = field(default_factory=dict)
    planned_at: float | None = None
    weighs: list[dict[str, Any]] = field(default_factory=list)
    done_at: float | None = None
    proofs: dict[str, Answer] = field(default_factory=dict)
    record: str = ""
    finished_at: float | None = None
    ended_at: float | None = None
    observed: list[dict[str, Any]] = field(default_factory=list)
    skills: dict[str, dict[str, str]] = field(default_factory=dict)
    last_at: float = 0.0

    @property
    def wants_help(self) -> bool:
        """Whether somebody asked and nobody came yet."""
        return bool(self.helps) and (not self.helped or self.helped[-1][0] < self.helps[-1][1])

    @property
    def go_at(self) -> float | None:
        """When the work was let go ahead, None while it was not."""
        return self.signed_at if self.signed == "go" else None

    def minutes(self, now: float) -> dict[str, float]:
        """Minutes spent in each phase up to ``now``, in the order in which they were first entered."""
        end = self.ended_at or self.finished_at or now
        times = [*self.entered, ("", end)]
        found: dict[str, float] = {}
        for (phase, begin), (_, until) in zip(times, times[1:], strict=False):
            found[phase] = found.get(phase, 0.0) + max(until - begin, 0.0) / 60.0
        return found

    def helped_in(self, phases: Sequence[str]) -> bool:
        """Whether help was asked for while one of these phases went on."""
        return any(phase in phases for phase, _ in self.helps)


def fold(events: Sequence[Event], began_at: float) -> Session:
    """The :class:`Session` that events add up to, in the order in which they happened."""
    session = Session(began_at=began_at, entered=[("card", began_at)], last_at=began_at)
    for event in events:
        _HAPPENED[event.kind](session, event)
        session.last_at = max(session.last_at, event.at)
    return session


def _phase(s: Session, e: Event) -> None:
    if e.data["to"] != s.phase:
        s.phase = e.data["to"]
        s.entered.append((s.phase, e.at))


def _tick(s: Session, e: Event) -> None:
    if e.data["on"]:
        s.ticks.setdefault(e.data["step"], e.at)
    else:
        s.ticks.pop(e.data["step"], None)


def _answer(s: Session, e: Event) -> None:
    s.answers[e.data["question"]] = Answer(e.data["text"], e.at)


def _plan(s: Session, e: Event) -> None:
    s.signed, s.planned_at = "asked", e.at
    s.planned = {q: a.text for q, a in s.answers.items()}


def _signed(s: Session, e: Event) -> None:
    s.signed, s.signed_at, s.why = e.kind, e.at, e.data.get("why") or ""
    if e.kind == "stop":
        s.stops.append(s.why)


def _weigh(s: Session, e: Event) -> None:
    s.weighs.append({**e.data, "at": e.at, "move_id": None, "said": ""})


def _weighed(s: Session, e: Event) -> None:
    if s.weighs:
        s.weighs[-1] |= {"move_id": e.data["move_id"] or None, "said": e.data["said"]}


def _set(name: str, value: Any = None) -> Any:
    def happened(s: Session, e: Event) -> None:
        setattr(s, name, e.at if value is None else value(e))

    return happened


def _skill(s: Session, e: Event) -> None:
    s.skills[e.data["skill"]] = {"level": e.data["level"], "why": e.data.get("why") or ""}


_HAPPENED = {
    "phase": _phase,
    "tick": _tick,
    "answer": _answer,
    "note": _set("note", lambda e: e.data["text"]),
    "help": lambda s, e: s.helps.append((s.phase, e.at)),
    "plan": _plan,
    "weigh": _weigh,
    "done": _set("done_at"),
    "proof": lambda s, e: s.proofs.__setitem__(e.data["reading"], Answer(e.data["text"], e.at)),
    "record": _set("record", lambda e: e.data["text"]),
    "finish": _set("finished_at"),
    "countersign": _set("countersigned_at"),
    "go": _signed,
    "stop": _signed,
    "helped": lambda s, e: s.helped.append((e.at, e.data.get("why") or "")),
    "observe": lambda s, e: s.observed.append(dict(e.data)),
    "skill": _skill,
    "weighed": _weighed,
    "end": _set("ended_at"),
}
