"""The ground a scenario stands on: one of our machines in one weather,
with everything that could be wrong with it solved.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import f_to_k, k_to_f
from wolfsbane.diagnosis.compared import Expects, Reads, crossed_vectors, distances, rows_at
from wolfsbane.diagnosis.crossings import key_of, known
from wolfsbane.diagnosis.curves import Curve
from wolfsbane.diagnosis.family import Severities
from wolfsbane.diagnosis.hypotheses import EXCLUSIVE, LOADS, combined, single_families
from wolfsbane.diagnosis.reader import SHOWS, Reader, reader_of
from wolfsbane.diagnosis.short_way import ground_of
from wolfsbane.diagnosis.space import N, vector_of
from wolfsbane.diagnosis.stand_in import StandIn
from wolfsbane.diagnosis.troubled import instrument_families
from wolfsbane.diagnosis.vectors import vector_at

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.crossings import Key
    from wolfsbane.diagnosis.family import Family
    from wolfsbane.diagnosis.hunting import Pairs
    from wolfsbane.diagnosis.practices import Practice

_FINE = 5
#: not weighed as one of two: the other circuit of two, which anybody sees standing still
_ALONE = ("one_circuit_off",)
#: outdoor air in which what two faults do to one another is solved, degrees F
_ORDINARY_OUTDOOR_F = (80.0, 95.0)


@dataclass(frozen=True, kw_only=True)
class Pair:
    """Two faults together: their effects added up, and what they do to one another as solved at a few crossings in
    ordinary ``weather``. An expectation: it says where to solve.
    """

    a: Curve
    b: Curve
    machine: Machine
    weather: Conditions

    @cached_property
    def id(self) -> Any:
        """Ids in alphabetical order."""
        return "+".join(sorted((self.a.id, self.b.id)))

    @cached_property
    def _crossed(self) -> np.ndarray:
        return crossed(self.machine, self.weather, self.a.id, self.b.id)

    def at(self, places_a: np.ndarray, places_b: np.ndarray) -> np.ndarray:
        """Vectors (m_a * m_b, N) expected at every crossing of two sets of places."""
        return crossed_vectors(self.parts, places_a, places_b)

    @cached_property
    def parts(self) -> Expects:
        """What the two show, in the order compiled code takes it."""
        a, b = self.a, self.b
        solved = np.array((*_crossings(a.kind), *_crossings(b.kind)))
        return a.vectors, a.depths[:, None], b.vectors, b.depths[:, None], solved, self._crossed


def _crossings(kind: FaultKind) -> tuple[float, float]:
    """Depths at which a family is solved together with others."""
    severe = (kind.severe - kind.fault_free) / (kind.mild - kind.fault_free)
    most = (kind.limit - kind.fault_free) / (kind.mild - kind.fault_free)
    return 1.0, min(1.3 * severe, 0.5 * (severe + most))


@lru_cache(maxsize=256)
def ordinary(machine: Machine, conditions: Conditions) -> Conditions:
    """The ordinary weather nearest to ``conditions`` in which what two faults do to one another is solved."""
    outdoor = min(_ORDINARY_OUTDOOR_F, key=lambda f: abs(f - k_to_f(conditions.outdoor_k)))
    rated = rating_conditions(machine)
    if machine.condenser == "water_cooled" or machine.refrigeration or machine.in_heating:
        return rated
    return replace(rated, outdoor_k=f_to_k(outdoor), barometer_pa=101_325.0)


@lru_cache(maxsize=4000)
def crossed(machine: Machine, conditions: Conditions, a: str, b: str) -> np.ndarray:
    """What adding up the effects of two families misses at their crossings in ordinary weather, (3, 3, N), first row
    and column none.
    """
    missed = np.zeros((3, 3, N))
    found = known(machine, conditions, a, b)
    missed[1:, 1:] = solved_crossed(machine, conditions, a, b) if found is None else found
    return missed


@lru_cache(maxsize=256)
def all_crossed(machine: Machine, conditions: Conditions, pairs: tuple[tuple[str, str], ...]) -> np.ndarray:
    """:func:`crossed` of many pairs at once, (p, 3, 3, N)."""
    return np.array([crossed(machine, conditions, a, b) for a, b in pairs]).reshape(-1, 3, 3, N)


def solved_crossed(machine: Machine, conditions: Conditions, a: str, b: str) -> np.ndarray:
    """The same at the two depths of each, (2, 2, N), solved here."""
    fault_free, start = vector_at(machine, conditions, ())
    missed = np.zeros((2, 2, N))
    if fault_free is None:
        return missed
    kinds = [fault_kind(one).on(machine) for one in (a, b)]
    faults = [[Fault(id=k.id, severity=_at_depth(k, d)) for d in _crossings(k)] for k in kinds]
    alone = [[_alone(machine, conditions, f) for f in row] for row in faults]
    for i in (0, 1):
        for j in (0, 1):
            one, two, together = alone[0][i], alone[1][j], (faults[0][i], faults[1][j])
            both = vector_at(machine, conditions, together, start)[0] if one is not None and two is not None else None
            if both is None or one is None or two is None:
                missed[i, j] = missed[max(i - 1, 0), max(j - 1, 0)]
            else:
                missed[i, j] = both - combined(fault_free, one[None], two[None])[0]
    return missed


def chart_of_crossings(machine: Machine) -> dict[Key, np.ndarray]:
    """Every pair of a machine in each of its ordinary weathers, solved: rows of the file of :func:`known`."""
    found: dict[Key, np.ndarray] = {}
    for outdoor_f in _ORDINARY_OUTDOOR_F:
        weather = ordinary(machine, replace(rating_conditions(machine), outdoor_k=f_to_k(outdoor_f)))
        for pair in solved_cases(machine, weather).pairs:
            key = key_of(machine, weather, pair.a.id, pair.b.id)
            if key not in found:
                found[key] = solved_crossed(machine, weather, pair.a.id, pair.b.id)
    return found


@lru_cache(maxsize=1000)
def _alone(machine: Machine, conditions: Conditions, fault: Fault) -> np.ndarray | None:
    return vector_at(machine, conditions, (fault,))[0]


def _at_depth(kind: FaultKind, depth: float) -> float:
    return kind.fault_free + depth * (kind.mild - kind.fault_free)


@dataclass(frozen=True, kw_only=True)
class SolvedCases:
    """A machine in a weather, from :func:`solved_cases`; everything is solved once, when it is first asked for."""

    machine: Machine
    conditions: Conditions
    kit: str

    @cached_property
    def stand(self) -> Any:
        """The machine as its own stand-in."""
        return StandIn(
            machine=self.machine,
            conditions=self.conditions,
            own=True,
            spread=np.zeros((N, N)),
            weather_sd=(0.0, 0.0, 0.0),
            subcooling_df=None,
            superheat_df=None,
        )

    @cached_property
    def fault_free(self) -> Any:
        """The machine with nothing wrong, solved."""
        return solve(self.machine, self.conditions)

    @cached_property
    def fault_free_vector(self) -> Any:
        """The machine with nothing wrong's vector, (N,)."""
        return vector_of(self.machine, self.fault_free)

    @cached_property
    def ground(self) -> Any:
        """The machine in its weather, for searches the short way."""
        return ground_of(self.machine, self.conditions)

    @cached_property
    def memory(self) -> Any:
        """What proofs on this ground found out and may ask again: rivals and answers of tests."""
        return {}

    def by_practice(self, practice: Practice) -> dict[Any, Any]:
        """What was found out on this ground under a practice."""
        rows: list[tuple[Practice, dict[Any, Any]]] = self.memory.setdefault("practices", [])
        for of, kept in rows:
            if of is practice or of == practice:
                return kept
        rows.append((practice, {}))
        return rows[-1][1]

    @cached_property
    def singles(self) -> Any:
        """Every single fault as it was solved, the machine with nothing wrong first; loads and a hunting valve left
        out.
        """
        return self._solved(None)

    def _solved(self, only: str | None) -> list[Family]:
        return [
            f
            for f in single_families(self.stand, k_to_f(self.conditions.return_k), only, weighed=False)
            if not f.ids or f.ids[0] not in (*LOADS, "valve_hunting")
        ]

    @cached_property
    def troubles(self) -> Any:
        """Trouble of the instruments; a wrong scale is seen on its face and changes no pressure that is printed."""
        return [f for f in instrument_families(self.stand) if f.ids != ("wrong_refrigerant_scale",)]

    def family(self, fault_id: str) -> Family | None:
        """The single family called ``fault_id`` with its severities drawn fine, or None where it cannot be solved
        here.
        """
        kept = self.memory.setdefault("fine", {})
        if fault_id not in kept:
            rows = self.singles if "singles" in self.__dict__ else self._solved(fault_id)
            kept[fault_id] = next((_fine(f) for f in rows if f.ids == (fault_id,)), None)
        return kept[fault_id]

    @cached_property
    def curves(self) -> Any:
        """Every single fault with more than one severity, from the machine with nothing wrong on: list of
        :class:`Curve`.
        """
        return [
            Curve(
                kind=fault_kind(f.ids[0]).on(self.machine),
                severities=np.array([fault_kind(f.ids[0]).fault_free, *numbers_of(f)]).round(2),
                vectors=np.vstack([self.fault_free_vector, f.vectors]),
            )
            for f in self.singles
            if f.ids and len(f.severities) > 1
        ]

    @cached_property
    def pairs(self) -> Any:
        """Every pair of faults that can stand together: list of :class:`Pair`."""
        parts = [c for c in self.curves if c.id not in _ALONE]
        weather = ordinary(self.machine, self.conditions)
        return [
            Pair(a=a, b=b, machine=self.machine, weather=weather)
            for i, a in enumerate(parts)
            for b in parts[i + 1 :]
            if {a.id, b.id} not in EXCLUSIVE
        ]

    @cached_property
    def pairs_together(self) -> Pairs:
        """All :attr:`pairs` as compiled code takes them."""
        at = {c.id: i for i, c in enumerate(self.curves)}
        length = max((len(c.severities) for c in self.curves), default=1)
        alone, depths = np.zeros((len(at), length, N)), np.zeros((len(at), length, 1))
        for i, curve in enumerate(self.curves):
            alone[i, : len(curve.vectors)], depths[i, : len(curve.depths), 0] = curve.vectors, curve.depths
        deep = np.array([_crossings(c.kind) for c in self.curves])
        of = np.array([(at[pair.a.id], at[pair.b.id]) for pair in self.pairs], dtype=np.int64).reshape(-1, 2)
        ids = tuple((pair.a.id, pair.b.id) for pair in self.pairs)
        return (
            alone,
            depths,
            np.array([len(c.severities) for c in self.curves]),
            of,
            deep[of].reshape(-1, 4),
            all_crossed(self.machine, ordinary(self.machine, self.conditions), ids),
        )

    def shown(self, vectors: np.ndarray, readings: tuple[str, ...]) -> np.ndarray:
        """What ``readings`` show of vectors (n, N), (n, k): pressures as psi on a gauge, temperatures in degrees F."""
        return reader_of(self.machine.refrigerant, self.kit, readings).shown(vectors, self.conditions.barometer_pa)

    def apart(self, vectors: np.ndarray, here: np.ndarray, readings: tuple[str, ...]) -> np.ndarray:
        """Distances (n,) of vectors (n, N) from ``here`` (N,): the largest difference of a reading in units of what an
        honest one may be off, from what is shown or from what is printed of it, whichever is nearer.
        """
        if not readings:
            return np.zeros(len(vectors))
        return distances(vectors, self.read_from(here, readings))

    def read_from(self, here: np.ndarray, readings: tuple[str, ...]) -> Reads:
        """What compiled code needs to tell how far some readings are from those of ``here`` (N,): the barometer in Pa,
        what they show of it, as it is and as it is printed, (2, 1, k), and the reader.
        """
        reader, own = self._own(here, readings)
        return (self.conditions.barometer_pa, own, *reader.parts)

    def _own(self, here: np.ndarray, readings: tuple[str, ...]) -> tuple[Reader, np.ndarray]:
        """The reader of some readings, and what they show of a vector, as it is and as it is printed, (2, 1, k)."""
        reader, key = reader_of(self.machine.refrigerant, self.kit, readings), (readings, here.tobytes())
        kept = self.memory.setdefault("printed", {})
        if key not in kept:
            mine = self.shown(here[None], readings)
            printed = np.floor(mine / reader.steps + 0.5) * reader.steps
            kept[key] = np.stack((mine, printed))
        return reader, kept[key]


