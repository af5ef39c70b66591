"""Packet, key and slips as PDF, from the frozen bodies alone."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import segno

from wolfsbane.exercise.paper.call import Call
from wolfsbane.server.language import ENGLISH, READ, catalog, drawn, said
from wolfsbane.server.printing.dial_svg import face_svg, needle_svg
from wolfsbane.server.printing.paper_items import key_item, packet_item
from wolfsbane.server.printing.press import TEMPLATES, pressed

if TYPE_CHECKING:
    from collections.abc import Iterator

#: what of a packet's data is read by people, beside what is read on screen
ON_PAPER = READ | frozenset(
    ("story", "looks", "sealed", "title", "beside", "verdict_words", "machine", "prompt", "lines", "instruction")
    + ("readings", "columns", "rows", "worked", "unit", "alt", "chart_alt")
)
_SAID = re.compile(r'\bsay\(\w+, "([^"]+)"\)')
_TRAINING = re.compile(r'#let training = "([^"]+)"')
PAPER_SIZES = {"us": "letter", "si": "A4"}
#: what a template knows of a sheet
_SHEET = ("title", "class_name", "large", "solver_version", "rubric_version", "table_hash", "seed")


def packet_pdf(
    sheet: dict[str, Any], papers: list[dict[str, Any]], progress: Callable[..., Any] | None = None
) -> bytes:
    """PDF bytes of the class packet: for each call of each paper a page to diagnose and one to correct, drills on pages
    of their own.

    ``sheet`` is a dict with title, class_name, units and perhaps paper (letter, A4) and large; ``papers`` a list of
    {name, code, calls: [frozen body]}. ``progress()`` is called after each paper.
    """
    shown = _prepared(papers, packet_item, progress)
    for paper, given in zip(shown, papers, strict=True):
        paper["lang"] = given.get("language") or ENGLISH
        paper["calls"] = [_in_language(call, paper["lang"]) | {"lang": paper["lang"]} for call in paper["calls"]]
    words = {lang: page_words(lang) for lang in {paper["lang"] for paper in shown} - {ENGLISH}}
    return of_sheet("packet", sheet, papers=shown, faces=_faces(shown), needle=needle_svg(), words=words)


def _in_language(item: dict[str, Any], language: str) -> dict[str, Any]:
    """What a page shows, in the language of whoever gets it, its drawings too."""
    item = dict(said(item, language, ON_PAPER))
    if (repair := item.get("repair")) and repair.get("chart"):
        item["repair"] = repair | {"chart": drawn(repair["chart"], language)}
    if "traces" in item:
        item["traces"] = [one | {"svg": drawn(one["svg"], language)} for one in item["traces"]]
    return item


def key_pdf(sheet: dict[str, Any], papers: list[dict[str, Any]], progress: Any = None) -> bytes:
    """PDF bytes of the instructor's key, with the readings solved again after the right action."""
    return of_sheet("key", sheet, papers=_prepared(papers, key_item, progress))


def slips_pdf(sheet: dict[str, Any], papers: list[dict[str, Any]], progress: Any = None) -> bytes | None:
    """PDF bytes of the sealed results, to be cut and folded: one slip for each test of each call.

    None where no test is offered.
    """
    rows = [
        {"name": paper["name"], "code": paper["code"], "call": number, "test": slip.name, "text": slip.text}
        for paper in papers
        for number, body in enumerate(paper["calls"], 1)
        if isinstance(body, Call)
        for slip in body.key.slips
    ]
    return of_sheet("slips", sheet, slips=rows) if rows else None


def page_words(language: str, template: str = "packet") -> dict[str, str]:
    """What the pages of a ``template`` say themselves, in a language: English text -> text."""
    book = catalog(language)
    asked = _SAID.findall((TEMPLATES / f"{template}.typ").read_text())
    asked += ["call", "part", "DOWN", "SAME", "UP"] if template == "packet" else []
    asked += _TRAINING.findall((TEMPLATES / "house.typ").read_text())
    return {} if book is None else {text: book.text(text) for text in asked}


PRINTERS = {"packet": packet_pdf, "key": key_pdf, "slips": slips_pdf}


def size_of(sheet: dict[str, Any]) -> str:
    """Page size of a sheet: as chosen, or the usual one of its units."""
    return {"letter": "letter", "A4": "A4"}.get(sheet.get("paper") or "") or PAPER_SIZES[sheet["units"]]


def of_sheet(template: str, sheet: dict[str, Any], **given: Any) -> bytes:
    """PDF bytes of a template about a sheet."""
    told = {key: sheet[key] for key in _SHEET if key in sheet}
    return pressed(template, sheet=told, paper_size=size_of(sheet), **given)


def _prepared(
    papers: list[dict[str, Any]], prepare: Callable[..., Any], progress: Callable[..., Any] | None
) -> list[dict[str, Any]]:
    """Papers as plain data; ``progress()`` after each."""
    shown = []
    for paper in papers:
        shown.append(
            {
                "name": paper["name"],
                "code": paper["code"],
                "attempt": paper.get("attempt", 1),
                "qr": qr_svg(paper["code"]),
                "calls": [prepare(body) for body in paper["calls"]],
            }
        )
        if progress:
            progress()
    return shown


def _dials(papers: list[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    for paper in papers:
        for call in paper["calls"]:
            yield from call.get("dials", ())
            yield from (item["dial"] for item in call.get("items", ()) if item["dial"] is not None)


def _faces(papers: list[dict[str, Any]]) -> dict[str, str]:
    """The faces of all dials, each once; a dial keeps the name of its face and the angle of its needle."""
    found: dict[str, str] = {}
    for one in _dials(papers):
        drawn = one.pop("drawing")
        svg = face_svg(drawn)
        one["face"] = found.setdefault(svg, f"face-{len(found)}")
        one["needle_deg"] = drawn["needle_deg"]
    return {name: svg for svg, name in found.items()}


def qr_svg(code: str) -> str:
    """The code of a paper as a QR picture; a scanner types it."""
    drawn = io.BytesIO()
    segno.make(code, error="m", micro=False).save(drawn, kind="svg", border=0, scale=4, dark="#1d1b26", xmldecl=False)
    return drawn.getvalue().decode()
