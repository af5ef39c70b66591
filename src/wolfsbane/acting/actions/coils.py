"""Ice and water on the coils, and a board over the condenser on a mild day."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import OFF, ActionKind, Done, Parameter, worked
from wolfsbane.acting.settling import advance

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.machine import Machine

_LONGEST_MIN = 60.0


def thaw_coil(site: Site, given: dict[Any, Any]) -> Done:
    """Compressor off, blower on, until the coil is clear and dry."""
    if site.ice_share <= 0.0:
        return Done(site=site, said=("There is no ice on the coil.",), refused=True)
    begin = site.time_s
    site, moments = advance(site, 60.0 * _LONGEST_MIN, every_s=60.0, until=lambda s: s.ice_share <= 0.0)
    minutes = (site.time_s - begin) / 60.0
    return Done(
        site=site, moments=tuple(moments), said=(f"Clear after {minutes:.0f} min; start it and let it settle.",)
    )


def dry_condenser(site: Site, given: dict[Any, Any]) -> Done:
    """Let the fan blow the washed coil dry: it runs, and is not believed before."""
    if site.wet_share <= 0.0:
        return Done(site=site, said=("The coil is dry.",), refused=True)
    begin = site.time_s
    site, moments = advance(site, 3600.0, every_s=15.0, until=lambda s: s.wet_share <= 0.0 or not s.running)
    return Done(
        site=site, moments=tuple(moments), said=(f"Dry after {(site.time_s - begin) / 60.0:.0f} min of running.",)
    )


def block_condenser(site: Site, given: dict[str, float]) -> Done:
    """Part of the face covered, to bring the head up on a mild day."""
    site, moments = worked(
        replace(site, temporary=replace(site.temporary, board_share=given["pct"] / 100.0)), 2.0, 10.0
    )
    return Done(
        site=site,
        moments=tuple(moments),
        said=("Stop 50 psi short of the high-pressure cutout, and remove it afterward.",),
    )


def uncover_condenser(site: Site, given: dict[Any, Any]) -> Done:
    """The board comes off."""
    if site.temporary.board_share <= 0.0:
        return Done(site=site, said=("Nothing is blocking it.",), refused=True)
    site, moments = worked(replace(site, temporary=replace(site.temporary, board_share=0.0)), 1.0, 10.0)
    return Done(site=site, moments=tuple(moments))


def wet_condenser(site: Site, given: dict[Any, Any]) -> Done:
    """Water over the condenser "to charge faster": low head and high subcooling that mean nothing."""
    site, moments = worked(replace(site, wet_share=1.0), 2.0, 10.0)
    return Done(
        site=site,
        moments=tuple(moments),
        said=("Head pressure falls because water is evaporating, not because the charge is correct.",),
    )


def _air_cooled(machine: Machine) -> bool:
    return machine.condenser != "water_cooled"


KINDS = (
    ActionKind(
        id="thaw_coil",
        name="Thaw the coil",
        group="coils",
        do=thaw_coil,
        machine=OFF,
        risk="Never use a knife or a torch on a coil; watch where the water goes.",
    ),
    ActionKind(
        id="dry_condenser",
        name="Run until the condenser is dry",
        group="coils",
        do=dry_condenser,
        machine="on",
        suits=_air_cooled,
    ),
    ActionKind(
        id="block_condenser",
        name="Block part of the condenser",
        group="temporary",
        do=block_condenser,
        minutes=2,
        suits=_air_cooled,
        parameters=(Parameter(name="pct", unit="%", low=5, high=80, default=40.0),),
        risk="Head pressure climbs quickly: stay with it.",
    ),
    ActionKind(
        id="uncover_condenser",
        name="Unblock the condenser",
        group="temporary",
        do=uncover_condenser,
        minutes=1,
        suits=_air_cooled,
    ),
    ActionKind(
        id="wet_condenser",
        name="Spray the condenser while charging",
        group="coils",
        do=wet_condenser,
        minutes=2,
        suits=_air_cooled,
        risk="Water and live parts; no reading can be trusted.",
    ),
)
