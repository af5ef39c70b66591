"""Take the pictures in docs/screenshots/ from the demo data: ``make screenshots`` while ``make demo`` runs."""

import subprocess
import sys
from pathlib import Path

from playwright.sync_api import sync_playwright

from wolfsbane.server.run.demo import INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD, SHEET

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def log_in(page, address):
    page.goto(f"{address}/bench")
    page.fill("[name=login]", INSTRUCTOR_LOGIN)
    page.fill("[name=password]", INSTRUCTOR_PASSWORD)
    page.click("button[type=submit]")
    page.wait_for_selector(".dials svg")


def pick(page, mark, option):
    page.click(f"[data-test={mark}]")
    page.locator(".el-select-dropdown__item:visible", has_text=option).first.click()
    page.wait_for_timeout(500)


def benches(page):
    """Two faults proved."""
    pick(page, "fault", "Dirty condenser")
    pick(page, "fault", "Low charge (undercharged)")
    page.wait_for_timeout(3500)
    page.screenshot(path=OUT / "bench.png")


def projector(page, browser):
    """The wall a class looks at, as far as the figures."""
    page.click("[data-test=tab-story]")
    page.click("[data-test=draft]")
    page.wait_for_timeout(500)
    page.click("[data-test=tab-circuit]")
    page.click("[data-test=project]")
    page.click("[data-test=put-up]")
    wall = browser.new_page(viewport={"width": 1920, "height": 1080}, reduced_motion="reduce")
    wall.goto(page.locator("[data-test=projector-link]").get_attribute("href"))
    for step, part in (
        ("measure", "readings"),
        ("convert", "conversions"),
        ("convert", "figures"),
        ("compare", "targets"),
    ):
        page.click(f"[data-test=step-{step}]")
        page.wait_for_timeout(400)
        page.check(f"[data-test=reveal-{part}]")
        page.wait_for_timeout(400)
    wall.wait_for_timeout(2500)
    wall.screenshot(path=OUT / "projector.png")
    wall.close()
    page.click("[data-test=take-down]")
    page.keyboard.press("Escape")


def reference(page, address):
    """Library with versions, what waits today, courses and the fault encyclopedia."""
    page.goto(f"{address}/library")
    page.wait_for_selector("td label")
    for i in range(3):
        page.locator("td input[type=checkbox]").nth(i).check()
    page.get_by_role("button", name="versions of Runs all afternoon").click()
    page.wait_for_timeout(500)
    page.screenshot(path=OUT / "library.png")
    page.goto(f"{address}/today")
    page.wait_for_selector("section h2")
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / "today.png")
    page.goto(f"{address}/courses")
    page.wait_for_selector("[data-test=draft-week-1]")
    page.wait_for_timeout(500)
    page.screenshot(path=OUT / "courses.png")
    page.goto(f"{address}/reference/faults/liquid_line_restriction")
    page.wait_for_selector("[data-test=signature]")
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / "reference-fault.png")


def readings(page, address):
    """Somebody's figures from a house call."""
    page.goto(f"{address}/readings")
    for name, value in (
        ("outdoor_db", "90"),
        ("return_db", "77"),
        ("return_wb", "64"),
        ("suction", "142"),
        ("head", "338"),
        ("suction_line", "51"),
        ("liquid_line", "100"),
    ):
        page.fill(f"[data-test={name}]", value)
    page.wait_for_timeout(1800)
    page.screenshot(path=OUT / "readings.png")


def work(page, address):
    """Two faults: the plan with its consequences, then the plan played; then a machine of one's own."""
    page.goto(f"{address}/bench")
    page.wait_for_selector(".dials svg")
    if page.locator("[data-test=clear]").count():
        page.click("[data-test=clear]")
    pick(page, "machine", "Larkspur 36 with valve")
    pick(page, "fault", "Dirty condenser")
    pick(page, "fault", "Low charge (undercharged)")
    page.goto(f"{address}/work")
    page.wait_for_selector("[data-test=trace] svg")
    page.click("[data-test=plan-tab]")
    page.click("[data-test=play-plan]")
    page.wait_for_selector("[data-test=done] li:nth-child(9)")
    page.wait_for_timeout(1500)
    page.screenshot(path=OUT / "work.png")
    page.goto(f"{address}/machines")
    page.get_by_role("button", name="Sedge 14 walk-in cooler").click()
    page.wait_for_selector(".circuit")
    page.wait_for_timeout(1500)
    page.screenshot(path=OUT / "machines.png")


