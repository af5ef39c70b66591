"""The command line as other programs rely on it."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from wolfsbane import cli
from wolfsbane.exercise.call import call_from_json
from wolfsbane.exercise.grading import perfect_answers

RATED = ["--outdoor-db-f", "95", "--return-db-f", "80", "--return-wb-f", "67"]
VALVE = "split-3t-r410a-txv"
SOLVE_KEYS = ["suction_psig", "head_psig", "suction_saturation_f", "liquid_saturation_f", "suction_line_f", "evaporator_outlet_f", "liquid_line_f", "discharge_line_f", "supply_db_f", "superheat_df", "subcooling_df", "evaporator_td_df", "ctoa_df", "air_delta_t_df", "drier_drop_df", "capacity_btuh", "power_w", "charge_oz", "frosting", "converged", "energy_residual", "mass_residual", "evaporator_superheat_df"]


def run(capsys, *args):
    code = cli.main([*args, "--json"])
    return code, json.loads(capsys.readouterr().out)


def test_machines_carry_the_contract_keys(capsys):
    code, rows = run(capsys, "machines")
    assert code == 0 and len(rows) >= 2
    assert set(rows[0]) == {"id", "name", "refrigerant", "metering", "application", "condenser", "receiver", "capacity_btuh",
                            "factory_charge_oz", "plate_subcooling_df", "plate_superheat_df"}


def test_faults_carry_the_contract_keys_and_none(capsys):
    _, rows = run(capsys, "faults")
    assert {"id", "parameter", "unit", "mild", "moderate", "severe", "causes"} == set(rows[0])
    assert {"none", "undercharge", "overcharge", "dirty_condenser", "low_airflow", "liquid_line_restriction",
            "leaking_compressor_valves", "valve_overfeeding", "orifice_oversized"} == {r["id"] for r in rows}


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


def test_levels_are_short_for_numbers(capsys):
    _, named = run(capsys, "solve", VALVE, *RATED, "--fault", "undercharge:moderate")
    _, number = run(capsys, "solve", VALVE, *RATED, "--fault", "undercharge:80")
    assert named == number and named["subcooling_df"] < 2


def test_a_cut_out_is_an_answer_with_null_readings(capsys):
    code, found = run(capsys, "solve", VALVE, "--outdoor-db-f", "115", "--return-db-f", "80", "--return-wb-f", "67",
                      "--fault", "dirty_condenser:30")
    assert code == 0
    assert found["tripped"]["cutout"] == "high_pressure" and found["tripped"]["after_s"] > 0
    assert found["head_psig"] is None and found["superheat_df"] is None


@pytest.mark.parametrize(("args", "words"), [
    (["solve", "toaster", *RATED], ["machine", "toaster", VALVE]),
    (["solve", VALVE, *RATED, "--fault", "undercharge:huge"], ["undercharge level", "huge", "mild"]),
    (["solve", VALVE, *RATED, "--fault", "gremlins"], ["fault", "gremlins", "undercharge"]),
    (["solve", VALVE, *RATED, "--box-f", "38"], ["box_f", "38"]),
    (["solve", VALVE, *RATED, "--heating"], ["heating"]),
    (["solve", VALVE, "--outdoor-db-f", "300", "--return-db-f", "80", "--return-wb-f", "67"], ["outdoor_db_f", "300", "125"]),
    (["pt", "R-999", "--psig", "100"], ["refrigerant", "R-999", "R-22"]),
    (["pt", "R-410A", "--psig", "9000"], ["psig", "9000"]),
    (["mark", "nowhere.json", "none.json"], ["call", "nowhere.json"]),
])
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
    plan.write_text(json.dumps({"title": "From a file", "machine": VALVE, "fault": "undercharge", "severity": 80, "units": "si",
                                "outdoor_db_f": 93, "return_db_f": 78, "return_wb_f": 65.5}))
    _, call = run(capsys, "call", str(plan), "--seed", "4")
    assert call["units"] == "si" and call["readings"]["suction_pressure"]["unit"] == "kPa"
    (tmp_path / "call.json").write_text(json.dumps(call))
    answers = perfect_answers(call_from_json(call)) | {"superheat": ""}
    (tmp_path / "answers.json").write_text(json.dumps(answers))
    _, marked = run(capsys, "mark", str(tmp_path / "call.json"), str(tmp_path / "answers.json"))
    assert (marked["earned"], marked["possible"]) == (13, 14)
    (tmp_path / "answers.json").write_text(json.dumps({"colour": "red"}))
    assert cli.main(["mark", str(tmp_path / "call.json"), str(tmp_path / "answers.json")]) == 2
    assert "colour" in capsys.readouterr().err


def test_bench_reports_ratios(capsys):
    _, rows = run(capsys, "bench", "--repeat", "20")
    assert rows[0]["ratio"] == 1.0 and {"what", "median_ms", "p95_ms", "ratio"} == set(rows[0])


def test_the_console_script_stands_beside_the_interpreter():
    script = Path(sys.executable).parent / "wolfsbane"
    done = subprocess.run([script, "pt", "R-22", "--psig", "68.5"], capture_output=True, text=True)
    assert done.returncode == 0 and "dew_f" in done.stdout
