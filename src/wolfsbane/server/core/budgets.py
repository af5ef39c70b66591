"""How long whoever failed to log in has to wait: a delay that grows with every failure, and no lock.

Counted in a quarter hour: failures of a name from an address, of an address whatever the name, of a name wherever from.
A browser from which somebody logged in before has a count of its own, so that nobody else can keep its owner out.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from collections.abc import Mapping

#: the first wait and the longest, s
_FIRST_S, _LONGEST_S = 4.0, 900.0
#: an address may fail so many times as often as one name on it, a name wherever from so many times
_PLACE, _EVERYWHERE = 12, 6


@dataclass(frozen=True, kw_only=True)
class Failures:
    """How often it failed, and how long ago the last one was, s."""

    count: int = 0
    age_s: float = math.inf


def wait_s(failures: Failures, free: int) -> float:
    """How long to wait now after so many failures, of which ``free`` cost nothing, s; 0 where it may be tried."""
    over = failures.count - free
    if over < 0:
        return 0.0
    delay = min(_FIRST_S * 2.0 ** min(over, 30), _LONGEST_S)
    return max(delay - failures.age_s, 0.0)


def waits(row: Mapping[str, Any], limit: int, *, known: bool) -> float:
    """The longest of the waits of a row of counts (``pair``, ``place``, ``everywhere``, each with ``_age``). A browser
    that is ``known`` only waits for what failed on itself.
    """

    def of(name: str) -> Failures:
        age = row[f"{name}_age"]
        return Failures(count=row[name], age_s=math.inf if age is None else float(age))

    found = [wait_s(of("pair"), limit)]
    if not known:
        found += [wait_s(of("place"), _PLACE * limit), wait_s(of("everywhere"), _EVERYWHERE * limit)]
    return max(found)
