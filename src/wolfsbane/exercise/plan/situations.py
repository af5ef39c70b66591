"""Situations: visits on which the usual readings and questions do not fit, by kind.

Which machines a kind can be met on, what it trains, and the minutes it takes (assumed). Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.profiles.heating import HEATING_OF
from wolfsbane.exercise.plan.call_kind import COOLING, REACH_IN, TWO_CIRCUITS, WALK_IN, WATER, kind_of

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


@dataclass(frozen=True, kw_only=True)
class SituationKind:
    """One kind of situation: ``trains`` says what it is about in a sentence, ``suits`` which machines it is met on,
    ``level`` how hard it is, 1 to 5 (assumed).
    """

    id: str
    name: str
    trains: str
    suits: Callable[[Machine], bool]
    level: int
    minutes: int = 8

    def machines(self, wanted: Iterable[Machine]) -> tuple[Machine, ...]:
        """The machines among ``wanted`` that it is met on; where none is, all that ship."""
        fit = tuple(m for m in wanted if self.suits(m))
        return fit or tuple(m for m in MACHINES.values() if self.suits(m))


def _cools_rooms(m: Machine) -> bool:
    return kind_of(m) is COOLING and not m.stage and m.circuits == 1


def _walk_in(m: Machine) -> bool:
    return kind_of(m) is WALK_IN


_KINDS = (
    SituationKind(
        id="standing_pressure",
        level=2,
        name="Standing pressure",
        trains="At rest: convert the pressure, compare with the air. Air in it, empty, or nothing to say?",
        suits=lambda m: _cools_rooms(m) or _walk_in(m),
    ),
    SituationKind(
        id="equal_pressures",
        level=2,
        name="Gauges stay equal",
        trains="Power is on and nothing is pumped: is it off, does it turn backward, or does it not pump?",
        suits=lambda m: _cools_rooms(m) or kind_of(m) is TWO_CIRCUITS or kind_of(m) is WATER,
    ),
    SituationKind(
        id="trips",
        level=4,
        name="It will not stay running",
        trains="It starts and trips: which limit, what makes it, and how to keep it on long enough to read.",
        suits=_cools_rooms,
        minutes=12,
    ),
    SituationKind(
        id="wait_or_read",
        level=3,
        name="Read it, or wait",
        trains="Just started, just charged, wet, iced or settled: may these readings be believed?",
        suits=_cools_rooms,
        minutes=10,
    ),
    SituationKind(
        id="hunting",
        level=3,
        name="Readings that swing",
        trains="A reading every minute: a hunting valve, head control at work, or a steady machine.",
        suits=lambda m: (_cools_rooms(m) and m.metering == "txv") or m.circuit.fan_on_above_pa > 0.0,
        minutes=10,
    ),
    SituationKind(
        id="machine_or_load",
        level=4,
        name="The machine or the load",
        trains="A warm box: coil TD, superheat and how it comes down say whether the machine or the load is at fault.",
        suits=_walk_in,
        minutes=10,
    ),
    SituationKind(
        id="defrost",
        level=3,
        name="Defrost",
        trains="The log of one defrost against the controller's card: length, end, wait of the fans.",
        suits=lambda m: m.application == "walk_in_freezer",
        minutes=10,
    ),
    SituationKind(
        id="low_pressure",
        level=4,
        name="Low-pressure control",
        trains="Starts and stops of a pump-down system: cutout, cut-in, differential, a solenoid that leaks.",
        suits=lambda m: m.application == "walk_in_cooler",
        minutes=10,
    ),
    SituationKind(
        id="winter_receiver",
        level=3,
        name="The receiver in winter",
        trains="Flooded head control: how much liquid the receiver should hold in today's air.",
        suits=lambda m: m.circuit.flood_below_pa > 0.0,
    ),
    SituationKind(
        id="frost",
        level=3,
        name="Frost on a heat pump",
        trains="The log of a raw day: does it defrost when it should, too often, or not at all?",
        suits=lambda m: m.in_heating,
        minutes=10,
    ),
    SituationKind(
        id="which_valve",
        level=4,
        name="Which valve is in play",
        trains="A heat pump read in both modes on one day: which valve or check meters, and which is at fault.",
        suits=lambda m: m.id in (*HEATING_OF, *HEATING_OF.values()),
        minutes=14,
    ),
    SituationKind(
        id="worth_opening",
        level=3,
        name="Worth opening?",
        trains="A sealed reach-in by its pipes: leave it closed, or open it, and why.",
        suits=lambda m: kind_of(m) is REACH_IN,
        minutes=10,
    ),
    SituationKind(
        id="economizer",
        level=2,
        name="Economizer and mixed air",
        trains="Mixed air by share against mixed air as measured: damper, or layers of air.",
        suits=lambda m: kind_of(m) is TWO_CIRCUITS,
        minutes=10,
    ),
    SituationKind(
        id="supply_probe",
        level=3,
        name="Supply probe and staging",
        trains="Which probe lies, where it should sit, and what it makes the controller do.",
        suits=lambda m: kind_of(m) is TWO_CIRCUITS,
    ),
    SituationKind(
        id="no_gauges",
        level=2,
        name="Without gauges",
        trains="Delta-T, two pipes and a log: when that is enough, and when it is not.",
        suits=_cools_rooms,
    ),
    SituationKind(
        id="customer_wish",
        level=3,
        name="Is anything wrong?",
        trains="A wish, a heat wave, one hot room, a cool dry house, or a fault after all.",
        suits=_cools_rooms,
        minutes=10,
    ),
    SituationKind(
        id="mild_day",
        level=3,
        name="A mild day, face covered",
        trains="Part of the condenser face is covered so that subcooling can be judged.",
        suits=lambda m: _cools_rooms(m) and m.metering == "txv" and m.condenser == "tube_and_fin",
        minutes=10,
    ),
    SituationKind(
        id="by_pressure",
        level=2,
        name="Charged by pressure alone",
        trains="Some charge an orifice machine by its suction; total superheat says how sure that is.",
        suits=lambda m: _cools_rooms(m) and m.metering == "fixed_orifice",
        minutes=10,
    ),
    SituationKind(
        id="by_the_ounce",
        level=3,
        name="By the ounce",
        trains="Weighed in step by step: how much more, in what state, and when to stop.",
        suits=lambda m: _cools_rooms(m) and m.metering == "txv" and m.condenser == "tube_and_fin",
        minutes=10,
    ),
    SituationKind(
        id="by_superheat",
        level=3,
        name="Capillary tube, by superheat",
        trains="A room unit charged to a superheat window, with condensing over outdoors as a check.",
        suits=lambda m: _cools_rooms(m) and m.metering == "capillary",
        minutes=10,
    ),
)
SITUATIONS = {kind.id: kind for kind in _KINDS}
