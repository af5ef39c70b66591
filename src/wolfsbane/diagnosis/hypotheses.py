"""Every explanation that is weighed: a machine with nothing wrong, each fault over its severities, pairs of faults;
trouble of instruments is in :mod:`wolfsbane.diagnosis.troubled`.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from itertools import combinations
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, faults_for
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.along import vectors_along
from wolfsbane.diagnosis.compared import rows_at
from wolfsbane.diagnosis.family import Crossed, Family, Severities
from wolfsbane.diagnosis.short_way import Start, UnusualError, ground_of
from wolfsbane.diagnosis.space import AT, vector_of
from wolfsbane.diagnosis.vectors import start_at, state_of, vector_on

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.diagnosis.stand_in import StandIn

#: how often each fault stands behind a call, before anything is seen (assumed: dirt is behind a large share of
#: complaints)
PRIORS = {
    NONE: 0.15,
    "undercharge": 0.16,
    "overcharge": 0.08,
    "dirty_condenser": 0.12,
    "low_airflow": 0.14,
    "liquid_line_restriction": 0.045,
    "valve_underfeeding": 0.05,
    "valve_overfeeding": 0.05,
    "orifice_oversized": 0.035,
    "orifice_undersized": 0.03,
    "leaking_compressor_valves": 0.04,
    "compressor_not_pumping": 0.012,
    "non_condensables": 0.015,
    "condenser_fan_weak": 0.035,
    "condenser_recirculation": 0.015,
    "wet_condenser": 0.008,
    "distributor_blocked": 0.012,
    "suction_line_restriction": 0.01,
    "service_valve_part_closed": 0.008,
    "long_liquid_line": 0.008,
    "mismatched_coil": 0.01,
    "reversing_valve_leak": 0.02,
    "wrong_refrigerant": 0.004,
    "valve_hunting": 0.006,
    "water_condenser_fouled": 0.08,
    "low_water_flow": 0.06,
    "economizer_stuck_open": 0.02,
    "stratified_air": 0.01,
    "one_circuit_off": 0.02,
    "high_load": 0.02,
    "low_load": 0.02,
    "undersized_unit": 0.006,
}
#: share of calls with two faults at once (assumed)
PAIR_SHARE = 0.09
#: with too little air on the condenser our model lets subcooling rise a little and field lore lets it fall: on an
#: unlisted unit we believe this share of the model's change
_LORE, _LORE_SHARE = ("dirty_condenser", "condenser_fan_weak", "condenser_recirculation"), 0.3
#: faults that cannot stand together; a long line with more charge in it is charged right
EXCLUSIVE = (
    {"valve_overfeeding", "valve_underfeeding"},
    {"orifice_oversized", "orifice_undersized"},
    {"undercharge", "overcharge"},
    {"long_liquid_line", "overcharge"},
)
#: change of all figures together from which a fault is felt for certain, on a listed machine and on an unlisted one, °F
#: (assumed)
FELT_DF = {True: 3.5, False: 7.0}
#: severities of an unlisted unit that are weighed start here where the mild end of a family is called by another
#: name
_BEGINS = {"compressor_not_pumping": {True: 40.0, False: 13.0}}
#: families that are the weather's or the load's where the air is measured: they read like a machine with nothing wrong
LOADS = ("high_load", "low_load", "undersized_unit")
#: weighed alone only: they pass, they are the weather's, or nothing else can be read beside them
NOT_PAIRED = (
    *LOADS,
    "valve_hunting",
    "wrong_refrigerant",
    "compressor_not_pumping",
    "stratified_air",
    "one_circuit_off",
    "wet_condenser",
    "economizer_stuck_open",
)
#: share of the way from normal to the limit at which severities are solved
_DEPTHS = (0.08, 0.14, 0.21, 0.29, 0.38, 0.48, 0.6, 0.75, 1.0)
_BETWEEN = 3
_PAIR_EVERY = 5


def fault_free_vector(stand: Any) -> Any:
    """The stand-in machine when nothing is wrong, (N,), as the real machine would show it by its plate."""
    y = vector_of(stand.machine, solve(stand.machine, stand.conditions))
    return fitted(stand, y, y)


def fitted(stand: StandIn, y: np.ndarray, fault_free: np.ndarray) -> np.ndarray:
    """A vector moved to the real machine's own subcooling and superheat: in share below them, in step above."""
    y = y.copy()
    for told, hot, cold, moved in (
        (stand.subcooling_df, "liquid_saturation", "liquid_line", -1),
        (stand.superheat_df, "suction_line", "suction_saturation", 1),
    ):
        if told is None:
            continue
        today, now = fault_free[AT[hot]] - fault_free[AT[cold]], y[AT[hot]] - y[AT[cold]]
        if today < 1.0:
            continue
        whole = told[0] - told[1] if told[1] is not None else 0.5 * (told[0] - today)
        shift = whole if now >= today else max(now, 0.0) * whole / today
        y[AT["liquid_line" if moved < 0 else "suction_line"]] += moved * shift
        if moved > 0:
            y[AT["evaporator_outlet"]] += 0.8 * shift
            y[AT["discharge"]] += shift
    return y


