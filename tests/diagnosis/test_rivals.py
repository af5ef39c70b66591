"""Rivals are found where they are: twins, pairs that flood, every severity that fits."""

import numpy as np
import pytest

from tests.conftest import ORIFICE, VALVE, weather
from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, Fault, fault_kind
from wolfsbane.cycle.field_tests import ask
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis import words as told_by
from wolfsbane.diagnosis.proof import CLAIMS, offered_claim, prove
from wolfsbane.diagnosis.rivals import COMPANY, PAIR, SAME, SINGLE, Rivals, twin_of
from wolfsbane.diagnosis.solved_cases import given_readings, solved_cases
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.diagnosis.weather_off import moved_weather
from wolfsbane.diagnosis.words import words


@pytest.fixture(scope="module")
def cases():
    return solved_cases(machine(VALVE), weather(93, 78, 65.5))


def planted(*rows):
    return tuple(Fault(id=i, severity=s) for i, s in rows)


def of(cases, faults):
    return Rivals(
        cases, faults, solved(cases.machine, cases.conditions, faults), ("wrong_refrigerant", "wet_condenser")
    )


def test_families_that_do_the_same_are_twins_and_twins_are_equals_in_pairs_too(cases):
    assert twin_of("condenser_fan_weak") == "dirty_condenser" and twin_of("undercharge") == "undercharge"
    proof = prove(cases, planted(("dirty_condenser", 54.1), ("overcharge", 117.9)), wants_splits=False)
    twin = next(r for r in proof.equals if r.id == "condenser_fan_weak+overcharge")
    assert twin.distance < 0.6 and twin.kind == PAIR and not proof.unique
    assert {f.id: f.severity for f in twin.faults}["condenser_fan_weak"] == pytest.approx(54.1, abs=2.5)


def test_a_pair_that_floods_is_found_though_adding_up_misses_it_by_far(cases):
    """A short charge beside an overfeeding valve reads like a long line beside one: added up it lies far off."""
    found = of(cases, planted(("valve_overfeeding", 92.2), ("undercharge", 82.6))).nearest(
        given_readings(machine(VALVE)), frozenset({"long_liquid_line+valve_overfeeding"})
    )
    assert [r.id for r in found] == ["long_liquid_line+valve_overfeeding"] and found[0].distance <= SAME


def test_a_single_rival_may_be_milder_than_mild(cases):
    line = next(
        r
        for r in of(cases, planted(("undercharge", 92.5))).nearest(given_readings(machine(VALVE)), pairs=False)
        if r.id == "long_liquid_line"
    )
    assert line.distance <= SAME and line.faults[0].severity < FAULTS["long_liquid_line"].mild


def test_a_test_rules_a_rival_out_only_where_every_severity_that_fits_would_answer_otherwise(cases):
    faults = planted(("long_liquid_line", 40.0))
    rivals = of(cases, faults)
    short = next(r for r in rivals.nearest(given_readings(machine(VALVE)), pairs=False) if r.id == "undercharge")
    assert short.distance <= SAME and short.spots
    glass = [words(cases, "sight_glass", spot) for spot in (short.faults, *short.spots)]
    mine = words(cases, "sight_glass", faults)
    assert rivals.told_apart(short, ["sight_glass"]) == all(not g & mine for g in glass)
    assert rivals.told_apart(short, ["line_length"]), "the line's length parts them whatever the severity"


def test_every_rival_that_is_called_an_equal_was_solved_and_lies_where_it_says(cases):
    faults = planted(("dirty_condenser", 58.0))
    rivals = of(cases, faults)
    readings = given_readings(machine(VALVE))
    near = [r for r in rivals.nearest(readings) if r.distance <= SAME and r.faults]
    assert len(near) > 2 and {r.kind for r in near} >= {SINGLE, COMPANY}
    for rival in near:
        for some in (rival.faults, *rival.spots):
            state = solved(cases.machine, cases.conditions, some)
            there = faulted_vector(cases.machine, state, some)
            assert cases.apart(there[None], rivals.here, readings)[0] <= SAME, (rival.id, some)


