"""Processes that draw and print beside the job worker, kept from one sheet to the next: what they have read in and
solved once serves the next class as well.
"""

from __future__ import annotations

import multiprocessing
import os
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from contextlib import contextmanager
from typing import Any

from wolfsbane.server.core.slow_work import begin

#: below this many pieces of work sending them out takes longer than it saves
WORTH_SENDING = 12


class Helpers:
    """``processes`` of them (below 2: none, everything is done here), started when they are first asked for; ``ready``
    is called once in each, before the first work.
    """

    def __init__(self, processes: int = 1, ready: Callable[[], object] | None = None) -> None:
        self.processes, self.ready = processes, ready
        self._pool: ProcessPoolExecutor | None = None
        self._children: list[Any] = []
        self._lock = threading.Lock()

    @contextmanager
    def lent(self, pieces: int) -> Iterator[Callable[..., Iterable[Any]]]:
        """``map`` over the processes where there is enough to do for them, the plain one otherwise. Where the work
        inside is given up, what is under way is ended with it.
        """
        if self.processes < 2 or pieces < WORTH_SENDING:
            yield map
            return
        pool = self._running()

        # The pool's own map takes back what nobody waits for any more, and a pool whose processes are then ended fails
        # on what was taken back: it neither tells the others nor waits for the processes.
        def each(work: Callable[..., Any], *given: Iterable[Any]) -> Iterator[Any]:
            asked = [pool.submit(work, *one) for one in zip(*given, strict=False)]
            return (piece.result() for piece in asked)

        try:
            yield each
        except BaseException:
            self.stop()
            raise

    def aside(self) -> Callable[..., Iterable[Any]]:
        """``map`` over the processes, a few pieces of work at a time, in order: what somebody waits for is never more
        than those few behind. Nothing is ended where the work is given up. The plain ``map`` where there are none.
        """
        if self.processes < 2:
            return map

        def each(work: Callable[..., Any], *given: Iterable[Any]) -> Iterator[Any]:
            asked: deque[Future[Any]] = deque()
            for one in zip(*given, strict=False):
                asked.append(self._running().submit(work, *one))
                if len(asked) > self.processes:
                    yield asked.popleft().result()
            while asked:
                yield asked.popleft().result()

        return each

    def start(self) -> None:
        """Start them now, so that the first sheet finds them ready."""
        if self.processes > 1:
            self._running()

    def stop(self) -> None:
        """End them, whatever they are at: nobody waits for it any more."""
        with self._lock:
            pool, children = self._pool, self._children
            self._pool, self._children = None, []
        for child in children:
            child.terminate()
        if pool is not None:
            pool.shutdown(wait=True)
        for child in children:
            child.join()

    def _running(self) -> ProcessPoolExecutor:
        with self._lock:
            if self._pool is None:
                others = set(multiprocessing.active_children())
                self._pool = ProcessPoolExecutor(
                    self.processes,
                    mp_context=multiprocessing.get_context("spawn"),
                    initializer=_begin_alone,
                    initargs=(self.ready,),
                )
                # Each piece of work that finds nobody idle starts one more.
                for started in [self._pool.submit(os.getpid) for _ in range(self.processes)]:
                    started.result()
                self._children = [c for c in multiprocessing.active_children() if c not in others]
            return self._pool


def _begin_alone(ready: Callable[[], object] | None) -> None:
    """As :func:`begin`, in a process that has others of its kind beside it: the press shall not spread each of them
    over all processors.
    """
    os.environ["RAYON_NUM_THREADS"] = "1"
    begin(ready)


#: nobody to help
ALONE = Helpers()
