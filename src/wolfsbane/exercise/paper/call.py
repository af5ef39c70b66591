"""A call: one machine in one weather as an apprentice gets it, with its key. Frozen when a sheet is issued."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from functools import cache
from typing import TYPE_CHECKING, Any

from pydantic import ConfigDict, TypeAdapter, ValidationError

from wolfsbane.acting.settling import steady_state
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.instrument_faults import of_instruments, of_machine
from wolfsbane.cycle.instruments import ALL_POINTS, Reading, label, read, usual_points
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.diagnosis.own_practice import to_json
from wolfsbane.diagnosis.patterns import glass_verdict
from wolfsbane.diagnosis.targets import GLASS, NORMAL, bands, charged_by, judged
from wolfsbane.exercise.paper.correction import correction, repaired_site
from wolfsbane.exercise.paper.key import Key, Tolerances
from wolfsbane.exercise.paper.nameplate import NameplateLine, plate_lines
from wolfsbane.exercise.paper.older_calls import moved_up
from wolfsbane.exercise.paper.questions import (
    HAZARDS,
    Choices,
    Question,
    action_text,
    choices,
    deciders_for,
    fault_name,
    question_list,
)
from wolfsbane.exercise.paper.rubrics import BALANCED, RUBRIC_VERSION
from wolfsbane.exercise.paper.scale_slips import slips_of_scale
from wolfsbane.exercise.paper.wording import fitted
from wolfsbane.exercise.plan.call_kind import figures_judged, kind_of
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.targets import Band
    from wolfsbane.exercise.paper.asked import Asked
    from wolfsbane.exercise.plan.scenario import Scenario

SCHEMA = 5
#: display tolerances per unit system: reading a PT scale, one subtraction with rounding, a target's edge
SCALE_TOLERANCE = {"us": 1.0, "si": 0.6}
DIFFERENCE_TOLERANCE = {"us": 1.0, "si": 0.6}
EDGE_MARGIN = {"us": 1.0, "si": 0.6}
#: readings that each circuit of two has of its own
_ON_BOTH = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "drier_out", "discharge_line")
UNITS = {
    "us": {"temperature": "°F", "difference": "°F", "mass": "oz", "pressure": "psig"},
    "si": {"temperature": "°C", "difference": "K", "mass": "g", "pressure": "kPa"},
}


@dataclass(frozen=True, kw_only=True)
class PrintedReading(Reading):
    """A reading with what it is called on this machine."""

    label: str


@dataclass(frozen=True, kw_only=True)
class CallMachine:
    """The machine as it was when the call was made; ``circuit`` are the solver's parameters by name."""

    id: str
    name: str
    refrigerant: str
    metering: str
    plate: tuple[NameplateLine, ...]
    circuit: dict[str, float]


@dataclass(frozen=True, kw_only=True)
class CallConditions:
    """The weather of a call, K and Pa; calls frozen before water was kept have none."""

    outdoor_k: float
    return_k: float
    return_wet_bulb_k: float
    barometer_pa: float
    water_in_k: float | None = None


@dataclass(frozen=True, kw_only=True)
class CallScenario:
    """What the call was made from."""

    title: str
    hash: str
    complaint: str


@dataclass(frozen=True, kw_only=True)
class Call:
    """Everything of one printed call: what is shown, what is asked and the key.

    ``key`` must never reach an apprentice. Readings and key are in the sheet's unit system ``units``; ``practice`` is a
    copy of the practice (target set) as it was, ``verdict_words`` are low, normal and high as the page says them.
    ``rubric`` is the version it is marked by for ever, ``rubric_name`` which of the named ones weighs its questions;
    ``bands_shown`` prints the target bands of the practice with it. ``twin`` are readings of the other circuit of a
    machine that has two, for comparison, and ``before`` those of a first visit, on which ``done`` was repaired.
    """

    __pydantic_config__ = ConfigDict(extra="forbid")

    schema: int
    units: str
    scenario: CallScenario
    machine: CallMachine
    practice: dict[str, Any]
    conditions: CallConditions
    instruments: str
    complaint: str
    history: str
    look_round: tuple[str, ...]
    readings: dict[str, PrintedReading]
    questions: tuple[Question, ...]
    choices: Choices
    key: Key
    seed: int
    solver_version: str
    table_hash: str
    verdict_words: tuple[str, str, str] = ("LOW", "NORMAL", "HIGH")
    rubric: str = "3"
    rubric_name: str = BALANCED
    bands_shown: bool = False
    twin: dict[str, PrintedReading] = field(default_factory=dict)
    before: dict[str, PrintedReading] = field(default_factory=dict)
    done: str = ""

    def to_json(self) -> dict[str, Any]:
        """Plain data for storage."""
        return _adapter().dump_python(self, mode="json")


@cache
def _adapter() -> TypeAdapter[Call]:
    return TypeAdapter(Call)


def call_from_json(data: Any) -> Call:
    """A stored call back, of any schema. Raises BadInputError naming the field that is missing, unknown or wrong."""
    try:
        return _adapter().validate_python(moved_up(data, SCHEMA))
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInputError(
            "call." + ".".join(map(str, first["loc"])), first.get("input") if first["loc"] else None, first["msg"]
        ) from None


