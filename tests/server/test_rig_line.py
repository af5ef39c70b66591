"""The line to a rig for true: Modbus TCP on loopback, the logger as its own process, kill -9 of each in turn."""

import os
import signal
import socket
import subprocess
import sys
import time

import pytest

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.rig import RIG
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.rigs.modbus import RigLine, RigSilentError, host_and_port
from wolfsbane.server.rigs.simulated import main, usual_rig
from wolfsbane.server.run.postgres import free_ports


def wait(what, process=None):
    """Until something holds; the bound, and a process that ended, only end a hopeless run."""
    deadline = time.monotonic() + 900
    while time.monotonic() < deadline:
        assert process is None or process.poll() is None, "the simulated rig ended"
        try:
            if what():
                return
        except OSError:
            pass
        time.sleep(0.1)
    raise AssertionError("waited in vain")


def started(port, *more):
    command = [
        sys.executable,
        "-m",
        "wolfsbane.server.rigs.simulated",
        "--ports",
        str(port),
        "--speed",
        "20",
        "--panel",
        "0",
    ]
    return subprocess.Popen([*command, "--machines", "split-3t-r410a-txv", *more], start_new_session=True)


def answers(rig):
    line = RigLine(rig)
    try:
        line.read()
        return True
    except RigSilentError:
        return False
    finally:
        line.close()


@pytest.fixture
def served():
    """(rig, process) of a simulated rig that answers."""
    (port,) = free_ports(1, 0)
    rig = usual_rig("Rig 1", "split-3t-r410a-txv", port)
    process = started(port, "--seed", "5")
    try:
        wait(lambda: answers(rig), process)
        yield rig, process
    finally:
        process.kill()
        process.wait()


def test_a_rig_is_read_and_set_over_modbus(served):
    rig, _ = served
    line = RigLine(rig)
    clock, shown = line.read()
    assert clock >= 0 and set(shown) == {c.point for c in rig.channels} and None not in shown.values()
    assert 4e5 < shown["suction_pressure"] < 1.5e6 < shown["head_pressure"] < 4e6
    line.set(rig.device("bypass"), 0.75)
    assert line.positions()["bypass"] == 0.75
    wait(lambda: line.read()[0] > clock + 5)
    line.close()
    with pytest.raises(BadInputError, match="set by hand"):
        by_hand = RIG.read({**RIG.write(rig), "devices": [{"kind": "bulb_strap"}]})
        RigLine(by_hand).set(by_hand.device("bulb_strap"), 1.0)


def test_a_rig_runs_without_its_front_where_the_port_is_taken(capfd):
    with socket.create_server(("127.0.0.1", 0)) as taken:
        (port,) = free_ports(1, 0)
        process = started(port, "--panel", str(taken.getsockname()[1]))
        try:
            wait(lambda: answers(usual_rig("Rig 1", "split-3t-r410a-txv", port)), process)
        finally:
            process.kill()
            process.wait()
    assert "the rigs run without their fronts" in capfd.readouterr().err


def test_a_register_beyond_the_rig_s_and_a_port_where_nobody_is_are_told_apart(served):
    rig, _ = served
    plain = RIG.write(rig)
    far = RIG.read({**plain, "channels": [{"point": "head_pressure", "register": 5000, "unit": "psig"}]})
    with pytest.raises(RigSilentError, match="refuses a register of the map"):
        RigLine(far).read()
    (port,) = free_ports(1, 0)
    with pytest.raises(RigSilentError, match="nobody answers at"):
        RigLine(RIG.read({**plain, "address": f"127.0.0.1:{port}"})).read()
    assert host_and_port("192.0.2.4") == ("192.0.2.4", 502)
    for wrong in ("192.0.2.4:port", ":502", "host:0"):
        with pytest.raises(BadInputError, match="host:port"):
            host_and_port(wrong)


def test_the_simulated_rig_says_what_is_wrong_with_what_it_is_told(capsys):
    assert main(["--map", "--ports", "5020", "--machines", "split-3t-r410a-txv"]) == 0
    assert capsys.readouterr().out.startswith("what,name,table,register")
    for wrong in (["--speed", "1000"], ["--ports", "5020"], ["--ports", "a,b"], ["--machines", "chest,split"]):
        assert main(["--map", *wrong]) == 2
        assert "allowed" in capsys.readouterr().err


class Stored:
    """What the database holds of a rig."""

    def __init__(self, db, rig_id):
        self.db, self.rig_id = db, rig_id

    def samples(self):
        with self.db.transaction() as connection:
            return list(
                connection.execute(
                    "select at, clock_s, shown from rig_samples where rig_id = %s order by at", (self.rig_id,)
                )
            )

    def gaps(self):
        with self.db.transaction() as connection:
            rows = connection.execute(
                "select data from rig_events where rig_id = %s and kind = 'gap' order by id", (self.rig_id,)
            )
            return [row["data"]["why"] for row in rows]


def logging(database_url):
    environment = {**os.environ, "WOLFSBANE_DATABASE_URL": database_url, "WOLFSBANE_RIG_PERIOD": "0.2"}
    return subprocess.Popen([sys.executable, "-m", "wolfsbane.server.rigs.logger"], env=environment)


def test_rig_and_logger_are_killed_and_nothing_stored_is_lost_nor_made_up(served, app, db, database_url):
    rig, process = served
    with db.transaction() as connection:
        school = connection.execute("select id from schools order by id limit 1").fetchone()["id"]
        made = queries.rig_add(connection, school_id=school, name=rig.name, body=jsonb(RIG.write(rig)), user_id=None)
    stored, logger = Stored(db, made["id"]), logging(database_url)
    try:
        wait(lambda: len(stored.samples()) > 10)
        os.kill(logger.pid, signal.SIGKILL)
        logger.wait()
        kept = stored.samples()
        assert stored.samples() == kept
        time.sleep(6.0)  # longer than what counts as a gap
        logger = logging(database_url)
        wait(lambda: len(stored.samples()) > len(kept) + 10)
        assert stored.samples()[: len(kept)] == kept and stored.gaps() == ["the logger was not running"]

        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        time.sleep(6.0)
        silent = len(stored.samples())
        again = started(rig.address.rpartition(":")[2], "--seed", "5")
        try:
            wait(lambda: len(stored.samples()) > silent + 10)
        finally:
            again.kill()
            again.wait()
        why = stored.gaps()[1]
        assert "stopped answering" in why or "nobody answers" in why
        for row in stored.samples():
            assert 4e5 < row["shown"][0] < 1.5e6, "every reading is one the rig showed"
    finally:
        logger.terminate()
        assert logger.wait() == 0, "told to stop, it stops in good order"
