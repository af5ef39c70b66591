"""The published file formats: the schemas are what the readers accept, and every example obeys them."""

import importlib.util
import json
from pathlib import Path

import jsonschema
import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.observed import observed, to_json
from wolfsbane.exercise.brief import brief
from wolfsbane.exercise.scenario import migrated, scenario

ROOT = Path(__file__).parents[1]
FORMATS = ROOT / "docs" / "formats"
_spec = importlib.util.spec_from_file_location("formats", ROOT / "tools" / "formats.py")
formats = importlib.util.module_from_spec(_spec)
_spec.loader.exec_module(formats)
SCENARIO = {"schema": 2, "title": "Two at once", "machine": "split-3t-r410a-txv", "outdoor_db_f": 93, "return_db_f": 78, "return_wb_f": 65.5,
            "faults": [{"id": "dirty_condenser", "severity": 55}, {"id": "undercharge", "severity": 76, "cause": "leak"}]}
READ = {"readings": lambda data: to_json(observed(data)), "scenario": lambda data: scenario(data).to_json(), "brief": lambda data: brief(data).to_json()}
HAND = json.loads((ROOT / "tests" / "diagnosis" / "hand_cases.json").read_text())
GOOD = [("scenario", SCENARIO), ("brief", {"schema": 1, "title": "Week 12", "drills": [{"kind": "dial", "items": 4}]}),
        *(("readings", row["readings"]) for row in HAND[::3])]
BAD = [("scenario", SCENARIO | {"colour": "red"}), ("scenario", SCENARIO | {"machine": "toaster"}), ("scenario", SCENARIO | {"faults": [{"id": "x", "severity": 1}]}),
       ("brief", {"title": "x", "levels": [1, 9]}), ("brief", {"calls": 3}), ("readings", {"machine": {"refrigerant": "R-410A"}}),
       ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "readings": {"suction_bar": 3}}),
       ("readings", {"machine": {"refrigerant": "R-410A", "metering": "txv"}, "looked_at": {"filter": "grey"}})]


def schema(name):
    return json.loads((FORMATS / f"{name}.schema.json").read_text())


@pytest.mark.parametrize("name", formats.SCHEMAS)
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


def test_a_file_of_the_first_version_is_moved_up():
    old = {"schema": 1, "title": "Old", "machine": "split-3t-r410a-txv", "fault": "undercharge", "severity": 80, "outdoor_db_f": 93, "return_db_f": 78,
           "return_wb_f": 65.5}
    new = scenario(old).to_json()
    assert new["schema"] == 2 and new["faults"] == [{"id": "undercharge", "severity": 80.0, "cause": None}]
    jsonschema.validate(new, schema("scenario"))
    assert migrated(old | {"fault": "none", "severity": None})["faults"] == []
    assert scenario({k: v for k, v in old.items() if k != "schema"}) == scenario(old)
