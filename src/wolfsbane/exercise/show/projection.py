"""A case on the projector: what a class may see, in parts that the instructor reveals one by one.

The parts are made once, when the case is put up, and nothing of a part leaves the server before it is revealed.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.field_tests import FIELD_TESTS, ask
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, scale_of
from wolfsbane.cycle.instruments import in_order, label, points_for, read, usual_points
from wolfsbane.cycle.quantities import figure_name
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.figures import saturation, work_out
from wolfsbane.diagnosis.targets import FIGURES
from wolfsbane.exercise.paper.call import UNITS, bands_for
from wolfsbane.exercise.paper.nameplate import plate_lines
from wolfsbane.exercise.paper.questions import fault_name
from wolfsbane.exercise.plan.severity import severity_text
from wolfsbane.exercise.show.bench import bench, names, on_the_scale

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.instruments import Reading
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice

#: the order a good technician works in; each step asks the class something
STEPS = ("look", "measure", "convert", "compare", "confirm")
#: what can be revealed, each with the step it belongs to
REVEALS = {
    "story": "look",
    "readings": "measure",
    "conversions": "convert",
    "figures": "convert",
    "targets": "compare",
    "verdicts": "compare",
    "tests": "confirm",
    "answer": "confirm",
}
_WORKED = {
    "superheat": ("Suction line", "suction saturation"),
    "subcooling": ("Liquid saturation", "liquid line"),
    "evaporator_td": ("Return air", "suction saturation"),
    "ctoa": ("Condensing saturation", "outdoor air"),
}


def picture_of(machine: Machine) -> dict[str, Any]:
    """The shape of a machine's circuit, which a look at it shows: no figure and no fill."""
    return {
        "name": machine.name,
        "refrigerant": machine.refrigerant,
        "metering": machine.metering,
        "application": machine.application,
        "condenser": machine.condenser,
        "receiver": machine.receiver,
        "circuits": machine.circuits,
        "refrigeration": machine.refrigeration,
    }


def parts(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    practice: Practice,
    kit: str,
    system: str,
    story: dict[str, Any],
    given_readings: list[str] | None = None,
) -> dict[str, Any]:
    """Everything that may be shown of a case in one system of units: dict of part -> plain data.

    ``story`` has complaint, history, look_round; ``given_readings`` None means the usual ones. Raises BadInputError for
    a machine that cuts out: there is nothing to project.
    """
    whole = bench(machine, conditions, faults, practice, kit, system)
    if whole["trip"] is not None:
        raise BadInputError(
            "faults", whole["trip"]["sentence"], "a machine that stays on: there is nothing to read on this one"
        )
    planted = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    disturbed = tuple(f for f in faults if f.id in INSTRUMENT_FAULTS)
    keys = [
        k
        for k in points_for(machine)
        if (k in usual_points(machine) if given_readings is None else k in given_readings)
    ]
    shown = in_order(
        read(
            solve(machine, conditions, planted),
            kit,
            system,
            machine=machine,
            keys=keys,
            instrument_faults=disturbed,
            faults=planted,
        )
    )
    pt_scale = scale_of(machine, disturbed)
    found = {
        "story": {**story, "picture": picture_of(machine), "plate": plate_lines(machine, system)},
        "readings": {
            "rows": [{"id": k, "label": label(k, machine), "text": r.text} for k, r in shown.items()],
            "instruments": kit,
            "dials": _dials(machine, pt_scale, conditions, shown, system),
        },
        "answer": {
            "name": names("+".join(f.id for f in faults), machine.in_heating) if faults else fault_name("none"),
            "severities": [_told(f, system) for f in faults],
            "fill": whole["fill"],
            "fault_free_fill": whole["fault_free_fill"],
            "signs": whole["signs"],
            "readings": whole["readings"],
        },
    }
    return found | _worked(machine, pt_scale, conditions, practice, system, shown)


def answer_to(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], test: str, system: str
) -> dict[str, str]:
    """What a test shows on the machine as planted: {id, name, text}. Raises BadInputError for a test it cannot have."""
    planted = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    return {
        "id": test,
        "name": FIELD_TESTS[test].name if test in FIELD_TESTS else test,
        "text": ask(machine, conditions, planted, test, system).text,
    }


