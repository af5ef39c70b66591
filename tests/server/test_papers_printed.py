"""What comes out of the printer: text equals the stored numbers, needles stand where the readings are,
codes can be scanned.
"""

import io
import json
import re
from concurrent.futures import ThreadPoolExecutor

import pypdfium2
import pytest
import zxingcpp
from PIL import Image

from tests.conftest import ORIFICE, VALVE, planned
from tests.server.test_printing import SHEET, flat, needle_deg, tool
from wolfsbane.cycle.dials import dial
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.server.printing import extras
from wolfsbane.server.printing.charge_svg import charge_svg
from wolfsbane.server.printing.merge import merged, page_count, page_png
from wolfsbane.server.printing.paper import key_pdf, packet_pdf, slips_pdf

BRIEF = {"title": "x", "machines": [VALVE, ORIFICE]}
ITEMS = [
    {
        "kind": "scenario",
        "body": planned("overcharge", 126).to_json(),
        "asked": {"parts": ["diagnose", "correct", "because"], "tests": ["standing_pressure"], "chart": True},
    },
    {"kind": "scenario", "body": planned("low_airflow", 46, ORIFICE).to_json(), "asked": {"instruments": "digital"}},
    {"kind": "rig", "body": planned("dirty_condenser", 60).to_json()},
    {"kind": "drill", "brief": BRIEF, "drill": "dial", "items": 3},
    {"kind": "drill", "brief": BRIEF, "drill": "spot_the_error", "items": 2},
]
PAPERS = (("Ada Quill", "ACDEFG"), ("Bo Fenn", "HJKLMN"))


@pytest.fixture(scope="module")
def papers():
    return [
        {
            "name": name,
            "code": code,
            "attempt": 1,
            "calls": [
                frozen_body.body_from_json(
                    json.loads(json.dumps(items_of.draw(items_of.item(one), n, index, "us", 31).to_json()))
                )
                for n, one in enumerate(ITEMS, 1)
            ],
        }
        for index, (name, code) in enumerate(PAPERS)
    ]


@pytest.fixture(scope="module")
def packet(papers):
    return packet_pdf(SHEET, papers)


@pytest.fixture(scope="module")
def pages(packet):
    return [re.sub(r"\s+", " ", p) for p in tool("pdftotext", "-layout", "-", "-", data=packet).decode().split("\f")][
        :-1
    ]


