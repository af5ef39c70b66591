"""Rules an instructor makes for one call of a sheet after seeing the papers:
accept more, widen a tolerance, take a question out.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Annotated, Any

from wolfsbane.cycle.fields import Accept, Format, fields_of, flag, number, one_of, refuse, usual, words
from wolfsbane.exercise.paper.questions import MEASURED, QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.credit import Mark

#: tolerances that may be widened, by the name of the key
TOLERANCES = ("saturation", "sum", "edge", "reading", "amount")
#: questions of which further answers may be accepted, by id of the choice
OPEN_TO_MORE = ("fault", "action")
MAX_WIDE = 3.0


_IDS = Accept(lambda v: _ids(v), {"type": "array", "items": {"type": "string"}})
_ACCEPT = fields_of(dict.fromkeys(OPEN_TO_MORE, _IDS), stranger=one_of(OPEN_TO_MORE))
_WIDER = fields_of(dict.fromkeys(TOLERANCES, number(1.0, MAX_WIDE, "times")), stranger=one_of(TOLERANCES))


def _ids(value: Any) -> tuple[str, ...]:
    if not isinstance(value, (list, tuple)) or not all(isinstance(i, str) for i in value):
        raise refuse(value, "a list of choices by id")
    return tuple(value)


@dataclass(frozen=True, kw_only=True)
class Rules:
    """Checked rules. ``accept`` question -> ids that also earn full credit, ``wider`` tolerance -> factor,
    ``void`` question ids that are excluded from the score, ``excluded`` the whole call.
    """

    accept: Annotated[dict[str, tuple[str, ...]], usual(_ACCEPT, {})] = field(default_factory=dict)
    wider: Annotated[dict[str, float], usual(_WIDER, {})] = field(default_factory=dict)
    void: Annotated[tuple[str, ...], usual(words((*QUESTIONS, *MEASURED)), ())] = ()
    excluded: Annotated[bool, flag()] = False

    def accepted(self, question: str) -> tuple[Any, ...]:
        """Ids that also count for ``question``."""
        return self.accept.get(question, ())

    def widened(self, tolerance: str) -> float:
        """Factor on a tolerance."""
        return self.wider.get(tolerance, 1.0)

    def excludes(self, question: str) -> bool:
        """Whether a question counts for nobody."""
        return self.excluded or question in self.void

    def applied(self, mark: Mark) -> Mark:
        """``mark`` as it stands under these rules: of a question taken out neither points nor marks are left."""
        if not self.excludes(mark.question):
            return mark
        return replace(mark, points=0, earned=0, code="void", params={}, suggested=None)

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return RULES.write(self)


RULES = Format(Rules, "rules", "Rules for one call of a sheet, made after it was issued", prefix="rules.")
NO_RULES = Rules()


def rules(data: dict[str, Any] | None) -> Rules:
    """Checked :class:`Rules` from plain data. Raises BadInputError naming the field."""
    return RULES.read(data)
