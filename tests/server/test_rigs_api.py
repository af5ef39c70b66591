"""Rigs over the API and their logger: entered, read, gaps marked, calibrated, planted, measured, frozen."""

import io
import json
import random
import zipfile
from datetime import UTC, datetime, timedelta

import pytest

from tests.conftest import VALVE, planned
from tests.server.rig_stand_in import Lab
from wolfsbane.exercise.draw.rig import rig_call
from wolfsbane.rig.registers import written
from wolfsbane.rig.rig import RIG
from wolfsbane.server.core.db.database import DatabaseDownError
from wolfsbane.server.rigs.simulated import usual_rig
from wolfsbane.server.services.rig_cards import on_own_rigs


@pytest.fixture
def lab(monkeypatch, app, db):
    return Lab(monkeypatch, db)


def row(teacher, rig_id):
    return teacher.get(f"/rigs/{rig_id}").json["row"]


def counted(db, rig_id):
    with db.transaction() as connection:
        found = connection.execute("select count(*) as n from rig_samples where rig_id = %s", (rig_id,)).fetchone()
    return found["n"]


def test_a_rig_is_entered_changed_and_put_away(teacher, stranger, lab):
    made = teacher.post("/rigs", {"rig": {"schema": 1, "name": "Rig A", "machine": "split-3t-r410a-txv"}})
    rig_id = made.json["row"]["id"]
    assert made.status_code == 201 and made.json["row"]["state"] == "new" and not made.json["row"]["logged"]
    rig = {**made.json["rig"], "place": "Bay 4", "limits": {"head_psig": 420}}
    assert teacher.put(f"/rigs/{rig_id}", {"rig": rig}).json["row"]["place"] == "Bay 4"
    assert teacher.post("/rigs", {"rig": rig}).status_code == 409
    for call in (stranger.get(f"/rigs/{rig_id}"), stranger.put(f"/rigs/{rig_id}", {"rig": rig})):
        assert call.status_code == 404
    assert stranger.get("/rigs").json["rigs"] == []
    assert teacher.delete(f"/rigs/{rig_id}").json["rigs"] == []
    assert teacher.get("/rigs").json["rigs"] == []
    assert teacher.post("/rigs", {"rig": rig}).status_code == 201, "its name is free again"


@pytest.mark.parametrize(
    ("changed", "field"),
    [
        ({"machine": "own-nobody"}, "machine"),
        ({"address": "somewhere"}, None),
        ({"address": "host:99999"}, "address"),
        ({"channels": [{"point": "head_pressure", "register": 1, "unit": "°F"}]}, "channels.1.unit"),
    ],
)
def test_a_wrong_rig_is_refused_with_its_field(teacher, changed, field):
    body = {"rig": {"schema": 1, "name": "Rig A", "machine": "split-3t-r410a-txv", **changed}}
    reply = teacher.post("/rigs", body)
    if field is None:
        assert reply.status_code == 201, "a name alone is a host on the usual port"
        return
    assert reply.status_code == 422 and reply.json["error"]["field"] == field, reply.json


def test_its_map_goes_out_and_comes_back(teacher, lab):
    rig_id = lab.add(teacher)
    full = teacher.get(f"/rigs/{rig_id}").json
    assert full["map"] == written(usual_rig("Rig 1", "split-3t-r410a-txv", 5020))
    moved = full["map"].replace("head_pressure,input,2,", "head_pressure,input,40,")
    changed = teacher.put(f"/rigs/{rig_id}/map", {"text": moved}).json["rig"]
    assert next(c for c in changed["channels"] if c["point"] == "head_pressure")["register"] == 40
    wrong = teacher.put(f"/rigs/{rig_id}/map", {"text": moved.replace("psig", "°F", 1)})
    assert wrong.status_code == 422 and "psig, kPa, bar" in wrong.json["error"]["message"]


