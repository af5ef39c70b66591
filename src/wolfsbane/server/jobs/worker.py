"""Run the job worker: ``python -m wolfsbane.server.jobs.worker`` with WOLFSBANE_DATABASE_URL set."""

from __future__ import annotations

import asyncio
import os
import signal
from typing import TYPE_CHECKING

import procrastinate

from wolfsbane.server.core import logs
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.database import Database
from wolfsbane.server.core.helpers import Helpers
from wolfsbane.server.jobs.queue import HEARTBEAT_S, LANES, worker_app
from wolfsbane.server.services import building

if TYPE_CHECKING:
    from procrastinate.app import App

#: beyond this many the database and the pages would wait
_MOST_HELPERS = 4


def main() -> None:
    """Work until told to stop."""
    config = from_environment()
    logs.begin(as_json=config.log_json)
    building.read_in()
    url = config.database_url
    if url is None:
        raise SettingError("WOLFSBANE_DATABASE_URL is not set; the worker needs the address of a database")
    helpers = Helpers(min(os.cpu_count() or 1, _MOST_HELPERS), building.read_in)
    helpers.start()
    app = worker_app(procrastinate.PsycopgConnector(conninfo=url), Database(url, size=5).open(), helpers)
    try:
        asyncio.run(work(app))
    finally:
        helpers.stop()


async def work(app: App) -> None:
    """Work at every lane, one job at a time in each, until SIGTERM or SIGINT."""
    async with app.open_async():
        lanes = [
            asyncio.create_task(
                app.run_worker_async(
                    queues=list(queues),
                    name=queues[0],
                    concurrency=1,
                    listen_notify=False,
                    fetch_job_polling_interval=0.5,
                    update_heartbeat_interval=HEARTBEAT_S,
                    install_signal_handlers=False,
                )
            )
            for queues in LANES
        ]
        for number in (signal.SIGTERM, signal.SIGINT):
            asyncio.get_running_loop().add_signal_handler(number, lambda: [lane.cancel() for lane in lanes])
        done, others = await asyncio.wait(lanes, return_when=asyncio.FIRST_COMPLETED)
        for lane in others:
            lane.cancel()
        await asyncio.gather(*lanes, return_exceptions=True)
        for lane in done:
            if not lane.cancelled():
                lane.result()


if __name__ == "__main__":
    main()
