"""Faults of the metering device and the distributor."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine


def _valve(machine: Machine) -> bool:
    return machine.metering in ("txv", "eev")


def _orifice(machine: Machine) -> bool:
    return machine.metering in ("fixed_orifice", "capillary")


def _warm_bulb(circuit: Circuit, pct: float) -> Circuit:
    return _off_by(circuit, (pct - FEEDS_RIGHT) * WARM_BULB_K)


def _cold_bulb(circuit: Circuit, pct: float) -> Circuit:
    return _off_by(circuit, (pct - FEEDS_RIGHT) * COLD_BULB_K)


def _off_by(circuit: Circuit, warmer_k: float) -> Circuit:
    """A bulb that feels warmer by so much than its pipe holds so much less superheat, in any weather."""
    return circuit._replace(valve_static_superheat_k=circuit.valve_static_superheat_k - warmer_k)


def _stuck(circuit: Circuit, pct: float) -> Circuit:
    """A valve that stays where one so far off stood at the rating point, whatever its bulb feels."""
    return circuit._replace(valve_fixed_opening=(FEEDS_RIGHT + STUCK_SHARE * (pct - FEEDS_RIGHT)) / 100.0)


def _area(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(expansion_area_m2=circuit.expansion_area_m2 * pct / 100.0)


def _blocked(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(distributor_blocked_share=pct / 100.0)


def _swing(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(valve_swing=pct / 100.0)


#: severity of a valve that feeds right; it stands three quarters open at its rating point
FEEDS_RIGHT = 75.0
#: superheat that a point of severity is worth, K: a valve fed by a bulb that feels too warm, and by one that feels too
#: cold or has lost some of its charge (assumed)
WARM_BULB_K, COLD_BULB_K = 0.4 / 1.8, 0.63 / 1.8
#: opening that a point of severity is worth where the valve is stuck: about the same readings at the rating point
STUCK_SHARE = 0.33
_FEED = "valve feed, 75 for a good TXV"
_LIQUID = "Liquid at the compressor breaks it: do not let it run on."
KINDS = (
    FaultKind(
        id="valve_overfeeding",
        name="TXV overfeeding",
        parameter=_FEED,
        unit="%",
        fault_free=FEEDS_RIGHT,
        limit=130,
        mild=88,
        moderate=97,
        severe=110,
        part="valve",
        suits=_valve,
        suits_text="a valve",
        apply=_warm_bulb,
        marks=("superheat_dk", -1),
        causes=(
            Cause(
                id="bulb_loose",
                look="Strap open, bulb hanging off the suction line.",
                checks={"bulb": "loose", "bulb_chilled": "responds", "bulb_warmed": "responds"},
            ),
            Cause(
                id="bulb_bare",
                look="Bulb tight but not insulated.",
                checks={"bulb": "bare", "bulb_chilled": "responds", "bulb_warmed": "responds"},
            ),
            Cause(
                id="stuck_open",
                look="Bulb tight and insulated.",
                apply=_stuck,
                checks={"bulb_chilled": "no_response", "bulb_warmed": "no_response"},
            ),
        ),
        effect="More liquid than the coil can boil off: superheat drops, then the condenser runs short of liquid.",
        tests=("bulb", "bulb_chilled", "compressor_sound"),
        remedy="Check the bulb's strap and insulation before touching the valve",
        hazard=_LIQUID,
        rig=Rig(
            plant="Strap the bulb loosely and leave the insulation off.",
            undo="Strap it tight at ten or two o'clock and insulate it.",
            settle_min=12,
            limits="Keep superheat at the compressor above 2 °F, except for a minute at most.",
        ),
    ),
    FaultKind(
        id="valve_underfeeding",
        name="TXV underfeeding",
        parameter=_FEED,
        unit="%",
        fault_free=FEEDS_RIGHT,
        limit=15,
        mild=58,
        moderate=50,
        severe=42,
        part="valve",
        suits=_valve,
        suits_text="a valve",
        apply=_cold_bulb,
        marks=("superheat_dk", 1),
        stands_for="liquid_line_restriction",
        causes=(
            Cause(
                id="lost_bulb_charge",
                look="Bulb tight and insulated; its capillary is rubbed through.",
                checks={"bulb_warmed": "no_response", "bulb_chilled": "no_response"},
            ),
            Cause(
                id="stuck_shut",
                look="Bulb tight and insulated.",
                apply=_stuck,
                checks={"bulb_warmed": "no_response", "bulb_chilled": "responds"},
            ),
            Cause(
                id="iced_inside",
                look="Works again after an off cycle.",
                apply=_stuck,
                checks={"bulb_warmed": "no_response", "bulb_chilled": "no_response"},
            ),
        ),
        effect="Too little liquid gets to the coil and boils off early; the rest backs up in the condenser.",
        tests=("bulb_warmed", "drier_drop", "evaporator_ice"),
        remedy="Warm the bulb: a good TXV opens; replace the valve only if it does not",
        hazard="Recover before opening the system; the discharge line runs hot.",
        rig=Rig(
            plant="Put the bulb in ice water.",
            undo="Dry it, strap it, insulate it.",
            settle_min=10,
            limits="Stay above the low-pressure cutout.",
        ),
    ),
    FaultKind(
        id="valve_hunting",
        name="TXV hunting",
        parameter="swing of the valve either way",
        unit="%",
        fault_free=0,
        limit=45,
        mild=10,
        moderate=18,
        severe=28,
        part="valve",
        suits=_valve,
        suits_text="a valve",
        apply=_swing,
        causes=(
            Cause(id="oversized_valve", look="Valve marked a size above the coil."),
            Cause(id="bulb_place", look="Bulb under the pipe, downstream of a trap.", checks={"bulb": "loose"}),
        ),
        effect=(
            "The valve swings between overfeeding and underfeeding; every reading swings with it over a few minutes."
        ),
        tests=("bulb",),
        remedy="Correct the bulb location and valve size; judge after ten steady minutes",
        hazard=_LIQUID,
        rig=Rig(
            plant="Move the bulb downstream of the trap.",
            undo="Move it back, strap and insulate it.",
            settle_min=15,
            limits="No liquid at the compressor at the bottom of the swing.",
        ),
    ),
    FaultKind(
        id="orifice_oversized",
        name="Fixed orifice (piston) too large",
        parameter="orifice area, percent of the correct one",
        unit="%",
        fault_free=100,
        limit=170,
        mild=122,
        moderate=130,
        severe=140,
        part="orifice",
        suits=lambda m: m.metering == "fixed_orifice",
        suits_text="a fixed orifice",
        apply=_area,
        causes=(
            Cause(
                id="wrong_piston", look="Stamp on the piston a size above the plate's.", checks={"orifice": "too large"}
            ),
            Cause(id="piston_not_seated", look="Dirt under the piston's seat.", checks={"orifice": "not seated"}),
        ),
        effect="The coil floods and the condenser runs short of liquid.",
        tests=("orifice", "compressor_sound"),
        remedy="Recover and install the orifice the nameplate calls for",
        hazard="Recover before opening the system. Gloves and safety glasses.",
        rig=Rig(
            plant="Open the bypass around the orifice by the stated turns.",
            undo="Close it.",
            settle_min=12,
            limits="Keep superheat at the compressor above 2 °F, except for a minute at most.",
        ),
    ),
    FaultKind(
        id="orifice_undersized",
        name="Fixed orifice (piston) too small",
        parameter="orifice area, percent of the correct one",
        unit="%",
        fault_free=100,
        limit=35,
        mild=85,
        moderate=76,
        severe=66,
        part="orifice",
        suits=_orifice,
        suits_text="a fixed orifice or a capillary tube",
        apply=_area,
        stands_for="liquid_line_restriction",
        causes=(
            Cause(
                id="wrong_piston", look="Stamp on the piston a size below the plate's.", checks={"orifice": "too small"}
            ),
            Cause(id="plugged", look="Wax or dirt in the bore.", checks={"orifice": "plugged"}),
            Cause(id="bent_capillary", look="Capillary flattened at a bend.", checks={"orifice": "bent"}),
        ),
        effect="Like a TXV that underfeeds: starved coil, full condenser, no temperature drop at the drier.",
        tests=("orifice", "drier_drop"),
        remedy="Recover and install the orifice the nameplate calls for",
        hazard="Recover before opening the system. Gloves and safety glasses.",
        rig=Rig(
            plant="Install the next smaller piston (instructor only).",
            undo="Install the correct one.",
            settle_min=12,
            limits="Stay above the low-pressure cutout.",
        ),
    ),
    FaultKind(
        id="distributor_blocked",
        name="Distributor partly plugged",
        parameter="share of coil circuits plugged",
        unit="%",
        fault_free=0,
        limit=70,
        mild=25,
        moderate=40,
        severe=55,
        part="evaporator",
        suits=lambda m: m.metering != "capillary",
        suits_text="a coil with a distributor",
        apply=_blocked,
        causes=(
            Cause(id="solder_or_dirt", look="Some feeder tubes warm, others cold."),
            Cause(id="crushed_feeder", look="A feeder tube flattened."),
        ),
        effect=(
            "Part of the coil gets no liquid and lets air through uncooled; the rest carries the load and runs cold."
        ),
        tests=("coil_face", "evaporator_ice"),
        remedy="Clear or replace the distributor or the coil",
        hazard="Recover before opening the system.",
        rig=Rig(
            plant="Close the hand valves of the stated feeder tubes.",
            undo="Open them.",
            settle_min=12,
            limits="Keep the coil above freezing, or stop before it ices up.",
        ),
    ),
)
