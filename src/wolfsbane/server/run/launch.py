"""Start everything: ``python -m wolfsbane.server.run.launch``.

Database, migrations, application, worker; Ctrl-C stops all.
"""

from __future__ import annotations

import argparse
import os
import shutil
import signal
import ssl
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

from wolfsbane.server.core import metrics
from wolfsbane.server.core.config import SettingError, from_environment, help_text
from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.core.db.migrate import MigrationError, migrate
from wolfsbane.server.run import backups, demo, demo_rigs, front, log_files
from wolfsbane.server.run.postgres import PostgresError, PrivatePostgres, connections_of, free_port, free_ports
from wolfsbane.server.run.warm import warm


class _Child:
    """A process that is started again when it dies, a little later each time."""

    def __init__(self, name: str, command: Any, environment: Any, log: Any) -> None:
        self.name, self._command, self._environment, self._log = name, command, environment, log
        self._process: subprocess.Popen[bytes] | None = None
        self._wait, self._next = 1.0, 0.0

    def keep_alive(self) -> None:
        if self._process is not None and self._process.poll() is None:
            return
        now = time.monotonic()
        if self._process is not None and self._next == 0.0:
            print(f"{self.name} ended ({self._process.returncode}); starting it again", flush=True)
            self._next, self._wait = now + self._wait, min(self._wait * 2, 30)
        if now >= self._next:
            self._next = 0.0
            with log_files.opened(self._log) as log:
                # Should this process be killed outright, the kernel ends the child too.
                self._process = subprocess.Popen(
                    ["setpriv", "--pdeathsig", "TERM", *self._command],
                    env=self._environment,
                    stdout=log,
                    stderr=log,
                    stdin=subprocess.DEVNULL,
                    start_new_session=True,
                )

    def look_after_log(self) -> None:
        log_files.rotate(self._log)

    def tell(self, **changed: Any) -> None:
        """Change its environment and start it again."""
        self._environment |= changed
        self.stop()

    def stop(self) -> None:
        if self._process is None or self._process.poll() is not None:
            return
        self._process.terminate()
        try:
            self._process.wait(10)
        except subprocess.TimeoutExpired:
            os.killpg(self._process.pid, signal.SIGKILL)


