"""Repairs and cleaning: which fault each one repairs, what it takes,
and what it says where there was nothing to repair.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.kind import EITHER, OFF

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

_LOCK = "Open the disconnect, lock out, discharge capacitors; fan blades start without warning."
_CUT = "Recover before opening; no flame near refrigerant; flow nitrogen while brazing."
_ANY_CAUSE = None


@dataclass(frozen=True, kw_only=True)
class Repair:
    """``repairs``: fault id -> causes it puts right (None: all).

    ``opens`` the circuit: recovered, evacuated, weighed in.
    """

    id: str
    name: str
    minutes: float
    repairs: dict[str, Any]
    money: str = "none"
    opens: bool = False
    machine: str = EITHER
    risk: str = ""
    right: str = ""
    pointless: str = ""
    wets: bool = False
    suits: Callable[[Machine], bool] | None = None


def _comfort(m: Machine) -> bool:
    return m.comfort


def _metered(m: Machine) -> bool:
    return m.metering in ("txv", "eev")


def _orifice(m: Machine) -> bool:
    return m.metering in ("fixed_orifice", "capillary")


def _air_cooled(m: Machine) -> bool:
    return m.condenser != "water_cooled"


def _water(m: Machine) -> bool:
    return m.condenser == "water_cooled"


def _heat_pump(m: Machine) -> bool:
    return m.application.startswith("heat_pump")


def _package(m: Machine) -> bool:
    return m.application == "package_unit"


REPAIRS = (
    Repair(
        id="replace_filter",
        name="Replace the filters",
        minutes=5,
        money="small",
        repairs={"low_airflow": ("dirty_filter",)},
        right="New filters in; airflow is back.",
        pointless="The filters were clean.",
    ),
    Repair(
        id="clean_evaporator",
        name="Clean the indoor coil",
        minutes=60,
        money="small",
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("dirty_coil",)},
        right="Lint is off the entering side.",
        pointless="The coil was clean; that hour is gone.",
    ),
    Repair(
        id="clean_blower_wheel",
        name="Clean the blower wheel",
        minutes=75,
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("blower_wheel",)},
        right="Blades clean down to the hub.",
        pointless="The blades were clean.",
    ),
    Repair(
        id="mend_blower",
        name="Repair the belt or blower motor",
        minutes=30,
        money="part",
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("belt",)},
        right="Belt tight, blower at full speed.",
        pointless="Belt and motor were fine.",
    ),
    Repair(
        id="speed_tap",
        name="Set the blower to the correct speed tap",
        minutes=15,
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("speed_tap",)},
        right="On the speed tap the nameplate calls for.",
        pointless="It was on the correct tap.",
    ),
    Repair(
        id="open_airflow",
        name="Open dampers and ducts",
        minutes=20,
        repairs={"low_airflow": ("duct",)},
        right="Dampers open, crushed duct repaired.",
        pointless="Everything was already open.",
    ),
    Repair(
        id="clean_condenser",
        name="Wash the condenser",
        minutes=30,
        money="small",
        machine=OFF,
        wets=True,
        suits=_air_cooled,
        risk=_LOCK + " Water and live parts.",
        repairs={"dirty_condenser": _ANY_CAUSE},
        right="Washed from the inside out; it is wet now: let it dry before taking readings.",
        pointless="It was clean; now it is wet, and readings are off until it dries.",
    ),
    Repair(
        id="mend_condenser_fan",
        name="Repair the condenser fan",
        minutes=40,
        money="part",
        machine=OFF,
        risk=_LOCK,
        suits=_air_cooled,
        repairs={"condenser_fan_weak": _ANY_CAUSE},
        right="Correct blade, correct rotation, full speed.",
        pointless="The fan was fine.",
    ),
    Repair(
        id="free_condenser",
        name="Restore clearance around the condenser",
        minutes=45,
        suits=_air_cooled,
        repairs={"condenser_recirculation": _ANY_CAUSE},
        right="It is drawing outdoor air now.",
        pointless="It already had clearance.",
    ),
    Repair(
        id="descale_condenser",
        name="Clean the water side",
        minutes=120,
        money="small",
        machine=OFF,
        suits=_water,
        risk="Acid: goggles, gloves, ventilation.",
        repairs={"water_condenser_fouled": _ANY_CAUSE},
        right="Tubes clean.",
        pointless="The tubes were clean.",
    ),
    Repair(
        id="mend_water_flow",
        name="Restore the water flow",
        minutes=40,
        money="part",
        suits=_water,
        repairs={"low_water_flow": _ANY_CAUSE},
        right="Strainer clean, valve open.",
        pointless="The flow was fine.",
    ),
    Repair(
        id="open_service_valve",
        name="Back-seat the service valves",
        minutes=3,
        suits=lambda m: not m.sealed,
        repairs={"service_valve_part_closed": _ANY_CAUSE},
        right="The valve is back-seated now.",
        pointless="They were already back-seated.",
    ),
    Repair(
        id="mend_leak", name="Find and repair the leak", minutes=90, money="part", machine=OFF, repairs={}, risk=_CUT
    ),
    Repair(
        id="refit_bulb",
        name="Strap and insulate the bulb",
        minutes=20,
        suits=_metered,
        repairs={"valve_overfeeding": ("bulb_loose", "bulb_bare"), "valve_hunting": ("bulb_place",)},
        right="Bulb tight on clean pipe, insulated.",
        pointless="The bulb was already tight and insulated.",
    ),
    Repair(
        id="replace_drier",
        name="Replace the drier",
        minutes=60,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={
            "liquid_line_restriction": ("clogged_drier", "plugged_strainer"),
            "valve_underfeeding": ("iced_inside",),
        },
        right="New drier in.",
        pointless="The old drier was clear; the new one changes nothing.",
    ),
    Repair(
        id="mend_liquid_line",
        name="Replace the kinked section of liquid line",
        minutes=75,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={"liquid_line_restriction": ("kinked_line",)},
        right="The kink is gone.",
        pointless="The line was fine.",
    ),
    Repair(
        id="mend_suction_line",
        name="Replace the suction drier or line",
        minutes=90,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={"suction_line_restriction": _ANY_CAUSE},
        right="The suction line is clear.",
        pointless="It was already clear.",
    ),
    Repair(
        id="replace_valve",
        name="Replace the expansion valve",
        minutes=120,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        suits=_metered,
        repairs={"valve_overfeeding": _ANY_CAUSE, "valve_underfeeding": _ANY_CAUSE, "valve_hunting": _ANY_CAUSE},
        right="New TXV, bulb strapped and insulated.",
        pointless="The old valve worked; the new one changes nothing.",
    ),
    Repair(
        id="replace_orifice",
        name="Install the correct orifice",
        minutes=75,
        money="small",
        opens=True,
        machine=OFF,
        risk=_CUT,
        suits=_orifice,
        repairs={"orifice_oversized": _ANY_CAUSE, "orifice_undersized": _ANY_CAUSE},
        right="The number stamped on it matches the nameplate.",
        pointless="It was the correct one, clean and seated.",
    ),
    Repair(
        id="clear_distributor",
        name="Clear the distributor",
        minutes=150,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={"distributor_blocked": _ANY_CAUSE},
        right="Every feeder tube is cold.",
        pointless="Every feeder tube was already clear.",
    ),
    Repair(
        id="replace_compressor",
        name="Replace the compressor",
        minutes=240,
        money="large",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={
            "leaking_compressor_valves": _ANY_CAUSE,
            "compressor_not_pumping": ("broken_shaft", "internal_relief_open"),
        },
        right="New compressor; it pulls down right away.",
        pointless=(
            "The old compressor was good: the most expensive part on the machine, and the readings are what they were."
        ),
    ),
    Repair(
        id="swap_phases",
        name="Swap two phases",
        minutes=15,
        machine=OFF,
        risk="Live parts: open the disconnect, lock out, test for zero voltage.",
        repairs={"compressor_not_pumping": ("scroll_backwards",)},
        right="Rotation is correct now.",
        pointless="Rotation was already correct.",
    ),
    Repair(
        id="replace_reversing_valve",
        name="Replace the reversing valve",
        minutes=240,
        money="large",
        opens=True,
        machine=OFF,
        risk=_CUT + " Wet rag around the body.",
        suits=_heat_pump,
        repairs={"reversing_valve_leak": _ANY_CAUSE},
        right="The suction gas no longer warms up across it.",
        pointless="The old one was not leaking.",
    ),
    Repair(
        id="match_coil",
        name="Install the matched indoor coil",
        minutes=300,
        money="large",
        opens=True,
        machine=OFF,
        risk=_CUT,
        suits=_comfort,
        repairs={"mismatched_coil": _ANY_CAUSE},
        right="Indoor and outdoor coils are a rated match now.",
        pointless="They matched.",
    ),
    Repair(
        id="mend_economizer",
        name="Repair the economizer",
        minutes=40,
        money="part",
        suits=_package,
        repairs={"economizer_stuck_open": _ANY_CAUSE},
        right="Damper at minimum position.",
        pointless="The damper was already at minimum position.",
    ),
    Repair(
        id="reset_second_circuit",
        name="Put the second circuit back on",
        minutes=20,
        money="small",
        suits=lambda m: m.circuits == 2,
        repairs={"one_circuit_off": _ANY_CAUSE},
        right="Both circuits run.",
        pointless="Both circuits were already running.",
    ),
)
BY_ID = {repair.id: repair for repair in REPAIRS}


def repaired_by(fault: Fault) -> list[str]:
    """Ids of the repairs that put this fault right."""
    from wolfsbane.cycle.faults import fault_kind

    cause = fault_kind(fault.id).cause(fault.cause).id
    return [
        r.id for r in REPAIRS if fault.id in r.repairs and (r.repairs[fault.id] is None or cause in r.repairs[fault.id])
    ]
