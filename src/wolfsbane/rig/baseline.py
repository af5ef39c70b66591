"""A rig's baseline: the profile fitted to stretches in which it ran with nothing planted, and how well that went.

The fit is bounded and held to the profile by how far machines usually are apart, and to each sensor by how far
sensors usually are off: what the data cannot tell apart stays near where it was, and is named.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.conditions import BOX_RANGES_F, Conditions, box_wet_bulb_k
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa
from wolfsbane.rig.individual import PARAMETERS, Individual
from wolfsbane.rig.points import kind_of, label_of

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Stretch

#: kind -> (how well a settled mean is met, how far sensors usually are off), SI (assumed)
_KINDS = {
    "pressure": (2_000.0, 5_000.0),
    "temperature": (0.12, 0.45),
    "current": (0.06, 0.12),
    "flow": (0.02, 0.05),
    "static": (5.0, 10.0),
}
#: the high side follows the weather fastest, and the discharge line its shell: they are met less closely, times
_LOOSER = {"head_pressure": 2.0, "discharge_line": 4.0}
#: weather is taken as it is read
WEATHER = ("outdoor_db", "return_db", "return_wb", "return_rh", "water_in", "condenser_entering_air", "weight")
#: how far a factor may go from 1, and a valve's superheat from the profile's, K
_MOST, _VALVE_K, _VALVE_SPREAD_K = 0.35, 3.0, 0.8
#: a factor whose uncertainty has hardly shrunk, and two that go together, could not be told (shares, assumed)
_UNTOLD, _TOGETHER = 0.75, 0.95
#: a mean square miss beyond this is no fit; leaving out one channel that brings it down to this share names it
_NO_FIT, _EXPLAINS = 4.0, 0.4
_LOST = 30.0


def conditions_of(rig: Rig, profile: Machine, shown: Mapping[str, float | None]) -> Conditions:
    """The weather that a rig's channels show. Raises BadInputError naming the channel that is missing."""
    barometer = barometer_at_altitude_pa(rig.altitude_ft * M_PER_FT)

    def of(*points: str) -> float:
        for point in points:
            value = shown.get(point)
            if value is not None:
                return value
        names = " or ".join(label_of(p).lower() for p in points)
        raise BadInputError(f"channel {points[0]}", None, f"a reading of {names}")

    outdoor = of("outdoor_db", "condenser_entering_air") if profile.condenser != "water_cooled" else of("water_in")
    inside = of("return_db")
    water = of("water_in") if profile.condenser == "water_cooled" else None
    if profile.application in BOX_RANGES_F:
        wet = box_wet_bulb_k(profile.application, inside, barometer)
    elif (humidity := shown.get("return_rh")) is not None:
        wet = psychrolib.GetTWetBulbFromRelHum(inside - 273.15, min(max(humidity, 0.05), 1.0), barometer) + 273.15
    else:
        wet = min(of("return_wb", "return_rh"), inside)
    return Conditions(
        outdoor_k=outdoor, return_k=inside, return_wet_bulb_k=wet, barometer_pa=barometer, water_in_k=water
    )


def shown_by(machine: Machine, state: CircuitState, faults: tuple[Fault, ...] = ()) -> dict[str, float]:
    """Every point of a solved machine, SI with gauge pressures."""
    found = values(machine, state, faults)
    return {k: v - state.barometer_pa if kind_of(k) == "pressure" else v for k, v in found.items()}


def predicted(
    rig: Rig, profile: Machine, individual: Individual, weather: Conditions, faults: tuple[Fault, ...] = ()
) -> dict[str, float] | None:
    """What the rig's channels should show in this weather with these faults, SI; None where it does not stay on."""
    machine = individual.machine(profile)
    try:
        state = solve(machine, weather, faults)
    except NoConvergenceError:
        return None
    if state.trip is not None or state.equalized:
        return None
    found = shown_by(machine, state, faults)
    return {c.point: found[c.point] + individual.offsets.get(c.point, 0.0) for c in rig.channels if c.point in found}


@dataclass(frozen=True, kw_only=True)
class Baseline:
    """What a fit found: the rig as an :class:`Individual`; how uncertain each factor is (share), what the data could
    not tell apart, how closely each point is met before and after (mean and worst miss, SI), the mean square miss,
    and in words what does not fit or stands out.
    """

    individual: Individual
    uncertain: dict[str, float]
    untold: tuple[str, ...]
    together: tuple[tuple[str, str], ...]
    met: dict[str, dict[str, float]]
    points: int
    square: float
    notes: tuple[str, ...] = ()
    doubted: tuple[str, ...] = ()
    spread: dict[str, float] = field(default_factory=dict)

    def to_json(self) -> dict[str, Any]:
        """Plain data; :func:`baseline_of` reads it."""
        return asdict(self)


