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

_LOCK = "Isolate, lock off, discharge capacitors; blades start without warning."
_CUT = "Recover before opening; no flame near refrigerant; nitrogen while brazing."
_ANY_CAUSE = None


@dataclass(frozen=True, kw_only=True)
class Repair:
    """``repairs``: fault id -> causes it puts right (None: all).

    ``opens`` the circuit: recovered, evacuated, weighed in anew.
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
        right="New filters in; air moves.",
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
        right="Felt off the entering side.",
        pointless="The coil was clean; an hour is gone.",
    ),
    Repair(
        id="clean_blower_wheel",
        name="Clean the blower wheel",
        minutes=75,
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("blower_wheel",)},
        right="Blades clean to the root.",
        pointless="The blades were clean.",
    ),
    Repair(
        id="mend_blower",
        name="Repair belt or blower motor",
        minutes=30,
        money="part",
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("belt",)},
        right="Belt tight, blower at its speed.",
        pointless="Belt and motor were right.",
    ),
    Repair(
        id="speed_tap",
        name="Put the blower on the right tap",
        minutes=15,
        machine=OFF,
        risk=_LOCK,
        repairs={"low_airflow": ("speed_tap",)},
        right="On the tap the plate asks for.",
        pointless="It was on the right tap.",
    ),
    Repair(
        id="open_airflow",
        name="Open dampers and ducts",
        minutes=20,
        repairs={"low_airflow": ("duct",)},
        right="Dampers open, the crushed duct is straight.",
        pointless="Everything was open.",
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
        right="Washed from the inside out; it is wet now: dry it before reading.",
        pointless="It was clean; now it is wet, and readings lie until it is dry.",
    ),
    Repair(
        id="mend_condenser_fan",
        name="Put the condenser fan right",
        minutes=40,
        money="part",
        machine=OFF,
        risk=_LOCK,
        suits=_air_cooled,
        repairs={"condenser_fan_weak": _ANY_CAUSE},
        right="Right blade, right way round, full speed.",
        pointless="The fan was right.",
    ),
    Repair(
        id="free_condenser",
        name="Give the condenser free air",
        minutes=45,
        suits=_air_cooled,
        repairs={"condenser_recirculation": _ANY_CAUSE},
        right="It draws outdoor air now.",
        pointless="It stood free.",
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
        name="Put the water flow right",
        minutes=40,
        money="part",
        suits=_water,
        repairs={"low_water_flow": _ANY_CAUSE},
        right="Strainer clean, valve open.",
        pointless="The flow was right.",
    ),
    Repair(
        id="open_service_valve",
        name="Back the service valves out",
        minutes=3,
        suits=lambda m: not m.sealed,
        repairs={"service_valve_part_closed": _ANY_CAUSE},
        right="The stem is backed out now.",
        pointless="They were open.",
    ),
    Repair(
        id="mend_leak", name="Find and repair the leak", minutes=90, money="part", machine=OFF, repairs={}, risk=_CUT
    ),
    Repair(
        id="refit_bulb",
        name="Refit and wrap the bulb",
        minutes=20,
        suits=_metered,
        repairs={"valve_overfeeding": ("bulb_loose", "bulb_bare"), "valve_hunting": ("bulb_place",)},
        right="Bulb tight on clean pipe, wrapped.",
        pointless="The bulb was tight and wrapped.",
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
        pointless="The old drier was open; the new one changes nothing.",
    ),
    Repair(
        id="mend_liquid_line",
        name="Renew the kinked piece of liquid line",
        minutes=75,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={"liquid_line_restriction": ("kinked_line",)},
        right="The line is straight.",
        pointless="The line was right.",
    ),
    Repair(
        id="mend_suction_line",
        name="Renew the suction drier or line",
        minutes=90,
        money="part",
        opens=True,
        machine=OFF,
        risk=_CUT,
        repairs={"suction_line_restriction": _ANY_CAUSE},
        right="The suction is free.",
        pointless="It was free.",
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
        right="New valve, bulb strapped and wrapped.",
        pointless="The old valve worked; the new one changes nothing.",
    ),
    Repair(
        id="replace_orifice",
        name="Fit the right orifice",
        minutes=75,
        money="small",
        opens=True,
        machine=OFF,
        risk=_CUT,
        suits=_orifice,
        repairs={"orifice_oversized": _ANY_CAUSE, "orifice_undersized": _ANY_CAUSE},
        right="The stamp on it is the plate's.",
        pointless="It was the right one, clean and seated.",
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
        right="Every feeder is cold.",
        pointless="Every feeder was free.",
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
        right="New compressor; it pulls down at once.",
        pointless="The old compressor was right: the dearest part on the machine, and the readings are what they were.",
    ),
    Repair(
        id="swap_phases",
        name="Swap two phases",
        minutes=15,
        machine=OFF,
        risk="Live parts: isolate, lock off, prove dead.",
        repairs={"compressor_not_pumping": ("scroll_backwards",)},
        right="It turns the right way.",
        pointless="It turned the right way.",
    ),
    Repair(
        id="replace_reversing_valve",
        name="Replace the reversing valve",
        minutes=240,
        money="large",
        opens=True,
        machine=OFF,
        risk=_CUT + " Wet rag round the body.",
        suits=_heat_pump,
        repairs={"reversing_valve_leak": _ANY_CAUSE},
        right="The suction no longer warms across it.",
        pointless="The old one was tight.",
    ),
    Repair(
        id="match_coil",
        name="Fit the matched indoor coil",
        minutes=300,
        money="large",
        opens=True,
        machine=OFF,
        risk=_CUT,
        suits=_comfort,
        repairs={"mismatched_coil": _ANY_CAUSE},
        right="Coils rated together now.",
        pointless="They matched.",
    ),
    Repair(
        id="mend_economizer",
        name="Put the economizer right",
        minutes=40,
        money="part",
        suits=_package,
        repairs={"economizer_stuck_open": _ANY_CAUSE},
        right="Damper at its minimum.",
        pointless="The damper was at its minimum.",
    ),
    Repair(
        id="reset_second_circuit",
        name="Put the second circuit back on",
        minutes=20,
        money="small",
        suits=lambda m: m.circuits == 2,
        repairs={"one_circuit_off": _ANY_CAUSE},
        right="Both circuits run.",
        pointless="Both circuits ran.",
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
