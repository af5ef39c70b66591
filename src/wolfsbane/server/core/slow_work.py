"""Slow work in a process of its own, so that nobody who moves a slider waits for somebody else's proof or plan.

A proof holds the interpreter for a third of a second and more. It runs beside the application, at a lower priority,
and ends with it. Nobody fills it alone: each account has a few pieces at a time, all together some more, and a piece
that takes too long is ended.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from typing import TypeVar

from wolfsbane.server.core.errors import ApiError

Answer = TypeVar("Answer")

#: how much the processes yield to whoever answers requests
_NICER = 5
#: pieces of one account, and of everybody, that wait or run in one application process
PER_ACCOUNT, AT_ONCE = 8, 12
#: how long a piece may take, s, and after how long it may be tried again, s
DEADLINE_S, AGAIN_S = 140.0, 5


class SlowWork:
    """Runs functions in ``processes`` of its own; in the caller's where there are none. ``ready`` is called once in
    each, before the first work.
    """

    def __init__(self, processes: int, ready: Callable[[], object] | None = None) -> None:
        self.processes, self.ready = processes, ready
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()
        self._open: Counter[object] = Counter()

    def start(self) -> None:
        """Start the processes now, so that the first work finds them warm."""
        if self.processes:
            self._running().submit(os.getpid)

    def run(self, work: Callable[..., Answer], *given: object, whose: object = None) -> Answer:
        """The answer of ``work(*given)``, or what it raises; all of it has to be importable and picklable. A process
        that was killed is started again, once. Raises ApiError 429 where the account ``whose`` has too many under way,
        503 where everybody together has, or where it took too long.
        """
        with self._one_of(whose):
            if not self.processes:
                return work(*given)
            pool = self._running()
            try:
                return self._answer(pool, work, *given)
            except BrokenProcessPool:
                self._give_up(pool)
                return self._answer(self._running(), work, *given)

    def _answer(self, pool: ProcessPoolExecutor, work: Callable[..., Answer], *given: object) -> Answer:
        under_way = pool.submit(work, *given)
        try:
            return under_way.result(DEADLINE_S)
        except TimeoutError:
            if not under_way.cancel():
                # it runs: its process is ended, and whoever else waits for that pool finds another
                self._give_up(pool)
                for process in list((pool._processes or {}).values()):
                    process.terminate()
            raise ApiError(
                503, "too_long", f"this took longer than {DEADLINE_S:.0f} s; ask for less at once", retry_after=AGAIN_S
            ) from None

    @contextmanager
    def _one_of(self, whose: object) -> Iterator[None]:
        with self._lock:
            if whose is not None and self._open[whose] >= PER_ACCOUNT:
                raise ApiError(
                    429, "too_many", "your last requests are still being worked at; try again", retry_after=AGAIN_S
                )
            if self._open.total() >= AT_ONCE:
                raise ApiError(503, "busy", "many ask for something long; try again", retry_after=AGAIN_S)
            self._open[whose] += 1
        try:
            yield
        finally:
            with self._lock:
                self._open[whose] -= 1
                if not self._open[whose]:
                    del self._open[whose]

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
