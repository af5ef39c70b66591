"""Instruments: what a technician can read off a solved machine, with the resolution of the tool and in its units.

Display units begin here. A reading is never a bare float: it carries unit, resolution and text. Instrument faults come
in between the machine and the display (:mod:`wolfsbane.cycle.instrument_faults`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.ductwork import airflow_m3_s, static_pa
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.quantities import MORE_READINGS, READINGS, USUAL_READINGS
from wolfsbane.cycle.units import SYSTEMS, to_display

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState


@dataclass(frozen=True, kw_only=True)
class Instrument:
    """A tool: the kind of quantity it shows, its resolution per unit system and its tolerance against the truth.

    Tolerances in US units: psi or degrees F; they are what one honest reading may be off (common practice, no source).
    """

    id: str
    name: str
    kind: str
    resolution: dict[str, float]
    tolerance_us: float


@dataclass(frozen=True, kw_only=True)
class Reading:
    """One printed reading: ``value`` in ``unit``, already rounded to ``resolution``; ``text`` is what is printed.

    A reading that flutters has ``low`` and ``high`` beside its middle ``value``.
    """

    key: str
    kind: str
    value: float
    unit: str
    resolution: float
    text: str
    low: float | None = None
    high: float | None = None


ANALOG_LOW = Instrument(
    id="analogue_low",
    name="Analog low-side gauge",
    kind="pressure",
    resolution={"us": 1.0, "si": 10.0},
    tolerance_us=2.0,
)
ANALOG_HIGH = Instrument(
    id="analogue_high",
    name="Analog high-side gauge",
    kind="pressure",
    resolution={"us": 5.0, "si": 25.0},
    tolerance_us=5.0,
)
DIGITAL_GAUGE = Instrument(
    id="digital_gauge", name="Digital gauge", kind="pressure", resolution={"us": 0.5, "si": 5.0}, tolerance_us=1.5
)
CLAMP = Instrument(
    id="clamp_thermometer",
    name="Clamp thermometer",
    kind="temperature",
    resolution={"us": 0.5, "si": 0.2},
    tolerance_us=2.0,
)
PSYCHROMETER = Instrument(
    id="psychrometer", name="Psychrometer", kind="temperature", resolution={"us": 0.5, "si": 0.2}, tolerance_us=1.5
)
AMP_CLAMP = Instrument(
    id="amp_clamp", name="Amp clamp", kind="current", resolution={"us": 0.1, "si": 0.1}, tolerance_us=0.3
)
FLOW_HOOD = Instrument(
    id="flow_hood", name="Flow hood", kind="flow", resolution={"us": 10.0, "si": 5.0}, tolerance_us=60.0
)
MANOMETER = Instrument(
    id="manometer", name="Manometer", kind="static", resolution={"us": 0.01, "si": 5.0}, tolerance_us=0.03
)

#: kit name -> (low gauge, high gauge)
KITS = {"analogue": (ANALOG_LOW, ANALOG_HIGH), "digital": (DIGITAL_GAUGE, DIGITAL_GAUGE)}
#: stands for a kit where there are no gauges: line temperatures only
PIPES = "pipes"

TOOLS = {tool.id: tool for tool in (CLAMP, PSYCHROMETER, AMP_CLAMP, FLOW_HOOD, MANOMETER)}
#: readings in the order a technician takes them, and those taken where they help
POINTS, MORE_POINTS, ALL_POINTS = USUAL_READINGS, MORE_READINGS, READINGS


def in_order(readings: dict[str, Any]) -> dict[str, Any]:
    """A dict of readings in the order a technician takes them; storage does not keep the order of keys."""
    return {key: readings[key] for key in ALL_POINTS if key in readings}


def points_for(machine: Machine) -> tuple[str, ...]:
    """Keys of :data:`ALL_POINTS` that can be read on this machine."""
    water, package = machine.condenser == "water_cooled", machine.application == "package_unit"
    absent = {"condenser_entering_air", "condenser_leaving_air"} if water else {"water_in", "water_out"}
    if not machine.application.startswith("heat_pump"):
        absent.add("suction_before_valve")
    if not package:
        absent |= {"mixed_air", "supply_high", "supply_low"}
    if machine.refrigeration:
        absent |= {"return_wb", "airflow", "static"}
    if machine.in_heating:  # the air of the house goes through the condenser once, and comes out as supply
        absent |= {"return_wb", "condenser_entering_air"}
    return tuple(key for key in ALL_POINTS if key not in absent)


def usual_points(machine: Machine) -> tuple[str, ...]:
    """Keys of :func:`points_for` given where nobody chooses.

    In heating the supply air leaves the condenser; where water cools it, water is measured and not the air outdoors;
    where there is a receiver, superheat is judged at the coil.
    """
    swapped = {"supply_db": False, "condenser_leaving_air": True} if machine.in_heating else {}
    if machine.condenser == "water_cooled":
        swapped = {"outdoor_db": False, "water_in": True, "water_out": True}
    elif machine.receiver:
        swapped = {"evaporator_outlet": True}
    return tuple(key for key in points_for(machine) if swapped.get(key, key in POINTS))


#: a reading is known by its place on the circuit; in heating the evaporator stands outdoors, and the air through the
#: coils goes by each other's names
_IN_HEATING = {
    "return_db": ALL_POINTS["outdoor_db"].label,
    "outdoor_db": ALL_POINTS["return_db"].label,
    "condenser_leaving_air": ALL_POINTS["supply_db"].label,
    "supply_db": "Air off the outdoor coil",
    "liquid_line": "Liquid line, indoors",
    "evaporator_inlet": "Outdoor coil, inlet pipe",
    "evaporator_outlet": "Outdoor coil, outlet pipe",
    "condenser_inlet": "Vapor line, at the indoor coil",
    "condenser_bend": "Indoor coil, return bend halfway",
    "condenser_outlet": "Indoor coil, outlet pipe",
}


def label(key: str, machine: Machine) -> str:
    """What a reading is called on this machine."""
    if machine.in_heating and key in _IN_HEATING:
        return _IN_HEATING[key]
    if machine.application.startswith("heat_pump") and key == "suction_line":
        return "Suction line, at the compressor's port"
    if machine.refrigeration:
        named = {
            "return_db": "Box air",
            "supply_db": "Air off the coil",
            "outdoor_db": "Air at the condensing unit",
            "suction_line": "Suction line, at the compressor",
            "liquid_line": "Liquid line, at the receiver" if machine.receiver else "Liquid line",
        }
        if key in named:
            return named[key]
    return ALL_POINTS[key].label


def tool_for(key: str, kit: str) -> Instrument:
    """The :class:`Instrument` of ``kit`` (analog or digital) that takes reading ``key``."""
    if kit not in KITS:
        raise BadInputError("instruments", kit, ", ".join(KITS))
    tool = ALL_POINTS[key].tool
    gauges = dict(zip(("low", "high"), KITS[kit], strict=True))
    return gauges[tool] if tool in gauges else TOOLS[str(tool)]


def rounded(value: float, resolution: float) -> float:
    """``value`` to the nearest multiple of ``resolution`` (halves away from zero, no negative zero)."""
    steps = int(abs(value) / resolution + 0.5)
    return (steps if value >= 0 else -steps) * resolution + 0.0 if steps else 0.0


def values(machine: Machine, state: CircuitState, faults: tuple[Fault, ...] = ()) -> dict[str, float]:
    """Every point of a state in SI, undisturbed: dict key -> float. ``faults`` decide what the manometer shows."""
    found = {key: getattr(state, point.attribute) for key, point in ALL_POINTS.items() if point.attribute}
    found |= {
        "return_db": state.return_air.dry_bulb_k,
        "return_wb": state.return_air.wet_bulb_k,
        "supply_db": state.supply_air.dry_bulb_k,
        "mixed_air": state.coil_air.dry_bulb_k,
        "supply_high": state.supply_high_air.dry_bulb_k,
        "supply_low": state.supply_low_air.dry_bulb_k,
        "airflow": airflow_m3_s(machine, state),
        "static": static_pa(machine, state, faults),
    }
    if machine.in_heating:
        from wolfsbane.cycle.heating import indoors  # which solves, and few processes heat

        found["condenser_leaving_air"] = indoors(machine, faults, state).supply_k
    return {key: found[key] for key in points_for(machine) if found[key] is not None}


def reading(key: str, value_si: float, kit: str, system: str, barometer_pa: float, span: Any = None) -> Reading:
    """Round one SI value as the tool would show it; ``span`` is (low, high) in SI where it flutters."""
    tool = tool_for(key, kit)
    resolution = tool.resolution[system]

    def shown(v: Any) -> Any:
        return round(rounded(to_display(tool.kind, v, system, barometer_pa), resolution), 3)

    value, unit = shown(value_si), SYSTEMS[system][tool.kind][0]
    decimals = 0 if resolution >= 1 else 2 if resolution < 0.1 else 1
    low, high = (shown(v) for v in sorted(span)) if span else (None, None)
    text = f"{value:.{decimals}f} {unit}" if low == high else f"{low:.{decimals}f} to {high:.{decimals}f} {unit}"
    return Reading(
        key=key,
        kind=tool.kind,
        value=value,
        unit=unit,
        resolution=resolution,
        text=text,
        low=None if low == high else low,
        high=None if low == high else high,
    )


def read(
    state: CircuitState,
    kit: str,
    system: str,
    *,
    machine: Machine | None = None,
    keys: Any = None,
    instrument_faults: Any = (),
    faults: tuple[Fault, ...] = (),
) -> dict[str, Reading]:
    """Readings of a solved ``state`` as a dict key -> :class:`Reading`, in order.

    ``keys`` defaults to :data:`POINTS`; ``machine`` is needed for any other and for instrument faults, which disturb
    what the tool shows. A hunting machine's readings carry the range they swing over. Raises ValueError for a tripped
    state: a machine that cut out has no running readings.
    """
    from wolfsbane.cycle.instrument_faults import disturb
    from wolfsbane.cycle.profiles import machine as machine_by_id

    if state.trip is not None:
        raise ValueError(f"{state.machine_id} cut out on {state.trip.cutout}: there is nothing to read")
    machine = machine or machine_by_id(state.machine_id)
    keys = tuple(POINTS) if keys is None else tuple(keys)
    taken = disturb(values(machine, state, faults), machine, state, instrument_faults)
    ends = [disturb(values(machine, end, faults), machine, end, instrument_faults) for end in state.swing or ()]
    return {
        key: reading(
            key, taken[key], kit, system, state.barometer_pa, span=[end[key] for end in ends] if ends else None
        )
        for key in keys
        if key in taken
    }
