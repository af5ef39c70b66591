"""A hunt in compiled code ends where one in plain code ends, and begins where it is told to."""

from dataclasses import replace

import numpy as np
import pytest

from wolfsbane.cycle.conditions import conditions, rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.along import vectors_along
from wolfsbane.diagnosis.compared import distances, nearest
from wolfsbane.diagnosis.hunt import CROSSINGS, FAR_OFF, Hunt
from wolfsbane.diagnosis.hunting import beginnings_of_pairs
from wolfsbane.diagnosis.rivals import Rivals
from wolfsbane.diagnosis.short_way import NO_SLOPES, Ground, Start, ground_of
from wolfsbane.diagnosis.solved_cases import given_readings, solved_cases
from wolfsbane.diagnosis.space import N
from wolfsbane.diagnosis.vectors import solved, vector_on
from wolfsbane.diagnosis.weather_off import air_of, in_air_off, moved_weather

PLANTED = {
    "split-3t-r410a-txv": Fault(id="undercharge", severity=82.0),
    "split-3t-r410a-orifice": Fault(id="low_airflow", severity=60.0),
    "walkin-cooler-r404a-txv": Fault(id="dirty_condenser", severity=55.0),
    "reachin-r134a-capillary": Fault(id="overcharge", severity=118.0),
}
WATER = {"water-cooled-5t-r407c-txv": Fault(id="low_airflow", severity=62.0)}


def hunts(machine_id):
    """(rivals, hunts of every pair with a start) of one planted fault."""
    machine = MACHINES[machine_id]
    cases, faults = solved_cases(machine, rating_conditions(machine)), ((PLANTED | WATER)[machine_id],)
    rivals = Rivals(cases, faults, solved(machine, cases.conditions, faults))
    readings = given_readings(machine)

    def made():
        for pair in cases.pairs:
            lows = (pair.a.place_of(1.0), pair.b.place_of(1.0))
            if None not in lows:
                yield Hunt(rivals, (pair.a, pair.b), lows, readings, pair)

    return rivals, made


def in_plain_code(hunt):
    hunt.__dict__["_plan"] = None
    return hunt


@pytest.mark.parametrize("machine_id", PLANTED)
def test_compiled_and_plain_hunts_end_as_near(machine_id):
    _, made = hunts(machine_id)
    near, compiled = 0, 0
    for short, long in zip(made(), map(in_plain_code, made()), strict=True):
        starts = short.starts()
        if not starts or starts[0][0] > 4.0:
            continue
        a, b = short.follow(starts[0][1]), long.follow(starts[0][1])
        assert (a is None) == (b is None)
        if a is None:
            continue
        assert a.distance == pytest.approx(b.distance, abs=0.02), [c.id for c in short.curves]
        if a.distance > 1.0:
            assert short.closer(a).distance == pytest.approx(long.closer(b).distance, abs=0.1)
        near += 1
        compiled += short._plan is not None
    assert near >= 3 and compiled >= 0.5 * near


@pytest.mark.parametrize("machine_id", [*PLANTED, *WATER])
def test_compiled_and_plain_hunts_end_as_near_with_the_air_off_as_well(machine_id):
    _, made = hunts(machine_id)
    compared = moved = 0
    for short, long in zip(made(), map(in_plain_code, made()), strict=True):
        starts = short.starts()
        if not starts or starts[0][0] > 6.0 or short._compiled(weather=True) is None:
            continue
        a, b = short.follow(starts[0][1], weather=True), long.follow(starts[0][1], weather=True)
        assert (a is None) == (b is None)
        if a is None:
            continue
        assert a.distance == pytest.approx(b.distance, abs=0.02), [c.id for c in short.curves]
        if a.distance > 1.0:
            a, b = short.closer(a, weather=True), long.closer(b, weather=True)
            assert a.distance == pytest.approx(b.distance, abs=0.1)
        true = long.true(a.place, a.moved)
        assert long._distance(true) == pytest.approx(a.distance, abs=1e-3), "and what it ended at is so far off"
        compared += 1
        moved += bool(a.moved.any())
    assert compared >= 2 and moved >= 1


