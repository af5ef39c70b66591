"""Refrigerant in and out by weight, the hoses and the cylinder counted."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import OFF, ActionKind, Done, Parameter, worked
from wolfsbane.acting.coil_water import outdoors_k
from wolfsbane.acting.cylinders import HOSE_M3, liquid_density, vapor_density
from wolfsbane.acting.settling import Port, advance
from wolfsbane.acting.words import tripped_after, weight
from wolfsbane.cycle.properties import H_F, H_G, refrigerant
from wolfsbane.cycle.standing import internal_volume_m3
from wolfsbane.cycle.units import KG_PER_OZ

if TYPE_CHECKING:
    from wolfsbane.acting.cylinders import Cylinder
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment

#: flow of a machine for which an ounce in 12 s is a careful burst, kg/s; smaller ones get smaller bursts
_CAREFUL_FOR_KG_S = 0.064
_BURST_KG, _PAUSE_S = KG_PER_OZ, 15.0
#: liquid faster than this share of the machine's own flow knocks in the compressor (assumed)
_SLUG_SHARE = 0.15
#: what a recovery machine leaves, Pa absolute, and its pace, kg/min (assumed)
_LEFT_PA, _RECOVERY_KG_MIN = 50e3, 0.25
#: saturation glide above which vapor from a cylinder is another mixture than its liquid, K
_GLIDES_K = 0.5
#: less than this share of the charge counts as empty
EMPTY_SHARE = 0.03


def _size(site: Site) -> float:
    return site.machine.circuit.mass_flow_ref_kg_s / _CAREFUL_FOR_KG_S


def _cylinder_state(site: Site, cylinder: Cylinder) -> tuple[float, float, float, float]:
    """(h liquid, h vapor, liquid density, vapor density) of a cylinder at outdoor temperature."""
    fluid = refrigerant(cylinder.refrigerant)
    low, high = fluid.saturation_k(fluid.min_pa * 1.001, "bubble"), fluid.saturation_k(fluid.max_pa * 0.999, "bubble")
    pressure = fluid.saturation_pa(min(max(outdoors_k(site), low), high), "bubble")
    ln_p = math.log(pressure)
    h_f, h_g = (fluid.saturated(row, ln_p) for row in (H_F, H_G))
    return (
        h_f,
        h_g,
        liquid_density(cylinder.refrigerant, outdoors_k(site)),
        vapor_density(cylinder.refrigerant, pressure),
    )


def _hoses_filled(
    site: Site, cylinder: Cylinder, kg: float, density: float, rho_g: float
) -> tuple[Site, float, tuple[str, ...]]:
    """(site, kg that reaches the circuit, sentences): the first use purges a hose and leaves it full."""
    if site.hoses_connected:
        return site, kg, ()
    purged, held = min(HOSE_M3 * rho_g, kg), 0.0
    held = min(HOSE_M3 * density, kg - purged)
    site = replace(site, hoses_connected=True, hoses_kg=site.hoses_kg + held, lost_kg=site.lost_kg + purged)
    return (
        site,
        kg - purged - held,
        (f"The hoses take {weight(held, site.units)} and purging them {weight(purged, site.units)}.",),
    )


def _feed(site: Site, kg: float, rate_kg_s: float, enthalpy: float, *, burst_kg: Any) -> tuple[Site, list[Moment]]:
    """(site, moments): ``kg`` into the suction in bursts with pauses, or straight where ``burst_kg`` is None."""
    moments, left = [], kg
    while left > 1e-9:
        part = left if burst_kg is None else min(burst_kg, left)
        site, some = advance(
            site, part / rate_kg_s, port=Port(side="low", kg_s=rate_kg_s, enthalpy_j_kg=enthalpy), every_s=5.0
        )
        moments += some
        left -= part
        if burst_kg is not None and left > 1e-9:
            site, some = advance(site, _PAUSE_S, every_s=5.0)
            moments += some
    return site, moments


def _add(site: Site, given: dict[str, Any], *, liquid: Any) -> Done:
    cylinder = site.cylinder(given["cylinder"])
    asked = given["oz"] * KG_PER_OZ
    kg = min(asked, cylinder.kg)
    if kg <= 0.0:
        return Done(site=site, said=(f"The cylinder {cylinder.id} is empty.",), refused=True)
    h_f, h_g, rho_f, rho_g = _cylinder_state(site, cylinder)
    said = [] if kg == asked else [f"The cylinder only gives {weight(kg, site.units)}."]
    running_before = site.running
    rate = (given["rate_oz_min"] or (5.0 if liquid else 2.0) * _size(site)) * KG_PER_OZ / 60.0
    site = site.with_cylinder(replace(cylinder, kg=cylinder.kg - kg))
    site, into, words = _hoses_filled(site, cylinder, kg, rho_f if liquid else rho_g, rho_g)
    said += words
    burst = _BURST_KG * _size(site) if liquid and given.get("bursts", "yes") == "yes" else None
    before = site.circuit_kg
    site, moments = _feed(site, into, rate, h_f if liquid else h_g, burst_kg=burst)
    site = replace(site, circuit_kg=before + into)
    said += _add_warnings(site, cylinder, rate, liquid, running_before)
    return Done(site=site, moments=tuple(moments), said=tuple(said), moved_kg=kg, cylinder=cylinder.id)


def _add_warnings(site: Site, cylinder: Cylinder, rate: float, liquid: bool, was_running: bool) -> list[str]:
    said = []
    if was_running and not site.running:
        said.append(tripped_after(site.trip))
    if liquid and was_running and rate > _SLUG_SHARE * site.machine.circuit.mass_flow_ref_kg_s:
        said.append("Liquid this fast slugs the compressor: throttle it, an ounce every 10 to 15 seconds.")
    fluid = refrigerant(cylinder.refrigerant)
    pressure = fluid.saturation_pa(outdoors_k(site), "bubble")
    glide = fluid.saturation_k(pressure, "dew") - fluid.saturation_k(pressure, "bubble")
    if not liquid and glide > _GLIDES_K:
        said.append("Vapor drawn from a blend is not the same blend: charge it as a liquid, throttled.")
    if site.refrigerant != cylinder.refrigerant:
        said.append(
            f"{cylinder.refrigerant} on top of {site.refrigerant}: the "
            f"mixture is no longer any refrigerant. Recover all"
            " of it."
        )
    if site.leaking:
        said.append("The leak is not repaired: what goes in will leak out again.")
    if site.ice_share > 0.1:
        said.append("The coil is iced up: no reading taken now says anything about the charge.")
    if site.wet_share > 0.1:
        said.append("The condenser is wet: do not trust head pressure or subcooling yet.")
    said.append("Readings taken while charging mean nothing: let it stabilize.")
    return said


def add_liquid(site: Site, given: dict[str, Any]) -> Done:
    """Liquid into the suction port, throttled, in bursts."""
    return _add(site, given, liquid=True)


def add_vapor(site: Site, given: dict[str, Any]) -> Done:
    """Vapor into the suction port."""
    return _add(site, given, liquid=False)


def remove(site: Site, given: dict[str, Any]) -> Done:
    """Some out into a cylinder on the scale: liquid on the machine's own head pressure, or vapor from the suction."""
    cylinder = site.cylinder(given["into"])
    liquid = given["phase"] == "liquid"
    kg = min(given["oz"] * KG_PER_OZ, 0.95 * site.circuit_kg)
    said = []
    if kg > cylinder.room_kg:
        kg = cylinder.room_kg
        said.append("The cylinder is at 80 %: stop and use another one.")
    if kg <= 1e-6:
        return Done(site=site, said=(*said, "Nothing was recovered."), refused=True)
    h_f, h_g, rho_f, rho_g = _cylinder_state(site, cylinder)
    rate = min(8.0 * _size(site) * KG_PER_OZ / 60.0, 0.2 * site.machine.circuit.mass_flow_ref_kg_s)
    before, was_running = site.circuit_kg, site.running
    side = "high" if liquid else "low"
    site, moments = advance(site, kg / rate, port=Port(side=side, kg_s=-rate), every_s=5.0)
    site = replace(site, circuit_kg=before - kg)
    taken, in_hose = kg, 0.0
    if not site.hoses_connected:
        in_hose = min(HOSE_M3 * (rho_f if liquid else rho_g), kg)
        site = replace(site, hoses_connected=True, hoses_kg=site.hoses_kg + in_hose)
        said.append(f"The hoses hold {weight(in_hose, site.units)} of it.")
    mixed = cylinder.mixed or (cylinder.kg > 0 and cylinder.refrigerant != site.refrigerant)
    site = site.with_cylinder(
        replace(cylinder, kg=cylinder.kg + taken - in_hose, refrigerant=site.refrigerant, mixed=mixed)
    )
    if was_running and not site.running:
        said.append(tripped_after(site.trip))
    return Done(site=site, moments=tuple(moments), said=tuple(said), moved_kg=-kg, cylinder=cylinder.id)


