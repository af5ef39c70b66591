"""Drills: one skill at a time. Conversion, reading a dial, one subtraction, weights, and finding somebody else's
mistake.

Every number comes from the tables or from a solved machine; the first subtraction of a drill is worked, the rest is to
do.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.instruments import KITS, read
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import said_of
from wolfsbane.cycle.units import STANDARD_ATMOSPHERE_PA, SYSTEMS, f_to_k, from_display, to_display
from wolfsbane.diagnosis.figures import SATURATIONS, SUBTRACTIONS, parts_of, saturation, work_out
from wolfsbane.diagnosis.targets import charged_by, practice_by_id
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.bookkeeping import bookkeeping
from wolfsbane.exercise.draw.more_drills import MORE
from wolfsbane.exercise.draw.weather import drawn_weather
from wolfsbane.exercise.paper.call import DIFFERENCE_TOLERANCE, SCALE_TOLERANCE, bands_for, readings_printed
from wolfsbane.exercise.paper.drill import Drill, DrillItem, DrillMistake, WrittenLine
from wolfsbane.exercise.paper.questions import EVIDENCE
from wolfsbane.exercise.plan.brief import USUAL_MACHINES

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.instruments import Reading
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.plan.brief import Brief

_SIDES = {"low": ("dew", 20.0, 60.0), "high": ("bubble", 85.0, 130.0)}
_POINT_NAMES = {"dew": "dew point", "bubble": "bubble point"}


def drill(kind: str, items: int, brief: Brief, rng: random.Random) -> Drill:
    """One drill: kind, instruction and its items, each with its answer and tolerance.

    ``kind`` is one of :data:`wolfsbane.exercise.plan.brief.DRILLS`; ``rng`` is a random.Random.
    """
    make, instruction = _KINDS[kind]
    return {
        "kind": kind,
        "instruction": instruction,
        "items": [{"number": i + 1, **make(brief, rng, i)} for i in range(items)],
    }


def _pressure(brief: Brief, rng: random.Random, side: str) -> tuple[Machine, float]:
    """(machine, gauge pressure as shown) at a saturation temperature that this side sees."""
    machine = brief.machine(rng.choice(brief.machines))
    point, low, high = _SIDES[side]
    pa = refrigerant(machine.refrigerant).saturation_pa(f_to_k(rng.uniform(low, high)), point)
    tool = KITS[brief.kit][0 if side == "low" else 1]
    step = tool.resolution[brief.units]
    return machine, round(to_display("pressure", pa, brief.units) / step) * step


def _conversion(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    side = ("low", "high")[index % 2]
    machine, gauge = _pressure(brief, rng, side)
    point, unit = _SIDES[side][0], SYSTEMS[brief.units]
    value = saturation(machine.refrigerant, gauge, point, brief.units, STANDARD_ATMOSPHERE_PA)
    backwards = index % 3 == 2
    if backwards:
        whole = round(value)
        pa = refrigerant(machine.refrigerant).saturation_pa(
            f_to_k(whole) if brief.units == "us" else whole + 273.15, point
        )
        answer = to_display("pressure", pa, brief.units)
        slope = abs(
            saturation(machine.refrigerant, gauge * 1.02, point, brief.units, STANDARD_ATMOSPHERE_PA) - value
        ) / (0.02 * gauge)
        return {
            "prompt": f"{machine.refrigerant}, {_POINT_NAMES[point]} {whole} {unit['temperature'][0]}: gauge pressure?",
            "unit": unit["pressure"][0],
            "answer": round(answer, 1),
            "tolerance": round(SCALE_TOLERANCE[brief.units] / slope, 1),
            "mistakes": [],
        }
    return {
        "prompt": f"{machine.refrigerant}, {side} side {gauge:g} {unit['pressure'][0]}: {_POINT_NAMES[point]}?",
        "unit": unit["temperature"][0],
        "answer": round(value, 1),
        "tolerance": SCALE_TOLERANCE[brief.units],
        "mistakes": _slips(machine, gauge, point, brief.units),
    }


def _slips(machine: Machine, gauge: float, point: str, system: str) -> list[DrillMistake]:
    other = "R-22" if machine.refrigerant != "R-22" else "R-410A"
    found: list[DrillMistake] = []
    for name, fluid, wrong in (
        ("wrong_ring", other, gauge),
        ("absolute_for_gauge", machine.refrigerant, gauge - to_display("pressure", 2 * STANDARD_ATMOSPHERE_PA, system)),
    ):
        table = refrigerant(fluid)
        pa = from_display("pressure", wrong, system)
        if table.min_pa < pa < table.max_pa:
            found.append(
                {"mistake": name, "value": round(saturation(fluid, wrong, point, system, STANDARD_ATMOSPHERE_PA), 1)}
            )
    return found


def _dial(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    side = ("low", "high")[index % 2]
    machine, gauge = _pressure(brief, rng, side)
    point, unit = _SIDES[side][0], SYSTEMS[brief.units]
    value = saturation(machine.refrigerant, gauge, point, brief.units, STANDARD_ATMOSPHERE_PA)
    tool = KITS["analogue"][0 if side == "low" else 1]
    return {
        "prompt": f"Read the {side}-side gauge: pressure, and saturation on the {machine.refrigerant} PT scale.",
        "dial": dial(side, brief.units, gauge, machine.refrigerant, STANDARD_ATMOSPHERE_PA),
        "unit": unit["pressure"][0],
        "answer": gauge,
        "tolerance": tool.resolution[brief.units],
        "second": {
            "unit": unit["temperature"][0],
            "answer": round(value, 1),
            "tolerance": SCALE_TOLERANCE[brief.units],
            "per": round(_scale_slope(machine, gauge, point, brief.units), 4),
        },
        "mistakes": _slips(machine, gauge, point, brief.units),
    }


def _scale_slope(machine: Machine, gauge: float, point: str, system: str) -> float:
    """Degrees of the sheet a unit of pressure, on the PT scale where the needle stands."""
    step = 0.02 * gauge

    def at(g: float) -> float:
        return saturation(machine.refrigerant, g, point, system, STANDARD_ATMOSPHERE_PA)

    return (at(gauge + step) - at(gauge - step)) / (2 * step)


def _charged_by_a_figure(brief: Brief) -> tuple[str, ...]:
    """Machines of a brief that cool rooms and are charged by a figure; the usual ones where it has none."""
    fit = tuple(m for m in brief.machines if brief.machine(m).comfort and charged_by(brief.machine(m)) is not None)
    return fit or USUAL_MACHINES


def _running(brief: Brief, rng: random.Random) -> tuple[Machine, Conditions, dict[str, Reading]]:
    """(machine, conditions, readings by key as numbers) of a random running machine of the brief."""
    for _ in range(40):
        machine = brief.machine(rng.choice(_charged_by_a_figure(brief)))
        weather = drawn_weather(brief, machine, rng)
        fit = [f for f in brief.faults if fault_kind(f).suits(machine)]
        kind = fault_kind(rng.choice(fit)).on(machine) if fit and rng.random() > brief.fault_free_share else None
        state = solved(machine, weather, () if kind is None else (Fault(id=kind.id, severity=kind.moderate),))
        if state is not None:
            keys = readings_printed(machine, None)
            return machine, weather, read(state, brief.kit, brief.units, machine=machine, keys=keys)
    raise ValueError("no running machine in forty draws")


def _difference(name: str) -> Callable[[Brief, random.Random, int], DrillItem]:
    a, b = SUBTRACTIONS[name]

    def make(brief: Brief, rng: random.Random, index: int) -> DrillItem:
        machine, weather, readings = _running(brief, rng)
        values = {k: r.value for k, r in readings.items()}
        found = work_out(machine.refrigerant, values, brief.units, weather.barometer_pa)
        seen = a if a in SATURATIONS else b
        pressure, line = SATURATIONS[seen][0], b if seen == a else a
        unit = "°F" if brief.units == "us" else "K"
        row: DrillItem = {
            "prompt": (
                f"{machine.refrigerant}: {readings[pressure].text}, line {readings[line].text}. {name.capitalize()}?"
            ),
            "unit": unit,
            "answer": round(found[name], 1),
            "tolerance": DIFFERENCE_TOLERANCE[brief.units] + SCALE_TOLERANCE[brief.units],
            "steps": [{"name": seen, "answer": round(found[seen], 1)}],
            "mistakes": [{"mistake": "sign_turned", "value": round(-found[name], 1)}],
        }
        if index == 0:
            first, second = (f"{found[x]:.1f}" if x in SATURATIONS else f"{values[x]:g}" for x in (a, b))
            row["worked"] = (
                f"{readings[pressure].text} is {found[seen]:.1f}; {first} − {second} = {found[name]:.1f} {unit}"
            )
        return row

    return make


def _which_line(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """Three clamps on a running machine: which one is on the liquid line, and the subcooling."""
    machine, weather, readings = _running(brief, rng)
    values = {k: r.value for k, r in readings.items()}
    found = work_out(machine.refrigerant, values, brief.units, weather.barometer_pa)
    lines = ["suction_line", "liquid_line", "discharge_line"]
    rng.shuffle(lines)
    other = round(found["liquid_saturation"] - values["suction_line"], 1)
    around = next(k for k in ("outdoor_db", "water_in") if k in readings)
    rows: list[WrittenLine] = [{"line": name, "text": readings[name].text, "value": values[name]} for name in lines]
    return {
        "prompt": (
            f"{machine.refrigerant}: head {readings['head_pressure'].text}, {said_of(around)} {readings[around].text}. "
            "Three clamps; one is on the liquid line. Which, and how much subcooling is there?"
        ),
        "unit": "°F" if brief.units == "us" else "K",
        "answer": round(found["subcooling"], 1),
        "tolerance": DIFFERENCE_TOLERANCE[brief.units] + SCALE_TOLERANCE[brief.units],
        "lines": rows,
        "answer_line": "liquid_line",
        "pick": "which clamp",
        "mistakes": [{"mistake": "other_line", "value": other}],
    }


_ERRORS = ("wrong_ring", "sign_turned", "other_saturation", "target_wrong_device", "misread_dial")


def _spot(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """Somebody's worked sheet with one mistake in it; what follows from the mistake is carried through honestly."""
    machine, weather, readings = _running(brief, rng)
    values = {k: r.value for k, r in readings.items()}
    true = work_out(machine.refrigerant, values, brief.units, weather.barometer_pa)
    practice = practice_by_id(brief.practice_id)
    question = charged_by(machine)
    target = None if question is None else bands_for(machine, practice, brief.units, readings)[question].target
    assert target is not None, "a drill is drawn on a machine that is charged by a figure with a target"
    shown, error = dict(true) | {"target": target}, _ERRORS[index % len(_ERRORS)]
    line = _plant_error(error, shown, true, machine, values, weather, brief, rng)
    lines: list[WrittenLine] = [
        {"line": name, "text": _line(name, shown, values, brief.units), "value": round(shown[name], 1)}
        for name in (
            "suction_saturation",
            "liquid_saturation",
            "superheat",
            "subcooling",
            "evaporator_td",
            "ctoa",
            "target",
        )
    ]
    right = {**true, "target": target}[line]
    return {
        "prompt": (
            f"{machine.name}, {machine.refrigerant}. One line is wrong; what follows from it is carried through. "
            "Which line, and what should it be?"
        ),
        "readings": {k: r.text for k, r in readings.items()},
        "lines": lines,
        "unit": "°F" if brief.units == "us" else "°C or K",
        "answer": round(right, 1),
        "answer_line": line,
        "mistake": error,
        "tolerance": SCALE_TOLERANCE[brief.units] + DIFFERENCE_TOLERANCE[brief.units],
        "mistakes": [],
    }


