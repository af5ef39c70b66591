"""Verdict patterns: the low, normal or high of every figure that each fault shows over its severities in one
weather.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import FIGURES, HIGH, LOW, NORMAL, bands

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.diagnosis.targets import Band


def bands_us(machine: Machine, conditions: Conditions, practice: Practice) -> dict[str, Band]:
    """Target bands in degrees F for a machine in a weather."""
    return bands(machine, practice, "us", k_to_f(conditions.outdoor_k), k_to_f(conditions.return_wet_bulb_k))


def figures_of_vectors(vectors: np.ndarray, conditions: Conditions) -> np.ndarray:
    """The four judged figures of vectors (n, N) in one weather, (4, n) in degrees F, in the order of FIGURES."""
    low, high = vectors[:, AT["suction_saturation"]], vectors[:, AT["liquid_saturation"]]
    return np.array(
        (
            vectors[:, AT["suction_line"]] - low,
            high - vectors[:, AT["liquid_line"]],
            k_to_f(conditions.return_k) - low,
            high - k_to_f(conditions.water_in_k or conditions.outdoor_k),
        )
    )


def _patterns_of(
    vectors: np.ndarray, conditions: Conditions, targets: dict[str, Band], practice: Practice
) -> list[tuple[str, ...]]:
    """The different patterns of vectors (n, N), sorted."""
    codes = np.zeros(len(vectors), dtype=int)
    for name, values in zip(FIGURES, figures_of_vectors(vectors, conditions), strict=True):
        band = targets.get(name)
        codes *= len(_VERDICTS)
        codes += 1 if band is None else 1 + (values > band.high).astype(int) - (values < band.low)
    codes = 2 * codes + (vectors[:, AT["drier_drop"]] > practice.drier_limit_df)
    return sorted(_told(int(code)) for code in np.unique(codes))


_VERDICTS = (LOW, NORMAL, HIGH)


def _told(code: int) -> tuple[str, ...]:
    """The verdicts that a code stands for."""
    code, drier = divmod(code, 2)
    found = [HIGH if drier else NORMAL]
    for _ in FIGURES:
        code, verdict = divmod(code, len(_VERDICTS))
        found.insert(0, _VERDICTS[verdict])
    return tuple(found)


def pattern_of(
    vector: np.ndarray, conditions: Conditions, targets: dict[str, Band], practice: Practice
) -> tuple[str, ...]:
    """The verdicts of one vector: four figures low / right / high, and whether the drier drop is high."""
    return _patterns_of(vector[None], conditions, targets, practice)[0]


def patterns(cases: SolvedCases, practice: Practice, ids: tuple[str, ...]) -> dict[str, list[tuple[str, ...]]]:
    """Every verdict pattern that the machine with nothing wrong and the families ``ids`` show:
    dict fault -> sorted list of 5-tuples.
    """
    targets = bands_us(cases.machine, cases.conditions, practice)
    found = {NONE: _patterns_of(cases.fault_free_vector[None], cases.conditions, targets, practice)}
    for fault_id in ids:
        family = cases.family(fault_id)
        found[fault_id] = [] if family is None else _patterns_of(family.vectors, cases.conditions, targets, practice)
    return found