def test_distance_is_in_psi_and_degrees_of_what_is_printed_or_shown(cases):
    here = cases.fault_free_vector
    readings = ("head_pressure", "liquid_line")
    assert cases.apart(here[None], here, readings)[0] == 0.0
    moved = here.copy()
    moved[3] += 2.0  # liquid line, one tolerance of a clamp
    assert 0.7 <= cases.apart(moved[None], here, readings)[0] <= 1.0
    psi = cases.shown(np.array([here, here]), ("head_pressure",))
    assert psi[0, 0] == psi[1, 0] and 200 < psi[0, 0] < 500


def test_what_a_page_states_is_no_rival_and_what_it_hides_is_none_either(cases):
    faults = planted(("low_airflow", 55.0))
    readings = given_readings(machine(VALVE))
    assert not any("wet_condenser" in r.id for r in of(cases, faults).nearest(readings))
    open_page = Rivals(cases, faults, solved(cases.machine, cases.conditions, faults), ())
    assert any(r.id == "wet_condenser" for r in open_page.nearest(readings, pairs=False))


def test_claims_say_what_holds_and_by_how_much(cases):
    proof = prove(cases, planted(("valve_overfeeding", 100.0)), wants_weather=True)
    assert [c.id for c in proof.claims] == ["singles", "pairs", "weather", "company"]
    for claim in proof.claims:
        assert claim.holds == (claim.margin > SAME) and 0.0 <= claim.margin <= 3.0 and claim.text == CLAIMS[claim.id]
        assert (claim.nearest is None) == (claim.margin == 3.0)
    by_id = {c.id: c for c in proof.claims}
    assert by_id["weather"].margin <= min(by_id["singles"].margin, by_id["pairs"].margin)
    assert proof.unique == (by_id["singles"].holds and by_id["pairs"].holds)
    assert proof.weakest.id != "company" and proof.to_json()["weakest"]["margin"] == round(proof.weakest.margin, 2)


def test_a_second_fault_that_could_hide_is_told_and_no_other_answer(cases):
    proof = prove(cases, planted(("liquid_line_restriction", 220.0)), wants_splits=False)
    company = next(c for c in proof.claims if c.id == "company")
    assert not company.holds and proof.beside and all("liquid_line_restriction" in r.id for r in proof.beside)
    assert not set(proof.beside) & set(proof.equals)


def test_the_claim_about_a_sheet_counts_only_what_it_offers(cases):
    proof = prove(cases, planted(("dirty_condenser", 58.0)), wants_splits=False)
    with_twin = offered_claim(proof, ("dirty_condenser", "condenser_fan_weak"), 1)
    without = offered_claim(proof, ("dirty_condenser", "undercharge"), 1)
    assert not with_twin.holds and with_twin.nearest == "condenser_fan_weak" and without.margin > with_twin.margin


def test_an_instrument_off_by_no_more_than_it_may_be_is_no_rival():
    cases = solved_cases(machine(ORIFICE), weather(95, 77, 64))
    assert all(r.distance > SAME for r in of(cases, ()).nearest(given_readings(machine(ORIFICE))))


def test_a_rival_that_fits_in_slightly_other_weather_is_found_along_a_narrow_valley():
    """Warm air drawn in again looks like a weak fan two degrees warmer out; a whole solve says so here too."""
    cases = solved_cases(machine("split-3t-r454b-txv"), weather(93.8354, 76.3422, 67.6890))
    faults = planted(("condenser_recirculation", 13.0))
    given = given_readings(cases.machine)
    readings = (*given, *(s.id for s in prove(cases, faults, wants_splits=True).splits if s.kind == "reading"))
    assert len(readings) > len(given)
    rivals = of(cases, faults)
    fan = next(r for r in rivals.nearest(readings, pairs=False) if r.id == "condenser_fan_weak")
    apart = rivals.in_weather(readings, fan)
    state = solved(
        cases.machine, moved_weather(cases.conditions, np.array([0.925, 0.867, 0.507])), planted((fan.id, 54.8))
    )
    true = faulted_vector(cases.machine, state, ())
    assert rivals.away(true[None], readings)[0] <= SAME < fan.distance and apart <= SAME
    both = next(r for r in rivals.nearest(readings) if r.id == "condenser_fan_weak+dirty_condenser")
    assert rivals.in_weather(readings, both) <= SAME < 1.3 < both.distance
    claims = prove(cases, faults, readings=readings, wants_splits=False, wants_weather=True).claims
    claim = next(c for c in claims if c.id == "weather")
    assert not claim.holds and claim.margin <= apart + 1e-9


