"""``prove``: has a scenario one defensible answer, or a class of equals, and what would split it?

Two explanations are equals when every reading that is given differs by no more than one honest reading may be off, and
every look and test that is given has the same answer. Single faults and instrument trouble are weighed exhaustively,
pairs by adding up what each fault does alone, the nearest ones confirmed by solving.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask, tests_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import ALL_POINTS
from wolfsbane.diagnosis.solved_cases import SHOWS, depth_of, faulted_vector, given_readings, id_of, solved

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.solved_cases import Pair, SolvedCases

#: pairs that come nearer than this by adding up are solved, at most so many
_NEAR, _SOLVED = 2.2, 16
#: a pair whose coarse grid comes nearer than this is looked at closely; how wide a close look goes, as a share of the
#: range
_WORTH_A_LOOK, _WIDE, _CLOSER = 7.0, 0.12, (0.12, 0.06, 0.03, 0.02)
#: with more equals than this only the nearest are split; the rest is said to be left
_SPLIT = 14
#: a step that names the fault by itself is worth this much of one that only rules rivals out
_GIVES_AWAY = 0.3
#: minutes a further reading takes
_READING_MINUTES = 3
#: tests that are no part of a call: they take hours, or tell what a figure says already
_NO_SPLIT = ("run_on", "shell", "static_pressure", "amps", "supply_traverse", "mixed_air")


@dataclass(frozen=True, kw_only=True)
class Rival:
    """Another explanation: its faults at the severities that come nearest, and the distance in reading tolerances."""

    faults: tuple[Fault, ...]
    distance: float

    @property
    def id(self) -> str:
        """Ids in alphabetical order."""
        return id_of(self.faults)


@dataclass(frozen=True, kw_only=True)
class Split:
    """One step that separates: a reading, look or test to be given as well; ``removes`` are the equals it rules out."""

    kind: str
    id: str
    text: str
    minutes: float
    removes: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Proof:
    """What was proved. ``equals`` look the same; ``nearest`` are the next ones out; ``splits`` in the order to add
    them.

    ``refusal`` is None or a sentence: then there is nothing to prove. ``threshold`` is the mildest severity the
    instruments show, where a fault is too mild.
    """

    answer: str
    readings: tuple[str, ...]
    tests: tuple[str, ...]
    equals: list[Rival]
    nearest: list[Rival]
    splits: list[Split]
    left: list[str]
    refusal: str | None = None
    threshold: dict[str, Any] | None = None

    @property
    def unique(self) -> bool:
        """True when nothing else explains what is given."""
        return self.refusal is None and not self.equals

    @property
    def accepted(self) -> list[str]:
        """Every answer a fair examiner would accept from what is given."""
        return [self.answer, *(r.id for r in self.equals)]

    def to_json(self) -> Any:
        """Plain data."""

        def row(r: Any) -> Any:
            return {
                "fault": r.id,
                "distance": round(r.distance, 2),
                "severities": {f.id: round(f.severity, 1) for f in r.faults},
            }

        return {
            "answer": self.answer,
            "unique": self.unique,
            "refusal": self.refusal,
            "threshold": self.threshold,
            "given": {"readings": list(self.readings), "tests": list(self.tests)},
            "class_of_equals": [row(r) for r in self.equals],
            "nearest": [row(r) for r in self.nearest],
            "split": [
                {
                    "add": {"readings" if s.kind == "reading" else "tests": [s.id]},
                    "text": s.text,
                    "minutes": s.minutes,
                    "separates": list(s.removes),
                }
                for s in self.splits
            ],
            "left_after_split": self.left,
        }


def distances(vectors: np.ndarray, here: np.ndarray, rows: np.ndarray, tolerances: np.ndarray) -> np.ndarray:
    return np.max(np.abs((vectors - here) @ rows.T) / tolerances, axis=1)


def words(cases: SolvedCases, test_id: str, faults: tuple[Fault, ...]) -> set[str | bool]:
    """Every word a test can answer on this ground with ``faults``, over the causes that are not named: a set."""
    memory = cases.memory.setdefault("words", {})
    key = (test_id, faults)
    if key not in memory:
        memory[key] = {
            ask(
                cases.machine, cases.conditions, tuple(f for f in variant if f.id not in INSTRUMENT_FAULTS), test_id
            ).word
            for variant in _causes(faults, test_id)
        }
    return memory[key]


class _Bench:
    """One proof: the ground, what was planted, and answers of tests kept so that none is solved twice."""

    def __init__(
        self,
        cases: SolvedCases,
        faults: tuple[Fault, ...],
        state: CircuitState,
        readings: tuple[str, ...],
        tests: tuple[str, ...],
        offers_readings: bool,
    ) -> None:
        self.offers_readings = offers_readings
        self.cases, self.faults, self.state = cases, faults, state
        self.here = faulted_vector(cases.machine, state, faults)
        self.readings, self.tests = readings, tests
        self.kept = cases.memory.setdefault(("rivals", faults), {})

    def word(self, test_id: str, faults: tuple[Fault, ...]) -> set[str | bool]:
        """Every word a test can answer with these faults, over the causes that are not named."""
        return words(self.cases, test_id, faults)

    def told_apart(self, rival: Rival, tests: list[str] | tuple[str, ...]) -> bool:
        """Whether one of ``tests`` cannot answer for ``rival`` as it does for what was planted."""
        return any(not self.word(t, rival.faults) & self.word(t, self.faults) for t in tests)

    def rivals(self, readings: tuple[str, ...]) -> list[Rival]:
        """Every other explanation with its nearest distance under ``readings``, nearest first. Kept per set of
        readings.

        A machine with nothing wrong is told from faults that are at least mild: below that nobody calls them one.
        """
        if readings not in self.kept:
            rows, tolerances = self.cases.rows(readings)
            answer = id_of(self.faults)
            found = []
            for family in (*self.cases.singles, *self.cases.troubles):
                named = [
                    i for i, f in enumerate(family.severities) if self.faults or not f or depth_of(f[0]) >= 1.0 - 1e-9
                ]
                if family.id != answer and named:
                    distance = distances(family.vectors[named], self.here, rows, tolerances)
                    best = int(np.argmin(distance))
                    found.append(Rival(faults=family.severities[named[best]], distance=float(distance[best])))
            found += self._pairs(answer, rows, tolerances)
            self.kept[readings] = sorted(found, key=lambda r: (r.distance, r.id))
        return self.kept[readings]

    def _pairs(self, answer: str, rows: np.ndarray, tolerances: np.ndarray) -> list[Rival]:
        if any(f.id in INSTRUMENT_FAULTS for f in self.faults):
            return []
        near = []
        for pair in self.cases.pairs:
            if pair.id == answer:
                continue
            at_a, at_b, vectors = pair.coarse
            distance = distances(vectors, self.here, rows, tolerances)
            best = int(np.argmin(distance))
            if distance[best] < _WORTH_A_LOOK:
                near.append(
                    (
                        *self._polished(
                            pair, (at_a[best // len(at_b)], at_b[best % len(at_b)]), 0.0, _WIDE, rows, tolerances
                        ),
                        pair,
                    )
                )
        near = sorted((item for item in near if item[0] < _NEAR), key=lambda item: item[0])[:_SOLVED]
        confirmed = [self._confirm(pair, place, rows, tolerances) for _, place, pair in near]
        return [rival for rival in confirmed if rival is not None]

    def _polished(
        self,
        pair: Pair,
        place: tuple[float, ...],
        shift: float | np.ndarray,
        width: float,
        rows: np.ndarray,
        tolerances: np.ndarray,
    ) -> tuple[float, tuple[float, float]]:
        """(distance, place) of the nearest crossing around a place, moved by ``shift``."""
        steps = np.linspace(-1.0, 1.0, 11)
        at_a, at_b = (
            np.clip(p + width * len(c.severities) * steps, 0, len(c.severities) - 1)
            for p, c in zip(place, (pair.a, pair.b), strict=True)
        )
        distance = distances(pair.grid(at_a, at_b)[1] + shift, self.here, rows, tolerances)
        best = int(np.argmin(distance))
        return float(distance[best]), (at_a[best // len(at_b)], at_b[best % len(at_b)])

    def _confirm(self, pair: Pair, place: tuple[float, ...], rows: np.ndarray, tolerances: np.ndarray) -> Rival | None:
        """The pair at its nearest severities, solved: adding up is corrected by what solving shows, a few times."""
        found = None
        for width in _CLOSER:
            severities, predicted = pair.grid(np.array([place[0]]), np.array([place[1]]))
            faults = pair.faults(severities[0])
            state = solved(self.cases.machine, self.cases.conditions, faults)
            if state is None:
                return found
            true = faulted_vector(self.cases.machine, state, faults)
            distance = float(distances(true[None], self.here, rows, tolerances)[0])
            if found is None or distance < found.distance:
                found = Rival(faults=faults, distance=distance)
            _, place = self._polished(pair, place, true - predicted[0], width, rows, tolerances)
        return found

    def equals(self, readings: tuple[str, ...], tests: tuple[str, ...]) -> list[Rival]:
        """Rivals that look the same with these readings and tests given."""
        return [r for r in self.rivals(readings) if r.distance <= 1.0 and not self.told_apart(r, tests)]


def _causes(faults: tuple[Fault, ...], test_id: str) -> list[tuple[Fault, ...]]:
    """The faults with each of their causes a test can tell apart; a cause that is named stays."""
    variants: list[tuple[Fault, ...]] = [()]
    for fault in faults:
        if fault.id in INSTRUMENT_FAULTS or fault.cause is not None:
            choices = [fault]
        else:
            kind = fault_kind(fault.id)
            seen: dict[str | bool | None, str] = {}
            for cause in kind.causes:
                seen.setdefault(cause.checks.get(test_id), cause.id)
            choices = [Fault(id=fault.id, severity=fault.severity, cause=cause) for cause in seen.values()]
        variants = [(*v, c) for v in variants for c in choices]
    return variants


def _named(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Planted faults carry a cause: the first one where none is named."""
    return tuple(
        (
            f
            if f.cause or f.id in INSTRUMENT_FAULTS
            else Fault(id=f.id, severity=f.severity, cause=fault_kind(f.id).causes[0].id)
        )
        for f in faults
    )


