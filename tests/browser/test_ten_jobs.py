"""Ten jobs of an instructor's day, done as somebody does them: every click and key counted, no dead end.

docs/usability.md has the counts before and now; a job that takes more clicks than stand there fails.
"""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import log_in, still
from wolfsbane.server.run.demo import INSTRUCTOR_LOGIN, INSTRUCTOR_PASSWORD

pytestmark = pytest.mark.browser
DOC = Path(__file__).parents[2] / "docs" / "usability.md"
FORMS = {
    "names": "Ada Quill\nBo Fenn",
    "last, first": '"Marl, Cy"\n"Hale, Dot"',
    "a header, tabs": "Name\tNumber\nEd Orm\t2205\nFay Lund\t2206",
    "a CSV with groups": "First,Last,Number,Group\nGus,Tarn,2207,A\nHope,Vale,2208,B",
    "accents and mail": "Zoë Ångström\tzoe@harrow.example\nIvo Dressel\tivo@harrow.example",
}


class Hands:
    """A person at a page: what it takes is counted."""

    def __init__(self, page, address):
        self.page, self.address, self.clicks, self.keys = page, address, 0, 0

    def begin(self):
        """Today, with nothing in the hands."""
        self.clicks = self.keys = 0
        self.page.goto(f"{self.address}/today")
        expect(self.page.get_by_role("heading", name="Today")).to_be_visible()
        return self

    def click(self, what):
        """A click on a mark, a selector or a locator."""
        found = (
            self.page.locator(f"[data-test={what}]")
            if isinstance(what, str) and re.fullmatch(r"[\w-]+", what)
            else what
        )
        (self.page.locator(found) if isinstance(found, str) else found).first.click()
        self.clicks += 1

    def link(self, name):
        self.click(self.page.get_by_role("link", name=name))

    def button(self, name):
        self.click(self.page.get_by_role("button", name=name))

    def type(self, text, enter=False):
        """Keys into what has the focus."""
        self.page.keyboard.type(text)
        self.keys += len(text)
        if enter:
            self.press("Enter")

    def paste(self, text):
        """A list from somewhere else."""
        self.page.keyboard.press("Control+a")
        self.page.keyboard.insert_text(text)
        self.keys += 2

    def press(self, key):
        self.page.keyboard.press(key)
        self.keys += 1


@pytest.fixture
def hands(page, demo):
    log_in(page, demo[0], path="/today")
    page.allowed += ["401", "ERR_INTERNET_DISCONNECTED", "Failed to load resource"]
    return Hands(page, demo[0])


def now(job):
    """Clicks that docs/usability.md says a job takes."""
    row = next(line for line in DOC.read_text().splitlines() if line.startswith(f"| {job} "))
    return int(row.split("|")[4])


def two_faults(h):
    h.begin().link("New scenario")
    for n, fault in enumerate(("dirty condenser", "low charge"), 1):
        h.click("fault")
        h.type(fault, enter=True)
        expect(h.page.locator("[data-test=planted]")).to_have_count(n)
    h.click("title")
    h.type("Two at once")
    expect(h.page.locator("[data-test=verdict]")).not_to_have_text("Proving…")
    h.click("save")
    expect(h.page.locator("[data-test=saved]")).to_contain_text("Saved")


def sentence_to_sheet(h):
    h.begin().link("New sheet")
    expect(h.page.locator("[data-test=sheet-title]")).to_be_focused()
    h.type("From a sentence")
    expect(h.page.get_by_role("button", name="Start")).to_be_enabled()
    h.press("Enter")
    expect(h.page.locator("[data-test=sentence]")).to_be_focused()
    h.type("two calls for first years, split systems, 30 min")
    expect(h.page.locator("[data-test=understood]")).to_contain_text("2 calls")
    h.button("Build calls, easy to hard")
    h.click("take-plan")
    h.click(h.page.locator(".ladder .pick"))
    before = h.page.locator(".ladder li").first.inner_text()
    h.click("swap")
    expect(h.page.locator(".ladder li").first).not_to_have_text(before)
    h.click("issue")
    h.click("asking-yes")
    expect(h.page.get_by_role("link", name="Packet to print")).to_be_visible(timeout=1_500_000)


