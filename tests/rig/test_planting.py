"""A fault's depth on a calibrated rig, the position that brings it there, and the live check that it went there."""

import pytest

from tests.rig.conftest import SPLIT, calibrated, watched
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.planting import Set, astray, depth_of, in_words, position_for, severity_at
from wolfsbane.rig.steady import stretches

PLANTS = (
    ("liquid_valve", 3.2, "liquid_line_restriction"),
    ("indoor_fan", 35.0, "low_airflow"),
    ("condenser_board", 40.0, "dirty_condenser"),
    ("bypass", 1.4, "leaking_compressor_valves"),
    ("charge", 16.0, "undercharge"),
)


def planted(simulated, device, position):
    simulated.set(device, position)
    watched(simulated, 1500)
    return stretches(watched(simulated, 900))[-1]


@pytest.mark.parametrize(("device", "position", "family"), PLANTS)
def test_the_depth_of_a_plant_is_found(device, position, family, simulated):
    rig, profile, baseline, _ = calibrated(SPLIT, 3)
    running = simulated(SPLIT, 3)
    stretch = planted(running, device, position)
    found = depth_of(rig, profile, baseline.individual, stretch, family)
    fault_free = 0.0 if family in ("liquid_line_restriction", "leaking_compressor_valves") else 100.0
    truth = next(
        (f.severity for f in running.faults()), 100 * running.site.circuit_kg / running.machine.circuit.charge_kg
    )
    assert found.believable and found.shows
    assert abs(found.severity - truth) <= 0.10 * abs(truth - fault_free) + 1.0, (found, truth)
    for other in {f for _, _, f in PLANTS} - {family}:
        assert depth_of(rig, profile, baseline.individual, stretch, other).square > 3 * found.square, other


def test_a_plant_goes_where_it_was_predicted_and_another_does_not(simulated):
    rig, profile, baseline, _ = calibrated(SPLIT, 3)
    running = simulated(SPLIT, 3)
    stretch = planted(running, "indoor_fan", 35.0)
    truth = running.faults()
    assert astray(rig, profile, baseline.individual, stretch, truth) == {}
    for wrong in ((), (Fault(id="dirty_condenser", severity=60.0),)):
        off = astray(rig, profile, baseline.individual, stretch, wrong)
        assert len(off) >= 3
    assert "lower than predicted" in in_words("suction_pressure", -20_000) and "3 psi" in in_words(
        "x" and "head_pressure", 20_000
    )


def test_a_position_is_read_off_what_was_measured():
    profile = MACHINES[SPLIT]
    known = (Set(position=2.0, severity=60.0, spread=4.0), Set(position=3.0, severity=140.0, spread=5.0))
    position, give = position_for("liquid_line_restriction", profile, known, 100.0, 4.0)
    assert position == pytest.approx(2.5) and 0 < give < 0.2
    assert severity_at("liquid_line_restriction", profile, known, 2.5) == pytest.approx(100.0)
    assert severity_at("liquid_line_restriction", profile, known, 0.0) == 0.0
    twice = (*known, Set(position=3.0, severity=150.0, spread=5.0))
    assert severity_at("liquid_line_restriction", profile, twice, 3.0) == pytest.approx(145.0)
    falling = (Set(position=40.0, severity=62.0, spread=1.0),)
    assert position_for("low_airflow", profile, falling, 81.0, 60.0)[0] == pytest.approx(20.0)


def test_beyond_what_was_measured_nothing_is_promised():
    profile = MACHINES[SPLIT]
    with pytest.raises(BadInputError, match="at least once"):
        position_for("liquid_line_restriction", profile, (), 100.0, 4.0)
    known = (Set(position=2.0, severity=60.0, spread=4.0),)
    for severity in (100.0, -5.0):
        with pytest.raises(BadInputError, match="0 to 60 psi"):
            position_for("liquid_line_restriction", profile, known, severity, 4.0)


def test_what_does_not_show_is_said(simulated):
    rig, profile, baseline, held = calibrated(SPLIT, 3)
    nothing = depth_of(rig, profile, baseline.individual, held[0], "dirty_condenser")
    assert not nothing.shows and nothing.severity > 95