def baseline_of(plain: Mapping[str, Any]) -> Baseline:
    """A baseline from plain data."""
    told: dict[str, Any] = dict(plain)
    told["individual"] = Individual(**told["individual"])
    told["together"] = tuple(tuple(pair) for pair in told["together"])
    for name in ("untold", "notes", "doubted"):
        told[name] = tuple(told[name])
    return Baseline(**told)


class _Fit:
    def __init__(self, rig: Rig, profile: Machine, rows: Sequence[Stretch], without: tuple[str, ...]) -> None:
        self.rig, self.profile, self.rows = rig, profile, rows
        self.weather = [conditions_of(rig, profile, row.mean) for row in rows]
        possible = predicted(rig, profile, Individual(), self.weather[0]) or {}
        self.points = [
            c.point
            for c in rig.channels
            if c.point not in WEATHER
            and c.point not in without
            and c.point in possible
            and all(c.point in row.mean for row in rows)
        ]
        valve = profile.metering in ("txv", "eev")
        self.free = [p for p in PARAMETERS if not (p == "metering" and valve)]
        if "compressor_amps" not in self.points and "discharge_line" not in self.points:
            self.free.remove("efficiency")
        self.valve = valve
        spread = [PARAMETERS[p].spread for p in self.free]
        spread += [_VALVE_SPREAD_K] if valve else []
        spread += [_KINDS[kind_of(p)][1] for p in self.points]
        self.spread = np.array(spread)
        self.most = np.array(
            [_MOST] * len(self.free)
            + ([_VALVE_K] if valve else [])
            + [8.0 * _KINDS[kind_of(p)][1] for p in self.points]
        )
        self.width = np.array([_KINDS[kind_of(p)][0] * _LOOSER.get(p, 1.0) for p in self.points])

    def individual(self, x: np.ndarray) -> Individual:
        at = len(self.free)
        superheat = float(x[at]) if self.valve else 0.0
        offsets = x[at + (1 if self.valve else 0) :]
        return Individual(
            factors={name: math.exp(float(v)) for name, v in zip(self.free, x, strict=False)},
            superheat_dk=superheat,
            offsets={p: float(v) for p, v in zip(self.points, offsets, strict=True)},
        )

    def misses(self, x: np.ndarray) -> np.ndarray:
        """Misses of every point of every stretch in widths, then what holds the fit, in spreads."""
        individual, found = self.individual(x), []
        for row, weather in zip(self.rows, self.weather, strict=True):
            shown = predicted(self.rig, self.profile, individual, weather)
            if shown is None:
                found += [_LOST] * len(self.points)
                continue
            found += [(row.mean[p] - shown[p]) / w for p, w in zip(self.points, self.width, strict=True)]
        return np.concatenate([np.clip(found, -_LOST, _LOST), x / self.spread])

    def best(self) -> tuple[np.ndarray, np.ndarray, float]:
        """(unknowns, their covariance, mean square miss of the readings)."""
        from scipy.optimize import least_squares  # takes a third of a second to import

        start = np.zeros(len(self.spread))
        fit = least_squares(
            self.misses, start, bounds=(-self.most, self.most), x_scale=self.spread, diff_step=1e-3, max_nfev=40
        )
        covariance = np.linalg.inv(fit.jac.T @ fit.jac)
        read = len(self.rows) * len(self.points)
        return fit.x, covariance, float(np.mean(self.misses(fit.x)[:read] ** 2))


def fitted(rig: Rig, profile: Machine, rows: Sequence[Stretch]) -> Baseline:
    """The :class:`Baseline` of settled stretches with nothing planted; two or more in unlike weather tell most.

    Raises BadInputError where there is nothing to fit or weather is not read.
    """
    if not rows:
        raise BadInputError(
            "baseline", "no settled stretch", "at least one stretch of five minutes with nothing planted"
        )
    fit = _Fit(rig, profile, rows, ())
    if len(fit.points) < 3:
        have = ", ".join(label_of(p).lower() for p in fit.points) or "none"
        raise BadInputError("channels", have, "at least three readings of the circuit that are there all the time")
    x, covariance, square = fit.best()
    doubted: tuple[str, ...] = ()
    if square > _NO_FIT:
        tries = {p: _Fit(rig, profile, rows, (p,)) for p in fit.points}
        found = {p: t.best() for p, t in tries.items() if len(t.points) >= 3}
        if found:
            point = min(found, key=lambda p: found[p][2])
            if found[point][2] < _EXPLAINS * square:
                doubted, fit = (point,), tries[point]
                x, covariance, square = found[point]
    return _told(rig, profile, rows, fit, x, covariance, square, doubted)


