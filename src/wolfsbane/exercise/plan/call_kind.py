"""What a call is on each class of machine: which readings and figures it turns on, and the words of its questions,
first steps and repair steps. Common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from wolfsbane.cycle.instruments import points_for
from wolfsbane.cycle.quantities import figure_name
from wolfsbane.diagnosis.targets import GLASS, charged_by, judged

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

_GAUGES = ("suction_pressure", "head_pressure")


@dataclass(frozen=True, kw_only=True)
class CallKind:
    """One class of calls.

    ``essential`` are readings without which its questions cannot be answered, ``looks`` tests that every page carries;
    ``pipes`` reads line temperatures where nobody asks for gauges. ``questions`` (by question id), ``figures`` (by
    figure id), ``actions`` (first steps by fault id) and ``steps`` (by step id) are words that differ from those for a
    machine that cools rooms; ``deciders`` are figures that decide for a fault where others do there.
    """

    id: str
    name: str
    essential: tuple[str, ...]
    looks: tuple[str, ...] = ()
    pipes: bool = False
    questions: dict[str, str] = field(default_factory=dict)
    figures: dict[str, str] = field(default_factory=dict)
    actions: dict[str, str] = field(default_factory=dict)
    steps: dict[str, str] = field(default_factory=dict)
    no_steps: tuple[str, ...] = ()
    deciders: dict[str, tuple[str, ...]] = field(default_factory=dict)


_BOX_AIR = "Restore the evaporator airflow: ice, fans, coil face, product in the way"
_BOX = {
    "evaporator_td": "Coil TD: box air − suction saturation",
    "ctoa": "CTOA: condensing temperature − air at the unit",
    "evaporator_td_verdict": "Coil TD is",
}
COOLING = CallKind(
    id="cooling",
    name="Comfort cooling",
    essential=(*_GAUGES, "suction_line", "liquid_line", "return_db", "return_wb", "outdoor_db"),
)
TWO_CIRCUITS = CallKind(
    id="two_circuits",
    name="Rooftop with two circuits",
    essential=COOLING.essential,
    looks=("second_circuit",),
    questions={
        "suction_saturation": "Suction saturation temperature, circuit 1",
        "liquid_saturation": "Condensing temperature, circuit 1",
        "superheat": "Total superheat at the unit, circuit 1",
    },
)
WATER = CallKind(
    id="water_cooled",
    name="Water-cooled",
    essential=(*_GAUGES, "suction_line", "liquid_line", "return_db", "return_wb", "water_in", "water_out"),
    questions={
        "superheat": "Total superheat at the compressor",
        "ctoa": "Condensing temperature − water in",
        "ctoa_verdict": "Condensing over water in is",
    },
    figures={"ctoa": "Condensing over water in"},
    steps={
        "wash": "Clean the water side of the condenser: brush or descale the tubes",
        "outside": "Correct what you named outside the sealed system: water flow, strainer, service valve, bulb strap",
    },
    no_steps=("dry",),
)
HEATING = CallKind(
    id="heating",
    name="Heat pump in heating",
    essential=(*_GAUGES, "suction_line", "liquid_line", "return_db", "outdoor_db", "condenser_leaving_air"),
    questions={
        "superheat": "Superheat at the compressor",
        "evaporator_td": "Outdoor coil TD: outdoor air − suction saturation",
        "ctoa": "Condensing temperature − return air",
        "evaporator_td_verdict": "Outdoor coil TD is",
        "ctoa_verdict": "Condensing over return air is",
    },
    figures={"evaporator_td": "Outdoor coil TD", "ctoa": "Condensing over return air"},
    actions={
        "dirty_condenser": "Clean the outdoor coil, let it dry, then take readings again",
        "leaking_compressor_valves": "Prove it in cooling by a pump-down before condemning the compressor",
    },
    steps={
        "wash": "Wash the outdoor coil from the inside out",
        "dry": "Run it until the outdoor coil is dry",
        "outside": "Correct what you named outside the sealed system: outdoor fan, air path, service valve, bulb strap",
    },
    deciders={
        "dirty_condenser": ("evaporator_td",),
        "condenser_fan_weak": ("evaporator_td",),
        "condenser_recirculation": ("ctoa", "evaporator_td"),
        "low_airflow": ("ctoa",),
        "mismatched_coil": ("ctoa",),
    },
)
WALK_IN = CallKind(
    id="walk_in",
    name="Walk-in cooler or freezer",
    essential=(*_GAUGES, "liquid_line", "evaporator_outlet", "return_db", "outdoor_db"),
    looks=("sight_glass",),
    questions={"evaporator_superheat": "Superheat at the coil, by the gauge at the unit", **_BOX},
    figures={GLASS: "Sight glass and receiver", "evaporator_td": "Coil TD"},
    actions={"low_airflow": _BOX_AIR},
    steps={
        "airflow": _BOX_AIR,
        "settle": "Run until the box is near its set point, then read again",
        "prove": "Prove the part: pump-down, bulb test, drop across the drier, standing pressure",
    },
    deciders={"overcharge": (GLASS, "ctoa"), "non_condensables": ("ctoa",)},
)
REACH_IN = CallKind(
    id="reach_in",
    name="Small sealed refrigeration",
    essential=(
        *_GAUGES,
        "evaporator_inlet",
        "condenser_bend",
        "suction_line",
        "liquid_line",
        "return_db",
        "outdoor_db",
    ),
    pipes=True,
    questions={
        "superheat": "Superheat at the compressor",
        **_BOX,
    },
    figures={"evaporator_td": "Coil TD"},
    actions={
        "low_airflow": _BOX_AIR,
        "undercharge": "Find the leak before anything is tapped; then repair, evacuate and weigh the charge in",
        "overcharge": "Recover the whole charge and weigh in what the nameplate says",
        "leaking_compressor_valves": "Prove it by amps and pipe temperatures before condemning the compressor",
        "orifice_undersized": "Recover, replace the capillary tube and the drier, evacuate, weigh in the charge",
    },
    steps={
        "airflow": _BOX_AIR,
        "outside": "Correct what you named outside the sealed system: fan, air path",
        "prove": "Prove the part from outside: pipe temperatures, amps, drop across the drier",
        "weigh_in": "Weigh in the nameplate charge",
        "settle": "Run until the box is near its set point, then read again",
    },
    deciders={
        "undercharge": ("subcooling", "superheat"),
        "overcharge": ("subcooling", "ctoa"),
        "liquid_line_restriction": ("drier_drop", "superheat", "evaporator_td"),
        "non_condensables": ("ctoa",),
    },
)
KINDS = {kind.id: kind for kind in (COOLING, TWO_CIRCUITS, WATER, HEATING, WALK_IN, REACH_IN)}


def kind_of(machine: Machine) -> CallKind:
    """Which class of calls a machine makes."""
    if machine.in_heating:
        return HEATING
    if machine.receiver:
        return WALK_IN
    if machine.refrigeration:
        return REACH_IN
    if machine.condenser == "water_cooled":
        return WATER
    return TWO_CIRCUITS if machine.circuits == 2 else COOLING


def reads_pipes(machine: Machine) -> bool:
    """Whether a call on this machine goes by line temperatures whatever gauges the class has."""
    return kind_of(machine).pipes


def figures_judged(machine: Machine) -> tuple[str, ...]:
    """Figures of a call on this machine that are worked out and judged, in order."""
    return tuple(name for name in judged(machine) if name != GLASS)


def left_out(machine: Machine) -> set[str]:
    """Questions that make no sense on this machine."""
    figures = figures_judged(machine)
    absent = {
        f for f in ("superheat", "evaporator_superheat", "subcooling", "evaporator_td", "ctoa") if f not in figures
    }
    found = absent | {f"{name}_verdict" for name in absent}
    if "subcooling" in absent:
        found.add("after_subcooling")
    return found if charged_by(machine) is not None else found | {"target"}


def evidence_offered(machine: Machine) -> dict[str, str]:
    """Evidence that may be named on this machine: id -> wording, in order."""
    named = [*figures_judged(machine), *([GLASS] if machine.receiver else [])]
    drier = ["drier_drop"] if "drier_out" in points_for(machine) else []
    return {name: figure_called(name, machine) for name in (*named, *drier)} | {
        "all_on_target": "All figures on target"
    }


def figure_called(name: str, machine: Machine) -> str:
    """The label of a figure on this machine."""
    own = kind_of(machine).figures.get(name)
    return own or figure_name(name, machine.in_heating)