@lru_cache(maxsize=4)
def solved_cases(machine: Machine, conditions: Conditions, kit: str = "analogue") -> SolvedCases:
    """The :class:`SolvedCases` of a machine in a weather; raises NoConvergenceError, when something is first asked of
    it, where even the machine with nothing wrong finds no balance. The last few are kept: a severity that is moved on
    the bench, or the next entry of the encyclopedia, finds the other families solved.
    """
    return SolvedCases(machine=machine, conditions=conditions, kit=kit)


def given_readings(machine: Machine, given: Iterable[str] | None = None) -> tuple[str, ...]:
    """Keys of :data:`SHOWS` among ``given`` (None: all of the usual ones) that this machine has."""
    return _given(machine, None if given is None else tuple(given))


@lru_cache(maxsize=256)
def _given(machine: Machine, given: tuple[str, ...] | None) -> tuple[str, ...]:
    from wolfsbane.cycle.instruments import points_for, usual_points

    can = points_for(machine)
    shown = usual_points(machine) if given is None else given
    return tuple(key for key in SHOWS if key in can and key in shown)


def depth_of(fault: Fault, machine: Machine) -> float:
    """Severity as a share of the way to the family's mild level on a machine; 1 is mild. Instrument trouble counts by
    its size.
    """
    if fault.id in INSTRUMENT_FAULTS:
        return abs(fault.severity / INSTRUMENT_FAULTS[fault.id].mild)
    kind = fault_kind(fault.id).on(machine)
    return (fault.severity - kind.fault_free) / (kind.mild - kind.fault_free)


def numbers_of(family: Family) -> Sequence[float]:
    """Every severity of a single fault."""
    rows = family.severities
    return rows.numbers if isinstance(rows, Severities) else [faults[0].severity for faults in rows]


def _fine(family: Family) -> Family:
    """The same family with straight lines between its severities."""
    count = len(family.vectors)
    if count < 2:
        return family
    at = np.linspace(0, count - 1, (count - 1) * _FINE + 1)
    severity = np.interp(at, np.arange(count), numbers_of(family)).round(2)
    first = family.severities[0][0]
    return replace(
        family,
        vectors=rows_at(family.vectors, at),
        severities=Severities(first.id, tuple(severity.tolist()), first.cause),
        shares=np.ones(len(at)),
    )


def id_of(faults: tuple[Fault, ...]) -> str:
    """Ids in alphabetical order, joined; ``none`` for no fault."""
    return "+".join(sorted(f.id for f in faults)) or NONE
