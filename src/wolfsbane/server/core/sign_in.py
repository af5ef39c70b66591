"""Log in and out, one's own password, one-time codes, the second factor and the places one is logged in at."""

from __future__ import annotations

import math
import secrets
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from flask import g, request

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.core import one_time
from wolfsbane.server.core.budgets import waits
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.core.one_time import digest
from wolfsbane.server.core.security import (
    DEVICE_COOKIE,
    SESSION_COOKIE,
    browser_name,
    hash_password,
    password_fits,
    require_hard,
)

if TYPE_CHECKING:
    from wolfsbane.server.core.config import Config
    from wolfsbane.server.core.db.database import Connection, Database

#: under this name, with the address, the budgets count codes that fit nothing: nobody keeps others out by guessing
_CODES = "a one-time code from "
#: how long a code to get in with is good for, days
CODE_DAYS = {"invitation": 14, "reset": 2}
_RECOVERY = 8


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where a request comes from: address, the browser's name, its token (``device``) and the session it had."""

    address: str = ""
    browser: str = ""
    device: str = ""
    before: str = ""


@dataclass(frozen=True, kw_only=True)
class SignedIn:
    """A user row with the tokens of a new session; ``device`` names the browser from now on."""

    user: dict[str, Any]
    token: str
    csrf: str
    device: str


def here() -> Place:
    """Where this request comes from."""
    return Place(
        address=request.remote_addr or "",
        browser=browser_name(request.user_agent.string),
        device=request.cookies.get(DEVICE_COOKIE, ""),
        before=request.cookies.get(SESSION_COOKIE, ""),
    )


def log_in(
    db: Database, config: Config, login: str, password: str, place: Place, *, school: str = "", code: str = ""
) -> SignedIn:
    """A new session for whom name, password and, where they have a second factor, its ``code`` fit.

    ``school`` is the short name of theirs, needed where two schools have somebody of that name. Raises ApiError 401
    (``code_needed`` where only the code is missing) or 429 with the seconds to wait.
    """
    login, school = login.strip().lower(), school.strip().lower()
    with db.transaction() as connection:
        found = list(queries.users_by_login(connection, login=login, school=school))
    user = found[0] if len(found) == 1 else None
    # by the name alone, whatever school was typed: neither twice the guesses nor a way to learn who is where
    known = _require_budget(db, config, login, place, user)
    fits = password_fits(user and user["password_hash"], password)
    if fits and user is not None and user["totp_secret"]:
        if not code.strip():
            raise ApiError(401, "code_needed", "give the code that your authenticator shows now", "code")
        fits = _takes_code(db, user, code)
        if not fits:
            _remember(db, login, place, known=known, succeeded=False)
            raise ApiError(401, "wrong_code", "this code does not fit; each is taken once, wait for the next", "code")
    _remember(db, login, place, known=known, succeeded=fits)
    if not fits or user is None:
        again = "try again, with your school" if not school and _shared(db) else "try again"
        raise ApiError(401, "wrong_login", f"name and password do not match; {again}", "password")
    with db.transaction() as connection:
        return _begin(connection, config, user, place, known=known)


def _shared(db: Database) -> bool:
    with db.transaction() as connection:
        return bool(queries.schools_many(connection)["found"])


def _require_budget(db: Database, config: Config, counted: str, place: Place, user: dict[str, Any] | None) -> bool:
    """Whether the owner of the name logged in from this browser before. Raises ApiError 429 where one has to wait."""
    hashed = digest(place.device) if place.device else None
    with db.transaction() as connection:
        known = bool(
            hashed and user and queries.login_device(connection, token_hash=hashed, user_id=user["id"]) is not None
        )
        counts = queries.login_counts(
            connection, login=counted, address=place.address, device=hashed if known else None
        )
    wait = waits(counts, config.login_limit, known=known)
    if wait > 0.0:
        seconds = math.ceil(wait)
        said = f"{seconds} s" if seconds < 120 else f"{math.ceil(seconds / 60)} minutes"
        raise ApiError(429, "too_many", f"too many failed log-ins; try again in {said}", "login", retry_after=seconds)
    return known


def _remember(db: Database, counted: str, place: Place, *, known: bool, succeeded: bool) -> None:
    with db.transaction() as connection:
        queries.login_attempt(
            connection,
            login=counted,
            address=place.address,
            device=digest(place.device) if known else None,
            succeeded=bool(succeeded),
        )


def _begin(
    connection: Connection, config: Config, user: dict[str, Any], place: Place, *, known: bool = False
) -> SignedIn:
    """A new session; the one this browser had ends, so that no token outlives a log-in."""
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    device = place.device if known else secrets.token_urlsafe(24)
    queries.session_start(
        connection,
        token_hash=digest(token),
        school_id=user["school_id"],
        user_id=user["id"],
        csrf=csrf,
        hours=config.session_hours,
        address=place.address,
        browser=place.browser,
        before=digest(place.before),
    )
    queries.login_device_keep(connection, token_hash=digest(device), school_id=user["school_id"], user_id=user["id"])
    return SignedIn(user=user, token=token, csrf=csrf, device=device)


def begin_session(connection: Connection, config: Config, user: dict[str, Any]) -> SignedIn:
    """A new session, in this browser, for somebody whom a provider vouches for."""
    return _begin(connection, config, user, here())


