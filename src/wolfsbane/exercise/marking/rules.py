"""Rules an instructor makes for one call of a sheet after seeing the papers:
accept more, widen a tolerance, take a question out.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.exercise.paper.questions import MEASURED, QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.credit import Mark

#: tolerances that may be widened, by the name of the key
TOLERANCES = ("saturation", "sum", "edge", "reading", "amount")
#: questions of which further answers may be accepted, by id of the choice
OPEN_TO_MORE = ("fault", "action")
MAX_WIDE = 3.0


@dataclass(frozen=True, kw_only=True)
class Rules:
    """Checked rules. ``accept`` question -> ids that also earn full credit, ``wider`` tolerance -> factor,
    ``void`` question ids.
    """

    accept: dict[str, tuple[str, ...]]
    wider: dict[str, float]
    void: tuple[str, ...]

    def accepted(self, question: str) -> tuple[Any, ...]:
        """Ids that also count for ``question``."""
        return self.accept.get(question, ())

    def widened(self, tolerance: str) -> float:
        """Factor on a tolerance."""
        return self.wider.get(tolerance, 1.0)

    def applied(self, mark: Mark) -> Mark:
        """``mark`` as it stands under these rules: of a question taken out neither points nor marks are left."""
        if mark.question not in self.void:
            return mark
        return replace(mark, points=0, earned=0, code="void", params={}, suggested=None)

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "accept": {q: list(ids) for q, ids in self.accept.items()},
            "wider": dict(self.wider),
            "void": list(self.void),
        }


NO_RULES = Rules(accept={}, wider={}, void=())


def rules(data: dict[str, Any]) -> Rules:
    """Checked :class:`Rules` from plain data. Raises BadInputError naming the field."""
    data = dict(data or {})
    for key in data:
        if key not in ("accept", "wider", "void"):
            raise BadInputError(f"rules.{key}", data[key], "accept, wider, void")
    accept = {}
    for question, ids in (data.get("accept") or {}).items():
        if question not in OPEN_TO_MORE:
            raise BadInputError("rules.accept", question, ", ".join(OPEN_TO_MORE))
        if not isinstance(ids, (list, tuple)) or not all(isinstance(i, str) for i in ids):
            raise BadInputError(f"rules.accept.{question}", ids, "a list of choices by id")
        accept[question] = tuple(ids)
    wider = {}
    for name, factor in (data.get("wider") or {}).items():
        if name not in TOLERANCES:
            raise BadInputError("rules.wider", name, ", ".join(TOLERANCES))
        wider[name] = require_range(f"rules.wider.{name}", factor, 1.0, MAX_WIDE, "times")
    void = tuple(dict.fromkeys(data.get("void") or ()))
    for question in void:
        if question not in QUESTIONS and question not in MEASURED:
            raise BadInputError("rules.void", question, ", ".join(QUESTIONS))
    return Rules(accept=accept, wider=wider, void=void)
