"""A call that is planted on a trainer rig: how it is set and undone, what the model predicts, and what the rig really
read.

The class is marked against the rig. The readings are checked against each other, the plate, the weather and the
prediction; a contradiction is said, never hidden, and never repairs a reading.
"""

from __future__ import annotations

import random
from dataclasses import asdict, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError, require_range
from wolfsbane.cycle.faults import NONE, fault_kind
from wolfsbane.cycle.instruments import ALL_POINTS, PIPES, POINTS, reading, tool_for
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import SYSTEMS, from_display, to_display
from wolfsbane.diagnosis.figures import SATURATIONS, saturation
from wolfsbane.diagnosis.patterns import patterns
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import GLASS, HIGH, NORMAL
from wolfsbane.exercise.draw.judgement import Judgement
from wolfsbane.exercise.draw.offered import offer, pool
from wolfsbane.exercise.draw.variant import finished, told
from wolfsbane.exercise.paper.asked import Asked
from wolfsbane.exercise.paper.call import UNITS, PrintedReading, bands_for, figures_of, judged_figures
from wolfsbane.exercise.paper.key import RigCard, RigRow
from wolfsbane.exercise.paper.questions import MEASURED, Question, question_list
from wolfsbane.exercise.paper.scale_slips import slips_of_scale

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.plan.scenario import Scenario

#: a reading further than this many tolerances from the prediction is worth a word
_FAR = 3.0
#: what a reading may be at all: kind -> (lowest, highest) in US units
_SPANS = {"pressure": (-14.0, 900.0), "temperature": (-60.0, 350.0)}


def rig_call(
    scenario: Scenario, system: str, rng: random.Random, asked: Asked | None = None, machine: Machine | None = None
) -> Call:
    """The :class:`Call` of a scenario planted on a rig, the same for everybody: readings are blank until somebody
    measured. ``machine`` is the rig as it was calibrated, None for its profile as it stands in the book.

    Raises BadInputError where a fault must not be planted, NoConvergenceError where the machine finds no steady
    operating point.
    """
    for fault in scenario.faults:
        if not fault_kind(fault.id).rig.plant:
            raise BadInputError(
                "fault", fault.id, f"one that may be planted on a rig: {fault_kind(fault.id).rig.limits}"
            )
    asked = asked or Asked()
    if asked.instruments == PIPES:
        raise BadInputError(
            "asked.instruments", PIPES, "gauges on a rig: its readings are what the class is marked against"
        )
    practice, conditions = scenario.practice, scenario.conditions()
    cases = solved_cases(machine or scenario.profile, conditions, asked.instruments or scenario.instruments)
    state = solve(cases.machine, conditions, scenario.faults)
    if state.trip is not None:
        raise BadInputError(
            "fault", scenario.fault, f"a severity that keeps running: this one cuts out on {state.trip.cutout}"
        )
    proof = prove(cases, scenario.faults, offers_readings=False, wants_splits=False)
    if proof.refusal is not None:
        raise BadInputError("fault", scenario.fault, f"a fault that shows: {proof.refusal}")
    hidden = tuple(f.id for f in scenario.faults)
    table = patterns(cases, practice, tuple(dict.fromkeys((*pool(cases.machine), *hidden))))
    offered = offer(cases.machine, hidden, table, None, set(), random.Random(rng.randrange(2**31)))
    judged = Judgement(
        refusal=None,
        proof=proof,
        patterns={fault: rows for fault, rows in table.items() if fault in (NONE, *offered)},
        state=state,
        cases=cases,
        offered=offered,
        left_open=tuple(r.id for r in proof.equals if r.id in offered),
    )
    planned = told(replace(scenario, instruments=cases.kit), judged, rng)
    made = finished(judged, planned, scenario.faults, practice, system, rng.randrange(2**31), asked)
    points = asked.points or {}
    read = tuple(q for q, name in MEASURED.items() if name in made.readings)
    measured = tuple(
        Question(
            id=question,
            text=f"Read: {made.readings[name].label}",
            kind=tool_for(name, cases.kit).kind,
            unit=made.readings[name].unit,
            points=points.get(question, 1),
        )
        for question, name in MEASURED.items()
        if name in made.readings
    )
    asked_for = question_list(
        cases.machine,
        UNITS[system],
        max(len(scenario.faults), 1),
        asked.questions,
        points,
        asked.rubric,
        read,
    )
    tolerance = replace(made.key.tolerance, readings=_tolerances(made))
    return replace(
        made, questions=measured + asked_for, key=replace(made.key, rig=card(scenario, made), tolerance=tolerance)
    )


