"""What a server says of itself: figures, logs, errors in the API's own form, sweeps, and the rights of its role."""

import json
import logging
import stat

import psycopg
import pytest
from prometheus_client.parser import text_string_to_metric_families

from wolfsbane.server.core import logs
from wolfsbane.server.core.config import SettingError, from_environment
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.run import launch, log_files


def figures(client, **headers):
    reply = client._client.get("/metrics", headers=headers)
    if reply.status_code != 200:
        return reply.status_code
    families = text_string_to_metric_families(reply.get_data(as_text=True))
    return {(s.name, tuple(sorted(s.labels.items()))): s.value for f in families for s in f.samples}


def test_figures_are_in_the_form_that_is_read_and_stay_on_this_machine(app, teacher, sheet):
    code = teacher.get(f"/sheets/{sheet['id']}/results").json["rows"][0]["code"]
    before = figures(teacher)
    teacher.get(f"/papers/{code}")
    teacher.get("/classes/99999")
    found = figures(teacher)
    assert found[("wolfsbane_papers", ())] == 3 and found[("wolfsbane_database_up", ())] == 1
    assert found[("wolfsbane_sessions", ())] >= 1 and found[("wolfsbane_disk_free_bytes", ())] > 0
    asked = {
        dict(k)["status"]
        for (n, k), v in found.items()
        if n == "wolfsbane_requests_total" and "/papers/" in str(k) and v > before.get((n, k), 0)
    }
    assert asked == {"200"} and any(dict(k).get("status") == "404" for _, k in found)
    assert code not in str(found), "a route and never a path"
    assert figures(teacher, **{"X-Forwarded-For": "10.0.0.7"}) == 404


@pytest.mark.parametrize(
    ("method", "path", "data", "headers", "status"),
    [
        ("POST", "/api/v1/classes", b"[" * 20_000, {}, 422),
        ("POST", "/api/v1/classes", b'{"a":' * 20_000, {}, 422),
        ("GET", "/api/v1/session", None, {"Host": "evil.example"}, 400),
        ("GET", "/", None, {"Host": "evil.example"}, 400),
        ("POST", "/api/v1/classes", b'"' + b"x" * 1_100_000 + b'"', {}, 413),
        ("GET", "/api/v1/reference/pt/R-22/convert?units=us&pressure=1e308", None, {}, 422),
        ("GET", "/api/v1/reference/pt/R-22/convert?units=us&temperature=-1e300", None, {}, 422),
        ("GET", "/api/v1/nothing", None, {}, 404),
        ("PATCH", "/api/v1/session", None, {}, 405),
        ("POST", "/api/v1/classes", b"\xff\xfe{}", {}, 422),
    ],
)
def test_whatever_is_refused_is_refused_in_the_form_of_the_api(teacher, method, path, data, headers, status):
    reply = teacher._client.open(
        path,
        method=method,
        data=data,
        headers={"X-CSRF-Token": teacher.csrf, **headers},
        content_type="application/json" if data else None,
    )
    assert (reply.status_code, reply.mimetype) == (status, "application/json")
    assert reply.json["error"]["code"] and reply.json["error"]["message"]


def test_a_log_is_its_owners_and_is_put_aside_before_it_grows(tmp_path):
    path = tmp_path / "application.log"
    with log_files.opened(path) as file:
        for number in range(4):
            file.write(b"%d" % number * 60)
            file.flush()
            assert log_files.rotate(path, most=50, kept=2) and not log_files.rotate(path, most=50, kept=2)
        file.write(b"on")
    assert path.read_bytes() == b"on" and {p.name for p in tmp_path.iterdir()} == {
        f"application.log{n}" for n in ("", ".1", ".2")
    }
    assert (tmp_path / "application.log.1").read_bytes() == b"3" * 60
    assert {stat.S_IMODE(p.stat().st_mode) for p in tmp_path.iterdir()} == {0o600}


def test_logs_are_json_where_that_is_asked_for(capsys):
    handlers, level = logging.getLogger().handlers[:], logging.getLogger().level
    logging.getLogger().handlers.clear()
    try:
        logs.begin(as_json=True)
        logging.getLogger("wolfsbane").warning("the disk is %s", "full")
        line = json.loads(capsys.readouterr().err)
    finally:
        logging.getLogger().handlers[:] = handlers
        logging.getLogger().setLevel(level)
    assert (line["message"], line["levelname"], line["name"]) == ("the disk is full", "WARNING", "wolfsbane") and line[
        "at"
    ]


def test_what_nobody_needs_is_swept_and_nothing_else(app, teacher, sheet):
    with database_of(app).transaction() as connection:
        school = connection.execute("select school_id from sheets where id = %s", (sheet["id"],)).fetchone()[
            "school_id"
        ]
        queries.drawn_add(
            connection, school_id=school, sheet_id=sheet["id"], position=1, person=0, body=jsonb({}), drawn_from=""
        )
        for age in (10, 500):
            connection.execute(
                "insert into documents (school_id, sheet_id, kind, pdf, created_at) values (%s, %s, %s, 'x',"
                " now() - make_interval(days => %s))",
                (school, sheet["id"], "packet" if age == 10 else "key", age),
            )
        connection.execute(
            "insert into login_attempts (login, succeeded, at) values ('x', false, now() - interval '2 days')"
        )
        queries.sweep(connection)
        assert list(queries.drawn_list(connection, sheet_id=sheet["id"], person=None)) == []
        kinds = connection.execute("select kind from documents where sheet_id = %s", (sheet["id"],)).fetchall()
        old = connection.execute("select 1 from login_attempts where at < now() - interval '1 day'").fetchone()
    assert [k["kind"] for k in kinds] == ["packet"] and old is None
    assert teacher.get(f"/sheets/{sheet['id']}/results").json["rows"], "papers and marks stay"


def test_the_role_of_the_application_changes_rows_and_no_table(postgres, monkeypatch):
    from wolfsbane.server.core.db.migrate import migrate

    migrate(postgres.url())
    for _ in range(2):
        url = postgres.app_url()
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute("insert into login_attempts (login, succeeded) values ('x', false)")
        connection.execute("delete from login_attempts")
        for refused in (
            "drop table answers",
            "alter table users disable trigger all",
            "create table mine (x int)",
            "update migrations set sha256 = ''",
            "delete from school_trail",
            "create role other superuser",
        ):
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute(refused)


def test_more_processes_than_the_database_has_connections_for_are_refused(database_url):
    fine = from_environment({"WOLFSBANE_WORKERS": "2"})
    launch._require_connections(database_url, fine)
    with pytest.raises(SettingError, match="WOLFSBANE_WORKERS=32 is not accepted"):
        launch._require_connections(database_url, from_environment({"WOLFSBANE_WORKERS": "32"}))
