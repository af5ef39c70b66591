"""Variants: one defensible answer, different numbers, the same for the same seed."""

import dataclasses

import pytest

from tests.conftest import ORIFICE, R22, VALVE, planned, weather
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, faults_for
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.diagnosis.targets import PRACTICES, practice_by_id
from wolfsbane.exercise.draw import variant
from wolfsbane.exercise.draw.judgement import judge
from wolfsbane.exercise.draw.seeds import CODE_LENGTH, call_seed, check_letter, code_for, normal_code
from wolfsbane.exercise.draw.variant import NoVariantError, fingerprint, vary
from wolfsbane.exercise.marking.grade import grade, perfect_answers, total
from wolfsbane.exercise.paper.call import EDGE_MARGIN, call_from_json
from wolfsbane.exercise.paper.nameplate import NameplateLine
from wolfsbane.exercise.plan.scenario import require_paper, scenario

PRACTICE = practice_by_id("plate_and_formula")
#: a scenario file as the first version wrote it
OLD = {
    "schema": 1,
    "title": "A test call",
    "machine": VALVE,
    "fault": "undercharge",
    "severity": 80,
    "outdoor_db_f": 93,
    "return_db_f": 78,
    "return_wb_f": 65.5,
}


def test_the_same_seed_gives_the_same_call_and_another_seed_another():
    first, again, other = (vary(planned(), "us", seed).to_json() for seed in (4, 4, 5))
    assert first == again
    assert first["readings"] != other["readings"]


def test_twelve_apprentices_get_twelve_different_readings_for_one_fault():
    calls, seen = [], set()
    for index in range(12):
        calls.append(vary(planned(), "us", call_seed(77, 1, index), frozenset(seen)))
        seen.add(fingerprint(calls[-1]))
    assert len({fingerprint(c) for c in calls}) == 12
    assert {c.key.fault for c in calls} == {"undercharge"}
    assert len({tuple(row.id for row in c.choices.fault) for c in calls}) > 6


@pytest.mark.parametrize("system", ["us", "si"])
@pytest.mark.parametrize(
    ("machine_id", "fault"),
    [
        (VALVE, "undercharge"),
        (VALVE, "leaking_compressor_valves"),
        (ORIFICE, "low_airflow"),
        (ORIFICE, "orifice_oversized"),
    ],
)
def test_the_key_is_computed_from_what_was_printed(machine_id, fault, system):
    kind = next(k for k in faults_for(machine(machine_id)) if k.id == fault)
    call = vary(planned(fault, kind.severe, machine_id), system, 2)
    found = work_out(
        call.machine.refrigerant,
        {k: r.value for k, r in call.readings.items()},
        system,
        call.conditions.barometer_pa,
    )
    assert {k: round(v, 2) for k, v in found.items()} == call.key.figures
    assert total(grade(call, perfect_answers(call))) == (33, 33)


def test_readings_stay_off_the_edges_of_their_targets():
    for seed in range(8):
        call = vary(planned("undercharge", 80), "us", seed)
        for name, band in call.key.bands.items():
            assert len(band.verdicts_within(call.key.figures[name], EDGE_MARGIN["us"])) == 1


@pytest.mark.slow
@pytest.mark.parametrize(
    "machine_id", [VALVE, ORIFICE, R22, "split-3t-r454b-txv", "split-1.5t-r32-orifice", "heatpump-3t-r410a-txv"]
)
def test_every_taught_fault_can_be_asked_in_both_units(machine_id):
    for kind in candidates(machine(machine_id)):
        for severity in (kind.moderate, kind.severe):
            for system in ("us", "si"):
                call = vary(planned(kind.id, severity, machine_id), system, 1)
                assert call.key.fault == kind.id


@pytest.mark.parametrize(
    "fault",
    [
        "condenser_fan_weak",
        "condenser_recirculation",
        "wet_condenser",
        "mismatched_coil",
        "valve_underfeeding",
        "distributor_blocked",
        "long_liquid_line",
    ],
)
def test_a_fault_beyond_the_taught_ones_is_a_call_with_itself_among_the_choices(fault):
    kind = FAULTS[fault]
    call = vary(planned(fault, kind.moderate), "us", 4)
    letters = {row.id for row in call.choices.fault}
    assert fault in letters and kind.stands_for not in letters & set(call.key.also_open)
    assert total(grade(call, perfect_answers(call))) == (33, 33)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"fault": "valve_hunting", "severity": 15}, "fault"),
        ({"fault": "high_load", "severity": 9}, "fault"),
    ],
)
def test_what_cannot_be_asked_on_paper_yet_is_refused_at_the_scenario(change, field):
    with pytest.raises(BadInputError) as error:
        require_paper(scenario(OLD | change))
    assert error.value.field == field and "paper" in error.value.allowed


