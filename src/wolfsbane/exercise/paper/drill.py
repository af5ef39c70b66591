"""A drill as it is frozen on a sheet: items of one kind, each with its answer and tolerance."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NotRequired, TypedDict


class DrillMistake(TypedDict):
    """The number that a known mistake leads to."""

    mistake: str
    value: float


class DrillStep(TypedDict):
    """A step on the way to an answer."""

    name: str
    answer: float


class WrittenLine(TypedDict):
    """One line of a worked sheet in which a mistake is to be found."""

    line: str
    text: str
    value: float


class SecondAnswer(TypedDict):
    """What is read beside the first answer; it moves by ``per`` with each unit of that."""

    unit: str
    answer: float
    tolerance: float
    per: NotRequired[float | None]


class DrillReason(TypedDict):
    """Why a log does not agree."""

    code: str
    text: str


class DrillItem(TypedDict):
    """One item. ``answer_line`` is the id among ``lines`` of the line that is wrong, or where ``pick`` says what is
    chosen, of the one that is right. ``worked`` is the solution of one that shows how; the other optional parts belong
    to their kinds.
    """

    number: NotRequired[int]
    prompt: str
    unit: str
    answer: float
    tolerance: float
    mistakes: NotRequired[list[DrillMistake]]
    steps: NotRequired[list[DrillStep]]
    worked: NotRequired[str]
    second: NotRequired[SecondAnswer]
    dial: NotRequired[dict[str, Any]]
    lines: NotRequired[list[WrittenLine] | list[str]]
    readings: NotRequired[dict[str, str]]
    answer_line: NotRequired[str]
    pick: NotRequired[str]
    second_asks: NotRequired[str]
    mistake: NotRequired[str]
    reason: NotRequired[DrillReason]


class Drill(TypedDict):
    """A drill: its kind, what to do, and its items."""

    kind: str
    instruction: str
    items: list[DrillItem]


@dataclass(frozen=True, kw_only=True)
class DrillBody:
    """A drill of one apprentice's paper, with the units and the seed it was drawn with."""

    drill: Drill
    units: str
    seed: int

    def to_json(self) -> dict[str, Any]:
        """Plain data for storage."""
        return {"drill": self.drill, "units": self.units, "seed": self.seed}
