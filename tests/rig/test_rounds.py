"""Rounds of a lab: everybody at every rig, nobody left at the desk twice, the late and the absent planned in."""

import random

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.rounds import DESK, enough, planned, replanned

RIGS = [11, 12, 13, 14]


def places_of(rounds, person):
    return [place for one in rounds for place, found in one.items() if person in found]


@pytest.mark.parametrize("seed", range(8))
def test_everybody_comes_to_every_rig_once_where_there_are_seats(seed):
    rng = random.Random(seed)
    seats = rng.randint(1, 3)
    people = list(range(100, 100 + rng.randint(1, seats * len(RIGS))))
    rounds = planned(people, RIGS, len(RIGS), seats)
    for person in people:
        assert sorted(places_of(rounds, person)) == RIGS
    assert all(len(found) <= seats for one in rounds for found in one.values())


def test_few_people_do_not_crowd_at_one_rig():
    for one in planned([1, 2, 3, 4], RIGS, 4, 2):
        assert sorted(len(found) for found in one.values()) == [1, 1, 1, 1]


def test_the_desk_goes_round_before_anybody_is_there_twice():
    people = list(range(1, 13))
    rounds = planned(people, [1, 2], 6, 3)
    at_desk = [places_of(rounds, p).count(DESK) for p in people]
    assert max(at_desk) - min(at_desk) <= 1
    for person in people:
        seen = [p for p in places_of(rounds, person) if p != DESK]
        assert abs(seen.count(1) - seen.count(2)) <= 1


@pytest.mark.parametrize("people", [1, 4, 5, 12, 24])
def test_enough_rounds_bring_everybody_to_every_rig(people):
    rounds = planned(range(people), RIGS, enough(people, 4, 2), 2)
    assert len(rounds) == {1: 4, 4: 4, 5: 4, 12: 8, 24: 12}[people]
    for person in range(people):
        assert set(places_of(rounds, person)) >= set(RIGS)


def test_who_is_gone_leaves_a_seat_and_who_is_late_takes_one():
    people = list(range(1, 9))
    before = planned(people, RIGS, 4, 2)
    here = [p for p in people if p != 3] + [99]
    after = replanned(before, 1, here, RIGS, 2)
    assert after[0] == before[0] and len(after) == 4
    assert all(3 not in found for one in after[1:] for found in one.values())
    for person in (p for p in people if p != 3):
        assert places_of(after[:2], person) == places_of(before[:2], person), "nobody is moved in the middle of a round"
        assert sorted(places_of(after, person)) == RIGS
    late = places_of(after, 99)
    assert len(late) == 3 == len(set(late)) and DESK not in late


@pytest.mark.parametrize("seed", range(12))
def test_however_often_somebody_leaves_the_others_still_come_to_every_rig(seed):
    rng = random.Random(seed)
    people = list(range(1, 1 + rng.randint(3, 8)))
    rounds = planned(people, RIGS, 4, 2)
    for current in range(1, 4):
        if len(people) > 2 and rng.random() < 0.6:
            people = [p for p in people if p != rng.choice(people)]
        rounds = replanned(rounds, current, people, RIGS, 2)
    for person in people:
        assert sorted(places_of(rounds, person)) == RIGS


def test_a_plan_is_the_same_each_time_and_survives_a_table_of_text():
    rounds = planned([1, 2, 3], RIGS, 3, 1)
    assert rounds == planned([1, 2, 3], RIGS, 3, 1)
    stored = [{str(place): found for place, found in one.items()} for one in rounds]
    assert replanned(stored, 0, [1, 2, 3], RIGS, 1) == rounds


@pytest.mark.parametrize(
    ("rigs", "rounds", "seats", "field"), [([], 2, 2, "rigs"), ([1], 0, 2, "rounds"), ([1], 2, 7, "seats")]
)
def test_what_cannot_be_planned_is_named(rigs, rounds, seats, field):
    with pytest.raises(BadInputError) as error:
        planned([1], rigs, rounds, seats)
    assert error.value.field == field


def test_a_round_that_is_not_there_cannot_be_the_one_that_runs():
    with pytest.raises(BadInputError):
        replanned(planned([1], [1], 2, 1), 2, [1], [1], 1)
