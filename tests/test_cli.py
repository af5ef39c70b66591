"""The command line as other programs rely on it."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import planned
from wolfsbane.cli import main as cli
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.marking.grade import perfect_answers
from wolfsbane.exercise.paper.call import call_from_json

RATED = ["--outdoor-db-f", "95", "--return-db-f", "80", "--return-wb-f", "67"]
VALVE = "split-3t-r410a-txv"
SOLVE_KEYS = [
    "suction_psig",
    "head_psig",
    "suction_saturation_f",
    "liquid_saturation_f",
    "suction_line_f",
    "evaporator_outlet_f",
    "liquid_line_f",
    "discharge_line_f",
    "supply_db_f",
    "superheat_df",
    "subcooling_df",
    "evaporator_td_df",
    "ctoa_df",
    "air_delta_t_df",
    "drier_drop_df",
    "capacity_btuh",
    "power_w",
    "charge_oz",
    "frosting",
    "converged",
    "energy_residual",
    "mass_residual",
    "evaporator_superheat_df",
]


CONTRACT_FAULTS = {
    "undercharge",
    "overcharge",
    "dirty_condenser",
    "condenser_fan_weak",
    "condenser_recirculation",
    "low_airflow",
    "liquid_line_restriction",
    "suction_line_restriction",
    "valve_underfeeding",
    "valve_overfeeding",
    "valve_hunting",
    "orifice_undersized",
    "orifice_oversized",
    "distributor_blocked",
    "leaking_compressor_valves",
    "compressor_not_pumping",
    "non_condensables",
    "reversing_valve_leak",
    "wet_condenser",
    "high_load",
    "low_load",
    "none",
    "gauge_not_zeroed",
    "absolute_pressure_read",
    "core_not_depressed",
    "clamp_loose",
    "clamp_wrong_line",
    "wrong_refrigerant_scale",
}
BOX = ["--outdoor-db-f", "95", "--box-f", "38"]
COOLER, WATER = "walkin-cooler-r404a-txv", "water-cooled-5t-r407c-txv"


def run(capsys, *args):
    code = cli.main([*args, "--json"])
    return code, json.loads(capsys.readouterr().out)


def test_machines_carry_the_contract_keys(capsys):
    code, rows = run(capsys, "machines")
    assert code == 0 and len(rows) == len(MACHINES) == 31 and len({r["refrigerant"] for r in rows}) >= 8
    assert set(rows[0]) >= {
        "id",
        "name",
        "refrigerant",
        "metering",
        "application",
        "condenser",
        "receiver",
        "capacity_btuh",
        "factory_charge_oz",
        "plate_subcooling_df",
        "plate_superheat_df",
    }


def test_faults_carry_the_contract_keys_and_none(capsys):
    _, rows = run(capsys, "faults")
    assert {"id", "parameter", "unit", "mild", "moderate", "severe", "causes"} <= set(rows[0])
    assert {r["id"] for r in rows} >= CONTRACT_FAULTS
    assert all(r["causes"] and r["unit"] and isinstance(r["mild"], (int, float)) for r in rows if r["id"] != "none")


@pytest.mark.parametrize("fault", sorted(CONTRACT_FAULTS - {"none"}))
def test_a_fault_has_a_card_with_all_a_teacher_needs(capsys, fault):
    _, card = run(capsys, "faults", fault)
    assert card["causes"] and all(card["causes"].values()) and card["remedy"] and card["rig"]
    assert card["acts_on"] == "reading" or card["effect"] and card["hazard"] and card["tests"]
    assert cli.main(["faults", "gremlins"]) == 2 and "gremlins" in capsys.readouterr().err


def test_pt_goes_both_ways(capsys):
    _, there = run(capsys, "pt", "R-410A", "--psig", "118")
    _, back = run(capsys, "pt", "R-410A", "--f", str(there["dew_f"]))
    assert back["dew_psig"] == pytest.approx(118, abs=0.05)
    _, celsius = run(capsys, "pt", "R-410A", "--c", str(there["dew_c"]))
    assert celsius["dew_kpa_gauge"] == pytest.approx(118 * 6.894757, abs=1)


def test_solve_prints_the_contract_keys(capsys):
    code, found = run(capsys, "solve", VALVE, *RATED)
    assert code == 0 and set(SOLVE_KEYS) <= set(found)
    assert found["converged"] is True and abs(found["energy_residual"]) < 1e-3
    assert found["superheat_df"] == pytest.approx(found["suction_line_f"] - found["suction_saturation_f"], abs=0.02)


def test_a_box_and_a_water_cooled_machine_take_their_own_weather(capsys):
    _, cooler = run(capsys, "solve", COOLER, *BOX)
    assert cooler["sight_glass"] == "clear" and 30 < cooler["receiver_level_pct"] < 50
    _, wet = run(capsys, "solve", WATER, *RATED, "--water-in-f", "85")
    assert wet["water_in_f"] == 85.0 and 92 < wet["water_out_f"] < 97
    assert wet["ctoa_df"] == pytest.approx(wet["liquid_saturation_f"] - 85, abs=0.02)


def test_instrument_faults_change_the_readings_and_not_the_machine(capsys):
    _, true = run(capsys, "solve", VALVE, *RATED)
    _, read = run(capsys, "solve", VALVE, *RATED, "--fault", "gauge_not_zeroed:8")
    assert read["suction_psig"] == pytest.approx(true["suction_psig"] + 8, abs=0.02)
    assert read["superheat_df"] < true["superheat_df"] - 2 and read["capacity_btuh"] == true["capacity_btuh"]
    _, pt_scale = run(capsys, "solve", VALVE, *RATED, "--fault", "wrong_refrigerant_scale")
    assert (
        pt_scale["suction_psig"] == true["suction_psig"]
        and pt_scale["suction_saturation_f"] != true["suction_saturation_f"]
    )


def test_a_hunting_valve_gives_ranges(capsys):
    _, found = run(capsys, "solve", VALVE, *RATED, "--fault", "valve_hunting:moderate")
    low, high = found["ranges"]["superheat_df"]
    assert low < found["superheat_df"] < high and high - low > 10


def test_the_second_circuit_and_the_frost_are_reported(capsys):
    _, found = run(capsys, "solve", "package-10t-r410a-two-circuits", *RATED, "--fault", "one_circuit_off:severe")
    assert found["second_circuit"] == "off" and found["supply_low_f"] > found["supply_high_f"] + 10
    _, iced = run(capsys, "solve", COOLER, *BOX, "--frost-hours", "4")
    assert iced["frost"]["face_blocked_pct"] > 10 and iced["frost"]["end"] == "growing"


def test_ask_lists_the_tests_and_answers_one(capsys):
    _, tests = run(capsys, "ask", VALVE, *RATED)
    assert {
        "pump_down",
        "bulb_warmed",
        "bulb_chilled",
        "drier_drop",
        "standing_pressure",
        "coil_face",
        "sight_glass",
        "compressor_sound",
        "shell",
        "amps",
        "condenser_air_rise",
        "airflow",
        "static_pressure",
    } <= {t["id"] for t in tests}
    _, answer = run(
        capsys, "ask", VALVE, *RATED, "--fault", "leaking_compressor_valves:moderate", "--test", "pump_down"
    )
    assert answer["answer"] in ("suction_rises", "suction_holds")


def test_a_short_sweep_balances(capsys):
    _, found = run(capsys, "sweep", "--cases", "66")
    assert (
        found["failed"] == [] and found["over_limit"] == 0 and found["settled"] + sum(found["cut_out"].values()) == 66
    )


def test_levels_are_short_for_numbers(capsys):
    _, named = run(capsys, "solve", VALVE, *RATED, "--fault", "undercharge:moderate")
    _, number = run(capsys, "solve", VALVE, *RATED, "--fault", "undercharge:80")
    assert named == number and named["subcooling_df"] < 2


def test_a_cut_out_is_an_answer_with_null_readings(capsys):
    code, found = run(
        capsys,
        "solve",
        VALVE,
        "--outdoor-db-f",
        "115",
        "--return-db-f",
        "80",
        "--return-wb-f",
        "67",
        "--fault",
        "dirty_condenser:30",
    )
    assert code == 0
    assert found["tripped"]["cutout"] == "high_pressure" and found["tripped"]["after_s"] > 0
    assert found["head_psig"] is None and found["superheat_df"] is None


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["solve", "toaster", *RATED], ["machine", "toaster", VALVE]),
        (["solve", VALVE, *RATED, "--fault", "undercharge:huge"], ["undercharge level", "huge", "mild"]),
        (["solve", VALVE, *RATED, "--fault", "gremlins"], ["fault", "gremlins", "undercharge"]),
        (["solve", VALVE, *RATED, "--box-f", "38"], ["box_f", "38"]),
        (["solve", VALVE, "--outdoor-db-f", "95"], ["return_db_f", "None"]),
        (
            ["solve", VALVE, "--outdoor-db-f", "35", "--return-db-f", "80", "--return-wb-f", "67"],
            ["outdoor_db_f", "35", "95 °F", "degrees C"],
        ),
        (
            ["solve", VALVE, "--outdoor-db-f", "95", "--return-db-f", "80", "--return-wb-f", "81"],
            ["return_wb_f", "81", "dry bulb"],
        ),
        (["solve", COOLER, *RATED], ["box_f", "cools a box"]),
        (["solve", COOLER, *BOX, "--return-db-f", "80"], ["return_db_f", "80", "box_f"]),
        (["solve", COOLER, "--outdoor-db-f", "95", "--box-f", "90"], ["box_f", "90", "65"]),
        (["solve", WATER, *RATED], ["water_in_f", "cooled by water"]),
        (["solve", VALVE, *RATED, "--water-in-f", "85"], ["water_in_f", "cooled by air"]),
        (["solve", VALVE, *RATED, "--fault", "undercharge:-5"], ["undercharge level", "-5", "40 to 100"]),
        (["solve", VALVE, *RATED, "--fault", "undercharge:80:gremlins"], ["undercharge cause", "gremlins", "leak"]),
        (["solve", VALVE, *RATED, "--fault", "gauge_not_zeroed:99"], ["gauge_not_zeroed level", "99"]),
        (
            ["solve", VALVE, *RATED, "--fault", "undercharge:80", "--fault", "undercharge:70"],
            ["fault", "undercharge", "once"],
        ),
        (["solve", COOLER, *BOX, "--fault", "reversing_valve_leak"], ["reversing_valve_leak", "heat pump"]),
        (["solve", VALVE, *RATED, "--frost-hours", "-1"], ["frost_hours", "-1"]),
        (["ask", VALVE, *RATED, "--test", "water_in_out"], ["test", "water_in_out", "pump_down"]),
        (["ask", VALVE, *RATED, "--test", "divining"], ["test", "divining"]),
        (["sweep", "--cases", "0"], ["cases", "0"]),
        (["solve", VALVE, *RATED, "--heating"], ["heating"]),
        (
            ["solve", VALVE, "--outdoor-db-f", "300", "--return-db-f", "80", "--return-wb-f", "67"],
            ["outdoor_db_f", "300", "125"],
        ),
        (
            ["solve", "heatpump-3t-r410a-txv", "--heating", "--outdoor-db-f", "95", "--return-db-f", "70"],
            ["outdoor_db_f", "95", "heating"],
        ),
        (["solve", "heatpump-3t-r410a-txv", "--heating", "--outdoor-db-f", "40"], ["return_db_f", "heating"]),
        (["actions", "toaster"], ["machine", "toaster"]),
        (["act", "nowhere.json", "none.json"], ["actions", "none.json"]),
        (["plan", "nowhere.json"], ["scenario", "nowhere.json"]),
        (["tune", "nowhere.json"], ["plate", "nowhere.json"]),
        (["pt", "R-999", "--psig", "100"], ["refrigerant", "R-999", "R-22"]),
        (["pt", "R-410A", "--psig", "9000"], ["psig", "9000"]),
        (["mark", "nowhere.json", "none.json"], ["call", "nowhere.json"]),
    ],
)
def test_bad_input_is_one_line_naming_field_value_and_allowed(capsys, args, words):
    assert cli.main(args) == 2
    captured = capsys.readouterr()
    assert captured.out == "" and captured.err.count("\n") == 1
    assert all(word in captured.err for word in words), captured.err


def test_an_unknown_option_exits_2_with_one_line(capsys):
    with pytest.raises(SystemExit) as stop:
        cli.main(["solve", VALVE, *RATED, "--color", "red"])
    assert stop.value.code == 2 and capsys.readouterr().err.count("\n") == 1


def test_a_call_made_and_marked_from_files(capsys, tmp_path):
    plan = tmp_path / "scenario.json"
    plan.write_text(
        json.dumps(
            {
                "title": "From a file",
                "machine": VALVE,
                "fault": "undercharge",
                "severity": 80,
                "units": "si",
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
            }
        )
    )
    _, call = run(capsys, "call", str(plan), "--seed", "4")
    assert call["units"] == "si" and call["readings"]["suction_pressure"]["unit"] == "kPa"
    (tmp_path / "call.json").write_text(json.dumps(call))
    answers = perfect_answers(call_from_json(call)) | {"superheat": ""}
    (tmp_path / "answers.json").write_text(json.dumps(answers))
    _, marked = run(capsys, "mark", str(tmp_path / "call.json"), str(tmp_path / "answers.json"))
    assert (marked["earned"], marked["possible"]) == (32, 33)
    (tmp_path / "answers.json").write_text(json.dumps({"colour": "red"}))
    assert cli.main(["mark", str(tmp_path / "call.json"), str(tmp_path / "answers.json")]) == 2
    assert "colour" in capsys.readouterr().err


@pytest.mark.bench
def test_bench_reports_ratios(capsys):
    _, rows = run(capsys, "bench", "--repeat", "20")
    assert rows[0]["ratio"] == 1.0 and {
        "what",
        "median_ms",
        "p95_ms",
        "p999_over_median",
        "per_second",
        "ratio",
    } <= set(rows[0])
    named = " ".join(r["what"] for r in rows)
    assert all(word in named for word in ("cold, ", "warm, ", "high-level", "bicubic", "process start"))


def test_the_console_script_stands_beside_the_interpreter():
    script = Path(sys.executable).parent / "wolfsbane"
    done = subprocess.run([script, "pt", "R-22", "--psig", "68.5"], capture_output=True, text=True)
    assert done.returncode == 0 and "dew_f" in done.stdout


def test_diagnose_answers_as_the_contract_has_it(capsys, tmp_path):
    path = tmp_path / "readings.json"
    path.write_text(
        json.dumps(
            {
                "machine": {"refrigerant": "R-410A", "metering": "txv", "plate_subcooling_df": 10},
                "conditions": {"outdoor_db_f": 88, "return_db_f": 76, "return_wb_f": 63},
                "readings": {"suction_psig": 92, "head_psig": 285, "suction_line_f": 68, "liquid_line_f": 91},
            }
        )
    )
    code, out = run(capsys, "diagnose", str(path))
    assert code == 0 and set(out) >= {"ranked", "left_open", "next_test", "computed"}
    assert out["ranked"][0]["fault"] == "undercharge" and out["computed"]["subcooling_df"] == pytest.approx(
        1.3, abs=0.3
    )
    assert sum(r["weight"] for r in out["ranked"]) == pytest.approx(1.0, abs=1e-6)
    assert cli.main(["diagnose", str(path)]) == 0
    assert "the condenser is short of liquid" in capsys.readouterr().out
    path.write_text(path.read_text().replace("suction_psig", "suction_stones"))
    assert cli.main(["diagnose", str(path)]) == 2
    error = capsys.readouterr().err
    assert "suction_stones" in error and error.count("\n") == 1


def test_prove_names_the_equals_and_what_splits_them(capsys, tmp_path):
    path = tmp_path / "scenario.json"
    path.write_text(
        json.dumps(
            {
                "title": "x",
                "machine": VALVE,
                "faults": [{"id": "dirty_condenser", "severity": 60}],
                "outdoor_db_f": 93,
                "return_db_f": 78,
                "return_wb_f": 65.5,
            }
        )
    )
    code, out = run(capsys, "prove", str(path))
    assert code == 0 and not out["unique"] and "condenser_fan_weak" in [r["fault"] for r in out["class_of_equals"]]
    assert (
        all(set(s) == {"add", "text", "minutes", "separates"} for s in out["split"])
        and 1 <= out["difficulty"]["level"] <= 5
    )


@pytest.mark.slow
def test_generate_makes_a_set_with_one_process_or_two(capsys, tmp_path):
    path = tmp_path / "brief.json"
    path.write_text(
        json.dumps({"title": "x", "calls": 1, "apprentices": 2, "sound_share": 0, "faults": ["undercharge"], "seed": 3})
    )
    sets = [run(capsys, "generate", str(path), "--workers", workers)[1] for workers in ("1", "2")]
    assert sets[0] == sets[1] and sets[0]["calls"] == sets[0]["unique"] == 2
    assert cli.main(["generate", str(path)]) == 0 and "proved unique" in capsys.readouterr().out


def test_actions_are_played_on_a_scenario_and_a_plan_is_printed(capsys, tmp_path):
    plan, acts = tmp_path / "scenario.json", tmp_path / "actions.json"
    plan.write_text(
        json.dumps(
            {
                "title": "Low",
                "machine": VALVE,
                "faults": [{"id": "undercharge", "severity": 80}],
                "outdoor_db_f": 95,
                "return_db_f": 80,
                "return_wb_f": 67,
            }
        )
    )
    acts.write_text(json.dumps([{"do": "wait", "minutes": 5}, {"do": "add_liquid", "oz": 10}, {"do": "settle"}]))
    code, played = run(capsys, "act", str(plan), str(acts))
    assert code == 0 and [s["do"] for s in played["steps"]] == ["wait", "add_liquid", "settle"]
    assert played["trace"][-1]["subcooling_df"] > played["trace"][0]["subcooling_df"] - 0.1
    assert played["weights"]["circuit"] < played["weights"]["right_charge"]
    assert cli.main(["act", str(plan), str(acts), "--units", "si"]) == 0
    text = capsys.readouterr().out
    assert "suction_pressure_kpa_gauge" in text and "The hoses take 30 g" in text
    code, found = run(capsys, "plan", str(plan))
    assert code == 0 and found["first"]["action"] == "mend_leak" and found["wrong"]
    assert cli.main(["plan", str(plan)]) == 0
    assert "first: Find and repair the leak" in capsys.readouterr().out


def test_a_plate_is_tuned_with_a_report(capsys, tmp_path):
    plate = tmp_path / "plate.json"
    plate.write_text(
        json.dumps(
            {
                "name": "Bench split",
                "refrigerant": "R-410A",
                "metering": "txv",
                "capacity_btuh": 36000,
                "subcooling_df": 20,
                "ctoa_df": 15,
            }
        )
    )
    code, found = run(capsys, "tune", str(plate))
    assert code == 0 and not found["met"] and found["contradictions"][0]["between"] == ["subcooling_df", "ctoa_df"]
    assert cli.main(["tune", str(plate)]) == 0
    assert "contradiction: Subcooling 20" in capsys.readouterr().out


def test_a_heat_pump_is_solved_in_heating_and_its_frost_is_named(capsys):
    code, cold = run(
        capsys, "solve", "heatpump-3t-r410a-txv", "--heating", "--outdoor-db-f", "30", "--return-db-f", "70"
    )
    assert code == 0 and cold["heating"] and "defrost" in cold["frost_note"]
    assert cold["supply_db_f"] > 85 and cold["capacity_btuh"] > 25_000
    assert abs(cold["energy_residual"]) < 1e-5 and abs(cold["mass_residual"]) < 1e-5


def test_the_actions_of_a_machine_are_listed(capsys):
    code, rows = run(capsys, "actions", COOLER)
    assert code == 0 and {"add_liquid", "replace_valve"} <= {r["id"] for r in rows} and all(r["name"] for r in rows)


def test_gaming_tries_guessing_on_a_call_a_list_and_a_set(tmp_path, capsys):
    made = vary(planned(), "us", 4).to_json()
    one, more = tmp_path / "call.json", tmp_path / "set.json"
    one.write_text(json.dumps(made))
    more.write_text(json.dumps({"sheets": [{"calls": [{"call": made}, {"call": made}]}], "seed": 3}))
    _, told = run(capsys, "gaming", str(one))
    _, twice = run(capsys, "gaming", str(more))
    assert told["calls"] == 1 and twice["calls"] == 2 and told["over"] == twice["over"] == []
    rows = {row["id"]: row for row in told["strategies"]}
    assert {"blank", "all_normal", "always:overcharge"} & set(rows) and rows["blank"]["earned"] == 0
    assert all(row["earned"] <= row["possible"] and 0 <= row["share"] <= 1 for row in rows.values())
    assert told["guessing"] <= 0.25
    bad = tmp_path / "nothing.json"
    bad.write_text('{"title": "none", "calls": 0}')
    assert cli.main(["gaming", str(bad)]) == 2 and "at least one call" in capsys.readouterr().err
