"""A whole school as open files, and back into an empty one: JSON lines by table, with a manifest of hashes.

Passwords do not travel: imported accounts cannot log in until an instructor gives them one. Printed documents do not
travel either; they are printed again from the frozen calls.
"""

from __future__ import annotations

import hashlib
import json
import secrets
import tempfile
import zipfile
import zlib
from contextlib import contextmanager
from datetime import date
from typing import IO, TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.db.database import ROW_ERRORS, jsonb
from wolfsbane.server.core.db.tables import columns_of, holds_any, insert, rows_of
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.exchange.checks import require_readable

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from wolfsbane.server.core.db.database import Connection

SCHEMA = 1
#: of the ZIP, and of all of it unpacked
MAX_BYTES = 600_000_000
_MAX_UNPACKED = 8_000_000_000
_MAX_MANIFEST, _MAX_LINE = 1_000_000, 8_000_000
#: rows of one table; and those that are written in one go
_MOST_ROWS, _AT_ONCE = 5_000_000, 200
#: table -> columns that point at another table, in the order in which they can be written
TABLES = {
    "users": {},
    "classes": {},
    "apprentices": {"class_id": "classes", "user_id": "users"},
    "scenarios": {"created_by": "users"},
    "scenario_versions": {"scenario_id": "scenarios", "created_by": "users"},
    "scenario_proofs": {"version_id": "scenario_versions"},
    "own_machines": {"created_by": "users"},
    "own_practices": {"created_by": "users"},
    "rigs": {"created_by": "users"},
    "rig_events": {"rig_id": "rigs", "user_id": "users"},
    "rig_baselines": {"rig_id": "rigs", "made_by": "users"},
    "rig_settings": {"rig_id": "rigs", "measured_by": "users"},
    "cylinders": {"created_by": "users"},
    "refrigerant_moves": {
        "cylinder_id": "cylinders",
        "other_id": "cylinders",
        "rig_id": "rigs",
        "explained_by": "users",
        "user_id": "users",
    },
    "refrigerant_days": {"closed_by": "users"},
    "lab_sessions": {"rig_id": "rigs", "class_id": "classes", "people": "apprentices", "began_by": "users"},
    "lab_events": {"session_id": "lab_sessions", "user_id": "users"},
    "sheets": {"class_id": "classes", "created_by": "users"},
    "sheet_calls": {"sheet_id": "sheets", "scenario_version_id": "scenario_versions"},
    "papers": {"sheet_id": "sheets", "apprentice_id": "apprentices"},
    "paper_calls": {"paper_id": "papers"},
    "answers": {"paper_call_id": "paper_calls", "entered_by": "users"},
    "marks": {"paper_call_id": "paper_calls"},
    "measurements": {"sheet_id": "sheets", "entered_by": "users", "paper_id": "papers", "rig_id": "rigs"},
    "screen_openings": {"sheet_id": "sheets", "opened_by": "users"},
    "screen_allowances": {"opening_id": "screen_openings", "apprentice_id": "apprentices"},
    "screen_runs": {"opening_id": "screen_openings", "paper_call_id": "paper_calls"},
    "screen_steps": {"run_id": "screen_runs"},
    "screen_lessons": {"sheet_id": "sheets", "taught_by": "users"},
    "screen_lesson_steps": {"lesson_id": "screen_lessons"},
    "screen_votes": {"lesson_id": "screen_lessons", "user_id": "users"},
    "audit": {"sheet_id": "sheets", "paper_id": "papers", "user_id": "users"},
    "school_trail": {},
}
#: never leaves the house: passwords, and jobs that run here
_SECRET = {
    "users": {"password_hash", "totp_secret", "totp_pending", "totp_last"},
    "rigs": {"token_hash"},
    "screen_lessons": {"token_hash"},
    "sheets": {"printing"},
}
#: came after the first export was written: an older file does not have them
_LATER = (
    "scenario_proofs",
    "own_practices",
    "rigs",
    "rig_events",
    "rig_baselines",
    "rig_settings",
    "cylinders",
    "refrigerant_moves",
    "refrigerant_days",
    "lab_sessions",
    "lab_events",
    "school_trail",
    "screen_openings",
    "screen_allowances",
    "screen_runs",
    "screen_steps",
    "screen_lessons",
    "screen_lesson_steps",
    "screen_votes",
)
#: a sheet that was being made when the school went out can be issued again
_UNDER_WAY = ("queued", "building", "cancelling")
#: a school is empty while these are
_HOLDS = ("classes", "scenarios", "sheets", "own_machines", "own_practices")


