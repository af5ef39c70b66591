"""What is seen of calls on screen: by a student, who is sent nothing that holds an answer, and by an instructor."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import action_rows
from wolfsbane.cycle.dials import dial
from wolfsbane.cycle.field_tests import tests_for
from wolfsbane.exercise.screen import class_ways, replay
from wolfsbane.exercise.screen.expert import essential, proofs
from wolfsbane.exercise.screen.issue import EXAM
from wolfsbane.exercise.screen.live import HOUR, readable
from wolfsbane.exercise.screen.marks import LINES, on_screen
from wolfsbane.exercise.screen.run import fold
from wolfsbane.exercise.screen.steps import LOOK_IDS, MACHINE
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.printing.paper_items import band_text
from wolfsbane.server.services import screen

if TYPE_CHECKING:
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.server.core.db.database import Connection

#: of what is read, a student gets what an instrument shows: of a dial where its needle stands
_OF_DIAL = ("point", "kind", "unit", "side", "needle_deg", "between_deg", "spoken")
_OF_DIGITS = ("point", "kind", "unit", "text")
RUBRIC_ROWS = [{"what": what, "earns": earns} for what, earns in LINES]


def _step(row: dict[str, Any]) -> dict[str, Any]:
    """A step as a student sees it: what was shown, and nothing of how it is judged."""
    shown = row["shown"] or {}
    read = shown.get("reading")
    if read is not None:
        read = {name: read[name] for name in (_OF_DIAL if "needle_deg" in read else _OF_DIGITS) if name in read}
    said = shown.get("said") or []
    return {
        "number": row["number"],
        "uid": row.get("uid", ""),
        "kind": row["kind"],
        "data": row["data"],
        "minutes": shown.get("minutes", 0.0),
        "said": [said] if isinstance(said, str) else list(said),
        "reading": read,
        "refused": bool(shown.get("refused")),
        "harm": list(shown.get("harm") or []),
        "caution": shown.get("caution") or "",
    }


def for_student(connection: Connection, row: dict[str, Any]) -> dict[str, Any]:
    """A run as whoever plays it sees it."""
    issue, rows = screen.issue_of(row), list(queries.screen_steps(connection, run_id=row["id"]))
    run = fold(screen.as_steps(rows))
    tells = row["judged"] is not None and (row["mode"] != EXAM or row["told_at"] is not None)
    return scene(issue, rows) | {
        "id": row["id"],
        "title": row["title"],
        "position": row["position"],
        "mode": row["mode"],
        "questions": [
            {"id": q.id, "text": q.text, "kind": q.kind, "unit": q.unit, "band": _band(issue.call, q.id)}
            for q in issue.call.questions
            if on_screen(q.id)
        ],
        "evidence": [{"letter": c.letter, "text": c.text} for c in issue.call.choices.evidence],
        "answers": run.answers | {f"read_{p}": t.text for p, t in run.typed.items()},
        "proof": {p: t.text for p, t in run.proofs.items()},
        "ticket": run.ticket,
        "finished": row["finished_at"] is not None,
        "left_s": screen.left_s(row),
        "rubric": RUBRIC_ROWS,
        "judged": row["judged"] if tells else None,
    }


def scene(issue: Issue, rows: list[dict[str, Any]]) -> dict[str, Any]:
    """What is seen of a machine that is played, after the steps in ``rows``: nothing that holds an answer."""
    machine, call = issue.machine, issue.call
    tests = tests_for(machine)
    seen_plate = any(r["kind"] == "plate" for r in rows)
    minutes = sum((r["shown"] or {}).get("minutes", 0.0) for r in rows if r["kind"] in MACHINE)
    return {
        "complaint": call.complaint,
        "history": call.history,
        "machine": call.machine.name,
        "refrigerant": call.machine.refrigerant if seen_plate else "",
        "units": call.units,
        "sealed": machine.sealed,
        "refrigeration": machine.refrigeration,
        "plate": [{"label": p.label, "text": p.text} for p in call.machine.plate] if seen_plate else [],
        "points": readable(machine),
        "essential": list(essential(issue.setup)),
        "proofs": list(proofs(issue.setup)),
        "looks": [_thing(t) for t in tests if t.id in LOOK_IDS],
        "tests": [_thing(t) for t in tests if t.id not in LOOK_IDS],
        "actions": action_rows(machine),
        "faults": [{"letter": c.letter, "text": c.text} for c in call.choices.fault],
        "dials": _dials(issue),
        "steps": [_step(r) for r in rows],
        "named": any(r["kind"] == "name" for r in rows),
        "minutes": round(minutes, 1),
        "bill": round(_bill(rows, minutes), 2),
    }


def _bill(rows: list[dict[str, Any]], minutes: float) -> float:
    return minutes / 60.0 * HOUR + sum((r["shown"] or {}).get("cost", 0.0) for r in rows if r["kind"] in MACHINE)


def _band(call: Call, question: str) -> str:
    """The target band beside a verdict, where the sheet prints it too."""
    return band_text(call, question) if question.endswith("_verdict") and question != "glass_verdict" else ""


def _thing(test: Any) -> dict[str, Any]:
    return {"id": test.id, "name": test.name, "minutes": test.minutes, "caution": test.caution}


def _dials(issue: Issue) -> list[dict[str, Any]]:
    """The faces of both gauges, needles on zero."""
    setup = issue.setup
    if setup.kit != "analogue" or setup.machine.sealed:
        return []
    pressure = setup.conditions.barometer_pa
    box = setup.machine.refrigeration
    return [
        dial(side, setup.system, 0.0, setup.machine.refrigerant, pressure, refrigeration=box) | {"text": ""}
        for side in ("low", "high")
    ]


def for_sheet(connection: Connection, school_id: int, sheet_id: int) -> dict[str, Any]:
    """What an instructor sees of a sheet on screen: the newest opening, who is how far, and marks."""
    bodies = queries.sheet_bodies(connection, school_id=school_id, sheet_id=sheet_id)
    usable = {b["id"] for b in bodies if screen.playable(b["body"])}
    opening = queries.screen_opening(connection, school_id=school_id, sheet_id=sheet_id)
    found: dict[str, Any] = {"opening": None, "playable": bool(usable), "rubric": RUBRIC_ROWS}
    if opening is None:
        return found
    screen.end_due(connection, school_id, opening["id"])
    rows = queries.screen_rows(connection, school_id=school_id, id=opening["id"])
    return found | {
        "opening": {
            "mode": opening["mode"],
            "minutes": opening["minutes"],
            "opened_at": opening["opened_at"].isoformat(),
            "closed": opening["closed_at"] is not None,
            "told": opening["told_at"] is not None,
            "rows": [_row(r) for r in rows if r["paper_call_id"] in usable],
        }
    }


def _row(r: dict[str, Any]) -> dict[str, Any]:
    judged = r["judged"]
    return {
        "paper_call_id": r["paper_call_id"],
        "position": r["position"],
        "code": r["code"],
        "apprentice_id": r["apprentice_id"],
        "name": r["name"],
        "factor": r["factor"],
        "run_id": r["run_id"],
        "began_at": r["began_at"] and r["began_at"].isoformat(),
        "finished_at": r["finished_at"] and r["finished_at"].isoformat(),
        "steps": r["steps"],
        "earned": judged and judged["marks"]["earned"],
        "possible": judged and judged["marks"]["possible"],
        "minutes": judged and judged["minutes"],
    }


def mine(connection: Connection, user: dict[str, Any]) -> list[dict[str, Any]]:
    """Calls that are open on screen for a student, and those they played."""
    out = []
    for r in queries.screen_mine(connection, school_id=user["school_id"], user_id=user["id"]):
        tells = r["judged"] is not None and (r["mode"] != EXAM or r["told_at"] is not None)
        marks = r["judged"]["marks"] if tells else None
        out.append(
            {
                "paper_call_id": r["paper_call_id"],
                "run_id": r["run_id"],
                "title": r["title"],
                "position": r["position"],
                "machine": r["machine"] or "",
                "mode": r["mode"],
                "minutes": r["minutes"],
                "open": r["closed_at"] is None,
                "finished": r["finished_at"] is not None,
                "earned": marks and marks["earned"],
                "possible": marks and marks["possible"],
            }
        )
    return out


def ways_of(connection: Connection, school_id: int, sheet_id: int, position: int) -> dict[str, Any]:
    """The ways of a class through one call, with the expert's; of the newest opening. Raises ApiError 404."""
    opening = queries.screen_opening(connection, school_id=school_id, sheet_id=sheet_id)
    if opening is None:
        raise not_found(f"sheet {sheet_id}, open on screen,")
    rows = list(queries.screen_ways(connection, school_id=school_id, opening_id=opening["id"], position=position))
    ways = [class_ways.way_of(r["name"], r["judged"]) for r in rows]
    expert = class_ways.experts_way(rows[0]["judged"]) if rows else ()
    cells = class_ways.picture(ways, expert)
    return {
        "position": position,
        "people": len(ways),
        "columns": max((c.column for c in cells), default=-1) + 1,
        "cells": [
            {
                "column": c.column,
                "top": c.top,
                "kind": c.kind,
                "text": c.text,
                "what": list(c.what),
                "who": list(c.who),
                "earned": round(c.earned, 1),
                "expert": c.expert,
            }
            for c in cells
        ],
    }


def on_bench(connection: Connection, row: dict[str, Any]) -> dict[str, Any]:
    """A run as the bench plays it again."""
    issue = screen.issue_of(row)
    shown = [s.shown for s in screen.steps_of(connection, row["id"]) if s.shown is not None]
    return {"name": row["name"], "found": replay.found(issue), "steps": replay.played(shown)}
