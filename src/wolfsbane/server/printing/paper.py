"""Packet and key as PDF, from the frozen calls alone."""

from pathlib import Path

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instruments import in_order
from wolfsbane.exercise.correction import plan_line
from wolfsbane.exercise.questions import EVIDENCE
from wolfsbane.server.printing.dial_svg import data_uri, face_svg, needle_svg

_HERE = Path(__file__).parent
_BASE = "file:///paper/"
PAPER_SIZES = {"us": "letter", "si": "A4"}
#: wrong plans told on the key, of those the correction holds
_WRONG_PLANS_SHOWN = 3
_KEY_ROWS = (("suction_pressure", "Suction pressure"), ("head_pressure", "Head pressure"),
             ("suction_saturation", "Suction saturation"), ("liquid_saturation", "Liquid saturation"),
             ("superheat", "Superheat"), ("subcooling", "Subcooling"), ("evaporator_td", "Evaporator TD"),
             ("ctoa", "CTOA"))
_templates = Environment(loader=FileSystemLoader(_HERE / "templates"), autoescape=True, undefined=StrictUndefined)


class _OwnFiles(URLFetcher):
    """Opens our own fonts and inline pictures; nothing from anywhere else."""

    def __init__(self):
        super().__init__(allowed_protocols={"data"}, fail_on_errors=True)

    def fetch(self, url, headers=None):
        if url.startswith(_BASE):
            path = _HERE / "fonts" / url.rsplit("/", 1)[-1]
            return URLFetcherResponse(url, path.read_bytes(), {"Content-Type": "font/woff2"})
        return super().fetch(url, headers)


def packet_pdf(sheet, papers, progress=None):
    """PDF bytes of the class packet: one page for each call of each paper.

    ``sheet`` is a dict with title, class_name, units; ``papers`` a list of {name, code, calls: [frozen call body]}.
    ``progress()`` is called after each paper.
    """
    return _pdf("packet.html", sheet, papers, _packet_call, progress)


def key_pdf(sheet, papers, progress=None):
    """PDF bytes of the instructor's key, with the readings solved again after the right action."""
    return _pdf("key.html", sheet, papers, _key_call, progress)


PRINTERS = {"packet": packet_pdf, "key": key_pdf}


def _pdf(template, sheet, papers, prepare, progress):
    """Lay out paper by paper, sharing fonts and pictures, and write the pages as one document."""
    fonts, fetcher, pictures, pages, document = FontConfiguration(), _OwnFiles(), {}, [], None
    css = CSS(string=(_HERE / "templates" / "paper.css").read_text(), font_config=fonts, url_fetcher=fetcher,
              base_url=_BASE)
    for paper in papers:
        shown = {**paper, "calls": [prepare(body) for body in paper["calls"]]}
        html = _templates.get_template(template).render(sheet=sheet, paper=shown, paper_size=PAPER_SIZES[sheet["units"]])
        document = HTML(string=html, url_fetcher=fetcher, base_url=_BASE).render(
            stylesheets=[css], font_config=fonts, cache=pictures)
        pages.extend(document.pages)
        if progress:
            progress()
    return document.copy(pages).write_pdf()


def one_page(template, **given):
    """PDF bytes of a template that stands by itself."""
    fonts, fetcher = FontConfiguration(), _OwnFiles()
    css = CSS(string=(_HERE / "templates" / "paper.css").read_text(), font_config=fonts, url_fetcher=fetcher, base_url=_BASE)
    html = _templates.get_template(template).render(**given)
    return HTML(string=html, url_fetcher=fetcher, base_url=_BASE).write_pdf(stylesheets=[css], font_config=fonts)


def _dial(body, side, value):
    drawing = dial(side, body["units"], value, body["machine"]["refrigerant"], body["conditions"]["barometer_pa"])
    return {"face": data_uri(face_svg(drawing)), "needle": data_uri(needle_svg(drawing))}


def _packet_call(body):
    analogue = body["instruments"] == "analogue"
    readings = in_order(body["readings"])
    dials = [_dial(body, side, readings[key]["value"])
             for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))] if analogue else []
    return {
        "body": body, "dials": dials,
        "shown": [r for key, r in readings.items() if not key.endswith("_pressure")],
        "numbers": [q for q in body["questions"] if q["kind"] in ("temperature", "difference")],
        "verdicts": [q for q in body["questions"] if q["kind"] == "verdict"],
    }


def _key_call(body):
    key, unit = body["key"], {q["kind"]: q["unit"] for q in body["questions"] if q["unit"]}
    rows = []
    for name, label in _KEY_ROWS:
        if name in body["readings"]:
            now, band, after = body["readings"][name]["text"], "", key["after"][name]
            between = (key.get("between") or {}).get(name, "")
        else:
            kind = "temperature" if name.endswith("saturation") else "difference"
            now, band = f"{round(key['figures'][name], 1) + 0.0:.1f} {unit[kind]}", ""
            after, between = key["after_figures"].get(name, ""), ""
        if name in key["bands"]:
            band = f"{key['bands'][name]['low']:.1f} to {key['bands'][name]['high']:.1f}"
        rows.append({"label": label, "now": now.replace("-", "−"), "band": band.replace("-", "−"),
                     "after": after.replace("-", "−"), "between": between.replace("-", "−"), "verdict": key["verdicts"].get(name, "")})
    letter = {kind: {c["id"]: c["letter"] for c in body["choices"][kind]} for kind in body["choices"]}
    evidence = [letter["evidence"][e] for e in key["evidence"]]
    named = " ".join(letter["fault"][f] for f in key.get("faults") or [key["fault"]])
    kind = FAULTS.get(key["fault"])
    return {
        "body": body, "rows": rows,
        "severity": f"{kind.parameter} {key['severity']:g}\u00a0{kind.unit}" if kind else "",
        "letters": f"12 {named} · 13 {'/'.join(evidence)} · 14 {letter['action'][key['action']]}",
        "evidence": ", ".join(EVIDENCE[e] for e in key["evidence"]), **_correction_of(key),
    }


def _correction_of(key):
    """The plan in one line and the first few wrong plans; nothing on calls made before there was a correction key."""
    found = key.get("correction") or {}
    if not found or found["refusal"]:
        return {"plan": "", "wrong": []}
    return {"plan": plan_line(found), "wrong": [row["text"] for row in found["wrong"][:_WRONG_PLANS_SHOWN]]}
