"""What the API says it replies is what it replies: each reply read here fits the shape that the client is typed by.

Nothing checks replies while the application runs, so a key renamed on one side only would show as an empty picture.
"""

import json
from pathlib import Path

import jsonschema
import pytest

from tests.server.conftest import OTHER, SCENARIO, as_key, codes
from tests.server.test_api import BENCH

SPEC = json.loads((Path(__file__).parents[2] / "web/openapi.json").read_text())
PLATE = {"name": "Yard split", "refrigerant": "R-410A", "metering": "txv", "capacity_btuh": 30000, "ctoa_df": 16}
READINGS = {
    "machine": {"refrigerant": "R-410A", "metering": "txv"},
    "readings": {"superheat_df": 30, "subcooling_df": 2, "suction_psig": 95, "head_psig": 330},
    "conditions": {"outdoor_db_f": 95},
}


def closed(schema):
    """The schema with every object closed: a key that nobody declared is as wrong as one that is missing."""
    if isinstance(schema, list):
        return [closed(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    made = {key: closed(part) for key, part in schema.items()}
    if "properties" in made:
        made.setdefault("additionalProperties", False)
    return made


COMPONENTS = closed(SPEC["components"])


def checked(method, path, reply):
    """The JSON of a reply, once it fits what the description of ``path`` declares for its status."""
    declared = SPEC["paths"][f"/api/v1{path}"][method.lower()]["responses"]
    schema = declared[str(reply.status_code)]["content"]["application/json"]["schema"]
    jsonschema.validate(reply.json, {**schema, "components": COMPONENTS})
    return reply.json


@pytest.mark.parametrize(
    ("path", "query"),
    [
        ("/session", ""),
        ("/catalogue", ""),
        ("/accounts", ""),
        ("/machines", "?units=si"),
        ("/practices", "?units=si"),
        ("/classes", ""),
        ("/sheets", ""),
        ("/projections", ""),
        ("/reference/refrigerants", ""),
        ("/reference/rubric", ""),
        ("/reference/superheat", "?return_wb=67&outdoor_db=95"),
        ("/reference/superheat/chart", "?by=formula"),
    ],
)
def test_what_is_read_without_an_id_fits(teacher, path, query):
    assert checked("GET", path, teacher.get(path + query))


@pytest.mark.parametrize(
    ("path", "name", "value"),
    [
        ("/actions/{machine_id}", "machine_id", "split-3t-r410a-txv"),
        ("/reference/dome/{refrigerant}", "refrigerant", "R-410A"),
        ("/reference/pt/{refrigerant}", "refrigerant", "R-454B"),
        ("/reference/pt/{refrigerant}/convert", "refrigerant", "R-22"),
        ("/reference/faults/{fault_id}", "fault_id", "dirty_condenser"),
    ],
)
def test_the_reference_fits(teacher, path, name, value):
    query = "?pressure=118" if path.endswith("convert") else ""
    assert checked("GET", path, teacher.get(path.replace(f"{{{name}}}", value) + query))


@pytest.mark.parametrize("units", ["us", "si"])
@pytest.mark.parametrize(
    ("path", "more"),
    [
        ("/bench", {}),
        ("/prove", {}),
        ("/plan", {}),
        ("/act", {"steps": [{"do": "wait", "arguments": {"minutes": 2}}], "frames": True}),
        ("/bench/test", {"test": "filter"}),
        ("/bench/trend", {"over": "undercharge"}),
    ],
)
def test_the_bench_and_what_is_asked_of_it_fit(teacher, path, more, units):
    assert checked("POST", path, teacher.post(path, BENCH | more | {"units": units}))


def test_a_machine_that_trips_fits_as_well(teacher):
    tripped = BENCH | {"faults": [{"id": "dirty_condenser", "severity": 25}], "outdoor_db_f": 115}
    assert checked("POST", "/bench", teacher.post("/bench", tripped))["trip"]


def test_readings_that_were_typed_fit(teacher):
    assert checked("POST", "/diagnose", teacher.post("/diagnose", READINGS))["ranked"]


def test_a_tuned_machine_fits(teacher):
    assert checked("POST", "/tune", teacher.post("/tune", PLATE))
    assert checked("POST", "/machines", teacher.post("/machines", PLATE))["machines"]


def test_scenarios_and_their_versions_fit(teacher):
    made = checked("POST", "/scenarios", teacher.post("/scenarios", SCENARIO))
    at = f"/scenarios/{made['id']}"
    assert checked("PUT", "/scenarios/{scenario_id}", teacher.put(at, OTHER))["version"] == 2
    assert checked("GET", "/scenarios/{scenario_id}", teacher.get(at)) and checked(
        "GET", "/scenarios/{scenario_id}/versions", teacher.get(f"{at}/versions")
    )
    assert checked("POST", "/scenarios/{scenario_id}/copy", teacher.post(f"{at}/copy", {}))
    assert checked("GET", "/scenarios", teacher.get("/scenarios"))["scenarios"]


def test_a_practice_of_ones_own_fits(teacher):
    body = {"base": "chart", "name": "Ours", "changes": {"subcooling_tolerance_df": 5}}
    assert checked("POST", "/practices", teacher.post("/practices", body))["practices"]


def test_a_request_in_a_sentence_fits(teacher):
    read = checked("POST", "/briefs/read", teacher.post("/briefs/read", {"text": "two calls, level 1 to 2, blorp"}))
    assert read["not_understood"] and read["understood"]
    whole = checked("POST", "/briefs/plan", teacher.post("/briefs/plan", {"brief": read["brief"]}))
    assert whole["ladder"] and whole["so_far"] is None and whole["of"] == len(whole["ladder"])
    piece = checked("POST", "/briefs/plan", teacher.post("/briefs/plan", {"brief": read["brief"], "stepwise": True}))
    assert len(piece["ladder"]) == 1 and piece["note"] == ""
    while piece["so_far"] is not None:
        sent = {"brief": read["brief"], "stepwise": True, "so_far": piece["so_far"]}
        piece = checked("POST", "/briefs/plan", teacher.post("/briefs/plan", sent))
    assert piece == whole


def test_a_case_on_the_projector_fits(teacher):
    put = checked("POST", "/projections", teacher.post("/projections", BENCH | {"complaint": "Warm."}))
    at = f"/projections/{put['id']}"
    assert checked("PUT", "/projections/{projection_id}", teacher.put(at, {"step": "look", "shown": ["readings"]}))
    assert checked("DELETE", "/projections", teacher.delete("/projections")) == {"projection": None}


def test_a_sheet_its_papers_and_results_fit(app, teacher, sheet):
    at, code = f"/sheets/{sheet['id']}", codes(teacher, sheet)[0]
    answers = {"call": 1, "answers": as_key(app, code, ctoa="3", superheat_verdict="h")}
    marked = checked("PUT", "/papers/{code}/answers", teacher.put(f"/papers/{code}/answers", answers))
    assert marked["earned"] and checked("GET", "/papers/{code}", teacher.get(f"/papers/{code}"))["calls"]
    assert checked("GET", "/papers/{code}/feedback", teacher.get(f"/papers/{code}/feedback"))["calls"]
    for path in ("", "/results", "/audit", "/preview"):
        assert checked("GET", f"/sheets/{{sheet_id}}{path}", teacher.get(at + path))
    rules = {"position": 1, "rules": {"void": ["ctoa"]}, "reason": "smudged", "confirmed": False}
    assert checked("PUT", "/sheets/{sheet_id}/rules", teacher.put(f"{at}/rules", rules))["moves"]


def test_a_class_over_the_term_fits(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": as_key(app, code, fault="")})
    at = f"/classes/{sheet['class_id']}"
    for path in ("", "/results", "/gradebook"):
        assert checked("GET", f"/classes/{{class_id}}{path}", teacher.get(at + path))
    person = teacher.get(at).json["people"][0]["id"]
    assert checked("GET", "/apprentices/{apprentice_id}/results", teacher.get(f"/apprentices/{person}/results"))["next"]


def test_what_a_rig_read_fits(teacher, mixed):
    at = f"/sheets/{mixed['id']}/measurements/2"
    path = "/sheets/{sheet_id}/measurements/{position}"
    seen = checked("GET", path, teacher.get(at))
    values = {row["key"]: float(row["predicted"].split()[0].replace("−", "-")) for row in seen["rows"]}
    reply = teacher.put(at, {"readings": values, "confirmed": True})
    assert checked("PUT", path, reply)["figures"]
    assert checked("GET", path, teacher.get(at))["writer"]
