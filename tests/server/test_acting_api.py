"""Acting on a machine, its correction key and machines of one's own, through the API."""

import pytest

from tests.server.conftest import SCENARIO, build
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import queries

BODY = {"machine": "split-3t-r410a-txv", "outdoor_db_f": 95, "return_db_f": 80, "return_wb_f": 67}
LOW = BODY | {"faults": [{"id": "undercharge", "severity": 80}]}
PLATE = {
    "name": "Workshop split",
    "refrigerant": "R-454B",
    "metering": "txv",
    "capacity_btuh": 30000,
    "plate_subcooling_df": 9,
    "superheat_df": 12,
    "ctoa_df": 16,
    "evaporator_td_df": 34,
}


def test_steps_are_played_and_told_with_their_trace_and_weights(teacher):
    found = teacher.post("/act", LOW | {"steps": [{"do": "add_liquid", "arguments": {"oz": 8}}, {"do": "settle"}]}).json
    assert found["refusal"] is None and [s["do"] for s in found["steps"]] == ["add_liquid", "settle"]
    assert found["trace"][0]["subcooling"] < 1 < found["trace"][-1]["superheat"]
    assert any("mean nothing" in s for s in found["steps"][0]["said"])
    assert "the leak is still open" in found["left"]
    weights = found["weights"]
    total = weights["circuit"] + weights["hoses"] + weights["lost"] + sum(c["net"] for c in weights["cylinders"])
    again = teacher.post("/act", LOW).json["weights"]
    assert total == pytest.approx(again["circuit"] + sum(c["net"] for c in again["cylinders"]), abs=0.05)
    assert found["bands"]["subcooling"] == {"low": 7.0, "high": 13.0}


def test_both_unit_systems_tell_the_same_story(teacher):
    us = teacher.post("/act", LOW | {"steps": [{"do": "add_liquid", "arguments": {"oz": 8}}], "outdoor_per_h": -9}).json
    si = teacher.post(
        "/act",
        LOW
        | {"steps": [{"do": "add_liquid", "arguments": {"g": 8 * 28.349523125}}], "outdoor_per_h": -5, "units": "si"},
    ).json
    assert si["weights"]["circuit"] == pytest.approx(us["weights"]["circuit"] * 28.3495, rel=1e-3)
    assert si["trace"][-1]["head"] == pytest.approx(us["trace"][-1]["head"] * 6.894757, rel=2e-3)
    assert si["trace"][-1]["subcooling"] == pytest.approx(us["trace"][-1]["subcooling"] / 1.8, abs=0.02)
    assert si["trace"][-1]["outdoor"] == pytest.approx((us["trace"][-1]["outdoor"] - 32) / 1.8, abs=0.02)


def test_the_actions_of_a_machine_say_what_they_need(teacher):
    rows = {r["id"]: r for r in teacher.get("/actions/split-3t-r410a-txv").json["actions"]}
    assert "recovery gear" in rows["recover_all"]["needs"] and rows["replace_compressor"]["money"] == "large"
    assert "clean_condenser" not in {r["id"] for r in teacher.get("/actions/water-cooled-5t-r407c-txv").json["actions"]}
    grams = {r["id"]: r for r in teacher.get("/actions/split-3t-r410a-txv?units=si").json["actions"]}["add_liquid"][
        "parameters"
    ]
    assert [p["name"] for p in grams if p["unit"] == "g"] == ["g"]


BOX = {"machine": "walkin-freezer-r404a-txv", "outdoor_db_f": 95, "box_f": 0}


def test_a_room_that_answers_shows_its_controls_and_what_they_did(teacher):
    room = {"start": 20, "door": "usual", "troubles": ["defrost_never_starts"]}
    steps = [{"do": "wait", "arguments": {"minutes": 30}}]
    found = teacher.post("/act", BOX | {"steps": steps, "room": room}).json
    assert found["trace"][0]["room"] == pytest.approx(20) and found["trace"][-1]["room"] < 15
    assert found["trace"][-1]["mode"] == "on" and found["controls"]["said"] == "running"
    settings = {s["id"]: s["text"] for s in found["controls"]["settings"]}
    assert settings["thermostat"] == "calls at 2 °F, satisfied at -2 °F" and "never" in settings["defrost"]
    assert settings["fans"] == "at 25 °F coil" and settings["low_pressure"].startswith("cuts out at -2 psig")
    longer = teacher.post("/act", BOX | {"steps": steps * 2, "room": room}).json
    assert longer["trace"][: len(found["trace"])] == found["trace"], "gone on from where it was"
    held = teacher.post("/act", BOX | {"steps": steps}).json
    assert held["controls"] is None and held["trace"][-1]["room"] is None


