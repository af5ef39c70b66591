"""A college's afternoon on two hosts of this machine: apprentices who read or play calls on screen, instructors who
mark and look at faults. Writes what was answered, how fast, who worked how much, and what schools need by that into
docs/operations.md.

Everything is on one machine: both hosts, the database, and whoever asks. Who worked how much tells what each needs.
"""

import argparse
import math
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
#: seconds from one page or step to the next, on average
APPRENTICE_S, INSTRUCTOR_S = 8.0, 4.0
INSTRUCTORS, CLASS = 10, 30
READ, PLAY = "read", "play on screen"
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
    """Somebody with a browser: ``pages`` draws what they ask for next; None: they play a call on screen."""

    def __init__(self, address: str, login: str, pause_s: float, pages: list | None, seed: int) -> None:
        super().__init__(daemon=True)
        self.client, self.pause_s = Client(address).log_in(login), pause_s
        self.pages = [Player(self.client).next] if pages is None else pages
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
                self.errors.append(f"{method} {path}: {error.code} {error.read()[:200].decode()}")
            except OSError as error:
                self.errors.append(f"{method} {path}: {error}")
            self.ends.wait(self.draw.expovariate(1 / self.pause_s))


def start(folder: Path, port: int, url: str, parts: str) -> subprocess.Popen:
    folder.mkdir(mode=0o755)
    environment = os.environ | {
        "WOLFSBANE_DATA_DIR": str(folder),
        "WOLFSBANE_PORT": str(port),
        "WOLFSBANE_DATABASE_URL": url,
        "WOLFSBANE_WORKERS": "2",
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


class Player:
    """Somebody who plays a call on screen: the next step, chosen among what the call offers, in the order people do it:
    hoses and clamps first, then readings, looks, tests, and now and then a wait or something done.
    """

    def __init__(self, client: Client) -> None:
        call = client.call("GET", "/screen/mine")["calls"][0]
        run_id = client.call("POST", f"/screen/mine/{call['paper_call_id']}/begin", {})["run_id"]
        self.path, self.count = f"/screen/mine/runs/{run_id}", 0
        self.state = client.call("GET", self.path)
        pipes = [p["point"] for p in self.state["points"] if p["takes"] == "clamp"]
        self.first = [("gauges", {"low": "suction", "high": "liquid"})] if not self.state["sealed"] else []
        self.first += [("clamp", {"pipe": pipe, "spot": "clean"}) for pipe in pipes[:3]]

    def next(self, d: random.Random) -> tuple:
        self.count += 1
        kind, data = self.first.pop(0) if self.first else self.one(d)
        row = {"uid": f"{self.path.rsplit('/', 1)[1]}-step-{self.count}", "kind": kind, "data": data}
        return "POST", f"{self.path}/steps", {"after": self.count - 1, "steps": [row]}

    def one(self, d: random.Random) -> tuple[str, dict]:
        chance, state = d.random(), self.state
        if chance < 0.4:
            return "read", {"point": d.choice(state["points"])["point"]}
        if chance < 0.55:
            return "look", {"check": d.choice(state["looks"])["id"]}
        if chance < 0.65:
            return "test", {"test": d.choice(state["tests"])["id"]}
        if chance < 0.72:
            return "wait", {"minutes": d.choice((1, 5, 10))}
        if chance < 0.75:
            return "settle", {}
        return "answer", {"question": f"read_{d.choice(state['essential'])}", "text": str(d.randint(20, 300))}


def teaches(sheet: int, codes: list[str]) -> list:
    def plant(d: random.Random) -> tuple:
        fault, least, most = d.choice((("undercharge", 60, 95), ("overcharge", 105, 130), ("dirty_condenser", 45, 90)))
        fault = {"id": fault, "severity": d.randint(least, most)}
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


class Afternoon:
    """Two hosts, one database, a school with as many apprentices as ``rows`` asks for, a sheet for each class."""

    def __init__(self, folder: Path, rows: list[tuple[str, int]], seconds: float) -> None:
        self.rows, self.seconds = rows, seconds
        self.postgres = PrivatePostgres(folder / "postgres").start()
        self.hosts: list[subprocess.Popen] = []
        self.addresses: list[str] = []
        self.call_s = self.call_kb = 0.0
        migrate(self.postgres.url())
        founded(self.postgres.url(), max(n for _, n in rows))
        for name, parts in (("one", "web,worker"), ("two", "web")):
            port = free_port()
            self.hosts.append(start(folder / name, port, self.postgres.url(), parts))
            self.addresses.append(f"http://127.0.0.1:{port}")

    def stop(self) -> None:
        for process in self.hosts:
            process.send_signal(signal.SIGINT)
        for process in self.hosts:
            process.wait(120)
        self.postgres.stop()

    def told(self) -> list[dict]:
        """What each row measured."""
        teacher = Client(self.addresses[0]).log_in("teacher0")
        classes = teacher.call("GET", "/classes")["classes"]
        scenario_id = teacher.call("POST", "/scenarios", SCENARIO)["id"]
        item = {"kind": "scenario", "scenario_id": scenario_id, "asked": {"parts": ["diagnose"]}}
        before, before_s = self.size(), sum(worked(p.pid) for p in self.hosts)
        sheets = [
            teacher.call("POST", "/sheets", {"title": "Friday", "class_id": c["id"], "items": [item]})["id"]
            for c in classes[: -(-max(n for _, n in self.rows) // CLASS)]
        ]
        for sheet in sheets:
            wait(lambda s=sheet: teacher.call("GET", f"/sheets/{s}")["status"] == "ready")
        calls = CLASS * len(sheets)
        self.call_s = (sum(worked(p.pid) for p in self.hosts) - before_s) / calls
        self.call_kb = (self.size() - before) / calls / 1024
        for sheet in sheets:
            teacher.call("POST", f"/sheets/{sheet}/screen", {"mode": "practice"})
        codes = [r["code"] for r in teacher.call("GET", f"/sheets/{sheets[0]}/results")["rows"]]
        return [self.row(what, people, sheets[0], codes) for what, people in self.rows]

    def used(self) -> dict[str, float]:
        """Seconds of processor so far, by who used them."""
        pids = [process.pid for process in self.hosts]
        apps = [worked(pid, "gunicorn") + worked(pid, "multiprocessing") for pid in pids]
        base = int((self.postgres.data / "postmaster.pid").read_text().split()[0])
        return {
            "one": apps[0],
            "two": apps[1],
            "fronts": sum(worked(pid, "nginx") for pid in pids),
            "database": worked(base),
            "asks": time.process_time(),
        }

    def size(self) -> int:
        """Bytes of the database."""
        db = Database(self.postgres.url(), size=1).open()
        try:
            with db.transaction() as connection:
                row = connection.execute("select pg_database_size(current_database()) as bytes").fetchone()
                return row["bytes"]
        finally:
            db.close()

    def memory(self) -> float:
        return statistics.mean(memory_mb(process.pid) for process in self.hosts)

    def row(self, what: str, people: int, sheet: int, codes: list[str]) -> dict:
        here = [
            Person(self.addresses[n % 2], f"person{n}", APPRENTICE_S, READS if what == READ else None, n)
            for n in range(people)
        ]
        desk = [
            Person(self.addresses[n % 2], f"teacher{n}", INSTRUCTOR_S, teaches(sheet, codes), 1000 + n)
            for n in range(INSTRUCTORS)
        ]
        for person in (*here, *desk):
            person.start()
        time.sleep(5)
        for person in (*here, *desk):
            person.times.clear()
            person.errors.clear()
        before, memory, began = self.used(), self.memory(), time.monotonic()
        time.sleep(self.seconds)
        took = time.monotonic() - began
        after = self.used()
        for person in (*here, *desk):
            person.ends.set()
        for person in (*here, *desk):
            person.join()
        errors = [e for p in (*here, *desk) for e in p.errors]
        for line in errors[:5]:
            print(line, file=sys.stderr)
        row = {
            "what": what,
            "people": people,
            "here": sorted(t for p in here for t in p.times),
            "desk": sorted(t for p in desk for t in p.times),
            "errors": len(errors),
            "took": took,
            "used": {name: after[name] - before[name] for name in before},
            "memory": (memory, self.memory()),
        }
        print(printed(row), flush=True)
        return row


def printed(row: dict) -> str:
    """A row of the table."""

    def told(times: list[float]) -> tuple[str, str]:
        at = [times[min(len(times) - 1, int(len(times) * q))] * 1000 for q in (0.5, 0.95, 0.99)]
        return f"{len(times) / row['took']:.0f}", " / ".join(f"{ms:.0f}" for ms in at)

    cells = [
        f"{row['people']} {row['what']} + {INSTRUCTORS}",
        *told(row["here"]),
        *told(row["desk"]),
        str(row["errors"]),
        *(f"{100 * s / row['took']:.0f} %" for s in row["used"].values()),
        " → ".join(f"{mb:.0f}" for mb in row["memory"]) + " MB",
    ]
    return f"| {' | '.join(cells)} |"


#: a school in its busiest hour (assumed): who reads, who plays, and calls drawn and printed; calls a student has a year
SCHOOL_READS, SCHOOL_PLAYS, SCHOOL_DRAWS, STUDENTS, CALLS_A_YEAR = 60, 60, 240, 300, 150
#: a host of two cores is filled to half, and one more stands by where there are several (assumed)
HOST_CORES, FILLED, PROCESSES = 2, 0.5, 2


def needs(rows: list[dict], call_s: float, call_kb: float, memory_mb: float) -> list[str]:
    """What schools need, all of them in their busiest hour at once, by what the rows measured."""

    def cores(what: str, names: tuple[str, ...]) -> tuple[float, float]:
        """(for each of them, for the instructors)."""
        few, many = ((r["people"], sum(r["used"][n] for n in names) / r["took"]) for r in rows if r["what"] == what)
        each = (many[1] - few[1]) / (many[0] - few[0])
        return each, few[1] - each * few[0]

    def school(names: tuple[str, ...]) -> float:
        reads, desk = cores(READ, names)
        return SCHOOL_READS * reads + SCHOOL_PLAYS * cores(PLAY, names)[0] + max(desk, 0.0)

    pages, database, draws = school(("one", "two", "fronts")), school(("database",)), SCHOOL_DRAWS * call_s / 3600.0
    lines = []
    for schools in (1, 10, 100):
        hosts = math.ceil(schools * (pages + draws) / (HOST_CORES * FILLED))
        hosts += hosts > 1
        lines.append(
            f"| {schools} | {schools * (SCHOOL_READS + SCHOOL_PLAYS):,} + {schools * INSTRUCTORS:,} "
            f"| {schools * pages:.2f} | {schools * draws:.2f} | {schools * database:.2f} | {hosts} "
            f"| {memory_mb / 1024:.1f} GB | {8 * PROCESSES * hosts + 16} "
            f"| {schools * STUDENTS * CALLS_A_YEAR * call_kb / 1024**2:.1f} GB |"
        )
    return lines


NEEDS = (
    "\n| schools | students + instructors at once | cores for pages and steps | for drawing and printing "
    "| for PostgreSQL | hosts of two cores | memory of each | connections | database grows a year |\n"
    "|---|---|---|---|---|---|---|---|---|"
)
HEAD = (
    "| who | their pages or steps a second | ms, half / 95 % / 99 % | instructors' a second "
    "| ms, half / 95 % / 99 % | failed | host 1 | host 2 | fronts | PostgreSQL | whoever asks | memory of a host |\n"
    "|---|---|---|---|---|---|---|---|---|---|---|---|"
)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--apprentices", default="60,300", help="how many at once: a row who read and one who play")
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--write", action="store_true", help="write the table into docs/operations.md")
    args = parser.parse_args()
    numbers = [int(n) for n in args.apprentices.split(",")]
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-load-"))
    folder.chmod(0o755)
    try:
        afternoon = Afternoon(folder, [(what, n) for what in (READ, PLAY) for n in numbers], args.seconds)
        try:
            rows = afternoon.told()
            school_rows = needs(rows, afternoon.call_s, afternoon.call_kb, max(r["memory"][1] for r in rows))
            print(f"{afternoon.call_s:.2f} s and {afternoon.call_kb:.0f} kB a call", *school_rows, sep="\n")
        finally:
            afternoon.stop()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    if args.write:
        table = "\n".join([HEAD, *map(printed, rows), NEEDS, *school_rows])
        text = DOC.read_text()
        DOC.write_text(re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}\n{table}\n{END}", text, flags=re.S))


if __name__ == "__main__":
    main()
