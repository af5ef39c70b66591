"""The published file formats: the schemas are what the readers accept, and every example obeys them."""

import importlib.util
import json
from pathlib import Path

import jsonschema
import pytest

from wolfsbane.acting.script import script
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.observed import observed, to_json
from wolfsbane.exercise.marking.rules import rules
from wolfsbane.exercise.paper.asked import asked
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.scenario import migrated, scenario
from wolfsbane.rig.rig import RIG
from wolfsbane.tuning import tune
from wolfsbane.tuning.plate import known_plate

ROOT = Path(__file__).parents[1]
FORMATS = ROOT / "docs" / "formats"
_spec = importlib.util.spec_from_file_location("formats", ROOT / "tools" / "formats.py")
formats = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(formats)
SCENARIO = {
    "schema": 3,
    "title": "Two at once",
    "machine": "split-3t-r410a-txv",
    "outdoor_db_f": 93,
    "return_db_f": 78,
    "return_wb_f": 65.5,
    "faults": [{"id": "dirty_condenser", "severity": 55}, {"id": "undercharge", "severity": 76, "cause": "leak"}],
}
SPLIT = {
    "schema": 1,
    "name": "Split",
    "refrigerant": "R-410A",
    "metering": "txv",
    "capacity_btuh": 36000,
    "ctoa_df": 18,
}
READ = {
    "actions": lambda data: script(data).to_json(),
    "plate": lambda data: known_plate(data).to_json(),
    "readings": lambda data: to_json(observed(data)),
    "scenario": lambda data: scenario(data).to_json(),
    "brief": lambda data: brief(data).to_json(),
    "asked": lambda data: asked(data).to_json(),
    "rules": lambda data: rules(data).to_json(),
    "rig": lambda data: RIG.write(RIG.read(data)),
}
HAND = json.loads((ROOT / "tests" / "diagnosis" / "hand_cases.json").read_text())
GOOD = [
    ("scenario", SCENARIO),
    ("plate", SPLIT),
    (
        "actions",
        {
            "actions": [
                {"do": "stop"},
                {"do": "add_liquid", "oz": 4.5, "bursts": "no"},
                {"do": "remove", "g": 120},
                {"do": "wait", "minutes": 5},
            ],
            "weather": {"outdoor_df_per_h": 2},
        },
    ),
    ("brief", {"schema": 1, "title": "Week 12", "drills": [{"kind": "dial", "items": 4}]}),
    ("asked", {"parts": ["diagnose", "because"], "points": {"fault": 4}, "tests": ["amps"], "chart": True}),
    (
        "rig",
        {
            "schema": 1,
            "name": "Rig 4",
            "machine": "split-3t-r410a-txv",
            "channels": [{"point": "head_pressure", "register": 2, "unit": "psig"}],
            "devices": [{"kind": "bypass", "register": 100}],
            "limits": {"head_psig": 420},
        },
    ),
    ("rules", {"accept": {"fault": ["undercharge"]}, "wider": {"sum": 1.5}, "void": ["superheat"]}),
    *(("readings", row["readings"]) for row in HAND[::3]),
]
BAD = [
    ("rig", {"name": "Rig 4", "machine": "chest"}),
    ("rig", {"name": "Rig 4", "machine": "split-3t-r410a-txv", "devices": [{"kind": "hammer"}]}),
    ("rig", {"name": "Rig 4", "machine": "split-3t-r410a-txv", "limits": {"head_psig": 9000}}),
    ("plate", SPLIT | {"metering": "tap"}),
    ("plate", SPLIT | {"capacity_btuh": 3}),
    ("actions", {"actions": [{"do": "dance"}]}),
    ("actions", {"actions": [{"do": "stop", "hard": 1}]}),
    ("actions", {"actions": []}),
    ("actions", {"weather": {}}),
    ("actions", {"actions": [{"do": "wait", "minutes": -4}]}),
    ("scenario", SCENARIO | {"colour": "red"}),
    ("scenario", SCENARIO | {"machine": "toaster"}),
    ("scenario", SCENARIO | {"faults": [{"id": "x", "severity": 1}]}),
    ("brief", {"title": "x", "levels": [1, 9]}),
    ("brief", {"calls": 3}),
    ("brief", {"title": "x", "weather": {"outdoor_db_f": [90]}}),
    ("asked", {"parts": ["correct"]}),
    ("asked", {"points": {"fault": 99}}),
    ("rules", {"wider": {"sum": 9}}),
    ("rules", {"accept": {"superheat": ["x"]}}),
    ("readings", {"machine": {"refrigerant": "R-410A"}}),
    ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "readings": {"suction_bar": 3}}),
    ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "looked_at": {"filter": "grey"}}),
]


def schema(name):
    return json.loads((FORMATS / f"{name}.schema.json").read_text())


@pytest.mark.parametrize("name", formats.FORMATS)
def test_the_published_schema_is_what_the_code_accepts(name):
    assert (FORMATS / f"{name}.schema.json").read_text() == formats.text(name), "run make formats"
    jsonschema.Draft202012Validator.check_schema(schema(name))


@pytest.mark.parametrize(("name", "data"), GOOD)
def test_good_files_obey_the_schema_and_survive_the_round_trip(name, data):
    jsonschema.validate(data, schema(name))
    written = json.loads(json.dumps(READ[name](data)))
    jsonschema.validate(written, schema(name))
    assert READ[name](written) == written


