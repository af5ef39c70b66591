"""Instruments: what a technician can read off a solved machine, with the resolution of the tool and in its units.

Display units begin here. A reading is never a bare float: it carries unit, resolution and text.
"""

from dataclasses import dataclass

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import to_display


@dataclass(frozen=True, kw_only=True)
class Instrument:
    """A tool: the kind of quantity it shows, its resolution per unit system and its tolerance against the truth.

    Tolerances in US units: psi or degrees F; they are what one honest reading may be off (common practice, no source).
    """

    id: str
    name: str
    kind: str
    resolution: dict
    tolerance_us: float


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One printed reading: ``value`` in ``unit``, already rounded to ``resolution``; ``text`` is what is printed."""

    key: str
    kind: str
    value: float
    unit: str
    resolution: float
    text: str


ANALOGUE_LOW = Instrument(id="analogue_low", name="Analogue low-side gauge", kind="pressure",
                          resolution={"us": 1.0, "si": 10.0}, tolerance_us=2.0)
ANALOGUE_HIGH = Instrument(id="analogue_high", name="Analogue high-side gauge", kind="pressure",
                           resolution={"us": 5.0, "si": 25.0}, tolerance_us=5.0)
DIGITAL_GAUGE = Instrument(id="digital_gauge", name="Digital gauge", kind="pressure",
                           resolution={"us": 0.5, "si": 5.0}, tolerance_us=1.5)
CLAMP = Instrument(id="clamp_thermometer", name="Clamp thermometer", kind="temperature",
                   resolution={"us": 0.5, "si": 0.2}, tolerance_us=2.0)
PSYCHROMETER = Instrument(id="psychrometer", name="Psychrometer", kind="temperature",
                          resolution={"us": 0.5, "si": 0.2}, tolerance_us=1.5)

#: kit name -> (low gauge, high gauge)
KITS = {"analogue": (ANALOGUE_LOW, ANALOGUE_HIGH), "digital": (DIGITAL_GAUGE, DIGITAL_GAUGE)}

#: readings in the order a technician takes them: key -> (label, attribute of the state, tool)
POINTS = {
    "suction_pressure": ("Suction pressure", "suction_pa", "low"),
    "head_pressure": ("Head pressure", "head_pa", "high"),
    "suction_line": ("Suction line, outdoors", "suction_line_k", CLAMP),
    "liquid_line": ("Liquid line, outdoors", "liquid_line_k", CLAMP),
    "drier_out": ("After the drier", "after_drier_k", CLAMP),
    "discharge_line": ("Discharge line", "discharge_line_k", CLAMP),
    "return_db": ("Return air, dry bulb", None, PSYCHROMETER),
    "return_wb": ("Return air, wet bulb", None, PSYCHROMETER),
    "supply_db": ("Supply air, dry bulb", None, PSYCHROMETER),
    "outdoor_db": ("Outdoor air, dry bulb", "outdoor_k", CLAMP),
}


def in_order(readings):
    """A dict of readings in the order a technician takes them; storage does not keep the order of keys."""
    return {key: readings[key] for key in POINTS if key in readings}


def tool_for(key, kit):
    """The :class:`Instrument` of ``kit`` (analogue or digital) that takes reading ``key``."""
    if kit not in KITS:
        raise BadInputError("instruments", kit, ", ".join(KITS))
    tool = POINTS[key][2]
    if tool == "low":
        return KITS[kit][0]
    return KITS[kit][1] if tool == "high" else tool


def rounded(value, resolution):
    """``value`` to the nearest multiple of ``resolution`` (halves away from zero, no negative zero)."""
    steps = int(abs(value) / resolution + 0.5)
    return (steps if value >= 0 else -steps) * resolution + 0.0 if steps else 0.0


def reading(key, value_si, kit, system, barometer_pa):
    """Round one SI value as the tool would show it."""
    tool = tool_for(key, kit)
    resolution = tool.resolution[system]
    value = round(rounded(to_display(tool.kind, value_si, system, barometer_pa), resolution), 3)
    unit = {("pressure", "us"): "psig", ("pressure", "si"): "kPa",
            ("temperature", "us"): "°F", ("temperature", "si"): "°C"}[(tool.kind, system)]
    return Reading(key=key, kind=tool.kind, value=value, unit=unit, resolution=resolution,
                   text=f"{value:.{0 if resolution >= 1 else 1}f} {unit}")


def read(state, kit, system):
    """All :data:`POINTS` of a solved ``state`` as a dict key -> :class:`Reading`.

    Raises ValueError for a tripped state: a machine that cut out has no running readings.
    """
    if state.trip is not None:
        raise ValueError(f"{state.machine_id} cut out on {state.trip.cutout}: there is nothing to read")
    values = {key: getattr(state, attribute) for key, (_, attribute, _) in POINTS.items() if attribute}
    values["return_db"] = state.return_air.dry_bulb_k
    values["return_wb"] = state.return_air.wet_bulb_k
    values["supply_db"] = state.supply_air.dry_bulb_k
    return {key: reading(key, values[key], kit, system, state.barometer_pa) for key in POINTS}
