"""Trouble of an instrument as an explanation: alone, coarsely and finely graded, and beside one fault of the machine.

The fine ones are weighed where trouble of an instrument is planted. What it does to a reading depends on the machine's
state alone, so only the machine's fault has to be solved; every rival that is named was.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, disturb, scale_of
from wolfsbane.cycle.instruments import values
from wolfsbane.diagnosis.family import Family
from wolfsbane.diagnosis.hypotheses import fitted
from wolfsbane.diagnosis.space import vector_of
from wolfsbane.diagnosis.vectors import solved, state_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.curves import Curve
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.diagnosis.stand_in import StandIn

INSTRUMENT_PRIOR = 0.005
#: instrument trouble that is weighed: id -> ((severity, cause), ...)
_TROUBLE = {
    "gauge_not_zeroed": tuple((s, c) for c in ("low_gauge", "high_gauge") for s in (-25, -12, 12, 25)),
    "absolute_pressure_read": ((100, "set_to_absolute"),),
    "core_not_depressed": ((65, "low_port"), (100, "low_port"), (65, "high_port"), (100, "high_port")),
    "clamp_loose": tuple((s, c) for c in ("suction_clamp", "liquid_clamp") for s in (30, 50, 75, 100)),
    "clamp_wrong_line": ((100, "discharge_line"),),
    "wrong_refrigerant_scale": ((100, "last_job"),),
    "hoses_swapped": ((100, "blue_on_liquid"),),
    "thermometers_disagree": ((-8, "uncalibrated"), (8, "uncalibrated")),
}
#: trouble -> (severities, cause), as fine as a reader can tell them apart; a core that lets most of the pressure
#: through is none (from its mild level on)
_FINE: dict[str, tuple[tuple[tuple[float, ...], str], ...]] = {
    "gauge_not_zeroed": tuple(
        (tuple(float(s) for s in range(-30, 31) if s), cause) for cause in ("low_gauge", "high_gauge")
    ),
    "absolute_pressure_read": (((100.0,), "set_to_absolute"),),
    "core_not_depressed": tuple((tuple(float(s) for s in range(35, 101, 3)), c) for c in ("low_port", "high_port")),
    "clamp_loose": tuple((tuple(float(s) for s in range(6, 101, 2)), c) for c in ("suction_clamp", "liquid_clamp")),
    "clamp_wrong_line": (((100.0,), "discharge_line"),),
    "hoses_swapped": (((100.0,), "blue_on_liquid"),),
    "thermometers_disagree": ((tuple(float(s) for s in range(-10, 11) if s), "uncalibrated"),),
}
#: severities of the machine's fault that are solved around the one expected to come nearest, in places of its curve
_AROUND = np.array((-1.0, -0.6, -0.3, -0.1, 0.0, 0.1, 0.3, 0.6, 1.0))
_HALVED = 3
#: expected distances above this are not solved
_NEAR = 6.5


def instrument_families(stand: StandIn) -> list[Family]:
    """Trouble of the instruments on a machine with nothing wrong."""
    state = state_of(stand.machine, stand.conditions, ())
    raw = vector_of(stand.machine, state)
    found, base = [], values(stand.machine, state)
    for fault_id, cases in _TROUBLE.items():
        kind = INSTRUMENT_FAULTS[fault_id]
        vectors: list[np.ndarray] = []
        severities: list[tuple[Fault, ...]] = []
        for severity, cause in cases:
            fault = Fault(id=fault_id, severity=float(severity), cause=cause)
            taken = disturb(base, stand.machine, state, (fault,))
            vectors.append(
                fitted(stand, raw, raw)
                + vector_of(stand.machine, state, taken, scale_of(stand.machine, (fault,)))
                - raw
            )
            severities.append((fault,))
        found.append(
            Family(
                ids=(kind.id,),
                vectors=np.array(vectors),
                severities=severities,
                shares=np.full(len(vectors), 1.0 / len(vectors)),
                prior=INSTRUMENT_PRIOR,
            )
        )
    return found


def _each() -> Iterator[Fault]:
    for fault_id, rows in _FINE.items():
        for severities, cause in rows:
            for severity in severities:
                yield Fault(id=fault_id, severity=severity, cause=cause)


def _vectors(cases: SolvedCases, state: CircuitState, troubles: list[Fault]) -> np.ndarray:
    """What each of some troubles makes of a solved state, (n, N)."""
    base = values(cases.machine, state)
    return np.array([vector_of(cases.machine, state, disturb(base, cases.machine, state, (one,))) for one in troubles])


def alone(cases: SolvedCases) -> tuple[list[Fault], np.ndarray]:
    """Every trouble on the machine with nothing wrong: faults and vectors (n, N); kept with the cases."""
    if "troubled" not in cases.memory:
        troubles = list(_each())
        cases.memory["troubled"] = troubles, _vectors(cases, cases.fault_free, troubles)
    kept: tuple[list[Fault], np.ndarray] = cases.memory["troubled"]
    return kept


def fine_families(cases: SolvedCases) -> list[Family]:
    """Every kind of trouble as a family, finely graded."""
    troubles, vectors = alone(cases)
    ids = [t.id for t in troubles]
    found = []
    for trouble in dict.fromkeys(ids):
        own = [i for i, one in enumerate(ids) if one == trouble]
        rows: list[tuple[Fault, ...]] = [(troubles[i],) for i in own]
        shares = np.full(len(own), 1.0 / len(own))
        found.append(
            Family(ids=(trouble,), vectors=vectors[own], severities=rows, shares=shares, prior=INSTRUMENT_PRIOR)
        )
    return found


def beside_one(
    cases: SolvedCases,
    curves: list[Curve],
    away: Callable[[np.ndarray], np.ndarray],
    mild: float,
) -> list[tuple[tuple[Fault, ...], float]]:
    """Trouble of an instrument with one fault of the machine that is at least ``mild`` (a share of its mild level):
    for each pair of families the faults that come nearest and their distance by ``away``.
    """
    troubles, vectors = alone(cases)
    ids = np.array([t.id for t in troubles])
    moved, found = vectors - cases.fault_free_vector, []
    for curve in curves:
        low = curve.place_of(mild)
        if low is None:
            continue
        places = np.linspace(low, len(curve.severities) - 1, 40)
        grid = curve.at(places)
        expected = away((grid[:, None, :] + moved[None, :, :]).reshape(-1, grid.shape[1])).reshape(len(places), -1)
        for trouble in dict.fromkeys(ids):
            own = np.flatnonzero(ids == trouble)
            best = np.unravel_index(int(np.argmin(expected[:, own])), (len(places), len(own)))
            if expected[:, own][best] < _NEAR:
                some = [troubles[i] for i in own]
                nearest = _solved(cases, curve, some, float(places[best[0]]), low, away)
                if nearest is not None:
                    found.append(nearest)
    return found


def _solved(
    cases: SolvedCases,
    curve: Curve,
    troubles: list[Fault],
    place: float,
    low: float,
    away: Callable[[np.ndarray], np.ndarray],
) -> tuple[tuple[Fault, ...], float] | None:
    """The nearest of solved machines around a place of a curve, whatever the trouble's severity; None where none
    runs.
    """
    best: tuple[float, float, tuple[Fault, ...]] | None = None
    width, last = 1.0, len(curve.severities) - 1
    for _ in range(_HALVED):
        centre = place if best is None else best[1]
        for at in np.unique(np.clip(centre + width * _AROUND, low, last)):
            fault = Fault(id=curve.id, severity=curve.severity(float(at)))
            state = solved(cases.machine, cases.conditions, (fault,))
            if state is None:
                continue
            distances = away(_vectors(cases, state, troubles))
            i = int(np.argmin(distances))
            if best is None or distances[i] < best[0]:
                best = float(distances[i]), float(at), (troubles[i], fault)
        width *= 0.3
    return None if best is None else (best[2], best[0])
