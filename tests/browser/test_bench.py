"""The bench, the library and the projector in a real browser, on what ``make demo`` starts."""

import json
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import choose, log_in, log_out, plant, still

pytestmark = pytest.mark.browser
AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
VIEWS = (
    "/today",
    "/bench",
    "/work",
    "/machines",
    "/readings",
    "/library",
    "/courses",
    "/practices",
    "/reference/pt",
    "/reference/superheat",
    "/reference/faults/undercharge",
    "/classes",
    "/classes/1/results",
    "/apprentices/1",
    "/accounts",
    "/sheets?new=1",
    "/sheets/2",
    "/sheets/3",
    "/sheets/4",
    "/marking",
    "/refrigerant",
    "/password",
    "/lab/1",
)
#: words that would give the planted faults away
GIVEAWAYS = (
    "ndercharge",
    "irty",
    "condenser_two_phase",
    "evaporator_boiling",
    "fault_free_fill",
    "band",
    "verdict",
    "severit",
)


def verdict(page):
    return page.locator("[data-test=verdict]")


def settled(page):
    expect(page.locator(".proof.busy")).to_have_count(0)


def test_two_faults_are_proved_mended_saved_versioned_exported_and_imported(page, demo, tmp_path):
    address = demo[0]
    log_in(page, address)
    plant(page, "Dirty condenser")
    plant(page, "Low charge (undercharged)")
    expect(verdict(page)).to_contain_text("same")
    for _ in range(4):
        settled(page)
        if not page.locator("[data-test=give]").count():
            break
        page.locator("[data-test=give]").first.click()
        expect(page.locator(".proof.busy")).to_have_count(1)
    expect(verdict(page)).to_have_text("One answer among all single faults and pairs.")

    # The story: drafted, then in our own words.
    page.click("[data-test=tab-story]")
    page.click("[data-test=draft]")
    expect(page.locator("[data-test=complaint]")).not_to_have_value("")
    page.fill("[data-test=complaint]", "Warm upstairs since the cottonwoods.")
    page.fill("[data-test=tags]", "Two faults, week 12")
    page.fill("[data-test=title]", "Cottonwood and a flare")
    page.click("[data-test=save]")
    expect(page.locator("[data-test=saved]")).to_contain_text("Saved.")

    # A reload keeps what is open; a change becomes the next version and says what changed.
    page.reload()
    expect(page.locator("[data-test=complaint]")).to_have_value("Warm upstairs since the cottonwoods.")
    page.get_by_role("button", name="severe").first.click()
    page.get_by_role("button", name="Save version 2").click()
    expect(page.locator("[data-test=saved]")).to_contain_text("version 2")
    page.locator("[data-test=saved]").get_by_role("link", name="Library").click()
    page.fill("[data-test=search]", "flare week")
    row = page.get_by_role("row", name="Cottonwood and a flare")
    expect(row).to_contain_text("v2")
    expect(row).to_contain_text("two faults")
    row.get_by_role("button", name="versions of Cottonwood and a flare").click()
    expect(page.locator("[data-test=versions]")).to_contain_text("Dirty condenser 60 → 50 %")

    # Out as a file and in again: the same scenario, beside the first one.
    page.get_by_label("Cottonwood and a flare", exact=True).check()
    with page.expect_download() as download:
        page.click("[data-test=export]")
    file = tmp_path / "flare.scenario.json"
    download.value.save_as(file)
    data = json.loads(file.read_text())
    assert [f["id"] for f in data["faults"]] == ["dirty_condenser", "undercharge"] and data["tags"] == [
        "two faults",
        "week 12",
    ]
    file.write_text(json.dumps({**data, "title": "Read from a file"}))
    page.set_input_files("[data-test=import]", file)
    expect(page.locator("[data-test=said]")).to_have_text("1 scenario imported.")
    expect(page.locator("tr", has_text="Read from a file")).to_have_count(0)
    page.get_by_role("button", name="show all").click()
    expect(page.locator("tr", has_text="Read from a file")).to_contain_text(
        "Dirty condenser and Low charge (undercharged)"
    )
    broken = tmp_path / "broken.json"
    broken.write_text(json.dumps({**data, "machine": "toaster"}))
    page.set_input_files("[data-test=import]", broken)
    expect(page.locator("ul.error")).to_contain_text("toaster")


