"""Log-in by the school's own provider: out to it, back from it, and an account linked with an identity there."""

from functools import lru_cache
from typing import Any

from flask import g, redirect, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.account_models import ProviderBack, ProviderStart, ProviderState
from wolfsbane.server.core import oidc, security, sign_in
from wolfsbane.server.core.current import database, settings
from wolfsbane.server.core.db.database import ConflictError, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.one_time import digest
from wolfsbane.server.core.outside import OutsideError
from wolfsbane.server.core.security import ANYONE, APPRENTICE, ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.services import trail

api = APIBlueprint("provider", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="session")])

#: binds a log-in to the browser that began it
STATE_COOKIE, _STATE_S = "wolfsbane_provider", 600


@lru_cache(maxsize=4)
def _provider_at(issuer: str, client_id: str, secret: str) -> oidc.Provider:
    return oidc.Provider(issuer, client_id, secret)


def _provider() -> oidc.Provider:
    config = settings()
    if not config.oidc_issuer:
        raise not_found("a provider")
    return _provider_at(config.oidc_issuer, config.oidc_client, config.oidc_secret)


def _back() -> str:
    return f"{request.scheme}://{request.host}/api/v1/session/provider/back"


@api.get("/session/provider")
@roles(ANYONE)
def provider_start(query: ProviderStart) -> Any:
    """Out to the provider: to log in, or, for whoever is logged in, to link their account with ``link``."""
    if query.link and g.user is None:
        raise ApiError(401, "log_in", "please log in before you link your account")
    question = oidc.new_question()
    out = redirect(_provider().address(question, _back()), 302)
    with database().transaction() as connection:
        queries.oidc_begin(
            connection,
            state_hash=digest(question.state),
            nonce=question.nonce,
            verifier=question.verifier,
            user_id=g.user["id"] if query.link else None,
        )
    out.set_cookie(
        STATE_COOKIE,
        question.state,
        httponly=True,
        samesite="Lax",
        secure=settings().secure_cookies,
        max_age=_STATE_S,
        path="/api/v1/session/provider",
    )
    return out


@api.get("/session/provider/back")
@roles(ANYONE)
def provider_back(query: ProviderBack) -> Any:
    """Back from the provider: logged in, or linked; else the log-in page with what was wrong."""
    try:
        reply = _answered(query)
    except ApiError as error:
        reply = redirect(f"{'/password' if error.code == 'provider_taken' else '/'}#{error.code}", 302)
    reply.delete_cookie(STATE_COOKIE, path="/api/v1/session/provider")
    return reply


def _answered(query: ProviderBack) -> Any:
    provider, state = _provider(), request.cookies.get(STATE_COOKIE, "")
    if query.error or not query.code:
        raise OutsideError("the provider let nobody in", "provider_refused")
    if not state or state != query.state:
        raise OutsideError("this log-in was begun somewhere else, or too long ago", "provider_stale")
    with database().transaction() as connection:
        flow = queries.oidc_take(connection, state_hash=digest(state))
    if flow is None:
        raise OutsideError("this log-in was used already, or is too old", "provider_stale")
    subject = provider.subject(query.code, flow["nonce"], flow["verifier"], _back())
    if flow["user_id"] is None:
        with database().transaction() as connection:
            user = queries.identity_user(connection, issuer=provider.issuer, subject=subject)
            if user is None:
                raise OutsideError("nobody here has linked this identity", "provider_unknown")
            found = sign_in.begin_session(connection, settings(), user)
        return security.set_cookies(redirect("/", 302), settings(), found.token, found.csrf, found.device)
    if g.user is None or g.user["id"] != flow["user_id"]:
        raise OutsideError("you were logged out meanwhile", "provider_stale")
    try:
        with database().transaction() as connection:
            queries.identity_link(connection, user_id=g.user["id"], issuer=provider.issuer, subject=subject)
            _note(connection, "linked their account with the school's log-in")
    except ConflictError:
        raise OutsideError("this identity is linked with another account", "provider_taken") from None
    return redirect("/password", 302)


def _note(connection: Any, did: str) -> None:
    if g.user["role"] != APPRENTICE:
        trail.note(connection, g.user, did)


@api.get("/session/provider/linked", responses={200: ProviderState})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def provider_linked() -> dict[str, bool]:
    """Whether there is a provider, and whether one's account is linked with it."""
    issuer = settings().oidc_issuer.rstrip("/")
    if not issuer:
        return {"there": False, "linked": False}
    with database().transaction() as connection:
        found = queries.identity_linked(connection, user_id=g.user["id"], issuer=issuer)
    return {"there": True, "linked": bool(found["linked"])}


@api.delete("/session/provider/linked", responses={200: ProviderState})
@roles(INSTRUCTOR, ASSISTANT, APPRENTICE)
def provider_unlink() -> dict[str, bool]:
    """Take the link away; name and password stay."""
    issuer = settings().oidc_issuer.rstrip("/")
    with database().transaction() as connection:
        queries.identity_unlink(connection, user_id=g.user["id"], issuer=issuer)
        _note(connection, "took the link with the school's log-in away")
    return {"there": bool(issuer), "linked": False}
