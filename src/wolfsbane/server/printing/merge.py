"""Joining PDF files with their tags, packing them, and pages as pictures."""

from __future__ import annotations

import io
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pikepdf
import pypdfium2

#: where a file says that everybody can read it
_CLAIM = "pdfuaid:part"
#: PDFium keeps state of its own for the whole process: two threads in it at once end the process
_one_at_a_time = threading.Lock()


def merged(parts: list[bytes]) -> bytes:
    """One PDF of all ``parts`` (bytes, each tagged, made by the press), in order: pages, bookmarks, and the tags by
    which a screen reader finds its way. Objects are packed together, which makes a packet a third of the size.
    """
    with _reading(parts[0]) as whole:
        everybody = _for_everybody(whole)
        for number, part in enumerate(parts[1:], 2):
            with _reading(part) as source:
                everybody = everybody and _for_everybody(source)
                _join(whole, source, f"{number}-")
        if not everybody:
            with whole.open_metadata(set_pikepdf_as_editor=False) as told:
                told.pop(_CLAIM, None)
        out = io.BytesIO()
        whole.save(out, object_stream_mode=pikepdf.ObjectStreamMode.generate)
    return out.getvalue()


@contextmanager
def _reading(pdf: bytes) -> Iterator[pikepdf.Pdf]:
    """A PDF as objects. It is read from a file: from memory each object takes three times as long."""
    with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
        file.write(pdf)
        file.flush()
        with pikepdf.open(file.name) as opened:
            yield opened


def _for_everybody(pdf: pikepdf.Pdf) -> bool:
    """Whether a file says that it keeps to PDF/UA."""
    return _CLAIM in pdf.open_metadata()  # only read: closing it would write it again, half a second


def _join(whole: pikepdf.Pdf, source: pikepdf.Pdf, prefix: str) -> None:
    """Append the pages of ``source`` with their tags; ``prefix`` keeps its names of table headers apart."""
    tree, theirs = whole.Root.StructTreeRoot, source.Root.StructTreeRoot
    first = int(tree.ParentTreeNextKey)
    for element in _of_tables(source):
        _rename(element, prefix)
    for page in source.pages:
        page.obj.StructParents = int(page.obj.StructParents) + first
    whole.pages.extend(source.pages)
    copied = whole.copy_foreign(theirs)
    document = tree.K[0]
    for kid in _kids(copied):
        for part in _kids(kid):
            part.P = document
            document.K.append(part)
    parents = pikepdf.NumberTree(tree.ParentTree)
    for key, value in pikepdf.NumberTree(copied.ParentTree).items():
        parents[int(key) + first] = value
    # a part without a table has no names of table headers
    if "/IDTree" in copied:
        if "/IDTree" not in tree:
            tree.IDTree = pikepdf.NameTree.new(whole).obj
        ids = pikepdf.NameTree(tree.IDTree)
        for name, value in pikepdf.NameTree(copied.IDTree).items():
            ids[prefix + name] = value
    tree.ParentTreeNextKey = first + int(copied.ParentTreeNextKey)
    with whole.open_outline() as mine, source.open_outline() as other:
        pages = {page.obj.objgen: number for number, page in enumerate(source.pages)}
        before = len(whole.pages) - len(source.pages)
        for item in other.root:
            assert isinstance(item.destination, pikepdf.Array), "the press writes the page of a bookmark"
            mine.root.append(pikepdf.OutlineItem(item.title, before + pages[item.destination[0].objgen]))


def _kids(element: Any) -> list[Any]:
    kids = element.get("/K", [])
    return list(kids) if isinstance(kids, pikepdf.Array) else [kids]


def _elements(element: Any) -> Iterator[Any]:
    """Every tag beneath one, in order."""
    for kid in _kids(element):
        if isinstance(kid, pikepdf.Dictionary) and "/S" in kid:
            yield kid
            yield from _elements(kid)


def _of_tables(pdf: pikepdf.Pdf) -> Iterator[Any]:
    """Every tag of the tables whose headers have names: a few hundred of ten thousand, and to go through all took most
    of the time of joining two files.
    """
    named = pdf.Root.StructTreeRoot.get("/IDTree")
    tables = {}
    for cell in pikepdf.NameTree(named).values() if named is not None else ():
        while cell.S != "/Table":
            cell = cell.P
        tables[cell.objgen] = cell
    for table in tables.values():
        yield from _elements(table)


def _rename(element: Any, prefix: str) -> None:
    """Put ``prefix`` before the name of a table cell, and before the names of the headers it belongs to."""
    if "/ID" in element:
        element.ID = pikepdf.String(prefix + str(element.ID))
    for attributes in element.get("/A", []):
        if isinstance(attributes, pikepdf.Dictionary) and "/Headers" in attributes:
            attributes.Headers = pikepdf.Array([pikepdf.String(prefix + str(name)) for name in attributes.Headers])


@contextmanager
def _opened(pdf: bytes) -> Iterator[pypdfium2.PdfDocument]:
    with _one_at_a_time:
        document = pypdfium2.PdfDocument(pdf)
        try:
            yield document
        finally:
            document.close()


def page_count(pdf: bytes) -> int:
    """Pages of a PDF. Any number of threads may ask."""
    with _opened(pdf) as document:
        return len(document)


def page_texts(pdf: bytes) -> list[str]:
    """The words of each page, in order. Any number of threads may ask."""
    with _opened(pdf) as document:
        return [document[n].get_textpage().get_text_bounded() for n in range(len(document))]


def page_png(pdf: bytes, number: int, scale: float = 2.0) -> bytes:
    """Page ``number`` (from 1) as PNG bytes, exactly as it prints; any number of threads may ask.

    Raises IndexError where there is no such page.
    """
    with _opened(pdf) as document:
        if not 1 <= number <= len(document):
            raise IndexError(number)
        page = document[number - 1]
        bitmap = page.render(scale=scale)
        # A copy of ours: what PDFium holds is gone when the document is closed, and never outlives the lock.
        picture = bitmap.to_pil().copy()
        bitmap.close()
        page.close()
    out = io.BytesIO()
    picture.save(out, "PNG")
    return out.getvalue()
