"""Technicians of another making than those that levels are set by, to judge from outside what is issued.

One goes by a shop's round numbers instead of the practice's bands. One knows no rule at all: it names the answer whose
solved verdicts, in this very weather, come nearest to what was read.
"""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import NONE
from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL, Band
from wolfsbane.diagnosis.technician import ORIFICE, VALVE, by_the_book, by_the_rules

if TYPE_CHECKING:
    from wolfsbane.diagnosis.technician import ORIFICE, VALVE, Read

#: nameplate subcooling this near, valve superheat, TD, CTOA, drier drop, degrees F (common practice, no source)
_PLATE_SC, _SH, _TD, _CTOA, _DRIER = 3.0, (10.0, 20.0), (30.0, 40.0), (13.0, 22.0), 3.0
#: misreadings are uniform within so much, and one reading in so many is a slip of so much, degrees F
MISREAD_F, SLIP, _SLIPPED_F = 2.0, 0.05, 10.0


def shop(page: Read) -> Read:
    """The page judged by a shop's round numbers instead of the practice's bands; only where a machine cools rooms."""
    if page.card not in (VALVE, ORIFICE):
        return page
    bands = dict(page.bands) | {
        "evaporator_td": Band(low=_TD[0], high=_TD[1]),
        "ctoa": Band(low=_CTOA[0], high=_CTOA[1]),
    }
    target = None if "subcooling" not in bands else bands["subcooling"].target
    if target is not None:
        bands["subcooling"] = Band(low=target - _PLATE_SC, high=target + _PLATE_SC, target=target)
    if page.card == VALVE:
        bands["superheat"] = Band(low=_SH[0], high=_SH[1])
    return replace(page, bands=bands)


def misread(page: Read, rng: random.Random) -> Read:
    """The page as somebody reads it who is a little off everywhere, and far off now and then."""
    read: dict[str, float | None] = {}
    for key, value in page.values.items():
        off = rng.uniform(-MISREAD_F, MISREAD_F)
        if rng.random() < SLIP:
            off += rng.choice((-_SLIPPED_F, _SLIPPED_F))
        read[key] = None if value is None else value + off
    return replace(page, values=read)


def by_patterns(page: Read, patterns: Mapping[str, Sequence[tuple[str, ...]]], rng: random.Random) -> str:
    """The single answer whose verdicts, as solved in this weather, differ in the fewest figures; drawn among equals."""
    v = page.values

    def verdict(figure: str, a: str, b: str) -> str:
        band, x, y = page.bands.get(figure), v.get(a), v.get(b)
        return NORMAL if band is None or x is None or y is None else band.verdict(x - y)

    liquid, after = v.get("liquid_line"), v.get("drier_out")
    drier = HIGH if liquid is not None and after is not None and liquid - after > _DRIER else NORMAL
    seen = (
        verdict("superheat", "suction_line", "suction_saturation"),
        verdict("subcooling", "liquid_saturation", "liquid_line"),
        verdict("evaporator_td", "return_db", "suction_saturation"),
        verdict("ctoa", "liquid_saturation", "outdoor_db"),
        drier,
    )
    order = (LOW, NORMAL, HIGH)

    def away(rows: Sequence[tuple[str, ...]]) -> int:
        return min(
            (sum(abs(order.index(a) - order.index(b)) for a, b in zip(row, seen, strict=True)) for row in rows),
            default=99,
        )

    heard = {f: page.told.get(f, 0) for f in (NONE, *page.offered)}
    open_to = [f for f, said in heard.items() if said >= 0 and f in patterns]
    shown = [f for f in open_to if heard[f] > 0] or open_to
    nearest = min((away(patterns[f]) for f in shown), default=99)
    return rng.choice([f for f in shown if away(patterns[f]) == nearest] or [NONE])


def share(page: Read, hidden: tuple[str, ...], runs: int, seed: str) -> float:
    """Share of ``runs`` misread pages on which ``hidden`` is named, half by the card and half by the rules, with a
    shop's round numbers.
    """
    rng, right = random.Random(seed), 0
    for number in range(runs):
        read = misread(shop(page), rng)
        right += set((by_the_book if number % 2 else by_the_rules)(read)) == set(hidden)
    return right / runs


def share_by_patterns(
    page: Read, patterns: Mapping[str, Sequence[tuple[str, ...]]], hidden: tuple[str, ...], runs: int, seed: str
) -> float | None:
    """The same for one who goes by solved verdicts, of single faults; None of several."""
    if len(hidden) > 1:
        return None
    rng = random.Random(seed)
    wanted = hidden[0] if hidden else NONE
    return sum(by_patterns(misread(page, rng), patterns, rng) == wanted for _ in range(runs)) / runs


def reads_right(page: Read, hidden: tuple[str, ...]) -> bool:
    """Whether a technician who reads right names ``hidden``, by the card and by the rules, with a shop's numbers."""
    by_shop = shop(page)
    return set(by_the_book(by_shop)) == set(by_the_rules(by_shop)) == set(hidden)