def change_own_password(db: Database, config: Config, old: str, new: str) -> SignedIn:
    """A new password of whoever asks; every other session of theirs ends.

    Raises BadInputError for a wrong old password, the same one again or an easy one.
    """
    me = g.user
    require_own_password(db, old, "old")
    if new == old:
        raise BadInputError("password", f"{len(new)} characters", "another one than before")
    require_hard(new, me["login"], me["name"], me["school"])
    hashed = hash_password(new)
    with db.transaction() as connection:
        queries.account_password(
            connection, school_id=me["school_id"], id=me["id"], password_hash=hashed, must_change=False
        )
        return _begin(connection, config, me | {"must_change": False}, here(), known=bool(here().device))


def require_own_password(db: Database, password: str, field: str = "password") -> None:
    """Refuse where it is not the password of whoever asks. Raises BadInputError without the password in it."""
    me = g.user
    with db.transaction() as connection:
        secret = queries.user_secrets(connection, school_id=me["school_id"], id=me["id"])
    if not password_fits(secret and secret["password_hash"], password):
        raise BadInputError(field, f"{len(password)} characters", "the password you log in with now")


def log_out(db: Database) -> None:
    """Forget the session of this request."""
    with db.transaction() as connection:
        queries.session_end(connection, token_hash=digest(request.cookies.get(SESSION_COOKIE, "")))


# --- one-time codes ---------------------------------------------------------------------------------------------------


def give_code(connection: Connection, account: dict[str, Any], kind: str) -> str:
    """A one-time code for an account, to be shown once; the one it had before ends. ``reset`` also voids the password,
    turns the second factor off and ends every session.
    """
    code = one_time.new_code()
    if kind == "reset":
        queries.account_void(connection, school_id=account["school_id"], id=account["id"])
    queries.account_code_add(
        connection,
        school_id=account["school_id"],
        user_id=account["id"],
        kind=kind,
        code_hash=digest(one_time.plain_code(code)),
        days=CODE_DAYS[kind],
    )
    return code


def whose_code(db: Database, config: Config, typed: str) -> dict[str, Any]:
    """The account a code lets in. Raises ApiError 404 for one that fits nothing, 429 where too many did not."""
    place = replace(here(), device="")
    _require_budget(db, config, _CODES + place.address, place, None)
    with db.transaction() as connection:
        found = queries.account_code(connection, code_hash=digest(one_time.plain_code(typed)))
    if found is None:
        _remember(db, _CODES + place.address, place, known=False, succeeded=False)
        raise ApiError(404, "no_code", "this code was used, is too old or never was; ask for a new one", "code")
    return dict(found)


def enter_by_code(db: Database, config: Config, typed: str, password: str) -> SignedIn:
    """Choose a password by a one-time code, which is used up, and log in. Raises as ``whose_code``, and BadInputError
    for an easy password, after which the code is still good.
    """
    user = whose_code(db, config, typed)
    require_hard(password, user["login"], user["name"], user["school"])
    hashed = hash_password(password)
    with db.transaction() as connection:
        plain = digest(one_time.plain_code(typed))
        if queries.account_code_use(connection, code_hash=plain, user_id=user["user_id"]) is None:
            raise ApiError(404, "no_code", "this code was used in this moment; ask for a new one", "code")
        queries.account_password(
            connection, school_id=user["school_id"], id=user["user_id"], password_hash=hashed, must_change=False
        )
        return _begin(connection, config, user | {"id": user["user_id"], "must_change": False}, here())


# --- second factor ----------------------------------------------------------------------------------------------------


def _takes_code(db: Database, user: dict[str, Any], code: str) -> bool:
    """Whether a code of the authenticator, or one of the recovery codes, fits; each is taken once."""
    plain = one_time.plain_code(code)
    with db.transaction() as connection:
        if len(plain) == one_time.CODE_LENGTH:
            used = queries.account_code_use(connection, code_hash=digest(plain), user_id=user["id"])
            return used is not None and used["kind"] == "recovery"
        counter = one_time.counter_of(user["totp_secret"], code)
        return counter is not None and queries.totp_used(connection, id=user["id"], counter=counter) is not None


def propose_second_factor(db: Database, password: str) -> str:
    """A secret for whoever asks; it counts when a code of it was given. Raises BadInputError for a wrong password."""
    require_own_password(db, password)
    secret = one_time.new_secret()
    with db.transaction() as connection:
        queries.totp_propose(connection, school_id=g.user["school_id"], id=g.user["id"], secret=secret)
    return secret


def take_second_factor(db: Database, code: str) -> list[str]:
    """Turn the proposed secret on by a code of it; returns recovery codes, to be shown once. Raises BadInputError."""
    me = g.user
    with db.transaction() as connection:
        secret = queries.user_secrets(connection, school_id=me["school_id"], id=me["id"])
        counter = secret["totp_pending"] and one_time.counter_of(secret["totp_pending"], code)
        if counter is None:
            raise BadInputError("code", code[:20], "the six digits that your authenticator shows now")
        queries.totp_take(connection, school_id=me["school_id"], id=me["id"], counter=counter)
        codes = [one_time.new_code() for _ in range(_RECOVERY)]
        for one in codes:
            queries.recovery_add(
                connection, school_id=me["school_id"], user_id=me["id"], code_hash=digest(one_time.plain_code(one))
            )
    return codes


def drop_second_factor(db: Database, password: str) -> None:
    """Turn the second factor of whoever asks off. Raises BadInputError for a wrong password."""
    require_own_password(db, password)
    with db.transaction() as connection:
        queries.totp_off(connection, school_id=g.user["school_id"], id=g.user["id"])
