"""Where the search for a balance begins: the rated state moved with the weather, or guesses around what is usual."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.balance import HOLDS, NO_RECEIVER
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.newton import CONVERGED, search
from wolfsbane.cycle.properties import H_G, refrigerant
from wolfsbane.cycle.surroundings import saturated_air, surroundings_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine
    from wolfsbane.cycle.properties import Refrigerant
    from wolfsbane.cycle.surroundings import Surroundings

#: steps of the pseudo-transient a start is softened with where it leads nowhere
SOFTENING = 60
#: evaporator TD, CTOA (K) and superheat (J/kg) to try, for machines that cool rooms; boxes run on a third of the TD
_GUESSES = (
    (18.5, 10.0, 6e3),
    (22.0, 14.0, 1e3),
    (28.0, 6.0, 2e4),
    (14.0, 25.0, -1.5e4),
    (35.0, 4.0, 3e4),
    (16.0, 8.0, -5e3),
)


def receiver_mode(circuit: Circuit) -> float:
    """How the charge equation reads at first: a receiver is taken to hold liquid."""
    return HOLDS if circuit.receiver_volume_m3 > 0.0 else NO_RECEIVER


def _guess(
    fluid: Refrigerant, surroundings: Surroundings, td: float, ctoa: float, superheat: float
) -> tuple[float, float, float]:
    """(ln Pe, ln Pc, h1) at an evaporator TD and CTOA in K and a superheat in J/kg."""
    coil_k, entering_k = surroundings.coil_air.dry_bulb_k, surroundings.entering_k
    dew_low, dew_high, bubble_low, bubble_high = fluid.searched_k
    evaporating_k = min(max(coil_k - td, dew_low), dew_high)
    condensing_k = min(max(entering_k + ctoa, coil_k - td + 8.0, bubble_low), bubble_high)
    ln_pe = math.log(fluid.saturation_pa(evaporating_k, "dew"))
    ln_pc = math.log(fluid.saturation_pa(condensing_k, "bubble"))
    return ln_pe, ln_pc, fluid.saturated(H_G, ln_pe) + superheat


def spread(machine: Machine, fluid: Refrigerant, surroundings: Surroundings) -> np.ndarray:
    """Guesses (6, 3) spread around what is usual for the machine's kind."""
    scale = 1.0 if machine.comfort else 0.35
    return np.array([_guess(fluid, surroundings, td * scale, ctoa, superheat) for td, ctoa, superheat in _GUESSES])


def first_start(
    machine: Machine,
    refrigerant_name: str,
    fluid: Refrigerant,
    surroundings: Surroundings,
    start: tuple[float, ...] | None,
) -> np.ndarray | None:
    """The likeliest guess (1, 3): the given one, or the rated state moved with the weather, for a machine with
    ``refrigerant_name`` in it.

    None where there is neither.
    """
    if start is not None:
        return np.array([start])
    rated = _rated(machine) if refrigerant_name == machine.refrigerant else None
    return None if rated is None else np.array([_guess(fluid, surroundings, *rated)])


@lru_cache(maxsize=256)
def _rated(machine: Machine) -> tuple[float, float, float] | None:
    """(TD, CTOA, superheat J/kg) of the machine at its rating point, or None when it has no balance there."""
    fluid = refrigerant(machine.refrigerant)
    circuit = machine.circuit
    conditions = rating_conditions(machine)
    surroundings = surroundings_of(circuit, conditions)
    boundary = surroundings.boundary(conditions, receiver_mode(circuit))
    starts = spread(machine, fluid, surroundings)
    x, _, norm, _, _ = search(starts, circuit, fluid, boundary, saturated_air(conditions), SOFTENING)
    if norm >= CONVERGED:
        return None
    return (
        surroundings.coil_air.dry_bulb_k - fluid.saturation_k(math.exp(x[0]), "dew"),
        fluid.saturation_k(math.exp(x[1]), "bubble") - surroundings.entering_k,
        x[2] - fluid.saturated(H_G, x[0]),
    )
