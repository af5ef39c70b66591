"""Rigs as they are shown: numbers in the units of the screen, faults and devices by name."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo

from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.faults import FAULTS, Fault, faults_for
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa
from wolfsbane.exercise.plan.severity import severity_text
from wolfsbane.rig.baseline import WEATHER
from wolfsbane.rig.devices import hazards
from wolfsbane.rig.individual import PARAMETERS
from wolfsbane.rig.points import ORDER, from_si, kind_of, label_of
from wolfsbane.server.services.rig_files import unit_in

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.cycle.machine import Machine
    from wolfsbane.rig.rig import Rig

_DECIMALS = {"pressure": 1, "temperature": 1, "current": 1, "mass": 1, "flow": 0, "static": 2, "humidity": 0}
#: figures worked out of readings: id -> (gauge, line, point of the PT scale, sign)
_FIGURES = {
    "superheat": ("suction_pressure", "suction_line", "dew", 1.0),
    "subcooling": ("head_pressure", "liquid_line", "bubble", -1.0),
}


def decimals_of(point: str, system: str) -> int:
    """How many decimals a reading is shown with."""
    return 0 if kind_of(point) == "pressure" and system == "si" else _DECIMALS[kind_of(point)]


def text_of(point: str, value: float | None, system: str) -> str:
    """A reading as it is written, with its unit."""
    if value is None:
        return "–"
    unit = unit_in(system, point)
    return f"{from_si(point, unit, value):.{decimals_of(point, system)}f} {unit}".replace("-", "−")


def by_point(shown: Any) -> dict[str, float | None]:
    """A stored row by point."""
    return dict(zip(ORDER, shown or [], strict=False))


def shown_rows(
    rig: Rig,
    shown: Mapping[str, float | None],
    healthy: Mapping[str, float] | None,
    expected: Mapping[str, float] | None,
    doubts: Mapping[str, str],
    system: str,
) -> list[dict[str, Any]]:
    """Readings of a rig, in the order of its channels."""
    rows = []
    for channel in rig.channels:
        point = channel.point
        unit = unit_in(system, point)
        value = shown.get(point)
        sound, should = (None if point in WEATHER else (s or {}).get(point) for s in (healthy, expected))
        rows.append(
            {
                "point": point,
                "label": label_of(point),
                "kind": kind_of(point),
                "unit": unit,
                "value": None if value is None else round(from_si(point, unit, value), 2),
                "text": text_of(point, value, system),
                "healthy": None if sound is None else round(from_si(point, unit, sound), 2),
                "healthy_text": text_of(point, sound, system),
                "expected": None if should is None else round(from_si(point, unit, should), 2),
                "expected_text": text_of(point, should, system),
                "doubt": doubts.get(point, ""),
            }
        )
    return rows


def figure_rows(
    rig: Rig,
    machine: Machine,
    shown: Mapping[str, float | None],
    healthy: Mapping[str, float] | None,
    expected: Mapping[str, float] | None,
    system: str,
) -> list[dict[str, Any]]:
    """Superheat and subcooling, as read and as a sound rig would show them."""
    rows = []
    unit = "°F" if system == "us" else "K"
    for name, (gauge, line, point, sign) in _FIGURES.items():
        if rig.channel(gauge) is None or rig.channel(line) is None:
            continue
        found = [_figure(rig, machine, s, gauge, line, point, sign, system) for s in (shown, healthy, expected)]

        def text(v: float | None) -> str:
            return "–" if v is None else f"{v:.1f} {unit}".replace("-", "−")

        rows.append(
            {
                "point": name,
                "label": name_of(name),
                "kind": "difference",
                "unit": unit,
                "value": found[0],
                "text": text(found[0]),
                "healthy": found[1],
                "healthy_text": text(found[1]),
                "expected": found[2],
                "expected_text": text(found[2]),
                "doubt": "",
            }
        )
    return rows


def dials(rig: Rig, machine: Machine, shown: Mapping[str, float | None], system: str) -> list[dict[str, Any]]:
    """Both gauges with what they read now; one that reads nothing has no dial."""
    found = []
    barometer = barometer_at_altitude_pa(rig.altitude_ft * M_PER_FT)
    for side, point in (("low", "suction_pressure"), ("high", "head_pressure")):
        value = shown.get(point)
        if value is None:
            continue
        read = from_si(point, unit_in(system, point), value)
        drawn = dial(side, system, read, machine.refrigerant, barometer, refrigeration=machine.refrigeration)
        found.append({**drawn, "text": text_of(point, value, system)})
    return found


def _figure(
    rig: Rig,
    machine: Machine,
    shown: Mapping[str, float | None] | None,
    gauge: str,
    line: str,
    point: str,
    sign: float,
    system: str,
) -> float | None:
    pressure, pipe = (shown or {}).get(gauge), (shown or {}).get(line)
    if pressure is None or pipe is None:
        return None
    scale = refrigerant(machine.refrigerant)
    absolute = pressure + barometer_at_altitude_pa(rig.altitude_ft * M_PER_FT)
    if not scale.min_pa < absolute < scale.max_pa:
        return None
    value = sign * (pipe - scale.saturation_k(absolute, point))
    return round(value * (1.8 if system == "us" else 1.0), 1)


def rig_row(
    row: Mapping[str, Any],
    rig: Rig,
    machine: Machine,
    standing: list[dict[str, Any]],
    baseline_at: str | None,
    system: str,
) -> dict[str, Any]:
    """A rig as the lab shows it."""
    watch, shown = row["watch"] or {}, by_point(row["shown"])
    state = row["state"] or "new"
    undone = {} if standing or not row["undone"] else row["undone"]
    doubts = {d["point"]: d["text"] for d in watch.get("doubts", [])}
    silent = state in ("silent", "new")
    shown = {} if silent else shown
    return {
        "id": row["id"],
        "name": rig.name,
        "place": rig.place,
        "machine": rig.machine,
        "machine_name": machine.name,
        "refrigerant": machine.refrigerant,
        "logged": bool(rig.address),
        "state": state,
        "told": row["told"] or "",
        "seen_at": None if row["seen_at"] is None else row["seen_at"].isoformat(),
        "settled_min": watch.get("settled_min", 0.0),
        "why": watch.get("why", []),
        "alarms": watch.get("alarms", []),
        "doubts": list(doubts.values()),
        "readings": shown_rows(rig, shown, watch.get("healthy"), watch.get("planted"), doubts, system),
        "figures": figure_rows(rig, machine, shown, watch.get("healthy"), watch.get("planted"), system),
        "standing": standing,
        "baseline_at": baseline_at,
        "undone_at": undone.get("at"),
        "undone_by": undone.get("signed") or "",
        "undone_seen": (undone.get("seen") or {}).get("text") or "",
        "held": held(row, standing),
        "photo_at": None if row["photo_at"] is None else row["photo_at"].isoformat(),
    }


def held(row: Mapping[str, Any], standing: list[dict[str, Any]]) -> str:
    """Why a rig is out of the rotation, or "": it was undone, and its logger has not seen it back at its baseline.

    A rig without a logger or a baseline goes by the signature.
    """
    undone = row["undone"]
    if standing or not undone or undone["seen"] or row["baseline_at"] is None or not row["body"].get("address"):
        return ""
    back = (row["watch"] or {}).get("back")
    return back["text"] if back and back["ok"] is not True else "waiting for its readings"


def severity_words(fault_id: str, severity: float, system: str) -> str:
    """A severity in its own unit, with what it is one of."""
    shown = Fault(id=fault_id, severity=round(severity, 0 if abs(severity) >= 10.0 else 1))
    return f"{severity_text(shown, system)}, {FAULTS[fault_id].parameter}"


def spread_words(fault_id: str, spread: float, system: str) -> str:
    """How far a severity may be off."""
    return "± " + severity_text(Fault(id=fault_id, severity=round(spread, 1)), system)


def standing_rows(
    rig: Rig, positions: list[Mapping[str, Any]], planted: Mapping[str, Fault], system: str
) -> list[dict[str, Any]]:
    """Devices that are not at nothing; ``planted`` is what each was measured to plant."""
    rows = []
    for row in positions:
        device = next((d for d in rig.devices if d.id == row["device"]), None)
        if device is None or not row["position"]:
            continue
        fault = planted.get(device.id)
        rows.append(
            {
                "device": device.id,
                "name": device.name,
                "position": row["position"],
                "unit": device.unit,
                "fault_name": "" if fault is None else FAULTS[fault.id].name,
                "severity_text": "" if fault is None else severity_words(fault.id, fault.severity, system),
                "since": str(row["at"]),
            }
        )
    return rows


def device_rows(
    rig: Rig, machine: Machine, positions: Mapping[str, float], settings: list[Mapping[str, Any]], system: str
) -> list[dict[str, Any]]:
    """Devices with how they are set, what they may plant on this machine, and what was measured."""
    possible = {k.id: k for k in faults_for(machine)}
    rows = []
    for device in rig.devices:
        kind = device.of
        rows.append(
            {
                "id": device.id,
                "kind": device.kind,
                "name": device.name,
                "unit": device.unit,
                "most": device.most,
                "position": positions.get(device.id, 0.0),
                "remote": device.register is not None and bool(rig.address),
                "who": device.who,
                "set": kind.set,
                "undo": kind.undo,
                "limits": kind.limits,
                "hazards": list(hazards(device.kind)),
                "faults": [{"id": f, "name": possible[f].name} for f in kind.faults if f in possible],
                "settings": [
                    {
                        "id": s["id"],
                        "measured_at": s["measured_at"].isoformat(),
                        "position": s["position"],
                        "fault": s["fault"],
                        "fault_name": FAULTS[s["fault"]].name,
                        "severity": s["severity"],
                        "severity_text": severity_words(s["fault"], s["severity"], system),
                        "spread_text": spread_words(s["fault"], s["spread"], system),
                    }
                    for s in settings
                    if s["device"] == device.id
                ],
            }
        )
    return rows


def baseline_rows(rows: list[Mapping[str, Any]], system: str) -> list[dict[str, Any]]:
    """Baselines, newest first, in words and numbers of the screen."""
    found = []
    for row in rows:
        body = row["body"]
        factors = body["individual"]["factors"]
        found.append(
            {
                "id": row["id"],
                "made_at": row["made_at"].isoformat(),
                "from_at": row["from_at"].isoformat(),
                "to_at": row["to_at"].isoformat(),
                "who": row["who"] or "",
                "points": body["points"],
                "old": row["solver"] != str(SOLVER_VERSION),
                "factors": [
                    {
                        "id": name,
                        "words": PARAMETERS[name].words,
                        "pct": round(100.0 * (factor - 1.0), 1),
                        "uncertain_pct": round(100.0 * body["uncertain"].get(name, 0.0), 1),
                        "told": name not in body["untold"],
                    }
                    for name, factor in sorted(factors.items(), key=lambda row: list(PARAMETERS).index(row[0]))
                ],
                "together": [
                    f"{PARAMETERS[a].words} and {PARAMETERS[b].words}"
                    for a, b in body["together"]
                    if a in PARAMETERS and b in PARAMETERS
                ],
                "met": [
                    _met(point, cell, system)
                    for point, cell in sorted(body["met"].items(), key=lambda row: ORDER.index(row[0]))
                ],
                "notes": body["notes"],
            }
        )
    return found


def _met(point: str, cell: Mapping[str, float], system: str) -> dict[str, Any]:
    unit = unit_in(system, point)
    size = from_si(point, unit, 1.0) - from_si(point, unit, 0.0)
    return {
        "point": point,
        "label": label_of(point),
        "unit": unit,
        **{k: round(cell[k] * size, 2) for k in ("profile", "fitted", "fitted_worst")},
    }


_KINDS = {
    "gap": "No readings from {from} to {to}: {why}.",
    "clock": "The rig's clock went back from {from_s} to {to_s} s; what it showed before stands apart.",
    "set": "{name} set to {position} {unit}{signed}.",
    "undone": "{name} undone{signed}.",
    "returned": "Seen back: {text}.",
    "released": "Released without being seen back at its baseline: {text}.",
    "baseline": "A baseline was made of {points} settled stretches.",
    "measured": "{name} at {position} {unit} measured: {severity}.",
    "imported": "{rows} readings from a file, {first} to {last}.",
    "frozen": "Readings frozen for call {position} of “{sheet}”.",
}


def event_text(kind: str, data: Mapping[str, Any], zone: str) -> str:
    """An event in words, its times in the school's ``zone``."""
    told = {"signed": "", **data}
    if told.get("signed"):
        told["signed"] = f", signed {told['signed']}"
    for name in ("from", "to", "first", "last"):
        if isinstance(told.get(name), str) and "T" in told[name]:
            told[name] = datetime.fromisoformat(told[name]).astimezone(ZoneInfo(zone)).strftime("%-I:%M:%S %p")
    try:
        return _KINDS[kind].format(**told)
    except KeyError:
        return kind
