"""Faults of what is in the circuit: too little, too much, air, the wrong refrigerant."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine

WRONG_REFRIGERANT = "wrong_refrigerant"
_ANY = "any machine"


def _any(machine: Machine) -> bool:
    return True


def _charge(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(charge_kg=circuit.charge_kg * pct / 100.0)


def _air(circuit: Circuit, air_share: float) -> Circuit:
    """Liters of air at 20 degC and one atmosphere for each liter of condenser: 41.6 mol a cubic meter."""
    moles = 41.57 * air_share * circuit.condenser_volume_m3
    return circuit._replace(non_condensable_mol=circuit.non_condensable_mol + moles)


KINDS = (
    FaultKind(
        id="undercharge",
        name="Low charge (undercharged)",
        parameter="charge, percent of the correct charge",
        unit="%",
        fault_free=100,
        limit=20,
        limit_without=40,
        with_receiver=(54, 44, 36),
        when_heating=(80, 70, 60),
        mild=88,
        moderate=80,
        severe=70,
        part="charge",
        suits=_any,
        suits_text=_ANY,
        apply=_charge,
        causes=(
            Cause(id="leak", look="Oil at a flare or a braze, caps missing.", checks={"oil_traces": True}),
            Cause(id="undercharged_at_start", look="Never right since it was set; no oil anywhere."),
        ),
        effect="Too little refrigerant: the condenser loses its liquid first, then the evaporator starves.",
        tests=("drier_drop", "sight_glass", "oil_traces", "standing_pressure"),
        remedy="Find and repair the leak, then weigh the charge in",
        hazard="Liquid refrigerant causes frostbite: gloves and safety glasses. Recover, never vent.",
        rig=Rig(
            plant="Recover the stated weight into a cylinder on the scale.",
            undo="Weigh the same refrigerant back in as a liquid.",
            settle_min=15,
            limits="Stay above the low-pressure cutout; do not leave the coil icing.",
        ),
    ),
    FaultKind(
        id="overcharge",
        name="Overcharged",
        parameter="charge, percent of the correct charge",
        unit="%",
        fault_free=100,
        limit=230,
        limit_without=150,
        with_receiver=(150, 172, 178),
        mild=116,
        moderate=124,
        severe=134,
        part="charge",
        suits=_any,
        suits_text=_ANY,
        apply=_charge,
        causes=(Cause(id="overfilled", look="Somebody added gas; nothing in the log."),),
        effect="Liquid backs up in the condenser and takes up condensing surface.",
        tests=("condenser_air_rise", "standing_pressure"),
        remedy="Recover into a cylinder on the scale, down to the nameplate charge",
        hazard="Never fill a recovery cylinder past 80 %. Gloves and safety glasses.",
        rig=Rig(
            plant="Weigh in the stated amount as a liquid, in short bursts.",
            undo="Recover the same weight.",
            settle_min=15,
            limits="Stop 50 psi short of the high-pressure cutout; microchannel coils reach it early.",
        ),
    ),
    FaultKind(
        id="non_condensables",
        name="Non-condensables (air)",
        parameter="air in the system, at room pressure",
        unit="condenser volumes",
        fault_free=0,
        limit=5,
        mild=0.8,
        moderate=1.5,
        severe=2.4,
        part="condenser",
        suits=_any,
        suits_text=_ANY,
        apply=_air,
        causes=(
            Cause(id="not_evacuated", look="Opened last month; no vacuum figure in the log."),
            Cause(id="drawn_in", look="Ran in a vacuum with a leak on the low side.", checks={"oil_traces": True}),
        ),
        effect="Air collects in the condenser, adds its own pressure and takes up condensing surface.",
        tests=("standing_pressure", "condenser_air_rise"),
        remedy="Recover, evacuate to a vacuum that holds, weigh in new refrigerant",
        hazard="Head pressure can climb far past normal: stay clear of the discharge side.",
        rig=Rig(
            plant="",
            undo="",
            settle_min=0,
            limits="Not on a student rig without the owner's written approval: use printed readings instead.",
        ),
    ),
    FaultKind(
        id=WRONG_REFRIGERANT,
        name="Wrong refrigerant charged",
        parameter="weight charged, percent of the nameplate charge",
        unit="%",
        fault_free=70,
        limit=120,
        mild=85,
        moderate=100,
        severe=110,
        part="charge",
        suits=lambda m: bool(m.substitute),
        suits_text="a machine with a likely substitute refrigerant",
        apply=_charge,
        causes=(Cause(id="wrong_cylinder", look="The plate and the label at the port do not agree."),),
        effect="A different refrigerant is in the system; the PT scale on the gauge no longer matches its pressures.",
        tests=("standing_pressure", "amps"),
        remedy="Recover everything into its own cylinder, evacuate, weigh in the refrigerant on the nameplate",
        hazard="Mixed or substitute refrigerant: treat it as flammable until identified, no ignition sources.",
        rig=Rig(plant="", undo="", settle_min=0, limits="Never planted on a rig: read it from the sheet instead."),
    ),
)
