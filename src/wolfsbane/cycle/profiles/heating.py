"""Heat pumps in heating: each is a profile in cooling, turned round and metered for the cold."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle import coils
from wolfsbane.cycle.machine import Expectations
from wolfsbane.cycle.profiles.comfort import COMFORT
from wolfsbane.cycle.profiles.tuned import METERED
from wolfsbane.cycle.units import f_to_k

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: house dry bulb, outdoor dry bulb, outdoor wet bulb of the rating point (AHRI 210/240 heating test H1, from memory);
#: in the places of outdoor air and return air, because the coils have changed theirs
_RATING = (f_to_k(70.0), f_to_k(47.0), f_to_k(43.0), None)
#: what a good one shows at the rating point, and how that follows the outdoor air (as solved; assumed)
_EXPECTED = Expectations(
    evaporator_td_dk=(11.0 / 1.8, 16.0 / 1.8),
    ctoa_dk=(36.0 / 1.8, 44.0 / 1.8),
    total_superheat_dk=(5.0 / 1.8, 17.0 / 1.8),
    evaporator_td_slope=0.11,
    ctoa_slope=0.385,
)


def _turned(cooling: Machine, id_: str, name: str) -> Machine:
    """The machine in heating, with what ``wolfsbane.cycle.heating.metered`` found for it."""
    found = dict(METERED[id_])
    return replace(
        cooling,
        id=id_,
        name=name,
        application="heat_pump_heating",
        rating=_RATING,
        expectations=_EXPECTED,
        plate=replace(cooling.plate, low_cutout_gauge_pa=found.pop("low_cutout_gauge_pa")),
        circuit=coils.in_heating(cooling.circuit)._replace(**found),
        notes=(
            "Reversing valve in heating: the indoor coil condenses, the outdoor coil evaporates. A compensator takes"
            " the liquid the smaller condenser has no room for."
        ),
    )


#: id in cooling -> id in heating
HEATING_OF = {"heatpump-3t-r410a-txv": "heatpump-3t-r410a-heating"}
_NAMES = {"heatpump-3t-r410a-heating": "Burdock 36 heat pump, heating"}
HEATING = tuple(_turned(m, HEATING_OF[m.id], _NAMES[HEATING_OF[m.id]]) for m in COMFORT if m.id in HEATING_OF)