def test_severities_that_fit_are_followed_along_their_valley():
    """Air in the circuit for a dirty coil: short enough of charge it shows bubbles as well, so a glass does not part
    the two, whatever it says at the nearest severities.
    """
    cases = solved_cases(machine("split-3t-r32-eev"), weather(88, 77, 64))
    rivals = of(cases, planted(("dirty_condenser", 50.3), ("undercharge", 84.5)))
    readings = given_readings(cases.machine)
    rival = next(r for r in rivals.nearest(readings) if r.id == "non_condensables+undercharge")
    shorts = [f.severity for spot in (rival.faults, *rival.spots) for f in spot if f.id == "undercharge"]
    assert rival.distance <= 1.0 and min(shorts) < 80.5 and max(shorts) > 82.0
    for spot in rival.spots:
        true = faulted_vector(cases.machine, solved(cases.machine, cases.conditions, spot), spot)
        assert rivals.away(true[None], readings)[0] <= 1.0
    assert not rivals.told_apart(rival, ("sight_glass",))


def test_a_rival_that_fits_in_two_places_is_known_in_both():
    """A short charge on a long line, for a starved valve on a line of 50 feet or of 105: the glass is clear at one of
    them and shows bubbles at the other, as here.
    """
    cases = solved_cases(machine("split-3t-r32-eev"), weather(84.6144, 73.2273, 60.3161))
    rivals = of(cases, planted(("undercharge", 71.9), ("long_liquid_line", 28.2)))
    readings = (*given_readings(cases.machine), "discharge_line")
    rival = next(r for r in rivals.nearest(readings) if r.id == "long_liquid_line+valve_underfeeding")
    feet = [f.severity for spot in (rival.faults, *rival.spots) for f in spot if f.id == "long_liquid_line"]
    assert rival.distance <= 1.0 and min(feet) < 55.0 and max(feet) > 95.0
    assert not rivals.told_apart(rival, ("line_length", "sight_glass"))


def test_one_more_fault_is_looked_for_from_two_places():
    """Weak from one start, within tolerance from the other: a tight suction line beside a small piston."""
    cases = solved_cases(machine("split-3t-r22-orifice"), weather(99, 74, 64))
    found = of(cases, planted(("orifice_undersized", 77.2))).nearest(given_readings(cases.machine))
    rival = next(r for r in found if r.id == "orifice_undersized+suction_line_restriction")
    assert rival.kind == COMPANY and rival.distance <= 1.0


def test_a_pair_with_a_planted_fault_in_it_is_followed_from_farther_off():
    """A long line needs more charge as a leak does: beside weak valves the two lie at the ends of one valley."""
    cases = solved_cases(machine("heatpump-3t-r410a-txv"), weather(87.083, 79.800, 69.743))
    faults = planted(("undercharge", 72.5), ("leaking_compressor_valves", 46.9))
    rival = next(
        r
        for r in of(cases, faults).nearest(given_readings(cases.machine))
        if r.id == "leaking_compressor_valves+long_liquid_line"
    )
    assert rival.distance <= 1.0 and 100.0 < {f.id: f.severity for f in rival.faults}["long_liquid_line"] < 130.0
    assert not next(c for c in prove(cases, faults, wants_splits=False).claims if c.id == "pairs").holds


