"""The private database moved to the newest PostgreSQL installed, by dump and restore; what was stays beside it."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import TYPE_CHECKING

from wolfsbane.server.run import backups
from wolfsbane.server.run.postgres import PostgresError, PrivatePostgres, others_at

if TYPE_CHECKING:
    from collections.abc import Iterator


def waits(folder: Path) -> tuple[int, int] | None:
    """(major version of the data, newest installed) where they differ; None where there is nothing to do."""
    if not (folder / "data").exists():
        return None
    postgres = PrivatePostgres(folder)
    return (postgres.major, postgres.newest) if postgres.major < postgres.newest else None


def move_up(folder: Path, dumps: Path) -> Iterator[str]:
    """Move the cluster in ``folder`` up; what is to be said of it, line by line. The old data stay as ``data-<major>``.

    Raises PostgresError or BackupError; then the old data are where they were.
    """
    versions = waits(folder)
    if versions is None:
        return
    major, newest = versions
    old, kept = PrivatePostgres(folder), folder / f"data-{major}"
    if old.running():
        raise PostgresError("the database is in use: stop wolfsbane first, then run wolfsbane upgrade again")
    if kept.exists():
        raise PostgresError(f"{kept} is there already, of a move before; put it away first")
    try:
        if others_at(old.start().url()):
            raise PostgresError("the database is in use: stop wolfsbane first, then run wolfsbane upgrade again")
        note = backups.make(old.url(), dumps, f"before PostgreSQL {newest}")
    finally:
        old.stop()
    secret = (folder / "password").read_text()
    old.data.rename(kept)
    moved = False
    try:
        fresh = PrivatePostgres(folder)
        try:
            backups.restore(fresh.start().url(), dumps / note.file)
            moved = True
        finally:
            fresh.stop()
    finally:
        if not moved:
            shutil.rmtree(old.data, ignore_errors=True)
            kept.rename(old.data)
            (folder / "password").write_text(secret)
    yield f"moved: PostgreSQL {major} to {newest}, by {note.file}"
    yield f"what was before is in {kept}; delete it once you trust the new one"