def test_an_old_machine_says_on_its_plate_what_ctoa_is_right_for_it():
    old = vary(planned("undercharge", 75, "split-2.5t-r22-orifice-old"), "us", 3)
    assert NameplateLine(label="Usual CTOA", text="23 to 32 °F") in old.machine.plate
    assert not any("CTOA" in row.label for row in vary(planned(), "us", 3).machine.plate)


@pytest.mark.parametrize("chosen", PRACTICES)
def test_a_call_can_be_made_and_marked_under_every_school(chosen):
    call = vary(planned("low_airflow", 46, ORIFICE, practice=chosen), "us", 3)
    assert call.practice["id"] == chosen and total(grade(call, perfect_answers(call))) == (33, 33)


@pytest.fixture
def fewer_tries(monkeypatch):
    """A tenth of the draws: a call that is refused in every one of them is refused the same way."""
    monkeypatch.setattr(variant, "MAX_TRIES", 12)
    monkeypatch.setattr(variant, "STRICT_TRIES", 7)


@pytest.mark.usefixtures("fewer_tries")
def test_air_in_the_circuit_is_not_told_from_an_overcharge_without_the_standing_pressure():
    with pytest.raises(NoVariantError, match="overcharge"):
        vary(planned("non_condensables", 1.5), "us", 1)


def test_the_sound_machine_is_a_call_too_and_everything_is_on_target():
    call = vary(planned("none", None), "us", 8)
    assert set(call.key.verdicts.values()) == {"normal"}
    assert call.key.evidence == ("all_on_target",) and call.key.fault == "none"


@pytest.mark.usefixtures("fewer_tries")
def test_a_fault_too_faint_for_the_instruments_is_refused_with_the_reason():
    with pytest.raises(NoVariantError, match="no variant with one defensible answer") as error:
        vary(planned("overcharge", 101.5, spread_depth_pct=0), "us", 1)
    assert sum(error.value.counts.values()) == 12


def test_readings_within_tolerance_of_the_sound_machine_are_refused():
    found = judge(machine(VALVE), weather(), Fault(id="undercharge", severity=99), PRACTICE, "analogue", "us")
    assert "within what the instruments may be off" in found.refusal and found.proof.threshold["severity"] < 99


def test_a_machine_that_cuts_out_is_refused():
    found = judge(
        machine(VALVE), weather(outdoor=112), Fault(id="dirty_condenser", severity=25), PRACTICE, "analogue", "us"
    )
    assert found.refusal == "the machine cuts out"


def test_weather_that_puts_a_sound_machine_off_target_is_refused():
    found = judge(
        machine(VALVE),
        weather(return_db=80, return_wb=55),
        Fault(id="undercharge", severity=75),
        PRACTICE,
        "analogue",
        "us",
    )
    assert found.refusal == "even with nothing wrong the machine is off target in this weather"


def test_the_key_shows_the_readings_after_the_repair():
    call = vary(planned("undercharge", 75), "us", 6)
    subcooling = float(call.key.after_figures["subcooling"].split()[0])
    assert call.key.bands["subcooling"].verdict(subcooling) == "normal"
    assert call.key.verdicts["subcooling"] == "low"


def test_a_call_comes_back_from_storage_unchanged():
    call = vary(planned(), "si", 3)
    assert call_from_json(call.to_json()) == call
    assert call.table_hash and call.solver_version and call.machine.circuit["charge_kg"] == 3.375


def test_paper_codes_catch_a_mistyped_letter():
    code = code_for(1, 2, 3)
    assert len(code) == CODE_LENGTH and normal_code(code.lower()) == code
    assert normal_code(f"{code[:3]} {code[3:]}") == code
    wrong = ("A" if code[0] != "A" else "C") + code[1:]
    assert normal_code(wrong) is None and normal_code(code[:-1]) is None and normal_code("O0I1ZZ") is None
    assert check_letter(code[:-1]) == code[-1]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"machine": "toaster"}, "machine"),
        ({"fault": "gremlins"}, "fault"),
        ({"severity": 12}, "undercharge level"),
        ({"severity": None}, "severity"),
        ({"fault": "none"}, "severity"),
        ({"title": " "}, "title"),
        ({"outdoor_db_f": 300}, "outdoor_db_f"),
        ({"colour": "red"}, "colour"),
        ({"spread_outdoor_df": 90}, "spread_outdoor_df"),
        ({"look_round": ["x" * 300]}, "look_round"),
        ({"instruments": "crystal"}, "instruments"),
        ({"schema": 9}, "schema"),
        ({"fault": "orifice_oversized", "severity": 120}, "fault"),
    ],
)
def test_a_bad_scenario_is_refused_naming_the_field(change, field):
    with pytest.raises(BadInputError) as error:
        scenario(OLD | change)
    assert error.value.field == field


def test_a_scenario_survives_json_with_the_same_hash():
    made = planned(look_round=["Filter clean."])
    assert scenario(made.to_json()) == made
    assert scenario(made.to_json()).content_hash() == made.content_hash()
    other = dataclasses.replace(made, faults=(dataclasses.replace(made.faults[0], severity=81),))
    assert other.content_hash() != made.content_hash()
