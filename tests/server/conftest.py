"""An application on a fresh database, two schools, and clients logged in as each role.

Sheets that many tests need are issued and built once, in a database that each of those tests gets a copy of.
"""

import secrets

import psycopg
import pytest
from argon2 import PasswordHasher

from tests.conftest import ORIFICE, VALVE
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.server.app import create_app
from wolfsbane.server.core import security
from wolfsbane.server.core.config import from_environment
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.services import building

#: a password costs a test next to nothing; what the product spends on one is tested in test_security.py
CHEAP = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
HASH = CHEAP.hash("right")
WEATHER = {"outdoor_db_f": 93, "return_db_f": 78, "return_wb_f": 65.5}
SCENARIO = {"title": "Runs all afternoon", "machine": VALVE, "fault": "undercharge", "severity": 80, **WEATHER}
OTHER = {
    "title": "No air",
    "machine": ORIFICE,
    "fault": "low_airflow",
    "severity": 46,
    "instruments": "digital",
    **WEATHER,
}


class Client:
    """A test client that sends the CSRF token the server gave it."""

    def __init__(self, app, login=None):
        self._client = app.test_client()
        self.csrf = self._client.get("/api/v1/session").json["csrf"]
        if login:
            reply = self.post("/session", {"login": login, "password": "right"})
            assert reply.status_code == 200, reply.json
            self.csrf = reply.json["csrf"]

    def call(self, method, path, body=None, csrf=None):
        headers = {"X-CSRF-Token": self.csrf if csrf is None else csrf}
        return self._client.open(f"/api/v1{path}", method=method, json=body, headers=headers)

    def log_in(self, login, password, **more):
        """Log in, and go on with the token that comes back; the reply."""
        reply = self.post("/session", {"login": login, "password": password, **more})
        self.csrf = reply.json.get("csrf", self.csrf)
        return reply

    def choose(self, login, given, own):
        """The first log-in with a password that somebody gave: choose another."""
        assert self.log_in(login, given).json["user"]["must_change"] is True
        reply = self.put("/session/password", {"old": given, "password": own})
        assert reply.status_code == 200, reply.json
        self.csrf = reply.json["csrf"]
        return self

    def get(self, path):
        return self.call("GET", path)

    def post(self, path, body):
        return self.call("POST", path, body)

    def put(self, path, body):
        return self.call("PUT", path, body)

    def put_bytes(self, path, data, media):
        headers = {"X-CSRF-Token": self.csrf}
        return self._client.open(f"/api/v1{path}", method="PUT", data=data, content_type=media, headers=headers)

    def delete(self, path):
        return self.call("DELETE", path)


@pytest.fixture(autouse=True)
def cheap_passwords(monkeypatch):
    """Passwords made during a test are as cheap as the one everybody has."""
    monkeypatch.setattr(security, "_hasher", CHEAP)
    security._dummy_hash.cache_clear()
    yield
    security._dummy_hash.cache_clear()


def found_schools(db):
    """Two schools with somebody of each role."""
    with db.transaction() as connection:
        for school, names in (("Test School", ("teacher", "pupil", "helper")), ("Other School", ("stranger",))):
            school_id = queries.school_add(connection, name=school, time_zone="UTC")["id"]
            for name in names:
                queries.user_add(
                    connection,
                    school_id=school_id,
                    login=name,
                    name=name.title(),
                    role={"pupil": "apprentice", "helper": "assistant"}.get(name, "instructor"),
                    password_hash=HASH,
                )


def application(db, url):
    """The application as the tests configure it."""
    settings = {"WOLFSBANE_DATABASE_URL": url, "WOLFSBANE_LOGIN_LIMIT": "3", "WOLFSBANE_SLOW_PROCESSES": "0"}
    return create_app(from_environment(settings), db)


def issued(app, teacher, body):
    """The id of a sheet that is issued and built."""
    made = teacher.post("/sheets", body)
    assert made.status_code == 201, made.json
    build(app, made.json["id"])
    return made.json["id"]


def issue_sheet(app, teacher):
    """Two calls for three apprentices."""
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": THREE}).json["id"]
    ids = [teacher.post("/scenarios", body).json["id"] for body in (SCENARIO, OTHER)]
    return issued(
        app, teacher, {"title": "Friday", "class_id": class_id, "scenario_ids": ids, "units": "us", "seed": 7}
    )


def issue_mixed(app, teacher):
    """A drill, a fault on a rig and a call with free text, for three."""
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": THREE}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO).json["id"]
    on_rig = {"title": "Board on the face", "machine": VALVE, "fault": "dirty_condenser", "severity": 60, **WEATHER}
    rig_id = teacher.post("/scenarios", on_rig).json["id"]
    asked = {"parts": ["diagnose", "because"], "tests": ["standing_pressure"]}
    items = [
        {"kind": "drill", "drill": "conversion", "items": 3, "brief": {"title": "x"}},
        {"kind": "rig", "scenario_id": rig_id},
        {"kind": "scenario", "scenario_id": scenario_id, "asked": asked},
    ]
    return issued(app, teacher, {"title": "Mixed", "class_id": class_id, "seed": 5, "items": items})


