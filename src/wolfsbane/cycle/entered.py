"""Numbers as they stand on a nameplate or a gauge, and as people type them: 3 tons, 7 lb 8 oz, 208/230, 1/2, 36k, 78°.

Read into the unit a field is in. What is no number is refused with what would do.
"""

from __future__ import annotations

import re

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import KG_PER_OZ, M3_S_PER_CFM, M_PER_FT, PA_PER_PSI, W_PER_BTUH

#: what stands in a field where nothing was read
BLANK = ("", "-", "–", "—", "−", "n/a", "na", "none", "?", "unknown", "not read", "not given", "x")
_TON_W, _HP_W, _PA_PER_INHG = 12_000.0 * W_PER_BTUH, 745.7, 3386.389
#: dimension -> unit as it may be written -> its size in SI
_UNITS: dict[str, dict[str, float]] = {
    "power": {
        **dict.fromkeys(("btu/h", "btuh", "btu/hr", "btu", "btus", "btu per hour"), W_PER_BTUH),
        **dict.fromkeys(("mbh", "mbtu", "mbtuh", "kbtu", "kbtu/h", "kbtuh"), 1000.0 * W_PER_BTUH),
        **dict.fromkeys(("ton", "tons", "t", "tonner", "tr"), _TON_W),
        **dict.fromkeys(("w", "watt", "watts"), 1.0),
        **dict.fromkeys(("kw", "kilowatt", "kilowatts"), 1000.0),
        "hp": _HP_W,
    },
    "mass": {
        **dict.fromkeys(("oz", "ozs", "ounce", "ounces"), KG_PER_OZ),
        **dict.fromkeys(("lb", "lbs", "pound", "pounds", "#"), 16.0 * KG_PER_OZ),
        **dict.fromkeys(("g", "gr", "gram", "grams"), 1e-3),
        **dict.fromkeys(("kg", "kgs", "kilo", "kilos"), 1.0),
    },
    "pressure": {
        **dict.fromkeys(("psi", "psig", "lbs", "pounds", "#"), PA_PER_PSI),
        **dict.fromkeys(("kpa", "kpag", "kpa gauge"), 1e3),
        **dict.fromkeys(("bar", "barg"), 1e5),
        # below zero: a vacuum
        **dict.fromkeys(
            ("inhg", "in hg", "in. hg", "inches", "inches of vacuum", "in vac", '"', '" vac'), -_PA_PER_INHG
        ),
    },
    "flow": {
        **dict.fromkeys(("cfm", "cubic feet"), M3_S_PER_CFM),
        **dict.fromkeys(("l/s", "lps"), 1e-3),
        **dict.fromkeys(("m3/h", "m³/h"), 1 / 3600.0),
    },
    "mass of line": {
        **dict.fromkeys(("oz/ft", "oz per ft", "oz a foot", "oz/foot", "oz per foot"), KG_PER_OZ / M_PER_FT),
        **dict.fromkeys(("g/m", "g per m"), 1e-3),
    },
    "length": {
        **dict.fromkeys(("ft", "feet", "foot", "'"), M_PER_FT),
        **dict.fromkeys(("m", "meter", "meters"), 1.0),
    },
    "voltage": dict.fromkeys(("v", "volt", "volts", "vac", "v ac"), 1.0),
    "current": dict.fromkeys(("a", "amp", "amps", "ampere", "rla", "fla"), 1.0),
    "difference": {
        **dict.fromkeys(("°f", "f", "df", "f°", "degf", "deg f", "degrees f", "fahrenheit"), 1 / 1.8),
        **dict.fromkeys(("k", "°c", "c", "dc", "kelvin", "degrees c", "deg c", "celsius"), 1.0),
    },
    "temperature": {
        **dict.fromkeys(("°f", "f", "f°", "degf", "deg f", "degrees f", "fahrenheit"), 1 / 1.8),
        **dict.fromkeys(("°c", "c", "c°", "degc", "deg c", "degrees c", "celsius"), 1.0),
    },
}
#: unit of a field -> its dimension, and what may be typed
_FIELDS: dict[str, tuple[str, str]] = {
    "Btu/h": ("power", "Btu/h, tons or kW: 36000, 36k, 3 tons"),
    "kW": ("power", "kW, Btu/h or tons: 10.5, 36k Btu/h, 3 tons"),
    "W": ("power", "W or kW: 3200, 3.2 kW"),
    "oz": ("mass", "oz, lb and oz, or g: 120, 7 lb 8 oz, 3.4 kg"),
    "g": ("mass", "g, kg, or lb and oz: 3400, 3.4 kg, 7 lb 8 oz"),
    "psig": ("pressure", "psig, kPa or bar: 118, 8.1 bar, 5 inHg for vacuum"),
    "kPa": ("pressure", "kPa gauge, bar or psi: 820, 8.2 bar, 118 psi"),
    "cfm": ("flow", "cfm or L/s: 1200, 570 L/s"),
    "L/s": ("flow", "L/s or cfm: 570, 1200 cfm"),
    "oz/ft": ("mass of line", "oz a foot or g/m: 0.6, 56 g/m"),
    "g/m": ("mass of line", "g/m or oz a foot: 56, 0.6 oz/ft"),
    "ft": ("length", "ft or m: 15, 4.5 m"),
    "m": ("length", "m or ft: 4.5, 15 ft"),
    "V": ("voltage", "volts: 230, 208/230"),
    "A": ("current", "amps: 14.1"),
    "°F": ("temperature", "degrees: 78, 78°, 25 °C"),
    "°C": ("temperature", "degrees: 25, 25°, 78 °F"),
    "K": ("difference", "a difference in K or °F: 6, 11 °F"),
    "df": ("difference", "a difference in °F or K: 11, 6 K"),
    "tons": ("power", "tons, Btu/h or kW: 3, 36k Btu/h, 10.5 kW"),
}
_FRACTIONS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "⅓": 1 / 3, "⅔": 2 / 3, "⅛": 0.125}
_NUMBER = r"[+-]?(?:\d+ \d+/\d+|\d+/\d+|\d*[½¼¾⅓⅔⅛]|\d+(?:\.\d+)?|\.\d+)"
_RANGE = re.compile(rf"^({_NUMBER})(.*?)\s*(?:to|\.\.|-|and)\s*({_NUMBER})(.*)$")
_ONE = re.compile(rf"^({_NUMBER})\s*(k(?![a-z])|k(?=\s*btu))?\s*(.*)$")
_TWO = re.compile(
    rf"^({_NUMBER})\s*(lbs?|pounds?|#|kgs?)\.?\s*(?:,|and|&)?\s*({_NUMBER})\s*(ozs?|ounces?|gr?|grams?)\.?$"
)


