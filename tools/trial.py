"""Kill every process of a running server in turn while papers are marked, bring a backup back, and write down how long
nothing was answered and how many acknowledged writes were lost: the table in docs/operations.md.
"""

import argparse
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

import psycopg
from hands import PASSWORD, Client, below, kill, part, wait

from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.core.security import hash_password
from wolfsbane.server.run import backups
from wolfsbane.server.run.postgres import PrivatePostgres, free_port

DOC = Path(__file__).parents[1] / "docs" / "operations.md"
BEGIN, END = "<!-- trial -->", "<!-- /trial -->"
SCENARIO = {
    "title": "Runs all afternoon",
    "machine": "split-3t-r410a-txv",
    "fault": "undercharge",
    "severity": 80,
    "outdoor_db_f": 93,
    "return_db_f": 78,
    "return_wb_f": 65.5,
}


class Marker(threading.Thread):
    """Types answers without end; remembers the newest that was acknowledged of each, and when one last was."""

    def __init__(self, address: str, codes: list[str]) -> None:
        super().__init__(daemon=True)
        self.client, self.codes = Client(address).log_in(), codes
        self.kept: dict[tuple[str, str], int] = {}
        self.writes, self.last, self.gap, self.ends = 0, time.monotonic(), 0.0, False

    def run(self) -> None:
        number = 0
        while not self.ends:
            number += 1
            code, question = self.codes[number % len(self.codes)], ("superheat", "subcooling", "ctoa")[number % 3]
            try:
                body = {"call": 1, "answers": {question: str(number)}}
                self.client.call("PUT", f"/papers/{code}/answers", body)
            except (urllib.error.HTTPError, OSError):
                time.sleep(0.05)
                continue
            now = time.monotonic()
            self.gap, self.last = max(self.gap, now - self.last), now
            self.kept[(code, question)] = number
            self.writes += 1

    def outage(self, work: object) -> float:
        """The longest time without an acknowledged write from ``work()`` until twenty more were, s."""
        wait(lambda: time.monotonic() - self.last < 0.5)
        self.gap, before = 0.0, self.writes
        work()
        wait(lambda: self.writes > before + 20)
        return self.gap


def start(folder: Path, port: int) -> subprocess.Popen:
    environment = {**os.environ, "WOLFSBANE_DATA_DIR": str(folder), "WOLFSBANE_PORT": str(port)}
    environment.pop("WOLFSBANE_DATABASE_URL", None)
    log = folder / "launch.log"
    log.write_text("")
    with open(log, "ab") as out:
        launched = [sys.executable, "-m", "wolfsbane.server.run.launch"]
        process = subprocess.Popen(launched, env=environment, stdout=out, stderr=out)
    wait(lambda: "is at" in log.read_text())
    return process


def url_of(folder: Path) -> str:
    return PrivatePostgres(folder / "postgres").url()


def founded(url: str) -> None:
    db = Database(url, size=1).open()
    with db.transaction() as connection:
        school_id = queries.school_add(connection, name="Trial School", time_zone="UTC")["id"]
        queries.user_add(
            connection,
            school_id=school_id,
            login="trial",
            name="Trial",
            role="instructor",
            password_hash=hash_password(PASSWORD),
        )
    db.close()


def lost(url: str, marker: Marker) -> int:
    """Acknowledged answers that the database does not hold, or holds an older one of."""
    with psycopg.connect(url) as connection:
        rows = connection.execute(
            "select p.code, x.question_id, x.raw from answers x join paper_calls c on c.id = x.paper_call_id "
            "join papers p on p.id = c.paper_id"
        ).fetchall()
    there = {(code, question): int(raw) for code, question, raw in rows if raw.isdigit()}
    return sum(there.get(key, -1) < number for key, number in marker.kept.items())


