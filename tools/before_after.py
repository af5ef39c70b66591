"""What an audit found of hostile clients, long work and growth, measured again on this machine, beside what it was:
writes docs/before-and-after.md. All traffic stays on this machine and is bounded.
"""

import contextlib
import hashlib
import http.client
import io
import json
import os
import shutil
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
import zipfile
from collections.abc import Callable
from pathlib import Path

from hands import PASSWORD, Client, wait
from load import SCENARIO, memory_mb, start

from wolfsbane.server.core.db.database import Database, queries
from wolfsbane.server.core.db.migrate import migrate
from wolfsbane.server.core.security import hash_password
from wolfsbane.server.run.postgres import PrivatePostgres, free_port

DOC = Path(__file__).parents[1] / "docs" / "before-and-after.md"
HEAD = """# Hostile clients, long work, growth: before and after

*Before* is what the audit measured on the application as it was; *now* is what `make figures` measured on {cores}
shared cores, with everything (server, database, whoever asks) on one machine. How fast it comes back when a process is
killed, and that nothing acknowledged is lost: [operations.md](operations.md). What holds by a test and not by a figure
stands at the end.

| what | before | now |
|---|---|---|
"""
TESTED = """
| held by a test | before | now | test |
|---|---|---|---|
| two instructors who disable each other at once | a school without any | the second is refused | `test_accounts.py` |
| the password "1234567890" | taken | refused | `test_accounts.py` |
| words of the answer in the browser after log-out | the planted fault | none | `tests/browser/test_hands.py` |
| a cell `-2+3+cmd` in a CSV | a formula | text | `test_exchange.py` |
| drawn requests that answer 500 | 37 of 4,000 | 0 | `test_fuzz.py` |
| a killed worker noticed | after 166 s | after 14 to 18 s | `test_queue.py`, `make trial` |
| writes acknowledged and lost when processes are killed | 0 of 16,110 | 0 | `test_killed.py`, `make trial` |
| backup, restore, upgrade | none | verified, brought back elsewhere | `test_backups.py`, `make trial` |

A school of 36,000 calls could not be brought in from a file; one of 50,085 came in with 234 MB held at most
([operations.md](operations.md)).
"""
#: how long unfinished requests are watched, s; pages asked meanwhile
WATCHED_S, PAGES = 100.0, 60


def page_s(client: Client) -> float:
    """Seconds that one page took."""
    began = time.monotonic()
    client.call("GET", "/session")
    return time.monotonic() - began


def while_busy(client: Client, work: Callable[[], object]) -> tuple[float, float]:
    """(longest page while ``work`` runs, seconds of the work)."""
    times, thread, began = [page_s(client)], threading.Thread(target=work), time.monotonic()
    thread.start()
    while thread.is_alive():
        times.append(page_s(client))
        time.sleep(0.02)
    return max(times), time.monotonic() - began


def at_once(pieces: list[Callable[[], object]]) -> list[float]:
    """Seconds of each of several pieces begun together."""
    times: list[float] = []

    def one(piece: Callable[[], object]) -> None:
        began = time.monotonic()
        try:
            piece()
        except urllib.error.HTTPError as error:
            print(error.code, error.read()[:300].decode(), file=sys.stderr)
        times.append(time.monotonic() - began)

    threads = [threading.Thread(target=one, args=(piece,)) for piece in pieces]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return times


