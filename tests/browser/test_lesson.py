"""A lesson by vote in three browsers: the instructor's, the class's screen and a student's phone."""

import json

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import log_in
from tests.browser.test_screen_calls import SECRET, SHEET
from wolfsbane.server.run.demo import APPRENTICE_LOGIN, APPRENTICE_PASSWORD

pytestmark = pytest.mark.browser


def choose(page, field, text):
    """The first hit of a list, by the keyboard."""
    page.locator(f"[data-test={field}] input").fill(text)
    page.keyboard.press("Enter")


def at_once(page, text):
    choose(page, "direct", text)
    page.get_by_role("button", name="Do it", exact=True).click()


def test_a_class_decides_by_vote_and_sees_both_ways(page, browser, demo):
    address = demo[0]
    log_in(page, address, path="/today")
    page.goto(f"{address}/sheets/{SHEET}")
    page.get_by_role("tab", name="On screen").click()
    page.click("[data-test=begin-lesson]")
    page.click("[data-test=ask-next]")
    phone = browser.new_context(viewport={"width": 390, "height": 844}, reduced_motion="reduce").new_page()
    phone.set_default_timeout(300_000)
    said = []
    phone.on("response", lambda r: "/lessons/" in r.url and r.status == 200 and said.append(r))
    log_in(phone, address, APPRENTICE_LOGIN, APPRENTICE_PASSWORD, path="/mine")
    phone.locator("[data-test=lesson-on] a").click()
    phone.click('[data-test="vote-look:filter"]')
    expect(phone.locator('[data-test="vote-look:filter"]')).to_have_attribute("aria-pressed", "true")
    choose(page, "hands-for", "nameplate")
    page.locator("[data-test=hands] input, input[data-test=hands]").first.fill("3")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.locator("[data-test=voted]")).to_have_text("4 votes in")
    with page.context.expect_page() as opened:
        page.click("[data-test=class-screen]")
    wall = opened.value
    wall.set_default_timeout(300_000)
    wall.on("response", lambda r: "/lessons/" in r.url and r.status == 200 and said.append(r))
    expect(wall.locator("[data-test=voted]")).to_have_text("4 votes in")
    page.click("[data-test=count]")
    expect(wall.locator(".vote li").first).to_have_text("Nameplate3")
    page.click("[data-test=do-decided]")
    expect(wall.locator("[data-test=lesson-told]")).to_contain_text("Nameplate read")
    page.locator("summary", has_text="Without a vote").click()
    at_once(page, "read suction pressure")
    expect(wall.locator("svg.low[role=img]")).to_be_visible()
    page.click("[data-test=ask-read_off]")
    phone.fill("[data-test=my-number]", "121")
    phone.get_by_role("button", name="Send").click()
    expect(phone.locator("[data-test=my-vote]")).to_contain_text("121")
    page.click("[data-test=count]")
    page.click("[data-test=do-decided]")
    expect(wall.get_by_text("read: 121")).to_be_visible()
    kept = wall.evaluate("() => JSON.stringify([{...localStorage}, {...sessionStorage}])")
    sent = json.dumps([r.json() for r in said]) + kept + phone.evaluate("() => JSON.stringify({...localStorage})")
    assert len(said) > 4
    for word in SECRET:
        assert word not in sent, word
    page.click("[data-test=ask-name]")
    expect(phone.locator("h1")).to_have_text("What is wrong with it?")
    phone.locator(".choices button").first.click()
    expect(page.locator("[data-test=voted]")).to_have_text("1 vote in")
    page.click("[data-test=count]")
    page.click("[data-test=do-decided]")
    expect(wall.locator("[data-test=board]")).to_be_visible()
    page.click("[data-test=end-lesson]")
    page.click("[data-test=asking-yes]")
    expect(wall.get_by_text("The class’s path", exact=True)).to_be_visible()
    expect(page.get_by_text("The expert’s path", exact=True)).to_be_visible()