@pytest.mark.parametrize("machine_id", ["split-3t-r410a-txv", "water-cooled-5t-r407c-txv", "walkin-cooler-r404a-txv"])
def test_air_that_is_off_meets_a_ground_in_compiled_code_as_whole_conditions_do(machine_id):
    machine = MACHINES[machine_id]
    ground = ground_of(machine, rating_conditions(machine))
    for moved in ((1.0, -1.0, 0.5), (-0.3, 0.2, 1.0), (0.0, -1.0, 1.0)):
        moved = np.array(moved)
        whole = Ground(machine, moved_weather(ground.conditions, moved)).parts()
        short = in_air_off(ground.parts(), air_of(ground), moved)
        rooms = (1, 2, 4, 5)  # where each solve writes what it meets
        for a, b in [(a, b) for i, (a, b) in enumerate(zip(short, whole, strict=True)) if i not in rooms]:
            if isinstance(a, float) or not a.dtype.names:
                assert a == pytest.approx(b, rel=1e-12)
            else:
                assert a.tobytes() == b.tobytes() or a.tolist()[0] == pytest.approx(b.tolist()[0], rel=1e-12)
        assert ground.parts()[3] == pytest.approx(Ground(machine, ground.conditions).parts()[3]), "left as it was"


def test_a_machine_that_meets_other_air_than_it_is_met_in_is_left_to_plain_code():
    machine = MACHINES["split-3t-r410a-txv"]
    ground = ground_of(machine, rating_conditions(machine))
    mixed = replace(machine, circuit=machine.circuit._replace(outdoor_air_share=0.2))
    assert air_of(ground) is not None
    assert air_of(Ground(mixed, ground.conditions)) is None
    heating = MACHINES["heatpump-3t-r410a-heating"]
    assert air_of(ground_of(heating, rating_conditions(heating))) is None


def test_a_place_shows_what_its_severities_show():
    rivals, made = hunts("split-3t-r410a-txv")
    checked = 0
    for hunt in made():
        if hunt._plan is None:
            continue
        place = hunt.low + 0.37 * (hunt.high - hunt.low)
        short, whole = hunt.true(place), vector_on(rivals.cases.ground, hunt.faults(place), rivals.start)[0]
        assert (short is None) == (whole is None)
        if short is not None:
            assert short == pytest.approx(whole, abs=5e-4)
            checked += 1
    assert checked > 40


def test_an_expectation_is_a_place_to_begin_at_and_nothing_more():
    """However wrong it is the same balance is found, or the whole solve asked."""
    _, made = hunts("split-3t-r410a-txv")
    hunt = next(h for h in made() if h._plan is not None)
    place = hunt.low + 0.3 * (hunt.high - hunt.low)
    right = hunt.true(place)
    for off in (0.0, 15.0, -15.0):
        hunt._solved.clear()
        assert hunt.true(place, None, right + off) == pytest.approx(right, abs=5e-4)


def test_the_air_may_move_in_compiled_code_as_in_plain():
    _, made = hunts("split-3t-r410a-txv")
    for short, long in zip(made(), map(in_plain_code, made()), strict=True):
        if short._plan is not None:
            place, moved = short.low + 0.2 * (short.high - short.low), np.array([0.5, -0.4, 0.3])
            assert short.true(place, moved) == pytest.approx(long.true(place, moved), abs=5e-4)
            break


@pytest.mark.parametrize("machine_id", PLANTED)
def test_a_family_solved_in_one_go_is_what_it_is_one_by_one(machine_id):
    machine = MACHINES[machine_id]
    ground = ground_of(machine, rating_conditions(machine))
    numbers = [95.0, 85.0, 75.0, 60.0]
    together, more = vectors_along(ground, "dirty_condenser", numbers)
    alone = [ground.vector((Fault(id="dirty_condenser", severity=s),))[0] for s in numbers]
    count = next((i for i, v in enumerate(alone) if v is None), len(alone))
    assert len(together) == count > 1 and not more
    assert together == pytest.approx(np.array(alone[:count]), abs=5e-4)


def test_another_refrigerant_is_solved_in_one_go_too():
    machine = MACHINES["split-3t-r410a-txv"]
    ground = ground_of(machine, rating_conditions(machine))
    numbers = [105.0, 95.0]
    together, _ = vectors_along(ground, "wrong_refrigerant", numbers)
    assert len(together) == 2
    for severity, vector in zip(numbers, together, strict=True):
        alone, _ = vector_on(ground, (Fault(id="wrong_refrigerant", severity=severity),))
        assert vector == pytest.approx(alone, abs=5e-4)


