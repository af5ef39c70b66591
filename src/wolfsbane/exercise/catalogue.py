"""The catalogue as plain data: what a teacher can pick from, with what belongs to each choice."""

from wolfsbane.cycle.conditions import BOX_RANGES_F
from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.field_tests import FIELD_TESTS, tests_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.schools import SCHOOLS
from wolfsbane.exercise.call import full_plate
from wolfsbane.exercise.questions import fault_name
from wolfsbane.exercise.scenario import on_paper

_PARTS = ("parameter", "unit", "sound", "limit", "mild", "moderate", "severe")


def weather_of(machine):
    """The handles of a machine's weather: rows of {field, label, low, high, rated} in degrees F."""
    outdoor_k, return_k, wet_bulb_k, water_k = machine.rating
    handle = lambda field, label, low, high, rated_k: {  # noqa: E731
        "field": field, "label": label, "low": low, "high": high, "rated": round(k_to_f(rated_k), 1)}
    if machine.boxed:
        low, high = (60, 110) if machine.application == "reach_in" else (0, 118)
        box_low, box_high = BOX_RANGES_F[machine.application]
        return [handle("outdoor_db_f", "Air at the condensing unit", low, high, outdoor_k),
                handle("box_f", "Box", box_low, box_high, return_k)]
    rows = [handle("outdoor_db_f", "Outdoor air", 60, 118, outdoor_k), handle("return_db_f", "Return air", 66, 92, return_k),
            handle("return_wb_f", "Return wet bulb", 52, 78, wet_bulb_k)]
    return rows if water_k is None else [*rows, handle("water_in_f", "Condenser water in", 50, 105, water_k)]


def machine_catalogue(own=()):
    """Every machine, and those of the school's ``own``, with plate, weather and the tests it allows."""
    return [{"id": m.id, "name": m.name, "refrigerant": m.refrigerant, "safety_class": refrigerant(m.refrigerant).safety_class,
             "metering": m.metering, "application": m.application, "condenser": m.condenser, "receiver": m.receiver,
             "circuits": m.circuits, "on_paper": on_paper(m), "notes": m.notes, "weather": weather_of(m),
             "tests": [{"id": t.id, "name": t.name} for t in tests_for(m)],
             "plate": {system: full_plate(m, system) for system in ("us", "si")}}
            for m in (*MACHINES.values(), *own)]


def fault_catalogue(own=()):
    """Every fault with its levels, causes, effect, remedy, hazard and planting; ``none`` first, instruments last."""
    machines = (*MACHINES.values(), *own)
    every = [m.id for m in machines]
    rows = [{"id": NONE, "name": fault_name(NONE), **dict.fromkeys(_PARTS), "acts_on": "machine", "on_paper": True, "machines": every,
             "causes": [],
             "effect": "", "remedy": "", "hazard": "", "rig": [], "tests": []}]
    for k in FAULTS.values():
        rig = [k.rig.limits] if not k.rig.plant else [
            f"Plant: {k.rig.plant}", f"Undo: {k.rig.undo}", f"Settle: {k.rig.settle_min} min", f"Limits: {k.rig.limits}"]
        rows.append({"id": k.id, "name": k.name, **{part: getattr(k, part) for part in _PARTS}, "acts_on": "machine",
                     "on_paper": k.id not in NOT_ON_PAPER, "machines": [m.id for m in machines if k.suits(m)],
                     "causes": [{"id": c.id, "look": c.look} for c in k.causes], "effect": k.effect, "remedy": k.remedy,
                     "hazard": k.hazard, "rig": rig, "tests": [FIELD_TESTS[t].name for t in k.tests]})
    for k in INSTRUMENT_FAULTS.values():
        rows.append({"id": k.id, "name": k.name, **{part: getattr(k, part) for part in _PARTS}, "acts_on": "reading",
                     "on_paper": False, "machines": every, "causes": [{"id": c.id, "look": c.look} for c in k.causes], "effect": k.seen,
                     "remedy": k.remedy, "hazard": "", "rig": [f"Plant: {k.rig}"], "tests": []})
    return rows


def school_catalogue():
    """Every school of practice with the reason for each of its choices."""
    return [{"id": s.id, "name": s.name, "reasons": s.reasons} for s in SCHOOLS.values()]