def test_the_logger_stores_what_it_reads_and_says_what_it_says(teacher, lab, db):
    rig_id = lab.add(teacher)
    assert row(teacher, rig_id)["state"] == "new"
    lab.tick(2)
    found = row(teacher, rig_id)
    assert found["state"] == "answers" and found["settled_min"] == 0 and "five minutes" in found["why"][0]
    assert {r["point"]: r["unit"] for r in found["readings"]}["suction_pressure"] == "psig"
    assert 60 < next(r["value"] for r in found["readings"] if r["point"] == "suction_pressure") < 200
    lab.tick(6)
    assert row(teacher, rig_id)["settled_min"] >= 5 and counted(db, rig_id) == 48
    si = teacher.get(f"/rigs/{rig_id}?units=si").json["row"]["readings"][0]
    assert si["unit"] == "kPa" and si["value"] > 400


def test_a_rig_that_falls_silent_leaves_a_gap_and_nothing_is_made_up(teacher, lab, db):
    rig_id = lab.add(teacher)
    lab.tick(2)
    before = counted(db, rig_id)
    lab.silent.add("127.0.0.1:5020")
    lab.tick(3)
    found = row(teacher, rig_id)
    assert found["state"] == "silent" and "nobody answers" in found["told"] and found["readings"][0]["value"] is None
    assert counted(db, rig_id) == before
    lab.silent.clear()
    lab.tick(1)
    (gap,) = [e for e in teacher.get(f"/rigs/{rig_id}").json["events"] if e["kind"] == "gap"]
    assert "nobody answers" in gap["text"]
    lost = datetime.fromisoformat(gap["end"]) - datetime.fromisoformat(gap["begin"])
    assert timedelta(minutes=3) <= lost <= timedelta(minutes=3, seconds=20)


def test_a_killed_logger_is_a_gap_too(teacher, lab):
    rig_id = lab.add(teacher)
    lab.tick(1)
    lab.now += timedelta(minutes=4)
    lab.restart()
    lab.tick(1)
    (gap,) = [e for e in teacher.get(f"/rigs/{rig_id}").json["events"] if e["kind"] == "gap"]
    assert "the logger was not running" in gap["text"]


def test_while_the_database_is_away_samples_wait_and_none_is_lost(teacher, lab, db, monkeypatch):
    rig_id = lab.add(teacher)
    lab.tick(1)
    before = counted(db, rig_id)

    def away():
        raise DatabaseDownError("the database does not answer")

    with monkeypatch.context() as down:
        down.setattr(lab.logger._db, "transaction", away)
        lab.tick(3)
    assert counted(db, rig_id) == before
    lab.tick(1)
    assert counted(db, rig_id) == before + 4 * 6 and lab.logger.lost == 0
    assert not [e for e in teacher.get(f"/rigs/{rig_id}").json["events"] if e["kind"] == "gap"]


def test_a_clock_that_goes_back_stands_apart(teacher, lab):
    rig_id = lab.add(teacher)
    lab.tick(7)
    assert row(teacher, rig_id)["settled_min"] > 0
    lab.rigs["127.0.0.1:5020"].seconds = 0.0
    lab.tick(1)
    found = teacher.get(f"/rigs/{rig_id}").json
    assert found["row"]["settled_min"] == 0 and any("clock went back" in e["text"] for e in found["events"])


@pytest.mark.parametrize(
    ("shift", "said"),
    [
        ({"suction_pressure": 2.4e6, "head_pressure": 8.0e5}, "exchanged in the map"),
        ({"outdoor_db": 255.4 + 77}, "is its channel in °C"),
        (
            {
                p: None
                for p in ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "supply_db", "return_rh")
            },
            "register map",
        ),
        ({"head_pressure": 2.0e5, "suction_pressure": 1.2e5}, "in bar or in kPa"),
        ({"discharge_line": 300.0, "liquid_line": 330.0}, "clamps are exchanged"),
    ],
)
def test_a_rig_that_answers_nonsense_is_told_once_and_clearly(teacher, lab, shift, said):
    rig_id = lab.add(teacher)
    lab.shift["127.0.0.1:5020"] = shift
    lab.tick(1)
    found = row(teacher, rig_id)
    assert found["state"] == "wrong" and said in found["told"]


def test_a_dead_channel_is_named(teacher, lab):
    rig_id = lab.add(teacher, dead="supply_db")
    lab.tick(6)
    assert row(teacher, rig_id)["doubts"] == ["Supply air, dry bulb: no reading."]


