"""Readings and dials: rounding in the sheet's own units, and one geometry for screen and paper."""

import pytest

from tests.conftest import VALVE, solved
from wolfsbane.cycle.dials import SCALES, angle_deg, dial
from wolfsbane.cycle.instruments import POINTS, in_order, read, rounded
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import from_display, to_display


@pytest.mark.parametrize(
    ("value", "step", "expected"),
    [(129.6, 1, 130), (381.9, 5, 380), (-0.3, 0.5, -0.5), (-0.2, 0.5, 0.0), (62.24, 0.5, 62.0), (0.25, 0.5, 0.5)],
)
def test_rounding_goes_to_the_nearest_mark(value, step, expected):
    assert rounded(value, step) == expected
    assert str(rounded(value, step))[0] != "-" or expected < 0


@pytest.mark.parametrize("kit", ["analogue", "digital"])
@pytest.mark.parametrize("system", ["us", "si"])
def test_every_reading_is_a_multiple_of_its_resolution_in_its_own_unit(kit, system):
    state = solved(VALVE)
    readings = read(state, kit, system)
    assert list(readings) == list(POINTS)
    for r in readings.values():
        assert r.value / r.resolution == pytest.approx(round(r.value / r.resolution), abs=1e-9)
        assert r.text.endswith(r.unit)
    truth = to_display("pressure", state.suction_pa, system)
    assert abs(readings["suction_pressure"].value - truth) <= readings["suction_pressure"].resolution / 2 + 1e-9


def test_gauge_pressure_follows_the_barometer():
    high = solved(VALVE, altitude=5000)
    gauge = read(high, "digital", "us")["suction_pressure"].value
    assert from_display("pressure", gauge, "us", high.barometer_pa) == pytest.approx(high.suction_pa, abs=2000)
    assert high.barometer_pa < 85_000


def test_a_machine_that_cut_out_has_nothing_to_read():
    with pytest.raises(ValueError, match="cut out on high_pressure"):
        read(solved(VALVE, "dirty_condenser", 25, outdoor=115), "analogue", "us")


def test_readings_keep_the_order_a_technician_takes_them_in():
    mixed = {key: key for key in sorted(POINTS)}
    assert list(in_order(mixed)) == list(POINTS)


@pytest.mark.parametrize(("side", "system"), SCALES)
def test_the_needle_sweeps_the_scale_evenly_and_stops_at_the_ends(side, system):
    scale = SCALES[(side, system)]
    assert angle_deg(scale, 0) == -135 and angle_deg(scale, scale.top) == 135
    assert angle_deg(scale, scale.top / 2) == 0
    assert angle_deg(scale, 9 * scale.top) < 145


def test_the_ring_stands_where_the_refrigerant_boils():
    drawing = dial("low", "us", 118, "R-410A", 101325)
    forty = next(m for m in drawing["ring_labels"] if m["text"] == "40")
    angle = angle_deg(
        SCALES[("low", "us")], to_display("pressure", refrigerant("R-410A").saturation_pa(277.594, "dew"), "us")
    )
    from math import cos, radians, sin

    assert forty["x"] == pytest.approx(100 + 49.5 * sin(radians(angle)), abs=0.05)
    assert forty["y"] == pytest.approx(100 - 49.5 * cos(radians(angle)), abs=0.05)
    assert drawing["needle_deg"] == pytest.approx(angle_deg(SCALES[("low", "us")], 118), abs=1e-3)


@pytest.mark.parametrize("kind", ["pressure", "temperature", "difference", "mass"])
@pytest.mark.parametrize("system", ["us", "si"])
def test_display_units_convert_there_and_back(kind, system):
    assert from_display(kind, to_display(kind, 311.5, system, 90e3), system, 90e3) == pytest.approx(311.5)


def test_superheat_converts_as_a_difference():
    assert to_display("difference", 10, "us") == 18
    assert to_display("temperature", 273.15, "us") == pytest.approx(32)
