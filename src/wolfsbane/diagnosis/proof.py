"""``prove``: has a scenario one defensible answer, or a class of equals, and what would split it?

Two explanations are equals when every reading that is given differs by no more than one honest reading may be off, and
every look and test that is given can have the same answer. What is proved is said claim by claim, each with its margin:
among the answers a sheet offers, among all single faults, among pairs, also with one more fault beside the planted one,
also with the printed weather off.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault, fault_kind
from wolfsbane.cycle.field_tests import field_test_on, tests_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import ALL_POINTS, label
from wolfsbane.diagnosis.reader import SHOWS
from wolfsbane.diagnosis.rivals import COMPANY, NOTHING, PAIR, SAME, SINGLE, Rival, Rivals
from wolfsbane.diagnosis.solved_cases import given_readings, id_of, numbers_of
from wolfsbane.diagnosis.vectors import faulted_vector, solved

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: margins are told up to here; and rivals so far off are tried with the air off as well, which moves a reading by up to
#: two tolerances
FAR, _FAR_IN_WEATHER = 3.0, 4.5
#: families that every page rules out in words: the refrigerant was identified, the condenser is dry
STATED = ("wrong_refrigerant", "wet_condenser")
#: by less than this a figure has not moved the other way, K
MARK_DK = 0.5
#: with more equals than this only the nearest are split; the rest is said to be left
_SPLIT = 14
#: a step that names the fault by itself is worth this much of one that only rules rivals out
_GIVES_AWAY = 0.3
#: minutes a further reading takes
_READING_MINUTES = 3
#: tests that are no part of a call: they take hours, or tell what a figure says already
_NO_SPLIT = ("run_on", "shell", "static_pressure", "amps", "supply_traverse", "mixed_air")
#: claims in the order they are told
CLAIMS = {
    "offered": "one answer among those offered",
    "singles": "one answer among all single faults",
    "pairs": "one answer among all pairs of faults",
    "weather": "the same with the printed air off by 2 °F outside and 1.5 °F inside",
    "company": "no second fault hides beside it",
}


@dataclass(frozen=True, kw_only=True)
class Claim:
    """One thing that was looked for: its id in :data:`CLAIMS`, whether it holds, how far the nearest rival that the
    given looks and tests leave lies (in reading tolerances, at most :data:`FAR`), and that rival's id; in other weather
    the first that fits, where any does.
    """

    id: str
    holds: bool
    margin: float
    nearest: str | None

    @property
    def text(self) -> str:
        """The claim in words."""
        return CLAIMS[self.id]

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "id": self.id,
            "text": self.text,
            "holds": self.holds,
            "margin": round(self.margin, 2),
            "nearest": self.nearest,
        }


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
    """What was proved. ``equals`` look the same; ``beside`` are the planted fault with one more that would not show;
    ``nearest`` are the next ones out; ``splits`` in the order to add them; ``claims`` say what holds and by how much,
    ``open`` are all rivals within :data:`FAR` that no given look or test rules out.

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
    beside: tuple[Rival, ...] = ()
    claims: tuple[Claim, ...] = ()
    open: tuple[Rival, ...] = ()

    @property
    def weakest(self) -> Claim | None:
        """The claim with the smallest margin among those that make the answer the only one, or None."""
        return min((c for c in self.claims if c.id != "company"), key=lambda c: c.margin, default=None)

    @property
    def unique(self) -> bool:
        """True when no other answer explains what is given: nothing wrong, another fault, or two others."""
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
            "claims": [c.to_json() for c in self.claims],
            "weakest": None if self.weakest is None else self.weakest.to_json(),
            "class_of_equals": [row(r) for r in self.equals],
            "could_hide_beside_it": [row(r) for r in self.beside],
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
    distance = cases.apart(family.vectors, cases.fault_free_vector, readings)
    seen = [severity for severity, d in zip(numbers_of(family), distance, strict=True) if d > 1.0]
    return seen[0] if seen else None


def _too_mild(
    rivals: Rivals, readings: tuple[str, ...], tests: tuple[str, ...]
) -> tuple[str | None, dict[str, Any] | None]:
    """(sentence, threshold) where one of the planted faults changes nothing that the instruments show."""
    cases = rivals.cases
    for fault in rivals.faults:
        others = tuple(f for f in rivals.faults if f is not fault)
        without = solved(cases.machine, cases.conditions, others)
        if without is None:
            continue
        opposite = _the_other_way(fault, without, rivals.state)
        if opposite:
            return opposite, None
        there = faulted_vector(cases.machine, without, others)[None]
        if float(cases.apart(there, rivals.here, readings)[0]) > SAME or _read_elsewhere(rivals, others, tests):
            continue
        kind = FAULTS.get(fault.id) or INSTRUMENT_FAULTS[fault.id]
        limit = None if others or fault.id in INSTRUMENT_FAULTS else threshold(cases, fault, readings)
        text = f"{kind.name} at {fault.severity:g} {kind.unit} is within what the instruments may be off"
        return text + (f"; from {limit:g} {kind.unit} on they show it" if limit is not None else ""), (
            None if limit is None else {"fault": fault.id, "severity": limit, "unit": kind.unit}
        )
    return None, None


