"""Settings, migrations, the private database and the job worker."""

import os
import signal
import socket
import subprocess
import sys
import time

import pytest

from tests.server.conftest import OTHER
from wolfsbane.server.core.config import SETTINGS, SettingError, from_environment, help_text
from wolfsbane.server.core.current import database_of
from wolfsbane.server.core.db.database import Database, DatabaseDownError
from wolfsbane.server.core.db.migrate import MigrationError, files, migrate
from wolfsbane.server.run.postgres import PrivatePostgres, free_port


def wait(what, seconds=600):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if found := what():
            return found
        time.sleep(0.2)
    raise AssertionError("waited in vain")


def test_every_setting_has_a_default_and_a_help_line():
    config = from_environment({})
    assert config.port == 8040 and config.database_url is None
    for name in SETTINGS:
        assert name in help_text()


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("WOLFSBANE_PORT", "high"),
        ("WOLFSBANE_PORT", "70000"),
        ("WOLFSBANE_WORKERS", "0"),
        ("WOLFSBANE_SECURE_COOKIES", "maybe"),
        ("WOLFSBANE_DATABASE_URL", "mysql://x"),
    ],
)
def test_a_bad_setting_is_named(name, value):
    with pytest.raises(SettingError, match=name):
        from_environment({name: value})


def test_migrations_apply_once_and_an_edited_one_is_refused(postgres, database_url, tmp_path):
    assert migrate(database_url) == []
    for number, name, sql, _ in files():
        (tmp_path / f"{name}.sql").write_text(sql + ("\n-- edited" if number == 1 else ""))
    with pytest.raises(MigrationError, match="edited"):
        migrate(database_url, tmp_path)


def test_a_newer_database_is_refused(database_url, tmp_path):
    (tmp_path / "0001_start.sql").write_text(files()[0][2])
    with pytest.raises(MigrationError, match="update it"):
        migrate(database_url, tmp_path)


def test_a_broken_migration_leaves_nothing_behind(database_url, tmp_path):
    import psycopg

    for _, name, sql, _ in files():
        (tmp_path / f"{name}.sql").write_text(sql)
    (tmp_path / "0099_broken.sql").write_text("create table half (id int); select no_such_function();")
    with pytest.raises(psycopg.Error):
        migrate(database_url, tmp_path)
    with psycopg.connect(database_url) as connection:
        assert connection.execute("select to_regclass('half')").fetchone()[0] is None


def test_every_table_of_ours_carries_the_school(database_url):
    import psycopg

    with psycopg.connect(database_url) as connection:
        without = connection.execute(
            "select t.table_name from information_schema.tables t where t.table_schema = 'public' and t.table_type ="
            " 'BASE TABLE' and t.table_name not like 'procrastinate%' and not exists (select 1 from"
            " information_schema.columns c where c.table_name = t.table_name and c.column_name = 'school_id')"
        ).fetchall()
    # what a rig showed hangs on the rig, which carries its school: eight bytes less in each of a million rows;
    # a log-in under way at a provider belongs to nobody yet; the server signs for all
    of_rigs = {"rig_samples", "rig_minutes", "rig_watch"}
    assert {row[0] for row in without} == {
        "schools",
        "migrations",
        "login_attempts",
        "oidc_flows",
        "tool_keys",
    } | of_rigs


def test_the_private_database_survives_kill_9_and_a_taken_port(open_folder):
    folder = open_folder
    server = PrivatePostgres(folder / "postgres").start()
    try:
        db = Database(server.url(), size=2).open()
        with db.transaction() as connection:
            connection.execute("create table kept as select 7 as n")
        pid, port = (
            int((server.data / "postmaster.pid").read_text().split()[0]),
            int((folder / "postgres/port").read_text()),
        )
        os.kill(pid, signal.SIGKILL)
        # the server's children notice the death of their parent a moment later, and answer until then
        wait(lambda: not server.running())
        wait(lambda: _is_down(db))
        with socket.socket() as squatter:
            squatter.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            wait(lambda: not _bind_fails(squatter, port))
            squatter.listen()
            server.start()
            assert int((folder / "postgres/port").read_text()) != port
        again = Database(server.url(), size=1).open()
        with again.transaction() as connection:
            assert connection.execute("select n from kept").fetchone() == {"n": 7}
        db.close(), again.close()
    finally:
        server.stop()
    assert not server.running()


def _is_down(db):
    try:
        with db.transaction():
            return False
    except DatabaseDownError:
        return True


def _bind_fails(sock, port):
    try:
        sock.bind(("127.0.0.1", port))
    except OSError as error:
        return error.errno != 22
    return False


def test_a_free_port_is_another_one_when_the_wanted_is_taken():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        assert free_port(taken.getsockname()[1]) != taken.getsockname()[1]


