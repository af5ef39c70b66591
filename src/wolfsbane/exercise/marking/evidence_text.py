"""Free text as evidence: finds the figures somebody states and compares them with their own work.

It only ever suggests.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from wolfsbane.diagnosis.targets import Band
    from wolfsbane.exercise.paper.key import Key


class Work(Protocol):
    """What of an apprentice's work is looked at, whichever rubric marks it."""

    own: dict[str, float]
    key: Key

    def band(self, name: str) -> Band:
        """The band of a figure."""

    def tolerance(self, name: str) -> float:
        """A tolerance of the key."""


#: words that name a figure
_NAMES = {
    "superheat": ("superheat", "sh"),
    "subcooling": ("subcooling", "sub-cooling", "subcool", "sc"),
    "evaporator_td": ("evaporator td", "td", "dtd"),
    "ctoa": ("ctoa", "condenser split", "over ambient"),
    "suction_saturation": ("suction saturation", "evaporating"),
    "liquid_saturation": ("liquid saturation", "condensing"),
}
_SAYS = {
    "low": ("low", "too little", "below", "under", "short"),
    "high": ("high", "too much", "above", "over"),
    "normal": ("right", "normal", "on target", "in range", "fine", "ok"),
}
_NUMBER = re.compile(r"[-−]?\d+(?:[.,]\d+)?")
#: a figure written about is looked for this many characters after its name
_REACH = 45


def suggest(text: str, work: Work) -> tuple[float, str]:
    """(share of the points, sentence on what was found) for a free text, from the apprentice's own figures and
    verdicts.

    Half for one figure stated rightly that is off target, all for two or for one with its right verdict; 0 where
    nothing is found.
    """
    said = str(text).lower()
    right: list[str] = []
    wrong: list[str] = []
    for name, words in _NAMES.items():
        at = min((m.start() for w in words for m in re.finditer(rf"\b{re.escape(w)}\b", said)), default=None)
        if at is None:
            continue
        near = re.split(r"[.;]\s|\bbut\b|\band\b", said[at : at + _REACH])[0]
        own = work.own.get(name, work.key.figures.get(name))
        number = _NUMBER.search(near)
        verdict = next(
            (v for v, words in _SAYS.items() if any(re.search(rf"\b{re.escape(w)}\b", near) for w in words)), None
        )
        mine = work.band(name).verdict(own) if name in work.key.bands and own is not None else None
        if number is not None:
            value = float(number[0].replace("−", "-").replace(",", "."))
            fits = own is not None and abs(value - own) <= 2 * work.tolerance("sum")
            (right if fits else wrong).append(f"{name.replace('_', ' ')} {number[0]}")
            if not fits:
                continue
        if verdict is not None and mine is not None:
            (right if verdict == mine else wrong).append(f"{name.replace('_', ' ')} {verdict}")
    share = 0.0 if not right else 1.0 if len(right) > 1 and not wrong else 0.5
    found = f"supported by your work: {', '.join(right)}" if right else "no figure from your work is stated"
    return share, found + (f"; not supported: {', '.join(wrong)}" if wrong else "")
