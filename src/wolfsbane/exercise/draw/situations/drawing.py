"""One situation for one apprentice: a machine it is met on, the weather, a case, until one is proved."""

from __future__ import annotations

import random
from collections import Counter
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.exercise.draw.situations import (
    box_controls,
    box_loads,
    capillary,
    charging,
    frost,
    resting,
    rooftop,
    rooms,
    sealed,
    settling,
    swings,
    trips,
    two_modes,
)
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page
from wolfsbane.exercise.draw.variant import NoVariantError
from wolfsbane.exercise.draw.weather import drawn_weather
from wolfsbane.exercise.plan.situations import SITUATIONS

if TYPE_CHECKING:
    from collections.abc import Callable

    from wolfsbane.exercise.paper.situation import Situation
    from wolfsbane.exercise.plan.brief import Brief

#: kind -> who writes its page
WRITERS: dict[str, Callable[[Page], None]] = {
    kind: write
    for module in (
        resting,
        trips,
        settling,
        swings,
        box_loads,
        box_controls,
        frost,
        sealed,
        rooftop,
        rooms,
        charging,
        capillary,
        two_modes,
    )
    for kind, write in module.KINDS.items()
}
_TRIES = 60
#: after so many tries another case of the kind is drawn
_ANOTHER_AFTER = 15


def situation(kind: str, brief: Brief, seed: int) -> Situation:
    """The situation of a ``seed``; the same arguments give the same one. Raises NoVariantError with the reasons."""
    rng, reasons = random.Random(seed), []
    machines = SITUATIONS[kind].machines(brief.machine(m) for m in brief.machines)
    turn = 0.0
    for tried in range(_TRIES):
        turn = rng.random() if tried % _ANOTHER_AFTER == 0 else turn
        chosen = rng.choice(machines)
        conditions = drawn_weather(brief, chosen, rng)
        page = Page(
            kind,
            chosen,
            conditions,
            rng,
            system=brief.units,
            kit=brief.kit,
            seed=seed,
            turn=turn,
            machines=machines,
        )
        try:
            WRITERS[kind](page)
        except (NotProvedError, NoConvergenceError) as error:
            reasons.append(str(error))
            continue
        return page.done()
    raise NoVariantError(SITUATIONS[kind].name, Counter(reasons))
