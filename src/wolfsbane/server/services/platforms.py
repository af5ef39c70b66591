"""Learning platforms: who launches, which course is which class, names taken in, points sent back (LTI 1.3)."""

from __future__ import annotations

import secrets
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wolfsbane.server.core import lti
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.lti import LEARNER, Launch, Platform, ToolKey
from wolfsbane.server.core.one_time import digest
from wolfsbane.server.core.outside import Keys, OutsideError, verified
from wolfsbane.server.services import log_ins, results, rosters

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection, Database

STALE = ("this launch was used already, was begun somewhere else, or is too old", "lti_stale")


@lru_cache(maxsize=64)
def keys_of(address: str) -> Keys:
    """The keys a platform publishes."""
    return Keys(address)


def platform_of(row: dict[str, Any]) -> Platform:
    """A platform as the protocol knows it."""
    return Platform(
        issuer=row["issuer"],
        client_id=row["client_id"],
        deployments=tuple(row["deployments"]),
        login_url=row["login_url"],
        token_url=row["token_url"],
        keys_url=row["keys_url"],
    )


def signing_keys(connection: Connection) -> list[ToolKey]:
    """Our keys, the one that signs first. A key that is 90 days old is followed by a new one, and stays published for
    60 more.
    """
    rows = list(queries.tool_key_list(connection))
    if not rows or rows[0]["old"]:
        key = lti.new_key()
        queries.tool_key_add(connection, id=key.name, private_key=key.private)
        rows = list(queries.tool_key_list(connection))
    return [ToolKey(name=row["id"], private=row["private_key"]) for row in rows]


# --- a launch ---------------------------------------------------------------------------------------------------------


def begin(db: Database, issuer: str, client_id: str, hint: str, message_hint: str, back: str) -> tuple[str, str]:
    """Where a launch is sent on to, and its state. Raises OutsideError for a platform that nobody entered."""
    state, nonce = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    with db.transaction() as connection:
        found = list(queries.lti_platform_at(connection, issuer=issuer, client_id=client_id))
        if len(found) != 1:
            raise OutsideError("nobody entered this learning platform here", "lti_unknown")
        queries.lti_launch_begin(
            connection,
            state_hash=digest(state),
            school_id=found[0]["school_id"],
            platform_id=found[0]["id"],
            nonce=nonce,
        )
    return lti.begun(platform_of(found[0]), hint, message_hint, back, state, nonce), state


def answer(db: Database, state: str, token: str) -> None:
    """Keep what the platform says of a launch, once. Raises OutsideError for whatever does not hold."""
    with db.transaction() as connection:
        asked = queries.lti_launch_take(connection, state_hash=digest(state))
    if asked is None:
        raise OutsideError(*STALE)
    platform = platform_of(asked)
    claims = verified(
        token, keys_of(platform.keys_url), audience=platform.client_id, issuer=platform.issuer, nonce=asked["nonce"]
    )
    launch = lti.launched(claims, platform)
    with db.transaction() as connection:
        if queries.lti_launch_answer(connection, state_hash=digest(state), answered=jsonb(vars(launch))) is None:
            raise OutsideError(*STALE)


def answered(connection: Connection, state: str) -> tuple[dict[str, Any], Launch]:
    """Who came, of a launch that this browser began. Raises OutsideError."""
    row = queries.lti_launch_answered(connection, state_hash=digest(state))
    if row is None:
        raise OutsideError(*STALE)
    return row, Launch(**row["answered"])


def course_of(connection: Connection, row: dict[str, Any], launch: Launch) -> dict[str, Any]:
    """The course of a launch, {id, class_id}, as the platform tells of it now."""
    found: dict[str, Any] = queries.lti_course_seen(
        connection,
        school_id=row["school_id"],
        platform_id=row["platform_id"],
        context=launch.context,
        title=launch.title,
        names_url=launch.names_url,
        items_url=launch.items_url,
    )
    return found


def staff(connection: Connection, row: dict[str, Any], launch: Launch) -> dict[str, Any] | None:
    """The account an instructor of the platform linked, or None."""
    found: dict[str, Any] | None = queries.lti_staff_get(
        connection, platform_id=row["platform_id"], subject=launch.subject
    )
    return found


