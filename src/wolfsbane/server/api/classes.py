"""Classes and their apprentices: rosters, groups, terms, archive, late joiners,
what is kept of one and how it is forgotten.
"""

from typing import Any

from flask import Response, g, jsonify
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.class_models import (
    ClassBody,
    ClassChange,
    ClassList,
    ClassPath,
    ClassPicture,
    ClassQuery,
    ClassRow,
    ErasingBody,
    GradebookPath,
    GradebookReply,
    LoginGiven,
    LogInsBody,
    LogInSlips,
    PeopleBody,
    PersonChange,
    PersonPath,
    PersonPicture,
    RosterBody,
    RosterReply,
    TakenBack,
)
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import INSTRUCTOR, hash_password, require_hard, roles
from wolfsbane.server.services import log_ins, results, rosters, trail
from wolfsbane.server.services.roster_text import read_roster

api = APIBlueprint("classes", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="classes")])


def add_class(
    connection: Connection, school_id: int, name: str, apprentices: list[str | dict[str, str]], term: str = ""
) -> int:
    """A new class with its list of names or {name, number, group}; returns its id.

    Raises ConflictError for a taken name.
    """
    class_id = queries.class_add(connection, school_id=school_id, name=name, term=term)["id"]
    people = [{"number": "", "group": "", **({"name": p} if isinstance(p, str) else p)} for p in apprentices]
    rosters.add_people(connection, school_id, class_id, people)
    return class_id


def _read(connection: Connection, class_id: int) -> dict[str, Any]:
    row = queries.class_get(connection, school_id=g.user["school_id"], id=class_id)
    if row is None:
        raise not_found(f"class {class_id}")
    people = list(queries.apprentice_list(connection, school_id=g.user["school_id"], class_id=class_id))
    here = [p["name"] for p in people if not p["gone"] and p["erase_at"] is None]
    return {
        **row,
        "size": len(here),
        "apprentices": here,
        "people": [
            {
                "id": p["id"],
                "name": p["name"],
                "number": p["number"],
                "group": p["group_name"],
                "gone": p["gone"],
                "erase_at": p["erase_at"] and p["erase_at"].isoformat(),
                "login": p["login"],
                "language": p["language"],
            }
            for p in people
        ],
    }


@api.get("/classes", responses={200: ClassList})
@roles(INSTRUCTOR)
def class_list(query: ClassQuery) -> dict[str, list[dict[str, Any]]]:
    """Classes of the school with their size, or the archived ones."""
    with database().transaction() as connection:
        return {"classes": list(queries.class_list(connection, school_id=g.user["school_id"], archived=query.archived))}


@api.post("/classes", responses={201: ClassRow})
@roles(INSTRUCTOR)
def class_add(body: ClassBody) -> tuple[dict[str, Any], int]:
    """Add a class with its list."""
    people = [p if isinstance(p, str) else p.model_dump() for p in body.apprentices]
    with database().transaction() as connection:
        made = _read(connection, add_class(connection, g.user["school_id"], body.name, people, body.term))
        trail.note(connection, g.user, f"added the class {body.name} with {len(people)} in it")
        return made, 201


@api.get("/classes/<int:class_id>", responses={200: ClassRow})
@roles(INSTRUCTOR)
def class_read(path: ClassPath) -> dict[str, Any]:
    """One class with its apprentices, also those who left."""
    with database().transaction() as connection:
        return _read(connection, path.class_id)


@api.put("/classes/<int:class_id>", responses={200: ClassRow})
@roles(INSTRUCTOR)
def class_change(path: ClassPath, body: ClassChange) -> dict[str, Any]:
    """Rename a class, give it a term, archive it or bring it back."""
    with database().transaction() as connection:
        before = _read(connection, path.class_id)
        queries.class_put(connection, school_id=g.user["school_id"], id=path.class_id, **body.model_dump())
        did = {(False, True): "archived", (True, False): "brought back"}.get(
            (before["archived"], body.archived), "changed"
        )
        trail.note(connection, g.user, f"{did} the class {body.name}")
        return _read(connection, path.class_id)