def threshold(cases: SolvedCases, fault: Fault, readings: tuple[str, ...]) -> float | None:
    """The mildest severity of the planted family that the given readings tell from a machine with nothing wrong,
    or None.
    """
    family = cases.family(fault.id)
    if family is None:
        return None
    rows, tolerances = cases.rows(readings)
    distance = distances(family.vectors, cases.fault_free_vector, rows, tolerances)
    seen = [faults[0].severity for faults, d in zip(family.severities, distance, strict=True) if d > 1.0]
    return seen[0] if seen else None


def _too_mild(bench: _Bench, cases: SolvedCases, readings: tuple[str, ...]) -> tuple[str | None, dict[str, Any] | None]:
    """(sentence, threshold) where one of the planted faults changes nothing that the instruments show."""
    rows, tolerances = cases.rows(readings)
    for fault in bench.faults:
        others = tuple(f for f in bench.faults if f is not fault)
        without = solved(cases.machine, cases.conditions, others)
        if without is None:
            continue
        distance = float(
            distances(faulted_vector(cases.machine, without, others)[None], bench.here, rows, tolerances)[0]
        )
        if distance > 1.0 or _read_elsewhere(bench, others):
            continue
        kind = FAULTS.get(fault.id) or INSTRUMENT_FAULTS[fault.id]
        limit = None if others or fault.id in INSTRUMENT_FAULTS else threshold(cases, fault, readings)
        text = f"{kind.name} at {fault.severity:g} {kind.unit} is within what the instruments may be off"
        return text + (f"; from {limit:g} {kind.unit} on they show it" if limit is not None else ""), (
            None if limit is None else {"fault": fault.id, "severity": limit, "unit": kind.unit}
        )
    return None, None


