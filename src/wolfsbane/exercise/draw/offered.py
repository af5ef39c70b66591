"""Which answers stand on a sheet: eight, drawn alike for every call of a kind of machine.

"Nothing is wrong" is always one of them, the hidden fault never the odd one out, and the look-alike that comes nearest
and can still be told apart is always there. The rest is drawn from what the class may meet, so that a family stands
about as often as a wrong answer as it is the right one.
"""

from __future__ import annotations

import random
from functools import lru_cache
from operator import ne
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import NONE, faults_for
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER, TAUGHT
from wolfsbane.diagnosis.proof import STATED

if TYPE_CHECKING:
    from collections.abc import Iterable

    from wolfsbane.cycle.machine import Machine

#: faults offered beside "nothing is wrong"
OFFERED = 7
#: trouble of instruments that stands among the answers beside one that is hidden
_DECOYS = 3


def pool(machine: Machine, named: Iterable[str] | None = None) -> tuple[str, ...]:
    """Families that may stand among the answers for this kind of machine.

    ``named`` are those a request draws from, filled up from what every class is taught; None is every family that paper
    can carry. What every page rules out in words stands there only where it is named.
    """
    return _pool(machine, None if named is None else tuple(named))


@lru_cache(maxsize=256)
def _pool(machine: Machine, named: tuple[str, ...] | None) -> tuple[str, ...]:
    suited = [kind.id for kind in faults_for(machine) if kind.id not in NOT_ON_PAPER]
    suited = [f for f in suited if f not in STATED or f in (named or ())]
    if named is None:
        return tuple(suited)
    own = [f for f in suited if f in named]
    fill = [f for f in (*TAUGHT, *suited) if f in suited and f not in own]
    return tuple(dict.fromkeys((*own, *fill[: max(OFFERED - len(own), 0)])))


def look_alikes(
    among: tuple[str, ...], hidden: tuple[str, ...], patterns: dict[str, list[tuple[str, ...]]], barred: set[str]
) -> list[str]:
    """The nearest look-alikes of the ``hidden`` faults that are not ``barred``: the families whose verdicts differ in
    the fewest figures, by ``patterns`` (fault -> 5-tuples).
    """
    mine = {row for one in hidden or (NONE,) for row in patterns.get(one, ())}
    away = {
        f: min((sum(map(ne, row, own)) for row in set(patterns.get(f, ())) for own in mine), default=9)
        for f in among
        if f not in hidden and f not in barred
    }
    nearest = min(away.values(), default=9)
    return [f for f, distance in away.items() if distance == nearest]


def offer(
    machine: Machine,
    hidden: tuple[str, ...],
    patterns: dict[str, list[tuple[str, ...]]],
    named: tuple[str, ...] | None,
    barred: set[str],
    rng: random.Random,
    instruments: tuple[str, ...] = (),
) -> tuple[str, ...]:
    """:func:`answers` drawn from the :func:`pool` of a machine."""
    among = pool(machine, named)
    alike = look_alikes(among, hidden, patterns, barred)
    return answers(machine, hidden, among, alike, barred, rng, instruments)


def answers(
    machine: Machine,
    hidden: tuple[str, ...],
    among: tuple[str, ...],
    alike: list[str],
    barred: set[str],
    rng: random.Random,
    instruments: tuple[str, ...] = (),
) -> tuple[str, ...]:
    """Ids of the faults offered with a call, in catalog order.

    ``hidden`` are always among them, ``barred`` never (they would be right as well), and so is one of the nearest
    look-alikes, ``alike``; the rest is drawn from ``among``.
    """
    kept = [*hidden, *([rng.choice(alike)] if alike else [])]
    rest = [f for f in among if f not in kept and f not in barred]
    rng.shuffle(rest)
    decoys = [f for f in instruments if f not in kept and f not in barred]
    rng.shuffle(decoys)
    kept += decoys[:_DECOYS]
    chosen = {*kept, *rest[: max(OFFERED - len(kept), 0)]}
    return (*(kind.id for kind in faults_for(machine) if kind.id in chosen), *(f for f in instruments if f in chosen))
