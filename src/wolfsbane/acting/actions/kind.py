"""What an action is: what it asks for, what it costs, what it needs and risks, and what it does to a site."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.settling import advance
from wolfsbane.acting.site import Entry
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.fields import Accept, at, number, word
from wolfsbane.cycle.units import KG_PER_OZ

if TYPE_CHECKING:
    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.machine import Machine

#: money bands: nothing, what lies on the van, a part, a big part (common practice, no source)
MONEY = ("none", "small", "part", "large")
#: argument in grams -> the argument in ounces it stands for
IN_GRAMS = {"g": "oz", "rate_g_min": "rate_oz_min"}
EITHER, ON, OFF = "either", "on", "off"


@dataclass(frozen=True, kw_only=True)
class Parameter:
    """A number (``low`` to ``high`` in ``unit``) or one of ``words``; ``default`` None means it must be given."""

    name: str
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    default: Any = None
    words: tuple[str, ...] = ()
    optional: bool = False

    def checked(self, action_id: str, value: str | float | None) -> str | float | None:
        """``value`` or the default. Raises BadInputError naming action, field and what is allowed."""
        name = f"{action_id}.{self.name}"
        if value is None:
            value = self.default
        if value is None:
            if self.optional:
                return None
            allowed = ", ".join(self.words) or f"a number from {self.low:g} to {self.high:g} {self.unit}"
            raise BadInputError(name, value, allowed)
        return at(name, self.accepted.check, value)

    @property
    def accepted(self) -> Accept:
        """What it accepts."""
        return word(self.words) if self.words else number(self.low, self.high, self.unit)


@dataclass(frozen=True, kw_only=True)
class Done:
    """What an action left: the site, moments on the way, sentences;
    ``refused`` where nothing was done, and the sentence says why.
    """

    site: Site
    moments: tuple[Moment, ...] = ()
    said: tuple[str, ...] = ()
    refused: bool = False
    moved_kg: float = 0.0
    cylinder: str | None = None
    minutes: float | None = None


@dataclass(frozen=True, kw_only=True)
class ActionKind:
    """An action. ``do(site, arguments)`` returns :class:`Done`.

    ``minutes`` is the usual time (None: it depends on the arguments), ``money`` a band of :data:`MONEY`,
    ``refrigerant`` what it does to the weight in the circuit, ``certification`` and ``recovery`` what it needs,
    ``machine`` on, off or either, ``risk`` what can go wrong. ``suits(machine)`` says where it can be done.
    """

    id: str
    name: str
    group: str
    do: Callable[..., Any]
    parameters: tuple[Any, ...] = ()
    minutes: float | None = None
    money: str = "none"
    refrigerant: str = "none"
    certification: bool = False
    recovery: bool = False
    machine: str = EITHER
    risk: str = ""
    suits: Callable[[Machine], bool] = lambda machine: True

    def arguments(self, given: dict[str, Any]) -> dict[str, Any]:
        """Checked arguments from plain data; weights may be given in grams (``g``, ``rate_g_min``) instead of ounces.

        Raises BadInputError for an unknown name or a value out of range.
        """
        given = self._in_ounces(given)
        known = {p.name for p in self.parameters}
        for name in given:
            if name not in known:
                raise BadInputError(
                    f"{self.id}.{name}", given[name], "one of " + (", ".join(sorted(known)) or "no arguments")
                )
        return {p.name: p.checked(self.id, given.get(p.name)) for p in self.parameters}

    def _in_ounces(self, given: dict[str, Any]) -> dict[str, Any]:
        names = {p.name for p in self.parameters}
        found = dict(given)
        for grams, ounces in IN_GRAMS.items():
            if grams in found and ounces in names:
                value = require_range(
                    f"{self.id}.{grams}", found.pop(grams), 0.1, 12_000, "g" if grams == "g" else "g/min"
                )
                found[ounces] = value / (1000.0 * KG_PER_OZ)
        return found


def act(site: Site, kind: ActionKind, arguments: dict[str, Any]) -> Done:
    """:class:`Done` of an action on a site, with its line in the log. Machine state that does not fit refuses it."""
    if not kind.suits(site.machine):
        raise BadInputError("do", kind.id, f"an action that {site.machine.id} allows")
    arguments = kind.arguments(arguments)
    if kind.machine == OFF and site.running:
        words = f"Not done: {kind.name.lower()} needs the machine off and locked out. {kind.risk}".strip()
        done = Done(site=site, refused=True, said=(words,))
    elif kind.machine == ON and not site.running:
        done = Done(site=site, refused=True, said=("Not done: the machine is off; start it first.",))
    else:
        done = kind.do(site, arguments)
    spent = (done.site.time_s - site.time_s) / 60.0
    entry = Entry(
        time_s=site.time_s,
        action=kind.id,
        said=tuple(done.said),
        moved_kg=done.moved_kg,
        cylinder=done.cylinder,
        minutes=round(spent, 2),
        money="none" if done.refused else kind.money,
    )
    return replace(done, site=replace(done.site, log=(*site.log, entry)), minutes=spent)


def worked(site: Site, minutes: float, every_s: float | None = None) -> tuple[Site, list[Moment]]:
    """(site, moments) after so many minutes of work, the machine going on as it did;
    a moment a minute, two on long work.
    """
    return advance(site, 60.0 * minutes, every_s=every_s or (60.0 if minutes <= 20.0 else 120.0))