@api.post("/rosters", responses={200: RosterReply})
@roles(INSTRUCTOR)
def roster_read(body: RosterBody) -> dict[str, Any]:
    """Read a pasted list or a CSV: which column is what, who is in it, which lines could not be read. Nothing is kept.

    ``columns`` and ``header`` are what somebody corrected; with ``class_id`` those who are in it already are named.
    """
    there: set[tuple[str, str]] = set()
    if body.class_id is not None:
        with database().transaction() as connection:
            _read(connection, body.class_id)
            there = rosters.people_there(connection, g.user["school_id"], body.class_id)
    return read_roster(body.text, body.columns, body.header, there).to_json()


@api.post("/classes/<int:class_id>/apprentices", responses={201: ClassRow})
@roles(INSTRUCTOR)
def apprentices_add(path: ClassPath, body: PeopleBody) -> tuple[dict[str, Any], int]:
    """Add people to a class, late joiners too."""
    with database().transaction() as connection:
        name = _read(connection, path.class_id)["name"]
        trail.note(connection, g.user, f"added {len(body.people)} to the class {name}")
        rosters.add_people(connection, g.user["school_id"], path.class_id, [p.model_dump() for p in body.people])
        return _read(connection, path.class_id), 201


@api.post("/classes/<int:class_id>/apprentices/undo", responses={200: ClassRow})
@roles(INSTRUCTOR)
def apprentices_undo(path: ClassPath, body: TakenBack) -> dict[str, Any]:
    """Take people off a class again who were just added to it. Refused once one of them has a paper."""
    with database().transaction() as connection:
        name = _read(connection, path.class_id)["name"]
        trail.note(connection, g.user, f"took {len(body.apprentice_ids)} who were just added off the class {name}")
        rosters.take_back(connection, g.user["school_id"], path.class_id, body.apprentice_ids)
        return _read(connection, path.class_id)


@api.put("/apprentices/<int:apprentice_id>", responses={200: ClassRow})
@roles(INSTRUCTOR)
def apprentice_change(path: PersonPath, body: PersonChange) -> dict[str, Any]:
    """Change name, number, group or language of an apprentice, say that they left, or move them to another class. The
    answer is the class they were in.
    """
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        queries.apprentice_put(
            connection,
            school_id=g.user["school_id"],
            id=path.apprentice_id,
            name=body.name,
            number=body.number,
            group_name=body.group,
            language=body.language or person["language"],
            gone=body.gone,
        )
        queries.apprentice_reads(connection, school_id=g.user["school_id"], id=path.apprentice_id)
        if body.class_id is not None and body.class_id != person["class_id"]:
            moved = rosters.found(connection, g.user["school_id"], path.apprentice_id)
            rosters.move(connection, g.user["school_id"], moved, body.class_id)
            trail.note(connection, g.user, f"moved apprentice {person['id']} out of the class {person['class_name']}")
        return _read(connection, person["class_id"])


@api.post("/apprentices/<int:apprentice_id>/login", responses={200: ClassRow})
@roles(INSTRUCTOR)
def apprentice_login(path: PersonPath, body: LoginGiven) -> dict[str, Any]:
    """Give an apprentice a log-in of their own, or a new password."""
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        require_hard(body.password, body.login, person["name"], g.user["school"])
        hashed = hash_password(body.password)
        if person["user_id"] is None:
            user = queries.user_add(
                connection,
                school_id=g.user["school_id"],
                login=body.login.lower(),
                name=person["name"],
                role="apprentice",
                password_hash=hashed,
            )
            queries.apprentice_link(connection, school_id=g.user["school_id"], id=person["id"], user_id=user["id"])
            queries.account_must_change(connection, school_id=g.user["school_id"], id=user["id"])
        elif person["login"] != body.login.lower():
            raise ApiError(
                422,
                "bad_input",
                f"login {body.login!r} is not accepted; allowed: {person['login']}, which they have",
                "login",
            )
        else:
            queries.account_password(
                connection,
                school_id=g.user["school_id"],
                id=person["user_id"],
                password_hash=hashed,
                must_change=True,
            )
        trail.note(connection, g.user, f"gave apprentice {person['id']} a log-in with a first password")
        return _read(connection, person["class_id"])


@api.post("/classes/<int:class_id>/log-ins", responses={200: LogInSlips})
@roles(INSTRUCTOR)
def class_log_ins(path: ClassPath, body: LogInsBody) -> dict[str, Any]:
    """Log-ins with one-time codes for everybody of a class who has none, or for some: who has one gets a code for a new
    password, and the one they had no longer fits.
    """
    with database().transaction() as connection:
        name = _read(connection, path.class_id)["name"]
        slips = log_ins.given(connection, g.user, path.class_id, body.apprentice_ids)
        trail.note(connection, g.user, f"gave {len(slips)} of the class {name} a one-time code to log in with")
        return {"slips": slips, "days": log_ins.DAYS}


