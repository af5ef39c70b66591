"""When a rig has settled."""

import math
from random import Random

import pytest

from tests.rig.conftest import SPLIT, run_healthy
from wolfsbane.rig.steady import WINDOW_S, moving, settled, stretches


def rows_of(minutes, shown, every_s=5.0, seed=3):
    draw = Random(seed)
    return [
        (
            n * every_s,
            {
                "suction_pressure": 830_000 + draw.gauss(0, 1500) + shown.get("suction", lambda t: 0)(n * every_s),
                "head_pressure": 2_300_000 + draw.gauss(0, 1500) + shown.get("head", lambda t: 0)(n * every_s),
                "suction_line": 286.0 + draw.gauss(0, 0.06) + shown.get("line", lambda t: 0)(n * every_s),
                "outdoor_db": 305.0 + shown.get("air", lambda t: 0)(n * every_s),
            },
        )
        for n in range(round(60 * minutes / every_s))
    ]


def test_what_stands_still_has_settled_for_as_long_as_it_did():
    assert settled(rows_of(12, {})).minutes == pytest.approx(12, abs=1.1)
    assert settled(rows_of(4, {})).why == ("not watched for five minutes yet",)
    assert settled([]).why == ("no readings",)


def test_what_still_moves_is_named():
    """Practice: nothing is believed while a needle still creeps (common practice, no source)."""
    rising = rows_of(10, {"head": lambda t: 400.0 * t})
    assert settled(rising).why == ("head pressure is still rising",)
    falling = rows_of(10, {"line": lambda t: -0.004 * t})
    assert settled(falling).why == ("suction line, outdoors is still falling",)
    swinging = rows_of(10, {"suction": lambda t: 40_000 * math.sin(t / 18)})
    assert any("swings" in w for w in settled(swinging).why)


def test_a_head_that_follows_the_weather_has_settled():
    warming = {"air": lambda t: t / 600.0, "head": lambda t: 45_000 * t / 600.0}
    assert settled(rows_of(10, warming)).ok
    assert not settled(rows_of(10, {"head": warming["head"]})).ok


def test_it_settles_a_while_after_it_moved():
    step = rows_of(20, {"line": lambda t: 0.0 if t > 600 else 3.0 * (1 - t / 600)})
    minutes = settled(step).minutes
    assert 8 <= minutes <= 11
    assert all(s.begin_s > 300 for s in stretches(step))


def test_a_gap_is_no_standing_still():
    rows = [r for r in rows_of(12, {}) if not 500 < r[0] < 640]
    assert settled(rows).why == ("readings are missing in between",)


def test_stretches_are_long_enough_do_not_overlap_much_and_hold_means():
    found = stretches(run_healthy(SPLIT, 1))
    assert len(found) > 8
    for s in found:
        assert WINDOW_S * 0.8 <= s.end_s - s.begin_s <= 601 and s.samples > 20
        assert s.scatter["suction_line"] < 0.2 and 260 < s.mean["suction_line"] < 300
    assert all(b.begin_s >= a.begin_s + 60 for a, b in zip(found, found[1:], strict=False))


def test_a_dead_channel_does_not_keep_a_rig_from_settling():
    rows = [(t, {**row, "suction_line": None}) for t, row in rows_of(10, {})]
    assert settled(rows).ok and "suction_line" not in stretches(rows)[0].mean
    assert moving(rows[:3])
