"""Faults of the lines between the parts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig
from wolfsbane.cycle.units import PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine

_ANY = "any machine"
#: a 3/8 inch liquid line holds about this much per foot, and loses about this much pressure per foot at three tons
_LITRES_PER_FT, _PSI_PER_FT, _SUCTION_PSI_PER_FT = 0.0155, 0.12, 0.05


def _any(machine: Machine) -> bool:
    return True


def _restriction(circuit: Circuit, psi: float) -> Circuit:
    return circuit._replace(restriction_pa_at_ref=circuit.restriction_pa_at_ref + psi * PA_PER_PSI)


def _liquid_valve(circuit: Circuit, psi: float) -> Circuit:
    return circuit._replace(liquid_valve_pa_at_ref=circuit.liquid_valve_pa_at_ref + psi * PA_PER_PSI)


def _suction(circuit: Circuit, times: float) -> Circuit:
    return circuit._replace(suction_restriction_pa_at_ref=times * circuit.suction_drop_pa_at_ref)


def _long_line(circuit: Circuit, feet: float) -> Circuit:
    """The line is sized with the machine, so volume per foot follows its flow."""
    size = circuit.mass_flow_ref_kg_s / 0.064
    return circuit._replace(
        liquid_line_volume_m3=circuit.liquid_line_volume_m3 + feet * _LITRES_PER_FT * 1e-3 * size,
        line_drop_pa_at_ref=circuit.line_drop_pa_at_ref + feet * _PSI_PER_FT * PA_PER_PSI,
        suction_drop_pa_at_ref=circuit.suction_drop_pa_at_ref + feet * _SUCTION_PSI_PER_FT * PA_PER_PSI,
    )


_CUT = "Recover before cutting into a line; no flame near refrigerant."
KINDS = (
    FaultKind(
        id="liquid_line_restriction",
        name="Restricted drier or liquid line",
        parameter="pressure drop at rated flow",
        unit="psi",
        fault_free=0,
        limit=400,
        mild=110,
        moderate=160,
        severe=240,
        part="liquid line",
        suits=_any,
        suits_text=_ANY,
        apply=_restriction,
        causes=(
            Cause(id="clogged_drier", look="Drier sweats or is colder at its outlet."),
            Cause(id="kinked_line", look="A crushed bend behind the unit.", checks={"liquid_line": "kinked"}),
            Cause(id="plugged_strainer", look="Frost at the strainer."),
        ),
        effect=(
            "Liquid loses pressure and flashes before the metering device: the evaporator starves, the condenser is"
            " full."
        ),
        tests=("drier_drop", "liquid_line"),
        remedy="Recover, replace the drier or repair the line, evacuate, weigh in the charge",
        hazard=_CUT,
        rig=Rig(
            plant="Close the hand valve in the liquid line by the stated turns.",
            undo="Open it fully and replace the cap.",
            settle_min=12,
            limits="Stay above the low-pressure cutout; watch the discharge temperature.",
        ),
    ),
    FaultKind(
        id="service_valve_part_closed",
        name="Liquid service valve partly closed",
        parameter="pressure drop at rated flow",
        unit="psi",
        fault_free=0,
        limit=400,
        mild=110,
        moderate=160,
        severe=240,
        part="liquid service valve",
        suits=lambda m: not m.sealed,
        suits_text="a machine with service valves",
        apply=_liquid_valve,
        stands_for="liquid_line_restriction",
        causes=(
            Cause(id="not_backed_out", look="Valve stem not backed out.", checks={"service_valve": "part closed"}),
        ),
        effect=(
            "The pressure drop is ahead of the gauge port: the high-side gauge reads low and the line is cold there."
        ),
        tests=("service_valve", "drier_drop"),
        remedy="Back-seat the service valve fully, then take readings again",
        hazard="Stems can blow out: stand to the side and crack the cap slowly.",
        rig=Rig(
            plant="Close the liquid service valve by the stated turns.",
            undo="Back-seat it fully and replace the cap.",
            settle_min=12,
            limits="Stay above the low-pressure cutout.",
        ),
    ),
    FaultKind(
        id="suction_line_restriction",
        name="Restricted suction line",
        parameter="added pressure drop, times the line's own",
        unit="×",
        fault_free=0,
        limit=20,
        mild=3,
        moderate=5.5,
        severe=9,
        part="suction line",
        suits=_any,
        suits_text=_ANY,
        apply=_suction,
        causes=(
            Cause(
                id="suction_drier",
                look="Old suction drier left in after a burnout.",
                checks={"suction_line": "cold step"},
            ),
            Cause(id="kinked_line", look="Flattened at the wall.", checks={"suction_line": "kinked"}),
        ),
        effect="The compressor sees lower pressure than the evaporator, so it pumps thinner gas.",
        tests=("suction_line", "drier_drop"),
        remedy="Remove the restriction",
        hazard=_CUT,
        rig=Rig(
            plant="Close the suction hand valve by the stated turns.",
            undo="Open it fully.",
            settle_min=10,
            limits="Stay above the low-pressure cutout and below 220 °F discharge temperature.",
        ),
    ),
    FaultKind(
        id="long_liquid_line",
        name="Long line set, charge not adjusted",
        parameter="line length beyond the standard line set",
        unit="ft",
        fault_free=0,
        limit=150,
        mild=40,
        moderate=70,
        severe=110,
        part="lines",
        suits=lambda m: m.application in ("air_conditioner", "heat_pump_cooling"),
        suits_text="a split machine",
        apply=_long_line,
        stands_for="undercharge",
        causes=(
            Cause(
                id="no_charge_added",
                look="The outdoor unit sits far from the house.",
                checks={"line_length": "longer than standard"},
            ),
        ),
        effect="The extra line holds refrigerant the condenser is then short of, and costs pressure drop both ways.",
        tests=("line_length", "drier_drop"),
        remedy="Measure the line set, weigh in what the nameplate calls for per foot",
        hazard="Gloves and safety glasses when charging.",
        rig=Rig(
            plant="Recover the charge of the stated length.",
            undo="Weigh it back in.",
            settle_min=15,
            limits="Stay above the low-pressure cutout.",
        ),
    ),
)
