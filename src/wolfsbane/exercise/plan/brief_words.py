"""A brief in a sentence: "six calls, level 2 to 4, orifice machines, R-410A and R-32, one machine with nothing wrong,
fifty minutes".

Reads what it knows into the fields of a brief and says which words it made nothing of; it never guesses.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.profiles import MACHINES

_NUMBERS = {
    word: i
    for i, word in enumerate(
        (
            "no",
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
            "twenty",
        )
    )
}
_TENS = {"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80, "ninety": 90}
_METERING = {
    "orifice": "fixed_orifice",
    "piston": "fixed_orifice",
    "txv": "txv",
    "thermostatic": "txv",
    "valve": "txv",
    "eev": "eev",
    "electronic": "eev",
    "capillary": "capillary",
}
_DRILLS = {
    "conversion": "conversion",
    "conversions": "conversion",
    "dial": "dial",
    "dials": "dial",
    "bookkeeping": "bookkeeping",
    "superheat": "superheat",
    "subcooling": "subcooling",
    "spot the error": "spot_the_error",
    "find the mistake": "spot_the_error",
    "vacuum": "vacuum",
    "microns": "vacuum",
    "mixed air": "mixed_air",
    "glide": "glide",
    "target superheat": "target_superheat",
    "unit conversion": "units",
    "unit conversions": "units",
    "which line": "which_line",
    "line temperatures": "pipe_pressure",
    "manifolds": "two_manifolds",
}
#: names of drills, longer ones first
_NAMED = "|".join(sorted((re.escape(name) for name in _DRILLS), key=len, reverse=True))
_IDLE = {
    "and",
    "a",
    "an",
    "the",
    "with",
    "of",
    "on",
    "for",
    "to",
    "from",
    "in",
    "calls",
    "call",
    "machines",
    "machine",
    "please",
    "sheet",
    "class",
    "at",
    "each",
    "only",
    "or",
    "then",
    "are",
    "is",
}


def _number(text: str) -> int | None:
    """A number in figures or words, or None."""
    parts = text.lower().replace("-", " ").split()
    if len(parts) == 1 and parts[0].isdigit():
        return int(parts[0])
    if parts and parts[0] in _TENS:
        return _TENS[parts[0]] + (_NUMBERS.get(parts[1], 0) if len(parts) > 1 else 0)
    return _NUMBERS.get(parts[0]) if len(parts) == 1 else None


_WORD = r"(\d{1,3}|[a-z]+(?:[ -](?:one|two|three|four|five|six|seven|eight|nine))?)"


def read_brief(text: str) -> tuple[dict[str, Any], list[str]]:
    """(fields of a brief as plain data, words nothing was made of). Fields: calls, levels, machines, faults, minutes,
    apprentices, fault_free_share, two_faults, instruments, units, drills; what the sentence does not name is left out.
    """
    said = " " + " ".join(str(text)[:600].lower().replace(",", " , ").replace(".", " ").split()) + " "
    found: dict[str, Any] = {}
    drills: list[dict[str, Any]] = []

    def take(pattern: Any, use: Any) -> None:
        nonlocal said
        while match := re.search(pattern, said):
            if use(match) is False:
                break
            said = said[: match.start()] + " , " + said[match.end() :]

    def whole(name: str, group: int = 1) -> Any:
        def use(match: Any) -> Any:
            value = _number(match[group])
            if value is None:
                return False
            found[name] = value
            return None

        return use

    def levels(match: Any) -> Any:
        low, high = _number(match[1]), _number(match[2] or match[1])
        if low is None or high is None:
            return False
        found["levels"] = sorted((low, high))
        return None

    fault_free = []
    take(rf"\blevels? {_WORD}(?: ?(?:to|-|–|and) ?{_WORD})?\b", levels)
    take(rf"\b{_WORD} minutes?\b", whole("minutes"))
    take(rf"\b{_WORD} (?:apprentices|students)\b", whole("apprentices"))
    none_wrong = r"(?:sound|healthy|normal)(?: machines?| calls?)?|(?:(?:machines?|calls?) )?(?:with )?nothing wrong"
    take(rf"\b{_WORD} (?:{none_wrong})\b", lambda m: fault_free.append(_number(m[1]) or 0))
    take(rf"\b{_WORD} (?:with two faults|two[- ]fault(?: calls?| machines?)?)\b", whole("two_faults"))
    reads = r"(?:reads?|shows?|is reading) (?:wrong|false|off)|(?:that )?lies?"
    trouble = rf"bad (?:gauge|instrument)s?|instrument (?:trouble|fault)s?|(?:instrument|gauge)s? (?:{reads})"
    take(
        rf"\b{_WORD} (?:calls? )?(?:with |where )?(?:an? |the )?(?:{trouble})\b",
        whole("instrument_faults"),
    )
    take(rf"\b{_WORD} (?:second|repeat|return|follow-up) (?:visits?|calls?)\b", whole("second_visits"))
    take(
        rf"\b{_WORD} (?:items? of )?({_NAMED})(?: drills?)?\b",
        lambda m: drills.append({"kind": _DRILLS[m[2]], "items": max(_number(m[1]) or 6, 1)}),
    )
    take(rf"\b{_WORD} calls?\b", whole("calls"))
    for name, value in (("analogue", "analogue"), ("dials to be read", "analogue"), ("digital", "digital")):
        take(rf"\b{name}\b(?: gauges?)?", lambda m, v=value: found.__setitem__("instruments", v))
    take(r"\b(?:celsius|metric|kpa|bar|si units)\b", lambda m: found.__setitem__("units", "si"))
    machines = _machines(take)
    if machines is not None:
        found["machines"] = machines
    faults = []
    for kind in sorted(FAULTS.values(), key=lambda k: -len(k.name)):
        take(
            rf"\b(?:{re.escape(kind.name.lower())}|{kind.id.replace('_', '[ _]')})s?\b",
            lambda m, k=kind: faults.append(k.id),
        )
    if faults:
        found["faults"] = list(dict.fromkeys(faults))
    if fault_free:
        found["fault_free_share"] = round(fault_free[0] / max(found.get("calls", 5), 1), 3)
    if drills:
        found["drills"] = drills
    left = [w for w in re.findall(r"[^\s,]+", said) if w not in _IDLE]
    return found, left


def _machines(take: Callable[..., Any]) -> list[str] | None:
    """Machines by metering device and refrigerant, or None where neither is named."""
    metering, fluids = set(), set()
    for word, device in _METERING.items():
        take(rf"\b{word}s?\b(?: (?:machines?|valves?|systems?))?", lambda m, d=device: metering.add(d))
    for fluid in sorted({m.refrigerant for m in MACHINES.values()}):
        take(rf"\b{fluid.lower().replace('-', '-?')}\b", lambda m, f=fluid: fluids.add(f))
    if not metering and not fluids:
        return None
    return [
        m.id
        for m in MACHINES.values()
        if (not metering or m.metering in metering) and (not fluids or m.refrigerant in fluids)
    ]
