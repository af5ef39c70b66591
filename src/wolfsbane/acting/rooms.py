"""The box or the house a machine keeps: temperature, moisture, and what stands in it, all answering to the machine.

Sizes follow from the plate (all assumed): a box whose machine runs two thirds of the time at its rating point, a
house whose machine carries its design load three quarters of the time. Two stores of heat, the air with its inner
surfaces and what stands in it; one of moisture. Stepped implicitly, so that any step is stable.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.units import f_to_k

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

_CP_AIR, _LATENT_J_KG = 1006.0, 2.45e6
#: air around a walk-in box, which stands inside a building: K, share of saturation
_AROUND_K, _AROUND_HUMIDITY = f_to_k(75.0), 0.50
#: humidity of outdoor air that gets into a house
_OUTDOOR_HUMIDITY = 0.40
#: share of the plate's capacity that a box or a house needs on the average at the rating point
_RUNS = {"walk_in_cooler": 0.62, "walk_in_freezer": 0.68, "reach_in": 0.5}
_HOUSE_RUNS, _WINTER_RUNS = 0.75, 0.8
#: of a box's load: walls, air that comes in at the door, and the rest lights, fans and people
_WALLS, _DOOR = 0.45, 0.33
#: for each watt of capacity: air and inner surfaces, product or furnishings (J/K), and what couples them (W/K)
_BOX_AIR, _BOX_MASS, _BOX_COUPLES = 60.0, 420.0, 0.05
_HOUSE_AIR, _HOUSE_MASS, _HOUSE_COUPLES = 200.0, 900.0, 0.14
#: surfaces and goods take up moisture with the air: so many times what the air alone holds
_DAMPS = 4.0
#: how often a door may be opened: words -> times the usual air that comes in
DOORS = {"closed": 0.15, "usual": 1.0, "busy": 3.0, "open": 12.0}


@dataclass(frozen=True, kw_only=True)
class Room:
    """A box or a house. Temperatures K, ``humidity_ratio`` kg/kg, stores J/K, conductances W/K, heat W, air kg/s.

    ``around_k`` is the air around it, None where that is the weather; ``door`` times the usual air comes in.
    """

    air_k: float
    mass_k: float
    humidity_ratio: float
    air_j_k: float
    mass_j_k: float
    couples_w_k: float
    walls_w_k: float
    comes_in_kg_s: float
    gains_w: float
    water_kg_s: float
    air_kg: float
    around_k: float | None = None
    around_humidity: float = _AROUND_HUMIDITY
    door: float = 1.0


def room_of(machine: Machine, conditions: Conditions, air_k: float) -> Room:
    """The :class:`Room` of a machine at ``air_k``, with the moisture that ``conditions`` name for it."""
    capacity = machine.plate.capacity_w
    if machine.refrigeration:
        load = _RUNS[machine.application] * capacity
        around_k = None if machine.application == "reach_in" else _AROUND_K
        outside_k = machine.rating[0] if around_k is None else around_k
        inside_k = machine.rating[1]
        pressure = conditions.barometer_pa
        outside = _enthalpy(outside_k, _ratio(outside_k, _AROUND_HUMIDITY, pressure))
        inside = _enthalpy(inside_k, conditions.return_air.humidity_ratio)
        return Room(
            air_k=air_k,
            mass_k=air_k,
            humidity_ratio=_held_ratio(air_k, conditions.return_air.humidity_ratio, pressure),
            air_j_k=_BOX_AIR * capacity,
            mass_j_k=_BOX_MASS * capacity,
            couples_w_k=_BOX_COUPLES * capacity,
            walls_w_k=_WALLS * load / (outside_k - inside_k),
            comes_in_kg_s=_DOOR * load / max(outside - inside, 1e3),
            gains_w=max((1.0 - _WALLS - _DOOR) * load - machine.circuit.blower_w, 0.0),
            water_kg_s=0.0,
            air_kg=0.008 * capacity,
            around_k=around_k,
        )
    heats = machine.in_heating
    inside_k, outside_k = (f_to_k(70.0), f_to_k(30.0)) if heats else (f_to_k(75.0), machine.rating[0])
    load = (_WINTER_RUNS * 0.75 if heats else _HOUSE_RUNS * 0.78) * capacity
    gains = 0.12 * capacity
    through = (load + (gains if heats else -gains)) / abs(outside_k - inside_k)
    comes_in = 0.3 * through / _CP_AIR
    return Room(
        air_k=air_k,
        mass_k=air_k,
        humidity_ratio=_ratio(air_k, 0.35, conditions.barometer_pa) if heats else conditions.return_air.humidity_ratio,
        air_j_k=_HOUSE_AIR * capacity,
        mass_j_k=_HOUSE_MASS * capacity,
        couples_w_k=_HOUSE_COUPLES * capacity,
        walls_w_k=0.7 * through,
        comes_in_kg_s=comes_in,
        gains_w=gains,
        water_kg_s=(0.02 if heats else 0.2 * _HOUSE_RUNS) * capacity / _LATENT_J_KG,
        air_kg=0.05 * capacity,
        around_humidity=_OUTDOOR_HUMIDITY,
    )


def room_after(
    room: Room, seconds: float, outdoor_k: float, barometer_pa: float, *, heat_w: float, water_kg_s: float
) -> Room:
    """The room ``seconds`` later with ``heat_w`` brought into its air (negative: taken out) and ``water_kg_s`` of
    vapor.
    """
    around_k = outdoor_k if room.around_k is None else room.around_k
    enters = room.comes_in_kg_s * room.door
    a, g = room.air_j_k / seconds, room.couples_w_k
    m = room.mass_j_k / seconds
    outside = room.walls_w_k + enters * _CP_AIR
    # Two equations for the two temperatures at the end of the step.
    held = m * g / (m + g)
    air_k = (a * room.air_k + outside * around_k + room.gains_w + heat_w + held * room.mass_k) / (a + outside + held)
    mass_k = (m * room.mass_k + g * air_k) / (m + g)
    around = _ratio(around_k, room.around_humidity, barometer_pa)
    stored = _DAMPS * room.air_kg / seconds
    ratio = (stored * room.humidity_ratio + enters * around + room.water_kg_s + water_kg_s) / (stored + enters)
    return replace(room, air_k=air_k, mass_k=mass_k, humidity_ratio=_held_ratio(air_k, ratio, barometer_pa))


def conditions_in(room: Room, conditions: Conditions, *, heats: bool) -> Conditions:
    """The conditions with the room as it now is: what the coil draws in, or in heating what the condenser does."""
    if heats:
        return replace(conditions, outdoor_k=room.air_k)
    wet_c = psychrolib.GetTWetBulbFromHumRatio(room.air_k - 273.15, room.humidity_ratio, conditions.barometer_pa)
    return replace(conditions, return_k=room.air_k, return_wet_bulb_k=min(wet_c + 273.15, room.air_k))


def humidity(room: Room, barometer_pa: float) -> float:
    """Relative humidity of the room's air, 0 to 1."""
    return min(max(psychrolib.GetRelHumFromHumRatio(room.air_k - 273.15, room.humidity_ratio, barometer_pa), 0.0), 1.0)


def _ratio(t_k: float, share: float, barometer_pa: float) -> float:
    return float(psychrolib.GetHumRatioFromRelHum(t_k - 273.15, share, barometer_pa))


def _held_ratio(t_k: float, ratio: float, barometer_pa: float) -> float:
    """Air holds no more than saturation, and never nothing."""
    most = float(psychrolib.GetSatHumRatio(t_k - 273.15, barometer_pa))
    return min(max(ratio, 1e-5), 0.999 * most) if math.isfinite(most) else ratio


def _enthalpy(t_k: float, ratio: float) -> float:
    return _CP_AIR * (t_k - 273.15) + ratio * (2.501e6 + 1860.0 * (t_k - 273.15))
