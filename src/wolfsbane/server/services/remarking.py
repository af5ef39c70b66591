"""Marking again: a rule is changed, or a rig was read.

Shows who moves first, then does it, with every move written down.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import in_order
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw import rig
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.rules import rules
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.questions import EVIDENCE
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError
from wolfsbane.server.services.marking import MarkingBasis, remark
from wolfsbane.server.services.rigs import shown_around
from wolfsbane.server.services.sheets import audit, held

if TYPE_CHECKING:
    from datetime import datetime

    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.server.core.db.database import Connection


#: (stored body, paper id) -> the body to mark that paper against
BodyOf = Callable[[dict[str, Any], int], "Body"]


def _position(connection: Connection, sheet_id: int, position: int) -> dict[str, Any]:
    rows = {row["position"]: row for row in queries.sheet_call_list(connection, sheet_id=sheet_id)}
    if position not in rows:
        raise BadInputError("position", position, f"1 to {len(rows)}")
    return rows[position]


def _moves(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    position: int,
    body_of: BodyOf,
    by: Rules,
) -> list[dict[str, Any]]:
    """Who moves when a position is marked by ``by`` against ``body_of(body, paper id)``:
    list of {code, name, before, after, changes}.
    """
    found = []
    for row in queries.answered_calls(connection, school_id=user["school_id"], sheet_id=sheet_id, position=position):
        answers = {a["question_id"]: a["raw"] for a in queries.call_answers(connection, paper_call_id=row["id"])}
        before = {m["question_id"]: m for m in queries.call_marks(connection, paper_call_id=row["id"])}
        changes, total = [], 0
        possible_after = 0
        for mark in frozen_body.grade_body(body_of(row["body"], row["paper_id"]), answers, by):
            old = before.get(mark.question)
            earned, points = mark.earned, mark.points
            if old is not None and old["overridden"] and mark.code != "void":
                earned, points = old["earned"], old["points"]
            total, possible_after = total + earned, possible_after + points
            if old is None or (old["earned"], old["points"]) != (earned, points):
                changes.append(
                    {"question": mark.question, "before": None if old is None else old["earned"], "after": earned}
                )
        was, possible = sum(m["earned"] for m in before.values()), sum(m["points"] for m in before.values())
        if changes:
            found.append(
                {
                    "code": row["code"],
                    "name": row["name"],
                    "before": was if before else None,
                    "before_possible": possible,
                    "after": total,
                    "after_possible": possible_after,
                    "changes": changes,
                    "id": row["id"],
                    "paper_id": row["paper_id"],
                    "answers": answers,
                    "body": row["body"],
                }
            )
    return found


def _told(moves: list[dict[str, Any]]) -> list[dict[str, Any]]:
    kept = ("code", "name", "before", "before_possible", "after", "after_possible", "changes")
    return [{key: move[key] for key in kept} for move in moves]


def change_rules(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    position: int,
    data: dict[str, Any],
    reason: str,
    *,
    confirmed: Any,
) -> list[dict[str, Any]]:
    """Show who moves under new rules for one call, or with ``confirmed`` apply them. Returns the moves.

    Raises BadInputError.
    """
    held(connection, user, sheet_id, "ready")
    row, by = _position(connection, sheet_id, position), rules(data)
    basis = MarkingBasis(connection, user["school_id"], sheet_id)
    moves = _moves(
        connection, user, sheet_id, position, lambda body, paper_id: basis.body(position, body, paper_id), by
    )
    if confirmed:
        if not reason.strip():
            raise BadInputError("reason", reason, "a few words: why the rule changes")
        queries.sheet_rules(connection, sheet_id=sheet_id, position=position, rules=jsonb(by.to_json()))
        audit(
            connection,
            user,
            sheet_id,
            "rules",
            position=position,
            before=rules(row["rules"]).to_json(),
            after=by.to_json(),
            reason=reason.strip(),
        )
        _apply(
            connection,
            user,
            sheet_id,
            position,
            moves,
            lambda body, paper_id: basis.body(position, body, paper_id),
            by,
            reason,
        )
    return _told(moves)


def _apply(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    position: int,
    moves: list[dict[str, Any]],
    body_of: BodyOf,
    by: Rules,
    reason: str,
) -> None:
    for move in moves:
        remark(connection, user["school_id"], move["id"], body_of(move["body"], move["paper_id"]), move["answers"], by)
        audit(
            connection,
            user,
            sheet_id,
            "re-marked",
            paper_id=move["paper_id"],
            position=position,
            before={"earned": move["before"], "possible": move["before_possible"]},
            after={"earned": move["after"], "possible": move["after_possible"], "questions": move["changes"]},
            reason=reason.strip(),
        )


def rig_of(connection: Connection, user: dict[str, Any], sheet_id: int, position: int) -> tuple[dict[str, Any], Call]:
    """(row of the sheet's item, the frozen call of the rig) at a position. Raises BadInputError, ApiError."""
    row = _position(connection, sheet_id, position)
    if row["data"].get("kind") != "rig":
        raise BadInputError("position", position, "a call that is on a rig")
    for frozen in queries.sheet_bodies(connection, school_id=user["school_id"], sheet_id=sheet_id):
        if frozen["position"] == position:
            return row, call_from_json(frozen["body"])
    raise ApiError(409, "not_ready", "this sheet has no papers yet")


def measurement(connection: Connection, user: dict[str, Any], sheet_id: int, position: int) -> dict[str, Any]:
    """What a rig call asks to be read, what the model predicts and what was read so far."""
    _, call = rig_of(connection, user, sheet_id, position)
    newest = queries.measurement_newest(connection, school_id=user["school_id"], sheet_id=sheet_id, position=position)
    return {
        "position": position,
        "title": call.key.fault_name,
        "card": [] if call.key.rig is None else [asdict(r) for r in call.key.rig.rows],
        "rows": [
            {
                "key": key,
                "label": r.label,
                "unit": r.unit,
                "predicted": r.text,
                "needed": key in rig.needed(call),
                "value": newest["readings"].get(key) if newest else None,
            }
            for key, r in in_order(call.readings).items()
        ],
        "warnings": newest["warnings"] if newest else [],
        "writer": newest and newest["writer"],
        "entered_at": newest and newest["entered_at"].isoformat(),
        "times": times_at_rig(connection, user, sheet_id, position),
    }


def _with_readings(row: dict[str, Any], call: Call, read: dict[str, float]) -> tuple[Call, list[str]]:
    """(the call with what its rig read, warnings about it)."""
    planned, asked = scenario(row["body"]), row["data"].get("asked") or {}
    practice = planned.practice if not asked.get("practice") else practice_by_id(asked["practice"])
    measured = rig.measured_call(call, planned.profile, practice, read)
    return measured, rig.warnings(call, planned.profile, planned, read, measured)


def measure(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    position: int,
    values: Mapping[str, float | None],
    *,
    confirmed: Any,
) -> dict[str, list[Any]]:
    """Take what a rig really read: warnings and who moves, and with ``confirmed`` mark the class against it.

    Raises BadInputError.
    """
    held(connection, user, sheet_id, "ready")
    row, call = rig_of(connection, user, sheet_id, position)
    read = rig.checked_readings(call, {key: value for key, value in values.items() if value is not None})
    measured, told = _with_readings(row, call, read)
    by = rules(row["rules"])
    basis = MarkingBasis(connection, user["school_id"], sheet_id)

    def body_of(_: dict[str, Any], paper_id: int) -> Body:
        return basis.timed(position, paper_id) or measured

    moves = _moves(connection, user, sheet_id, position, body_of, by)
    if confirmed:
        queries.measurement_add(
            connection,
            school_id=user["school_id"],
            sheet_id=sheet_id,
            position=position,
            readings=jsonb(read),
            warnings=jsonb(told),
            body=jsonb(measured.to_json()),
            user_id=user["id"],
            paper_id=None,
            rig_id=None,
            read_at=None,
        )
        audit(connection, user, sheet_id, "rig read", position=position, after=read)
        _apply(connection, user, sheet_id, position, moves, body_of, by, "marked against the rig")
    figures = [
        {
            "name": EVIDENCE[name],
            "now": f"{measured.key.figures[name]:.1f}".replace("-", "−"),
            "predicted": f"{call.key.figures[name]:.1f}".replace("-", "−"),
            "verdict": measured.key.verdicts.get(name),
        }
        for name in measured.key.judged
        if name in measured.key.figures
    ]
    return {"warnings": told, "moves": _told(moves), "figures": figures}


def measure_at(
    connection: Connection,
    user: dict[str, Any],
    paper: dict[str, Any],
    position: int,
    rig_id: int,
    at: datetime,
    *,
    confirmed: Any,
) -> dict[str, list[Any]]:
    """Mark one paper against what a rig showed around ``at``, when its apprentice was there; warnings and how it moves.

    Raises BadInputError, also where the rig showed nothing then.
    """
    sheet_id = paper["sheet_id"]
    held(connection, user, sheet_id, "ready")
    row, call = rig_of(connection, user, sheet_id, position)
    shown = shown_around(connection, rig_id, at, call.units)
    read = rig.checked_readings(call, {key: value for key, value in shown.items() if key in call.readings})
    measured, told = _with_readings(row, call, read)
    by = rules(row["rules"])

    def body_of(body: dict[str, Any], paper_id: int) -> Body:
        return measured

    moves = [m for m in _moves(connection, user, sheet_id, position, body_of, by) if m["paper_id"] == paper["id"]]
    if confirmed:
        queries.measurement_add(
            connection,
            school_id=user["school_id"],
            sheet_id=sheet_id,
            position=position,
            readings=jsonb(read),
            warnings=jsonb(told),
            body=jsonb(measured.to_json()),
            user_id=user["id"],
            paper_id=paper["id"],
            rig_id=rig_id,
            read_at=at,
        )
        audit(connection, user, sheet_id, "rig read", position=position, paper_id=paper["id"], after=read)
        _apply(connection, user, sheet_id, position, moves, body_of, by, "marked against the rig at that time")
    return {"warnings": told, "moves": _told(moves)}


def times_at_rig(connection: Connection, user: dict[str, Any], sheet_id: int, position: int) -> list[dict[str, Any]]:
    """Every paper of a sheet with when its apprentice was at the rig, null where nobody said."""
    known = {
        row["paper_id"]: row
        for row in queries.measurements_of_papers(
            connection, school_id=user["school_id"], sheet_id=sheet_id, position=position
        )
    }
    return [
        {
            "code": paper["code"],
            "name": paper["name"],
            "at": known[paper["id"]]["read_at"].isoformat() if paper["id"] in known else None,
            "rig": (known[paper["id"]]["rig"] or "") if paper["id"] in known else "",
        }
        for paper in queries.paper_list(connection, school_id=user["school_id"], sheet_id=sheet_id)
    ]
