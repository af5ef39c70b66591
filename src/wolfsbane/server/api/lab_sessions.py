"""Lab sessions: begun by whoever runs the lab, carried on by students, judged by the rig; skills over the term."""

from datetime import UTC, datetime
from typing import Any

from flask import Response, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.class_models import PersonPath
from wolfsbane.server.api.lab_models import (
    LabDesk,
    LabDeskKept,
    LabEventsBody,
    LabList,
    LabMineKept,
    LabMineSessions,
    LabSession,
    LabSessionBody,
    LabUnits,
    RigSkillsReply,
    SessionPath,
)
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.printing import skills_papers
from wolfsbane.server.services import lab_sessions, lab_views

api = APIBlueprint("lab_sessions", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="lab")])


@api.get("/lab/sessions", responses={200: LabList})
@roles(INSTRUCTOR, ASSISTANT)
def session_list() -> dict[str, Any]:
    """Sessions that run, and those of the last days: where each stands, who waits for what."""
    with database().transaction() as connection:
        found = lab_views.rows(connection, g.user["school_id"], lab_sessions.DAYS)
        return {"now": datetime.now(UTC).isoformat(), "sessions": found}


@api.post("/lab/sessions", responses={201: LabDesk})
@roles(INSTRUCTOR, ASSISTANT)
def session_begin(body: LabSessionBody) -> tuple[dict[str, Any], int]:
    """A session begins at a rig."""
    with database().transaction() as connection:
        made = lab_sessions.begin(connection, g.user, body.model_dump())
        return lab_views.for_desk(connection, lab_sessions.row_for(connection, g.user, made)), 201


@api.get("/lab/sessions/<int:session_id>", responses={200: LabDesk})
@roles(INSTRUCTOR, ASSISTANT)
def session_read(path: SessionPath) -> dict[str, Any]:
    """One session with everything that is known about it."""
    with database().transaction() as connection:
        return lab_views.for_desk(connection, lab_sessions.row_for(connection, g.user, path.session_id))


@api.post("/lab/sessions/<int:session_id>/events", responses={200: LabDeskKept})
@roles(INSTRUCTOR, ASSISTANT)
def session_say(path: SessionPath, body: LabEventsBody) -> dict[str, Any]:
    """Steps of whoever runs the lab: sign-off, countersigning, help, observations; or a student's, from paper."""
    with database().transaction() as connection:
        told = _take(connection, path.session_id, body)
        row = lab_sessions.row_for(connection, g.user, path.session_id)
        return {"told": told, "session": lab_views.for_desk(connection, row)}


def _take(connection: Any, session_id: int, body: LabEventsBody) -> list[dict[str, Any]]:
    events = [e.model_dump() for e in body.events]
    return lab_sessions.take(connection, g.user, session_id, events, body.now)


@api.get("/lab/mine", responses={200: LabMineSessions})
@roles(APPRENTICE)
def mine_sessions() -> dict[str, Any]:
    """A student's own sessions, the one that runs first."""
    with database().transaction() as connection:
        found = queries.lab_sessions_of_user(connection, school_id=g.user["school_id"], user_id=g.user["id"])
        return {
            "sessions": [
                {
                    "id": r["id"],
                    "rig": r["rig_name"],
                    "title": r["title"],
                    "began_at": r["began_at"].isoformat(),
                    "ended_at": None if r["ended_at"] is None else r["ended_at"].isoformat(),
                }
                for r in found
            ]
        }


@api.get("/lab/mine/<int:session_id>", responses={200: LabSession})
@roles(APPRENTICE)
def mine_session(path: SessionPath) -> dict[str, Any]:
    """A student's own session: the card, what is asked, what they typed."""
    with database().transaction() as connection:
        return lab_views.for_student(connection, lab_sessions.row_for(connection, g.user, path.session_id))


@api.post("/lab/mine/<int:session_id>/events", responses={200: LabMineKept})
@roles(APPRENTICE)
def mine_say(path: SessionPath, body: LabEventsBody) -> dict[str, Any]:
    """Steps of a student, some of them typed while the line was away: each is kept once, at its own time."""
    with database().transaction() as connection:
        told = _take(connection, path.session_id, body)
        row = lab_sessions.row_for(connection, g.user, path.session_id)
        return {"told": told, "session": lab_views.for_student(connection, row)}


def _skills(connection: Any, apprentice_id: int) -> dict[str, Any]:
    person = queries.apprentice_get(connection, school_id=g.user["school_id"], id=apprentice_id)
    if person is None:
        raise not_found("the student")
    return {"name": person["name"], "rows": lab_views.skills_of(connection, g.user["school_id"], apprentice_id)}


@api.get("/apprentices/<int:apprentice_id>/skills", responses={200: RigSkillsReply})
@roles(INSTRUCTOR)
def skills_read(path: PersonPath) -> dict[str, Any]:
    """What somebody can do at a rig, and what showed it."""
    with database().transaction() as connection:
        return _skills(connection, path.apprentice_id)


@api.get("/apprentices/<int:apprentice_id>/skills.csv")
@roles(INSTRUCTOR)
def skills_csv(path: PersonPath) -> Response:
    """The same as CSV, one line for each piece of evidence."""
    with database().transaction() as connection:
        found = _skills(connection, path.apprentice_id)
    return Response(
        lab_views.skills_csv(found, g.user["time_zone"]),
        mimetype="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="skills-{path.apprentice_id}.csv"'},
    )


@api.get("/apprentices/<int:apprentice_id>/skills.pdf")
@roles(INSTRUCTOR)
def skills_pdf(path: PersonPath, query: LabUnits) -> Response:
    """The same to print."""
    with database().transaction() as connection:
        found = _skills(connection, path.apprentice_id)
        school = connection.execute("select name from schools where id = %s", (g.user["school_id"],)).fetchone()
    assert school is not None, "whoever asks is of a school"
    pdf = skills_papers.skills_pdf(found, school["name"], query.units, g.user["time_zone"])
    return Response(pdf, mimetype="application/pdf")


@api.get("/lab/mine/skills", responses={200: RigSkillsReply})
@roles(APPRENTICE)
def mine_skills() -> dict[str, Any]:
    """A student's own record."""
    with database().transaction() as connection:
        person = queries.apprentice_of_user(connection, school_id=g.user["school_id"], user_id=g.user["id"])
        if person is None:
            raise not_found("a student with this log-in")
        return _skills(connection, person["id"])


@api.get("/lab/sessions/<int:session_id>/sheet.pdf")
@roles(INSTRUCTOR, ASSISTANT)
def session_sheet(path: SessionPath) -> Response:
    """The session on paper: card, ticks, fields, for a bench without a phone."""
    with database().transaction() as connection:
        row = lab_sessions.row_for(connection, g.user, path.session_id)
        seen = lab_views.for_student(connection, row)
    return Response(skills_papers.session_pdf(seen), mimetype="application/pdf")
