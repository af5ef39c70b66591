"""A heat pump in heating seen as in cooling: indoor coil where the evaporator stands, outdoor coil as the condenser."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit

#: what both coils have, by the ends of the fields' names
_BOTH = ("air_kg_s", "air_fraction", "ua_air_w_k", "ua_two_phase_w_k", "ua_gas_w_k")
#: hold-up factor that a coil's volume carries where it evaporates (docs/model.md)
_HOLD_UP = 2.2
#: a dry coil's fins carry so much more than a wet one's, for which the air side of the indoor coil stands (assumed)
_DRY = 1.4
#: and its tubes, all of them fed alike, so much more where they condense than where they evaporate (assumed)
_CONDENSING = 1.6


def as_in_cooling(c: Circuit) -> Circuit:
    """A circuit in heating with its coils where they stand in cooling, so that a fault finds the coil it is about."""
    return exchanged(c)._replace(
        condenser_entering_offset_k=-c.return_offset_k, return_offset_k=-c.condenser_entering_offset_k
    )


def as_in_heating(c: Circuit) -> Circuit:
    """The way back. Outdoor air that comes around again is colder in heating, and a house that loads the machine is
    colder than it should be.
    """
    return exchanged(c)._replace(
        condenser_entering_offset_k=-c.return_offset_k - c.return_dry_offset_k,
        return_offset_k=-c.condenser_entering_offset_k,
        return_dry_offset_k=0.0,
    )


def exchanged(c: Circuit) -> Circuit:
    """The circuit with its coils in each other's place: air side, tube side and volume go along (assumed)."""
    return c._replace(
        condenser_volume_m3=c.evaporator_volume_m3 / _HOLD_UP,
        evaporator_volume_m3=c.condenser_volume_m3 * _HOLD_UP,
        **{f"condenser_{name}": getattr(c, f"evaporator_{name}") for name in _BOTH},
        **{f"evaporator_{name}": getattr(c, f"condenser_{name}") for name in _BOTH},
    )


def in_heating(c: Circuit) -> Circuit:
    """The circuit of a heat pump in cooling, turned to heating: the indoor coil condenses, dry, and the suction line
    lies outdoors.
    """
    return exchanged(c)._replace(
        condenser_ua_air_w_k=c.evaporator_ua_air_w_k * _DRY,
        condenser_ua_two_phase_w_k=c.evaporator_ua_two_phase_w_k * _CONDENSING,
        condenser_ua_liquid_w_k=c.condenser_ua_liquid_w_k * c.evaporator_ua_air_w_k / c.condenser_ua_air_w_k,
        blower_w=0.0,
        condenser_blower_w=c.blower_w,
        suction_line_outdoors=1.0,
    )
