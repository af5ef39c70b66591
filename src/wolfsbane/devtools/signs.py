"""``wolfsbane sweep --signs``: does every fault move the gauges the way the trade knows, in all weathers, and does any
machine show what no real one could?

The table says what a family must do to a machine with nothing wrong beside it (common practice, no source, unless a row
says otherwise). A claim that does not hold somewhere has its exception written beside it, with the reason.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import product
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import BOX_RANGES_F, for_machine
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import FAULTS, LEVELS, Fault
from wolfsbane.cycle.heating import heating_conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.devtools.sweep import case

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

Pair = tuple["CircuitState", "CircuitState"]

#: figure -> (value of a state, what an instrument may be off: a move of less is no move)
FIGURES: dict[str, tuple[Callable[[CircuitState], float], float]] = {
    "suction": (lambda s: s.suction_pa / PA_PER_PSI, 1.0),
    "coil pressure": (lambda s: s.evaporating_pa / PA_PER_PSI, 1.0),
    "head": (lambda s: s.head_pa / PA_PER_PSI, 2.0),
    "superheat": (lambda s: s.superheat_dk * 1.8, 1.0),
    "subcooling": (lambda s: s.subcooling_dk * 1.8, 1.0),
    "drier drop": (lambda s: s.drier_drop_dk * 1.8, 0.5),
    "flow": (lambda s: 100.0 * s.mass_flow_kg_s, 0.02),
    "capacity": (lambda s: s.capacity_w, 60.0),
    "step across the reversing valve": (lambda s: s.reversing_step_dk * 1.8, 1.0),
}


@dataclass(frozen=True, kw_only=True)
class Exempt:
    """Where a claim does not hold, and why: ``where(machine, state, state with nothing wrong)``."""

    where: Callable[[Machine, CircuitState, CircuitState], bool]
    why: str


@dataclass(frozen=True, kw_only=True)
class Claim:
    """``family`` moves ``figure`` up (1) or down (-1) on machines that ``on`` picks, in cooling or ``heating``."""

    family: str
    figure: str
    way: int
    on: Callable[[Machine], bool] = lambda m: True
    but: tuple[Exempt, ...] = ()
    heating: bool = False


def _valve(m: Machine) -> bool:
    return m.metering in ("txv", "eev")


def _fixed(m: Machine) -> bool:
    return not _valve(m)


def _no_receiver(m: Machine) -> bool:
    return not m.receiver


#: superheat from which a coil behind a valve counts as starved, K
_STARVED_DK = 26.0 / 1.8
_VALVE_HOLDS = Exempt(
    where=lambda m, s, f: _valve(m) and s.superheat_dk < _STARVED_DK,
    why="until the coil starves, liquid with less subcooling only cools less a pound: the coil runs a little warmer",
)
_FLOODS = Exempt(
    where=lambda m, s, f: f.flood_back,
    why="with its whole charge the capillary floods the coil in this weather: with less it carries more heat",
)
_COLD_OUTSIDE = Exempt(
    where=lambda m, s, f: s.equalized and s.outdoor_k < f.suction_saturation_k,
    why="the condenser outdoors is the coldest place: the liquid lies there and sets the pressure",
)
_WIDE_OPEN = Exempt(
    where=lambda m, s, f: f.valve_opening > 0.97,
    why="the load holds the valve wide open; what the compressor no longer takes lets the coil fill",
)
_CYCLES = Exempt(
    where=lambda m, s, f: s.swing is not None and m.circuit.fan_on_above_pa > 0.0,
    why="the fan has begun to cycle: the head swings between its settings, and their mean may lie above what it was",
)
_STAYS_ON = Exempt(
    where=lambda m, s, f: f.swing is not None and s.swing is None and m.circuit.fan_on_above_pa > 0.0,
    why="the fan has stopped cycling: the head stands at the lower of its settings, below the mean of its swing",
)
CLAIMS = (
    Claim(family="undercharge", figure="coil pressure", way=-1, but=(_VALVE_HOLDS,)),
    Claim(family="undercharge", figure="head", way=-1, but=(_FLOODS,)),
    Claim(family="undercharge", figure="subcooling", way=-1, on=_no_receiver),
    Claim(family="undercharge", figure="superheat", way=1),
    Claim(family="overcharge", figure="head", way=1, but=(_FLOODS,)),
    Claim(family="overcharge", figure="subcooling", way=1, on=_no_receiver),
    Claim(family="overcharge", figure="superheat", way=-1, on=_fixed),
    Claim(family="non_condensables", figure="head", way=1, but=(_STAYS_ON,)),
    Claim(family="non_condensables", figure="subcooling", way=1, on=_no_receiver),
    *(
        Claim(family=family, figure="head", way=1, but=(_STAYS_ON,))
        for family in (
            "dirty_condenser",
            "condenser_fan_weak",
            "condenser_recirculation",
            "water_condenser_fouled",
            "low_water_flow",
            "high_load",
            "undersized_unit",
        )
    ),
    Claim(family="wet_condenser", figure="head", way=-1, but=(_CYCLES,)),
    *(
        Claim(family=family, figure="coil pressure", way=-1)
        for family in ("low_airflow", "mismatched_coil", "low_load")
    ),
    Claim(family="low_airflow", figure="superheat", way=-1, on=_fixed),
    Claim(family="low_airflow", figure="capacity", way=-1),
    *(Claim(family=family, figure="coil pressure", way=1) for family in ("high_load", "undersized_unit")),
    Claim(family="liquid_line_restriction", figure="coil pressure", way=-1),
    Claim(family="liquid_line_restriction", figure="superheat", way=1),
    Claim(family="liquid_line_restriction", figure="drier drop", way=1),
    Claim(family="service_valve_part_closed", figure="coil pressure", way=-1),
    Claim(family="service_valve_part_closed", figure="superheat", way=1),
    Claim(family="suction_line_restriction", figure="suction", way=-1),
    Claim(family="suction_line_restriction", figure="flow", way=-1),
    # Gauge and clamp at the outdoor unit, behind the restriction. A valve keeps its coil's superheat, and the fall of
    # pressure adds to it. An orifice does not close: what the compressor leaves stays in the coil and floods it.
    Claim(family="suction_line_restriction", figure="superheat", way=1, on=_valve, but=(_WIDE_OPEN,)),
    Claim(family="suction_line_restriction", figure="superheat", way=-1, on=_fixed),
    Claim(family="valve_overfeeding", figure="superheat", way=-1),
    Claim(family="valve_overfeeding", figure="coil pressure", way=1),
    Claim(family="valve_underfeeding", figure="superheat", way=1),
    Claim(family="valve_underfeeding", figure="coil pressure", way=-1),
    Claim(family="orifice_oversized", figure="superheat", way=-1),
    Claim(family="orifice_oversized", figure="coil pressure", way=1),
    Claim(family="orifice_undersized", figure="superheat", way=1),
    Claim(family="orifice_undersized", figure="coil pressure", way=-1),
    Claim(family="distributor_blocked", figure="coil pressure", way=-1),
    *(
        Claim(family=family, figure=figure, way=way, but=(_COLD_OUTSIDE,))
        for family in ("leaking_compressor_valves", "compressor_not_pumping", "reversing_valve_leak")
        for figure, way in (("suction", 1), ("head", -1), ("capacity", -1))
    ),
    Claim(family="reversing_valve_leak", figure="step across the reversing valve", way=1),
    Claim(family="low_airflow", figure="head", way=1, heating=True),
    Claim(family="low_airflow", figure="capacity", way=-1, heating=True),
    Claim(family="dirty_condenser", figure="suction", way=-1, heating=True),
    Claim(family="condenser_fan_weak", figure="suction", way=-1, heating=True),
    Claim(family="dirty_condenser", figure="capacity", way=-1, heating=True),
    Claim(family="undercharge", figure="suction", way=-1, heating=True),
    Claim(family="undercharge", figure="head", way=-1, heating=True),
    Claim(family="overcharge", figure="head", way=1, heating=True),
    Claim(family="high_load", figure="head", way=-1, heating=True),
    Claim(family="low_load", figure="head", way=1, heating=True),
    Claim(family="valve_underfeeding", figure="superheat", way=1, heating=True),
    Claim(family="valve_overfeeding", figure="superheat", way=-1, heating=True),
    *(
        Claim(family=family, figure=figure, way=way, heating=True)
        for family in ("leaking_compressor_valves", "reversing_valve_leak")
        for figure, way in (("suction", 1), ("head", -1), ("capacity", -1))
    ),
)


def weathers(machine: Machine, fine: bool = True) -> Iterator[Conditions]:
    """The weather grid of a machine, in cooling or (a machine from ``heating``) in heating; coarse unless ``fine``."""
    if machine.in_heating:
        for outdoor, inside in product((5, 17, 27, 37, 47, 57) if fine else (17, 47), (65, 70, 76) if fine else (70,)):
            yield heating_conditions(outdoor_db_f=outdoor, return_db_f=inside)
        return
    if machine.refrigeration:
        low, high = BOX_RANGES_F[machine.application]
        boxes = [low + share * (high - low) for share in ((0.2, 0.4, 0.6) if fine else (0.3,))]
        outside = (65, 80, 95, 105) if machine.application == "reach_in" else (20, 50, 70, 90, 105)
        for outdoor, box in product(outside if fine else outside[2:3], boxes):
            yield for_machine(machine, outdoor_db_f=outdoor, box_f=box)
        return
    rooms = ((70, 58), (75, 55), (75, 63), (80, 67), (86, 72)) if fine else ((75, 63),)
    for outdoor, (dry, wet) in product((65, 75, 85, 95, 105, 115) if fine else (75, 105), rooms):
        water = 55.0 + 0.35 * outdoor if machine.condenser == "water_cooled" else None
        yield for_machine(machine, outdoor_db_f=outdoor, return_db_f=dry, return_wb_f=wet, water_in_f=water)


def _solved(machine: Machine, weather: Conditions, faults: tuple[Fault, ...]) -> CircuitState | None:
    try:
        state = solve(machine, weather, faults)
    except (NoConvergenceError, BadInputError):
        return None
    return None if state.trip else state


def moved(machine: Machine, claim: Claim, state: CircuitState, sound: CircuitState) -> tuple[str, float]:
    """("right", "nothing", "wrong" or the exception's reason, how far in the figure's unit)."""
    value, off = FIGURES[claim.figure]
    far = claim.way * (value(state) - value(sound))
    if far >= -off:
        return ("right" if far > off else "nothing"), far
    return next((e.why for e in claim.but if e.where(machine, state, sound)), "wrong"), far


def signs(fine: bool = True, machines: list[Machine] | None = None) -> list[dict[str, Any]]:
    """Every claim on every machine it is made for, over its weather grid and every level: rows
    {family, figure, way, machine, cases, right, nothing, excepted, wrong, worst, at, why}; ``worst`` and ``at`` are of
    what is wrong, ``why`` lists the exceptions that were met.
    """
    rows = []
    for machine in machines or MACHINES.values():
        in_heating = machine.in_heating
        claims = [c for c in CLAIMS if c.heating == in_heating and FAULTS[c.family].suits(machine) and c.on(machine)]
        found = {id(c): Counter[str]() for c in claims}
        worst: dict[int, tuple[float, str]] = {}
        reasons: dict[int, Counter[str]] = {id(c): Counter() for c in claims}
        for weather in weathers(machine, fine):
            sound = _solved(machine, weather, ())
            if sound is None:
                continue
            for family, level in product(dict.fromkeys(c.family for c in claims), LEVELS):
                severity = FAULTS[family].on(machine).level(level)
                state = _solved(machine, weather, (Fault(id=family, severity=severity),))
                if state is None:
                    continue
                for claim in (c for c in claims if c.family == family):
                    word, far = moved(machine, claim, state, sound)
                    kind = word if word in ("right", "nothing", "wrong") else "excepted"
                    found[id(claim)][kind] += 1
                    reasons[id(claim)][word] += kind == "excepted"
                    if kind == "wrong" and far < worst.get(id(claim), (0.0, ""))[0]:
                        worst[id(claim)] = far, f"{level} {_place(machine, weather)}"
        for claim in claims:
            counts = found[id(claim)]
            far, at = worst.get(id(claim), (0.0, ""))
            rows.append(
                {
                    "family": claim.family,
                    "figure": claim.figure,
                    "way": "up" if claim.way > 0 else "down",
                    "machine": machine.id + (" heating" if in_heating else ""),
                    "cases": sum(counts.values()),
                    **{kind: counts[kind] for kind in ("right", "nothing", "excepted", "wrong")},
                    "worst": round(far, 2),
                    "at": at,
                    "why": [why for why, n in reasons[id(claim)].items() if n],
                }
            )
    return rows


def _place(machine: Machine, weather: Conditions) -> str:
    outdoor, inside = (round(1.8 * k - 459.67) for k in (weather.outdoor_k, weather.return_k))
    wet = round(1.8 * weather.return_wet_bulb_k - 459.67)
    if machine.in_heating:
        return f"{inside} °F outside, {outdoor} °F inside"
    return f"{outdoor} °F outside, {inside}/{wet} °F inside"


def impossible(machine: Machine, weather: Conditions, state: CircuitState) -> list[str]:
    """What no real machine could show, in words; nothing for a machine at rest or one that cuts out."""
    if state.trip or state.equalized:
        return []
    said = []

    def check(wrong: bool, text: str) -> None:
        if wrong:
            said.append(text)

    s, tiny = state, 0.15
    coldest_k = min(s.condenser_entering_k, weather.outdoor_k)
    # Behind a service valve that throttles, the gauge shows less than the condenser holds: that is its sign.
    throttled = s.head_pa < 0.995 * s.condensing_pa
    check(
        not throttled and s.refrigerant == s.pt_scale and s.subcooling_dk > s.liquid_saturation_k - coldest_k + tiny,
        "subcooling beyond what the condenser's air allows",
    )
    check(s.condenser_outlet_k < s.condenser_entering_k - tiny, "liquid leaves the condenser colder than its air")
    warmest_k = max(s.coil_air.dry_bulb_k, machine.circuit.suction_line_ambient_k, weather.outdoor_k)
    if machine.circuit.exchange_ua_w_k > 0.0:
        warmest_k = max(warmest_k, s.condenser_outlet_k)  # the capillary lies on it, as warm as the liquid in it
    check(s.suction_before_valve_k > warmest_k + tiny, "suction line warmer than everything around it")
    warmest_air_k = max(s.return_air.dry_bulb_k, s.coil_air.dry_bulb_k)
    blower_k = machine.circuit.blower_w / (s.airflow_kg_s * 1006.0)
    own = s.supply_high_air  # of a machine with two circuits, the air of this one
    check(own.dry_bulb_k > warmest_air_k + blower_k + tiny, "supply air warmer than the room and the blower")
    coldest_on_the_way_k = min(s.surface_k, s.evaporator_inlet_k, s.coil_air.dry_bulb_k)
    check(own.dry_bulb_k < coldest_on_the_way_k - tiny, "supply air colder than its coil")
    for name, moist in (("return", s.return_air), ("coil", s.coil_air), ("supply", s.supply_air)):
        check(not 0.0 <= moist.relative_humidity <= 1.005, f"humidity of the {name} air outside 0 to 100 %")
    # The trickle of a compressor that hardly pumps is as warm as its pipes, and condenses nothing.
    trickles = s.mass_flow_kg_s < 0.12 * machine.circuit.mass_flow_ref_kg_s
    check(
        not s.slugging and not trickles and s.discharge_line_k < s.condenser_bend_k - tiny,
        "discharge colder than condensing",
    )
    check(abs(s.energy_residual) > 1e-3, "heat of the air is not heat of the refrigerant")
    check(abs(s.mass_residual) > 1e-3, "charge is not where it should be")
    air_w = s.airflow_kg_s * (s.coil_air.enthalpy_j_kg - s.supply_air.enthalpy_j_kg) + machine.circuit.blower_w
    check(
        s.twin is None and abs(air_w - s.capacity_w) > 0.015 * s.capacity_w + 20.0,
        "the air gives another heat than the refrigerant takes",
    )
    check(s.sensible_w > s.capacity_w + 1.0, "more dry cooling than cooling")
    check(s.head_pa < s.suction_pa, "head below suction")
    return said


def impossibilities(cases: int, seed: int = 1) -> dict[str, list[int]]:
    """What :func:`impossible` says of random cases of the sweep: sentence -> numbers of the cases."""
    found: dict[str, list[int]] = {}
    for number in range(cases):
        machine, weather, faults = case(number, seed)
        try:
            state = solve(machine, weather, faults)
        except NoConvergenceError:
            continue
        for part in filter(None, (state, state.twin)):
            for text in impossible(machine, weather, part):
                found.setdefault(text, []).append(number)
    return found


def run(cases: int, seed: int = 1) -> dict[str, Any]:
    """Both, as the command tells them: {claims, cases, seed, right, nothing, excepted, wrong [rows], exceptions [rows],
    random, impossible {sentence: numbers of the first cases}}.
    """
    rows = signs()
    totals = {kind: sum(r[kind] for r in rows) for kind in ("cases", "right", "nothing", "excepted")}
    exceptions = {
        (r["family"], r["figure"], why): sum(
            x["excepted"] for x in rows if why in x["why"] and x["family"] == r["family"]
        )
        for r in rows
        for why in r["why"]
    }
    return {
        "claims": len(rows),
        **totals,
        "seed": seed,
        "wrong": [r for r in rows if r["wrong"]],
        "exceptions": [
            {"family": family, "figure": figure, "cases": n, "why": why}
            for (family, figure, why), n in exceptions.items()
        ],
        "random": cases,
        "impossible": {text: numbers[:5] for text, numbers in impossibilities(cases, seed).items()},
    }
