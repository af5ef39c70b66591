"""The diagnosis: of our machines, of strangers', of few readings and of none."""

import copy
import json
import random
from dataclasses import replace
from pathlib import Path

import pytest

from tests.conftest import LATER, ORIFICE, VALVE, weather
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import FAULTS, Fault, faults_for
from wolfsbane.cycle.field_tests import ask
from wolfsbane.cycle.field_tests import tests_for as field_tests_for
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.sweep import random_conditions
from wolfsbane.devtools.trials import cases, hand_rows, hidden, noisy, run, stranger
from wolfsbane.diagnosis.diagnose import diagnose
from wolfsbane.diagnosis.likelihoods import CHECKS, shares
from wolfsbane.diagnosis.next_step import gain_of_number, gain_of_words
from wolfsbane.diagnosis.observed import observed, plate_of, to_json
from wolfsbane.diagnosis.targets import PRACTICES, practice_by_id
from wolfsbane.diagnosis.vectors import solved

PRACTICE = practice_by_id("plate_and_formula")
HAND = json.loads((Path(__file__).parent / "hand_cases.json").read_text())
EXAMPLE = HAND[0]["readings"]


def answer(data, practice=PRACTICE):
    return diagnose(observed(data), practice).to_json()


def changed(*path, to):
    data = copy.deepcopy(EXAMPLE)
    at = data
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = to
    return data


@pytest.mark.parametrize("row", hand_rows(HAND), ids=lambda row: row["id"])
def test_against_what_a_good_technician_would_say(row):
    """Cases written and judged by hand (common practice, no source)."""
    assert row["agrees"], f"{row['first']} instead of {row['expect']}"


@pytest.mark.parametrize("row", HAND[::3], ids=lambda row: row["id"])
def test_weights_are_shares_of_one_and_fall(row):
    found = answer(row["readings"])["ranked"]
    weights = [r["weight"] for r in found]
    assert sum(weights) == pytest.approx(1.0, abs=1e-6) and weights[1:] == sorted(weights[1:], reverse=True)
    assert {"none", "not_settled", "not_enough_readings"} <= {r["fault"] for r in found}
    assert all("+".join(sorted(r["fault"].split("+"))) == r["fault"] for r in found)


def test_the_reasons_cite_the_figures_and_say_what_speaks_against():
    found = answer(EXAMPLE)["ranked"]
    assert any(
        "subcooling 1 °F against a target of 10: the condenser is short of liquid" in r for r in found[0]["reasons"]
    )
    airless = answer(HAND[7]["readings"])["ranked"]
    assert airless[0]["fault"] == "low_airflow" and any(r["against"] for r in airless[1:8])
    assert any("would go with it" in text for r in airless[1:8] for text in r["against"])


def metric(data):
    """The same readings in the other units."""
    found = copy.deepcopy(data)
    for group in ("conditions", "readings", "machine"):
        for key, value in list(found.get(group, {}).items()):
            turn = {
                "_psig": ("_kpa_gauge", lambda v: v * 6.894757293168),
                "_df": ("_dc", lambda v: v / 1.8),
                "_f": ("_c", lambda v: (v - 32) / 1.8),
            }
            for old, (new, convert) in turn.items():
                if key.endswith(old) and value is not None and not isinstance(value, str):
                    del found[group][key]
                    found[group][key.removesuffix(old) + new] = (
                        [convert(v) for v in value] if isinstance(value, list) else convert(value)
                    )
                    break
    return found


@pytest.mark.parametrize("row", HAND[::4], ids=lambda row: row["id"])
def test_changing_units_changes_nothing(row):
    first, second = answer(row["readings"])["ranked"], answer(metric(row["readings"]))["ranked"]
    assert [r["fault"] for r in first[:5]] == [r["fault"] for r in second[:5]]
    assert [r["weight"] for r in first] == pytest.approx([r["weight"] for r in second], abs=1e-5)


@pytest.mark.parametrize("row", HAND[1::5], ids=lambda row: row["id"])
def test_the_order_of_readings_does_not_matter(row):
    turned = copy.deepcopy(row["readings"])
    for group in ("readings", "conditions", "looked_at"):
        if group in turned:
            turned[group] = dict(reversed(turned[group].items()))
    turned = dict(reversed(turned.items()))
    assert answer(turned) == answer(row["readings"])


WALKED = tuple(m for m in MACHINES if m not in LATER)


