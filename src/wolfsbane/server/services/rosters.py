"""Who is in a class: added, found, exported, forgotten."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.roster_text import MAX

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection, Database

#: how long an erasure can be taken back
ERASED_AFTER_MIN = 10


def people_there(connection: Connection, school_id: int, class_id: int) -> set[tuple[str, str]]:
    """(name in small letters, number) of everybody who is in a class."""
    rows = queries.apprentice_list(connection, school_id=school_id, class_id=class_id)
    return {(p["name"].lower(), p["number"]) for p in rows if not p["gone"]}


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


def move(connection: Connection, school_id: int, person: dict[str, Any], class_id: int) -> None:
    """Put an apprentice into another class of the school; their papers stay on the sheets they belong to.

    Raises BadInputError where there is no such class, where it is full, or where somebody of that name and number is.
    """
    if queries.class_get(connection, school_id=school_id, id=class_id) is None:
        raise BadInputError("class_id", class_id, "a class of this school")
    there = people_there(connection, school_id, class_id)
    if len(there) >= MAX:
        raise BadInputError("class_id", class_id, f"a class with fewer than {MAX} in it")
    if (person["name"].lower(), person["number"]) in there:
        raise BadInputError("class_id", class_id, f"a class in which no {person['name']} is yet, or another number")
    queries.apprentice_move(connection, school_id=school_id, id=person["id"], class_id=class_id)


def say_left(connection: Connection, school_id: int, person: dict[str, Any]) -> None:
    """Write down that an apprentice left their class; papers and marks stay."""
    queries.apprentice_left(connection, school_id=school_id, id=person["id"])


def take_back(connection: Connection, school_id: int, class_id: int, apprentice_ids: list[int]) -> None:
    """Take people off a class who were just added. Raises BadInputError for a stranger, ApiError 409 where one has a
    paper.
    """
    for one in apprentice_ids:
        person = queries.apprentice_get(connection, school_id=school_id, id=one)
        if person is None or person["class_id"] != class_id:
            raise BadInputError("apprentice_ids", one, "apprentices of this class")
        if list(queries.apprentice_papers(connection, school_id=school_id, id=one)):
            raise ApiError(409, "not_now", f"{person['name']} has a paper already: erase them, or say that they left")
        erase(connection, school_id, person)


def erase_due(db: Database) -> int:
    """Erase everybody whose time to take it back is over; returns how many. Who is in a class for which a sheet is just
    being made waits for the next time.
    """
    done = 0
    with db.transaction() as connection:
        due = list(queries.apprentices_due(connection))
    for row in due:
        try:
            with db.transaction() as connection:
                person = queries.apprentice_get(connection, school_id=row["school_id"], id=row["id"])
                if person is not None:
                    erase(connection, row["school_id"], person)
                    done += 1
        except ApiError:
            continue
    return done


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
        "language": person["language"],
        "left": person["gone"],
        "papers": papers,
        "lab_sessions": [
            {
                "rig": row["rig_name"],
                "title": row["title"],
                "began_at": row["began_at"].isoformat(),
                "events": [
                    {"at": e["at"].isoformat(), "kind": e["kind"], "data": e["data"]}
                    for e in queries.lab_event_list(connection, session_id=row["id"])
                ],
                "marks": None if row["judged"] is None else row["judged"]["parts"],
            }
            for row in queries.lab_sessions_with(connection, school_id=school_id, apprentice_id=person["id"])
        ],
        "calls_on_screen": [
            {
                "sheet": row["title"],
                "position": row["position"],
                "mode": row["mode"],
                "began_at": row["began_at"].isoformat(),
                "finished_at": row["finished_at"] and row["finished_at"].isoformat(),
                "steps": [
                    {"at": s["at"].isoformat(), "kind": s["kind"], "data": s["data"]}
                    for s in queries.screen_steps_told(connection, run_id=row["id"])
                ],
                "marks": row["judged"] and row["judged"]["marks"],
            }
            for row in list(queries.screen_of_apprentice(connection, school_id=school_id, apprentice_id=person["id"]))
        ],
    }


def erase(connection: Connection, school_id: int, person: dict[str, Any]) -> None:
    """Forget an apprentice: papers, answers, marks, log-in, and printed documents that carry the name.

    Raises ApiError 409 while a sheet of the class is being made: it would come out with the name on it.
    """
    for sheet in list(
        queries.class_sheets_hold(
            connection, school_id=school_id, class_id=person["class_id"], apprentice_id=person["id"]
        )
    ):
        if sheet["status"] in ("queued", "building", "cancelling"):
            raise ApiError(
                409, "not_now", f"the sheet {sheet['title']!r} is being made for this class; wait until it is ready"
            )
    queries.apprentice_erase(connection, school_id=school_id, id=person["id"])
    queries.apprentice_erase_calls(connection, school_id=school_id, id=person["id"])
    queries.apprentice_erase_papers(connection, school_id=school_id, id=person["id"])
    queries.lab_sessions_forget(connection, school_id=school_id, apprentice_id=person["id"], name=person["name"])
    queries.apprentice_delete(connection, school_id=school_id, id=person["id"])
    if person["user_id"] is not None:
        queries.account_delete(connection, school_id=school_id, id=person["user_id"])
