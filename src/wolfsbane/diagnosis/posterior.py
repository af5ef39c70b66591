"""From explanations and measurements to weights: how well each explains what was read, seen and tested."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.diagnosis.family import Family
from wolfsbane.diagnosis.hypotheses import (
    confirmed,
    pair_families,
    single_families,
    weather_slopes,
)
from wolfsbane.diagnosis.likelihoods import share
from wolfsbane.diagnosis.space import AT, N, measurements
from wolfsbane.diagnosis.stand_in import EFFECT_SPREAD
from wolfsbane.diagnosis.troubled import instrument_families

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.observed import Observed
    from wolfsbane.diagnosis.stand_in import StandIn

#: degrees of freedom of the heavy-tailed error: readings of an unlisted unit contradict each other more often (assumed)
_TAILS = {True: 20.0, False: 6.0}
#: how many of the likeliest pairs are solved
_CONFIRM = 6
#: flutter that a hunting valve shows: kind of reading -> half width
_HUNTS = {"suction": 3.0, "superheat": 2.5, "suction_line": 3.0, "evaporator_superheat": 2.5, "head": 8.0}
_SHOWN_HUNTING, _SHOWN_OTHERWISE = 0.9, 0.02


def _matrix(*rows: Any) -> np.ndarray:
    found = np.zeros((len(rows), N))
    for i, row in enumerate(rows):
        for entry, factor in row.items():
            found[i, AT[entry]] = factor
    return found


#: a fault acts on figures, and what moves with a figure moves together: the effects, and the entries each of them moves
_EFFECTS = _matrix(
    {"suction_saturation": 1},
    {"liquid_saturation": 1},
    {"suction_line": 1, "suction_saturation": -1},
    {"liquid_saturation": 1, "liquid_line": -1},
    {"drier_drop": 1},
    {"supply": 1},
    {"stream_out": 1},
    {"airflow": 1},
    {"amps": 1},
)
_MOVED = _matrix(
    {
        "suction_saturation": 1,
        "seen_low": 1,
        "suction_line": 1,
        "evaporator_outlet": 1,
        "coil_saturation": 1,
        "evaporator_inlet": 1,
    },
    {"liquid_saturation": 1, "seen_high": 1, "liquid_line": 1, "discharge": 1},
    {"suction_line": 1, "evaporator_outlet": 1, "discharge": 1},
    {"liquid_line": -1},
    {"drier_drop": 1},
    {"supply": 1},
    {"stream_out": 1},
    {"airflow": 1},
    {"amps": 1},
)


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """One explanation with its share of belief among faults, the index of its best severities and how it fits them."""

    family: Family
    weight: float
    best: int
    misfit: float

    @property
    def id(self) -> str:
        """Ids in alphabetical order."""
        return self.family.id

    @property
    def vector(self) -> np.ndarray:
        """What the machine would show at the best severities, (N,)."""
        return self.family.vectors[self.best]

    @property
    def faults(self) -> tuple[Fault, ...]:
        """The best severities as a tuple of Fault."""
        return self.family.severities[self.best]


@dataclass(frozen=True, kw_only=True)
class Measured:
    """The numbers of one case: names, values (n,), rows (n, N), and the covariance (n, n) before any fault."""

    names: list[str]
    values: np.ndarray
    rows: np.ndarray
    covariance: np.ndarray


def measured(seen: Observed, stand: StandIn) -> Measured:
    """The :class:`Measured` of what was seen, with the doubts about machine,
    weather and instruments in its covariance.
    """
    names, values, rows, sigmas = measurements(seen, amps_known=stand.own)
    spread = stand.spread.copy()
    slopes = weather_slopes(stand)
    for slope, sd in zip(slopes, stand.weather_sd, strict=True):
        spread += sd**2 * np.outer(slope, slope)
    return Measured(
        names=names,
        values=_amps(values, names, stand),
        rows=rows,
        covariance=rows @ spread @ rows.T + np.diag(sigmas**2),
    )


def _amps(values: np.ndarray, names: list[str], stand: StandIn) -> np.ndarray:
    if "compressor" in names:
        values = values.copy()
        values[names.index("compressor")] *= 100.0 / stand.machine.plate.rated_amps
    return values


def log_fit(case: Measured, vectors: np.ndarray, fault_free: np.ndarray, own: bool) -> tuple[np.ndarray, np.ndarray]:
    """(log likelihood (m,), distance (m,)) of ``vectors`` (m, N); constants that all share are left out."""
    n = len(case.names)
    if n == 0:
        return np.zeros(len(vectors)), np.zeros(len(vectors))
    away = case.values - vectors @ case.rows.T
    covariance = np.broadcast_to(case.covariance, (len(vectors), n, n))
    if not own:
        effect = (EFFECT_SPREAD * (vectors - fault_free) @ _EFFECTS.T) ** 2
        shown = case.rows @ _MOVED.T
        covariance = covariance + np.einsum("ik,mk,jk->mij", shown, effect, shown, optimize=True)
    lower = np.linalg.cholesky(covariance)
    scaled = np.linalg.solve(lower, away[:, :, None])[:, :, 0]
    squared = np.sum(scaled**2, axis=1)
    tails = _TAILS[own]
    log_det = np.sum(np.log(np.diagonal(lower, axis1=1, axis2=2)), axis=1)
    return -0.5 * (tails + n) * np.log1p(squared / tails) - log_det, np.sqrt(squared)


def evidence(seen: Observed, ids: tuple[str, ...]) -> float:
    """Log of how likely everything looked at, tested and seen to flutter is, with these faults."""
    total = 0.0
    for check, word in seen.telling.items():
        total += math.log(max(share(check, word, ids), 1e-4))
    swings = any(seen.readings[k].flutter >= width for k, width in _HUNTS.items() if k in seen.readings)
    hunting = "valve_hunting" in ids
    shown = _SHOWN_HUNTING if hunting else _SHOWN_OTHERWISE
    total += math.log(shown if swings else 1.0 - shown)
    static = seen.readings.get("static")
    if static is not None and not seen.plate.refrigeration:
        high, low = (0.5, 0.2) if "low_airflow" in ids else (0.25, 0.1)
        total += math.log(high if static.value > 0.75 else low if static.value < 0.3 else 1.0 - high - low)
    return total


def _weigh(
    case: Measured, families: list[Family], seen: Observed, fault_free: np.ndarray, own: bool
) -> list[tuple[float, int, float]]:
    """(log weight, best index, distance) of every family."""
    counts = [len(f.vectors) for f in families]
    logs, distances = log_fit(case, np.concatenate([f.vectors for f in families]), fault_free, own)
    rows, at = [], 0
    for family, count in zip(families, counts, strict=True):
        log, distance = logs[at : at + count] + np.log(np.maximum(family.shares, 1e-9)), distances[at : at + count]
        best, top = int(np.argmax(log)), float(np.max(log))
        total = top + math.log(float(np.sum(np.exp(log - top))))
        rows.append(
            (total + math.log(max(family.prior, 1e-12)) + evidence(seen, family.ids), best, float(distance[best]))
        )
        at += count
    return rows


def posterior(seen: Observed, stand: StandIn) -> tuple[list[Weighed], Measured]:
    """Every explanation of what was seen, likeliest first: list of :class:`Weighed` whose weights sum to 1, and the
    :class:`Measured` numbers they were weighed by.
    """
    case = measured(seen, stand)
    air = seen.conditions.get("box" if stand.machine.refrigeration else "return_db")
    singles = single_families(stand, air)
    fault_free = singles[0].vectors[0]
    families = [*singles, *instrument_families(stand), *pair_families(singles)]
    rows = _weigh(case, families, seen, fault_free, stand.own)
    pairs = sorted((i for i, f in enumerate(families) if len(f.ids) == 2), key=lambda i: -rows[i][0])[:_CONFIRM]
    for i in pairs:
        solved = confirmed(stand, families[i], rows[i][1])
        if solved is None:
            rows[i] = (rows[i][0] - 8.0, *rows[i][1:])
            continue
        families[i] = solved
        rows[i] = _weigh(case, [solved], seen, fault_free, stand.own)[0]
    logs = np.array([row[0] for row in rows])
    weights = np.exp(logs - logs.max())
    weights /= weights.sum()
    found = [
        Weighed(family=f, weight=float(w), best=row[1], misfit=row[2])
        for f, w, row in zip(families, weights, rows, strict=True)
    ]
    return sorted(found, key=lambda item: (-item.weight, item.id)), case
