"""Reading what was typed: numbers with or without a unit, verdicts and letters. The raw text is always kept."""

import re
from dataclasses import dataclass

_NUMBER = re.compile(r"^\s*([+-]?\d{1,5}(?:[.,]\d{1,3})?)\s*°?\s*([FCK]?)\s*$", re.IGNORECASE)
_VERDICTS = {"l": "low", "low": "low", "-": "low", "r": "right", "right": "right", "ok": "right", "=": "right",
             "h": "high", "high": "high", "+": "high"}


@dataclass(frozen=True, kw_only=True)
class Answer:
    """One answer: the raw text, and what it was read as (None when blank or unreadable)."""

    raw: str
    value: object = None
    unit: str | None = None

    @property
    def blank(self):
        """Nothing was written."""
        return not self.raw.strip()

    @property
    def unreadable(self):
        """Something was written that is no answer to this kind of question."""
        return not self.blank and self.value is None


def parse(kind, raw, sheet_unit=None):
    """Read ``raw`` as an answer of ``kind`` (temperature, difference, verdict, letter or letters).

    A number may carry F, C or K and is then converted to ``sheet_unit`` ("°F", "°C" or "K").
    """
    raw = "" if raw is None else str(raw)[:80]
    if kind in ("temperature", "difference"):
        return _number(kind, raw, sheet_unit)
    text = raw.strip().lower()
    if kind == "verdict":
        return Answer(raw=raw, value=_VERDICTS.get(text))
    letters = [c for c in raw.upper() if c.isalpha()]
    if not letters or (kind == "letter" and len(letters) != 1) or re.search(r"[^A-Za-z ,;/+&.]", raw.strip()):
        return Answer(raw=raw)
    return Answer(raw=raw, value=letters[0] if kind == "letter" else tuple(dict.fromkeys(letters)))


def _number(kind, raw, sheet_unit):
    match = _NUMBER.match(raw)
    if not match:
        return Answer(raw=raw)
    value, unit = float(match[1].replace(",", ".")), match[2].upper()
    if unit:
        us_sheet = sheet_unit == "°F"
        if unit == "F" and not us_sheet:
            value = (value - 32) / 1.8 if kind == "temperature" else value / 1.8
        elif unit in "CK" and us_sheet:
            value = value * 1.8 + 32 if kind == "temperature" and unit == "C" else value * 1.8
    return Answer(raw=raw, value=value, unit=unit or None)
