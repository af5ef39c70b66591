"""Tests on the running machine that only need another probe."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.ductwork import airflow_m3_s, static_pa
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests.kind import FieldTest, degrees
from wolfsbane.cycle.frost import grow
from wolfsbane.cycle.settled import amps
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import M3_S_PER_CFM, PA_PER_INWC

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.field_tests.kind import Asked
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: a coil that boils over less than this part of what it does with nothing wrong feels part cold (assumed)
_COLD_SHARE = 0.88


@lru_cache(maxsize=64)
def _fault_free(machine: Machine, conditions: Conditions) -> CircuitState:
    """The machine with nothing wrong, which some tests compare with; the last few are kept."""
    return solve(machine, conditions)


def _air_cooled(machine: Machine) -> bool:
    return machine.condenser != "water_cooled"


def drier_drop(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Temperature drop across the drier; the usual limit is 3 degF (common practice, no source)."""
    drop = a.state.drier_drop_dk * 1.8
    word = "drop" if drop > 3.0 else "even"
    return (
        word,
        f"{a.temperature(a.state.liquid_line_k)} before and {a.temperature(a.state.after_drier_k)} after the drier.",
        {
            "drier_in_f": degrees(a.state.liquid_line_k),
            "drier_out_f": degrees(a.state.after_drier_k),
            "drier_drop_df": round(drop, 1) + 0.0,
        },
    )


#: a receiver that runs this empty or this full has too little or too much in it, share of its volume (common practice,
#: no source)
RECEIVER_LOW, RECEIVER_FULL = 0.12, 0.75
#: more vapor than this at the sight glass shows as bubbles, share of the mass
BUBBLES = 1e-3


def glass_word(state: CircuitState) -> str:
    """What sight glass and receiver say: bubbles, low, full or clear."""
    if state.sight_glass_quality > BUBBLES:
        return "bubbles"
    if state.receiver is None:
        return "clear"
    return "low" if state.receiver.level < RECEIVER_LOW else "full" if state.receiver.level > RECEIVER_FULL else "clear"


def sight_glass(a: Asked) -> tuple[str, str, dict[str, int]]:
    """Bubbles where vapor runs with the liquid after the drier; with a receiver also whether it is all but empty or
    too full.
    """
    level = {} if a.state.receiver is None else {"receiver_level_pct": round(100 * a.state.receiver.level)}
    return glass_word(a.state), glass_text(a.state), level


def glass_text(state: CircuitState) -> str:
    """What sight glass and receiver show, in a sentence or two."""
    text = "Bubbles in the sight glass." if glass_word(state) == "bubbles" else "The sight glass is clear."
    if state.receiver is None:
        return text
    return f"{text} The receiver is {100 * state.receiver.level:.0f} % full."


def coil_face(a: Asked) -> tuple[str, str, dict[Any, Any]]:
    """The evaporator's face by hand, from the solved boiling length and blocked circuits."""
    blocked = a.circuit.distributor_blocked_share
    if blocked > 0.08:
        return "part_cold", "Some coil circuits are cold, others are at air temperature from the first bend on.", {}
    boiling, usual = a.state.evaporator_boiling_share, _fault_free(a.machine, a.conditions).evaporator_boiling_share
    if boiling < _COLD_SHARE * usual:
        return "part_cold", f"Cold over about {100 * boiling:.0f} % of its length, warm towards the outlet.", {}
    return "even", "Evenly cold over the whole face.", {}


