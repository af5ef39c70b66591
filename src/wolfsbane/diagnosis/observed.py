"""What somebody saw on a machine: checked readings, looks and test results, in US units, whatever units they came in.

The file format is docs/formats/readings.schema.json. Every key but the refrigerant and the metering device may be
missing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.fields import (
    Accept,
    Format,
    at_most_keys,
    beneath,
    called,
    fields_of,
    flag,
    optional,
    refuse,
    usual,
    word,
)
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.likelihoods import LOOKS, TESTS, tells
from wolfsbane.tables import NAMES

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

METERING = ("txv", "eev", "fixed_orifice", "capillary")
APPLICATIONS = (
    "air_conditioner",
    "heat_pump_cooling",
    "heat_pump_heating",
    "package_unit",
    "walk_in_cooler",
    "walk_in_freezer",
    "reach_in",
)
CONDENSERS = ("tube_and_fin", "microchannel", "water_cooled")

#: kind -> suffix -> (to US units, allowed lowest, allowed highest in US units, unit name)
SUFFIXES = {
    "pressure": {"_psig": lambda v: v, "_kpa_gauge": lambda v: v * 1000.0 / PA_PER_PSI},
    "temperature": {"_f": lambda v: v, "_c": lambda v: v * 1.8 + 32.0},
    "difference": {"_df": lambda v: v, "_dc": lambda v: v * 1.8},
    "current": {"_a": lambda v: v},
    "flow": {"_cfm": lambda v: v},
    "static": {"_inwc": lambda v: v},
    "length": {"_ft": lambda v: v},
    "size": {"_tons": lambda v: v, "_btuh": lambda v: v / 12_000.0},
}
_RANGES = {
    "pressure": (-15.0, 900.0, "psig"),
    "temperature": (-80.0, 400.0, "°F"),
    "difference": (-150.0, 200.0, "°F"),
    "current": (0.0, 1000.0, "A"),
    "flow": (0.0, 100_000.0, "cfm"),
    "static": (0.0, 10.0, "in w.c."),
    "length": (-500.0, 10_000.0, "ft"),
    "size": (0.02, 200.0, "tons"),
}
#: reading -> kind of quantity
READINGS = {
    "suction": "pressure",
    "head": "pressure",
    "suction_line": "temperature",
    "liquid_line": "temperature",
    "discharge_line": "temperature",
    "supply_db": "temperature",
    "drier_in": "temperature",
    "drier_out": "temperature",
    "superheat": "difference",
    "subcooling": "difference",
    "evaporator_outlet": "temperature",
    "evaporator_superheat": "difference",
    "condenser_inlet": "temperature",
    "condenser_leaving_air": "temperature",
    "evaporator_inlet": "temperature",
    "compressor": "current",
    "airflow": "flow",
    "static": "static",
    "water_in": "temperature",
    "water_out": "temperature",
}
CONDITIONS = {
    "outdoor_db": "temperature",
    "return_db": "temperature",
    "return_wb": "temperature",
    "box": "temperature",
    "altitude": "length",
}


@dataclass(frozen=True, kw_only=True)
class PlateFacts:
    """What is known of the machine. Tons, degrees F; None where unknown. ``profile`` is one of our own machines."""

    refrigerant: str
    metering: str
    application: str | None = None
    condenser: str | None = None
    receiver: bool | None = None
    capacity_tons: float | None = None
    plate_subcooling_df: float | None = None
    plate_superheat_df: tuple[float, float] | None = None
    profile: str | None = None

    @property
    def refrigeration(self) -> bool:
        """True for a refrigerated box."""
        return self.application in ("walk_in_cooler", "walk_in_freezer", "reach_in")


@dataclass(frozen=True, kw_only=True)
class Seen:
    """One reading in US units: its middle and half the width it flutters over."""

    value: float
    flutter: float = 0.0


def _measured(name: str, kind: str, ranges: bool) -> dict[str, Accept]:
    """A quantity under each of its units, as :class:`Seen` in US units or None where it was left out."""
    low, high, unit = _RANGES[kind]

    def reader(convert: Callable[[float], float]) -> Accept:
        def one(value: Any) -> float:
            if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= convert(value) <= high:
                raise refuse(value, f"a number, {low:g} to {high:g} {unit} or as much in its own unit")
            return float(convert(value))

        def seen(value: Any) -> Seen | None:
            if value is None:
                return None
            if not ranges or not isinstance(value, (list, tuple)):
                return Seen(value=one(value))
            if len(value) != 2:
                raise refuse(value, "a number, or [low, high] when it flutters")
            lower, upper = sorted(map(one, value))
            return Seen(value=0.5 * (lower + upper), flutter=0.5 * (upper - lower))

        flutter = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
        return Accept(seen, {"anyOf": [{"type": "number"}, {"type": "null"}, *([flutter] if ranges else [])]})

    return {name + suffix: reader(convert) for suffix, convert in SUFFIXES[kind].items()}


def _quantities(kinds: dict[str, str], *, ranges: bool) -> Accept:
    """An object of quantities by name and unit, kept as name -> :class:`Seen`; each in one unit only."""
    parts = {key: accepted for name, kind in kinds.items() for key, accepted in _measured(name, kind, ranges).items()}
    plain = fields_of(parts)
    names = {name + suffix: name for name, kind in kinds.items() for suffix in SUFFIXES[kind]}
    allowed = ", ".join(name + "|".join(SUFFIXES[kind]) for name, kind in kinds.items())

    def check(data: Any) -> dict[str, Seen]:
        if data is None:
            return {}
        for key in data if isinstance(data, dict) else ():
            if key not in parts:
                raise refuse(None, allowed, f".{key}")
        found: dict[str, Seen] = {}
        for key, seen in plain.check(data).items():
            if seen is None:
                continue
            if names[key] in found:
                raise refuse(data[key], f"{names[key]} once, in one unit", f".{key}")
            found[names[key]] = seen
        return found

    return Accept(check, optional(plain).schema)


def _weather(data: Any) -> dict[str, float]:
    found = {name: seen.value for name, seen in _CONDITIONS.check(data).items()}
    dry, wet = found.get("return_db"), found.get("return_wb")
    if dry is not None and wet is not None and wet > dry + 0.5:
        raise refuse(round(wet, 1), f"at most the dry bulb, {dry:.1f} °F", ".return_wb")
    return found


def _said(allowed: tuple[str | bool, ...]) -> Accept:
    """One of the words of a look or a test, which may be true and false, or null where nobody looked."""

    def check(value: Any) -> str | bool | None:
        if value is not None and not any(value is w if isinstance(w, bool) else value == w for w in allowed):
            raise refuse(value, ", ".join(str(w).lower() if isinstance(w, bool) else w for w in allowed))
        return value

    return Accept(check, {"enum": [*allowed, None]})


def _looks(data: Any) -> dict[str, str | bool]:
    for key in data if isinstance(data, dict) else ():
        if key not in LOOKS:
            raise refuse(data[key], ", ".join(LOOKS), f".{key}")
    return {key: value for key, value in (_LOOKS.check(data) or {}).items() if value is not None}


def _tests(rows: Any) -> dict[str, str]:
    found: dict[str, str] = {}
    if not isinstance(rows, (list, tuple, type(None))):
        raise refuse(rows, "a list of {test, result}")
    for row in rows or ():
        if not isinstance(row, dict) or set(row) - {"test", "result"}:
            raise refuse(row, "objects with test and result")
        name, result = row.get("test"), row.get("result")
        if not isinstance(name, str) or name not in TESTS:
            raise refuse(name, ", ".join(TESTS), ".test")
        beneath(name, _said(TESTS[name]).check, result)
        if result is None:
            continue
        if found.get(name, result) != result:
            raise refuse(result, f"one result; {found[name]} was given as well", f".{name}")
        found[name] = result
    return found


def _properties(accepted: Accept) -> dict[str, Any]:
    return accepted.schema["anyOf"][0]["properties"]


_CONDITIONS = _quantities(CONDITIONS, ranges=False)
_LOOKS = optional(fields_of({check: _said(allowed) for check, allowed in LOOKS.items()}))
_RESULTS = sorted({result for allowed in TESTS.values() for result in allowed})
_TEST_ROW = fields_of({"test": word(TESTS), "result": _said(tuple(_RESULTS))}, required=("test", "result"))
_SIZE = _quantities({"capacity": "size"}, ranges=False)
_PLATE_TARGETS = _quantities({"plate_subcooling": "difference", "plate_superheat": "difference"}, ranges=True)
_PLATE_FIELDS = {
    "refrigerant": called("refrigerant", word(NAMES)),
    "metering": word(METERING),
    "application": optional(word(APPLICATIONS)),
    "condenser": optional(word(CONDENSERS)),
    "receiver": optional(flag()),
    "profile": optional(word([m.id for m in MACHINES.values() if not m.in_heating])),
}
_PLATE_PROPERTIES = {
    **{name: accepted.schema for name, accepted in _PLATE_FIELDS.items()},
    **_properties(_SIZE),
    **_properties(_PLATE_TARGETS),
}
_PLATE_SCHEMA = {
    "type": "object",
    "additionalProperties": False,
    "properties": _PLATE_PROPERTIES,
    "anyOf": [{"required": ["refrigerant", "metering"]}, {"required": ["profile"]}],
}


def _plate(data: Any) -> PlateFacts:
    if not isinstance(data, (dict, type(None))):
        raise refuse(data, "a JSON object")
    data = data or {}
    at_most_keys(data, _PLATE_PROPERTIES, ".")
    if data.get("profile") is not None:
        return _from_profile(machine_by_id(beneath("profile", _PLATE_FIELDS["profile"].check, data["profile"])), data)
    for key in ("refrigerant", "metering"):
        if data.get(key) is None:
            raise refuse(None, "a value: it is on the nameplate", f".{key}")
    told = {name: beneath(name, accepted.check, data.get(name)) for name, accepted in _PLATE_FIELDS.items()}
    size = _SIZE.check({k: v for k, v in data.items() if k.startswith("capacity")})
    own = _PLATE_TARGETS.check({k: v for k, v in data.items() if k.startswith("plate_")})
    window, subcooling = own.get("plate_superheat"), own.get("plate_subcooling")
    half = 0.0 if window is None else window.flutter or 2.0
    return PlateFacts(
        **told,
        capacity_tons=size["capacity"].value if size else None,
        plate_subcooling_df=None if subcooling is None else subcooling.value,
        plate_superheat_df=None if window is None else (window.value - half, window.value + half),
    )


def plate_of(machine: Machine) -> PlateFacts:
    """The facts of one of our own machines."""
    window = machine.plate.target_superheat_dk
    subcooling = machine.plate.target_subcooling_dk
    return PlateFacts(
        refrigerant=machine.refrigerant,
        metering=machine.metering,
        application=machine.application,
        condenser=machine.condenser,
        receiver=machine.receiver,
        capacity_tons=machine.plate.capacity_w / 3516.85,
        plate_subcooling_df=None if subcooling is None else subcooling * 1.8,
        plate_superheat_df=None if window is None else (window[0] * 1.8, window[1] * 1.8),
        profile=machine.id,
    )


def _from_profile(machine: Machine, data: dict[str, str]) -> PlateFacts:
    for key, own in (
        ("refrigerant", machine.refrigerant),
        ("metering", machine.metering),
        ("application", machine.application),
        ("condenser", machine.condenser),
    ):
        if data.get(key) not in (None, own):
            raise BadInputError(f".{key}", data[key], f"{own}, as {machine.id} has it, or nothing")
    return plate_of(machine)


@dataclass(frozen=True, kw_only=True)
class Observed:
    """Everything seen. ``readings`` name -> :class:`Seen`, ``conditions`` name -> degrees F,
    looks and tests by word.
    """

    plate: Annotated[PlateFacts, Accept(_plate, _PLATE_SCHEMA), Field(alias="machine")]
    conditions: Annotated[dict[str, float], Accept(_weather, _CONDITIONS.schema)] = field(default_factory=dict)
    readings: Annotated[dict[str, Seen], _quantities(READINGS, ranges=True)] = field(default_factory=dict)
    looked_at: Annotated[dict[str, str | bool], Accept(_looks, _LOOKS.schema)] = field(default_factory=dict)
    tests: Annotated[
        dict[str, str], Accept(_tests, {"anyOf": [{"type": "array", "items": _TEST_ROW.schema}, {"type": "null"}]})
    ] = field(default_factory=dict)
    running: Annotated[bool, usual(flag(), True)] = True
    settled: Annotated[bool, usual(flag(), True)] = True

    @property
    def telling(self) -> dict[str, str | bool]:
        """Looks and tests that tell something on such a machine, with their words."""
        found = {**self.looked_at, **self.tests}
        return {k: w for k, w in found.items() if tells(k, self.plate.refrigeration)}


OBSERVED = Format(Observed, "readings", "Readings of one machine, complete or not", version=1)


def observed(data: dict[str, Any]) -> Observed:
    """Checked :class:`Observed` from plain data (as from JSON). Raises BadInputError naming the key."""
    return OBSERVED.read(data)


def to_json(seen: Observed) -> dict[str, Any]:
    """Plain data of an :class:`Observed`, in US units; :func:`observed` reads it back to the same."""
    units = {kind: next(iter(suffixes)) for kind, suffixes in SUFFIXES.items()}

    def value(s: Any) -> Any:
        return [s.value - s.flutter, s.value + s.flutter] if s.flutter else s.value

    p = seen.plate
    plate = (
        {"profile": p.profile}
        if p.profile
        else {
            key: value
            for key, value in (
                ("refrigerant", p.refrigerant),
                ("metering", p.metering),
                ("application", p.application),
                ("condenser", p.condenser),
                ("receiver", p.receiver),
                ("capacity_tons", p.capacity_tons),
                ("plate_subcooling_df", p.plate_subcooling_df),
                ("plate_superheat_df", None if p.plate_superheat_df is None else list(p.plate_superheat_df)),
            )
            if value is not None
        }
    )
    return {
        "schema": OBSERVED.version,
        "machine": plate,
        "conditions": {name + units[CONDITIONS[name]]: v for name, v in seen.conditions.items()},
        "readings": {name + units[READINGS[name]]: value(s) for name, s in seen.readings.items()},
        "looked_at": dict(seen.looked_at),
        "tests": [{"test": t, "result": r} for t, r in seen.tests.items()],
        "running": seen.running,
        "settled": seen.settled,
    }