def learner(connection: Connection, row: dict[str, Any], launch: Launch, course: dict[str, Any]) -> dict[str, Any]:
    """The account of an apprentice who came: found, or made, in the class that the course is. Raises OutsideError."""
    school_id = row["school_id"]
    if course["class_id"] is None:
        raise OutsideError("your instructor has not said yet which class this course is", "lti_no_class")
    members = {p["subject"]: p for p in queries.lti_people(connection, course_id=course["id"])}
    person = members.get(launch.subject)
    if person is None:
        if not launch.name:
            raise OutsideError("the platform did not send your name; ask your instructor to take in the names", "lti")
        one = lti.Member(subject=launch.subject, name=launch.name, number=launch.number, learner=True, active=True)
        _take_in(connection, school_id, course, [one])
        person = next(p for p in queries.lti_people(connection, course_id=course["id"]) if p["subject"] == one.subject)
    if person["gone"]:
        raise OutsideError("you have left this class, as its list says; ask your instructor", "lti_left")
    user_id = person["user_id"]
    if user_id is None:
        taken = {r["login"] for r in queries.account_list(connection, school_id=school_id)}
        user_id = queries.user_add(
            connection,
            school_id=school_id,
            login=log_ins.log_in_of(person["name"], taken),
            name=person["name"],
            role="apprentice",
            password_hash="!",
        )["id"]
        queries.apprentice_link(connection, school_id=school_id, id=person["id"], user_id=user_id)
    user: dict[str, Any] | None = queries.lti_user(connection, school_id=school_id, id=user_id)
    if user is None or user["role"] != "apprentice":
        raise OutsideError("your log-in here is switched off; ask your instructor", "lti_left")
    return user


def join(connection: Connection, user: dict[str, Any], state: str) -> int:
    """Link whoever is logged in with the instructor who came; returns the course. Raises OutsideError, ApiError 403."""
    row, launch = answered(connection, state)
    if launch.role == LEARNER or row["school_id"] != user["school_id"]:
        raise ApiError(403, "not_allowed", f"this account is not of the school that {row['platform']} is joined with")
    queries.lti_staff_link(
        connection,
        school_id=user["school_id"],
        platform_id=row["platform_id"],
        subject=launch.subject,
        user_id=user["id"],
    )
    queries.lti_launch_end(connection, state_hash=digest(state))
    return int(course_of(connection, row, launch)["id"])


# --- names ------------------------------------------------------------------------------------------------------------


def course(connection: Connection, school_id: int, course_id: int) -> dict[str, Any]:
    """One course of a platform. Raises ApiError 404."""
    row: dict[str, Any] | None = queries.lti_course_get(connection, school_id=school_id, id=course_id)
    if row is None:
        raise not_found(f"course {course_id}")
    return row


def take_names(db: Database, school_id: int, course_id: int) -> dict[str, int]:
    """Ask the platform for the names of a course and put them into its class: {added, there, left}.

    Raises OutsideError, ApiError 409 where the course is no class yet or lists nobody.
    """
    with db.transaction() as connection:
        row = course(connection, school_id, course_id)
        key = signing_keys(connection)[0]
    if row["class_id"] is None or not row["names_url"]:
        raise ApiError(409, "not_now", "say which class the course is first, and let the platform share its names")
    coming = lti.members(row["names_url"], lti.access(platform_of(row), key, lti.NAMES_SCOPE))
    with db.transaction() as connection:
        queries.school_hold(connection, school_id=school_id)
        return _take_in(connection, school_id, course(connection, school_id, course_id), coming, whole=True)