def _arguments(argv: Any) -> Any:
    parser = argparse.ArgumentParser(
        description=__doc__, epilog="Settings:\n" + help_text(), formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("--demo", action="store_true", help="load the demo school and print its log-ins")
    return parser.parse_args(argv)


def run(argv: Any = None) -> Any:
    """Run until Ctrl-C or SIGTERM; returns the exit code."""
    args = _arguments(argv)
    try:
        config = from_environment()
        fronted = front.program() is not None and not config.behind_front
        if not (fronted or config.behind_front or front.is_loopback(config.host)):
            raise SettingError(
                f"WOLFSBANE_HOST={config.host} is not accepted without a front: install nginx, or set "
                "WOLFSBANE_BEHIND_FRONT=1 where one of your own stands before it"
            )
        # Either signal ends the start-up or the wait below in good order, also where the shell had them ignored.
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda *_: sys.exit(0))
        folder = Path(config.data_dir).resolve()
        folder.mkdir(parents=True, exist_ok=True)
        postgres = None if config.database_url else PrivatePostgres(folder / "postgres").start()
    except (SettingError, PostgresError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2
    if postgres is not None and postgres.major < postgres.newest:
        print(f"PostgreSQL {postgres.newest} is installed beside {postgres.major}: wolfsbane upgrade moves the data")
    children = []
    try:
        url = config.database_url if postgres is None else postgres.url()
        assert url is not None, "either an address is set or a database was started"
        backup_folder = Path(config.backup_dir or folder / "backups").resolve()
        if (kept := backups.before_migrating(url, backup_folder)) is not None:
            print(f"backup before migrating: {backup_folder / kept.file}", flush=True)
        migrate(url)
        if not Path(os.environ["NUMBA_CACHE_DIR"]).exists():
            warm()
        if args.demo:
            rig_ports = free_ports(len(demo_rigs.RIGS), 5020)
            (panel,) = free_ports(1, 5120)
            _load_demo(url, rig_ports, panel)
        port = free_port(config.port)
        if port != config.port:
            print(f"port {config.port} is taken; using {port}", flush=True)
        _require_connections(url, config)
        children = _children(config, folder, postgres.app_url() if postgres else url, port, fronted)
        if args.demo:
            children.append(_rigs(rig_ports, panel, folder))
        for child in children:
            child.keep_alive()
        address = f"{'https' if fronted and config.tls_certificate else 'http'}://{config.host}:{port}"
        if "web" in config.parts:
            _wait_until_up(address, children)
            print(f"\nWolfsbane is at {address}")
        else:
            print(f"\nWolfsbane works here at: {', '.join(config.parts)}")
        if args.demo:
            print(
                f"  instructor: {demo.INSTRUCTOR_LOGIN} / {demo.INSTRUCTOR_PASSWORD}\n"
                f"  assistant marker: {demo.ASSISTANT_LOGIN} / {demo.ASSISTANT_PASSWORD}\n"
                f"  apprentice: {demo.APPRENTICE_LOGIN} / {demo.APPRENTICE_PASSWORD}\n"
                f"  what somebody at the simulated rigs would see and turn: http://127.0.0.1:{panel}/1/ and /2/"
            )
        elif not _has_school(url):
            print("  no school here yet: `make school` in another terminal founds one with its first instructor")
        print("Ctrl-C stops everything.", flush=True)
        # one of several hosts is enough: the one with the worker
        nightly = backups.Nightly(
            backup_folder, config.backup_hour if "worker" in config.parts and not args.demo else 24
        )
        while True:
            time.sleep(0.5)
            for child in children:
                child.keep_alive()
                child.look_after_log()
            nightly.look(postgres.url() if postgres else url)
            if postgres and not postgres.running():
                _restart(postgres, children)
    except (SettingError, MigrationError, backups.BackupError) as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        return 2
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        for child in reversed(children):
            child.stop()
        if postgres:
            postgres.stop()
        print("stopped.", flush=True)


def _restart(postgres: Any, children: Any) -> None:
    """Start the database again; when that fails say so and leave it to the next round."""
    print("the database ended; starting it again", flush=True)
    before = postgres.url()
    try:
        postgres.start()
        if postgres.url() != before:
            # Its old port was taken: everybody has to hear of the new one.
            for child in children:
                child.tell(WOLFSBANE_DATABASE_URL=postgres.app_url())
    except PostgresError as error:
        print(f"wolfsbane: {error}", file=sys.stderr)
        time.sleep(3)


def _printers() -> Any:
    from wolfsbane.server.printing.paper import PRINTERS

    return PRINTERS


def _load_demo(url: str, rig_ports: list[int], panel: int) -> None:
    db = Database(url, size=2).open()
    try:
        demo.load(db, _printers, rig_ports, panel)
    finally:
        db.close()


def _has_school(url: str) -> Any:
    db = Database(url, size=1).open()
    try:
        with db.transaction() as connection:
            return queries.school_any(connection)["found"]
    finally:
        db.close()


#: connections of one application process, and of everything else together
_EACH, _OTHERS = 8, 16


def _require_connections(url: str, config: Any) -> None:
    """Refuse to start with more processes than the database has connections for. Raises SettingError."""
    there = connections_of(url)
    wanted = config.workers * _EACH + _OTHERS
    if wanted > there:
        raise SettingError(
            f"WOLFSBANE_WORKERS={config.workers} is not accepted; allowed: {max((there - _OTHERS) // _EACH, 0)} at "
            f"most, or more connections in the database ({there} there, {wanted} wanted)"
        )


def _children(config: Any, folder: Any, url: str, port: Any, fronted: bool) -> Any:
    counts = folder / "metrics"
    shutil.rmtree(counts, ignore_errors=True)
    counts.mkdir(mode=0o700)
    environment = {**os.environ, "WOLFSBANE_DATABASE_URL": url, metrics.FOLDER_VARIABLE: str(counts)}
    socket = front.socket_in(folder) if fronted else None
    if fronted:
        environment["WOLFSBANE_BEHIND_FRONT"] = "1"
        if config.tls_certificate:
            environment["WOLFSBANE_SECURE_COOKIES"] = "1"
    web = [
        sys.executable,
        "-m",
        "gunicorn",
        "--bind",
        f"unix:{socket}" if fronted else f"{config.host}:{port}",
        "--workers",
        str(config.workers),
        "--threads",
        # more than slow work may hold at once, so that pages go on beside it
        "16",
        "--timeout",
        "120",
        "--umask",
        "0o077",
        "--control-socket",
        str(folder / "gunicorn.sock"),
        "wolfsbane.server.app:wsgi()",
    ]
    worker = [sys.executable, "-m", "wolfsbane.server.jobs.worker"]
    logger = [sys.executable, "-m", "wolfsbane.server.rigs.logger"]
    before = []
    if socket is not None:
        command = front.written(config, port, socket, folder, front.PAGES)
        before = [_Child("front", command, dict(os.environ), folder / "front.log")]
    parts = {
        "web": [*before, _Child("application", web, dict(environment), folder / "application.log")],
        "worker": [_Child("job worker", worker, dict(environment), folder / "worker.log")],
        "logger": [_Child("rig logger", logger, dict(environment), folder / "logger.log")],
    }
    return [child for part in config.parts for child in parts[part]]


def _rigs(ports: list[int], panel: int, folder: Path) -> _Child:
    """The demo's simulated rigs, in a process of their own."""
    simulated = [
        sys.executable,
        "-m",
        "wolfsbane.server.rigs.simulated",
        "--ports",
        ",".join(map(str, ports)),
        "--machines",
        ",".join(machine for _, _, machine, _ in demo_rigs.RIGS),
        "--seed",
        str(demo_rigs.RIGS[0][3]),
        "--speed",
        str(demo_rigs.SPEED),
        "--panel",
        str(panel),
    ]
    return _Child("simulated rigs", simulated, dict(os.environ), folder / "rigs.log")


def _wait_until_up(address: Any, children: Any) -> None:
    deadline = time.monotonic() + 90
    while time.monotonic() < deadline:
        try:
            # our own certificate names the host it is served under, not this address
            unchecked = ssl._create_unverified_context() if address.startswith("https") else None
            with urllib.request.urlopen(f"{address}/api/v1/session", timeout=2, context=unchecked):
                return
        except urllib.error.HTTPError as error:
            if error.code != 503:
                return
        except OSError:
            pass
        time.sleep(0.2)
        for child in children:
            child.keep_alive()
    print("the application does not answer yet; see application.log in the data folder", file=sys.stderr)


if __name__ == "__main__":
    sys.exit(run())
