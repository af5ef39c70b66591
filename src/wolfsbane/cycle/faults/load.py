"""What is no fault of the circuit: load, weather, ducts, a machine too small."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine

_NO_RIG = Rig(
    plant="Set the room or box as stated.", undo="Set it back.", settle_min=20, limits="None beyond the machine's own."
)


def _any(machine: Machine) -> bool:
    return True


def _package(machine: Machine) -> bool:
    return machine.application == "package_unit"


def _comfort(machine: Machine) -> bool:
    return machine.comfort


def _warmer(circuit: Circuit, df: float) -> Circuit:
    """People, doors and goods bring water along: the air stays as humid (assumed)."""
    return circuit._replace(return_offset_k=circuit.return_offset_k + df / 1.8)


def _cooler(circuit: Circuit, df: float) -> Circuit:
    return _warmer(circuit, -df)


def _dry_warmer(circuit: Circuit, df: float) -> Circuit:
    """Sun and walls bring no water."""
    return circuit._replace(return_dry_offset_k=circuit.return_dry_offset_k + df / 1.8)


def _outdoor_air(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(outdoor_air_share=pct / 100.0)


def _pumping(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(pumping_share=circuit.pumping_share * pct / 100.0)


def _stratified(circuit: Circuit, df: float) -> Circuit:
    return circuit._replace(stratified_k=df / 1.8)


KINDS = (
    FaultKind(
        id="high_load",
        name="High load",
        parameter="air to the coil above set point",
        unit="°F",
        fault_free=0,
        limit=25,
        mild=6,
        moderate=10,
        severe=15,
        part="load",
        suits=_any,
        suits_text="any machine",
        apply=_warmer,
        whole_machine=True,
        causes=(
            Cause(id="pull_down", look="Started an hour ago after days off."),
            Cause(id="full_house", look="Forty guests, doors open."),
            Cause(id="warm_product", look="Warm goods were loaded."),
        ),
        effect="Everything on the low side rises with the load; a TXV is wide open.",
        tests=("airflow", "pump_down"),
        remedy="Let it pull down, then check it again",
        hazard="Heat illness: water, rest, and a second person on roofs.",
        rig=_NO_RIG,
    ),
    FaultKind(
        id="low_load",
        name="Low load",
        parameter="air to the coil below set point",
        unit="°F",
        fault_free=0,
        limit=18,
        mild=5,
        moderate=8,
        severe=12,
        part="load",
        suits=_any,
        suits_text="any machine",
        apply=_cooler,
        whole_machine=True,
        causes=(
            Cause(id="cold_house", look="Set to 62 °F, dry."),
            Cause(id="empty_box", look="Box empty, door taped."),
        ),
        effect="Pressures fall with the load; TD and CTOA stay normal. Not a fault.",
        tests=("airflow",),
        remedy="Leave the system alone and explain the readings",
        hazard="Every time gauges go on, some refrigerant is lost.",
        rig=_NO_RIG,
    ),
    FaultKind(
        id="undersized_unit",
        name="Undersized unit, nothing wrong",
        parameter="room above set point",
        unit="°F",
        fault_free=0,
        limit=20,
        mild=4,
        moderate=7,
        severe=11,
        part="load",
        suits=_comfort,
        suits_text="a machine that cools rooms",
        apply=_dry_warmer,
        whole_machine=True,
        stands_for="high_load",
        causes=(
            Cause(id="addition_built", look="A sun room was added.", checks={"house": "grew"}),
            Cause(id="extreme_weather", look="Hotter outside than any design day.", checks={"house": "as designed"}),
        ),
        effect="The system is normal and runs nonstop; the room is just too much for it.",
        tests=("house", "airflow"),
        remedy="Leave the system alone; talk with the customer about the load",
        hazard="Every time gauges go on, some refrigerant is lost.",
        rig=_NO_RIG,
    ),
    FaultKind(
        id="economizer_stuck_open",
        name="Economizer stuck open",
        parameter="share of outdoor air in the mixed air",
        unit="%",
        fault_free=10,
        limit=100,
        mild=40,
        moderate=65,
        severe=95,
        part="load",
        suits=_package,
        suits_text="a package unit",
        apply=_outdoor_air,
        whole_machine=True,
        stands_for="high_load",
        causes=(
            Cause(id="linkage", look="Damper open on a hot day.", checks={"economizer": "open"}),
            Cause(id="sensor", look="Outdoor sensor reads cold.", checks={"economizer": "open"}),
        ),
        effect="Outdoor air loads the coil whether the room calls for it or not.",
        tests=("economizer", "mixed_air"),
        remedy="Free the damper; check its sensor and minimum position",
        hazard="Dampers pinch: lock out power first.",
        rig=_NO_RIG,
    ),
    FaultKind(
        id="stratified_air",
        name="Stratified air (mixed air in layers)",
        parameter="top of the airstream above the bottom",
        unit="°F",
        fault_free=0,
        limit=30,
        mild=8,
        moderate=14,
        severe=20,
        part="load",
        suits=_package,
        suits_text="a package unit",
        apply=_stratified,
        whole_machine=True,
        causes=(
            Cause(id="probe_high", look="Supply sensor near the top of the duct."),
            Cause(id="probe_low", look="Supply sensor near the bottom of the duct."),
        ),
        effect=(
            "Circuit 1 cools the upper half of the airstream, circuit 2 the "
            "lower; one supply probe reads only one of them."
        ),
        tests=("supply_traverse", "mixed_air"),
        remedy="Traverse the duct; move the sensor or mix the air",
        hazard="Rotating blower behind the panel: lock out power first.",
        rig=_NO_RIG,
    ),
    FaultKind(
        id="one_circuit_off",
        name="Second circuit weak or off",
        parameter="second circuit's pumping capacity remaining",
        unit="%",
        fault_free=100,
        limit=0,
        mild=40,
        moderate=20,
        severe=0,
        part="second circuit",
        suits=lambda m: m.circuits == 2,
        suits_text="a machine with two circuits",
        apply=_pumping,
        second_circuit=True,
        causes=(
            Cause(id="tripped", look="Its cutout stands open."),
            Cause(id="contactor", look="Its contactor does not pull in."),
        ),
        effect="Half the coil does nothing; the circuit that runs looks normal.",
        tests=("second_circuit", "supply_traverse"),
        remedy="Find out why the second circuit is off",
        hazard="Live contactors: test for zero voltage before touching.",
        rig=Rig(plant="Switch the second circuit off.", undo="Switch it on.", settle_min=10, limits="None."),
    ),
)
