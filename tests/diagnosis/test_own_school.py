"""A practice of one's own: copied, changed, checked, carried."""

import pytest

from tests.conftest import VALVE
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import machine
from wolfsbane.diagnosis.own_practice import CHANGEABLE, changed, choices_of, restored_practice, to_json
from wolfsbane.diagnosis.practices import PRACTICES
from wolfsbane.diagnosis.targets import bands, practice_by_id

BASE = practice_by_id("plate_and_formula")


def test_a_changed_choice_moves_the_band():
    wide = changed(BASE, "Wide", {"subcooling_tolerance_df": 6, "ctoa_from_machine": False, "ctoa_df": [10, 30]})
    m = machine(VALVE)
    before, after = (bands(m, s, "us", 95, 67) for s in (BASE, wide))
    assert after["subcooling"].low == before["subcooling"].low - 3 and (after["ctoa"].low, after["ctoa"].high) == (
        10,
        30,
    )
    assert wide.id == "own-wide" and wide.name == "Wide"


@pytest.mark.parametrize("ours", PRACTICES.values(), ids=lambda s: s.id)
def test_a_copy_in_either_unit_is_the_same_school(ours):
    for system in ("us", "si"):
        values = {c["id"]: c["value"] for c in choices_of(ours, system)}
        copy = changed(ours, "Copy", values, system=system)
        assert all(getattr(copy, key) == getattr(ours, key) for key in CHANGEABLE)


def test_it_survives_the_file_and_is_checked_again():
    own = changed(
        BASE, "Ours, tight", {"subcooling_tolerance_df": 1.5, "pressure_only": "less_reliable"}, "Good clamps only."
    )
    assert restored_practice(to_json(own)) == own and own.reasons["own"] == "Good clamps only."


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"subcooling_tolerance_df": 40}, "subcooling_tolerance_df"),
        ({"ctoa_df": [20, 10]}, "ctoa_df"),
        ({"ctoa_df": 20}, "ctoa_df"),
        ({"pressure_only": "maybe"}, "pressure_only"),
        ({"td_from_machine": "yes"}, "td_from_machine"),
        ({"td_point": "bubble"}, "td_point"),
        ({"valve_superheat_df": ["a", 3]}, "valve_superheat_df"),
    ],
)
def test_a_bad_choice_names_itself(change, field):
    with pytest.raises(BadInputError) as caught:
        changed(BASE, "Bad", change)
    assert caught.value.field == field


@pytest.mark.parametrize(
    "data",
    [
        None,
        {},
        {"id": "own-x"},
        {**to_json(BASE)},
        {**to_json(BASE), "id": "own-x", "extra": 1},
        {**to_json(BASE), "id": "own-x", "reasons": "because"},
    ],
)
def test_a_file_that_is_no_school_is_refused(data):
    with pytest.raises(BadInputError):
        restored_practice(data)


def test_a_name_without_a_letter_is_refused():
    with pytest.raises(BadInputError, match="letter"):
        changed(BASE, "—", {})