@pytest.mark.slow
@pytest.mark.parametrize(
    ("seed", "machines"),
    [
        *((seed, WALKED) for seed in range(3)),
        (3, LATER),
        pytest.param(
            0,
            tuple(MACHINES),
            marks=pytest.mark.xfail(
                strict=True,
                reason="known: an unlisted walk-in that floods its condenser in the cold is called dirty there",
            ),
        ),
    ],
    ids=lambda v: str(v) if isinstance(v, int) else f"of {len(v)}",
)
def test_a_sound_machine_in_its_weather_is_never_called_faulty(seed, machines):
    rng = random.Random(f"sound/{seed}")
    asked = 0
    while asked < 14:
        m = rng.choice([MACHINES[m] for m in machines if not MACHINES[m].in_heating])
        where = random_conditions(m, rng)
        state = solved(m, where, ())
        if state is None:
            continue
        quiet = random.Random()
        quiet.gauss = lambda mean, sd: 0.0
        for known in (True, False):
            seen = noisy(m, where, state, (), quiet, known=known)
            first = diagnose(seen, PRACTICE).ranked[0].fault
            assert first in ("none", "high_load", "low_load", "undersized_unit"), (m.id, where, known)
        asked += 1


@pytest.mark.slow
@pytest.mark.parametrize(
    "machine_id", [VALVE, ORIFICE, "split-2t-r32-txv", "walkin-cooler-r404a-txv", "water-cooled-5t-r407c-txv"]
)
def test_severe_faults_of_our_own_machines_stay_among_the_accepted(machine_id):
    m = machine(machine_id)
    where = (
        weather(93, 78, 65.5)
        if not m.refrigeration and m.condenser != "water_cooled"
        else random_conditions(m, random.Random(4))
    )
    for kind in FAULTS.values():
        if not kind.suits(m) or kind.id in ("high_load", "low_load", "undersized_unit", "valve_hunting"):
            continue
        state = solved(m, where, (Fault(id=kind.id, severity=kind.severe),))
        if state is None or state.equalized or hidden(m, where, (Fault(id=kind.id, severity=kind.severe),), state):
            continue
        seen = noisy(m, where, state, (), random.Random(kind.id), known=True)
        assert kind.id in diagnose(seen, PRACTICE).accepted, (kind.id, diagnose(seen, PRACTICE).accepted)


@pytest.mark.slow
def test_trials_meet_what_was_promised_within_their_own_noise():
    """98 % accepted and 95 % first where unique are measured over many more cases in docs/diagnosis.md;
    here is a sample.
    """
    found = run(40, 3)
    assert found["accepted"] >= 37 and found["unique_first"] >= 0.85 * found["unique"]
    assert run(25, 3, known=False)["accepted"] >= 19


def test_a_stranger_is_charged_right_by_its_plate_but_another_machine():
    rng = random.Random(2)
    made = next(m for m in (stranger(machine(VALVE), rng) for _ in range(9)) if m is not None)
    where = weather()
    ours, theirs = solve(machine(VALVE), where), solve(made, where)
    assert theirs.subcooling_dk == pytest.approx(ours.subcooling_dk, abs=1.2)
    assert abs(theirs.capacity_w / ours.capacity_w - 1.0) > 0.01 and abs(theirs.charge_kg / ours.charge_kg - 1) > 0.005


def test_undercharge_is_never_concluded_from_the_suction_alone():
    low = {
        "machine": {"refrigerant": "R-410A", "metering": "txv"},
        "conditions": {"outdoor_db_f": 85, "return_db_f": 76},
    }
    for psig in (60, 80, 95):
        found = answer(low | {"readings": {"suction_psig": psig}})
        faults = [r["fault"] for r in found["ranked"] if r["fault"] not in ("not_enough_readings", "not_settled")]
        assert (
            found["ranked"][0]["fault"] == "not_enough_readings"
            and faults[0] != "undercharge"
            and "undercharge" in faults[:8]
        )
    looked = {"filter": "clean", "evaporator_coil": "clean", "condenser_coil": "clean"}
    orifice = low | {
        "machine": {"refrigerant": "R-410A", "metering": "fixed_orifice"},
        "readings": {"suction_psig": 70},
        "looked_at": looked,
    }
    ranked = [r["fault"] for r in answer(orifice)["ranked"]]
    assert ranked.index("undercharge") <= 1, "with the air proven an orifice machine may be called low"