def left_after_recovery_kg(site: Site) -> float:
    """Vapor a recovery machine leaves in the circuit, kg."""
    fluid = refrigerant(site.refrigerant)
    at = max(_LEFT_PA, fluid.min_pa)
    return internal_volume_m3(site.circuit()) * vapor_density(site.refrigerant, at) * _LEFT_PA / at


def recover_all(site: Site, given: dict[str, str]) -> Done:
    """Everything out with recovery gear, machine off."""
    cylinder = site.cylinder(given["into"])
    kg = max(site.circuit_kg + site.hoses_kg - left_after_recovery_kg(site), 0.0)
    if kg > cylinder.room_kg:
        words = (
            f"Not done: the cylinder has room for {weight(cylinder.room_kg, site.units)}, the circuit holds "
            f"{weight(kg, site.units)}; past 80 % full a warm cylinder can burst."
        )
        return Done(site=site, refused=True, said=(words,))
    minutes = 12.0 + kg / _RECOVERY_KG_MIN
    site, moments = worked(site, minutes)
    mixed = (
        cylinder.mixed
        or (cylinder.kg > 0 and cylinder.refrigerant != site.refrigerant)
        or site.fault("non_condensables") is not None
    )
    site = site.with_cylinder(replace(cylinder, kg=cylinder.kg + kg, refrigerant=site.refrigerant, mixed=mixed))
    left = site.circuit_kg + site.hoses_kg - kg
    site = replace(
        site, circuit_kg=left, hoses_kg=0.0, hoses_connected=False, low_side_kg=min(site.low_side_kg, 0.5 * left)
    )
    said = (f"{weight(kg, site.units)} recovered; log it on the cylinder.",)
    return Done(site=site, moments=tuple(moments), said=said, moved_kg=-kg, cylinder=cylinder.id)


