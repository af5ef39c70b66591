"""The correcting half of a key: how much, in which order, and which way the readings go; all of it from the solved
machine.

Worked out once, when a call is made, for the planted faults and for every other answer the sheet offers, so that
marking can follow an apprentice who named another one.
"""

from __future__ import annotations

import random
from typing import TYPE_CHECKING

from wolfsbane.acting.actions.repairs import BY_ID, repaired_by
from wolfsbane.acting.plan import NOTHING_TO_REPAIR, judged_by
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.units import PA_PER_PSI, SYSTEMS, to_display
from wolfsbane.diagnosis.solved_cases import solved
from wolfsbane.exercise.paper.key import Amount, ChargeSlope, CorrectionKey, RepairKey
from wolfsbane.exercise.paper.questions import NumberedStep
from wolfsbane.exercise.paper.wording import fitted

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.solved_cases import SolvedCases

DOWN, SAME, UP = "down", "same", "up"
#: quantity -> (attribute of the state, what counts as moved in SI); about one honest reading (common practice, no
#: source)
MOVES = {
    "after_suction": ("suction_pa", 3.0 * PA_PER_PSI),
    "after_head": ("head_pa", 8.0 * PA_PER_PSI),
    "after_superheat": ("superheat_dk", 2.0 / 1.8),
    "after_subcooling": ("subcooling_dk", 2.0 / 1.8),
}
#: between these shares of that an examiner takes either answer
_EDGE = (0.5, 1.6)
_CHARGE = ("undercharge", "overcharge", "long_liquid_line")
_ANEW = ("non_condensables", "wrong_refrigerant")
_STEPS = {
    "leak": "Find and repair the leak",
    "add": "Add liquid by the scale, in short bursts",
    "remove": "Recover refrigerant into a cylinder on the scale",
    "recover": "Recover the whole charge",
    "evacuate": "Evacuate deep",
    "weigh_in": "Weigh in the whole charge",
    "dry": "Run until the condenser is dry",
    "settle": "Let it stabilize and read again",
    "leave": "Leave the system alone and explain",
}
#: families whose causes need other repairs each: one step stands for all of them
_FAMILY_STEP = {
    "low_airflow": "Restore the indoor airflow",
    "dirty_condenser": "Wash the condenser",
    "valve_overfeeding": "Strap and insulate the bulb; replace the TXV if that is not it",
    "valve_underfeeding": "Correct the underfeeding TXV",
    "liquid_line_restriction": "Clear the liquid line",
}


def steps_of(fault: Fault, leaking: bool) -> list[str]:
    """Ids of the essential steps that put one fault right, in order;
    ``leaking`` where a charge fault has a leak behind it.
    """
    if fault is None or fault.id in NOTHING_TO_REPAIR:
        return ["leave"]
    if fault.id in _CHARGE:
        return ["remove"] if fault.id == "overcharge" else [*(["leak"] if leaking else []), "add"]
    if fault.id in _ANEW:
        return ["recover", "evacuate", "weigh_in"]
    if fault.id == "wet_condenser":
        return ["dry"]
    wets = any(BY_ID[r].wets for r in repaired_by(fault)[:1])
    return [f"mend:{fault.id}", *(["dry"] if wets else [])]


def _leaks(fault: Fault) -> bool:
    return fault.id == "undercharge" and fault_kind(fault.id).cause(fault.cause).id == "leak"


def plan_ids(faults: tuple[Fault, ...]) -> list[str]:
    """Essential steps of all ``faults`` in the order they are repaired, a last look at the end."""
    if not faults:
        return ["leave"]
    found = [step for fault in faults for step in steps_of(fault, _leaks(fault))]
    return [*(s for s in dict.fromkeys(found) if s != "leave"), "settle"] if found != ["leave"] else found


def step_text(step_id: str, machine: Machine) -> str:
    """Wording of a step on paper."""
    kind, _, family = step_id.partition(":")
    if kind != "mend":
        return _STEPS[step_id]
    if family in _FAMILY_STEP:
        return fitted(_FAMILY_STEP[family], machine.metering)
    return fitted(BY_ID[repaired_by(Fault(id=family, severity=fault_kind(family).moderate))[0]].name, machine.metering)


def _plain(fault_id: str) -> tuple[Fault, ...]:
    return () if fault_id == NONE else (Fault(id=fault_id, severity=fault_kind(fault_id).moderate),)


