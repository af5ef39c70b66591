"""The catalog a teacher picks from, and which faults a call is weighed against."""

import random

import pytest

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.faults import FAULTS, faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, TAUGHT, candidates
from wolfsbane.exercise.draw.offered import OFFERED, offer
from wolfsbane.exercise.paper.nameplate import full_plate, plate_lines
from wolfsbane.exercise.paper.questions import FAULT_LETTERS, choices
from wolfsbane.exercise.show.catalog import fault_catalog, machine_catalog, weather_of

EVERY = pytest.mark.parametrize("m", MACHINES.values(), ids=lambda m: m.id)


@EVERY
def test_the_weather_handles_of_a_machine_are_what_it_asks_for(m):
    rated = {row["field"]: row["rated"] for row in weather_of(m)}
    assert solve(m, for_machine(m, **rated)).trip is None
    for row in weather_of(m):
        assert row["low"] <= row["rated"] <= row["high"]
        for end in ("low", "high"):
            moved = rated | {row["field"]: row[end]}
            if moved.get("return_wb_f", 0) <= moved.get("return_db_f", 0):
                for_machine(m, **moved)


@EVERY
def test_the_whole_plate_is_written_in_both_systems(m):
    us, si = ({row["label"]: row["text"] for row in full_plate(m, system)} for system in ("us", "si"))
    assert (
        len(us) == len(si) >= 9
        and us["Model"] == si["Model"]
        and us["High-pressure cutout"].endswith("psig")
        and si["High-pressure cutout"].endswith("kPa")
    )
    assert not any("°F" in text or "psi" in text for text in si.values())
    short = [row["label"] for row in plate_lines(m, "us")]
    named = "Target subcooling in cooling" if m.in_heating else "Target subcooling"
    assert (named in short) == (m.plate.target_subcooling_dk is not None)
    assert ("Superheat at the coil" in short) == (m.plate.target_superheat_dk is not None)
    assert any("of line" in label for label in short) == (not m.sealed)


def test_the_catalogue_lists_every_machine_and_every_fault_once():
    assert [m["id"] for m in machine_catalog()] == list(MACHINES)
    rows = fault_catalog()
    assert [r["id"] for r in rows] == ["none", *FAULTS, *INSTRUMENT_FAULTS]
    for row in rows[1:]:
        assert row["name"] and row["effect"] and row["remedy"] and row["rig"] and row["causes"], row["id"]
        assert row["machines"], f"{row['id']} stands nowhere"
        assert row["on_paper"] == (row["id"] in FAULTS and row["id"] not in NOT_ON_PAPER)


@EVERY
def test_a_call_never_needs_more_letters_than_there_are(m):
    for kind in [k for k in faults_for(m) if k.id not in NOT_ON_PAPER]:
        offered = offer(m, (kind.id,), {}, None, set(), random.Random(1))
        found = choices(m, random.Random(1), offered)
        assert len(found.fault) == OFFERED + 1 <= len(FAULT_LETTERS)
        assert kind.id in {row.id for row in found.fault}


@EVERY
def test_only_faults_the_machine_can_have_are_weighed(m):
    possible = {k.id for k in faults_for(m)}
    for fault_id in ("none", *possible):
        names = [k.id for k in candidates(m, () if fault_id == "none" else (fault_id,))]
        assert set(names) <= possible and len(names) == len(set(names)) and (fault_id == "none" or fault_id in names)
        assert set(names) <= set(TAUGHT) | {fault_id}


def test_a_valve_machine_is_not_weighed_against_an_orifice():
    assert "orifice_oversized" not in {k.id for k in candidates(machine("split-3t-r410a-txv"))}
    assert "valve_overfeeding" not in {k.id for k in candidates(machine("split-3t-r410a-orifice"))}
    assert "dirty_condenser" not in {k.id for k in candidates(machine("water-cooled-5t-r407c-txv"))}
