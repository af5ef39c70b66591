"""Situations: visits on which the usual readings and questions do not fit, by kind.

Which machines a kind can be met on, what it trains, and the minutes it takes (assumed). Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.exercise.plan.call_kind import COOLING, TWO_CIRCUITS, WALK_IN, WATER, kind_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


@dataclass(frozen=True, kw_only=True)
class SituationKind:
    """One kind of situation: ``trains`` says what it is about in a sentence, ``suits`` which machines it is met on."""

    id: str
    name: str
    trains: str
    suits: Callable[[Machine], bool]
    minutes: int = 8

    def machines(self, wanted: tuple[str, ...]) -> tuple[str, ...]:
        """The machines among ``wanted`` that it is met on; where none is, all that ship."""
        fit = tuple(m for m in wanted if self.suits(machine(m)))
        return fit or tuple(m.id for m in MACHINES.values() if self.suits(m))


def _cools_rooms(m: Machine) -> bool:
    return kind_of(m) is COOLING and not m.stage and m.circuits == 1


def _walk_in(m: Machine) -> bool:
    return kind_of(m) is WALK_IN


_KINDS = (
    SituationKind(
        id="standing_pressure",
        name="Standing pressure",
        trains="At rest: convert the pressure, compare with the air. Air in it, empty, or nothing to say?",
        suits=lambda m: _cools_rooms(m) or _walk_in(m),
    ),
    SituationKind(
        id="equal_pressures",
        name="Gauges stay equal",
        trains="Power is on and nothing is pumped: is it off, does it turn backward, or does it not pump?",
        suits=lambda m: _cools_rooms(m) or kind_of(m) is TWO_CIRCUITS or kind_of(m) is WATER,
    ),
    SituationKind(
        id="trips",
        name="It will not stay running",
        trains="It starts and trips: which limit, what makes it, and how to keep it on long enough to read.",
        suits=_cools_rooms,
        minutes=12,
    ),
    SituationKind(
        id="wait_or_read",
        name="Read it, or wait",
        trains="Just started, just charged, wet, iced or settled: may these readings be believed?",
        suits=_cools_rooms,
        minutes=10,
    ),
    SituationKind(
        id="hunting",
        name="Readings that swing",
        trains="A reading every minute: a hunting valve, head control at work, or a steady machine.",
        suits=lambda m: (_cools_rooms(m) and m.metering == "txv") or m.circuit.fan_on_above_pa > 0.0,
        minutes=10,
    ),
    SituationKind(
        id="machine_or_load",
        name="The machine or the load",
        trains="A warm box: coil TD, superheat and how it comes down say whether the machine or the load is at fault.",
        suits=_walk_in,
        minutes=10,
    ),
    SituationKind(
        id="defrost",
        name="Defrost",
        trains="The log of one defrost against the controller's card: length, end, wait of the fans.",
        suits=lambda m: m.application == "walk_in_freezer",
        minutes=10,
    ),
    SituationKind(
        id="low_pressure",
        name="Low-pressure control",
        trains="Starts and stops of a pump-down system: cutout, cut-in, differential, a solenoid that leaks.",
        suits=lambda m: m.application == "walk_in_cooler",
        minutes=10,
    ),
    SituationKind(
        id="winter_receiver",
        name="The receiver in winter",
        trains="Flooded head control: how much liquid the receiver should hold in today's air.",
        suits=lambda m: m.circuit.flood_below_pa > 0.0,
    ),
)
SITUATIONS = {kind.id: kind for kind in _KINDS}
