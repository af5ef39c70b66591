"""A rig's register map as a table: one row for each channel and device, read and written as CSV.

Columns: what (channel, device or clock), name (a point or a device), table, register, type, unit, scale, offset, low,
high, where. A comma or a semicolon parts them; a decimal comma is read where semicolons part.
"""

from __future__ import annotations

import csv
import struct
from collections.abc import Iterable, Sequence
from dataclasses import asdict, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.devices import DEVICE_KINDS
from wolfsbane.rig.points import ORDER, possible, to_si
from wolfsbane.rig.rig import RIG

if TYPE_CHECKING:
    from wolfsbane.rig.rig import Channel, Rig

COLUMNS = ("what", "name", "table", "register", "type", "unit", "scale", "offset", "low", "high", "where")
_NUMBERS = ("scale", "offset", "low", "high")
#: type -> (registers it takes, format of struct)
_HELD = {"float32": (2, ">f"), "int16": (1, ">h"), "uint16": (1, ">H"), "int32": (2, ">i"), "uint32": (2, ">I")}


def written(rig: Rig) -> str:
    """The map of a rig as CSV."""
    lines: list[list[Any]] = [list(COLUMNS)]
    for c in rig.channels:
        row = asdict(c)
        lines.append(["channel", c.point, *("" if row[k] is None else row[k] for k in COLUMNS[2:])])
    for d in rig.devices:
        lines.append(["device", d.kind, "holding", "" if d.register is None else d.register, "float32", d.unit])
    if rig.clock is not None:
        lines.append(["clock", "clock", "input", rig.clock, "uint32", "s"])
    return "".join(",".join(_quoted(str(v)) for v in line) + "\r\n" for line in lines)


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text


def read(rig: Rig, text: str) -> Rig:
    """The rig with the channels, devices and clock of a map. Raises BadInputError naming line and column."""
    rows = [line for line in text.lstrip("\ufeff").splitlines() if line.strip()]
    if not rows:
        raise BadInputError("map", "", "a header and a line for each channel")
    parted = ";" if rows[0].count(";") > rows[0].count(",") else ","
    table = list(csv.reader(rows, delimiter=parted))
    head = [name.strip().lower() for name in table[0]]
    for needed in ("what", "name", "register"):
        if needed not in head:
            raise BadInputError("map, header", ", ".join(head), "columns " + ", ".join(COLUMNS))
    channels, devices, clock = [], [], None
    for number, cells in enumerate(table[1:], start=2):
        row = {k: v.strip() for k, v in zip(head, cells, strict=False) if v.strip()}
        found = _row(row, number, parted == ";")
        if row.get("what") == "clock":
            clock = found["register"]
        elif row.get("what") == "device":
            devices.append(found)
        else:
            channels.append(found)
    plain = RIG.write(replace(rig, channels=(), devices=(), clock=clock))
    kept = {d.kind: d for d in rig.devices}
    plain["devices"] = [{**(asdict(kept[d["kind"]]) if d["kind"] in kept else {}), **d} for d in devices]
    plain["channels"] = channels
    try:
        return RIG.read(plain)
    except BadInputError as error:
        raise BadInputError(f"map, {error.field}", error.value, error.allowed) from None


def _row(row: dict[str, str], line: int, decimal_comma: bool) -> dict[str, Any]:
    where = f"map, line {line}"
    what = row.get("what", "")
    if what not in ("channel", "device", "clock"):
        raise BadInputError(f"{where}, what", what, "channel, device, clock")
    register = row.get("register")
    if register is not None and not register.isdigit():
        raise BadInputError(f"{where}, register", register, "a whole number from 0 to 65535")
    if what == "clock":
        return {"register": int(register or 0)}
    if what == "device":
        if row.get("name") not in DEVICE_KINDS:
            raise BadInputError(f"{where}, name", row.get("name"), ", ".join(DEVICE_KINDS))
        unit = {"unit": row["unit"]} if "unit" in row else {}
        return {"kind": row["name"], "register": None if register is None else int(register), **unit}
    if row.get("name") not in ORDER:
        raise BadInputError(f"{where}, name", row.get("name"), ", ".join(ORDER))
    if register is None:
        raise BadInputError(f"{where}, register", None, "a whole number from 0 to 65535")
    made: dict[str, Any] = {"point": row["name"], "register": int(register)}
    made |= {k: row[k] for k in ("table", "type", "unit", "where") if k in row}
    for name in _NUMBERS:
        if name in row:
            text = row[name].replace(",", ".") if decimal_comma else row[name]
            try:
                made[name] = float(text)
            except ValueError:
                raise BadInputError(f"{where}, {name}", row[name], "a number") from None
    return made


def spans(channels: Iterable[Channel], most: int = 100) -> list[tuple[str, int, int]]:
    """(table, first register, how many) of the fewest reads that fetch all channels, ``most`` registers each."""
    ends = sorted((c.table, c.register, c.register + _HELD[c.type][0]) for c in channels)
    found: list[tuple[str, int, int]] = []
    for table, first, end in ends:
        if found and found[-1][0] == table and end - found[-1][1] <= most:
            begin, count = found[-1][1], found[-1][2]
            found[-1] = (table, begin, max(count, end - begin))
        else:
            found.append((table, first, end - first))
    return found


def number_of(kind: str, words: Sequence[int]) -> float:
    """The number that registers hold, high word first. Raises BadInputError for too few of them."""
    count, form = _HELD[kind]
    if len(words) < count:
        raise BadInputError("registers", len(words), f"{count} for a {kind}")
    return float(struct.unpack(form, b"".join(struct.pack(">H", w & 0xFFFF) for w in words[:count]))[0])


def words_of(kind: str, value: float) -> list[int]:
    """Inverse of :func:`number_of`."""
    count, form = _HELD[kind]
    packed = struct.pack(form, value if kind == "float32" else round(value))
    return list(struct.unpack(f">{count}H", packed))


def shown(channel: Channel, raw: float) -> float | None:
    """What a channel's raw number says, SI; None where no sensor could: not a number, or beyond what it can show."""
    value = raw * channel.scale - channel.offset
    if value != value or value in (float("inf"), float("-inf")):
        return None
    if (channel.low is not None and value < channel.low) or (channel.high is not None and value > channel.high):
        return None
    si = to_si(channel.point, channel.unit, value)
    return si if possible(channel.point, si) else None
