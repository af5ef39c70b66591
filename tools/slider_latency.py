"""How long the bench's picture takes after the hand moves a slider, measured in the browser: ``make slider``.

Fifty single moves, each from the change of the value until the frame after it is painted; then fifty moves in one go,
where the last value must win. Starts the demo on its own port and folder unless an address is given.
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


def measured(page, address):
    """{moves, median_ms, p95_ms, worst_ms, burst: {sent, answered, last_wins}} of one page."""
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
    page.evaluate("performance.clearMeasures('bench-move')")
    for move in range(MOVES):
        page.keyboard.press("ArrowRight" if move % 20 < 10 else "ArrowLeft")
        page.wait_for_function("n => performance.getEntriesByName('bench-move').length > n", arg=move)
        page.wait_for_timeout(60)
    times = sorted(_moves(page)[:MOVES])
    page.evaluate("performance.clearMeasures('bench-move')")
    asked.clear()
    for _ in range(MOVES):
        page.keyboard.press("ArrowRight")
    page.wait_for_timeout(1500)
    shown = page.locator("[data-test=severity]").first.inner_text().split()[0]
    return {
        "moves": len(times),
        "median_ms": round(statistics.median(times), 1),
        "p95_ms": round(times[int(0.95 * len(times))], 1),
        "worst_ms": round(times[-1], 1),
        "aim_ms": AIM_MS,
        "burst": {"moves": MOVES, "asked": len(asked), "last_wins": float(shown) == asked[-1]["faults"][0]["severity"]},
    }


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
