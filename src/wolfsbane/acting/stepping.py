"""Steps of a site through time: a running circuit through the solver's own equations, a standing one towards rest."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.acting.at_rest import rest_after, rest_split_kg
from wolfsbane.acting.coil_water import dried, iced, weather_at
from wolfsbane.acting.heavy_parts import LAGS, steady_shell_k, stores_of
from wolfsbane.acting.site import WARMED, Site
from wolfsbane.acting.time_constants import constant
from wolfsbane.cycle.balance import HOLDS, NO_RECEIVER, Figures
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.frost import FREEZING_K
from wolfsbane.cycle.idling import idles
from wolfsbane.cycle.properties import RHO_F, refrigerant
from wolfsbane.cycle.settled import amps
from wolfsbane.cycle.solver import circuit_state
from wolfsbane.cycle.state import Trip
from wolfsbane.cycle.surroundings import saturated_air, surroundings_of
from wolfsbane.cycle.transient import AT_ONCE, Moving, NoStepError, Stores, step

if TYPE_CHECKING:
    from wolfsbane.cycle.balance import Boundary
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant
    from wolfsbane.cycle.state import CircuitState

#: step of a running circuit, s; standing ones take longer ones
STEP_S, _REST_STEP_S, _LONG_REST_STEP_S = 1.0, 10.0, 120.0
#: weather, ice and water are brought up to date this often, s
_SLOW_S = 10.0
#: a step that never ends: the steady balance
FOREVER_S = 1e12
#: opening a held bulb brings a valve to
_STOPS = {True: 1.0, False: 0.06}
#: how much warmer than freezing the air is that melts a coil in the time ``thaw``, K: a room's (assumed)
_THAWS_AT_K = 24.0
#: air that drifts through a condenser whose fan stands, as a share of what the fan moves (assumed)
_DRIFTS = 0.06
#: where neither pressure moves by more than this share in a second, the rest of a few seconds is one step
_QUIET = 1e-6


@dataclass(frozen=True, kw_only=True)
class Port:
    """Refrigerant through a service port: ``kg_s`` into the circuit (negative:
    out) at ``side`` low or high, its enthalpy J/kg.
    """

    side: str
    kg_s: float
    enthalpy_j_kg: float = 0.0


def steady_state(site: Site) -> CircuitState:
    """The steady solve of the site as it now stands. Raises NoConvergenceError."""
    start = site.moving.x if site.moving is not None else None
    circuit = site.circuit()._replace(valve_swing=0.0)
    faulted = site.machine.with_circuit(circuit, site.refrigerant)
    return circuit_state(site.machine, faulted, weather_at(site), site.faults, start, offset_k=layer_k(site, circuit))


def layer_k(site: Site, circuit: Circuit) -> float:
    """What the half of the coil that circuit 1 feeds meets warmer than the mean, K."""
    return circuit.stratified_k / 2.0 if site.machine.circuits == 2 else 0.0


def steady_moving(
    circuit: Circuit, fluid: Refrigerant, boundary: Boundary, h_sat: np.ndarray, steady: CircuitState
) -> tuple[Moving, Figures]:
    mode = NO_RECEIVER if circuit.receiver_volume_m3 <= 0.0 else HOLDS
    assert steady.solution is not None, "a steady state has a solution"
    begin = Moving(x=steady.solution, low_side_kg=0.0, bulb_k=steady.evaporator_outlet_k, mode=mode)
    return step(circuit._replace(valve_swing=0.0), fluid, boundary, h_sat, begin, FOREVER_S, AT_ONCE)


def setting(site: Site) -> tuple[Circuit, Refrigerant, Boundary, np.ndarray]:
    """(circuit, fluid, steady boundary, saturated-air table) of this moment."""
    conditions, circuit = weather_at(site), site.circuit()
    surroundings = surroundings_of(circuit, conditions, layer_k(site, circuit))
    boundary = surroundings.boundary(conditions, NO_RECEIVER)
    return circuit, refrigerant(site.refrigerant), boundary, saturated_air(conditions)


def idling(site: Site) -> bool:
    """Whether the compressor hardly pumps, so that the circuit stands although it runs."""
    circuit = site.circuit()
    if circuit.pumping_share >= 1.0:
        return False
    met = surroundings_of(circuit, weather_at(site), layer_k(site, circuit))
    return idles(circuit, refrigerant(site.refrigerant), met.coil_air.dry_bulb_k, met.entering_k)


def rest_step_s(site: Site) -> float:
    """Short steps while the gauges come together, long ones once they have; the lags are exact over any step."""
    if site.shown is None or site.liquid_shut or site.ice_share > 0.0:
        return _REST_STEP_S
    low, high = site.shown.suction_pa, site.shown.discharge_pa
    return _LONG_REST_STEP_S if abs(high - low) < 0.02 * high else _REST_STEP_S


def stand(site: Site, seconds: float, port: Any, *, thaws: bool = True) -> Site:
    """The standing site ``seconds`` later; ice melts as the air over it lets it, unless its fans are off."""
    if port is not None:
        site = replace(site, circuit_kg=site.circuit_kg + port.kg_s * seconds)
    thawed = thawed_share(site, seconds) if thaws else 0.0
    return replace(
        rest_after(site, weather_at(site), seconds),
        ice_share=max(site.ice_share - thawed, 0.0),
        wet_share=dried(site, seconds, running=False),
    )


def thawed_share(site: Site, seconds: float) -> float:
    """Ice that air over a resting coil melts, as a share of what closes it: nothing below freezing."""
    warm_k = weather_at(site).return_k - FREEZING_K
    return min(max(warm_k, 0.0) / _THAWS_AT_K * seconds / constant("thaw"), site.ice_share)


def run(site: Site, seconds: float, port: Port | None, step_s: float = STEP_S) -> Site:
    """Run for a few seconds in which weather, ice and water stand still, in steps of ``step_s``."""
    circuit, fluid, boundary, h_sat = setting(site)
    stores = stores_of(circuit)
    if site.moving is None:
        site = _started(site, circuit)
        if site.moving is None:
            return stopped(replace(site, time_s=site.time_s + seconds), Trip(cutout="low_pressure", after_s=site.ran_s))
    shown = np.array(site.shown)
    moving, kg, heat, done = site.moving, site.circuit_kg, site.heat_share, 0.0
    low = port is not None and port.side == "low"
    steady_hands = port is None and circuit.valve_swing <= 0.0 and not site.bulb_answers() and not cycles(circuit)
    fan_on, fan_share = site.fan_on, site.fan_share
    drains = site.temporary.liquid_shut and site.line_full > 0.0
    whole_m3 = circuit.liquid_line_volume_m3 / max(site.line_full, 1e-9)
    line_full = site.line_full if site.temporary.liquid_shut else 1.0
    trip: Trip | None = None
    figures: Figures | None = None
    quiet = False
    while done < seconds - 1e-9 and trip is None:
        dt = seconds - done if quiet else min(step_s, seconds - done)
        kg += 0.0 if port is None else port.kg_s * dt
        now = fan_held(_held(site, circuit, done + dt), share=fan_share)._replace(
            charge_kg=max(kg, 1e-6),
            port_kg_s=port.kg_s if port is not None and low else 0.0,
            port_enthalpy_j_kg=port.enthalpy_j_kg if port is not None and low else 0.0,
        )
        if drains:
            line_full = max(line_full - _drained(moving, figures, circuit, fluid, whole_m3) * dt, 0.0)
            now = now._replace(liquid_line_volume_m3=whole_m3 * line_full, liquid_shut=0.0 if line_full > 0.0 else 1.0)
        before = moving
        try:
            moving, figures = _stepped(now, fluid, boundary, h_sat, moving, dt, stores)
        except NoStepError as lost:
            moving, figures, trip = _jump(replace(site, circuit_kg=kg), moving, now, fluid, boundary, h_sat, lost)
        done += dt
        quiet = steady_hands and max(abs(a - b) for a, b in zip(moving.x[:2], before.x[:2], strict=True)) < _QUIET * dt
        if figures is not None and cycles(circuit):
            fan_on = figures.discharge_pa > (circuit.fan_off_below_pa if fan_on else circuit.fan_on_above_pa)
            fan_share += ((1.0 if fan_on else _DRIFTS) - fan_share) * (1.0 - math.exp(-dt / constant("fan")))
        if trip is None and figures is not None:
            shown += (np.array(figures) - shown) * np.where(LAGS > 0.0, 1.0 - np.exp(-dt / np.maximum(LAGS, 1e-9)), 1.0)
            ratio = amps(site.machine, figures.work_w) / site.machine.plate.overload_amps
            heat += (ratio**2 - heat) * (1.0 - math.exp(-dt / constant("overload")))
            trip = _cut_out(site, figures, Figures(*shown.tolist()), heat, site.ran_s + done)
    site = replace(
        site,
        time_s=site.time_s + done,
        ran_s=site.ran_s + done,
        circuit_kg=kg,
        moving=moving,
        heat_share=heat,
        fan_on=fan_on,
        fan_share=fan_share,
        line_full=line_full,
        low_side_kg=moving.low_side_kg,
        shown=Figures(*shown.tolist()),
        wet_share=dried(site, done, running=True),
    )
    site = iced(site, done)
    return site if trip is None else stopped(site, trip)


def sensing() -> tuple[float, ...]:
    """Lags between what leaves the coil and the bulb of its valve, s: the coil, the wall of the pipe, the bulb."""
    return constant("coil_front"), constant("bulb_wall"), constant("bulb")


def _stepped(
    circuit: Circuit,
    fluid: Refrigerant,
    boundary: Boundary,
    h_sat: np.ndarray,
    moving: Moving,
    seconds: float,
    stores: Stores,
) -> tuple[Moving, Figures]:
    """One step; where the heavy parts give or take more than it can balance, they are left out of this one."""
    try:
        return step(circuit, fluid, boundary, h_sat, moving, seconds, sensing(), stores)
    except NoStepError:
        without, figures = step(circuit, fluid, boundary, h_sat, moving, seconds, sensing())
        return replace(without, warmth=moving.warmth), figures


def _drained(moving: Moving, figures: Figures | None, circuit: Circuit, fluid: Refrigerant, whole_m3: float) -> float:
    """Share of a liquid line that the metering device takes out of it in a second, once the valve before it is shut."""
    flow = circuit.mass_flow_ref_kg_s if figures is None else figures.mass_flow_kg_s
    density = fluid.saturated(RHO_F, moving.x[1])
    return flow / max(whole_m3 * density, 1e-6)


def cycles(circuit: Circuit) -> bool:
    """Whether a pressure switch cycles the condenser fan."""
    return circuit.fan_on_above_pa > 0.0


def fan_held(circuit: Circuit, share: float = 1.0) -> Circuit:
    """The circuit with ``share`` of the air its cycling fan moves when it runs."""
    if not cycles(circuit):
        return circuit
    return circuit._replace(fan_on_above_pa=0.0, condenser_air_fraction=share * circuit.condenser_air_fraction)


def _held(site: Site, circuit: Circuit, ahead_s: float) -> Circuit:
    """The circuit with its valve where hunting or a held bulb puts it just now."""
    if circuit.valve_swing > 0.0:
        phase = 2.0 * math.pi * (site.time_s + ahead_s) / constant("hunting_period")
        mean = site.valve_mean or 0.75
        opening = max(mean * (1.0 + circuit.valve_swing * math.sin(phase)), 0.06)
        return circuit._replace(valve_fixed_opening=opening, valve_swing=0.0)
    if site.bulb_answers():
        assert site.shown is not None, "a running machine shows figures"
        opening = site.shown.valve_opening
        stop = _STOPS[site.temporary.bulb == WARMED]
        return circuit._replace(
            valve_fixed_opening=stop + (opening - stop) * math.exp(-ahead_s / constant("held_bulb"))
        )
    return circuit


def _jump(
    site: Site,
    moving: Moving,
    circuit: Circuit,
    fluid: Refrigerant,
    boundary: Boundary,
    h_sat: np.ndarray,
    lost: NoStepError,
) -> tuple[Moving, Figures | None, Trip | None]:
    """Where no step is found: a cutout at the end of the scale, or on from the steady balance of what is in it now."""
    if lost.pinned == "high":
        return moving, None, Trip(cutout="high_pressure", after_s=0.0)
    if lost.pinned == "low" or site.liquid_shut:
        return moving, None, Trip(cutout="low_pressure", after_s=0.0)
    try:
        steady = steady_state(replace(site, moving=None))
    except NoConvergenceError:
        return moving, None, Trip(cutout="low_pressure", after_s=0.0)
    if steady.trip is not None or steady.solution is None:
        return moving, None, steady.trip or Trip(cutout="low_pressure", after_s=0.0)
    return (*steady_moving(circuit._replace(port_kg_s=0.0), fluid, boundary, h_sat, steady), None)


def _cut_out(site: Site, figures: Figures, shown: Figures, heat: float, ran_s: float) -> Trip | None:
    """The :class:`Trip` of a cutout that opens at this moment, or None."""
    plate, barometer = site.machine.plate, site.conditions.barometer_pa
    if figures.discharge_pa > plate.high_cutout_gauge_pa + barometer:
        return Trip(cutout="high_pressure", after_s=ran_s)
    if figures.suction_pa < site.low_cutout_gauge_pa + barometer and ran_s > constant("start_delay"):
        return Trip(cutout="low_pressure", after_s=ran_s)
    if shown.discharge_k > plate.discharge_cutout_k:
        return Trip(cutout="discharge_temperature", after_s=ran_s)
    return Trip(cutout="overload", after_s=ran_s) if heat > 1.0 else None


def _started(site: Site, circuit: Circuit) -> Site:
    """``moving`` of a machine that has just been started, with the refrigerant where the rest has left it;
    None without a balance.
    """
    begin = steady_or_none(site)
    if begin is None:
        begin = steady_or_none(replace(site, circuit_kg=site.right_kg, temporary=type(site.temporary)()))
    if begin is None:
        return site
    mode = NO_RECEIVER if circuit.receiver_volume_m3 <= 0.0 else HOLDS
    assert begin.solution is not None, "a running machine has a solution"
    moving = Moving(
        x=begin.solution,
        low_side_kg=site.low_side_kg or rest_split_kg(site, weather_at(site)),
        bulb_k=weather_at(site).return_k,
        mode=mode,
        warmth=None if site.warmth is None else replace(site.warmth, shell_to_k=steady_shell_k(begin)),
    )
    return replace(site, moving=moving, ran_s=0.0, valve_mean=begin.valve_opening, heat_share=0.0)


def steady_or_none(site: Site) -> CircuitState | None:
    """The running steady state, or None where there is no balance."""
    try:
        state = steady_state(replace(site, moving=None))
    except NoConvergenceError:
        return None
    return None if state.solution is None else state


def stopped(site: Site, trip: Trip | None = None) -> Site:
    """The machine stands from now on."""
    return replace(site, running=False, trip=trip, moving=None, warmth=site.heavy_parts)


def started(site: Site) -> Site:
    """The machine is switched on."""
    return replace(site, running=True, trip=None, moving=None, ran_s=0.0)
