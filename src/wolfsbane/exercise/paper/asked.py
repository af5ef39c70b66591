"""What a sheet asks of a call and hands out with it: questions, points, instruments, chart, practice, test slips."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.fields import (
    Accept,
    Format,
    called,
    fields_of,
    flag,
    one_of,
    optional,
    refuse,
    usual,
    whole,
    word,
    words,
)
from wolfsbane.cycle.instruments import KITS, PIPES
from wolfsbane.diagnosis.practices import PRACTICES
from wolfsbane.exercise.paper.key import SealedResult
from wolfsbane.exercise.paper.questions import CORRECT, DIAGNOSE, MAX_POINTS, MEASURED, QUESTIONS
from wolfsbane.exercise.paper.rubrics import BALANCED, RUBRICS

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: the parts of a call that are chosen together
PARTS = {"diagnose": DIAGNOSE, "correct": CORRECT, "because": ("because",)}
USUAL_PARTS = ("diagnose", "correct")
MAX_TESTS = 6


def _parts(value: Any) -> tuple[str, ...]:
    named = USUAL_PARTS if value is None or value == [] else value
    if not isinstance(named, (list, tuple)) or not set(map(str, named)) <= set(PARTS) or "diagnose" not in named:
        raise refuse(value, "diagnose, with correct and because beside it or not")
    return tuple(named)


_NAMED = {"type": "array", "items": {"enum": list(PARTS)}}
_PARTS_SCHEMA = {"anyOf": [_NAMED | {"contains": {"const": "diagnose"}}, _NAMED | {"maxItems": 0}, {"type": "null"}]}


_TESTS = words(FIELD_TESTS)
_POINTS = fields_of(dict.fromkeys((*QUESTIONS, *MEASURED), whole(0, MAX_POINTS)), stranger=one_of(QUESTIONS))


def _tests(value: Any) -> tuple[str, ...]:
    named = _TESTS.check(() if value is None else value)
    if len(named) > MAX_TESTS:
        raise refuse(len(named), f"at most {MAX_TESTS} on one call")
    return named


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Checked choices for one call of a sheet; None leaves what the scenario or the brief says.

    ``parts`` of :data:`PARTS`; ``points`` by question id; ``instruments`` a kit, or pipes for line temperatures only;
    ``chart`` hands a PT chart out with the call; ``practice_id`` is a practice; ``tests`` may be asked for on
    paper, their results are printed as sealed slips; ``leave_open`` lets a call stand whose proof leaves other answers
    open, which then all earn full credit; ``rubric`` is one of :data:`~wolfsbane.exercise.paper.rubrics.RUBRICS`;
    ``from_memory`` leaves the target bands of the practice off the page. ``second_visit`` prints a scenario of two
    faults after the first was repaired, with the readings of the first visit beside those of now.
    """

    parts: Annotated[tuple[str, ...], Accept(_parts, _PARTS_SCHEMA)] = USUAL_PARTS
    points: Annotated[dict[str, int], usual(_POINTS, {})] = field(default_factory=dict)
    instruments: Annotated[str | None, optional(word((*KITS, PIPES)))] = None
    chart: Annotated[bool, usual(flag(), False)] = False
    practice_id: Annotated[str | None, optional(called("practice", word(PRACTICES))), Field(alias="practice")] = None
    tests: Annotated[
        tuple[str, ...], Accept(_tests, optional(Accept(_tests, _TESTS.schema | {"maxItems": MAX_TESTS})).schema)
    ] = ()
    leave_open: Annotated[bool, usual(flag(), False)] = False
    rubric: Annotated[str, usual(word(RUBRICS), BALANCED)] = BALANCED
    from_memory: Annotated[bool, usual(flag(), False)] = False
    second_visit: Annotated[bool, usual(flag(), False)] = False

    @property
    def questions(self) -> tuple[str, ...]:
        """Ids of the questions that are asked."""
        return tuple(q for part in PARTS if part in self.parts for q in PARTS[part])

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return ASKED.write(self)


ASKED = Format(Asked, "asked", "What a sheet asks of one call", prefix="asked.", renamed={"school": "practice"})


def asked(data: dict[str, Any] | None) -> Asked:
    """Checked :class:`Asked` from plain data. Raises BadInputError naming the field."""
    return ASKED.read(data)


def slips(
    cases: SolvedCases, faults: tuple[Fault, ...], tests: tuple[str, ...], system: str
) -> tuple[SealedResult, ...]:
    """Results of the tests that may be asked for, for sealed slips; what does not suit is left out."""
    kinds = [FIELD_TESTS[test_id] for test_id in tests]
    return tuple(
        SealedResult(
            id=kind.id, name=kind.name, text=ask(cases.machine, cases.conditions, faults, kind.id, system).text
        )
        for kind in kinds
        if kind.suits(cases.machine)
    )