def trial(folder: Path) -> list[tuple[str, str, str]]:
    """Rows of the table: what happened, how long nothing was answered, what came of it."""
    port, rows = free_port(), []
    process = start(folder, port)
    address = f"http://127.0.0.1:{port}"
    founded(url_of(folder))
    teacher = Client(address).log_in()
    people = [f"Person {i}" for i in range(8)]
    class_id = teacher.call("POST", "/classes", {"name": "Firsts", "apprentices": people})["id"]
    scenario_id = teacher.call("POST", "/scenarios", SCENARIO)["id"]

    def sheet(title: str, items: int) -> int:
        plain = {"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}
        body = {"title": title, "class_id": class_id, "items": [plain] * items}
        return teacher.call("POST", "/sheets", body)["id"]

    def state(sheet_id: int) -> dict:
        return teacher.call("GET", f"/sheets/{sheet_id}")

    first = sheet("To be marked", 1)
    wait(lambda: state(first)["status"] == "ready")
    codes = [r["code"] for r in teacher.call("GET", f"/sheets/{first}/results")["rows"]]
    marker = Marker(address, codes)
    marker.start()
    wait(lambda: marker.writes > 20)

    def told(what: str, work: object, note: object = lambda: "") -> None:
        outage = marker.outage(work)
        rows.append((what, f"{outage:.1f}", note()))
        print(f"{what}: {outage:.1f} s without an answer; {rows[-1][2]}", flush=True)

    told("nothing, for comparison", lambda: None)
    told("one application process", lambda: kill(below(part(process, "gunicorn"))[0]))
    told("the whole application", lambda: kill(part(process, "gunicorn")))
    told("the front", lambda: kill(part(process, "nginx")))
    told("the rig logger", lambda: kill(part(process, "rigs.logger")))

    second = sheet("To be taken up again", 4)
    wait(lambda: state(second)["done"] >= 3)
    done, at = state(second)["done"], time.monotonic()

    def taken_up() -> str:
        wait(lambda: state(second)["done"] > done or state(second)["status"] == "ready")
        seconds = time.monotonic() - at
        wait(lambda: state(second)["status"] == "ready")
        return f"a sheet at {done} of 32 calls went on after {seconds:.0f} s from what was drawn"

    told("the job worker, drawing", lambda: kill(part(process, "jobs.worker")), taken_up)
    postmaster = folder / "postgres/data/postmaster.pid"
    told("PostgreSQL", lambda: os.kill(int(postmaster.read_text().split()[0]), signal.SIGKILL))

    def everything() -> None:
        nonlocal process
        kill(process.pid)
        process.wait()
        process = start(folder, port)

    told("all of it, started again by hand", everything)
    marker.ends = True
    marker.join()
    missing = lost(url_of(folder), marker)
    rows.append(("**acknowledged writes lost**", "", f"**{missing}** of {marker.writes}"))

    at = time.monotonic()
    note = backups.make(url_of(folder), folder / "backups", "trial")
    made_s = time.monotonic() - at
    other = Path(tempfile.mkdtemp(prefix="wolfsbane-trial-"))
    other.chmod(0o755)
    fresh = PrivatePostgres(other / "postgres").start()
    try:
        at = time.monotonic()
        backups.restore(fresh.url(), folder / "backups" / note.file)
        back_s = time.monotonic() - at
        gone = lost(fresh.url(), marker)
    finally:
        fresh.stop()
        shutil.rmtree(other, ignore_errors=True)
    rows.append(("backup, brought back elsewhere", "", f"made in {made_s:.1f} s, back in {back_s:.1f} s, {gone} lost"))
    process.send_signal(signal.SIGINT)
    process.wait(120)
    if missing or gone:
        raise SystemExit("acknowledged writes were lost")
    return rows


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--write", action="store_true", help="write the table into docs/operations.md")
    args = parser.parse_args()
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-trial-"))
    folder.chmod(0o755)
    try:
        rows = trial(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    lines = ["| killed outright (SIGKILL) | longest time without an answered write, s | |", "|---|---|---|"]
    table = "\n".join(lines + [f"| {a} | {b} | {c} |" for a, b, c in rows])
    print(table)
    if args.write:
        text = DOC.read_text()
        DOC.write_text(re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}\n{table}\n{END}", text, flags=re.S))


if __name__ == "__main__":
    main()
