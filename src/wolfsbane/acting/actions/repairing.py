"""How a repair is carried out on a machine at work: recovered and weighed in where it opens the circuit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import ActionKind, Done, worked
from wolfsbane.acting.actions.refrigerant import evacuate, recover_all, weigh_in
from wolfsbane.acting.actions.repairs import REPAIRS, Repair, repaired_by

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.machine import Machine


def _anew(site: Site) -> tuple[Site, list[Moment], list[str], bool]:
    """Recovered, evacuated and weighed in by the plate: (site, moments, sentences),
    or the refusal of a full cylinder.
    """
    moments: list[Moment] = []
    said: list[str] = []
    steps: tuple[tuple[Callable[[Site, Any], Done], dict[str, Any]], ...] = (
        (recover_all, {"into": "recovery"}),
        (evacuate, {}),
        (weigh_in, {"oz": None, "cylinder": "new"}),
    )
    for work, given in steps:
        done = work(site, given)
        if done.refused:
            return done.site, moments, [*said, *done.said], True
        site, moments, said = done.site, [*moments, *done.moments], [*said, *done.said]
    return site, moments, said, False


def _do(repair: Repair) -> Callable[..., Any]:
    def do(site: Site, given: Any) -> Any:
        gone = [f for f in site.faults if repair.id in repaired_by(f)]
        repairs_leak = repair.id == "mend_leak"
        moments: list[Moment] = []
        said: list[str] = []
        before = site.circuit_kg
        if repair.opens or (repairs_leak and site.leaking):
            site, moments, said, refused = _anew(site) if repair.opens else (site, [], [], False)
            if refused:
                return Done(site=site, moments=tuple(moments), said=tuple(said), refused=True)
        site, more = worked(site, repair.minutes)
        if repairs_leak:
            words = (
                "The joint is tight; the refrigerant that leaked out is still missing."
                if site.leaking
                else "No leak found."
            )
            return Done(site=replace(site, leaking=False), moments=tuple(more), said=(words,))
        site = replace(
            site,
            faults=tuple(f for f in site.faults if f not in gone),
            leaking=site.leaking,
            wet_share=1.0 if repair.wets else site.wet_share,
        )
        said.append(repair.right if gone else repair.pointless)
        return Done(site=site, moments=(*moments, *more), said=tuple(said), moved_kg=site.circuit_kg - before)

    return do


def _every_machine(machine: Machine) -> bool:
    return True


KINDS = tuple(
    ActionKind(
        id=r.id,
        name=r.name,
        group="repair",
        do=_do(r),
        minutes=r.minutes,
        money=r.money,
        machine=r.machine,
        risk=r.risk,
        certification=r.opens or r.id == "mend_leak",
        recovery=r.opens,
        refrigerant="recovered and weighed in" if r.opens else "none",
        suits=r.suits or _every_machine,
    )
    for r in REPAIRS
)
