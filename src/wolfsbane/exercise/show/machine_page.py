"""One machine for whoever chooses it: what it teaches, and how its figures follow the charge."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import SYSTEMS, to_display
from wolfsbane.diagnosis.targets import charged_by
from wolfsbane.exercise.plan.handles import weather_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: charges drawn, per cent of the right one; a receiver takes up much more
_SHARES, _SHARES_WITH_RECEIVER = range(60, 135, 5), range(20, 135, 5)
#: dew and bubble farther apart than this are worth a word, °F
_GLIDE_DF = 2.0


def teaches(machine: Machine) -> list[str]:
    """What a class can learn on this machine, a sentence each."""
    found = [_charging(machine)]
    fluid = refrigerant(machine.refrigerant)
    glide = fluid.glide_dk(fluid.saturation_pa(280.0, "bubble")) * 1.8
    if glide > _GLIDE_DF:
        found.append(
            f"{machine.refrigerant} glides about {glide:.0f} °F: superheat from the dew point, subcooling from"
            f" the bubble"
            " point."
        )
    if machine.condenser == "microchannel":
        found.append("A microchannel coil holds little: a few ounces count, and it is not pumped down.")
    if machine.condenser == "water_cooled":
        found.append("Water-cooled: temperature rise and approach tell low flow from fouling.")
    if machine.in_heating:
        found.append("In heating the indoor coil condenses: head follows indoor airflow, suction the weather.")
    if machine.circuits > 1:
        found.append("Two circuits: compare the bad one with the good one.")
    if machine.metering == "eev":
        found.append("An electronic valve has no bulb to look at: its board and sensor are checked instead.")
    if machine.stage:
        found.append("Two stages: it is read and charged in high stage.")
    if fluid.safety_class in ("A2L", "A3"):
        burns = "mildly flammable" if fluid.safety_class == "A2L" else "flammable"
        found.append(
            f"{machine.refrigerant} is {fluid.safety_class}, {burns}: ventilate, no open flame, before opening it."
        )
    return found


def _charging(machine: Machine) -> str:
    by = charged_by(machine)
    if machine.receiver:
        return "Charge shows in the sight glass and the receiver level; subcooling hardly moves."
    if machine.sealed:
        return (
            "No gauges first: line temperatures, the chart, and whether opening it is worth it. Charge is weighed in."
        )
    if machine.in_heating:
        return "Charge is weighed in; superheat and subcooling move with the weather."
    if by == "superheat":
        return "Charged by total superheat: the target moves with return wet bulb and outdoor air."
    if by == "subcooling":
        return "Charged by nameplate subcooling: the valve holds superheat, which tells little of the charge by itself."
    return "A cap tube feeds what the pressures allow: superheat follows charge and load. Charge is weighed in."


def charge_chart(machine: Machine, system: str) -> dict[str, Any]:
    """Figures of the machine with nothing wrong over the charge in it, at its rating point.

    ``points`` are {percent, charge, superheat, subcooling, level, bubbles}: weight and degrees in the units of
    ``system``, liquid in the receiver in per cent (None without one) and vapor in the liquid line in per cent; ``by``
    is the figure it is charged by, None where the scale decides. Charges at which it trips or finds no operating point
    are left out.
    """
    rated = {w["field"]: w["rated"] for w in weather_of(machine)}
    conditions = for_machine(machine, **rated)
    k = 1.8 if system == "us" else 1.0
    able = {kind.id for kind in faults_for(machine)}
    points = []
    for share in _SHARES_WITH_RECEIVER if machine.receiver else _SHARES:
        name = "undercharge" if share < 100 else "overcharge"
        if share != 100 and name not in able:
            continue
        faults = () if share == 100 else (Fault(id=name, severity=float(share)),)
        try:
            state = solve(machine, conditions, faults)
        except NoConvergenceError:
            continue
        if state.trip is not None:
            continue
        points.append(
            {
                "percent": share,
                "charge": round(to_display("mass", machine.circuit.charge_kg * share / 100.0, system), 1),
                "superheat": round(state.superheat_dk * k, 1) + 0.0,
                "subcooling": round(state.subcooling_dk * k, 1) + 0.0,
                "level": None if state.receiver is None else round(100.0 * state.receiver.level),
                "bubbles": round(100.0 * state.sight_glass_quality, 1),
            }
        )
    return {
        "by": charged_by(machine),
        "unit": SYSTEMS[system]["difference"][0],
        "mass_unit": SYSTEMS[system]["mass"][0],
        "points": points,
    }
