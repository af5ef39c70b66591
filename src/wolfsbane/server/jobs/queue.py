"""The job queue. Jobs are queued in the transaction of the work they belong to, and are safe to run twice.

Fair to the schools that share it: a job waits behind as many others as its own school has open, and small ones have a
lane of their own, so that a page for one never waits for a set of a class.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING, Any

import procrastinate

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import ALONE, Helpers
from wolfsbane.server.services import ahead, building, platforms, rosters

if TYPE_CHECKING:
    from procrastinate.app import App
    from procrastinate.psycopg_connector import PsycopgConnector

    from wolfsbane.server.core.db.database import Connection, Database

BUILD_SHEET, PRINT_SHEET, SEND_POINTS, DRAW_AHEAD = "build_sheet", "print_sheet", "send_points", "draw_ahead"
#: lanes that are worked at beside one another: sets of a class, what is small, what is no sheet, drafts
LARGE, SMALL, HOUSE, AHEAD = "large", "small", "house", "ahead"
#: which queues each lane takes; jobs of earlier releases are in ``default``
LANES = ((LARGE, "default"), (SMALL,), (HOUSE,), (AHEAD,))
#: up to so many calls a sheet is small
_SMALL_CALLS = 24
#: a worker says so often that it lives, is taken for dead after so long, and is looked for so often, s
HEARTBEAT_S, DEAD_S = 4.0, 14.0
_LOOK = "* * * * * */4"
#: a draft that was not changed for so long is drawn ahead, s
_QUIET_S = 2
#: jobs that are done are remembered so long, h
_JOBS_KEPT_H = 30 * 24


def worker_app(connector: PsycopgConnector, db: Database, helpers: Helpers = ALONE) -> App:
    """The App a worker runs: our tasks, on ``connector``, working in ``db`` with ``helpers``."""
    app = procrastinate.App(connector=connector)

    @app.task(name=BUILD_SHEET, retry=3, pass_context=False)
    def build_sheet(school_id: int, sheet_id: int) -> None:
        from wolfsbane.server.printing.paper import PRINTERS

        building.build(db, school_id, sheet_id, PRINTERS, helpers)

    @app.task(name=PRINT_SHEET, retry=3, pass_context=False)
    def print_sheet(school_id: int, sheet_id: int, kinds: tuple[str, ...]) -> None:
        from wolfsbane.server.services import documents

        wanted = documents.wanted(school_id, sheet_id, kinds)
        building.print_again(db, school_id, sheet_id, wanted, helpers)

    @app.task(name=SEND_POINTS, retry=3, pass_context=False)
    def send_points(school_id: int, sheet_id: int) -> None:
        platforms.send(db, school_id, sheet_id)

    @app.task(name=DRAW_AHEAD, retry=3, pass_context=False)
    def draw_ahead(school_id: int, sheet_id: int) -> None:
        if helpers.processes > 1:  # a machine with one processor is left to whoever works at the draft
            ahead.draw_ahead(db, school_id, sheet_id, helpers.aside())

    @app.periodic(cron=_LOOK)
    @app.task(name="retry_stalled", queue=HOUSE, queueing_lock="retry_stalled", pass_context=True)
    async def retry_stalled(context: Any, timestamp: Any) -> None:
        # A killed worker stops its heartbeat.
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_S):
            if job.task_name in (BUILD_SHEET, PRINT_SHEET, SEND_POINTS, DRAW_AHEAD):
                await app.job_manager.retry_job(job)

    @app.periodic(cron="* * * * *")
    @app.task(name="erase_due", queue=HOUSE, queueing_lock="erase_due", pass_context=False)
    def erase_due(timestamp: int) -> None:
        rosters.erase_due(db)

    @app.periodic(cron="17 3 * * *")
    @app.task(name="sweep", queue=HOUSE, queueing_lock="sweep", pass_context=True)
    async def sweep(context: Any, timestamp: int) -> None:
        with db.transaction() as connection:
            queries.sweep(connection)
        await app.job_manager.delete_old_jobs(nb_hours=_JOBS_KEPT_H, include_failed=True)

    return app


@cache
def _queue() -> App:
    """The App that only queues: one for the process, since each job is written in its caller's own transaction."""
    return procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


def _queue_job(connection: Connection, task: str, pieces: int, school_id: int, **arguments: Any) -> None:
    waits_behind = queries.jobs_open(connection, school_id=school_id)["open"]
    _queue().configure_task(
        task, connection=connection, queue=SMALL if pieces <= _SMALL_CALLS else LARGE, priority=-waits_behind
    ).defer(school_id=school_id, **arguments)


def queue_sheet(connection: Connection, school_id: int, sheet_id: int) -> None:
    """Queue the build of a sheet inside the caller's transaction. What was drawn of it before is used where it was
    drawn from what the sheet is made of now.
    """
    pieces = queries.sheet_pieces(connection, sheet_id=sheet_id)["pieces"]
    _queue_job(connection, BUILD_SHEET, pieces, school_id, sheet_id=sheet_id)


def queue_ahead(connection: Connection, school_id: int, sheet_id: int) -> None:
    """Queue the drawing of a draft inside the caller's transaction, for when nobody has changed it for a moment."""
    _queue().configure_task(DRAW_AHEAD, connection=connection, queue=AHEAD, schedule_in={"seconds": _QUIET_S}).defer(
        school_id=school_id, sheet_id=sheet_id
    )


def queue_print(connection: Connection, school_id: int, sheet_id: int, kinds: list[str]) -> None:
    """Queue the printing of documents of a ready sheet inside the caller's transaction."""
    queries.sheet_printing(connection, id=sheet_id, printing="on", done=0, total=1)
    pieces = queries.sheet_pieces(connection, sheet_id=sheet_id)["pieces"]
    _queue_job(connection, PRINT_SHEET, pieces, school_id, sheet_id=sheet_id, kinds=list(kinds))


def queue_points(connection: Connection, school_id: int, sheet_id: int) -> None:
    """Queue sending the points of a sheet to a learning platform inside the caller's transaction."""
    _queue_job(connection, SEND_POINTS, 1, school_id, sheet_id=sheet_id)
