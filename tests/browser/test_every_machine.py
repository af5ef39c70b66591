"""A mixed sheet in a real browser, from the library to the gradebook: a box, pipes without gauges, a rooftop, a heat
pump in heating, and an instrument that lies. A term drafted from a course.
"""

import csv
import io
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import choose, log_in
from tests.browser.test_paper_class import bodies, issue_and_wait, mark_paper

pytestmark = pytest.mark.browser
MIXED = (
    "The walk-in creeps up",
    "Lint and fryer grease",
    "Half the store is warm",
    "Lukewarm on Linden Court",
    "Hot hand, wrong pipe",
)


def test_a_mixed_sheet_goes_from_the_library_to_the_gradebook(page, demo):
    address, _, folder = demo
    log_in(page, address, path="/classes")
    page.get_by_role("button", name="New class").click()
    page.get_by_label("Name of the class").fill("Mixed firsts")
    page.get_by_label("Apprentices, one name per line").fill("Ada Quill\nBo Fenn")
    page.get_by_role("button", name="Add class").click()
    expect(page.locator(".people tbody tr")).to_have_count(2)

    page.goto(f"{address}/library")
    for title in MIXED:
        page.locator("tbody tr", has_text=title).locator("input[type=checkbox]").check()
    page.goto(f"{address}/sheets?new=1")
    page.fill("[data-test=sheet-title]", "All kinds")
    choose(page, "sheet-class", "Mixed firsts")
    page.get_by_role("button", name="Start with 5 from the library").click()
    expect(page.locator(".ladder li")).to_have_count(5)
    issue_and_wait(page)
    papers = bodies(folder, "All kinds")
    assert len(papers) == 2
    for calls in papers.values():
        kinds = {call.scenario.title: call for call in calls}
        assert set(kinds) == set(MIXED)
        assert kinds["Lint and fryer grease"].instruments == "pipes" and kinds["Half the store is warm"].twin
        assert kinds["Hot hand, wrong pipe"].key.fault == "clamp_wrong_line"
    packet = page.request.get(page.get_by_role("link", name="Packet to print").evaluate("a => a.href"))
    assert packet.body()[:5] == b"%PDF-"

    page.goto(f"{address}/marking")
    right, wrong = papers
    mark_paper(page, right, 5)
    mark_paper(page, wrong, 5, slips=((1, "99"),))
    page.goto(f"{address}/sheets")
    page.get_by_role("link", name="All kinds").first.click()
    page.get_by_role("link", name="The class over the term").click()
    expect(page.get_by_role("heading", name="Faults mistaken for others")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    rows = list(csv.DictReader(io.StringIO(Path(download.value.path()).read_text(encoding="utf-8"))))
    possible = sum(q.points for call in papers[right] for q in call.questions)
    assert all(int(row["possible"]) == possible for row in rows)
    values = sorted(int(row["earned"]) for row in rows)
    assert values[1] == possible and values[0] == possible - 5, rows


def test_a_week_of_a_course_is_drafted_and_opened(page, demo):
    log_in(page, demo[0], path="/courses")
    expect(page.get_by_role("heading", name="First week: reading gauges")).to_be_visible()
    page.get_by_role("button", name="Commercial refrigeration").click()
    expect(page.get_by_role("heading", name="No gauges: small refrigeration")).to_be_visible()
    page.click("[data-test=draft-week-3]")
    page.get_by_role("link", name="Week 3: No gauges").first.click()
    expect(page.locator(".ladder li")).to_have_count(4)
    expect(page.locator(".ladder")).to_contain_text("Salad bar, warm greens")


def test_situations_are_put_on_a_sheet_issued_and_marked(page, demo):
    address, _, folder = demo
    log_in(page, address, path="/classes")
    page.get_by_role("button", name="New class").click()
    page.get_by_label("Name of the class").fill("Situation firsts")
    page.get_by_label("Apprentices, one name per line").fill("Ada Quill\nBo Fenn")
    page.get_by_role("button", name="Add class").click()
    page.goto(f"{address}/sheets?new=1")
    page.fill("[data-test=sheet-title]", "Still and short of nothing")
    choose(page, "sheet-class", "Situation firsts")
    page.get_by_role("button", name="Start", exact=True).click()
    page.click("[data-test=way-situation]")
    for kind in ("standing_pressure", "by_pressure"):
        page.click(f"[data-test=add-{kind}]")
    expect(page.locator(".ladder li")).to_have_count(2)
    issue_and_wait(page)
    papers = bodies(folder, "Still and short of nothing")
    assert {tuple(body.kind for body in calls) for calls in papers.values()} == {("standing_pressure", "by_pressure")}
    first, second = (calls[0] for calls in papers.values())
    assert first.key.numbers != second.key.numbers
    page.goto(f"{address}/marking")
    mark_paper(page, next(iter(papers)), 2)
    expect(page.locator("body")).to_contain_text("Situation firsts")