def _told(
    rig: Rig,
    profile: Machine,
    rows: Sequence[Stretch],
    fit: _Fit,
    x: np.ndarray,
    covariance: np.ndarray,
    square: float,
    doubted: tuple[str, ...],
) -> Baseline:
    individual = fit.individual(x)
    sigma = np.sqrt(np.diag(covariance))
    names = [*fit.free, *(["superheat"] if fit.valve else [])]
    n = len(fit.free)
    untold = tuple(p for i, p in enumerate(fit.free) if sigma[i] > _UNTOLD * fit.spread[i])
    pairs = tuple(
        (names[i], names[j])
        for i in range(n)
        for j in range(i + 1, n)
        if abs(covariance[i, j]) > _TOGETHER * sigma[i] * sigma[j]
    )
    offsets = dict(individual.offsets)
    for point in doubted:
        shown = [
            (row.mean[point], p[point])
            for row, weather in zip(rows, fit.weather, strict=True)
            if point in row.mean and (p := predicted(rig, profile, individual, weather)) is not None
        ]
        offsets[point] = float(np.mean([a - b for a, b in shown])) if shown else 0.0
    individual = replace(individual, offsets=offsets)
    met = _met(rig, profile, rows, fit, individual)
    return Baseline(
        individual=individual,
        uncertain={p: round(float(sigma[i]), 4) for i, p in enumerate(fit.free)},
        untold=untold,
        together=pairs,
        met=met,
        points=len(rows),
        square=round(square, 3),
        notes=tuple(_notes(rows, individual, sigma, fit, square, doubted)),
        doubted=doubted,
        spread={p: PARAMETERS[p].spread for p in fit.free},
    )


def _met(
    rig: Rig, profile: Machine, rows: Sequence[Stretch], fit: _Fit, individual: Individual
) -> dict[str, dict[str, float]]:
    """point -> mean and worst miss with the bare profile and with the fitted rig, SI."""
    found: dict[str, dict[str, float]] = {}
    for when, who in (("profile", Individual()), ("fitted", individual)):
        for row, weather in zip(rows, fit.weather, strict=True):
            shown = predicted(rig, profile, who, weather) or {}
            for point, value in shown.items():
                if point in row.mean and point not in WEATHER:
                    miss = row.mean[point] - value
                    cell = found.setdefault(
                        point, {"profile": 0.0, "profile_worst": 0.0, "fitted": 0.0, "fitted_worst": 0.0}
                    )
                    cell[when] += miss / len(rows)
                    cell[f"{when}_worst"] = max(cell[f"{when}_worst"], abs(miss))
    return found


def _notes(
    rows: Sequence[Stretch],
    individual: Individual,
    sigma: np.ndarray,
    fit: _Fit,
    square: float,
    doubted: tuple[str, ...],
) -> list[str]:
    notes = []
    for point in doubted:
        notes.append(
            f"{label_of(point)} does not fit the rest: it reads {_off(point, individual.offsets[point])}. It is left"
            " out of the fit; check its sensor."
        )
    if square > _NO_FIT and not doubted:
        notes.append(
            "No machine of this kind shows these readings together: a fault that went unnoticed, or more than one bad"
            " sensor. Look the rig over before it is used."
        )
    charge = individual.factors.get("charge", 1.0)
    at = fit.free.index("charge")
    if abs(math.log(charge)) > max(0.07, 2.0 * sigma[at]):
        way = "short of gas" if charge < 1.0 else "over its charge"
        notes.append(
            f"This rig looks some {abs(100.0 * (charge - 1.0)):.0f} % {way}: weigh it in before a term begins."
        )
    air = individual.factors.get("evaporator_air", 1.0)
    at = fit.free.index("evaporator_air")
    if math.log(air) < -max(0.14, 2.0 * sigma[at]):
        notes.append(
            f"It moves some {100.0 * (1.0 - air):.0f} % less indoor air than its plate: filter, coil, fan speed?"
        )
    outdoors = [row.mean["outdoor_db"] for row in rows if "outdoor_db" in row.mean]
    if len(rows) < 3 or (outdoors and max(outdoors) - min(outdoors) < 2.0):
        notes.append("All of it in much the same weather: another run on a warmer or colder day tells more.")
    return notes


def _off(point: str, value: float) -> str:
    """An offset in the words of a shop."""
    way = "high" if value > 0.0 else "low"
    kind = kind_of(point)
    if kind == "pressure":
        return f"{abs(value) / 6894.757:.0f} psi {way}"
    return f"{abs(value) * 1.8:.0f} °F {way}" if kind == "temperature" else f"{abs(value):.2f} {way}"
