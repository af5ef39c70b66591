"""A call: one machine in one weather as an apprentice gets it, with its key. Frozen when a sheet is issued."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from functools import cache
from typing import TYPE_CHECKING, Any

from pydantic import ConfigDict, TypeAdapter, ValidationError

from wolfsbane.cycle import units
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.instruments import ALL_POINTS, POINTS, Reading, label, read
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.solver import SOLVER_VERSION, solve
from wolfsbane.diagnosis.figures import SATURATIONS, saturation, work_out
from wolfsbane.diagnosis.targets import FIGURES, NORMAL, PRACTICES, bands, target_question
from wolfsbane.exercise.paper.correction import correction
from wolfsbane.exercise.paper.key import Key, Slip, Tolerances
from wolfsbane.exercise.paper.questions import (
    ACTIONS,
    DECIDERS,
    HAZARDS,
    Choices,
    Question,
    choices,
    fault_name,
    question_list,
)
from wolfsbane.exercise.paper.wording import fitted
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

SCHEMA = 3
#: display tolerances per unit system: reading a PT scale, one subtraction with rounding, a target's edge
SCALE_TOLERANCE = {"us": 1.0, "si": 0.6}
DIFFERENCE_TOLERANCE = {"us": 1.0, "si": 0.6}
EDGE_MARGIN = {"us": 1.0, "si": 0.6}
#: readings without which the questions of a call cannot be answered
ESSENTIAL = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "return_db", "return_wb", "outdoor_db")
METERING = {
    "txv": "TXV",
    "eev": "electronic expansion valve (EEV)",
    "fixed_orifice": "fixed orifice (piston)",
    "capillary": "capillary tube",
}
UNITS = {
    "us": {"temperature": "°F", "difference": "°F", "mass": "oz", "pressure": "psig"},
    "si": {"temperature": "°C", "difference": "K", "mass": "g", "pressure": "kPa"},
}


@dataclass(frozen=True, kw_only=True)
class PrintedReading(Reading):
    """A reading with what it is called on this machine."""

    label: str


@dataclass(frozen=True, kw_only=True)
class NameplateLine:
    """One line of the nameplate."""

    label: str
    text: str


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
    """The weather of a call, K and Pa."""

    outdoor_k: float
    return_k: float
    return_wet_bulb_k: float
    barometer_pa: float


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

    def to_json(self) -> dict[str, Any]:
        """Plain data for storage."""
        return _adapter().dump_python(self, mode="json")


@cache
def _adapter() -> TypeAdapter[Call]:
    return TypeAdapter(Call)


def call_from_json(data: Any) -> Call:
    """A stored call back, of any schema. Raises BadInputError naming the field that is missing, unknown or wrong."""
    try:
        return _adapter().validate_python(_moved_up(data))
    except ValidationError as error:
        first = error.errors()[0]
        raise BadInputError(
            "call." + ".".join(map(str, first["loc"])), first.get("input") if first["loc"] else None, first["msg"]
        ) from None


#: verdicts as older schemas wrote them
_OLD_VERDICTS = {"right": NORMAL}
_REPAIR_FIELDS = ("steps", "plans", "changes", "changes_of", "amount", "slope")


def _moved_up(data: Any) -> Any:
    """Plain data of an older schema as :data:`SCHEMA` writes it.

    Schema 1 had no history, and its key named one fault. Up to schema 2 the practice was called school, a normal verdict
    right, and the repair stood among the fields of the key.
    """
    if not isinstance(data, dict) or not isinstance(data.get("key"), dict) or data.get("schema") not in (1, 2):
        return data
    data, key = dict(data), dict(data["key"])
    if data["schema"] == 1:
        fault = key.get("fault")
        data = {"history": "", **data}
        key = {"faults": [] if fault == "none" else [fault], "between": None, "mend": [], **key}
    if "school" in data:
        data["practice"] = data.pop("school")
    for old, new in (("mend", "repairs"), ("ring_slope", "scale_slope")):
        if old in key:
            key[new] = key.pop(old)
    key["verdicts"] = {name: _OLD_VERDICTS.get(v, v) for name, v in key.get("verdicts", {}).items()}
    key["patterns"] = {
        fault: [[_OLD_VERDICTS.get(v, v) for v in row] for row in rows]
        for fault, rows in key.get("patterns", {}).items()
    }
    if "steps" in key:
        key["repair"] = {name: key.pop(name) for name in _REPAIR_FIELDS if name in key}
    correcting = key.get("correction")
    if isinstance(correcting, dict) and correcting:
        correcting = dict(correcting)
        if "mends" in correcting:
            correcting["repairs"] = correcting.pop("mends")
        correcting["between"] = [
            {"repaired": row["mended"], "shown": row["shown"]} for row in correcting.get("between", ())
        ]
        key["correction"] = correcting
    elif "correction" in key:
        key["correction"] = None
    return {"verdict_words": ("LOW", "RIGHT", "HIGH"), **data, "schema": SCHEMA, "key": key}


def bands_for(machine: Machine, practice: Practice, system: str, readings: dict[str, Reading]) -> dict[str, Band]:
    """Target bands computed from what is printed."""
    wet = readings["return_wb"].value if "return_wb" in readings else None
    return bands(machine, practice, system, readings["outdoor_db"].value, wet)


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
    asked: Asked | None = None,
) -> Call:
    """Build a Call from a solved state; ``asked`` (:class:`~wolfsbane.exercise.paper.asked.Asked`) says what of it is
    asked.

    ``faults`` is a tuple of Fault in the order they are repaired; ``pattern_table`` is dict fault -> list of verdict
    tuples in this weather; ``seed`` (int) orders the lettered choices.
    """
    rng = random.Random(seed)
    given = scenario.given_readings
    keys = POINTS if given is None else [k for k in ALL_POINTS if k in given or k in ESSENTIAL]
    readings = read(state, scenario.instruments, system, machine=machine, keys=keys)
    after = read(solve(machine, conditions), scenario.instruments, system, machine=machine)
    between = None
    if len(faults) > 1:
        between = read(solve(machine, conditions, faults[1:]), scenario.instruments, system, machine=machine)
    lines = (*scenario.look_round, *_results(scenario, machine, conditions, faults, system))
    return Call(
        schema=SCHEMA,
        units=system,
        scenario=CallScenario(title=scenario.title, hash=scenario.content_hash(), complaint=scenario.complaint),
        machine=_machine_record(machine, system),
        practice=asdict(practice),
        conditions=CallConditions(
            outdoor_k=conditions.outdoor_k,
            return_k=conditions.return_k,
            return_wet_bulb_k=conditions.return_wet_bulb_k,
            barometer_pa=conditions.barometer_pa,
        ),
        instruments=scenario.instruments,
        complaint=scenario.complaint,
        history=scenario.history,
        look_round=tuple(fitted(line, machine.metering) for line in lines),
        readings={k: PrintedReading(label=label(k, machine), **asdict(r)) for k, r in readings.items()},
        questions=question_list(
            machine.metering,
            UNITS[system],
            max(len(faults), 1),
            None if asked is None else asked.questions,
            None if asked is None else asked.points,
        ),
        choices=choices(machine, rng, tuple(f.id for f in faults), scenario.given_tests),
        key=_key(
            machine,
            conditions,
            faults,
            (readings, between, after),
            practice,
            scenario.instruments,
            system,
            pattern_table,
        ),
        seed=seed,
        solver_version=SOLVER_VERSION,
        table_hash=combined_hash(),
    )


def _results(
    scenario: Scenario, machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], system: str
) -> list[str]:
    """What the looks and tests given with the call showed, one line each."""
    return [f"{FIELD_TESTS[t].name}: {ask(machine, conditions, faults, t, system).text}" for t in scenario.given_tests]


def plate_lines(machine: Machine, system: str) -> list[dict[str, str]]:
    """What stands on the plate, in the sheet's units: list of {label, text}.

    A kind of machine whose CTOA is not the usual one says so here, since nobody could guess it.
    """
    plate, us = machine.plate, system == "us"
    subcooling = plate.target_subcooling_dk
    charge = units.to_display("mass", plate.factory_charge_kg, system)
    lines = [
        ("Model", plate.model),
        ("Refrigerant", machine.refrigerant),
        ("Metering device", METERING[machine.metering]),
        ("Factory charge", f"{charge:.0f} {'oz' if system == 'us' else 'g'}"),
        ("Rated compressor amps", f"{plate.rated_amps:.1f} A"),
    ]
    usual = PRACTICES["plate_and_formula"].ctoa_df
    low, high = (v * 1.8 for v in machine.expectations.ctoa_dk)
    if abs(low - usual[0]) > 0.05 or abs(high - usual[1]) > 0.05:
        lines.append(
            ("CTOA of its kind", f"{low:.0f} to {high:.0f} °F" if us else f"{low / 1.8:.1f} to {high / 1.8:.1f} K")
        )
    if plate.charge_per_line_kg_m > 0.0:
        per_line = plate.charge_per_line_kg_m * (units.M_PER_FT / units.KG_PER_OZ if us else 1000.0)
        standard = plate.standard_line_m / (units.M_PER_FT if us else 1.0)
        lines.insert(
            4,
            (
                f"Beyond {standard:.0f} {'ft' if us else 'm'} of line",
                f"{per_line:.1f} oz a foot" if us else f"{per_line:.0f} g a metre",
            ),
        )
    if plate.target_superheat_dk is not None:
        low, high = (units.to_display("difference", v, system) for v in plate.target_superheat_dk)
        lines.insert(
            3, ("Superheat at the coil", f"{low:.0f} to {high:.0f} °F" if us else f"{low:.1f} to {high:.1f} K")
        )
    if subcooling is not None:
        lines.insert(
            3, ("Target subcooling", f"{subcooling * 1.8:.0f} °F" if system == "us" else f"{subcooling:.1f} K")
        )
    return [{"label": label, "text": text} for label, text in lines]


def full_plate(machine: Machine, system: str) -> list[dict[str, str]]:
    """The whole plate, for the instructor: :func:`plate_lines` and what stands below them."""
    plate, us = machine.plate, system == "us"

    def shown(kind: Any, value: Any, decimals: int = 0) -> Any:
        return f"{units.to_display(kind, value, system):.{decimals}f} {units.SYSTEMS[system][kind][0]}"

    def gauge(pa: Any) -> Any:
        return shown("pressure", pa + units.STANDARD_ATMOSPHERE_PA)

    rows = [
        ("Overload opens at", f"{plate.overload_amps:.1f} A"),
        ("High cut-out", gauge(plate.high_cutout_gauge_pa)),
        ("Low cut-out", gauge(plate.low_cutout_gauge_pa)),
        ("Discharge cut-out", shown("temperature", plate.discharge_cutout_k)),
        ("Safety class", refrigerant(machine.refrigerant).safety_class),
        ("Airflow", shown("flow", plate.design_airflow_m3_s)),
    ]
    if plate.max_static_pa is not None:
        rows.append(("External static at most", shown("static", plate.max_static_pa, 2 if us else 0)))
    return plate_lines(machine, system) + [{"label": label, "text": text} for label, text in rows]


def _machine_record(machine: Machine, system: str) -> CallMachine:
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
    machine: Machine, practice: Practice, system: str, figures: dict[str, float], targets: dict[str, Band]
) -> dict[str, Any]:
    """The fields of a key that follow from its figures and their bands."""
    verdicts = {name: targets[name].verdict(figures[name]) for name in FIGURES}
    k = 1.0 if system == "us" else 1 / 1.8
    drier_high = figures.get("drier_drop", 0.0) > practice.drier_limit_df * k
    off = [name for name in FIGURES if verdicts[name] != NORMAL] + (["drier_drop"] if drier_high else [])
    aimed_at = target_question(machine.metering)
    target = targets[aimed_at].target
    assert target is not None, "the figure a machine is charged by has a target"
    return {
        "figures": {name: round(value, 2) for name, value in figures.items()},
        "bands": rounded_bands(targets),
        "verdicts": verdicts,
        "target": round(target, 1),
        "target_of": aimed_at,
        "drier_high": drier_high,
        "evidence": tuple(off or ["all_on_target"]),
    }


def _key(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    stages: tuple[dict[str, Reading], dict[str, Reading] | None, dict[str, Reading]],
    practice: Practice,
    kit: str,
    system: str,
    pattern_table: dict[str, list[tuple[str, ...]]],
) -> Key:
    """The key; ``stages`` are the readings as found, after the first of two repairs (or None) and after the last."""
    readings, between, after = stages
    fault = faults[0] if faults else None
    barometer = conditions.barometer_pa
    figures = figures_of(machine, readings, system, barometer)
    targets = bands_for(machine, practice, system, readings)
    fault_id = fault.id if fault else "none"
    unit = UNITS[system]["difference"]
    repaired = figures_of(machine, after, system, barometer)
    return Key(
        fault=fault_id,
        fault_name=" and ".join(fault_name(f.id) for f in faults) or fault_name("none"),
        severity=fault.severity if fault else None,
        faults=tuple(f.id for f in faults),
        severities={f.id: f.severity for f in faults},
        repairs=tuple(fitted(ACTIONS[f.id], machine.metering) for f in faults),
        between=None if between is None else _texts(between),
        action=fault_id,
        action_text=fitted(ACTIONS[fault_id], machine.metering),
        hazard=HAZARDS[fault_id],
        **judged_figures(machine, practice, system, figures, targets),
        deciders=dict(DECIDERS),
        patterns={f: tuple(tuple(p) for p in rows) for f, rows in pattern_table.items()},
        mistakes=slips_of_scale(machine, readings, system, barometer, figures),
        after=_texts(after),
        correction=correction(machine, conditions, faults, practice, kit, system, as_given=True),
        after_figures={
            name: f"{round(value, 1) + 0.0:.1f} {unit}" for name, value in repaired.items() if name in FIGURES
        },
        tolerance=Tolerances(
            saturation=SCALE_TOLERANCE[system], sum=DIFFERENCE_TOLERANCE[system], edge=EDGE_MARGIN[system]
        ),
    )


def slips_of_scale(
    machine: Machine, readings: dict[str, Any], system: str, barometer: float, figures: dict[str, float]
) -> dict[str, tuple[Slip, ...]]:
    """Numbers that known slips lead to, by question."""
    found: dict[str, tuple[Slip, ...]] = {}
    for name, (pressure, point) in SATURATIONS.items():
        gauge = readings[pressure].value
        rows = [
            ("absolute_for_gauge", machine.refrigerant, _gauge_taken_as_absolute(gauge, system, barometer)),
            ("added_atmosphere", machine.refrigerant, _gauge_plus_atmosphere(gauge, system, barometer)),
        ]
        other = "R-22" if machine.refrigerant != "R-22" else "R-410A"
        rows.append((f"wrong_ring:{other}", other, gauge))
        slips = [
            Slip(code=code, value=round(value, 2))
            for code, fluid, wrong in rows
            if (value := _saturation_or_none(fluid, wrong, point, system, barometer)) is not None
        ]
        swapped = "liquid_saturation" if name == "suction_saturation" else "suction_saturation"
        found[name] = (*slips, Slip(code="other_gauge", value=round(figures[swapped], 2)))
    return found


def _gauge_taken_as_absolute(gauge: float, system: str, barometer: float) -> float:
    return gauge - units.to_display("pressure", 2 * barometer, system, barometer)


def _gauge_plus_atmosphere(gauge: float, system: str, barometer: float) -> float:
    return gauge + units.to_display("pressure", 2 * barometer, system, barometer)


def _saturation_or_none(fluid: str, gauge: float, point: str, system: str, barometer: float) -> float | None:
    pressure = units.from_display("pressure", gauge, system, barometer)
    table = refrigerant(fluid)
    return saturation(fluid, gauge, point, system, barometer) if table.min_pa < pressure < table.max_pa else None
