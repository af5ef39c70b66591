"""One step of a running circuit through time: the steady equations with what the low side stores in the step.

An implicit step: a step that never ends is the steady balance, so whatever settles here settles where
:func:`wolfsbane.cycle.solver.solve` says.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.balance import EMPTY, FULL, HOLDS, NO_RECEIVER, figures_at
from wolfsbane.cycle.newton import CONVERGED, newton
from wolfsbane.cycle.properties import RHO_F, RHO_G, saturation_at

if TYPE_CHECKING:
    from wolfsbane.cycle.balance import Figures
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays, Refrigerant

#: shortest part of a step that is tried where the whole one finds no steady operating point, s
_SHORTEST_S = 0.05


@dataclass(frozen=True, kw_only=True)
class Moving:
    """What a running circuit carries from step to step: ``x`` (ln Pe, ln Pc, h1), low side kg, bulb K,
    receiver mode.
    """

    x: tuple[float, ...]
    low_side_kg: float
    bulb_k: float
    mode: float


class NoStepError(ArithmeticError):
    """No balance for a step: ``pinned`` is "high" at the top of the property table, "low" at its bottom, else ""."""

    def __init__(self, pinned: str) -> None:
        super().__init__(f"no balance for the step {pinned}")
        self.pinned = pinned


def step(
    circuit: Circuit,
    fluid: Refrigerant,
    boundary: Any,
    h_sat: np.ndarray,
    moving: Moving,
    seconds: float,
    bulb_time_s: float,
) -> tuple[Moving, Figures]:
    """``moving`` after ``seconds`` with the charge, port flow and valves that ``circuit`` names.

    ``boundary`` is that of a steady solve. Returns (Moving, :class:`~wolfsbane.cycle.balance.Figures`). The charge is
    met by every step, so mass is conserved whatever the step. Raises NoStepError.
    """
    done, part = 0.0, seconds
    while True:
        part = min(part, seconds - done)
        found = _one(circuit, fluid, boundary, h_sat, moving, part, bulb_time_s)
        if found is None:
            part *= 0.4
            if part < _SHORTEST_S:
                tab = fluid.arrays
                high, low = moving.x[1] > tab.ln_p_max - 0.05, moving.x[0] < tab.ln_p_min + 0.15
                raise NoStepError("high" if high else "low" if low else "")
            continue
        moving, figures = found
        done += part
        if done >= seconds - 1e-9:
            return moving, figures


def _one(
    circuit: Circuit,
    fluid: Refrigerant,
    boundary: Any,
    h_sat: np.ndarray,
    moving: Moving,
    seconds: float,
    bulb_time_s: float,
) -> tuple[Moving, Figures] | None:
    share = 1.0 if bulb_time_s <= 0.0 else seconds / (bulb_time_s + seconds)
    tab = fluid.arrays
    for mode in _modes(circuit, moving.mode):
        now = boundary._replace(
            receiver=mode,
            low_side_kg=moving.low_side_kg,
            per_second=1.0 / seconds,
            bulb_k=moving.bulb_k,
            bulb_share=share,
        )
        x, norm, _ = newton(np.array(moving.x), circuit, tab, now, h_sat, 25)
        figures = figures_at(x, circuit, tab, now, h_sat)
        if norm < 20 * CONVERGED and _holds(mode, circuit, tab, x, figures):
            reached = Moving(x=tuple(x.tolist()), low_side_kg=figures.low_side_kg, bulb_k=figures.bulb_k, mode=mode)
            return reached, figures
    return None


def _modes(circuit: Circuit, last: float) -> tuple[float, ...]:
    if circuit.receiver_volume_m3 <= 0.0:
        return (NO_RECEIVER,)
    return (last, *(m for m in (HOLDS, EMPTY, FULL) if m != last))


def _holds(mode: float, circuit: Circuit, tab: PropertyArrays, x: np.ndarray, figures: Figures) -> bool:
    """Whether the receiver can stand as ``mode`` says."""
    liquid = 1.0 - figures.condenser_gas_share - figures.condenser_two_phase_share
    if mode == HOLDS:
        held = figures.receiver_kg / circuit.receiver_volume_m3
        return saturation_at(tab, RHO_G, x[1]) <= held <= saturation_at(tab, RHO_F, x[1])
    if mode == EMPTY:
        return liquid < 5e-3
    return True
