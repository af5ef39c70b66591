"""Rivals: every other explanation of what is given, and how far it lies from it, by whole solves.

A rival's distance is the largest difference of a given reading in units of what one honest reading may be off, from
what the machine shows or from what the page prints of it, whichever is nearer. What each fault does alone and what two
do to one another only says where to look; every rival that is named was solved.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache, cached_property
from math import inf
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import FAULTS, Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.diagnosis.hunt import CROSSINGS, FAR_OFF, Found, Hunt, faults_at
from wolfsbane.diagnosis.hunting import beginnings_of_pairs
from wolfsbane.diagnosis.solved_cases import depth_of, id_of
from wolfsbane.diagnosis.troubled import beside_one, fine_families
from wolfsbane.diagnosis.vectors import faulted_vector, start_at, vector_at, vector_on
from wolfsbane.diagnosis.weather_off import air_of, moved_weather
from wolfsbane.diagnosis.words import words

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.compared import Reads
    from wolfsbane.diagnosis.curves import Curve
    from wolfsbane.diagnosis.short_way import Parts
    from wolfsbane.diagnosis.solved_cases import Pair, SolvedCases

#: what a rival is to what was planted: the machine with nothing wrong, one other fault (or an instrument that is off),
#: two others, or the planted fault with one more beside it
NOTHING, SINGLE, PAIR, COMPANY = "nothing", "single", "pair", "company"
#: a rival whose expected distance is under this is solved; a second start that lies elsewhere only under the next, but
#: for one more fault beside the planted one
_NEAR, _NEAR_AGAIN = 6.5, 3.5
#: and where the first one fits, this near
_FITS_AGAIN = 2.0
#: severities of a second fault that are looked at beside one deeper than pairs are solved
_BESIDE = 7
#: up to this distance a rival counts as the same: a search ends a little beside the nearest point
SAME = 1.06
#: a rival that ends this near without being the same is looked at once more, by slopes solved where it ended; and one
#: that has a planted fault among its own, whose valleys are the longest and narrowest
_CLOSER, _CLOSER_KIN = 4.8, 4.8

#: a rival farther off than this is tried with the air off only where straight lines bring it as near as the next; nor
#: does one that ends farther off begin again
_CLOSER_IN_AIR, _HOPELESS_IN_AIR = 3.0, 1.7


@dataclass(frozen=True, kw_only=True)
class Rival:
    """Another explanation: its faults at the severities that come nearest, the distance in reading tolerances, and
    ``spots``, other severities within tolerance, from end to end. ``kind`` says what it is to what was planted.
    """

    faults: tuple[Fault, ...]
    distance: float
    kind: str = SINGLE
    spots: tuple[tuple[Fault, ...], ...] = ()

    @cached_property
    def id(self) -> str:
        """Ids in alphabetical order."""
        return id_of(self.faults)


@cache
def twin_of(fault_id: str) -> str:
    """The first family in the catalog that does the same to a machine, number for number; itself where none does."""
    kind = fault_kind(fault_id)
    mine = (kind.apply, kind.fault_free, kind.mild, kind.limit)
    return next(k.id for k in FAULTS.values() if (k.apply, k.fault_free, k.mild, k.limit) == mine)


class Rivals:
    """Everything else that may stand behind what planted ``faults`` show on a ground. ``stated`` are families that the
    page rules out in words.
    """

    def __init__(
        self, cases: SolvedCases, faults: tuple[Fault, ...], state: CircuitState, stated: tuple[str, ...] = ()
    ) -> None:
        self.cases, self.faults, self.stated, self.state = cases, faults, stated, state
        self.here, self.start = faulted_vector(cases.machine, state, faults), start_at(state)
        self._kept = cases.memory.setdefault(("rivals", faults, stated), {})
        self._reads: dict[tuple[str, ...], Reads] = {}

    @cached_property
    def parts(self) -> Parts:
        """The ground as compiled code takes it, with room for circuits of its own: one hunt goes after another."""
        return self.cases.ground.parts()

    @cached_property
    def air(self) -> np.ndarray:
        """The air of the ground as compiled code moves it; empty where it does not."""
        found = air_of(self.cases.ground)
        return np.empty(0) if found is None else found

    def reads(self, readings: tuple[str, ...]) -> Reads:
        """What compiled code needs to tell how far ``readings`` are from those of what was planted."""
        if readings not in self._reads:
            self._reads[readings] = self.cases.read_from(self.here, readings)
        return self._reads[readings]

    def told_apart(self, rival: Rival, tests: list[str] | tuple[str, ...]) -> bool:
        """Whether ``tests`` cannot answer as they do for what was planted, at any severity of ``rival`` that fits.
        Those are asked first whose answer needs no machine solved, and then those that were asked before.
        """
        known = self.cases.memory.setdefault("words", {})

        def asked(spot: tuple[Fault, ...]) -> list[str]:
            return sorted(tests, key=lambda t: (FIELD_TESTS[t].usual is None, (t, spot) not in known))

        return bool(tests) and all(
            any(not self.word(t, spot) & self.word(t, self.faults) for t in asked(spot))
            for spot in (rival.faults, *rival.spots)
        )

    def word(self, test_id: str, faults: tuple[Fault, ...]) -> frozenset[str | bool]:
        """Every word a test can answer with these faults, over the causes that are not named."""
        return words(self.cases, test_id, faults)

    def nearest(
        self, readings: tuple[str, ...], among: frozenset[str] | None = None, pairs: bool = True
    ) -> list[Rival]:
        """Every rival at its nearest under ``readings``, nearest first: a list of :class:`Rival`. ``among`` (ids)
        looks at those only, without ``pairs`` at single faults only. What lies far is only estimated.

        A single fault may be as mild as fits; of two, each is at least mild, or as mild as the mildest planted one. A
        machine with nothing wrong is told from faults that are at least mild: below that nobody calls them one.
        """
        wanted = (lambda i: True) if among is None else among.__contains__
        found: list[Rival] = []
        for part, search in ((SINGLE, self._singles), (PAIR, self._pairs))[: 2 if pairs else 1]:
            key = (part, readings, among)
            if key not in self._kept:
                self._kept[key] = search(readings, wanted)
            found += self._kept[key]
        return sorted(found, key=lambda r: (r.distance, r.id))

    def away(self, vectors: np.ndarray, readings: tuple[str, ...]) -> np.ndarray:
        """Distances (n,) of vectors (n, N) from what was planted."""
        return self.cases.apart(vectors, self.here, readings)

    def still_fits(self, rival: Rival, readings: tuple[str, ...]) -> bool:
        """Whether a severity of ``rival`` that is known to fit other readings fits these as well: then nobody need look
        for another.
        """
        points = self.cases.memory.setdefault("points", {})
        for faults in (rival.faults, *rival.spots):
            if faults not in points:
                points[faults] = self._vector(faults)
            if points[faults] is not None and self.away(points[faults][None], readings)[0] <= SAME:
                return True
        return False

    def _kind_of(self, ids: tuple[str, ...]) -> str:
        hidden = {f.id for f in self.faults}
        if not ids:
            return NOTHING
        if len(ids) == 1:
            return SINGLE
        return COMPANY if len(hidden) == 1 and hidden & set(ids) else PAIR

    def _singles(self, readings: tuple[str, ...], wanted: Callable[[str], bool]) -> list[Rival]:
        answer, found = id_of(self.faults), []
        for curve in self.cases.curves:
            if curve.id == answer or curve.id in self.stated or not wanted(curve.id):
                continue
            low = 0.0 if self.faults else curve.place_of(1.0)
            if low is None:
                continue
            hunt = Hunt(self, (curve,), (low,), readings)
            rival = self._of_curves((curve,), (low,), readings, hunt.starts())
            if rival is not None:
                found.append(rival)
        troubles = fine_families(self.cases) if self._troubled else self.cases.troubles
        for family in (self.cases.singles[0], *troubles):
            if family.id != answer and wanted(family.id):
                distance = self.away(family.vectors, readings)
                if family.ids:  # an instrument that is off by no more than it may be is no trouble
                    idle = self.cases.apart(family.vectors, self.cases.fault_free_vector, readings) <= SAME
                    distance = np.where(idle, np.inf, distance)
                best = int(np.argmin(distance))
                if not np.isfinite(distance[best]):
                    continue
                spots = tuple(family.severities[i] for i in np.flatnonzero(distance <= 1.0))
                found.append(
                    Rival(
                        faults=family.severities[best],
                        distance=float(distance[best]),
                        kind=self._kind_of(family.ids),
                        spots=spots,
                    )
                )
        return found

    @property
    def _troubled(self) -> bool:
        """Whether trouble of an instrument is planted."""
        return any(f.id in INSTRUMENT_FAULTS for f in self.faults)

    def _pairs(self, readings: tuple[str, ...], wanted: Callable[[str], bool]) -> list[Rival]:
        answer, found = id_of(self.faults), []
        solved_pairs: dict[tuple[str, str], Rival | None] = {}
        least = min([1.0, *(depth_of(f, self.cases.machine) for f in self.faults)])
        low_of = {curve.id: curve.place_of(least) for curve in self.cases.curves if curve.id not in self.stated}
        lowest = np.array([np.nan if (low := low_of.get(c.id)) is None else low for c in self.cases.curves])
        asked = np.array([pair.id != answer and wanted(pair.id) for pair in self.cases.pairs], dtype=bool)
        begins = beginnings_of_pairs(asked, lowest, CROSSINGS, FAR_OFF, self.cases.pairs_together, self.reads(readings))
        for at in np.flatnonzero(asked).tolist():
            pair, distances, places = self.cases.pairs[at], begins[0][at].tolist(), begins[1][at]
            lows = (low_of.get(pair.a.id), low_of.get(pair.b.id))
            if lows[0] is None or lows[1] is None:
                continue
            same = (twin_of(pair.a.id), twin_of(pair.b.id))
            if same not in solved_pairs:
                starts = [(d, place) for d, place in zip(distances, places, strict=True) if d < inf]
                both = (pair.a, pair.b)
                solved_pairs[same] = self._of_curves(both, (lows[0], lows[1]), readings, starts, pair)
            rival = solved_pairs[same]
            if rival is not None:
                found.append(self._called(rival, (pair.a.id, pair.b.id)))
        if self._troubled:
            curves = [c for c in self.cases.curves if c.id not in self.stated]
            for faults, distance in beside_one(self.cases, curves, lambda v: self.away(v, readings), least):
                ids = tuple(f.id for f in faults)
                if id_of(faults) != answer and wanted(id_of(faults)):
                    found.append(Rival(faults=faults, distance=distance, kind=self._kind_of(ids)))
        return found

    def _called(self, rival: Rival, ids: tuple[str, ...]) -> Rival:
        """The rival with its faults called by their twins' names ``ids``."""

        def called(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
            return tuple(replace(f, id=i) for f, i in zip(faults, ids, strict=True))

        if tuple(f.id for f in rival.faults) == ids:
            return rival
        return replace(
            rival, faults=called(rival.faults), kind=self._kind_of(ids), spots=tuple(called(s) for s in rival.spots)
        )

    def _of_curves(
        self,
        curves: tuple[Curve, ...],
        lows: tuple[float, ...],
        readings: tuple[str, ...],
        starts: list[tuple[float, np.ndarray]],
        pair: Pair | None = None,
    ) -> Rival | None:
        """The nearest of one fault, or two together; solved where it may be near, estimated where it is far. ``starts``
        are the expected distance and the place of the best beginning and of one far from it, where there are any.
        """
        if not starts:
            return None
        kind = self._kind_of(tuple(c.id for c in curves))
        if kind == COMPANY:
            deeper = self._beside_deep(curves, lows, readings)
            if deeper is not None:
                return deeper
        if starts[0][0] > _NEAR:
            return Rival(faults=faults_at(curves, starts[0][1].tolist()), distance=starts[0][0], kind=kind)
        hunt = Hunt(self, curves, lows, readings, pair)
        kin = bool({c.id for c in curves} & {f.id for f in self.faults})
        reached: list[Found] = []
        for number, (expected, place) in enumerate(starts):
            fits = bool(reached) and reached[0].distance <= 1.0
            if number and expected > (_FITS_AGAIN if fits else _NEAR if kind == COMPANY else _NEAR_AGAIN):
                break
            got = hunt.follow(place)
            if got is not None and fits and 1.0 < got.distance <= _CLOSER:
                got = hunt.closer(got)  # a rival that fits may fit elsewhere too, where the looks are others
            if got is not None:
                reached.append(got)
        if not reached:
            return None
        best = min(reached, key=lambda found: found.distance)
        if 1.0 < best.distance <= (_CLOSER_KIN if kin else _CLOSER):
            best = hunt.closer(best)
            reached = [best]
        spots = tuple(
            dict.fromkeys(
                spot for at in reached if at.distance <= 1.0 for spot in (hunt.faults(at.place), *hunt.spots(at))
            )
        )
        return Rival(faults=hunt.faults(best.place), distance=best.distance, kind=kind, spots=spots)

    def _beside_deep(
        self, curves: tuple[Curve, ...], lows: tuple[float, ...], readings: tuple[str, ...]
    ) -> Rival | None:
        """What was planted with the other beside it, where it is deeper than pairs are solved and they look the same:
        a fault so deep hides whole families. None anywhere else.
        """
        (planted,) = self.faults
        own = next(c for c in curves if c.id == planted.id)
        low, high = sorted((float(own.severities[0]), float(own.severities[-1])))
        if low <= planted.severity <= high:
            return None
        i, other = next((i, c) for i, c in enumerate(curves) if c.id != planted.id)
        found = []
        for place in np.linspace(lows[i], len(other.severities) - 1.0, _BESIDE):
            second = Fault(id=other.id, severity=other.severity(float(place)))
            faults = tuple(planted if c is own else second for c in curves)
            vector = self._vector(faults)
            if vector is not None:
                found.append((float(self.away(vector[None], readings)[0]), faults))
        if not found:
            return None
        same = [faults for distance, faults in found if distance <= 1.0]
        distance, faults = min(found, key=lambda row: row[0])
        return Rival(faults=faults, distance=distance, kind=COMPANY, spots=tuple(same)) if same else None

    def in_weather(self, readings: tuple[str, ...], rival: Rival) -> float:
        """The nearest distance of ``rival`` where the printed air may be a little off as well
        (:mod:`~wolfsbane.diagnosis.weather_off`)."""
        if not rival.faults or rival.faults[0].id in INSTRUMENT_FAULTS:
            curves: tuple[Curve, ...] = ()
            pair: Pair | None = None
        else:
            by_id = {c.id: c for c in self.cases.curves}
            curves = tuple(by_id[f.id] for f in rival.faults)
            pair = next((p for p in self.cases.pairs if p.id == rival.id), None) if len(curves) == 2 else None
            if pair is not None:
                curves = (pair.a, pair.b)
        least = min([1.0, *(depth_of(f, self.cases.machine) for f in self.faults)])
        lows = tuple((c.place_of(least) or 0.0) if len(curves) == 2 else 0.0 for c in curves)
        severity = {f.id: f.severity for f in rival.faults}
        place = np.array([c.place_at(severity[c.id]) for c in curves])
        hunt = Hunt(self, curves, lows, readings, pair, rival.faults)
        if rival.distance > _CLOSER_IN_AIR and hunt.reach(place) > _HOPELESS_IN_AIR:
            return rival.distance
        got = hunt.follow(place, weather=True)
        if got is not None and 1.0 < got.distance <= _CLOSER:
            got = hunt.closer(got, weather=True)
            if (
                SAME < got.distance <= _HOPELESS_IN_AIR
            ):  # and from the printed air on: the way from the corner of all air may be shut
                got = min((got, hunt.closer(hunt.here(place), weather=True)), key=lambda found: found.distance)
        return rival.distance if got is None else min(got.distance, rival.distance)

    def shown_by(self, faults: tuple[Fault, ...]) -> np.ndarray:
        """What a machine with ``faults`` shows, (1, N); what was planted where it does not run."""
        vector = self._vector(faults)
        return (self.here if vector is None else vector)[None]

    def _vector(self, faults: tuple[Fault, ...], conditions: Conditions | None = None) -> np.ndarray | None:
        """What a machine with ``faults`` shows here, or in other weather; None where it does not run."""
        if conditions is None:
            return vector_on(self.cases.ground, faults, self.start)[0]
        return vector_at(self.cases.machine, conditions, faults, self.start)[0]

    def weather_slopes(self) -> np.ndarray:
        """Change of the planted machine's vector when the air moves by all that it may be off, (3, N)."""
        if "slopes" not in self._kept:
            rows = []
            for i in range(3):
                moved = np.zeros(3)
                moved[i] = 0.5
                there = self._vector(self.faults, moved_weather(self.cases.conditions, moved))
                rows.append(np.zeros_like(self.here) if there is None else 2.0 * (there - self.here))
            self._kept["slopes"] = np.array(rows)
        return self._kept["slopes"]
