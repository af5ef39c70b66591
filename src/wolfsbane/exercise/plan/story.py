"""Drafts for complaint and look-round. Invented; they hint at no more than an honest look would show."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import FAULTS

if TYPE_CHECKING:
    import random

    from wolfsbane.cycle.faults.kind import Cause, Fault
    from wolfsbane.cycle.machine import Machine

COMPLAINTS = {
    "none": (
        "The owner wants it cooler than it is on a hot day, nothing has changed.",
        "A neighbor said the pressures looked odd. The house is comfortable.",
    ),
    "undercharge": ("Cooled well last year, runs all afternoon now.", "Slowly got worse over two summers."),
    "overcharge": ("Somebody added gas in spring; the bill went up.", "Loud outside since the last visit."),
    "dirty_condenser": ("Fine in the morning, struggles after lunch.", "Cottonwood season was heavy this year."),
    "low_airflow": ("The far bedroom gets hardly any air.", "Rooms are slow to cool, the vents feel very cold."),
    "liquid_line_restriction": (
        "Weak cooling since the compressor was changed.",
        "Weak cooling since the unit was moved.",
    ),
    "leaking_compressor_valves": ("Runs without a stop and never gets there.", "Weak cooling, fourteen years old."),
    "valve_overfeeding": ("Weak cooling, a rumble since the coil was replaced.", "The outdoor unit sweats all over."),
    "orifice_oversized": ("Never right since the new indoor coil.", "The outdoor unit sweats all over."),
    "non_condensables": (
        "Opened for a repair last month, trips on hot days since.",
        "Noisier since the line was repaired.",
    ),
    "condenser_fan_weak": ("Cools in the evening, not at three.", "The outdoor fan was changed in spring."),
    "condenser_recirculation": ("Worse since the deck was built.", "Trips on still afternoons."),
    "wet_condenser": ("The coil was washed this morning, please check the charge.",),
    "mismatched_coil": ("New outdoor unit on the old indoor coil, never as cold as promised.",),
    "suction_line_restriction": ("Weak cooling since the compressor burned out and was changed.",),
    "service_valve_part_closed": ("Weak cooling since it was set in May.", "Weak since the last pump-down."),
    "long_liquid_line": ("New house, weak cooling from the first day.",),
    "valve_underfeeding": ("Ice on the pipe in the morning, weak after noon.", "Weak cooling since the winter."),
    "orifice_undersized": ("Weak since the new outdoor unit; ice on the pipe.",),
    "distributor_blocked": ("Weak cooling since the coil was soldered.",),
    "water_condenser_fouled": ("Head creeps up since the tower was refilled.",),
    "low_water_flow": ("Trips since the pump was changed.",),
    "reversing_valve_leak": ("Fine in heating last winter, weak in cooling.",),
    "wrong_refrigerant": ("Weak since somebody else filled it up.",),
    "valve_hunting": ("The outdoor unit changes its note every minute or two.",),
    "compressor_not_pumping": ("It runs and runs, and the air is not cool at all.",),
    "high_load": ("Came home to a hot house an hour ago; it is not cold yet.",),
    "low_load": ("The house is cold already; the owner wants the charge checked.",),
    "undersized_unit": ("Never as cold as set on hot days since the extension was built.",),
    "economizer_stuck_open": ("Muggy inside, and it runs all day.",),
    "stratified_air": ("The controls show a supply air nobody believes.",),
    "one_circuit_off": ("Half as cold as last week.",),
}
#: the same for machines that cool a box, where the words above speak of rooms
BOX_COMPLAINTS = {
    "none": (
        "A new cook finds the box not cold enough; the thermometer says otherwise.",
        "Yearly check, nobody complains.",
    ),
    "undercharge": ("Holds at night, creeps up in the afternoon.", "Runs without a stop since last week."),
    "overcharge": ("Somebody added gas; it stops now and then on hot days.", "Loud since the last visit."),
    "dirty_condenser": (
        "Warm product by two o'clock, fine in the morning.",
        "The kitchen is greasy; nobody remembers a cleaning.",
    ),
    "low_airflow": ("The far shelf is warm, the near one freezes.", "Product is stacked up to the fan."),
    "liquid_line_restriction": ("Weak since the compressor was changed.", "Slow to pull down since it was moved."),
    "leaking_compressor_valves": ("Runs without a stop and never gets there.", "Noisy, and never quite cold."),
    "valve_overfeeding": ("Rumbles at the compressor, weak cooling.", "The compressor sweats all over."),
    "valve_underfeeding": ("Slow to pull down since the winter.", "Ice on the first turns of the coil only."),
    "valve_hunting": ("The thermometer swings, the compressor changes its note.",),
    "orifice_oversized": ("Weak since the tube was changed; the compressor sweats.",),
    "orifice_undersized": ("Weak since the tube was changed.", "Slow to pull down since it was moved."),
    "non_condensables": ("Opened for a repair last month, trips on hot days since.",),
    "condenser_fan_weak": ("Trips in the afternoon since the fan was changed.",),
    "condenser_recirculation": ("Worse since boxes were stacked against it.",),
    "wet_condenser": ("The condenser was washed this morning, please check the charge.",),
    "suction_line_restriction": ("Weak since the compressor burned out and was changed.",),
    "service_valve_part_closed": ("Weak since the last pump-down.",),
    "long_liquid_line": ("Weak from the first day; the unit stands on the roof.",),
    "distributor_blocked": ("Half of the coil is white, half is bare.",),
    "compressor_not_pumping": ("It hums and nothing gets cold.",),
    "wrong_refrigerant": ("Weak since somebody else filled it up.",),
    "high_load": ("Warm stock came in an hour ago.",),
    "low_load": ("The box is empty and colder than set.",),
}
#: what a look round a box shows, where the cause's own look speaks of a house
BOX_LOOK = {
    "dirty_condenser": ("Condenser looks clean from the front; the inner row is not seen yet.",),
    "low_airflow": ("Coil not opened yet.",),
    "condenser_fan_weak": ("Condenser clean, the fan turns.",),
    "condenser_recirculation": ("The unit stands in a corner.",),
    "wet_condenser": ("Water drips from the condenser.",),
    "high_load": ("Door shut, seals good.",),
    "low_load": ("Door shut, seals good.",),
}
#: what to say where the trouble is in somebody's instrument and the machine is normal
_SECOND_OPINION = (
    "The last technician's figures made no sense; please read it again.",
    "Two visits, two different readings.",
)
LOOK_ROUND = {
    "none": ("Filter clean.", "Outdoor coil clean, also between the rows.", "No oil traces.", "No ice."),
    "undercharge": (
        "Filter clean.",
        "Outdoor coil clean, also between the rows.",
        "Caps missing at the service ports.",
    ),
    "overcharge": (
        "Filter clean.",
        "Outdoor coil clean, also between the rows.",
        "No entry in the log for the last visit.",
    ),
    "dirty_condenser": (
        "Filter clean.",
        "Outdoor coil looks clean from the lawn; inner row not seen yet.",
        "No oil traces.",
    ),
    "low_airflow": (
        "Filter changed yesterday, the old one is gone.",
        "Outdoor coil clean, also between the rows.",
        "Indoor coil not opened yet.",
    ),
    "liquid_line_restriction": (
        "Filter clean.",
        "Outdoor coil clean, also between the rows.",
        "A new drier in the line.",
    ),
    "leaking_compressor_valves": ("Filter clean.", "Outdoor coil clean, also between the rows.", "No oil traces."),
    "valve_overfeeding": ("Filter clean.", "Outdoor coil clean, also between the rows.", "Bulb not seen yet."),
    "orifice_oversized": ("Filter clean.", "Outdoor coil clean, also between the rows.", "Orifice size not seen."),
}


#: who touched it last; none of them gives a fault away
HISTORY = (
    "Serviced every spring, last in April.",
    "No record of the last visit.",
    "Eleven years old, first call.",
    "The last technician left no figures.",
    "Set by the builder five years ago, never opened since.",
    "Changed hands in winter; nothing known.",
)


def draft(
    faults: tuple[Fault, ...], given_tests: tuple[str, ...], rng: random.Random, machine: Machine | None = None
) -> tuple[str, str, tuple[str, ...]]:
    """(complaint, history, look-round lines) for planted ``faults``; ``rng`` is a random.Random.

    ``machine`` (None: one that cools rooms) picks the words. Families without lines of their own get what an honest
    look at their cause shows, since only that tells them from the family they stand beside on the gauges; where looks
    and tests are given with the call (``given_tests``), those speak. Trouble of an instrument shows in nobody's
    complaint.
    """
    own = [f for f in faults if f.id in FAULTS]
    ids = [f.id for f in own] or ["none"]
    told = COMPLAINTS if machine is None or not machine.refrigeration else BOX_COMPLAINTS
    complaint = rng.choice(_SECOND_OPINION if faults and not own else told.get(ids[0]) or COMPLAINTS[ids[0]])
    lines: tuple[str, ...]
    if machine is not None and machine.refrigeration:
        lines = (
            ("Condenser seen from the front only.",)
            if given_tests or not own
            else BOX_LOOK.get(own[0].id) or (_cause(own[0]).look,)
        )
    elif len(ids) > 1:
        lines = ("Filter clean.",) if "low_airflow" not in ids else LOOK_ROUND["low_airflow"][:1]
    elif given_tests:
        lines = tuple(
            line for line in LOOK_ROUND.get(ids[0], ("Filter clean.",)) if not line.startswith("Outdoor coil clean")
        )
    else:
        lines = LOOK_ROUND.get(ids[0]) or ("Filter clean.", FAULTS[ids[0]].causes[0].look)
    return complaint, rng.choice(HISTORY), lines


def _cause(fault: Fault) -> Cause:
    return FAULTS[fault.id].cause(fault.cause)
