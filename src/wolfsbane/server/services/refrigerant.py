"""Cylinders and the refrigerant log of a school: every move written down, weighed, checked and closed by the day."""

from __future__ import annotations

import csv
import io
from datetime import date, datetime, timedelta
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo

from wolfsbane.cycle.entered import entered
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.rig.refrigerant_log import (
    HOT_K,
    MOVES,
    NEW,
    RECOVERY,
    USUAL_K,
    Move,
    StockCylinder,
    balance,
    check,
    differences,
)
from wolfsbane.rig.weights import typed_kg, weight
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services import rigs
from wolfsbane.server.services.results import plain
from wolfsbane.tables import NAMES as REFRIGERANTS

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection

#: said wherever the log is printed
NO_ADVICE = (
    "For training and for your own records. It is not legal advice: what must be recorded, by whom and for how long is "
    "set by the rules where you are (in the United States, EPA rules under Section 608)."
)


def of_row(row: dict[str, Any]) -> StockCylinder:
    """The cylinder of a row."""
    return StockCylinder(
        name=row["name"],
        kind=row["kind"],
        refrigerant=row["refrigerant"],
        tare_kg=row["tare_kg"],
        water_kg=row["water_kg"],
        gross_kg=row["gross_kg"],
        retest_on="" if row["retest_on"] is None else row["retest_on"].isoformat(),
    )


def today_of(user: dict[str, Any]) -> date:
    """The day it is at the school."""
    return datetime.now(ZoneInfo(user["time_zone"])).date()


def shelf(connection: Connection, user: dict[str, Any], system: str) -> list[dict[str, Any]]:
    """Every cylinder as it is shown: what is in it, what it may hold, what to watch."""
    day = today_of(user).isoformat()
    found = []
    for row in queries.cylinder_list(connection, school_id=user["school_id"]):
        one = of_row(row)
        limit, hot = one.limit_kg(), one.limit_kg(t_k=HOT_K)
        notes = []
        if one.retest_on and day > one.retest_on:
            notes.append(f"Past its test date, {one.retest_on}: empty it, never fill it.")
        if limit and one.net_kg > limit:
            notes.append("More than 80 % full: move some into another recovery cylinder now.")
        elif hot and one.net_kg > hot:
            notes.append("Too full for a van in the sun: keep it below 130 °F.")
        found.append(
            {
                "id": row["id"],
                "name": one.name,
                "kind": one.kind,
                "refrigerant": one.refrigerant,
                "owner": row["owner"],
                "retest_on": one.retest_on,
                "share": round(one.net_kg / limit, 4) if limit else 0.0,
                "net": weight(one.net_kg, system),
                "gross": weight(one.gross_kg, system),
                "tare": weight(one.tare_kg, system),
                "water": weight(one.water_kg, system),
                "limit": weight(limit, system) if limit else "",
                "room": weight(max(limit - one.net_kg, 0.0), system) if limit and one.kind == RECOVERY else "",
                "notes": notes,
            }
        )
    return found


def add(connection: Connection, user: dict[str, Any], asked: dict[str, Any]) -> int:
    """A new cylinder from typed weights; returns its number. Raises BadInputError."""
    system = asked["units"]
    tare, water = (typed_kg(asked[f], system, f) for f in ("tare", "water"))
    gross = typed_kg(asked["gross"], system, "gross") if asked["gross"].strip() else tare
    for field, kg, low, high in (("tare", tare, 0.5, 200.0), ("water", water, 0.4, 600.0)):
        if not low <= kg <= high:
            raise BadInputError(field, asked[field], f"{weight(low, system)} to {weight(high, system)}")
    if gross < tare:
        raise BadInputError("gross", asked["gross"], f"at least the tare of {weight(tare, system)}")
    name = asked["refrigerant"]
    if name not in REFRIGERANTS and (name or asked["kind"] == NEW or gross > tare):
        raise BadInputError("refrigerant", name, ", ".join(REFRIGERANTS))
    made = StockCylinder(
        name=asked["name"], kind=asked["kind"], refrigerant=name, tare_kg=tare, water_kg=water, gross_kg=gross
    )
    if name and made.net_kg > made.limit_kg():
        raise BadInputError("gross", asked["gross"], f"at most {weight(tare + made.limit_kg(), system)}: 80 % full")
    row = queries.cylinder_add(
        connection,
        school_id=user["school_id"],
        name=asked["name"],
        kind=asked["kind"],
        refrigerant=name,
        tare_kg=tare,
        water_kg=water,
        gross_kg=gross,
        owner=asked["owner"],
        retest_on=asked["retest_on"],
        user_id=user["id"],
    )
    return int(row["id"])


