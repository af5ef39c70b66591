"""Finding the balance: damped Newton, a Levenberg fallback and pseudo-transient starts. Compiled."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.balance import Figures, figures_at, residuals, trial
from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.elimination import eliminated
from wolfsbane.cycle.packed import packed

if TYPE_CHECKING:
    from wolfsbane.cycle.balance import Boundary
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays, Refrigerant

CONVERGED = 1e-7
_SCALE = np.array([1.0, 1.0, 5e4])
_STEP_CAP = 0.35
#: a step that leaves less than this share of the miss carries the slopes on; after a slower one they are taken anew
_QUICK = 0.2
#: so many searches that end at the table's highest pressure, and the balance lies beyond it
_PINNED = 4
#: starts that are tried again after a pseudo-transient
_SOFTENED = 3
#: Newton steps from one start at most; and numbers that a search hands back, x and all figures
_STEPS, _FOUND = 25, 3 + len(Figures._fields)


@njit(cache=True, error_model="numpy")
def _norm(r: np.ndarray) -> float:
    worst = 0.0
    for v in r:
        if not np.isfinite(v):
            return 1e9
        worst = max(worst, abs(v))
    return worst


@njit(cache=True, error_model="numpy")
def _clamp(x: np.ndarray, tab: PropertyArrays) -> None:
    x[0] = min(max(x[0], tab.ln_p_min + 0.05), tab.ln_p_max - 0.3)
    x[1] = min(max(x[1], x[0] + 0.02), tab.ln_p_max - 1e-4)


@njit(cache=True, error_model="numpy")
def _damped_step(jac: np.ndarray, r: np.ndarray, damping: float) -> np.ndarray:
    """Levenberg step -(J'J + damping)^-1 J'r for three unknowns."""
    a = np.empty((3, 4))
    for i in range(3):
        for j in range(3):
            a[i, j] = jac[0, i] * jac[0, j] + jac[1, i] * jac[1, j] + jac[2, i] * jac[2, j]
        a[i, i] += damping * (a[i, i] + 1e-6) + 1e-14
        a[i, 3] = -(jac[0, i] * r[0] + jac[1, i] * r[1] + jac[2, i] * r[2])
    return eliminated(a)


@njit(cache=True, error_model="numpy")
def _miss(x: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray, r: np.ndarray) -> None:
    """Fill ``r`` (3,) with the residuals at ``x``."""
    residuals(trial(x, c, tab, b, h_sat), c, b, r)


@njit(cache=True, error_model="numpy")
def _update(jac: np.ndarray, step: np.ndarray, r: np.ndarray, before: np.ndarray) -> None:
    """Carry the slopes (3, 3) on by what a step (3,) showed, without solving for them again (Broyden, 1965)."""
    length = step[0] * step[0] + step[1] * step[1] + step[2] * step[2]
    for i in range(3):
        told = jac[i, 0] * step[0] + jac[i, 1] * step[1] + jac[i, 2] * step[2]
        off = (r[i] - before[i] - told) / length
        for k in range(3):
            jac[i, k] += off * step[k]


@njit(cache=True, error_model="numpy")
def _newton(
    x0: np.ndarray, jac: np.ndarray, known: bool, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray
) -> tuple[np.ndarray, float, int]:
    """Return (x, residual norm, evaluations) from start ``x0`` (3,), against the boundary ``b``. ``jac`` (3, 3) are the
    slopes at a neighbor where they are ``known``; those at the end are left in it.
    """
    x = x0.copy()
    _clamp(x, tab)
    r, trial_r = np.empty(3), np.empty(3)
    _miss(x, c, tab, b, h_sat, r)
    best = _norm(r)
    count, damping, fresh = 1, 0.0, known
    for _ in range(_STEPS):
        if best < CONVERGED:
            break
        if not fresh:
            for k in range(3):
                y = x.copy()
                step = 2e-6 * _SCALE[k]
                y[k] += step
                _miss(y, c, tab, b, h_sat, trial_r)
                jac[:, k] = (trial_r - r) / 2e-6
            count += 3
        moved, updated = False, fresh
        fresh = False
        for _ in range(8):
            step_v = _damped_step(jac, r, damping)
            largest = np.max(np.abs(step_v))
            if not np.isfinite(largest):
                break
            y = x + step_v * _SCALE * min(1.0, _STEP_CAP / max(largest, 1e-12))
            _clamp(y, tab)
            _miss(y, c, tab, b, h_sat, trial_r)
            count += 1
            now = _norm(trial_r)
            if np.sum(trial_r**2) < np.sum(r**2) or now < CONVERGED:
                fresh = now < _QUICK * best and damping == 0.0
                if fresh:
                    _update(jac, (y - x) / _SCALE, trial_r, r)
                x, best, moved = y, now, True
                r[:] = trial_r
                damping = damping * 0.1 if damping > 1e-6 else 0.0
                break
            if updated:  # the slopes were only carried on: take them anew before the step is called too long
                moved = True
                break
            damping = max(damping * 6.0, 1e-4)
        if not moved:
            break
    return x, best, count


@njit(cache=True, error_model="numpy")
def from_one_start(
    x: np.ndarray, jac: np.ndarray, known: bool, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray
) -> float:
    """The residual norm that a search from ``x`` (3,) ends with, with slopes ``jac`` (3, 3) where they are ``known``;
    both are left where it ends.
    """
    found, norm, _ = _newton(x, jac, known, c, tab, b, h_sat)
    x[:] = found
    return norm


@njit(cache=True, error_model="numpy")
def pseudo_transient(
    x0: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray, steps: int
) -> np.ndarray:
    """Let the guess drift as the machine would: flow moves Pe, charge moves Pc, the coil moves h1."""
    x = x0.copy()
    r = np.empty(3)
    for _ in range(steps):
        _clamp(x, tab)
        _miss(x, c, tab, b, h_sat, r)
        for k in range(3):
            if not np.isfinite(r[k]):
                r[k] = 0.1
        x[0] += min(max(0.15 * r[0], -0.1), 0.1)
        x[1] += min(max(-0.12 * r[1], -0.1), 0.1)
        x[2] += min(max(9e3 * r[2], -5e3), 5e3)
    _clamp(x, tab)
    return x


@njit(cache=True, error_model="numpy")
def _search(
    starts: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray, softening: int
) -> tuple[np.ndarray, float, int, int]:
    """(x, norm, attempts, evaluations) of :func:`search`."""
    best_x, best_norm = starts[0].copy(), 1e9
    attempts, evals, pinned = 0, 0, 0
    for soften in (0, softening):
        if attempts > 0 and soften == 0:
            break
        for k in range(starts.shape[0] if soften == 0 else min(starts.shape[0], _SOFTENED)):
            x0 = starts[k].copy()
            if soften:
                x0 = pseudo_transient(x0, c, tab, b, h_sat, soften)
            x, norm, count = _newton(x0, np.empty((3, 3)), False, c, tab, b, h_sat)
            attempts += 1
            evals += count + soften
            if norm < best_norm:
                best_x, best_norm = x, norm
            if best_norm < CONVERGED:
                return best_x, best_norm, attempts, evals
            pinned += x[1] >= tab.ln_p_max - 2e-3
            if pinned >= _PINNED:
                return x, norm, attempts, evals
    return best_x, best_norm, attempts, evals


@njit(cache=True, error_model="numpy")
def _fill(found: np.ndarray, x: np.ndarray, c: Circuit, tab: PropertyArrays, b: Boundary, h_sat: np.ndarray) -> None:
    """Fill ``found`` with ``x`` (3,) and the figures there."""
    at_x = figures_at(x, c, tab, b, h_sat)
    for i in range(3):
        found[i] = x[i]
    for i in range(len(at_x)):
        found[3 + i] = at_x[i]


@njit(cache=True, error_model="numpy")
def _searched(
    starts: np.ndarray,
    circuits: np.ndarray,
    tables: np.ndarray,
    boundaries: np.ndarray,
    h_sat: np.ndarray,
    softening: int,
    found: np.ndarray,
) -> tuple[float, int, int]:
    c, tab, b = circuits[0], tables[0], boundaries[0]
    x, norm, attempts, evals = _search(starts, c, tab, b, h_sat, softening)
    _fill(found, x, c, tab, b, h_sat)
    return norm, attempts, evals


@njit(cache=True, error_model="numpy")
def _settled(
    x0: np.ndarray,
    circuits: np.ndarray,
    tables: np.ndarray,
    boundaries: np.ndarray,
    h_sat: np.ndarray,
    found: np.ndarray,
) -> float:
    c, tab, b = circuits[0], tables[0], boundaries[0]
    x, norm, _ = _newton(x0, np.empty((3, 3)), False, c, tab, b, h_sat)
    _fill(found, x, c, tab, b, h_sat)
    return norm


def search(
    starts: np.ndarray, circuit: Circuit, fluid: Refrigerant, boundary: Boundary, h_sat: np.ndarray, softening: int
) -> tuple[np.ndarray, Figures, float, int, int]:
    """Try each start (n, 3) directly, then after a pseudo-transient of ``softening`` steps where that is above 0.

    Returns (x, figures, norm, attempts, evaluations).
    """
    found = np.empty(_FOUND)
    norm, attempts, evals = _searched(starts, packed(circuit), fluid.packed, packed(boundary), h_sat, softening, found)
    return found[:3], Figures._make(found[3:].tolist()), norm, attempts, evals


def newton(
    x0: np.ndarray, circuit: Circuit, fluid: Refrigerant, boundary: Boundary, h_sat: np.ndarray
) -> tuple[np.ndarray, Figures, float]:
    """(x, figures, residual norm) from one start ``x0`` (3,)."""
    found = np.empty(_FOUND)
    norm = _settled(x0, packed(circuit), fluid.packed, packed(boundary), h_sat, found)
    return found[:3], Figures._make(found[3:].tolist()), norm