def test_undo_and_redo_go_back_over_every_change(page, demo):
    log_in(page, demo[0])
    plant(page, "Overcharged")
    page.get_by_role("button", name="severe").click()
    expect(page.locator("[data-test=severity]")).to_have_text("134 %")
    page.keyboard.press("z")
    expect(page.locator("[data-test=severity]")).to_have_text("124 %")
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=planted]")).to_have_count(0)
    page.click("[data-test=redo]")
    page.keyboard.press("Shift+Z")
    expect(page.locator("[data-test=severity]")).to_have_text("134 %")


def test_the_bench_is_worked_with_the_keyboard_alone(page, demo):
    """Fault, level, reading withheld, look, title and save without a mouse; a key typed into a field stays a letter."""
    log_in(page, demo[0])
    expect(page.locator(".dials svg").first).to_be_visible()
    page.keyboard.press("?")
    expect(page.locator("[data-test=shortcuts]")).to_contain_text("find a fault to add")
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=shortcuts]")).to_be_hidden()
    page.keyboard.press("f")
    page.keyboard.type("low evap")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=planted]")).to_have_count(1)
    page.keyboard.press("Escape")
    page.locator("[data-test=undo]").focus()
    page.keyboard.press("l")
    expect(page.locator("[data-test=severity]")).to_have_text("42 %")
    reading = page.locator("g[data-reading=supply_db]")
    reading.focus()
    page.keyboard.press("Space")
    expect(reading).to_have_attribute("aria-checked", "false")
    page.keyboard.press("2")
    expect(page.locator("[data-test=loop]")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.type("pulled by keys")
    expect(page.locator("[data-test=title]")).to_have_value("pulled by keys")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=saved]")).to_contain_text("Saved.")


def test_a_trend_says_where_the_fault_begins_to_show(page, demo):
    log_in(page, demo[0])
    plant(page, "Low charge (undercharged)")
    page.click("[data-test=tab-trend]")
    expect(page.locator("[data-test=shows]")).to_contain_text("Subcooling reads low from")
    expect(page.locator("[data-test=trend] svg")).to_be_visible()
    page.get_by_label("Trend against").select_option(label="Outdoor air")
    expect(page.locator("[data-test=trend]")).to_have_attribute("aria-label", "Subcooling against Outdoor air")


def test_what_if_plays_an_action_and_leaves_the_bench_as_it_is(page, demo):
    log_in(page, demo[0])
    plant(page, "Overcharged")
    expect(page.locator(".figure", has_text="Subcooling")).to_contain_text("HIGH")
    before = page.locator(".high .needle").get_attribute("data-angle")
    page.click("[data-test=tab-what]")
    choose(page, "action", "Recover some into")
    page.locator("[data-test=oz]").fill("16")
    page.click("[data-test=do]")
    expect(page.locator("[data-test=said] li")).to_have_count(1)
    expect(page.locator("[data-test=what-state]")).to_be_visible()
    moment = page.get_by_role("slider", name="Moment")
    expect(moment).to_have_js_property("value", moment.get_attribute("max"))
    expect(page.locator(".high .needle")).not_to_have_attribute("data-angle", before)
    page.click("[data-test=tab-circuit]")
    expect(page.locator(".high .needle")).to_have_attribute("data-angle", before)