def card(scenario: Scenario, call: Call) -> RigCard:
    """What stands on the card of a rig, and the predicted readings."""
    kinds = [fault_kind(f.id) for f in scenario.faults]
    rows = tuple(
        RigRow(
            fault=k.name,
            size=f"{k.parameter}: {f.severity:g} {k.unit}",
            set=k.rig.plant,
            settle_min=k.rig.settle_min,
            limits=k.rig.limits,
            undo=k.rig.undo,
            caution=k.hazard,
        )
        for k, f in zip(kinds, scenario.faults, strict=True)
    )
    nothing = RigRow(
        fault="Nothing wrong",
        size="",
        set="Leave the rig as it is.",
        settle_min=10,
        limits="Its own cutouts.",
        undo="Nothing to undo.",
        caution=call.key.hazard,
    )
    return RigCard(rows=rows or (nothing,), predicted={name: r.text for name, r in call.readings.items()})


def _tolerances(call: Call) -> dict[str, float]:
    """One honest reading either way, in the sheet's unit, and half the resolution."""
    found = {}
    for key, row in call.readings.items():
        tool = tool_for(key, call.instruments)
        size = 1.0 if call.units == "us" else (6.894757 if tool.kind == "pressure" else 1 / 1.8)
        found[key] = round(tool.tolerance_us * size + 0.5 * row.resolution, 2)
    return found


def checked_readings(call: Call, values: dict[str, float]) -> dict[str, float]:
    """``values`` (reading key -> number in the sheet's unit) as floats.

    Raises BadInputError naming what is missing or impossible.
    """
    found = {}
    for key, value in values.items():
        if key not in POINTS and key not in call.readings:
            raise BadInputError(f"readings.{key}", value, ", ".join(POINTS))
        tool = tool_for(key, call.instruments)
        low, high = _SPANS.get(tool.kind, (-1e6, 1e6))
        unit = SYSTEMS[call.units][tool.kind][0]
        ends = (
            [low, high]
            if call.units == "us"
            else [low * 6.894757, high * 6.894757]
            if tool.kind == "pressure"
            else [(low - 32) / 1.8, (high - 32) / 1.8]
        )
        found[key] = require_range(f"readings.{key}", value, round(ends[0]), round(ends[1]), unit)
    for pressure, point in SATURATIONS.values():
        if pressure in found:
            _on_the_chart(call, pressure, point, found[pressure])
    for key in needed(call):
        if key not in found:
            raise BadInputError(f"readings.{key}", None, f"what the rig read: {ALL_POINTS[key].label.lower()}")
    return found


def needed(call: Call) -> tuple[str, ...]:
    """Readings a rig has to give before a class can be marked: those that the class is asked for."""
    return tuple(MEASURED[q.id] for q in call.questions if q.id in MEASURED)


def _on_the_chart(call: Call, key: str, point: str, value: float) -> None:
    """Refuse a pressure that lies off the refrigerant's chart."""
    try:
        saturation(call.machine.refrigerant, value, point, call.units, call.conditions.barometer_pa)
    except BadInputError:
        unit = SYSTEMS[call.units]["pressure"][0]
        raise BadInputError(
            f"readings.{key}", f"{value:g} {unit}", f"a pressure on the chart for {call.machine.refrigerant}"
        ) from None


def measured_call(call: Call, machine: Machine, practice: Practice, values: dict[str, float]) -> Call:
    """The :class:`Call` to mark against: the rig's readings in place of the predicted ones, and the key worked out
    again from them.

    ``values`` come from :func:`checked_readings`. What the repair makes of it stays as the model has it.
    """
    barometer, system = call.conditions.barometer_pa, call.units
    readings = {}
    for name, value in values.items():
        label = call.readings[name].label if name in call.readings else ALL_POINTS[name].label
        si = from_display(tool_for(name, call.instruments).kind, value, system, barometer)
        shown = reading(name, si, call.instruments, system, barometer)
        readings[name] = PrintedReading(
            label=label, **asdict(shown) | {"value": value, "text": f"{value:g} {shown.unit}"}
        )
    figures = figures_of(machine, readings, system, barometer)
    key = call.key
    targets = bands_for(machine, practice, system, readings)
    judged = judged_figures(machine, practice, system, figures, targets, key.verdicts.get(GLASS, NORMAL))
    verdicts = judged["verdicts"]
    pattern = (*(verdicts.get(name, NORMAL) for name in key.judged), HIGH if judged["drier_high"] else NORMAL)
    new = replace(
        key,
        measured=True,
        patterns=key.patterns | {key.fault: (*key.patterns.get(key.fault, ()), pattern)},
        mistakes=slips_of_scale(machine, readings, system, barometer, figures),
        scale_slope={
            name: round(_scale_slope(machine, values[pressure], point, system, barometer), 5)
            for name, (pressure, point) in SATURATIONS.items()
        },
        **judged,
    )
    return replace(call, readings=call.readings | readings, key=new)


def _scale_slope(machine: Machine, gauge: float, point: str, system: str, barometer: float) -> float:
    step = max(0.01 * abs(gauge), 0.5)

    def at(g: Any) -> Any:
        return saturation(machine.refrigerant, g, point, system, barometer)

    return (at(gauge + step) - at(gauge - step)) / (2 * step)