def _read_elsewhere(bench: _Bench, others: tuple[Fault, ...]) -> bool:
    """Whether a test that is given shows the fault by itself."""
    return any(not bench.word(t, others) & bench.word(t, bench.faults) for t in bench.tests)


def prove(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    *,
    readings: Any = None,
    tests: Any = (),
    offers_readings: bool = True,
    wants_splits: bool = True,
) -> Proof:
    """The :class:`Proof` of planted ``faults`` (machine's and instruments') on a
    :class:`~wolfsbane.diagnosis.solved_cases.SolvedCases`.

    ``readings`` are the printed readings (keys of POINTS or MORE_POINTS; None for the usual ones), ``tests`` the looks
    and tests whose results are given as well; ``offers_readings`` says whether a further reading may be offered to
    split equals. ``wants_splits`` says whether to look for what splits them at all. Raises BadInputError for an unknown
    one.
    """
    for key in readings or ():
        if key not in ALL_POINTS:
            raise BadInputError("given.readings", key, ", ".join(ALL_POINTS))
    suitable = [t.id for t in tests_for(cases.machine)]
    for test_id in tests:
        if test_id not in suitable:
            raise BadInputError("given.tests", test_id, ", ".join(suitable))
    faults, shown = _named(faults), given_readings(cases.machine, readings)
    answer = id_of(faults)
    empty = Proof(answer=answer, readings=shown, tests=tuple(tests), equals=[], nearest=[], splits=[], left=[])
    state = solved(cases.machine, cases.conditions, faults)
    if state is None or cases.fault_free.trip is not None:
        return replace(empty, refusal="the machine does not stay on: there is nothing to read")
    bench = _Bench(cases, faults, state, shown, tuple(tests), offers_readings)
    refusal, limit = _too_mild(bench, cases, shown) if faults else (None, None)
    if refusal:
        return replace(empty, refusal=refusal, threshold=limit)
    equals = bench.equals(shown, bench.tests)
    splits, left = _splits(bench, equals) if equals and wants_splits else ([], [r.id for r in equals])
    same = {r.id for r in equals}
    nearest = [r for r in bench.rivals(shown) if r.id not in same][:6]
    return replace(empty, equals=equals, nearest=nearest, splits=splits, left=left)