def test_a_projector_gets_nothing_that_is_not_revealed(page, demo, browser):
    """Everything the projector's page is sent is kept and searched for the answer."""
    address = demo[0]
    log_in(page, address)
    plant(page, "Dirty condenser")
    plant(page, "Low charge (undercharged)")
    settled(page)
    page.fill("[data-test=title]", "Low charge (undercharged) behind dirt")
    page.click("[data-test=project]")
    page.click("[data-test=put-up]")
    link = page.locator("[data-test=projector-link]").get_attribute("href")
    context = browser.new_context(viewport={"width": 1920, "height": 1080})
    wall, sent = context.new_page(), []
    wall.on("response", lambda r: "/assets/" not in r.url and sent.append((r.url, r.text() if r.status == 200 else "")))
    wall.goto(link)
    expect(wall.get_by_role("heading", name="Look before gauges")).to_be_visible()
    expect(wall.locator(".wall")).not_to_contain_text("psig")
    page.click("[data-test=step-measure]")
    expect(wall.locator(".dial").first).to_be_visible()
    page.click("[data-test=step-convert]")
    expect(wall.get_by_role("heading", name="Convert")).to_be_visible()
    expect(wall.locator("[data-test=wall-figures]")).to_have_count(0)
    page.check("[data-test=reveal-conversions]")
    expect(wall.locator(".converted").first).to_contain_text("psig →")
    page.check("[data-test=reveal-figures]")
    expect(wall.locator("[data-test=wall-figures]")).to_contain_text("Subcooling")
    for _ in range(3):
        with wall.expect_response(lambda r: "/api/v1/projected" in r.url):
            pass
    asked = [text for url, text in sent if "/api/" in url]
    assert len(asked) > 3 and all("/api/v1/projected" in url for url, _ in sent if "/api/" in url)
    for text in [*asked, wall.content()]:
        for word in GIVEAWAYS:
            assert word not in text, word
    page.click("[data-test=step-compare]")
    page.check("[data-test=reveal-verdicts]")
    expect(wall.locator("[data-test=wall-figures]")).to_contain_text("LOW")
    page.click("[data-test=step-confirm]")
    page.get_by_label("Ask for a test in front of the class").select_option(label="Filters")
    expect(wall.locator(".tests")).to_contain_text("Filters")
    expect(wall.locator("[data-test=answer]")).to_have_count(0)
    page.check("[data-test=reveal-answer]")
    expect(wall.locator("[data-test=answer]")).to_contain_text("Dirty condenser with Low charge (undercharged)")
    assert wall.evaluate("document.documentElement.scrollWidth") <= 1920
    page.click("[data-test=take-down]")
    expect(wall.get_by_role("alert")).to_contain_text("nothing is on the projector")
    context.close()


def test_a_school_of_practice_is_copied_changed_and_judges(page, demo):
    log_in(page, demo[0], path="/practices")
    page.click("[data-test=copy-practice]")
    page.fill("[data-test=practice-name]", "Our wide plate")
    page.fill("[data-test=subcooling_tolerance_df]", "7")
    page.reload()
    expect(page.locator("[data-test=practice-name]")).to_have_value("Our wide plate")
    page.click("[data-test=keep-practice]")
    expect(page.get_by_role("status")).to_contain_text("Saved.")
    page.goto(f"{demo[0]}/bench")
    expect(page.locator(".figure", has_text="Subcooling")).to_contain_text("target 7.0 to 13.0")
    page.get_by_label("Practice").select_option(label="Our wide plate")
    expect(page.locator(".figure", has_text="Subcooling")).to_contain_text("target 3.0 to 17.0")


def test_reference_pages_convert_both_ways_and_know_every_fault(page, demo):
    log_in(page, demo[0], path="/reference/pt")
    page.fill("[data-test=pressure]", "130")
    expect(page.locator("[data-test=converted]")).to_contain_text("45")
    page.get_by_text("°C · kPa").click()
    page.fill("[data-test=temperature]", "5")
    expect(page.locator("[data-test=converted]")).to_contain_text("kPa")
    page.get_by_text("°F · psi").click()
    page.goto(f"{demo[0]}/reference/superheat")
    page.fill("[data-test=wet]", "70")
    page.fill("[data-test=out]", "83")
    expect(page.locator("[data-test=target]")).to_contain_text("23.5")
    page.goto(f"{demo[0]}/reference/faults/leaking_compressor_valves")
    expect(page.locator("[data-test=signature] tr", has_text="Suction pressure")).to_contain_text("▲")
    expect(page.locator("[data-test=signature] tr", has_text="Head pressure")).to_contain_text("▼")


