"""Weather as it drifts, water on a washed condenser, ice on a cold coil."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.rooms import conditions_in
from wolfsbane.acting.time_constants import constant
from wolfsbane.acting.trace import shown_state
from wolfsbane.cycle.frost import FREEZING_K, freezing_kg_s, to_close_kg

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.conditions import Conditions

#: heat that evaporates water near 30 degC, J/kg (ASHRAE Handbook - Fundamentals, steam tables, from memory)
LATENT_J_KG = 2.43e6
#: less of the face than this is as good as dry
_DRY = 0.03


def weather_at(site: Site) -> Conditions:
    """The conditions as drifted since arrival, and with the room as the machine has left it."""
    hours = site.time_s / 3600.0
    if site.room is not None:
        heats = site.machine.in_heating
        weather = replace(site.conditions, **_outdoors(site, hours))
        return conditions_in(site.room, weather, heats=heats)
    if site.drift.outdoor_k_h == 0.0 and site.drift.return_k_h == 0.0:
        return site.conditions
    if site.machine.in_heating:
        house_k = site.conditions.outdoor_k + hours * site.drift.return_k_h
        return replace(site.conditions, outdoor_k=house_k, **_outdoors(site, hours))
    return_k = site.conditions.return_k + hours * site.drift.return_k_h
    return replace(
        site.conditions,
        outdoor_k=site.conditions.outdoor_k + hours * site.drift.outdoor_k_h,
        return_k=return_k,
        return_wet_bulb_k=min(site.conditions.return_wet_bulb_k + 0.6 * hours * site.drift.return_k_h, return_k),
    )


def _outdoors(site: Site, hours: float) -> dict[str, float]:
    """The outdoor air as drifted, by the fields it has in :class:`Conditions`: in heating it boils the refrigerant."""
    moved_k = hours * site.drift.outdoor_k_h
    if not site.machine.in_heating:
        return {"outdoor_k": site.conditions.outdoor_k + moved_k}
    outdoor_k = site.conditions.return_k + moved_k
    return {
        "return_k": outdoor_k,
        "return_wet_bulb_k": min(site.conditions.return_wet_bulb_k + 0.9 * moved_k, outdoor_k),
    }


def outdoors_k(site: Site) -> float:
    """The outdoor air as drifted since arrival, K."""
    weather = weather_at(site)
    return weather.return_k if site.machine.in_heating else weather.outdoor_k


def dried(site: Site, seconds: float, *, running: bool) -> float:
    """Share of the condenser still wet: its air takes up what the cooling of that air says;
    standing dries a tenth as fast.
    """
    if site.wet_share <= 0.0:
        return 0.0
    conditions = weather_at(site)
    spread_k = max(conditions.outdoor_k - conditions.outdoor_wet_bulb_k, 0.5)
    rate = 1006.0 * spread_k / (LATENT_J_KG * constant("wet_film")) * (1.0 if running else 0.1)
    left = site.wet_share * math.exp(-rate * seconds)
    return left if left > _DRY else 0.0


def iced(site: Site, seconds: float) -> Site:
    """Ice on the coil: grows by the water that freezes, thaws above freezing; a box's clock starts its defrost."""
    shown = site.shown
    assert shown is not None, "a running machine shows figures"
    if shown.supply_air_kg_s <= 0.0:
        return site
    if site.machine.refrigeration and site.keeper is None:
        due_s = site.defrost_in_s - seconds
        site = replace(site, defrost_in_s=due_s, defrosting_s=constant("defrost") if due_s <= 0.0 else 0.0)
    if shown.surface_k >= FREEZING_K:
        return (
            replace(site, ice_share=max(site.ice_share - seconds / constant("thaw"), 0.0)) if site.ice_share else site
        )
    grown = freezing_kg_s(shown_state(site, weather_at(site))) * seconds / to_close_kg(site.machine)
    return replace(site, ice_share=min(site.ice_share + grown, 0.85))