def evacuate(site: Site, given: dict[Any, Any]) -> Done:
    """A vacuum: air and moisture go, and what is left of the refrigerant."""
    if site.circuit_kg > EMPTY_SHARE * site.machine.circuit.charge_kg + left_after_recovery_kg(site):
        words = f"Not done: {weight(site.circuit_kg, site.units)} would go out through the vacuum pump. Recover first."
        return Done(site=site, refused=True, said=(words,))
    site, moments = worked(site, 45.0)
    gone = tuple(f for f in site.faults if f.id not in ("non_condensables", "wrong_refrigerant"))
    return Done(
        site=replace(
            site,
            lost_kg=site.lost_kg + site.circuit_kg,
            circuit_kg=0.0,
            faults=gone,
            low_side_kg=0.0,
            refrigerant=site.machine.refrigerant,
        ),
        moments=tuple(moments),
        said=("Below 500 microns, and it holds.",),
    )


def weigh_in(site: Site, given: dict[str, Any]) -> Done:
    """Liquid by the scale into the standing machine: the plate's charge with the lines, or a stated weight."""
    cylinder = site.cylinder(given["cylinder"])
    asked = site.right_kg - site.circuit_kg if given["oz"] is None else given["oz"] * KG_PER_OZ
    if asked <= 0.0:
        return Done(site=site, refused=True, said=("It already holds the nameplate charge or more.",))
    h_f, h_g, rho_f, rho_g = _cylinder_state(site, cylinder)
    hose = 0.0 if site.hoses_connected else HOSE_M3 * (rho_f + rho_g)
    kg = min(asked + hose, cylinder.kg)
    site = site.with_cylinder(replace(cylinder, kg=cylinder.kg - kg))
    site, into, words = _hoses_filled(site, cylinder, kg, rho_f, rho_g)
    site, moments = worked(site, 4.0 + into / 0.5)
    short = asked - into
    said = (*words, f"{weight(kg, site.units)} by the scale, {weight(into, site.units)} of it in the system.")
    if short > 1e-4:
        said += (f"The cylinder ran out {weight(short, site.units)} short.",)
    site = replace(site, circuit_kg=site.circuit_kg + into, low_side_kg=0.0)
    return Done(site=site, moments=tuple(moments), said=said, moved_kg=kg, cylinder=cylinder.id)


