"""The job queue. Jobs are queued in the transaction of the work they belong to, and are safe to run twice."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

import procrastinate

from wolfsbane.server.core.config import from_environment
from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.services import building

if TYPE_CHECKING:
    from procrastinate.app import App
    from procrastinate.sync_psycopg_connector import SyncPsycopgConnector

    from wolfsbane.server.core.db.database import Connection

BUILD_SHEET, PRINT_SHEET = "build_sheet", "print_sheet"
_worker_db = None


def make_app(connector: SyncPsycopgConnector) -> App:
    """A procrastinate App with our tasks on ``connector``."""
    app = procrastinate.App(connector=connector)

    @app.task(name=BUILD_SHEET, retry=3, pass_context=False)
    def build_sheet(school_id: int, sheet_id: int) -> None:
        from wolfsbane.server.printing.paper import PRINTERS

        building.build(_database(), school_id, sheet_id, PRINTERS, processes=min(os.cpu_count() or 1, 4))

    @app.task(name=PRINT_SHEET, retry=3, pass_context=False)
    def print_sheet(school_id: int, sheet_id: int, kinds: Any) -> None:
        from wolfsbane.server.services import documents

        building.print_again(
            _database(),
            school_id,
            sheet_id,
            documents.wanted(school_id, sheet_id, kinds),
            processes=min(os.cpu_count() or 1, 4),
        )

    @app.periodic(cron="* * * * *")
    @app.task(name="retry_stalled", queueing_lock="retry_stalled", pass_context=True)
    async def retry_stalled(context: Any, timestamp: Any) -> None:
        for job in await app.job_manager.get_stalled_jobs(
            seconds_since_heartbeat=60
        ):  # a killed worker stops its heartbeat
            if job.task_name in (BUILD_SHEET, PRINT_SHEET):
                await app.job_manager.retry_job(job)

    return app


def _database() -> Any:
    global _worker_db
    if _worker_db is None:
        _worker_db = Database(from_environment().database_url, size=3).open()
    return _worker_db


def queue_sheet(connection: Connection, school_id: int, sheet_id: int) -> None:
    """Queue the build of a sheet inside the caller's transaction."""
    app = make_app(procrastinate.SyncPsycopgConnector())
    app.configure_task(BUILD_SHEET, connection=connection).defer(school_id=school_id, sheet_id=sheet_id)


def queue_print(connection: Connection, school_id: int, sheet_id: int, kinds: list[str]) -> None:
    """Queue the printing of documents of a ready sheet inside the caller's transaction."""
    queries.sheet_printing(connection, id=sheet_id, printing="on", done=0, total=1)
    app = make_app(procrastinate.SyncPsycopgConnector())
    app.configure_task(PRINT_SHEET, connection=connection).defer(
        school_id=school_id, sheet_id=sheet_id, kinds=list(kinds)
    )