def test_a_fault_deeper_than_pairs_are_solved_hides_others_and_says_so():
    """A freezer with a receiver, a third of its charge left: whole families beside it change nothing that is read."""
    freezer = machine("walkin-freezer-r404a-txv")
    air = for_machine(freezer, outdoor_db_f=92, box_f=-3)
    proof = prove(
        solved_cases(freezer, air), (Fault(id="undercharge", severity=31.5),), tests=("sight_glass", "pump_down")
    )
    company = next(c for c in proof.claims if c.id == "company")
    assert not company.holds and company.margin < 0.5 and "undercharge" in company.nearest


@pytest.mark.parametrize(
    ("machine_id", "faults"),
    [
        (VALVE, [()]),
        (VALVE, [(Fault(id="condenser_recirculation", severity=s),) for s in (1.0, 1.2, 8.0, 20.0)]),
        (VALVE, [(Fault(id="dirty_condenser", severity=97.0),), (Fault(id="wet_condenser", severity=60.0),)]),
        ("reachin-r134a-capillary", [(Fault(id="condenser_recirculation", severity=9.0),)]),
        ("package-10t-r410a-two-circuits", [(), (Fault(id="condenser_recirculation", severity=9.0),)]),
    ],
)
def test_what_the_condenser_draws_in_is_told_without_a_state_as_it_is_with_one(machine_id, faults, monkeypatch):
    m = machine(machine_id)
    here = solved_cases(m, rating_conditions(m))
    solves = []
    whole = told_by.state_of
    monkeypatch.setattr(told_by, "state_of", lambda *given: solves.append(given) or whole(*given))
    for planted in faults:
        told = ask(m, here.conditions, planted, "condenser_entering_air", state=whole(m, here.conditions, planted)).word
        here.memory.clear()
        assert words(here, "condenser_entering_air", planted) == {told}
        runs = told != "cut_out" and m.circuits == 1
        assert bool(solves) != runs, "only what does not run the usual way is solved whole"
        solves.clear()


def test_a_fault_whose_family_is_solved_so_far_is_known_to_run(monkeypatch):
    m = machine(VALVE)
    here = solved_cases(m, weather(114, 80, 67))
    alone = {c.id: c.ends for c in here.curves}
    asked = []
    search = told_by.vector_on
    monkeypatch.setattr(told_by, "vector_on", lambda *given: asked.append(given[1]) or search(*given))
    for fault_id in ("condenser_recirculation", "dirty_condenser", "undercharge"):
        first, last = alone[fault_id]
        for severity in (first, 0.5 * (first + last), last):
            planted = (Fault(id=fault_id, severity=severity),)
            here.memory.clear()
            told = ask(m, here.conditions, planted, "condenser_entering_air").word
            assert words(here, "condenser_entering_air", planted) == {told}
    assert asked == []
    beyond = (Fault(id="dirty_condenser", severity=25.0),)
    assert alone["dirty_condenser"][1] > 25.0, "on so hot a day it cuts out before that"
    words(here, "condenser_entering_air", beyond)
    assert [f.severity for (f,) in asked] == [25.0], "where the family ends the machine is asked"


def test_a_look_that_sees_causes_says_the_same_at_every_severity_on_every_machine():
    m, other = machine(VALVE), machine("reachin-r134a-capillary")
    here, there = (solved_cases(one, rating_conditions(one)) for one in (m, other))
    for test_id in ("condenser_coil", "oil_traces"):
        for cause in fault_kind("dirty_condenser").causes:
            told = [
                words(ground, test_id, (Fault(id="dirty_condenser", severity=s, cause=cause.id),))
                for ground in (here, there)
                for s in (12.0, 40.0)
            ]
            assert len(set(told)) == 1 and len(told[0]) == 1
        assert words(here, test_id, (Fault(id="dirty_condenser", severity=30.0),)) == frozenset(
            word
            for cause in fault_kind("dirty_condenser").causes
            for word in words(here, test_id, (Fault(id="dirty_condenser", severity=30.0, cause=cause.id),))
        )


def test_what_a_condenser_draws_in_is_asked_only_where_it_draws_in_air():
    m = machine("water-cooled-5t-r407c-txv")
    with pytest.raises(BadInputError, match="condenser_entering_air"):
        words(solved_cases(m, rating_conditions(m)), "condenser_entering_air", ())
