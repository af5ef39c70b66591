"""Joining PDF files, and pages as pictures."""

from __future__ import annotations

import io

import pypdfium2


def merged(parts: list[bytes]) -> bytes:
    """One PDF of all ``parts`` (bytes), in order."""
    if len(parts) == 1:
        return parts[0]
    whole = pypdfium2.PdfDocument.new()
    for part in parts:
        source = pypdfium2.PdfDocument(part)
        whole.import_pages(source)
        source.close()
    out = io.BytesIO()
    whole.save(out)
    return out.getvalue()


def page_count(pdf: bytes) -> int:
    """Pages of a PDF."""
    document = pypdfium2.PdfDocument(pdf)
    try:
        return len(document)
    finally:
        document.close()


def page_png(pdf: bytes, number: int, scale: float = 2.0) -> bytes:
    """Page ``number`` (from 1) as PNG bytes, exactly as it prints. Raises IndexError where there is no such page."""
    document = pypdfium2.PdfDocument(pdf)
    try:
        if not 1 <= number <= len(document):
            raise IndexError(number)
        out = io.BytesIO()
        document[number - 1].render(scale=scale).to_pil().save(out, "PNG")
        return out.getvalue()
    finally:
        document.close()
