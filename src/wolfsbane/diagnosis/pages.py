"""A proved page as somebody reads it who knows no model: figures, bands, answers, what looks and tests say."""

from __future__ import annotations

import contextlib
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.patterns import bands_us
from wolfsbane.diagnosis.rivals import words
from wolfsbane.diagnosis.solved_cases import given_readings
from wolfsbane.diagnosis.space import AT
from wolfsbane.diagnosis.technician import Read

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: what a technician works with -> readings that give it
_NEEDS = {
    "suction_saturation": ("suction_pressure", "evaporator_inlet"),
    "liquid_saturation": ("head_pressure", "condenser_bend"),
    "suction_line": ("suction_line",),
    "liquid_line": ("liquid_line",),
}


def may_say(cases: SolvedCases, test: str, fault_id: str) -> set[str | bool]:
    """Every word a test can answer with a family, mild to severe, over its causes: a set."""
    if fault_id == NONE:
        return words(cases, test, ())
    kind, found = fault_kind(fault_id).on(cases.machine), set()
    for severity in (kind.mild, kind.moderate, kind.severe):
        with contextlib.suppress(NoConvergenceError):
            found |= words(cases, test, (Fault(id=fault_id, severity=severity),))
    return found


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
            there = may_say(cases, test, family)
            if odd and here & there and family != NONE:
                found[family] = max(found[family], 1) if found[family] >= 0 else -1
            elif not here & there and (not odd or len(faults) < 2 or family == NONE):
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
    c, shown = cases.conditions, given_readings(cases.machine, readings)
    values: dict[str, float | None] = {
        name: float(vector[AT[name]]) if set(keys) & set(shown) else None for name, keys in _NEEDS.items()
    }
    values["return_db"] = k_to_f(c.return_k)
    values["outdoor_db"] = k_to_f(c.water_in_k or c.outdoor_k)
    values["drier_out"] = float(vector[AT["liquid_line"]] - vector[AT["drier_drop"]]) if "drier_out" in shown else None
    return Read(
        values=values,
        bands=bands_us(cases.machine, c, practice),
        orifice=cases.machine.metering in ("fixed_orifice", "capillary"),
        offered=offered,
        number=max(len(faults), 1),
        told=said_of(cases, faults, tests, (NONE, *offered)),
        drier_limit_f=practice.drier_limit_df,
    )
