"""Verdict patterns: the low, right or high of every figure that each fault shows over its severities in one weather."""

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import FIGURES, HIGH, RIGHT, bands


def bands_us(machine, conditions, practice):
    """Target bands in degrees F for a machine in a weather."""
    return bands(machine, practice, "us", k_to_f(conditions.outdoor_k), k_to_f(conditions.return_wet_bulb_k))


def figures_of_vector(vector, conditions):
    """The four judged figures of a vector in one weather, degrees F, in the order of FIGURES."""
    low, high = vector[AT["suction_saturation"]], vector[AT["liquid_saturation"]]
    return (
        vector[AT["suction_line"]] - low,
        high - vector[AT["liquid_line"]],
        k_to_f(conditions.return_k) - low,
        high - k_to_f(conditions.water_in_k or conditions.outdoor_k),
    )


def pattern_of(vector, conditions, targets, practice):
    """The verdicts of one vector: four figures low / right / high, and whether the drier drop is high."""
    values = figures_of_vector(vector, conditions)
    verdicts = [
        targets[name].verdict(value) if name in targets else RIGHT for name, value in zip(FIGURES, values, strict=True)
    ]
    return (*verdicts, HIGH if vector[AT["drier_drop"]] > practice.drier_limit_df else RIGHT)


def patterns(around, practice, ids):
    """Every verdict pattern that the sound machine and the families ``ids`` show:
    dict fault -> sorted list of 5-tuples.
    """
    targets = bands_us(around.machine, around.conditions, practice)

    def pattern(row):
        return pattern_of(row, around.conditions, targets, practice)

    found = {NONE: [pattern(around.sound_vector)]}
    for fault_id in ids:
        family = around.family(fault_id)
        found[fault_id] = [] if family is None else sorted({pattern(row) for row in family.vectors})
    return found
