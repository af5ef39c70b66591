"""Drafts for complaint and look-round. Invented; they hint at no more than an honest look would show."""

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


def draft(fault_id, rng):
    """(complaint, look-round lines) for a fault family; ``rng`` is a random.Random."""
    return rng.choice(COMPLAINTS[fault_id]), LOOK_ROUND[fault_id]
