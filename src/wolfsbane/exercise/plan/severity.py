"""A severity in the system of units that is shown. Stored and typed it stays in the family's own unit."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.units import M_PER_FT, PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault

#: unit of a family -> (SI unit, SI units in one of it, decimals shown)
_IN_SI = {"psi": ("kPa", PA_PER_PSI / 1000.0, 0), "°F": ("K", 1 / 1.8, 1), "ft": ("m", M_PER_FT, 0)}


def si_of(unit: str) -> tuple[str, float]:
    """(SI unit, SI units in one) of a family's unit; shares and ratios are the same in both."""
    name, size, _ = _IN_SI.get(unit, (unit, 1.0, 1))
    return name, size


def shown(unit: str, severity: float, system: str) -> tuple[float, str]:
    """(value, unit) of a severity given in a family's ``unit``, in ``system``."""
    if system == "us" or unit not in _IN_SI:
        return severity, unit
    name, size, decimals = _IN_SI[unit]
    return round(severity * size, decimals) + 0.0, name


def severity_text(fault: Fault, system: str = "us") -> str:
    """ "60 %" or "160 psi" of a planted :class:`Fault`, of the machine or of an instrument."""
    value, unit = shown((FAULTS.get(fault.id) or INSTRUMENT_FAULTS[fault.id]).unit, fault.severity, system)
    return f"{value:g} {unit}"