def exported(connection: Connection, school_id: int) -> IO[bytes]:
    """A file, at its beginning, with the ZIP of everything a school holds; only some rows are in memory at once."""
    school = connection.execute("select name, time_zone from schools where id = %s", (school_id,)).fetchone()
    assert school is not None, "whoever exports is of a school"
    hashes = {}
    out = tempfile.TemporaryFile()  # noqa: SIM115  closed by whoever sends it
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for table in TABLES:
            digest = hashlib.sha256()
            with archive.open(f"{table}.jsonl", "w", force_zip64=True) as file:
                for row in rows_of(connection, table, school_id):
                    line = json.dumps(_plain(table, row), sort_keys=True, ensure_ascii=False).encode() + b"\n"
                    digest.update(line)
                    file.write(line)
            hashes[f"{table}.jsonl"] = digest.hexdigest()
        manifest = {
            "schema": SCHEMA,
            "school": school["name"],
            "time_zone": school["time_zone"],
            "files": hashes,
        }
        archive.writestr("school.json", json.dumps(manifest, indent=1, ensure_ascii=False))
    out.seek(0)
    return out


def _plain(table: str, row: dict[str, Any]) -> dict[str, Any]:
    hidden = {"school_id", *_SECRET.get(table, ())}
    return {
        key: value.isoformat() if isinstance(value, date) else value for key, value in row.items() if key not in hidden
    }


def imported(connection: Connection, user: dict[str, Any], file: IO[bytes]) -> dict[str, int]:
    """Write an exported school into the empty one of ``user``; returns table -> rows written.

    Rows are read, checked and written some at a time. Raises BadInputError for a damaged or foreign file and ApiError
    409 where the school holds something already; whoever opened the transaction undoes what was written till then.
    """
    school_id = user["school_id"]
    for table in _HOLDS:
        if holds_any(connection, table, school_id):
            raise ApiError(
                409, "not_empty", f"this school holds {table.replace('_', ' ')} already; import into an empty one"
            )
    with _opened(file) as (archive, hashes):
        coming = _Coming(connection, school_id)
        for table in TABLES:
            if f"{table}.jsonl" not in hashes and table in _LATER:
                coming.counts[table] = 0
                continue
            try:
                coming.take(table, _lines(archive, table, str(hashes[f"{table}.jsonl"])))
            except ROW_ERRORS as error:
                raise BadInputError("file", table, f"rows a school can hold ({type(error).__name__})") from error
    return coming.counts


@contextmanager
def _opened(file: IO[bytes]) -> Iterator[tuple[zipfile.ZipFile, dict[str, str]]]:
    """The archive and the hashes of its manifest. Raises BadInputError, also for what goes wrong while it is read."""
    try:
        with zipfile.ZipFile(file) as archive:
            if sum(i.file_size for i in archive.infolist()) > _MAX_UNPACKED:
                raise BadInputError("file", "too large", f"at most {_MAX_UNPACKED // 1_000_000} MB unpacked")
            with archive.open("school.json") as told:
                manifest = json.loads(told.read(_MAX_MANIFEST))
            hashes = manifest["files"]
            if manifest["schema"] != SCHEMA:
                raise BadInputError("schema", manifest["schema"], str(SCHEMA))
            hashes.items()
            yield archive, hashes
    except BadInputError:
        raise
    except (zipfile.BadZipFile, zlib.error, KeyError, ValueError, TypeError, AttributeError, EOFError) as error:
        raise BadInputError("file", "unreadable", f"the ZIP file an export wrote ({type(error).__name__})") from error
    except (RecursionError, NotImplementedError) as error:
        raise BadInputError("file", "unreadable", "the ZIP file an export wrote") from error