def repairing(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    state: CircuitState,
    offered: tuple[str, ...],
    correction: CorrectionKey | None,
    system: str,
    rng: random.Random,
) -> tuple[RepairKey, tuple[NumberedStep, ...]]:
    """The repair as it is asked on paper, and the numbered steps to choose from in an order drawn from ``rng``.

    ``state`` is the machine as found, ``offered`` the fault ids among the answers, ``correction`` the correction key.
    """
    machine = cases.machine
    plans = {f: plan_ids(_plain(f)) for f in offered} | {f.id: plan_ids((f,)) for f in faults}
    steps = plan_ids(faults)
    listed = list(
        dict.fromkeys(s for plan in (steps, *plans.values(), ["add", "remove", "settle", "leave"]) for s in plan)
    )
    rng.shuffle(listed)
    changes_of = {}
    for fault_id in offered:
        found = solved(machine, cases.conditions, _plain(fault_id)) if fault_id != NONE else cases.fault_free
        if found is not None:
            changes_of[fault_id] = {name: ways[0] for name, ways in ways_back(found, cases.fault_free).items()}
    key = RepairKey(
        steps=tuple(steps),
        plans={fault_id: tuple(plan) for fault_id, plan in plans.items()},
        changes={question: tuple(ways) for question, ways in ways_back(state, cases.fault_free).items()},
        changes_of=changes_of,
        amount=_amount(cases, faults, correction, system),
        slope=slope(cases, system),
    )
    return key, tuple(NumberedStep(number=i, id=s, text=step_text(s, machine)) for i, s in enumerate(listed, start=1))


def ways_back(found: CircuitState, fault_free: CircuitState) -> dict[str, list[str]]:
    """Which way each quantity goes when the machine is repaired:
    question id -> accepted answers, the plain one first.
    """
    answers = {}
    for name, (attribute, size) in MOVES.items():
        moved = (getattr(fault_free, attribute) - getattr(found, attribute)) / size
        way, far = (UP if moved > 0 else DOWN), abs(moved)
        plain = way if far >= 1.0 else SAME
        answers[name] = [plain, *({way, SAME} - {plain} if _EDGE[0] <= far <= _EDGE[1] else ())]
    return answers


def slope(cases: SolvedCases, system: str) -> ChargeSlope | None:
    """What a little charge does near the target, solved on the fault-free machine in this weather; None where no figure
    tells the charge.
    """
    by = judged_by(cases.machine)
    if by not in ("superheat", "subcooling"):
        return None
    less, more = (
        solved(cases.machine, cases.conditions, (Fault(id=f, severity=s),))
        for f, s in (("undercharge", 96.0), ("overcharge", 104.0))
    )
    if less is None or more is None:
        return None
    moved = abs(getattr(more, f"{by}_dk") - getattr(less, f"{by}_dk"))
    if moved < 1e-3:
        return None
    kg_per_k = 0.08 * cases.machine.circuit.charge_kg / moved
    k = 1.8 if system == "us" else 1.0
    return ChargeSlope(
        figure=by,
        per=round(to_display("mass", kg_per_k / k, system), 1 if system == "us" else 0),
        mass_unit=SYSTEMS[system]["mass"][0],
        unit="°F" if system == "us" else "K",
    )


def _amount(cases: SolvedCases, faults: tuple[Fault, ...], correction: CorrectionKey | None, system: str) -> Amount:
    """Weight to be moved, with its tolerance and what else counts, in the sheet's unit of mass."""
    charge = to_display("mass", cases.machine.circuit.charge_kg, system)
    moved = [step for step in (() if correction is None else correction.steps) if step.amount is not None]
    value = round(sum(step.amount or 0.0 for step in moved), 1)
    least = max(0.02 * charge, 0.1 if system == "us" else 3.0)
    opened = [f for f in faults if f.id not in (*_CHARGE, *_ANEW, *NOTHING_TO_REPAIR)]
    anew = not moved and any(BY_ID[r].opens for f in opened for r in repaired_by(f)[:1])
    return Amount(
        value=value,
        tolerance=round(max([least, *(step.tolerance or 0.0 for step in moved)]), 1),
        also=(round(charge, 1),) if anew else (),
        unit=SYSTEMS[system]["mass"][0],
        charge=round(charge, 1),
    )


def slope_line(key: RepairKey | None) -> str:
    """The sentence under the question how much, or an empty one."""
    if key is None or key.slope is None:
        return ""
    found = key.slope
    return (
        f"Near its target this machine moves about 1 {found.unit} of {found.figure} for "
        f"{found.per:g} {found.mass_unit} of refrigerant."
    )
