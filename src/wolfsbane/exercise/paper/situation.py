"""A situation as it is frozen on a sheet: a machine that gives no steady set of figures, or one that the usual
questions do not fit, with what was seen, its own questions and its key.

Every number shown came from a solved or stepped machine. A conclusion is marked by the numbers behind it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cache
from typing import Any

from pydantic import ConfigDict, TypeAdapter, ValidationError

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.paper.call import CallMachine
from wolfsbane.exercise.paper.key import ProvedClaim
from wolfsbane.exercise.paper.questions import Choice, Question

SCHEMA = 1
#: letters of the first, second and third question that is answered by one
LETTERS = ("ABCDEFGH", "JKLMNPQR", "STUVWXYZ")


@dataclass(frozen=True, kw_only=True)
class ShownTable:
    """What was seen, as a table: rows of texts under ``columns``; the first column says what of, or when."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, kw_only=True)
class TraceLine:
    """One line of a recorder: ``side`` is low, high or air, ``values`` one for each minute of its strip."""

    name: str
    side: str
    values: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class Trace:
    """A strip of a recorder: ``minutes`` since it began and lines over them in ``unit``."""

    title: str
    unit: str
    minutes: tuple[float, ...]
    lines: tuple[TraceLine, ...]


@dataclass(frozen=True, kw_only=True)
class KnownSlip:
    """The number that a known mistake leads to, and the mistake in words inside a sentence."""

    text: str
    value: float


@dataclass(frozen=True, kw_only=True)
class NumberKey:
    """One number: its value in the question's unit and how far an answer may be off. ``per`` says how it moves with
    an apprentice's own earlier numbers: question id -> units a unit.
    """

    value: float
    tolerance: float
    slips: tuple[KnownSlip, ...] = ()
    per: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Follows:
    """A choice that follows from one's own number: where ``question`` was answered from ``low`` to ``high`` (None: no
    end).
    """

    question: str
    choice: str
    low: float | None = None
    high: float | None = None

    def holds(self, number: float) -> bool:
        """Whether a number lies within."""
        return (self.low is None or number >= self.low) and (self.high is None or number < self.high)


@dataclass(frozen=True, kw_only=True)
class LetterKey:
    """One choice: the ``right`` one by id and others that count as well. ``because`` are the numbers that must stand
    behind it, ``follows`` what one's own wrong numbers lead to, ``why`` what is wrong with each other choice.

    ``after`` is the question it depends on, and ``plan`` which choice goes with each choice there.
    """

    right: str
    also: tuple[str, ...] = ()
    because: tuple[str, ...] = ()
    follows: tuple[Follows, ...] = ()
    why: dict[str, str] = field(default_factory=dict)
    after: str | None = None
    plan: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class SituationKey:
    """The key: what it is in words, numbers and choices by question id, lines for the instructor, what was proved."""

    title: str
    case: str
    numbers: dict[str, NumberKey]
    letters: dict[str, LetterKey]
    told: tuple[str, ...]
    claims: tuple[ProvedClaim, ...]
    hazard: str
    level: int


@dataclass(frozen=True, kw_only=True)
class Situation:
    """Everything of one printed situation. ``key`` must never reach an apprentice.

    ``kind`` is one of :data:`wolfsbane.exercise.plan.situations.SITUATIONS`; ``choices`` are the lettered answers by
    question id, ``traces`` strips of a recorder.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    situation: int
    kind: str
    title: str
    units: str
    seed: int
    machine: CallMachine
    complaint: str
    looks: tuple[str, ...]
    tables: tuple[ShownTable, ...]
    questions: tuple[Question, ...]
    choices: dict[str, tuple[Choice, ...]]
    key: SituationKey
    solver_version: str
    table_hash: str
    traces: tuple[Trace, ...] = ()

    def to_json(self) -> dict[str, Any]:
        """Plain data for storage."""
        return _adapter().dump_python(self, mode="json")

    def letter(self, question: str, choice: str) -> str:
        """The letter of a choice. Raises KeyError where it is not offered."""
        for row in self.choices[question]:
            if row.id == choice:
                return row.letter
        raise KeyError(choice)

    def chosen(self, question: str, letter: str) -> Choice | None:
        """What a letter stands for, or None."""
        return next((row for row in self.choices.get(question, ()) if row.letter == letter), None)


@cache
def _adapter() -> TypeAdapter[Situation]:
    return TypeAdapter(Situation)


def situation_from_json(data: Any) -> Situation:
    """A stored situation back. Raises BadInputError naming the field that is missing, unknown or wrong."""
    try:
        return _adapter().validate_python(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInputError(
            "situation." + ".".join(map(str, first["loc"])), first.get("input") if first["loc"] else None, first["msg"]
        ) from None
