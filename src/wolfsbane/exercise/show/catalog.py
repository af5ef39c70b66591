"""The catalog as plain data: what a teacher can pick from, with what belongs to each choice."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.everyday import names_of_fault
from wolfsbane.cycle.everyday_machines import names_of_machine
from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.field_tests import FIELD_TESTS, tests_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import label, points_for, usual_points
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.likelihoods import CHECKS, TESTS
from wolfsbane.diagnosis.own_practice import choices_of
from wolfsbane.diagnosis.practices import PRACTICES
from wolfsbane.exercise.paper.nameplate import full_plate
from wolfsbane.exercise.paper.questions import CORRECT, DIAGNOSE, fault_name
from wolfsbane.exercise.paper.rubrics import RUBRICS, points_of
from wolfsbane.exercise.plan.call_kind import kind_of
from wolfsbane.exercise.plan.handles import weather_of
from wolfsbane.exercise.plan.presets import presets
from wolfsbane.exercise.plan.severity import si_of
from wolfsbane.exercise.plan.situations import SITUATIONS

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.instrument_faults import InstrumentFault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

_PARTS = ("parameter", "unit", "fault_free", "limit", "mild", "moderate", "severe")
#: where on the circuit a fault sits, for the mark on the picture
_PLACES = {
    "evaporator_air": ("low_airflow", "high_load", "low_load", "undersized_unit", "economizer_stuck_open"),
    "supply": ("stratified_air", "thermometers_disagree"),
    "evaporator": ("mismatched_coil", "distributor_blocked"),
    "condenser_air": ("condenser_fan_weak", "condenser_recirculation", "low_water_flow"),
    "condenser": ("dirty_condenser", "wet_condenser", "non_condensables", "water_condenser_fouled"),
    "compressor": ("leaking_compressor_valves", "compressor_not_pumping", "one_circuit_off"),
    "reversing_valve": ("reversing_valve_leak",),
    "suction_line": ("suction_line_restriction",),
    "drier": ("liquid_line_restriction",),
    "liquid_line": ("long_liquid_line", "service_valve_part_closed"),
    "device": ("valve_overfeeding", "valve_underfeeding", "valve_hunting", "orifice_oversized", "orifice_undersized"),
    "charge": ("undercharge", "overcharge", "wrong_refrigerant"),
    "gauges": (
        "gauge_not_zeroed",
        "absolute_pressure_read",
        "core_not_depressed",
        "wrong_refrigerant_scale",
        "hoses_swapped",
    ),
    "suction_clamp": ("clamp_loose",),
    "liquid_clamp": ("clamp_wrong_line",),
}
PLACE_OF = {fault_id: place for place, ids in _PLACES.items() for fault_id in ids}


def _levels(kind: FaultKind) -> dict[str, Any]:
    """The worst that is accepted without a receiver, and the levels that stand where there is one."""
    if kind.with_receiver is None:
        return {"with_receiver": None}
    mild, moderate, severe = kind.with_receiver
    return {
        "limit": kind.limit if kind.limit_without is None else kind.limit_without,
        "with_receiver": {"mild": mild, "moderate": moderate, "severe": severe, "limit": kind.limit},
    }


def machine_catalog(own: tuple[Any, ...] | list[Machine] = ()) -> list[dict[str, Any]]:
    """Every machine, and those of the school's ``own``, with plate, weather and the tests it allows."""
    return [
        {
            "id": m.id,
            "name": m.name,
            "also": list(names_of_machine(m)),
            "refrigerant": m.refrigerant,
            "safety_class": refrigerant(m.refrigerant).safety_class,
            "metering": m.metering,
            "application": m.application,
            "condenser": m.condenser,
            "receiver": m.receiver,
            "circuits": m.circuits,
            "notes": m.notes,
            "weather": weather_of(m),
            "tests": [{"id": t.id, "name": t.name} for t in tests_for(m)],
            "points": [
                {
                    "id": key,
                    "name": label(key, m),
                    "usual": key in usual_points(m),
                    "needed": key in kind_of(m).essential,
                }
                for key in points_for(m)
            ],
            "presets": presets(m),
            "plate": {system: full_plate(m, system) for system in ("us", "si")},
        }
        for m in (*MACHINES.values(), *own)
    ]


