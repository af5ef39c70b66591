"""What a run has brought to light by then, as the diagnosis weighs it."""

from __future__ import annotations

from collections import OrderedDict
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.diagnose import Diagnosis, diagnose
from wolfsbane.diagnosis.likelihoods import LOOKS, TESTS
from wolfsbane.diagnosis.observed import Observed, Seen, plate_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.exercise.screen.shown import Shown

#: point on screen -> what the diagnosis calls it
READINGS = {
    "suction_pressure": "suction",
    "head_pressure": "head",
    "suction_line": "suction_line",
    "liquid_line": "liquid_line",
    "discharge_line": "discharge_line",
    "supply_db": "supply_db",
    "drier_in": "drier_in",
    "drier_out": "drier_out",
    "evaporator_outlet": "evaporator_outlet",
    "water_in": "water_in",
    "water_out": "water_out",
    "compressor_amps": "compressor",
    "airflow": "airflow",
    "static": "static",
    "condenser_leaving_air": "condenser_leaving_air",
}
#: readings that tests give in numbers
_BY_TEST = ("drier_in", "drier_out", "compressor", "airflow", "static")
WEATHER = {"outdoor_db": "outdoor_db", "return_db": "return_db", "return_wb": "return_wb"}


def _us(kind: str, value: float, system: str) -> float:
    if system == "us":
        return value
    return {"pressure": value * 1000.0 / PA_PER_PSI, "temperature": value * 1.8 + 32.0}.get(kind, value)


def seen(machine: Machine, shown: Iterable[Shown], system: str) -> Observed:
    """What was seen: readings that were taken where they belong on a machine that stood still, looks and tests. A later
    one stands over an earlier one.
    """
    readings: dict[str, Seen] = {}
    weather: dict[str, float] = {}
    looks: dict[str, str | bool] = {}
    tests: dict[str, str] = {}
    for one in shown:
        if one.refused:
            continue
        if one.kind == "read" and one.reading is not None and one.fair and one.still:
            point, value = one.data["point"], _us(one.reading["kind"], one.reading["value"], system)
            if point in READINGS:
                readings[READINGS[point]] = Seen(value=value)
            elif point in WEATHER:
                weather["box" if point == "return_db" and machine.refrigeration else WEATHER[point]] = value
        elif one.kind == "look" and one.data["check"] in LOOKS and one.word in LOOKS[one.data["check"]]:
            looks[one.data["check"]] = one.word
        elif one.kind == "test" and one.data["test"] in TESTS and one.word in TESTS[one.data["test"]]:
            tests[one.data["test"]] = str(one.word)
        for name, value in one.told.items():
            # drier_in_f, compressor_a: what a test measured on the machine as it ran
            point = name.rpartition("_")[0]
            if point in _BY_TEST and one.still:
                readings[point] = Seen(value=value)
    if machine.refrigeration:
        weather.pop("return_wb", None)
    return Observed(plate=plate_of(machine), conditions=weather, readings=readings, looked_at=looks, tests=tests)


#: diagnoses kept: a way through a call is looked at again and again
_MOST = 600
_kept: OrderedDict[str, Diagnosis] = OrderedDict()


def weighed(found: Observed, practice: Practice) -> Diagnosis:
    """The diagnosis of what was seen; the same is worked out once in a process."""
    key = repr((found, practice))
    if key not in _kept:
        _kept[key] = diagnose(found, practice)
        while len(_kept) > _MOST:
            _kept.popitem(last=False)
    return _kept[key]


def weight_of(found: Diagnosis, accepted: tuple[str, ...]) -> float:
    """How much of the belief stands on what is accepted: fault ids, two joined by a plus."""
    wanted = {frozenset(a.split("+")) for a in accepted}
    return float(sum(a.weight for a in found.ranked if frozenset(a.fault.split("+")) in wanted))
