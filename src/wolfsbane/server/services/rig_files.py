"""What a rig's logger wrote, as CSV: read with its columns matched, and written with units in the head."""

from __future__ import annotations

import csv
import io
import re
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.points import ORDER, from_si, kind_of, label_of, possible, to_si, units_of

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

#: units that samples are written in
_WRITTEN = {
    "us": {"pressure": "psig", "temperature": "°F", "flow": "cfm", "static": "in w.c.", "mass": "oz"},
    "si": {"pressure": "kPa", "temperature": "°C", "flow": "L/s", "static": "Pa", "mass": "g"},
}
_SHARED = {"current": "A", "humidity": "%"}
LONGEST_FILE = 200_000
_TIMES = ("%Y-%m-%dT%H:%M:%S", "%Y-%m-%d %H:%M:%S", "%m/%d/%Y %H:%M:%S", "%d.%m.%Y %H:%M:%S", "%m/%d/%Y %I:%M:%S %p")
#: a word of a column's head -> the point it is about, the first that fits
_GUESSES = (
    (r"suction.*(press|psi|bar|kpa)|low.*(press|side)|^lp\b|^ps\b", "suction_pressure"),
    (r"(head|discharge|liquid|high).*(press|psi|bar|kpa)|high.*side|^hp\b|^pd\b", "head_pressure"),
    (r"suction|^slt\b", "suction_line"),
    (r"liquid|^llt\b", "liquid_line"),
    (r"discharge", "discharge_line"),
    (r"(return|room|box).*(rh|hum)|^rh\b|humid", "return_rh"),
    (r"return.*wet|wet ?bulb", "return_wb"),
    (r"return|room|box", "return_db"),
    (r"supply", "supply_db"),
    (r"outdoor|ambient|outside", "outdoor_db"),
    (r"amp|current", "compressor_amps"),
    (r"scale|weight", "weight"),
)


def unit_in(system: str, point: str) -> str:
    """The unit a point is written in."""
    kind = kind_of(point)
    return _SHARED.get(kind) or _WRITTEN[system][kind]


