"""Write the JSON Schemas in docs/formats/ from what the readers accept: ``make formats``. A test compares them."""

import json
from pathlib import Path

from wolfsbane.acting import script
from wolfsbane.acting.actions import ACTIONS
from wolfsbane.acting.actions.kind import IN_GRAMS
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import ALL_POINTS, KITS, POINTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis import likelihoods as words
from wolfsbane.diagnosis import observed
from wolfsbane.diagnosis.practices import PRACTICES, Practice
from wolfsbane.exercise.plan import brief, scenario
from wolfsbane.tables import NAMES
from wolfsbane.tuning import plate

OUT = Path(__file__).resolve().parents[1] / "docs" / "formats"
_DRAFT = "https://json-schema.org/draft/2020-12/schema"


def _object(title, properties, required, version):
    return {
        "$schema": _DRAFT,
        "title": title,
        "type": "object",
        "additionalProperties": False,
        "required": required,
        "properties": {"schema": {"const": version}, **properties},
    }


def _names(values, **more):
    return {"type": "array", "items": {"enum": list(values)}, **more}


def _measured(kinds, ranges):
    """Every quantity under each of its units: a number or null, or a range where a reading may flutter."""
    number = {"type": ["number", "null"]}
    span = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
    value = {"anyOf": [number, span]} if ranges else number
    return {name + suffix: value for name, kind in kinds.items() for suffix in observed.SUFFIXES[kind]}


def _words(check):
    return {"enum": [*words.CHECKS[check], None]}


def readings_schema():
    """What ``wolfsbane diagnose`` reads."""

    def group(properties):
        return {"type": ["object", "null"], "additionalProperties": False, "properties": properties}

    test = {
        "type": "object",
        "additionalProperties": False,
        "required": ["test", "result"],
        "properties": {
            "test": {"enum": list(words.TESTS)},
            "result": {"enum": [*sorted({w for ws in words.TESTS.values() for w in ws}), None]},
        },
    }
    plate = {
        "refrigerant": {"enum": list(NAMES)},
        "metering": {"enum": list(observed.METERING)},
        "application": {"enum": [*observed.APPLICATIONS, None]},
        "condenser": {"enum": [*observed.CONDENSERS, None]},
        "receiver": {"type": ["boolean", "null"]},
        "profile": {"enum": [*MACHINES, None]},
        **_measured({"capacity": "size"}, ranges=False),
        **_measured({"plate_subcooling": "difference", "plate_superheat": "difference"}, ranges=True),
    }
    flag = {"type": ["boolean", "null"], "default": True}
    return _object(
        "Readings of one machine, complete or not",
        {
            "machine": {
                "type": "object",
                "additionalProperties": False,
                "properties": plate,
                "anyOf": [{"required": ["refrigerant", "metering"]}, {"required": ["profile"]}],
            },
            "conditions": group(_measured(observed.CONDITIONS, ranges=False)),
            "readings": group(_measured(observed.READINGS, ranges=True)),
            "looked_at": group({check: _words(check) for check in words.LOOKS}),
            "tests": {"type": ["array", "null"], "items": test},
            "running": flag,
            "settled": flag,
        },
        ["machine"],
        observed.SCHEMA,
    )


def scenario_schema():
    """What ``wolfsbane prove`` and ``call`` read."""
    profile = {"anyOf": [{"enum": list(MACHINES)}, {"type": "string", "pattern": "^own-"}]}
    fault = {
        "type": "object",
        "additionalProperties": False,
        "required": ["id", "severity"],
        "properties": {
            "id": {"enum": [*FAULTS, *INSTRUMENT_FAULTS]},
            "severity": {"type": "number"},
            "cause": {"type": ["string", "null"]},
        },
    }
    number, maybe, text = {"type": "number"}, {"type": ["number", "null"]}, {"type": "string", "maxLength": 600}
    return _object(
        "A scenario: one machine, its faults, its weather and what is given",
        {
            "title": {"type": "string", "minLength": 1, "maxLength": 120},
            "machine": profile,
            "own": {
                "type": ["object", "null"],
                "required": ["plate", "circuit"],
                "properties": {
                    "plate": plate_schema(),
                    "circuit": {"type": "object", "additionalProperties": {"type": "number"}},
                },
            },
            "faults": {"type": "array", "items": fault, "maxItems": scenario.MAX_FAULTS},
            "outdoor_db_f": number,
            "return_db_f": maybe,
            "return_wb_f": maybe,
            "box_f": maybe,
            "water_in_f": maybe,
            "altitude_ft": number,
            "instruments": {"enum": list(KITS)},
            "practice": {"anyOf": [{"enum": list(PRACTICES)}, {"type": "string", "pattern": "^own-"}]},
            "own_practice": {
                "type": ["object", "null"],
                "required": list(Practice.__dataclass_fields__),
                "additionalProperties": False,
                "properties": {name: {} for name in Practice.__dataclass_fields__},
            },
            "tags": {"type": "array", "maxItems": scenario.MAX_TAGS, "items": {"type": "string", "maxLength": 30}},
            "spread_outdoor_df": {"type": "number", "minimum": 0, "maximum": 20},
            "spread_return_df": {"type": "number", "minimum": 0, "maximum": 8},
            "spread_depth_pct": {"type": "number", "minimum": 0, "maximum": 50},
            "complaint": text,
            "history": text,
            "look_round": {"type": "array", "maxItems": 12, "items": {"type": "string", "maxLength": 200}},
            "given_readings": {"anyOf": [{"type": "null"}, _names(ALL_POINTS)]},
            "given_tests": _names(FIELD_TESTS),
        },
        ["title", "machine", "faults", "outdoor_db_f"],
        scenario.SCHEMA,
    )


