"""Run the job worker: ``python -m wolfsbane.server.jobs.worker`` with WOLFSBANE_DATABASE_URL set."""

from __future__ import annotations

import logging

import procrastinate

from wolfsbane.server.core.config import from_environment
from wolfsbane.server.jobs.queue import make_app


def main() -> None:
    """Work until told to stop."""
    logging.basicConfig(level=logging.WARNING)
    # Imported at start: it takes seconds that no sheet should wait for.
    import wolfsbane.server.printing.paper  # noqa: F401

    app = make_app(procrastinate.PsycopgConnector(conninfo=from_environment().database_url))
    app.run_worker(concurrency=1, listen_notify=False, fetch_job_polling_interval=0.5)


if __name__ == "__main__":
    main()
