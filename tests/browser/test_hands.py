"""With nothing but a keyboard, on a slow line, and with a dialog open."""

from pathlib import Path

import pytest
from playwright.sync_api import TimeoutError as PlaywrightTimeout
from playwright.sync_api import expect

from tests.browser.conftest import log_in, log_out, plant, still, wait
from wolfsbane.server.run.demo import INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD

pytestmark = pytest.mark.browser
AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
_FIRST_PAGE_BYTES = 250_000


def focused(page):
    """What has the focus: its tag, and its name or text."""
    return page.evaluate(
        "() => { const e = document.activeElement;"
        " return [e.tagName, e.getAttribute('aria-label') || e.textContent.trim().slice(0, 60)] }"
    )


def tab_to(page, name, most=200):
    """Tab on until the focus is on something called so."""
    for _ in range(most):
        page.keyboard.press("Tab")
        if focused(page)[1].startswith(name):
            return
    raise AssertionError(f"no {name!r} within {most} steps; at {focused(page)}")


def keeps_the_focus(page, done):
    """What had the focus may be gone or out of use for a frame; then a place around it has it."""
    try:
        page.wait_for_function("() => document.activeElement !== document.body", timeout=60_000)
    except PlaywrightTimeout:
        raise AssertionError(f"{done}: the focus has gone with it") from None


def test_the_first_page_is_light(page, demo):
    log_in(page, demo[0], path="/today")
    context = page.context.browser.new_context()
    context.add_cookies(page.context.cookies())
    fresh = context.new_page()
    fresh.goto(f"{demo[0]}/today")
    expect(fresh.get_by_role("heading", level=1)).to_be_visible()
    fresh.wait_for_load_state("networkidle")
    sizes = fresh.evaluate(
        "() => [...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')]"
        ".map(e => [e.transferSize, e.encodedBodySize, e.decodedBodySize, e.name])"
    )
    context.close()
    assert len(sizes) > 5 and sum(n for n, *_ in sizes) < _FIRST_PAGE_BYTES, sizes
    programs = [(sent, whole) for _, sent, whole, name in sizes if name.endswith(".js")]
    assert sum(sent for sent, _ in programs) < 0.5 * sum(whole for _, whole in programs), "sent packed"


def test_enter_waits_for_a_list_that_is_late(page, demo):
    log_in(page, demo[0], path="/today")
    asked = []
    page.route("**/api/v1/catalogue", lambda route: asked.append(route))
    page.goto(f"{demo[0]}/bench")
    page.locator("[data-test=fault]").first.click()
    page.keyboard.type("plugged coil outside")
    page.keyboard.press("Enter")
    wait(lambda: page.evaluate("1") and asked)
    expect(page.locator("[data-test=planted]")).to_have_count(0)
    for route in asked:
        route.continue_()
    expect(page.locator("[data-test=planted]")).to_have_count(1)
    expect(page.locator("[data-test=planted]")).to_contain_text("Dirty condenser")


def test_from_log_in_to_a_saved_scenario_without_a_mouse(page, demo):
    page.goto(f"{demo[0]}/today")
    tab_to(page, "")
    page.locator("[name=login]").focus()
    page.keyboard.type(INSTRUCTOR_LOGIN)
    page.keyboard.press("Tab")
    page.keyboard.type(INSTRUCTOR_PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Log out")).to_be_visible()
    tab_to(page, "Bench")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=fault]")).to_be_visible()
    still(page)
    page.keyboard.press("f")
    page.keyboard.type("plugged coil outside")
    page.keyboard.press("Enter")
    planted = page.locator("[data-test=planted]")
    expect(planted).to_have_count(1)
    page.keyboard.press("Escape")
    tab_to(page, "Severity of")
    slider = page.get_by_role("slider", name="Severity of")
    before = slider.get_attribute("aria-valuetext")
    page.keyboard.press("ArrowRight")
    expect(slider).not_to_have_attribute("aria-valuetext", before)
    wait(lambda: page.locator("[data-test=severity]").inner_text() in slider.get_attribute("aria-valuetext"))
    page.keyboard.press("Tab")
    page.keyboard.press("n")
    page.keyboard.type("Cottonwood in the coil")
    still(page)
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=saved]")).to_be_visible()
    keeps_the_focus(page, "saved")
    still(page)
    page.locator("[data-test=give]").or_(page.locator("[data-test=judged]")).first.wait_for()
    while page.locator("[data-test=give]").count():
        left = page.locator("[data-test=give]").count()
        tab_to(page, "Give ")
        with page.expect_response(lambda r: r.url.endswith("/api/v1/prove")):
            page.keyboard.press("Enter")
        expect(page.locator(".proof.busy")).to_have_count(0)
        still(page)
        keeps_the_focus(page, "given")
        if page.locator("[data-test=give]").count() >= left:
            break


