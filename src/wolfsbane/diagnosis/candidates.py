"""Which faults stand among the answers on a sheet: the ones a class is taught for this machine,
and the planted ones.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import FAULTS, faults_for

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.machine import Machine

#: families every class of this kind meets, in catalog order
TAUGHT = (
    "undercharge",
    "overcharge",
    "dirty_condenser",
    "water_condenser_fouled",
    "low_water_flow",
    "low_airflow",
    "liquid_line_restriction",
    "leaking_compressor_valves",
    "valve_overfeeding",
    "orifice_oversized",
)
#: families that shift the weather or the load, or that no steady set of readings can show
NOT_ON_PAPER = (
    "wrong_refrigerant",
    "valve_hunting",
    "compressor_not_pumping",
    "high_load",
    "low_load",
    "undersized_unit",
    "economizer_stuck_open",
    "stratified_air",
    "one_circuit_off",
)
#: trouble of the instruments that readings on paper can show, and that only digital ones can have
_INSTRUMENTS = ("gauge_not_zeroed", "core_not_depressed", "clamp_loose", "clamp_wrong_line")
_DIGITAL_ONLY = ("absolute_pressure_read", "hoses_swapped")


def instruments_on_paper(kit: str) -> tuple[str, ...]:
    """Trouble of the instruments ``kit`` (analogue or digital) that can be a call on paper; on a dial an absolute
    pressure cannot be read, and hoses the wrong way round pin the low-side needle.
    """
    return _INSTRUMENTS if kit == "analogue" else (*_INSTRUMENTS, *_DIGITAL_ONLY)


def candidates(machine: Machine, planted: tuple[str, ...] = (), tests: tuple[str, ...] = ()) -> list[FaultKind]:
    """Families offered as answers, as FaultKind. A planted family (ids in ``planted``) that is not taught takes the
    place of the one it looks like, since the look round settles that, unless a look or test that is given tells the two
    apart; otherwise it comes on top.
    """
    ids = [kind.id for kind in faults_for(machine) if kind.id in TAUGHT]
    for fault_id in planted:
        if fault_id not in ids:
            twin = FAULTS[fault_id].stands_for
            settled = set(tests) & set(FAULTS[fault_id].tests)
            ids = [i for i in ids if i != twin or settled or twin in planted] + [fault_id]
    return [kind for kind in faults_for(machine) if kind.id in ids]
