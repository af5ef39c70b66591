"""The job queue. Jobs are queued in the transaction of the work they belong to, and are safe to run twice."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING, Any

import procrastinate

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.helpers import ALONE, Helpers
from wolfsbane.server.services import building, rosters

if TYPE_CHECKING:
    from procrastinate.app import App
    from procrastinate.psycopg_connector import PsycopgConnector

    from wolfsbane.server.core.db.database import Connection, Database

BUILD_SHEET, PRINT_SHEET = "build_sheet", "print_sheet"


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

    @app.periodic(cron="* * * * *")
    @app.task(name="retry_stalled", queueing_lock="retry_stalled", pass_context=True)
    async def retry_stalled(context: Any, timestamp: Any) -> None:
        # A killed worker stops its heartbeat.
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=60):
            if job.task_name in (BUILD_SHEET, PRINT_SHEET):
                await app.job_manager.retry_job(job)

    @app.periodic(cron="* * * * *")
    @app.task(name="erase_due", queueing_lock="erase_due", pass_context=False)
    def erase_due(timestamp: int) -> None:
        rosters.erase_due(db)

    return app


@cache
def _queue() -> App:
    """The App that only queues: one for the process, since each job is written in its caller's own transaction."""
    return procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


def _queue_job(connection: Connection, task: str, **arguments: Any) -> None:
    _queue().configure_task(task, connection=connection).defer(**arguments)


def queue_sheet(connection: Connection, school_id: int, sheet_id: int) -> None:
    """Queue the build of a sheet inside the caller's transaction."""
    _queue_job(connection, BUILD_SHEET, school_id=school_id, sheet_id=sheet_id)


def queue_print(connection: Connection, school_id: int, sheet_id: int, kinds: list[str]) -> None:
    """Queue the printing of documents of a ready sheet inside the caller's transaction."""
    queries.sheet_printing(connection, id=sheet_id, printing="on", done=0, total=1)
    _queue_job(connection, PRINT_SHEET, school_id=school_id, sheet_id=sheet_id, kinds=list(kinds))