def test_a_killed_worker_leaves_the_sheet_to_the_next_one(app, teacher, database_url):
    class_id = teacher.post("/classes", {"name": "Firsts", "apprentices": ["Ada", "Bo"]}).json["id"]
    scenario_id = teacher.post("/scenarios", OTHER).json["id"]
    made = teacher.post("/sheets", {"title": "By the worker", "class_id": class_id, "scenario_ids": [scenario_id]}).json
    environment = {**os.environ, "WOLFSBANE_DATABASE_URL": database_url}
    command = [sys.executable, "-m", "wolfsbane.server.jobs.worker"]

    def status():
        return teacher.get(f"/sheets/{made['id']}").json["status"]

    first = subprocess.Popen(command, env=environment)
    try:
        wait(lambda: status() in ("building", "ready"))
    finally:
        first.kill()
        first.wait()
    # The next worker takes the job up again once the heartbeat of the first is old; here it is made old at once.
    with database_of(app).transaction() as connection:
        connection.execute("update procrastinate_workers set last_heartbeat = now() - interval '10 minutes'")
    second = subprocess.Popen(command, env=environment)
    try:
        wait(lambda: status() == "ready")
        if (os.cpu_count() or 1) > 1:  # a draft is drawn while nobody asks for it
            body = {"title": "Early", "class_id": class_id, "scenario_ids": [scenario_id], "draft": True}
            draft = teacher.post("/sheets", body).json["id"]
            wait(lambda: teacher.get(f"/sheets/{draft}/ahead").json == {"drawn": 2, "of": 2, "problem": None})
    finally:
        second.terminate()
        second.wait(600)
    assert len(teacher.get(f"/sheets/{made['id']}/results").json["rows"]) == 2


def test_the_start_command_lists_every_setting():
    done = subprocess.run(
        [sys.executable, "-m", "wolfsbane.server.run.launch", "--help"], capture_output=True, text=True
    )
    assert all(name in done.stdout for name in SETTINGS)


def test_the_start_command_says_what_is_wrong_with_a_setting():
    done = subprocess.run(
        [sys.executable, "-m", "wolfsbane.server.run.launch"],
        capture_output=True,
        text=True,
        env={**os.environ, "WOLFSBANE_PORT": "many"},
    )
    assert done.returncode == 2 and "WOLFSBANE_PORT='many'" in done.stderr


def _start(folder, port, **more):
    environment = {
        **os.environ,
        "WOLFSBANE_DATA_DIR": str(folder),
        "WOLFSBANE_PORT": str(port),
        "WOLFSBANE_WORKERS": "1",
        **more,
    }
    log = folder / "launch.log"
    with log.open("w") as out:
        process = subprocess.Popen(
            [sys.executable, "-m", "wolfsbane.server.run.launch"], env=environment, stdout=out, stderr=out
        )
    wait(lambda: "Wolfsbane is at" in log.read_text() or process.poll() is not None)
    assert process.poll() is None, log.read_text()
    return process, log.read_text().split("Wolfsbane is at ")[1].split()[0]


def _up(address):
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", int(address.rsplit(":", 1)[1]))) == 0


def test_it_runs_on_a_given_database_and_beside_a_taken_port_and_stops_cleanly(database_url, tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        wanted = taken.getsockname()[1]
        process, address = _start(tmp_path, wanted, WOLFSBANE_DATABASE_URL=database_url)
        try:
            assert f"port {wanted} is taken" in (tmp_path / "launch.log").read_text() and _up(address)
            assert not (tmp_path / "postgres").exists()
        finally:
            process.send_signal(signal.SIGINT)
    assert process.wait(600) == 0 and not _up(address)


def test_killing_the_start_command_outright_leaves_no_application_behind(database_url, tmp_path):
    process, address = _start(tmp_path, free_port(), WOLFSBANE_DATABASE_URL=database_url)
    process.kill()
    process.wait()
    wait(lambda: not _up(address))


def test_set_up_without_root_prints_the_install_command_and_stops(tmp_path):
    """With stand-ins for ``id`` (not root) and ``ls`` (no PostgreSQL found)."""
    for name, body in (("id", "echo 1000"), ("ls", "exit 1")):
        (tmp_path / name).write_text(f"#!/bin/sh\n{body}\n")
        (tmp_path / name).chmod(0o755)
    script = files.__code__.co_filename.split("/src/")[0] + "/tools/setup.sh"
    done = subprocess.run(
        ["bash", script, "run"],
        capture_output=True,
        text=True,
        env={**os.environ, "PATH": f"{tmp_path}:{os.environ['PATH']}"},
    )
    assert done.returncode == 1
    assert "apt-get install -y --no-install-recommends postgresql-15" in done.stderr


def test_a_database_that_cannot_be_reached_is_said_in_one_line(tmp_path):
    done = subprocess.run(
        [sys.executable, "-m", "wolfsbane.server.run.launch"],
        capture_output=True,
        text=True,
        env={
            **os.environ,
            "WOLFSBANE_DATABASE_URL": f"postgresql://x:y@127.0.0.1:{free_port()}/z",
            "WOLFSBANE_DATA_DIR": str(tmp_path),
        },
    )
    assert done.returncode == 2 and "check WOLFSBANE_DATABASE_URL" in done.stderr and "Traceback" not in done.stderr
    assert "y@" not in done.stderr, "no password in the message"
