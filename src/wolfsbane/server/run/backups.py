"""Backups of the whole database: ``python -m wolfsbane.server.run.backups``, or ``make backup`` and ``make restore``.

A backup is a dump that PostgreSQL itself can read, and a note beside it: when, why, of which release and migration,
how large, its checksum. One is made before every migration that has something to lose; old ones are thrown out by rule.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import subprocess
import sys
import threading
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Any

import psycopg

from wolfsbane import __version__
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.db.migrate import MigrationError, files, migrate, pending
from wolfsbane.server.run.postgres import PostgresError, binaries, the_database

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

SCHEMA = 1
#: every one of the last days is kept, then one a day, one a week, one a month for so many of them
_ALL_DAYS, _DAILY, _WEEKLY, _MONTHLY = 2, 14, 8, 12
#: a dump or restore that takes longer is broken off, s
_LONGEST_S = 3600.0
_CHUNK = 1 << 20


class BackupError(RuntimeError):
    """A backup that cannot be made, read or restored, in words."""


@dataclass(frozen=True, kw_only=True)
class Note:
    """What stands beside a dump: ISO time, why it was made, release, newest migration in it, major version of
    PostgreSQL, size in bytes, SHA-256.
    """

    file: str
    made_at: str
    why: str
    release: str
    migration: int
    postgres: int
    size: int
    sha256: str
    schema: int = SCHEMA


def _digest(path: Path) -> str:
    found = hashlib.sha256()
    with path.open("rb") as data:
        while block := data.read(_CHUNK):
            found.update(block)
    return found.hexdigest()


def _run(program: str, *args: str, url: str = "") -> str:
    """Run a program of PostgreSQL's; returns what it printed. No address in its arguments. Raises BackupError."""
    environment = {k: v for k, v in os.environ.items() if not k.startswith("PG")}
    if url:
        parts = psycopg.conninfo.conninfo_to_dict(url)
        names = {"host": "PGHOST", "port": "PGPORT", "user": "PGUSER", "password": "PGPASSWORD", "dbname": "PGDATABASE"}
        environment |= {names[k]: str(v) for k, v in parts.items() if k in names and v is not None}
    try:
        done = subprocess.run(
            [str(binaries() / program), *args], env=environment, capture_output=True, text=True, timeout=_LONGEST_S
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise BackupError(f"{program}: {error}") from error
    if done.returncode:
        said = done.stderr.strip().splitlines()
        raise BackupError(f"{program}: {said[-1] if said else done.returncode}")
    return done.stdout


def _asked(url: str, query: str) -> Any:
    try:
        with psycopg.connect(url, connect_timeout=10) as connection:
            row = connection.execute(query).fetchone()
    except psycopg.OperationalError as error:
        raise BackupError(f"the database cannot be reached: {error}".strip()) from error
    return None if row is None else row[0]


def _postgres(url: str) -> int:
    return int(_asked(url, "select current_setting('server_version_num')::int / 10000"))


def _migration(url: str) -> int:
    """The newest migration of a database, 0 of an empty one."""
    if _asked(url, "select to_regclass('migrations')") is None:
        return 0
    return int(_asked(url, "select coalesce(max(number), 0) from migrations"))


def make(url: str, folder: Path, why: str = "by hand") -> Note:
    """Dump a database into ``folder``, read it back, and write its note. Raises BackupError; then nothing is left."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    now = datetime.now(UTC)
    path = folder / f"wolfsbane-{now:%Y%m%d-%H%M%S-%f}.dump"
    part = path.with_suffix(".part")
    try:
        # only the owner may read what is in it
        os.close(os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        _run("pg_dump", "--format=custom", "--no-owner", "--no-privileges", f"--file={part}", url=url)
        listed = _run("pg_restore", "--list", str(part))
        if " TABLE DATA " not in listed:
            raise BackupError("the dump holds no table")
        note = Note(
            file=path.name,
            made_at=now.isoformat(timespec="seconds"),
            why=why,
            release=__version__,
            migration=_migration(url),
            postgres=_postgres(url),
            size=part.stat().st_size,
            sha256=_digest(part),
        )
        part.rename(path)
    finally:
        part.unlink(missing_ok=True)
    path.with_suffix(".json").write_text(json.dumps(asdict(note), indent=1) + "\n")
    return note


def listed(folder: Path) -> list[Note]:
    """The backups of a folder, newest first; what cannot be read is left out."""
    found = []
    for path in folder.glob("wolfsbane-*.json"):
        try:
            found.append(Note(**json.loads(path.read_text())))
        except (ValueError, TypeError, OSError):
            continue
    return sorted(found, key=lambda n: (n.made_at, n.file), reverse=True)


def checked(path: Path) -> Note:
    """The note of a dump that is exactly as it was written. Raises BackupError."""
    try:
        note = Note(**json.loads(path.with_suffix(".json").read_text()))
    except (OSError, ValueError, TypeError) as error:
        raise BackupError(
            f"{path.name}: its note {path.with_suffix('.json').name} is missing or cannot be read"
        ) from error
    if not path.is_file() or path.stat().st_size != note.size or _digest(path) != note.sha256:
        raise BackupError(f"{path.name}: not as it was written; its checksum does not match")
    return note


def restore(url: str, path: Path) -> Note:
    """Bring a dump into an empty database, then up to date. Raises BackupError, MigrationError; a database that holds
    something is left as it is, and one that fails half-way stays empty.
    """
    note = checked(path)
    newest = max(number for number, *_ in files())
    if note.migration > newest:
        raise BackupError(
            f"{path.name} is of release {note.release}, at migration {note.migration}; this release knows {newest}: "
            "install that release or a later one"
        )
    here = _postgres(url)
    if note.postgres > here:
        raise BackupError(
            f"{path.name} is of PostgreSQL {note.postgres}; here is {here}: install {note.postgres} or later"
        )
    if _asked(url, "select count(*) from information_schema.tables where table_schema = 'public'"):
        raise BackupError("the database is not empty; restore into an empty one")
    options = ("--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction")
    database = psycopg.conninfo.conninfo_to_dict(url).get("dbname", "")
    _run("pg_restore", *options, f"--dbname={database}", str(path), url=url)
    if _migration(url) != note.migration:
        raise BackupError(f"{path.name} did not come in whole: it is at another migration than its note says")
    migrate(url)
    return note


def spare(notes: Iterable[Note], now: datetime) -> list[Note]:
    """Backups that may go: all of the last two days stay, then the newest of each of the last 14 days, 8 weeks and 12
    months. The newest of all stays whatever its age.
    """
    rows = sorted(notes, key=lambda n: n.made_at, reverse=True)
    kept: set[str] = {rows[0].file} if rows else set()
    for most, days, name in ((_DAILY, 1, "%Y-%m-%d"), (_WEEKLY, 7, "%G-%V"), (_MONTHLY, 31, "%Y-%m")):
        seen: set[str] = set()
        for note in rows:
            at = datetime.fromisoformat(note.made_at)
            if now - at <= timedelta(days=_ALL_DAYS):
                kept.add(note.file)
            key = at.strftime(name)
            if key not in seen and len(seen) < most and now - at <= timedelta(days=days * (most + 1)):
                seen.add(key)
                kept.add(note.file)
    return [n for n in rows if n.file not in kept]


def tidy(folder: Path, now: datetime | None = None) -> list[str]:
    """Throw out what may go; returns the names."""
    gone = spare(listed(folder), now or datetime.now(UTC))
    for note in gone:
        (folder / note.file).unlink(missing_ok=True)
        (folder / note.file).with_suffix(".json").unlink(missing_ok=True)
    return [n.file for n in gone]


def before_migrating(url: str, folder: Path) -> Note | None:
    """A backup where migrations wait and there is something to lose; None elsewhere. Raises BackupError."""
    waiting = pending(url)
    if not waiting or not _migration(url):
        return None
    if not _asked(url, "select count(*) from schools"):
        return None
    return make(url, folder, f"before {waiting[0]}")


class Nightly:
    """A backup a night beside what runs: made once the hour (UTC) has come and the last one is from before it."""

    def __init__(self, folder: Path, hour: int) -> None:
        self.folder, self.hour = folder, hour
        self._thread: threading.Thread | None = None
        #: not before this moment: what failed is tried again after a while
        self._next = datetime.min.replace(tzinfo=UTC)

    def due(self, now: datetime) -> bool:
        """Whether one is to be made now."""
        if not 0 <= self.hour <= 23 or now < self._next:
            return False
        since = now.replace(hour=self.hour, minute=0, second=0, microsecond=0)
        if since > now:
            since -= timedelta(days=1)
        newest = next(iter(listed(self.folder)), None)
        return newest is None or datetime.fromisoformat(newest.made_at) < since

    def look(self, url: str, now: datetime | None = None) -> None:
        """Begin a backup on a thread of its own where one is due."""
        now = now or datetime.now(UTC)
        if (self._thread is not None and self._thread.is_alive()) or not self.due(now):
            return
        self._next = now + timedelta(minutes=15)
        self._thread = threading.Thread(target=self._make, args=(url,), daemon=True)
        self._thread.start()

    def _make(self, url: str) -> None:
        try:
            make(url, self.folder, "nightly")
            tidy(self.folder)
        except BackupError as error:
            print(f"no backup was made: {error}", file=sys.stderr, flush=True)

    def wait(self) -> None:
        """Until the one under way is done."""
        if self._thread is not None:
            self._thread.join()


def _arguments(argv: list[str] | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    doing = parser.add_subparsers(dest="doing", required=True)
    doing.add_parser("make", help="make a backup, and throw out old ones by rule")
    doing.add_parser("list", help="the backups that are there")
    doing.add_parser("check", help="read every one and compare its checksum")
    back = doing.add_parser("restore", help="bring one into the empty database the settings name")
    back.add_argument("file", type=Path)
    doing.add_parser("upgrade", help="back up, then bring the database up to date")
    return parser.parse_args(argv)


def run(argv: list[str] | None = None) -> int:
    """Do what was asked on the database that the settings name; returns the exit code."""
    args = _arguments(argv)
    try:
        config = from_environment()
        folder = Path(config.backup_dir or Path(config.data_dir) / "backups").resolve()
        if args.doing == "list":
            for note in listed(folder):
                print(f"{note.file}  {note.made_at}  {note.size / 1e6:.1f} MB  {note.release}  {note.why}")
            return 0
        if args.doing == "check":
            for note in listed(folder):
                checked(folder / note.file)
                print(f"{note.file}: as it was written")
            return 0
        if args.doing == "upgrade" and config.database_url is None:
            from wolfsbane.server.run.moving_up import move_up  # it stands on this module

            for line in move_up(Path(config.data_dir).resolve() / "postgres", folder):
                print(line)
        with the_database(config) as url:
            for line in _done(args, url, folder):
                print(line)
        return 0
    except (SettingError, PostgresError, MigrationError, BackupError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2


def _done(args: argparse.Namespace, url: str, folder: Path) -> Iterator[str]:
    """Do what was asked; what is to be said of it, line by line."""
    if args.doing == "restore":
        note = restore(url, args.file)
        yield f"restored: {note.file} of {note.made_at}, release {note.release}"
        return
    note = make(url, folder, "before an upgrade" if args.doing == "upgrade" else "by hand")
    yield f"{folder / note.file}: {note.size / 1e6:.1f} MB, read back, checksum kept"
    if args.doing == "upgrade":
        yield from (f"migrated: {name}" for name in migrate(url))
    else:
        yield from (f"thrown out: {name}" for name in tidy(folder))


if __name__ == "__main__":
    sys.exit(run())
