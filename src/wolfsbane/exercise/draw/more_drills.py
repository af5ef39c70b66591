"""More drills: vacuum, two manifolds side by side, line temperature to pressure, mixed air, glide, target superheat,
units, and which line is which.

Numbers come from the tables, from solved machines or from exact factors (NIST SP 811, from memory); what a vacuum gauge
shows in a decay test is made up within what is usual (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.instruments import KITS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import STANDARD_ATMOSPHERE_PA, SYSTEMS, f_to_k, from_display, to_display
from wolfsbane.diagnosis.figures import saturation
from wolfsbane.diagnosis.targets import Band, formula_target
from wolfsbane.exercise.paper.call import DIFFERENCE_TOLERANCE, SCALE_TOLERANCE
from wolfsbane.exercise.paper.drill import DrillItem, DrillMistake, WrittenLine

if TYPE_CHECKING:
    import random

    from wolfsbane.exercise.plan.brief import Brief

#: inches of mercury of the standard atmosphere, and microns in one of them
_ATMOSPHERE_INHG, _MICRONS = 29.92, 25_400.0
#: a tight dry system holds under this after ten minutes; one that rises and stops above it is wet; microns (common
#: practice, no source)
_HOLDS = 1_000
_DECAY = {
    "tight": "Dry and tight: charge it",
    "wet": "Moisture: it boils off; pump on, or sweep with nitrogen and pump again",
    "leak": "A leak: find it before pumping any longer",
}
_AGREE = {
    "agree": "They agree: within what two good gauges may differ",
    "differ": "They do not agree: zero both at rest before you believe either",
}
#: two gauges may differ by so much, psi on the low and the high side
_MAY_DIFFER = {"low": 4.0, "high": 8.0}
_SATURATIONS_F = {"low": (20.0, 55.0), "high": (85.0, 125.0)}
_POINTS = {"low": "dew", "high": "bubble"}
_BLENDS = ("R-407C", "R-448A", "R-449A", "R-454B")


def _picks(rows: dict[str, str], rng: random.Random | None = None) -> list[WrittenLine]:
    """Lettered answers to choose from, in an order drawn from ``rng``."""
    order = list(rows)
    if rng is not None:
        rng.shuffle(order)
    return [{"line": key, "text": rows[key], "value": 0.0} for key in order]


def _degrees(value_f: float, system: str) -> float:
    return to_display("temperature", f_to_k(value_f), system)


def vacuum(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """Inches of mercury to microns, and what a decay test says."""
    if index % 2 == 0:
        gauge = round(rng.uniform(29.2, 29.85), 2)
        return {
            "prompt": (
                f"A compound gauge shows {gauge:.2f} inHg of vacuum at sea level ({_ATMOSPHERE_INHG:.2f} inHg). "
                "How many microns is that?"
            ),
            "unit": "microns",
            "answer": round((_ATMOSPHERE_INHG - gauge) * _MICRONS),
            "tolerance": 260.0,
            "mistakes": [{"mistake": "vacuum_for_absolute", "value": round(gauge * _MICRONS)}],
        }
    kind = ("tight", "wet", "leak")[(index // 2) % 3]
    start = round(rng.uniform(280, 480), -1)
    ends = {
        "tight": (start + rng.uniform(60, 120), start + rng.uniform(140, 200), start + rng.uniform(200, 240)),
        "wet": (start + rng.uniform(700, 900), start + rng.uniform(1150, 1250), start + rng.uniform(1260, 1320)),
        "leak": (start + rng.uniform(900, 1400), start + rng.uniform(2600, 3600), start + rng.uniform(5600, 7600)),
    }[kind]
    two, five, ten = (round(v, -1) for v in ends)
    return {
        "prompt": (
            f"Pumped down to {start:.0f} microns and isolated. After 2, 5 and 10 minutes the gauge shows {two:.0f}, "
            f"{five:.0f} and {ten:.0f} microns. How far did it rise in ten minutes, and what does that say?"
        ),
        "unit": "microns",
        "answer": float(ten - start),
        "tolerance": 20.0,
        "lines": _picks(_DECAY, rng),
        "answer_line": kind,
        "pick": "what it says",
        "mistakes": [{"mistake": "end_for_rise", "value": float(ten)}],
    }


def two_manifolds(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """An analog gauge beside a digital one on the same port."""
    side = ("low", "high")[index % 2]
    fluid = refrigerant(brief.machine(rng.choice(brief.machines)).refrigerant)
    pa = fluid.saturation_pa(f_to_k(rng.uniform(*_SATURATIONS_F[side])), _POINTS[side])
    shown = to_display("pressure", pa, "us")
    off = rng.choice((0.0, 0.0, -1.0, 1.0)) * rng.uniform(2.0, 3.5) * _MAY_DIFFER[side]
    analog, digital = KITS["analogue"][side == "high"], KITS["digital"][side == "high"]
    step = analog.resolution["us"]
    stands = round((shown + off) / step) * step
    read = {
        unit: to_display("pressure", from_display("pressure", value, "us"), brief.units)
        for unit, value in (("analog", stands), ("digital", round(shown / digital.resolution["us"]) * 0.5))
    }
    kind = "agree" if abs(stands - shown) <= _MAY_DIFFER[side] else "differ"
    unit = SYSTEMS[brief.units]["pressure"][0]
    return {
        "prompt": (
            f"The digital manifold shows {read['digital']:.1f} {unit} on the {side} side of an {fluid.name} system. "
            "Read the analog gauge on the same port. Do they agree?"
        ),
        "unit": unit,
        "answer": round(read["analog"], 1),
        "tolerance": round(analog.resolution[brief.units], 1),
        "dial": dial(side, brief.units, read["analog"], fluid.name, STANDARD_ATMOSPHERE_PA),
        "lines": _picks(_AGREE, rng),
        "answer_line": kind,
        "pick": "whether they agree",
        "mistakes": [],
    }


def pipe_pressure(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """A pipe where the refrigerant is surely two-phase, and the pressure that goes with it by the chart."""
    side = ("low", "high")[index % 2]
    sealed = [m for m in brief.machines if brief.machine(m).sealed] or [m.id for m in MACHINES.values() if m.sealed]
    name = brief.machine(rng.choice(sealed)).refrigerant
    spans = {"low": (-20.0, 22.0), "high": (95.0, 125.0)}
    pipe = round(_degrees(rng.uniform(*spans[side]), brief.units))
    kelvin = from_display("temperature", pipe, brief.units)
    gauge = to_display("pressure", refrigerant(name).saturation_pa(kelvin, _POINTS[side]), brief.units)
    near = to_display("pressure", refrigerant(name).saturation_pa(kelvin + 1 / 1.8, _POINTS[side]), brief.units)
    where = {"low": "evaporator inlet", "high": "condenser return bend, halfway"}[side]
    unit = SYSTEMS[brief.units]
    absolute = gauge + to_display("pressure", 2 * STANDARD_ATMOSPHERE_PA, brief.units)
    return {
        "prompt": f"{name}, sealed: the {where} is at {pipe:g} {unit['temperature'][0]}. Gauge pressure by the chart?",
        "unit": unit["pressure"][0],
        "answer": round(gauge, 1),
        "tolerance": round(abs(near - gauge) + 0.5 * (1.0 if brief.units == "us" else 6.9), 1),
        "mistakes": [{"mistake": "absolute_for_gauge", "value": round(absolute, 1)}],
    }


def mixed_air(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """Return and outdoor air through an economizer, by the share of outdoor air."""
    inside, outside = (
        round(_degrees(rng.uniform(72, 80), brief.units)),
        round(_degrees(rng.uniform(84, 104), brief.units)),
    )
    if index % 3 == 2:
        outside = round(_degrees(rng.uniform(40, 62), brief.units))
    share = rng.choice((10, 15, 20, 25, 30, 40, 60))
    answer = inside + share / 100 * (outside - inside)
    unit = SYSTEMS[brief.units]["temperature"][0]
    return {
        "prompt": (
            f"Return air {inside:g} {unit}, outdoor air {outside:g} {unit}, economizer at {share} % outdoor air. "
            "Mixed air before the coil?"
        ),
        "unit": unit,
        "answer": round(answer, 1),
        "tolerance": 0.5 if brief.units == "us" else 0.3,
        "mistakes": [{"mistake": "shares_swapped", "value": round(outside + share / 100 * (inside - outside), 1)}],
    }


def glide(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """A blend: which end of the glide a figure uses, and its temperature."""
    side = ("low", "high")[index % 2]
    name = _BLENDS[rng.randrange(len(_BLENDS))]
    fluid, point = refrigerant(name), _POINTS[side]
    other = "bubble" if point == "dew" else "dew"
    tool = KITS["analogue"][side == "high"]
    pa = fluid.saturation_pa(f_to_k(rng.uniform(*_SATURATIONS_F[side])), point)
    gauge = round(to_display("pressure", pa, brief.units) / tool.resolution[brief.units]) * tool.resolution[brief.units]
    values = {p: round(saturation(name, gauge, p, brief.units, STANDARD_ATMOSPHERE_PA), 1) for p in (point, other)}
    figure = "superheat" if side == "low" else "subcooling"
    unit = SYSTEMS[brief.units]
    return {
        "prompt": (
            f"{name} boils and condenses over a range. At {gauge:g} {unit['pressure'][0]} on the {side} side: which "
            f"saturation does {figure} use, and how warm is it?"
        ),
        "unit": unit["temperature"][0],
        "answer": values[point],
        "tolerance": SCALE_TOLERANCE[brief.units],
        "lines": _picks(
            {"dew": "Dew point: the last liquid boils", "bubble": "Bubble point: the last vapor condenses"}
        ),
        "answer_line": point,
        "pick": "which saturation",
        "mistakes": [{"mistake": "other_end_of_glide", "value": values[other]}],
    }


def target_superheat(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """A fixed orifice: target by the formula, superheat as it runs, and low, normal or high. The first is worked."""
    orifices = [m for m in brief.machines if brief.machine(m).metering == "fixed_orifice"]
    fit = orifices or [m.id for m in MACHINES.values() if m.metering == "fixed_orifice"]
    name = brief.machine(rng.choice(fit)).refrigerant
    k = 1.0 if brief.units == "us" else 1 / 1.8
    while True:
        wet = round(_degrees(rng.uniform(60, 72), brief.units))
        outdoors = round(_degrees(rng.uniform(72, 102), brief.units))
        target = formula_target(brief.units, wet, outdoors)
        if 7.0 * k <= target <= 32.0 * k:
            break
    tool, side = KITS[brief.kit][0], ("low", "normal", "high")[rng.randrange(3)]
    off = {"low": -rng.uniform(4, 6), "normal": rng.uniform(-0.8, 0.8), "high": rng.uniform(4, 12)}[side] * k
    step = tool.resolution[brief.units]
    pa = refrigerant(name).saturation_pa(f_to_k(rng.uniform(36, 46)), "dew")
    gauge = round(to_display("pressure", pa, brief.units) / step) * step
    dew = saturation(name, gauge, "dew", brief.units, STANDARD_ATMOSPHERE_PA)
    line = round((dew + target + off) * 2) / 2
    superheat, unit = line - dew, SYSTEMS[brief.units]
    verdict = Band(low=target - 2.0 * k, high=target + 2.0 * k).verdict(superheat)
    row: DrillItem = {
        "prompt": (
            f"{name}, fixed orifice: return wet bulb {wet:g}, outdoor dry bulb {outdoors:g} {unit['temperature'][0]};"
            f" suction {gauge:g} {unit['pressure'][0]}, suction line {line:g} {unit['temperature'][0]}. Target"
            f" superheat, superheat, and is it low, normal or high (± {2.0 * k:.1f} {unit['difference'][0]})?"
        ),
        "unit": unit["difference"][0],
        "answer": round(target, 1),
        "tolerance": DIFFERENCE_TOLERANCE[brief.units],
        "second": {
            "unit": unit["difference"][0],
            "answer": round(superheat, 1),
            "tolerance": DIFFERENCE_TOLERANCE[brief.units] + SCALE_TOLERANCE[brief.units],
        },
        "second_asks": "superheat",
        "lines": _picks({"low": "Low", "normal": "Normal", "high": "High"}),
        "answer_line": verdict,
        "pick": "low, normal or high",
        "mistakes": [],
    }
    if index == 0:
        formula = (
            f"(3 × {wet:g} − 80 − {outdoors:g}) / 2"
            if brief.units == "us"
            else "by the formula, worked in °F and turned into K,"
        )
        row["worked"] = (
            f"target {formula} = {target:.1f}; {gauge:g} {unit['pressure'][0]} is {dew:.1f}; {line:g} − {dew:.1f} = "
            f"{superheat:.1f}: {verdict}"
        ).replace("= -", "= −")
    return row


#: from, to, factor and offset (to = from × factor + offset), span of the number to convert, decimals
_FACTORS = (
    ("psi", "kPa", 6.894757, 0.0, (60, 420), 0),
    ("°F", "°C", 1 / 1.8, -32 / 1.8, (-20, 130), 1),
    ("lb", "oz", 16.0, 0.0, (2, 14), 0),
    ("°F of superheat", "K", 1 / 1.8, 0.0, (5, 30), 1),
    ("oz", "g", 28.349523, 0.0, (4, 120), 0),
    ("tons", "Btu/h", 12_000.0, 0.0, (1.5, 10), 0),
    ("bar", "psi", 14.503774, 0.0, (4, 30), 0),
    ("°C", "°F", 1.8, 32.0, (-25, 50), 0),
    ("inWC", "Pa", 249.08891, 0.0, (0.2, 1.2), 0),
    ("cfm", "m³/h", 1.699011, 0.0, (400, 2400), 0),
)


def units(brief: Brief, rng: random.Random, index: int) -> DrillItem:
    """One unit into another; a temperature and a temperature difference are not the same."""
    source, target, factor, offset, (low, high), decimals = _FACTORS[index % len(_FACTORS)]
    span = rng.uniform(low, high)
    given = round(span, 0 if high > 40 else 1 if high > 2 else 2)
    answer = given * factor + offset
    mistakes: list[DrillMistake] = []
    if source == "°F of superheat":
        mistakes = [{"mistake": "offset_in_a_difference", "value": round((given - 32) / 1.8, 1)}]
    return {
        "prompt": f"{given:g} {source} is how many {target}?",
        "unit": target,
        "answer": round(answer, decimals),
        "tolerance": max(round(0.006 * abs(answer), 2), 0.6 if decimals == 0 else 0.15),
        "mistakes": mistakes,
    }


Maker = Callable[["Brief", "random.Random", int], DrillItem]
#: kind -> how an item is made, what to do
MORE: dict[str, tuple[Maker, str]] = {
    "vacuum": (vacuum, "Microns are absolute: the pressure that is left. A tight, dry system holds."),
    "two_manifolds": (two_manifolds, "Read the analog gauge and compare it with the digital one on the same port."),
    "pipe_pressure": (pipe_pressure, "No gauges: find the pressure that goes with the pipe, by the chart."),
    "mixed_air": (mixed_air, "Mixed air = return + share × (outdoor − return)."),
    "glide": (glide, "Superheat uses the dew point, subcooling the bubble point."),
    "target_superheat": (
        target_superheat,
        "Target superheat of a fixed orifice: (3 × wet bulb − 80 − outdoor) / 2, in °F. The first is worked.",
    ),
    "units": (units, "Convert. A difference of temperature has no offset."),
}