def bands_for(machine: Machine, practice: Practice, system: str, readings: Mapping[str, Reading]) -> dict[str, Band]:
    """Target bands computed from what is printed; where water cools, the water stands for the air outdoors."""
    wet = readings["return_wb"].value if "return_wb" in readings else None
    outdoors = "return_db" if machine.in_heating else "water_in" if "water_in" in readings else "outdoor_db"
    return bands(machine, practice, system, readings[outdoors].value, wet)


def figures_of(machine: Machine, readings: Mapping[str, Reading], system: str, barometer_pa: float) -> dict[str, float]:
    """The worked-out figures of a set of :class:`Reading`."""
    return work_out(machine.refrigerant, {k: r.value for k, r in readings.items()}, system, barometer_pa)


def make_call(
    scenario: Scenario,
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    state: CircuitState,
    practice: Practice,
    system: str,
    pattern_table: dict[str, list[tuple[str, ...]]],
    seed: int,
    offered: tuple[str, ...],
    asked: Asked | None = None,
    stated: tuple[str, ...] = (),
) -> Call:
    """Build a Call from a solved state; ``asked`` (:class:`~wolfsbane.exercise.paper.asked.Asked`) says what of it is
    asked.

    ``faults`` is a tuple of Fault in the order they are repaired; ``pattern_table`` is dict fault -> list of verdict
    tuples in this weather; ``seed`` (int) orders the lettered choices, ``offered`` are the fault ids among them,
    ``stated`` families that the page rules out in words.
    """
    rng = random.Random(seed)
    keys = readings_printed(machine, scenario.given_readings)
    off = of_instruments(faults)
    readings = read(state, scenario.instruments, system, machine=machine, keys=keys, instrument_faults=off)
    after = read(_repaired(machine, conditions, faults, None), scenario.instruments, system, machine=machine, keys=keys)
    between = None
    if len(faults) > 1:
        between = read(
            _repaired(machine, conditions, faults, 1), scenario.instruments, system, machine=machine, keys=keys
        )
    checked = stated_line(machine, stated)
    lines = (*scenario.look_round, *checked, *_results(scenario, machine, conditions, faults, system))
    return Call(
        schema=SCHEMA,
        units=system,
        scenario=CallScenario(title=scenario.title, hash=scenario.content_hash(), complaint=scenario.complaint),
        machine=machine_record(machine, system),
        practice=to_json(practice),
        conditions=CallConditions(
            outdoor_k=conditions.outdoor_k,
            return_k=conditions.return_k,
            return_wet_bulb_k=conditions.return_wet_bulb_k,
            barometer_pa=conditions.barometer_pa,
            water_in_k=conditions.water_in_k,
        ),
        instruments=scenario.instruments,
        complaint=scenario.complaint,
        history=scenario.history,
        look_round=tuple(fitted(line, machine.metering) for line in lines),
        readings=named(readings, machine),
        questions=question_list(
            machine,
            UNITS[system],
            max(len(faults), 1),
            None if asked is None else asked.questions,
            None if asked is None else asked.points,
            BALANCED if asked is None else asked.rubric,
        ),
        choices=choices(machine, rng, offered),
        key=_key(
            machine,
            conditions,
            faults,
            (readings, between, after),
            state,
            practice,
            scenario.instruments,
            system,
            pattern_table,
        ),
        seed=seed,
        solver_version=SOLVER_VERSION,
        table_hash=combined_hash(),
        rubric=RUBRIC_VERSION,
        rubric_name=BALANCED if asked is None else asked.rubric,
        bands_shown=asked is None or not asked.from_memory,
        twin={}
        if state.twin is None or state.twin.trip
        else named(_of_twin(machine, state.twin, scenario, system), machine),
    )


def named(readings: Mapping[str, Reading], machine: Machine) -> dict[str, PrintedReading]:
    """Readings with what they are called on this machine."""
    return {k: PrintedReading(label=label(k, machine), **asdict(r)) for k, r in readings.items()}


def _of_twin(machine: Machine, twin: CircuitState, scenario: Scenario, system: str) -> dict[str, Reading]:
    """What the gauges and clamps show on the other circuit."""
    return read(twin, scenario.instruments, system, machine=machine, keys=_ON_BOTH)


def readings_printed(machine: Machine, given: tuple[str, ...] | None) -> tuple[str, ...]:
    """Keys of the readings on a page, in order: those ``given`` (None: the usual ones) and those without which its
    questions cannot be answered.
    """
    shown = {*(usual_points(machine) if given is None else given), *kind_of(machine).essential}
    return tuple(key for key in ALL_POINTS if key in shown)


def stated_line(machine: Machine, stated: tuple[str, ...]) -> tuple[str, ...]:
    """What every page says was checked before the readings were taken, in one line; none where nothing is stated."""
    said = {
        "wrong_refrigerant": f"{machine.refrigerant} in the system",
        "wet_condenser": "condenser dry",
    }
    parts = [said[s] for s in stated if s in said and fault_kind(s).suits(machine)]
    return (f"Checked: {', '.join([*parts, '15 min steady'])}.",) if parts else ()


