"""The paper: text, pages, fonts, and a needle that points where the gauge stands."""

import io
import math
import re
import subprocess

import pikepdf
import pytest
import typst
from PIL import Image

from tests.conftest import ORIFICE, VALVE, planned
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.server.printing.merge import merged
from wolfsbane.server.printing.paper import key_pdf, packet_pdf

SHEET = {
    "title": "Friday ‹sheet›",
    "class_name": "Firsts",
    "units": "us",
    "solver_version": "1",
    "rubric_version": "1",
    "table_hash": "a" * 64,
    "seed": 7,
}


def tool(*args, data):
    return subprocess.run(args, input=data, capture_output=True, check=True).stdout


def flat(pdf):
    """The words of a PDF on one line."""
    return re.sub(r"\s+", " ", tool("pdftotext", "-layout", "-", "-", data=pdf).decode())


@pytest.fixture(scope="module")
def calls():
    return [
        vary(planned("undercharge", 78, VALVE), "us", 2),
        vary(planned("low_airflow", 46, ORIFICE, instruments="digital"), "us", 2),
    ]


@pytest.fixture(scope="module")
def papers(calls):
    return [
        {"name": name, "code": code, "calls": calls}
        for name, code in (("Ada <Quill>", "ACDEFG"), ("Bo & Fenn", "HJKLMN"))
    ]


@pytest.fixture(scope="module")
def packet(papers):
    return packet_pdf(SHEET, papers)