def calibrated(teacher, lab):
    rig_id = lab.add(teacher)
    lab.tick(150, every_s=15.0)
    made = teacher.post(f"/rigs/{rig_id}/baselines", {"minutes": 600})
    assert made.status_code == 201, made.json
    return rig_id, made.json


def catch_up(lab):
    """The tests' clock at the present, so that what looks at the last minutes finds them."""
    moved = datetime.now(UTC) - lab.now
    with lab.db.transaction() as connection:
        connection.execute("update rig_samples set at = at + %s", (moved,))
        connection.execute("update rig_events set at = at + %s where kind in ('gap', 'clock')", (moved,))
    lab.now += moved
    for rig in lab.logger._rigs.values():
        rig.last_at = rig.last_at + moved


def test_from_baseline_to_a_frozen_plant(teacher, lab):
    rig_id, full = calibrated(teacher, lab)
    (baseline,) = full["baselines"]
    assert baseline["points"] >= 4 and not baseline["old"]
    assert {f["id"] for f in baseline["factors"]} >= {"charge", "compressor", "evaporator_air"}
    for met in baseline["met"]:
        most = {"psig": 5.0, "°F": 1.5, "A": 0.5}[met["unit"]]
        assert abs(met["fitted"]) <= abs(met["profile"]) + 0.3 and met["fitted_worst"] <= 2 * most
    lab.tick(1)
    live = teacher.get(f"/rigs/{rig_id}/live").json
    assert len(live["dials"]) == 2 and {r["healthy"] is not None for r in live["rig"]["figures"]} == {True}

    told = teacher.post(f"/rigs/{rig_id}/settings", {"device": "indoor_fan"})
    assert told.status_code == 422 and "alone set" in told.json["error"]["message"]
    teacher.put(f"/rigs/{rig_id}/devices/indoor_fan", {"position": 36})
    running = lab.rigs["127.0.0.1:5020"]
    assert running.positions["indoor_fan"] == 36, "set over the line"
    (standing,) = row(teacher, rig_id)["standing"]
    assert standing["name"] == "Indoor fan on a speed control" and standing["fault_name"] == ""
    lab.tick(3)
    catch_up(lab)
    early = teacher.post(f"/rigs/{rig_id}/settings", {"device": "indoor_fan"})
    assert early.status_code == 422 and "stands still" in early.json["error"]["message"]
    lab.tick(26)
    catch_up(lab)
    measured = teacher.post(f"/rigs/{rig_id}/settings", {"device": "indoor_fan"})
    assert measured.status_code == 201, measured.json
    (setting,) = next(d for d in measured.json["devices"] if d["id"] == "indoor_fan")["settings"]
    (truth,) = running.faults()
    assert setting["fault"] == truth.id == "low_airflow"
    assert abs(setting["severity"] - truth.severity) <= 0.10 * (100 - truth.severity) + 0.5
    refused = teacher.post(f"/rigs/{rig_id}/baselines", {"minutes": 60})
    assert refused.status_code == 422 and "undo it first" in refused.json["error"]["message"]

    lab.tick(1)
    frozen = teacher.get(f"/rigs/{rig_id}/frozen").json
    assert frozen["minutes"] >= 4 and frozen["astray"] == [] and frozen["answer"]
    assert 60 < frozen["readings"]["suction_pressure"] < 150 and "return_wb" in frozen["readings"]
    plan = teacher.get(f"/rigs/{rig_id}/plan?device=indoor_fan&fault=low_airflow&severity=80").json
    assert 15 < plan["position"] < 30 and plan["undo"] and any(e["point"] == "superheat" for e in plan["expected"])
    beyond = teacher.get(f"/rigs/{rig_id}/plan?device=indoor_fan&fault=low_airflow&severity=40")
    assert beyond.status_code == 422 and "as far as it was measured" in beyond.json["error"]["message"]
    call = rig_call(planned("low_airflow", 80), "us", random.Random(1))
    with lab.db.transaction() as connection:
        school_id = connection.execute("select school_id from rigs where id = %s", (rig_id,)).fetchone()["school_id"]
        (card,) = on_own_rigs(connection, school_id, call)
        other = rig_call(planned("dirty_condenser", 60), "us", random.Random(1))
        (unmeasured,) = on_own_rigs(connection, school_id, other)
    (way,) = [w for w in card["ways"] if w.startswith("Indoor fan on a speed control")]
    assert f": {plan['position']:.0f} ± " in way and card["rig"].startswith("Rig 1")
    profile = float(call.key.rig.predicted["suction_pressure"].split()[0])
    own = float(card["predicted"]["suction_pressure"].split()[0])
    assert 0.5 < abs(own - profile) < 15, "this rig is not its profile"
    assert any("never measured" in w for w in unmeasured["ways"])
    today = teacher.get("/today").json["rigs"]
    assert today == [{"id": rig_id, "name": "Rig 1", "why": "1 set, not undone"}]

    undone = teacher.post(f"/rigs/{rig_id}/undo", {"signed": "Teacher"}).json
    assert undone["row"]["standing"] == [] and running.positions["indoor_fan"] == 0.0
    assert any("undone, signed Teacher" in e["text"] for e in undone["events"])
    assert teacher.get("/today").json["rigs"] == []

    assert undone["row"]["held"] == "waiting for its readings"
    next_one = teacher.put(f"/rigs/{rig_id}/devices/condenser_board", {"position": 20})
    assert next_one.status_code == 409 and next_one.json["error"]["code"] == "rig_held", "not seen back yet"
    running.positions["indoor_fan"] = 30.0
    lab.tick(30)
    left = row(teacher, rig_id)["held"]
    assert "than predicted" in left and "psi" in left, "somebody forgot to turn the fan back"
    running.positions["indoor_fan"] = 0.0
    lab.tick(30)
    seen = row(teacher, rig_id)
    assert seen["held"] == "" and seen["undone_seen"].startswith("within ") and seen["undone_by"] == "Teacher"
    assert teacher.put(f"/rigs/{rig_id}/devices/condenser_board", {"position": 20}).status_code == 200
    teacher.post(f"/rigs/{rig_id}/undo", {"signed": "Teacher"})
    assert row(teacher, rig_id)["held"]
    assert teacher.post(f"/rigs/{rig_id}/release", {"reason": " "}).status_code == 422
    released = teacher.post(f"/rigs/{rig_id}/release", {"reason": "the weather turned"}).json
    assert released["row"]["held"] == "" and any("the weather turned" in e["text"] for e in released["events"])


