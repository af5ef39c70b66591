"""One step of a running circuit through time: the steady equations with what the low side stores in the step.

An implicit step: a step that never ends is the steady balance, so whatever settles here settles where
:func:`wolfsbane.cycle.solver.solve` says.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.balance import EMPTY, FULL, HOLDS, NO_RECEIVER
from wolfsbane.cycle.newton import CONVERGED, newton
from wolfsbane.cycle.parts.compressor import shell_share
from wolfsbane.cycle.properties import RHO_F, RHO_G, T_BUBBLE, T_DEW, saturation_at

if TYPE_CHECKING:
    from wolfsbane.cycle.balance import Boundary, Figures
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import PropertyArrays, Refrigerant

#: shortest part of a step that is tried where the whole one finds no steady operating point, s
_SHORTEST_S = 0.05
#: and as a share of the step: an endless one is not gone in pieces
_CUT = 1e-4


#: steps up to this long follow a swing, s
_SWINGS_S = 2.0
#: where shell, motor and oil of a steady compressor stand on the way from suction to discharge gas (assumed)
SHELL_SHARE = 0.8
#: how much denser the gas is in the cylinder for each kelvin a shell is colder than it will be, 1/K: three tenths of
#: the way from suction gas to shell at 310 K (assumed)
_DENSER_PER_K = 0.3 / 310.0
#: how much more oil holds for each kelvin it is colder than it will be, and how much more at most (assumed)
OIL_MORE_PER_K, OIL_MOST = 0.02, 2.5
#: heat capacity of gas that warms a shell, J/(kg K), for where the shell will come to
_CP_GAS = 1000.0


@dataclass(frozen=True, kw_only=True)
class Stores:
    """What stores heat and refrigerant besides the low side, and how fast: compressor shell with its oil (s, J/K),
    refrigerant in the oil (s), metal of evaporator and condenser (s, J/K each).
    """

    shell_s: float
    shell_j_k: float
    oil_s: float
    evaporator_s: float
    evaporator_j_k: float
    condenser_s: float
    condenser_j_k: float


@dataclass(frozen=True, kw_only=True)
class Warmth:
    """How warm the heavy parts are, K: the compressor's shell and what it is on its way to, both coils' metal; and what
    the oil holds, kg.
    """

    shell_k: float
    shell_to_k: float
    oil_kg: float
    evaporator_k: float
    condenser_k: float


@dataclass(frozen=True, kw_only=True)
class Moving:
    """What a running circuit carries from step to step: ``x`` (ln Pe, ln Pc, h1), low side kg, bulb K,
    receiver mode, and how warm its heavy parts are (None: as warm as a steady machine's). ``on_the_way_k`` are the
    temperatures between the coil's outlet and the bulb, outlet first, one for each lag (None: as warm as the bulb).
    """

    x: tuple[float, ...]
    low_side_kg: float
    bulb_k: float
    mode: float
    warmth: Warmth | None = None
    on_the_way_k: tuple[float, ...] | None = None


#: lags of a bulb that is always as warm as the coil's outlet, s
AT_ONCE = (0.0,)


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
    lags_s: tuple[float, ...],
    stores: Stores | None = None,
) -> tuple[Moving, Figures]:
    """``moving`` after ``seconds`` with the charge, port flow and valves that ``circuit`` names, and with ``stores`` of
    heat and refrigerant (None: all of them are where a steady machine has them).

    ``boundary`` is that of a steady solve. Returns (Moving, :class:`~wolfsbane.cycle.balance.Figures`). The charge is
    met by every step, so mass is conserved whatever the step. Raises NoStepError.
    """
    done, part = 0.0, seconds
    while True:
        part = min(part, seconds - done)
        found = _one(circuit, fluid, boundary, h_sat, moving, part, lags_s, stores)
        if found is None:
            part *= 0.4
            if part < max(_SHORTEST_S, _CUT * seconds):
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
    lags_s: tuple[float, ...],
    stores: Stores | None,
) -> tuple[Moving, Figures] | None:
    tab = fluid.arrays
    # What the bulb comes to is a straight line over what the coil's outlet will be.
    kept_k = _sensed(moving, lags_s, seconds, 0.0)[-1]
    share = _sensed(moving, lags_s, seconds, 1.0)[-1] - kept_k
    for mode in _modes(circuit, moving.mode):
        now = boundary._replace(
            receiver=mode,
            low_side_kg=moving.low_side_kg,
            per_second=1.0 / seconds,
            bulb_k=kept_k / (1.0 - share) if share < 1.0 - 1e-9 else moving.bulb_k,
            bulb_share=share,
        )
        if stores is not None and moving.warmth is not None:
            now = _stored(now, stores, moving.warmth, seconds)
        x, figures, norm = newton(np.array(moving.x), circuit, fluid, now, h_sat)
        if norm < 20 * CONVERGED and _holds(mode, circuit, tab, x, figures):
            reached = Moving(
                x=tuple(x.tolist()),
                low_side_kg=figures.low_side_kg,
                bulb_k=figures.bulb_k,
                on_the_way_k=_sensed(moving, lags_s, seconds, figures.evaporator_outlet_k)[:-1],
                mode=mode,
                warmth=_warmed(circuit, tab, x, figures, now, stores, moving.warmth, seconds),
            )
            return reached, figures
    return None


def _sensed(moving: Moving, lags_s: tuple[float, ...], seconds: float, outlet_k: float) -> tuple[float, ...]:
    """The coil's outlet and what follows it through each lag, the bulb last, K, after a step that ends with the outlet
    at ``outlet_k``.

    In a short step each follows the mean of what it follows, so that a swing neither dies nor grows by the reckoning;
    in a long one its end.
    """
    before = moving.on_the_way_k
    if before is None or len(before) != len(lags_s):
        before = (moving.bulb_k,) * len(lags_s)
    were, part = (*before, moving.bulb_k), 0.5 if seconds <= _SWINGS_S else 1.0
    found = [outlet_k]
    for i, lag_s in enumerate(lags_s):
        follows = part * found[i] + (1.0 - part) * were[i]
        found.append(were[i + 1] + seconds / (lag_s + part * seconds) * (follows - were[i + 1]))
    return tuple(found)


def _stored(now: Boundary, stores: Stores, warmth: Warmth, seconds: float) -> Boundary:
    """The boundary of an implicit step with what the heavy parts give and take in it."""
    to_go = warmth.shell_to_k - warmth.shell_k
    left = to_go * stores.shell_s / (stores.shell_s + seconds)
    return now._replace(
        oil_kg=warmth.oil_kg,
        oil_share=seconds / (stores.oil_s + seconds),
        oil_more=min(max(1.0 + OIL_MORE_PER_K * left, 1.0), OIL_MOST),
        shell_w=stores.shell_j_k * to_go / (stores.shell_s + seconds),
        shell_denser=1.0 + _DENSER_PER_K * left,
        evaporator_w_k=stores.evaporator_j_k / (stores.evaporator_s + seconds),
        condenser_w_k=stores.condenser_j_k / (stores.condenser_s + seconds),
        evaporator_metal_k=warmth.evaporator_k,
        condenser_metal_k=warmth.condenser_k,
    )


def _warmed(
    circuit: Circuit,
    tab: PropertyArrays,
    x: np.ndarray,
    figures: Figures,
    now: Boundary,
    stores: Stores | None,
    before: Warmth | None,
    seconds: float,
) -> Warmth:
    """How warm the heavy parts are after a step; without stores as warm as a steady machine's."""
    flow_share = figures.mass_flow_kg_s / circuit.mass_flow_ref_kg_s
    exchange = shell_share(flow_share)
    discharge_k = figures.discharge_k + now.shell_w * exchange / (figures.mass_flow_kg_s * _CP_GAS)
    to_k = figures.suction_line_k + SHELL_SHARE * (discharge_k - figures.suction_line_k)
    evaporating_k, condensing_k = (
        float(saturation_at(tab, T_DEW, x[0])),
        float(saturation_at(tab, T_BUBBLE, x[1])),
    )
    if stores is None or before is None:
        return Warmth(
            shell_k=to_k,
            shell_to_k=to_k,
            oil_kg=figures.oil_kg,
            evaporator_k=evaporating_k,
            condenser_k=condensing_k,
        )

    def nearer(from_k: float, towards_k: float, time_s: float) -> float:
        return from_k + (towards_k - from_k) * seconds / (time_s + seconds)

    return Warmth(
        shell_k=nearer(before.shell_k, before.shell_to_k, stores.shell_s / exchange),
        shell_to_k=to_k,
        oil_kg=figures.oil_kg,
        evaporator_k=nearer(before.evaporator_k, evaporating_k, stores.evaporator_s),
        condenser_k=nearer(before.condenser_k, condensing_k, stores.condenser_s),
    )


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
        return liquid < 5e-3 + figures.flooded_share
    return mode != FULL or liquid > 1e-9