def needle_deg(png, rgb, center_and_radius=None):
    """Angle of the dark needle of the dial whose rim has color ``rgb``, from pixels alone."""
    image = Image.open(io.BytesIO(png)).convert("RGB")
    pixels = image.load()
    near = [
        (x, y)
        for x in range(0, image.width)
        for y in range(0, image.height // 2)
        if all(abs(a - b) < 40 for a, b in zip(pixels[x, y], rgb, strict=True))
    ]
    left, right = min(x for x, _ in near), max(x for x, _ in near)
    top, bottom = min(y for _, y in near), max(y for _, y in near)
    cx, cy, radius = (left + right) / 2, (top + bottom) / 2, (right - left) / 2 / 98.5
    dark = []
    for tenth in range(-1350, 1351):
        a = math.radians(tenth / 10)
        x, y = round(cx + 66.5 * radius * math.sin(a)), round(cy - 66.5 * radius * math.cos(a))
        if max(pixels[x, y]) < 110:
            dark.append(tenth / 10)
    return sum(dark) / len(dark), max(dark) - min(dark)


@pytest.mark.parametrize(
    ("key", "rgb", "top"), [("suction_pressure", (31, 95, 174), 250), ("head_pressure", (179, 38, 30), 700)]
)
def test_the_printed_needle_stands_at_the_printed_pressure(packet, calls, key, rgb, top):
    png = tool("pdftoppm", "-r", "170", "-f", "1", "-l", "1", "-png", "-", data=packet)
    angle, spread = needle_deg(png, rgb)
    assert spread < 4
    assert angle == pytest.approx(-135 + 270 * calls[0].readings[key].value / top, abs=0.7)


def test_the_packet_has_two_pages_for_each_call_with_name_code_and_data(packet, calls):
    assert b"Pages:           8" in tool("pdfinfo", "-", data=packet)
    pages = tool("pdftotext", "-layout", "-", "-", data=packet).decode().split("\f")
    assert "Ada <Quill>" in pages[0] and "ACDEFG" in pages[0] and "Bo & Fenn" in pages[4] and "HJKLMN" in pages[7]
    for word in (
        "Friday ‹sheet›",
        "call 1 of 2",
        "Target subcooling",
        calls[0].readings["suction_line"].text,
        "LKS-36T",
        "glasses and gloves",
        *[c.text for c in calls[0].choices.fault],
    ):
        assert word in re.sub(r"\s+", " ", pages[0]), word


@pytest.mark.parametrize("units", ["us", "si"])
def test_the_longest_call_still_takes_a_leaf(units):
    """Eight choices, a plate of eight lines and a long machine name."""
    long = vary(planned("distributor_blocked", 55, "split-3t-r32-eev", complaint="It was soldered. " * 12), units, 3)
    assert len(long.choices.action) == 8 and len(long.machine.plate) == 8
    made = packet_pdf(SHEET | {"units": units}, [{"name": "Ada Quill", "code": "ACDEFG", "calls": [long] * 2}])
    assert b"Pages:           4" in tool("pdfinfo", "-", data=made)


def test_analogue_pages_do_not_print_the_pressures_and_digital_pages_do(packet, calls):
    pages = tool("pdftotext", "-layout", "-", "-", data=packet).decode().split("\f")
    assert calls[0].readings["suction_pressure"].text not in pages[0]
    assert calls[1].readings["suction_pressure"].text in pages[2]


def test_no_answer_stands_on_the_packet(packet, calls):
    text = re.sub(r"\s+", " ", tool("pdftotext", "-layout", "-", "-", data=packet).decode())
    key = calls[0].key
    for figure in ("superheat", "subcooling", "ctoa"):
        assert f"{key.figures[figure]:.1f} °F" not in text.replace(calls[0].readings["suction_line"].text, "")
    assert "Evidence:" not in text and f" {key.after_figures['subcooling']}" not in text


def test_the_key_prints_verdicts_letters_and_the_readings_after_the_repair(papers, calls):
    text = re.sub(r"\s+", " ", tool("pdftotext", "-layout", "-", "-", data=key_pdf(SHEET, papers)).decode())
    key = calls[0].key
    for word in (
        "Key: Ada <Quill>",
        key.fault_name,
        key.action_text,
        key.after["suction_pressure"],
        key.after_figures["subcooling"],
        f"{key.figures['ctoa']:.1f} °F",
        "after the repair",
        "seed 7",
    ):
        assert word.lower() in text.lower(), word


def test_our_own_fonts_are_embedded(packet):
    fonts = tool("pdffonts", "-", data=packet).decode()
    assert (
        "Archivo" in fonts
        and "B612" in fonts
        and " no " not in "\n".join(line[50:62] for line in fonts.splitlines()[2:])
    )


def test_progress_is_told_after_each_paper(papers):
    told = []
    packet_pdf(SHEET | {"units": "si"}, papers, lambda: told.append(1))
    assert len(told) == 2


def test_paper_opens_nothing_from_outside(tmp_path):
    """A template sees its neighbors and nothing else of the machine, and fetches no package."""
    from wolfsbane.server.printing.press import pressed

    for wish in ('#read("/etc/hostname")', '#read("../press.py")', '#import "@preview/cetz:0.3.0"'):
        made = flat(pressed("slips", sheet=SHEET | {"title": wish}, paper_size="letter", slips=[]))
        assert wish in made  # what is in the data is text
    for wish in ("/etc/hostname", "../press.py"):
        with pytest.raises(typst.TypstError, match="access denied|not found|escape"):
            typst.compile(f'#read("{wish}")'.encode(), root=str(tmp_path))


@pytest.mark.parametrize("name", ["Łukasz Żółć", "Ольга Ива", '#import "x" $y$ <z> *b* _i_ @a `c` \\ // = -'])
def test_names_are_text_in_any_of_the_usual_scripts(name, calls):
    pdf = packet_pdf(SHEET, [{"name": name, "code": "ACDEFG", "calls": calls[:1]}])
    assert name in flat(pdf) and claims_ua(pdf)


def test_a_name_that_no_font_of_ours_can_show_is_printed_all_the_same_and_the_claim_is_dropped_where_it_must(calls):
    paper = {"name": "Ada Quill", "code": "ACDEFG", "calls": calls[:1]}
    other = packet_pdf(SHEET, [{**paper, "name": "\U00012300\U000e0fff"}])
    assert "ACDEFG" in flat(other) and not claims_ua(other)
    plain = packet_pdf(SHEET, [paper])
    assert claims_ua(plain) and claims_ua(merged([plain, plain])) and not claims_ua(merged([plain, other]))


def claims_ua(pdf):
    with pikepdf.open(io.BytesIO(pdf)) as opened, opened.open_metadata() as told:
        return told.get("pdfuaid:part") == "1"


def tags(pdf):
    """(name, words for a picture, scopes of a header) of every tag, in reading order; each belongs to its page."""
    with pikepdf.open(io.BytesIO(pdf)) as opened:
        root, pages = opened.Root.StructTreeRoot, {page.obj.objgen for page in opened.pages}
        parents, rows = pikepdf.NumberTree(root.ParentTree), list(elements(root))
        assert all(e.Pg.objgen in pages for e in rows if "/Pg" in e)
        for page in opened.pages:
            own = [e for e in parents[int(page.obj.StructParents)] if e is not None and "/Pg" in e]
            assert own and all(e.Pg.objgen == page.obj.objgen for e in own)
        scopes = [[str(a.Scope) for a in e.get("/A", []) if "/Scope" in a] for e in rows]
        return [(str(e.S)[1:], str(e.get("/Alt", "")), scope) for e, scope in zip(rows, scopes, strict=True)]


def elements(element):
    kids = element.get("/K", [])
    for kid in kids if isinstance(kids, pikepdf.Array) else [kids]:
        if isinstance(kid, pikepdf.Dictionary) and "/S" in kid:
            yield kid
            yield from elements(kid)


def test_a_screen_reader_finds_title_language_headings_tables_and_words_for_pictures(packet, calls, papers):
    """ISO 14289-1 asks for these; the tag tree is walked here, no validator of the standard being at hand."""
    with pikepdf.open(io.BytesIO(packet)) as opened:
        assert str(opened.Root.Lang) == "en-US" and opened.Root.ViewerPreferences.DisplayDocTitle
        with opened.open_metadata() as told:
            assert told["dc:title"] == "Friday ‹sheet›" and told["pdfuaid:part"] == "1"
        assert [item.title for item in opened.open_outline().root] == ["Ada <Quill>", "Bo & Fenn"]
    rows = tags(packet)
    figures = [alt for name, alt, _ in rows if name == "Figure"]
    assert len(figures) >= 2 * 4 and all(figures)
    stands = calls[0].readings["suction_pressure"].text
    assert any(f"the needle stands at {stands}" in alt for alt in figures) and "Code ACDEFG" in figures
    assert any("Superheat and subcooling over the charge" in alt for alt in figures) == (
        calls[0].key.repair.chart is not None
    )
    names = [name for name, _, _ in rows]
    assert names.index("H1") < names.index("H2") and names.count("Table") >= 4
    heads = [scopes for name, _, scopes in tags(key_pdf(SHEET, papers)) if name == "TH"]
    assert len(heads) >= 4 * 5 and all(scopes == ["/Column"] for scopes in heads)


def test_parts_that_are_joined_keep_their_tags(papers):
    """Two papers printed apart and joined have the tags of both, no name of a header twice."""
    apart = [key_pdf(SHEET, [paper]) for paper in papers]
    joined = merged(apart)
    assert len(tags(joined)) == sum(len(tags(part)) for part in apart) - 1
    with pikepdf.open(io.BytesIO(joined)) as opened:
        ids = [str(e.ID) for e in elements(opened.Root.StructTreeRoot) if "/ID" in e]
        assert len(ids) == len(set(ids)) == len(pikepdf.NameTree(opened.Root.StructTreeRoot.IDTree))
        wanted = {
            str(h) for e in elements(opened.Root.StructTreeRoot) for a in e.get("/A", []) for h in a.get("/Headers", [])
        }
        assert wanted <= set(ids) and len(opened.open_outline().root) == 2


def test_parts_with_and_without_a_table_are_joined_in_any_order(calls):
    whole = packet_pdf(SHEET, [{"name": "Ada Quill", "code": "ACDEFG", "calls": calls[:1]}])
    with pikepdf.open(io.BytesIO(whole)) as pdf:
        assert "/IDTree" in pdf.Root.StructTreeRoot, "a call has a table"
        del pdf.Root.StructTreeRoot.IDTree
        out = io.BytesIO()
        pdf.save(out)
    bare = out.getvalue()
    for parts in ([bare, whole], [whole, bare], [bare, bare], [bare, whole, bare, whole]):
        with pikepdf.open(io.BytesIO(merged(parts))) as joined:
            tree = joined.Root.StructTreeRoot
            named = len(list(pikepdf.NameTree(tree.IDTree))) if "/IDTree" in tree else 0
            with pikepdf.open(io.BytesIO(whole)) as one:
                each = len(list(pikepdf.NameTree(one.Root.StructTreeRoot.IDTree)))
            assert named == each * parts.count(whole), "every name of a table header is there once"