def _lines(archive: zipfile.ZipFile, table: str, wanted: str) -> Iterator[dict[str, Any]]:
    """Rows of one file, a line at a time, after its hash was compared. Raises BadInputError."""
    digest = hashlib.sha256()
    name = f"{table}.jsonl"
    with archive.open(name) as file:
        while part := file.read(1 << 20):
            digest.update(part)
    if digest.hexdigest() != wanted:
        raise BadInputError("file", name, "a file exactly as it was exported: its hash does not match")
    with archive.open(name) as file:
        while line := file.readline(_MAX_LINE + 1):
            if len(line) > _MAX_LINE:
                raise BadInputError("file", name, f"lines of at most {_MAX_LINE // 1_000_000} MB")
            row = json.loads(line)
            if not isinstance(row, dict):
                raise BadInputError("file", name, "one JSON object a line")
            yield row


class _Coming:
    """Rows on their way into a school: numbers changed into those of this server, some written at a time."""

    def __init__(self, connection: Connection, school_id: int) -> None:
        self.connection, self.school_id = connection, school_id
        self.counts: dict[str, int] = {}
        #: table that others point at -> number there -> number here
        self.ids: dict[str, dict[int, int]] = {t: {} for points_at in TABLES.values() for t in points_at.values()}

    def take(self, table: str, rows: Iterable[dict[str, Any]]) -> None:
        """Check and write the rows of one table."""
        columns = columns_of(self.connection, table)
        numbered = "id" in columns
        waiting: list[tuple[int, dict[str, Any]]] = []
        number = 0
        for number, row in enumerate(rows, 1):
            where = f"{table}.jsonl line {number}"
            if number > _MOST_ROWS:
                raise BadInputError("file", where, f"at most {_MOST_ROWS} rows of a table")
            require_readable(table, row, where)
            values = self._values(table, columns, row, where)
            if numbered and not isinstance(row.get("id"), int):
                raise BadInputError("file", where, f"a number as id, not {row.get('id')}")
            if waiting and (len(waiting) >= _AT_ONCE or waiting[0][1].keys() != values.keys() or table == "users"):
                self._write(table, waiting, numbered=numbered)
            waiting.append((row.get("id", 0), values))
        self._write(table, waiting, numbered=numbered)
        self.counts[table] = number

    def _write(self, table: str, waiting: list[tuple[int, dict[str, Any]]], *, numbered: bool) -> None:
        if waiting:
            made = insert(self.connection, table, [values for _, values in waiting], numbered=numbered)
            if made is not None and table in self.ids:
                self.ids[table].update(zip((before for before, _ in waiting), made, strict=True))
            waiting.clear()

    def _values(self, table: str, columns: dict[str, str], row: dict[str, Any], where: str) -> dict[str, Any]:
        values: dict[str, Any] = {"school_id": self.school_id}
        points_at = TABLES[table]
        for key, value in row.items():
            if key == "id":
                continue
            if key not in columns or key in ("school_id", *_SECRET.get(table, ())):
                raise BadInputError("file", where, f"columns of {table}, not {key}")
            if key in points_at and value is not None:
                known = self.ids[points_at[key]]
                many = value if isinstance(value, list) else [value]
                if not all(isinstance(one, int) and one in known for one in many):
                    raise BadInputError("file", where, f"a row of {points_at[key]} that is in the file")
                value = [known[one] for one in many] if isinstance(value, list) else known[value]
            values[key] = jsonb(value) if columns[key] == "jsonb" and value is not None else value
        if table == "users":
            values |= {
                "password_hash": f"none:{secrets.token_hex(8)}",
                "login": _free_login(self.connection, self.school_id, str(values.get("login", ""))),
            }
        if table == "sheets" and values.get("status") in _UNDER_WAY:
            values["status"] = "cancelled"
        return values


def _free_login(connection: Connection, school_id: int, login: str) -> str:
    """The log-in itself, or with a number behind it where somebody of the school has it."""
    for number in range(1, 1000):
        wanted = login if number == 1 else f"{login}-{number}"
        if (
            connection.execute(
                "select 1 from users where login = %s and school_id = %s", (wanted, school_id)
            ).fetchone()
            is None
        ):
            return wanted
    raise BadInputError("login", login, "a log-in that is free")
