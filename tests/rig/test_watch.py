"""Limits, and channels that lie."""

import pytest

from tests.rig.conftest import SPLIT, calibrated, rig_of, run_healthy, watched
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.points import to_si
from wolfsbane.rig.watch import alarms, doubts


def shown(**values):
    units = {"head_pressure": "psig", "suction_pressure": "psig", "discharge_line": "°F", "return_db": "°F"}
    return {p: to_si(p, units[p], v) for p, v in values.items()}


def test_a_limit_is_announced_before_and_when_it_is_passed():
    rig, machine = rig_of(limits={"head_psig": 420, "suction_psig": 70, "discharge_f": 215}), MACHINES[SPLIT]
    assert alarms(rig, machine, shown(head_pressure=330, suction_pressure=118, discharge_line=160), False) == ()
    (near,) = alarms(rig, machine, shown(head_pressure=402), True)
    assert not near.passed and "comes near the limit of 420 psig" in near.text and near.action == "Watch it."
    (over,) = alarms(rig, machine, shown(head_pressure=431), True)
    assert over.passed and over.action == "Stop. Undo the fault."
    (low,) = alarms(rig, machine, shown(suction_pressure=60), False)
    assert low.passed and "under the limit of 70 psig" in low.text and "look for the cause" in low.action
    (hot,) = alarms(rig, machine, shown(discharge_line=230), True)
    assert hot.passed and "burns" in hot.action


def test_without_limits_its_machine_s_cutouts_stand_for_them():
    """Practice: stop 50 psi short of the high-pressure cutout, and below 220 °F at the discharge line (no source)."""
    rig, machine = rig_of(), MACHINES[SPLIT]
    cutout = machine.plate.high_cutout_gauge_pa / 6894.757
    assert alarms(rig, machine, shown(head_pressure=cutout - 49), True)[0].passed
    assert not alarms(rig, machine, shown(head_pressure=cutout - 51), True)[0].passed
    assert alarms(rig, machine, shown(discharge_line=221), True)[0].passed
    assert alarms(rig, machine, {"head_pressure": None}, True) == ()


@pytest.fixture(scope="module")
def last():
    return run_healthy(SPLIT, 1)[-60:]


def test_an_honest_rig_is_not_doubted(last):
    rig, profile, baseline, _ = calibrated()
    assert doubts(rig, profile, baseline.individual, last) == ()


def test_dead_and_stuck_channels_are_named_without_a_baseline(last):
    rig, profile = rig_of(), MACHINES[SPLIT]
    dead = [(t, {**row, "supply_db": None}) for t, row in last]
    assert [(d.point, d.why) for d in doubts(rig, profile, None, dead)] == [("supply_db", "dead")]
    stuck = [(t, {**row, "suction_line": 286.0}) for t, row in last]
    assert [(d.point, d.why) for d in doubts(rig, profile, None, stuck)] == [("suction_line", "stuck")]


@pytest.mark.parametrize(("point", "off"), [("liquid_line", 3.0), ("suction_pressure", -25_000.0), ("supply_db", 2.5)])
def test_a_channel_that_contradicts_the_rest_is_named(point, off, last):
    rig, profile, baseline, _ = calibrated()
    lying = [(t, {**row, point: row[point] + off}) for t, row in last]
    (found,) = doubts(rig, profile, baseline.individual, lying)
    assert found.point == point and found.why == "astray" and "the others fit" in found.text
    assert doubts(rig, profile, baseline.individual, lying, still=False) == ()


def test_a_machine_with_a_fault_is_not_taken_for_a_bad_sensor(simulated):
    rig, profile, baseline, _ = calibrated(SPLIT, 3)
    running = simulated(SPLIT, 3)
    running.set("indoor_fan", 35.0)
    rows = watched(running, 2400)[-60:]
    assert [d for d in doubts(rig, profile, baseline.individual, rows) if d.why == "astray"] == []
    assert doubts(rig, profile, baseline.individual, rows, running.faults()) == ()
