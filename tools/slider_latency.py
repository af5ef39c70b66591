"""How long the bench's picture takes after the hand moves a slider, measured in the browser: ``make slider``.

Fifty single moves, each from the change of the value until the frame after it is painted; then fifty moves in one go,
where the last value must win; then a sheet of five calls is planned, drawn and printed for a class of twenty-four,
three times, with the seconds that takes: while nobody touches the page; while the slider is moved all the time; and as
a draft that is issued once it was drawn ahead. Starts the demo on its own port and folder unless an address is given.
"""

import contextlib
import json
import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request

from playwright.sync_api import sync_playwright

from wolfsbane.server.run.demo import INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD
from wolfsbane.server.run.postgres import free_port

ARGS = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"]
MOVES = 50
#: apprentices of the class whose sheet is drawn meanwhile
CLASS = 24
#: aim for the 95th percentile, ms
AIM_MS = 100
FAULTS = ("Low charge (undercharged)", "Dirty condenser")


@contextlib.contextmanager
def served():
    """The demo on a free port in a folder of its own; yields its address."""
    folder, port = tempfile.mkdtemp(prefix="wolfsbane-slider-"), free_port()
    os.chmod(folder, 0o755)
    environment = {**os.environ, "WOLFSBANE_DATA_DIR": folder, "WOLFSBANE_PORT": str(port), "WOLFSBANE_WORKERS": "1"}
    process = subprocess.Popen(
        [sys.executable, "-m", "wolfsbane.server.run.launch", "--demo"], env=environment, stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(400):
            with contextlib.suppress(OSError), urllib.request.urlopen(f"{address}/api/v1/session", timeout=2):
                break
            if process.poll() is not None:
                raise SystemExit("the demo did not start; run make demo to see why")
            time.sleep(1)
        yield address
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(60)


def _moves(page):
    return page.evaluate("performance.getEntriesByName('bench-move').map(e => e.duration)")


def _single_moves(page, moves, there="ArrowRight", back="ArrowLeft"):
    """Sorted times of single moves of the slider that has the focus, ten there and ten back, ms."""
    page.evaluate("performance.clearMeasures('bench-move')")
    for move in range(moves):
        page.keyboard.press(there if move % 20 < 10 else back)
        page.wait_for_function("n => performance.getEntriesByName('bench-move').length > n", arg=move)
        page.wait_for_timeout(60)
    return sorted(_moves(page)[:moves])


def _told(times):
    return {
        "moves": len(times),
        "median_ms": round(statistics.median(times), 1),
        "p95_ms": round(times[int(0.95 * len(times))], 1),
        "worst_ms": round(times[-1], 1),
        "aim_ms": AIM_MS,
    }


class Asking:
    """The API as the logged-in page asks it."""

    def __init__(self, page, address):
        self.page, self.base = page, f"{address}/api/v1"
        self.csrf = self.get("/session")["csrf"]

    def get(self, path):
        return self.page.request.get(self.base + path).json()

    def post(self, path, body):
        return self.page.request.post(self.base + path, data=body, headers={"X-CSRF-Token": self.csrf}).json()


def issued(asking, draft=False):
    """(id of a sheet that is being drawn for a class of twenty-four, seconds its plan took); of a draft of it."""
    people = [{"name": f"Apprentice {i}", "number": str(i)} for i in range(1, CLASS + 1)]
    class_id = asking.post("/classes", {"name": f"Timed {time.time():.0f}", "apprentices": people})["id"]
    begun = time.monotonic()
    found = asking.post("/briefs/read", {"text": "five calls, levels 1 to 4"})["brief"]
    plan = asking.post("/briefs/plan", {"brief": {"title": "Timed", **found}})
    planned = time.monotonic() - begun
    items = [
        {
            "kind": "rung",
            "brief": plan["brief"],
            "rung": {"number": r["rung"], **{k: r[k] for k in ("level", "skill", "skills", "success", "look_decides")}},
        }
        for r in plan["ladder"]
    ]
    body = {"title": "Timed", "class_id": class_id, "items": items, "draft": draft}
    return asking.post("/sheets", body)["id"], planned


def measured(page, address):
    """{quiet: {moves, median_ms, p95_ms, worst_ms}, burst: {moves, asked, last_wins}, untouched: the seconds plan and
    set take while nobody touches the page, drawing: as quiet, with the same seconds, drawn_ahead: the seconds of a
    draft} of one page.
    """
    asked = []
    page.on("request", lambda r: r.url.endswith("/api/v1/bench") and asked.append(json.loads(r.post_data)))
    page.goto(f"{address}/bench")
    page.fill("[name=login]", INSTRUCTOR_LOGIN)
    page.fill("[name=password]", INSTRUCTOR_PASSWORD)
    page.click("button[type=submit]")
    page.wait_for_selector(".dials svg")
    for fault in FAULTS:
        page.click("[data-test=fault]")
        page.locator(".el-select-dropdown__item:visible", has_text=fault).first.click()
    page.wait_for_timeout(4000)
    slider = page.get_by_role("slider", name=f"Severity of {FAULTS[0]}")
    slider.focus()
    quiet = _single_moves(page, MOVES)
    page.evaluate("performance.clearMeasures('bench-move')")
    asked.clear()
    for _ in range(MOVES):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(1500)
    shown = page.locator("[data-test=severity]").first.inner_text().split()[0]
    last_wins = float(shown) == asked[-1]["faults"][0]["severity"]
    burst = {"moves": MOVES, "asked": len(asked), "last_wins": last_wins}
    asking, busy = Asking(page, address), []
    untouched = _until_ready(asking, lambda: page.wait_for_timeout(250))
    drawing = _until_ready(asking, lambda: busy.extend(_single_moves(page, 20, "ArrowLeft", "ArrowRight")))
    return {
        "quiet": _told(quiet),
        "burst": burst,
        "untouched": untouched,
        "drawing": _told(sorted(busy)) | drawing,
        "drawn_ahead": _drawn_ahead(asking, page),
    }


def _drawn_ahead(asking, page):
    """Seconds a draft takes to be drawn while nobody touches the page, and from its issue to the packet."""
    sheet_id, _ = issued(asking, draft=True)
    begun = time.monotonic()
    while (far := asking.get(f"/sheets/{sheet_id}/ahead"))["drawn"] < far["of"]:
        page.wait_for_timeout(250)
    drawn = time.monotonic()
    asking.post(f"/sheets/{sheet_id}/issue", {})
    while (status := asking.get(f"/sheets/{sheet_id}")["status"]) not in ("ready", "failed", "cancelled"):
        page.wait_for_timeout(250)
    packet = time.monotonic() - drawn
    return {"drawn_s": round(drawn - begun, 1), "issue_to_packet_s": round(packet, 1), "status": status}


def _until_ready(asking, meanwhile):
    """Seconds a plan and its set with the packet take, and what became of it; ``meanwhile`` is done again and again."""
    sheet_id, planned = issued(asking)
    begun = time.monotonic()
    while (status := asking.get(f"/sheets/{sheet_id}")["status"]) not in ("ready", "failed", "cancelled"):
        meanwhile()
    return {"plan_s": round(planned, 1), "set_and_packet_s": round(time.monotonic() - begun, 1), "status": status}


def main(address=None):
    """Measure and print."""
    with contextlib.ExitStack() as stack:
        address = address or stack.enter_context(served())
        play = stack.enter_context(sync_playwright())
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        found = measured(browser.new_page(viewport={"width": 1280, "height": 800}), address)
        browser.close()
    print(json.dumps(found, indent=1))
    if not found["burst"]["last_wins"]:
        raise SystemExit("the last value did not win")


if __name__ == "__main__":
    main(*sys.argv[1:])