def mark_two(h):
    sheets = h.page.request.get(f"{h.address}/api/v1/sheets").json()["sheets"]
    sheet = next(s["id"] for s in sheets if s["title"] == "From a sentence")
    codes = [r["code"] for r in h.page.request.get(f"{h.address}/api/v1/sheets/{sheet}/results").json()["rows"][:2]]
    h.begin().link("Mark by code")
    for code in codes:
        expect(h.page.locator("[name=code]")).to_be_focused()
        h.type(code, enter=True)
        expect(h.page.locator("[name=quick]")).to_be_focused()
        h.click("all-as-key")
        h.click("mark")
        expect(h.page.locator(".sum").first).to_be_visible()
        h.page.locator("[name=quick]").focus()
        h.type("1 !0 not read off the dial", enter=True)
        expect(h.page.get_by_text("not read off the dial").first).to_be_visible()
        h.press("Escape")
    h.link("Sheets")
    h.link("From a sentence")
    h.click("exclude-2")
    expect(h.page.locator("[data-test=moves]")).to_be_visible()
    h.click("mark-again")
    expect(h.page.get_by_role("heading", name="Marked again")).to_be_visible()
    h.click("release")
    h.click("asking-yes")
    expect(h.page.get_by_role("button", name="Take feedback back")).to_be_visible()
    h.page.set_viewport_size({"width": 390, "height": 800})
    h.page.goto(f"{h.address}/feedback/{codes[0]}")
    expect(h.page.get_by_text("not read off the dial").first).to_be_visible()
    assert h.page.evaluate("document.documentElement.scrollWidth") <= 390
    h.page.set_viewport_size({"width": 1280, "height": 800})


def a_class_in_five_forms(h):
    h.begin().link("Classes")
    h.button("New class")
    expect(h.page.get_by_label("Name of the class")).to_be_focused()
    h.type("Pasted class")
    h.click(h.page.locator("textarea"))
    for name, text in FORMS.items():
        h.paste(text)
        expect(h.page.get_by_text("one name per line (2)"), name).to_be_visible()
        still(h.page)
    h.paste("\n".join(f"{first} {last}" for first in ("Ada", "Bo", "Cy", "Dot", "Ed") for last in ("Quill", "Fenn")))
    expect(h.page.get_by_text("one name per line (10)")).to_be_visible()
    h.button("Add class")
    expect(h.page.locator(".people .name")).to_have_count(10)


def readings_to_the_next_test(h):
    h.begin().link("Readings of a machine")
    h.click("outdoor_db")
    for n, value in enumerate(("90", "77", "", "", "142", "338", "51", "100")):
        if n:
            h.press("Tab")
        h.type(value)
    expect(h.page.locator("[data-test=verdict]")).to_contain_text("TXV overfeeding")
    h.click("next")
    focused = h.page.evaluate("document.activeElement.dataset.test")
    assert focused in ("discharge_line", "supply_db", "look-bulb", "test-pump_down"), focused


def own_machine_to_a_sheet(h):
    h.begin().link("Machines")
    h.click("new-machine")
    expect(h.page.locator("[data-test=name]")).to_be_focused()
    h.type("Shop split")
    for _ in range(5):
        h.press("Tab")
    h.type("3 tons", enter=True)
    expect(h.page.locator("[data-test=report]")).to_be_visible()
    h.click("keep")
    expect(h.page.get_by_role("heading", name="Shop split")).to_be_visible()
    h.click("to-bench")
    h.click("fault")
    h.type("overcharged", enter=True)
    expect(h.page.locator("[data-test=planted]")).to_have_count(1)
    h.click("title")
    h.type("On the shop split")
    h.click("save")
    h.click(h.page.locator("[data-test=saved]").get_by_role("link", name="Library"))
    h.click(h.page.get_by_label("On the shop split", exact=True))
    h.button("Make a sheet of 1")
    expect(h.page.locator("[data-test=sheet-title]")).to_be_focused()
    h.type("Our own split")
    expect(h.page.get_by_role("button", name="Start")).to_be_enabled()
    h.press("Enter")
    expect(h.page.locator(".ladder li")).to_have_count(1)


def project(h):
    h.begin().link("New scenario")
    h.click("project")
    h.click("put-up")
    link = h.page.locator("[data-test=projector-link]")
    h.clicks += 1
    wall = h.page.context.new_page()
    wall.goto(link.get_attribute("href"))
    expect(wall.locator("main, body").first).to_be_visible()
    wall.close()
    for _ in range(4):
        h.press("PageDown")
    h.click("take-down")
    expect(h.page.locator("[data-test=put-up]")).to_be_visible()


