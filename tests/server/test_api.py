"""The application through its API: bench, scenarios, classes, sheets, marking."""

import csv
import gzip
import io
import json
import re
import subprocess

import pytest

from tests.server.conftest import OTHER, SCENARIO, Client, build
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.marking.grade import perfect_answers
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.openapi import description

ROOM = {"outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67}
BENCH = {"machine": SCENARIO["machine"], "faults": [{"id": "undercharge", "severity": 75}], **ROOM}
BOX = {"machine": "walkin-cooler-r404a-txv", "outdoor_db_f": 95, "box_f": 38}


def frozen(app, code):
    with database_of(app).transaction() as connection:
        paper = connection.execute("select id from papers where code = %s", (code,)).fetchone()
        return [call_from_json(r["body"]) for r in queries.paper_call_list(connection, paper_id=paper["id"])]


def codes(teacher, sheet):
    return [row["code"] for row in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]]


def test_long_lists_are_packed_for_a_browser_that_takes_it_and_only_then(teacher):
    """A tenth of the length on a slow line; what is short, or was not read, is sent as it is."""
    plain = teacher.get("/catalogue")
    asked = {"Accept-Encoding": "gzip, br"}
    packed = teacher._client.get("/api/v1/catalogue", headers=asked)
    assert packed.headers["Content-Encoding"] == "gzip" and "Content-Encoding" not in plain.headers
    assert "Accept-Encoding" in packed.headers["Vary"] and "Accept-Encoding" in plain.headers["Vary"]
    assert json.loads(gzip.decompress(packed.data)) == plain.json
    assert int(packed.headers["Content-Length"]) == len(packed.data) < 0.2 * len(plain.data)
    assert "Content-Encoding" not in teacher._client.get("/api/v1/session", headers=asked).headers


def test_the_bench_answers_with_readings_figures_dials_and_a_judgement(teacher):
    found = teacher.post("/bench", BENCH).json
    assert found["trip"] is None and len(found["dials"]) == 2 and len(found["figures"]) == 4
    by_id = {f["id"]: f for f in found["figures"]}
    assert by_id["subcooling"]["verdict"] == "low" and by_id["subcooling"]["now"]["unit"] == "°F"
    assert (
        teacher.post("/prove", BENCH).json["judged"]["sentence"]
        and found["fill"]["condenser_liquid"] < found["fault_free_fill"]["condenser_liquid"]
    )
    si = teacher.post("/bench", BENCH | {"units": "si"}).json
    assert si["readings"][0]["now"]["unit"] == "kPa"


def test_a_cut_out_on_the_bench_is_said_plainly_and_shows_no_reading(teacher):
    found = teacher.post(
        "/bench", BENCH | {"faults": [{"id": "dirty_condenser", "severity": 25}], "outdoor_db_f": 115}
    ).json
    assert re.fullmatch(r"trips on high pressure after about \d+ s", found["trip"]["sentence"])
    assert found["readings"] == [] and found["dials"] == []


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"machine": "toaster"}, "machine"),
        ({"outdoor_db_f": 400}, "outdoor_db_f"),
        ({"faults": [{"id": "undercharge", "severity": 3}]}, "undercharge level"),
        ({"faults": [{"id": "gremlins"}]}, "fault"),
        ({"faults": [{"id": "undercharge", "cause": "gremlins"}]}, "undercharge cause"),
        ({"box_f": 38}, "box_f"),
        ({"return_db_f": None}, "return_db_f"),
        ({"outdoor_db_f": 35}, "outdoor_db_f"),
        ({"machine": "walkin-cooler-r404a-txv"}, "box_f"),
        ({"machine": "water-cooled-5t-r407c-txv"}, "water_in_f"),
        ({"faults": [{"id": "undercharge"}, {"id": "undercharge"}]}, "fault"),
        ({"practice": "hearsay"}, "practice"),
        ({"units": "furlongs"}, "units"),
        ({"return_wb_f": 84}, "return_wb_f"),
        ({"extra": 1}, "extra"),
        ({"instruments": "spoon"}, "instruments"),
    ],
)
def test_bad_bench_input_names_the_field(teacher, change, field):
    reply = teacher.post("/bench", BENCH | change)
    assert reply.status_code == 422 and reply.json["error"]["field"] == field and reply.json["error"]["message"]