def warnings(call: Call, machine: Machine, scenario: Scenario, values: dict[str, float], measured: Call) -> list[str]:
    """Sentences for what contradicts each other, the plate, the weather or the prediction; empty where nothing does."""
    figures, unit = measured.key.figures, SYSTEMS[call.units]["temperature"][0]

    def t(v: Any) -> Any:
        return f"{v:.1f} {unit}".replace("-", "−")

    k = 1.0 if call.units == "us" else 1 / 1.8
    found = []
    if figures["superheat"] < -2.0 * k:
        found.append(
            f"Suction line {t(values['suction_line'])} is colder than its own saturation"
            f" {t(figures['suction_saturation'])}: look at clamp, gauge and PT scale."
        )
    if figures["subcooling"] < -2.0 * k:
        found.append(
            f"Liquid line {t(values['liquid_line'])} is hotter than its saturation {t(figures['liquid_saturation'])}: "
            "clamp on the discharge line, or the gauge?"
        )
    if values["suction_pressure"] >= values["head_pressure"]:
        found.append(
            "The low-side gauge reads as high as the high-side gauge: is it "
            "running, and are the hoses on the right ports?"
        )
    if values["return_wb"] > values["return_db"] + 0.5 * k:
        found.append("Wet bulb is above dry bulb: that cannot be.")
    if "supply_db" in values and values["supply_db"] >= values["return_db"]:
        found.append("Supply air is no colder than return air.")
    if "discharge_line" in values and values["discharge_line"] < figures["liquid_saturation"] - 4.0 * k:
        found.append("The discharge line is colder than condensing temperature.")
    if figures["ctoa"] < 0.0:
        found.append(
            f"It is condensing at {t(figures['liquid_saturation'])}, below the outdoor air {t(values['outdoor_db'])}: "
            "no dry condenser does that."
        )
    elif values["liquid_line"] < values["outdoor_db"] - 2.0 * k:
        found.append(
            "The liquid line is colder than the outdoor air: is the condenser wet, or the thermometer in the sun?"
        )
    if figures["evaporator_td"] < 0.0:
        found.append(f"It is evaporating at {t(figures['suction_saturation'])}, above the return air.")
    return found + _of_plate(machine, values, call) + _of_prediction(call, machine, scenario, values)


def _of_plate(machine: Machine, values: dict[str, float], call: Call) -> list[str]:
    found, plate, barometer = [], machine.plate, call.conditions.barometer_pa

    def pa(key: Any) -> Any:
        return from_display("pressure", values[key], call.units, barometer) - barometer

    if pa("head_pressure") > plate.high_cutout_gauge_pa:
        found.append("Head pressure is above the nameplate's high-pressure cutout: it should not be running.")
    if pa("suction_pressure") < plate.low_cutout_gauge_pa:
        found.append("Suction pressure is below the nameplate's low-pressure cutout: it should not be running.")
    if values.get("compressor_amps", 0.0) > plate.overload_amps:
        found.append("The compressor is drawing more amps than its overload allows.")
    return found


def _of_prediction(call: Call, machine: Machine, scenario: Scenario, values: dict[str, float]) -> list[str]:
    """What lies far from the machine solved in the weather that was measured; the one worst reading is named."""
    conditions = replace(
        scenario.conditions(),
        **{
            name: from_display("temperature", values[key], call.units)
            for name, key in (
                ("outdoor_k", "outdoor_db"),
                ("return_k", "return_db"),
                ("return_wet_bulb_k", "return_wb"),
            )
        },
    )
    try:
        state = solve(machine, conditions, scenario.faults)
    except (NoConvergenceError, BadInputError):
        return [
            "In this weather the model finds no steady operating point with this fault: check the air temperatures."
        ]
    if state.trip is not None:
        return [f"In this weather the model cuts out on {state.trip.cutout.replace('_', ' ')} with the hidden fault."]
    tolerances, off = _tolerances(call), []
    for key, attribute in (
        ("suction_pressure", "suction_pa"),
        ("head_pressure", "head_pa"),
        ("suction_line", "suction_line_k"),
        ("liquid_line", "liquid_line_k"),
    ):
        kind = tool_for(key, call.instruments).kind
        expected = to_display(kind, getattr(state, attribute), call.units, call.conditions.barometer_pa)
        away = abs(values[key] - expected) / tolerances[key]
        if away > _FAR:
            off.append((away, key, f"{expected:.0f} {SYSTEMS[call.units][kind][0]}"))
    if not off:
        return []
    _, key, told = max(off)
    return [
        f"{ALL_POINTS[key].label} is far from the model's {told} for this plant in this weather: "
        "the plant may sit deeper or lighter than noted, or a reading is off."
    ]
