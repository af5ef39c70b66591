"""Every route as every role, from the first day: refused by default."""

import pytest

from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.security import ANYONE

PUBLIC = {
    ("GET", "/api/v1/session"),
    ("POST", "/api/v1/session"),
    ("POST", "/api/v1/session/welcome"),
    ("PUT", "/api/v1/session/welcome"),
    ("GET", "/api/v1/session/provider"),
    ("GET", "/api/v1/session/provider/back"),
    ("GET", "/api/v1/lti/start"),
    ("POST", "/api/v1/lti/start"),
    ("POST", "/api/v1/lti/launch"),
    ("GET", "/api/v1/lti/in"),
    ("GET", "/api/v1/lti/keys"),
    ("GET", "/api/v1/projected"),
    ("GET", "/api/v1/lessons/seen"),
    ("POST", "/api/v1/rigs/1/samples"),
}
SAMPLES = {
    "rig_id": "1",
    "session_id": "1",
    "setting_id": "1",
    "cylinder_id": "1",
    "move_id": "1",
    "device": "bypass",
    "projection_id": "1",
    "version": "1",
    "practice_id": "own-x",
    "fault_id": "undercharge",
    "refrigerant": "R-22",
    "scenario_id": "1",
    "class_id": "1",
    "sheet_id": "1",
    "kind": "packet",
    "code": "ABCDEF",
    "name": "x.js",
    "account_id": "1",
    "platform_id": "1",
    "run_id": "1",
    "lesson_id": "1",
    "paper_call_id": "1",
    "platform_course_id": "1",
    "apprentice_id": "1",
    "page": "1",
    "position": "1",
    "place_id": "99999",
    "format": "csv",
}


def routes(app):
    for rule in app.url_map.iter_rules():
        path = rule.rule
        for name, value in SAMPLES.items():
            path = (
                path.replace(f"<int:{name}>", value)
                .replace(f"<string:{name}>", value)
                .replace(f"<path:{name}>", value)
                .replace(f"<{name}>", value)
            )
        for method in rule.methods - {"HEAD", "OPTIONS"}:
            yield method, path, rule.endpoint


def statuses(app, client):
    """Status by (method, path); logging out is left to the end so that the others are asked as the same user."""
    found = {}
    for method, path, _ in sorted(routes(app), key=lambda r: r[0] == "DELETE" and r[1].endswith("/session")):
        if path.startswith("/api/v1/") and "openapi" not in path:
            found[(method, path)] = client.call(method, path.removeprefix("/api/v1"), {}).status_code
    return found


def test_every_api_route_declares_its_roles(app):
    for _, path, endpoint in routes(app):
        if path.startswith("/api/"):
            allowed = getattr(app.view_functions[endpoint], "allowed_roles", None)
            assert allowed or "openapi" in path, path


def test_somebody_not_logged_in_reaches_nothing_but_the_log_in(app, nobody):
    for route, status in statuses(app, nobody).items():
        assert (status != 401) == (route in PUBLIC), (route, status)


def charts(app):
    return {(m, p) for m, p, _ in routes(app) if p.startswith("/api/v1/reference/") and "/faults/" not in p}


MINE = {
    ("GET", "/api/v1/mine"),
    ("GET", "/api/v1/mine/ABCDEF"),
    ("GET", "/api/v1/lab/mine"),
    ("GET", "/api/v1/lab/mine/1"),
    ("POST", "/api/v1/lab/mine/1/events"),
    ("GET", "/api/v1/lab/mine/skills"),
    ("GET", "/api/v1/screen/mine"),
    ("POST", "/api/v1/screen/mine/1/begin"),
    ("GET", "/api/v1/screen/mine/runs/1"),
    ("POST", "/api/v1/screen/mine/runs/1/steps"),
    ("GET", "/api/v1/lessons/mine"),
    ("PUT", "/api/v1/session/language"),
    ("PUT", "/api/v1/lessons/mine/1/vote"),
}
#: what everybody does with their own log-in
OWN = {
    ("DELETE", "/api/v1/session"),
    ("PUT", "/api/v1/session/password"),
    ("GET", "/api/v1/session/places"),
    ("DELETE", "/api/v1/session/places"),
    ("GET", "/api/v1/session/provider/linked"),
    ("DELETE", "/api/v1/session/provider/linked"),
    ("DELETE", "/api/v1/session/places/99999"),
    ("POST", "/api/v1/session/second-factor/off"),
}
#: what an assistant may do: see sheets and results, open papers, type answers; on the lab floor see the rigs, set and
#: undo what an assistant may, and lead a class round them
ASSISTS = {
    ("GET", "/api/v1/sheets"),
    ("GET", "/api/v1/sheets/1"),
    ("GET", "/api/v1/sheets/1/results"),
    ("POST", "/api/v1/sheets/1/answers"),
    ("GET", "/api/v1/papers/ABCDEF"),
    ("PUT", "/api/v1/papers/ABCDEF/answers"),
    ("GET", "/api/v1/sheets/1/points"),
    ("GET", "/api/v1/sheets/1/screen"),
    ("GET", "/api/v1/lti/platforms"),
    ("GET", "/api/v1/lti/waiting"),
    ("POST", "/api/v1/lti/join"),
    ("GET", "/api/v1/rigs"),
    ("GET", "/api/v1/rigs/1"),
    ("GET", "/api/v1/rigs/1/live"),
    ("GET", "/api/v1/rigs/1/plan"),
    ("GET", "/api/v1/rigs/1/photo"),
    ("PUT", "/api/v1/rigs/1/devices/bypass"),
    ("POST", "/api/v1/rigs/1/undo"),
    ("POST", "/api/v1/rigs/rotation"),
    ("PUT", "/api/v1/rigs/rotation/people"),
    ("PUT", "/api/v1/rigs/rotation/round"),
    ("DELETE", "/api/v1/rigs/rotation"),
    ("GET", "/api/v1/lab/sessions"),
    ("POST", "/api/v1/lab/sessions"),
    ("GET", "/api/v1/lab/sessions/1"),
    ("POST", "/api/v1/lab/sessions/1/events"),
    ("GET", "/api/v1/lab/sessions/1/sheet.pdf"),
    ("GET", "/api/v1/refrigerant"),
    ("POST", "/api/v1/refrigerant/moves"),
    ("POST", "/api/v1/cylinders"),
    ("GET", "/api/v1/cylinders/labels.pdf"),
}