def release_hoses(site: Site, given: dict[Any, Any]) -> Done:
    """Liquid left in the hoses goes back into the low side before they come off."""
    kg = site.hoses_kg
    if kg <= 0.0:
        return Done(site=site, refused=True, said=("The hoses are empty.",))
    rate = 2.0 * _size(site) * KG_PER_OZ / 60.0
    before = site.circuit_kg
    h_f = _cylinder_state(site, site.cylinders[0])[0]
    site, moments = advance(site, kg / rate, port=Port(side="low", kg_s=rate, enthalpy_j_kg=h_f), every_s=5.0)
    return Done(
        site=replace(site, circuit_kg=before + kg, hoses_kg=0.0, hoses_connected=False),
        moments=tuple(moments),
        said=(f"{weight(kg, site.units)} went back into the system.",),
        moved_kg=kg,
    )


def vent(site: Site, given: dict[str, float]) -> Done:
    """Letting it out: weight is lost and nobody may do it."""
    kg = min(given["oz"] * KG_PER_OZ, 0.95 * site.circuit_kg)
    rate = 0.1 * site.machine.circuit.mass_flow_ref_kg_s
    before = site.circuit_kg
    site, moments = advance(site, kg / rate, port=Port(side="high", kg_s=-rate), every_s=5.0)
    said: tuple[str, ...] = (
        (
            f"{weight(kg, site.units)} vented: against the law, frostbite at the port, and nobody knows any more"
            " what was in it. Recover instead."
        ),
    )
    if refrigerant(site.refrigerant).safety_class in ("A2L", "A3"):
        said += ("It is flammable: one spark is enough.",)
    return Done(
        site=replace(site, circuit_kg=before - kg, lost_kg=site.lost_kg + kg),
        moments=tuple(moments),
        said=said,
        moved_kg=-kg,
    )


_OZ = Parameter(name="oz", unit="oz", low=0.01, high=400.0)
_FROM = Parameter(name="cylinder", words=("new", "recovery"), default="new")
_INTO = Parameter(name="into", words=("recovery", "new"), default="recovery")
_RATE = Parameter(name="rate_oz_min", unit="oz/min", low=0.02, high=60.0, optional=True)
_COLD = "Liquid refrigerant causes frostbite: gloves and safety glasses."
KINDS = (
    ActionKind(
        id="add_liquid",
        name="Add liquid by the scale",
        group="refrigerant",
        do=add_liquid,
        certification=True,
        refrigerant="in",
        parameters=(_OZ, _FROM, _RATE, Parameter(name="bursts", words=("yes", "no"), default="yes")),
        money="small",
        risk=_COLD + " Too fast and the compressor slugs; it is easy to overshoot.",
    ),
    ActionKind(
        id="add_vapour",
        name="Add vapor by the scale",
        group="refrigerant",
        do=add_vapor,
        certification=True,
        refrigerant="in",
        parameters=(_OZ, _FROM, _RATE),
        money="small",
        risk=_COLD + " Vapor drawn from a blend is not the same blend.",
    ),
    ActionKind(
        id="remove",
        name="Recover some into a cylinder on the scale",
        group="refrigerant",
        do=remove,
        certification=True,
        recovery=True,
        refrigerant="out",
        parameters=(_OZ, _INTO, Parameter(name="phase", words=("liquid", "vapour"), default="liquid")),
        risk=_COLD + " Never past 80 % full.",
    ),
    ActionKind(
        id="recover_all",
        name="Recover everything",
        group="refrigerant",
        do=recover_all,
        certification=True,
        recovery=True,
        refrigerant="out",
        machine=OFF,
        parameters=(_INTO,),
        risk="Never past 80 % full; use equipment rated for this refrigerant.",
    ),
    ActionKind(
        id="evacuate",
        name="Evacuate",
        group="refrigerant",
        do=evacuate,
        certification=True,
        machine=OFF,
        minutes=45,
        refrigerant="out",
        risk="Never run the compressor in a vacuum.",
    ),
    ActionKind(
        id="weigh_in",
        name="Weigh in the charge",
        group="refrigerant",
        do=weigh_in,
        certification=True,
        machine=OFF,
        refrigerant="in",
        parameters=(Parameter(name="oz", unit="oz", low=0.01, high=400.0, optional=True), _FROM),
        money="small",
        risk=_COLD,
    ),
    ActionKind(
        id="release_hoses",
        name="Clear the hoses into the low side",
        group="refrigerant",
        do=release_hoses,
        minutes=1,
        refrigerant="in",
        risk="Throttle it, or the liquid slugs the compressor.",
    ),
    ActionKind(
        id="vent",
        name="Vent some to the air",
        group="refrigerant",
        do=vent,
        parameters=(_OZ,),
        refrigerant="lost",
        risk="Against the law and dangerous: recover instead.",
    ),
)