def test_any_number_of_faults_and_instrument_trouble_stand_on_the_bench_at_once(teacher):
    faults = [
        {"id": "undercharge", "severity": 80},
        {"id": "dirty_condenser", "severity": 60},
        {"id": "low_airflow", "cause": "belt"},
        {"id": "gauge_not_zeroed", "severity": 10},
    ]
    found, true = (teacher.post("/bench", BENCH | {"faults": rows}).json for rows in (faults, faults[:3]))
    suction = [next(r for r in f["readings"] if r["id"] == "suction_pressure")["now"]["value"] for f in (found, true)]
    assert suction[0] - suction[1] == pytest.approx(10, abs=1) and found["fill"] == true["fill"]
    judged = teacher.post("/prove", BENCH | {"faults": faults}).json["judged"]
    assert not judged["fair"] and "cannot be a call on paper" in judged["sentence"]


def test_a_box_answers_on_the_bench_with_glass_and_level(teacher):
    found = teacher.post("/bench", BOX | {"faults": [{"id": "undercharge", "severity": 42}]}).json
    assert "bubbles in the sight glass" in found["signs"][0] and found["fill"]["receiver"] == 0
    assert {f["id"] for f in found["figures"]} == {"evaporator_superheat", "evaporator_td", "ctoa"}


def test_a_gauge_far_below_zero_is_read_at_its_stop_and_still_answers(teacher):
    found = teacher.post(
        "/bench",
        {
            "machine": "reachin-r600a-capillary",
            "outdoor_db_f": 85,
            "box_f": 38,
            "units": "si",
            "faults": [{"id": "gauge_not_zeroed", "severity": -25}],
        },
    ).json
    suction = next(r for r in found["readings"] if r["id"] == "suction_pressure")
    assert suction["now"]["value"] == pytest.approx(-100, abs=2) and len(found["figures"]) == 4


def test_a_test_is_answered_for_the_machine_as_planted(teacher):
    asked = BENCH | {
        "faults": [{"id": "valve_overfeeding", "severity": 95, "cause": "stuck_open"}],
        "test": "bulb_chilled",
    }
    found = teacher.post("/bench/test", asked).json
    assert found["answer"] == "no response" and found["caution"] and found["minutes"] > 0
    wrong = teacher.post("/bench/test", asked | {"test": "tea_leaves"})
    assert wrong.status_code == 422 and wrong.json["error"]["field"] == "test"


def test_the_catalogue_carries_what_belongs_to_every_choice(teacher):
    found = teacher.get("/catalogue").json
    assert len(found["machines"]) == len(MACHINES) and all(m["weather"] and m["tests"] for m in found["machines"])
    hunting = next(f for f in found["faults"] if f["id"] == "valve_hunting")
    assert hunting["rig"][0].startswith("Plant: ") and hunting["hazard"] and hunting["causes"][0]["look"]
    assert all(s["reasons"] for s in found["practices"])


def test_a_changed_scenario_is_a_new_version_and_the_old_one_never_changes(app, teacher):
    made = teacher.post("/scenarios", SCENARIO).json
    changed = teacher.put(f"/scenarios/{made['id']}", SCENARIO | {"severity": 70}).json
    assert (made["version"], changed["version"], changed["body"]["faults"][0]["severity"]) == (1, 2, 70)
    with pytest.raises(Exception, match="never change"), database_of(app).transaction() as connection:
        connection.execute("update scenario_versions set body = '{}'")
    with database_of(app).transaction() as connection:
        rows = connection.execute(
            "select version, body, sha256, schema_version from scenario_versions order by version"
        ).fetchall()
    assert [r["body"]["faults"][0]["severity"] for r in rows] == [80, 70]
    assert rows[0]["sha256"] != rows[1]["sha256"] and rows[0]["schema_version"] == 3


