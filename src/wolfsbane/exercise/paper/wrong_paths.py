"""Wrong paths: what each known mistake leads to on this very machine, so that marking can name it and a class can be
asked for it.

The list of mistakes is common practice, no source; every number beside one is worked out or solved.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import NONE, Fault
from wolfsbane.diagnosis.targets import GLASS, HIGH, LOW, NORMAL, formula_target
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.paper.key import Key, WrongPath

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.paper.call import Call

#: charge added by somebody who reaches for the cylinder, per cent
_ADDED_PCT = 110.0
#: mistake -> (wording, feedback)
MISTAKES = {
    "wrong_ring": (
        "Read saturation on the wrong refrigerant's PT scale",
        "Find the refrigerant on the nameplate, then its PT scale.",
    ),
    "absolute_for_gauge": (
        "Treated gauge pressure as absolute",
        "The PT scale is made for gauge pressure: read it directly.",
    ),
    "other_gauge": (
        "Took the saturation of the other gauge",
        "Superheat uses the low-side gauge, subcooling the high-side gauge.",
    ),
    "sign_turned": (
        "Subtracted backward",
        "Superheat is above saturation, subcooling below: both come out positive.",
    ),
    "swapped": ("Swapped superheat and subcooling", "Large insulated line: superheat. Small line: subcooling."),
    "target_wrong_device": (
        "Used the target for another metering device",
        "Check the metering device before looking up a target.",
    ),
    "low_suction_is_low_charge": (
        "Called low suction a low charge",
        "Suction follows load and airflow too: check superheat and subcooling.",
    ),
    "charge_to_raise_subcooling": (
        "Adds refrigerant to raise subcooling",
        "Superheat says the coil is already flooded: check the metering device.",
    ),
    "charge_a_dirty_machine": (
        "Charges a system with a dirty coil or low airflow",
        "Airflow and coils first, charge last.",
    ),
    "charge_a_wet_machine": (
        "Charges a system whose condenser is still wet",
        "Wait until it is dry; readings mean nothing until then.",
    ),
    "compressor_unproven": (
        "Condemns the compressor without a pump-down",
        "Prove it: a good compressor pulls suction down right away.",
    ),
    "add_refrigerant": (
        "Adds a tenth of the charge",
        "Weigh in only what leaked out, once the leak is found and repaired.",
    ),
    "second_first": ("Repairs the second fault first", "Repair the first thing found, run, read again."),
    "acts_on_a_sound_machine": (
        "Repairs something on a machine with nothing wrong",
        "All figures on target: leave the system alone.",
    ),
}


def wrong_paths(cases: SolvedCases, faults: tuple[Fault, ...], call: Call, practice: Practice) -> tuple[WrongPath, ...]:
    """Every wrong path of a call, values in the sheet's unit."""
    return (
        *_of_readings(call),
        *_of_differences(call),
        *_of_target(call),
        *_of_conclusions(faults, call),
        *_of_acts(cases, faults, call),
    )


def _path(mistake: str, question: str, *, value: float | None = None, leads_to: str | None = None) -> WrongPath:
    text, feedback = MISTAKES[mistake]
    return WrongPath(mistake=mistake, text=text, feedback=feedback, question=question, value=value, leads_to=leads_to)


def _of_readings(call: Call) -> Iterator[WrongPath]:
    for question, slips in call.key.mistakes.items():
        for slip in slips:
            code = slip.code.partition(":")[0]
            if code in MISTAKES:
                yield _path(code, question, value=slip.value)


def _of_differences(call: Call) -> Iterator[WrongPath]:
    figures = call.key.figures
    for name in call.key.bands:
        if abs(figures[name]) > 1.0:
            yield _path("sign_turned", name, value=round(-figures[name], 2))
    if {"superheat", "subcooling"} <= set(call.key.bands) and abs(figures["superheat"] - figures["subcooling"]) > 1.0:
        yield _path("swapped", "superheat", value=figures["subcooling"])
        yield _path("swapped", "subcooling", value=figures["superheat"])


def _of_target(call: Call) -> Iterator[WrongPath]:
    if call.key.target is None:
        return
    us = call.units == "us"
    if call.machine.metering == "fixed_orifice":
        value = 10.0 if us else round(10.0 / 1.8, 1)
    elif {"return_wb", "outdoor_db"} <= set(call.readings):
        wet, out = (call.readings[k].value for k in ("return_wb", "outdoor_db"))
        value = formula_target(call.units, wet, out)
    else:
        return
    if abs(value - call.key.target) > call.key.tolerance.sum:
        yield _path("target_wrong_device", "target", value=round(value, 1))


def _of_conclusions(faults: tuple[Fault, ...], call: Call) -> Iterator[WrongPath]:
    """Conclusions that a half-look leads to, as the fault somebody would name."""
    ids, verdicts = {f.id for f in faults}, call.key.verdicts
    offered = {choice.id for choice in call.choices.fault}
    charge = verdicts.get("subcooling") or verdicts.get(GLASS, NORMAL)
    superheat = verdicts.get("superheat") or verdicts.get("evaporator_superheat", NORMAL)
    if verdicts["evaporator_td"] == HIGH and "undercharge" not in ids:
        yield _path("low_suction_is_low_charge", "fault", leads_to="undercharge")
    if charge == LOW and superheat != HIGH and "undercharge" not in ids:
        yield _path("charge_to_raise_subcooling", "fault", leads_to="undercharge")
    if verdicts["ctoa"] == LOW and "leaking_compressor_valves" not in ids and "leaking_compressor_valves" in offered:
        yield _path("compressor_unproven", "fault", leads_to="leaking_compressor_valves")
    if ids & {"dirty_condenser", "condenser_fan_weak", "low_airflow"}:
        for moved in [f for f in ("overcharge", "undercharge") if f not in ids]:
            yield _path("charge_a_dirty_machine", "fault", leads_to=moved)
    if "wet_condenser" in ids:
        yield _path("charge_a_wet_machine", "fault", leads_to="undercharge")
    if not ids:
        for other in sorted(offered - {NONE}):
            yield _path("acts_on_a_sound_machine", "fault", leads_to=other)
    if len(faults) > 1:
        yield _path("second_first", "action", leads_to=faults[1].id)


def _of_acts(cases: SolvedCases, faults: tuple[Fault, ...], call: Call) -> Iterator[WrongPath]:
    """What the machine would show after a tenth of charge too much, solved; nothing where it is short of charge."""
    if any(f.id in ("undercharge", "overcharge") for f in faults):
        return
    state = solved(cases.machine, cases.conditions, (*faults, Fault(id="overcharge", severity=_ADDED_PCT)))
    k, unit = (1.8, "°F") if call.units == "us" else (1.0, "K")
    told = "the machine trips"
    if state is not None:
        figures = {"subcooling": state.subcooling_dk, "superheat": state.superheat_dk, "CTOA": state.ctoa_dk}
        if "subcooling" not in call.key.bands:
            del figures["subcooling"]
        told = ", ".join(f"{name} {value * k:.0f} {unit}" for name, value in figures.items()).replace("-", "−")
    yield _path("add_refrigerant", "action", leads_to=told)


def of_conclusion(key: Key, fault_id: str | None) -> WrongPath | None:
    """The wrong path in a key that leads to naming ``fault_id``, or None."""
    return next((path for path in key.wrong_paths if path.question == "fault" and path.leads_to == fault_id), None)
