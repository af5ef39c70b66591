"""Passwords, cookies, CSRF and roles. A route without a declared role is refused."""

from __future__ import annotations

import re
import secrets
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fnmatch import fnmatch
from functools import lru_cache
from typing import TYPE_CHECKING, Any, TypeVar

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from flask import g, request

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.one_time import digest

if TYPE_CHECKING:
    from flask_openapi3.openapi import OpenAPI
    from werkzeug.wrappers import Response

    from wolfsbane.server.core.config import Config

#: of the application server or of Flask
AnyResponse = TypeVar("AnyResponse", bound="Response")
SESSION_COOKIE, CSRF_COOKIE, CSRF_HEADER = "wolfsbane_session", "wolfsbane_csrf", "X-CSRF-Token"
ANYONE, INSTRUCTOR, ASSISTANT, APPRENTICE = "anyone", "instructor", "assistant", "apprentice"
#: names the browser, so that nobody else's failures keep its owner out
DEVICE_COOKIE, _DEVICE_S = "wolfsbane_browser", 180 * 86_400
_hasher = PasswordHasher()
#: passwords checked at once in one process, and how long one waits for its turn, s
_HASHES, _HASH_WAIT_S = 2, 10.0
_hashing = threading.BoundedSemaphore(_HASHES)
_CSP = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)


def roles(*names: Any) -> Callable[..., Any]:
    """Declare who may call a route: any of anyone, instructor, assistant, apprentice."""

    def mark(view: Any) -> Any:
        view.allowed_roles = frozenset(names)
        return view

    return mark


def takes(media: str, most: int) -> Callable[..., Any]:
    """Declare that a route takes a file of ``media`` as its body, of at most ``most`` bytes, in place of JSON."""

    def mark(view: Any) -> Any:
        view.takes_media, view.most_bytes = media, most
        return view

    return mark


def _takes(view: Any, media: str) -> bool:
    wanted: str | None = getattr(view, "takes_media", None)
    return wanted is not None and fnmatch(media, wanted)


def by_own_token(view: Any) -> Any:
    """Declare that a route checks a token of its own: no session counts there, and no page has to be up to date."""
    view.own_token = True
    return view


def before_change(view: Any) -> Any:
    """Declare that a route also answers whoever has yet to choose a password of their own."""
    view.before_change = True
    return view


def hash_password(password: str) -> str:
    """argon2id hash."""
    return _hasher.hash(password)


#: a password has to stand so many guesses, as powers of ten
_GUESSES = 6.0


def require_hard(password: str, *words: str) -> None:
    """Refuse a password that is among the first that are tried: the common ones, rows of the keyboard, dates, and the
    ``words`` of its owner. Raises BadInputError, without the password in it.
    """
    from zxcvbn import zxcvbn  # its lists take a tenth of a second to load

    known = [part for word in words for part in re.split(r"[\W_]+", word.lower()) if len(part) > 2]
    if zxcvbn(password[:72], user_inputs=known)["guesses_log10"] < _GUESSES:
        raise BadInputError(
            "password",
            f"{len(password)} characters",
            "one that is not easily guessed: no common password, name, date or row of keys; three or four words "
            "that do not belong together are good",
        )


@lru_cache(maxsize=1)
def _dummy_hash() -> str:
    return hash_password(secrets.token_hex(8))


def password_fits(stored_hash: str | None, password: str) -> bool:
    """Check a password; with no stored hash, or one that no password fits, the same work is done and the answer is no.

    Raises ApiError 503 where too many are checked already.
    """
    fits = stored_hash is not None and stored_hash.startswith("$argon2")
    with _one_of_few():
        try:
            return _hasher.verify(stored_hash if stored_hash and fits else _dummy_hash(), password) and fits
        except (VerificationError, InvalidHashError):
            return False


@contextmanager
def _one_of_few() -> Iterator[None]:
    """So few hash at once that pages go on; whoever waits too long is told to come back."""
    if not _hashing.acquire(timeout=_HASH_WAIT_S):
        raise ApiError(503, "busy", "many log in at this moment; try again in a few seconds", retry_after=5)
    try:
        yield
    finally:
        _hashing.release()


#: what a browser says of itself -> what it is called, the first that fits
_BROWSERS = (("Edg", "Edge"), ("OPR/", "Opera"), ("Firefox/", "Firefox"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))
_SYSTEMS = (
    ("Windows", "Windows"),
    ("Android", "Android"),
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("CrOS", "ChromeOS"),
    ("Mac OS", "Mac"),
    ("Linux", "Linux"),
)


def browser_name(agent: str) -> str:
    """What somebody would call a browser by what it says of itself: ``Firefox on Windows``."""
    browser = next((name for sign, name in _BROWSERS if sign in agent), "a browser")
    system = next((name for sign, name in _SYSTEMS if sign in agent), "")
    return f"{browser} on {system}" if system else browser


def set_cookies(response: AnyResponse, config: Config, token: str | None, csrf: str, browser: str = "") -> AnyResponse:
    """Session cookie and browser's token (HttpOnly), and the CSRF token the page sends back."""
    shared: dict[str, Any] = {"samesite": "Lax", "secure": config.secure_cookies, "path": "/"}
    if token is not None:
        response.set_cookie(SESSION_COOKIE, token, httponly=True, max_age=config.session_hours * 3600, **shared)
    if browser:
        response.set_cookie(DEVICE_COOKIE, browser, httponly=True, max_age=_DEVICE_S, **shared)
    response.set_cookie(CSRF_COOKIE, csrf, max_age=config.session_hours * 3600, **shared)
    return response


def register(app: OpenAPI) -> None:
    """Check role and CSRF before every API call, and set the security headers after every answer."""

    @app.before_request
    def _guard() -> None:
        g.user = None
        if not request.path.startswith("/api/"):
            return
        token = request.cookies.get(SESSION_COOKIE)
        if token:
            with database().transaction() as connection:
                g.user = queries.session_user(connection, token_hash=digest(token), idle=settings().idle_minutes)
                if g.user and g.user["stale"]:
                    queries.session_seen(connection, id=g.user["session_id"])
        if request.endpoint is None:
            return
        view = app.view_functions[request.endpoint]
        allowed: frozenset[str] = getattr(view, "allowed_roles", frozenset())
        request.max_content_length = getattr(view, "most_bytes", None) or app.config["MAX_CONTENT_LENGTH"]
        if ANYONE not in allowed:
            if g.user is None:
                raise ApiError(401, "log_in", "please log in; what you typed is kept")
            if g.user["role"] not in allowed:
                raise ApiError(403, "not_allowed", "your role cannot open this page")
            if g.user["must_change"] and not getattr(view, "before_change", False):
                raise ApiError(403, "change_password", "choose a password of your own first")
        if getattr(view, "own_token", False):
            g.user = None
        elif request.method not in ("GET", "HEAD", "OPTIONS"):
            expected = g.user["csrf"] if g.user else request.cookies.get(CSRF_COOKIE, "")
            given = request.headers.get(CSRF_HEADER, "")
            if not expected or not secrets.compare_digest(expected.encode(), given.encode()):
                raise ApiError(403, "csrf", "this page is out of date; reload it, what you typed is kept")
            if request.content_length and not request.is_json and not _takes(view, request.mimetype):
                raise ApiError(415, "media", "send JSON with content type application/json")

    @app.after_request
    def _headers(response: Any) -> Any:
        response.headers["Content-Security-Policy"] = _CSP
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
