"""Twelve ways and what each earns against the expert's: one slip costs what it is worth and no more."""

from functools import cache

import pytest

from wolfsbane.exercise.screen.worked import WORKED, issued, walked


@cache
def marks(name):
    found = walked(issued(WORKED[name]), WORKED[name])[0]
    return found, {p.part: p.earned for p in found.parts}


def test_there_are_twelve_and_the_experts_ways_earn_nearly_all():
    assert len(WORKED) == 12
    for name in WORKED:
        if name.endswith("expert's way"):
            assert marks(name)[0].earned >= 88, name


@pytest.mark.parametrize(
    ("name", "base", "costs"),
    [
        ("One dial misread", "Dirty condenser, the expert's way", {"readings"}),
        ("Three hints", "Low charge, the expert's way", set()),
        ("Everything is read and tested first", "Low charge, the expert's way", {"economy"}),
        ("Put right, then overfilled", "Low charge, the expert's way", {"work", "proof"}),
        ("Gauges not zeroed", "Low charge, the expert's way", {"readings", "evidence", "economy", "fault", "proof"}),
        ("Clamp in the sun", "Dirty condenser, the expert's way", {"readings", "evidence", "economy", "fault"}),
    ],
)
def test_a_slip_costs_its_own_part(name, base, costs):
    (found, parts), (best, whole) = marks(name), marks(base)
    for part, earned in parts.items():
        assert earned <= whole[part] + 1
        if part not in costs:
            assert earned >= whole[part] - 1, part
    assert found.earned < best.earned
    if name == "Three hints":
        assert found.off == 13


def test_a_name_with_nothing_read_behind_it_earns_a_quarter_and_no_work():
    found, parts = marks("Named by a look alone")
    assert parts["fault"] <= 5 and parts["work"] == parts["proof"] == parts["economy"] == 0
    assert found.earned <= 10
