"""What a sheet asks of a call and what it hands out: questions, points, instruments, chart, school, tests on slips."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.instruments import KITS
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.paper.key import SealedResult
from wolfsbane.exercise.paper.pipes import PIPES
from wolfsbane.exercise.paper.questions import CORRECT, DIAGNOSE, MAX_POINTS, MEASURED, QUESTIONS

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: the parts of a call that are chosen together
PARTS = {"diagnose": DIAGNOSE, "correct": CORRECT, "because": ("because",)}
USUAL_PARTS = ("diagnose", "correct")
MAX_TESTS = 6


@dataclass(frozen=True, kw_only=True)
class Asked:
    """Checked choices for one call of a sheet; None leaves what the scenario or the brief says.

    ``parts`` of :data:`PARTS`; ``points`` by question id; ``instruments`` a kit, or pipes for line temperatures only;
    ``chart`` hands a PT chart out with the call; ``school`` a practice by id; ``tests`` may be asked for on
    paper, their results are printed as sealed slips; ``leave_open`` lets a call stand whose proof leaves other answers
    open, which then all earn full credit.
    """

    parts: tuple[str, ...] = USUAL_PARTS
    points: dict[str, int] | None = None
    instruments: str | None = None
    chart: bool = False
    practice_id: str | None = None
    tests: tuple[str, ...] = ()
    leave_open: bool = False

    @property
    def questions(self) -> tuple[str, ...]:
        """Ids of the questions that are asked."""
        return tuple(q for part in PARTS if part in self.parts for q in PARTS[part])

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        data = asdict(self)
        data["practice"] = data.pop("practice_id")
        return {**data, "parts": list(self.parts), "tests": list(self.tests), "points": self.points or {}}


def asked(data: dict[str, Any] | None) -> Asked:
    """Checked :class:`Asked` from plain data. Raises BadInputError naming the field."""
    data = {"practice" if key == "school" else key: value for key, value in (data or {}).items()}
    known = {f.name for f in fields(Asked)} - {"practice_id"} | {"practice"}
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
        if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= MAX_POINTS:
            raise BadInputError(f"asked.points.{question}", value, f"a whole number from 0 to {MAX_POINTS}")
    if data.get("instruments") not in (None, *KITS, PIPES):
        raise BadInputError("asked.instruments", data["instruments"], ", ".join((*KITS, PIPES)))
    if data.get("practice") is not None:
        practice_by_id(data["practice"])
    tests = tuple(dict.fromkeys(data.get("tests") or ()))
    for test in tests:
        if test not in FIELD_TESTS:
            raise BadInputError("asked.tests", test, ", ".join(FIELD_TESTS))
    if len(tests) > MAX_TESTS:
        raise BadInputError("asked.tests", len(tests), f"at most {MAX_TESTS} on one call")
    return Asked(
        **{
            **{key: value for key, value in data.items() if key != "practice"},
            "practice_id": data.get("practice"),
            "parts": parts,
            "points": points,
            "tests": tests,
            "chart": bool(data.get("chart", False)),
            "leave_open": bool(data.get("leave_open", False)),
        }
    )


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
