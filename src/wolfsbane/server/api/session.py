"""Log-in and log-out."""

import secrets
from typing import Any

from flask import Response, g, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.models import LoginBody, OwnPasswordBody, SessionReply
from wolfsbane.server.core import security
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.security import ANYONE, APPRENTICE, ASSISTANT, INSTRUCTOR, roles

api = APIBlueprint("session", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="session")])


def _user(row: dict[str, Any]) -> dict[str, str]:
    return {key: row[key] for key in ("login", "name", "role", "school", "time_zone")}


@api.get("/session", responses={200: SessionReply})
@roles(ANYONE)
def session_read() -> Response:
    """Who is logged in, and the CSRF token for this page."""
    csrf = g.user["csrf"] if g.user else request.cookies.get(security.CSRF_COOKIE) or secrets.token_urlsafe(24)
    response = jsonify({"user": _user(g.user) if g.user else None, "csrf": csrf})
    return security.set_cookies(response, settings(), None, csrf)


@api.post("/session", responses={200: SessionReply})
@roles(ANYONE)
def session_start(body: LoginBody) -> Response:
    """Log in."""
    before = request.cookies.get(security.DEVICE_COOKIE, "")
    user, token, csrf, browser = security.log_in(
        database(), settings(), body.login, body.password, request.remote_addr or "", before
    )
    return security.set_cookies(jsonify({"user": _user(user), "csrf": csrf}), settings(), token, csrf, browser)


@api.put("/session/password", responses={200: SessionReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def own_password(body: OwnPasswordBody) -> Response:
    """A new password for oneself, by the old one. Other places where one is logged in are logged out."""
    token, csrf = security.change_own_password(database(), settings(), body.old, body.password)
    return security.set_cookies(jsonify({"user": _user(g.user), "csrf": csrf}), settings(), token, csrf)


@api.delete("/session", responses={200: SessionReply})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def session_end() -> Response:
    """Log out."""
    security.log_out(database())
    response = jsonify({"user": None, "csrf": secrets.token_urlsafe(24)})
    response.delete_cookie(security.SESSION_COOKIE)
    response.delete_cookie(security.CSRF_COOKIE)
    return response
