"""A school's classes, people and results to and from OneRoster files."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.server.core.db.database import queries
from wolfsbane.server.exchange import oneroster
from wolfsbane.server.services import results, rosters
from wolfsbane.server.services.results import plain

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wolfsbane.server.core.db.database import Connection
    from wolfsbane.server.exchange.oneroster import Incoming


def taken_in(connection: Connection, school_id: int, coming: Iterable[Incoming]) -> list[dict[str, Any]]:
    """Add what is not there yet: classes by name, people by number, or by name where somebody has none. Whose
    enrolment ended is said to have left; nobody is erased.

    Returns {title, new, added, there, left} of each class. Raises BadInputError where a class would grow too large.
    """
    done = []
    known = {
        row["name"]: row["id"]
        for archived in (False, True)
        for row in queries.class_list(connection, school_id=school_id, archived=archived)
    }
    for one in coming:
        new = one.title not in known
        if new:
            known[one.title] = queries.class_add(connection, school_id=school_id, name=one.title, term=one.term)["id"]
        class_id = known[one.title]
        people = list(queries.apprentice_list(connection, school_id=school_id, class_id=class_id))
        by_number = {p["number"]: p for p in people if p["number"]}
        by_name = {p["name"].lower(): p for p in people if not p["number"]}

        def found(
            person: dict[str, str], by_number: dict[str, Any] = by_number, by_name: dict[str, Any] = by_name
        ) -> dict[str, Any] | None:
            return by_number.get(person["number"]) or by_name.get(person["name"].lower())

        wanted = {p["number"]: p for p in one.people}
        fresh = [p for p in wanted.values() if found(p) is None]
        rosters.add_people(connection, school_id, class_id, fresh)
        left = 0
        for person in one.ended:
            row = found(person)
            if row is not None and not row["gone"] and person["number"] not in wanted:
                rosters.say_left(connection, school_id, row)
                left += 1
        done.append(
            {
                "title": one.title,
                "new": new,
                "added": len(fresh),
                "there": len(wanted) - len(fresh),
                "left": left,
            }
        )
    return done


def given_out(connection: Connection, school_id: int, school: str) -> bytes:
    """ZIP bytes with every class that is not archived, who is in it, and the points of each sheet."""
    org = f"org-{school_id}"
    tables: dict[str, list[dict[str, object]]] = {name: [] for name in oneroster.COLUMNS}
    tables["orgs"].append({"sourcedId": org, "name": plain(school), "type": "school"})
    tables["categories"].append({"sourcedId": "sheets", "title": "Sheets"})
    terms: dict[str, str] = {}
    for row in queries.class_list(connection, school_id=school_id, archived=False):
        class_id = f"class-{row['id']}"
        term = terms.setdefault(row["term"], f"term-{len(terms) + 1}")
        tables["courses"].append({"sourcedId": f"course-{row['id']}", "title": plain(row["name"]), "orgSourcedId": org})
        tables["classes"].append(
            {
                "sourcedId": class_id,
                "title": plain(row["name"]),
                "courseSourcedId": f"course-{row['id']}",
                "classType": "scheduled",
                "schoolSourcedId": org,
                "termSourcedIds": term,
            }
        )
        people = list(queries.apprentice_list(connection, school_id=school_id, class_id=row["id"]))
        for person in people:
            _person(tables, org, class_id, person)
        _results(connection, tables, school_id, row["id"], class_id, term)
    tables["academicSessions"] = [
        {"sourcedId": term, "title": plain(title) or "no term", "type": "term"} for title, term in terms.items()
    ]
    return oneroster.written(tables)


def _person(tables: dict[str, list[dict[str, object]]], org: str, class_id: str, person: dict[str, Any]) -> None:
    user = f"student-{person['id']}"
    given, _, family = person["name"].rpartition(" ")
    tables["users"].append(
        {
            "sourcedId": user,
            "enabledUser": "false" if person["gone"] else "true",
            "orgSourcedIds": org,
            "role": "student",
            "username": person["login"] or user,
            "givenName": plain(given or family),
            "familyName": plain(family if given else ""),
            "identifier": plain(person["number"]),
        }
    )
    tables["enrollments"].append(
        {
            "sourcedId": f"enrollment-{person['id']}",
            "status": "",
            "classSourcedId": class_id,
            "schoolSourcedId": org,
            "userSourcedId": user,
            "role": "student",
            "primary": "false",
        }
    )


def _results(
    connection: Connection,
    tables: dict[str, list[dict[str, object]]],
    school_id: int,
    class_number: int,
    class_id: str,
    term: str,
) -> None:
    for one in results.sheets_of(results.class_rows(connection, school_id, class_number)):
        item = f"sheet-{one['sheet_id']}"
        papers = results.sheet_results(connection, school_id, one["sheet_id"])["rows"]
        tables["lineItems"].append(
            {
                "sourcedId": item,
                "title": plain(one["title"]),
                "classSourcedId": class_id,
                "categorySourcedId": "sheets",
                "gradingPeriodSourcedId": term,
                "resultValueMin": 0,
                "resultValueMax": max((p["possible"] for p in papers), default=0),
            }
        )
        newest = {p["apprentice_id"]: p for p in sorted(papers, key=lambda p: p["attempt"])}
        for apprentice_id, paper in newest.items():
            tables["results"].append(
                {
                    "sourcedId": f"result-{one['sheet_id']}-{apprentice_id}",
                    "lineItemSourcedId": item,
                    "studentSourcedId": f"student-{apprentice_id}",
                    "scoreStatus": "fully graded" if paper["marked"] else "not submitted",
                    "score": paper["earned"] if paper["marked"] else "",
                }
            )
