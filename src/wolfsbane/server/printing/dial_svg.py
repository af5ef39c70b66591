"""A dial as an SVG picture, from the same geometry the screen draws."""

from __future__ import annotations

from html import escape
from typing import Any

_INK, _LOW, _HIGH = "#1d1b26", "#1f5fae", "#b3261e"


_OPEN = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200" font-family="B612" text-anchor="middle">'


def face_svg(drawing: dict[str, Any]) -> str:
    """SVG text of the face of one drawing of :func:`wolfsbane.cycle.dials.dial`: the same for every reading."""
    color = _LOW if drawing["side"] == "low" else _HIGH
    text = "".join(
        f'<text x="{m["x"]}" y="{m["y"] + 2.6}" font-size="7.4" fill="{_INK}">{escape(m["text"])}</text>'
        for m in drawing["labels"]
    )
    pt_scale = "".join(
        f'<text x="{m["x"]}" y="{m["y"] + 2}" font-size="5.6" fill="{color}">{escape(m["text"])}</text>'
        for m in drawing["ring_labels"]
    )
    return (
        f'{_OPEN}<circle cx="100" cy="100" r="97" fill="#fff" stroke="{color}" stroke-width="3"/><path'
        f' d="{drawing["minor_path"]}" stroke="{_INK}" stroke-width=".5" fill="none"/><path d="{drawing["major_path"]}"'
        f' stroke="{_INK}" stroke-width="1.4" fill="none"/>{text}<circle cx="100" cy="100" r="{drawing["ring_radius"]}"'
        f' fill="none" stroke="{color}" stroke-width=".6"/><path d="{drawing["ring_path"]}" stroke="{color}"'
        f' stroke-width=".7" fill="none"/>{pt_scale}<text x="100" y="142" font-size="7"'
        f' fill="{color}">{escape(drawing["refrigerant"])} {drawing["ring_unit"]}</text><text x="100" y="176"'
        f' font-size="9" font-weight="700" fill="{color}">{drawing["side"].upper()}</text><text x="100" y="185"'
        f' font-size="7" fill="{_INK}">{drawing["unit"]}</text></svg>'
    )


def needle_svg(needle_deg: float = 0.0) -> str:
    """SVG text of the needle alone, turned by ``needle_deg``."""
    return (
        f'{_OPEN}<g transform="rotate({needle_deg} 100 100)">'
        f'<path d="M98.6 116L99.5 12L100.5 12L101.4 116Z" fill="{_INK}"/></g>'
        f'<circle cx="100" cy="100" r="5" fill="{_INK}"/></svg>'
    )


def whole_svg(drawing: dict[str, Any]) -> str:
    """SVG text of face and needle in one picture, for readers that cannot lay one over the other."""
    return face_svg(drawing).removesuffix("</svg>") + needle_svg(drawing["needle_deg"]).removeprefix(_OPEN)
