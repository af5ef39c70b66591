"""How fast things move. Every figure says where it is from; most are assumed, and say what for."""

from __future__ import annotations

from dataclasses import dataclass

ASSUMED = "assumed"
FROM_MEMORY = "usual figure, from memory"


@dataclass(frozen=True, kw_only=True)
class TimeConstant:
    """``value`` in ``unit``; ``source`` is :data:`ASSUMED` or :data:`FROM_MEMORY`, ``why`` what it stands for."""

    id: str
    value: float
    unit: str
    source: str
    why: str


_ROWS = (
    ("low_gauge", 4.0, "s", ASSUMED, "needle and hose of the low gauge behind the pressure in the pipe"),
    ("high_gauge", 8.0, "s", ASSUMED, "the high gauge, and the condenser's metal that has to warm with it"),
    ("line_clamp", 20.0, "s", ASSUMED, "pipe wall and clamp thermometer on suction and liquid line"),
    ("coil_clamp", 15.0, "s", ASSUMED, "thin bends of the coils, and the air that leaves them"),
    ("discharge", 20.0, "s", ASSUMED, "discharge line and its clamp; the shell behind it has a state of its own"),
    ("shell", 560.0, "s", ASSUMED, "compressor shell, motor and oil on their way to where a steady machine has them"),
    ("shell_heat", 190.0, "kJ/K for each kg/s", ASSUMED, "heat they store: 12 kJ/K on a three-ton machine"),
    ("oil", 40.0, "s", ASSUMED, "refrigerant boils out of the oil, and goes into it, while the machine runs"),
    ("evaporator_metal", 8.0, "s", ASSUMED, "tubes and fins behind the evaporating temperature"),
    ("evaporator_heat", 80.0, "kJ/K for each kg/s", ASSUMED, "heat they store: 5 kJ/K on a three-ton machine"),
    ("fan", 20.0, "s", ASSUMED, "air through a condenser whose fan has been switched: the fan coasts, warm fins draw"),
    ("condenser_metal", 15.0, "s", ASSUMED, "tubes and fins behind the condensing temperature"),
    ("condenser_heat", 120.0, "kJ/K for each kg/s", ASSUMED, "heat they store: 8 kJ/K on a three-ton machine"),
    ("rest_shell", 3600.0, "s", ASSUMED, "shell of a stopped machine without a crankcase heater towards the air"),
    ("rest_oil", 7200.0, "s", ASSUMED, "refrigerant goes into the oil of a stopped machine"),
    ("rest_boils", 240.0, "s", ASSUMED, "refrigerant boils out of the oil of a stopped machine that was pumped down"),
    ("coil_front", 6.0, "s", ASSUMED, "the end of the boiling in a coil behind what its valve feeds"),
    ("bulb_wall", 3.5, "s", ASSUMED, "wall of the suction line under a bulb"),
    (
        "bulb",
        36.0,
        "s",
        ASSUMED,
        "bulb of a thermostatic valve strapped to its pipe, and the sensor of an electronic one",
    ),
    ("held_bulb", 40.0, "s", ASSUMED, "a valve whose bulb is held in warm or ice water comes to its stop"),
    ("equalise", 75.0, "s", ASSUMED, "both gauges towards one pressure after a stop; 60 to 120 s was seen in trials"),
    ("rest_temperature", 600.0, "s", ASSUMED, "pipes and shell of a stopped machine towards the air around them"),
    (
        "hunting_period",
        120.0,
        "s",
        ASSUMED,
        "a hunting valve swings with a period of minutes (common practice, no source)",
    ),
    ("start_delay", 60.0, "s", ASSUMED, "the low-pressure cutout is held closed while a machine starts"),
    (
        "wet_film",
        1.3,
        "kg for each kg/s of air",
        ASSUMED,
        "water a washed condenser holds; it dries by what its air evaporates",
    ),
    ("thaw", 1500.0, "s", ASSUMED, "an iced coil with the blower on and the compressor off, from closed face to clear"),
    ("defrost", 1200.0, "s", ASSUMED, "a defrost by the clock of a box, coil clear to coil cold again"),
    ("overload", 120.0, "s", ASSUMED, "the compressor's overload warms with the square of the current"),
    (
        "settled",
        15.0,
        "min",
        FROM_MEMORY,
        "run 10 to 15 minutes before believing anything (common practice, no source)",
    ),
)
TIME_CONSTANTS = {
    row[0]: TimeConstant(id=row[0], value=row[1], unit=row[2], source=row[3], why=row[4]) for row in _ROWS
}


def constant(name: str) -> float:
    """The value of one constant in its own unit."""
    return TIME_CONSTANTS[name].value
