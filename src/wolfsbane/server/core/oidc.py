"""Log-in by a school's own provider: OpenID Connect, authorization code with PKCE (OpenID Connect Core 1.0, RFC 7636).

What a token says counts only when it is signed by a key the provider publishes, is for us, answers the question we
asked (nonce), and is neither old nor early. An identity opens the account that its owner linked it with; names and
addresses in a token open nothing.
"""

from __future__ import annotations

import base64
import hashlib
import ipaddress
import json
import secrets
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass
from typing import Any

import jwt

from wolfsbane.server.core.errors import ApiError

_TIMEOUT_S, _KEPT_S, _LARGEST = 10.0, 3600.0, 200_000
#: never HS256: the secret we share is no key of theirs
_ALGORITHMS = ("RS256", "ES256", "PS256")
#: clocks may differ so much, s; a token is older than this only where somebody kept it, s
_LEEWAY_S, _OLDEST_S = 60, 600


class ProviderError(ApiError):
    """The provider, or what came from it, cannot be used."""

    def __init__(self, why: str, code: str = "provider") -> None:
        super().__init__(400, code, why)


@dataclass(frozen=True, kw_only=True)
class Question:
    """What one log-in is asked with: kept here until the answer comes."""

    state: str
    nonce: str
    verifier: str


def new_question() -> Question:
    """A log-in that begins."""
    return Question(
        state=secrets.token_urlsafe(32), nonce=secrets.token_urlsafe(24), verifier=secrets.token_urlsafe(48)
    )


class Provider:
    """One provider, by its issuer address; what it says of itself is asked once an hour."""

    def __init__(self, issuer: str, client_id: str, secret: str) -> None:
        self.issuer, self.client_id, self._secret = issuer.rstrip("/"), client_id, secret
        self._told: dict[str, Any] = {}
        self._asked = 0.0
        self._keys: jwt.PyJWKClient | None = None

    def address(self, question: Question, back: str) -> str:
        """Where the browser is sent. Raises ProviderError."""
        challenge = base64.urlsafe_b64encode(hashlib.sha256(question.verifier.encode()).digest()).rstrip(b"=")
        asked = {
            "response_type": "code",
            "client_id": self.client_id,
            "redirect_uri": back,
            "scope": "openid",
            "state": question.state,
            "nonce": question.nonce,
            "code_challenge": challenge.decode(),
            "code_challenge_method": "S256",
        }
        return f"{self._known('authorization_endpoint')}?{urllib.parse.urlencode(asked)}"

    def subject(self, code: str, nonce: str, verifier: str, back: str) -> str:
        """Who came back with a code. Raises ProviderError for anything that does not hold."""
        form = {
            "grant_type": "authorization_code",
            "code": code,
            "redirect_uri": back,
            "client_id": self.client_id,
            "client_secret": self._secret,
            "code_verifier": verifier,
        }
        reply = _fetched(self._known("token_endpoint"), urllib.parse.urlencode(form).encode())
        token = reply.get("id_token")
        if not isinstance(token, str):
            raise ProviderError("the provider sent no token")
        try:
            key = self._key_of(token)
            claims = jwt.decode(
                token,
                key,
                algorithms=list(_ALGORITHMS),
                audience=self.client_id,
                issuer=str(self._told["issuer"]),
                leeway=_LEEWAY_S,
                options={"require": ["exp", "iat", "iss", "aud", "sub"]},
            )
        except jwt.PyJWTError as error:
            raise ProviderError(f"the provider's token does not hold: {error}") from error
        if not secrets.compare_digest(str(claims.get("nonce", "")).encode(), nonce.encode()):
            raise ProviderError("the provider's token answers another log-in")
        if time.time() - claims["iat"] > _OLDEST_S:
            raise ProviderError("the provider's token is too old")
        if isinstance(claims["aud"], list) and len(claims["aud"]) > 1 and claims.get("azp") != self.client_id:
            raise ProviderError("the provider's token is for somebody else")
        return str(claims["sub"])

    def _key_of(self, token: str) -> jwt.PyJWK:
        """The published key a token names; keys are asked for again where it is a new one."""
        if self._keys is not None:
            try:
                return self._keys.get_signing_key_from_jwt(token)
            except jwt.PyJWKClientError:
                pass
        self._keys = jwt.PyJWKClient(self._known("jwks_uri"), timeout=int(_TIMEOUT_S))
        return self._keys.get_signing_key_from_jwt(token)

    def _known(self, name: str) -> str:
        if not self._told or time.monotonic() - self._asked > _KEPT_S:
            told = _fetched(f"{self.issuer}/.well-known/openid-configuration")
            if str(told.get("issuer", "")).rstrip("/") != self.issuer:
                raise ProviderError("the provider calls itself by another address than WOLFSBANE_OIDC_ISSUER")
            self._told, self._asked, self._keys = told, time.monotonic(), None
        found = self._told.get(name)
        if not isinstance(found, str) or not is_safe(found):
            raise ProviderError(f"the provider names no {name} that can be used")
        return found


def is_safe(address: str) -> bool:
    """Whether an address may be asked: over TLS, or on this machine."""
    parts = urllib.parse.urlsplit(address)
    if parts.scheme == "https":
        return bool(parts.hostname)
    try:
        return parts.scheme == "http" and ipaddress.ip_address(parts.hostname or "").is_loopback
    except ValueError:
        return parts.scheme == "http" and parts.hostname == "localhost"


class _Still(urllib.request.HTTPRedirectHandler):
    """Goes nowhere else than where it was sent."""

    def redirect_request(self, *_: Any) -> None:
        return None


def _fetched(address: str, form: bytes | None = None) -> dict[str, Any]:
    if not is_safe(address):
        raise ProviderError("the provider has to be asked over TLS")
    request = urllib.request.Request(address, data=form, headers={"Accept": "application/json"})
    try:
        with urllib.request.build_opener(_Still).open(request, timeout=_TIMEOUT_S) as reply:
            found = json.loads(reply.read(_LARGEST))
    except (OSError, ValueError, RecursionError) as error:
        raise ProviderError(f"the provider does not answer as it should ({type(error).__name__})") from error
    if not isinstance(found, dict):
        raise ProviderError("the provider does not answer as it should")
    return found
