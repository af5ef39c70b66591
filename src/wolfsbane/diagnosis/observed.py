"""What somebody saw on a machine: checked readings, looks and test results, in US units, whatever units they came in.

The file format is docs/formats/readings.schema.json. Every key but the refrigerant and the metering device may be
missing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.diagnosis.likelihoods import LOOKS, TESTS

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

SCHEMA = 1
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


@dataclass(frozen=True, kw_only=True)
class Observed:
    """Everything seen. ``readings`` name -> :class:`Seen`, ``conditions`` name -> degrees F,
    looks and tests by word.
    """

    plate: PlateFacts
    conditions: dict[str, float] = field(default_factory=dict)
    readings: dict[str, Seen] = field(default_factory=dict)
    looked_at: dict[str, str | bool] = field(default_factory=dict)
    tests: dict[str, str] = field(default_factory=dict)
    running: bool = True
    settled: bool = True


def _object(name: str, data: dict[str, Any] | None) -> dict[str, Any]:
    if data is None:
        return {}
    if not isinstance(data, dict):
        raise BadInputError(name, data, "a JSON object")
    return data


def _number(name: str, value: float, kind: str, convert: Callable[..., Any]) -> float:
    low, high, unit = _RANGES[kind]
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= convert(value) <= high:
        raise BadInputError(name, value, f"a number, {low:g} to {high:g} {unit} or as much in its own unit")
    return float(convert(value))


def _split(group: str, key: str, kinds: dict[str, str]) -> tuple[str, str, Callable[..., Any]]:
    """(name, kind, conversion) of a key with its unit; raises BadInputError naming the key."""
    for name, kind in kinds.items():
        for suffix, convert in SUFFIXES[kind].items():
            if key == name + suffix:
                return name, kind, convert
    allowed = ", ".join(name + "|".join(SUFFIXES[kind]) for name, kind in kinds.items())
    raise BadInputError(f"{group}.{key}", None, allowed)


def _quantities(group: str, data: dict[str, Any] | None, kinds: dict[str, str], *, ranges: Any) -> dict[str, Seen]:
    found = {}
    for key, value in _object(group, data).items():
        name, kind, convert = _split(group, key, kinds)
        if value is None:
            continue
        if name in found:
            raise BadInputError(f"{group}.{key}", value, f"{name} once, in one unit")
        if isinstance(value, (list, tuple)) and ranges:
            if len(value) != 2:
                raise BadInputError(f"{group}.{key}", value, "a number, or [low, high] when it flutters")
            low, high = sorted(_number(f"{group}.{key}", v, kind, convert) for v in value)
            found[name] = Seen(value=0.5 * (low + high), flutter=0.5 * (high - low))
        else:
            found[name] = Seen(value=_number(f"{group}.{key}", value, kind, convert))
    return found


def _word(field_name: str, value: str | bool | None, allowed: tuple[str | bool, ...]) -> str | bool | None:
    if value is not None and not any(value is w if isinstance(w, bool) else value == w for w in allowed):
        raise BadInputError(field_name, value, ", ".join(str(w).lower() if isinstance(w, bool) else w for w in allowed))
    return value


def _flag(name: str, value: bool | None, default: bool | None) -> bool | None:
    if value is None:
        return default
    if not isinstance(value, bool):
        raise BadInputError(name, value, "true or false")
    return value


def _plate(data: Any) -> PlateFacts:
    data = _object("machine", data)
    known = {
        "refrigerant",
        "metering",
        "application",
        "condenser",
        "receiver",
        "capacity_tons",
        "capacity_btuh",
        "plate_subcooling_df",
        "plate_subcooling_dc",
        "plate_superheat_df",
        "plate_superheat_dc",
        "profile",
    }
    for key in data:
        if key not in known:
            raise BadInputError(f"machine.{key}", data[key], "one of " + ", ".join(sorted(known)))
    profile = data.get("profile")
    named = machine_by_id(profile) if profile is not None else None
    for key in ("refrigerant", "metering"):
        if data.get(key) is None and named is None:
            raise BadInputError(f"machine.{key}", None, "a value: it stands on the plate")
    if named is not None:
        return _from_profile(named, data)
    refrigerant(data["refrigerant"])
    _word("machine.metering", data["metering"], METERING)
    _word("machine.application", data.get("application"), APPLICATIONS)
    _word("machine.condenser", data.get("condenser"), CONDENSERS)
    receiver = _flag("machine.receiver", data.get("receiver"), None)
    size = _quantities(
        "machine",
        {k: data.get(k) for k in ("capacity_tons", "capacity_btuh") if k in data},
        {"capacity": "size"},
        ranges=False,
    )
    own = {
        name: _quantities(
            "machine", {k: v for k, v in data.items() if k.startswith(name)}, {name: "difference"}, ranges=True
        )
        for name in ("plate_subcooling", "plate_superheat")
    }
    window = own["plate_superheat"].get("plate_superheat")
    return PlateFacts(
        refrigerant=data["refrigerant"],
        metering=data["metering"],
        application=data.get("application"),
        condenser=data.get("condenser"),
        receiver=receiver,
        capacity_tons=size["capacity"].value if size else None,
        plate_subcooling_df=own["plate_subcooling"]["plate_subcooling"].value if own["plate_subcooling"] else None,
        plate_superheat_df=(
            None
            if window is None
            else (
                (window.value - window.flutter, window.value + window.flutter)
                if window.flutter
                else (window.value - 2.0, window.value + 2.0)
            )
        ),
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
            raise BadInputError(f"machine.{key}", data[key], f"{own}, as {machine.id} has it, or nothing")
    return plate_of(machine)


def observed(data: dict[str, Any]) -> Observed:
    """Checked :class:`Observed` from plain data (as from JSON). Raises BadInputError naming the key."""
    if not isinstance(data, dict):
        raise BadInputError("readings", type(data).__name__, "a JSON object")
    known = ("schema", "machine", "conditions", "readings", "looked_at", "tests", "running", "settled")
    for key in data:
        if key not in known:
            raise BadInputError(key, data[key], "one of " + ", ".join(known))
    if data.get("schema", SCHEMA) != SCHEMA:
        raise BadInputError("schema", data["schema"], str(SCHEMA))
    plate = _plate(data.get("machine"))
    weather = {
        name: seen.value
        for name, seen in _quantities("conditions", data.get("conditions"), CONDITIONS, ranges=False).items()
    }
    if (
        weather.get("return_wb") is not None
        and weather.get("return_db") is not None
        and weather["return_wb"] > weather["return_db"] + 0.5
    ):
        raise BadInputError(
            "conditions.return_wb",
            round(weather["return_wb"], 1),
            f"at most the dry bulb, {weather['return_db']:.1f} °F",
        )
    looked_at = {}
    for key, value in _object("looked_at", data.get("looked_at")).items():
        if key not in LOOKS:
            raise BadInputError(f"looked_at.{key}", value, ", ".join(LOOKS))
        if _word(f"looked_at.{key}", value, LOOKS[key]) is not None:
            looked_at[key] = value
    return Observed(
        plate=plate,
        conditions=weather,
        readings=_quantities("readings", data.get("readings"), READINGS, ranges=True),
        looked_at=looked_at,
        tests=_tests(data.get("tests")),
        running=bool(_flag("running", data.get("running"), True)),
        settled=bool(_flag("settled", data.get("settled"), True)),
    )


def _tests(rows: list[dict[str, str]] | None) -> dict[str, str]:
    if rows is None:
        return {}
    if not isinstance(rows, (list, tuple)):
        raise BadInputError("tests", rows, "a list of {test, result}")
    found: dict[str, str] = {}
    for row in rows:
        if not isinstance(row, dict) or set(row) - {"test", "result"}:
            raise BadInputError("tests", row, "objects with test and result")
        name, result = row.get("test"), row.get("result")
        if name not in TESTS:
            raise BadInputError("tests.test", name, ", ".join(TESTS))
        if result is None:
            continue
        _word(f"tests.{name}", result, TESTS[name])
        if found.get(name, result) != result:
            raise BadInputError(f"tests.{name}", result, f"one result; {found[name]} was given as well")
        found[name] = result
    return found


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
        "schema": SCHEMA,
        "machine": plate,
        "conditions": {name + units[CONDITIONS[name]]: v for name, v in seen.conditions.items()},
        "readings": {name + units[READINGS[name]]: value(s) for name, s in seen.readings.items()},
        "looked_at": dict(seen.looked_at),
        "tests": [{"test": t, "result": r} for t, r in seen.tests.items()],
        "running": seen.running,
        "settled": seen.settled,
    }