def test_the_room_is_told_in_si_too(teacher):
    room = {"start": -5, "set": -18, "door": "closed", "troubles": []}
    found = teacher.post("/act", BOX | {"units": "si", "room": room, "steps": []}).json
    assert found["trace"][0]["room"] == pytest.approx(-5)
    assert found["controls"]["cut_in"] == pytest.approx(-16.9, abs=0.05)
    assert "°C" in found["controls"]["settings"][0]["text"]


def test_a_machine_names_the_troubles_its_controls_can_have(teacher):
    split = teacher.get("/actions/split-3t-r410a-txv").json
    assert "usual" in split["doors"] and {"thermostat_narrow"} <= {t["id"] for t in split["troubles"]}
    assert "fan_delay_failed" not in {t["id"] for t in split["troubles"]}
    freezer = teacher.get("/actions/walkin-freezer-r404a-txv").json
    assert "fan_delay_failed" in {t["id"] for t in freezer["troubles"]}


HEATS = {"machine": "heatpump-3t-r410a-heating", "outdoor_db_f": 35, "return_db_f": 70}


def test_a_heat_pump_in_heating_is_on_the_bench_like_any_machine(teacher):
    reply = teacher.post("/bench", HEATS | {"faults": [{"id": "low_airflow", "severity": 55}]}).json
    figures = {f["id"]: f for f in reply["figures"]}
    assert figures["ctoa"]["label"] == "Condensing over return air" and figures["ctoa"]["verdict"] == "high"
    assert figures["evaporator_td"]["label"] == "Outdoor coil TD" and figures["evaporator_td"]["verdict"] == "normal"
    rows = {r["label"]: r for r in reply["readings"]}
    assert rows["Outdoor air, dry bulb"]["now"]["value"] == 35 and rows["Return air, dry bulb"]["now"]["value"] == 70
    assert rows["Supply air, dry bulb"]["now"]["value"] > rows["Supply air, dry bulb"]["fault_free"]["value"] + 8
    assert any("outdoor coil is frosting" in said for said in reply["signs"])
    catalog = teacher.get("/catalogue").json
    names = {f["id"]: f["name_in_heating"] for f in catalog["faults"]}
    assert names["dirty_condenser"] == "Dirty outdoor coil" and names["undercharge"] == "Low charge (undercharged)"
    (row,) = (m for m in catalog["machines"] if m["id"] == HEATS["machine"])
    assert [w["field"] for w in row["weather"]] == ["outdoor_db_f", "return_db_f"]
    assert {p["name"] for p in row["points"] if p["usual"]} >= {"Supply air, dry bulb", "Outdoor air, dry bulb"}


def test_a_heat_pump_is_proved_in_heating_and_its_rivals_have_their_names_there(teacher):
    found = teacher.post("/prove", HEATS | {"faults": [{"id": "dirty_condenser", "severity": 45}]}).json
    names = {r["name"] for r in (*found["equals"], *found["nearest"])}
    assert found["refusal"] is None and any("utdoor fan slow" in name for name in names)
    assert found["difficulty"]["level"] >= 1 and "on paper" in found["judged"]["sentence"]


def test_a_house_is_heated_through_its_thermostat(teacher):
    steps = [{"do": "wait", "arguments": {"minutes": 60}}] * 2
    found = teacher.post("/act", HEATS | {"steps": steps, "room": {}}).json
    controls = found["controls"]
    assert controls["room_low"] <= controls["room_mean"] <= controls["room_high"] < 73 and controls["room_low"] > 67
    assert controls["ran_pct"] > 30 and controls["low_stage_pct"] is None
    assert {row["outdoor"] for row in found["trace"]} != set(), "the house's air is read"