def test_an_archived_scenario_leaves_the_list(teacher):
    made = teacher.post("/scenarios", SCENARIO).json
    assert teacher.delete(f"/scenarios/{made['id']}").json["scenarios"] == []
    assert teacher.get(f"/scenarios/{made['id']}").status_code == 404


def test_a_class_name_is_taken_once(teacher):
    body = {"name": "Firsts", "apprentices": ["A", "B"]}
    assert teacher.post("/classes", body).json["apprentices"] == ["A", "B"]
    again = teacher.post("/classes", body)
    assert again.status_code == 409 and "another name" in again.json["error"]["message"]
    assert teacher.post("/classes", {"name": "Empty", "apprentices": []}).json["size"] == 0
    assert teacher.post("/classes", body | {"term": "Spring"}).status_code == 201


def test_an_issued_sheet_is_ready_with_papers_and_documents(app, teacher, sheet):
    assert sheet["status"] == "ready" and sheet["done"] == sheet["total"] == 3 * (2 + 1)
    assert len(set(codes(teacher, sheet))) == 3
    calls = [frozen(app, code)[0] for code in codes(teacher, sheet)]
    assert len({str(c.readings) for c in calls}) == 3
    for kind, pages in (("packet", 12), ("key", 3)):
        reply = teacher.get(f"/sheets/{sheet['id']}/documents/{kind}")
        assert reply.mimetype == "application/pdf" and pdf_pages(reply.data) == pages


def test_an_issued_call_freezes_everything_marking_needs(app, teacher, sheet):
    call = frozen(app, codes(teacher, sheet)[0])[0]
    assert call.machine.circuit["charge_kg"] and call.practice["subcooling_tolerance_df"] == 3
    assert call.table_hash == sheet["table_hash"] and call.solver_version == sheet["solver_version"] and call.seed
    with pytest.raises(Exception, match="never change"), database_of(app).transaction() as connection:
        connection.execute("update paper_calls set body = '{}'")


def test_the_same_seed_draws_the_same_sheet(app, teacher, sheet):
    first = [c.readings for code in codes(teacher, sheet) for c in frozen(app, code)]
    rows = teacher.get("/scenarios").json["scenarios"]
    body = {
        "title": "Again",
        "class_id": teacher.get("/classes").json["classes"][0]["id"],
        "scenario_ids": [r["id"] for r in rows],
        "units": "us",
        "seed": 7,
    }
    made = teacher.post("/sheets", body).json
    build(app, made["id"])
    second = [c.readings for code in codes(teacher, made) for c in frozen(app, code)]
    assert [list(r.values()) for r in first] == [list(r.values()) for r in second]


def test_marking_follows_the_paper_through_and_keeps_the_raw_text(app, teacher, sheet):
    code = codes(teacher, sheet)[1]
    answers = perfect_answers(frozen(app, code)[0])
    off = str(round(float(answers["suction_saturation"]) + 1.6, 1))
    reply = teacher.put(
        f"/papers/{code.lower()}/answers",
        {
            "call": 1,
            "answers": answers
            | {
                "suction_saturation": f" {off} °F",
                "superheat": str(round(float(answers["superheat"]) - 1.6, 1)),
                "evaporator_td": str(round(float(answers["evaporator_td"]) - 1.6, 1)),
            },
        },
    ).json
    assert (reply["calls"][0]["earned"], reply["earned"], reply["possible"]) == (32, 32, 66)
    assert reply["calls"][0]["marks"][0]["text"].endswith(
        "instead of " + reply["calls"][0]["marks"][0]["text"].split()[-1]
    )
    again = teacher.get(f"/papers/{code}").json
    assert again["calls"][0]["questions"][0]["raw"] == f"{off} °F"
    assert again["calls"][0]["readings"][0]["label"] == "Suction pressure"
    with database_of(app).transaction() as connection:
        kept = connection.execute(
            "select raw, unit, source from answers where question_id = 'suction_saturation'"
        ).fetchone()
    assert kept == {"raw": f"{off} °F", "unit": "°F", "source": "paper"}


