"""LTI 1.3 as a learning platform speaks it: a launch answered with a signed token, names and roles (NRPS 2.0), points
passed back (AGS 2.0), and the tokens those are asked with (1EdTech Security Framework 1.0). Field names are from memory
of the published specifications.
"""

from __future__ import annotations

import json
import secrets
import time
import urllib.parse
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

import jwt
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import rsa

from wolfsbane.server.core.outside import OutsideError, asked, is_safe

_CLAIM = "https://purl.imsglobal.org/spec/lti/claim/"
_NAMES = "https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice"
_ENDPOINT = "https://purl.imsglobal.org/spec/lti-ags/claim/endpoint"
_MEMBERSHIP = "http://purl.imsglobal.org/vocab/lis/v2/membership#"
NAMES_SCOPE = "https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly"
ITEM_SCOPE = "https://purl.imsglobal.org/spec/lti-ags/scope/lineitem"
SCORE_SCOPE = "https://purl.imsglobal.org/spec/lti-ags/scope/score"
_MEMBERS_MEDIA = "application/vnd.ims.lti-nrps.v2.membershipcontainer+json"
_ITEMS_MEDIA = "application/vnd.ims.lis.v2.lineitemcontainer+json"
_ITEM_MEDIA = "application/vnd.ims.lis.v2.lineitem+json"
_SCORE_MEDIA = "application/vnd.ims.lis.v1.score+json"
#: pages of a list that are followed
_PAGES = 40
LEARNER, STAFF = "learner", "staff"


@dataclass(frozen=True, kw_only=True)
class Platform:
    """One learning platform as an instructor entered it: addresses, our name there, its deployments."""

    issuer: str
    client_id: str
    deployments: tuple[str, ...]
    login_url: str
    token_url: str
    keys_url: str


@dataclass(frozen=True, kw_only=True)
class Launch:
    """Who came from which course: ``role`` is learner or staff; addresses are "" where the platform gave none."""

    subject: str
    role: str
    name: str
    number: str
    context: str
    title: str
    target: str
    names_url: str
    items_url: str


@dataclass(frozen=True, kw_only=True)
class Member:
    """Somebody of a course."""

    subject: str
    name: str
    number: str
    learner: bool
    active: bool


@dataclass(frozen=True, kw_only=True)
class ToolKey:
    """A key of ours, PEM."""

    name: str
    private: str


def _text(found: Any, field: str, most: int = 250) -> str:
    value = found.get(field) if isinstance(found, dict) else None
    return " ".join(value.split())[:most] if isinstance(value, str) else ""


def begun(platform: Platform, hint: str, message_hint: str, back: str, state: str, nonce: str) -> str:
    """Where a launch is sent on to, so that the platform says who it is (third-party initiated log-in)."""
    form = {
        "scope": "openid",
        "response_type": "id_token",
        "response_mode": "form_post",
        "prompt": "none",
        "client_id": platform.client_id,
        "redirect_uri": back,
        "login_hint": hint,
        "state": state,
        "nonce": nonce,
    }
    if message_hint:
        form["lti_message_hint"] = message_hint
    return f"{platform.login_url}{'&' if '?' in platform.login_url else '?'}{urllib.parse.urlencode(form)}"


def launched(claims: dict[str, Any], platform: Platform) -> Launch:
    """What a verified token says of a launch. Raises OutsideError for one that this application does not take."""
    if claims.get(_CLAIM + "version") != "1.3.0":
        raise OutsideError("the platform does not speak LTI 1.3", "lti")
    if claims.get(_CLAIM + "message_type") != "LtiResourceLinkRequest":
        raise OutsideError("the platform sent another message than a launch", "lti")
    if claims.get(_CLAIM + "deployment_id") not in platform.deployments:
        raise OutsideError("the platform launched a deployment that nobody entered here", "lti_deployment")
    course, roles = claims.get(_CLAIM + "context"), claims.get(_CLAIM + "roles")
    context = _text(course, "id")
    if not context:
        raise OutsideError("the launch came from no course", "lti")
    roles = [r for r in roles if isinstance(r, str)] if isinstance(roles, list) else []
    if any(r.startswith(_MEMBERSHIP) and r.rsplit("#")[-1] in ("Instructor", "Administrator") for r in roles):
        role = STAFF
    elif f"{_MEMBERSHIP}Learner" in roles:
        role = LEARNER
    else:
        raise OutsideError("the platform names no role in the course that is known here", "lti_role")
    names, endpoint = claims.get(_NAMES), claims.get(_ENDPOINT)
    scopes = endpoint.get("scope") if isinstance(endpoint, dict) else None
    may = isinstance(scopes, list) and {ITEM_SCOPE, SCORE_SCOPE} <= {s for s in scopes if isinstance(s, str)}
    return Launch(
        subject=_text(claims, "sub"),
        role=role,
        name=_text(claims, "name", 80) or f"{_text(claims, 'given_name')} {_text(claims, 'family_name')}".strip()[:80],
        number=_text(claims.get(_CLAIM + "lis"), "person_sourcedid", 40),
        context=context,
        title=_text(course, "title", 80) or _text(course, "label", 80) or f"Course {context}"[:80],
        target=_text(claims, _CLAIM + "target_link_uri", 400),
        names_url=_safe(_text(names, "context_memberships_url", 1000)),
        items_url=_safe(_text(endpoint, "lineitems", 1000)) if may else "",
    )