def weather_slopes(stand: StandIn, step_f: float = 2.0) -> np.ndarray:
    """Change of the sound vector for one degree F of outdoor air (or water), return dry bulb and return wet bulb, (3,
    N).
    """
    c, found = stand.conditions, []
    base = vector_of(stand.machine, solve(stand.machine, c))
    step = step_f / 1.8
    outdoors = {"water_in_k": c.water_in_k - step} if c.water_in_k else {"outdoor_k": c.outdoor_k - step}
    for change in (outdoors, {"return_k": c.return_k + step}, {"return_wet_bulb_k": c.return_wet_bulb_k - step}):
        try:
            moved = vector_of(stand.machine, solve(stand.machine, replace(c, **change)))
        except (NoConvergenceError, ValueError):
            moved = base
        sign = 1.0 if "return_k" in change else -1.0
        found.append(sign * (moved - base) / step_f)
    return np.array(found)


@lru_cache(maxsize=1024)
def _solved_at(fault_free: float, limit: float, begins: float) -> tuple[float, ...]:
    """Severities at which a family is solved, up to ``begins``."""
    numbers = (round(fault_free + (limit - fault_free) * depth, 3) for depth in _DEPTHS)
    return tuple(number for number in numbers if number <= begins)


def _curve(stand: StandIn, kind: FaultKind, fault_free_raw: np.ndarray) -> tuple[np.ndarray, tuple[float, ...]]:
    """(vectors (n, N), severities (n,)) of one family over its depths; stops where the machine finds no steady
    operating point or, our own, cuts out.
    """
    begins = _BEGINS[kind.id][stand.own] if kind.id in _BEGINS else np.inf
    numbers = _solved_at(kind.fault_free, kind.limit, begins)
    found, more = vectors_along(ground_of(stand.machine, stand.conditions, cutouts=stand.own), kind.id, numbers)
    if more:
        vectors, near = list(found), None
        for severity in numbers[len(found) :]:
            vector, near = _shown(stand, Fault(id=kind.id, severity=severity), near)
            if vector is None:
                break
            vectors.append(vector)
        found = np.array(vectors)
    return (found if stand.own else _told(stand, kind, found, fault_free_raw)), numbers[: len(found)]


def _shown(stand: StandIn, fault: Fault, near: Start | None) -> tuple[np.ndarray | None, Start | None]:
    """(vector of one fault, None where the family ends; where the search of the next may begin)."""
    ground, faults = ground_of(stand.machine, stand.conditions, cutouts=stand.own), (fault,)
    if stand.own:
        return vector_on(ground, faults, near)
    try:
        return ground.vector(faults, near)
    except UnusualError:
        pass
    try:
        state = solve(stand.machine, stand.conditions, faults, start=None if near is None else tuple(near.x.tolist()))
    except NoConvergenceError:
        return None, None
    if state.trip is not None and state.solution is None:
        return None, None
    return vector_of(stand.machine, state, values(stand.machine, state, faults)), start_at(state)


