"""Log-in by a school's own provider: OpenID Connect, authorization code with PKCE (OpenID Connect Core 1.0, RFC 7636).

An identity opens the account that its owner linked it with; names and addresses in a token open nothing.
"""

from __future__ import annotations

import base64
import hashlib
import secrets
import time
import urllib.parse
from dataclasses import dataclass
from typing import Any

from wolfsbane.server.core.outside import Keys, OutsideError, asked, is_safe, verified

_KEPT_S = 3600.0


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
        self._keys: Keys | None = None

    def address(self, question: Question, back: str) -> str:
        """Where the browser is sent. Raises OutsideError."""
        challenge = base64.urlsafe_b64encode(hashlib.sha256(question.verifier.encode()).digest()).rstrip(b"=")
        form = {
            "response_type": "code",
            "client_id": self.client_id,
            "redirect_uri": back,
            "scope": "openid",
            "state": question.state,
            "nonce": question.nonce,
            "code_challenge": challenge.decode(),
            "code_challenge_method": "S256",
        }
        return f"{self._known('authorization_endpoint')}?{urllib.parse.urlencode(form)}"

    def subject(self, code: str, nonce: str, verifier: str, back: str) -> str:
        """Who came back with a code. Raises OutsideError for anything that does not hold."""
        form = {
            "grant_type": "authorization_code",
            "code": code,
            "redirect_uri": back,
            "client_id": self.client_id,
            "client_secret": self._secret,
            "code_verifier": verifier,
        }
        reply = asked(self._known("token_endpoint"), form=form).data
        token = reply.get("id_token") if isinstance(reply, dict) else None
        if not isinstance(token, str):
            raise OutsideError("the provider sent no token")
        if self._keys is None:
            self._keys = Keys(self._known("jwks_uri"))
        claims = verified(token, self._keys, audience=self.client_id, issuer=str(self._told["issuer"]), nonce=nonce)
        return str(claims["sub"])

    def _known(self, name: str) -> str:
        if not self._told or time.monotonic() - self._asked > _KEPT_S:
            told = asked(f"{self.issuer}/.well-known/openid-configuration").data
            if not isinstance(told, dict) or str(told.get("issuer", "")).rstrip("/") != self.issuer:
                raise OutsideError("the provider calls itself by another address than WOLFSBANE_OIDC_ISSUER")
            self._told, self._asked, self._keys = told, time.monotonic(), None
        found = self._told.get(name)
        if not isinstance(found, str) or not is_safe(found):
            raise OutsideError(f"the provider names no {name} that can be used")
        return found
