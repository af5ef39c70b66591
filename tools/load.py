"""A college's afternoon on two hosts of this machine: apprentices who read, instructors who mark and look at faults.
Writes what was answered, how fast, and who worked how much into docs/operations.md.

Everything is on one machine: both hosts, the database, and whoever asks. Who worked how much tells what each needs.
"""

import argparse
import os
import random
import re
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
from pathlib import Path

from hands import PASSWORD, Client, below, command, wait

from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.core.db.migrate import migrate
from wolfsbane.server.core.security import hash_password
from wolfsbane.server.run.postgres import PrivatePostgres, free_port

DOC = Path(__file__).parents[1] / "docs" / "operations.md"
BEGIN, END = "<!-- load -->", "<!-- /load -->"
#: seconds from one page to the next, on average
APPRENTICE_S, INSTRUCTOR_S = 8.0, 4.0
INSTRUCTORS, CLASS = 10, 30
SCENARIO = {
    "title": "Runs all afternoon",
    "machine": "split-3t-r410a-txv",
    "fault": "undercharge",
    "severity": 80,
    "outdoor_db_f": 93,
    "return_db_f": 78,
    "return_wb_f": 65.5,
}
TICKS = os.sysconf("SC_CLK_TCK")


class Person(threading.Thread):
    """Somebody with a browser: ``pages`` draws what they ask for next."""

    def __init__(self, address: str, login: str, pause_s: float, pages: list, seed: int) -> None:
        super().__init__(daemon=True)
        self.client, self.pause_s, self.pages = Client(address).log_in(login), pause_s, pages
        self.draw, self.ends = random.Random(seed), threading.Event()
        self.times: list[float] = []
        self.errors: list[str] = []

    def run(self) -> None:
        self.ends.wait(self.draw.uniform(0, self.pause_s))
        while not self.ends.is_set():
            method, path, body = self.draw.choice(self.pages)(self.draw)
            began = time.monotonic()
            try:
                self.client.call(method, path, body)
                self.times.append(time.monotonic() - began)
            except urllib.error.HTTPError as error:
                self.errors.append(f"{method} {path}: {error.code}")
            except OSError as error:
                self.errors.append(f"{method} {path}: {error}")
            self.ends.wait(self.draw.expovariate(1 / self.pause_s))


def start(folder: Path, port: int, url: str, parts: str) -> subprocess.Popen:
    folder.mkdir(mode=0o755)
    environment = os.environ | {
        "WOLFSBANE_DATA_DIR": str(folder),
        "WOLFSBANE_PORT": str(port),
        "WOLFSBANE_DATABASE_URL": url,
        "WOLFSBANE_WORKERS": "1",
        "WOLFSBANE_PARTS": parts,
    }
    log = folder / "launch.log"
    with open(log, "ab") as out:
        process = subprocess.Popen(
            [sys.executable, "-m", "wolfsbane.server.run.launch"], env=environment, stdout=out, stderr=out
        )
    wait(lambda: "Ctrl-C stops" in log.read_text())
    return process


def everybody(pid: int) -> list[int]:
    return [pid, *(p for child in below(pid) for p in everybody(child))]


