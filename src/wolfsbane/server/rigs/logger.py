"""Run the logger: ``python -m wolfsbane.server.rigs.logger`` with WOLFSBANE_DATABASE_URL set.

One for all rigs: it reads each once a second, stores what was read, and writes what the readings say. What is not read
is a gap, marked with its reason; while the database is away samples wait in memory.
"""

from __future__ import annotations

import logging
import signal
import sys
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.points import ORDER
from wolfsbane.rig.rig import RIG
from wolfsbane.server.core import logs
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.database import Database, DatabaseDownError, Lone, jsonb, queries
from wolfsbane.server.rigs.modbus import RigLine, RigSilentError
from wolfsbane.server.rigs.watching import Watched, baseline_or_none
from wolfsbane.server.services.rigs import planted_on
from wolfsbane.tuning.first_guess import restored

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

_log = logging.getLogger("wolfsbane.logger")
#: held by the one logger that reads the rigs
_LOCK = 7_330_422
#: rigs are read so often, looked at so often, and looked up again so often, s
PERIOD_S, _LOOKS_S, _LOOKS_UP_S = 1.0, 3.0, 5.0
#: without a sample for so long, or for five that were due, there is a gap, s
GAP_S = 5.0
#: samples of so many seconds of all rigs wait for a database that is away; the oldest go first
_KEEPS = 40_000
#: samples are kept whole for a term
_TERM = timedelta(days=120)


@dataclass
class _Followed:
    """A rig with its line, its watch and what is under way."""

    id: int
    school_id: int
    stored: Any
    watched: Watched
    line: RigLine
    last_at: datetime | None
    silent_since: datetime | None = None
    told: str = ""
    asked: Future[Any] | None = None
    shown: dict[str, float | None] = field(default_factory=dict)
    clock_s: float | None = None
    seen_at: datetime | None = None


