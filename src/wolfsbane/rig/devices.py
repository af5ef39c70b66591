"""What a trainer rig can plant: each device with what it does to the circuit, how it is set and undone, and its limits.

Ways of setting and their limits are common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import fault_kind


@dataclass(frozen=True, kw_only=True)
class DeviceKind:
    """A kind of device. ``faults`` are the families it can plant, the usual one first; none of them for what only
    switches. ``unit`` and ``most`` are usual for its positions, ``rises`` whether a higher position is worse.
    """

    id: str
    name: str
    faults: tuple[str, ...]
    unit: str
    most: float
    set: str
    undo: str
    limits: str
    rises: bool = True


_ROWS = (
    DeviceKind(
        id="liquid_valve",
        name="Hand valve in the liquid line",
        faults=("liquid_line_restriction", "service_valve_part_closed"),
        unit="turns",
        most=4.0,
        set="Remove the cap. Close the valve by the stated turns, a quarter turn at a time at the end.",
        undo="Open it fully, put the cap back with its O-ring.",
        limits="Stay above the low-pressure cutout; watch the discharge temperature.",
    ),
    DeviceKind(
        id="suction_valve",
        name="Hand valve in the suction line",
        faults=("suction_line_restriction",),
        unit="turns",
        most=4.0,
        set="Close the valve by the stated turns.",
        undo="Open it fully, put the cap back.",
        limits="Stay above the low-pressure cutout and below 220 °F at the discharge line.",
    ),
    DeviceKind(
        id="bypass",
        name="Bypass, discharge to suction",
        faults=("leaking_compressor_valves", "reversing_valve_leak"),
        unit="turns",
        most=2.0,
        set="Crack the bypass valve by the stated turns. The pipe is hot: gloves.",
        undo="Close it, put the cap back.",
        limits="Keep the discharge line below 220 °F.",
    ),
    DeviceKind(
        id="orifice_bypass",
        name="Bypass around the metering device",
        faults=("orifice_oversized", "valve_overfeeding"),
        unit="turns",
        most=2.0,
        set="Open the bypass by the stated turns.",
        undo="Close it, put the cap back.",
        limits="Keep superheat at the compressor above 2 °F, except for a minute at most.",
    ),
    DeviceKind(
        id="indoor_fan",
        name="Indoor fan on a speed control",
        faults=("low_airflow",),
        unit="% of speed taken off",
        most=60.0,
        set="Turn the speed control down by the stated share.",
        undo="Turn it back to full.",
        limits="Keep the coil above freezing, or stop before it ices up.",
    ),
    DeviceKind(
        id="outdoor_fan",
        name="Outdoor fan on a speed control",
        faults=("condenser_fan_weak",),
        unit="% of speed taken off",
        most=60.0,
        set="Turn the speed control down by the stated share.",
        undo="Turn it back to full.",
        limits="Stop 50 psi short of the high-pressure cutout.",
    ),
    DeviceKind(
        id="condenser_board",
        name="Board over the outdoor coil",
        faults=("dirty_condenser",),
        unit="% covered",
        most=70.0,
        set="Cover the stated share of the face. Keep the board and your hands off the fan.",
        undo="Take the board off.",
        limits="Stop 50 psi short of the high-pressure cutout.",
    ),
    DeviceKind(
        id="evaporator_board",
        name="Board over the indoor coil",
        faults=("low_airflow",),
        unit="% covered",
        most=70.0,
        set="Cover the stated share of the face.",
        undo="Take the board off.",
        limits="Keep the coil above freezing, or stop before it ices up.",
    ),
    DeviceKind(
        id="bulb_strap",
        name="Strap of the TXV bulb",
        faults=("valve_overfeeding",),
        unit="turns of the screw",
        most=6.0,
        set="Back off the strap's screw by the stated turns and take the insulation off.",
        undo="Strap it tight at ten or two o'clock and insulate it.",
        limits="Keep superheat at the compressor above 2 °F, except for a minute at most.",
    ),
    DeviceKind(
        id="charge",
        name="Charge by scale",
        faults=("undercharge", "overcharge"),
        unit="oz taken out",
        most=64.0,
        set="Recover the stated weight into a cylinder on the scale; never over 80 % full. Gloves and glasses.",
        undo="Weigh the same refrigerant back in, as a liquid and in short bursts.",
        limits="Stay above the low-pressure cutout and 50 psi short of the high-pressure cutout.",
    ),
    DeviceKind(
        id="solenoid",
        name="Solenoid in the liquid line, with its coil",
        faults=(),
        unit="coil off",
        most=1.0,
        set="Switch the coil off: the machine pumps down.",
        undo="Switch the coil on.",
        limits="It stops at the low-pressure cutout; never run the compressor in a vacuum.",
    ),
    DeviceKind(
        id="switch",
        name="Electrical switch in the compressor circuit",
        faults=("compressor_not_pumping",),
        unit="open",
        most=1.0,
        set="Open the switch in the locked box; live parts stay behind its cover.",
        undo="Close the switch.",
        limits="Lockout/tagout wherever a cover comes off; a licensed person only.",
    ),
)
DEVICE_KINDS = {row.id: row for row in _ROWS}


def device_kind(kind_id: str) -> DeviceKind:
    """The kind of device called so. Raises BadInputError."""
    if kind_id not in DEVICE_KINDS:
        raise BadInputError("device", kind_id, ", ".join(DEVICE_KINDS))
    return DEVICE_KINDS[kind_id]


def hazards(kind_id: str) -> tuple[str, ...]:
    """Cautions of what a device plants, each once."""
    return tuple(dict.fromkeys(h for f in device_kind(kind_id).faults if (h := fault_kind(f).hazard)))
