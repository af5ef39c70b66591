"""Classes, people and results as a OneRoster ZIP of CSV files, read and written (1EdTech OneRoster 1.1 and 1.2, CSV
binding; names of files and columns from memory of the specification).
"""

from __future__ import annotations

import csv
import io
import zipfile
import zlib
from dataclasses import dataclass, field
from typing import IO, TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping, Sequence

MAX_BYTES = 20_000_000
_MAX_UNPACKED, _MOST_ROWS = 300_000_000, 300_000
#: in the order in which they are written: file -> columns
COLUMNS: dict[str, tuple[str, ...]] = {
    "orgs": ("sourcedId", "status", "dateLastModified", "name", "type", "identifier", "parentSourcedId"),
    "academicSessions": (
        "sourcedId",
        "status",
        "dateLastModified",
        "title",
        "type",
        "startDate",
        "endDate",
        "parentSourcedId",
        "schoolYear",
    ),
    "courses": (
        "sourcedId",
        "status",
        "dateLastModified",
        "schoolYearSourcedId",
        "title",
        "courseCode",
        "grades",
        "orgSourcedId",
        "subjects",
        "subjectCodes",
    ),
    "classes": (
        "sourcedId",
        "status",
        "dateLastModified",
        "title",
        "grades",
        "courseSourcedId",
        "classCode",
        "classType",
        "location",
        "schoolSourcedId",
        "termSourcedIds",
        "subjects",
        "subjectCodes",
        "periods",
    ),
    "users": (
        "sourcedId",
        "status",
        "dateLastModified",
        "enabledUser",
        "orgSourcedIds",
        "role",
        "username",
        "userIds",
        "givenName",
        "familyName",
        "middleName",
        "identifier",
        "email",
        "sms",
        "phone",
        "agentSourcedIds",
        "grades",
        "password",
    ),
    "enrollments": (
        "sourcedId",
        "status",
        "dateLastModified",
        "classSourcedId",
        "schoolSourcedId",
        "userSourcedId",
        "role",
        "primary",
        "beginDate",
        "endDate",
    ),
    "categories": ("sourcedId", "status", "dateLastModified", "title"),
    "lineItems": (
        "sourcedId",
        "status",
        "dateLastModified",
        "title",
        "description",
        "assignDate",
        "dueDate",
        "classSourcedId",
        "categorySourcedId",
        "gradingPeriodSourcedId",
        "resultValueMin",
        "resultValueMax",
    ),
    "results": (
        "sourcedId",
        "status",
        "dateLastModified",
        "lineItemSourcedId",
        "studentSourcedId",
        "scoreStatus",
        "score",
        "scoreDate",
        "comment",
    ),
}
#: what an import has to bring
_NEEDED = ("classes", "users", "enrollments")
_STUDENTS = ("student", "learner")
_LONGEST_NAME, _LONGEST_NUMBER, _LONGEST_TITLE, _LONGEST_TERM = 80, 30, 80, 40


@dataclass(kw_only=True)
class Incoming:
    """A class that comes in: its title and term, who is in it as {name, number, group}, and the numbers of those whose
    enrolment ended.
    """

    title: str
    term: str
    people: list[dict[str, str]] = field(default_factory=list)
    ended: list[dict[str, str]] = field(default_factory=list)


def read(file: IO[bytes]) -> list[Incoming]:
    """Classes with their students, in the order of the file. Raises BadInputError naming file and line."""
    try:
        with zipfile.ZipFile(file) as archive:
            if sum(i.file_size for i in archive.infolist()) > _MAX_UNPACKED:
                raise BadInputError("file", "too large", f"at most {_MAX_UNPACKED // 1_000_000} MB unpacked")
            named = {name.rpartition("/")[2].lower(): name for name in archive.namelist()}
            missing = [f"{one}.csv" for one in _NEEDED if f"{one}.csv" not in named]
            if missing:
                raise BadInputError("file", ", ".join(missing), "a OneRoster ZIP with classes, users and enrollments")
            return _joined({one: list(_rows(archive, named, one)) for one in (*_NEEDED, "academicSessions")})
    except BadInputError:
        raise
    except (zipfile.BadZipFile, zlib.error, csv.Error, UnicodeDecodeError, EOFError, NotImplementedError) as error:
        raise BadInputError("file", "unreadable", f"a OneRoster ZIP ({type(error).__name__})") from error


