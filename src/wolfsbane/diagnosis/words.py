"""What looks and tests can answer on a machine with some faults, over the causes that are not named."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import Fault, fault_kind, planted
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.field_tests.kind import shown_by_causes
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.diagnosis.vectors import acts, state_of, vector_on

if TYPE_CHECKING:
    from wolfsbane.diagnosis.solved_cases import SolvedCases


def words(cases: SolvedCases, test_id: str, faults: tuple[Fault, ...]) -> frozenset[str | bool]:
    """Every word a test can answer on this ground with ``faults``, over the causes that are not named: a set."""
    if FIELD_TESTS[test_id].usual is not None:
        return _shown(test_id, tuple((f.id, f.cause) for f in faults if f.id not in INSTRUMENT_FAULTS))
    memory = cases.memory.setdefault("words", {})
    key = (test_id, faults)
    if key not in memory:
        memory[key] = frozenset(
            _word(cases, test_id, tuple(f for f in variant if f.id not in INSTRUMENT_FAULTS))
            for variant in _causes(faults, test_id)
        )
    found: frozenset[str | bool] = memory[key]
    return found


@lru_cache(maxsize=20_000)
def _shown(test_id: str, causes: tuple[tuple[str, str | None], ...]) -> frozenset[str | bool]:
    """The words of a look that sees the ``causes`` (fault id, id of the cause or None) and no figure: they are the same
    on every machine, in any weather.
    """
    usual = FIELD_TESTS[test_id].usual
    assert usual is not None, "the caller looked"
    faults = tuple(Fault(id=fault_id, severity=0.0, cause=cause) for fault_id, cause in causes)
    return frozenset(shown_by_causes(test_id, variant, usual) for variant in _causes(faults, test_id))


def _word(cases: SolvedCases, test_id: str, faults: tuple[Fault, ...]) -> str | bool:
    """What a test answers with the machine's own ``faults``; no state is solved where what is drawn in says all."""
    ground, test = cases.ground, FIELD_TESTS[test_id]
    met = None if ground.unusual or not test.suits(cases.machine) else test.met
    if met is not None and _runs(cases, faults):
        return met(ground.met(planted(cases.machine, faults)[0])[2].entering_k, cases.conditions)
    state = state_of(cases.machine, cases.conditions, faults)
    return ask(cases.machine, cases.conditions, faults, test_id, state=state).word


def _runs(cases: SolvedCases, faults: tuple[Fault, ...]) -> bool:
    """Whether the machine runs with its own ``faults``: one that is no worse than a severity its family was solved at
    need not be solved again.
    """
    if len(faults) == 1 and "curves" in cases.__dict__ and not (faults[0].cause and acts(faults[0])):
        curve = next((c for c in cases.curves if c.id == faults[0].id), None)
        if curve is not None and min(curve.ends) <= faults[0].severity <= max(curve.ends):
            return True
    return vector_on(cases.ground, faults, cases.ground.fault_free_start)[0] is not None


def _causes(faults: tuple[Fault, ...], test_id: str) -> list[tuple[Fault, ...]]:
    """The faults with each of their causes a test can tell apart; a cause that is named stays."""
    variants: list[tuple[Fault, ...]] = [()]
    for fault in faults:
        if fault.id in INSTRUMENT_FAULTS or fault.cause is not None:
            choices = [fault]
        else:
            seen: dict[str | bool | None, str] = {}
            for cause in fault_kind(fault.id).causes:
                seen.setdefault(cause.checks.get(test_id), cause.id)
            choices = [Fault(id=fault.id, severity=fault.severity, cause=cause) for cause in seen.values()]
        variants = [(*v, c) for v in variants for c in choices]
    return variants