def test_an_apprentice_is_refused_every_route_but_their_own_and_the_charts(app, pupil):
    assert len(charts(app)) == 9
    mine = PUBLIC | charts(app) | MINE | OWN
    found = statuses(app, pupil)
    assert len(found) > 60
    for route, status in found.items():
        assert (status == 403) == (route not in mine), (route, status)


def test_an_assistant_marks_and_does_nothing_else(app, helper):
    allowed = PUBLIC | charts(app) | ASSISTS | OWN
    for route, status in statuses(app, helper).items():
        assert (status == 403) == (route not in allowed), (route, status)


def test_an_instructor_is_refused_no_route_but_an_apprentices_own(app, teacher):
    for route, status in statuses(app, teacher).items():
        assert (status == 403) == (route in MINE) and status != 401, (route, status)


def test_a_route_without_roles_is_refused(app):
    app.add_url_rule("/api/v1/forgotten", "forgotten", lambda: "secret")
    from tests.server.conftest import Client

    assert Client(app).get("/forgotten").status_code == 401
    assert Client(app, "teacher").get("/forgotten").status_code == 403


@pytest.mark.parametrize(
    "path",
    [
        "/sheets/{id}",
        "/sheets/{id}/results",
        "/sheets/{id}/marks.csv",
        "/sheets/{id}/documents/packet",
        "/sheets/{id}/documents/key",
    ],
)
def test_another_school_sees_nothing_of_a_sheet(stranger, sheet, path):
    assert stranger.get(path.format(id=sheet["id"])).status_code == 404


def test_another_school_sees_no_paper_class_or_scenario(teacher, stranger, sheet):
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    assert stranger.get(f"/papers/{code}").status_code == 404
    assert stranger.put(f"/papers/{code}/answers", {"call": 1, "answers": {}}).status_code == 404
    assert stranger.get("/classes").json["classes"] == [] and stranger.get("/scenarios").json["scenarios"] == []
    assert stranger.delete("/scenarios/1").status_code == 404
    reply = stranger.post("/sheets", {"title": "x", "class_id": 1, "scenario_ids": [1]})
    assert reply.status_code == 422 and reply.json["error"]["field"] == "class_id"


def test_a_change_without_the_token_is_refused(teacher):
    for token in ("", "wrong"):
        reply = teacher.call("POST", "/classes", {"name": "x", "apprentices": ["y"]}, csrf=token)
        assert reply.status_code == 403 and reply.json["error"]["code"] == "csrf"
    assert teacher.get("/classes").json["classes"] == []


def test_failed_log_ins_are_limited_per_name_and_counted_in_the_database(app, nobody):
    for _ in range(3):
        reply = nobody.post("/session", {"login": "teacher", "password": "wrong"})
        assert reply.status_code == 401 and "do not match" in reply.json["error"]["message"]
    assert nobody.post("/session", {"login": "teacher", "password": "right"}).status_code == 429
    assert nobody.post("/session", {"login": "nobody-here", "password": "x"}).status_code == 401


def test_logging_out_ends_the_session_on_the_server(app, teacher):
    cookie = teacher._client.get_cookie("wolfsbane_session").value
    assert teacher.delete("/session").status_code == 200
    teacher._client.set_cookie("wolfsbane_session", cookie)
    assert teacher.get("/scenarios").status_code == 401


def test_cookies_and_headers_are_strict(app, nobody):
    reply = nobody.post("/session", {"login": "teacher", "password": "right"})
    session = next(c for c in reply.headers.getlist("Set-Cookie") if c.startswith("wolfsbane_session"))
    assert "HttpOnly" in session and "SameSite=Lax" in session
    assert "default-src 'self'" in reply.headers["Content-Security-Policy"]
    assert "unsafe" not in reply.headers["Content-Security-Policy"]
    assert reply.headers["X-Content-Type-Options"] == "nosniff"


def test_passwords_are_kept_as_argon2(app):
    with database_of(app).transaction() as connection:
        kept = connection.execute(
            "select password_hash, (select token_hash from sessions limit 1) from users"
        ).fetchall()
    assert all(row["password_hash"].startswith("$argon2id$") for row in kept)
    assert ANYONE == "anyone"
