"""Log-in by a school's own provider, against a small one that ships with the tests: what holds opens the account that
was linked, and what is unsigned, replayed, late, early, for somebody else or answers something else opens nothing.
"""

import base64
import hashlib
import json
import threading
import time
import urllib.parse
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import jwt
import pytest
from cryptography.hazmat.primitives.asymmetric import rsa

from tests.server.conftest import Client
from wolfsbane.server.api import provider as routes
from wolfsbane.server.app import create_app
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.outside import is_safe

CLIENT, SECRET = "wolfsbane", "a secret of theirs"
KEYS = [rsa.generate_private_key(public_exponent=65537, key_size=2048) for _ in range(2)]


class Provider(ThreadingHTTPServer):
    """A provider: whoever comes is let in as ``subject``; ``spoil`` changes the claims, ``signed`` how it signs."""

    daemon_threads = True

    def begin(self):
        self.issuer = f"http://127.0.0.1:{self.server_address[1]}"
        self.subject, self.key, self.published = "u-17", 0, [0]
        self.spoil, self.signed = dict, "RS256"
        self.codes, self.told = {}, {}
        threading.Thread(target=self.serve_forever, daemon=True).start()
        return self

    def token(self, nonce):
        now = int(time.time())
        claims = {"iss": self.issuer, "aud": CLIENT, "sub": self.subject, "nonce": nonce, "iat": now, "exp": now + 300}
        claims |= self.spoil()
        key = {"none": None, "HS256": SECRET * 3}.get(self.signed, KEYS[self.key])
        return jwt.encode(claims, key, algorithm=self.signed, headers={"kid": str(self.key)})


class Answer(BaseHTTPRequestHandler):
    def say(self, data):
        text = json.dumps(data).encode()
        self.send_response(200)
        self.send_header("Content-Length", str(len(text)))
        self.end_headers()
        self.wfile.write(text)

    def do_GET(self):  # noqa: N802
        at = self.server.issuer
        if self.path.endswith("openid-configuration"):
            ends = {name: f"{at}/{name}" for name in ("authorization_endpoint", "token_endpoint", "jwks_uri")}
            return self.say({"issuer": at, **ends, **self.server.told})
        keys = [
            json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(KEYS[n].public_key())) | {"kid": str(n), "use": "sig"}
            for n in self.server.published
        ]
        return self.say({"keys": keys})

    def do_POST(self):  # noqa: N802
        form = dict(urllib.parse.parse_qsl(self.rfile.read(int(self.headers["Content-Length"])).decode()))
        asked = self.server.codes.pop(form["code"], None)
        if asked is None or form["client_secret"] != SECRET:
            self.send_error(400)
            return None
        challenge = base64.urlsafe_b64encode(hashlib.sha256(form["code_verifier"].encode()).digest())
        assert (
            challenge.rstrip(b"=").decode() == asked["code_challenge"] and form["redirect_uri"] == asked["redirect_uri"]
        )
        return self.say({"id_token": self.server.token(asked["nonce"])})

    def log_message(self, *_):
        pass


@pytest.fixture
def provider():
    server = Provider(("127.0.0.1", 0), Answer).begin()
    routes._provider_at.cache_clear()
    yield server
    server.shutdown()
    server.server_close()


@pytest.fixture
def app(app, db, database_url, provider):
    settings = {
        "WOLFSBANE_DATABASE_URL": database_url,
        "WOLFSBANE_SLOW_PROCESSES": "0",
        "WOLFSBANE_OIDC_ISSUER": provider.issuer,
        "WOLFSBANE_OIDC_CLIENT": CLIENT,
        "WOLFSBANE_OIDC_SECRET": SECRET,
    }
    return create_app(from_environment(settings), db)


def sent(client, link=False):
    """Where somebody is sent, as the provider reads it."""
    out = client._client.get(f"/api/v1/session/provider{'?link=true' if link else ''}")
    assert out.status_code == 302, out.json
    return dict(urllib.parse.parse_qsl(urllib.parse.urlsplit(out.headers["Location"]).query))


def back(client, provider, asked, code="c-1", **changes):
    provider.codes[code] = asked
    query = urllib.parse.urlencode({"code": code, "state": asked["state"], **changes})
    return client._client.get(f"/api/v1/session/provider/back?{query}").headers["Location"]


def through(client, provider, link=False):
    return back(client, provider, sent(client, link))


def who(client):
    user = client.get("/session").json["user"]
    return user and user["login"]


@pytest.fixture
def linked(app, teacher, provider):
    assert through(teacher, provider, link=True) == "/password"
    return teacher