@pytest.mark.parametrize(("name", "data"), BAD)
def test_schema_and_reader_refuse_the_same_files(name, data):
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, schema(name))
    with pytest.raises(BadInputError):
        READ[name](data)


#: what somebody may put into a field: every kind of JSON value, in and out of place
JUNK = [
    None,
    "",
    "x",
    "x" * 700,
    -1,
    0,
    1,
    2.5,
    1e9,
    True,
    [],
    {},
    ["x"],
    [3],
    [1, 9],
    [None, None],
    {"x": 1},
    {"fault": 99},
    {"fault": ["x"]},
    {"outdoor_db_f": [90, 80]},
    [{"id": "undercharge"}],
    [{"id": "undercharge", "severity": "mild"}],
    [{"id": [], "severity": 1}],
    [{"kind": "dial", "items": 0}],
    [{"kind": {}}],
    [{"do": []}],
    [{"do": "wait", "minutes": []}],
    [{"test": [], "result": {}}],
]
FIRST = {name: data for name, data in reversed(GOOD)}
FIELDS = [(name, f) for name, made in formats.FORMATS.items() for f in ("schema", "nonsense", *made.names)]


@pytest.mark.parametrize(("name", "field"), FIELDS)
def test_whatever_stands_in_a_field_is_read_as_the_schema_says_or_refused_in_one_line(name, field):
    for junk in JUNK:
        data = {**FIRST[name], field: junk}
        try:
            READ[name](data)
        except BadInputError as error:
            assert error.field and error.allowed and len(str(error).splitlines()) == 1
        else:
            jsonschema.validate(data, schema(name))


@pytest.mark.parametrize("name", formats.FORMATS)
@pytest.mark.parametrize("junk", ["x", 5, ["x"], True])
def test_a_file_that_is_no_object_is_refused_by_its_name(name, junk):
    with pytest.raises(BadInputError):
        READ[name](junk)


@pytest.mark.parametrize("name", formats.FORMATS)
def test_an_error_names_the_field_the_value_and_the_fields_there_are(name):
    with pytest.raises(BadInputError) as told:
        READ[name]({**FIRST[name], "nonsense": 7})
    assert told.value.field.split(".")[-1] == "nonsense" and told.value.value == 7
    assert all(field in told.value.allowed for field in formats.FORMATS[name].names)


def test_a_field_inside_a_field_is_named_with_the_way_to_it():
    told = []
    for name, data in (
        ("brief", {"title": "x", "weather": {"outdoor_db_f": [90, 80]}}),
        ("brief", {"title": "x", "drills": [{"kind": "dial", "items": 0}]}),
        ("asked", {"points": {"fault": 99}}),
        ("rules", {"wider": {"sum": 9}}),
        ("actions", {"actions": [{"do": "wait", "minutes": -4}]}),
        ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "readings": {"suction_psig": "x"}}),
        ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "looked_at": {"filter": "grey"}}),
        ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "readings": {"suction_bar": 3}}),
        ("readings", {"machine": {"refrigerant": "Z", "metering": "txv"}}),
        ("scenario", SCENARIO | {"faults": [{"id": "undercharge"}]}),
        ("plate", SPLIT | {"volts": 3}),
    ):
        with pytest.raises(BadInputError) as error:
            READ[name](data)
        told.append(error.value.field)
    assert told == [
        "outdoor_db_f",
        "items",
        "asked.points.fault",
        "rules.wider.sum",
        "wait.minutes",
        "readings.suction_psig",
        "looked_at.filter",
        "readings.suction_bar",
        "refrigerant",
        "severity",
        "volts",
    ]


def test_a_file_of_the_first_version_is_moved_up():
    old = {
        "schema": 1,
        "title": "Old",
        "machine": "split-3t-r410a-txv",
        "fault": "undercharge",
        "severity": 80,
        "outdoor_db_f": 93,
        "return_db_f": 78,
        "return_wb_f": 65.5,
    }
    new = scenario(old).to_json()
    assert new["schema"] == 3 and new["faults"] == [{"id": "undercharge", "severity": 80.0, "cause": None}]
    jsonschema.validate(new, schema("scenario"))
    assert migrated(old | {"fault": "none", "severity": None})["faults"] == []
    assert scenario({k: v for k, v in old.items() if k != "schema"}) == scenario(old)


def test_a_scenario_carries_a_machine_of_one_s_own_with_it():
    made = tune(known_plate(SPLIT)).to_json()
    carried = SCENARIO | {"machine": made["machine"]["id"], "own": {"plate": made["plate"], "circuit": made["circuit"]}}
    jsonschema.validate(carried, schema("scenario"))
    planned = scenario(carried)
    assert planned.profile.name == "Split" and planned.profile.circuit._asdict() == made["circuit"]
    assert scenario(json.loads(json.dumps(planned.to_json()))) == planned
    for wrong in (
        {"own": {"plate": made["plate"]}},
        {"own": 5},
        {"machine": "own-other"},
        {"own": {"plate": made["plate"], "circuit": {"charge_kg": "x"}}},
    ):
        with pytest.raises(BadInputError):
            scenario(carried | wrong)