def _plant_error(
    error: str,
    shown: dict[str, float],
    true: dict[str, float],
    machine: Machine,
    values: dict[str, float],
    weather: Conditions,
    brief: Brief,
    rng: random.Random,
) -> str:
    """Put one mistake into ``shown``; returns the line it stands in."""
    if error == "wrong_ring":
        other = "R-22" if machine.refrigerant != "R-22" else "R-134a"
        shown["suction_saturation"] = saturation(
            other, values["suction_pressure"], "dew", brief.units, weather.barometer_pa
        )
        _carry(shown, values, "suction_saturation")
        return "suction_saturation"
    if error == "misread_dial":
        shown["liquid_saturation"] += rng.choice((-8, 8)) / (1.0 if brief.units == "us" else 1.8)
        _carry(shown, values, "liquid_saturation")
        return "liquid_saturation"
    if error == "sign_turned":
        line = rng.choice([n for n in ("superheat", "subcooling", "ctoa") if abs(true[n]) > 3] or ["ctoa"])
        shown[line] = -true[line]
        return line
    if error == "other_saturation":
        shown["superheat"] = true["liquid_saturation"] - values["suction_line"]
        return "superheat"
    shown["target"] = shown["target"] + (9.0 if brief.units == "us" else 5.0)
    return "target"


