"""The expansion valve's stem and bulb, the service valves, and undoing what was temporary."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import ON, ActionKind, Done, Parameter, worked
from wolfsbane.acting.settling import advance, moment
from wolfsbane.acting.site import CHILLED, WARMED, Temporary
from wolfsbane.acting.words import pressure, tripped_after
from wolfsbane.cycle.units import PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.machine import Machine

#: a good compressor pulls a low side down within this; after the stop a tight one rises less than so much in a minute
#: (assumed)
_LONGEST_S, _TIGHT_PSI = 240.0, 20.0


def adjust_stem(site: Site, given: dict[str, float]) -> Done:
    """The adjusting stem, in turns: open (positive) lowers the superheat."""
    turns = site.stem_turns + given["turns"]
    if not -4.0 <= turns <= 4.0:
        return Done(site=site, said=("The stem is at the end of its travel.",), refused=True)
    site, moments = worked(replace(site, stem_turns=turns), 3.0, 10.0)
    held = site.fault("valve_overfeeding") or site.fault("valve_underfeeding")
    said = (
        ("The valve does not respond to its stem.",) if held else ("A quarter turn at a time, then wait ten minutes.",)
    )
    return Done(site=site, moments=tuple(moments), said=said)


def _hold(word: str) -> Callable[..., Any]:
    def hold(site: Site, given: Any) -> Any:
        begun = moment(site).state
        site = replace(site, temporary=replace(site.temporary, bulb=word))
        answers = site.bulb_answers()
        site, moments = advance(site, 60.0 * given["minutes"], every_s=10.0)
        moved = moment(site).state.suction_pa - begun.suction_pa
        way = "climbs" if moved > 0.0 else "falls"
        said = (
            f"The suction {way} {pressure(abs(moved), site.units)}."
            if answers and abs(moved) >= PA_PER_PSI
            else "Nothing answers."
        )
        if not site.running:
            said = tripped_after(site.trip)
        return Done(site=site, moments=tuple(moments), said=(said,))

    return hold


def release_bulb(site: Site, given: dict[Any, Any]) -> Done:
    """The bulb goes back on its pipe."""
    if site.temporary.bulb is None:
        return Done(site=site, said=("The bulb is already strapped on.",), refused=True)
    site, moments = worked(replace(site, temporary=replace(site.temporary, bulb=None)), 3.0, 10.0)
    return Done(site=site, moments=tuple(moments))


def close_liquid_valve(site: Site, given: dict[Any, Any]) -> Done:
    """The liquid service valve is shut: a running machine pumps down."""
    site, moments = worked(replace(site, temporary=replace(site.temporary, liquid_shut=True)), 0.1, 5.0)
    return Done(site=site, moments=tuple(moments))


def open_liquid_valve(site: Site, given: dict[Any, Any]) -> Done:
    """The liquid service valve is backed out again."""
    if not site.temporary.liquid_shut:
        return Done(site=site, said=("It is open.",), refused=True)
    site, moments = worked(replace(site, temporary=replace(site.temporary, liquid_shut=False)), 0.5, 5.0)
    return Done(site=site, moments=tuple(moments))


def pump_down(site: Site, given: dict[Any, Any]) -> Done:
    """Shut the liquid valve, run to the low-pressure cutout, then watch a minute whether it stays down."""
    site = replace(site, temporary=replace(site.temporary, liquid_shut=True))
    begin = site.time_s
    site, moments = advance(site, _LONGEST_S, every_s=5.0, until=lambda s: not s.running)
    if site.running:
        state = moment(site).state
        stands = pressure(state.suction_pa - state.barometer_pa, site.units)
        words = f"After four minutes suction is still at {stands}: it will not pump down."
        return Done(site=site, moments=tuple(moments), said=(words,))
    trip = site.trip
    if trip is not None and trip.cutout != "low_pressure":
        why = (
            "The condenser cannot hold the whole charge: not a test for this machine."
            if trip.cutout == "high_pressure"
            else "It overheats and does not pump down: that is proof enough."
        )
        return Done(site=site, moments=tuple(moments), said=(tripped_after(trip), why))
    seconds, reached = site.time_s - begin, site.low_cutout_gauge_pa
    site, more = advance(site, 60.0, every_s=5.0)
    state = moment(site).state
    rise_pa = state.suction_pa - state.barometer_pa - reached
    word = (
        "and stays there."
        if rise_pa < _TIGHT_PSI * PA_PER_PSI
        else f"but climbs {pressure(rise_pa, site.units)} within a minute after shutdown: the valves leak."
    )
    return Done(site=site, moments=(*moments, *more), said=(f"Pulled down to the cutout in {seconds:.0f} s {word}",))


def undo_temporary(site: Site, given: dict[Any, Any]) -> Done:
    """Everything temporary is undone, and what it was is said."""
    left = site.temporary.left
    if not left:
        return Done(site=site, said=("Nothing temporary was left in place.",), refused=True)
    site, moments = worked(replace(site, temporary=Temporary()), 2.0, 30.0)
    return Done(site=site, moments=tuple(moments), said=tuple(f"Undone: {what}." for what in left))


def _bulbed(machine: Machine) -> bool:
    return machine.metering == "txv"


def _serviced(machine: Machine) -> bool:
    return not machine.sealed


_MINUTES = Parameter(name="minutes", unit="min", low=0.5, high=15, default=5.0)
KINDS = (
    ActionKind(
        id="adjust_stem",
        name="Adjust the TXV stem",
        group="valve",
        do=adjust_stem,
        suits=_bulbed,
        minutes=3,
        parameters=(Parameter(name="turns", unit="turns open", low=-2, high=2),),
        risk="Opening it can flood the compressor; read the manufacturer's instructions first.",
    ),
    ActionKind(
        id="warm_bulb",
        name="Warm the bulb",
        group="valve",
        do=_hold(WARMED),
        machine=ON,
        suits=_bulbed,
        parameters=(_MINUTES,),
        risk="Warm water or your hand, never a flame. Liquid comes back: a few minutes only.",
    ),
    ActionKind(
        id="chill_bulb",
        name="Chill the bulb",
        group="valve",
        do=_hold(CHILLED),
        machine=ON,
        suits=_bulbed,
        parameters=(_MINUTES,),
        risk="Watch the low-pressure cutout.",
    ),
    ActionKind(
        id="release_bulb", name="Strap the bulb back on", group="valve", do=release_bulb, suits=_bulbed, minutes=3
    ),
    ActionKind(
        id="close_liquid_valve",
        name="Front-seat (close) the liquid service valve",
        group="service valves",
        do=close_liquid_valve,
        suits=_serviced,
        minutes=0.1,
        risk="Stop at the low-pressure cutout; never on a condenser that cannot hold the charge.",
    ),
    ActionKind(
        id="open_liquid_valve",
        name="Open the liquid service valve",
        group="service valves",
        do=open_liquid_valve,
        suits=_serviced,
        minutes=0.5,
    ),
    ActionKind(
        id="pump_down",
        name="Pump down",
        group="service valves",
        do=pump_down,
        machine=ON,
        suits=_serviced,
        risk="Never on an overcharged or microchannel system; never run the compressor in a vacuum.",
    ),
    ActionKind(id="undo_temporary", name="Undo everything temporary", group="temporary", do=undo_temporary, minutes=2),
)
