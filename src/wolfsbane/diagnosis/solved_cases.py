"""The ground a scenario stands on: one of our machines in one weather,
with everything that could be wrong with it solved.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, disturb, scale_of
from wolfsbane.cycle.instruments import tool_for, values
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import PA_PER_PSI, k_to_f
from wolfsbane.diagnosis.hypotheses import EXCLUSIVE, LOADS, combined, instrument_families, single_families
from wolfsbane.diagnosis.space import AT, N, slope_f_per_psi, vector_of
from wolfsbane.diagnosis.stand_in import StandIn

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.hypotheses import Family

#: reading as printed -> what it shows of the vector
SHOWS = {
    "suction_pressure": {"suction_saturation": 1},
    "head_pressure": {"liquid_saturation": 1},
    "suction_line": {"suction_line": 1},
    "liquid_line": {"liquid_line": 1},
    "drier_out": {"liquid_line": 1, "drier_drop": -1},
    "discharge_line": {"discharge": 1},
    "supply_db": {"supply": 1},
    "evaporator_outlet": {"evaporator_outlet": 1},
    "evaporator_inlet": {"evaporator_inlet": 1},
    "condenser_bend": {"liquid_saturation": 1},
    "condenser_inlet": {"discharge": 1},
    "condenser_leaving_air": {"stream_out": 1},
    "water_out": {"stream_out": 1},
}
_FINE = 5
_PAIR_STEPS = 10
#: not weighed as one of two: a machine that stands still, another substance, water that dries while one watches
_ALONE = ("compressor_not_pumping", "one_circuit_off", "wrong_refrigerant", "wet_condenser")


@dataclass(frozen=True, kw_only=True)
class Curve:
    """One family from its mild level on: severities (n,) and vectors (n, N), with straight lines between them."""

    id: str
    severities: np.ndarray
    vectors: np.ndarray

    def at(self, places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(severities, vectors) at fractional ``places`` (m,), held at the ends."""
        places = np.clip(places, 0, len(self.severities) - 1)
        low = np.minimum(places.astype(int), max(len(self.severities) - 2, 0))
        high = np.minimum(low + 1, len(self.severities) - 1)
        share = (places - low)[:, None]
        return (
            np.interp(places, np.arange(len(self.severities)), self.severities),
            self.vectors[low] * (1.0 - share) + self.vectors[high] * share,
        )


@dataclass(frozen=True, kw_only=True)
class Pair:
    """Two faults together, their effects added up."""

    a: Curve
    b: Curve
    fault_free: np.ndarray

    @property
    def id(self) -> str:
        """Ids in alphabetical order."""
        return "+".join(sorted((self.a.id, self.b.id)))

    def grid(self, places_a: np.ndarray, places_b: np.ndarray) -> tuple[list[tuple[float, float]], np.ndarray]:
        """(faults as [(a, b)...], vectors) at every crossing of two sets of places."""
        severity_a, vectors_a = self.a.at(places_a)
        severity_b, vectors_b = self.b.at(places_b)
        return [(x, y) for x in severity_a for y in severity_b], combined(self.fault_free, vectors_a, vectors_b)

    def faults(self, severities: tuple[float, ...]) -> tuple[Fault, Fault]:
        """Planted faults at a pair of severities."""
        return (
            Fault(id=self.a.id, severity=round(float(severities[0]), 2)),
            Fault(id=self.b.id, severity=round(float(severities[1]), 2)),
        )

    @cached_property
    def coarse(self) -> Any:
        """(places of a, places of b, vectors at every crossing)."""
        places = [np.linspace(0, len(c.severities) - 1, min(len(c.severities), _PAIR_STEPS)) for c in (self.a, self.b)]
        return *places, self.grid(*places)[1]


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
    def memory(self) -> Any:
        """What proofs on this ground found out and may ask again: rivals and answers of tests."""
        return {}

    @cached_property
    def singles(self) -> Any:
        """Every single fault with its severities drawn fine, the machine with nothing wrong first;
        loads and a hunting valve left out.
        """
        return self._solved(None)

    def _solved(self, only: str | None) -> list[Family]:
        return [
            _fine(f)
            for f in single_families(self.stand, k_to_f(self.conditions.return_k), only)
            if not f.ids or f.ids[0] not in (*LOADS, "valve_hunting")
        ]

    @cached_property
    def troubles(self) -> Any:
        """Trouble of the instruments; a wrong scale is seen on its face and changes no pressure that is printed."""
        return [f for f in instrument_families(self.stand) if f.ids != ("wrong_refrigerant_scale",)]

    def family(self, fault_id: str) -> Family | None:
        """The single family called ``fault_id``, or None where it cannot be solved here."""
        rows = self.singles if "singles" in self.__dict__ else self._solved(fault_id)
        return next((f for f in rows if f.ids == (fault_id,)), None)

    @cached_property
    def pairs(self) -> Any:
        """Every pair of faults, each at least mild, from what each does alone: list of :class:`Pair`."""
        parts = [
            part for f in self.singles if f.ids and f.ids[0] not in _ALONE and (part := _worth_naming(f)) is not None
        ]
        return [
            Pair(a=a, b=b, fault_free=self.fault_free_vector)
            for i, a in enumerate(parts)
            for b in parts[i + 1 :]
            if {a.id, b.id} not in EXCLUSIVE
        ]

    def rows(self, readings: tuple[str, ...]) -> tuple[np.ndarray, np.ndarray]:
        """(rows (n, N), tolerances (n,) in degrees F) of the readings given, pressures as saturation temperatures."""
        grid, tolerances = np.zeros((len(readings), N)), np.zeros(len(readings))
        for i, key in enumerate(readings):
            for entry, factor in SHOWS[key].items():
                grid[i, AT[entry]] = factor
            tolerances[i] = tool_for(key, self.kit).tolerance_us * self._slope(key)
        return grid, tolerances

    def _slope(self, key: str) -> float:
        if not key.endswith("_pressure"):
            return 1.0
        pa, point = (
            (self.fault_free.suction_pa, "dew") if key == "suction_pressure" else (self.fault_free.head_pa, "bubble")
        )
        return slope_f_per_psi(self.machine.refrigerant, (pa - 101_325.0) / PA_PER_PSI, point)


