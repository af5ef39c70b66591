"""Which of our machines stands in for the one that was read, how far it may differ,
and in what weather it is solved.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from wolfsbane.cycle.conditions import COOLER_HUMIDITY, FREEZER_HUMIDITY, REACH_IN_HUMIDITY, Conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.psychrometrics import psychrolib
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, f_to_k, k_to_f
from wolfsbane.diagnosis.space import AT, N
from wolfsbane.diagnosis.targets import total_superheat_target_df

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.observed import Observed, PlateFacts
    from wolfsbane.diagnosis.practices import Practice

#: how far an unlisted unit may stand off our nearest one, degrees F, one standard deviation (assumed): offset ->
#: (of a machine known by its plate, of one of our own). The second is what the settled reading of a known machine may
#: wander.
OFFSETS = {
    "td": (3.5, 0.25),
    "ctoa": (4.0, 0.25),
    "superheat": (2.5, 0.25),
    "subcooling": (1.6, 0.2),
    "delta_t": (2.5, 0.2),
    "discharge": (12.0, 0.8),
    "drier": (0.6, 0.1),
    "line": (2.0, 0.15),
    "stream": (4.0, 0.3),
    "airflow": (8.0, 1.0),
    "amps": (15.0, 2.0),
}
#: an offset moves these entries of the vector together
_MOVES: dict[str, dict[str, float]] = {
    "td": {
        "suction_saturation": -1,
        "seen_low": -1,
        "suction_line": -1,
        "evaporator_outlet": -1,
        "coil_saturation": -1,
        "evaporator_inlet": -1,
        "supply": -0.4,
        "discharge": -1,
    },
    "ctoa": {"liquid_saturation": 1, "seen_high": 1, "liquid_line": 1, "discharge": 1, "stream_out": 0.5},
    "superheat": {"suction_line": 1, "evaporator_outlet": 0.8, "discharge": 1},
    "subcooling": {"liquid_line": -1},
    "delta_t": {"supply": -1},
    "discharge": {"discharge": 1},
    "drier": {"drier_drop": 1},
    "line": {"suction_line": 1},
    "stream": {"stream_out": 1},
    "airflow": {"airflow": 1},
    "amps": {"amps": 1},
}
#: a fault of an unlisted unit may act this much more or less than on ours, share of the effect (assumed)
EFFECT_SPREAD = 0.22
#: where the air was not measured: (guess, standard deviation) in degrees F (assumed)
_OUTDOOR_GUESS, _RETURN_GUESS, _WET_BULB_SD = (88.0, 10.0), (76.0, 3.5), 3.0
_BOXES = {
    "walk_in_cooler": (37.0, 4.0, COOLER_HUMIDITY),
    "walk_in_freezer": (-4.0, 6.0, FREEZER_HUMIDITY),
    "reach_in": (38.0, 6.0, REACH_IN_HUMIDITY),
}
#: noise of the air readings themselves
_AIR_SD = 0.8


@dataclass(frozen=True, kw_only=True)
class StandIn:
    """``machine`` is solved in ``conditions``; ``own`` says it is the very machine. ``spread`` is the covariance (N, N)
    of how far the real machine may stand off it and ``weather_sd`` the doubt about outdoor air, return dry and wet
    bulb, degrees F. ``subcooling_df`` and ``superheat_df`` are what this machine is charged or set to, each with what
    ours is, as (wanted, usual), or None to leave the model's. ``heating`` is a machine that heats, solved with its
    coils in each other's place.
    """

    machine: Machine
    conditions: Conditions
    own: bool
    spread: np.ndarray
    weather_sd: tuple[float, ...]
    subcooling_df: tuple[float, float] | None
    superheat_df: tuple[float, float | None] | None
    heating: bool = False
    guessed: tuple[str, ...] = ()


def application_of(plate: PlateFacts, conditions: dict[str, float]) -> str:
    """What the machine does; a box temperature says it is a refrigerated one."""
    if plate.application:
        return plate.application
    if "box" not in conditions:
        return "air_conditioner"
    if plate.metering == "capillary":
        return "reach_in"
    return "walk_in_freezer" if conditions["box"] < 22.0 else "walk_in_cooler"


def nearest_profile(plate: PlateFacts, application: str) -> Machine:
    """The profile most like a plate: device first, then kind of machine, condenser, refrigerant, size."""

    def far(m: Any) -> Any:
        same_device = (
            0.0
            if m.metering == plate.metering
            else 3.0
            if {m.metering, plate.metering} in ({"txv", "eev"}, {"fixed_orifice", "capillary"})
            else 30.0
        )
        kind = "heat_pump_cooling" if application == "heat_pump_heating" else application
        refrigeration = kind in _BOXES
        score = same_device + (0.0 if m.application == kind else 40.0 if m.refrigeration != refrigeration else 2.0)
        score += 0.0 if plate.condenser in (None, m.condenser) else 8.0
        score += 1.0 if plate.condenser is None and m.condenser != "tube_and_fin" else 0.0
        score += 4.0 if plate.receiver is not None and plate.receiver != m.receiver else 0.0
        score += 0.0 if m.refrigerant == plate.refrigerant else 1.5
        score += (
            0.0
            if plate.capacity_tons is None
            else 0.4 * abs(np.log(m.plate.capacity_w / 3516.85 / plate.capacity_tons))
        )
        score += 0.5 if m.circuits == 2 and plate.application != "package_unit" else 0.0
        own = m.plate.target_subcooling_dk
        if plate.plate_subcooling_df is not None and own is not None:
            score += 0.1 * abs(plate.plate_subcooling_df - own * 1.8)
        return score + (0.05 if "old" in m.id else 0.0)

    return min((m for m in MACHINES.values() if not m.in_heating), key=far)


def _refrigeration_weather(seen: Observed, application: str) -> tuple[float, float, float, float, tuple[Any, ...]]:
    guess, sd, humidity = _BOXES[application]
    box = seen.conditions.get("box", seen.conditions.get("return_db"))
    box_f, box_sd = (guess, sd) if box is None else (box, _AIR_SD)
    box_f = min(max(box_f, -25.0), 75.0)
    wet_k = psychrolib.GetTWetBulbFromRelHum((box_f - 32.0) / 1.8, humidity, 101_325.0) + 273.15
    return box_f, box_sd, wet_k, 0.0, () if box is not None else ("box",)


def _room_weather(seen: Observed) -> tuple[float, float, float, float, tuple[str, ...]]:
    guessed = []
    c = seen.conditions
    if "return_db" in c:
        dry, dry_sd = c["return_db"], _AIR_SD
    else:
        supply = seen.readings.get("supply_db")
        dry, dry_sd = _RETURN_GUESS if supply is None else (0.5 * (_RETURN_GUESS[0] + supply.value + 19.0), 3.0)
        guessed.append("return_db")
    dry = min(max(dry, 55.0), 105.0)
    if "return_wb" in c:
        wet_k, wet_sd = f_to_k(min(c["return_wb"], dry)), _AIR_SD
    else:
        wet_k = psychrolib.GetTWetBulbFromRelHum((dry - 32.0) / 1.8, 0.5, 101_325.0) + 273.15
        wet_sd = _WET_BULB_SD
        guessed.append("return_wb")
    return dry, dry_sd, max(wet_k, f_to_k(40.0)), wet_sd, tuple(guessed)


def _outdoor(seen: Observed, lift_f: float) -> tuple[float, float, tuple[str, ...]]:
    """(outdoor air, sd, whether guessed): where it was not measured the liquid line and the head tell a little."""
    if "outdoor_db" in seen.conditions:
        return min(max(seen.conditions["outdoor_db"], -10.0), 125.0), _AIR_SD, ()
    guess, sd = _OUTDOOR_GUESS
    if "liquid_line" in seen.readings:
        told = seen.readings["liquid_line"].value - max(lift_f - 10.0, 4.0)
        guess = min(max(0.5 * (guess + told), 65.0), 108.0)
        sd = 8.0
    return guess, sd, ("outdoor_db",)


def stand_in(seen: Observed, practice: Practice) -> StandIn:
    """The :class:`StandIn` for an :class:`~wolfsbane.diagnosis.observed.Observed` under one practice."""
    plate = seen.plate
    application = application_of(plate, seen.conditions)
    heating = application == "heat_pump_heating"
    machine = MACHINES[plate.profile] if plate.profile else nearest_profile(plate, application)
    ctoa = machine.expectations.ctoa_dk
    outdoor_f, outdoor_sd, guessed = _outdoor(seen, 0.9 * sum(ctoa))
    if machine.refrigeration:
        return_f, return_sd, wet_k, wet_sd, more = _refrigeration_weather(seen, machine.application)
    else:
        return_f, return_sd, wet_k, wet_sd, more = _room_weather(seen)
    barometer = barometer_at_altitude_pa(seen.conditions.get("altitude", 0.0) * M_PER_FT)
    water_k = None
    if machine.condenser == "water_cooled":
        water = seen.readings.get("water_in")
        water_k = f_to_k(80.0 if water is None else min(max(water.value, 45.0), 110.0))
        guessed = () if water is not None else ("water_in",)
        outdoor_sd = 7.0 if water is None else _AIR_SD
    low = -10.0 if machine.refrigeration else 52.0
    weather = Conditions(
        outdoor_k=f_to_k(max(outdoor_f, low)),
        return_k=f_to_k(return_f),
        return_wet_bulb_k=min(wet_k, f_to_k(return_f)),
        barometer_pa=barometer,
        water_in_k=water_k,
    )
    if heating:
        weather = Conditions(
            outdoor_k=f_to_k(max(return_f, 60.0)),
            return_k=f_to_k(max(outdoor_f, 20.0)),
            return_wet_bulb_k=f_to_k(max(outdoor_f, 20.0) - 3.0),
            barometer_pa=barometer,
        )
        outdoor_sd, return_sd = return_sd, outdoor_sd
    own = plate.profile is not None
    return StandIn(
        machine=machine,
        conditions=weather,
        own=own,
        spread=_spread(plate, machine, own, heating, practice),
        weather_sd=(outdoor_sd, return_sd, wet_sd),
        subcooling_df=_subcooling(plate, machine, practice, own),
        superheat_df=_superheat(machine, plate, seen, practice, own),
        heating=heating,
        guessed=(*guessed, *more),
    )


def _subcooling(plate: PlateFacts, machine: Machine, practice: Practice, own: bool) -> tuple[float, float] | None:
    """(subcooling this machine is charged to, what ours is charged to); None where it is our own or nothing tells."""
    usual = machine.plate.target_subcooling_dk
    if own or machine.metering in ("fixed_orifice", "capillary") or machine.receiver or usual is None:
        return None
    if plate.plate_subcooling_df is not None:
        return plate.plate_subcooling_df + practice.subcooling_shift_df, usual * 1.8
    return 0.5 * sum(practice.subcooling_without_plate_df), usual * 1.8


def _superheat(
    machine: Machine, plate: PlateFacts, seen: Observed, practice: Practice, own: bool
) -> tuple[float, float | None] | None:
    """(superheat one with nothing wrong shows, what ours is set to or None for what it shows in this weather); None to
    leave the model's.

    An orifice machine is taken to stand half-way between the formula its charge was set by and what ours shows today.
    """
    if own or machine.refrigeration:
        return None
    if machine.metering == "fixed_orifice":
        wet, outdoor = seen.conditions.get("return_wb"), seen.conditions.get("outdoor_db")
        if wet is None or outdoor is None or plate.metering != "fixed_orifice":
            return None
        return max(total_superheat_target_df(wet, outdoor, practice.orifice_superheat), 3.0), None
    window = machine.plate.target_superheat_dk
    if plate.plate_superheat_df is not None:
        return sum(plate.plate_superheat_df) / 2.0, 10.0 if window is None else sum(window) * 0.9
    return None


def _spread(plate: PlateFacts, machine: Machine, own: bool, heating: bool, practice: Practice) -> np.ndarray:
    covariance = np.zeros((N, N))
    for name, moves in _MOVES.items():
        sd = OFFSETS[name][1 if own else 0]
        if not own:
            if name == "subcooling":
                sd = max(0.5 * practice.subcooling_tolerance_df, 1.0) + (
                    0.0 if plate.plate_subcooling_df is not None else 1.5
                )
                sd += 1.0 if machine.metering in ("fixed_orifice", "capillary") else 0.0
            if name == "superheat" and machine.metering in ("fixed_orifice", "capillary"):
                sd = 2.2 if not machine.refrigeration else 4.0
            if name == "ctoa" and plate.refrigerant == "R-22":
                sd = 5.0
            if heating and name in ("td", "ctoa", "superheat"):
                sd *= 2.0
            if machine.refrigeration and name == "td":
                sd = 4.0
        move = np.zeros(N)
        for entry, factor in moves.items():
            move[AT[entry]] = factor
        covariance += sd**2 * np.outer(move, move)
    return covariance


def in_words(guessed: tuple[str, ...]) -> str:
    """What had to be guessed, in words."""
    names = {
        "outdoor_db": "the outdoor air",
        "return_db": "the return air",
        "return_wb": "the return wet bulb",
        "box": "the box air",
        "water_in": "the water going in",
    }
    return " and ".join(names[g] for g in guessed)


def weather_f(stand: StandIn) -> tuple[float, float, float]:
    """(outdoor or water in, return dry bulb, return wet bulb) the stand-in is solved in, degrees F."""
    c = stand.conditions
    return k_to_f(c.water_in_k or c.outdoor_k), k_to_f(c.return_k), k_to_f(c.return_wet_bulb_k)