def unfinished(port: int, client: Client) -> tuple[str, str]:
    """Forty sockets whose headers never end: the longest page meanwhile, and when the last was closed."""
    sockets = [socket.create_connection(("127.0.0.1", port)) for _ in range(40)]
    for one in sockets:
        one.sendall(b"GET / HTTP/1.1\r\nHost: x\r\nX-Slow: ")
        one.setblocking(False)
    began, times, closed = time.monotonic(), [], 0.0
    while sockets and time.monotonic() - began < WATCHED_S:
        if len(times) < PAGES:
            times.append(page_s(client))
        for one in list(sockets):
            with contextlib.suppress(BlockingIOError):
                try:
                    gone = not one.recv(4096)
                except OSError as error:
                    if isinstance(error, BlockingIOError):
                        raise
                    gone = True
                if gone:
                    sockets.remove(one)
                    closed = time.monotonic() - began
        time.sleep(0.05)
    ends = f"all closed after {closed:.0f} s" if not sockets else f"{len(sockets)} open after {WATCHED_S:.0f} s"
    return f"longest page {1000 * max(times):.0f} ms, half of them {1000 * statistics.median(times):.0f} ms", ends


def guessed(address: str) -> tuple[str, str]:
    """Somebody fails in an owner's name; the owner, whose browser is known, logs in. And 24 log-ins at once."""
    owner, wrong = Client(address).log_in("teacher1"), 0
    with contextlib.suppress(urllib.error.HTTPError):
        owner.call("DELETE", "/session")
    stranger = Client(address)
    for _ in range(8):
        try:
            stranger.csrf = stranger.call("GET", "/session")["csrf"]
            stranger.call("POST", "/session", {"login": "teacher1", "password": "not-this-one"})
        except urllib.error.HTTPError:
            wrong += 1
    began = time.monotonic()
    owner.log_in("teacher1")
    took = time.monotonic() - began
    reader = Client(address).log_in("teacher2")
    longest, _ = while_busy(
        reader, lambda: at_once([lambda n=n: Client(address).log_in(f"person{n}") for n in range(24)])
    )
    return f"after {wrong} failures: in, {1000 * took:.0f} ms", f"longest page meanwhile {1000 * longest:.0f} ms"


def bomb(address: str, process: subprocess.Popen) -> str:
    """A small file that unpacks a thousandfold, sent as a school: what the server's memory grew by at most."""
    reply = Client(address).log_in("teacher0")
    with reply.opener.open(f"{reply.address}/school/export.zip", timeout=60) as sent:
        source = zipfile.ZipFile(io.BytesIO(sent.read()))
    large, packed = b'{"name": "' + b"a" * 14_000_000 + b'"}\n', io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in source.namelist():
            raw = large if name == "classes.jsonl" else source.read(name)
            if name == "school.json":
                told = json.loads(raw)
                told["files"]["classes.jsonl"] = hashlib.sha256(large).hexdigest()
                raw = json.dumps(told).encode()
            archive.writestr(name, raw)
    owner, before, most = Client(address).log_in("other0"), memory_mb(process.pid), 0.0
    request = urllib.request.Request(
        f"{owner.address}/school/import",
        method="POST",
        data=packed.getvalue(),
        headers={"Content-Type": "application/zip", "X-CSRF-Token": owner.csrf},
    )
    status: list[int] = []

    def send() -> None:
        try:
            status.append(owner.opener.open(request, timeout=60).status)
        except urllib.error.HTTPError as error:
            status.append(error.code)

    thread = threading.Thread(target=send)
    thread.start()
    while thread.is_alive():
        most = max(most, memory_mb(process.pid) - before)
    size = len(packed.getvalue()) / 1024
    return f"{size:.0f} kB refused with {status[0]}; {max(most, 0.0):.0f} MB more at most"


def sheet(owner: Client, title: str, people: int, calls: int) -> int:
    """A sheet on its way: each person ``calls`` calls."""
    people_of = [f"Person {n}" for n in range(people)]
    class_id = owner.call("POST", "/classes", {"name": f"Class of {title}", "apprentices": people_of})["id"]
    scenario = owner.call("POST", "/scenarios", SCENARIO | {"title": title})["id"]
    items = [{"kind": "scenario", "scenario_id": scenario}] * calls
    return owner.call("POST", "/sheets", {"title": title, "class_id": class_id, "items": items})["id"]