def test_whoever_linked_their_account_logs_in_and_nobody_else(app, linked, provider, nobody):
    assert nobody.get("/session").json["provider"] == "the school's log-in"
    assert linked.get("/session/provider/linked").json == {"there": True, "linked": True}
    assert through(nobody, provider) == "/" and who(nobody) == "teacher"
    provider.subject = "u-18"
    other = Client(app)
    assert through(other, provider) == "/#provider_unknown" and who(other) is None
    csrf = linked.get("/session").json["csrf"]
    linked.csrf = csrf
    assert linked.delete("/session/provider/linked").json == {"there": True, "linked": False}
    provider.subject = "u-17"
    assert through(other, provider) == "/#provider_unknown"


def test_an_identity_opens_one_account(app, linked, provider, helper):
    assert through(helper, provider, link=True) == "/password#provider_taken"
    assert sent(linked, link=True) and Client(app)._client.get("/api/v1/session/provider?link=true").status_code == 401


def test_a_question_is_asked_in_the_form_of_the_standard(app, provider, nobody):
    asked = sent(nobody)
    assert asked["response_type"] == "code" and asked["scope"] == "openid" and asked["code_challenge_method"] == "S256"
    assert asked["client_id"] == CLIENT and asked["redirect_uri"].endswith("/api/v1/session/provider/back")
    assert len({sent(nobody)["state"], sent(nobody)["nonce"], asked["state"], asked["nonce"]}) == 4


SPOILED = {
    "late": lambda: {"exp": int(time.time()) - 120},
    "kept too long": lambda: {"iat": int(time.time()) - 3600},
    "early": lambda: {"nbf": int(time.time()) + 3600},
    "for somebody else": lambda: {"aud": "another"},
    "for several": lambda: {"aud": [CLIENT, "another"]},
    "of somebody else": lambda: {"iss": "http://127.0.0.1:1"},
    "of another log-in": lambda: {"nonce": "x"},
    "of nobody": lambda: {"sub": None},
}


@pytest.mark.parametrize("how", SPOILED)
def test_a_token_that_does_not_hold_opens_nothing(linked, provider, nobody, how):
    provider.spoil = SPOILED[how]
    assert through(nobody, provider) == "/#provider" and who(nobody) is None


@pytest.mark.parametrize("signed", ["none", "HS256"])
def test_a_token_that_is_not_signed_by_a_key_of_theirs_opens_nothing(linked, provider, nobody, signed):
    provider.signed = signed
    assert through(nobody, provider) == "/#provider" and who(nobody) is None


def test_keys_rotate(linked, provider, nobody):
    provider.key = 1
    assert through(nobody, provider) == "/#provider", "a key that is not published"
    provider.published = [0, 1]
    assert through(nobody, provider) == "/" and who(nobody) == "teacher"


def test_an_answer_counts_once_and_in_the_browser_that_asked(app, linked, provider, nobody):
    asked = sent(nobody)
    thief = Client(app)
    assert back(thief, provider, asked) == "/#provider_stale" and who(thief) is None, "begun somewhere else"
    assert back(nobody, provider, asked, state="another") == "/#provider_stale"
    asked = sent(nobody)
    nobody_cookie = nobody._client.get_cookie("wolfsbane_provider", path="/api/v1/session/provider").value
    assert back(nobody, provider, asked) == "/"
    replay = Client(app)
    replay._client.set_cookie("wolfsbane_provider", nobody_cookie, path="/api/v1/session/provider")
    assert back(replay, provider, asked) == "/#provider_stale" and who(replay) is None
    assert replay._client.get("/api/v1/session/provider/back?error=access_denied").headers["Location"] == (
        "/#provider_refused"
    )


def test_a_provider_that_is_not_what_it_says_is_not_used(app, provider, nobody):
    provider.told = {"issuer": "http://127.0.0.1:1"}
    assert nobody._client.get("/api/v1/session/provider").status_code == 400
    provider.told = {"authorization_endpoint": "http://provider.example/in"}
    routes._provider_at.cache_clear()
    assert nobody._client.get("/api/v1/session/provider").status_code == 400, "not over TLS"


def test_settings_of_a_provider_are_given_together(stock, db, database_url):
    with pytest.raises(SettingError, match="WOLFSBANE_OIDC_CLIENT"):
        from_environment({"WOLFSBANE_OIDC_ISSUER": "https://provider.example"})
    assert [is_safe(a) for a in ("https://x.example/a", "http://127.0.0.1:1", "http://x.example", "ftp://x")] == [
        True,
        True,
        False,
        False,
    ]
