"""What a logger kept, looked up by the moment: weights just before and after, clocks that go back, gaps."""

import pytest

from wolfsbane.exercise.lab.judging import Logged


def logged(times, weights, clock=lambda t: t):
    return Logged([(t, (clock(t), {"weight": w})) for t, w in zip(times, weights, strict=True)])


@pytest.mark.parametrize("every", [1.0, 2.0, 10.0])
def test_a_weight_is_read_before_the_valve_opens_and_after_it_shuts_however_often_one_logs(every):
    times = [every * i for i in range(60)]
    begin, end = 10 * every, 20 * every
    weights = [13.0 if t <= begin else 12.0 if t >= end else 13.0 - (t - begin) / (end - begin) for t in times]
    kept = logged(times, weights)
    assert kept.scale_kg(begin, after=False) == pytest.approx(13.0)
    assert kept.scale_kg(end - 0.01, after=True) == pytest.approx(12.0)


def test_where_nothing_came_after_what_came_before_counts_and_a_gap_is_no_weight():
    kept = logged([0.0, 1.0, 2.0], [5.0, 5.0, 5.0])
    assert kept.scale_kg(3.0, after=True) == 5.0 and kept.scale_kg(60.0, after=True) is None
    assert logged([0.0], [None]).scale_kg(0.0, after=True) is None and Logged().scale_kg(1.0, after=False) is None
    # the next weighing began two seconds after this one was written down: what moves by then is none of it
    moving = logged([0.0, 1.0, 2.0, 3.0], [12.0, 12.001, 11.6, 11.2])
    assert moving.scale_kg(0.0, after=True) == pytest.approx(12.0, abs=0.002)
    assert moving.scale_kg(2.5, after=False) == pytest.approx(11.6)


def test_samples_before_a_moment_end_where_the_clock_went_back():
    kept = logged([0.0, 1.0, 2.0, 3.0], [1, 2, 3, 4], clock=lambda t: t if t < 2 else t - 2)
    assert [s["weight"] for _, s in kept.before(3.0, 600.0)] == [3, 4]
    assert [s["weight"] for _, s in kept.between(0.0, 3.0)] == [3, 4]
    assert kept.fresh(10.0) and not kept.fresh(40.0)


def test_only_so_much_of_the_rigs_own_clock_is_looked_at():
    kept = logged([float(t) for t in range(10)], list(range(10)), clock=lambda t: 10.0 * t)
    assert [s["weight"] for _, s in kept.before(9.0, 30.0)] == [7, 8, 9]