def compressor_amps(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Amps against the plate and against the same machine sound in the same weather."""
    fault_free = _fault_free(a.machine, a.conditions)
    now, rated = a.state.compressor_amps, a.machine.plate.rated_amps
    usual = amps(a.machine, fault_free.work_w) if fault_free.trip is None else rated
    word = "low" if now < 0.88 * usual else "high" if now > 1.12 * usual else "normal"
    return word, f"{now:.1f} A; the plate says {rated:.1f} A at most.", {"compressor_a": round(now, 1)}


def shell(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Compressor shell by an infrared thermometer: part-way from suction to discharge gas (assumed)."""
    shell_k = a.state.suction_line_k + 0.55 * (a.state.discharge_line_k - a.state.suction_line_k)
    fault_free = _fault_free(a.machine, a.conditions)
    usual = fault_free.suction_line_k + 0.55 * (fault_free.discharge_line_k - fault_free.suction_line_k)
    word = "hot" if shell_k > usual + 6.0 else "cold" if shell_k < usual - 8.0 else "warm"
    return word, f"{a.temperature(shell_k, 0)} on the shell.", {"shell_f": degrees(shell_k)}


def compressor_sound(a: Asked) -> tuple[str, str, dict[Any, Any]]:
    """Liquid coming back or worn valves can be heard."""
    if a.state.slugging:
        return "noisy", "It is slugging: liquid is coming back.", {}
    word = a.seen("compressor_sound", "normal")
    return word, {"normal": "A steady hum.", "noisy": "It clatters."}[word], {}


def condenser_air_rise(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Air leaving minus air entering the condenser."""
    rise = a.state.condenser_rise_dk * 1.8
    return (
        "measured",
        f"{a.temperature(a.state.condenser_entering_k, 0)} in, {a.temperature(a.state.condenser_air_out_k, 0)} out.",
        {"condenser_leaving_air_f": degrees(a.state.condenser_air_out_k), "condenser_air_rise_df": round(rise, 1)},
    )


def _beside_outdoors(entering_k: float, conditions: Conditions) -> str:
    """What the condenser draws in beside the outdoor air, in a word."""
    warmer = (entering_k - conditions.outdoor_k) * 1.8
    return "warmer" if warmer > 2.0 else "cooler" if warmer < -2.0 else "as_outdoors"


def condenser_entering_air(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Air measured right at the coil's face."""
    return (
        _beside_outdoors(a.state.condenser_entering_k, a.conditions),
        (
            f"{a.temperature(a.state.condenser_entering_k)} at the coil, {a.temperature(a.conditions.outdoor_k)} in the"
            " shade."
        ),
        {"condenser_entering_air_f": degrees(a.state.condenser_entering_k)},
    )


#: usual water temperature rise on a tower loop, and behind a water regulating valve, which throttles cold water, in
#: degrees F (common practice, no source)
_TOWER_RISE, _REGULATED_RISE = (7.0, 14.0), (10.0, 45.0)


def water_in_out(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Water temperatures, and the refrigerant's on either side of the condenser."""
    rise = a.state.condenser_rise_dk * 1.8
    low, high = _REGULATED_RISE if a.machine.circuit.head_control_high_pa > 0.0 else _TOWER_RISE
    word = "small_rise" if rise < low else "large_rise" if rise > high else "normal_rise"
    return (
        word,
        f"Water {a.temperature(a.state.condenser_entering_k)} in, {a.temperature(a.state.condenser_air_out_k)} out.",
        {"water_in_f": degrees(a.state.condenser_entering_k), "water_out_f": degrees(a.state.condenser_air_out_k)},
    )


def airflow(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Supply airflow against the plate."""
    flow, design = airflow_m3_s(a.machine, a.state), a.machine.plate.design_airflow_m3_s
    word = "low" if flow < 0.85 * design else "right"
    return (
        word,
        f"{a.shown('flow', flow)}; designed for {a.shown('flow', design)}.",
        {"airflow_cfm": round(flow / M3_S_PER_CFM, -1)},
    )


def static_pressure(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Total external static pressure against the plate's limit."""
    pa, limit = static_pa(a.machine, a.state, a.faults), a.machine.plate.max_static_pa
    if pa is None or limit is None:
        raise BadInputError("test", "static_pressure", f"one that suits {a.machine.id}: it has no ducts")
    digits = 2 if a.system == "us" else 0
    word = "high" if pa > limit else "low" if pa < 0.55 * limit else "within_limit"
    return (
        word,
        f"{a.shown('static', pa, digits)}; the plate allows {a.shown('static', limit, digits)}.",
        {"static_inwc": round(pa / PA_PER_INWC, 2)},
    )


def reversing_valve_step(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Suction gas before and after the reversing valve."""
    step = a.state.reversing_step_dk * 1.8
    word = "warms" if step > 3.0 else "even"
    return (
        word,
        f"The suction gas warms {a.difference(max(a.state.reversing_step_dk, 0.0))} across the valve.",
        {"reversing_valve_step_df": round(step, 1) + 0.0},
    )


def supply_traverse(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Supply air at the top and at the bottom of the duct."""
    top_k, bottom_k = a.state.supply_high_air.dry_bulb_k, a.state.supply_low_air.dry_bulb_k
    word = "layered" if abs(top_k - bottom_k) > 2.2 else "even"
    return (
        word,
        f"{a.temperature(top_k)} at the top, {a.temperature(bottom_k)} at the bottom of the duct.",
        {"supply_high_f": degrees(top_k), "supply_low_f": degrees(bottom_k)},
    )


def mixed_air(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Air just before the coil against the return air."""
    coil_k, return_k = a.state.coil_air.dry_bulb_k, a.state.return_air.dry_bulb_k
    return (
        "measured",
        f"{a.temperature(coil_k)} before circuit 1's part of the coil, {a.temperature(return_k)} in the return.",
        {"mixed_air_f": degrees(coil_k)},
    )


def run_on(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Six hours of running on: does ice grow, and where does that end?"""
    growth = grow(a.machine, a.conditions, a.faults, hours=6.0)
    last = growth.stages[-1]
    if growth.end == "no_frost":
        return "no_frost", "No ice: the coil stays above freezing.", {}
    state, blocked = last.state, round(100 * last.blocked)
    ends = {
        "balance": "and grows no further",
        "closed": "and the coil is all but shut",
        "growing": "and goes on growing",
        "cut_out": "and a cutout opens",
    }
    suction = "" if state.trip else f"; suction {a.gauge(state.suction_pa)}"
    return (
        growth.end,
        f"After {last.hours:.1f} h ice covers {blocked} % of the face {ends[growth.end]}{suction}.",
        {"hours": round(last.hours, 2), "face_blocked_pct": blocked},
    )


_PROBE = "Moving blades and live terminals near the probes."
TESTS = (
    FieldTest(id="drier_drop", name="Temperature drop across the drier", minutes=2, caution="", answer=drier_drop),
    FieldTest(
        id="sight_glass",
        name="Sight glass and receiver level",
        minutes=1,
        caution="",
        answer=sight_glass,
        suits=lambda m: m.receiver or not m.sealed,
    ),
    FieldTest(
        id="coil_face",
        name="Evaporator face by hand",
        minutes=5,
        caution="Lock out the blower before reaching in.",
        answer=coil_face,
    ),
    FieldTest(
        id="amps",
        name="Compressor amps",
        minutes=3,
        caution="Live conductors: licensed practice only.",
        answer=compressor_amps,
    ),
    FieldTest(
        id="shell", name="Compressor shell temperature", minutes=1, caution="The shell can burn you.", answer=shell
    ),
    FieldTest(id="compressor_sound", name="Compressor by ear", minutes=1, caution="", answer=compressor_sound),
    FieldTest(
        id="condenser_air_rise",
        name="Air rise of the condenser",
        minutes=3,
        caution=_PROBE,
        answer=condenser_air_rise,
        suits=_air_cooled,
    ),
    FieldTest(
        id="condenser_entering_air",
        name="Air temperature at the condenser face",
        minutes=3,
        caution=_PROBE,
        answer=condenser_entering_air,
        met=_beside_outdoors,
        suits=lambda m: _air_cooled(m) and not m.in_heating,
    ),
    FieldTest(
        id="water_in_out",
        name="Water temperature in and out",
        minutes=3,
        caution="",
        answer=water_in_out,
        suits=lambda m: m.condenser == "water_cooled",
    ),
    FieldTest(
        id="airflow", name="Supply airflow", minutes=15, caution=_PROBE, answer=airflow, suits=lambda m: m.comfort
    ),
    FieldTest(
        id="static_pressure",
        name="Total external static pressure",
        minutes=10,
        caution=_PROBE,
        answer=static_pressure,
        suits=lambda m: m.comfort,
    ),
    FieldTest(
        id="reversing_valve_step",
        name="Suction across the reversing valve",
        minutes=4,
        caution="Hot discharge pipe beside it.",
        answer=reversing_valve_step,
        suits=lambda m: m.application.startswith("heat_pump"),
    ),
    FieldTest(
        id="supply_traverse",
        name="Supply air across the duct",
        minutes=6,
        caution=_PROBE,
        answer=supply_traverse,
        suits=lambda m: m.application == "package_unit",
    ),
    FieldTest(
        id="run_on",
        name="Let it run for six hours",
        minutes=360,
        caution="Thaw an iced coil before any other reading.",
        answer=run_on,
        suits=lambda m: not m.in_heating,
    ),
    FieldTest(
        id="mixed_air",
        name="Mixed air before the coil",
        minutes=4,
        caution=_PROBE,
        answer=mixed_air,
        suits=lambda m: m.application == "package_unit",
    ),
)
