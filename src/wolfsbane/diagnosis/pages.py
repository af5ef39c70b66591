"""A proved page as somebody reads it who knows no model: figures, bands, answers, what looks and tests say."""

from __future__ import annotations

import contextlib
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.patterns import bands_on, pattern_of
from wolfsbane.diagnosis.solved_cases import given_readings
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.targets import FIGURES, HIGH, LOW, NORMAL, judged
from wolfsbane.diagnosis.technician import HEATING, ORIFICE, RECEIVER, SEALED, VALVE, Read
from wolfsbane.diagnosis.words import words

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy as np

    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: what a technician works with -> (reading that gives it, entry of a vector), the better one first
_NEEDS = {
    "suction_saturation": (("suction_pressure", "suction_saturation"), ("evaporator_inlet", "evaporator_inlet")),
    "liquid_saturation": (("head_pressure", "liquid_saturation"), ("condenser_bend", "condenser_bend")),
    "suction_line": (("suction_line", "suction_line"),),
    "liquid_line": (("liquid_line", "liquid_line"),),
}


_SIGN = {LOW: -1, NORMAL: 0, HIGH: 1}


def card_of(machine: Machine) -> str:
    """Which shop card goes with a machine."""
    if machine.in_heating:
        return HEATING
    if machine.receiver:
        return RECEIVER
    if machine.sealed:
        return SEALED
    return ORIFICE if machine.metering in ("fixed_orifice", "capillary") else VALVE


def may_say(cases: SolvedCases, test: str, fault_id: str) -> frozenset[str | bool]:
    """Every word a test can answer with a family, mild to severe, over its causes: a set."""
    return frozenset(word for said in _said_by(cases, test, fault_id) for word in said)


def may_agree(cases: SolvedCases, test: str, fault_id: str, here: frozenset[str | bool]) -> bool:
    """Whether a test can answer with a family, mild to severe, as it does ``here``: solved no further than is needed
    to say so.
    """
    return any(here & said for said in _said_by(cases, test, fault_id))


def _said_by(cases: SolvedCases, test: str, fault_id: str) -> Iterator[frozenset[str | bool]]:
    """What a test can answer with a family at each of its levels, over its causes."""
    if fault_id == NONE or fault_id in INSTRUMENT_FAULTS:
        yield words(cases, test, ())
        return
    kind = fault_kind(fault_id).on(cases.machine)
    for severity in (kind.moderate, kind.mild, kind.severe):
        with contextlib.suppress(NoConvergenceError):
            yield words(cases, test, (Fault(id=fault_id, severity=severity),))


def said_of(
    cases: SolvedCases, faults: tuple[Fault, ...], tests: tuple[str, ...], families: tuple[str, ...]
) -> dict[str, int]:
    """What the results of ``tests`` on a machine with ``faults`` say of each family: 1 shows it, -1 rules it out, 0 is
    silent.
    """
    found = dict.fromkeys(families, 0)
    for test in tests:
        here, usual = words(cases, test, faults), words(cases, test, ())
        odd = not here & usual
        for family in families:
            alike = may_agree(cases, test, family, here)
            if odd and alike and family != NONE:
                found[family] = max(found[family], 1) if found[family] >= 0 else -1
            elif not alike and (not odd or len(faults) < 2 or family == NONE):
                found[family] = -1
    return found


def page_of(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    vector: np.ndarray,
    practice: Practice,
    offered: tuple[str, ...],
    readings: tuple[str, ...] | None = None,
    tests: tuple[str, ...] = (),
) -> Read:
    """The :class:`~wolfsbane.diagnosis.technician.Read` of a machine that shows ``vector``: ``readings`` are the
    printed ones, ``tests`` those whose results stand on the page, ``offered`` the fault ids among the answers.
    """
    c, machine, shown = cases.conditions, cases.machine, given_readings(cases.machine, readings)
    bands = bands_on(cases, practice)
    values: dict[str, float | None] = {
        name: next((float(vector[AT[entry]]) for key, entry in rows if key in shown), None)
        for name, rows in _NEEDS.items()
    }
    if machine.receiver:  # superheat is judged at the coil
        values["suction_line"] = float(vector[AT["evaporator_outlet"]]) if "evaporator_outlet" in shown else None
    values["return_db"] = k_to_f(c.return_k)
    values["outdoor_db"] = k_to_f(c.water_in_k or c.outdoor_k)
    values["drier_out"] = float(vector[AT["liquid_line"]] - vector[AT["drier_drop"]]) if "drier_out" in shown else None
    return Read(
        values=values,
        bands={slot: bands[name] for slot, name in zip(FIGURES, judged(machine), strict=True) if name in bands},
        card=card_of(machine),
        offered=offered,
        number=max(len(faults), 1),
        told=said_of(cases, faults, tests, (NONE, *offered)),
        drier_limit_f=practice.drier_limit_df,
        glass=_SIGN[pattern_of(cases, vector, practice)[1]] if machine.receiver else None,
    )