def test_a_rig_that_does_not_answer_is_set_by_hand(teacher, lab):
    rig_id = lab.add(teacher)
    lab.silent.add("127.0.0.1:5020")
    reply = teacher.put(f"/rigs/{rig_id}/devices/bypass", {"position": 1})
    assert reply.status_code == 503 and "Set it by hand" in reply.json["error"]["message"]
    assert row(teacher, rig_id)["standing"] == []
    for position, status in ((9, 422), (-1, 422)):
        assert teacher.put(f"/rigs/{rig_id}/devices/bypass", {"position": position}).status_code == status
    assert teacher.put(f"/rigs/{rig_id}/devices/crowbar", {"position": 1}).status_code == 422


def test_whoever_was_away_asks_from_where_they_were(teacher, lab):
    rig_id = lab.add(teacher)
    lab.now = datetime.now(UTC) - timedelta(minutes=4)
    lab.tick(2)
    first = teacher.get(f"/rigs/{rig_id}/live").json["samples"]
    lab.tick(1)
    after = first[-1]["at"].replace("+", "%2B")
    more = teacher.get(f"/rigs/{rig_id}/live?after={after}").json["samples"]
    assert len(first) == 12 and len(more) == 6 and more[0]["at"] > first[-1]["at"]
    assert teacher.get(f"/rigs/{rig_id}/live?after=yesterday").status_code == 422


