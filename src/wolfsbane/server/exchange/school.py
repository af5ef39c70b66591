"""A whole school as open files, and back into an empty one: JSON lines by table, with a manifest of hashes.

Passwords do not travel: imported accounts cannot log in until an instructor gives them one. Printed documents do not
travel either; they are printed again from the frozen calls.
"""

from __future__ import annotations

import hashlib
import io
import json
import secrets
import zipfile
from datetime import date
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.server.core.db.database import ROW_ERRORS, jsonb
from wolfsbane.server.core.db.tables import columns_of, holds_any, insert, rows_of
from wolfsbane.server.core.errors import ApiError

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

SCHEMA = 1
MAX_BYTES = 64_000_000
_MAX_UNPACKED = 1_000_000_000
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
    "audit": {"sheet_id": "sheets", "paper_id": "papers", "user_id": "users"},
    "school_trail": {},
}
#: never leaves the house: passwords, and jobs that run here
_SECRET = {
    "users": {"password_hash", "totp_secret", "totp_pending", "totp_last"},
    "rigs": {"token_hash"},
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
)
#: a sheet that was being made when the school went out can be issued again
_UNDER_WAY = ("queued", "building", "cancelling")
#: a school is empty while these are
_HOLDS = ("classes", "scenarios", "sheets", "own_machines", "own_practices")


def exported(connection: Connection, school_id: int) -> bytes:
    """ZIP bytes of everything a school holds."""
    files = {}
    for table in TABLES:
        rows = rows_of(connection, table, school_id)
        lines = (json.dumps(_plain(table, row), sort_keys=True, ensure_ascii=False) for row in rows)
        files[f"{table}.jsonl"] = "".join(f"{line}\n" for line in lines).encode()
    school = connection.execute("select name, time_zone from schools where id = %s", (school_id,)).fetchone()
    assert school is not None, "whoever exports is of a school"
    manifest = {
        "schema": SCHEMA,
        "school": school["name"],
        "time_zone": school["time_zone"],
        "files": {name: hashlib.sha256(data).hexdigest() for name, data in files.items()},
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("school.json", json.dumps(manifest, indent=1, ensure_ascii=False))
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def _plain(table: str, row: dict[str, Any]) -> dict[str, Any]:
    hidden = {"school_id", *_SECRET.get(table, ())}
    return {
        key: value.isoformat() if isinstance(value, date) else value for key, value in row.items() if key not in hidden
    }


def imported(connection: Connection, user: dict[str, Any], data: bytes) -> dict[str, int]:
    """Write an exported school into the empty one of ``user``; returns table -> rows written.

    Raises BadInputError for a damaged or foreign file and ApiError 409 where the school holds something already; in
    either case nothing is written.
    """
    school_id = user["school_id"]
    for table in _HOLDS:
        if holds_any(connection, table, school_id):
            raise ApiError(
                409, "not_empty", f"this school holds {table.replace('_', ' ')} already; import into an empty one"
            )
    found = _read(data)
    ids: dict[str, dict[int, int]] = {table: {} for table in TABLES}
    counts = {}
    try:
        for table, points_at in TABLES.items():
            columns = columns_of(connection, table)
            for number, row in enumerate(found[table], 1):
                _write(connection, school_id, table, columns, points_at, row, ids, f"{table}.jsonl line {number}")
            counts[table] = len(found[table])
    except ROW_ERRORS as error:
        raise BadInputError("file", table, f"rows a school can hold ({type(error).__name__})") from error
    return counts


def _read(data: bytes) -> dict[str, list[Any]]:
    """Rows by table from the ZIP, hashes and bodies checked."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        if sum(i.file_size for i in archive.infolist()) > _MAX_UNPACKED:
            raise BadInputError("file", "too large", f"at most {_MAX_UNPACKED // 1_000_000} MB unpacked")
        manifest = json.loads(archive.read("school.json"))
        hashes = manifest["files"]
        absent = {table for table in _LATER if f"{table}.jsonl" not in hashes}
        raw = {table: archive.read(f"{table}.jsonl") for table in TABLES if table not in absent}
        if manifest["schema"] != SCHEMA:
            raise BadInputError("schema", manifest["schema"], str(SCHEMA))
        for table, text in raw.items():
            if hashes.get(f"{table}.jsonl") != hashlib.sha256(text).hexdigest():
                raise BadInputError(
                    "file", f"{table}.jsonl", "a file exactly as it was exported: its hash does not match"
                )
        rows = {table: [json.loads(line) for line in raw.get(table, b"").decode().splitlines()] for table in TABLES}
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError) as error:
        if isinstance(error, BadInputError):
            raise
        raise BadInputError("file", "unreadable", f"the ZIP file an export wrote ({type(error).__name__})") from error
    for table, made in rows.items():
        if not all(isinstance(row, dict) for row in made):
            raise BadInputError("file", f"{table}.jsonl", "one JSON object a line")
    for row in rows["scenario_versions"]:
        scenario(row.get("body"))
    for row in rows["paper_calls"]:
        _checked_body(row.get("body"))
    return rows


def _checked_body(body: Any) -> None:
    try:
        body_from_json(body)
    except (BadInputError, KeyError, TypeError) as error:
        raise BadInputError("file", "paper_calls.jsonl", f"frozen calls ({error})") from error


def _write(
    connection: Connection,
    school_id: int,
    table: str,
    columns: dict[str, str],
    points_at: dict[str, str],
    row: dict[str, Any],
    ids: dict[str, dict[int, int]],
    where: str,
) -> None:
    values: dict[str, Any] = {"school_id": school_id}
    for key, value in row.items():
        if key == "id":
            continue
        if key not in columns or key in ("school_id", *_SECRET.get(table, ())):
            raise BadInputError("file", where, f"columns of {table}, not {key}")
        if key in points_at and value is not None:
            known = ids[points_at[key]]
            many = value if isinstance(value, list) else [value]
            if not all(isinstance(one, int) and one in known for one in many):
                raise BadInputError("file", where, f"a row of {points_at[key]} that is in the file")
            value = [known[one] for one in many] if isinstance(value, list) else known[value]
        values[key] = jsonb(value) if columns[key] == "jsonb" and value is not None else value
    if table == "users":
        values |= {
            "password_hash": f"none:{secrets.token_hex(8)}",
            "login": _free_login(connection, school_id, str(values.get("login", ""))),
        }
    if table == "sheets" and values.get("status") in _UNDER_WAY:
        values["status"] = "cancelled"
    numbered = "id" in columns
    if numbered and not isinstance(row.get("id"), int):
        raise BadInputError("file", where, f"a number as id, not {row.get('id')}")
    made = insert(connection, table, values, numbered=numbered)
    if made is not None:
        ids[table][row["id"]] = made


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