def _the_other_way(fault: Fault, without: CircuitState, found: CircuitState) -> str | None:
    """The sentence where a fault moves what it is known by the wrong way: a stuck valve away from its rating point."""
    kind = FAULTS.get(fault.id)
    if kind is None or kind.marks is None:
        return None
    figure, way = kind.marks
    if way * (getattr(found, figure) - getattr(without, figure)) > -MARK_DK:
        return None
    return (
        f"{kind.name} at {fault.severity:g} {kind.unit} does the opposite in this weather: it stands"
        f" {100.0 * found.valve_opening:.0f} % open, a good one {100.0 * without.valve_opening:.0f} %"
    )


def _read_elsewhere(rivals: Rivals, others: tuple[Fault, ...], tests: tuple[str, ...]) -> bool:
    """Whether a test that is given shows the fault by itself."""
    return any(not rivals.word(t, others) & rivals.word(t, rivals.faults) for t in tests)


def nothing_shows(cases: SolvedCases, faults: tuple[Fault, ...], readings: Any = None, tests: Any = ()) -> Proof | None:
    """The :class:`Proof` that refuses faults of which nothing shows, None where something does: no rival is solved."""
    empty, rivals = _begun(cases, faults, readings, tests, STATED)
    return empty if rivals is None else None


def _begun(
    cases: SolvedCases, faults: tuple[Fault, ...], readings: Any, tests: Any, stated: tuple[str, ...]
) -> tuple[Proof, Rivals | None]:
    """(proof without rivals, the rivals to be weighed); the proof carries a refusal where there are none to weigh."""
    for key in readings or ():
        if key not in ALL_POINTS:
            raise BadInputError("given.readings", key, ", ".join(ALL_POINTS))
    suitable = [t.id for t in tests_for(cases.machine)]
    for test_id in tests:
        if test_id not in suitable:
            raise BadInputError("given.tests", test_id, ", ".join(suitable))
    faults, shown = _named(faults), given_readings(cases.machine, readings)
    answer, tests = id_of(faults), tuple(tests)
    empty = Proof(answer=answer, readings=shown, tests=tests, equals=[], nearest=[], splits=[], left=[])
    state = solved(cases.machine, cases.conditions, faults)
    if state is None or cases.fault_free.trip is not None:
        return replace(empty, refusal="the machine does not stay on: there is nothing to read"), None
    rivals = Rivals(cases, faults, state, tuple(s for s in stated if s not in {f.id for f in faults}))
    refusal, limit = _too_mild(rivals, shown, tests) if faults else (None, None)
    if refusal:
        return replace(empty, refusal=refusal, threshold=limit), None
    return empty, rivals


def prove(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    *,
    readings: Any = None,
    tests: Any = (),
    offers_readings: bool = True,
    wants_splits: bool = True,
    wants_weather: bool = False,
    pairs: bool = True,
    stated: tuple[str, ...] = STATED,
) -> Proof:
    """The :class:`Proof` of planted ``faults`` (machine's and instruments') on a
    :class:`~wolfsbane.diagnosis.solved_cases.SolvedCases`.

    ``readings`` are the printed readings (keys of POINTS or MORE_POINTS; None for the usual ones), ``tests`` the looks
    and tests whose results are given as well; ``offers_readings`` says whether a further reading may be offered to
    split equals. ``wants_splits`` says whether to look for what splits them at all, ``wants_weather`` whether to try
    other weather as well; without ``pairs`` only single faults are weighed, and nothing is claimed. ``stated`` are
    families that the page rules out in words, unless they are planted. Raises
    BadInputError for an unknown one.
    """
    empty, rivals = _begun(cases, faults, readings, tests, stated)
    if rivals is None:
        return empty
    shown, tests = empty.readings, empty.tests
    found = rivals.nearest(shown, pairs=pairs)
    same = [r for r in found if r.distance <= SAME and not rivals.told_apart(r, tests)]
    equals = [r for r in same if r.kind != COMPANY]
    splits: list[Split] = []
    left = [r.id for r in equals]
    if equals and wants_splits:
        splits, left = _splits(rivals, shown, tests, equals, offers_readings)
    ids = {r.id for r in same}
    beyond = (r for r in found if r.distance < _FAR_IN_WEATHER and r.kind != COMPANY)
    in_weather = (r for r in beyond if not rivals.told_apart(r, tests)) if wants_weather else None
    near = tuple(r for r in found if r.distance < FAR and not rivals.told_apart(r, tests))
    return replace(
        empty,
        equals=equals,
        beside=tuple(r for r in same if r.kind == COMPANY),
        nearest=[r for r in found if r.id not in ids][:6],
        splits=splits,
        left=left,
        claims=_claims(rivals, near, shown, in_weather) if pairs else (),
        open=near,
    )