def test_typing_again_marks_again(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    answers = perfect_answers(frozen(app, code)[0])
    assert teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": answers | {"ctoa": ""}}).json["earned"] == 32
    assert teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": answers}).json["earned"] == 33


def test_results_and_csv_tell_the_class(app, teacher, sheet):
    for index, code in enumerate(codes(teacher, sheet)[:2]):
        for position, call in enumerate(frozen(app, code), 1):
            answers = perfect_answers(call) | ({"fault": ""} if index == 0 else {})
            teacher.put(f"/papers/{code}/answers", {"call": position, "answers": answers})
    found = teacher.get(f"/sheets/{sheet['id']}/results").json
    assert [(r["marked"], r["earned"], r["possible"]) for r in found["rows"]] == [
        (True, 54, 66),
        (True, 66, 66),
        (False, 0, 66),
    ]
    assert {(m["question"], m["missed"], m["of"]) for m in found["misses"]} == {("fault", 1, 2)}
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"/sheets/{sheet['id']}/marks.csv").text)))
    assert len(rows) == 3 * 2 * 20 and sum(int(r["earned"] or 0) for r in rows) == 120
    assert {r["reason"] for r in rows if r["question"] == "fault" and r["code"] == codes(teacher, sheet)[0]} == {
        "Left blank."
    }


def test_the_csv_runs_no_formula(teacher, app):
    made = teacher.post("/classes", {"name": "Tricky", "apprentices": ["=HYPERLINK(1)", "Minus Three"]})
    scenario_id = teacher.post("/scenarios", OTHER).json["id"]
    sheet = teacher.post("/sheets", {"title": "t", "class_id": made.json["id"], "scenario_ids": [scenario_id]}).json
    build(app, sheet["id"])
    rows = list(csv.DictReader(io.StringIO(teacher.get(f"/sheets/{sheet['id']}/marks.csv").text)))
    assert rows[0]["name"] == "'=HYPERLINK(1)" and rows[-1]["name"] == "Minus Three"


@pytest.mark.parametrize(
    ("code", "status", "word"),
    [
        ("AAAAAC", 422, "six characters"),
        ("%3F", 422, "six characters"),
        ("ACDEFV", 422, "six"),
        ("A" * 30, 422, "code"),
    ],
)
def test_an_impossible_code_is_named(teacher, code, status, word):
    reply = teacher.get(f"/papers/{code}")
    assert reply.status_code == status and word in reply.json["error"]["message"]


def test_an_unknown_question_or_call_is_refused_and_nothing_is_written(app, teacher, sheet):
    code = codes(teacher, sheet)[0]
    for body, field in (
        ({"call": 9, "answers": {}}, "call"),
        ({"call": 1, "answers": {"colour": "red"}}, "answers"),
        ({"call": 1, "answers": {"fault": "\x00"}}, "answers.fault"),
    ):
        reply = teacher.put(f"/papers/{code}/answers", body)
        assert reply.status_code == 422 and reply.json["error"]["field"] == field, reply.json
    with database_of(app).transaction() as connection:
        assert connection.execute("select count(*) as n from answers").fetchone()["n"] == 0


def test_a_scenario_without_a_fair_variant_fails_the_sheet_with_the_reason(app, teacher):
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada"]}).json["id"]
    faint = teacher.post("/scenarios", SCENARIO | {"severity": 99, "spread_depth_pct": 0}).json["id"]
    made = teacher.post("/sheets", {"title": "Faint", "class_id": class_id, "scenario_ids": [faint]}).json
    assert teacher.get(f"/sheets/{made['id']}/documents/packet").status_code == 409
    build(app, made["id"])
    found = teacher.get(f"/sheets/{made['id']}").json
    assert found["status"] == "failed" and "no variant with one defensible answer" in found["problem"]


