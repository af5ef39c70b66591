"""A heat pump in heating: the coils change places, the refrigerant goes the other way. Defrost is left out; frost is
named.

The indoor coil condenses and the outdoor coil boils. Both keep their air side; what their tubes do inside is taken from
the coil that did the same in cooling, by the ratio of their air sides (assumed). An accumulator or compensator keeps
what the smaller condenser has no room for, so that the plate's subcooling is met at the rating point (assumed).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError, require_range
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine

#: hold-up factor that the indoor coil's volume carries as an evaporator (docs/model.md)
_HOLD_UP = 2.2
#: humidity of winter air at the outdoor coil (AHRI 210/240 heating test H1, 47 degF dry and 43 degF wet bulb, from
#: memory)
_WINTER_HUMIDITY = 0.72
#: rating point of heating: outdoor dry bulb, indoor dry bulb, degrees F (the same test)
RATING_F = (47.0, 70.0)
#: the line's surroundings are so much colder than in cooling, K (assumed)
_COLDER_K = 17.0
#: subcooling charged to where the plate gives none, and how far the valve stands open at the rating point, K and share
_SUBCOOLING_K, _OPENING = 6.0, 0.75


def heats(machine: Machine) -> bool:
    """True for machines that can be solved in heating."""
    return machine.application == "heat_pump_cooling"


def heating_conditions(
    *, outdoor_db_f: Any, return_db_f: Any, return_wb_f: Any = None, altitude_ft: float = 0.0
) -> Conditions:
    """:class:`Conditions` as the exchanged circuit meets them: ``outdoor_k`` is the room's air, ``return_k`` the
    outdoor air.

    Outdoor 0 to 65 F, return 55 to 85 F; the return's wet bulb makes no difference to a dry coil and is only checked.
    Raises BadInputError.
    """
    outdoor_db_f = require_range("outdoor_db_f", outdoor_db_f, 0, 65, "°F in heating")
    return_db_f = require_range("return_db_f", return_db_f, 55, 85, "°F in heating")
    if return_wb_f is not None:
        require_range("return_wb_f", return_wb_f, 35, return_db_f, "°F")
    barometer_pa = barometer_at_altitude_pa(require_range("altitude_ft", altitude_ft, -500, 10_000, "ft") * M_PER_FT)
    outdoor_k = f_to_k(outdoor_db_f)
    wet_k = psychrolib.GetTWetBulbFromRelHum(outdoor_k - 273.15, _WINTER_HUMIDITY, barometer_pa) + 273.15
    return Conditions(
        outdoor_k=f_to_k(return_db_f), return_k=outdoor_k, return_wet_bulb_k=wet_k, barometer_pa=barometer_pa
    )


@lru_cache(maxsize=64)
def heating(machine: Machine) -> Machine:
    """The machine with its coils exchanged, charged and metered for heating.

    Raises BadInputError where it cannot heat.
    """
    if not heats(machine):
        raise BadInputError("heating", machine.id, "a heat pump")
    exchanged = replace(machine, application="heat_pump_heating", circuit=_exchanged(machine.circuit))
    weather = heating_conditions(outdoor_db_f=RATING_F[0], return_db_f=RATING_F[1])
    wanted = machine.plate.target_subcooling_dk or _SUBCOOLING_K
    sized = exchanged
    for _ in range(4):
        sized = _turned(sized, weather, "expansion_area_m2", lambda s: s.valve_opening - _OPENING, (0.4, 2.0))
        sized = _turned(sized, weather, "charge_kg", lambda s: s.subcooling_dk - wanted, (0.4, 1.4))
    return sized


def _turned(
    machine: Machine, weather: Conditions, field: str, miss: Callable[..., Any], span: tuple[float, ...]
) -> Machine:
    """The machine with one field of its circuit multiplied so that ``miss(state)`` is nought."""
    from scipy.optimize import brentq  # takes a third of a second to import, and few processes heat

    def at(factor: Any) -> Any:
        changed = machine.circuit._replace(**{field: getattr(machine.circuit, field) * factor})
        try:
            return miss(solve(replace(machine, circuit=changed), weather))
        except NoConvergenceError:
            return -1.0 if factor < 1.0 else 1.0

    low, high = at(span[0]), at(span[1])
    if low * high > 0.0:
        return machine
    factor = brentq(at, *span, xtol=1e-4)
    return replace(machine, circuit=machine.circuit._replace(**{field: getattr(machine.circuit, field) * factor}))


def _exchanged(c: Circuit) -> Circuit:
    indoor_share = c.evaporator_ua_air_w_k / c.condenser_ua_air_w_k
    return c._replace(
        condenser_air_kg_s=c.evaporator_air_kg_s,
        condenser_air_fraction=c.evaporator_air_fraction,
        condenser_ua_air_w_k=c.evaporator_ua_air_w_k,
        condenser_ua_two_phase_w_k=c.evaporator_ua_two_phase_w_k,
        condenser_ua_gas_w_k=c.evaporator_ua_gas_w_k,
        condenser_ua_liquid_w_k=c.condenser_ua_liquid_w_k * indoor_share,
        condenser_volume_m3=c.evaporator_volume_m3 / _HOLD_UP,
        evaporator_air_kg_s=c.condenser_air_kg_s,
        evaporator_air_fraction=c.condenser_air_fraction,
        evaporator_ua_air_w_k=c.condenser_ua_air_w_k,
        evaporator_ua_two_phase_w_k=c.condenser_ua_two_phase_w_k,
        evaporator_ua_gas_w_k=c.condenser_ua_gas_w_k,
        evaporator_volume_m3=c.condenser_volume_m3 * _HOLD_UP,
        blower_w=0.0,
        suction_line_ambient_k=c.suction_line_ambient_k - _COLDER_K,
    )