def test_a_family_ends_where_the_machine_cuts_out():
    machine = MACHINES["split-3t-r410a-txv"]
    ground = ground_of(machine, conditions(outdoor_db_f=110, return_db_f=80, return_wb_f=67))
    found, more = vectors_along(ground, "dirty_condenser", [90.0, 60.0, 26.0, 80.0])
    assert len(found) == 2 and not more
    beyond, more = vectors_along(
        ground_of(machine, ground.conditions, cutouts=False), "dirty_condenser", [90.0, 60.0, 26.0, 80.0]
    )
    assert len(beyond) == 4 and beyond[:2] == pytest.approx(found) and not more, "and runs on without its cutouts"


def test_a_family_is_solved_one_by_one_from_where_it_stops_being_usual():
    machine = MACHINES["split-3t-r410a-txv"]
    ground = ground_of(machine, rating_conditions(machine))
    found, more = vectors_along(ground, "compressor_not_pumping", [90.0, 60.0, 2.0, 0.0])
    assert 0 < len(found) < 4 and more
    state = solved(machine, ground.conditions, (Fault(id="compressor_not_pumping", severity=0.0),))
    assert state is not None and state.equalized


@pytest.mark.parametrize("machine_id", ["package-10t-r410a-two-circuits", "heatpump-3t-r410a-heating"])
def test_an_unusual_machine_is_left_to_the_whole_solve(machine_id):
    machine = MACHINES[machine_id]
    found, more = vectors_along(ground_of(machine, rating_conditions(machine)), "undercharge", [90.0])
    assert len(found) == 0 and more


def test_slopes_from_a_neighbor_lead_to_the_same_balance_as_none():
    machine = MACHINES["split-3t-r410a-txv"]
    ground = ground_of(machine, rating_conditions(machine))
    _, start = ground.vector((Fault(id="undercharge", severity=95.0),))
    faults = (Fault(id="undercharge", severity=75.0), Fault(id="low_airflow", severity=70.0))
    carried, fresh = ground.vector(faults, start)[0], ground.vector(faults, Start(start.x, NO_SLOPES))[0]
    assert start.slopes.any() and carried == pytest.approx(fresh, abs=5e-4)


def test_the_nearest_is_the_one_that_all_distances_say():
    """Given up early or not, and only among those that are allowed."""
    machine = MACHINES["split-3t-r410a-txv"]
    cases = solved_cases(machine, rating_conditions(machine))
    readings, rng = given_readings(machine), np.random.default_rng(4)
    reads = cases.read_from(cases.fault_free_vector, readings)
    for _ in range(40):
        vectors = cases.fault_free_vector + rng.normal(size=(12, N)) * rng.choice([0.5, 5.0])
        moves, allowed = rng.normal(size=(5, N)), rng.random(12) < 0.6
        every = distances((vectors[:, None] + moves[None]).reshape(-1, N), reads).reshape(12, 5)
        distance, row, move = nearest(vectors, moves, allowed, reads)
        if not allowed.any():
            assert not np.isfinite(distance)
            continue
        assert allowed[row] and distance == pytest.approx(every[allowed].min(), abs=1e-9)
        assert every[row, move] == pytest.approx(distance, abs=1e-9)


@pytest.mark.parametrize("machine_id", PLANTED)
def test_pairs_that_begin_in_one_go_begin_where_each_of_them_does(machine_id):
    rivals, made = hunts(machine_id)
    cases = rivals.cases
    lows = np.array([np.nan if (low := c.place_of(1.0)) is None else low for c in cases.curves])
    reads = cases.read_from(rivals.here, given_readings(cases.machine))
    asked = np.ones(len(cases.pairs), dtype=bool)
    expected, places = beginnings_of_pairs(asked, lows, CROSSINGS, FAR_OFF, cases.pairs_together, reads)
    by_id = {pair.id: i for i, pair in enumerate(cases.pairs)}
    seen = set()
    for hunt in made():
        row = by_id["+".join(sorted(c.id for c in hunt.curves))]
        seen.add(row)
        starts = hunt.starts()
        assert [d for d, _ in starts] == [d for d in expected[row] if d < np.inf]
        for (_, place), there in zip(starts, places[row], strict=False):
            assert place.tolist() == there.tolist()
    assert len(seen) > 20 and not np.isfinite(np.delete(expected, sorted(seen), axis=0)).any()
    asked[min(seen)] = False
    fewer, _ = beginnings_of_pairs(asked, lows, CROSSINGS, FAR_OFF, cases.pairs_together, reads)
    assert np.flatnonzero((fewer != expected).any(axis=1)).tolist() == [min(seen)]
