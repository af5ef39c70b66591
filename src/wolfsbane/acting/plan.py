"""The right plan for a machine: what to do first, in which order, how much by the scale,
and how sure the amount has to be.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import action_kind
from wolfsbane.acting.actions.repairs import BY_ID, repaired_by
from wolfsbane.acting.coil_water import outdoors_k
from wolfsbane.acting.cylinders import HOSE_M3, liquid_density, vapor_density
from wolfsbane.acting.settling import steady_state
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import KG_PER_OZ

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

#: what is done first: time, looking, air over both coils, valve and piping, compressor, and the charge last (common
#: practice, no source)
ORDER = (
    "wet_condenser",
    "service_valve_part_closed",
    "low_airflow",
    "economizer_stuck_open",
    "dirty_condenser",
    "condenser_fan_weak",
    "condenser_recirculation",
    "low_water_flow",
    "water_condenser_fouled",
    "one_circuit_off",
    "valve_overfeeding",
    "valve_underfeeding",
    "valve_hunting",
    "orifice_oversized",
    "orifice_undersized",
    "liquid_line_restriction",
    "suction_line_restriction",
    "distributor_blocked",
    "mismatched_coil",
    "reversing_valve_leak",
    "compressor_not_pumping",
    "leaking_compressor_valves",
    "non_condensables",
    "wrong_refrigerant",
    "long_liquid_line",
    "overcharge",
    "undercharge",
)
#: nothing on the machine to repaired: load, air and rooms
NOTHING_TO_REPAIR = ("high_load", "low_load", "undersized_unit", "stratified_air")
#: a charge within this share of the right one counts where no figure tells, as on a sealed circuit (assumed)
_WEIGHED_SHARE = 0.03
#: widest tolerance an amount is given, share of the charge (assumed)
_WIDEST_SHARE = 0.10
#: shares of the charge between which the slope of a figure is taken
_BELOW, _ABOVE = 0.96, 1.04


@dataclass(frozen=True, kw_only=True)
class Step:
    """One step of a plan: an action with its arguments, the fault it is for,
    and the weight in kg where it moves some.
    """

    action: str
    arguments: dict[str, Any]
    fault: str
    amount_kg: float | None = None
    tolerance_kg: float | None = None


@dataclass(frozen=True, kw_only=True)
class Plan:
    """Steps in order; ``faults`` in the order they are repaired; ``by`` is how the charge is judged.

    That is subcooling, superheat, weight or glass.
    """

    steps: tuple[Step, ...]
    faults: tuple[Fault, ...]
    by: str


def in_order(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Faults in the order they are repaired."""
    return tuple(sorted(faults, key=lambda f: ORDER.index(f.id) if f.id in ORDER else -1))


def judged_by(machine: Machine) -> str:
    """What tells that the charge is right on this machine."""
    if machine.sealed or machine.in_heating:
        return "weight"
    if machine.receiver:
        return "glass"
    return "superheat" if machine.metering in ("fixed_orifice", "capillary") else "subcooling"


def tolerance_kg(site: Site, half_width_dk: float | None) -> float:
    """How far the charge may be off before the judged figure leaves its band, kg either way.

    ``half_width_dk`` is half the band's width, K; the slope is solved on the machine with nothing else wrong in this
    weather.
    """
    by, right = judged_by(site.machine), site.right_kg
    if by in ("weight", "glass") or half_width_dk is None:
        return _WEIGHED_SHARE * right
    fault_free = replace(
        site,
        faults=tuple(f for f in site.faults if f.id == "long_liquid_line"),
        wet_share=0.0,
        moving=None,
        refrigerant=site.machine.refrigerant,
    )
    found = []
    for share in (_BELOW, _ABOVE):
        try:
            found.append(steady_state(replace(fault_free, circuit_kg=share * right)))
        except NoConvergenceError:
            return _WEIGHED_SHARE * right
    attribute = "superheat_dk" if by == "superheat" else "subcooling_dk"
    slope = abs(getattr(found[1], attribute) - getattr(found[0], attribute)) / ((_ABOVE - _BELOW) * right)
    return min(half_width_dk / max(slope, 1e-6), _WIDEST_SHARE * right)