def neighbors(address: str) -> tuple[str, str]:
    """A sheet of one page beside three of a neighboring school's with 24 times five calls each."""
    small, large = Client(address).log_in("teacher0"), Client(address).log_in("other0")

    def ready(owner: Client, one: int) -> bool:
        return owner.call("GET", f"/sheets/{one}")["status"] == "ready"

    began = time.monotonic()
    one = sheet(small, "Alone", 1, 1)
    wait(lambda: ready(small, one))
    alone = time.monotonic() - began
    others = [sheet(large, f"Large {n}", 24, 5) for n in range(3)]
    wait(lambda: any(large.call("GET", f"/sheets/{s}")["status"] == "building" for s in others))
    began = time.monotonic()
    one = sheet(small, "Beside", 1, 1)
    wait(lambda: ready(small, one))
    beside = time.monotonic() - began
    for other in others:
        wait(lambda s=other: ready(large, s))
    return f"{beside:.1f} s (alone {alone:.1f} s)", f"all three of them ready after {time.monotonic() - began:.0f} s"


def planned(address: str) -> str:
    """Twenty calls planned, alone and eight at once."""
    asked = {"brief": {"title": "Long", "calls": 20, "levels": [1, 5]}}
    owners = [Client(address).log_in(f"teacher{n}") for n in range(8)]
    alone = at_once([lambda: owners[0].call("POST", "/briefs/plan", asked)])[0]
    together = at_once([lambda o=o: o.call("POST", "/briefs/plan", asked) for o in owners])
    return f"{alone:.1f} s alone, {max(together):.1f} s eight at once"


def founded(url: str) -> None:
    """Two schools with instructors and apprentices, all with one password."""
    db, hashed = Database(url, size=1).open(), hash_password(PASSWORD)
    with db.transaction() as connection:
        for school, names in (("One", [f"teacher{n}" for n in range(8)]), ("Other", ["other0"])):
            school_id = queries.school_add(connection, name=f"School {school}", time_zone="UTC")["id"]
            people = [(name, "instructor") for name in names]
            people += [(f"person{n}", "apprentice") for n in range(24)] if school == "One" else []
            for login, role in people:
                queries.user_add(
                    connection, school_id=school_id, login=login, name=login, role=role, password_hash=hashed
                )
    db.close()


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-figures-"))
    folder.chmod(0o755)
    postgres = PrivatePostgres(folder / "postgres").start()
    process = None
    try:
        migrate(postgres.url())
        founded(postgres.url())
        port = free_port()
        process = start(folder / "one", port, postgres.url(), "web,worker")
        address = f"http://127.0.0.1:{port}"
        reader, rows = Client(address).log_in("teacher0"), []

        def told(what: str, before: str, now: str) -> None:
            rows.append(f"| {what} | {before} | {now} |")
            print(rows[-1], flush=True)

        pages, ends = unfinished(port, reader)
        told("forty sockets with unfinished headers: pages meanwhile", "none answered", pages)
        told("the same: the sockets", "none closed in 100 s", ends)
        owner, log_ins = guessed(address)
        told("eight wrong passwords from elsewhere, then the owner", "429", owner)
        told("24 log-ins at once", "every page held for seconds", log_ins)
        told("a bomb of a file as a school", "14 kB: 573 MB", bomb(address, process))
        told("20 calls planned", "27 s alone, 192 s eight at once", planned(address))
        beside, others = neighbors(address)
        told("a sheet of one page beside three large ones of a neighbor", "6 min late", beside)
        told("the same: the neighbor's three of 24 × 5 calls", "", others)
    finally:
        if process is not None:
            process.send_signal(signal.SIGINT)
            process.wait(120)
        postgres.stop()
        shutil.rmtree(folder, ignore_errors=True)
    DOC.write_text(HEAD.format(cores=os.cpu_count()) + "\n".join(rows) + "\n" + TESTED)


if __name__ == "__main__":
    try:
        main()
    except (http.client.HTTPException, urllib.error.HTTPError) as error:
        sys.exit(str(error))
