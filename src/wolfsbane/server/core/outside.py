"""Other servers, asked with care: over TLS or on this machine, going nowhere else than where they were sent, in a
bounded time and of a bounded size; and tokens that they signed.
"""

from __future__ import annotations

import ipaddress
import json
import secrets
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass
from typing import Any

import jwt

from wolfsbane.server.core.errors import ApiError

_TIMEOUT_S, _LARGEST = 10.0, 2_000_000
#: never HS256: a secret we share is no key of theirs
_ALGORITHMS = ("RS256", "ES256", "PS256")
#: clocks may differ so much, s; a token is older than this only where somebody kept it, s
_LEEWAY_S, _OLDEST_S = 60, 600


class OutsideError(ApiError):
    """Another server, or what came from it, cannot be used."""

    def __init__(self, why: str, code: str = "provider") -> None:
        super().__init__(400, code, why)


@dataclass(frozen=True, kw_only=True)
class Reply:
    """What another server said: data and the address of the next page, "" after the last."""

    data: Any
    next_page: str = ""


def is_safe(address: str) -> bool:
    """Whether an address may be asked: over TLS, or on this machine."""
    try:
        parts = urllib.parse.urlsplit(address)
        if parts.scheme == "https":
            return bool(parts.hostname)
        return parts.scheme == "http" and (
            parts.hostname == "localhost" or ipaddress.ip_address(parts.hostname or "").is_loopback
        )
    except ValueError:
        return False


class _Still(urllib.request.HTTPRedirectHandler):
    """Goes nowhere else than where it was sent."""

    def redirect_request(self, *_: Any) -> None:
        return None


def asked(
    address: str,
    *,
    form: dict[str, str] | None = None,
    body: Any = None,
    media: str = "application/json",
    accept: str = "application/json",
    token: str = "",
) -> Reply:
    """Ask another server: a form or a ``body`` of ``media`` is posted. Raises OutsideError."""
    if not is_safe(address):
        raise OutsideError("the provider has to be asked over TLS")
    headers, data = {"Accept": accept}, None
    if form is not None:
        data = urllib.parse.urlencode(form).encode()
    elif body is not None:
        data, headers["Content-Type"] = json.dumps(body).encode(), media
    if token:
        headers["Authorization"] = f"Bearer {token}"
    request = urllib.request.Request(address, data=data, headers=headers)
    try:
        with urllib.request.build_opener(_Still).open(request, timeout=_TIMEOUT_S) as reply:
            text = reply.read(_LARGEST + 1)
            if len(text) > _LARGEST:
                raise ValueError("too large")
            return Reply(data=json.loads(text) if text else {}, next_page=_next(reply.headers.get("Link", "")))
    except urllib.error.HTTPError as error:
        with error:
            raise OutsideError(f"the provider does not answer as it should ({error.code})") from error
    except (OSError, ValueError, RecursionError) as error:
        raise OutsideError(f"the provider does not answer as it should ({type(error).__name__})") from error


def _next(link: str) -> str:
    """The address of the next page in a Link header (RFC 8288), "" where there is none."""
    for part in link.split(","):
        address, *words = part.split(";")
        if any(w.strip().replace('"', "").lower() == "rel=next" for w in words):
            return address.strip().strip("<>")
    return ""


class Keys:
    """The keys a server publishes; they are asked for again where a token names a new one."""

    def __init__(self, address: str) -> None:
        self._address = address
        self._known: dict[str, jwt.PyJWK] = {}
        self._one = threading.Lock()

    def of(self, token: str) -> jwt.PyJWK:
        """The key a token names. Raises OutsideError or jwt.PyJWTError."""
        name = str(jwt.get_unverified_header(token).get("kid", ""))
        with self._one:
            if name not in self._known:
                told = asked(self._address).data
                found = jwt.PyJWKSet.from_dict(told if isinstance(told, dict) else {}).keys
                self._known = {str(k.key_id or ""): k for k in found if k.public_key_use in ("sig", None)}
            if name not in self._known:
                raise OutsideError("the provider publishes no key of that name")
            return self._known[name]


def verified(token: str, keys: Keys, *, audience: str, issuer: str, nonce: str) -> dict[str, Any]:
    """The claims of a token that is signed by a published key, is for us, answers the question we asked (``nonce``),
    and is neither old nor early (OpenID Connect Core 1.0, section 3.1.3.7). Raises OutsideError.
    """
    try:
        claims: dict[str, Any] = jwt.decode(
            token,
            keys.of(token),
            algorithms=list(_ALGORITHMS),
            audience=audience,
            issuer=issuer,
            leeway=_LEEWAY_S,
            options={"require": ["exp", "iat", "iss", "aud", "sub"]},
        )
    except jwt.PyJWTError as error:
        raise OutsideError(f"the provider's token does not hold: {error}") from error
    if not secrets.compare_digest(str(claims.get("nonce", "")).encode(), nonce.encode()):
        raise OutsideError("the provider's token answers another log-in")
    if time.time() - claims["iat"] > _OLDEST_S:
        raise OutsideError("the provider's token is too old")
    if isinstance(claims["aud"], list) and len(claims["aud"]) > 1 and claims.get("azp") != audience:
        raise OutsideError("the provider's token is for somebody else")
    return claims
