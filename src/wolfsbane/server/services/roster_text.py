"""A pasted list or a CSV as a table of people: which column is what, guessed and to be corrected, line by line."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from wolfsbane.cycle.errors import BadInputError

MAX = 120
_LONGEST = {"name": 80, "number": 30, "group": 40}
NAME, FIRST, LAST, LAST_FIRST, NUMBER, GROUP, EMAIL, SKIP = (
    "name",
    "first",
    "last",
    "last_first",
    "number",
    "group",
    "email",
    "skip",
)
#: what a column can be; an e-mail address is known and not kept
ROLES = (NAME, FIRST, LAST, LAST_FIRST, NUMBER, GROUP, EMAIL, SKIP)
_HEADS = {
    NAME: ("name", "full name", "student", "student name", "apprentice", "learner", "participant", "display name"),
    FIRST: ("first", "first name", "firstname", "given name", "given", "forename"),
    LAST: ("last", "last name", "lastname", "surname", "family name", "family"),
    LAST_FIRST: ("last first", "name last first", "last name first name", "sortable name"),
    NUMBER: (
        "number",
        "no",
        "id",
        "student id",
        "student number",
        "student no",
        "id number",
        "roll",
        "roll number",
        "roll no",
        "sis id",
        "sis user id",
        "badge",
    ),
    GROUP: ("group", "team", "section", "crew", "shift", "cohort", "bench"),
    EMAIL: ("email", "e mail", "mail", "email address", "e mail address"),
}
_NUMBER = re.compile(r"^#?[A-Za-z]{0,4}[- ]?\d[\d\- ]*$")


@dataclass(frozen=True, kw_only=True)
class Line:
    """One line: its number in the text, its cells, the person read out of it, and what is wrong with it."""

    number: int
    cells: tuple[str, ...]
    person: dict[str, str]
    problem: str


@dataclass(frozen=True, kw_only=True)
class Roster:
    """A read list: ``columns`` is (role, head) of each column, ``header`` whether the first line names them."""

    columns: tuple[tuple[str, str], ...]
    header: bool
    lines: tuple[Line, ...]

    @property
    def people(self) -> list[dict[str, str]]:
        """Those who can be added."""
        return [line.person for line in self.lines if not line.problem]

    @property
    def problems(self) -> list[str]:
        """What could not be read, with its line."""
        return [f"line {line.number}: {line.problem}" for line in self.lines if line.problem]

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "people": self.people,
            "problems": self.problems,
            "header": self.header,
            "columns": [{"role": role, "head": head} for role, head in self.columns],
            "rows": [
                {"line": row.number, "cells": list(row.cells), **row.person, "problem": row.problem}
                for row in self.lines
            ],
        }


def read_roster(
    text: str,
    columns: Sequence[str] | None = None,
    header: bool | None = None,
    there: Iterable[tuple[str, str]] = (),
) -> Roster:
    """Read a list. ``columns`` are the roles somebody chose, ``header`` whether the first line names the columns (None:
    as it looks); ``there`` are (name in small letters, number) of those who are in the class already.

    Raises BadInputError for a role that is none.
    """
    for role in columns or ():
        if role not in ROLES:
            raise BadInputError("columns", role, ", ".join(ROLES))
    rows = _rows(text)
    if not rows:
        return Roster(columns=(), header=False, lines=())
    heads = [_head(cell) for cell in rows[0][1]]
    named = any(heads) and not any(_NUMBER.match(c) or "@" in c for c in rows[0][1])
    header = named if header is None else header
    body = rows[1:] if header else rows
    width = max(len(cells) for _, cells in rows)
    roles = list(columns or _guessed(body, heads if header else [], width, text))
    roles = [*roles, *[SKIP] * (width - len(roles))][:width]
    first = rows[0][1] if header else []
    return Roster(
        columns=tuple((role, first[i] if i < len(first) else "") for i, role in enumerate(roles)),
        header=header,
        lines=tuple(_lines(body, roles, set(there))),
    )


def _rows(text: str) -> list[tuple[int, list[str]]]:
    """(line, cells) of every line with something on it, parted by tabs, semicolons or commas."""
    lines = [(n, line) for n, line in enumerate(str(text).lstrip("\ufeff").splitlines(), 1) if line.strip()]
    mark = max("\t;,", key=lambda m: (sum(m in line for _, line in lines), m == "\t")) if lines else ","
    found = []
    for number, line in lines:
        cells = next(csv.reader(io.StringIO(line), delimiter=mark, skipinitialspace=True), [])
        found.append((number, [" ".join(c.split()) for c in cells]))
    return found


def _head(cell: str) -> str | None:
    plain = " ".join(re.sub(r"[^a-z ]+", " ", cell.lower()).split())
    return next((role for role, words in _HEADS.items() if plain in words), None)


def _guessed(body: list[tuple[int, list[str]]], heads: list[str | None], width: int, text: str) -> list[str]:
    """What each column looks like: by its head where it has one, else by what stands in it."""
    if any(heads):
        named = [head or SKIP for head in heads]
        return named if {NAME, FIRST, LAST, LAST_FIRST} & set(named) else [NAME, *named[1:]]
    columns = [[cells[i] for _, cells in body if i < len(cells) and cells[i]] for i in range(width)]
    roles: list[str] = []
    for cells in columns:
        if _most(cells, lambda c: "@" in c):
            roles.append(EMAIL)
        elif _most(cells, lambda c: "," in c):
            roles.append(LAST_FIRST)
        elif _most(cells, lambda c: _NUMBER.match(c) is not None):
            roles.append(NUMBER)
        else:
            roles.append(NAME)
    words = [i for i, role in enumerate(roles) if role == NAME]
    if LAST_FIRST in roles:
        return [GROUP if role == NAME else role for role in roles]
    for place, i in enumerate(words):
        if place == 0:
            continue
        both = [columns[words[0]], columns[i]]
        halves = place == 1 and all(_most(cells, lambda c: " " not in c and len(c) > 1) for cells in both)
        if halves and len(set(columns[i])) > len(columns[i]) / 2:
            # "Patel, Asha" has the family name first; columns of a spreadsheet mostly have it second
            tabs = "\t" in text or ";" in text
            roles[words[0]], roles[i] = (FIRST, LAST) if tabs else (LAST, FIRST)
        else:
            roles[i] = GROUP if GROUP not in roles else SKIP
    return roles


def _most(cells: list[str], fits: Any) -> bool:
    return bool(cells) and sum(bool(fits(c)) for c in cells) > 0.6 * len(cells)


def _person(cells: Sequence[str], roles: list[str]) -> dict[str, str]:
    given: dict[str, str] = {}
    for role, cell in zip(roles, cells, strict=False):
        given.setdefault(role, cell)
    name = given.get(NAME, "")
    if given.get(LAST_FIRST):
        last, _, first = given[LAST_FIRST].partition(",")
        name = f"{first.strip()} {last.strip()}".strip()
    elif FIRST in given or LAST in given:
        name = f"{given.get(FIRST, '')} {given.get(LAST, '')}".strip() or name
    return {"name": name, "number": given.get(NUMBER, "").lstrip("#"), "group": given.get(GROUP, "")}


def _lines(body: list[tuple[int, list[str]]], roles: list[str], there: set[tuple[str, str]]) -> Iterable[Line]:
    seen: set[tuple[str, str]] = set()
    for number, cells in body:
        person = _person(cells, roles)
        who = (person["name"].lower(), person["number"])
        wrong = next((k for k, most in _LONGEST.items() if len(person[k]) > most or "\x00" in person[k]), None)
        problem = ""
        if not person["name"]:
            problem = "no name"
        elif wrong:
            problem = f"{wrong} is longer than {_LONGEST[wrong]} characters"
        elif who in seen:
            problem = f"{person['name']} is in the list twice; give them numbers to tell them apart"
        elif who in there:
            problem = f"{person['name']} is in this class already"
        elif len(seen) >= MAX:
            problem = f"more than {MAX} in one class"
        else:
            seen.add(who)
        yield Line(number=number, cells=tuple(cells), person=person, problem=problem)
