"""What a tuned heat pump does in heating, as sentences for its report; defrost is left out, frost is named."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.heating import RATING_F, heating, heating_conditions, heats
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import W_PER_BTUH, f_to_k, k_to_c

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: outdoor air at which heating is told, degrees F
_TOLD_AT_F = (RATING_F[0], 30.0)


def heating_notes(machine: Machine) -> tuple[Any, ...]:
    """One sentence for each outdoor temperature told; nothing for a machine that only cools."""
    if not heats(machine):
        return ()
    return tuple(_sentence(machine, outdoor_f) for outdoor_f in _TOLD_AT_F)


def _sentence(machine: Machine, outdoor_f: Any) -> Any:
    where = f"In heating at {outdoor_f:.0f} °F ({k_to_c(f_to_k(outdoor_f)):.0f} °C) outdoors"
    try:
        state = solve(heating(machine), heating_conditions(outdoor_db_f=outdoor_f, return_db_f=RATING_F[1]))
    except NoConvergenceError:
        return f"{where} it finds no steady operating point."
    if state.trip is not None:
        return f"{where} it cuts out."
    frost = "; the outdoor coil frosts, and its defrost is left out" if state.frosting else ""
    heat_w = state.condenser_heat_w
    return f"{where} it gives {heat_w / W_PER_BTUH:,.0f} Btu/h ({heat_w / 1000.0:.1f} kW){frost}."
