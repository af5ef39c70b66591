"""What was read against what the rig showed: a misread dial, a misplaced clamp and an instrument are told apart.

Which size of error points to which slip is common practice, no source.
"""

from dataclasses import replace
from types import SimpleNamespace

import pytest

from wolfsbane.exercise.lab.compare import LAB_REASONS, Minute, compared

SHOWN = {
    "suction_pressure": 118.0,
    "head_pressure": 341.0,
    "suction_line": 55.0,
    "liquid_line": 95.0,
    "discharge_line": 165.0,
    "return_db": 76.0,
    "outdoor_db": 90.0,
}


def call(system="us"):
    key = SimpleNamespace(tolerance=SimpleNamespace(readings=None))
    conditions = SimpleNamespace(barometer_pa=101_325.0)
    machine = SimpleNamespace(refrigerant="R-410A")
    return SimpleNamespace(
        units=system, instruments="analogue", key=key, conditions=conditions, machine=machine, readings={}
    )


def one(key, value, *, system="us", shown=None, **more):
    minute = Minute(shown=SHOWN if shown is None else shown, **more)
    return compared(call(system), {key: value}, {key: minute})[key]


@pytest.mark.parametrize(
    ("key", "value", "code"),
    [
        ("suction_pressure", 118, "lab_right"),
        ("suction_pressure", 119, "lab_right"),
        ("suction_pressure", 341, "lab_other_gauge"),
        # 118 psig of R-410A is 40 degF on the ring (common practice, no source)
        ("suction_pressure", 40, "lab_ring"),
        ("suction_pressure", 132.7, "lab_absolute"),
        ("suction_pressure", 181, "lab_digits"),
        ("suction_pressure", 128, "lab_division"),
        ("head_pressure", 441, "lab_division"),
        ("head_pressure", 331, "lab_division"),
        ("suction_pressure", 150, "lab_off"),
        ("suction_line", 95, "lab_wrong_line"),
        ("liquid_line", 165, "lab_wrong_line"),
        # between a pipe of 55 and the air of 90
        ("suction_line", 66, "lab_loose"),
        ("suction_line", 12.8, "lab_celsius"),
        ("suction_line", 45, "lab_division"),
        ("suction_line", 20, "lab_off"),
    ],
)
def test_each_slip_has_its_name(key, value, code):
    found = one(key, value)
    assert found.code == code and found.right == (code == "lab_right")
    assert LAB_REASONS[code].format(**found.params)


def test_a_reading_of_some_minutes_ago_on_a_machine_that_still_moved_is_told():
    earlier = [{"head_pressure": 349.0}, {"head_pressure": 357.0}, {"head_pressure": 364.0}]
    found = one("head_pressure", 364, earlier=earlier)
    assert found.code == "lab_earlier" and not found.right and found.params["minutes"] == 3


def test_what_moved_within_the_minute_widens_what_counts():
    assert one("head_pressure", 348).code == "lab_off"
    assert one("head_pressure", 348, spread={"head_pressure": 10.0}).right


def test_both_gauges_off_by_the_same_are_an_instrument_and_count():
    typed = {"suction_pressure": 124.0, "head_pressure": 347.5}
    found = compared(call(), typed, dict.fromkeys(typed, Minute(shown=SHOWN)))
    assert {c.code for c in found.values()} == {"lab_gauges_off"} and all(c.right for c in found.values())
    assert found["head_pressure"].params["by"] == "6 psi high"


def test_gauges_that_are_off_by_unlike_amounts_are_no_zero():
    typed = {"suction_pressure": 124.0, "head_pressure": 330.0}
    found = compared(call(), typed, dict.fromkeys(typed, Minute(shown=SHOWN)))
    assert not any(c.right for c in found.values())


def test_thermometers_all_off_by_the_same_count_too_and_one_alone_does_not():
    typed = {"suction_line": 59.0, "liquid_line": 99.2}
    found = compared(call(), typed, dict.fromkeys(typed, Minute(shown=SHOWN)))
    assert {c.code for c in found.values()} == {"lab_clamps_off"}
    assert not one("suction_line", 59).right


def test_a_channel_that_showed_nothing_is_left_out():
    assert compared(call(), {"suction_line": 55.0}, {"suction_line": Minute(shown={"head_pressure": 341.0})}) == {}


def test_kilopascals_and_celsius_are_held_to_the_same():
    shown = {k: v * 6.894757 if "pressure" in k else (v - 32) / 1.8 for k, v in SHOWN.items()}
    assert one("suction_pressure", 820, system="si", shown=shown).right
    assert one("suction_line", 35, system="si", shown=shown).code == "lab_wrong_line"
    assert not one("suction_pressure", 880, system="si", shown=shown).right


def test_a_rig_call_may_set_its_own_tolerances():
    strict = call()
    strict.key = replace_tolerance(strict, {"suction_line": 0.4})
    found = compared(strict, {"suction_line": 55.6}, {"suction_line": Minute(shown=SHOWN)})
    assert not found["suction_line"].right


def replace_tolerance(made, readings):
    return SimpleNamespace(tolerance=SimpleNamespace(readings=readings))


def test_a_minute_is_not_changed_by_what_is_made_of_it():
    minute = Minute(shown=SHOWN)
    assert replace(minute, spread={"x": 1.0}).shown is minute.shown
