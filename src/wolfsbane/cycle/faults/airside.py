"""Faults of the air (or water) over the coils."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine


def _air_cooled(machine: Machine) -> bool:
    return machine.condenser != "water_cooled"


def _outdoor_condenser(machine: Machine) -> bool:
    return _air_cooled(machine) and not machine.in_heating


def _water_cooled(machine: Machine) -> bool:
    return machine.condenser == "water_cooled"


def _any(machine: Machine) -> bool:
    return True


def _condenser_air(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(condenser_air_fraction=circuit.condenser_air_fraction * pct / 100.0)


def _evaporator_air(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(evaporator_air_fraction=circuit.evaporator_air_fraction * pct / 100.0)


def _recirculated(circuit: Circuit, warmer_df: float) -> Circuit:
    return circuit._replace(condenser_entering_offset_k=circuit.condenser_entering_offset_k + warmer_df / 1.8)


def _wet(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(condenser_wet_share=pct / 100.0)


def _fouled(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(condenser_ua_air_w_k=circuit.condenser_ua_air_w_k * pct / 100.0)


def _small_coil(circuit: Circuit, pct: float) -> Circuit:
    names = ("evaporator_ua_air_w_k", "evaporator_ua_two_phase_w_k", "evaporator_ua_gas_w_k", "evaporator_volume_m3")
    return circuit._replace(**{name: getattr(circuit, name) * pct / 100.0 for name in names})


_FAN = "Isolate and lock off; discharge capacitors before opening the outdoor unit. Blades start without warning."
_BOARD = "Take the board or cloth off."
KINDS = (
    FaultKind(
        id="dirty_condenser",
        name="Dirty condenser",
        name_in_heating="Dirty outdoor coil",
        parameter="condenser airflow left",
        unit="%",
        fault_free=100,
        limit=25,
        mild=70,
        moderate=60,
        severe=50,
        part="condenser air",
        suits=_air_cooled,
        suits_text="an air-cooled condenser",
        apply=_condenser_air,
        whole_machine=True,
        causes=(
            Cause(
                id="dirt_between_rows",
                look="Looks clean from the lawn; packed with lint between the rows.",
                checks={"condenser_coil": "dirty"},
            ),
            Cause(id="face_blocked", look="Cottonwood over the face.", checks={"condenser_coil": "dirty"}),
        ),
        effect=(
            "Less air to carry the heat off: head pressure and liquid line "
            "temperature rise, and the air leaving the coil is hotter."
        ),
        tests=("condenser_coil", "condenser_air_rise"),
        remedy="Clean the condenser coil from the inside out, let it dry, run it and take readings again",
        hazard=_FAN,
        rig=Rig(
            plant="Block part of the condenser face with a board.",
            undo=_BOARD,
            settle_min=12,
            limits="Stop 50 psi short of the high-pressure cutout.",
        ),
    ),
    FaultKind(
        id="condenser_fan_weak",
        name="Condenser fan slow",
        name_in_heating="Outdoor fan slow",
        parameter="condenser airflow left",
        unit="%",
        fault_free=100,
        limit=25,
        mild=70,
        moderate=60,
        severe=50,
        part="condenser air",
        suits=_air_cooled,
        suits_text="an air-cooled condenser",
        apply=_condenser_air,
        whole_machine=True,
        stands_for="dirty_condenser",
        causes=(
            Cause(id="capacitor", look="Fan turns slowly; coil clean.", checks={"condenser_fan": "slow"}),
            Cause(
                id="wrong_blade",
                look="New fan blade with the wrong pitch; coil clean.",
                checks={"condenser_fan": "wrong blade"},
            ),
            Cause(id="turns_backwards", look="Air is drawn in at the top.", checks={"condenser_fan": "backwards"}),
        ),
        effect="Reads like a dirty condenser, but the coil is clean and the fan is moving too little air.",
        tests=("condenser_fan", "condenser_coil", "condenser_air_rise"),
        remedy="Fix the fan: check capacitor, motor, blade and rotation",
        hazard=_FAN,
        rig=Rig(
            plant="Run the condenser fan on a speed control.",
            undo="Set the speed control back to full.",
            settle_min=12,
            limits="Stop 50 psi short of the high-pressure cutout.",
        ),
    ),
    FaultKind(
        id="condenser_recirculation",
        name="Condenser air recirculating",
        name_in_heating="Outdoor air recirculating",
        parameter="entering air above outdoor temperature",
        unit="°F",
        fault_free=0,
        limit=40,
        mild=10,
        moderate=16,
        severe=24,
        part="condenser air",
        suits=_air_cooled,
        suits_text="an air-cooled condenser",
        apply=_recirculated,
        whole_machine=True,
        stands_for="dirty_condenser",
        causes=(
            Cause(id="under_a_deck", look="A deck stands over the unit.", checks={"condenser_place": "closed in"}),
            Cause(
                id="hot_exhaust", look="A dryer vent blows at the coil.", checks={"condenser_place": "in hot exhaust"}
            ),
        ),
        effect="The air entering the coil is hotter than outdoors; measured at the coil, every reading makes sense.",
        tests=("condenser_entering_air", "condenser_coil"),
        remedy="Restore the clearance around the unit, then check it again",
        hazard=_FAN,
        rig=Rig(
            plant="Box in three sides so that some leaving air comes back around.",
            undo="Remove the box.",
            settle_min=15,
            limits="Stop 50 psi short of the high-pressure cutout.",
        ),
    ),
    FaultKind(
        id="wet_condenser",
        name="Condenser still wet",
        parameter="share of the coil that is wet",
        unit="%",
        fault_free=0,
        limit=100,
        mild=35,
        moderate=60,
        severe=90,
        part="condenser air",
        suits=_outdoor_condenser,
        suits_text="an air-cooled condenser outdoors",
        apply=_wet,
        whole_machine=True,
        causes=(
            Cause(id="just_washed", look="Water drips from the coil.", checks={"condenser_wet": True}),
            Cause(id="sprinkler", look="A lawn sprinkler reaches the coil.", checks={"condenser_wet": True}),
        ),
        effect=(
            "Water evaporating off the coil cools it below air temperature: low "
            "head, cold liquid line. It clears as the coil dries."
        ),
        tests=("condenser_wet",),
        remedy="Let the coil dry before judging the charge; do not add refrigerant",
        hazard="Water and live parts: lock out the disconnect before washing.",
        rig=Rig(
            plant="Mist the coil with clean water, power off, then run.",
            undo="Let it run until dry.",
            settle_min=10,
            limits="Keep water off the electrical compartment.",
        ),
    ),
    FaultKind(
        id="water_condenser_fouled",
        name="Water-cooled condenser fouled",
        parameter="water-side heat transfer remaining",
        unit="%",
        fault_free=100,
        limit=12,
        mild=55,
        moderate=40,
        severe=28,
        part="condenser water",
        suits=_water_cooled,
        suits_text="a water-cooled condenser",
        apply=_fouled,
        causes=(
            Cause(id="scale", look="Tower water hard; no treatment log.", checks={"condenser_coil": "dirty"}),
            Cause(id="slime", look="Green strainer.", checks={"condenser_coil": "dirty"}),
        ),
        effect=(
            "Heat cannot get to the water: head pressure rises while the "
            "water's temperature rise stays the same or drops."
        ),
        tests=("water_in_out",),
        remedy="Clean the tubes, then take readings again",
        hazard="Acid cleaning: goggles, gloves, ventilation.",
        rig=Rig(plant="", undo="", settle_min=0, limits="Cannot be planted and undone: read it from the sheet."),
    ),
    FaultKind(
        id="low_water_flow",
        name="Low condenser water flow",
        parameter="water flow left",
        unit="%",
        fault_free=100,
        limit=20,
        mild=65,
        moderate=50,
        severe=38,
        part="condenser water",
        suits=_water_cooled,
        suits_text="a water-cooled condenser",
        apply=_condenser_air,
        causes=(
            Cause(id="strainer", look="Strainer full.", checks={}),
            Cause(id="pump", look="Pump worn or air-bound."),
        ),
        effect="Too little water to carry the heat: it leaves much warmer.",
        tests=("water_in_out",),
        remedy="Clean the strainer; check pump and valves",
        hazard="Hot water and rotating pump parts.",
        rig=Rig(
            plant="Throttle the water valve.",
            undo="Open it fully.",
            settle_min=10,
            limits="Stop 50 psi short of the high-pressure cutout.",
        ),
    ),
    FaultKind(
        id="low_airflow",
        name="Low evaporator airflow",
        name_in_heating="Low indoor airflow",
        parameter="evaporator airflow left",
        unit="%",
        fault_free=100,
        limit=25,
        mild=58,
        moderate=50,
        severe=42,
        part="evaporator air",
        suits=_any,
        suits_text="any machine",
        apply=_evaporator_air,
        whole_machine=True,
        causes=(
            Cause(id="dirty_filter", look="Filter gray and bowed in.", checks={"filter": "dirty"}),
            Cause(id="dirty_coil", look="Felt on the entering face.", checks={"evaporator_coil": "dirty"}),
            Cause(id="blower_wheel", look="Blades are packed with dust.", checks={"blower_wheel": "dirty"}),
            Cause(id="belt", look="Belt slips and squeals.", checks={"blower": "slow"}),
            Cause(id="speed_tap", look="Blower wired to a lower tap.", checks={"blower": "slow"}),
            Cause(id="duct", look="Dampers closed, a flex duct crushed.", checks={"duct": "blocked"}),
        ),
        effect=(
            "Too little warm air over the coil: suction falls, the air that "
            "gets through is colder, and a TXV throttles down."
        ),
        tests=("airflow", "static_pressure", "filter", "evaporator_coil", "blower_wheel", "blower", "duct"),
        remedy="Restore the indoor airflow: filter, coil, blower wheel, speed tap, ducts",
        hazard="Lock out the disconnect before reaching into the blower.",
        rig=Rig(
            plant="Block part of the evaporator face or use a lower speed tap.",
            undo=_BOARD + " Tap back.",
            settle_min=12,
            limits="Keep the coil above freezing, or stop before it ices up.",
        ),
    ),
    FaultKind(
        id="mismatched_coil",
        name="Indoor coil too small (mismatched)",
        parameter="indoor coil size, percent of the matched coil",
        unit="%",
        fault_free=100,
        limit=40,
        mild=75,
        moderate=65,
        severe=55,
        part="evaporator",
        suits=lambda m: m.comfort,
        suits_text="a machine that cools rooms",
        apply=_small_coil,
        stands_for="low_airflow",
        causes=(
            Cause(
                id="old_coil_kept",
                look="Indoor coil's nameplate is a ton smaller than the outdoor unit's.",
                checks={"coil_match": "too small"},
            ),
        ),
        effect="Too little coil surface: suction pressure and coil temperature run low with full airflow.",
        tests=("coil_match", "airflow"),
        remedy="Install the coil that is rated with this outdoor unit",
        hazard="Recover before opening the system.",
        rig=Rig(plant="", undo="", settle_min=0, limits="Needs another coil: read it from the sheet."),
    ),
)
