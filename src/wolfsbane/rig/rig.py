"""A trainer rig as an instructor enters it: its machine, what it can plant, its channels, its limits."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Annotated, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.fields import (
    Accept,
    Format,
    at,
    fields_of,
    flag,
    number,
    optional,
    own_or,
    refuse,
    text,
    usual,
    whole,
    word,
)
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.devices import DEVICE_KINDS, device_kind
from wolfsbane.rig.points import ORDER, label_of, units_of

if TYPE_CHECKING:
    from wolfsbane.rig.devices import DeviceKind

#: how a register holds a number
TYPES = ("float32", "int16", "uint16", "int32", "uint32", "bit")
_MANY = 48


@dataclass(frozen=True, kw_only=True)
class Channel:
    """One channel of a rig's logger: which register shows which ``point``, in which unit, between which ends.

    ``table`` is input, holding, coil or discrete; ``scale`` multiplies a raw whole number; ``offset`` is what the
    sensor is known to show too much, in its own unit; ``where`` says where it is clamped.
    """

    point: str
    register: int
    unit: str
    table: str = "input"
    type: str = "float32"
    scale: float = 1.0
    offset: float = 0.0
    low: float | None = None
    high: float | None = None
    where: str = ""


@dataclass(frozen=True, kw_only=True)
class Device:
    """One thing a rig can plant with: positions from 0 (nothing planted) to ``most`` in ``unit``. ``register`` sets it
    where the rig can be set from here, None where a hand does. ``who`` may set it: assistant or instructor.
    """

    id: str
    kind: str
    name: str
    most: float
    unit: str
    register: int | None = None
    who: str = "assistant"

    @property
    def of(self) -> DeviceKind:
        """What kind it is."""
        return device_kind(self.kind)


@dataclass(frozen=True, kw_only=True)
class Limits:
    """What must not be passed, in psig and degrees F; None where nothing is set beyond the machine's own cutouts."""

    head_psig: float | None = None
    suction_psig: float | None = None
    discharge_f: float | None = None
    box_f: float | None = None


def _rows(
    part: Accept, most: int, what: str, made: Callable[[dict[str, Any]], Any], key: Callable[[Any], Any]
) -> Accept:
    def check(value: Any) -> tuple[Any, ...]:
        if not isinstance(value, (list, tuple)) or len(value) > most:
            raise refuse(value, f"a list of at most {most} {what}")
        found = []
        for i, row in enumerate(value):
            plain = dict(vars(row)) if isinstance(row, (Channel, Device)) else row
            found.append(at(f".{i + 1}", lambda v: made(part.check(v)), plain))
        seen: set[Any] = set()
        for row in found:
            if key(row) in seen:
                raise refuse(key(row), f"each of the {what} once")
            seen.add(key(row))
        return tuple(found)

    return Accept(check, {"type": "array", "maxItems": most, "items": part.schema})


_CHANNEL = fields_of(
    {
        "point": word(ORDER),
        "register": whole(0, 65_535),
        "unit": text(1, 12),
        "table": word(("input", "holding")),
        "type": word(tuple(t for t in TYPES if t != "bit")),
        "scale": number(),
        "offset": number(-1e4, 1e4),
        "low": optional(number()),
        "high": optional(number()),
        "where": text(0, 120),
    },
    required=("point", "register", "unit"),
)
_DEVICE = fields_of(
    {
        "id": text(1, 40, strip=True),
        "kind": word(DEVICE_KINDS),
        "name": text(1, 80, strip=True),
        "most": number(0.01, 1000.0),
        "unit": text(1, 40),
        "register": optional(whole(0, 65_535)),
        "who": word(("assistant", "instructor")),
    },
    required=("kind",),
)
_LIMITS = fields_of(
    {
        "head_psig": optional(number(50, 800, "psig")),
        "suction_psig": optional(number(-14, 300, "psig")),
        "discharge_f": optional(number(100, 320, "°F")),
        "box_f": optional(number(-40, 110, "°F")),
    }
)


def _channel(row: dict[str, Any]) -> Channel:
    if row["unit"] not in units_of(row["point"]):
        raise refuse(
            row["unit"], f"one of {', '.join(units_of(row['point']))} for {label_of(row['point']).lower()}", ".unit"
        )
    return Channel(**row)


def _device(row: dict[str, Any]) -> Device:
    kind = device_kind(row["kind"])
    return Device(**{"id": kind.id, "name": kind.name, "most": kind.most, "unit": kind.unit, **row})


def _limits(value: Any) -> Limits:
    return Limits(**_LIMITS.check(dict(vars(value)) if isinstance(value, Limits) else value))


_CHANNELS = _rows(_CHANNEL, _MANY, "channels", _channel, lambda c: c.point)
_DEVICES = _rows(_DEVICE, _MANY, "devices", _device, lambda d: d.id)


@dataclass(frozen=True, kw_only=True)
class Rig:
    """A trainer rig. ``machine`` is a profile or one of the school's own. ``address`` is where its logger answers
    (host:port), empty where its readings come otherwise; ``clock`` is the register of its own seconds, None without.
    ``countersign`` asks for an instructor's or assistant's word on the safety steps before gauges go on.
    """

    name: Annotated[str, text(1, 80, strip=True)]
    machine: Annotated[str, own_or(MACHINES)]
    place: Annotated[str, usual(text(0, 80, strip=True), "")] = ""
    address: Annotated[str, usual(text(0, 120, strip=True), "")] = ""
    unit_id: Annotated[int, usual(whole(0, 255), 1)] = 1
    clock: Annotated[int | None, optional(whole(0, 65_535))] = None
    channels: Annotated[tuple[Channel, ...], usual(_CHANNELS, ())] = ()
    devices: Annotated[tuple[Device, ...], usual(_DEVICES, ())] = ()
    limits: Annotated[Limits, usual(Accept(_limits, _LIMITS.schema), Limits())] = Limits()
    altitude_ft: Annotated[float, usual(number(-500, 10_000, "ft"), 0.0)] = 0.0
    notes: Annotated[str, usual(text(0, 2000), "")] = ""
    countersign: Annotated[bool, usual(flag(), False)] = False

    def channel(self, point: str) -> Channel | None:
        """The channel that shows a point, or None."""
        return next((c for c in self.channels if c.point == point), None)

    def device(self, device_id: str) -> Device:
        """The device called so. Raises BadInputError."""
        for device in self.devices:
            if device.id == device_id:
                return device
        raise BadInputError("device", device_id, ", ".join(d.id for d in self.devices) or "a device of this rig")


RIG = Format(Rig, "rig", "A trainer rig: machine, devices, channels, limits", version=1)
