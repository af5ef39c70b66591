"""Run the job worker: ``python -m wolfsbane.server.jobs.worker`` with WOLFSBANE_DATABASE_URL set."""

from __future__ import annotations

import logging
import os

import procrastinate

from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.database import Database
from wolfsbane.server.core.helpers import Helpers
from wolfsbane.server.jobs.queue import worker_app
from wolfsbane.server.services import building

#: beyond this many the database and the pages would wait
_MOST_HELPERS = 4


def main() -> None:
    """Work until told to stop."""
    logging.basicConfig(level=logging.WARNING)
    building.read_in()
    url = from_environment().database_url
    if url is None:
        raise SettingError("WOLFSBANE_DATABASE_URL is not set; the worker needs the address of a database")
    helpers = Helpers(min(os.cpu_count() or 1, _MOST_HELPERS), building.read_in)
    helpers.start()
    app = worker_app(procrastinate.PsycopgConnector(conninfo=url), Database(url, size=3).open(), helpers)
    try:
        app.run_worker(concurrency=1, listen_notify=False, fetch_job_polling_interval=0.5)
    finally:
        helpers.stop()


if __name__ == "__main__":
    main()
