"""The library through its API: sharing, copies, versions, files, and what an issued sheet keeps."""

import json

import pytest

from tests.conftest import VALVE
from tests.server.conftest import OTHER, SCENARIO, Client, build
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries

COOLER = {
    "title": "Creeps up",
    "machine": "walkin-cooler-r404a-txv",
    "faults": [{"id": "undercharge", "severity": 48}],
    "outdoor_db_f": 95,
    "box_f": 40,
}


@pytest.fixture
def colleague(app):
    """A second instructor of the same school."""
    from tests.server.conftest import HASH

    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
        queries.user_add(
            connection, school_id=school_id, login="colleague", name="Colleague", role="instructor", password_hash=HASH
        )
    return Client(app, "colleague")


def test_a_scenario_is_its_makers_until_it_is_shared(teacher, colleague, stranger):
    made = teacher.post("/scenarios", SCENARIO).json
    assert made["mine"] and not made["shared"] and colleague.get("/scenarios").json["scenarios"] == []
    assert colleague.get(f"/scenarios/{made['id']}").status_code == 404
    assert teacher.put(f"/scenarios/{made['id']}/sharing", {"shared": True}).json["shared"]
    seen = colleague.get("/scenarios").json["scenarios"][0]
    assert seen["title"] == SCENARIO["title"] and seen["owner"] == "Teacher" and not seen["mine"]
    assert stranger.get(f"/scenarios/{made['id']}").status_code == 404
    for reply in (
        colleague.put(f"/scenarios/{made['id']}", SCENARIO),
        colleague.delete(f"/scenarios/{made['id']}"),
        colleague.put(f"/scenarios/{made['id']}/sharing", {"shared": False}),
    ):
        assert reply.status_code == 409 and "duplicate" in reply.json["error"]["message"]
    copy = colleague.post(f"/scenarios/{made['id']}/copy", {}).json
    assert copy["mine"] and copy["title"].endswith("(copy)") and copy["body"]["faults"] == made["body"]["faults"]


def test_a_private_scenario_of_a_colleague_is_on_nobody_elses_sheet(teacher, colleague):
    made = teacher.post("/scenarios", SCENARIO).json
    class_id = colleague.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    reply = colleague.post("/sheets", {"title": "x", "class_id": class_id, "scenario_ids": [made["id"]]})
    assert reply.status_code == 422 and reply.json["error"]["field"] == "scenario_ids"


def test_versions_say_what_changed_and_an_old_one_comes_back(teacher):
    made = teacher.post("/scenarios", SCENARIO).json
    teacher.put(f"/scenarios/{made['id']}", SCENARIO | {"severity": 70, "tags": ["Hot Days", "hot  days"]})
    teacher.put(f"/scenarios/{made['id']}", SCENARIO | {"severity": 70, "outdoor_db_f": 99})
    rows = teacher.get(f"/scenarios/{made['id']}/versions").json["versions"]
    assert [r["version"] for r in rows] == [3, 2, 1] and rows[2]["changes"] == ["First version"]
    assert (
        rows[1]["changes"] == ["Low charge (undercharged) 80 → 70 %", "Tag: hot days"]
        and "Outdoors 93 °F → 99 °F" in rows[0]["changes"]
    )
    again = teacher.post(f"/scenarios/{made['id']}/versions/1/again", {}).json
    assert again["version"] == 4 and again["body"]["faults"][0]["severity"] == 80
    assert teacher.post(f"/scenarios/{made['id']}/versions/9/again", {}).status_code == 404


def test_nothing_under_an_issued_sheet_changes(app, teacher, sheet):
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]

    def frozen():
        with database_of(app).transaction() as connection:
            paper = connection.execute("select id from papers where code = %s", (code,)).fetchone()
            return [
                call_from_json(r["body"]).to_json() for r in queries.paper_call_list(connection, paper_id=paper["id"])
            ]

    before = frozen()
    scenario_id = next(s["id"] for s in teacher.get("/scenarios").json["scenarios"] if s["title"] == SCENARIO["title"])
    teacher.put(f"/scenarios/{scenario_id}", SCENARIO | {"severity": 65, "complaint": "Changed."})
    teacher.delete(f"/scenarios/{scenario_id}")
    build(app, sheet["id"])
    assert frozen() == before
    rows = teacher.post(f"/scenarios/{scenario_id}/restore", {}).json
    assert rows["sheets"] == 1
    versions = teacher.get(f"/scenarios/{scenario_id}/versions").json["versions"]
    assert [v["sheets"] for v in versions] == [0, 1]


def test_archived_scenarios_stand_apart_and_come_back(teacher):
    made = teacher.post("/scenarios", SCENARIO).json
    teacher.delete(f"/scenarios/{made['id']}")
    assert teacher.get("/scenarios").json["scenarios"] == []
    assert [r["id"] for r in teacher.get("/scenarios?archived=true").json["scenarios"]] == [made["id"]]
    assert teacher.delete(f"/scenarios/{made['id']}").status_code == 404
    teacher.post(f"/scenarios/{made['id']}/restore", {})
    assert len(teacher.get("/scenarios").json["scenarios"]) == 1