def _carry(shown: dict[str, float], values: dict[str, float], changed: str) -> None:
    for name in SUBTRACTIONS:
        a, b = parts_of(name, values)
        if changed in (a, b) and name in shown:
            known = values | shown
            shown[name] = known[a] - known[b]


def _line(name: str, shown: dict[str, float], values: dict[str, float], system: str) -> str:
    unit = "°F" if system == "us" else "°C"
    difference = "°F" if system == "us" else "K"
    label = EVIDENCE.get(name, name.replace("_", " ").capitalize())
    if name in SATURATIONS:
        return f"{label}: {shown[name]:.1f} {unit}"
    if name == "target":
        return f"{label}: {shown[name]:.1f} {difference}"
    a, b = parts_of(name, values)
    first, second = (f"{shown[x]:.1f}" if x in SATURATIONS else f"{values[x]:g}" for x in (a, b))
    return f"{label}: {first} − {second} = {shown[name]:.1f} {difference}".replace("= -", "= −")


_KINDS: dict[str, tuple[Callable[[Brief, random.Random, int], DrillItem], str]] = {
    "conversion": (_conversion, "Convert. Low side: dew point; high side: bubble point."),
    "dial": (_dial, "Read the dial, then the PT scale for the refrigerant given."),
    "superheat": (_difference("superheat"), "Superheat: suction line − suction saturation. The first is worked."),
    "subcooling": (_difference("subcooling"), "Subcooling: liquid saturation − liquid line. The first is worked."),
    "bookkeeping": (bookkeeping, "Scale, cylinder and log must agree. Work it out; where they do not agree, say why."),
    "which_line": (_which_line, "Find the liquid line by its temperature, then work out subcooling."),
    **MORE,
    "spot_the_error": (_spot, "Somebody worked this out and made one mistake. Find it and correct it."),
}