def test_more_readings_make_the_answer_surer():
    full = EXAMPLE["readings"]
    some = [
        answer(changed("readings", to={k: full[k] for k in keys}))["ranked"]
        for keys in (("suction_psig",), ("suction_psig", "suction_line_f"), tuple(full))
    ]
    lacking = [next(r["weight"] for r in ranked if r["fault"] == "not_enough_readings") for ranked in some]
    assert lacking[0] > lacking[1] > lacking[2]


def test_a_next_step_is_named_with_its_caution_and_done_ones_are_not_asked_again():
    worn = {
        "machine": {"refrigerant": "R-22", "metering": "txv"},
        "conditions": {"outdoor_db_f": 92, "return_db_f": 80, "return_wb_f": 67},
        "readings": {"suction_psig": 88, "head_psig": 205, "suction_line_f": 62, "liquid_line_f": 98},
    }
    steps = [s["id"] for s in answer(worn)["next_steps"]]
    assert "pump_down" in [s.id for s in diagnose(observed(worn), PRACTICE).steps]
    done = answer(worn | {"tests": [{"test": "pump_down", "result": "suction_holds"}]})
    assert "pump_down" not in [s["id"] for s in done["next_steps"]] and steps
    assert done["ranked"][0]["fault"] in ("leaking_compressor_valves", "compressor_not_pumping")


@pytest.mark.parametrize(
    ("check", "word", "fault"),
    [
        ("bulb", "loose", "valve_overfeeding"),
        ("standing_pressure", "above_chart", "non_condensables"),
        ("condenser_coil", "dirty", "dirty_condenser"),
        ("condenser_wet", True, "wet_condenser"),
    ],
)
def test_a_look_or_test_moves_belief_to_what_it_shows(check, word, fault):
    data = {
        "machine": {"refrigerant": "R-410A", "metering": "txv"},
        "readings": {"suction_psig": 120, "head_psig": 350},
    }
    more = data | (
        {"tests": [{"test": check, "result": word}]} if check == "standing_pressure" else {"looked_at": {check: word}}
    )

    def weight(d):
        return next(r["weight"] for r in answer(d)["ranked"] if r["fault"] == fault)

    assert weight(more) > 3 * weight(data)


@pytest.mark.parametrize(("machine_id", "tells"), [("walkin-cooler-r448a-txv", False), ("split-3t-r410a-txv", True)])
def test_frost_on_the_coil_of_a_box_is_normal_and_tells_nothing(machine_id, tells):
    box = MACHINES[machine_id].refrigeration
    air = {"box_f": 39, "outdoor_db_f": 95} if box else {"return_db_f": 78, "return_wb_f": 65, "outdoor_db_f": 95}
    data = {"machine": {"profile": machine_id}, "conditions": air, "readings": {"suction_psig": 55, "head_psig": 290}}
    plain, iced = answer(data), answer(data | {"looked_at": {"evaporator_ice": True}})
    weights = [{r["fault"]: r["weight"] for r in found["ranked"]} for found in (plain, iced)]
    assert (weights[0] != weights[1]) == tells
    assert ("thaw" in json.dumps(iced)) == tells
    assert any(s["id"] == "evaporator_ice" for s in plain["next_steps"]) <= tells


def test_shares_of_words_sum_to_one_and_two_faults_show_more_than_one():
    for check, words in CHECKS.items():
        for families in (
            (),
            ("low_airflow",),
            ("low_airflow", "undercharge"),
            ("leaking_compressor_valves", "valve_overfeeding"),
        ):
            found = shares(check, families)
            assert len(found) == len(words) and sum(found) == pytest.approx(1.0) and min(found) > 0
    assert shares("evaporator_ice", ("low_airflow", "undercharge"))[1] > shares("evaporator_ice", ("undercharge",))[1]


def test_expected_information_is_the_entropy_a_perfect_test_removes():
    import numpy as np

    half = np.array([0.5, 0.5])
    assert gain_of_words(half, np.array([[1.0, 0.0], [0.0, 1.0]])) == pytest.approx(1.0)
    assert gain_of_words(half, np.array([[0.5, 0.5], [0.5, 0.5]])) == pytest.approx(0.0, abs=1e-9)
    assert gain_of_number(half, np.array([0.0, 50.0]), 1.0) == pytest.approx(1.0, abs=1e-6)


def test_a_machine_at_rest_tells_of_air_and_of_emptiness_only():
    rest = {
        "machine": {"refrigerant": "R-410A", "metering": "txv"},
        "conditions": {"outdoor_db_f": 80},
        "running": False,
    }

    def first(psig):
        return answer(rest | {"readings": {"head_psig": psig}})["ranked"][0]["fault"]

    assert (first(290), first(90), first(236)) == ("non_condensables", "undercharge", "not_enough_readings")


