"""A brute-force search for what a proof says is not there: another fault, or two, behind the same page.

Nothing of the proof is used here: every distance is a whole solve, read by the page's own instruments and compared in
their own units. A rival counts where every printed reading lies within what one honest reading may be off, and every
printed look and test could have come out as printed. A search finds counterexamples; finding none proves nothing by
itself, which is why it is run over many calls and with other seeds.
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from scipy.optimize import minimize

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.field_tests import ask
from wolfsbane.cycle.instruments import tool_for, values
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import to_display

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.machine import Machine

#: kinds of rival, from the one that harms a mark most
NOTHING, SINGLE, PAIR, COMPANY = "nothing", "single", "pair", "company"
#: how far printed weather may be off: outdoor air, return air and its wet bulb, degrees F (common practice, no source)
WEATHER_OFF_F = (2.0, 1.5, 1.5)
_FAR = 99.0
#: starts of a single and of a pair, of which the best two are followed, and solves spent following one
_STARTS, _FOLLOWED, _STEPS = {1: 24, 2: 14}, 2, 45
#: a start that is farther away than this is not followed
_HOPELESS = 14.0


#: a compressor that still pumps more than this is called weak, not one that does not pump, %
_NAMED_FROM = {"compressor_not_pumping": 40.0}


@dataclass(frozen=True, kw_only=True)
class Counterexample:
    """A rival that explains a page: its kind, faults, distance in reading tolerances, and by how many degrees F the
    weather had to be moved (outdoor, return, wet bulb).
    """

    kind: str
    faults: tuple[Fault, ...]
    distance: float
    moved_f: tuple[float, ...] = (0.0, 0.0, 0.0)

    @property
    def id(self) -> str:
        """Fault ids in alphabetical order."""
        return "+".join(sorted(f.id for f in self.faults)) or "none"


@dataclass(frozen=True, kw_only=True)
class Page:
    """What a page says: the machine, its weather, the readings (key -> printed value, US units), the answers of looks
    and tests (id -> word), the families the page rules out in words, and the hidden faults.
    """

    machine: Machine
    conditions: Conditions
    kit: str
    hidden: tuple[Fault, ...]
    readings: dict[str, float]
    tests: dict[str, str | bool]
    ruled_out: tuple[str, ...] = ()


class _Search:
    """One search; ``solves`` counts the solves."""

    def __init__(self, page: Page, rng: random.Random) -> None:
        self.page, self.rng, self.solves = page, rng, 0
        self.tolerances = {key: tool_for(key, page.kit).tolerance_us for key in page.readings}
        self.seen: dict[tuple[Fault, ...], float] = {}

    def distance(self, faults: tuple[Fault, ...], conditions: Conditions | None = None) -> float:
        """The largest difference of a printed reading in tolerances; far where the machine does not run."""
        page, c = self.page, conditions or self.page.conditions
        if any(f.severity > _NAMED_FROM.get(f.id, f.severity) for f in faults):
            return _FAR
        self.solves += 1
        try:
            state = solve(page.machine, c, faults)
        except (NoConvergenceError, BadInputError):
            return _FAR
        if state.trip is not None:
            return _FAR
        ends = [state, *(state.swing or ())]
        taken = [values(page.machine, end, faults) for end in ends]
        return max(
            abs(to_display(tool_for(key, page.kit).kind, found[key], "us", c.barometer_pa) - shown)
            / self.tolerances[key]
            for found in taken
            for key, shown in page.readings.items()
        )

    def agrees(self, faults: tuple[Fault, ...], conditions: Conditions | None = None) -> bool:
        """Whether every printed look and test could have come out as printed, by some cause of the faults. A cause
        that behaves otherwise than its family does not count: the readings were not its.
        """
        page, c = self.page, conditions or self.page.conditions
        kinds = {k.id: k for k in faults_for(page.machine)}
        for test, word in page.tests.items():
            told = {
                tuple(causes)
                for causes in itertools.product(
                    *([cause.id for cause in kinds[f.id].causes if cause.apply is None] for f in faults)
                )
            }
            if not any(
                ask(
                    page.machine,
                    c,
                    tuple(replace(f, cause=cause) for f, cause in zip(faults, causes, strict=True)),
                    test,
                ).word
                == word
                for causes in told
            ):
                return False
        return True


def search(
    page: Page,
    rng: random.Random,
    *,
    kinds: Sequence[str] = (SINGLE, PAIR, COMPANY),
    weather: bool = False,
    effort: float = 1.0,
    only: Callable[[tuple[str, ...]], bool] = lambda ids: True,
) -> list[Counterexample]:
    """Every rival found, nearest of its families, as a list of :class:`Counterexample`.

    A single fault may have any severity; faults of a pair are each at least mild, or as mild as the mildest that is
    hidden. ``weather`` lets the printed air be off as well. ``effort`` multiplies the starts.
    """
    found, run = [], _Search(page, rng)
    hidden = {f.id for f in page.hidden}
    families = [k for k in faults_for(page.machine) if k.id not in page.ruled_out]
    least = min([1.0, *(_depth(k, f.severity) for f in page.hidden for k in families if k.id == f.id)])
    if hidden and run.distance(()) <= 1.0 and run.agrees(()):
        found.append(Counterexample(kind=NOTHING, faults=(), distance=run.distance(())))
    for number in (1, 2):
        for combined in itertools.combinations(families, number):
            ids = tuple(k.id for k in combined)
            kind = SINGLE if number == 1 else COMPANY if hidden & set(ids) and len(hidden) < 2 else PAIR
            if set(ids) == hidden or kind not in kinds or not only(ids) or _contradict(combined):
                continue
            # a machine with nothing wrong is told from faults that are at least mild
            low = (1.0 if not hidden else 1e-3) if number == 1 else least
            best = _nearest(run, combined, low, effort, weather)
            if best is not None:
                found.append(replace(best, kind=kind))
    return sorted(found, key=lambda r: r.distance)


def _nearest(
    run: _Search, kinds: tuple[FaultKind, ...], low: float, effort: float, weather: bool
) -> Counterexample | None:
    """The best agreeing rival of some families within tolerance, or None."""
    tops = [_depth(k, k.limit) for k in kinds]

    def faults_at(x: Sequence[float]) -> tuple[Fault, ...]:
        return tuple(
            Fault(id=k.id, severity=k.fault_free + min(max(d, low), top) * (k.mild - k.fault_free))
            for k, d, top in zip(kinds, x, tops, strict=False)
        )

    def conditions_at(x: Sequence[float]) -> Conditions:
        moved = x[len(kinds) :]
        c = run.page.conditions
        if not len(moved):
            return c
        off = [min(max(m, -1.0), 1.0) * most / 1.8 for m, most in zip(moved, WEATHER_OFF_F, strict=True)]
        return replace(
            c,
            outdoor_k=c.outdoor_k + off[0],
            return_k=c.return_k + off[1],
            return_wet_bulb_k=min(c.return_wet_bulb_k + off[2], c.return_k + off[1]),
        )

    def cost(x: Sequence[float]) -> float:
        return run.distance(faults_at(x), conditions_at(x))

    starts = [
        [low * (top / low) ** run.rng.random() if run.rng.random() < 0.5 else run.rng.uniform(low, top) for top in tops]
        for _ in range(round(_STARTS[len(kinds)] * effort))
    ]
    ranked = sorted((cost(x), x) for x in starts)
    for far, x in ranked[:_FOLLOWED]:
        if far > _HOPELESS * (1.4 if weather else 1.0):
            break
        place = [*x, *([0.0] * 3 if weather else [])]
        inside: list[tuple[float, list[float]]] = []

        def tried(y: Sequence[float], inside: list[tuple[float, list[float]]] = inside) -> float:
            d = cost(y)
            if d <= 1.0:
                inside.append((d, list(y)))
            return d

        simplex = [place] + [
            [
                v + (0.12 * (tops[i] - low) * (1 if v < 0.8 * tops[i] else -1) if i < len(kinds) else 0.5) * (i == j)
                for i, v in enumerate(place)
            ]
            for j in range(len(place))
        ]
        minimize(
            tried,
            place,
            method="Nelder-Mead",
            bounds=[(low, top) for top in tops] + [(-1.0, 1.0)] * (len(place) - len(kinds)),
            options={
                "maxfev": round(_STEPS * effort * (2.5 if weather else 1.0)),
                "initial_simplex": simplex,
                "xatol": 1e-3,
                "fatol": 1e-3,
            },
        )
        for d, y in sorted(inside)[:: max(len(inside) // 6, 1)]:
            if run.agrees(faults_at(y), conditions_at(y)):
                moved = tuple(
                    round(min(max(m, -1.0), 1.0) * most, 2)
                    for m, most in zip(y[len(kinds) :], WEATHER_OFF_F, strict=False)
                )
                return Counterexample(kind=SINGLE, faults=faults_at(y), distance=d, moved_f=moved or (0.0, 0.0, 0.0))
    return None


def _contradict(kinds: tuple[FaultKind, ...]) -> bool:
    """Two ends of one number, which cannot stand together, or a long line with the charge it needs."""
    if len(kinds) < 2:
        return False
    a, b = kinds
    one_number = a.parameter == b.parameter and (a.mild - a.fault_free) * (b.mild - b.fault_free) < 0
    return one_number or {a.id, b.id} == {"long_liquid_line", "overcharge"}


def _depth(kind: FaultKind, severity: float) -> float:
    """Severity as a share of the way to the family's mild level."""
    return (severity - kind.fault_free) / (kind.mild - kind.fault_free)
