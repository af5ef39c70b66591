"""The steps of a lab session at a rig, in order, and what is ticked in each. Common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.exercise.paper.questions import MEASURED

if TYPE_CHECKING:
    from wolfsbane.exercise.paper.call import Call

#: phase -> what it is called
PHASES = {
    "card": "Call card",
    "safety": "Safety",
    "look": "Look it over",
    "hook_up": "Gauges on",
    "measure": "Measure",
    "work_out": "Work out",
    "plan": "Diagnose and plan",
    "act": "Work on it",
    "prove": "Prove it",
    "close": "Close up",
    "record": "Record",
}
#: what a phase asks of the call's questions; the rest stands in ``plan``
_WORK_OUT = ("suction_saturation", "liquid_saturation", "superheat", "evaporator_superheat", "subcooling",
             "evaporator_td", "ctoa", "target")  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Tick:
    """One thing a student says is done: its phase, its words, and whether only a flammable refrigerant asks for it."""

    id: str
    phase: str
    text: str
    flammable: bool = False


TICKS = (
    Tick(id="glasses", phase="safety", text="Safety glasses and gloves on."),
    Tick(id="disconnect", phase="safety", text="I know where this rig’s disconnect is."),
    Tick(id="clear", phase="safety", text="Covers closed; hands, hoses and leads clear of fans and hot lines."),
    Tick(
        id="cylinder",
        phase="safety",
        text="Cylinder upright, in its test date, the right refrigerant, not over 80 % full.",
    ),
    Tick(id="no_flame", phase="safety", text="Room ventilated, no flame or spark, rated tools.", flammable=True),
    Tick(id="look_air", phase="look", text="Filter, openings, blower and both coil faces looked at."),
    Tick(id="look_lines", phase="look", text="Lines, bulb, drier and valves looked at: kinks, frost, oil."),
    Tick(id="zeroed", phase="hook_up", text="Both gauges read zero in open air."),
    Tick(id="ports", phase="hook_up", text="Blue on the suction line, red on the liquid line."),
    Tick(id="purged", phase="hook_up", text="Hoses purged."),
    Tick(id="clamps", phase="hook_up", text="Clamps on clean pipe, tight, insulated."),
    Tick(id="hoses_off", phase="close", text="Hoses off, their liquid drawn back into the low side first."),
    Tick(id="caps", phase="close", text="Caps on, with O-rings."),
    Tick(id="leak_checked", phase="close", text="Ports checked for leaks."),
    Tick(id="nothing_left", phase="close", text="Nothing temporary left behind."),
)
#: readings with which a student proves the work
PROOF = ("suction_pressure", "head_pressure", "suction_line", "liquid_line")


def ticks_of(name: str) -> tuple[Tick, ...]:
    """What is ticked on a rig that holds the refrigerant ``name``, in order."""
    burns = refrigerant(name).safety_class in ("A2L", "A3")
    return tuple(t for t in TICKS if burns or not t.flammable)


def tick(tick_id: str) -> Tick:
    """The tick called so. Raises BadInputError."""
    for one in TICKS:
        if one.id == tick_id:
            return one
    raise BadInputError("step", tick_id, ", ".join(t.id for t in TICKS))


def phase_of_question(question: str) -> str:
    """In which phase a question of the call is answered."""
    if question in MEASURED:
        return "measure"
    return "work_out" if question in _WORK_OUT or question.endswith("_verdict") else "plan"


def questions_in(call: Call, phase: str) -> tuple[str, ...]:
    """Ids of the call's questions of a phase, in order."""
    return tuple(q.id for q in call.questions if phase_of_question(q.id) == phase)
