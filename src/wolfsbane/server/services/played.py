"""Scripts that were just played, kept so that one more step is not the whole afternoon again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import TYPE_CHECKING

from wolfsbane.acting.script import Played, play, played_on

if TYPE_CHECKING:
    from wolfsbane.acting.script import Script
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

#: scripts kept in one process
_MAX_KEPT = 12
_kept: OrderedDict[Hashable, Played] = OrderedDict()
_lock = threading.Lock()


def played(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], written: Script, system: str) -> Played:
    """:func:`wolfsbane.acting.script.play`, gone on from the longest beginning of the script that was played before.

    Same answer, since a site and what is done to it say all there is. Raises what ``play`` raises.
    """
    begins = (machine, conditions, faults, repr(written.drift), repr(written.alive), system)
    keys = [(begins, repr(written.steps[: i + 1])) for i in range(len(written.steps))]
    with _lock:
        known = next((i for i in reversed(range(len(keys))) if keys[i] in _kept), None)
        before = None if known is None else _kept[keys[known]]
    if before is None or known is None:
        found = play(machine, conditions, faults, written, system)
    else:
        found = played_on(before, written.steps[known + 1 :])
    with _lock:
        _kept[keys[-1]] = found
        _kept.move_to_end(keys[-1])
        while len(_kept) > _MAX_KEPT:
            _kept.popitem(last=False)
    return found