def test_the_proof_stands_beside_a_scenario(teacher):
    plain, fault_free = (
        teacher.post("/scenarios", OTHER).json,
        teacher.post("/scenarios", SCENARIO | {"fault": "none", "severity": None}).json,
    )
    assert (
        plain["one_answer"]
        and 1 <= plain["level"] <= 5
        and plain["proof"].startswith("One answer among all single faults and pairs")
    )
    assert fault_free["fault_name"] == "Nothing wrong"
    alike = teacher.post("/scenarios", SCENARIO | {"fault": "dirty_condenser", "severity": 60}).json
    assert alike["one_answer"] is False and "Condenser fan slow" in alike["proof"]
    tripped = teacher.post(
        "/scenarios", SCENARIO | {"fault": "dirty_condenser", "severity": 25, "outdoor_db_f": 115}
    ).json
    assert tripped["level"] is None and "trips on high pressure" in tripped["proof"]


def test_what_is_imported_is_proved_afterwards(teacher, stranger):
    body = teacher.post("/scenarios", OTHER).json["body"]
    made = stranger.post("/scenarios/import", {"scenarios": [body]}).json["added"][0]
    assert (made["proof"], made["level"], made["one_answer"]) == ("", None, None)
    proved = stranger.put(f"/scenarios/{made['id']}/proof", {}).json
    assert (
        proved["one_answer"]
        and proved["level"]
        and stranger.get("/scenarios").json["scenarios"][0]["level"] == proved["level"]
    )
    assert teacher.put(f"/scenarios/{made['id']}/proof", {}).status_code == 404


def test_a_box_is_kept_and_can_be_printed_but_no_fault_of_the_bench(teacher):
    made = teacher.post("/scenarios", COOLER).json
    assert made["body"]["box_f"] == 40 and made["body"]["return_db_f"] is None and made["on_paper"] and made["level"]
    made = teacher.post("/scenarios", COOLER | {"faults": [{"id": "valve_hunting", "severity": 15}]}).json
    assert not made["on_paper"]
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    reply = teacher.post("/sheets", {"title": "x", "class_id": class_id, "scenario_ids": [made["id"]]})
    assert reply.status_code == 422 and "paper" in reply.json["error"]["message"]


def test_files_go_out_and_come_in_the_same(teacher, stranger):
    ids = [teacher.post("/scenarios", body).json["id"] for body in (SCENARIO | {"tags": ["charge"]}, COOLER)]
    one = teacher.get(f"/scenarios/files?ids={ids[0]}")
    assert "runs-all-afternoon.scenario.json" in one.headers["Content-Disposition"]
    both = teacher.get(f"/scenarios/files?ids={ids[0]},{ids[1]}").json
    reply = stranger.post("/scenarios/import", {"scenarios": both["scenarios"]}).json
    assert (
        reply["refused"] == []
        and [r["body"] for r in reply["added"]] == both["scenarios"]
        and reply["added"][0]["body"] == json.loads(one.data)
    )


