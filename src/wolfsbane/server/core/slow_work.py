"""Slow work in a process of its own, so that nobody who moves a slider waits for somebody else's proof or plan.

A proof holds the interpreter for a third of a second and more. It runs beside the application, at a lower priority,
and ends with it.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import TypeVar

Answer = TypeVar("Answer")

#: how much the processes yield to whoever answers requests
_NICER = 5


class SlowWork:
    """Runs functions in ``processes`` of its own; in the caller's where there are none. ``ready`` is called once in
    each, before the first work.
    """

    def __init__(self, processes: int, ready: Callable[[], object] | None = None) -> None:
        self.processes, self.ready = processes, ready
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()

    def start(self) -> None:
        """Start the processes now, so that the first work finds them warm."""
        if self.processes:
            self._running().submit(os.getpid)

    def run(self, work: Callable[..., Answer], *given: object) -> Answer:
        """The answer of ``work(*given)``, or what it raises; all of it has to be importable and picklable. A process
        that was killed is started again, once.
        """
        if not self.processes:
            return work(*given)
        pool = self._running()
        try:
            return pool.submit(work, *given).result()
        except BrokenProcessPool:
            self._give_up(pool)
            return self._running().submit(work, *given).result()

    def stop(self) -> None:
        """End the processes."""
        with self._lock:
            if self._pool is not None:
                self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None

    def _give_up(self, broken: ProcessPoolExecutor) -> None:
        with self._lock:
            if self._pool is broken:
                self._pool = None

    def _running(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                self._pool = ProcessPoolExecutor(
                    self.processes,
                    mp_context=multiprocessing.get_context("spawn"),
                    initializer=begin,
                    initargs=(self.ready,),
                )
            return self._pool


def begin(ready: Callable[[], object] | None) -> None:
    """What a process does first: yield to whoever answers requests, and end with its parent."""
    os.nice(_NICER)
    threading.Thread(target=_end_with_parent, daemon=True).start()
    if ready is not None:
        ready()


def _end_with_parent() -> None:
    """An application that was killed cannot tell its processes to end."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)