def test_a_two_stage_machine_tells_how_long_it_ran_in_low_stage(teacher):
    body = BODY | {"machine": "split-4t-r410a-two-stage", "outdoor_db_f": 80, "return_db_f": 75, "return_wb_f": 63}
    found = teacher.post("/act", body | {"steps": [{"do": "wait", "arguments": {"minutes": 90}}], "room": {}}).json
    assert found["controls"]["low_stage_pct"] == found["controls"]["ran_pct"] > 0
    assert "high_stage" in {s["id"] for s in found["controls"]["settings"]}


def test_the_plan_names_the_first_step_and_the_wrong_ones(teacher):
    found = teacher.post(
        "/plan", LOW | {"faults": [{"id": "undercharge", "severity": 80}, {"id": "dirty_condenser", "severity": 55}]}
    ).json
    assert found["first"] == "Wash the condenser" and found["proof"]["subcooling"].endswith("°F")
    assert any("would have" in w["text"] for w in found["wrong"])
    steps = [{"do": s["action"], "arguments": s["arguments"]} for s in found["steps"]]
    played = teacher.post(
        "/act",
        LOW
        | {
            "faults": [{"id": "undercharge", "severity": 80}, {"id": "dirty_condenser", "severity": 55}],
            "steps": steps,
        },
    ).json
    assert played["running"] and not played["left"] and not any(s["refused"] for s in played["steps"])
    assert played["trace"][-1]["subcooling"] == pytest.approx(float(found["proof"]["subcooling"].split()[0]), abs=1)


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("/act", LOW | {"steps": [{"do": "dance"}]}, "do"),
        ("/act", LOW | {"steps": [{"do": "wait", "arguments": {"minutes": 0}}]}, "wait.minutes"),
        ("/act", LOW | {"outdoor_per_h": 99}, "weather.outdoor_df_per_h"),
        ("/act", LOW | {"machine": "own-nobody"}, "machine"),
        ("/act", LOW | {"room": {"door": "ajar"}}, "room.door"),
        ("/act", LOW | {"room": {"start": 400}}, "room.start_f"),
        ("/act", LOW | {"room": {"troubles": ["fan_delay_failed"]}}, "trouble"),
        ("/plan", LOW | {"instruments": "spoon"}, "instruments"),
        ("/tune", PLATE | {"refrigerant": "R-999"}, "refrigerant"),
        ("/tune", PLATE | {"capacity_btuh": 1}, "capacity_btuh"),
        ("/tune", PLATE | {"metering": "tap"}, "metering"),
        ("/tune", {k: v for k, v in PLATE.items() if k != "capacity_btuh"}, "capacity_btuh"),
        ("/machines", PLATE | {"name": ""}, "name"),
    ],
)
def test_bad_input_names_the_field(teacher, path, body, field):
    reply = teacher.post(path, body)
    assert reply.status_code == 422 and reply.json["error"]["field"] == field, reply.json


def test_a_plate_is_tuned_kept_used_on_the_bench_saved_in_a_scenario_printed_and_forgotten(teacher, app):
    assert teacher.post("/tune", PLATE).json["met"]
    kept = teacher.post("/machines", PLATE)
    assert kept.status_code == 201
    own = kept.json["machines"][0]
    assert own["id"] == "own-workshop-split" and own["tuned"]["size"] == "30,000 Btu/h"
    assert teacher.post("/machines", PLATE).status_code == 409, "the name is taken"
    listed = {m["id"] for m in teacher.get("/catalogue").json["machines"]}
    assert own["id"] in listed
    reply = teacher.post("/bench", LOW | {"machine": own["id"]}).json
    assert reply["trip"] is None and {f["id"]: f for f in reply["figures"]}["subcooling"]["verdict"] == "low"
    saved = teacher.post("/scenarios", SCENARIO | {"machine": own["id"], "title": "On our own machine"})
    assert saved.status_code == 201 and saved.json["machine_name"] == "Workshop split"
    assert saved.json["body"]["own"]["plate"]["name"] == "Workshop split"
    assert teacher.delete(f"/machines/{own['id']}").json["machines"] == []
    again = teacher.get(f"/scenarios/{saved.json['id']}").json
    assert again["machine_name"] == "Workshop split", "the scenario carries its machine"


