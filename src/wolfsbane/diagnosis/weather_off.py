"""Printed air that is a little off: in whole conditions, and in compiled code as what a ground meets then."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.balance import Boundary
from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.moist import enthalpy_of, ratio_of_wet_bulb

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.diagnosis.short_way import Ground, Parts

#: how far printed air may be off: outdoor (or water going in), return, its wet bulb, degrees F (common practice, no
#: source)
WEATHER_OFF_F = (2.0, 1.5, 1.5)
_OFF_K = np.array(WEATHER_OFF_F) / 1.8
_ENTERING, _COIL_AIR, _COIL_AIR_J_KG, _OUTDOOR = (
    Boundary._fields.index(name) for name in ("entering_k", "coil_air_k", "coil_air_j_kg", "outdoor_k")
)
#: figures of a circuit that make other air of what a machine is met in
_OTHER_AIR = tuple(
    Circuit._fields.index(name)
    for name in ("condenser_wet_share", "return_offset_k", "return_dry_offset_k", "outdoor_air_share")
)


def moved_weather(c: Conditions, moved: np.ndarray) -> Conditions:
    """Conditions with the air (or the water) off by shares (3,) of :data:`WEATHER_OFF_F`."""
    off = [float(m) * most / 1.8 for m, most in zip(moved, WEATHER_OFF_F, strict=True)]
    dry = c.return_k + off[1]
    found = replace(c, return_k=dry, return_wet_bulb_k=min(c.return_wet_bulb_k + off[2], dry))
    if c.water_in_k:
        return replace(found, water_in_k=c.water_in_k + off[0])
    return replace(found, outdoor_k=c.outdoor_k + off[0])


def air_of(ground: Ground) -> np.ndarray | None:
    """Return air, its wet bulb and the water going in (zero where there is none), K, (3,); None where the machine
    meets other air than it is met in.
    """
    if ground.unusual or any(ground.machine.circuit[i] for i in _OTHER_AIR):
        return None
    c = ground.conditions
    return np.array((c.return_k, c.return_wet_bulb_k, c.water_in_k or 0.0))


@njit(cache=True, error_model="numpy")
def in_air_off(ground: Parts, air: np.ndarray, moved: np.ndarray) -> Parts:
    """The ground with its ``air`` (3,), as :func:`air_of` has it, off by shares ``moved`` (3,) of
    :data:`WEATHER_OFF_F`.
    """
    base, circuit, circuits, met, boundary, boundaries, _, tables, own_tables, h_sat, facts_of = ground
    there, facts = met.copy(), facts_of.copy()
    dry_k = air[0] + moved[1] * _OFF_K[1]
    wet_k = min(air[1] + moved[2] * _OFF_K[2], dry_k)
    humidity = ratio_of_wet_bulb(dry_k - 273.15, wet_k - 273.15, facts[0].barometer_pa)
    there[_COIL_AIR], there[_COIL_AIR_J_KG] = dry_k, enthalpy_of(dry_k - 273.15, humidity)
    there[_ENTERING] += moved[0] * _OFF_K[0]
    if air[2] == 0.0:
        there[_OUTDOOR] += moved[0] * _OFF_K[0]
        facts[0].outdoor_k = there[_OUTDOOR]
    return base, circuit, circuits, there, boundary, boundaries, humidity, tables, own_tables, h_sat, facts