def worked(pid: int, word: str = "") -> float:
    """Seconds of processor that a process and all below it used, of those whose command holds ``word``."""
    total = 0.0
    for one in everybody(pid):
        if word in command(one):
            try:
                fields = Path(f"/proc/{one}/stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            total += (int(fields[11]) + int(fields[12])) / TICKS
    return total


def memory_mb(pid: int) -> float:
    found = 0
    for one in everybody(pid):
        try:
            found += int(re.search(r"Pss:\s+(\d+)", Path(f"/proc/{one}/smaps_rollup").read_text())[1])
        except (OSError, TypeError):
            continue
    return found / 1024


def founded(url: str, apprentices: int) -> None:
    """A school with instructors and apprentices, who all have the same password."""
    db, hashed = Database(url, size=1).open(), hash_password(PASSWORD)
    with db.transaction() as connection:
        school_id = queries.school_add(connection, name="Load School", time_zone="UTC")["id"]

        def user(login: str, role: str) -> int:
            return queries.user_add(
                connection, school_id=school_id, login=login, name=login.title(), role=role, password_hash=hashed
            )["id"]

        for n in range(INSTRUCTORS):
            user(f"teacher{n}", "instructor")
        for first in range(0, apprentices, CLASS):
            class_id = queries.class_add(connection, school_id=school_id, name=f"Class {first // CLASS}", term="")["id"]
            for n in range(first, min(first + CLASS, apprentices)):
                person = queries.apprentice_add(
                    connection, school_id=school_id, class_id=class_id, name=f"Person {n}", number="", group_name=""
                )
                queries.apprentice_link(
                    connection, school_id=school_id, id=person["id"], user_id=user(f"person{n}", "apprentice")
                )
    db.close()


FLUIDS = ("R-22", "R-410A", "R-32", "R-134a", "R-404A")
BENCH = {"machine": "split-3t-r410a-txv", "units": "us", "return_db_f": 76, "return_wb_f": 63}
READS = [
    lambda d: ("GET", "/mine", None),
    lambda d: ("GET", "/session", None),
    lambda d: ("GET", f"/reference/pt/{d.choice(FLUIDS)}?units=us", None),
    lambda d: ("GET", f"/reference/pt/{d.choice(FLUIDS)}/convert?units=us&pressure={d.randint(60, 400)}", None),
]


def teaches(sheet: int, codes: list[str]) -> list:
    def plant(d: random.Random) -> tuple:
        fault = {"fault": d.choice(("undercharge", "overcharge", "dirty_condenser")), "severity": d.randint(20, 80)}
        return "POST", "/bench", BENCH | {"faults": [fault], "outdoor_db_f": d.randint(75, 110)}

    def mark(d: random.Random) -> tuple:
        body = {"call": 1, "answers": {"superheat": str(d.randint(4, 30)), "subcooling": str(d.randint(1, 20))}}
        return "PUT", f"/papers/{d.choice(codes)}/answers", body

    return [
        plant,
        mark,
        lambda d: ("GET", f"/sheets/{sheet}/results", None),
        lambda d: ("GET", f"/papers/{d.choice(codes)}", None),
        lambda d: ("GET", "/today", None),
    ]


def afternoon(folder: Path, most: int, steps: tuple[int, ...], seconds: float) -> list[str]:
    """Rows of the table, one for each number of apprentices."""
    postgres = PrivatePostgres(folder / "postgres").start()
    hosts = []
    try:
        migrate(postgres.url())
        founded(postgres.url(), most)
        for name, parts in (("one", "web,worker"), ("two", "web")):
            port = free_port()
            hosts.append((start(folder / name, port, postgres.url(), parts), f"http://127.0.0.1:{port}"))
        addresses = [address for _, address in hosts]
        teacher = Client(addresses[0]).log_in("teacher0")
        class_id = teacher.call("GET", "/classes")["classes"][0]["id"]
        scenario_id = teacher.call("POST", "/scenarios", SCENARIO)["id"]
        item = {"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}
        sheet = teacher.call("POST", "/sheets", {"title": "Friday", "class_id": class_id, "items": [item]})["id"]
        wait(lambda: teacher.call("GET", f"/sheets/{sheet}")["status"] == "ready")
        codes = [r["code"] for r in teacher.call("GET", f"/sheets/{sheet}/results")["rows"]]
        return [step(postgres, hosts, sheet, codes, apprentices=apprentices, seconds=seconds) for apprentices in steps]
    finally:
        for process, _ in hosts:
            process.send_signal(signal.SIGINT)
        for process, _ in hosts:
            process.wait(120)
        postgres.stop()


def step(
    postgres: PrivatePostgres, hosts: list, sheet: int, codes: list[str], *, apprentices: int, seconds: float
) -> str:
    addresses = [address for _, address in hosts]
    here = [Person(addresses[n % 2], f"person{n}", APPRENTICE_S, READS, n) for n in range(apprentices)]
    desk = [
        Person(addresses[n % 2], f"teacher{n}", INSTRUCTOR_S, teaches(sheet, codes), 1000 + n)
        for n in range(INSTRUCTORS)
    ]
    for person in (*here, *desk):
        person.start()
    time.sleep(5)
    for person in (*here, *desk):
        person.times.clear()
        person.errors.clear()
    base = int((postgres.data / "postmaster.pid").read_text().split()[0])
    pids = [process.pid for process, _ in hosts]

    def used() -> list[float]:
        apps = [worked(pid, "gunicorn") + worked(pid, "multiprocessing") for pid in pids]
        return [*apps, sum(worked(pid, "nginx") for pid in pids), worked(base), time.process_time()]

    before, began = used(), time.monotonic()
    time.sleep(seconds)
    took = time.monotonic() - began
    share = [100 * (b - a) / took for a, b in zip(before, used(), strict=True)]
    for person in (*here, *desk):
        person.ends.set()
    for person in (*here, *desk):
        person.join()

    def told(people: list[Person]) -> tuple[str, str]:
        times = sorted(t for p in people for t in p.times)
        at = [times[min(len(times) - 1, int(len(times) * q))] * 1000 for q in (0.5, 0.95, 0.99)]
        return f"{len(times) / took:.0f}", " / ".join(f"{ms:.0f}" for ms in at)

    wrong = [e for p in (*here, *desk) for e in p.errors]
    for line in wrong[:5]:
        print(line, file=sys.stderr)
    (reads, read_ms), (works, work_ms) = told(here), told(desk)
    memory = statistics.mean(memory_mb(pid) for pid in pids)
    cells = [
        f"{apprentices} + {INSTRUCTORS}",
        reads,
        read_ms,
        works,
        work_ms,
        str(len(wrong)),
        *(f"{s:.0f} %" for s in share),
        f"{memory:.0f} MB",
    ]
    row = f"| {' | '.join(cells)} |"
    print(row, flush=True)
    return row


HEAD = (
    "| apprentices + instructors | their pages a second | ms, half / 95 % / 99 % | instructors' a second "
    "| ms, half / 95 % / 99 % | failed | host 1 | host 2 | fronts | PostgreSQL | whoever asks | memory of a host |\n"
    "|---|---|---|---|---|---|---|---|---|---|---|---|"
)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--apprentices", default="60,150,300", help="how many at once, one row each")
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--write", action="store_true", help="write the table into docs/operations.md")
    args = parser.parse_args()
    steps = tuple(int(n) for n in args.apprentices.split(","))
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-load-"))
    folder.chmod(0o755)
    try:
        rows = afternoon(folder, max(steps), steps, args.seconds)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    if args.write:
        table = "\n".join([HEAD, *rows])
        text = DOC.read_text()
        DOC.write_text(re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}\n{table}\n{END}", text, flags=re.S))


if __name__ == "__main__":
    main()
