"""Calls on screen in a real browser: practice by keyboard alone, and an exam on a phone whose line is cut three times
while the server is killed once; what is sent and kept holds no answer.
"""

import json
import os
import re
import signal
import subprocess

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import log_in, log_out
from wolfsbane.server.run.demo import APPRENTICE_LOGIN, APPRENTICE_PASSWORD

pytestmark = pytest.mark.browser
SHEET = 2
SECRET = (
    '"belief"',
    '"severities"',
    '"causes"',
    '"accepted"',
    '"key"',
    '"fair"',
    '"still"',
    '"word"',
    '"value":1',
    '"hazard"',
)


def press(page, selector, key="Enter"):
    """Onto a control by focus and a key, never by a pointer."""
    control = page.locator(selector).first
    expect(control).to_be_enabled()
    control.focus()
    page.keyboard.press(key)


def typed(page, selector, text):
    page.locator(selector).focus()
    page.keyboard.press("Control+A")
    page.keyboard.type(text)


def sent(page):
    expect(page.locator("[data-test=line]")).to_have_text("Saved")


def opened(page, address, exam=False):
    page.goto(f"{address}/sheets/{SHEET}")
    page.get_by_role("tab", name="On screen").click()
    expect(page.locator("[data-test=close-screen], [data-test=open-screen]").first).to_be_visible()
    if page.locator("[data-test=close-screen]").count():
        page.click("[data-test=close-screen]")
        page.click("[data-test=asking-yes]")
    if exam:
        page.locator("[data-test=exam]").check()
        page.fill("[data-test=screen-minutes]", "200")
    page.click("[data-test=open-screen]")
    expect(page.locator("[data-test=screen-row]").first).to_be_visible()


def measured(page):
    """Gauges zeroed and on, the low side read off its needle: what stands beside it in words."""
    press(page, "[data-test=tab-measure]")
    press(page, "[data-test=zero]")
    expect(page.locator("[data-test=told]")).to_contain_text("Both on zero now")
    press(page, "[data-test=gauges-on]")
    expect(page.locator("[data-test=told]")).to_contain_text("low side on the suction port")
    press(page, "[data-test=read-suction_pressure]")
    dial = page.locator("[data-test=point-suction_pressure] svg")
    expect(dial).to_be_visible()
    at = re.search(r"(?:(\d+) small marks? past|on) (\d+)(?:, ([\d.]+) each)?", dial.get_attribute("aria-label"))
    return float(at[2]) + float(at[1] or 0) * float(at[3] or 0)


def test_a_practice_call_by_keyboard_alone(page, demo):
    address, _, _ = demo
    log_in(page, address, path="/today")
    opened(page, address)
    log_out(page)
    log_in(page, address, APPRENTICE_LOGIN, APPRENTICE_PASSWORD, path="/mine")
    press(page, "[data-test=call] button")
    expect(page.locator("[data-test=told]")).to_contain_text("You just arrived")
    press(page, "[data-test=look-filter]")
    expect(page.locator("[data-test=look-filter]")).to_have_attribute("aria-label", re.compile("looked at"))
    press(page, "[data-test=plate]")
    expect(page.get_by_text("Nameplate", exact=True)).to_be_visible()
    value = measured(page)
    assert 40 < value < 220
    typed(page, "[data-test=typed-suction_pressure]", f"{value:g}")
    expect(page.locator("[data-test=own]")).to_contain_text(f"{value:g}")
    press(page, "[data-test=hint]")
    expect(page.locator("[data-test=told]")).to_contain_text("?")
    press(page, "[data-test=tab-think]")
    typed(page, "[data-test=q-superheat]", "12")
    press(page, "[data-test=q-fault] button", "Enter")
    press(page, "[data-test=name]")
    press(page, "[data-test=asking-yes]")
    expect(page.get_by_role("heading", name="Ticket")).to_be_visible()
    typed(page, "[data-test=ticket]", "Looked, measured, named it.")
    sent(page)
    press(page, "[data-test=finish]")
    press(page, "[data-test=asking-yes]")
    expect(page.get_by_role("heading", name=re.compile(r"\d+ of 100: it was"))).to_be_visible()
    expect(page.get_by_text("The expert’s path", exact=True)).to_be_visible()


