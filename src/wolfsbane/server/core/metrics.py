"""Figures for whoever watches the server, in the text form that Prometheus reads.

Requests are counted in every process (their files are in ``PROMETHEUS_MULTIPROC_DIR`` where there are several); what
the database knows is asked when somebody looks.
"""

from __future__ import annotations

import os
import shutil
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

from flask import g, request
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector

from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import DatabaseDownError, queries

if TYPE_CHECKING:
    from collections.abc import Iterator

    from flask_openapi3.openapi import OpenAPI

#: where several processes keep their counts; named by the library
FOLDER_VARIABLE = "PROMETHEUS_MULTIPROC_DIR"
_here = CollectorRegistry()
REQUESTS = Counter(
    "wolfsbane_requests_total", "Requests by route and status.", ["method", "route", "status"], registry=_here
)
SECONDS = Histogram(
    "wolfsbane_request_seconds",
    "How long requests took, by route.",
    ["route"],
    registry=_here,
    buckets=(0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0),
)
#: row of the query -> (name, what it is)
_GAUGES = {
    "jobs_waiting": "Sheets that wait to be made or printed.",
    "jobs_running": "Sheets that are being made or printed.",
    "jobs_oldest_s": "How long the oldest of those that wait has waited, s.",
    "worker_silent_s": "How long ago the job worker was heard of, s.",
    "sessions": "Log-ins that are good.",
    "schools": "Schools on this server.",
    "papers": "Papers that were issued.",
    "failed_log_ins": "Failed log-ins of the last quarter hour.",
    "database_bytes": "Size of the database.",
}


def register(app: OpenAPI) -> None:
    """Count every request of an application."""

    @app.before_request
    def _begin() -> None:
        g.began_s = time.perf_counter()

    @app.after_request
    def _end(response: Any) -> Any:
        # the route and never the path: a code of a paper is nobody's business
        route = request.url_rule.rule if request.url_rule else "none"
        REQUESTS.labels(request.method, route, response.status_code).inc()
        if "began_s" in g:
            SECONDS.labels(route).observe(time.perf_counter() - g.began_s)
        return response


class _Asked:
    """What the database and the disk say at this moment."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        try:
            with database().transaction() as connection:
                found = queries.figures(connection)
            up = 1.0
        except DatabaseDownError:
            found, up = {}, 0.0
        yield GaugeMetricFamily("wolfsbane_database_up", "Whether the database answers.", value=up)
        for name, what in _GAUGES.items():
            if found.get(name) is not None:
                yield GaugeMetricFamily(f"wolfsbane_{name}", what, value=float(found[name]))
        folder = Path(settings().data_dir)
        free = shutil.disk_usage(folder if folder.exists() else Path.cwd()).free
        yield GaugeMetricFamily("wolfsbane_disk_free_bytes", "Room left where data is kept.", value=float(free))


def text() -> bytes:
    """Everything that is known now, in the text form."""
    found = CollectorRegistry()
    found.register(_Asked())
    if os.environ.get(FOLDER_VARIABLE):
        MultiProcessCollector(found)
        return generate_latest(found)
    return generate_latest(found) + generate_latest(_here)
