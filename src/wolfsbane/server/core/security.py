"""Log-in, sessions, CSRF and roles. A route without a declared role is refused."""

from __future__ import annotations

import hashlib
import math
import re
import secrets
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fnmatch import fnmatch
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from flask import g, request

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core.budgets import waits
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError

if TYPE_CHECKING:
    from flask import Response
    from flask_openapi3.openapi import OpenAPI

    from wolfsbane.server.core.config import Config
    from wolfsbane.server.core.db.database import Connection, Database

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
    """Check a password; with no stored hash the same work is done and the answer is no.

    Raises ApiError 503 where too many are checked already.
    """
    with _one_of_few():
        try:
            return _hasher.verify(stored_hash or _dummy_hash(), password) and stored_hash is not None
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


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def log_in(
    db: Database, config: Config, login: str, password: str, address: str = "", device: str = ""
) -> tuple[dict[str, Any], str, str, str]:
    """Return (user row, session token, csrf token, token of this browser); raises ApiError 401, or 429 with the seconds
    to wait. ``address`` is where it comes from, ``device`` the token this browser was given before.
    """
    login = login.strip().lower()
    hashed = _digest(device) if device else None
    with db.transaction() as connection:
        known = hashed and queries.login_device(connection, token_hash=hashed, login=login)
        place = {"login": login, "address": address, "device": hashed if known else None}
        wait = waits(queries.login_counts(connection, **place), config.login_limit, known=bool(known))
    if wait > 0.0:
        seconds = math.ceil(wait)
        said = f"{seconds} s" if seconds < 120 else f"{math.ceil(seconds / 60)} minutes"
        raise ApiError(429, "too_many", f"too many failed log-ins; try again in {said}", "login", retry_after=seconds)
    with db.transaction() as connection:
        user = queries.user_by_login(connection, login=login)
    fits = password_fits(user and user["password_hash"], password)
    with db.transaction() as connection:
        queries.login_attempt(connection, succeeded=bool(fits), **place)
        if fits:
            queries.sessions_sweep(connection)
            token, csrf = _begin(connection, config, user)
            browser = device if known else secrets.token_urlsafe(24)
            queries.login_device_keep(
                connection, token_hash=_digest(browser), school_id=user["school_id"], user_id=user["id"]
            )
    if not fits:
        raise ApiError(401, "wrong_login", "name and password do not match; try again", "password")
    return user, token, csrf, browser


def _begin(connection: Connection, config: Config, user: dict[str, Any]) -> tuple[str, str]:
    """A new session of a user: (its token, its CSRF token)."""
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    queries.session_start(
        connection,
        token_hash=_digest(token),
        school_id=user["school_id"],
        user_id=user["id"],
        csrf=csrf,
        hours=config.session_hours,
    )
    return token, csrf


def change_own_password(db: Database, config: Config, old: str, new: str) -> tuple[str, str]:
    """A new password of whoever asks; every other session of theirs ends. Returns (session token, csrf token).

    Raises BadInputError for a wrong old password or an easy new one.
    """
    me = g.user
    with db.transaction() as connection:
        user = queries.user_by_login(connection, login=me["login"])
    if not password_fits(user and user["password_hash"], old):
        raise BadInputError("old", f"{len(old)} characters", "the password you log in with now")
    require_hard(new, me["login"], me["name"], me["school"])
    hashed = hash_password(new)
    with db.transaction() as connection:
        queries.account_password(connection, school_id=me["school_id"], id=me["id"], password_hash=hashed)
        return _begin(connection, config, me)


def log_out(db: Database) -> None:
    """Forget the session of this request."""
    token = request.cookies.get(SESSION_COOKIE)
    if token:
        with db.transaction() as connection:
            queries.session_end(connection, token_hash=_digest(token))


def set_cookies(response: Response, config: Config, token: str | None, csrf: str, browser: str = "") -> Response:
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
                g.user = queries.session_user(connection, token_hash=_digest(token))
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
