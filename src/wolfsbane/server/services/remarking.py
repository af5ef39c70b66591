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
from wolfsbane.server.services.sheets import audit, held

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.server.core.db.database import Connection


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
    body_of: Callable[[dict[str, Any]], Body],
    by: Rules,
) -> list[dict[str, Any]]:
    """Who moves when a position is marked by ``by`` against ``body_of(body)``:
    list of {code, name, before, after, changes}.
    """
    found = []
    for row in queries.answered_calls(connection, school_id=user["school_id"], sheet_id=sheet_id, position=position):
        answers = {a["question_id"]: a["raw"] for a in queries.call_answers(connection, paper_call_id=row["id"])}
        before = {m["question_id"]: m for m in queries.call_marks(connection, paper_call_id=row["id"])}
        changes, total = [], 0
        possible_after = 0
        for mark in frozen_body.grade_body(body_of(row["body"]), answers, by):
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
    moves = _moves(connection, user, sheet_id, position, lambda body: basis.body(position, body), by)
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
        _apply(connection, user, sheet_id, position, moves, lambda body: basis.body(position, body), by, reason)
    return _told(moves)


def _apply(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    position: int,
    moves: list[dict[str, Any]],
    body_of: Callable[[dict[str, Any]], Body],
    by: Rules,
    reason: str,
) -> None:
    for move in moves:
        remark(connection, user["school_id"], move["id"], body_of(move["body"]), move["answers"], by)
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
    }


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
    planned = scenario(row["body"])
    read = rig.checked_readings(call, {key: value for key, value in values.items() if value is not None})
    asked = row["data"].get("asked") or {}
    practice = planned.practice if not asked.get("practice") else practice_by_id(asked["practice"])
    measured = rig.measured_call(call, planned.profile, practice, read)
    told = rig.warnings(call, planned.profile, planned, read, measured)
    by = rules(row["rules"])
    moves = _moves(connection, user, sheet_id, position, lambda _: measured, by)
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
        )
        audit(connection, user, sheet_id, "rig read", position=position, after=read)
        _apply(connection, user, sheet_id, position, moves, lambda _: measured, by, "marked against the rig")
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
