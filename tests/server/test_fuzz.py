"""Every route with drawn input, by schemathesis from the API's own description: whatever comes, no server error."""

import json

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis.core import NotSet

from tests.server.conftest import Client
from wolfsbane.server.openapi import description

SCHEMA = schemathesis.openapi.from_dict(description())
OPERATIONS = [found.ok() for found in SCHEMA.get_all_operations()]
#: logging out would make the rest of the walk a walk of nobody
SKIPPED = {("delete", "/api/v1/session")}
EXAMPLES = 7
#: with no worker beside the test it is right to say that not everything is ready
NOT_READY = ("/health/ready", 503)


def given_body(body):
    return None if isinstance(body, NotSet) else body


@pytest.fixture
def answered(app, teacher, sheet):
    """A school with a marked sheet, so that small numbers in paths meet something."""
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    teacher.put(f"/papers/{code}/answers", {"call": 1, "answers": {"superheat": "12"}})
    return code


@pytest.mark.parametrize("role", ["teacher", "helper", "pupil"])
def test_no_drawn_request_breaks_the_server(app, answered, role):
    client, tried, asked = Client(app, role), set(), []

    def ask(operation, case):
        # Numbers drawn for a path would meet nothing: half of the time they name what is there.
        there = {"code": answered} | {
            name: 1
            for name in case.path_parameters or {}
            if name.endswith("_id") and name not in ("practice_id", "fault_id")
        }
        if len(asked) % 2:
            case.path_parameters = {
                name: there.get(name, value) for name, value in (case.path_parameters or {}).items()
            }
        path = case.formatted_path
        asked.append(path)
        reply = client._client.open(
            path,
            method=case.method,
            query_string=dict(case.query or {}),
            headers={"X-CSRF-Token": client.csrf},
            **({} if given_body(case.body) is None else {"json": case.body}),
        )
        tried.add((operation.method, operation.path))
        if (path, reply.status_code) == NOT_READY:
            assert reply.json["ready"] is False
            return
        assert reply.status_code < 500, (
            case.method,
            path,
            json.dumps(given_body(case.body), default=str)[:400],
            reply.get_data(as_text=True)[:300],
        )
        if reply.status_code >= 400:
            assert reply.json["error"]["code"] and reply.json["error"]["message"]

    def walk(operation):
        @settings(
            max_examples=EXAMPLES if role == "teacher" else 1,
            deadline=None,
            database=None,
            derandomize=True,
            suppress_health_check=list(HealthCheck),
        )
        @given(case=operation.as_strategy())
        def run(case):
            ask(operation, case)

        run()

    for operation in OPERATIONS:
        if (operation.method.lower(), operation.path) not in SKIPPED:
            walk(operation)
    assert len(tried) == len(OPERATIONS) - len(SKIPPED) > 80
