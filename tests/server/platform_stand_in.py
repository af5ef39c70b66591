"""A learning platform that ships with the tests: it launches, lists names and takes points, and can be made to lie."""

import json
import re
import threading
import time
import urllib.parse
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import jwt
from cryptography.hazmat.primitives.asymmetric import rsa

CLIENT, DEPLOYMENT, COURSE = "wolfsbane-at-harrow", "d-1", "course-9"
CLAIM = "https://purl.imsglobal.org/spec/lti/claim/"
MEMBERSHIP = "http://purl.imsglobal.org/vocab/lis/v2/membership#"
KEYS = [rsa.generate_private_key(public_exponent=65537, key_size=2048) for _ in range(2)]


class LearningPlatform(ThreadingHTTPServer):
    """``people`` are who is in the course, by subject; ``spoil`` changes the claims of a launch."""

    daemon_threads = True

    def begin(self):
        self.issuer = f"http://127.0.0.1:{self.server_address[1]}"
        self.key, self.published, self.signed = 0, [0], "RS256"
        self.spoil = dict
        self.tool_keys, self.used, self.tokens = {"keys": []}, set(), {}
        self.people = {
            "u-1": {"name": "Ada Quill", "role": "Instructor"},
            "u-2": {"name": "Bo Fenn", "role": "Learner", "lis_person_sourcedid": "4711"},
            "u-3": {"name": "Cy Thorne", "role": "Learner"},
            "u-4": {"name": "Dot Marl", "role": "Learner", "status": "Inactive"},
        }
        self.page_size, self.next_host, self.refused = 2, "", set()
        self.items, self.scores = [], []
        threading.Thread(target=self.serve_forever, daemon=True).start()
        return self

    def entered(self):
        """What an instructor types in."""
        return {
            "name": "Harrow courses",
            "issuer": self.issuer,
            "client_id": CLIENT,
            "deployments": [DEPLOYMENT],
            "login_url": f"{self.issuer}/login",
            "token_url": f"{self.issuer}/token",
            "keys_url": f"{self.issuer}/keys",
        }

    def launch(self, subject, asked, target="http://localhost/"):
        """The token with which the platform answers what it was ``asked``."""
        now = int(time.time())
        claims = {
            "iss": self.issuer,
            "aud": CLIENT,
            "sub": subject,
            "nonce": asked["nonce"],
            "iat": now,
            "exp": now + 300,
            "name": self.people[subject]["name"],
            f"{CLAIM}version": "1.3.0",
            f"{CLAIM}message_type": "LtiResourceLinkRequest",
            f"{CLAIM}deployment_id": DEPLOYMENT,
            f"{CLAIM}target_link_uri": target,
            f"{CLAIM}resource_link": {"id": "link-1"},
            f"{CLAIM}roles": [MEMBERSHIP + self.people[subject]["role"]],
            f"{CLAIM}context": {"id": COURSE, "title": "HVAC 201"},
            f"{CLAIM}lis": {"person_sourcedid": self.people[subject].get("lis_person_sourcedid", "")},
            "https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice": {
                "context_memberships_url": f"{self.issuer}/members"
            },
            "https://purl.imsglobal.org/spec/lti-ags/claim/endpoint": {
                "scope": [f"https://purl.imsglobal.org/spec/lti-ags/scope/{s}" for s in ("lineitem", "score")],
                "lineitems": f"{self.issuer}/items?course=9",
            },
        }
        claims |= self.spoil()
        key = {"none": None, "HS256": "a secret of some length, known to both sides"}.get(self.signed, KEYS[self.key])
        return jwt.encode(claims, key, algorithm=self.signed, headers={"kid": str(self.key)})

    def admit(self, form):
        """A token for whoever signs with a key that the tool publishes, once."""
        assertion = form["client_assertion"]
        name = jwt.get_unverified_header(assertion)["kid"]
        key = next(k for k in jwt.PyJWKSet.from_dict(self.tool_keys).keys if k.key_id == name)
        claims = jwt.decode(assertion, key, algorithms=["RS256"], audience=f"{self.issuer}/token", issuer=CLIENT)
        assert claims["sub"] == CLIENT and claims["jti"] not in self.used
        self.used.add(claims["jti"])
        token = f"t-{len(self.tokens)}"
        self.tokens[token] = form["scope"]
        return token


class Answer(BaseHTTPRequestHandler):
    def say(self, data, status=200, **headers):
        text = json.dumps(data).encode()
        self.send_response(status)
        for name, value in headers.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(text)))
        self.end_headers()
        self.wfile.write(text)

    def admitted(self, scope):
        return scope in self.server.tokens.get(self.headers.get("Authorization", "")[7:], "")

    def do_GET(self):  # noqa: N802
        at, parts = self.server, urllib.parse.urlsplit(self.path)
        query = dict(urllib.parse.parse_qsl(parts.query))
        if parts.path == "/keys":
            rows = [
                json.loads(jwt.algorithms.RSAAlgorithm.to_jwk(KEYS[n].public_key())) | {"kid": str(n), "use": "sig"}
                for n in at.published
            ]
            return self.say({"keys": rows})
        if parts.path == "/members" and self.admitted("contextmembership"):
            first = int(query.get("from", 0))
            rows = [
                {"user_id": who, "status": p.get("status", "Active"), **p, "roles": [p["role"]]}
                for who, p in at.people.items()
            ]
            more = first + at.page_size
            link = f'<{at.next_host or at.issuer}/members?from={more}>; rel="next"' if more < len(rows) else ""
            return self.say({"members": rows[first:more]}, Link=link)
        if parts.path == "/items" and self.admitted("lineitem"):
            return self.say([i for i in at.items if i["resourceId"] == query.get("resource_id")])
        return self.say({}, 401)

    def do_POST(self):  # noqa: N802
        at, parts = self.server, urllib.parse.urlsplit(self.path)
        text = self.rfile.read(int(self.headers["Content-Length"])).decode()
        if parts.path == "/token":
            return self.say({"access_token": at.admit(dict(urllib.parse.parse_qsl(text)))})
        if parts.path == "/items" and self.admitted("lineitem"):
            at.items.append(json.loads(text) | {"id": f"{at.issuer}/items/{len(at.items)}?course=9"})
            return self.say(at.items[-1], 201)
        scored = re.fullmatch(r"/items/(\d+)/scores", parts.path)
        if scored and self.admitted("/score") and parts.query == "course=9":
            score = json.loads(text)
            if score["userId"] in at.refused:
                return self.say({}, 404)
            at.scores.append((int(scored[1]), score))
            return self.say({}, 200)
        return self.say({}, 401)

    def log_message(self, *_):
        pass
