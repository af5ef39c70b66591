"""What students read in another language than English: message catalogs (gettext's open format, ``es.po``), applied to
what is sent to a student after it was worked out. The English text is the key; one with {names} in it stands for every
text of its form. What a catalog does not have stays English, and :func:`unknown` says what that is.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache
from html import escape, unescape
from pathlib import Path
from typing import Any

import polib

ENGLISH, SPANISH = "en", "es"
LANGUAGES = {ENGLISH: "English", SPANISH: "Español"}
#: what of a reply is read by people; the rest are ids and numbers
READ = frozenset(
    ("answer", "asks", "band", "caution", "complaint", "earns", "group", "harm", "history", "label", "name", "off_for")
    + ("reasons", "risk", "said", "showed", "spoken", "text", "what")
)
#: of feedback on a paper beside that; one's own answer with the words of its letter
FED_BACK = READ | frozenset(("title", "expected", "why", "again", "hazard", "own", "reason"))
#: what a student sent, and what actions are called to machines, stands under these keys
KEPT = frozenset(("data", "parameters"))
_NAME = re.compile(r"\{(\w+)\}")
#: letters of its own below which a form is loose
_LOOSE = 8
#: the end of one sentence and the beginning of the next
_BREAK = re.compile(r"(?<=[.!?:])\s+(?=[A-ZÁÉÍÓÚ“«(−+0-9])")
#: between a title and what was found, and between a row and its column
_JOINTS = (": ", "? ", ", ")
#: longer than this nothing is a title with what was found, a row with its column
_TITLE = 160
#: a choice or a step with its letter or number
_LETTERED = re.compile(r"([A-Z]|\d{1,2}) (\D.*)")
#: nothing to translate in it: numbers, units, letters of choices, model numbers
_BARE = re.compile(
    r"^[\W\d_]*(?:(?:°F|°C|psig?|kPa|oz|g|lb|kg|A|cfm|in w\.c\.|TXV|CTOA|min|s|h|ft|R-\w+|[A-Z]{3}-\d+\w*|%|K)"
    r"[\W\d_]*)*$"
)
#: words of a drawing
_IN_SVG = re.compile(r"(?<=>)[^<>]*[^\W\d_][^<>]*(?=</text>)")


class Catalog:
    """One language's messages."""

    def __init__(self, path: Path) -> None:
        self.exact: dict[str, str] = {}
        self.forms: list[tuple[re.Pattern[str], str]] = []
        for entry in polib.pofile(str(path)):
            if not entry.msgstr:
                continue
            if _NAME.search(entry.msgid):
                parts = _NAME.split(entry.msgid)
                form = "".join(f"(?P<{p}>.+?)" if n % 2 else re.escape(p) for n, p in enumerate(parts))
                self.forms.append((re.compile(form), entry.msgstr))
            else:
                self.exact[entry.msgid] = entry.msgstr
        self._loose = {said for _, said in self.forms if len(re.sub(r"\{\w+\}|\W", "", said)) < _LOOSE}
        self._lower = {k.lower(): v[:1].lower() + v[1:] for k, v in self.exact.items()}
        # the form that says most itself comes first
        self.forms.sort(key=lambda form: -len(form[0].pattern))

    def _whole(self, text: str) -> str | None:
        if text in self.exact:
            return self.exact[text]
        if (found := self._lower.get(text)) is not None:
            return found
        for form, said in self.forms:
            match = form.fullmatch(text)
            if match is None:
                continue
            parts = match.groupdict()
            # a form that says little itself fits many texts by chance: all in it has to be known
            if said in self._loose and any(self.found(part) is None for part in parts.values()):
                continue
            return said.format(**{name: self.text(part) for name, part in parts.items()})
        return None

    @lru_cache(maxsize=4096)  # noqa: B019 (one catalog of a language lives as long as the process)
    def found(self, text: str) -> str | None:
        """The text in this language, None where the catalog does not have it."""
        text = text.strip()
        if len(text) < 2 or _BARE.match(text):
            return text
        whole = self._whole(text)
        if whole is None and text[0].islower():  # what begins a sentence elsewhere
            whole = self._whole(text[0].upper() + text[1:])
            whole = whole and whole[0].lower() + whole[1:]
        if whole is not None:
            return whole
        if text[:1] == "“" and text[-1:] == "”" and (said := self._whole(text[1:-1])) is not None:
            return f"«{said}»"
        if (lettered := _LETTERED.fullmatch(text)) is not None and (said := self._whole(lettered[2])) is not None:
            return f"{lettered[1]} {said}"
        if (said := self._joined(_BREAK.split(text), " ") or self._joined(text.split("; "), "; ")) is not None:
            return said
        if len(text) > _TITLE:
            return None
        return next((said for by in _JOINTS if (said := self._joined(text.split(by, 1), by))), None) or self._joined(
            text.rsplit(", ", 1), ", "
        )

    def _joined(self, parts: list[str], by: str) -> str | None:
        found = [said for part in parts if (said := self.found(part)) is not None] if len(parts) > 1 else []
        return by.join(found) if found and len(found) == len(parts) else None

    def text(self, text: str) -> str:
        """The text in this language, as it is where the catalog does not have it."""
        return self.found(text) or text


@cache
def catalog(language: str) -> Catalog | None:
    """The catalog of a language, None for English and for one there is none of."""
    path = Path(__file__).parent / f"{language}.po"
    return Catalog(path) if language in LANGUAGES and path.exists() else None


def said(reply: Any, language: str, read: frozenset[str] = READ) -> Any:
    """A reply with what people read of it, under keys in ``read``, in ``language``; ids and numbers stay."""
    book = catalog(language)
    return reply if book is None else _said(reply, book, read, None)


def _said(part: Any, book: Catalog, read: frozenset[str], key: str | None) -> Any:
    if isinstance(part, dict):
        # what somebody typed stays as they typed it, and ids are ids
        return {k: v if k in KEPT else _said(v, book, read, k) for k, v in part.items()}
    if isinstance(part, (list, tuple)):
        return [_said(v, book, read, key) for v in part]
    return book.text(part) if isinstance(part, str) and key in read else part


def drawn(svg: str, language: str) -> str:
    """A drawing with its words in ``language``."""
    book = catalog(language)
    return svg if book is None else _IN_SVG.sub(lambda text: escape(book.text(unescape(text[0]))), svg)


def unknown(reply: Any, language: str, read: frozenset[str] = READ) -> set[str]:
    """Texts of a reply that people read and the catalog of ``language`` does not have."""
    book = catalog(language)
    found: set[str] = set()

    def walk(part: Any, key: str | None) -> None:
        if isinstance(part, dict):
            for k, v in part.items():
                if k not in KEPT:
                    walk(v, k)
        elif isinstance(part, (list, tuple)):
            for v in part:
                walk(v, key)
        elif isinstance(part, str) and key in read and book is not None and book.found(part) is None:
            found.add(part)

    walk(reply, None)
    return found
