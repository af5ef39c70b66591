"""Claims of a proof against a brute-force search that shares no line with it."""

import os
import random
import subprocess
import sys
from dataclasses import replace

import pytest

from tests.conftest import VALVE, weather
from wolfsbane.cli.main import main
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.devtools import audit
from wolfsbane.devtools.counterexamples import COMPANY, PAIR, SINGLE, search
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import given_readings, solved_cases

STEADY = ("wrong_refrigerant", "wet_condenser", "high_load", "low_load", "undersized_unit", "valve_hunting")


@pytest.fixture(scope="module")
def cases():
    return solved_cases(machine(VALVE), weather(93, 78, 65.5))


def page(cases, *rows, tests=()):
    faults = tuple(Fault(id=i, severity=s) for i, s in rows)
    made = audit._page(cases, faults, given_readings(cases.machine), tests)
    return replace(made, ruled_out=STEADY)


def among(*families):
    return lambda ids: set(ids) <= set(families)


def test_the_search_finds_a_twin_and_a_look_ends_it(cases):
    open_page = page(cases, ("dirty_condenser", 55.0))
    found = search(open_page, random.Random(1), only=among("condenser_fan_weak", "undercharge"), kinds=(SINGLE,))
    assert [r.id for r in found] == ["condenser_fan_weak"] and found[0].distance < 0.6
    looked = replace(open_page, tests={"condenser_fan": "right"})
    assert not search(looked, random.Random(1), only=among("condenser_fan_weak"), kinds=(SINGLE,))


def test_the_search_finds_twins_in_pairs_and_what_could_hide(cases):
    both = page(cases, ("dirty_condenser", 54.1), ("overcharge", 117.9))
    found = search(both, random.Random(2), only=among("condenser_fan_weak", "overcharge"), kinds=(PAIR,))
    assert [r.id for r in found] == ["condenser_fan_weak+overcharge"]
    starved = page(cases, ("liquid_line_restriction", 220.0))
    hides = search(
        starved, random.Random(3), only=among("liquid_line_restriction", "valve_overfeeding"), kinds=(COMPANY,)
    )
    assert [r.id for r in hides] == ["liquid_line_restriction+valve_overfeeding"]


def test_air_read_a_little_off_lets_more_through(cases):
    made = page(cases, ("low_airflow", 66.0))
    still = search(made, random.Random(4), only=among("mismatched_coil"), kinds=(SINGLE,))
    moved = search(made, random.Random(4), only=among("mismatched_coil"), kinds=(SINGLE,), weather=True, effort=0.5)
    assert len(moved) >= len(still)
    assert all(any(r.moved_f) or r.distance <= 1.0 for r in moved)


@pytest.mark.slow
@pytest.mark.parametrize("seed", [71000, 72000])
def test_no_claim_of_a_generated_call_is_contradicted(seed):
    row = next(found for number in range(seed, seed + 40) if (found := audit.searched_call(number)) is not None)
    assert row["claims"]["singles"] and row["claims"]["pairs"]
    for claim, holds in row["claims"].items():
        assert not (holds and row["against"].get(claim)), row


@pytest.mark.slow
def test_no_claim_of_a_scenario_is_contradicted():
    table = audit.proof_table([audit.searched_scenario(72000), audit.searched_scenario(72001)])
    assert table["claims"] and not table["counterexamples"]


def test_a_claim_that_is_contradicted_is_counted():
    false = {
        "seed": 1,
        "claims": {"pairs": True, "company": False},
        "hidden": ["x"],
        "against": {"pairs": ["y at 0.5"]},
    }
    table = audit.proof_table([false, None])
    assert table["claims"]["pairs"] == {"stated": 1, "counterexamples": 1}
    assert table["claims"]["company"] == {"not_stated": 1} and table["counterexamples"][0]["claim"] == "pairs"


def test_what_the_search_calls_a_counterexample_the_proof_counts_as_well(cases):
    faults = (Fault(id="undercharge", severity=80.0),)
    proof = prove(cases, faults, wants_splits=False)
    found = search(page(cases, ("undercharge", 80.0)), random.Random(5), only=among("long_liquid_line"))
    assert {r.id for r in found} <= {r.id for r in (*proof.equals, *proof.beside)} and found


def rows(levels):
    return [
        {
            "seed": i,
            "level": level,
            "faults": 1,
            "success": 1 - level / 10,
            "book": level < 5,
            "others": 1 - level / 9,
            "by_patterns": 1 - level / 8,
            "without_looks": 1 - level / 8,
        }
        for i, level in enumerate(levels)
    ]


def test_the_tables_add_up():
    some = rows([1, 1, 2, 3, 4, 5])
    book = audit.technician_table([*some, None])
    assert book["calls"] == 6 and book["named"] == pytest.approx(5 / 6) and book["levels"][5]["named"] == 0.0
    hard = audit.level_table(some)
    assert hard["rank_all"] == pytest.approx(1.0) and list(hard["levels"]) == [1, 2, 3, 4, 5]
    assert audit.level_table(rows([5, 4, 3, 2, 1]))["rank_single"] == pytest.approx(1.0)


def test_the_command_prints_a_table(capsys):
    assert main(["audit", "technician", "--seed", "73", "--count", "2", "--workers", "1"]) == 0
    assert "calls" in capsys.readouterr().out
    assert main(["audit", "levels", "--count", "0"]) == 2


@pytest.mark.slow
def test_the_same_seed_gives_the_same_bytes_whatever_the_order_of_sets(tmp_path):
    asked = tmp_path / "request.json"
    asked.write_text(
        '{"title": "Bytes", "machines": ["split-3t-r410a-txv"], "calls": 1, "apprentices": 1, "seed": 4,'
        ' "faults": ["undercharge", "low_airflow"], "fault_free_share": 0, "levels": [1, 5]}'
    )
    told = []
    for order in ("1", "2"):
        done = subprocess.run(
            [sys.executable, "-m", "wolfsbane.cli.main", "generate", str(asked), "--workers", "1", "--json"],
            capture_output=True,
            env={**os.environ, "PYTHONHASHSEED": order},
        )
        assert done.returncode == 0, done.stderr
        told.append(done.stdout)
    assert told[0] == told[1] and len(told[0]) > 5000