@lru_cache(maxsize=4)
def solved_cases(machine: Machine, conditions: Conditions, kit: str = "analogue") -> SolvedCases:
    """The :class:`SolvedCases` of a machine in a weather; raises NoConvergenceError, when something is first asked of
    it, where even the machine with nothing wrong finds no balance. The last few are kept: a severity that is moved on
    the bench, or the next entry of the encyclopedia, finds the other families solved.
    """
    return SolvedCases(machine=machine, conditions=conditions, kit=kit)


def given_readings(machine: Machine, given: tuple[str, ...] | None = None) -> tuple[str, ...]:
    """Keys of :data:`SHOWS` among ``given`` (None: all of the usual ones) that this machine has."""
    from wolfsbane.cycle.instruments import POINTS, points_for

    can = points_for(machine)
    return tuple(key for key in SHOWS if key in can and (key in POINTS if given is None else key in given))


def depth_of(fault: Fault) -> float:
    """Severity as a share of the way to the family's mild level; 1 is mild. Instrument trouble counts by its size."""
    kind = INSTRUMENT_FAULTS.get(fault.id) or fault_kind(fault.id)
    if fault.id in INSTRUMENT_FAULTS:
        return abs(fault.severity / kind.mild)
    return (fault.severity - kind.fault_free) / (kind.mild - kind.fault_free)


def _worth_naming(family: Family) -> Curve | None:
    """The :class:`Curve` of a family from its mild level on, or None where it does not reach it."""
    rows = [i for i, faults in enumerate(family.severities) if depth_of(faults[0]) >= 1.0 - 1e-9]
    if len(rows) < 2:
        return None
    return Curve(
        id=family.ids[0],
        severities=np.array([family.severities[i][0].severity for i in rows]),
        vectors=family.vectors[rows],
    )


def _fine(family: Family) -> Family:
    """The same family with straight lines between its severities."""
    count = len(family.vectors)
    if count < 2:
        return family
    at, whole = np.linspace(0, count - 1, (count - 1) * _FINE + 1), np.arange(count)
    severity = np.interp(at, whole, [faults[0].severity for faults in family.severities])
    first = family.severities[0][0]
    return replace(
        family,
        vectors=np.column_stack([np.interp(at, whole, c) for c in family.vectors.T]),
        severities=[(Fault(id=first.id, severity=round(s, 2), cause=first.cause),) for s in severity.tolist()],
        shares=np.ones(len(at)),
    )


def faulted_vector(machine: Machine, state: CircuitState, faults: tuple[Fault, ...]) -> np.ndarray:
    """Vector of a solved machine as its instruments show it; ``faults`` of machine and instruments mixed."""
    disturbed = tuple(f for f in faults if f.id in INSTRUMENT_FAULTS)
    taken = disturb(
        values(machine, state, tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)), machine, state, disturbed
    )
    return vector_of(machine, state, taken, scale_of(machine, disturbed))


def solved(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState | None:
    """The state with the machine's own faults among ``faults``,
    or None where it finds no steady operating point or cuts out.
    """
    try:
        state = solve(machine, conditions, tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS))
    except NoConvergenceError:
        return None
    return None if state.trip is not None else state


def id_of(faults: tuple[Fault, ...]) -> str:
    """Ids in alphabetical order, joined; ``none`` for no fault."""
    return "+".join(sorted(f.id for f in faults)) or NONE
