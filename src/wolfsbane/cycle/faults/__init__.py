"""The catalog of faults and how they are planted on a machine."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.coils import as_in_cooling, as_in_heating
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import airside, charge, compressor, load, metering, piping
from wolfsbane.cycle.faults.kind import LEVELS, Cause, Fault, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine

__all__ = [
    "FAULTS",
    "LEVELS",
    "NONE",
    "Cause",
    "Fault",
    "FaultKind",
    "Rig",
    "fault_kind",
    "faults_for",
    "plant",
    "planted",
    "planter",
]

NONE = "none"
_ALL = (*charge.KINDS, *airside.KINDS, *piping.KINDS, *metering.KINDS, *compressor.KINDS, *load.KINDS)
#: a valve feeds too much or too little
_ONE_OPENING = {"valve_overfeeding", "valve_underfeeding"}
FAULTS = {kind.id: kind for kind in _ALL}


def fault_kind(fault_id: str) -> FaultKind:
    """The family called ``fault_id``; raises BadInputError for an unknown one."""
    if fault_id not in FAULTS:
        raise BadInputError("fault", fault_id, ", ".join((NONE, *FAULTS)))
    return FAULTS[fault_id]


def faults_for(machine: Machine) -> list[FaultKind]:
    """The families that can stand on ``machine``, in catalog order and with the levels they have there."""
    return list(_suiting(machine))


@lru_cache(maxsize=256)
def _suiting(machine: Machine) -> tuple[FaultKind, ...]:
    return tuple(kind.on(machine) for kind in _ALL if kind.suits(machine))


#: what plants a severity on a circuit, and the refrigerant that comes with it or None
Planter = tuple[Callable[["Circuit", float], "Circuit"], str | None]


def planter(machine: Machine, fault_id: str) -> Planter | None:
    """How a family that can stand on ``machine`` is planted by its first cause, as :func:`planted` does; None where it
    does more than that: on a machine with two circuits, or one that heats.
    """
    if machine.circuits > 1 or machine.in_heating:
        return None
    kind = fault_kind(fault_id)
    substitute = machine.substitute if kind.id == charge.WRONG_REFRIGERANT else None
    return kind.causes[0].apply or kind.apply, substitute


def plant(machine: Machine, faults: tuple[Fault, ...], circuit: int = 1) -> Machine:
    """A changed copy of ``machine`` as its circuit number ``circuit`` (1 or 2) has it: :func:`planted`."""
    return machine.with_circuit(*planted(machine, faults, circuit))


def planted(machine: Machine, faults: tuple[Fault, ...], circuit: int = 1) -> tuple[Circuit, str]:
    """(circuit number ``circuit``, refrigerant in it) of ``machine`` with ``faults``.

    A fault of one circuit stands on circuit 1, the one the gauges are on, unless it is the second circuit's own. Raises
    BadInputError for a fault the machine cannot have, one named twice, or a severity or cause it does not know.
    """
    changed, refrigerant = machine.circuit, machine.refrigerant
    heats = machine.in_heating
    seen: set[str] = set()
    for fault in faults:
        if fault.id == NONE:
            continue
        kind = fault_kind(fault.id)
        if fault.id in seen:
            raise BadInputError("fault", fault.id, "each fault once; its severity says how bad it is")
        seen.add(fault.id)
        if seen >= _ONE_OPENING:
            raise BadInputError(
                "fault",
                fault.id,
                "one of " + " and ".join(sorted(_ONE_OPENING)) + ": a valve feeds too much or too little",
            )
        if not kind.suits(machine):
            raise BadInputError(
                "fault",
                fault.id,
                f"one that {machine.id} can have ({fault.id} needs {kind.suits_text}): "
                + ", ".join(k.id for k in faults_for(machine)),
            )
        value = kind.on(machine).level(fault.severity)
        cause = kind.cause(fault.cause)
        if not kind.whole_machine and kind.second_circuit != (circuit == 2):
            continue
        apply = cause.apply or kind.apply
        changed = as_in_heating(apply(as_in_cooling(changed), value)) if heats else apply(changed, value)
        if fault.id == charge.WRONG_REFRIGERANT:
            refrigerant = machine.substitute
    return changed, refrigerant
