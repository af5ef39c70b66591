"""The rubric an apprentice may see: what earns what.

Where a question carries two points or more, a recognised slip earns a share.
"""

from __future__ import annotations

from wolfsbane.exercise.paper.rubrics import RUBRIC_VERSION

#: share of the points that a recognised, named slip earns; of one point that is none
PARTIAL = {
    "sign_turned": 0.5,
    "other_saturation": 0.5,
    "swapped": 0.5,
    "wrong_ring": 0.5,
    "other_gauge": 0.5,
    "absolute_for_gauge": 0.5,
    "added_atmosphere": 0.5,
    "target_wrong_device": 0.5,
    "evidence_not_deciding": 0.5,
    "action_second_first": 0.5,
    "action_second_led_to": 0.5,
    "amount_over": 0.5,
    "amount_under": 0.5,
    "amount_short": 0.5,
    "amount_sign": 0.5,
    "number_slip": 0.5,
}
#: what is printed: (what, what it earns)
LINES = (
    (
        "Saturation temperatures",
        (
            "Full points within one division of the PT scale (1 °F, 0.6 K). "
            "The same mistake on both gauges costs one mark."
        ),
    ),
    (
        "Superheat, subcooling, TD, CTOA",
        "Full points for the correct subtraction of your own numbers: a misread PT scale costs one mark.",
    ),
    ("Target", "Full points within 1 °F (0.6 K) of your practice's target."),
    (
        "Low, normal, high",
        (
            "Full points when the verdict fits your own figure and target, or the figure you meant (sign, swap); at an"
            " edge both count. A word that contradicts your own figure earns nothing."
        ),
    ),
    (
        "What is wrong",
        (
            "Full points for the fault, for any answer the readings leave open, or for what your own wrong figures "
            "point to: the figures count, not the words circled. Half for one of two faults."
        ),
    ),
    (
        "Evidence",
        (
            "Full points for a figure that is off in your own work, or on this machine, and decides; half for one that"
            " supports the fault and does not decide."
        ),
    ),
    (
        "What to do first",
        (
            "Full points for the right first step, or the one that fits a fault your own wrong figures point to; half "
            "for the second step first."
        ),
    ),
    (
        "How much",
        (
            "Compared with what is in it now. Full points for a weight that puts the repaired machine on its target "
            "without flooding, by the solved machine; half when only the size or the sign is off."
        ),
    ),
    (
        "In which order",
        (
            "Full points for every legal route in an order that works; half for all of it out of order, for most of it "
            "in order, or for one needless, harmless step."
        ),
    ),
    (
        "What the readings become",
        "Full points for the way the solved machine moves, or what follows from your own wrong figures.",
    ),
    (
        "A plan for the wrong fault",
        (
            "First step, weight, order and outcome earn nothing where the fault named is wrong and does not follow from"
            " your own figures."
        ),
    ),
    (
        "Work to follow",
        (
            "Verdicts, fault, evidence and plan with no figures behind them earn a quarter of their points at most. "
            "Figures stand behind them when half of them came about by reading and subtracting. Nothing follows from "
            "saturations that belong to no reading on the page."
        ),
    ),
    (
        "Harm",
        (
            "The order earns nothing with an unsafe step: opening a charged circuit, charging before the leak is found,"
            " adding to an overfull or flooding machine, taking refrigerant out of a dirty one, venting, slugging, a "
            "compressor condemned unproven, readings taken while charging."
        ),
    ),
    ("Why, in words", "Suggested from the figures you state; your instructor confirms it."),
    (
        "Recognized slips",
        (
            "Where a question carries two points or more, a named mistake "
            "(sign, wrong scale, gauge and absolute) earns half."
        ),
    ),
)


def lines_of(version: str) -> tuple[tuple[str, str], ...]:
    """What the rubric of a version tells: pairs (what, what it earns)."""
    if version == RUBRIC_VERSION:
        return LINES
    from wolfsbane.exercise.marking import rubric_3

    return rubric_3.LINES