def revealed(
    made: dict[str, dict[str, Any]], step: str, shown: list[str], tests: list[Any], system: str
) -> dict[str, Any]:
    """What a projector gets: the parts that are revealed, of ``made`` ({us: parts, si: parts}); nothing else.

    ``shown`` is a list of :data:`REVEALS`; ``tests`` rows {us, si} of results asked for so far.
    """
    own = made[system]
    found = {name: own[name] for name in REVEALS if name in shown and name in own}
    if "tests" in shown:
        found["tests"] = [row[system] for row in tests]
    return {"step": step, "steps": list(STEPS), "units": system, **found}


def checked(step: str, shown: list[str]) -> tuple[str, list[str]]:
    """The step and reveals of a request in order. Raises BadInputError."""
    if step not in STEPS:
        raise BadInputError("step", step, ", ".join(STEPS))
    for name in shown:
        if name not in REVEALS:
            raise BadInputError("shown", name, ", ".join(REVEALS))
    return step, [name for name in REVEALS if name in shown]


def _told(fault: Fault, system: str) -> str:
    kind = FAULTS.get(fault.id) or INSTRUMENT_FAULTS[fault.id]
    return f"{kind.name}: {kind.parameter} {severity_text(fault, system)}"


def _dials(
    machine: Machine, pt_scale: str, conditions: Conditions, shown: dict[str, Reading], system: str
) -> list[dict[str, Any]]:
    return [
        dial(side, system, shown[key].value, pt_scale, conditions.barometer_pa, refrigeration=machine.refrigeration)
        | {"text": shown[key].text}
        for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))
        if key in shown
    ]


def _worked(
    machine: Machine, pt_scale: str, conditions: Conditions, practice: Practice, system: str, shown: dict[str, Reading]
) -> dict[str, list[dict[str, str]]]:
    """Conversions, figures, targets and verdicts that the given readings allow, read on the scale that is set."""
    barometer = conditions.barometer_pa
    values = on_the_scale(pt_scale, shown, system, barometer)
    unit = UNITS[system]

    def text(v: Any, kind: Any) -> Any:
        return f"{round(v, 1) + 0.0:.1f} {unit[kind]}"

    conversions = []
    for id_, name, key, point in (
        ("suction_saturation", "Suction saturation (dew)", "suction_pressure", "dew"),
        ("liquid_saturation", "Condensing saturation (bubble)", "head_pressure", "bubble"),
    ):
        if key in shown:
            found = saturation(pt_scale, values[key], point, system, barometer)
            conversions.append({"id": id_, "label": name, "from": shown[key].text, "text": text(found, "temperature")})
    needed = {"suction_pressure", "head_pressure", "suction_line", "liquid_line", "return_db"}
    needed |= {"water_in" if machine.condenser == "water_cooled" else "outdoor_db"}
    if not needed <= set(shown):
        return {"conversions": conversions, "figures": [], "targets": [], "verdicts": []}
    figures = work_out(pt_scale, values, system, barometer)
    targets = (
        bands_for(machine, practice, system, shown)
        if not machine.comfort or machine.in_heating or "return_wb" in shown
        else {}
    )
    # CTOA counts from the water where water cools: it cannot be worked out from what is shown unless that is given.
    water = machine.condenser == "water_cooled"
    rows = [name for name in FIGURES if name in figures and (name != "ctoa" or not water or "water_in" in shown)]
    how = _WORKED | ({"ctoa": ("Condensing saturation", "water in")} if water else {})
    if machine.in_heating:
        how |= {"evaporator_td": ("Outdoor air", "suction saturation"), "ctoa": ("Condensing saturation", "return air")}
    return {
        "conversions": conversions,
        "figures": [
            {
                "id": n,
                "label": figure_name(n, machine.in_heating),
                "how": " − ".join(how[n]),
                "text": text(figures[n], "difference"),
            }
            for n in rows
        ],
        "targets": [
            {
                "id": n,
                "label": figure_name(n, machine.in_heating),
                "text": f"{targets[n].low:.1f} to {targets[n].high:.1f} {unit['difference']}",
            }
            for n in rows
            if n in targets
        ],
        "verdicts": [
            {"id": n, "label": figure_name(n, machine.in_heating), "verdict": targets[n].verdict(figures[n])}
            for n in rows
            if n in targets
        ],
    }
