"""Letting time pass, starting and stopping."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import ActionKind, Done, Parameter
from wolfsbane.acting.settling import advance, settled, started, stopped
from wolfsbane.acting.words import tripped_after, weight

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment


def _said_trip(before: Site, after: Site) -> tuple[str, ...]:
    return () if after.trip is None or after.trip is before.trip else (tripped_after(after.trip),)


def wait(site: Site, given: dict[str, float]) -> Done:
    """Time passes."""
    minutes = given["minutes"]
    after, moments = advance(site, 60.0 * minutes, every_s=10.0 if minutes <= 20 else 60.0)
    return Done(site=after, moments=tuple(moments), said=_said_trip(site, after))


def settle(site: Site, given: dict[Any, Any]) -> Done:
    """Fast forward until nothing moves any more."""
    if not site.running:
        return Done(site=site, said=("It is off: nothing to stabilize. Start it.",), refused=True)
    moments: list[Moment] = []
    after, minutes = settled(site, into=moments)
    return Done(
        site=after, moments=tuple(moments), said=_said_trip(site, after) or (f"Stabilized after {minutes:.0f} min.",)
    )


#: refrigerant in the oil, kg for each kg of it, from which a start boils it to foam (assumed)
_FOAMS = 0.2


def _said_flooded(site: Site) -> tuple[str, ...]:
    """What a start after a long stop sounds like: refrigerant that migrated into the oil boils out of it at once."""
    oil_kg = site.circuit().oil_kg
    held_kg = 0.0 if site.heavy_parts is None else site.heavy_parts.oil_kg
    if oil_kg <= 0.0 or held_kg < _FOAMS * oil_kg:
        return ()
    return (
        f"Flooded start: the oil holds {weight(held_kg, site.units)} of refrigerant, foams and knocks until it has"
        " boiled out. A crankcase heater keeps it out.",
    )


def start(site: Site, given: dict[Any, Any]) -> Done:
    """Switch on, a tripped one after its reset; ten seconds pass."""
    if site.running:
        return Done(site=site, said=("It is already running.",), refused=True)
    after, moments = advance(started(site), 10.0, every_s=10.0)
    reset = ("The cutout has a manual reset.",) if site.trip is not None else ()
    said = reset + _said_flooded(site) + _said_trip(site, after)
    if site.temporary.liquid_shut:
        said += ("The liquid service valve is still closed: it pumps down.",)
    return Done(site=after, moments=tuple(moments), said=said)


def stop(site: Site, given: dict[Any, Any]) -> Done:
    """Switch off and lock off; it is no accident, so no cutout."""
    if not site.running:
        return Done(site=replace(site, trip=None), said=("It is already off.",), refused=True)
    after, moments = advance(stopped(site), 10.0, every_s=10.0)
    return Done(site=after, moments=tuple(moments))


_LIVE = "Live parts and rotating fans: open the disconnect, lock out, discharge capacitors."
KINDS = (
    ActionKind(
        id="wait",
        name="Wait",
        group="time",
        do=wait,
        parameters=(Parameter(name="minutes", unit="min", low=0.05, high=600.0, default=15.0),),
    ),
    ActionKind(id="settle", name="Let it stabilize", group="time", do=settle),
    ActionKind(
        id="start",
        name="Start",
        group="time",
        do=start,
        minutes=0.2,
        risk="A flooded start slugs the compressor: check for liquid first.",
    ),
    ActionKind(id="stop", name="Shut down and lock out", group="time", do=stop, minutes=0.2, risk=_LIVE),
)