def _repaired(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], repaired: int | None
) -> CircuitState:
    """The machine with its first repairs made (None: all), what stays still there; Raises NoConvergenceError."""
    return steady_state(repaired_site(machine, conditions, faults, repaired))


def _results(
    scenario: Scenario, machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], system: str
) -> list[str]:
    """What the looks and tests given with the call showed, one line each."""
    return [
        f"{FIELD_TESTS[t].name}: {ask(machine, conditions, of_machine(faults), t, system).text}"
        for t in scenario.given_tests
    ]


def machine_record(machine: Machine, system: str) -> CallMachine:
    """The machine as it is kept with what is printed about it."""
    return CallMachine(
        id=machine.id,
        name=machine.name,
        refrigerant=machine.refrigerant,
        metering=machine.metering,
        plate=tuple(NameplateLine(**row) for row in plate_lines(machine, system)),
        circuit=machine.circuit._asdict(),
    )


def _texts(readings: dict[str, Reading]) -> dict[str, str]:
    return {name: r.text for name, r in readings.items()}


def rounded_bands(targets: dict[str, Band]) -> dict[str, Band]:
    """Bands as they stand in a key."""
    return {
        name: replace(
            b, low=round(b.low, 2), high=round(b.high, 2), target=None if b.target is None else round(b.target, 2)
        )
        for name, b in targets.items()
    }


def judged_figures(
    machine: Machine,
    practice: Practice,
    system: str,
    figures: dict[str, float],
    targets: dict[str, Band],
    glass: str = NORMAL,
) -> dict[str, Any]:
    """The fields of a key that follow from its figures and their bands; ``glass`` is the verdict on a sight glass."""
    names = figures_judged(machine)
    verdicts = {name: targets[name].verdict(figures[name]) for name in names}
    if machine.receiver:
        verdicts[GLASS] = glass
    k = 1.0 if system == "us" else 1 / 1.8
    drier_high = figures.get("drier_drop", 0.0) > practice.drier_limit_df * k
    off = [name for name in judged(machine) if verdicts.get(name, NORMAL) != NORMAL]
    off += ["drier_drop"] if drier_high else []
    aimed_at = charged_by(machine)
    target = None if aimed_at is None else targets[aimed_at].target
    return {
        "figures": {name: round(value, 2) for name, value in figures.items()},
        "bands": rounded_bands({name: targets[name] for name in names}),
        "verdicts": verdicts,
        "target": None if target is None else round(target, 1),
        "target_of": aimed_at,
        "drier_high": drier_high,
        "evidence": tuple(off or ["all_on_target"]),
    }


def _key(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    stages: tuple[dict[str, Reading], dict[str, Reading] | None, dict[str, Reading]],
    state: CircuitState,
    practice: Practice,
    kit: str,
    system: str,
    pattern_table: dict[str, list[tuple[str, ...]]],
) -> Key:
    """The key; ``stages`` are the readings as found, after the first of two repairs (or None) and after the last, and
    ``state`` is the machine as found.
    """
    readings, between, after = stages
    fault = faults[0] if faults else None
    barometer = conditions.barometer_pa
    figures = figures_of(machine, readings, system, barometer)
    targets = bands_for(machine, practice, system, readings)
    fault_id = fault.id if fault else "none"
    unit = UNITS[system]["difference"]
    repaired = figures_of(machine, after, system, barometer)
    after_targets = bands_for(machine, practice, system, after)
    return Key(
        fault=fault_id,
        fault_name=" and ".join(fault_name(f.id, machine) for f in faults) or fault_name("none"),
        severity=fault.severity if fault else None,
        faults=tuple(f.id for f in faults),
        severities={f.id: f.severity for f in faults},
        causes={f.id: fault_kind(f.id).cause(f.cause).id for f in of_machine(faults)}
        | {f.id: f.cause for f in of_instruments(faults) if f.cause},
        repairs=tuple(action_text(f.id, machine) for f in faults),
        between=None if between is None else _texts(between),
        action=fault_id,
        action_text=action_text(fault_id, machine),
        hazard=HAZARDS[fault_id],
        **judged_figures(machine, practice, system, figures, targets, glass_verdict(state)),
        deciders=deciders_for(machine),
        patterns={f: tuple(tuple(p) for p in rows) for f, rows in pattern_table.items()},
        mistakes=slips_of_scale(machine, readings, system, barometer, figures),
        after=_texts(after),
        correction=correction(machine, conditions, faults, practice, kit, system, as_given=True),
        after_figures={
            name: f"{round(value, 1) + 0.0:.1f} {unit}"
            for name, value in repaired.items()
            if name in figures_judged(machine)
        },
        after_off=tuple(
            name for name in figures_judged(machine) if after_targets[name].verdict(repaired[name]) != NORMAL
        ),
        tolerance=Tolerances(
            saturation=SCALE_TOLERANCE[system], sum=DIFFERENCE_TOLERANCE[system], edge=EDGE_MARGIN[system]
        ),
    )
