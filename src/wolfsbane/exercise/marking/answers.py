"""Reading what was typed: numbers with or without a unit, verdicts, letters and the words shops use for them.

What can be read one way is read. What could mean two things is not guessed: it is said back as it was understood, and
one answer is asked for. The raw text is always kept.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from wolfsbane.cycle.everyday import fault_names

_LOW = ("l", "lo", "low", "too low", "below", "under", "-", "−", "↓")
_NORMAL = (
    "n",
    "norm",
    "normal",
    "ok",
    "okay",
    "o.k.",
    "good",
    "fine",
    "in range",
    "on target",
    "in spec",
    "=",
    # as older sheets ask for it
    "r",
    "right",
)
_HIGH = ("h", "hi", "high", "too high", "above", "over", "+", "↑")
_DOWN = ("d", "down", "f", "fall", "falls", "drop", "drops", "lower", "decreases", "goes down", "-", "−", "↓")
_SAME = ("s", "same", "the same", "stay", "stays", "no change", "unchanged", "nc", "=", "→", "↔")
_UP = ("u", "up", "r", "rise", "rises", "higher", "increases", "climbs", "goes up", "+", "↑")
_WORDS = {
    "verdict": {w: v for v, words in (("low", _LOW), ("normal", _NORMAL), ("high", _HIGH)) for w in words},
    "change": {w: v for v, words in (("down", _DOWN), ("same", _SAME), ("up", _UP)) for w in words},
}
#: kind -> unit as written -> size in the first unit named
_MEASURES = {
    "pressure": {"psig": 1.0, "psi": 1.0, "lb": 1.0, "#": 1.0, "kpa": 0.1450377, "bar": 14.50377},
    "mass": {"oz": 1.0, "lb": 16.0, "g": 1 / 28.349523, "kg": 1000 / 28.349523},
}
#: how a unit of mass or pressure may be written
_UNITS = {
    "ozs": "oz",
    "ounce": "oz",
    "ounces": "oz",
    "lbs": "lb",
    "pound": "lb",
    "pounds": "lb",
    "#": "lb",
    "gr": "g",
    "gram": "g",
    "grams": "g",
    "kgs": "kg",
    "kilo": "kg",
    "kilos": "kg",
    "kilograms": "kg",
    "psig": "psig",
    "lb/in2": "psi",
}
#: units so large that a comma before three digits is a decimal comma, not a thousand
_LARGE = ("lb", "kg", "bar")
_DIGITS = r"(?:\d{1,3}(?:,\d{3})+|\d{1,6}(?:[.,]\d{0,3})?|[.,]\d{1,3})"
_ONE = rf"[+\-−–]?\s*{_DIGITS}"
_ABOUT = re.compile(r"^\s*(?:~|≈|about|approx\.?|ca\.?|around)\s*", re.IGNORECASE)
_TEMPERATURE = re.compile(rf"^({_ONE})\s*(?:[°ºd˚]|deg\.?|degrees?)?\s*(f|c|k|fahrenheit|celsius)?\.?$", re.IGNORECASE)
_MEASURE = re.compile(rf"^({_ONE})\s*([a-z#/0-9]*)\.?$", re.IGNORECASE)
_TWO_PARTS = re.compile(
    rf"^([+\-−–]?)\s*({_DIGITS})\s*(lbs?|pounds?|#|kgs?)\.?\s*(?:,|and|&)?\s*({_DIGITS})\s*(ozs?|ounces?|g|grams?)\.?$",
    re.IGNORECASE,
)
_RANGE = re.compile(rf"^({_ONE})\s*(?:-|−|–|to|\.\.)\s*({_DIGITS})", re.IGNORECASE)
#: what may stand between the numbers of steps
_BETWEEN = re.compile(r"then|and|next|first|steps?|no\.?|[\s,;.>→⇒\-–−/&+()]", re.IGNORECASE)
#: longest answer kept, by kind
LONGEST = {"text": 600}


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer: the raw text, and what it was read as (None when blank or unreadable).

    ``understood`` says how something that could mean two things was understood, so that one answer can be asked for.
    """

    raw: str
    value: Any = None
    unit: str | None = None
    understood: str = ""

    @property
    def blank(self) -> bool:
        """Nothing was written."""
        return not self.raw.strip()

    @property
    def unreadable(self) -> bool:
        """Something was written that is no one answer to this kind of question."""
        return not self.blank and self.value is None


