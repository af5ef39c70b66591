"""The rig that stands in for a real one: its own numbers, its devices, its scale, its sensors."""

import pytest

from tests.rig.conftest import SPLIT, rig_of, watched
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.rig.simulated import hidden


def test_the_same_seed_gives_the_same_rig_and_another_one_another(simulated):
    assert watched(simulated(seed=7), 60) == watched(simulated(seed=7), 60)
    assert watched(simulated(seed=7), 60) != watched(simulated(seed=8), 60)


def test_what_it_hides_is_within_fifteen_percent():
    rig, profile = rig_of(), MACHINES[SPLIT]
    seen = [hidden(rig, profile, seed) for seed in range(40)]
    for h in seen:
        assert all(0.85 <= f <= 1.15 for f in h.individual.factors.values())
    assert max(h.individual.factors["evaporator_air"] for h in seen) > 1.1


def test_sensors_scatter_about_the_truth_and_a_dead_one_shows_nothing(simulated):
    running = simulated(seed=5, dead="supply_db")
    rows = watched(running, 300)
    assert all(row["supply_db"] is None for _, row in rows)
    shown = [row["suction_line"] for _, row in rows]
    assert 0.0 < max(shown) - min(shown) < 1.0
    assert abs(shown[-1] - running.truth()["suction_line"]) < 1.0


def test_devices_do_what_they_are_for(simulated):
    running = simulated(seed=5)
    watched(running, 300)
    before = running.truth()
    running.set("condenser_board", 45.0)
    watched(running, 1500)
    blocked = running.truth()
    assert blocked["head_pressure"] > before["head_pressure"] + 150_000
    running.set("condenser_board", 0.0)
    watched(running, 1800)
    assert abs(running.truth()["head_pressure"] - before["head_pressure"]) < 120_000, "undone, it comes back"
    running.set("condenser_board", 900.0)
    assert running.positions["condenser_board"] == running.rig.device("condenser_board").most


def test_the_scale_shows_what_went_out_and_what_came_back(simulated):
    running = simulated(seed=5)
    full, begin = running.site.circuit_kg, running.truth()["weight"]
    running.set("charge", 12.0)
    watched(running, 1200)
    assert running.site.circuit_kg == pytest.approx(full - 12 * KG_PER_OZ, abs=1e-4)
    assert running.truth()["weight"] == pytest.approx(begin + 12 * KG_PER_OZ, abs=1e-4)
    running.set("charge", 0.0)
    watched(running, 1200)
    assert running.site.circuit_kg == pytest.approx(full, abs=1e-4)


def test_the_switch_stops_it_and_it_starts_again(simulated):
    running = simulated(seed=5)
    running.set("switch", 1.0)
    watched(running, 900, every_s=30.0)
    assert not running.running and running.truth()["compressor_amps"] == 0.0
    still = running.truth()
    assert abs(still["head_pressure"] - still["suction_pressure"]) < 100_000, "it equalizes"
    running.set("switch", 0.0)
    watched(running, 900, every_s=30.0)
    assert running.running and running.truth()["head_pressure"] > 1_800_000


def test_the_solenoid_pumps_it_down_and_undone_it_runs_again(simulated):
    running = simulated(seed=5)
    running.set("solenoid", 1.0)
    watched(running, 300)
    assert not running.running and running.site.trip.cutout == "low_pressure"
    running.set("solenoid", 0.0)
    watched(running, 1200)
    assert running.running and running.site.trip is None