def _claims(
    rivals: Rivals, near: tuple[Rival, ...], readings: tuple[str, ...], in_weather: Iterable[Rival] | None
) -> tuple[Claim, ...]:
    """What holds among all single faults, pairs, other weather and company, by the nearest rival of each;
    ``in_weather`` are those to be tried with the air off, None where that is not asked.
    """

    def left(*kinds: str) -> list[tuple[float, str]]:
        return [(r.distance, r.id) for r in near if r.kind in kinds]

    claims = [_claim("singles", left(NOTHING, SINGLE)), _claim("pairs", left(PAIR))]
    if in_weather is not None:
        rows = []
        for rival in in_weather:  # nearest first: one that fits denies the claim, and no other need be tried
            rows.append((rivals.in_weather(readings, rival), rival.id))
            if rows[-1][0] <= SAME:
                break
        claims.append(_claim("weather", rows))
    if len(rivals.faults) == 1:
        claims.append(_claim("company", left(COMPANY)))
    return tuple(claims)


def _claim(name: str, rows: list[tuple[float, str]]) -> Claim:
    """The claim that the rivals ``rows`` (distance, id) leave; of those that are told alike the first by name is named,
    whatever the last digits say.
    """
    margin = min((distance for distance, _ in rows), default=FAR)
    nearest = min(((round(distance, 2), rival) for distance, rival in rows), default=(FAR, None))[1]
    return Claim(id=name, holds=margin > SAME, margin=min(margin, FAR), nearest=nearest if margin < FAR else None)


def offered_claim(proof: Proof, offered: tuple[str, ...], number: int) -> Claim:
    """The claim about a sheet that offers ``offered`` fault ids for ``number`` faults (0 or 1: one answer to ring)."""
    rows = [
        (r.distance, r.id)
        for r in proof.open
        if r.id == NONE or (set(r.id.split("+")) <= set(offered) and r.id.count("+") < max(number, 1))
    ]
    return _claim("offered", rows)


def _splits(
    rivals: Rivals,
    readings: tuple[str, ...],
    tests: tuple[str, ...],
    equals: list[Rival],
    offers_readings: bool,
) -> tuple[list[Split], list[str]]:
    """(steps, ids left): the steps that rule out most for their minutes, one after the other,
    until nothing is left to gain.
    """
    remaining, found = list(equals[:_SPLIT]), []
    shown, asked = list(readings), list(tests)
    options = _options(rivals, equals, readings, tests, offers_readings)
    while remaining:
        best = None
        for kind, option, minutes in options:
            gone = _removed(rivals, kind, option, remaining, tuple(shown), asked)
            worth = len(gone) / minutes * (_GIVES_AWAY if gone and _gives_away(rivals, kind, option) else 1.0)
            if gone and (best is None or worth > best[0]):
                best = (worth, kind, option, minutes, gone)
        if best is None:
            break
        _, kind, option, minutes, gone = best
        (shown if kind == "reading" else asked).append(option)
        options = [o for o in options if o[1] != option]
        machine = rivals.cases.machine
        text = label(option, machine) if kind == "reading" else field_test_on(option, machine).name
        found.append(Split(kind=kind, id=option, text=text, minutes=minutes, removes=tuple(r.id for r in gone)))
        remaining = [r for r in remaining if r not in gone]
    return found, [r.id for r in (*remaining, *equals[_SPLIT:])]


def _gives_away(rivals: Rivals, kind: str, option: str) -> bool:
    """Whether a look or test shows at once what is wrong: others that rule the rivals out are added first."""
    return kind != "reading" and not rivals.word(option, ()) & rivals.word(option, rivals.faults)


def _options(
    rivals: Rivals, equals: list[Rival], readings: tuple[str, ...], tests: tuple[str, ...], offers_readings: bool
) -> list[tuple[str, str, int]]:
    """Readings that are not given, and the looks and tests the catalog names for these faults:
    (kind, id, minutes).
    """
    machine = rivals.cases.machine
    named = {f.id for rival in equals for f in (*rival.faults, *rivals.faults)}
    telling = {t for i in named for t in (FAULTS[i].tests if i in FAULTS else ())} - set(_NO_SPLIT) - set(tests)
    looks = [
        ("look" if not t.running else "test", t.id, max(t.minutes, 1)) for t in tests_for(machine) if t.id in telling
    ]
    if not offers_readings:
        return looks
    more = [key for key in given_readings(machine, tuple(SHOWS)) if key not in readings]
    return [*(("reading", key, _READING_MINUTES) for key in more), *looks]


def _removed(
    rivals: Rivals, kind: str, option: str, remaining: list[Rival], readings: tuple[str, ...], tests: list[str]
) -> list[Rival]:
    if kind == "reading":
        shown = (*readings, option)
        doubtful = [r for r in remaining if not rivals.still_fits(r, shown)]
        if not doubtful:
            return []
        nearer = {r.id: r.distance for r in rivals.nearest(shown, frozenset(r.id for r in doubtful))}
        return [r for r in doubtful if nearer.get(r.id, FAR) > SAME]
    return [r for r in remaining if rivals.told_apart(r, [*tests, option])]