def parse(
    kind: str, raw: str | None, sheet_unit: str | None = None, choices: tuple[tuple[str, str, str], ...] = ()
) -> Answer:
    """Read ``raw`` as an answer of ``kind``: temperature, difference, pressure, mass, number, verdict, change, letter,
    letters, steps or text.

    A number may carry its unit and is then converted to ``sheet_unit`` (°F, °C or K; psig or kPa; oz or g). ``choices``
    are (letter or number, id, text) of what is offered: a choice may be written by its name.
    """
    return _read(kind, "" if raw is None else str(raw)[: LONGEST.get(kind, 80)], sheet_unit, choices)


@lru_cache(maxsize=4096)
def _read(kind: str, raw: str, sheet_unit: str | None, choices: tuple[tuple[str, str, str], ...]) -> Answer:
    """:func:`parse`, kept: a paper is marked again and again, and everybody rings the same few words."""
    text = _ABOUT.sub("", raw).strip()
    if not text:
        return Answer(raw=raw)
    if kind == "number":
        return _range(raw, text) or _plain_number(raw, text, sheet_unit)
    if kind in ("temperature", "difference", *_MEASURES):
        return _range(raw, text) or (
            _measure(kind, raw, text, sheet_unit) if kind in _MEASURES else _degrees(kind, raw, text, sheet_unit)
        )
    if kind in _WORDS:
        return Answer(raw=raw, value=_word(_WORDS[kind], text))
    if kind == "text":
        return Answer(raw=raw, value=raw.strip() or None)
    if kind == "steps":
        return _steps(raw)
    return _letters(kind, raw, text, choices)


def _word(words: dict[str, str], text: str) -> str | None:
    plain = " ".join(text.lower().strip("()[]!").split())
    return words.get(plain) or words.get(plain.rstrip(".,;:)"))


def _steps(raw: str) -> Answer:
    numbers = re.findall(r"(?<!\d)\d+(?!\d)", raw)
    left = _BETWEEN.sub("", re.sub(r"\d+", "", raw))
    if not numbers or left or any(len(n) > 2 for n in numbers):
        return Answer(raw=raw)
    value = [int(n) for n in numbers]
    return Answer(raw=raw, value=tuple(n for i, n in enumerate(value) if i == 0 or n != value[i - 1]))


def _letters(kind: str, raw: str, text: str, choices: tuple[tuple[str, str, str], ...]) -> Answer:
    marked = re.sub(r"[()\[\]]", " ", text)
    tokens = [t for t in re.split(r"[\s,;/+&.]+|\band\b|\bor\b", marked, flags=re.IGNORECASE) if t]
    known = {letter.upper() for letter, _, _ in choices}
    letters: list[str] = []
    if all(len(t) == 1 and t.isalpha() for t in tokens):
        letters = [t.upper() for t in tokens]
    elif len(tokens) == 1 and tokens[0].isalpha() and tokens[0].upper() == tokens[0] and (len(tokens[0]) <= 9):
        letters = list(tokens[0].upper())
    named = _by_name(text, choices)
    if named and not letters:
        letters = named
    elif not letters and len(tokens) == 1 and tokens[0].isalpha() and _could_be(tokens[0].upper(), known):
        letters = list(tokens[0].upper())
    letters = list(dict.fromkeys(letters))
    if not letters:
        return Answer(raw=raw)
    if kind == "letter" and len(letters) != 1:
        return Answer(raw=raw, understood=" and ".join(letters))
    return Answer(raw=raw, value=letters[0] if kind == "letter" else tuple(letters))


def _could_be(letters: str, known: set[str]) -> bool:
    """Whether a word may be letters written together: those of choices that are known, or a few of any."""
    return set(letters) <= known if known else len(letters) <= 3


@lru_cache(maxsize=4096)
def _plain(text: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9]+", " ", text.lower()).split())


