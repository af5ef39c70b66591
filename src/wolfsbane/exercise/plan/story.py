"""Drafts for complaint, history and visual inspection. Invented; the fault never follows from the words.

A complaint says what a customer notices, drawn by what the solved state makes likely and shared over every fault;
history and inspection hold red herrings and plain facts, as often with one fault as with another. What a look or a test
proves is given with the call as its result, and counts in the proof. What customers say is common practice, no source.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.exercise.plan.story_words import (
    BOX_COMPLAINTS,
    BOX_HISTORY,
    BOX_LOOKS,
    COMPLAINTS,
    HEAT_COMPLAINTS,
    HISTORY,
    LOOKS,
    SECOND_OPINION,
    WATER_LOOKS,
)

if TYPE_CHECKING:
    import random
    from collections.abc import Mapping

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: how much likelier a solved state makes a complaint than it is anyway; small, so that nobody can read it backwards
_LIKELIER = 0.5
_FREEZING_K = 273.15
#: less of the capacity than this, more power than this and less superheat than this are noticed
_WEAK, _DEAR, _WET_DK = 0.93, 1.04, 4.0


def notices(state: CircuitState | None, fault_free: CircuitState | None) -> set[str]:
    """What a customer may notice of a solved state beside the machine with nothing wrong in the same weather: ids of
    :data:`COMPLAINTS`.
    """
    if state is None or fault_free is None:
        return set()
    if state.trip is not None:
        return {"short_cycles", "afternoon", "not_cooling"}
    found = set()
    if state.capacity_w < _WEAK * fault_free.capacity_w:
        found |= {"not_cooling", "runs_all_day"}
    if state.head_pa > 1.05 * fault_free.head_pa:
        found |= {"afternoon", "noise"}
    if state.suction_saturation_k < _FREEZING_K:
        found |= {"ice", "water"}
    if state.power_w > _DEAR * fault_free.power_w:
        found.add("bill")
    if state.superheat_dk < _WET_DK:
        found.add("noise")
    return found


def draft(
    faults: tuple[Fault, ...],
    given_tests: tuple[str, ...],
    rng: random.Random,
    machine: Machine | None = None,
    noticed: frozenset[str] | set[str] = frozenset(),
) -> tuple[str, str, tuple[str, ...]]:
    """(complaint, history, inspection lines) for hidden ``faults``; ``rng`` is a random.Random.

    ``machine`` (None: one that cools rooms) picks the words, ``noticed`` are ids of :data:`COMPLAINTS` that the solved
    state makes likelier (:func:`notices`). Results of looks and tests given with the call (``given_tests``) are printed
    beside these lines and are no part of them. Trouble of an instrument shows in nobody's complaint.
    """
    box = machine is not None and machine.refrigeration
    told: Mapping[str, tuple[str, ...]]
    looks: tuple[tuple[str, ...], ...]
    told, history, looks = (BOX_COMPLAINTS, BOX_HISTORY, BOX_LOOKS) if box else (COMPLAINTS, HISTORY, LOOKS)
    if machine is not None and machine.in_heating:
        told = HEAT_COMPLAINTS
    if machine is not None and machine.condenser == "water_cooled":
        looks = (looks[0], WATER_LOOKS, looks[2])
    kinds = list(told)
    kind = rng.choices(kinds, [1.0 + (_LIKELIER if k in noticed else 0.0) for k in kinds])[0]
    only_instruments = bool(faults) and all(f.id in INSTRUMENT_FAULTS for f in faults)
    complaint = rng.choice(SECOND_OPINION if only_instruments else told[kind])
    return complaint, rng.choice(history), tuple(rng.choice(group) for group in looks)
