"""What a sheet asks of a call and what it hands out: questions, points, instruments, chart, school, tests on slips."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.instruments import KITS
from wolfsbane.diagnosis.targets import school
from wolfsbane.exercise.paper.pipes import PIPES
from wolfsbane.exercise.paper.questions import CORRECT, DIAGNOSE, MEASURED, MOST_POINTS, QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.solved_cases import Ground

#: the parts of a call that are chosen together
PARTS = {"diagnose": DIAGNOSE, "correct": CORRECT, "because": ("because",)}
USUAL_PARTS = ("diagnose", "correct")
MOST_TESTS = 6


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Checked choices for one call of a sheet; None leaves what the scenario or the brief says.

    ``parts`` of :data:`PARTS`; ``points`` by question id; ``instruments`` a kit, or pipes for line temperatures only;
    ``chart`` hands a PT chart out with the call; ``school`` a school of practice by id; ``tests`` may be asked for on
    paper, their results are printed as sealed slips; ``leave_open`` lets a call stand whose proof leaves other answers
    open, which then all earn full credit.
    """

    parts: tuple[str, ...] = USUAL_PARTS
    points: dict[str, int] | None = None
    instruments: str | None = None
    chart: bool = False
    school: str | None = None
    tests: tuple[str, ...] = ()
    leave_open: bool = False

    @property
    def questions(self) -> tuple[str, ...]:
        """Ids of the questions that are asked."""
        return tuple(q for part in PARTS if part in self.parts for q in PARTS[part])

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {**asdict(self), "parts": list(self.parts), "tests": list(self.tests), "points": self.points or {}}


def asked(data: dict[str, Any] | None) -> Asked:
    """Checked :class:`Asked` from plain data. Raises BadInputError naming the field."""
    data = dict(data or {})
    known = {f.name for f in fields(Asked)}
    for key in data:
        if key not in known:
            raise BadInputError(f"asked.{key}", data[key], "one of " + ", ".join(sorted(known)))
    parts = tuple(data.get("parts") or USUAL_PARTS)
    if not parts or set(parts) - set(PARTS) or "diagnose" not in parts:
        raise BadInputError(
            "asked.parts", ", ".join(map(str, parts)), "diagnose, with correct and because beside it or not"
        )
    points = dict(data.get("points") or {})
    for question, value in points.items():
        if question not in QUESTIONS and question not in MEASURED:
            raise BadInputError("asked.points", question, ", ".join(QUESTIONS))
        if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= MOST_POINTS:
            raise BadInputError(f"asked.points.{question}", value, f"a whole number from 0 to {MOST_POINTS}")
    if data.get("instruments") not in (None, *KITS, PIPES):
        raise BadInputError("asked.instruments", data["instruments"], ", ".join((*KITS, PIPES)))
    if data.get("school") is not None:
        school(data["school"])
    tests = tuple(dict.fromkeys(data.get("tests") or ()))
    for test in tests:
        if test not in FIELD_TESTS:
            raise BadInputError("asked.tests", test, ", ".join(FIELD_TESTS))
    if len(tests) > MOST_TESTS:
        raise BadInputError("asked.tests", len(tests), f"at most {MOST_TESTS} on one call")
    return Asked(
        **{
            **data,
            "parts": parts,
            "points": points,
            "tests": tests,
            "chart": bool(data.get("chart", False)),
            "leave_open": bool(data.get("leave_open", False)),
        }
    )


def slips(around: Ground, faults: tuple[Fault, ...], tests: tuple[str, ...], system: str) -> list[dict[str, str]]:
    """Results of the tests that may be asked for, for sealed slips: list of {id, name, text};
    what does not suit is left out.
    """
    rows = []
    for test_id in tests:
        kind = FIELD_TESTS[test_id]
        if kind.suits(around.machine):
            rows.append(
                {
                    "id": test_id,
                    "name": kind.name,
                    "text": ask(around.machine, around.conditions, faults, test_id, system).text,
                }
            )
    return rows