def written(rows: Iterable[Mapping[str, Any]], points: list[str], system: str) -> Iterable[str]:
    """Samples as CSV, a line at a time: time (UTC), the rig's clock, then each point with its unit in the head."""
    heads = ["time_utc", "clock_s", *(f"{label_of(p)} [{unit_in(system, p)}]" for p in points)]
    yield _line(heads)
    places = [(ORDER.index(p), p, unit_in(system, p)) for p in points]
    for row in rows:
        shown = row["shown"]
        cells = [row["at"].astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%S.%f")[:-3] + "Z", f"{row['clock_s']:.1f}"]
        for place, point, unit in places:
            value = shown[place] if place < len(shown) else None
            cells.append("" if value is None else f"{from_si(point, unit, value):.2f}")
        yield _line(cells)


def _line(cells: list[str]) -> str:
    out = io.StringIO()
    csv.writer(out).writerow(cells)
    return out.getvalue()


def head_of(text: str) -> tuple[str, list[str]]:
    """(what parts the columns, their heads). Raises BadInputError for a file without lines."""
    lines = [line for line in text.lstrip("\ufeff").splitlines()[:50] if line.strip()]
    if not lines:
        raise BadInputError("file", "empty", "a head and a line for each reading")
    parted = max(";\t,", key=lines[0].count)
    return parted, [cell.strip() for cell in next(csv.reader([lines[0]], delimiter=parted))]


def guessed(heads: list[str]) -> dict[str, dict[str, str]]:
    """Column head -> {point, unit} as far as the heads say it; the time column stands under "time"."""
    found: dict[str, dict[str, str]] = {}
    taken: set[str] = set()
    for head in heads:
        plain = head.lower()
        if "time" not in found and re.search(r"time|date|timestamp", plain):
            found["time"] = {"point": head, "unit": ""}
            continue
        for pattern, point in _GUESSES:
            if point not in taken and re.search(pattern, plain):
                said = next((u for u in units_of(point) if u.lower() in plain), units_of(point)[0])
                found[head] = {"point": point, "unit": said}
                taken.add(point)
                break
    return found


def read(text: str, columns: Mapping[str, Mapping[str, str]], zone: str) -> tuple[list[dict[str, Any]], list[str]]:
    """(rows {at, clock_s, shown}, what was left out and why) of a logger's file.

    ``columns`` is head -> {point, unit}, the time column under "time"; times without a zone are in ``zone``. Raises
    BadInputError naming what is wrong.
    """
    parted, heads = head_of(text)
    try:
        tz = ZoneInfo(zone)
    except (ZoneInfoNotFoundError, ValueError):
        raise BadInputError("time zone", zone, "a zone as America/Chicago") from None
    time_head = (columns.get("time") or {}).get("point", "")
    if time_head not in heads:
        raise BadInputError("time column", time_head, ", ".join(heads))
    places = []
    for head, meant in columns.items():
        if head == "time":
            continue
        if head not in heads:
            raise BadInputError("column", head, ", ".join(heads))
        point = meant.get("point", "")
        to_si(point, meant.get("unit", ""), 0.0) if point in ORDER else kind_of(point)
        places.append((heads.index(head), point, meant["unit"]))
    if not places:
        raise BadInputError("columns", "none", "at least one column with its reading and unit")
    rows: list[dict[str, Any]] = []
    left: list[str] = []
    decimal_comma = parted == ";"
    lines = text.lstrip("\ufeff").splitlines()
    if len(lines) > LONGEST_FILE:
        raise BadInputError("file", f"{len(lines)} lines", f"at most {LONGEST_FILE}")
    for number, cells in enumerate(csv.reader(lines[1:], delimiter=parted), start=2):
        if not any(c.strip() for c in cells):
            continue
        at = _time(cells[heads.index(time_head)] if heads.index(time_head) < len(cells) else "", tz)
        if at is None:
            left.append(f"line {number}: “{cells[heads.index(time_head)] if cells else ''}” is no time")
            continue
        shown: list[float | None] = [None] * len(ORDER)
        for place, point, unit in places:
            cell = cells[place].strip() if place < len(cells) else ""
            value = _number(cell, decimal_comma)
            if value is None:
                if cell and len(left) < 20:
                    left.append(f"line {number}, {heads[place]}: “{cell}” is no number")
                continue
            si = to_si(point, unit, value)
            shown[ORDER.index(point)] = si if possible(point, si) else None
        rows.append({"at": at, "clock_s": at.timestamp(), "shown": shown})
    if rows and all(v is None for row in rows for v in row["shown"]):
        raise BadInputError("columns", "units", "units in which these readings are possible; none of them is")
    return sorted(rows, key=lambda r: r["at"]), left[:20]


def _number(cell: str, decimal_comma: bool) -> float | None:
    plain = cell.replace("\u2212", "-").replace(" ", "")
    plain = plain.replace(".", "").replace(",", ".") if decimal_comma and "," in plain else plain.replace(",", "")
    return float(plain) if re.fullmatch(r"-?\d+(\.\d+)?(e-?\d+)?", plain.lower()) else None


def _time(cell: str, zone: ZoneInfo) -> datetime | None:
    plain = cell.strip()
    if re.fullmatch(r"\d{10}(\.\d+)?", plain):
        return datetime.fromtimestamp(float(plain), UTC)
    try:
        found = datetime.fromisoformat(plain)
        return found if found.tzinfo else found.replace(tzinfo=zone)
    except ValueError:
        pass
    for form in _TIMES:
        try:
            return datetime.strptime(plain.split(".")[0] if "." in plain and "/" in plain else plain, form).replace(
                tzinfo=zone
            )
        except ValueError:
            continue
    return None