def test_building_twice_changes_nothing(app, teacher, sheet):
    before = codes(teacher, sheet)
    build(app, sheet["id"])
    assert codes(teacher, sheet) == before


def test_a_build_cut_off_halfway_is_done_again_whole(app, teacher, sheet):
    class_id = teacher.get("/classes").json["classes"][0]["id"]
    ids = [r["id"] for r in teacher.get("/scenarios").json["scenarios"]]
    made = teacher.post("/sheets", {"title": "Cut", "class_id": class_id, "scenario_ids": ids}).json

    def cut(*_args):
        raise KeyboardInterrupt

    from wolfsbane.server.services import building

    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    with pytest.raises(KeyboardInterrupt):
        building.build(database_of(app), school_id, made["id"], {"packet": cut})
    build(app, made["id"])
    assert teacher.get(f"/sheets/{made['id']}").json["status"] == "ready" and len(codes(teacher, made)) == 3


def test_the_committed_api_description_and_client_types_are_current():
    from pathlib import Path

    web = Path(__file__).parents[2] / "web"
    assert json.loads((web / "openapi.json").read_text()) == json.loads(json.dumps(description())), "run make types"
    fresh = subprocess.run(
        ["node", "node_modules/openapi-typescript/bin/cli.js", "openapi.json"], cwd=web, capture_output=True, text=True
    )
    assert fresh.returncode == 0, fresh.stderr
    assert fresh.stdout.strip() == (web / "src/api/schema.d.ts").read_text().strip(), "run make types"


def test_a_database_that_is_down_is_said_and_comes_back(app, teacher, monkeypatch):
    from contextlib import contextmanager

    from wolfsbane.server.core.db.database import DatabaseDownError

    real = database_of(app).transaction

    @contextmanager
    def down():
        raise DatabaseDownError("the database does not answer; try again in a moment")
        yield

    monkeypatch.setattr(database_of(app), "transaction", down)
    assert teacher.get("/scenarios").status_code == 503
    monkeypatch.setattr(database_of(app), "transaction", real)
    assert teacher.get("/scenarios").status_code == 200


def test_unknown_addresses_answer_in_the_one_shape(app):
    client = Client(app, "teacher")
    reply = client.get("/nowhere")
    assert reply.status_code == 404 and reply.json["error"]["code"] == "not_found"
    assert client.call("DELETE", "/catalogue").status_code == 405


def pdf_pages(data):
    done = subprocess.run(["pdfinfo", "-"], input=data, capture_output=True)
    return int(re.search(rb"Pages:\s+(\d+)", done.stdout)[1])


def test_a_build_that_breaks_says_so_on_the_sheet_and_can_be_tried_again(app, teacher):
    from wolfsbane.server.services import building

    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada"]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO).json["id"]
    made = teacher.post("/sheets", {"title": "Breaks", "class_id": class_id, "scenario_ids": [scenario_id]}).json

    def broken(*_args):
        raise OSError("no paper")

    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    with pytest.raises(OSError, match="no paper"):
        building.build(database_of(app), school_id, made["id"], {"packet": broken})
    found = teacher.get(f"/sheets/{made['id']}").json
    assert found["status"] == "failed" and "tried again" in found["problem"] and "no paper" not in found["problem"]
    build(app, made["id"])
    assert teacher.get(f"/sheets/{made['id']}").json["status"] == "ready"


@pytest.mark.parametrize(
    ("content_type", "body", "status"),
    [
        ("application/json", "{broken", 422),
        ("text/plain", "{}", 415),
        ("application/json", "[1, 2]", 422),
        ("application/json", "", 422),
    ],
)
def test_a_body_that_is_no_json_object_is_refused_in_the_one_shape(teacher, content_type, body, status):
    reply = teacher._client.post(
        "/api/v1/bench", data=body, content_type=content_type, headers={"X-CSRF-Token": teacher.csrf}
    )
    assert reply.status_code == status and reply.json["error"]["message"], reply.data


def test_a_foreign_host_name_is_refused(teacher):
    reply = teacher._client.get("/api/v1/session", headers={"Host": "elsewhere.example"})
    assert reply.status_code == 400