def issue_many(app, teacher):
    """One short call for thirteen: more than is printed while somebody waits."""
    class_id = teacher.post("/classes", {"name": "Many", "apprentices": [f"P {i}" for i in range(13)]}).json["id"]
    scenario_id = teacher.post("/scenarios", SCENARIO | {"instruments": "digital"}).json["id"]
    items = [{"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}]
    return issued(app, teacher, {"title": "Many", "class_id": class_id, "seed": 3, "items": items})


def issue_situations(app, teacher):
    """Three situations for three."""
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": THREE}).json["id"]
    kinds = ("standing_pressure", "by_pressure", "winter_receiver")
    items = [{"kind": "situation", "situation": kind, "brief": {"title": "x"}} for kind in kinds]
    return issued(app, teacher, {"title": "Situations", "class_id": class_id, "seed": 4, "items": items})


THREE = ["Ada Quill", "Bo Fenn", "Cy Marl"]
#: fixture of a ready sheet -> what issues it
SHEETS = {"sheet": issue_sheet, "mixed": issue_mixed, "many": issue_many, "situations": issue_situations}


@pytest.fixture(scope="session")
def prepared(postgres, template):
    """``prepared(names)`` -> (database with two schools and these sheets built, {name: id}), made when first asked."""
    made = {}

    def of(names):
        if names not in made:
            database, ids = f"prepared_{len(made)}", {}
            with psycopg.connect(postgres.url("postgres"), autocommit=True) as connection:
                connection.execute(f"create database {database} template {template}")
            db = Database(postgres.url(database), size=4).open()
            try:
                found_schools(db)
                app = application(db, postgres.url(database))
                for name in names:
                    ids[name] = SHEETS[name](app, Client(app, "teacher"))
                with db.transaction() as connection:
                    connection.execute("delete from sessions")
            finally:
                db.close()
            made[names] = database, ids
        return made[names]

    return of


@pytest.fixture
def stock(request, prepared):
    """(database, ids of ready sheets) that this test is given a copy of."""
    return prepared(tuple(name for name in SHEETS if name in request.fixturenames))


@pytest.fixture
def database_url(request, postgres, template):
    """Address of a fresh migrated database, with schools and sheets in it where the test works on the application."""
    source = request.getfixturevalue("stock")[0] if "app" in request.fixturenames else template
    name = f"t{secrets.token_hex(6)}"
    with psycopg.connect(postgres.url("postgres"), autocommit=True) as connection:
        connection.execute(f"create database {name} template {source}")
    yield postgres.url(name)
    with psycopg.connect(postgres.url("postgres"), autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


@pytest.fixture
def app(db, database_url):
    return application(db, database_url)


@pytest.fixture
def teacher(app):
    return Client(app, "teacher")


@pytest.fixture
def pupil(app):
    return Client(app, "pupil")


@pytest.fixture
def helper(app):
    """An assistant marker."""
    return Client(app, "helper")


@pytest.fixture
def stranger(app):
    return Client(app, "stranger")


@pytest.fixture
def nobody(app):
    return Client(app)


@pytest.fixture
def sheet(stock, teacher):
    """A ready sheet of two calls for three apprentices: the row of the API."""
    return teacher.get(f"/sheets/{stock[1]['sheet']}").json


@pytest.fixture
def mixed(stock, teacher):
    """A ready sheet of a drill, a fault on a rig and a call with free text, for three."""
    return teacher.get(f"/sheets/{stock[1]['mixed']}").json


@pytest.fixture
def situations(stock, teacher):
    """A ready sheet of three situations for three."""
    return teacher.get(f"/sheets/{stock[1]['situations']}").json


@pytest.fixture
def many(stock, teacher):
    """A ready sheet of one short call for thirteen."""
    return teacher.get(f"/sheets/{stock[1]['many']}").json


def build(app, sheet_id):
    """Draw and freeze a sheet; its documents are printed when a test asks for them."""
    with database_of(app).transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    building.build(database_of(app), school_id, sheet_id, {})


def bodies(app, code):
    """The frozen bodies of a paper, in order."""
    with database_of(app).transaction() as connection:
        paper = connection.execute("select id from papers where code = %s", (code,)).fetchone()
        return [
            frozen_body.body_from_json(r["body"]) for r in queries.paper_call_list(connection, paper_id=paper["id"])
        ]


def codes(teacher, sheet):
    """The codes of a sheet's papers, in the order of the class."""
    return [r["code"] for r in teacher.get(f"/sheets/{sheet['id']}/results").json["rows"]]


def as_key(app, code, call=1, **changes):
    """The answers of the key of one call, with changes."""
    return frozen_body.key_answers(bodies(app, code)[call - 1]) | changes
