"""Learning platforms (LTI 1.3): launches in, courses and their names, points out."""

import logging
import urllib.parse
from typing import Any

from flask import g, redirect, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.platform_models import (
    CourseIs,
    CoursePath,
    LaunchAnswer,
    LaunchJoined,
    LaunchStart,
    LaunchWaiting,
    NamesTaken,
    PlatformBody,
    PlatformCourse,
    PlatformList,
    PlatformPath,
    PlatformRow,
    PointsReply,
)
from wolfsbane.server.api.sheet_models import SheetPath
from wolfsbane.server.core import lti, security, sign_in
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.one_time import digest
from wolfsbane.server.core.outside import OutsideError
from wolfsbane.server.core.security import ANYONE, ASSISTANT, INSTRUCTOR, by_own_token, roles
from wolfsbane.server.jobs.queue import queue_points
from wolfsbane.server.services import platforms, trail

api = APIBlueprint("platforms", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="platforms")])
log = logging.getLogger(__name__)

#: binds a launch to the browser that began it
STATE_COOKIE, _STATE_S, _HERE = "wolfsbane_launch", 600, "/api/v1/lti"


def _address(end: str) -> str:
    return f"{request.scheme}://{request.host}{_HERE}/{end}"


def _refused(error: ApiError) -> Any:
    """Back to the log-in page with what was wrong; the log says why."""
    log.warning("launch refused: %s", error.message)
    return redirect(f"/#{error.code}", 302)


# --- a launch ---------------------------------------------------------------------------------------------------------


def _start(asked: LaunchStart) -> Any:
    try:
        address, state = platforms.begin(
            database(), asked.iss, asked.client_id, asked.login_hint, asked.lti_message_hint, _address("launch")
        )
    except OutsideError as error:
        return _refused(error)
    out = redirect(address, 302)
    out.set_cookie(
        STATE_COOKIE,
        state,
        httponly=True,
        samesite="Lax",
        secure=settings().secure_cookies,
        max_age=_STATE_S,
        path=_HERE,
    )
    return out


@api.get("/lti/start")
@roles(ANYONE)
def launch_start(query: LaunchStart) -> Any:
    """A platform sends a browser here; it is sent on so that the platform says who it is."""
    return _start(query)


@api.post("/lti/start")
@roles(ANYONE)
@by_own_token
def launch_start_posted(form: LaunchStart) -> Any:
    """As above, where the platform posts."""
    return _start(form)


@api.post("/lti/launch")
@roles(ANYONE)
@by_own_token
def launch_answer(form: LaunchAnswer) -> Any:
    """The platform's answer, posted from its page. No cookie of ours comes with it, so it is kept, and the browser that
    began is let in at the next step.
    """
    try:
        if form.error or not form.id_token:
            raise OutsideError("the platform let nobody in", "lti")
        platforms.answer(database(), form.state, form.id_token)
    except OutsideError as error:
        return _refused(error)
    return redirect(f"{_HERE}/in", 303)


@api.get("/lti/in")
@roles(ANYONE)
def launch_in() -> Any:
    """Let the browser in that began the launch: an apprentice into their class, an instructor into the account they
    linked, or to where they link one.
    """
    state = request.cookies.get(STATE_COOKIE, "")
    try:
        with database().transaction() as connection:
            row, launch = platforms.answered(connection, state)
            course = platforms.course_of(connection, row, launch)
            if launch.role == lti.LEARNER:
                user, where = platforms.learner(connection, row, launch, course), _target(launch.target)
            else:
                staff = platforms.staff(connection, row, launch)
                if staff is None:
                    return redirect("/platform/join", 302)
                user = staff
                where = f"/platforms?course={course['id']}" if staff["role"] == INSTRUCTOR else "/"
            queries.lti_launch_end(connection, state_hash=digest(state))
            found = sign_in.begin_session(connection, settings(), user)
    except OutsideError as error:
        reply = _refused(error)
    else:
        reply = security.set_cookies(redirect(where, 302), settings(), found.token, found.csrf, found.device)
    reply.delete_cookie(STATE_COOKIE, path=_HERE)
    return reply


def _target(address: str) -> str:
    """The page a launch is for, where it is one of ours; else the first page."""
    parts = urllib.parse.urlsplit(address)
    ours = parts.netloc == request.host and parts.path.startswith("/") and not parts.path.startswith(("/api/", "//"))
    return parts.path if ours else "/"


@api.get("/lti/waiting", responses={200: LaunchWaiting})
@roles(INSTRUCTOR, ASSISTANT)
def launch_waiting() -> dict[str, str]:
    """Whose launch this browser began and waits to be linked with an account."""
    with database().transaction() as connection:
        row, launch = platforms.answered(connection, request.cookies.get(STATE_COOKIE, ""))
        return {"platform": row["platform"], "course": launch.title, "name": launch.name}


@api.post("/lti/join", responses={200: LaunchJoined})
@roles(INSTRUCTOR, ASSISTANT)
def launch_join() -> dict[str, int]:
    """Link one's account with who came from the platform; from then on a launch logs in."""
    with database().transaction() as connection:
        course_id = platforms.join(connection, g.user, request.cookies.get(STATE_COOKIE, ""))
        trail.note(connection, g.user, "linked their account with a learning platform")
    return {"course_id": course_id}


@api.get("/lti/keys")
@roles(ANYONE)
def tool_keys() -> dict[str, Any]:
    """Our public keys, as a platform asks for them."""
    with database().transaction() as connection:
        return lti.published(platforms.signing_keys(connection))