def test_another_logger_sends_samples_with_the_rig_s_token(teacher, nobody, lab, db):
    rig_id = lab.add(teacher)
    at = (datetime.now(UTC) - timedelta(minutes=1)).isoformat()
    body = {"samples": [{"at": at, "values": {"suction_pressure": 118.0, "suction_line": 54.5, "supply_db": None}}]}
    path = f"/api/v1/rigs/{rig_id}/samples"

    def push(token, body=body):
        return nobody._client.post(path, json=body, headers={"X-Rig-Token": token})

    assert push("guess").status_code == 401
    token = teacher.post(f"/rigs/{rig_id}/token", {}).json["token"]
    assert push(token).json == {"stored": 1} and push(token).status_code == 201
    assert counted(db, rig_id) == 1, "the same moment twice is one sample"
    ahead = {"samples": [{"at": (datetime.now(UTC) + timedelta(hours=7)).isoformat(), "values": {}}]}
    assert push(token, ahead).status_code == 422 and "clock is wrong" in push(token, ahead).json["error"]["message"]
    strange = {"samples": [{"at": at, "values": {"oil_level": 3}}]}
    assert push(token, strange).json["error"]["field"] == "samples 1, values"
    teacher.post(f"/rigs/{rig_id}/token", {})
    assert push(token).status_code == 401, "a new token puts an end to the old one"


COMMAS = (
    "Zeit;Suction press [bar];Head press [bar];Suction line [°C];Ambient [°C]\n"
    "30.11.2026 09:00:00;8,12;24,31;12,4;31,0\n"
    "30.11.2026 09:00:01;8,13;24,30;n/a;31,0\n"
    "yesterday;8,1;24,3;12,4;31,0\n"
)


def test_a_logger_s_file_with_decimal_commas_is_matched_stored_and_remembered(teacher, lab, db):
    rig_id = lab.add(teacher)
    read = teacher.post(f"/rigs/{rig_id}/file", {"text": COMMAS})
    assert read.status_code == 422 and read.json["error"]["field"] == "time column", "Zeit is no word it knows"
    columns = {
        "time": {"point": "Zeit", "unit": ""},
        "Suction press [bar]": {"point": "suction_pressure", "unit": "bar"},
        "Suction line [°C]": {"point": "suction_line", "unit": "°C"},
    }
    seen = teacher.post(f"/rigs/{rig_id}/file", {"text": COMMAS, "columns": columns, "zone": "Europe/Berlin"}).json
    assert seen["rows"] == 2 and seen["first"].startswith("2026-11-30T09:00:00+01:00") and not seen["stored"]
    assert seen["left_out"] == ["line 3, Suction line [°C]: “n/a” is no number", "line 4: “yesterday” is no time"]
    assert counted(db, rig_id) == 0
    body = {"text": COMMAS, "columns": columns, "zone": "Europe/Berlin", "confirmed": True}
    assert teacher.post(f"/rigs/{rig_id}/file", body).json["stored"] and counted(db, rig_id) == 2
    again = teacher.post(f"/rigs/{rig_id}/file", {"text": COMMAS, "zone": "Europe/Berlin"}).json
    assert again["columns"] == columns, "remembered for this rig"
    begin, end = "2026-11-30T00:00:00%2B00:00", "2026-12-01T00:00:00%2B00:00"
    out = teacher.get(f"/rigs/{rig_id}/samples.csv?units=us&begin={begin}&end={end}").text.splitlines()
    assert "Suction pressure [psig]" in out[0] and out[1].startswith("2026-11-30T08:00:00.000Z")
    assert "117.77" in out[1], "8.12 bar in psi"


def test_heads_are_guessed_and_wrong_units_refused(teacher, lab):
    rig_id = lab.add(teacher)
    text = "timestamp,Suction Pressure (psig),Liquid line °F,Outdoor °F\n2026-11-30T09:00:00Z,118.2,95.1,93\n"
    seen = teacher.post(f"/rigs/{rig_id}/file", {"text": text}).json
    assert seen["rows"] == 1 and {c["point"] for c in seen["columns"].values()} >= {
        "suction_pressure",
        "liquid_line",
        "outdoor_db",
    }
    wrong = {**seen["columns"], "Liquid line °F": {"point": "liquid_line", "unit": "psig"}}
    reply = teacher.post(f"/rigs/{rig_id}/file", {"text": text, "columns": wrong})
    assert reply.status_code == 422 and "°F, °C, K" in reply.json["error"]["message"]
    assert teacher.post(f"/rigs/{rig_id}/file", {"text": "", "columns": {}}).status_code == 422


