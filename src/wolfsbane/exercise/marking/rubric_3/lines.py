"""What rubric 3 told an apprentice: printed with the guide of sheets that were issued with it."""

from __future__ import annotations

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
            " edge both count."
        ),
    ),
    (
        "What is wrong",
        "Full points for the fault, for any answer the readings leave open, or for what your own verdicts point to.",
    ),
    (
        "Evidence",
        (
            "Full points for a figure that is off in your own work, or on this machine, and decides; half for one that"
            " is off only."
        ),
    ),
    (
        "What to do first",
        (
            "Full points for the right first step, or the one that fits the fault you named; half for the second step"
            " first."
        ),
    ),
    (
        "How much",
        (
            "Full points within tolerance of the scale, by the slope given or by the solved machine; half when only the"
            " size is off."
        ),
    ),
    ("In which order", "Half for naming every needed step and none that harms, half for the order."),
    (
        "What the readings become",
        "Full points for the way the solved machine moves, or what follows from your own verdict or fault.",
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
