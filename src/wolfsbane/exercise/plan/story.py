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
        "Customer wants it cooler on hot days; nothing has changed.",
        "A neighbor who does this work said the pressures look odd. The house is comfortable.",
    ),
    "undercharge": ("Cooled fine last year, now it runs all afternoon.", "Slowly got worse over two summers."),
    "overcharge": (
        "Somebody added refrigerant in spring; the electric bill went up.",
        "Loud outside since the last visit.",
    ),
    "dirty_condenser": ("Fine in the morning, can't keep up after lunch.", "Cottonwood season was heavy this year."),
    "low_airflow": (
        "Hardly any air in the back bedroom.",
        "Rooms are slow to cool but the air at the registers feels very cold.",
    ),
    "liquid_line_restriction": (
        "Not cooling well since the compressor was replaced.",
        "Not cooling well since the unit was moved.",
    ),
    "leaking_compressor_valves": (
        "Runs nonstop and never satisfies the thermostat.",
        "Not cooling well; the unit is fourteen years old.",
    ),
    "valve_overfeeding": (
        "Not cooling well, and a rumble since the coil was replaced.",
        "The compressor and suction line sweat all over.",
    ),
    "orifice_oversized": (
        "Never right since the new indoor coil went in.",
        "The compressor and suction line sweat all over.",
    ),
    "non_condensables": (
        "System was opened for a repair last month; trips on hot days since.",
        "Louder since the line was repaired.",
    ),
    "condenser_fan_weak": (
        "Cools in the evening but not at three in the afternoon.",
        "The outdoor fan motor was replaced in spring.",
    ),
    "condenser_recirculation": ("Worse since the deck was built.", "Trips on hot afternoons with no wind."),
    "wet_condenser": ("The outdoor coil was washed this morning; please check the charge.",),
    "mismatched_coil": ("New outdoor unit on the old indoor coil; never as cold as promised.",),
    "suction_line_restriction": ("Not cooling well since the compressor burned out and was replaced.",),
    "service_valve_part_closed": (
        "Not cooling well since it was installed in May.",
        "Not cooling well since the last pump-down.",
    ),
    "long_liquid_line": ("New house, not cooling well from day one.",),
    "valve_underfeeding": (
        "Ice on the line in the morning, not cooling in the afternoon.",
        "Not cooling well since spring start-up.",
    ),
    "orifice_undersized": ("Not cooling well since the new outdoor unit; ice on the line.",),
    "distributor_blocked": ("Not cooling well since the coil was brazed.",),
    "water_condenser_fouled": ("Head pressure has crept up since the tower was refilled.",),
    "low_water_flow": ("Trips since the pump was replaced.",),
    "reversing_valve_leak": ("Heated fine last winter, not cooling well now.",),
    "wrong_refrigerant": ("Not cooling well since somebody else charged it.",),
    "valve_hunting": ("The outdoor unit's sound changes every minute or two.",),
    "compressor_not_pumping": ("It runs and runs, and the air is not cool at all.",),
    "high_load": ("Came home to a hot house an hour ago; it is not cool yet.",),
    "low_load": ("The house is already cold; customer wants the charge checked.",),
    "undersized_unit": ("Never gets down to set point on hot days since the addition was built.",),
    "economizer_stuck_open": ("Muggy inside, and it runs all day.",),
    "stratified_air": ("The controls show a supply temperature nobody believes.",),
    "one_circuit_off": ("Half the cooling it had last week.",),
}
#: the same for machines that cool a box, where the words above speak of rooms
BOX_COMPLAINTS = {
    "none": (
        "A new cook says the box is not cold enough; the thermometer says otherwise.",
        "Annual maintenance, no complaint.",
    ),
    "undercharge": ("Holds temperature at night, creeps up in the afternoon.", "Runs nonstop since last week."),
    "overcharge": ("Somebody added refrigerant; it cuts out now and then on hot days.", "Loud since the last visit."),
    "dirty_condenser": (
        "Warm product by two o'clock, fine in the morning.",
        "Greasy kitchen; nobody remembers the coil being cleaned.",
    ),
    "low_airflow": (
        "The far shelf is warm and the near one freezes.",
        "Product is stacked right up to the evaporator fan.",
    ),
    "liquid_line_restriction": (
        "Not holding since the compressor was replaced.",
        "Slow to pull down since it was moved.",
    ),
    "leaking_compressor_valves": (
        "Runs nonstop and never satisfies the thermostat.",
        "Noisy, and never quite down to temperature.",
    ),
    "valve_overfeeding": ("Compressor rumbles; not holding temperature.", "The compressor sweats all over."),
    "valve_underfeeding": ("Slow to pull down since winter.", "Ice on the first few passes of the coil only."),
    "valve_hunting": ("The box temperature swings and the compressor's sound changes.",),
    "orifice_oversized": ("Not holding since the cap tube was replaced; the compressor sweats.",),
    "orifice_undersized": ("Not holding since the cap tube was replaced.", "Slow to pull down since it was moved."),
    "non_condensables": ("System was opened for a repair last month; trips on hot days since.",),
    "condenser_fan_weak": ("Trips in the afternoon since the fan was replaced.",),
    "condenser_recirculation": ("Worse since boxes were stacked against it.",),
    "wet_condenser": ("The condenser was washed this morning; please check the charge.",),
    "suction_line_restriction": ("Not holding since the compressor burned out and was replaced.",),
    "service_valve_part_closed": ("Not cooling well since the last pump-down.",),
    "long_liquid_line": ("Never held from day one; the condensing unit is up on the roof.",),
    "distributor_blocked": ("Half of the coil is frosted, half is bare.",),
    "compressor_not_pumping": ("It hums and nothing gets cold.",),
    "wrong_refrigerant": ("Not cooling well since somebody else charged it.",),
    "high_load": ("Warm product was loaded an hour ago.",),
    "low_load": ("The box is empty and below set point.",),
}
#: what a look round a box shows, where the cause's own look speaks of a house
BOX_LOOK = {
    "dirty_condenser": ("Condenser looks clean from the front; inner rows not checked yet.",),
    "low_airflow": ("Evaporator not opened yet.",),
    "condenser_fan_weak": ("Condenser clean, fan turning.",),
    "condenser_recirculation": ("The unit sits in a corner.",),
    "wet_condenser": ("Water drips from the condenser.",),
    "high_load": ("Door closed, gaskets good.",),
    "low_load": ("Door closed, gaskets good.",),
}
#: what to say where the trouble is in somebody's instrument and the machine is normal
_SECOND_OPINION = (
    "The last technician's readings made no sense; please check it again.",
    "Two visits, two different sets of readings.",
)
LOOK_ROUND = {
    "none": ("Filter clean.", "Outdoor coil clean, between the rows too.", "No oil spots.", "No ice."),
    "undercharge": (
        "Filter clean.",
        "Outdoor coil clean, between the rows too.",
        "Caps missing on the service ports.",
    ),
    "overcharge": (
        "Filter clean.",
        "Outdoor coil clean, between the rows too.",
        "No entry in the service log for the last visit.",
    ),
    "dirty_condenser": (
        "Filter clean.",
        "Outdoor coil looks clean from the lawn; inner rows not checked yet.",
        "No oil spots.",
    ),
    "low_airflow": (
        "Filter changed yesterday; the old one is gone.",
        "Outdoor coil clean, between the rows too.",
        "Indoor coil not opened yet.",
    ),
    "liquid_line_restriction": (
        "Filter clean.",
        "Outdoor coil clean, between the rows too.",
        "New drier in the liquid line.",
    ),
    "leaking_compressor_valves": ("Filter clean.", "Outdoor coil clean, between the rows too.", "No oil spots."),
    "valve_overfeeding": ("Filter clean.", "Outdoor coil clean, between the rows too.", "TXV bulb not checked yet."),
    "orifice_oversized": ("Filter clean.", "Outdoor coil clean, between the rows too.", "Orifice size not checked."),
}


#: who touched it last; none of them gives a fault away
HISTORY = (
    "Serviced every spring, last time in April.",
    "No record of the last visit.",
    "Eleven years old, first service call.",
    "The last technician left no readings.",
    "Installed with the house five years ago, never opened since.",
    "New owner since winter; no history.",
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
            ("Condenser checked from the front only.",)
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