def _told(stand: StandIn, kind: FaultKind, raw: np.ndarray, fault_free_raw: np.ndarray) -> np.ndarray:
    """Vectors (n, N) of a family as they are believed of a unit that is not ours."""
    vectors = [fitted(stand, v, fault_free_raw) for v in raw]
    if kind.id not in _LORE:
        return np.array(vectors)
    fault_free = fitted(stand, fault_free_raw, fault_free_raw)
    return np.array([_with_lore(v, fault_free) for v in vectors])


def _with_lore(y: np.ndarray, fault_free: np.ndarray) -> np.ndarray:
    """A vector with less of the model's change of subcooling."""
    y = y.copy()

    def subcooling(v: Any) -> Any:
        return v[AT["liquid_saturation"]] - v[AT["liquid_line"]]

    y[AT["liquid_line"]] += (1.0 - _LORE_SHARE) * (subcooling(y) - subcooling(fault_free))
    return y


@lru_cache(maxsize=1024)
def _finer(
    fault_id: str, fault_free: float, limit: float, numbers: tuple[float, ...]
) -> tuple[np.ndarray, np.ndarray, Severities]:
    """(places among the severities ``numbers`` that are solved, their depths, their severities), with straight lines
    between those.
    """
    depth = (np.array(numbers) - fault_free) / (limit - fault_free)
    whole = np.arange(len(depth))
    if len(depth) < 2:
        return whole.astype(float), depth, Severities(fault_id, numbers)
    at = np.linspace(0, len(depth) - 1, (len(depth) - 1) * _BETWEEN + 1)
    finer = np.interp(at, whole, numbers).round(3)
    return at, np.interp(at, whole, depth), Severities(fault_id, tuple(finer.tolist()))


def _shares(depth: np.ndarray, vectors: np.ndarray, fault_free: np.ndarray, felt_df: float) -> np.ndarray:
    """How likely each severity is, (n,): nobody calls for what cannot be felt, and the worst is rare (assumed)."""
    away = vectors - fault_free

    def figure(a: Any, b: Any) -> Any:
        return away[:, AT[a]] - away[:, AT[b]]

    felt = np.sqrt(
        away[:, AT["suction_saturation"]] ** 2
        + away[:, AT["liquid_saturation"]] ** 2
        + away[:, AT["supply"]] ** 2
        + figure("suction_line", "suction_saturation") ** 2
        + figure("liquid_saturation", "liquid_line") ** 2
    )
    width = np.gradient(depth) if len(depth) > 1 else np.ones(1)
    share = width * np.minimum(felt / felt_df, 1.0) ** 2 * np.exp(-np.maximum(felt - 25.0, 0.0) / 25.0) + 1e-6
    return share / share.sum()


def _load_prior(family: str, return_f: float) -> float:
    """How likely a load is the answer, by the measured return air (assumed)."""
    if family == "low_load":
        return 0.25 / (1.0 + np.exp((return_f - 68.0) / 1.2))
    return (0.3 if family == "high_load" else 0.06) / (1.0 + np.exp((85.5 - return_f) / 1.2))


def single_families(
    stand: StandIn, return_f: float | None = None, only: str | None = None, *, weighed: bool = True
) -> list[Family]:
    """Every single fault of the machine as a list of :class:`Family`, the machine with nothing wrong first.

    ``return_f`` is the measured return (or box) air, None where it is not known. ``only`` names one family: no other
    is solved. What is not ``weighed`` has the same share for every severity.
    """
    raw = vector_of(stand.machine, state_of(stand.machine, stand.conditions, ()))
    fault_free = fitted(stand, raw, raw)
    one = np.ones(1)
    found = [Family(ids=(), vectors=fault_free[None], severities=[()], shares=one, prior=PRIORS[NONE])]
    for kind in faults_for(stand.machine):
        if only not in (None, kind.id):
            continue
        if kind.id == "valve_hunting":
            found.append(
                Family(
                    ids=(kind.id,),
                    vectors=fault_free[None],
                    severities=[(Fault(id=kind.id, severity=kind.moderate),)],
                    shares=one,
                    prior=PRIORS[kind.id],
                )
            )
            continue
        if kind.id in LOADS and return_f is not None:
            if stand.machine.comfort and not stand.heating:
                found.append(
                    Family(
                        ids=(kind.id,),
                        vectors=fault_free[None],
                        severities=[()],
                        shares=one,
                        prior=_load_prior(kind.id, return_f),
                    )
                )
            continue
        solved, numbers = _curve(stand, kind, raw)
        if not len(solved):
            continue
        at, depth, severities = _finer(kind.id, kind.fault_free, kind.limit, numbers)
        vectors = rows_at(solved, at)
        found.append(
            Family(
                ids=(kind.id,),
                vectors=vectors,
                severities=severities,
                shares=_shares(depth, vectors, fault_free, FELT_DF[stand.own]) if weighed else np.ones(len(depth)),
                prior=PRIORS[kind.id],
            )
        )
    return [_renamed(f) for f in found] if stand.heating else found