def rig_card(h):
    h.begin().link("New sheet")
    expect(h.page.locator("[data-test=sheet-title]")).to_be_focused()
    h.type("One at the rig")
    expect(h.page.get_by_role("button", name="Start")).to_be_enabled()
    h.press("Enter")
    h.click(h.page.get_by_role("tab", name="On a rig"))
    h.click("pick-rig")
    h.type("hardly any air", enter=True)
    h.press("Tab")
    h.click("add-chosen")
    h.click("issue")
    h.click("asking-yes")
    card = h.page.locator("[data-test=rig-card]")
    expect(card).to_be_visible(timeout=1_500_000)
    h.clicks += 1
    pdf = h.page.request.get(h.address + card.get_attribute("href"))
    assert pdf.status == 200 and pdf.body().startswith(b"%PDF")


def three_look_ups(h):
    h.begin().link("Reference")
    expect(h.page.locator("[data-test=pressure]")).to_be_focused()
    h.type("118")
    expect(h.page.locator("[data-test=converted]")).to_contain_text("°F")
    h.link("Target superheat")
    expect(h.page.locator("[data-test=wet]")).to_be_focused()
    h.type("64")
    h.press("Tab")
    h.type("90")
    expect(h.page.locator("main")).to_contain_text("11")
    h.link("Faults")
    expect(h.page.locator("input[type=search]")).to_be_focused()
    h.type("short of gas", enter=True)
    expect(h.page.get_by_role("heading", name="Low charge (undercharged)")).to_be_visible()


def nothing_is_lost(h):
    """Units, a reload, a lost connection and an expired log-in in the middle of three forms."""
    page, context = h.page, h.page.context
    h.begin().link("Readings of a machine")
    page.fill("[data-test=suction_line]", "51")
    page.get_by_text("°C · kPa").click()
    expect(page.locator("[data-test=suction_line]")).to_have_value("10.6")
    page.reload()
    expect(page.locator("[data-test=suction_line]")).to_have_value("10.6")
    page.get_by_text("°F · psi").click()
    expect(page.locator("[data-test=suction_line]")).to_have_value("51")
    context.set_offline(True)
    h.page.locator("[data-test=head]").fill("338")
    expect(page.get_by_role("alert")).to_contain_text("What you typed is kept")
    context.set_offline(False)
    h.page.locator("[data-test=head]").fill("339")
    expect(page.get_by_role("alert")).to_have_count(0)
    h.link("Classes")
    h.button("New class")
    expect(h.page.get_by_label("Name of the class")).to_be_focused()
    h.type("Half a class")
    context.clear_cookies()
    page.locator("textarea").fill("Somebody Waits")
    expect(page.locator("[name=password]")).to_be_visible()
    page.fill("[name=login]", INSTRUCTOR_LOGIN)
    page.fill("[name=password]", INSTRUCTOR_PASSWORD)
    page.keyboard.press("Enter")
    expect(page.locator("textarea")).to_have_value("Somebody Waits")
    expect(page.get_by_label("Name of the class")).to_have_value("Half a class")
    h.link("Sheets")
    h.link("Week 11: easy to hard")
    page.get_by_label("Title").fill("Week 11, changed")
    page.reload()
    expect(page.get_by_label("Title")).to_have_value("Week 11, changed")
    page.get_by_label("Title").fill("Week 11: easy to hard")
    expect(page.get_by_text("kept as a draft")).to_be_visible()


JOBS = {
    "two faults": two_faults,
    "sentence to sheet": sentence_to_sheet,
    "mark two papers": mark_two,
    "class in five forms": a_class_in_five_forms,
    "readings to next test": readings_to_the_next_test,
    "own machine to sheet": own_machine_to_a_sheet,
    "project": project,
    "rig card": rig_card,
    "three look-ups": three_look_ups,
}


def test_the_ten_jobs_are_done_in_as_many_clicks_as_the_docs_say(hands):
    counted = {}
    for name, job in JOBS.items():
        job(hands)
        counted[name] = hands.clicks
        print(f"{name}: {hands.clicks} clicks, {hands.keys} keys")
    assert counted == {name: now(name) for name in JOBS}
    nothing_is_lost(hands)
