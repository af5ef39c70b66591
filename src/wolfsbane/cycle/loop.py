"""The pressure-enthalpy picture: the dome of a refrigerant and the loop a solved circuit runs through it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.properties import H_F, H_G, refrigerant, saturation_at

if TYPE_CHECKING:
    from wolfsbane.cycle.state import CircuitState

#: corner of the loop -> (what it is called, reading that is taken there or None), in the order of ``CircuitState.path``
CORNERS = {
    "compressor_in": ("Suction line", "suction_line"),
    "discharge": ("Discharge line", "discharge_line"),
    "condenser_out": ("Condenser outlet", "condenser_outlet"),
    "liquid_line": ("Liquid line", "liquid_line"),
    "valve_in": ("Before the metering device", "drier_out"),
    "evaporator_in": ("Evaporator inlet", "evaporator_inlet"),
    "evaporator_out": ("Evaporator outlet", "evaporator_outlet"),
}
#: the dome is drawn this close to the critical point: the tables end there
_DOME_POINTS = 60


@dataclass(frozen=True, kw_only=True)
class Corner:
    """One corner of the loop: absolute ``pressure_pa``, ``enthalpy_j_kg`` (zero as in the tables),
    and the reading taken there.
    """

    id: str
    label: str
    reading: str | None
    pressure_pa: float
    enthalpy_j_kg: float


def corners(state: CircuitState) -> tuple[Corner, ...]:
    """The loop of a running :class:`CircuitState` as a tuple of :class:`Corner`; empty for one at rest or cut out."""
    if state.path is None or state.trip is not None or state.equalized:
        return ()
    return tuple(
        Corner(id=id_, label=label, reading=reading, pressure_pa=p, enthalpy_j_kg=h)
        for (id_, (label, reading)), (p, h) in zip(CORNERS.items(), state.path, strict=True)
    )


def dome(name: str) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """(bubble, dew) lines of a refrigerant's tables: two lists of (Pa absolute, J/kg) from low to high pressure.

    Raises BadInputError for an unknown refrigerant.
    """
    fluid = refrigerant(name)
    tab = fluid.arrays
    ln_ps = np.linspace(tab.ln_p_min, tab.ln_p_max, _DOME_POINTS)

    def line(row: int) -> list[tuple[float, float]]:
        return [(float(np.exp(ln_p)), float(saturation_at(tab, row, ln_p))) for ln_p in ln_ps]

    return line(H_F), line(H_G)
