"""Shared by all tests: a rated weather, and one PostgreSQL for the tests that need it."""

import os
import secrets
import shutil
import tempfile
from pathlib import Path

import pytest

from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.solver import solve
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.plan.scenario import scenario

ROOT = Path(__file__).resolve().parents[1]
#: what takes longest runs first, so that no worker is left with it at the end
FIRST = (
    "tests/browser",
    "tests/server/test_killed.py",
    "tests/diagnosis/test_diagnose.py",
    "tests/server/test_running.py",
    "tests/server/test_fuzz.py",
    "tests/acting/test_plan.py",
    "tests/server/test_marking_api.py",
    "tests/exercise/test_generator.py",
)


#: modules whose tests share nothing and take long: each goes where there is room
APART = ("tests/exercise/test_encyclopaedia.py", "tests/exercise/test_variant.py", "tests/exercise/test_bookkeeping.py")


def scope_of(nodeid):
    """What runs on one worker, in one go: a module, and the browser tests together, since they share one demo."""
    module = nodeid.split("::")[0]
    if module in APART:
        return nodeid
    return "tests/browser" if module.startswith("tests/browser/") else module


def pytest_collection_modifyitems(items):
    rank = {scope: index for index, scope in enumerate(FIRST)}
    items.sort(key=lambda item: rank.get(scope_of(item.nodeid), len(rank)))


def pytest_xdist_make_scheduler(config, log):
    from xdist.scheduler import LoadScopeScheduling

    class ByScope(LoadScopeScheduling):
        def _split_scope(self, nodeid):
            return scope_of(nodeid)

    return ByScope(config, log)


VALVE, ORIFICE, R22 = "split-3t-r410a-txv", "split-3t-r410a-orifice", "split-3t-r22-txv"


def weather(outdoor=95, return_db=80, return_wb=67, altitude=0):
    return conditions(outdoor_db_f=outdoor, return_db_f=return_db, return_wb_f=return_wb, altitude_ft=altitude)


def solved(machine_id=VALVE, fault=None, severity=None, **where):
    planted = (Fault(id=fault, severity=severity),) if fault else ()
    return solve(machine(machine_id), weather(**where), planted)


def planned(fault="undercharge", severity=80, machine_id=VALVE, **more):
    return scenario(
        {
            "title": "A test call",
            "machine": machine_id,
            "fault": fault,
            "severity": severity,
            "outdoor_db_f": 93,
            "return_db_f": 78,
            "return_wb_f": 65.5,
            **more,
        }
    )


def offering(made, units, *wanted, seed=1, **more):
    """The first call drawn from a scenario, from ``seed`` on, that offers every fault wanted among its answers."""
    for number in range(seed, seed + 200):
        call = vary(made, units, number, **more)
        if set(wanted) <= {choice.id for choice in call.choices.fault}:
            return call
    raise AssertionError(f"no call of 200 offers {wanted}")


#: machines that came after the random walks of the tests were laid out; those walk over the others, and over each of
#: these on its own, so that a new machine does not send every walk another way
LATER = ("reachin-freezer-r404a-capillary", "coldrail-r134a-capillary", "room-1t-r22-capillary")


@pytest.fixture
def open_folder():
    """A folder that PostgreSQL's own user can reach; pytest closes its own to others, for every run."""
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-open-"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def postgres():
    """A private cluster for the whole run, without durability."""
    from wolfsbane.server.run.postgres import FAST, PrivatePostgres

    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-test-"))
    folder.chmod(0o755)
    server = PrivatePostgres(folder / "postgres", options=FAST).start()
    yield server
    server.stop()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def template(postgres):
    """A migrated database, copied for each test."""
    from wolfsbane.server.core.db.migrate import migrate

    migrate(postgres.url("wolfsbane"))
    return "wolfsbane"


@pytest.fixture
def database_url(postgres, template):
    """Address of a fresh migrated database."""
    import psycopg

    name = f"t{secrets.token_hex(6)}"
    with psycopg.connect(postgres.url("postgres"), autocommit=True) as connection:
        connection.execute(f"create database {name} template {template}")
    yield postgres.url(name)
    with psycopg.connect(postgres.url("postgres"), autocommit=True) as connection:
        connection.execute(f"drop database {name} with (force)")


@pytest.fixture
def db(database_url):
    from wolfsbane.server.core.db.database import Database

    pool = Database(database_url, size=4).open()
    yield pool
    pool.close()


@pytest.fixture
def browser_arguments():
    return [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ]


os.environ.setdefault("TZ", "UTC")
