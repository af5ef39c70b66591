"""The setting of a try: a machine, and the weather it is met in.

Every call of a request may have weather of its own, and solving every fault in it is a good part of drawing a call. So
the calls of one request share a number of settings: each is solved once, and papers still differ, since no two
apprentices begin with the same setting at the same place.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.exercise.draw.seeds import rng_of
from wolfsbane.exercise.draw.weather import drawn_weather

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.plan.brief import Brief

    Setting = tuple[Machine, Conditions]

#: settings that the calls of one form of a place on the papers begin with, half a class's worth; and how many of them
#: are tried for one call before its settings are drawn freely: what one in twenty gives is then found as before
SHARED, SHARED_TRIES = 12, 8


def free_setting(brief: Brief, machines: list[str], rng: random.Random) -> Setting:
    """One of the ``machines`` (ids) in weather drawn for this try alone."""
    machine = brief.machine(rng.choice(machines))
    return machine, drawn_weather(brief, machine, rng)


def shared_setting(brief: Brief, machines: list[str], place: str, turn: int, attempt: int) -> Setting:
    """A setting that other calls of the request may have as well. At one ``place`` and ``attempt`` no two of
    :data:`SHARED` turns that follow on one another get the same.
    """
    each = -(-SHARED // len(machines))
    order = [(name, weather) for name in machines for weather in range(each)]
    rng_of(brief, "settings", place, attempt).shuffle(order)
    name, weather = order[turn % len(order)]
    machine = brief.machine(name)
    return machine, drawn_weather(brief, machine, rng_of(brief, "weather", name, weather))
