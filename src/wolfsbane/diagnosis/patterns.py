"""Verdict patterns: the low, normal or high of every figure that each fault shows over its severities in one
weather.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import FIGURES, HIGH, NORMAL, bands

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.diagnosis.targets import Band


def bands_us(machine: Machine, conditions: Conditions, practice: Practice) -> dict[str, Band]:
    """Target bands in degrees F for a machine in a weather."""
    return bands(machine, practice, "us", k_to_f(conditions.outdoor_k), k_to_f(conditions.return_wet_bulb_k))


def figures_of_vector(vector: np.ndarray, conditions: Conditions) -> tuple[float, float, float, float]:
    """The four judged figures of a vector in one weather, degrees F, in the order of FIGURES."""
    low, high = vector[AT["suction_saturation"]], vector[AT["liquid_saturation"]]
    return (
        vector[AT["suction_line"]] - low,
        high - vector[AT["liquid_line"]],
        k_to_f(conditions.return_k) - low,
        high - k_to_f(conditions.water_in_k or conditions.outdoor_k),
    )


def pattern_of(
    vector: np.ndarray, conditions: Conditions, targets: dict[str, Band], practice: Practice
) -> tuple[str, ...]:
    """The verdicts of one vector: four figures low / right / high, and whether the drier drop is high."""
    values = figures_of_vector(vector, conditions)
    verdicts = [
        targets[name].verdict(value) if name in targets else NORMAL for name, value in zip(FIGURES, values, strict=True)
    ]
    return (*verdicts, HIGH if vector[AT["drier_drop"]] > practice.drier_limit_df else NORMAL)


def patterns(cases: SolvedCases, practice: Practice, ids: tuple[str, ...]) -> dict[str, list[tuple[str, ...]]]:
    """Every verdict pattern that the machine with nothing wrong and the families ``ids`` show:
    dict fault -> sorted list of 5-tuples.
    """
    targets = bands_us(cases.machine, cases.conditions, practice)

    def pattern(row: Any) -> Any:
        return pattern_of(row, cases.conditions, targets, practice)

    found = {NONE: [pattern(cases.fault_free_vector)]}
    for fault_id in ids:
        family = cases.family(fault_id)
        found[fault_id] = [] if family is None else sorted({pattern(row) for row in family.vectors})
    return found
