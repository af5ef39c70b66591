"""The rubric an apprentice may see: what earns what.

Where a question carries two points or more, a recognised slip earns a share.
"""

from __future__ import annotations

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
    "amount_sign": 0.5,
}
#: what is printed: (what, what it earns)
LINES = (
    (
        "Saturation temperatures",
        "All points within a division of the PT scale (1 °F, 0.6 K). The same slip on both gauges costs one mark.",
    ),
    (
        "Superheat, subcooling, TD, CTOA",
        "All points for the right subtraction of your own numbers: a misread PT scale costs one mark.",
    ),
    ("Target", "All points within 1 °F (0.6 K) of the target of your practice."),
    (
        "Low, normal, high",
        (
            "All points when the verdict fits your own figure and target, or the figure you meant (sign, swap); at an"
            " edge both count."
        ),
    ),
    (
        "What is wrong",
        "All points for the fault, for any answer the readings leave open, or for what your own verdicts point to.",
    ),
    (
        "Evidence",
        (
            "All points for a figure that is off in your own work, or on this machine, and decides; half for one that"
            " is off only."
        ),
    ),
    (
        "What to do first",
        (
            "All points for the right first step, or the one that fits the fault you named; half for the second step"
            " first."
        ),
    ),
    (
        "How much",
        (
            "All points within tolerance of the scale, by the slope given or by the solved machine; half when only the"
            " size is off."
        ),
    ),
    ("In which order", "Half for naming all needed steps and none that harms, half for their order."),
    (
        "What the readings become",
        "All points for the way the solved machine moves, or what follows from your own verdict or fault.",
    ),
    ("Why, in words", "Suggested from the figures you state; your instructor confirms it."),
    (
        "Recognized slips",
        "Where a question carries two points or more a named slip (sign, other scale, gauge and absolute) earns half.",
    ),
)