def hose_kg(site: Site) -> tuple[float, float]:
    """(liquid a filled hose holds, vapor its purge loses), kg."""
    name, t_k = site.machine.refrigerant, outdoors_k(site)
    pressure = refrigerant(name).saturation_pa(t_k, "bubble")
    return HOSE_M3 * liquid_density(name, t_k), HOSE_M3 * vapor_density(name, pressure)


def plan(site: Site, faults: tuple[Fault, ...], half_width_dk: float | None = None) -> Plan:
    """The :class:`Plan` for ``site``, which holds ``faults`` as planted (charge faults too),
    repaired in the order given.
    """
    steps, opened = [], False
    for fault in faults:
        some, opens = _repair(site, fault, half_width_dk, opened)
        steps += some
        opened = opened or opens
    return Plan(steps=tuple(_switched(site, steps)), faults=tuple(faults), by=judged_by(site.machine))


def _repair(site: Site, fault: Fault, half_width_dk: float | None, opened: bool) -> tuple[list[Step], bool]:
    """(steps for one fault, whether they leave the charge weighed in)."""
    if fault.id in NOTHING_TO_REPAIR:
        return [], False

    def step(action: Any, **more: Any) -> Any:
        return Step(action=action, arguments=more, fault=fault.id)

    if fault.id == "wet_condenser":
        return [step("dry_condenser")], False
    if fault.id in ("non_condensables", "wrong_refrigerant"):
        return [] if opened and fault.id == "non_condensables" else _anew(site, fault, half_width_dk), True
    if fault.id in ("undercharge", "overcharge", "long_liquid_line"):
        return _charge(site, fault, half_width_dk, opened), site.machine.sealed
    repair = BY_ID[repaired_by(fault)[0]]
    return [step(repair.id), *([step("dry_condenser")] if repair.wets else [])], repair.opens


def _anew(site: Site, fault: Fault, half_width_dk: float | None) -> list[Step]:
    weighed = Step(
        action="weigh_in",
        arguments={},
        fault=fault.id,
        amount_kg=site.right_kg,
        tolerance_kg=tolerance_kg(site, half_width_dk),
    )
    return [
        Step(action="recover_all", arguments={}, fault=fault.id),
        Step(action="evacuate", arguments={}, fault=fault.id),
        weighed,
    ]


def _charge(site: Site, fault: Fault, half_width_dk: float | None, opened: bool) -> list[Step]:
    """Leak first; then by the scale while it runs, or all of it again on a sealed circuit."""
    leak = (
        [Step(action="mend_leak", arguments={}, fault=fault.id)] if site.leaking and fault.id == "undercharge" else []
    )
    if opened:
        return leak
    if site.machine.sealed:
        return [*leak, *_anew(site, fault, half_width_dk)]
    missing, tolerance = site.right_kg - site.circuit_kg, tolerance_kg(site, half_width_dk)
    held, purged = hose_kg(site)
    out = missing < 0.0
    by_scale = -missing + held if out else missing + purged
    if abs(missing) < 1e-4:
        return leak
    arguments = {"oz": round(by_scale / KG_PER_OZ, 2)}
    moved = Step(
        action="remove" if out else "add_liquid",
        arguments=arguments,
        fault=fault.id,
        amount_kg=missing,
        tolerance_kg=tolerance,
    )
    return [
        *leak,
        moved,
        Step(action="settle", arguments={}, fault=fault.id),
        Step(action="release_hoses", arguments={}, fault=fault.id),
    ]


def _switched(site: Site, steps: list[Step]) -> list[Step]:
    """The steps with stops and starts between them, and a last settling."""
    running, made = site.running, []
    for step in steps:
        wants = action_kind(step.action).machine
        must_run = wants == "on" or step.action in ("settle", "release_hoses", "add_liquid", "remove")
        if wants == "off" and running:
            made.append(Step(action="stop", arguments={}, fault=step.fault))
            running = False
        elif must_run and not running:
            made.append(Step(action="start", arguments={}, fault=step.fault))
            made += (
                [Step(action="settle", arguments={}, fault=step.fault)]
                if step.action not in ("settle", "dry_condenser")
                else []
            )
            running = True
        made.append(step)
    if made and not running:
        made.append(Step(action="start", arguments={}, fault=steps[-1].fault))
    return [*made, Step(action="settle", arguments={}, fault=steps[-1].fault)] if steps else []
