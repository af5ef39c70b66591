"""What tools that try a running server out share: somebody over the wire, waiting, and the processes of a server."""

import contextlib
import http.client
import http.cookiejar
import json
import os
import signal
import subprocess
import time
import urllib.request
from pathlib import Path

PASSWORD = "tanager-pleat-7"


class Client:
    """Somebody over the wire; raises OSError where nobody answers."""

    def __init__(self, address: str) -> None:
        self.address, self.csrf = f"{address}/api/v1", ""
        jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))

    def call(self, method: str, path: str, body: object = None) -> dict:
        request = urllib.request.Request(
            self.address + path,
            method=method,
            data=None if body is None else json.dumps(body).encode(),
            headers={"Content-Type": "application/json", "X-CSRF-Token": self.csrf},
        )
        try:
            with self.opener.open(request, timeout=60) as reply:
                return json.loads(reply.read())
        except http.client.HTTPException as error:
            raise ConnectionError(str(error)) from error

    def log_in(self, login: str = "trial") -> "Client":
        self.csrf = self.call("GET", "/session")["csrf"]
        self.csrf = self.call("POST", "/session", {"login": login, "password": PASSWORD})["csrf"]
        return self


def wait(what: object, most_s: float = 900.0) -> None:
    end = time.monotonic() + most_s
    while time.monotonic() < end:
        try:
            if what():
                return
        except OSError:
            pass
        time.sleep(0.05)
    raise SystemExit("waited in vain")


def below(pid: int) -> list[int]:
    found = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True).stdout.split()
    return [int(p) for p in found]


def command(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/cmdline").read_text().replace("\0", " ")
    except OSError:
        return ""


def part(process: subprocess.Popen, word: str) -> int:
    return next(p for p in below(process.pid) if word in command(p))


def kill(pid: int) -> None:
    for child in below(pid):
        kill(child)
    with contextlib.suppress(ProcessLookupError):
        os.kill(pid, signal.SIGKILL)
