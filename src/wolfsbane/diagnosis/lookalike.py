"""Look-alikes: could these readings have come from the sound machine, or from another fault?

Distances are in instrument tolerances: 1 means the worst-placed reading differs by just its tolerance.
"""

from dataclasses import dataclass

import numpy as np

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault
from wolfsbane.cycle.instruments import POINTS, tool_for
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import k_to_f, to_display
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.targets import FIGURES, HIGH, RIGHT, bands

#: readings compared; the weather is the same by construction
COMPARED = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "drier_out", "discharge_line",
            "supply_db")
_SEVERITY_STEPS = 7
_BETWEEN = 6


@dataclass(frozen=True, kw_only=True)
class LookAlike:
    """The nearest severity of one other fault (or ``none``) and its distance in tolerances."""

    fault: str
    severity: float | None
    distance: float


def vector(state):
    """Unrounded readings and figures of a state in US units, (len(COMPARED) + len(FIGURES) + 1,)."""
    values = {"supply_db": k_to_f(state.supply_air.dry_bulb_k)}
    for key in COMPARED:
        attribute = POINTS[key][1]
        if attribute:
            kind = "pressure" if key.endswith("pressure") else "temperature"
            values[key] = to_display(kind, getattr(state, attribute), "us", state.barometer_pa)
    figures = [getattr(state, f"{name}_dk") * 1.8 for name in FIGURES]
    return np.array([values[key] for key in COMPARED] + figures + [state.drier_drop_dk * 1.8])


def tolerances(kit):
    """Reading tolerances in US units for COMPARED, as an array."""
    return np.array([tool_for(key, kit).tolerance_us for key in COMPARED])


def severities(kind, steps=_SEVERITY_STEPS):
    """Severities of a family from just beyond sound to its limit, denser near sound."""
    depth = (np.arange(1, steps + 1) / steps) ** 1.5
    return [float(kind.sound + (kind.limit - kind.sound) * d) for d in depth]


def _curve(machine, conditions, kind):
    """(severities (n,), vectors (n, k)) of one family, with straight lines between solved severities."""
    points, vectors, start = [], [], None
    for severity in severities(kind):
        try:
            state = solve(machine, conditions, (Fault(id=kind.id, severity=severity),), start=start)
            start = state.solution
        except NoConvergenceError:
            break
        if state.trip is not None:
            break
        points.append(severity)
        vectors.append(vector(state))
    if len(points) < 2:
        return np.array(points), np.array(vectors)
    at = np.linspace(0, len(points) - 1, (len(points) - 1) * _BETWEEN + 1)
    grid = np.array(vectors)
    fine = np.column_stack([np.interp(at, np.arange(len(points)), grid[:, j]) for j in range(grid.shape[1])])
    return np.interp(at, np.arange(len(points)), points), fine


@dataclass(frozen=True, kw_only=True)
class Surroundings:
    """Every single fault and the sound machine, solved in one weather: what a set of readings is judged against."""

    machine: object
    conditions: object
    sound: object
    sound_vector: np.ndarray
    curves: dict


def surroundings(machine, conditions, fault_id=NONE):
    """Solve the sound machine and every family that ``fault_id`` is weighed against over its severities (some 50 solves)."""
    sound = solve(machine, conditions)
    return Surroundings(
        machine=machine, conditions=conditions, sound=sound, sound_vector=vector(sound),
        curves={kind.id: _curve(machine, conditions, kind) for kind in candidates(machine, fault_id)})


def nearest(state, around, fault_id, kit):
    """Distance from ``state`` to the sound machine and to every other family, nearest first (list of LookAlike)."""
    here, tolerance, n = vector(state), tolerances(kit), len(COMPARED)
    found = []
    if fault_id != NONE:
        found.append(LookAlike(fault=NONE, severity=None, distance=_worst(around.sound_vector, here, tolerance, n)))
    for other, (points, vectors) in around.curves.items():
        if other == fault_id or len(points) == 0:
            continue
        distances = np.max(np.abs(vectors[:, :n] - here[:n]) / tolerance, axis=1)
        best = int(np.argmin(distances))
        found.append(LookAlike(fault=other, severity=round(float(points[best]), 1), distance=float(distances[best])))
    return sorted(found, key=lambda item: item.distance)


def _worst(a, b, tolerance, n):
    return float(np.max(np.abs(a[:n] - b[:n]) / tolerance))


def bands_us(machine, conditions, practice):
    """Target bands in degrees F for a machine in a weather."""
    return bands(machine, practice, "us", k_to_f(conditions.outdoor_k), k_to_f(conditions.return_wet_bulb_k))


def pattern_of(row, targets, practice):
    """The verdicts of one vector: four figures low / right / high, and whether the drier drop is high."""
    n = len(COMPARED)
    verdicts = [targets[name].verdict(row[n + i]) if name in targets else RIGHT for i, name in enumerate(FIGURES)]
    return (*verdicts, HIGH if row[-1] > practice.drier_limit_df else RIGHT)


def patterns(around, practice):
    """Every verdict pattern each family shows in this weather: dict fault -> sorted list of 5-tuples."""
    targets = bands_us(around.machine, around.conditions, practice)
    found = {NONE: [pattern_of(around.sound_vector, targets, practice)]}
    for fault_id, (_, vectors) in around.curves.items():
        found[fault_id] = sorted({pattern_of(row, targets, practice) for row in vectors})
    return found
