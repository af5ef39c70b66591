"""A machine with the box or house it keeps, through time: the room answers to the machine, the controls to the room."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting import keeper as controls
from wolfsbane.acting.at_rest import rest_pa
from wolfsbane.acting.coil_water import weather_at
from wolfsbane.acting.heavy_parts import stores_of
from wolfsbane.acting.keeper import Keeper
from wolfsbane.acting.rooms import Room, room_after, room_of
from wolfsbane.acting.stepping import run, stand, thawed_share
from wolfsbane.acting.trace import shown_state
from wolfsbane.cycle.controls import controls_of, troubled
from wolfsbane.cycle.frost import FREEZING_K, to_close_kg
from wolfsbane.cycle.hot_gas import hot_gas
from wolfsbane.cycle.parts.common import CP_AIR
from wolfsbane.cycle.properties import RHO_G, refrigerant
from wolfsbane.cycle.reverse_defrost import clearing

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.state import CircuitState

#: heat that melts ice, J/kg (handbook figure, from memory), and of ice from 0 degC below, J/(kg K)
_MELTS_J_KG, _ICE_J_KG_K = 334e3, 2090.0
#: heat of a defrost as a share of the plate's capacity: electric, or a heat pump running in cooling; hot gas is solved.
#: How much of it goes past the coil into the box (assumed)
_ELECTRIC = 0.75
_LOST = 0.15
#: part of the water of a thawing coil that the air takes up again instead of the drain: with the fans off, and with
#: them on (assumed)
_RETURNED = (0.02, 0.1)
#: a defrosting coil with its pan stores so many times the heat of its tubes and fins, and gives heat to still air, as a
#: share of its air-side conductance (assumed)
_PAN, _STILL = 4.0, 0.03
#: a coil so much warmer than its refrigerant makes it is still warm from its defrost, K
_WARM_DK = 1.0
#: steps of slow things, s: while pressures move, in the first minutes, later on, and while it stands
_MOVING_S, _EARLY_S, _LATE_S, _OFF_S = 5.0, 20.0, 60.0, 20.0
#: and while gas is drawn off a low side that nothing feeds
_DRAWS_S = 0.25


def living(
    site: Site,
    *,
    air_k: float | None = None,
    door: float = 1.0,
    troubles: tuple[str, ...] = (),
    set_k: float | None = None,
) -> Site:
    """The site with its room alive: thermostat set to ``set_k`` (None: what the conditions name), air and goods at
    ``air_k`` (None: at the setting), ``door`` times the usual traffic, and troubles of the controls.

    Raises BadInputError for a trouble its controls cannot have.
    """
    heats = site.machine.in_heating
    wanted = site.conditions.outdoor_k if heats else site.conditions.return_k
    settings = troubled(controls_of(site.machine, wanted if set_k is None else set_k), troubles, site.machine)
    room = replace(room_of(site.machine, site.conditions, wanted if air_k is None else air_k), door=door)
    every = settings.defrost.every_s if settings.defrost is not None else 0.0
    calls = settings.calls(room.air_k, now=True)
    low = settings.second_stage is not None
    keeper = Keeper(controls=settings, troubles=troubles, defrosts_in_s=every, calls=calls, low_stage=low)
    return replace(site, room=room, keeper=keeper)


def lived(site: Site, seconds: float, port: Any = None) -> Site:
    """The site up to ``seconds`` later; less where something moves fast. A step ends where the controls next look."""
    room, keeper = site.room, site.keeper
    assert room is not None and keeper is not None, "only with a room and its controls"
    if not site.running:
        dt = min(seconds, _OFF_S)
        return _roomed(stand(site, dt, port), dt, None)
    before = keeper
    keeper = _looked(site, keeper, room)
    site = _switched(replace(site, keeper=keeper), before)
    dt = min(seconds, _step_s(site))
    if keeper.runs:
        if site.moving is None and keeper.mode == "pumping_down":
            start = site.time_s
            site = _drawn_down(site, dt)
            dt = site.time_s - start
            return _counted(_roomed(site, dt, None), keeper, dt)
        inner = 1.0 if site.ran_s < 120.0 or keeper.mode == "pumping_down" or port is not None else min(dt, 20.0)
        start = site.time_s
        site = run(site, dt, port, step_s=inner)
        dt = max(site.time_s - start, 1e-3)
        site = _roomed(_off_on_low_pressure(site), dt, shown_state(site, weather_at(site)) if site.moving else None)
    elif keeper.mode == "defrost":
        site = _defrosted(stand(site, dt, port, thaws=False), dt)
    else:
        site = _roomed(stand(site, dt, port, thaws=keeper.fans), dt, None)
    return _counted(site, keeper, dt)


def _counted(site: Site, before: Keeper, seconds: float) -> Site:
    """The site with the clocks of its controls moved on; ``before`` is what they did in these seconds."""
    now = site.keeper
    assert now is not None, "as before"
    clock = seconds if site.machine.refrigeration or before.runs else 0.0
    return replace(
        site,
        keeper=replace(
            now,
            mode_s=now.mode_s + seconds if now.mode == before.mode else now.mode_s,
            defrosts_in_s=now.defrosts_in_s - clock,
            on_s=now.on_s + (seconds if before.runs else 0.0),
            low_s=now.low_s + (seconds if before.runs and before.low_stage else 0.0),
            all_s=now.all_s + seconds,
        ),
    )


def _drawn_down(site: Site, seconds: float) -> Site:
    """A compressor that starts on a shut liquid line only draws gas off the low side: no more than its displacement
    takes, up to ``seconds``, until the low-pressure control opens.
    """
    end = site.time_s + seconds
    while site.time_s < end - 1e-9 and site.keeper is not None and site.keeper.mode == "pumping_down":
        site = _drawn(site, min(_DRAWS_S, end - site.time_s))
    return site


def _drawn(site: Site, seconds: float) -> Site:
    keeper, conditions = site.keeper, weather_at(site)
    assert keeper is not None, "as before"
    circuit, fluid = site.circuit(), refrigerant(site.refrigerant)
    low_pa, _ = rest_pa(site, conditions)
    low_pa = min(max(low_pa, fluid.min_pa), fluid.max_pa)
    density = fluid.saturated(RHO_G, math.log(low_pa))
    drawn = circuit.volumetric_a * circuit.pumping_share * circuit.displacement_m3_s * density * seconds
    oil_kg = 0.0 if site.heavy_parts is None else site.heavy_parts.oil_kg
    site = replace(site, low_side_kg=max(site.low_side_kg - drawn, oil_kg + 1e-4))
    site = stand(site, seconds, None, thaws=False)
    low_pa, _ = rest_pa(site, conditions)
    if low_pa - conditions.barometer_pa >= site.low_cutout_gauge_pa:
        return site
    return replace(site, keeper=controls.cut_out(keeper))


def _looked(site: Site, keeper: Keeper, room: Room) -> Keeper:
    shown = site.shown
    suction_pa = 1e7 if shown is None else shown.suction_pa
    if keeper.shut and site.moving is None:
        suction_pa = rest_pa(site, weather_at(site))[0]
    suction = suction_pa - site.conditions.barometer_pa
    coil_k = keeper.coil_k
    own = keeper.mode in (*controls.FANS_OFF, "waiting") and coil_k > controls.COLD
    if not own and shown is not None and coil_k < shown.surface_k + _WARM_DK:
        coil_k = min(shown.surface_k, room.air_k)
    return controls.decided(keeper, room, suction, site.ice_share, coil_k)


def _switched(site: Site, before: Keeper) -> Site:
    """The site as the new mode takes it over: a compressor that has lost its power stands, one that gets it starts."""
    now = site.keeper
    assert now is not None, "as before"
    if before.runs and not now.runs:
        return replace(site, moving=None, warmth=site.heavy_parts)
    if now.runs and not before.runs:
        # A pump-down that begins anew is not held closed by the start delay.
        return replace(site, moving=None, ran_s=600.0 if now.mode == "pumping_down" else 0.0)
    return site


def _step_s(site: Site) -> float:
    keeper = site.keeper
    assert keeper is not None, "as before"
    if keeper.mode in ("pumping_down", "waiting", "fan_delay") or (keeper.runs and site.ran_s < 120.0):
        return _MOVING_S
    if not keeper.runs:
        return _MOVING_S if keeper.mode_s < 20.0 and keeper.shut else _OFF_S
    return _EARLY_S if site.ran_s < 900.0 else _LATE_S


def _off_on_low_pressure(site: Site) -> Site:
    """A low-pressure control that opens is no trip here: it comes back by itself."""
    keeper = site.keeper
    assert keeper is not None, "as before"
    if site.trip is None or site.trip.cutout != "low_pressure" or keeper.controls.opens_pa is None:
        return site
    return replace(site, running=True, trip=None, moving=None, keeper=controls.cut_out(keeper))


def _roomed(site: Site, seconds: float, state: CircuitState | None) -> Site:
    """The site after the room has had ``seconds`` of what the machine gives: cold air, or its fans, or nothing."""
    room, keeper = site.room, site.keeper
    assert room is not None and keeper is not None, "as before"
    machine, conditions = site.machine, weather_at(site)
    heat_w, water = 0.0, 0.0
    if state is not None and machine.in_heating:
        heat_w = state.condenser_heat_w + machine.circuit.condenser_blower_w
        keeper = replace(keeper, coil_k=controls.COLD)
    elif state is not None and keeper.coil_k > state.surface_k + _WARM_DK:
        heat_w, coil_k = _cooling_its_coil(site, state, seconds)
        keeper = replace(keeper, coil_k=coil_k)
    elif state is not None and keeper.fans:
        heat_w = -state.airflow_kg_s * CP_AIR * (state.return_air.dry_bulb_k - state.supply_air.dry_bulb_k)
        water = -state.airflow_kg_s * max(state.return_air.humidity_ratio - state.supply_air.humidity_ratio, 0.0)
    elif machine.refrigeration and keeper.fans:
        heat_w = machine.circuit.blower_w - _thawing_w(site, seconds)
    outdoor_k = conditions.return_k if machine.in_heating else conditions.outdoor_k
    room = room_after(room, seconds, outdoor_k, conditions.barometer_pa, heat_w=heat_w, water_kg_s=water)
    return replace(site, room=room, keeper=keeper)


def _cooling_its_coil(site: Site, state: CircuitState, seconds: float) -> tuple[float, float]:
    """(heat the room gets W, coil K) while a coil warm from its defrost is cooled first: fans that run blow its heat
    into the room.
    """
    room, keeper = site.room, site.keeper
    assert room is not None and keeper is not None, "as before"
    metal = _PAN * stores_of(site.machine.circuit).evaporator_j_k * site.machine.circuits
    to_air = 0.0
    if keeper.fans:
        to_air = site.machine.circuit.evaporator_ua_air_w_k * max(keeper.coil_k - room.air_k, 0.0)
    warmed = to_air + state.capacity_w
    coil_k = max(keeper.coil_k - warmed * seconds / metal, state.surface_k)
    lost = min((keeper.coil_k - coil_k) * metal / (warmed * seconds), 1.0)
    return to_air * lost, coil_k if coil_k > state.surface_k else controls.COLD


def _thawing_w(site: Site, seconds: float) -> float:
    """Heat that ice on a resting coil takes from air above freezing, W; as ``stand`` melts it."""
    return thawed_share(site, seconds) * to_close_kg(site.machine) * _MELTS_J_KG / seconds


def _defrosted(site: Site, seconds: float) -> Site:
    """A coil under its defrost: its metal warms to freezing, the ice melts, then the metal goes on to its end."""
    room, keeper = site.room, site.keeper
    assert room is not None and keeper is not None and keeper.controls.defrost is not None, "defrosts"
    machine, defrost = site.machine, keeper.controls.defrost
    metal = _PAN * stores_of(machine.circuit).evaporator_j_k * machine.circuits
    ice_kg = site.ice_share * to_close_kg(machine)
    air_w_k = machine.circuit.evaporator_ua_air_w_k
    heats = machine.in_heating
    around_k = weather_at(site).return_k if heats else room.air_k
    if defrost.kind == "off_cycle":
        to_coil = air_w_k * (around_k - keeper.coil_k)
        given = -to_coil + machine.circuit.blower_w
    else:
        circuit, fluid, taken = site.circuit(), refrigerant(site.refrigerant), 0.0
        if defrost.kind == "hot_gas":
            power = hot_gas(circuit, fluid, keeper.coil_k).heat_w
        elif defrost.kind == "reverse":
            reversed_ = clearing(circuit, fluid, keeper.coil_k, room.air_k)
            power, taken = reversed_.heat_w, reversed_.taken_w
        else:
            power = _ELECTRIC * machine.plate.capacity_w
        lost = _STILL * air_w_k * (keeper.coil_k - around_k)
        to_coil = (1.0 - _LOST) * power - lost
        given = circuit.condenser_blower_w - taken if heats else _LOST * power + lost
    coil_k, left_j = keeper.coil_k, to_coil * seconds
    stored = metal + ice_kg * _ICE_J_KG_K
    if coil_k < FREEZING_K or ice_kg <= 0.0:
        rise = left_j / stored
        to_k = min(coil_k + rise, FREEZING_K) if ice_kg > 0.0 and coil_k < FREEZING_K else coil_k + rise
        left_j -= (to_k - coil_k) * stored
        coil_k = to_k
    melted = min(max(left_j, 0.0) / _MELTS_J_KG, ice_kg)
    if ice_kg > 0.0 and melted >= ice_kg:
        coil_k += (left_j - melted * _MELTS_J_KG) / metal
    if defrost.kind == "off_cycle":
        coil_k = min(coil_k, max(around_k, keeper.coil_k))
    water = 0.0 if heats else _RETURNED[defrost.kind == "off_cycle"] * melted / seconds
    outdoor_k = weather_at(site).return_k if heats else weather_at(site).outdoor_k
    room = room_after(room, seconds, outdoor_k, site.conditions.barometer_pa, heat_w=given, water_kg_s=water)
    return replace(
        site,
        room=room,
        ice_share=max(ice_kg - melted, 0.0) / to_close_kg(machine),
        keeper=replace(keeper, coil_k=coil_k),
    )
