"""Rosters: names typed or pasted, or a CSV with name, number and group; what could not be read is said line by line."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError, not_found

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

MAX = 120
_LONGEST = {"name": 80, "number": 30, "group": 40}
_HEADS = {
    "name": ("name", "apprentice", "student", "full name"),
    "number": ("number", "no", "no.", "id", "student id"),
    "group": ("group", "team", "section"),
}


def read_roster(text: str) -> tuple[list[dict[str, str]], list[str]]:
    """(people, problems) of a pasted list or CSV: people are {name, number, group}, problems sentences with their line.

    With a first line that names columns they may come in any order; without one the columns are name, number, group.
    Commas, semicolons and tabs part columns.
    """
    lines = [(n, line) for n, line in enumerate(str(text).lstrip("\ufeff").splitlines(), 1) if line.strip()]
    if not lines:
        return [], []
    mark = max(";\t,", key=lambda m: sum(m in line for _, line in lines))

    def split(line: Any) -> Any:
        return [c.strip() for c in next(csv.reader(io.StringIO(line), delimiter=mark, skipinitialspace=True), [])]

    first = split(lines[0][1])
    order: Sequence[str | None] = ("name", "number", "group")
    heads = [next((key for key, words in _HEADS.items() if cell.lower() in words), None) for cell in first]
    if "name" in heads:
        order, lines = heads, lines[1:]
    people: list[Any] = []
    problems: list[Any] = []
    seen: set[Any] = set()
    for number, line in lines:
        cells = dict.fromkeys(_LONGEST, "") | {key: cell for key, cell in zip(order, split(line), strict=False) if key}
        wrong = next((key for key, most in _LONGEST.items() if len(cells[key]) > most or "\x00" in cells[key]), None)
        if not cells["name"]:
            problems.append(f"line {number}: no name")
        elif wrong:
            problems.append(f"line {number}: {wrong} is longer than {_LONGEST[wrong]} characters")
        elif (cells["name"].lower(), cells["number"]) in seen:
            problems.append(
                f"line {number}: {cells['name']} is in the list twice; give them numbers to tell them apart"
            )
        elif len(people) >= MAX:
            problems.append(f"line {number}: more than {MAX} in one class")
        else:
            seen.add((cells["name"].lower(), cells["number"]))
            people.append(cells)
    return people, problems


def add_people(connection: Connection, school_id: int, class_id: int, people: list[dict[str, str]]) -> None:
    """Add people to a class, at its end. Raises BadInputError where the class would grow too large or somebody is
    there twice.
    """
    there = [p for p in queries.apprentice_list(connection, school_id=school_id, class_id=class_id) if not p["gone"]]
    if len(there) + len(people) > MAX:
        raise BadInputError("apprentices", len(there) + len(people), f"at most {MAX} in one class")
    taken = {(p["name"].lower(), p["number"]) for p in there}
    for person in people:
        if (person["name"].lower(), person["number"]) in taken:
            raise BadInputError(
                "apprentices", person["name"], "somebody who is not in this class yet, or has another number"
            )
        taken.add((person["name"].lower(), person["number"]))
        queries.apprentice_add(
            connection,
            school_id=school_id,
            class_id=class_id,
            name=person["name"],
            number=person["number"],
            group_name=person["group"],
        )


def found(connection: Connection, school_id: int, apprentice_id: int) -> dict[str, Any]:
    """One apprentice. Raises ApiError 404."""
    row = queries.apprentice_get(connection, school_id=school_id, id=apprentice_id)
    if row is None:
        raise not_found(f"apprentice {apprentice_id}")
    return row


def exported(connection: Connection, school_id: int, person: dict[str, Any]) -> dict[str, Any]:
    """Everything that is kept of one apprentice, as plain data."""
    papers = []
    for paper in list(queries.apprentice_papers(connection, school_id=school_id, id=person["id"])):
        answers = {
            (a["paper_call_id"], a["question_id"]): a["raw"]
            for a in queries.answer_list(connection, paper_id=paper["id"])
        }
        marks = list(queries.mark_list(connection, paper_id=paper["id"]))
        papers.append(
            {
                "code": paper["code"],
                "attempt": paper["attempt"],
                "sheet": paper["title"],
                "issued": paper["created_at"].isoformat(),
                "calls": [
                    {
                        "position": row["position"],
                        "call": row["body"],
                        "answers": {q: raw for (call, q), raw in answers.items() if call == row["id"]},
                        "marks": [
                            {
                                "question": m["question_id"],
                                "points": m["points"],
                                "earned": m["earned"],
                                "code": m["code"],
                            }
                            for m in marks
                            if m["paper_call_id"] == row["id"]
                        ],
                    }
                    for row in queries.paper_call_list(connection, paper_id=paper["id"])
                ],
            }
        )
    return {
        "schema": 1,
        "name": person["name"],
        "number": person["number"],
        "group": person["group_name"],
        "class": person["class_name"],
        "term": person["term"],
        "login": person["login"],
        "left": person["gone"],
        "papers": papers,
    }


def erase(connection: Connection, school_id: int, person: dict[str, Any]) -> None:
    """Forget an apprentice: papers, answers, marks, log-in, and printed documents that carry the name.

    Raises ApiError 409 while a sheet of the class is being made: it would come out with the name on it.
    """
    for sheet in list(queries.class_sheets_hold(connection, school_id=school_id, class_id=person["class_id"])):
        if sheet["status"] in ("queued", "building", "cancelling"):
            raise ApiError(
                409, "not_now", f"the sheet {sheet['title']!r} is being made for this class; wait until it is ready"
            )
    queries.apprentice_erase(connection, school_id=school_id, id=person["id"])
    queries.apprentice_erase_calls(connection, school_id=school_id, id=person["id"])
    queries.apprentice_erase_papers(connection, school_id=school_id, id=person["id"])
    queries.apprentice_delete(connection, school_id=school_id, id=person["id"])
    if person["user_id"] is not None:
        queries.account_delete(connection, school_id=school_id, id=person["user_id"])
