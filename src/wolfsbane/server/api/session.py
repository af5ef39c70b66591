"""Log-in and log-out, by password or one-time code; one's own password, second factor and places."""

import secrets
from typing import Any

import segno
from flask import Response, g, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.account_models import (
    CodeBody,
    CodePasswordBody,
    LanguageBody,
    LoginBody,
    OwnPasswordBody,
    PasswordBody,
    PlaceList,
    PlacePath,
    RecoveryReply,
    SecondFactorReply,
    SessionReply,
    WelcomeReply,
)
from wolfsbane.server.core import one_time, security, sign_in
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import ANYONE, APPRENTICE, ASSISTANT, INSTRUCTOR, before_change, roles
from wolfsbane.server.core.sign_in import SignedIn
from wolfsbane.server.language import ENGLISH
from wolfsbane.server.services import trail

api = APIBlueprint("session", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="session")])


def _user(row: dict[str, Any]) -> dict[str, Any]:
    shown = {key: row[key] for key in ("login", "name", "role", "school", "time_zone", "must_change")}
    shown["language"] = row.get("language", ENGLISH)
    return shown | {"totp": bool(row.get("totp") or row.get("totp_secret"))}


def _signed_in(found: SignedIn) -> Response:
    body = {"user": _user(found.user), "csrf": found.csrf, "asks_school": False}
    return security.set_cookies(jsonify(body), settings(), found.token, found.csrf, found.device)


@api.get("/session", responses={200: SessionReply})
@roles(ANYONE)
def session_read() -> Response:
    """Who is logged in, and the CSRF token for this page."""
    csrf = g.user["csrf"] if g.user else request.cookies.get(security.CSRF_COOKIE) or secrets.token_urlsafe(24)
    asks = False
    if g.user is None:
        with database().transaction() as connection:
            asks = bool(queries.schools_many(connection)["found"])
    config = settings()
    response = jsonify(
        {
            "user": _user(g.user) if g.user else None,
            "csrf": csrf,
            "asks_school": asks,
            "provider": config.oidc_name if config.oidc_issuer else "",
        }
    )
    return security.set_cookies(response, settings(), None, csrf)


@api.post("/session", responses={200: SessionReply})
@roles(ANYONE)
def session_start(body: LoginBody) -> Response:
    """Log in."""
    place = sign_in.here()
    return _signed_in(
        sign_in.log_in(database(), settings(), body.login, body.password, place, school=body.school, code=body.code)
    )


@api.put("/session/password", responses={200: SessionReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@before_change
def own_password(body: OwnPasswordBody) -> Response:
    """A new password for oneself, by the old one. Other places where one is logged in are logged out."""
    found = sign_in.change_own_password(database(), settings(), body.old, body.password)
    _note("changed their own password")
    return _signed_in(found)


@api.put("/session/language", responses={200: SessionReply})
@roles(APPRENTICE)
def own_language(body: LanguageBody) -> dict[str, Any]:
    """The language a student reads in from now on."""
    with database().transaction() as connection:
        queries.user_language(connection, school_id=g.user["school_id"], id=g.user["id"], language=body.language)
    return {"user": _user(g.user | {"language": body.language}), "csrf": g.user["csrf"], "asks_school": False}


@api.delete("/session", responses={200: SessionReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
@before_change
def session_end() -> Response:
    """Log out."""
    sign_in.log_out(database())
    response = jsonify({"user": None, "csrf": secrets.token_urlsafe(24), "asks_school": False})
    response.delete_cookie(security.SESSION_COOKIE)
    response.delete_cookie(security.CSRF_COOKIE)
    return response


@api.post("/session/welcome", responses={200: WelcomeReply})
@roles(ANYONE)
def code_read(body: CodeBody) -> dict[str, str]:
    """Whom a one-time code lets in."""
    found = sign_in.whose_code(database(), settings(), body.code)
    return {key: found[key] for key in ("login", "name", "school")}


@api.put("/session/welcome", responses={200: SessionReply})
@roles(ANYONE)
def code_use(body: CodePasswordBody) -> Response:
    """Choose a password by a one-time code, and be logged in; the code is used up."""
    found = sign_in.enter_by_code(database(), settings(), body.code, body.password)
    _note("chose a password by a one-time code", found.user)
    return _signed_in(found)


def _note(did: str, user: dict[str, Any] | None = None) -> None:
    who = user or g.user
    if who["role"] == APPRENTICE:
        return
    with database().transaction() as connection:
        trail.note(connection, who, did)


@api.post("/session/second-factor", responses={200: SecondFactorReply})
@roles(INSTRUCTOR)
def second_factor_propose(body: PasswordBody) -> dict[str, str]:
    """A secret for an authenticator; it counts once a code of it was given."""
    secret = sign_in.propose_second_factor(database(), body.password)
    address = one_time.address_of(secret, g.user["login"], g.user["school"])
    picture = segno.make(address, error="m", micro=False).svg_data_uri(border=2, scale=4, dark="#1d1b26")
    return {"secret": secret, "address": address, "picture": picture}


@api.put("/session/second-factor", responses={200: RecoveryReply})
@roles(INSTRUCTOR)
def second_factor_take(body: CodeBody) -> dict[str, list[str]]:
    """Turn the second factor on by a code of it; recovery codes come back, once."""
    codes = sign_in.take_second_factor(database(), body.code)
    _note("turned their second factor on")
    return {"codes": codes}


@api.post("/session/second-factor/off", responses={200: SessionReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def second_factor_off(body: PasswordBody) -> dict[str, Any]:
    """Turn one's own second factor off, by the password."""
    sign_in.drop_second_factor(database(), body.password)
    _note("turned their second factor off")
    return {"user": _user(g.user | {"totp": False}), "csrf": g.user["csrf"], "asks_school": False}


def _places() -> dict[str, list[dict[str, Any]]]:
    me = g.user
    with database().transaction() as connection:
        rows = queries.session_list(
            connection, school_id=me["school_id"], user_id=me["id"], idle=settings().idle_minutes
        )
        return {
            "places": [
                {
                    "id": r["id"],
                    "began_at": r["created_at"].isoformat(),
                    "seen_at": r["seen_at"].isoformat(),
                    "address": r["address"],
                    "browser": r["browser"],
                    "here": r["id"] == me["session_id"],
                }
                for r in rows
            ]
        }


@api.get("/session/places", responses={200: PlaceList})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def place_list() -> dict[str, list[dict[str, Any]]]:
    """Where one is logged in."""
    return _places()


@api.delete("/session/places/<int:place_id>", responses={200: PlaceList})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def place_end(path: PlacePath) -> dict[str, list[dict[str, Any]]]:
    """Log out at one place."""
    me = g.user
    with database().transaction() as connection:
        ended = queries.session_end_own(connection, school_id=me["school_id"], user_id=me["id"], id=path.place_id)
    if ended is None:
        raise not_found(f"place {path.place_id}")
    return _places()


@api.delete("/session/places", responses={200: PlaceList})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def place_end_others() -> dict[str, list[dict[str, Any]]]:
    """Log out everywhere but here."""
    me = g.user
    with database().transaction() as connection:
        queries.sessions_end(connection, school_id=me["school_id"], user_id=me["id"], but=me["session_id"])
    return _places()