def test_an_exam_on_a_phone_over_a_line_that_breaks_gives_nothing_away(page, browser, demo):
    address, process, _ = demo
    log_in(page, address, path="/today")
    opened(page, address, exam=True)
    context = browser.new_context(viewport={"width": 390, "height": 844}, reduced_motion="reduce", has_touch=True)
    phone = context.new_page()
    phone.set_default_timeout(300_000)
    said = []
    phone.on("response", lambda r: "/screen/" in r.url and r.status == 200 and said.append(r))
    log_in(phone, address, APPRENTICE_LOGIN, APPRENTICE_PASSWORD, path="/mine")
    phone.locator("[data-test=call] button").first.click()
    expect(phone.locator("[data-test=left]")).to_contain_text(":")
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    expect(phone.locator("[data-test=hint]")).to_have_count(0)

    # Cut while looking: the look is done once the line is back, once.
    context.set_offline(True)
    phone.locator("[data-test=look-duct]").click()
    expect(phone.locator("[data-test=line]")).to_contain_text("kept here")
    context.set_offline(False)
    sent(phone)
    expect(phone.locator("[data-test=look-duct]")).to_have_attribute("aria-label", re.compile("looked at"))
    value = measured(phone)
    minutes = phone.locator("[data-test=minutes]").inner_text()

    # Cut while typing, over a reload.
    context.set_offline(True)
    typed(phone, "[data-test=typed-suction_pressure]", f"{value:g}")
    expect(phone.locator("[data-test=line]")).to_contain_text("kept here")
    phone.reload()
    expect(phone.locator("[data-test=minutes]")).to_have_text(minutes)
    phone.locator("[data-test=tab-measure]").click()
    expect(phone.locator("[data-test=typed-suction_pressure]")).to_have_value(f"{value:g}")
    context.set_offline(False)
    sent(phone)

    # The server killed: the machine goes on at the same minute.
    listing = subprocess.run(["ps", "--ppid", str(process.pid), "-o", "pid=,args="], capture_output=True, text=True)
    (pid,) = [line.split()[0] for line in listing.stdout.splitlines() if "gunicorn" in line]
    os.killpg(int(pid), signal.SIGKILL)
    phone.locator("[data-test=read-head_pressure]").click()
    expect(phone.locator("[data-test=point-head_pressure] svg")).to_be_visible()
    sent(phone)

    context.set_offline(True)
    phone.locator("[data-test=tab-think]").click()
    phone.locator("[data-test=q-fault] button").first.click()
    context.set_offline(False)
    sent(phone)
    phone.locator("[data-test=name]").click()
    phone.locator("[data-test=asking-yes]").click()
    expect(phone.get_by_role("heading", name="Ticket")).to_be_visible()
    kept = json.dumps(phone.evaluate("JSON.stringify({...localStorage}) + JSON.stringify({...sessionStorage})"))
    texts = []
    for reply in said:
        try:
            texts.append(reply.text())
        except Exception:  # noqa: BLE001  a reply that the browser has thrown away by now
            continue
    assert texts and kept
    for word in SECRET:
        assert word not in kept.replace("\\", "") and not any(word in t.replace(" ", "") for t in texts), word
    phone.locator("[data-test=finish]").click()
    phone.locator("[data-test=asking-yes]").click()
    expect(phone.get_by_text("Your instructor shows the marks when everybody is done.")).to_be_visible()
    context.close()
    page.allowed += ["CONNECTION", "CONTENT_LENGTH", "EMPTY_RESPONSE", "502", "503", "500"]
    page.goto(f"{address}/sheets/{SHEET}")
    page.get_by_role("tab", name="On screen").click()
    expect(page.locator("[data-test=screen-row]").first).to_contain_text("/100")
    page.click("[data-test=close-screen]")
    page.click("[data-test=asking-yes]")
    page.click("[data-test=tell]")
    expect(page.locator("[data-test=tell]")).to_have_count(0)
