"""Drafts for complaint and look-round. Invented; they hint at no more than an honest look would show."""

from wolfsbane.cycle.faults import FAULTS

COMPLAINTS = {
    "none": ("The owner wants it cooler than it is on a hot day, nothing has changed.",
             "A neighbour said the pressures looked odd. The house is comfortable."),
    "undercharge": ("Cooled well last year, runs all afternoon now.", "Slowly got worse over two summers."),
    "overcharge": ("Somebody added gas in spring; the bill went up.", "Loud outside since the last visit."),
    "dirty_condenser": ("Fine in the morning, struggles after lunch.", "Cottonwood season was heavy this year."),
    "low_airflow": ("The far bedroom gets hardly any air.", "Rooms are slow to cool, the vents feel very cold."),
    "liquid_line_restriction": ("Weak cooling since the compressor was changed.", "Weak cooling since the unit was moved."),
    "leaking_compressor_valves": ("Runs without a stop and never gets there.", "Weak cooling, fourteen years old."),
    "valve_overfeeding": ("Weak cooling, a rumble since the coil was replaced.", "The outdoor unit sweats all over."),
    "orifice_oversized": ("Never right since the new indoor coil.", "The outdoor unit sweats all over."),
    "non_condensables": ("Opened for a repair last month, trips on hot days since.", "Noisier since the line was mended."),
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
}
LOOK_ROUND = {
    "none": ("Filter clean.", "Outdoor coil clean, also between the rows.", "No oil traces.", "No ice."),
    "undercharge": ("Filter clean.", "Outdoor coil clean, also between the rows.", "Caps missing at the service ports."),
    "overcharge": ("Filter clean.", "Outdoor coil clean, also between the rows.", "No entry in the log for the last visit."),
    "dirty_condenser": ("Filter clean.", "Outdoor coil looks clean from the lawn; inner row not seen yet.", "No oil traces."),
    "low_airflow": ("Filter changed yesterday, the old one is gone.", "Outdoor coil clean, also between the rows.",
                    "Indoor coil not opened yet."),
    "liquid_line_restriction": ("Filter clean.", "Outdoor coil clean, also between the rows.", "A new drier in the line."),
    "leaking_compressor_valves": ("Filter clean.", "Outdoor coil clean, also between the rows.", "No oil traces."),
    "valve_overfeeding": ("Filter clean.", "Outdoor coil clean, also between the rows.", "Bulb not seen yet."),
    "orifice_oversized": ("Filter clean.", "Outdoor coil clean, also between the rows.", "Orifice size not seen."),
}


#: who touched it last; none of them gives a fault away
HISTORY = ("Serviced every spring, last in April.", "No record of the last visit.", "Eleven years old, first call.",
           "The last technician left no figures.", "Set by the builder five years ago, never opened since.",
           "Changed hands in winter; nothing known.")


def draft(faults, given_tests, rng):
    """(complaint, history, look-round lines) for planted ``faults``; ``rng`` is a random.Random.

    Families without lines of their own get what an honest look at their first cause shows, since only that tells them from
    the family they stand beside on the gauges; where looks and tests are given with the call (``given_tests``), those speak.
    """
    ids = [f.id for f in faults] or ["none"]
    complaint = rng.choice(COMPLAINTS[ids[0]])
    if len(ids) > 1:
        lines = ("Filter clean.",) if "low_airflow" not in ids else LOOK_ROUND["low_airflow"][:1]
    elif given_tests:
        lines = tuple(line for line in LOOK_ROUND.get(ids[0], ("Filter clean.",)) if not line.startswith("Outdoor coil clean"))
    else:
        lines = LOOK_ROUND.get(ids[0]) or ("Filter clean.", FAULTS[ids[0]].causes[0].look)
    return complaint, rng.choice(HISTORY), lines
