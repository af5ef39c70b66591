"""Packet, key and slips as PDF, from the frozen bodies alone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import segno
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from weasyprint import CSS, HTML
from weasyprint.document import Document
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

from wolfsbane.exercise.paper.call import Call
from wolfsbane.server.printing.paper_items import key_item, packet_item

_HERE = Path(__file__).parent
_BASE = "file:///paper/"
PAPER_SIZES = {"us": "letter", "si": "A4"}
_templates = Environment(loader=FileSystemLoader(_HERE / "templates"), autoescape=True, undefined=StrictUndefined)


class _OwnFiles(URLFetcher):
    """Opens our own fonts and inline pictures; nothing from anywhere else."""

    def __init__(self) -> None:
        super().__init__(allowed_protocols={"data"}, fail_on_errors=True)

    def fetch(self, url: str, headers: Any = None) -> URLFetcherResponse:
        if url.startswith(_BASE):
            path = _HERE / "fonts" / url.rsplit("/", 1)[-1]
            return URLFetcherResponse(url, path.read_bytes(), {"Content-Type": "font/woff2"})
        return super().fetch(url, headers)


def packet_pdf(
    sheet: dict[str, Any], papers: list[dict[str, Any]], progress: Callable[..., Any] | None = None
) -> bytes:
    """PDF bytes of the class packet: for each call of each paper a page to diagnose and one to correct, drills on pages
    of their own.

    ``sheet`` is a dict with title, class_name, units and perhaps paper (letter, A4) and large; ``papers`` a list of
    {name, code, calls: [frozen body]}. ``progress()`` is called after each paper.
    """
    return _pdf("packet.html", sheet, papers, packet_item, progress)


def key_pdf(sheet: dict[str, Any], papers: list[dict[str, Any]], progress: Any = None) -> bytes:
    """PDF bytes of the instructor's key, with the readings solved again after the right action."""
    return _pdf("key.html", sheet, papers, key_item, progress)


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
    return one_page("slips.html", sheet=sheet, slips=rows, paper_size=size_of(sheet)) if rows else None


PRINTERS = {"packet": packet_pdf, "key": key_pdf, "slips": slips_pdf}


def size_of(sheet: dict[str, Any]) -> str:
    """Page size of a sheet: as chosen, or the usual one of its units."""
    return {"letter": "letter", "A4": "A4"}.get(sheet.get("paper") or "") or PAPER_SIZES[sheet["units"]]


def _pdf(
    template: str,
    sheet: dict[str, Any],
    papers: list[dict[str, Any]],
    prepare: Callable[..., Any],
    progress: Callable[..., Any] | None,
) -> bytes:
    """Lay out paper by paper, sharing fonts and pictures, and write the pages as one document."""
    fonts = FontConfiguration()
    fetcher = _OwnFiles()
    pictures: dict[Any, Any] = {}
    pages: list[Any] = []
    document: Document | None = None
    css = _css(fonts, fetcher)
    for paper in papers:
        shown = {**paper, "calls": [prepare(body) for body in paper["calls"]], "qr": qr_uri(paper["code"])}
        html = _templates.get_template(template).render(
            sheet=sheet, paper=shown, paper_size=size_of(sheet), large=sheet.get("large")
        )
        document = HTML(string=html, url_fetcher=fetcher, base_url=_BASE).render(
            stylesheets=[css], font_config=fonts, cache=pictures
        )
        pages.extend(document.pages)
        if progress:
            progress()
    assert document is not None, "there is a paper to print"
    return document.copy(pages).write_pdf()


def qr_uri(code: str) -> str:
    """The code of a paper as a QR picture; a scanner types it."""
    return segno.make(code, error="m", micro=False).svg_data_uri(border=0, scale=4, dark="#1d1b26")


def _css(fonts: FontConfiguration, fetcher: _OwnFiles) -> CSS:
    return CSS(
        string=(_HERE / "templates" / "paper.css").read_text(), font_config=fonts, url_fetcher=fetcher, base_url=_BASE
    )


def one_page(template: str, **given: Any) -> bytes:
    """PDF bytes of a template that stands by itself."""
    fonts, fetcher = FontConfiguration(), _OwnFiles()
    html = _templates.get_template(template).render(**given)
    return HTML(string=html, url_fetcher=fetcher, base_url=_BASE).write_pdf(
        stylesheets=[_css(fonts, fetcher)], font_config=fonts
    )
