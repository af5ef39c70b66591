"""Marking what an apprentice reads and works out: gauges, saturations, differences, the target and the verdicts.

Each answer is judged against the apprentice's own numbers before it, so that one slip costs one mark.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.quantities import said_of
from wolfsbane.diagnosis.figures import SATURATIONS, parts_of
from wolfsbane.diagnosis.targets import formula_target
from wolfsbane.exercise.marking.credit import Credit, exactly, full, none, slip
from wolfsbane.exercise.marking.work import EPSILON, near, shown
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.exercise.paper.rubrics import NO_WORK_SHARE

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.work import Work

_SIDE = {"suction_saturation": "low-side", "liquid_saturation": "high-side"}
_OTHER = {"suction_saturation": "liquid_saturation", "liquid_saturation": "suction_saturation"}


def reading(work: Work, question: str) -> Credit:
    """A reading taken on a rig, against what the instructor read there; the apprentice's own carries what follows."""
    name = MEASURED[question]
    value, true = work.answers[question].value, work.readings[name]
    work.own[question] = work.readings[name] = value
    tolerances = work.key.tolerance.readings or {}
    right = near(value, true, tolerances[name] * work.rules.widened("reading"))
    return (full if right else none)(
        "right_measured" if right else "measured_off", given=shown(value), expected=shown(true)
    )


def saturation(work: Work, name: str) -> Credit:
    """A saturation temperature read off the PT scale; the same slip on both gauges costs once."""
    tolerance, true = work.tolerance("saturation"), work.saturation(name)
    value = work.answers[name].value
    work.own[name] = value
    if near(value, true, tolerance):
        return full("right_reading", key=shown(true), side=_SIDE[name])
    if near(value, work.key.figures[name], tolerance):
        return full("ring_not_own", expected=shown(true))
    known = [m for m in work.key.mistakes[name] if near(value, m.value, tolerance)]
    named = min(known, key=lambda m: abs(value - m.value)).code if known else "wrong_number"
    code, _, refrigerant = named.partition(":")
    again = named in work.slips and named != "wrong_number"
    work.slips.add(named)
    said = {
        "given": shown(value),
        "expected": shown(true),
        "refrigerant": refrigerant,
        "own": work.call.machine.refrigerant,
    }
    return full("same_slip_paid", **said) if again else slip(code, **said)


def difference(work: Work, name: str) -> Credit:
    """A subtraction, from the apprentice's own saturation where there is one."""
    tolerance = work.tolerance("sum")
    value = work.answers[name].value
    a, b = work.difference(name)
    # An exchange shows in both boxes: it is looked for before the second one is taken for the apprentice's own.
    swapped = name in ("superheat", "subcooling") and work.swapped()
    work.own[name] = value
    follows = a - b
    first, second = parts_of(name, work.readings)
    source = said_of(first if first in SATURATIONS else second)
    said = {"a": shown(a), "b": shown(b), "expected": shown(follows)}
    if work.foreign() and not near(value, work.key.figures[name], tolerance):
        return none("foreign")
    if near(value, follows, tolerance):
        return full("follows_own", source=source, **said)
    if near(value, work.key.figures[name], tolerance):
        return full("right_not_own", source=source, **said)
    if swapped:
        paid = name == "subcooling"
        work.meant[name] = work.answers["superheat" if paid else "subcooling"].value
        return full("swapped_paid") if paid else slip("swapped")
    if near(value, -follows, tolerance):
        work.meant[name] = -value
        return slip("sign_turned", **said)
    if near(value, _with_other_saturation(work, name), tolerance):
        return slip("other_saturation", **said)
    return none("wrong_number", given=shown(value), expected=shown(follows))


def _with_other_saturation(work: Work, name: str) -> float:
    """What the subtraction gives with the saturation of the other side."""
    parts = parts_of(name, work.readings)
    a, b = (work.key.figures[_OTHER[part]] if part in _OTHER else work.readings[part] for part in parts)
    return a - b


def target(work: Work, question: str) -> Credit:
    """The target of the figure the machine is charged by."""
    value, true = work.answers[question].value, work.key.target
    assert true is not None, "a target is asked only where there is one"
    work.own["target"] = value
    if near(value, true, work.tolerance("sum")):
        return full("right")
    fixed = work.call.machine.metering == "fixed_orifice"
    other = 10.0 if work.call.units == "us" else 10.0 / 1.8
    if not fixed and {"return_wb", "outdoor_db"} <= set(work.readings):
        other = formula_target(work.call.units, work.readings["return_wb"], work.readings["outdoor_db"])
    code = "target_wrong_device" if near(value, other, work.tolerance("sum")) else "wrong_number"
    return slip(code, given=shown(value), expected=shown(true))


def verdict(work: Work, question: str) -> Credit:
    """Low, normal or high, against the apprentice's own figure and target; with no figure behind it, a small share."""
    name = question.removesuffix("_verdict")
    value, band, given = work.behind(name), work.band(name), work.answers[question].value
    if value is None:
        return no_work(work, question, given == work.key.verdicts[name])
    said = {"given_figure": shown(value), "band": f"{shown(band.low)} to {shown(band.high)}"}
    margin, meant = work.tolerance("edge") + EPSILON, work.meant.get(name)
    if given == band.verdict(value):
        return full("verdict_follows", **said)
    if given in band.verdicts_within(value, margin):
        return full("verdict_edge", **said)
    if meant is not None and given in band.verdicts_within(meant, margin):
        return full("verdict_meant", **said | {"given_figure": shown(meant)})
    return none("verdict_wrong", expected=band.verdict(value), **said)


def no_work(work: Work, question: str, right: bool) -> Credit:
    """What an answer earns that no figure stands behind: a small share where it is right, nothing where it is not."""
    points = work.questions[question].points if right else 0
    return exactly(int(points * NO_WORK_SHARE + EPSILON), "no_work")
