"""The press: a template of ours and plain data become a tagged PDF that a screen reader can read.

What is in the data is text and never markup, and a template opens nothing but its neighbors and our own fonts.
"""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any

import typst

_HERE = Path(__file__).parent
TEMPLATES = _HERE / "templates"
#: the standard of PDF files that can be read by everybody, ISO 14289-1
_STANDARD = "ua-1"
#: how the press says that no font holds a character
_NO_GLYPH = "could not be displayed with font"


@cache
def _fonts(others: bool) -> typst.Fonts:
    """Our own fonts, and with ``others`` whatever the machine has: a name may be in any script."""
    return typst.Fonts(include_system_fonts=others, include_embedded_fonts=False, font_paths=[str(_HERE / "fonts")])


def pressed(template: str, **data: Any) -> bytes:
    """PDF bytes of ``templates/<template>.typ`` fed with ``data``, plain values that JSON can hold.

    The file claims PDF/UA-1, but for a paper with characters that no font at hand can show: that one is printed with a
    box in their place. Raises typst.TypstError where a template is wrong.
    """
    given = {"data": json.dumps(data)}
    try:
        return _run(template, given, [_STANDARD], others=False)
    except typst.TypstError as error:
        if _NO_GLYPH not in str(error):
            raise
    try:
        return _run(template, given, [_STANDARD], others=True)
    except typst.TypstError as error:
        if _NO_GLYPH not in str(error):
            raise
    return _run(template, given, [], others=True)


def _run(template: str, given: dict[str, str], standards: list[Any], others: bool) -> bytes:
    made = typst.compile(
        str(TEMPLATES / f"{template}.typ"),
        root=str(TEMPLATES),
        font_paths=_fonts(others),
        ignore_system_fonts=True,
        sys_inputs=given,
        format="pdf",
        pdf_standards=standards,
    )
    assert isinstance(made, bytes), "a PDF is one file"
    return made