def fault_catalog(own: tuple[Any, ...] | list[Machine] = ()) -> list[dict[str, Any]]:
    """Every fault with its levels, causes, effect, remedy, hazard and planting; ``none`` first, instruments last."""
    machines = (*MACHINES.values(), *own)
    every = [m.id for m in machines]
    rows = [
        {
            "id": NONE,
            "name": fault_name(NONE),
            "name_in_heating": fault_name(NONE),
            "also": list(names_of_fault(NONE)),
            **dict.fromkeys((*_PARTS, "with_receiver")),
            "acts_on": "machine",
            "on_paper": True,
            "machines": every,
            "causes": [],
            "place": "",
            "unit_si": None,
            "si_size": 1.0,
            "effect": "",
            "remedy": "",
            "hazard": "",
            "rig": [],
            "tests": [],
        }
    ]
    for k in FAULTS.values():
        rig = (
            [k.rig.limits]
            if not k.rig.plant
            else [
                f"Plant: {k.rig.plant}",
                f"Undo: {k.rig.undo}",
                f"Settle: {k.rig.settle_min} min",
                f"Limits: {k.rig.limits}",
            ]
        )
        rows.append(
            {
                "id": k.id,
                "name": k.name,
                **{part: getattr(k, part) for part in _PARTS},
                **_levels(k),
                "name_in_heating": k.named(True),
                "also": list(names_of_fault(k.id)),
                "acts_on": "machine",
                **_si(k),
                "place": PLACE_OF[k.id],
                "on_paper": k.id not in NOT_ON_PAPER,
                "machines": [m.id for m in machines if k.suits(m)],
                "causes": [{"id": c.id, "look": c.look} for c in k.causes],
                "effect": k.effect,
                "remedy": k.remedy,
                "hazard": k.hazard,
                "rig": rig,
                "tests": [FIELD_TESTS[t].name for t in k.tests],
            }
        )
    for t in INSTRUMENT_FAULTS.values():
        rows.append(
            {
                "id": t.id,
                "name": t.name,
                **{part: getattr(t, part) for part in _PARTS},
                "name_in_heating": t.name,
                "also": list(names_of_fault(t.id)),
                "with_receiver": None,
                "acts_on": "reading",
                **_si(t),
                "place": PLACE_OF[t.id],
                "on_paper": False,
                "machines": every,
                "causes": [{"id": c.id, "look": c.look} for c in t.causes],
                "effect": t.seen,
                "remedy": t.remedy,
                "hazard": "",
                "rig": [f"Add: {t.rig}"],
                "tests": [],
            }
        )
    return rows


def _si(kind: FaultKind | InstrumentFault) -> dict[str, Any]:
    name, size = si_of(kind.unit)
    return {"unit_si": name, "si_size": size}


def practice_catalog(own: Sequence[Practice] = (), system: str = "us") -> list[dict[str, Any]]:
    """Every practice, and those of the instructor's ``own``, with its choices and the reason for each."""
    return [
        {
            "id": s.id,
            "name": s.name,
            "own": s.id not in PRACTICES,
            "reasons": s.reasons,
            "choices": choices_of(s, system),
        }
        for s in (*PRACTICES.values(), *own)
    ]


def rubric_catalog() -> list[dict[str, Any]]:
    """The named rubrics as rows {id, name, points, diagnosis_only}: the usual points by question, of a whole call and
    of one that asks for no repair.
    """
    return [
        {
            "id": one.id,
            "name": one.name,
            "points": points_of(one.id, (*DIAGNOSE, *CORRECT, "because")),
            "diagnosis_only": points_of(one.id, (*DIAGNOSE, "because")),
        }
        for one in RUBRICS.values()
    ]


def situation_catalog() -> list[dict[str, Any]]:
    """The kinds of situation as rows {id, name, trains, level, minutes, machines}: ids it can be met on."""
    return [
        {
            "id": kind.id,
            "name": kind.name,
            "trains": kind.trains,
            "level": kind.level,
            "minutes": kind.minutes,
            "machines": [m.id for m in MACHINES.values() if kind.suits(m)],
        }
        for kind in SITUATIONS.values()
    ]


def check_catalog() -> list[dict[str, Any]]:
    """Every look and test that somebody's readings can be told of, with the words it is recorded in."""
    return [
        {
            "id": check,
            "kind": "test" if check in TESTS else "look",
            "name": FIELD_TESTS[check].name,
            "minutes": FIELD_TESTS[check].minutes,
            "caution": FIELD_TESTS[check].caution,
            "words": [{"id": _word(w), "text": _word(w).replace("_", " ")} for w in words],
        }
        for check, words in CHECKS.items()
    ]


def _word(word: str | bool) -> str:
    return {True: "yes", False: "no"}[word] if isinstance(word, bool) else word