def cylinder(connection: Connection, user: dict[str, Any], cylinder_id: int, field: str = "") -> dict[str, Any]:
    """One cylinder's row, held until the transaction ends. Raises 404, or BadInputError for a ``field``."""
    row = queries.cylinder_get(connection, school_id=user["school_id"], id=cylinder_id)
    if row is None:
        if field:
            raise BadInputError(field, cylinder_id, "a cylinder of this school")
        raise not_found("the cylinder")
    return dict(row)


def write_down(connection: Connection, user: dict[str, Any], asked: dict[str, Any]) -> int:
    """A move of refrigerant, checked and compared; returns its number. What must not be done is refused with its
    caution; what was done anyway (``happened``) is written down as a difference to be explained.
    """
    system = asked["units"]
    _open_day(connection, user)
    row = cylinder(connection, user, asked["cylinder_id"], "cylinder_id")
    other = None if asked["other_id"] is None else cylinder(connection, user, asked["other_id"], "other_id")
    holds, rig_id = "", None
    if MOVES[asked["kind"]][1] and asked["rig_id"] is not None:
        rig_row = queries.rig_get(connection, school_id=user["school_id"], rig_id=asked["rig_id"])
        if rig_row is None:
            raise BadInputError("rig_id", asked["rig_id"], "a rig of this school")
        holds, rig_id = rigs.profile_of(rigs.read_rig(rig_row)).refrigerant, asked["rig_id"]
    temperature = entered(asked["temperature"], "°F" if system == "us" else "°C", "temperature")
    at_k = USUAL_K if temperature is None else _kelvin(temperature, system)
    before, after, log = (typed_kg(asked[f], system, f) for f in ("before", "after", "log"))
    scale = None if not asked["scale"].strip() else typed_kg(asked["scale"], system, "scale")
    move = Move(kind=asked["kind"], log_kg=log, before_kg=before, after_kg=after, scale_kg=scale, t_k=at_k)
    one, into = of_row(row), None if other is None else of_row(other)
    found = []
    try:
        check(move, one, holds, into, today_of(user).isoformat())
    except BadInputError as error:
        if not asked["happened"]:
            raise
        found.append({"between": f"done anyway: {error.value}", "kg": 0.0, "causes": [f"allowed: {error.allowed}"]})
    known = [of_row(c) for c in queries.cylinder_list(connection, school_id=user["school_id"])]
    found += [d.to_json() for d in differences(move, one, known)]
    name = holds or one.refrigerant or (into.refrigerant if into else "")
    if asked["kind"] == "received" and asked["refrigerant"]:
        name = asked["refrigerant"]
    if name not in REFRIGERANTS:
        raise BadInputError("refrigerant", name, ", ".join(REFRIGERANTS))
    made = queries.refrigerant_move_add(
        connection,
        school_id=user["school_id"],
        kind=move.kind,
        cylinder_id=row["id"],
        other_id=None if other is None else other["id"],
        rig_id=rig_id,
        refrigerant=name,
        log_kg=log,
        before_kg=before,
        after_kg=after,
        scale_kg=scale,
        person=asked["person"],
        why=asked["why"],
        differences=jsonb(found),
        user_id=user["id"],
    )
    _weighed(connection, user, row, after, name)
    if other is not None and into is not None:
        _weighed(connection, user, other, into.gross_kg + move.weighed_kg, name)
    return int(made["id"])


def _kelvin(value: float, system: str) -> float:
    return (value + 459.67) / 1.8 if system == "us" else value + 273.15


def _weighed(connection: Connection, user: dict[str, Any], row: dict[str, Any], gross: float, name: str) -> None:
    """What a cylinder weighs now; an empty recovery cylinder takes the refrigerant that came into it."""
    held = row["refrigerant"] or (name if gross > row["tare_kg"] else "")
    queries.cylinder_weighed(connection, school_id=user["school_id"], id=row["id"], gross_kg=gross, refrigerant=held)


def span(user: dict[str, Any], first: date, last: date) -> tuple[datetime, datetime]:
    """From the morning of the first day to the midnight after the last, at the school."""
    zone = ZoneInfo(user["time_zone"])
    begin = datetime(first.year, first.month, first.day, tzinfo=zone)
    after = last + timedelta(days=1)
    return begin, datetime(after.year, after.month, after.day, tzinfo=zone)


def moves(connection: Connection, user: dict[str, Any], first: date, last: date) -> list[dict[str, Any]]:
    """Rows of the log between two days, newest first."""
    begin, end = span(user, first, last)
    found = queries.refrigerant_moves(connection, school_id=user["school_id"], from_at=begin, to_at=end)
    return [dict(r) for r in found]