# --- platforms and courses --------------------------------------------------------------------------------------------


def _listed(connection: Connection) -> dict[str, Any]:
    school_id = g.user["school_id"]
    return {
        "addresses": {"start": _address("start"), "launch": _address("launch"), "keys": _address("keys")},
        "platforms": [
            {name: row[name] for name in PlatformRow.model_fields}
            for row in queries.lti_platform_list(connection, school_id=school_id)
        ],
        "courses": [_course(row) for row in queries.lti_courses(connection, school_id=school_id)],
    }


def _course(row: dict[str, Any]) -> dict[str, Any]:
    return {name: row[name] for name in PlatformCourse.model_fields} | {
        "names_at": row["names_at"] and row["names_at"].isoformat()
    }


@api.get("/lti/platforms", responses={200: PlatformList})
@roles(INSTRUCTOR, ASSISTANT)
def platform_list() -> dict[str, Any]:
    """The platforms of the school, their courses, and what their forms ask of us."""
    with database().transaction() as connection:
        return _listed(connection)


@api.post("/lti/platforms", responses={201: PlatformList})
@roles(INSTRUCTOR)
def platform_add(body: PlatformBody) -> tuple[dict[str, Any], int]:
    """Enter a platform: whoever it says is in a course is let into the class that the course is."""
    with database().transaction() as connection:
        queries.lti_platform_add(connection, school_id=g.user["school_id"], **body.model_dump())
        trail.note(connection, g.user, f"entered the learning platform {body.name} ({body.issuer})")
        return _listed(connection), 201


@api.delete("/lti/platforms/<int:platform_id>", responses={200: PlatformList})
@roles(INSTRUCTOR)
def platform_remove(path: PlatformPath) -> dict[str, Any]:
    """Take a platform away: nobody comes from it any more; classes, people and marks stay."""
    with database().transaction() as connection:
        row = queries.lti_platform_remove(connection, school_id=g.user["school_id"], id=path.platform_id)
        if row is None:
            raise not_found(f"platform {path.platform_id}")
        trail.note(connection, g.user, f"took the learning platform {row['name']} away")
        return _listed(connection)


@api.put("/lti/courses/<int:platform_course_id>", responses={200: PlatformList})
@roles(INSTRUCTOR)
def course_is(path: CoursePath, body: CourseIs) -> dict[str, Any]:
    """Say which class a course of a platform is, or make one of its name."""
    school_id = g.user["school_id"]
    with database().transaction() as connection:
        row = platforms.course(connection, school_id, path.platform_course_id)
        class_id = body.class_id
        if body.new:
            class_id = queries.class_add(connection, school_id=school_id, name=row["title"], term="")["id"]
        elif class_id is not None and queries.class_get(connection, school_id=school_id, id=class_id) is None:
            raise not_found(f"class {class_id}")
        queries.lti_course_is(connection, school_id=school_id, id=row["id"], class_id=class_id)
        trail.note(connection, g.user, f"joined the course {row['title']} of {row['platform']} with a class")
        return _listed(connection)


@api.post("/lti/courses/<int:platform_course_id>/names", responses={200: NamesTaken})
@roles(INSTRUCTOR)
def course_names(path: CoursePath) -> dict[str, int]:
    """Take the names of a course in."""
    done = platforms.take_names(database(), g.user["school_id"], path.platform_course_id)
    with database().transaction() as connection:
        trail.note(
            connection, g.user, f"took in names from a learning platform: {done['added']} added, {done['left']} left"
        )
    return done


# --- points -----------------------------------------------------------------------------------------------------------


@api.get("/sheets/<int:sheet_id>/points", responses={200: PointsReply})
@roles(INSTRUCTOR, ASSISTANT)
def points_list(path: SheetPath) -> dict[str, Any]:
    """What was sent back to a learning platform, and what waits."""
    with database().transaction() as connection:
        return _points(connection, path.sheet_id)


def _points(connection: Connection, sheet_id: int) -> dict[str, Any]:
    school_id = g.user["school_id"]
    rows = list(queries.lti_points_list(connection, school_id=school_id, sheet_id=sheet_id))
    courses = queries.lti_sheet_courses(connection, school_id=school_id, sheet_id=sheet_id)
    return {
        "platforms": sorted({c["platform"] for c in courses}),
        "rows": [
            {
                "name": r["name"],
                "earned": r["earned"],
                "possible": r["possible"],
                "sent_at": r["sent_at"] and r["sent_at"].isoformat(),
                "problem": r["problem"],
            }
            for r in rows
        ],
        "waiting": sum(r["sent_at"] is None and r["problem"] is None for r in rows),
    }


@api.post("/sheets/<int:sheet_id>/points", responses={202: PointsReply})
@roles(INSTRUCTOR)
def points_send(path: SheetPath) -> tuple[dict[str, Any], int]:
    """Send the points of every wholly marked paper to the learning platform; those that did not change stay sent."""
    school_id = g.user["school_id"]
    with database().transaction() as connection:
        if queries.sheet_get(connection, school_id=school_id, id=path.sheet_id) is None:
            raise not_found(f"sheet {path.sheet_id}")
        if platforms.to_send(connection, school_id, path.sheet_id):
            queue_points(connection, school_id, path.sheet_id)
        trail.note(connection, g.user, f"sent the points of sheet {path.sheet_id} to the learning platform")
        return _points(connection, path.sheet_id), 202