def test_figures_that_do_not_follow_are_named():
    found = answer(changed("readings", "superheat_df", to=15))["computed"]["contradictions"]
    assert len(found) == 1 and "superheat is given as 15" in found[0]


@pytest.mark.parametrize("chosen", PRACTICES)
def test_every_school_gives_an_answer_by_its_own_targets(chosen):
    found = answer(EXAMPLE, practice_by_id(chosen))
    assert found["ranked"][0]["fault"] == "undercharge"
    low, high = found["computed"]["targets"]["subcooling_df"]
    assert (low, high) == ((9, 13) if chosen == "tight_plate" else (7, 13))


@pytest.mark.parametrize(
    ("path", "value", "field"),
    [
        (("machine", "refrigerant"), "R-999", "refrigerant"),
        (("machine", "metering"), "magic", "machine.metering"),
        (("machine", "colour"), "red", "machine.colour"),
        (("readings", "suction_psig"), "low", "readings.suction_psig"),
        (("readings", "suction_bar"), 3, "readings.suction_bar"),
        (("readings", "head_psig"), 4000, "readings.head_psig"),
        (("readings", "head_psig"), [1, 2, 3], "readings.head_psig"),
        (("readings", "suction_kpa_gauge"), 700, "readings.suction_kpa_gauge"),
        (("conditions", "return_wb_f"), 99, "conditions.return_wb"),
        (("looked_at", "filter"), "grey", "looked_at.filter"),
        (("looked_at", "roof"), "flat", "looked_at.roof"),
        (("tests",), [{"test": "guess", "result": "x"}], "tests.test"),
        (("tests",), [{"test": "pump_down", "result": "x"}], "tests.pump_down"),
        (("running",), "yes", "running"),
        (("extra",), 1, "extra"),
        (("schema",), 9, "schema"),
        (("readings", "suction_psig"), True, "readings.suction_psig"),
    ],
)
def test_bad_readings_are_refused_naming_the_key(path, value, field):
    with pytest.raises(BadInputError) as error:
        observed(changed(*path, to=value))
    assert error.value.field == field


def test_readings_survive_json():
    for row in HAND:
        seen = observed(row["readings"])
        assert observed(json.loads(json.dumps(to_json(seen)))) == seen
    own = replace(observed(EXAMPLE), plate=plate_of(machine(ORIFICE)))
    assert observed(to_json(own)) == own


def test_the_stock_of_trial_cases_is_the_same_for_the_same_seed():
    first, again = ([(c.machine.id, c.faults, c.seen) for c in cases(4, 8)] for _ in range(2))
    assert first == again


@pytest.mark.parametrize(
    "machine_id", ["walkin-cooler-r448a-txv", "split-3t-r410a-txv", "package-10t-r410a-two-circuits"]
)
def test_every_word_that_a_machine_answers_is_known_here(machine_id):
    """Only that it did not stay on, or that it cannot be done there, tells nothing."""
    m = MACHINES[machine_id]
    rated = rating_conditions(m)
    for kind in faults_for(m):
        for severity in (kind.mild, kind.severe):
            for test in field_tests_for(m):
                try:
                    word = ask(m, rated, (Fault(id=kind.id, severity=severity),), test.id, "us").word
                except (BadInputError, NoConvergenceError):
                    continue
                assert test.id not in CHECKS or word in (*CHECKS[test.id], "cut_out", "not_possible"), (test.id, word)


def test_a_receiver_that_is_all_but_empty_speaks_for_a_low_charge_and_a_full_one_for_too_much():
    """Glass still clear: the level of the receiver is what goes first (common practice, no source)."""
    data = {
        "machine": {"profile": "walkin-cooler-r448a-txv"},
        "conditions": {"outdoor_db_f": 95, "box_f": 35},
        "readings": {"suction_psig": 46, "head_psig": 295, "liquid_line_f": 110},
    }

    def belief(word, fault):
        found = answer(data | {"tests": [{"test": "sight_glass", "result": word}]})
        return next((r["weight"] for r in found["ranked"] if r["fault"] == fault), 0.0)

    assert belief("low", "undercharge") > 4 * belief("clear", "undercharge")
    assert belief("full", "overcharge") > 4 * belief("clear", "overcharge")