@api.get("/apprentices/<int:apprentice_id>/data")
@roles(INSTRUCTOR)
def apprentice_data(path: PersonPath) -> Response:
    """Everything that is kept of one apprentice, as a JSON file to hand over."""
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        reply = jsonify(rosters.exported(connection, g.user["school_id"], person))
        trail.note(connection, g.user, f"took out what is kept of apprentice {person['id']}")
    reply.headers["Content-Disposition"] = f'attachment; filename="apprentice-{person["id"]}.json"'
    return reply


@api.put("/apprentices/<int:apprentice_id>/erasing", responses={200: ClassRow})
@roles(INSTRUCTOR)
def apprentice_erasing(path: PersonPath, body: ErasingBody) -> dict[str, Any]:
    """Have an apprentice erased in ten minutes, or take that back. Until then nothing is lost."""
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        queries.apprentice_erase_later(
            connection,
            school_id=g.user["school_id"],
            id=path.apprentice_id,
            erasing=body.erasing,
            minutes=rosters.ERASED_AFTER_MIN,
        )
        did = "has apprentice {} erased" if body.erasing else "took back the erasing of apprentice {}"
        trail.note(connection, g.user, did.format(person["id"]))
        return _read(connection, person["class_id"])


@api.delete("/apprentices/<int:apprentice_id>", responses={200: ClassRow})
@roles(INSTRUCTOR)
def apprentice_erase(path: PersonPath) -> dict[str, Any]:
    """Forget an apprentice at once: papers, answers, marks and log-in. Cannot be undone."""
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        rosters.erase(connection, g.user["school_id"], person)
        trail.note(connection, g.user, f"erased apprentice {person['id']}")
        return _read(connection, person["class_id"])


@api.get("/apprentices/<int:apprentice_id>/results", responses={200: PersonPicture})
@roles(INSTRUCTOR)
def apprentice_results(path: PersonPath) -> dict[str, Any]:
    """One apprentice over the term, with what to give them next."""
    with database().transaction() as connection:
        person = rosters.found(connection, g.user["school_id"], path.apprentice_id)
        found = results.apprentice_picture(connection, g.user["school_id"], person)
        found["next"]["scenarios"] = results.next_calls(connection, g.user, found["next"])
        papers = [
            {"code": p["code"], "title": p["title"], "attempt": p["attempt"], "at": p["created_at"].isoformat()}
            for p in queries.apprentice_papers(connection, school_id=g.user["school_id"], id=person["id"])
        ]
        return {**found, **{key: person[key] for key in ("id", "name", "class_id", "class_name")}, "papers": papers}


@api.get("/classes/<int:class_id>/results", responses={200: ClassPicture})
@roles(INSTRUCTOR)
def class_results(path: ClassPath) -> Any:
    """The class at a glance: what is taken for what, where marks are lost, difficulty found, movement."""
    with database().transaction() as connection:
        _read(connection, path.class_id)
        return results.class_picture(connection, g.user["school_id"], path.class_id)


@api.get("/classes/<int:class_id>/gradebook", responses={200: GradebookReply})
@roles(INSTRUCTOR)
def class_gradebook(path: ClassPath) -> dict[str, list[Any]]:
    """The gradebook as a table."""
    with database().transaction() as connection:
        _read(connection, path.class_id)
        header, rows = results.gradebook(connection, g.user["school_id"], path.class_id)
    return {"header": header, "rows": rows}


@api.get("/classes/<int:class_id>/gradebook.<format>")
@roles(INSTRUCTOR)
def class_gradebook_file(path: GradebookPath) -> Response:
    """The gradebook as CSV or XLSX."""
    with database().transaction() as connection:
        name = _read(connection, path.class_id)["name"]
        table = results.gradebook(connection, g.user["school_id"], path.class_id)
    data: str | bytes
    if path.format == "csv":
        mime, data = "text/csv; charset=utf-8", results.gradebook_csv(table)
    else:
        mime = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
        data = results.gradebook_xlsx(table, name)
    return Response(
        data,
        mimetype=mime,
        headers={"Content-Disposition": f'attachment; filename="gradebook-{path.class_id}.{path.format}"'},
    )
