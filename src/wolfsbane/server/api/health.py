"""Whether this process lives and whether the whole is ready, for whoever watches it; what is wrong is said on this
machine only.
"""

import ipaddress
import shutil
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from flask import Response, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.models import Model
from wolfsbane.server.core import metrics
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import DatabaseDownError, queries
from wolfsbane.server.core.db.migrate import files
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import ANYONE, roles

api = APIBlueprint("health", __name__, url_prefix="/health", abp_tags=[Tag(name="health")])

#: a worker that was not heard of for so long is gone, s; a disk with less left is full, bytes
_SILENT_S, _FULL = 120.0, 500_000_000


class Live(Model):
    live: bool


class HealthCheck(Model):
    name: str
    ok: bool
    said: str


class Ready(Model):
    """``checks`` is empty for whoever asks from another machine."""

    ready: bool
    checks: list[HealthCheck]


@api.get("/live", responses={200: Live})
@roles(ANYONE)
def live() -> dict[str, bool]:
    """This process answers."""
    return {"live": True}


@api.get("/ready", responses={200: Ready, 503: Ready})
@roles(ANYONE)
def ready() -> tuple[dict[str, Any], int]:
    """Database, migrations, worker and disk are as they have to be; 503 where one is not."""
    found = checks()
    fine = all(c["ok"] for c in found)
    return {"ready": fine, "checks": found if _from_here() else []}, 200 if fine else 503


#: a path of its own, where who watches expects it
figures = APIBlueprint("metrics", __name__, abp_tags=[Tag(name="health")])


@figures.get("/metrics")
@roles(ANYONE)
def metrics_read() -> Response:
    """Figures in the text form that Prometheus reads, on this machine only."""
    if not _from_here():
        raise not_found("this page")
    return Response(metrics.text(), mimetype="text/plain; version=0.0.4")


def _from_here() -> bool:
    if "X-Forwarded-For" in request.headers and not settings().behind_front:
        # somebody stands between whom nobody told us of, and asks for somebody else
        return False
    try:
        return ipaddress.ip_address(request.remote_addr or "").is_loopback
    except ValueError:
        return False


def checks() -> list[dict[str, Any]]:
    """Every check with what it found."""
    newest = max(number for number, *_ in files())
    rows: list[tuple[str, bool, str]] = []
    try:
        with database().transaction() as connection:
            at = queries.health(connection)
        rows.append(("database", True, "answers"))
        there = at["migration"]
        rows.append(("migrations", there == newest, f"at {there}, this release knows {newest}"))
        heard = at["worker_at"]
        silent = None if heard is None else (datetime.now(UTC) - heard).total_seconds()
        said = "none has begun" if silent is None else f"heard of {silent:.0f} s ago"
        rows.append(("job worker", silent is not None and silent < _SILENT_S, said))
    except DatabaseDownError as error:
        rows.append(("database", False, str(error)))
    folder = Path(settings().data_dir)
    left = shutil.disk_usage(folder if folder.exists() else Path.cwd()).free
    rows.append(("disk", left >= _FULL, f"{left / 1e9:.1f} GB left"))
    return [{"name": name, "ok": ok, "said": said} for name, ok, said in rows]