def _safe(address: str) -> str:
    return address if address and is_safe(address) else ""


# --- our keys ---------------------------------------------------------------------------------------------------------


def new_key() -> ToolKey:
    """A fresh RSA key of 2048 bits."""
    key = rsa.generate_private_key(public_exponent=65537, key_size=2048)
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return ToolKey(name=secrets.token_hex(8), private=private.decode())


def published(keys: list[ToolKey]) -> dict[str, Any]:
    """The public halves, as a key set (RFC 7517)."""
    out = []
    for key in keys:
        loaded = serialization.load_pem_private_key(key.private.encode(), None)
        assert isinstance(loaded, rsa.RSAPrivateKey)
        public = json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(loaded.public_key()))
        out.append(public | {"kid": key.name, "use": "sig", "alg": "RS256"})
    return {"keys": out}


def access(platform: Platform, key: ToolKey, *scopes: str) -> str:
    """A token for the platform's services, asked for with a signed statement of who we are (RFC 7523).

    Raises OutsideError.
    """
    now = int(time.time())
    claims = {
        "iss": platform.client_id,
        "sub": platform.client_id,
        "aud": platform.token_url,
        "iat": now,
        "exp": now + 120,
        "jti": secrets.token_urlsafe(16),
    }
    form = {
        "grant_type": "client_credentials",
        "client_assertion_type": "urn:ietf:params:oauth:client-assertion-type:jwt-bearer",
        "client_assertion": jwt.encode(claims, key.private, algorithm="RS256", headers={"kid": key.name}),
        "scope": " ".join(scopes),
    }
    token = _text(asked(platform.token_url, form=form).data, "access_token", 8000)
    if not token:
        raise OutsideError("the platform gave no token for its services", "lti")
    return token


# --- services ---------------------------------------------------------------------------------------------------------


def members(address: str, token: str) -> list[Member]:
    """Everybody of a course. Raises OutsideError."""
    out: list[Member] = []
    for row in _listed(address, token, _MEMBERS_MEDIA, "members"):
        roles = row.get("roles")
        roles = [r for r in roles if isinstance(r, str)] if isinstance(roles, list) else []
        name = _text(row, "name", 80) or f"{_text(row, 'given_name')} {_text(row, 'family_name')}".strip()[:80]
        subject = _text(row, "user_id")
        if subject:
            out.append(
                Member(
                    subject=subject,
                    name=name,
                    number=_text(row, "lis_person_sourcedid", 40),
                    learner=any(r in ("Learner", f"{_MEMBERSHIP}Learner") for r in roles),
                    active=_text(row, "status") in ("", "Active"),
                )
            )
    return out


def _listed(address: str, token: str, accept: str, field: str = "") -> list[dict[str, Any]]:
    """All pages of a list; each page from the same host as the first. Raises OutsideError."""
    out: list[dict[str, Any]] = []
    host, page = urllib.parse.urlsplit(address).netloc, address
    for _ in range(_PAGES):
        reply = asked(page, token=token, accept=accept)
        rows = reply.data.get(field) if field and isinstance(reply.data, dict) else reply.data
        if not isinstance(rows, list):
            raise OutsideError("the platform sent no list", "lti")
        out += [r for r in rows if isinstance(r, dict)]
        if not reply.next_page:
            return out
        page = urllib.parse.urljoin(page, reply.next_page)
        if urllib.parse.urlsplit(page).netloc != host:
            raise OutsideError("the platform's list goes on at another server", "lti")
    raise OutsideError("the platform's list has no end", "lti")


def item_for(items_url: str, token: str, resource: str, label: str, most: float) -> str:
    """The address of the column that takes the points of ``resource``: found, or made. Raises OutsideError."""
    mark = "&" if "?" in items_url else "?"
    there = _listed(f"{items_url}{mark}{urllib.parse.urlencode({'resource_id': resource})}", token, _ITEMS_MEDIA)
    for row in there:
        if row.get("resourceId") == resource and _text(row, "id", 1000):
            return _same_host(_text(row, "id", 1000), items_url)
    body = {"scoreMaximum": most, "label": label, "resourceId": resource, "tag": "wolfsbane"}
    made = asked(items_url, body=body, media=_ITEM_MEDIA, accept=_ITEM_MEDIA, token=token).data
    return _same_host(_text(made, "id", 1000), items_url)


def _same_host(address: str, known: str) -> str:
    """An address that gets our token: only where the platform that gave it is. Raises OutsideError."""
    if urllib.parse.urlsplit(address).netloc != urllib.parse.urlsplit(known).netloc or not is_safe(address):
        raise OutsideError("the platform's columns stand at another server", "lti")
    return address


def send_points(item: str, token: str, subject: str, earned: float, possible: float, comment: str) -> None:
    """Pass the points of one person back. Raises OutsideError."""
    parts = urllib.parse.urlsplit(item)
    address = urllib.parse.urlunsplit(parts._replace(path=f"{parts.path}/scores"))
    body = {
        "userId": subject,
        "scoreGiven": earned,
        "scoreMaximum": possible,
        "comment": comment,
        "timestamp": datetime.now(UTC).isoformat(timespec="milliseconds"),
        "activityProgress": "Completed",
        "gradingProgress": "FullyGraded",
    }
    asked(address, body=body, media=_SCORE_MEDIA, token=token)
