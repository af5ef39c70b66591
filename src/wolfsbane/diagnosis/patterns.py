"""Verdict patterns: the low, normal or high of every figure that each fault shows over its severities in one
weather.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.field_tests.running import RECEIVER_FULL, RECEIVER_LOW, glass_word
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import GLASS, HIGH, LOW, NORMAL, Band, bands, judged, met_outdoors_k

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases


#: sight glass and receiver as one figure: how full the receiver is in per cent, less so much for every per cent of
#: vapor in the glass that bubbles count as low
_PER_FLASH = 1000.0 * RECEIVER_FULL
_CLEAR = Band(low=100.0 * RECEIVER_LOW, high=100.0 * RECEIVER_FULL)


def bands_us(machine: Machine, conditions: Conditions, practice: Practice) -> dict[str, Band]:
    """Target bands in degrees F for a machine in a weather; a receiver with its sight glass has one in per cent."""
    found = bands(
        machine, practice, "us", k_to_f(met_outdoors_k(machine, conditions)), k_to_f(conditions.return_wet_bulb_k)
    )
    return found | {GLASS: _CLEAR} if machine.receiver else found


def glass_verdict(state: CircuitState) -> str:
    """Low where the glass bubbles or the receiver is all but empty, high where it is too full, normal between."""
    return {"bubbles": LOW, "low": LOW, "full": HIGH}.get(glass_word(state), NORMAL)


def bands_on(cases: SolvedCases, practice: Practice) -> dict[str, Band]:
    """:func:`bands_us` of a machine in its weather; kept with the cases."""
    kept = cases.by_practice(practice)
    if "bands" not in kept:
        kept["bands"] = bands_us(cases.machine, cases.conditions, practice)
    found: dict[str, Band] = kept["bands"]
    return found


def figures_of_vectors(vectors: np.ndarray, conditions: Conditions, machine: Machine) -> np.ndarray:
    """What is judged of vectors (n, N) in one weather, (4, n) in degrees F, in the order of
    :func:`~wolfsbane.diagnosis.targets.judged`; a receiver with its sight glass by its level in per cent.
    """
    low, high = vectors[:, AT["suction_saturation"]], vectors[:, AT["liquid_saturation"]]
    return np.array(
        (
            vectors[:, AT["evaporator_outlet" if machine.receiver else "suction_line"]] - low,
            vectors[:, AT["level"]] - _PER_FLASH * vectors[:, AT["flash"]]
            if machine.receiver
            else high - vectors[:, AT["liquid_line"]],
            k_to_f(conditions.return_k) - low,
            high - k_to_f(conditions.water_in_k or conditions.outdoor_k),
        )
    )


def _patterns_of(
    vectors: np.ndarray, machine: Machine, conditions: Conditions, targets: dict[str, Band], practice: Practice
) -> list[tuple[str, ...]]:
    """The different patterns of vectors (n, N), sorted."""
    codes = np.zeros(len(vectors), dtype=int)
    for name, values in zip(judged(machine), figures_of_vectors(vectors, conditions, machine), strict=True):
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
    for _ in range(4):
        code, verdict = divmod(code, len(_VERDICTS))
        found.insert(0, _VERDICTS[verdict])
    return tuple(found)


def pattern_of(cases: SolvedCases, vector: np.ndarray, practice: Practice) -> tuple[str, ...]:
    """The verdicts of one vector: four figures low / normal / high, and whether the drier drop is high."""
    targets = bands_on(cases, practice)
    return _patterns_of(vector[None], cases.machine, cases.conditions, targets, practice)[0]


def patterns(cases: SolvedCases, practice: Practice, ids: tuple[str, ...]) -> dict[str, list[tuple[str, ...]]]:
    """Every verdict pattern that the machine with nothing wrong and the families ``ids`` show:
    dict fault -> sorted list of 5-tuples.
    """
    targets = bands_on(cases, practice)

    def shown(vectors: np.ndarray) -> list[tuple[str, ...]]:
        return _patterns_of(vectors, cases.machine, cases.conditions, targets, practice)

    found: dict[str, list[tuple[str, ...]]] = cases.by_practice(practice).setdefault("patterns", {})
    if NONE not in found:
        found[NONE] = shown(cases.fault_free_vector[None])
    for fault_id in ids:
        if fault_id in found:
            continue
        trouble = [f.vectors for f in cases.troubles if f.ids == (fault_id,)] if fault_id in INSTRUMENT_FAULTS else []
        family = None if trouble else cases.family(fault_id)
        vectors = np.vstack(trouble) if trouble else None if family is None else family.vectors
        found[fault_id] = [] if vectors is None else shown(vectors)
    return {fault_id: found[fault_id] for fault_id in (NONE, *ids)}
