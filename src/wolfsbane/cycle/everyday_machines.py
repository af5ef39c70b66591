"""What a shop calls its machines: everyday names of classes, metering devices and refrigerants, in one list.

Names are written as in :mod:`wolfsbane.cycle.everyday`. Common practice, no source.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.everyday import names_in
from wolfsbane.cycle.profiles import MACHINES

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine


def _is(*applications: str) -> Callable[[Machine], bool]:
    return lambda m: m.application in applications


def _cools_air(m: Machine) -> bool:
    return m.application == "air_conditioner" and m.condenser != "water_cooled"


@dataclass(frozen=True, kw_only=True)
class MachineWord:
    """Names of a class of machines, or of something machines have. ``of`` is kind (a class of machines), metering,
    refrigerant, size, condenser or stage: what is said of one machine in several of these holds together.
    """

    of: str
    label: str
    names: tuple[str, ...]
    suits: Callable[[Machine], bool]


_UNIT = "[(unit|system|machine|box)]"
MACHINE_WORDS: tuple[MachineWord, ...] = (
    MachineWord(
        of="kind",
        label="walk-in cooler",
        names=("(walk in cooler|walkin cooler|walk in box|walk in refrigerator|medium temp walk in)",),
        suits=_is("walk_in_cooler"),
    ),
    MachineWord(
        of="kind",
        label="walk-in freezer",
        names=("(walk in freezer|walkin freezer|low temp walk in|freezer box)",),
        suits=_is("walk_in_freezer"),
    ),
    MachineWord(
        of="kind", label="walk-in", names=("(walk in|walkin)",), suits=_is("walk_in_cooler", "walk_in_freezer")
    ),
    MachineWord(
        of="kind",
        label="reach-in freezer",
        names=("(reach in freezer|reachin freezer|upright freezer)",),
        suits=lambda m: m.id.startswith("reachin-freezer"),
    ),
    MachineWord(
        of="kind",
        label="reach-in",
        names=(f"(reach in|reachin|reach in cooler|reach in refrigerator|cabinet|bottle cooler|display case) {_UNIT}",),
        suits=lambda m: m.id.startswith("reachin"),
    ),
    MachineWord(
        of="kind",
        label="cold rail",
        names=("(cold rail|prep table|prep rail|salad bar|pizza table|sandwich table)",),
        suits=lambda m: m.id.startswith("coldrail"),
    ),
    MachineWord(
        of="kind",
        label="freezer",
        names=("freezer",),
        suits=lambda m: m.application == "walk_in_freezer" or m.id.startswith("reachin-freezer"),
    ),
    MachineWord(
        of="kind",
        label="cooler",
        names=("(cooler|medium temp [(refrigeration|box|unit)])",),
        suits=lambda m: m.application == "walk_in_cooler" or m.id.startswith("reachin-r"),
    ),
    MachineWord(
        of="kind",
        label="refrigeration",
        names=(
            "([commercial] refrigeration|refrigerated box|box|refrigerator|fridge|cold box|grocery|kitchen equipment)",
        ),
        suits=lambda m: m.refrigeration,
    ),
    MachineWord(
        of="kind",
        label="small sealed refrigeration",
        names=("(sealed (system|refrigeration)|small refrigeration|hermetic system|self contained)",),
        suits=lambda m: m.sealed,
    ),
    MachineWord(
        of="kind",
        label="rooftop",
        names=(
            f"(rtu|rooftop|roof top|package|packaged|two circuit|dual circuit|2 circuit) {_UNIT}",
            "(rooftop package unit|packaged rooftop [unit]|two circuits|dual circuits|economizer unit)",
        ),
        suits=_is("package_unit"),
    ),
    MachineWord(
        of="kind",
        label="heat pump in heating",
        names=(
            "(heat pump [in] heating|heat pump (in|on) heat|heat pump in [the] heating mode|heating mode|in heating"
            "|heat pump in winter|heating season|heating heat pump|heating)",
        ),
        suits=lambda m: m.in_heating,
    ),
    MachineWord(
        of="kind",
        label="heat pump in cooling",
        names=("(heat pump [in] cooling [mode]|heat pump in summer|cooling heat pump)",),
        suits=_is("heat_pump_cooling"),
    ),
    MachineWord(
        of="kind",
        label="heat pump",
        names=("(heat pump [(unit|system|call)]|heatpump)",),
        suits=_is("heat_pump_cooling", "heat_pump_heating"),
    ),
    MachineWord(
        of="kind",
        label="water-cooled",
        names=("(water cooled|water source|tower) [(unit|system|machine|condenser)]", "(city water|cooling tower)"),
        suits=lambda m: m.condenser == "water_cooled",
    ),
    MachineWord(
        of="kind",
        label="room unit",
        names=("(window|room|through the wall) (unit|air conditioner|ac)", "(window shaker|ptac)"),
        suits=lambda m: m.id.startswith("room-"),
    ),
    MachineWord(
        of="kind",
        label="split",
        names=(f"split {_UNIT}", "(split (ac|air conditioner|air conditioning)|residential split|house split)"),
        suits=lambda m: m.id.startswith("split-") and not m.stage and "old" not in m.id,
    ),
    MachineWord(
        of="kind",
        label="air conditioner",
        names=(
            "(air conditioner|air conditioning [(unit|system)]|ac [(unit|system)]|a c|acs|comfort cooling|central air"
            "|residential (ac|unit|system)|residential|house unit)",
        ),
        suits=lambda m: _cools_air(m) and not m.stage and "old" not in m.id and not m.id.startswith("room-"),
    ),
    MachineWord(
        of="condenser",
        label="microchannel",
        names=("(microchannel|micro channel) [(unit|system|machine|condenser|coil)]",),
        suits=lambda m: m.condenser == "microchannel",
    ),
    MachineWord(
        of="stage",
        label="two-stage",
        names=("(two stage|2 stage|dual stage|two speed) [(unit|system|machine|compressor)]",),
        suits=lambda m: bool(m.stage),
    ),
    MachineWord(
        of="stage",
        label="flooded head",
        names=("(flooded head [(pressure control|control)]|head pressure control|headmaster|winter control)",),
        suits=lambda m: m.circuit.flood_below_pa > 0.0,
    ),
    MachineWord(
        of="age",
        label="old unit",
        names=("(old|older|vintage|old style|old kind) [(unit|system|machine|split)]",),
        suits=lambda m: "old" in m.id,
    ),
    MachineWord(
        of="metering",
        label="TXV",
        names=(
            "(txv|tev|tx valve|expansion valve|thermostatic expansion valve|thermostatic valve|thermostatic|valve)"
            " [(system|machine|unit)]",
        ),
        suits=lambda m: m.metering == "txv",
    ),
    MachineWord(
        of="metering",
        label="EEV",
        names=("(eev|exv|electronic expansion valve|electronic valve|electronic) [(system|machine|unit)]",),
        suits=lambda m: m.metering == "eev",
    ),
    MachineWord(
        of="metering",
        label="fixed orifice (piston)",
        names=("(fixed orifice|piston|orifice|fixed metering|fixed bore|flow rator) [(system|machine|unit|device)]",),
        suits=lambda m: m.metering == "fixed_orifice",
    ),
    MachineWord(
        of="metering",
        label="capillary tube",
        names=("(cap tube|capillary tube|capillary|captube) [(system|machine|unit)]",),
        suits=lambda m: m.metering == "capillary",
    ),
)
#: what a shop may ask for and the model does not have -> the nearest that it has, to be offered
NOT_MODELED: dict[str, str] = {
    "(mini split|minisplit|ductless [(unit|split|system)]|mini)": "split with electronic valve",
    "(chiller|water chiller|process chiller)": "water-cooled",
    "(vrf|vrv|multi zone|multi split)": "heat pump",
    "(ice machine|ice maker)": "reach-in freezer",
    "(furnace|gas furnace|boiler)": "heat pump in heating",
    "(geothermal [heat pump]|ground source [heat pump])": "water-cooled",
    "(rack|parallel rack|supermarket rack|compressor rack)": "walk-in",
    "(ammonia|co2|transcritical|r 744|r744|r 717|r717)": "R-404A",
    "(car ac|auto ac|automotive|mobile ac)": "R-134a",
    "(dehumidifier)": "room unit",
    "(thermostat|electrical|capacitor|contactor|wiring|transformer|control board|low voltage|relay|breaker)": "",
}


@cache
def machine_names() -> dict[str, MachineWord]:
    """Everyday name -> the word it stands for."""
    found: dict[str, MachineWord] = {}
    for word in MACHINE_WORDS:
        for name in names_in(word.names):
            found.setdefault(name, word)
    return found


@cache
def refrigerant_names() -> dict[str, str]:
    """R-410A, R410A, 410A, 410 -> refrigerant; bare two-digit ones (22, 32) are left to where they stand."""
    found = {}
    for fluid in sorted({m.refrigerant for m in MACHINES.values()}):
        number = fluid.lower().removeprefix("r-")
        digits = re.sub(r"\D", "", number)
        for name in (f"r {number}", f"r{number}", f"r {digits}", f"r{digits}"):
            found[name] = fluid
        for name in (number, digits):
            if len(name) > 2:
                found.setdefault(name, fluid)
    return found | {"propane": "R-290", "isobutane": "R-600a"}


@cache
def names_of_machine(machine: Machine) -> tuple[str, ...]:
    """Everyday names of a machine, for pickers and searches: its classes, metering and refrigerant."""
    words = [name for name, word in machine_names().items() if word.suits(machine)]
    return (*words, *(name for name, fluid in refrigerant_names().items() if fluid == machine.refrigerant))