@pytest.mark.parametrize("size", [(1280, 800), (1024, 640)], ids=["desk", "text at 125 %"])
def test_no_view_clips_its_text_or_scrolls_sideways(page, demo, size):
    """125 % text on a 1280 by 800 screen is a window of 1024 by 640 to the page."""
    log_in(page, demo[0])
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for path in VIEWS:
        page.goto(demo[0] + path)
        expect(page.locator("main").last).to_be_visible()
        still(page)
        assert page.evaluate("document.documentElement.scrollWidth") <= size[0], path
        cut = page.evaluate(
            """() => [...document.querySelectorAll(
                'button, h1, h2, h3, th, td, label, .num, .verdict, .row, .line, .head, .foot, .tabs')]
            .filter(e => e.offsetParent && getComputedStyle(e).display !== 'inline')
            .filter(e => e.scrollWidth > e.clientWidth + 1 && !e.closest('.off, .el-slider'))
            .map(e => e.className + ': ' + e.textContent)"""
        )
        assert [t for t in cut if t.strip()] == [], path


def test_main_controls_of_the_bench_need_no_scrolling(page, demo):
    log_in(page, demo[0])
    plant(page, "Dirty condenser")
    plant(page, "Low charge (undercharged)")
    settled(page)
    for mark in ("machine", "undo", "title", "save", "project", "fault", "tab-circuit", "verdict", "level", "test"):
        box = page.locator(f"[data-test={mark}]").first.bounding_box()
        assert box["y"] >= 0 and box["y"] + box["height"] <= 800 and box["x"] + box["width"] <= 1280, mark


#: a desk, a phone, and a desk at 200 %
SIZES = ((1280, 800), (390, 800), (640, 400))


def test_axe_finds_nothing_of_any_weight_on_any_view(page, demo):
    page.allowed.append("401")
    log_in(page, demo[0])
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

    plant(page, "Low charge (undercharged)")
    settled(page)
    for tab in ("circuit", "loop", "trend", "what", "story"):
        page.click(f"[data-test=tab-{tab}]")
        look(f"bench {tab}")
    page.click("[data-test=tab-circuit]")
    page.click("[data-test=project]")
    page.click("[data-test=put-up]")
    link = page.locator("[data-test=projector-link]").get_attribute("href")
    look("remote")
    for path in VIEWS:
        page.goto(demo[0] + path)
        for width, height in SIZES:
            page.set_viewport_size({"width": width, "height": height})
            look(f"{path} at {width}")
            wide = page.evaluate("document.documentElement.scrollWidth")
            if wide > width:
                found[f"{path} at {width}"] = f"{wide} wide"
    page.set_viewport_size({"width": 1280, "height": 800})
    code = page.request.get(f"{demo[0]}/api/v1/sheets/2/results").json()["rows"][1]["code"]
    for path in (f"/marking/{code}", f"/feedback/{code}"):
        page.goto(demo[0] + path)
        look(path)
    for sheet, tabs in ((2, ("Print", "Rules", "History")), (3, ("Rig readings",))):
        page.goto(f"{demo[0]}/sheets/{sheet}")
        for tab in tabs:
            page.get_by_role("tab", name=tab).click()
            look(f"sheet: {tab}")
    page.goto(f"{demo[0]}/sheets/4")
    page.locator(".ladder .pick").nth(2).click()
    look("what a call asks")
    page.click("[data-test=add]")
    for way in ("brief", "library", "drill", "rig"):
        page.click(f"[data-test=way-{way}]")
        look(f"add: {way}")
    page.goto(link)
    look("projector")
    page.goto(f"{demo[0]}/bench")
    log_out(page)
    look("log-in")
    assert found == {}
