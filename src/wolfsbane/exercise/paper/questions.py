"""The questions of a call. Ids are stable: answers on old paper are kept under them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.quantities import name_of
from wolfsbane.diagnosis.targets import GLASS, charged_by
from wolfsbane.exercise.paper.rubrics import BALANCED, points_of
from wolfsbane.exercise.paper.wording import fitted
from wolfsbane.exercise.plan.call_kind import evidence_offered, kind_of, left_out

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.machine import Machine


@dataclass(frozen=True, kw_only=True)
class Question:
    """One question of a call or drill: ``kind`` of answer, ``unit`` where it has one, and the points it is worth."""

    id: str
    text: str
    kind: str
    unit: str | None
    points: int


@dataclass(frozen=True, kw_only=True)
class Choice:
    """One lettered answer."""

    letter: str
    id: str
    text: str


@dataclass(frozen=True, kw_only=True)
class NumberedStep:
    """One step of the work to choose from."""

    number: int
    id: str
    text: str


@dataclass(frozen=True, kw_only=True)
class Choices:
    """What is offered, in printed order; calls frozen before repairs were asked have no ``order``."""

    fault: tuple[Choice, ...]
    evidence: tuple[Choice, ...]
    action: tuple[Choice, ...]
    order: tuple[NumberedStep, ...] = ()

    def lettered(self, question: str) -> tuple[Choice, ...]:
        """The lettered answers of ``fault``, ``evidence`` or ``action``; none of any other question."""
        return {"fault": self.fault, "evidence": self.evidence, "action": self.action}.get(question, ())

    def letter(self, question: str, wanted: str) -> str:
        """The letter of an answer; raises KeyError where it is not offered."""
        for choice in self.lettered(question):
            if choice.id == wanted:
                return choice.letter
        raise KeyError(wanted)

    def number(self, step: str) -> int:
        """The number of a step; raises KeyError where it is not offered."""
        for row in self.order:
            if row.id == step:
                return row.number
        raise KeyError(step)


#: id -> (kind, wording)
QUESTIONS = {
    "suction_saturation": ("temperature", "Suction saturation temperature"),
    "liquid_saturation": ("temperature", "Condensing temperature (saturated)"),
    "superheat": ("difference", "Total superheat at the outdoor unit"),
    "evaporator_superheat": ("difference", name_of("evaporator_superheat")),
    "subcooling": ("difference", "Subcooling"),
    "evaporator_td": ("difference", "Evaporator TD: return air − suction saturation"),
    "ctoa": ("difference", "CTOA: condensing temperature − outdoor air"),
    "target": ("difference", "Target"),
    "superheat_verdict": ("verdict", "Superheat is"),
    "evaporator_superheat_verdict": ("verdict", name_of("evaporator_superheat") + " is"),
    "subcooling_verdict": ("verdict", "Subcooling is"),
    "evaporator_td_verdict": ("verdict", "Evaporator TD is"),
    "ctoa_verdict": ("verdict", "CTOA is"),
    "fault": ("letter", "What is wrong"),
    "evidence": ("letters", "Evidence (which figures)"),
    "action": ("letter", "What to do first"),
    "amount": ("mass", "Refrigerant to add (+) or recover (−), compared with what is in it now; 0 for none"),
    "order": ("steps", "What to do, in order, by number"),
    "after_suction": ("change", "Suction pressure, after the repair"),
    "after_head": ("change", "Head pressure, after the repair"),
    "after_superheat": ("change", "Superheat, after the repair"),
    "after_subcooling": ("change", "Subcooling, after the repair"),
    "because": ("text", "Why, with your figures"),
}
#: what a call asks in three parts, as far as its machine has it; ``because`` is asked only where it is chosen
DIAGNOSE = (
    "suction_saturation",
    "liquid_saturation",
    "superheat",
    "evaporator_superheat",
    "subcooling",
    "evaporator_td",
    "ctoa",
    "target",
    "superheat_verdict",
    "evaporator_superheat_verdict",
    "subcooling_verdict",
    "evaporator_td_verdict",
    "ctoa_verdict",
    "fault",
    "evidence",
    "action",
)
CORRECT = ("amount", "order", "after_suction", "after_head", "after_superheat", "after_subcooling")
MAX_POINTS = 12
#: readings an apprentice takes on a rig: question id -> key of the reading
MEASURED = {
    f"read_{key}": key
    for key in (
        "suction_pressure",
        "head_pressure",
        "suction_line",
        "liquid_line",
        "return_db",
        "return_wb",
        "outdoor_db",
        "evaporator_outlet",
        "water_in",
    )
}

#: the first step where the whole remedy says more than that
_FIRST = {
    "undercharge": "Search for the leak and repair it before any refrigerant goes in",
    "overcharge": "Recover the extra refrigerant into a cylinder on the scale",
    "non_condensables": "Prove it by standing pressure, then recover the whole charge",
    "liquid_line_restriction": "Find where the line turns cold, then recover and open it there",
    "long_liquid_line": "Measure the line set and work out what the nameplate calls for per foot",
    "valve_underfeeding": "Warm the bulb: a good TXV opens; replace it only if it does not",
    "dirty_condenser": "Clean the condenser coil from the inside out, then take readings again",
}
ACTIONS = {
    NONE: "Leave the system alone and explain the readings",
    **{k.id: k.remedy for k in FAULTS.values()},
    **{k.id: k.remedy for k in INSTRUMENT_FAULTS.values()},
    **_FIRST,
}
HAZARDS = {
    NONE: "Every time gauges go on, a little refrigerant is lost.",
    **{k.id: k.hazard for k in FAULTS.values()},
    **dict.fromkeys(INSTRUMENT_FAULTS, "A wrong gauge hides a high pressure: zero it before you trust it."),
}
#: which evidence can decide for a fault; a named figure must also be off its target
DECIDERS = {
    "undercharge": ("subcooling",),
    "overcharge": ("subcooling",),
    "dirty_condenser": ("ctoa",),
    "low_airflow": ("evaporator_td", "superheat"),
    "liquid_line_restriction": ("drier_drop", "superheat", "subcooling"),
    "leaking_compressor_valves": ("evaporator_td", "ctoa"),
    "valve_overfeeding": ("superheat",),
    "orifice_oversized": ("superheat",),
    "non_condensables": ("ctoa", "subcooling"),
    "condenser_fan_weak": ("ctoa",),
    "condenser_recirculation": ("ctoa",),
    "wet_condenser": ("ctoa",),
    "mismatched_coil": ("evaporator_td",),
    "suction_line_restriction": ("evaporator_td", "superheat"),
    "service_valve_part_closed": ("superheat", "subcooling", "ctoa"),
    "long_liquid_line": ("subcooling",),
    "valve_underfeeding": ("superheat", "evaporator_td"),
    "orifice_undersized": ("superheat", "evaporator_td"),
    "water_condenser_fouled": ("ctoa",),
    "low_water_flow": ("ctoa",),
    "distributor_blocked": ("evaporator_td",),
    "reversing_valve_leak": ("evaporator_td", "ctoa"),
    NONE: ("all_on_target",),
    "gauge_not_zeroed": ("superheat", "subcooling", "evaporator_td", "ctoa"),
    "absolute_pressure_read": ("superheat", "subcooling", "evaporator_td", "ctoa"),
    "core_not_depressed": ("superheat", "subcooling", "evaporator_td", "ctoa"),
    "hoses_swapped": ("superheat", "subcooling", "evaporator_td", "ctoa"),
    "clamp_loose": ("superheat", "subcooling"),
    "clamp_wrong_line": ("subcooling",),
}
#: evidence as it is called on most machines
EVIDENCE = {
    **{name: name_of(name) for name in ("superheat", "evaporator_superheat", "subcooling", "evaporator_td", "ctoa")},
    GLASS: "Sight glass",
    "drier_drop": name_of("drier_drop"),
    "all_on_target": "All figures on target",
}
FAULT_LETTERS, EVIDENCE_LETTERS, ACTION_LETTERS = "ABCDEFGHI", "JKLMNP", "QRSTUVWXY"


#: what stands in the place of superheat and subcooling where there is a receiver
_BY_GLASS = {"superheat": "evaporator_superheat", "subcooling": GLASS}


def deciders_for(machine: Machine) -> dict[str, tuple[str, ...]]:
    """Which evidence can decide for a fault on this machine."""
    swapped = _BY_GLASS if machine.receiver else {}
    usual = {fault: tuple(swapped.get(name, name) for name in names) for fault, names in DECIDERS.items()}
    return usual | kind_of(machine).deciders


def fault_name(fault_id: str, machine: Machine | None = None) -> str:
    """Wording of a fault for the sheet, on a machine (None: one that cools rooms)."""
    if fault_id == NONE:
        return "Nothing is wrong with this machine"
    if fault_id in INSTRUMENT_FAULTS:
        return INSTRUMENT_FAULTS[fault_id].name
    kind = FAULTS[fault_id]
    return kind.name if machine is None else fitted(kind.named(machine.in_heating), machine.metering)


def action_text(fault_id: str, machine: Machine) -> str:
    """Wording of the first step for a fault on this machine."""
    return fitted(kind_of(machine).actions.get(fault_id, ACTIONS[fault_id]), machine.metering)


#: what was done about a fault on a visit before
_DONE = {
    "dirty_condenser": "the condenser was dirty; washed from the inside out and dry",
    "low_airflow": "airflow was low; filter and coil cleaned, airflow measured right",
    "condenser_fan_weak": "the condenser fan ran slow; motor and capacitor replaced, full speed",
    "condenser_recirculation": "the unit breathed its own air; clearance restored",
    "liquid_line_restriction": "the drier was plugged; replaced, evacuated, weighed in",
    "valve_overfeeding": "the bulb hung loose; strapped and insulated",
    "water_condenser_fouled": "the condenser tubes were fouled; cleaned",
    "low_water_flow": "the strainer was plugged; cleaned",
}


def done_text(fault_id: str, machine: Machine) -> str:
    """What was done about a fault on a visit before, inside a sentence."""
    return fitted(_DONE.get(fault_id, f"{fault_name(fault_id, machine).lower()}; repaired"), machine.metering)


def choices(machine: Machine, rng: random.Random, offered: tuple[str, ...]) -> Choices:
    """Lettered choices of fault, evidence and action for one machine, in an order drawn from ``rng``.

    ``offered`` are ids of the faults among the answers; that nothing is wrong is always one more.
    """
    ids = [NONE, *offered]
    wording_of = evidence_offered(machine)
    order, actions, evidence = ids[:], ids[:], list(wording_of)
    rng.shuffle(order)
    rng.shuffle(actions)
    rng.shuffle(evidence)

    def lettered(letters: str, keys: list[str], text: Callable[[str], str]) -> tuple[Choice, ...]:
        return tuple(Choice(letter=x, id=key, text=text(key)) for x, key in zip(letters, keys, strict=False))

    return Choices(
        fault=lettered(FAULT_LETTERS, order, lambda key: fault_name(key, machine)),
        evidence=lettered(EVIDENCE_LETTERS, evidence, lambda key: wording_of[key]),
        action=lettered(ACTION_LETTERS, actions, lambda key: action_text(key, machine)),
    )


def wording(question_id: str, machine: Machine | None = None) -> str:
    """Text of a question on this machine (None: on machines at large); raises KeyError where there is none."""
    if machine is None:
        return QUESTIONS[question_id][1]
    if question_id == "target":
        return f"Target {charged_by(machine)} for this machine, today"
    return kind_of(machine).questions.get(question_id, QUESTIONS[question_id][1])


def question_list(
    machine: Machine,
    unit: dict[str, str],
    faults: int = 1,
    asked: tuple[str, ...] | None = None,
    points: dict[str, int] | None = None,
    rubric: str = BALANCED,
    measured: tuple[str, ...] = (),
) -> tuple[Question, ...]:
    """The questions of a call on ``machine``, those left out that make no sense there.

    ``asked`` are ids (None: all but ``because``), ``points`` changes the points of the named ``rubric`` by id;
    ``measured`` are the ids of readings taken on a rig, which weigh among the rest.
    """
    absent, points = left_out(machine), points or {}
    asked = tuple(q for q in ((*DIAGNOSE, *CORRECT) if asked is None else asked) if q not in absent)
    usual, found = points_of(rubric, (*measured, *asked), faults), []
    for question_id, (kind, _) in QUESTIONS.items():
        if question_id not in asked:
            continue
        text = wording(question_id, machine)
        if question_id == "fault" and faults > 1:
            text, kind = f"What is wrong: name {faults} faults", "letters"
        worth = points.get(question_id, usual[question_id])
        found.append(Question(id=question_id, text=text, kind=kind, unit=unit.get(kind), points=worth))
    return tuple(found)