def shown(row: dict[str, Any], system: str) -> dict[str, Any]:
    """A row of the log with weights in words."""
    weighed = MOVES[row["kind"]][0] * (row["after_kg"] - row["before_kg"])
    where = row["rig"] or row["other"] or ""
    return {
        "id": row["id"],
        "at": row["at"].isoformat(),
        "kind": row["kind"],
        "text": f"{MOVES[row['kind']][2]} {where}".strip(),
        "cylinder": row["cylinder"],
        "refrigerant": row["refrigerant"],
        "log": weight(row["log_kg"], system),
        "weighed": weight(weighed, system),
        "scale": "" if row["scale_kg"] is None else weight(row["scale_kg"], system),
        "person": row["person"] or row["who"] or "",
        "why": row["why"],
        "differences": [
            {"text": f"{d['between']}: {weight(d['kg'], system)}" if d["kg"] else d["between"], "causes": d["causes"]}
            for d in row["differences"]
        ],
        "explained": row["explained"],
        "explained_by": row["explained_by"] or "",
    }


def totals(rows: list[dict[str, Any]]) -> dict[str, dict[str, float]]:
    """Refrigerant -> kind of move -> kg, by the cylinders' own weights."""
    names = sorted({r["refrigerant"] for r in rows})
    return {name: balance([_as_move(r) for r in rows if r["refrigerant"] == name]) for name in names}


def _as_move(row: dict[str, Any]) -> Move:
    return Move(kind=row["kind"], log_kg=row["log_kg"], before_kg=row["before_kg"], after_kg=row["after_kg"])


def balances(rows: list[dict[str, Any]], by: str, system: str) -> list[dict[str, str]]:
    """Running balance of each refrigerant, cylinder or rig (``by``): in words, what went where."""
    found = []
    for name in sorted({r[by] for r in rows if r[by]}):
        moved = balance([_as_move(r) for r in rows if r[by] == name])
        cells = {kind: weight(kg, system) if kg else "" for kind, kg in moved.items()}
        found.append({"name": name, **cells, "net": weight(moved["charge"] - moved["recover"], system)})
    return found


def explain(connection: Connection, user: dict[str, Any], move_id: int, words: str) -> None:
    """Why a move's numbers do not agree. Raises 404 where there is nothing to explain."""
    changed = queries.refrigerant_explain(
        connection, school_id=user["school_id"], id=move_id, explained=words, user_id=user["id"]
    )
    if not changed:
        raise not_found("a difference to explain")


def _open_day(connection: Connection, user: dict[str, Any]) -> None:
    closed = {row["day"] for row in queries.refrigerant_days(connection, school_id=user["school_id"])}
    if today_of(user) in closed:
        raise ApiError(409, "day_closed", "today is closed; write it down tomorrow, and say in it when it was")


def close_day(connection: Connection, user: dict[str, Any], day: date) -> None:
    """Close a day of the log. Raises BadInputError while a difference of it is not explained, ApiError 409 where it is
    closed already.
    """
    if day > today_of(user):
        raise BadInputError("day", day.isoformat(), "today or a day before")
    rows = moves(connection, user, day, day)
    open_ = [r for r in rows if r["differences"] and not r["explained"]]
    if open_:
        told = "; ".join(f"{r['cylinder']} {MOVES[r['kind']][2]} {r['rig'] or r['other'] or ''}".strip() for r in open_)
        raise BadInputError("day", day.isoformat(), f"a day with every difference explained; still open: {told}")
    if day in {row["day"] for row in queries.refrigerant_days(connection, school_id=user["school_id"])}:
        raise ApiError(409, "day_closed", "this day is closed already")
    queries.refrigerant_day_close(
        connection, school_id=user["school_id"], day=day, user_id=user["id"], totals=jsonb(totals(rows))
    )


_HEADS = (
    "date", "time", "cylinder", "move", "refrigerant", "log_kg", "weighed_kg", "scale_kg", "before_kg", "after_kg",
    "person", "why", "differences", "explained",
)  # fmt: skip


def log_csv(rows: list[dict[str, Any]], zone: str) -> str:
    """The log as CSV text, oldest first, weights in kg; texts that a spreadsheet would run are quoted."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_HEADS)
    for row in reversed(rows):
        at = row["at"].astimezone(ZoneInfo(zone))
        seen = shown(row, "si")
        weighed = MOVES[row["kind"]][0] * (row["after_kg"] - row["before_kg"])
        kg = [row["log_kg"], weighed, row["scale_kg"], row["before_kg"], row["after_kg"]]
        texts = [
            seen["person"],
            row["why"],
            "; ".join(d["text"] for d in seen["differences"]),
            row["explained"],
        ]
        writer.writerow(
            [
                at.strftime("%Y-%m-%d"),
                at.strftime("%H:%M"),
                plain(row["cylinder"]),
                plain(seen["text"]),
                row["refrigerant"],
                *("" if v is None else f"{v:.3f}" for v in kg),
                *(plain(t) for t in texts),
            ]
        )
    return out.getvalue()