def test_old_samples_become_minute_means(teacher, lab, db):
    rig_id = lab.add(teacher)
    lab.tick(3)
    before = counted(db, rig_id)
    with db.transaction() as connection:
        connection.execute("update rig_samples set at = at - interval '150 days'")
    lab.tick(61, every_s=20.0)
    with db.transaction() as connection:
        rows = connection.execute("select samples, mean, scatter from rig_minutes order by at").fetchall()
    assert counted(db, rig_id) == 61 * 3 and sum(r["samples"] for r in rows) == before
    assert all(400_000 < r["mean"][0] < 1_500_000 for r in rows)
    assert all((r["scatter"][0] > 0) == (r["samples"] > 1) for r in rows)


def test_a_rig_travels_with_its_school_and_its_token_does_not(teacher, lab):
    rig_id = lab.add(teacher)
    teacher.post(f"/rigs/{rig_id}/token", {})
    with zipfile.ZipFile(io.BytesIO(teacher.get("/school/export.zip").data)) as archive:
        (line,) = archive.read("rigs.jsonl").decode().splitlines()
    stored = json.loads(line)
    assert RIG.read(stored["body"]).name == "Rig 1" and "token_hash" not in stored


def test_a_paper_is_marked_against_what_the_rig_showed_when_its_apprentice_was_there(teacher, helper, mixed, lab, db):
    rig_id = lab.add(teacher, machine=VALVE, seed=4)
    running = lab.rigs["127.0.0.1:5020"]
    running.set("condenser_board", 42.0)
    lab.tick(30)
    early = lab.now - timedelta(minutes=4)
    running.outdoor_f += 9.0
    lab.tick(30)
    late = lab.now - timedelta(minutes=4)
    codes = [r["code"] for r in teacher.get(f"/sheets/{mixed['id']}/results").json["rows"]]
    seen = teacher.get(f"/sheets/{mixed['id']}/measurements/2").json
    assert [t["at"] for t in seen["times"]] == [None] * 3

    def at_rig(code, at, **more):
        return teacher.put(f"/papers/{code}/rig", {"position": 2, "rig_id": rig_id, "at": at.isoformat(), **more})

    def head(code):
        call = teacher.get(f"/papers/{code}").json["calls"][1]
        return next(float(r["text"].split()[0]) for r in call["readings"] if r["label"] == "Head pressure")

    for code, at in zip(codes, (early, late), strict=False):
        reply = at_rig(code, at, confirmed=True)
        assert reply.status_code == 200, reply.json
    truth = running.truth()["head_pressure"] / 6894.757
    assert abs(head(codes[1]) - truth) < 12 and head(codes[1]) > head(codes[0]) + 25
    before = head(codes[1])
    assert at_rig(codes[1], early).status_code == 200 and head(codes[1]) == before, "shown, and not done"
    times = teacher.get(f"/sheets/{mixed['id']}/measurements/2").json["times"]
    assert [t["rig"] for t in times] == ["Rig 1", "Rig 1", ""] and times[2]["at"] is None

    values = {row["key"]: None for row in seen["rows"]}
    near = teacher.get(f"/papers/{codes[1]}").json["calls"][1]["readings"]
    labels = {row["label"]: row["key"] for row in seen["rows"]}
    values |= {labels[r["label"]]: float(r["text"].split()[0]) for r in near if r["label"] in labels}
    path = f"/sheets/{mixed['id']}/measurements/2"
    assert teacher.put(path, {"readings": values, "confirmed": True}).status_code == 200
    assert head(codes[0]) < before - 25 and head(codes[2]) == before, (
        "who has a time keeps it; the others have one snapshot"
    )

    nothing = at_rig(codes[2], early - timedelta(hours=3))
    assert nothing.status_code == 422 and "a time at which Rig 1 was read" in nothing.json["error"]["message"]
    assert (
        helper.put(f"/papers/{codes[0]}/rig", {"position": 2, "rig_id": rig_id, "at": early.isoformat()}).status_code
        == 403
    )
    wrong = teacher.put(f"/papers/{codes[0]}/rig", {"position": 1, "rig_id": rig_id, "at": early.isoformat()})
    assert wrong.status_code == 422 and "on a rig" in wrong.json["error"]["message"]
