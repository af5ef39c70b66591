"""What ``make demo`` starts, in a real browser: the fixtures and the hands of these tests."""

import os
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import Error, expect, sync_playwright

from wolfsbane.server.run.demo import INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD
from wolfsbane.server.run.postgres import free_port

# The machines that run this are shared and noisy: nothing here is a test of speed.
expect.set_options(timeout=300_000)


def answers_ok(address):
    try:
        with urllib.request.urlopen(f"{address}/api/v1/session", timeout=2) as reply:
            return reply.status == 200
    except OSError:
        return False


def wait(what, seconds=900):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if what():
            return
        time.sleep(0.3)
    raise AssertionError("waited in vain")


@pytest.fixture(scope="session")
def demo():
    """The start command itself, with its own data folder and port; yields (address, process, folder)."""
    folder = Path(tempfile.mkdtemp(prefix="wolfsbane-demo-"))
    folder.chmod(0o755)
    port = free_port()
    environment = {
        **os.environ,
        "WOLFSBANE_DATA_DIR": str(folder),
        "WOLFSBANE_PORT": str(port),
        "WOLFSBANE_WORKERS": "1",
    }
    environment.pop("WOLFSBANE_DATABASE_URL", None)
    with open(folder / "launch.log", "w") as log:
        process = subprocess.Popen(
            [sys.executable, "-m", "wolfsbane.server.run.launch", "--demo"], env=environment, stdout=log, stderr=log
        )
    address = f"http://127.0.0.1:{port}"
    try:
        wait(lambda: answers_ok(address) or process.poll() is not None)
        assert process.poll() is None, (folder / "launch.log").read_text()
        yield address, process, folder
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(600)
    assert process.returncode == 0 and "stopped." in (folder / "launch.log").read_text()


@pytest.fixture(scope="session")
def browser(demo):
    arguments = [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ]
    with sync_playwright() as play:
        chromium = play.chromium.launch(executable_path="/usr/bin/chromium", args=arguments)
        yield chromium
        chromium.close()


@pytest.fixture
def page(browser, demo):
    """A page at 1280x800 that fails the test on any console error, CSP report or uncaught exception."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    page = context.new_page()
    page.set_default_timeout(300_000)
    trouble = []
    page.allowed, page.under_way = [], set()
    page.on("request", lambda r: page.under_way.add(r))
    for ended in ("requestfinished", "requestfailed"):
        page.on(ended, lambda r: page.under_way.discard(r))
    page.on("console", lambda m: m.type == "error" and trouble.append(m.text))
    page.on("pageerror", lambda e: trouble.append(str(e)))
    page.on(
        "request",
        lambda r: None if r.url.startswith((demo[0], "data:", "blob:")) else trouble.append(f"fetches {r.url}"),
    )
    yield page
    context.close()
    assert [t for t in trouble if not any(a in t for a in page.allowed)] == []


def still(page):
    """Until nothing is under way on the page: no request, and nothing that moves."""

    def quiet():
        try:
            page.evaluate("() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))")
            moving = page.evaluate("() => document.getAnimations().some(a => a.playState === 'running')")
        except Error as gone:
            if "Execution context was destroyed" not in str(gone):
                raise
            return False  # another page is coming
        return not moving and not page.under_way

    wait(lambda: quiet() and quiet())


def log_in(page, address, login=INSTRUCTOR_LOGIN, password=INSTRUCTOR_PASSWORD, path="/bench"):
    page.goto(address + path)
    page.fill("[name=login]", login)
    page.fill("[name=password]", password)
    page.click("button[type=submit]")
    expect(page.get_by_role("button", name="Log out")).to_be_visible()


def log_out(page):
    """Log out, and wait for the page that comes after it; what the old one still asks for is refused, and shows the
    log-in over it: a field for the password alone does not say that the new page stands.
    """
    page.allowed = [*getattr(page, "allowed", []), "401"]
    page.evaluate("() => { window.beforeLogOut = true }")
    page.get_by_role("button", name="Log out").click()
    page.wait_for_function("() => !window.beforeLogOut && document.querySelector('[name=password]')")
    expect(page.locator("[name=password]")).to_be_visible()


def choose(page, mark, name):
    """Pick an entry of a list, the short kind or the kind one searches."""
    field = page.locator(f"[data-test={mark}]")
    if field.evaluate("e => e.tagName") == "SELECT":
        field.select_option(label=field.locator("option", has_text=name).first.inner_text().strip())
        return
    field.click()
    page.locator(".el-select-dropdown__item:visible", has_text=name).first.click()


def plant(page, fault):
    choose(page, "fault", fault)
