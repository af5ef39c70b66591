"""Slow work runs beside the application: answers and errors come back, and a process that is killed is replaced."""

import os
import signal
import threading
import time

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import from_display
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.server.core import slow_work
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.slow_work import AT_ONCE, PER_ACCOUNT, SlowWork


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


def refused(work, whose):
    with pytest.raises(ApiError) as error:
        work.run(os.getpid, whose=whose)
    assert error.value.retry_after
    return error.value.status


def test_nobody_fills_it_alone_and_all_together_not_without_end():
    work, begun, go = SlowWork(0), threading.Semaphore(0), threading.Event()

    def long():
        begun.release()
        go.wait(600)

    def busy(whose):
        thread = threading.Thread(target=work.run, args=(long,), kwargs={"whose": whose})
        thread.start()
        begun.acquire(timeout=600)
        return thread

    threads = [busy("ada") for _ in range(PER_ACCOUNT)]
    assert refused(work, "ada") == 429 and work.run(os.getpid, whose="bo") == os.getpid()
    threads += [busy(f"other {i}") for i in range(AT_ONCE - PER_ACCOUNT)]
    assert refused(work, "bo") == 503
    go.set()
    for one in threads:
        one.join(600)
    assert work.run(os.getpid, whose="ada") == os.getpid(), "and all is given back"


def test_what_takes_too_long_is_ended_and_the_next_finds_another_process(slow, monkeypatch):
    first = slow.run(os.getpid)
    monkeypatch.setattr(slow_work, "DEADLINE_S", 0.05)
    with pytest.raises(ApiError) as error:
        slow.run(time.sleep, 3600)
    assert error.value.status == 503 and error.value.code == "too_long"
    monkeypatch.setattr(slow_work, "DEADLINE_S", 600.0)
    assert slow.run(os.getpid) != first