@pytest.mark.parametrize(
    "data",
    [
        {},
        {"title": "x"},
        {"title": "x", "machine": ["a"], "faults": [], "outdoor_db_f": 90},
        {"title": "x", "machine": VALVE, "faults": {}, "outdoor_db_f": 90},
        {"title": "x", "machine": VALVE, "faults": [3], "outdoor_db_f": 90},
        {"title": ["x"], "machine": VALVE, "faults": [], "outdoor_db_f": "hot"},
        {
            "title": "x",
            "machine": VALVE,
            "faults": [],
            "outdoor_db_f": 90,
            "return_db_f": 80,
            "return_wb_f": 67,
            "own_school": {"id": "own-x"},
        },
        {
            "title": "x",
            "machine": VALVE,
            "faults": [],
            "outdoor_db_f": 90,
            "return_db_f": 80,
            "return_wb_f": 67,
            "practice": {"a": 1},
        },
        {
            "title": "x",
            "machine": VALVE,
            "faults": [],
            "outdoor_db_f": 90,
            "return_db_f": 80,
            "return_wb_f": 67,
            "tags": [["a"]],
        },
        {
            "title": "x",
            "machine": VALVE,
            "faults": [{"id": ["undercharge"], "severity": 80}],
            "outdoor_db_f": 90,
            "return_db_f": 80,
            "return_wb_f": 67,
        },
        {
            "title": "x",
            "machine": VALVE,
            "faults": [],
            "outdoor_db_f": 90,
            "return_db_f": 80,
            "return_wb_f": 67,
            "given_tests": [{}],
        },
        {"title": "x", "machine": "own-ghost", "faults": [], "outdoor_db_f": 90},
        {"schema": 99, "title": "x"},
    ],
)
def test_what_cannot_be_read_is_named_and_the_rest_comes_in(teacher, data):
    good = {"title": "Good", "machine": VALVE, "faults": [], "outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67}
    reply = teacher.post("/scenarios/import", {"scenarios": [data, good]})
    assert reply.status_code == 200, reply.json
    assert [r["title"] for r in reply.json["added"]] == ["Good"]
    assert reply.json["refused"][0]["position"] == 1 and reply.json["refused"][0]["message"]


def test_an_imported_scenario_brings_its_own_machine_and_school(teacher, stranger):
    teacher.post(
        "/machines",
        {
            "name": "Yard split",
            "refrigerant": "R-410A",
            "metering": "txv",
            "capacity_btuh": 30000,
            "ctoa_df": 16,
            "subcooling_df": 9,
        },
    )
    machine_id = teacher.get("/machines").json["machines"][0]["id"]
    teacher.post("/practices", {"base": "chart", "name": "Ours", "changes": {"subcooling_tolerance_df": 5}})
    made = teacher.post("/scenarios", {**SCENARIO, "machine": machine_id, "practice": "own-ours"}).json
    body = teacher.get(f"/scenarios/files?ids={made['id']}").json
    reply = stranger.post("/scenarios/import", {"scenarios": [body]}).json
    assert reply["refused"] == [] and reply["added"][0]["machine_name"] == "Yard split"
    catalog = stranger.get("/catalogue").json
    assert machine_id in {m["id"] for m in catalog["machines"]} and "own-ours" in {
        s["id"] for s in catalog["practices"]
    }
    assert stranger.get("/machines").json["machines"][0]["tuned"]["verdict"]


def test_a_school_of_ones_own_is_kept_changed_used_and_forgotten(app, teacher, stranger):
    kept = teacher.post(
        "/practices", {"base": "plate_and_formula", "name": "Wide plate", "changes": {"subcooling_tolerance_df": 6}}
    ).json
    assert [s["id"] for s in kept["practices"] if s["own"]] == ["own-wide-plate"]
    bench = {"machine": VALVE, "outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67, "practice": "own-wide-plate"}
    band = next(f for f in teacher.post("/bench", bench).json["figures"] if f["id"] == "subcooling")
    assert (band["band_low"], band["band_high"]) == (4, 16)
    teacher.post(
        "/practices",
        {"base": "own-wide-plate", "name": "Wide plate", "changes": {"subcooling_tolerance_df": 2.2}, "units": "si"},
    )
    band = next(f for f in teacher.post("/bench", bench).json["figures"] if f["id"] == "subcooling")
    assert band["band_high"] == 14
    assert stranger.post("/bench", bench).status_code == 422
    made = teacher.post("/scenarios", {**SCENARIO, "practice": "own-wide-plate"}).json
    teacher.delete("/practices/own-wide-plate")
    assert teacher.delete("/practices/own-wide-plate").status_code == 404
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    sheet = teacher.post("/sheets", {"title": "Wide", "class_id": class_id, "scenario_ids": [made["id"]]}).json
    build(app, sheet["id"])
    assert teacher.get(f"/sheets/{sheet['id']}").json["status"] == "ready"


@pytest.mark.parametrize(
    ("change", "field"),
    [({"name": "—"}, "name"), ({"base": "hearsay"}, "practice"), ({"changes": {"ctoa_df": 3}}, "ctoa_df")],
)
def test_a_bad_school_names_its_field(teacher, change, field):
    reply = teacher.post("/practices", {"base": "chart", "name": "Ours", **change})
    assert reply.status_code == 422 and reply.json["error"]["field"] == field


def test_a_call_prints_the_reading_that_was_added(app, teacher):
    usual = [
        "suction_pressure",
        "head_pressure",
        "suction_line",
        "liquid_line",
        "return_db",
        "return_wb",
        "outdoor_db",
        "condenser_bend",
    ]
    made = teacher.post("/scenarios", SCENARIO | {"given_readings": usual}).json
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill"]}).json["id"]
    sheet = teacher.post("/sheets", {"title": "Bend", "class_id": class_id, "scenario_ids": [made["id"]]}).json
    build(app, sheet["id"])
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    readings = {r["label"]: r["text"] for r in teacher.get(f"/papers/{code}").json["calls"][0]["readings"]}
    assert "°F" in readings["Condenser, return bend halfway"] and "Supply air, dry bulb" not in readings


def test_saving_without_a_change_makes_no_version(teacher):
    made = teacher.post("/scenarios", SCENARIO | {"title": "Saved twice"}).json
    again = teacher.put(f"/scenarios/{made['id']}", SCENARIO | {"title": "Saved twice"}).json
    changed = teacher.put(f"/scenarios/{made['id']}", SCENARIO | {"title": "Saved and changed"}).json
    assert [made["version"], again["version"], changed["version"]] == [1, 1, 2]
