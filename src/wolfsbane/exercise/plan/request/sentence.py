"""A sentence that is read a piece at a time: what is read is struck out, what is left was not understood."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping

    from wolfsbane.cycle.machine import Machine

MAX_LENGTH = 600
#: stand in a sentence for what was read, and for a fault or a machine that was
STRUCK, NAMED = "~", "¤"
#: where a word begins and ends
BEGIN, END = r"(?<![a-z0-9~.])", r"(?![a-z0-9])"
_ONES = [
    "zero",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
    "thirteen",
    "fourteen",
    "fifteen",
    "sixteen",
    "seventeen",
    "eighteen",
    "nineteen",
]
_TENS = {
    "twenty": 20,
    "thirty": 30,
    "forty": 40,
    "fourty": 40,
    "fifty": 50,
    "sixty": 60,
    "seventy": 70,
    "eighty": 80,
    "ninety": 90,
}
_OTHERS = {
    "no": 0,
    "none": 0,
    "a": 1,
    "an": 1,
    "a single": 1,
    "single": 1,
    "just one": 1,
    "only one": 1,
    "another": 1,
    "a couple": 2,
    "a couple of": 2,
    "couple of": 2,
    "a pair of": 2,
    "a half dozen": 6,
    "half a dozen": 6,
    "half dozen": 6,
    "dozen": 12,
    "a dozen": 12,
    "two dozen": 24,
    "a hundred": 100,
    "one hundred": 100,
}
_WORDS = {word: i for i, word in enumerate(_ONES)} | _TENS | _OTHERS
_COMPOSED = rf"(?:{'|'.join(_TENS)}) (?:{'|'.join(_ONES[1:10])})"
#: a whole number in figures or words, as one group
NUMBER = rf"(\d{{1,3}}|{_COMPOSED}|{'|'.join(sorted(_WORDS, key=len, reverse=True))})"


def whole(text: str) -> int:
    """The number that :data:`NUMBER` matched."""
    text = " ".join(text.split())
    if text.isdigit():
        return int(text)
    if text in _WORDS:
        return _WORDS[text]
    tens, ones = text.split(" ")
    return _TENS[tens] + _ONES.index(ones)


@dataclass(frozen=True, kw_only=True)
class Understood:
    """What was made of the words from ``start`` to ``end`` of a sentence: a ``field`` of a brief and its ``value``;
    ``text`` says so in words.
    """

    words: str
    start: int
    end: int
    field: str
    value: Any
    text: str


@dataclass(frozen=True, kw_only=True)
class Left:
    """Words that nothing was made of, or that cannot be had: ``why`` where that is known, ``nearest`` is what may stand
    there instead.
    """

    words: str
    start: int
    end: int
    nearest: str | None = None
    why: str = ""


def plain(text: str) -> str:
    """As long as ``text``, small letters, a comma for every stop, spaces for hyphens that join words."""
    chars = [c.lower() if len(c.lower()) == 1 else c for c in text]
    for i, c in enumerate(chars):
        before, after = chars[i - 1] if i else " ", chars[i + 1] if i + 1 < len(chars) else " "
        if c in "-–—−‑":
            chars[i] = "-" if before.isdigit() and after.isdigit() else " "
        elif c in ";!?()[]\n\r" or (c == "." and not (before.isdigit() and after.isdigit())):
            chars[i] = ","
        elif c == ":" and not (before.isdigit() and after.isdigit()):
            chars[i] = " "
        elif c == "," and before.isdigit() and after.isdigit() and "".join(chars[i + 1 : i + 4]).isdigit():
            chars[i] = "'"
        elif c in "’'\"“”_\t/°" or c in (STRUCK, NAMED):
            chars[i] = " "
    return "".join(chars)


#: what a rule makes of words: (field, value, text), or None where it leaves them
Found = tuple[str, Any, str] | None


class Sentence:
    """A sentence under the pencil. ``said`` is as long as the text, with what was read struck out. ``machines`` are
    those it may name, the shipped ones and a school's ``own`` (tuned ones as plain data) after them.
    """

    def __init__(self, text: str, machines: Mapping[str, Machine], own: tuple[dict[str, Any], ...] = ()) -> None:
        self.machines = machines
        self.own = own
        self.text = str(text)[:MAX_LENGTH]
        self.said = plain(self.text)
        self.plain = self.said
        self.understood: list[Understood] = []
        self.impossible: list[Left] = []

    def find(self, pattern: str) -> Iterator[re.Match[str]]:
        """Matches of words not read yet, one after the other; each is struck out unless its taker puts it back."""
        at = 0
        while match := compiled(pattern).search(self.said, at):
            if match.end() == match.start():
                return
            yield match
            struck = {STRUCK, NAMED} & set(self.said[match.start() : match.end()])
            at = max(match.start() if struck else match.end(), match.start() + 1)

    def strike(self, start: int, end: int, char: str = STRUCK) -> None:
        """Strikes words out."""
        self.said = self.said[:start] + char * (end - start) + self.said[end:]

    def take(self, pattern: str, read: Callable[[re.Match[str]], Found]) -> None:
        """Every match that ``read`` makes something of: (field, value, text); None leaves the words."""
        for match in self.find(pattern):
            found = read(match)
            if found is not None:
                self.note(match.start(), match.end(), *found)

    def note(self, start: int, end: int, field: str, value: Any, text: str) -> None:
        """Words that were understood, struck out."""
        start, end = self.tight(start, end)
        self.understood.append(
            Understood(words=self.text[start:end], start=start, end=end, field=field, value=value, text=text)
        )
        self.strike(start, end)

    def refuse(self, start: int, end: int, why: str, nearest: str | None = None) -> None:
        """Words that were understood and cannot be had, struck out."""
        start, end = self.tight(start, end)
        self.impossible.append(Left(words=self.text[start:end], start=start, end=end, why=why, nearest=nearest))
        self.strike(start, end)

    def tight(self, start: int, end: int) -> tuple[int, int]:
        """A span without the spaces and commas at its ends."""
        while start < end and self.plain[start] in " ,":
            start += 1
        while end > start and self.plain[end - 1] in " ,":
            end -= 1
        return start, end


@cache
def compiled(pattern: str) -> re.Pattern[str]:
    """A pattern of words with single spaces: any number of spaces, and words already struck out, do not part them."""
    loose = re.sub(r" (?=[?*])[?*]", r"[ ]*", pattern)
    return re.compile(re.sub(r"(?<!\[) (?![\]'~])", r"[ ]+", loose))


@cache
def named(name: str) -> str:
    """The pattern of a name: its words, each in one or several."""
    parts = name.split()
    words = []
    for i, word in enumerate(parts):
        plural = word.isalpha() and not word.endswith("ss") and (len(word) > 2 or i == len(parts) - 1)
        words.append(re.escape(word) + ("(?:es|s)?" if plural else ""))
    last = words[-1].replace("y(?:es|s)?", "(?:y|ies)")
    return r"(?<![a-z0-9])" + " ".join((*words[:-1], last)) + r"(?![a-z0-9])"
