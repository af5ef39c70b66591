"""Time: a site a few seconds or an hour later. Running circuits are stepped through the solver's own equations.

What the instruments show follows the pipes with the lags of ``time_constants``; a machine that stands equalizes.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.at_rest import rest_after
from wolfsbane.acting.coil_water import weather_at
from wolfsbane.acting.living import lived
from wolfsbane.acting.site import Site
from wolfsbane.acting.stepping import (
    FOREVER_S,
    Port,
    cycles,
    fan_held,
    idling,
    rest_step_s,
    run,
    setting,
    stand,
    started,
    steady_moving,
    steady_state,
    stopped,
)
from wolfsbane.acting.trace import Moment, shown_state
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.frost import DEFROST_EVERY_H, blocked_share
from wolfsbane.cycle.transient import AT_ONCE, NoStepError, step

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit

    pass

#: ice that grows moves everything slowly on: so many times the change of a minute still counts as rest
_FREEZES = 10.0
#: a fan that cycles never comes to rest; so long is enough to see it, h
_CYCLES_H = 0.4
#: weather, ice and water are brought up to date this often, s; where none of them moves and the machine has run a
#: while, s, this often
_SLOW_S, _CALM_S, _CALM_AFTER_S = 10.0, 60.0, 600.0


def arrive(site: Site) -> Site:
    """The site after a long run: settled, or standing where it does not stay on. Raises NoConvergenceError."""
    steady = steady_state(site)
    if steady.trip is not None:
        stopped = replace(site, running=False, trip=steady.trip, moving=None, shown=None)
        return replace(rest_after(stopped, weather_at(stopped), 36_000.0), time_s=site.time_s)
    if idling(site):
        return replace(rest_after(site, weather_at(site), 36_000.0), time_s=site.time_s)
    circuit, fluid, boundary, h_sat = setting(site)
    if cycles(circuit) and steady.condenser_stream_share >= circuit.condenser_air_fraction:
        circuit = fan_held(circuit)
    moving, figures = steady_moving(circuit, fluid, boundary, h_sat, steady)
    return replace(
        site,
        moving=moving,
        low_side_kg=moving.low_side_kg,
        shown=figures,
        ran_s=3600.0,
        valve_mean=steady.valve_opening,
        heat_share=(steady.compressor_amps / site.machine.plate.overload_amps) ** 2,
    )


def moment(site: Site) -> Moment:
    """The :class:`Moment` this site shows."""
    return Moment(
        time_s=site.time_s,
        running=site.running and site.defrosting_s <= 0.0 and (site.keeper is None or site.keeper.runs),
        room=site.room,
        keeper=site.keeper,
        state=shown_state(site, weather_at(site)),
        circuit_kg=site.circuit_kg,
        ice_share=site.ice_share,
        wet_share=site.wet_share,
    )


def advance(
    site: Site, seconds: float, *, port: Any = None, every_s: float = 30.0, until: Any = None
) -> tuple[Site, list[Moment]]:
    """(site after ``seconds``, moments on the way every ``every_s``).

    ``port`` feeds or takes refrigerant all that time (the caller moves the same mass out of or into a cylinder);
    ``until(site)`` true ends it early. A cutout stops the machine and time goes on. Same site and arguments, same
    answer.
    """
    end, moments, next_s = site.time_s + seconds, [], site.time_s + every_s
    while site.time_s < end - 1e-6:
        if until is not None and until(site):
            break
        left = min(end, next_s) - site.time_s
        if site.room is not None:
            site = lived(site, left, port)
        elif site.running and site.defrosting_s > 0.0:
            site = _defrosted(site, min(left, rest_step_s(site), site.defrosting_s))
        elif site.running and not idling(site):
            site = run(site, min(left, _CALM_S if port is None and _calm(site) else _SLOW_S), port)
        else:
            site = stand(site, min(left, rest_step_s(site)), port)
        if site.time_s >= next_s - 1e-6:
            moments.append(moment(site))
            next_s += every_s
    return site, moments


def _calm(site: Site) -> bool:
    """Whether nothing but the circuit itself moves, so that it may be looked at seldom."""
    return (
        site.ran_s > _CALM_AFTER_S
        and not site.drift.outdoor_k_h
        and not site.drift.return_k_h
        and site.ice_share <= 0.0
        and site.wet_share <= 0.0
        and not site.liquid_shut
    )


def _defrosted(site: Site, seconds: float) -> Site:
    """A box that defrosts by its clock stands; when the time is over the coil is clear and it starts again."""
    site = stand(site, seconds, None)
    left_s = site.defrosting_s - seconds
    if left_s > 1e-9:
        return replace(site, defrosting_s=left_s)
    return replace(site, defrosting_s=0.0, defrost_in_s=3600.0 * DEFROST_EVERY_H, ice_share=0.0, ran_s=0.0)


def settled(site: Site, hours: float = 3.0, into: list[Any] | None = None) -> tuple[Site, float]:
    """The site let run until nothing moves any more or it stands: (site, minutes it took); moments on the way go to
    ``into``. What is left once no instrument would show it is taken in one step, which is the steady balance.
    """
    begin, last = site.time_s, None
    if cycles(site.circuit()):
        hours = min(hours, _CYCLES_H)
    while site.running and site.time_s - begin < 3600.0 * hours:
        site, some = advance(site, 60.0, every_s=10.0 if site.time_s - begin < 300.0 else 60.0)
        if into is not None:
            into += some
        now = site.shown
        if site.keeper is not None and not site.keeper.runs:
            break
        if last is not None and now is not None and _near(last, now, _FREEZES if site.ice_share > 0.0 else 1.0):
            site = _at_the_end(site)
            break
        last = now
    return site, (site.time_s - begin) / 60.0


def _at_the_end(site: Site) -> Site:
    """The site at the end of what it is on its way to, where nothing but its heavy parts still moves."""
    drifts = site.drift.outdoor_k_h or site.drift.return_k_h
    circuit, fluid, boundary, h_sat = setting(site)
    if (
        site.moving is None
        or drifts
        or blocked_share(site.ice_share) > 0.0
        or site.wet_share
        or circuit.valve_swing > 0.0
        or not site.fan_on
        or (cycles(circuit) and _stops(site, circuit))
    ):
        return site
    if site.bulb_answers():
        return site
    try:
        moving, figures = step(fan_held(circuit), fluid, boundary, h_sat, site.moving, FOREVER_S, AT_ONCE)
    except NoStepError:
        return site
    return replace(site, moving=moving, low_side_kg=moving.low_side_kg, shown=figures)


def _stops(site: Site, circuit: Circuit) -> bool:
    """Whether a fan that runs now will be stopped by its switch."""
    try:
        return steady_state(site).condenser_stream_share < circuit.condenser_air_fraction
    except NoConvergenceError:
        return True


def _near(a: tuple[float, ...], b: tuple[float, ...], times: float) -> bool:
    """Gauges within 60 Pa and clamps within 10 mK of a minute ago, or ``times`` that."""
    limits = {name: 60.0 for name in ("suction_pa", "liquid_port_pa")} | {
        name: 1e-2 for name in ("suction_line_k", "liquid_line_k", "evaporator_outlet_k", "discharge_k")
    }
    return all(abs(getattr(a, name) - getattr(b, name)) < times * limit for name, limit in limits.items())


__all__ = ["Port", "Site", "advance", "arrive", "moment", "settled", "started", "steady_state", "stopped", "weather_at"]
