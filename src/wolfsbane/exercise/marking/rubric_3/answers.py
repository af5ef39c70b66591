"""Reading what was typed: numbers with or without a unit, verdicts and letters. The raw text is always kept."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

_NUMBER = re.compile(r"^\s*([+\-−–]?\d{1,5}(?:[.,]\d{1,3})?)\s*°?\s*([FCK]?)\s*$", re.IGNORECASE)
_VERDICTS = {
    "l": "low",
    "low": "low",
    "-": "low",
    "n": "normal",
    "normal": "normal",
    "ok": "normal",
    "=": "normal",
    # as older sheets ask for it
    "r": "normal",
    "right": "normal",
    "h": "high",
    "high": "high",
    "+": "high",
}
_CHANGES = {
    "d": "down",
    "down": "down",
    "f": "down",
    "falls": "down",
    "-": "down",
    "s": "same",
    "same": "same",
    "stays": "same",
    "=": "same",
    "u": "up",
    "up": "up",
    "r": "up",
    "rises": "up",
    "+": "up",
}
_WORDS = {"verdict": _VERDICTS, "change": _CHANGES}
#: kind -> unit as written -> size in the first unit named
_MEASURES = {
    "pressure": {"psig": 1.0, "psi": 1.0, "kpa": 0.1450377, "bar": 14.50377},
    "mass": {"oz": 1.0, "lb": 16.0, "g": 1 / 28.349523, "kg": 1000 / 28.349523},
}
_MEASURE = re.compile(r"^\s*([+\-−–]?\d{1,5}(?:[.,]\d{1,3})?)\s*([a-z]*)\s*$", re.IGNORECASE)
#: longest answer kept, by kind
LONGEST = {"text": 600}


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer: the raw text, and what it was read as (None when blank or unreadable)."""

    raw: str
    value: Any = None
    unit: str | None = None

    @property
    def blank(self) -> bool:
        """Nothing was written."""
        return not self.raw.strip()

    @property
    def unreadable(self) -> bool:
        """Something was written that is no answer to this kind of question."""
        return not self.blank and self.value is None


def parse(kind: str, raw: str | None, sheet_unit: str | None = None) -> Answer:
    """Read ``raw`` as an answer of ``kind``: temperature, difference, pressure, mass, verdict, change, letter, letters,
    steps or text.

    A number may carry its unit and is then converted to ``sheet_unit`` (°F, °C or K; psig or kPa; oz or g).
    """
    raw = "" if raw is None else str(raw)[: LONGEST.get(kind, 80)]
    if kind in ("temperature", "difference"):
        return _number(kind, raw, sheet_unit)
    if kind in _MEASURES:
        return _measure(kind, raw, sheet_unit)
    text = raw.strip().lower()
    if kind in _WORDS:
        return Answer(raw=raw, value=_WORDS[kind].get(text))
    if kind == "text":
        return Answer(raw=raw, value=raw.strip() or None)
    if kind == "steps":
        numbers = re.findall(r"\d+", raw)
        bad = not numbers or re.search(r"[^\d ,;.>→\-–]", raw.strip()) or any(len(n) > 2 for n in numbers)
        return Answer(raw=raw, value=None if bad else tuple(dict.fromkeys(map(int, numbers))))
    letters = [c for c in raw.upper() if c.isalpha()]
    if not letters or (kind == "letter" and len(letters) != 1) or re.search(r"[^A-Za-z ,;/+&.]", raw.strip()):
        return Answer(raw=raw)
    return Answer(raw=raw, value=letters[0] if kind == "letter" else tuple(dict.fromkeys(letters)))


def _measure(kind: str, raw: str, sheet_unit: str | None) -> Answer:
    match, sizes = _MEASURE.match(raw), _MEASURES[kind]
    unit = match[2].lower() if match else ""
    if not match or (unit and unit not in sizes):
        return Answer(raw=raw)
    value = float(match[1].replace(",", ".").replace("−", "-").replace("–", "-"))
    own = (sheet_unit or "").lower()
    if unit and own in sizes:
        value *= sizes[unit] / sizes[own]
    return Answer(raw=raw, value=value, unit=unit or None)


def _number(kind: str, raw: str, sheet_unit: str | None) -> Answer:
    match = _NUMBER.match(raw)
    if not match:
        return Answer(raw=raw)
    value, unit = float(match[1].replace(",", ".").replace("−", "-").replace("–", "-")), match[2].upper()
    if unit:
        us_sheet = sheet_unit == "°F"
        if unit == "F" and not us_sheet:
            value = (value - 32) / 1.8 if kind == "temperature" else value / 1.8
        elif unit in "CK" and us_sheet:
            value = value * 1.8 + 32 if kind == "temperature" and unit == "C" else value * 1.8
    return Answer(raw=raw, value=value, unit=unit or None)