def test_a_plate_in_si_is_the_same_machine(teacher):
    us = teacher.post("/tune", PLATE | {"name": "A"}).json
    si = teacher.post(
        "/tune",
        {
            "name": "A",
            "units": "si",
            "refrigerant": "R-454B",
            "metering": "txv",
            "capacity_btuh": 30000 * 0.00029307107,
            "plate_subcooling_df": 5,
            "superheat_df": 12 / 1.8,
            "ctoa_df": 16 / 1.8,
            "evaporator_td_df": 34 / 1.8,
        },
    ).json
    assert si["met"] and si["size"] == "8.8 kW"
    wrong = teacher.post(
        "/tune",
        {
            "name": "B",
            "units": "si",
            "refrigerant": "R-410A",
            "metering": "txv",
            "capacity_btuh": 10,
            "head_psig": 2068,
            "ctoa_df": 10,
        },
    ).json["contradictions"][0]["text"]
    assert "2,068 kPa" in wrong and "not 10 K" in wrong and "psig" not in wrong
    for a, b in zip(us["report"], si["report"], strict=True):
        if b["unit"] == "K":
            assert b["met"] == pytest.approx(a["met"] / 1.8, abs=0.07)


def test_a_plate_is_taken_as_it_stands_on_the_unit(teacher):
    typed = PLATE | {
        "capacity_btuh": "2.5 tons",
        "volts": "208/230",
        "rated_amps": "-",
        "factory_charge_oz": "5 lb 8 oz",
    }
    found = teacher.post("/tune", typed).json
    assert found["size"] == "30,000 Btu/h" and found["plate"]["volts"] == 230
    assert found["plate"]["factory_charge_oz"] == 88 and found["plate"].get("rated_amps") is None
    bare = {"name": "B", "refrigerant": "R-410A", "metering": "txv"}
    metric = teacher.post("/tune", bare | {"units": "si", "capacity_btuh": "2½ tons", "plate_subcooling_df": "9 °F"})
    assert metric.json["size"] == "8.8 kW" and metric.json["plate"]["plate_subcooling_df"] == pytest.approx(9)


@pytest.mark.parametrize(
    ("units", "field", "value", "said"),
    [
        ("us", "capacity_btuh", "lots", "36000, 36k, 3 tons"),
        ("us", "factory_charge_oz", "7 lb 8", "7 lb 8 oz"),
        ("si", "capacity_btuh", "0.1", "a number from 0.1465 to 70.34 kW"),
        ("si", "head_psig", 9999, "a number from 137.9 to 4275 kPa"),
        ("us", "head_psig", "9 tons", "psig, kPa or bar"),
    ],
)
def test_a_refused_number_says_what_would_do_in_the_units_of_the_form(teacher, units, field, value, said):
    bare = {"name": "B", "refrigerant": "R-410A", "metering": "txv", "capacity_btuh": "3 tons"}
    reply = teacher.post("/tune", bare | {"units": units, field: value})
    assert reply.status_code == 422 and reply.json["error"]["field"] == field
    assert said in reply.json["error"]["message"]


def test_an_issued_call_holds_its_correction_key(teacher, app, sheet):
    build(app, sheet["id"])
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    with database_of(app).transaction() as connection:
        paper = connection.execute("select id from papers where code = %s", (code,)).fetchone()
        calls = [call_from_json(r["body"]) for r in queries.paper_call_list(connection, paper_id=paper["id"])]
    assert calls
    for call in calls:
        found = call.key.correction
        assert found.refusal is None and found.wrong and found.first.text
        assert bool(found.steps) == bool(call.key.faults)


def test_an_apprentice_reaches_none_of_it(pupil):
    for path, body in (("/act", LOW), ("/plan", LOW), ("/tune", PLATE), ("/machines", PLATE)):
        assert pupil.post(path, body).status_code == 403
    assert pupil.get("/machines").status_code == 403
    assert pupil.get("/actions/split-3t-r410a-txv").status_code == 403