def test_a_proof_names_equals_splits_and_difficulty_and_one_step_mends_it(teacher):
    asked = BENCH | {"faults": [{"id": "dirty_condenser", "severity": 55}, {"id": "undercharge", "severity": 76}]}
    found = teacher.post("/prove", asked).json
    assert not found["unique"] and found["splits"] and found["difficulty"]["reasons"]
    given = [s["id"] for s in found["splits"] if s["kind"] != "reading"]
    repaired = teacher.post("/prove", asked | {"given_tests": given}).json
    assert len(repaired["equals"]) < len(found["equals"])
    assert teacher.post("/prove", asked | {"given_tests": ["tarot"]}).json["error"]["field"] == "given.tests"
    assert teacher.post("/prove", BENCH | {"faults": [{"id": "undercharge", "severity": 99.5}]}).json["refusal"]


def test_readings_of_any_machine_are_ranked_with_reasons(teacher):
    asked = {
        "machine": {"refrigerant": "R-410A", "metering": "txv"},
        "conditions": {"outdoor_db_f": 90, "return_db_f": 77},
        "readings": {"superheat_df": 0, "subcooling_df": 3},
    }
    found = teacher.post("/diagnose", asked).json
    assert found["ranked"][0]["fault"] == "valve_overfeeding" and found["ranked"][0]["name"] == "TXV overfeeding"
    assert found["ranked"][0]["reasons"] and found["next_test"]
    bad = teacher.post("/diagnose", asked | {"readings": {"suction_psig": "low"}})
    assert bad.status_code == 422 and bad.json["error"]["field"] == "readings.suction_psig"


def test_readings_are_taken_as_they_stand_on_a_gauge(teacher):
    def ranked(readings, conditions):
        asked = {
            "machine": {"refrigerant": "R-410A", "metering": "txv"},
            "conditions": conditions,
            "readings": readings,
        }
        return teacher.post("/diagnose", asked)

    typed = ranked(
        {"suction_psig": "8.1 bar", "suction_line_f": "55°", "head_psig": "340 to 348", "liquid_line_f": "-"},
        {"outdoor_db_f": "32 °C", "return_db_f": "77 F"},
    ).json
    plain = ranked(
        {"suction_psig": 117.481, "suction_line_f": 55, "head_psig": [340, 348]},
        {"outdoor_db_f": 89.6, "return_db_f": 77},
    ).json
    assert typed["computed"]["superheat_df"] == pytest.approx(plain["computed"]["superheat_df"], abs=0.05)
    assert typed["ranked"][0]["fault"] == plain["ranked"][0]["fault"]
    bad = ranked({"suction_psig": "low"}, {}).json["error"]
    assert bad["field"] == "readings.suction_psig" and "8.1 bar" in bad["message"]


def test_a_two_fault_scenario_is_saved_opened_and_issued(teacher):
    body = {k: v for k, v in SCENARIO.items() if k not in ("fault", "severity")} | {
        "title": "Two at once",
        "faults": [{"id": "dirty_condenser", "severity": 55}, {"id": "undercharge", "severity": 76}],
        "given_tests": ["condenser_fan"],
        "history": "Set last year.",
    }
    made = teacher.post("/scenarios", body).json
    assert made["fault_name"] == "Dirty condenser and Low charge (undercharged)" and made["body"]["given_tests"] == [
        "condenser_fan"
    ]
    assert "76" in made["severity_text"] and "55" in made["severity_text"]
    bench_only = teacher.post("/scenarios", body | {"faults": [{"id": "thermometers_disagree", "severity": 5}]}).json
    class_id = teacher.post("/classes", {"name": "Seconds", "apprentices": ["Ada Quill"]}).json["id"]
    refused = teacher.post("/sheets", {"title": "x", "class_id": class_id, "scenario_ids": [bench_only["id"]]})
    assert not bench_only["on_paper"] and refused.status_code == 422 and "paper" in refused.json["error"]["message"]