def entered(typed: object, unit: str, field: str, *, difference: bool = False) -> float | None:
    """A number as typed, in ``unit`` (one of those a field can be in; with ``difference`` degrees are a difference), or
    None where nothing was read.

    Raises BadInputError naming ``field`` for what is no such number.
    """
    text = _plain(typed)
    if text in BLANK:
        return None
    value = _value(text, unit, difference)
    if value is None:
        raise _refused(field, typed, unit, difference)
    return value


def entered_range(typed: object, unit: str, field: str, *, difference: bool = False) -> float | list[float] | None:
    """As :func:`entered`; a reading that swings is a range, "92 to 98"."""
    text = _plain(typed)
    match = _RANGE.match(text)
    if match is None or text in BLANK or re.fullmatch(rf"{_NUMBER}", text):
        return entered(typed, unit, field, difference=difference)
    behind = match[4].strip()
    ends = [_value(f"{match[1]} {match[2] or behind}".strip(), unit, difference)]
    ends.append(_value(f"{match[3]} {behind}".strip(), unit, difference))
    low, high = ends
    if low is None or high is None:
        raise _refused(field, typed, unit, difference)
    return sorted((low, high))


def _refused(field: str, typed: object, unit: str, difference: bool) -> BadInputError:
    return BadInputError(field, typed, f"{_FIELDS[_key(unit, difference)][1]}; leave it blank if unknown")


def _key(unit: str, difference: bool) -> str:
    return ("K" if unit in ("°C", "K") else "df") if difference else unit


def _plain(typed: object) -> str:
    text = " ".join(str(typed).lower().replace("−", "-").replace("–", "-").replace("\u00a0", " ").split())
    text = re.sub(r"^(?:about|approx\.?|ca\.?|~|≈|=)\s*", "", text)
    text = re.sub(r"(?<=\d)[ ',](?=\d{3}(?!\d))", "", text)  # thousands
    return re.sub(r"(?<=\d),(?=\d)", ".", text)


def _value(text: str, unit: str, difference: bool) -> float | None:
    dimension = _FIELDS[_key(unit, difference)][0]
    names = _UNITS[dimension]
    own = {"df": "f", "tons": "ton"}.get(_key(unit, difference), unit.lower())
    two = _TWO.match(text) if dimension == "mass" else None
    if two is not None:
        whole, rest = _float(two[1]) * names[two[2]], _float(two[3]) * names[two[4]]
        return (whole + rest) / names[own]
    if dimension == "voltage":
        pair = re.match(r"^(\d{3})\s*[/-]\s*(\d{3})(?:\s*[/-]\s*\d+)*\s*(?:v|volts?|vac)?$", text)
        if pair is not None:  # a plate for two supplies: the higher
            return float(max(pair[1], pair[2]))
    one = _ONE.match(text)
    if one is None:
        return None
    number, thousand, written = _float(one[1]), one[2], one[3].strip().rstrip(".")
    if thousand:
        if dimension not in ("power", "flow"):
            if dimension != "difference" or written:
                return None
            thousand, written = None, "k"
        else:
            number *= 1000.0
    if written in ("", "°", "deg", "degrees", "degree"):
        written = own
    if written not in names:
        return None
    if dimension == "temperature":
        celsius = number if names[written] == 1.0 else (number - 32.0) / 1.8
        return celsius if names[own] == 1.0 else celsius * 1.8 + 32.0
    return number * names[written] / names[own]


def _float(text: str) -> float:
    """A number with a fraction or without: 1/2, 1 1/2, 7½."""
    sign = -1.0 if text.startswith("-") else 1.0
    text = text.lstrip("+-")
    for char, part in _FRACTIONS.items():
        if char in text:
            return sign * (float(text.replace(char, "") or 0) + part)
    whole, _, rest = text.rpartition(" ")
    if "/" in rest:
        over, under = rest.split("/")
        return sign * (float(whole or 0) + float(over) / max(float(under), 1.0))
    return sign * float(text)
