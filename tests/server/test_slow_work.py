"""Slow work runs beside the application: answers and errors come back, and a process that is killed is replaced."""

import os
import signal

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import from_display
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.server.core.slow_work import SlowWork


@pytest.fixture
def slow():
    work = SlowWork(1)
    yield work
    work.stop()


def test_work_is_done_in_another_process_at_a_lower_priority(slow):
    slow.start()
    other = slow.run(os.getpid)
    assert other != os.getpid() and slow.run(os.getpid) == other
    assert slow.run(os.getpriority, os.PRIO_PROCESS, 0) > os.getpriority(os.PRIO_PROCESS, 0)
    assert slow.run(from_display, "temperature", 32.0, "us") == pytest.approx(273.15)


def test_what_the_work_raises_reaches_the_caller_whole(slow):
    with pytest.raises(BadInputError) as error:
        slow.run(brief, {"title": "x", "calls": 99})
    assert error.value.field == "calls" and error.value.value == 99


def test_a_process_that_is_killed_is_started_again(slow):
    first = slow.run(os.getpid)
    os.kill(first, signal.SIGKILL)
    again = slow.run(os.getpid)
    assert again not in (first, os.getpid())


def test_without_processes_it_is_done_at_once():
    work = SlowWork(0)
    work.start()
    assert work.run(os.getpid) == os.getpid()
