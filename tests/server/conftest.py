"""An application on a fresh database, two schools, and clients logged in as each role."""

import pytest

from tests.conftest import ORIFICE, VALVE
from wolfsbane.server.app import create_app
from wolfsbane.server.core.config import from_environment
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.security import hash_password
from wolfsbane.server.services import building

HASH = hash_password("right")
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

    def get(self, path):
        return self.call("GET", path)

    def post(self, path, body):
        return self.call("POST", path, body)

    def put(self, path, body):
        return self.call("PUT", path, body)

    def delete(self, path):
        return self.call("DELETE", path)


@pytest.fixture
def app(db, database_url):
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
    return create_app(from_environment({"WOLFSBANE_DATABASE_URL": database_url, "WOLFSBANE_LOGIN_LIMIT": "3"}), db)


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
def sheet(app, teacher):
    """An issued and built sheet of two calls for three apprentices: the row of the API."""
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada Quill", "Bo Fenn", "Cy Marl"]}).json[
        "id"
    ]
    ids = [teacher.post("/scenarios", body).json["id"] for body in (SCENARIO, OTHER)]
    made = teacher.post(
        "/sheets", {"title": "Friday", "class_id": class_id, "scenario_ids": ids, "units": "us", "seed": 7}
    )
    assert made.status_code == 201, made.json
    build(app, made.json["id"])
    return teacher.get(f"/sheets/{made.json['id']}").json


def build(app, sheet_id):
    """Draw and freeze a sheet; its documents are printed when a test asks for them."""
    with app.db.transaction() as connection:
        school_id = queries.school_by_name(connection, name="Test School")["id"]
    building.build(app.db, school_id, sheet_id, {})