def brief_schema():
    """What ``wolfsbane generate`` reads."""

    def whole(low, high):
        return {"type": "integer", "minimum": low, "maximum": high}

    span = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}
    drill = {
        "type": "object",
        "additionalProperties": False,
        "required": ["kind"],
        "properties": {"kind": {"enum": list(brief.DRILLS)}, "items": whole(1, 40)},
    }
    return _object(
        "A brief for a class set",
        {
            "title": {"type": "string", "minLength": 1, "maxLength": 120},
            "machines": _names(MACHINES, minItems=1),
            "faults": _names(FAULTS, minItems=1),
            "levels": {"type": "array", "items": whole(1, 5), "minItems": 2, "maxItems": 2},
            "calls": whole(0, 20),
            "apprentices": whole(1, 60),
            "minutes": {"anyOf": [{"type": "null"}, whole(5, 480)]},
            "fault_free_share": {"type": "number", "minimum": 0, "maximum": 1},
            "two_faults": whole(0, 20),
            "practice": {"enum": list(PRACTICES)},
            "instruments": {"enum": list(KITS)},
            "units": {"enum": ["us", "si"]},
            "weather": {
                "type": "object",
                "additionalProperties": False,
                "properties": dict.fromkeys(brief.WEATHER, span),
            },
            "altitude_ft": {"type": "number", "minimum": -500, "maximum": 10_000},
            "given_readings": {"anyOf": [{"type": "null"}, _names(POINTS)]},
            "given_tests": _names(FIELD_TESTS),
            "drills": {"type": "array", "items": drill},
            "seed": {"type": "integer", "minimum": 0},
        },
        ["title"],
        brief.SCHEMA,
    )


def actions_schema():
    """What ``wolfsbane act`` reads beside a scenario."""

    def step(kind):
        properties = {"do": {"const": kind.id}}
        for p in kind.parameters:
            properties[p.name] = (
                {"enum": list(p.words)} if p.words else {"type": "number", "minimum": p.low, "maximum": p.high}
            )
            for grams, ounces in IN_GRAMS.items():
                if ounces == p.name:
                    properties[grams] = {"type": "number", "exclusiveMinimum": 0}
        return {"type": "object", "additionalProperties": False, "required": ["do"], "properties": properties}

    drift = {"type": "number", "minimum": -20, "maximum": 20}
    made = _object(
        "Actions on a scenario's machine, in order",
        {
            "actions": {"type": "array", "minItems": 1, "items": {"oneOf": [step(kind) for kind in ACTIONS.values()]}},
            "weather": {
                "type": "object",
                "additionalProperties": False,
                "properties": {"outdoor_df_per_h": drift, "return_df_per_h": drift},
            },
        },
        ["actions"],
        script.SCHEMA,
    )
    return {**made, "description": "The list of actions alone is accepted as well."}


def plate_schema():
    """What ``wolfsbane tune`` reads."""
    numbers = {
        name: {"type": ["number", "null"], "minimum": low, "maximum": high, "description": unit}
        for name, (low, high, unit) in plate.NUMBERS.items()
    }
    return _object(
        "A plate and what ratings are known of the machine",
        {
            "name": {"type": "string", "minLength": 1, "maxLength": 80},
            "model": {"type": "string", "maxLength": 40},
            "refrigerant": {"enum": list(NAMES)},
            "metering": {"enum": list(plate.METERING)},
            "application": {"enum": list(plate.APPLICATIONS)},
            "condenser": {"enum": list(plate.CONDENSERS)},
            "receiver": {"type": "boolean"},
            **numbers,
        },
        ["name", "refrigerant", "metering", "capacity_btuh"],
        plate.SCHEMA,
    )


SCHEMAS = {
    "actions": actions_schema,
    "plate": plate_schema,
    "readings": readings_schema,
    "scenario": scenario_schema,
    "brief": brief_schema,
}


def text(name):
    """The schema file's text."""
    return json.dumps(SCHEMAS[name](), indent=1, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    OUT.mkdir(parents=True, exist_ok=True)
    for name in SCHEMAS:
        (OUT / f"{name}.schema.json").write_text(text(name), encoding="utf-8")