def _by_name(text: str, choices: tuple[tuple[str, str, str], ...]) -> list[str]:
    """Letters of the choices that ``text`` names, each part by its wording, its id or an everyday name."""
    ids = {choice_id: letter for letter, choice_id, _ in choices}
    found = []
    for part in [p for p in re.split(r"[,;&+/]|\band\b", text, flags=re.IGNORECASE) if p.strip()]:
        wanted = _plain(part)
        exact = [letter for letter, choice_id, said in choices if wanted in (_plain(said), _plain(choice_id))]
        said = fault_names().get(wanted) or fault_names().get(wanted.rstrip("s"), ())
        if not exact and len(said) == 1 and said[0] in ids:
            exact = [ids[said[0]]]
        if not exact and len(wanted) >= 4:
            exact = [letter for letter, _, said in choices if re.search(rf"\b{re.escape(wanted)}\b", _plain(said))]
        if len(exact) != 1:
            return []
        found += exact
    return found


def _range(raw: str, text: str) -> Answer | None:
    """A range where one number is asked: understood, and asked back."""
    match = _RANGE.match(text)
    if match is None:
        return None
    low, high = (_float(part, None) for part in match.groups())
    return Answer(raw=raw, understood=f"{low:g} to {high:g}")


def _float(text: str, unit: str | None) -> float:
    """A number as people write one: any minus sign, a decimal comma, or commas between thousands."""
    plain = text.replace("−", "-").replace("–", "-").replace(" ", "")
    if re.search(r",\d{3}$", plain) and (plain.count(",") > 1 or unit not in _LARGE):
        return float(plain.replace(",", ""))
    return float(plain.replace(",", ".").rstrip(".") or "0")


#: units of plain numbers as they may be written
_NUMBER_UNITS = {"%": ("percent", "pct"), "min": ("minutes", "minute", "mins"), "A": ("amps", "amp", "a")}


def _plain_number(raw: str, text: str, sheet_unit: str | None) -> Answer:
    """A number with nothing behind it, or its own unit."""
    match = re.match(rf"^({_ONE})\s*([a-z%]*)\.?$", text, re.IGNORECASE)
    own = sheet_unit or ""
    if not match or match[2].lower() not in ("", own.lower(), *_NUMBER_UNITS.get(own, ())):
        return Answer(raw=raw)
    return Answer(raw=raw, value=_float(match[1], None))


def _measure(kind: str, raw: str, text: str, sheet_unit: str | None) -> Answer:
    sizes, own = _MEASURES[kind], (sheet_unit or "").lower()
    two = _TWO_PARTS.match(text) if kind == "mass" else None
    if two:
        first, second = (_UNITS.get(two[i].lower(), two[i].lower()) for i in (3, 5))
        value = _float(two[2], first) * sizes[first] + _float(two[4], second) * sizes[second]
        value *= -1.0 if two[1] in ("-", "−", "–") else 1.0
        return Answer(raw=raw, value=value / sizes[own] if own in sizes else value, unit=second)
    match = _MEASURE.match(text)
    unit = _UNITS.get(match[2].lower(), match[2].lower()) if match else ""
    if kind == "pressure" and unit == "lb":
        unit = "psi"
    if not match or (unit and unit not in sizes):
        return Answer(raw=raw)
    value = _float(match[1], unit or own)
    if unit and own in sizes:
        value *= sizes[unit] / sizes[own]
    return Answer(raw=raw, value=value, unit=unit or None)


def _degrees(kind: str, raw: str, text: str, sheet_unit: str | None) -> Answer:
    match = _TEMPERATURE.match(text)
    if not match:
        return Answer(raw=raw)
    value, unit = _float(match[1], "lb"), (match[2] or "")[:1].upper()
    if unit:
        us_sheet = sheet_unit == "°F"
        if unit == "F" and not us_sheet:
            value = (value - 32) / 1.8 if kind == "temperature" else value / 1.8
        elif unit in "CK" and us_sheet:
            value = value * 1.8 + 32 if kind == "temperature" and unit == "C" else value * 1.8
    return Answer(raw=raw, value=value, unit=unit or None)