class Logger:
    """The service. ``now`` gives the time, ``lone`` whether this is the one that reads; ``turn`` does what is due, and
    a loop around it does nothing else.
    """

    def __init__(
        self,
        db: Database,
        now: Callable[[], datetime] | None = None,
        period_s: float = PERIOD_S,
        lone: Lone | None = None,
    ) -> None:
        self._db, self._lone = db, lone
        self._gap_s = max(GAP_S, 5.0 * period_s)
        self._now = now or (lambda: datetime.now(UTC))
        self._rigs: dict[int, _Followed] = {}
        self._waiting: deque[dict[str, Any]] = deque(maxlen=_KEEPS)
        self._events: deque[dict[str, Any]] = deque(maxlen=_KEEPS)
        self._threads = ThreadPoolExecutor(16, thread_name_prefix="rig")
        self._looked_up = self._looked_at = self._folded = self._now() - timedelta(hours=1)
        self.lost = 0

    def turn(self) -> None:
        """One round: rigs looked up, asked, stored, looked at, each when it is due."""
        now = self._now()
        if now - self._looked_up >= timedelta(seconds=_LOOKS_UP_S):
            self._look_up(now)
        self._ask_all(now)
        self._store()
        if now - self._looked_at >= timedelta(seconds=_LOOKS_S):
            self._looked_at = now
            self._look()
        if now - self._folded >= timedelta(hours=1):
            self._folded = now
            self._fold(now)

    def close(self) -> None:
        """Store what waits and hang up."""
        self._store()
        for rig in self._rigs.values():
            rig.line.close()
        self._threads.shutdown(wait=False, cancel_futures=True)

    def _look_up(self, now: datetime) -> None:
        rows: list[dict[str, Any] | None] = []
        try:
            # on another host somebody reads them already: nothing is stored twice
            ours = self._lone is None or self._lone.held()
            with self._db.transaction() as connection:
                if ours:
                    rows = [self._known(connection, row) for row in queries.rigs_logged(connection)]
        except DatabaseDownError:
            return
        self._looked_up = now
        found = {row["id"]: row for row in rows if row is not None and row["rig"].address}
        for gone in set(self._rigs) - set(found):
            self._rigs.pop(gone).line.close()
        for row in found.values():
            self._follow(row)

    def _known(self, connection: Connection, row: dict[str, Any]) -> dict[str, Any] | None:
        """A rig with its machine and what is planted; None for one that cannot be read."""
        try:
            rig = RIG.read(row["body"])
            profile = MACHINES[rig.machine] if rig.machine in MACHINES else restored(row["own"][0])
            return {**row, "rig": rig, "profile": profile, "planted": planted_on(connection, row["id"], rig, profile)}
        except (BadInputError, TypeError, IndexError) as error:
            _log.warning("rig %s cannot be read: %s", row["id"], error)
            return None

    def _follow(self, row: dict[str, Any]) -> None:
        rig, profile, planted = row["rig"], row["profile"], row["planted"]
        known = self._rigs.get(row["id"])
        if known is not None and known.stored == (row["body"], row["own"], row["baseline"]):
            known.watched.planted = planted
            known.watched.was_undone(row["undone"])
            return
        if known is not None:
            known.line.close()
        try:
            line = RigLine(rig)
        except BadInputError as error:
            _log.warning("rig %s cannot be read: %s", row["id"], error)
            self._rigs.pop(row["id"], None)
            return
        watched = Watched(rig=rig, profile=profile, baseline=baseline_or_none(row["baseline"]), planted=planted)
        if known is not None and known.watched.rig.channels == rig.channels:
            watched.samples = known.watched.samples
        watched.was_undone(row["undone"])
        self._rigs[row["id"]] = _Followed(
            id=row["id"],
            school_id=row["school_id"],
            stored=(row["body"], row["own"], row["baseline"]),
            watched=watched,
            line=line,
            last_at=row["last_at"] if known is None else known.last_at,
            told="the logger was not running" if known is None else known.told,
        )

    def _ask_all(self, now: datetime) -> None:
        for rig in self._rigs.values():
            if rig.asked is not None and rig.asked.done():
                self._answered(rig, rig.asked)
                rig.asked = None
            if rig.asked is None:
                rig.asked = self._threads.submit(self._asked, rig)

    def _asked(self, rig: _Followed) -> tuple[datetime, float | None, dict[str, float | None]]:
        clock_s, shown = rig.line.read()
        return self._now(), clock_s, shown

    def _answered(self, rig: _Followed, asked: Future[Any]) -> None:
        try:
            at, clock_s, shown = asked.result()
        except RigSilentError as error:
            if rig.silent_since is None:
                rig.silent_since = self._now()
            rig.told = str(error)
            return
        if rig.last_at is not None and at <= rig.last_at:
            return
        self._mark_gap(rig, at)
        clock_s = at.timestamp() if clock_s is None else clock_s
        if not rig.watched.add(clock_s, shown):
            self._event(rig, "clock", {"from_s": rig.clock_s, "to_s": clock_s}, at)
        rig.last_at, rig.seen_at, rig.silent_since, rig.told = at, at, None, ""
        rig.shown, rig.clock_s = shown, clock_s
        if len(self._waiting) == self._waiting.maxlen:
            self.lost += 1
        self._waiting.append(
            {"rig_id": rig.id, "at": at, "clock_s": clock_s, "shown": [shown.get(point) for point in ORDER]}
        )

    def _mark_gap(self, rig: _Followed, at: datetime) -> None:
        if rig.last_at is not None and (at - rig.last_at).total_seconds() > self._gap_s:
            gap = {"from": rig.last_at.isoformat(), "to": at.isoformat(), "why": rig.told or "it answered late"}
            self._event(rig, "gap", gap, at)

    def _event(self, rig: _Followed, kind: str, data: dict[str, Any], at: datetime) -> None:
        self._events.append(
            {
                "school_id": rig.school_id,
                "rig_id": rig.id,
                "kind": kind,
                "data": jsonb(data),
                "user_id": None,
                "at": at,
            }
        )

    def _store(self) -> None:
        rows, events = list(self._waiting), list(self._events)
        if not rows and not events:
            return
        try:
            with self._db.transaction() as connection:
                if rows:
                    queries.rig_sample_add(connection, rows)
                for event in events:
                    queries.rig_event_add(connection, **event)
        except DatabaseDownError:
            return
        for _ in rows:
            self._waiting.popleft()
        for _ in events:
            self._events.popleft()

    def _look(self) -> None:
        said = []
        for rig in self._rigs.values():
            silent = rig.seen_at is None or rig.silent_since is not None
            watch = {} if silent else rig.watched.looked()
            seen = watch.get("back")
            if seen and seen["ok"]:
                self._event(rig, "returned", {"undone": rig.watched.undone, **seen}, self._now())
                rig.watched.was_undone(None)
            state = "silent" if silent else "wrong" if watch.get("wrong") else "answers"
            shown = None if silent else [rig.shown.get(point) for point in ORDER]
            said.append(
                {
                    "rig_id": rig.id,
                    "state": state,
                    "told": (rig.told if silent else watch.get("wrong", "")) or "",
                    "seen_at": rig.seen_at,
                    "clock_s": rig.clock_s,
                    "shown": shown,
                    "watch": jsonb(watch),
                }
            )
        try:
            with self._db.transaction() as connection:
                for row in said:
                    queries.rig_watch_set(connection, **row)
        except DatabaseDownError:
            return

    def _fold(self, now: datetime) -> None:
        """What is older than a term becomes means of minutes."""
        try:
            with self._db.transaction() as connection:
                queries.rig_fold_minutes(connection, before=now - _TERM)
        except DatabaseDownError:
            return


def main() -> int:
    """Read until told to stop."""
    config = from_environment()
    logs.begin(as_json=config.log_json)
    logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
    if config.database_url is None:
        raise SettingError("WOLFSBANE_DATABASE_URL is not set; the logger needs the address of a database")
    db = Database(config.database_url, size=3).open()
    lone = Lone(config.database_url, _LOCK)
    logger = Logger(db, period_s=config.rig_period, lone=lone)
    ends = []
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: ends.append(1))
    due = time.monotonic()
    while not ends:
        logger.turn()
        due = max(due + config.rig_period, time.monotonic() - config.rig_period)
        time.sleep(max(due - time.monotonic(), 0.0))
    logger.close()
    lone.give_up()
    db.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
