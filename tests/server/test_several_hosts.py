"""Several hosts on one database: each a start command with its own data folder; one may die, the other goes on."""

import contextlib
import os
import signal
import subprocess
import sys

import pytest

from tests.server.conftest import SCENARIO
from tests.server.test_killed import Caller, kill_with_all_below, wait
from wolfsbane.server.core.config import PARTS, SettingError, from_environment
from wolfsbane.server.core.db.database import Lone
from wolfsbane.server.run.postgres import free_port


@pytest.fixture
def hosts(app, database_url, tmp_path_factory):
    """``hosts(parts)`` starts one: (process, address, folder)."""
    started = []

    def start(parts):
        folder = tmp_path_factory.mktemp("host")
        port = free_port()
        environment = os.environ | {
            "WOLFSBANE_DATABASE_URL": database_url,
            "WOLFSBANE_DATA_DIR": str(folder),
            "WOLFSBANE_PORT": str(port),
            "WOLFSBANE_WORKERS": "1",
            "WOLFSBANE_SLOW_PROCESSES": "0",
            "WOLFSBANE_PARTS": parts,
        }
        with open(folder / "launch.log", "w") as log:
            command = [sys.executable, "-m", "wolfsbane.server.run.launch"]
            process = subprocess.Popen(command, env=environment, stdout=log, stderr=log)
        started.append(process)
        return process, f"http://127.0.0.1:{port}", folder

    yield start
    for process in started:
        with contextlib.suppress(ProcessLookupError):
            process.send_signal(signal.SIGINT)
        process.wait(600)


def up(host):
    process, _, folder = host
    wait(lambda: "Ctrl-C stops" in (folder / "launch.log").read_text(), lambda: process.poll() is None)


def test_two_hosts_share_a_school_and_one_may_die(hosts):
    one, two = hosts("web,worker"), hosts("web,worker,logger")
    up(one)
    up(two)
    here, there = Caller(one[1]), Caller(two[1])
    here.log_in()
    there.opener, there.csrf = here.opener, here.csrf  # cookies go by the name of the machine: the log-in holds at both
    class_id = here.call("POST", "/classes", {"name": "Firsts", "apprentices": ["Ada Quill", "Bo Fenn"]})["id"]
    assert [c["id"] for c in there.call("GET", "/classes")["classes"]] == [class_id]
    scenario_id = there.call("POST", "/scenarios", SCENARIO)["id"]
    item = {"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}
    kill_with_all_below(one[0].pid)
    made = there.call("POST", "/sheets", {"title": "Friday", "class_id": class_id, "items": [item]})["id"]
    wait(lambda: there.call("GET", f"/sheets/{made}")["status"] == "ready", lambda: two[0].poll() is None)
    assert len(there.call("GET", f"/sheets/{made}/results")["rows"]) == 2


def test_one_process_at_a_time_holds_what_only_one_may_do(database_url):
    first, second = Lone(database_url, 77), Lone(database_url, 77)
    assert first.held() and first.held() and not second.held()
    first.give_up()
    assert second.held() and not first.held()
    second.give_up()
    assert not Lone("postgresql://127.0.0.1:1/none", 77).held()


def test_parts_of_a_host_are_named():
    assert from_environment({}).parts == PARTS
    assert from_environment({"WOLFSBANE_PARTS": " worker , web "}).parts == ("worker", "web")
    for wrong in ("", "web,cook"):
        with pytest.raises(SettingError, match="allowed: some of web, worker, logger"):
            from_environment({"WOLFSBANE_PARTS": wrong})
