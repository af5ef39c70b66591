"""What an answer earns, and the mark that is kept of it."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum
from typing import Any

from wolfsbane.exercise.marking.rubric import PARTIAL
from wolfsbane.exercise.paper.wording import reason_text


class Share(Enum):
    """How much of a question's points: all, none, or what the rubric gives for the slip that is named."""

    ALL = "all"
    NONE = "none"
    SLIP = "slip"


@dataclass(frozen=True, kw_only=True)
class Credit:
    """What one answer earns: a :class:`Share` of the points or so many ``points``, with the reason as code and
    parameters. ``suggested`` points wait for an instructor.
    """

    code: str
    share: Share
    params: dict[str, Any] = field(default_factory=dict)
    points: int | None = None
    suggested: int | None = None

    def earned(self, points: int) -> int:
        """Points of a question that is worth ``points``."""
        if self.points is not None:
            return max(0, min(points, self.points))
        if self.share is Share.SLIP:
            return int(points * PARTIAL.get(self.code, 0.0) + 1e-9)
        return points if self.share is Share.ALL else 0


def full(code: str, **params: Any) -> Credit:
    """All points."""
    return Credit(code=code, share=Share.ALL, params=params)


def none(code: str, **params: Any) -> Credit:
    """No point."""
    return Credit(code=code, share=Share.NONE, params=params)


def slip(code: str, **params: Any) -> Credit:
    """What the rubric gives for the slip ``code``."""
    return Credit(code=code, share=Share.SLIP, params=params)


def exactly(points: int, code: str, **params: Any) -> Credit:
    """So many points."""
    return Credit(code=code, share=Share.ALL, params=params, points=points)


@dataclass(frozen=True, kw_only=True)
class Mark:
    """One mark: question id, points earned of points, the reason as code with parameters, and the raw answer.

    ``suggested`` is None, or the points proposed for free text: nothing is earned there until an instructor confirms.
    """

    question: str
    points: int
    earned: int
    code: str
    params: dict[str, Any]
    raw: str
    suggested: int | None = None

    @property
    def text(self) -> str:
        """The reason in English."""
        return reason_text(self.code, self.params)


def mark_of(question: str, points: int, credit: Credit, raw: str) -> Mark:
    """The :class:`Mark` of a credit for a question that is worth ``points``."""
    return Mark(
        question=question,
        points=points,
        earned=credit.earned(points),
        code=credit.code,
        params=credit.params,
        raw=raw,
        suggested=credit.suggested,
    )