def _rows(archive: zipfile.ZipFile, named: Mapping[str, str], one: str) -> Iterator[tuple[str, dict[str, str]]]:
    """(where, row) of one file; nothing where it is not there."""
    name = named.get(f"{one.lower()}.csv")
    if name is None:
        return
    with archive.open(name) as raw, io.TextIOWrapper(raw, "utf-8-sig", newline="") as text:
        reader = csv.DictReader(text)
        for number, row in enumerate(reader, 2):
            if number > _MOST_ROWS:
                raise BadInputError("file", f"{one}.csv", f"at most {_MOST_ROWS} rows")
            plain = {key: (value or "").strip() for key, value in row.items() if isinstance(key, str)}
            if not plain.get("sourcedId"):
                raise BadInputError("file", f"{one}.csv line {number}", "a sourcedId in every row")
            yield f"{one}.csv line {number}", {k: v for k, v in plain.items() if isinstance(v, str)}


def _active(row: Mapping[str, str]) -> bool:
    return row.get("status", "").lower() in ("", "active")


def _joined(tables: Mapping[str, Sequence[tuple[str, dict[str, str]]]]) -> list[Incoming]:
    terms = {row["sourcedId"]: row.get("title", "") for _, row in tables["academicSessions"]}
    users = {row["sourcedId"]: row for _, row in tables["users"]}
    classes = {}
    for where, row in tables["classes"]:
        if not _active(row):
            continue
        title = row.get("title", "")
        if not title or len(title) > _LONGEST_TITLE or "\x00" in title:
            raise BadInputError("file", where, f"a title of 1 to {_LONGEST_TITLE} characters")
        term = terms.get(row.get("termSourcedIds", "").split(",")[0].strip(), "")
        classes[row["sourcedId"]] = Incoming(title=title, term=term[:_LONGEST_TERM])
    for where, row in tables["enrollments"]:
        if row.get("role", "").lower() not in _STUDENTS or row.get("classSourcedId") not in classes:
            continue
        user = users.get(row.get("userSourcedId", ""))
        if user is None:
            raise BadInputError("file", where, "a userSourcedId that stands in users.csv")
        there = _active(row) and _active(user) and user.get("enabledUser", "true").lower() in ("", "true", "1")
        found = classes[row["classSourcedId"]]
        (found.people if there else found.ended).append(_person(user, where))
    return list(classes.values())


def _person(user: Mapping[str, str], where: str) -> dict[str, str]:
    name = " ".join(part for part in (user.get("givenName", ""), user.get("familyName", "")) if part)
    if not name or len(name) > _LONGEST_NAME or "\x00" in name:
        raise BadInputError("file", where, f"somebody with a name of 1 to {_LONGEST_NAME} characters")
    number = user.get("identifier") or user.get("username") or user["sourcedId"]
    if len(number) > _LONGEST_NUMBER or "\x00" in number:
        raise BadInputError("file", where, f"an identifier of at most {_LONGEST_NUMBER} characters")
    return {"name": name, "number": number, "group": ""}


def written(tables: Mapping[str, Iterable[Mapping[str, object]]]) -> bytes:
    """A OneRoster 1.1 ZIP of whole (bulk) files; columns that a row does not have stay empty."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, columns in COLUMNS.items():
            text = io.StringIO()
            writer = csv.DictWriter(text, columns, restval="", lineterminator="\r\n")
            writer.writeheader()
            writer.writerows(tables.get(name, ()))
            archive.writestr(f"{name}.csv", text.getvalue())
        told = [("manifest.version", "1.0"), ("oneroster.version", "1.1")]
        told += [(f"file.{name}", "bulk") for name in COLUMNS]
        absent = ("classResources", "courseResources", "demographics", "resources")
        told += [(f"file.{name}", "absent") for name in absent]
        told += [("source.systemName", "Wolfsbane"), ("source.systemCode", "wolfsbane")]
        rows = "".join(f"{key},{value}\r\n" for key, value in told)
        archive.writestr("manifest.csv", f"propertyName,value\r\n{rows}")
    return out.getvalue()