def test_dialogs_are_sound_and_give_the_focus_back(page, demo):
    log_in(page, demo[0], path="/bench")
    found = {}

    def look(name):
        still(page)
        page.evaluate(AXE.read_text())
        report = page.evaluate(
            "async () => (await axe.run(document, {resultTypes: ['violations']})).violations"
            ".map(v => [v.id, v.nodes.map(n => n.html.slice(0, 160))])"
        )
        if report:
            found[name] = report

    def shut(opener):
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        expect(opener).to_be_focused()

    keys = page.get_by_role("button", name="Keyboard shortcuts")
    keys.click()
    look("shortcuts")
    shut(keys)
    page.goto(f"{demo[0]}/sheets/4")
    issue = page.get_by_role("button", name="Issue and print")
    issue.click()
    look("asking")
    shut(issue)
    page.get_by_role("button", name="Preview").first.click()
    enlarge = page.locator("[data-test=read-pages]")
    enlarge.click()
    for size in ((1280, 800), (390, 800), (640, 400)):
        page.set_viewport_size({"width": size[0], "height": size[1]})
        look(f"reading at {size[0]}")
    shut(enlarge)
    assert found == {}


def test_one_long_word_for_a_name_stays_within_a_phone(page, demo):
    word = "Wheelwrightandsheetmetaljourneymen" * 2
    log_in(page, demo[0], path="/classes")
    page.get_by_role("button", name="New class").click()
    page.get_by_label("Name of the class").fill(word)
    page.locator("textarea").fill(f"{word}\nAda Quill")
    page.get_by_role("button", name="Add class").click()
    expect(page.locator(".people .name")).to_have_count(2)
    shown = page.url
    page.goto(f"{demo[0]}/sheets?new=1")
    page.fill("[data-test=sheet-title]", word)
    page.locator("[data-test=sheet-class]").select_option(label=f"{word} (2)")
    page.get_by_role("button", name="Start").click()
    page.wait_for_url("**/sheets/*")
    draft = page.url
    page.set_viewport_size({"width": 390, "height": 800})
    for address in (shown, draft, f"{demo[0]}/sheets", f"{demo[0]}/today"):
        page.goto(address)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        still(page)
        width = page.evaluate("document.documentElement.scrollWidth")
        assert width <= 390, (address, width)
    page.goto(draft)
    page.get_by_role("button", name="Delete draft").click()
    expect(page.get_by_role("heading", level=1, name="Sheets")).to_be_visible()


#: everything a page can leave in a browser, as one text
STORED = """async () => {
  const bases = await Promise.all((await indexedDB.databases()).map(d => d.name));
  const caches_ = 'caches' in window ? await caches.keys() : [];
  return JSON.stringify([{...localStorage}, {...sessionStorage}, document.cookie, bases, caches_]);
}"""


def test_whoever_sits_down_after_a_log_out_finds_no_word_of_the_answer(page, demo):
    log_in(page, demo[0], path="/bench")
    plant(page, "Low charge")
    expect(page.locator("[data-test=planted]")).to_have_count(1)
    wait(lambda: "undercharge" in page.evaluate(STORED))
    log_out(page)
    still(page)
    left = page.evaluate(STORED).lower()
    for word in ("undercharge", "low charge", "severity", "split-3t", "bench.many"):
        assert word not in left, (word, left)
    page.go_back()
    expect(page.locator("[name=password]")).to_be_visible()
    expect(page.get_by_text("Low charge")).to_have_count(0)
    page.fill("[name=login]", INSTRUCTOR_LOGIN)
    page.fill("[name=password]", INSTRUCTOR_PASSWORD)
    page.get_by_label("Shared computer").check()
    page.click("button[type=submit]")
    expect(page.get_by_role("button", name="Log out")).to_be_visible()
    page.goto(f"{demo[0]}/bench")
    plant(page, "Low charge")
    expect(page.locator("[data-test=planted]")).to_have_count(1)
    still(page)
    assert "undercharge" not in page.evaluate(STORED)