def classroom(page, address):
    """Class, builder, results, rig, paper and key, marking, feedback, the class over the term."""
    page.goto(f"{address}/classes")
    page.wait_for_selector(".people td")
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / "classes.png")
    page.goto(f"{address}/sheets")
    page.get_by_role("link", name="Week 11: easy to hard").click()
    page.locator(".ladder li").nth(2).locator(".pick").click()
    page.click("[data-test=preview]")
    page.wait_for_selector("[data-test=page]", timeout=60_000)
    page.get_by_role("button", name="Page 4 of").click()
    page.wait_for_timeout(1500)
    page.get_by_text("ready to print").wait_for(timeout=120_000)
    page.screenshot(path=OUT / "sheets.png")
    page.goto(f"{address}/rigs")
    page.get_by_role("link", name="Rig 1", exact=True).first.click()
    page.get_by_text("settled for").first.wait_for(timeout=120_000)
    page.wait_for_timeout(1500)
    page.screenshot(path=OUT / "rig.png")
    page.goto(f"{address}/rigs")
    page.locator("[data-test=sessions] a", has_text="Jory").click()
    page.locator("[data-test=result]").wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=OUT / "lab.png")
    page.goto(f"{address}/refrigerant")
    page.locator("[data-test=difference]").wait_for()
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / "refrigerant.png")
    page.goto(f"{address}/sheets")
    page.get_by_role("link", name=SHEET).click()
    page.wait_for_selector(".misses li")
    reply = page.request.get(f"{address}{page.locator('a[href$=packet]').first.get_attribute('href')}")
    png = subprocess.run(
        ["pdftoppm", "-r", "90", "-l", "1", "-png", "-"], input=reply.body(), capture_output=True, check=True
    ).stdout
    (OUT / "paper.png").write_bytes(png)
    code = page.locator("td.num a").nth(1).inner_text()
    page.goto(f"{address}/marking/{code}")
    page.wait_for_selector(".answers")
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / "marking.png")
    page.goto(f"{address}/feedback/{code}")
    page.wait_for_selector(".line")
    page.screenshot(path=OUT / "feedback.png")
    page.goto(f"{address}/classes/1/results")
    page.wait_for_selector(".heat svg")
    page.wait_for_timeout(900)
    page.screenshot(path=OUT / "class-results.png")


def lesson(page, address):
    """A class asked what comes next, after it has read the gauges."""
    page.goto(f"{address}/sheets")
    page.get_by_role("link", name=SHEET).click()
    page.get_by_role("tab", name="On screen").click()
    page.click("[data-test=begin-lesson]")
    page.wait_for_selector("[data-test=ask-next]", timeout=60_000)
    page.locator("summary", has_text="Without a vote").click()
    for what in ("read suction pressure", "read head pressure", "read suction line, out", "look filters"):
        page.locator("[data-test=direct] input").fill(what)
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Do it", exact=True).click()
        page.wait_for_timeout(2500)
    page.locator("summary", has_text="Without a vote").click()
    page.click("[data-test=ask-next]")
    page.wait_for_selector("[data-test=count]")
    page.wait_for_timeout(500)
    page.screenshot(path=OUT / "lesson.png")


def main(address="http://127.0.0.1:8040"):
    """Log in and visit every main view."""
    OUT.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        log_in(page, address)
        benches(page)
        projector(page, browser)
        readings(page, address)
        work(page, address)
        reference(page, address)
        classroom(page, address)
        lesson(page, address)
        browser.close()


if __name__ == "__main__":
    main(*sys.argv[1:])