def test_every_page_carries_name_code_and_its_number_within_the_paper(pages, packet):
    assert len(pages) == page_count(packet) == 2 * 8
    for index, page in enumerate(pages):
        name, code = PAPERS[index // 8]
        assert name in page and page.count(code) >= 2 and f"{code} · page {index % 8 + 1} of 8" in page


def test_the_code_on_a_page_can_be_scanned_also_in_black_and_white(packet):
    for number, code in ((1, "ACDEFG"), (2, "ACDEFG"), (9, "HJKLMN"), (16, "HJKLMN")):
        gray = (
            Image.open(io.BytesIO(page_png(packet, number, scale=3)))
            .convert("L")
            .point(lambda v: 255 if v > 127 else 0)
        )
        assert zxingcpp.read_barcode(gray.crop((gray.width // 2, 0, gray.width, gray.height // 5))).text == code


def test_the_printed_text_is_the_stored_numbers(papers, pages):
    for index, paper in enumerate(papers):
        digital = paper["calls"][1]
        front = pages[index * 8 + 2]
        for row in digital.readings.values():
            assert row.text in front, row
        analog, first = paper["calls"][0], pages[index * 8]
        for key, row in analog.readings.items():
            assert (row.text in first) != key.endswith("_pressure"), key
        for text in (*(row.text for row in analog.machine.plate), *analog.look_round):
            assert text in first
        back = pages[index * 8 + 1]
        for step in analog.choices.order:
            assert step.text in back or all(word in back for word in step.text.split())
        assert "Charge chart: this machine today" in back and "compared with what is in it now" in back


def test_no_page_for_an_apprentice_holds_an_answer(papers, pages):
    for index, paper in enumerate(papers):
        text = " ".join(pages[index * 8 : index * 8 + 8])
        for body in paper["calls"][:3]:
            key = body.key
            assert f"{key.repair.amount.value:g} oz" not in text or key.repair.amount.value == 0
            assert key.action_text + "." not in text and "Predicted" not in text and "Evidence:" not in text
        assert all(text.count(s.text) == 0 for s in paper["calls"][0].key.slips)
        assert papers[index]["calls"][2].readings["head_pressure"].text not in pages[index * 8 + 4]


def test_the_key_prints_what_is_stored_for_every_question(papers):
    text = flat(key_pdf(SHEET, papers))
    for paper in papers:
        for body in paper["calls"]:
            if isinstance(body, DrillBody):
                assert all(v.replace("-", "−") in text for v in frozen_body.key_answers(body).values())
                continue
            key, number = body.key, {q.id: i for i, q in enumerate(body.questions, 1)}
            steps = " ".join(str(body.choices.number(s)) for s in key.repair.steps)
            assert f"{number['order']} {steps}" in text
            for figure in ("superheat", "subcooling", "ctoa"):
                assert f"{round(key.figures[figure], 1) + 0.0:.1f}".replace("-", "−") + " °F" in text
            for row in () if key.correction is None else key.correction.wrong[:3]:
                assert row.text[:40] in text


@pytest.mark.parametrize(
    ("index", "key", "rgb", "side"),
    [
        (0, "suction_pressure", (31, 95, 174), "low"),
        (0, "head_pressure", (179, 38, 30), "high"),
        (1, "suction_pressure", (31, 95, 174), "low"),
    ],
)
def test_needles_stand_at_the_angle_of_the_reading(papers, packet, index, key, rgb, side):
    png = tool("pdftoppm", "-r", "170", "-f", str(index * 8 + 1), "-l", str(index * 8 + 1), "-png", "-", data=packet)
    body = papers[index]["calls"][0]
    wanted = dial(side, "us", body.readings[key].value, body.machine.refrigerant, body.conditions.barometer_pa)[
        "needle_deg"
    ]
    assert needle_deg(png, rgb)[0] == pytest.approx(wanted, abs=0.7)


def test_slips_are_one_for_each_test_and_hold_its_result(papers):
    text = flat(slips_pdf(SHEET, papers))
    for paper in papers:
        slip = paper["calls"][0].key.slips[0]
        assert slip.text[:30] in text and f"{paper['name']} · call 1 · {paper['code']}" in text
    assert text.count("fold here") == 2 and slips_pdf(SHEET, [{**papers[0], "calls": papers[0]["calls"][3:]}]) is None


def test_a_plant_card_has_set_settle_limits_undo_sign_off_and_predicted_beside_blanks(papers):
    body = papers[0]["calls"][2]
    text = flat(extras.plants_pdf(SHEET, papers[0]["calls"], [[]]))
    card = body.key.rig.rows[0]
    for word in (
        "Set",
        card.set,
        f"{card.settle_min:g} minutes of running",
        card.limits,
        "Undo",
        card.undo,
        card.caution,
        "Undone and running normally by",
        "Measured",
        body.key.rig.predicted["head_pressure"],
        "93 °F outdoors",
    ):
        assert word in text, word
    assert extras.plants_pdf(SHEET, papers[0]["calls"][:2], []) is None
    own = {"rig": "Rig 7, Bay 2", "ways": ["Board: 31 ± 2 % covered"], "predicted": {"head_pressure": "411 psig"}}
    with_own = flat(extras.plants_pdf(SHEET, papers[0]["calls"], [[own]]))
    for word in ("Rig 7, Bay 2", "Board: 31 ± 2 % covered", "411 psig", "Nameplate machine"):
        assert word in with_own and word not in text, word


def test_the_guide_explains_the_follow_through_with_the_sheets_own_numbers(papers):
    body = papers[0]["calls"][0]
    rows = [
        {
            "position": i,
            "points": 21,
            "rules": {"accept": {"fault": ["undercharge"]}, "void": ["order"], "wider": {"sum": 2}} if i == 1 else {},
        }
        for i in range(1, 6)
    ]
    text = flat(extras.guide_pdf(SHEET, papers[0]["calls"], rows))
    figures = body.key.figures
    for word in (
        f"{figures['suction_saturation']:.1f} °F",
        f"{figures['suction_saturation'] + 4:.1f}",
        f"{figures['superheat'] - 4:.1f}".replace("-", "−"),
        "One slip, one mark",
        "also accepted: undercharge",
        "excluded",
        "sum × 2",
    ):
        assert word in text, word


def test_the_rotation_sends_own_groups_round(papers):
    people = [{"name": f"P{i}", "group_name": "AB"[i % 2]} for i in range(6)]
    text = flat(extras.rotation_pdf(SHEET, papers[0]["calls"], people, 25))
    assert "0 to 25" in text and "30 to 55" in text and "P0, P2, P4" in text and "P1, P3, P5" in text


def test_large_print_and_the_other_paper_are_what_they_say(papers):
    small, large = (
        packet_pdf(SHEET | {"large": big}, [{**papers[0], "calls": papers[0]["calls"][:1]}]) for big in (False, True)
    )
    heights = [
        max(
            float(y) - float(x)
            for x, y in re.findall(
                r'yMin="([\d.]+)" xMax="[\d.]+" yMax="([\d.]+)">Filter',
                tool("pdftotext", "-bbox", "-", "-", data=pdf).decode(),
            )
        )
        for pdf in (small, large)
    ]
    assert heights[1] > 1.4 * heights[0]
    assert page_count(large) == 4 and flat(large).count("Ada Quill · ACDEFG · page") == 4
    a4 = packet_pdf(SHEET | {"paper": "A4"}, [{**papers[0], "calls": papers[0]["calls"][3:4]}])
    assert b"A4" in tool("pdfinfo", "-", data=a4) and b"letter" in tool("pdfinfo", "-", data=small)


def test_charts_come_for_every_refrigerant_once_and_fonts_stay_in_joined_files(papers, packet):
    charts = extras.charts_pdf(SHEET, [b for p in papers for b in p["calls"]])
    assert page_count(charts) == 1 and "R-410A" in flat(charts)
    joined = merged([packet, charts])
    assert page_count(joined) == 17
    fonts = tool("pdffonts", "-", data=joined).decode()
    assert "Archivo" in fonts and " no " not in "\n".join(line[50:62] for line in fonts.splitlines()[2:])


def test_a_call_without_gauges_prints_two_pipes_and_no_pressure():
    planned_ = {"kind": "scenario", "body": planned("undercharge", 72).to_json(), "asked": {"instruments": "pipes"}}
    body = items_of.draw(items_of.item(planned_), 1, 0, "us", 31)
    pdf = packet_pdf(SHEET, [{"name": "Ada Quill", "code": "ACDEFG", "attempt": 1, "calls": [body]}])
    text = flat(pdf)
    assert (
        page_count(pdf) == 2
        and "no gauges on this one" in text.lower()
        and body.readings["condenser_bend"].text in text
    )
    assert "psig" not in text and "LOW SIDE" not in text
    assert f"{body.key.figures['superheat']:.1f}" in flat(
        key_pdf(SHEET, [{"name": "Ada Quill", "code": "ACDEFG", "calls": [body]}])
    )


def test_a_page_that_is_not_there_is_said(packet):
    with pytest.raises(IndexError):
        page_png(packet, 99)


def test_pages_asked_for_at_once_are_read_one_after_the_other(packet, monkeypatch):
    """PDFium may be used by one thread at a time (its own documentation): two at once end the process."""
    opened, together = [], []

    class Watched(pypdfium2.PdfDocument):
        def __init__(self, *args):
            opened.append(self)
            together.append(len(opened))
            super().__init__(*args)

        def close(self):
            super().close()
            opened.remove(self)

    monkeypatch.setattr(pypdfium2, "PdfDocument", Watched)
    with ThreadPoolExecutor(6) as pool:
        pictures = list(pool.map(lambda n: page_png(packet, n % 2 + 1), range(12)))
        counts = list(pool.map(lambda _: page_count(packet), range(12)))
    assert len(together) == 24 and max(together) == 1
    assert len(set(pictures)) == 2 and len(set(counts)) == 1


def test_the_charge_chart_is_drawn_from_the_points_in_the_key(papers):
    """Every point of the key lies on the curve, and the grid is fine enough to read a fifth of a line."""
    body = papers[0]["calls"][0]
    chart = body.key.repair.chart
    drawing = charge_svg(chart)
    lines = re.findall(r'<polyline points="([^"]+)"', drawing)
    assert len(lines) == 2 and len(lines[1].split()) == len(chart.points) - sum(p[2] > 45 for p in chart.points)
    across = [float(point.split(",")[0]) for point in lines[1].split()]
    assert across == sorted(across) and f"charge in the system, {chart.mass_unit}" in drawing
    assert all(f">{name}, {chart.unit}<" in drawing for name in ("superheat", "subcooling"))


def test_target_bands_stand_on_the_packet_unless_they_are_asked_from_memory():
    item = {"kind": "scenario", "body": planned().to_json(), "asked": {}}

    def front(asked):
        call = items_of.draw(items_of.item(item | {"asked": asked}), 1, 0, "us", 7)
        paper = {"name": "Ada Quill", "code": "ACDEFG", "calls": [call]}
        return flat(packet_pdf(SHEET, [paper]))

    assert "10 to 20" in front({}) and "target ± 3" in front({})
    assert "10 to 20" not in front({"from_memory": True}) and "target ± 3" not in front({"from_memory": True})