#: in heating the coils change places: what starves the condenser of air is the indoor side's, and the other way round
_SWAPPED = {
    "dirty_condenser": "low_airflow",
    "low_airflow": "dirty_condenser",
    "high_load": None,
    "low_load": None,
    "condenser_recirculation": None,
    "wet_condenser": None,
    "mismatched_coil": None,
    "undersized_unit": None,
}


def _renamed(family: Any) -> Any:
    ids = tuple(_SWAPPED.get(i, i) for i in family.ids)
    return (
        family
        if None not in ids and ids == family.ids
        else replace(family, ids=tuple(i for i in ids if i), prior=PRIORS[ids[0]] if ids and ids[0] else 0.0)
    )


def combined(fault_free: np.ndarray, a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Vectors of two faults together from what each does alone, (n_a * n_b, N): effects add up, but a line cannot be
    filled below empty nor boil past dry.
    """
    grid = (a[:, None, :] + b[None, :, :] - fault_free).reshape(-1, len(fault_free))
    subcooling = grid[:, AT["liquid_saturation"]] - grid[:, AT["liquid_line"]]
    short = np.minimum(subcooling, 0.0) - np.minimum(
        (fault_free[AT["liquid_saturation"]] - fault_free[AT["liquid_line"]]), 0.0
    )
    grid[:, AT["liquid_line"]] += np.minimum(short, 0.0)
    superheat = grid[:, AT["suction_line"]] - grid[:, AT["suction_saturation"]]
    grid[:, AT["suction_line"]] -= np.minimum(superheat, 0.0)
    return grid


def pair_families(singles: list[Family]) -> list[Family]:
    """Every pair of faults that can stand together, from the singles' own vectors."""
    fault_free = singles[0].vectors[0]
    parts = [f for f in singles if f.ids and f.ids[0] not in NOT_PAIRED and len(f.vectors) > 1]
    total = sum(f.prior for f in parts)
    found = []
    for a, b in combinations(parts, 2):
        if {a.ids[0], b.ids[0]} in EXCLUSIVE:
            continue
        va, vb = a.vectors[::_PAIR_EVERY], b.vectors[::_PAIR_EVERY]
        shares = (a.shares[::_PAIR_EVERY][:, None] * b.shares[::_PAIR_EVERY][None, :]).ravel()
        found.append(
            Family(
                ids=(a.ids[0], b.ids[0]),
                vectors=combined(fault_free, va, vb),
                severities=Crossed(a.severities[::_PAIR_EVERY], b.severities[::_PAIR_EVERY]),
                shares=shares / shares.sum(),
                prior=2.0 * PAIR_SHARE * a.prior * b.prior / total**2,
            )
        )
    return found


def confirmed(stand: StandIn, family: Family, best: int) -> Family | None:
    """A pair solved at its best severities: the same family moved by what adding up got wrong,
    None where it cannot run.
    """
    raw = vector_of(stand.machine, state_of(stand.machine, stand.conditions, ()))
    try:
        state = solve(stand.machine, stand.conditions, family.severities[best])
    except NoConvergenceError:
        return None
    if state.trip is not None and (stand.own or state.solution is None):
        return None
    true = fitted(stand, vector_of(stand.machine, state, values(stand.machine, state, family.severities[best])), raw)
    return replace(family, vectors=family.vectors + (true - family.vectors[best]))