def _take_in(
    connection: Connection, school_id: int, row: dict[str, Any], coming: list[lti.Member], *, whole: bool = False
) -> dict[str, int]:
    """Put members into the class of a course: who is there already by number, or by name where neither has a number, is
    taken for the same person. With the ``whole`` list, who is inactive or no longer on it is said to have left.
    """
    class_id = row["class_id"]
    known = {p["subject"]: p for p in queries.lti_people(connection, course_id=row["id"])}
    linked = {p["id"] for p in known.values()}
    free = [
        p
        for p in queries.apprentice_list(connection, school_id=school_id, class_id=class_id)
        if p["id"] not in linked and not p["gone"]
    ]
    by_number = {p["number"]: p for p in free if p["number"]}
    by_name = {p["name"].lower(): p for p in free}
    wanted = {m.subject: m for m in coming if m.learner and m.active and m.name}
    added = 0
    for member in wanted.values():
        if member.subject in known:
            continue
        same = by_number.get(member.number) if member.number else None
        if same is None:
            namesake = by_name.get(member.name.lower())
            same = namesake if namesake and not (namesake["number"] and member.number) else None
        if same is None:
            person = {"name": member.name, "number": member.number, "group": ""}
            rosters.add_people(connection, school_id, class_id, [person])
            same = list(queries.apprentice_list(connection, school_id=school_id, class_id=class_id))[-1]
            added += 1
        by_number.pop(same["number"], None)
        by_name.pop(same["name"].lower(), None)
        queries.lti_person_add(
            connection, school_id=school_id, course_id=row["id"], subject=member.subject, apprentice_id=same["id"]
        )
    left = 0
    if whole:
        for subject, person in known.items():
            if subject not in wanted and not person["gone"] and person["class_id"] == class_id:
                rosters.say_left(connection, school_id, person)
                left += 1
        queries.lti_course_named(connection, school_id=school_id, id=row["id"])
    return {"added": added, "there": len(wanted) - added, "left": left}


# --- points -----------------------------------------------------------------------------------------------------------


def to_send(connection: Connection, school_id: int, sheet_id: int) -> int:
    """Write down the points of every paper of a sheet that is wholly marked, the newest of each apprentice; returns how
    many wait to be sent. Raises ApiError 409 where no course takes them.
    """
    if not list(queries.lti_sheet_courses(connection, school_id=school_id, sheet_id=sheet_id)):
        raise ApiError(409, "not_now", "no learning platform takes the points of this class")
    papers = results.sheet_results(connection, school_id, sheet_id)["rows"]
    newest = {p["apprentice_id"]: p for p in sorted(papers, key=lambda p: p["attempt"])}
    for apprentice_id, paper in newest.items():
        if paper["marked"] and not paper["to_confirm"]:
            queries.lti_points_put(
                connection,
                school_id=school_id,
                sheet_id=sheet_id,
                apprentice_id=apprentice_id,
                earned=paper["earned"],
                possible=paper["possible"],
            )
    return sum(
        p["sent_at"] is None for p in queries.lti_points_list(connection, school_id=school_id, sheet_id=sheet_id)
    )


def send(db: Database, school_id: int, sheet_id: int) -> None:
    """Send what waits, one person after the other; what became of each is kept. Safe to run twice."""
    with db.transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
        courses = list(queries.lti_sheet_courses(connection, school_id=school_id, sheet_id=sheet_id))
        people = {
            p["id"]: (c, p["subject"]) for c in courses for p in queries.lti_people(connection, course_id=c["id"])
        }
        waiting = [
            p
            for p in queries.lti_points_list(connection, school_id=school_id, sheet_id=sheet_id)
            if p["sent_at"] is None
        ]
        key = signing_keys(connection)[0]
    doors: dict[int, tuple[str, str] | str] = {}
    for points in waiting:
        problem = "is not in the platform's course"
        if points["apprentice_id"] in people:
            course_row, subject = people[points["apprentice_id"]]
            door = doors.setdefault(
                course_row["id"], _door(course_row, key, f"sheet-{sheet_id}", sheet["title"], points["possible"])
            )
            problem = door if isinstance(door, str) else _sent(door, subject, points)
        with db.transaction() as connection:
            queries.lti_points_sent(
                connection, sheet_id=sheet_id, apprentice_id=points["apprentice_id"], problem=problem or None
            )


def _door(row: dict[str, Any], key: ToolKey, resource: str, label: str, most: float) -> tuple[str, str] | str:
    """(column, token) of a course, or what is in the way."""
    try:
        token = lti.access(platform_of(row), key, lti.ITEM_SCOPE, lti.SCORE_SCOPE)
        return lti.item_for(row["items_url"], token, resource, label, most), token
    except OutsideError as error:
        return str(error)


def _sent(door: tuple[str, str], subject: str, points: dict[str, Any]) -> str:
    try:
        lti.send_points(door[0], door[1], subject, points["earned"], points["possible"], "")
    except OutsideError as error:
        return str(error)
    return ""
