"""Sentences about what happened, in either unit system."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.units import PA_PER_PSI, SYSTEMS, to_display

if TYPE_CHECKING:
    from wolfsbane.cycle.state import Trip

CUTOUTS = {
    "high_pressure": "the high-pressure cutout",
    "low_pressure": "the low-pressure cutout",
    "discharge_temperature": "the discharge thermostat",
    "overload": "the compressor's overload",
}


def tripped_after(trip: Trip | None) -> str:
    """ "It trips on the high-pressure cutout after 40 s."."""
    if trip is None:
        return "It does not run."
    when = f" after {round(trip.after_s)} s" if 0.0 < trip.after_s < 1800.0 else ""
    return f"It trips on {CUTOUTS[trip.cutout]}{when}."


def weight(kg: float, system: str = "us") -> str:
    """A weight as text: ounces or grams."""
    decimals = 1 if system == "us" else 0
    return f"{to_display('mass', kg, system) + 0.0:.{decimals}f} {SYSTEMS[system]['mass'][0]}"


def pressure(pascal: float, system: str = "us") -> str:
    """A pressure difference, or a gauge pressure, as text."""
    return (
        f"{pascal / (PA_PER_PSI if system == 'us' else 1000.0) + 0.0:.0f} {'psi' if system == 'us' else 'kPa'}".replace(
            "-", "−"
        )
    )