def _splits(bench: _Bench, equals: list[Rival]) -> tuple[list[Split], list[str]]:
    """(steps, ids left): the steps that rule out most for their minutes, one after the other,
    until nothing is left to gain.
    """
    remaining, found = list(equals[:_SPLIT]), []
    readings, tests = list(bench.readings), list(bench.tests)
    options = _options(bench, equals)
    while remaining:
        best = None
        for kind, option, minutes in options:
            gone = _removed(bench, kind, option, remaining, tuple(readings), tests)
            worth = len(gone) / minutes * (_GIVES_AWAY if gone and _gives_away(bench, kind, option) else 1.0)
            if gone and (best is None or worth > best[0]):
                best = (worth, kind, option, minutes, gone)
        if best is None:
            break
        _, kind, option, minutes, gone = best
        (readings if kind == "reading" else tests).append(option)
        options = [o for o in options if o[1] != option]
        text = ALL_POINTS[option].label if kind == "reading" else FIELD_TESTS[option].name
        found.append(Split(kind=kind, id=option, text=text, minutes=minutes, removes=tuple(r.id for r in gone)))
        remaining = [r for r in remaining if r not in gone]
    return found, [r.id for r in (*remaining, *equals[_SPLIT:])]


def _gives_away(bench: _Bench, kind: str, option: str) -> bool:
    """Whether a look or test shows at once what is wrong: others that rule the rivals out are added first."""
    return kind != "reading" and not bench.word(option, ()) & bench.word(option, bench.faults)


def _options(bench: _Bench, equals: list[Rival]) -> list[tuple[str, str, int]]:
    """Readings that are not given, and the looks and tests the catalog names for these faults:
    (kind, id, minutes).
    """
    machine = bench.cases.machine
    found = [
        ("reading", key, _READING_MINUTES) for key in given_readings(machine, tuple(SHOWS)) if key not in bench.readings
    ]
    named = {f.id for rival in equals for f in (*rival.faults, *bench.faults)}
    telling = {t for i in named for t in (FAULTS[i].tests if i in FAULTS else ())} - set(_NO_SPLIT) - set(bench.tests)
    asked = [t for t in tests_for(machine) if t.id in telling]
    if not bench.offers_readings:
        return [("look" if not t.running else "test", t.id, max(t.minutes, 1)) for t in asked]
    return found + [("look" if not t.running else "test", t.id, max(t.minutes, 1)) for t in asked]


def _removed(
    bench: _Bench, kind: str, option: str, remaining: list[Rival], readings: tuple[str, ...], tests: list[str]
) -> list[Rival]:
    if kind == "reading":
        nearer = {r.id: r for r in bench.rivals((*readings, option))}
        return [r for r in remaining if r.id not in nearer or nearer[r.id].distance > 1.0]
    return [r for r in remaining if bench.told_apart(r, [option])]
