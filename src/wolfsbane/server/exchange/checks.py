"""What a row of an exported school has to be, beyond its columns: read by the readers that pages use, so that nothing
comes in that a page could not show.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.diagnosis.own_practice import restored_practice
from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.exercise.marking.rules import rules
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.rig.baseline import baseline_of
from wolfsbane.rig.rig import RIG
from wolfsbane.tuning.first_guess import restored

if TYPE_CHECKING:
    from collections.abc import Callable

Row = dict[str, Any]


def _sheet_call(row: Row) -> None:
    rules(row.get("rules"))
    if not isinstance(row["data"]["kind"], str):
        raise TypeError("the kind of an item")


def _lab_session(row: Row) -> None:
    body_from_json(row["body"])
    RIG.read(row["machine"]["rig"])
    for fault in row["planted"]:
        float(fault["severity"]), str(fault["id"])


#: table -> (reader of a row, what it has to be)
READERS: dict[str, tuple[Callable[[Row], object], str]] = {
    "scenario_versions": (lambda row: scenario(row["body"]), "scenarios"),
    "paper_calls": (lambda row: body_from_json(row["body"]), "frozen calls"),
    "measurements": (lambda row: body_from_json(row["body"]), "frozen calls"),
    "screen_lessons": (lambda row: body_from_json(row["body"]), "frozen calls"),
    "own_machines": (lambda row: restored(row["tuned"]), "machines of a school's own"),
    "own_practices": (lambda row: restored_practice(row["body"]), "practices"),
    "rigs": (lambda row: RIG.read(row["body"]), "rigs"),
    "rig_baselines": (lambda row: baseline_of(row["body"]), "baselines of a rig"),
    "sheet_calls": (_sheet_call, "items of a sheet with their rules"),
    "lab_sessions": (_lab_session, "lab sessions"),
}
#: table -> columns of plain data -> what stands there
SHAPES: dict[str, dict[str, type]] = {
    "marks": {"params": dict},
    "measurements": {"readings": dict, "warnings": list},
    "lab_events": {"data": dict},
    "screen_openings": {"points": dict},
    "screen_steps": {"data": dict},
    "screen_lessons": {"points": dict},
    "screen_lesson_steps": {"data": dict},
    "lab_sessions": {"planted": list, "machine": dict, "asks": dict},
    "rig_events": {"data": dict},
    "rigs": {"columns": dict},
    "refrigerant_moves": {"differences": list},
    "refrigerant_days": {"totals": list},
}


def require_readable(table: str, row: Row, where: str) -> None:
    """Refuse a row that a page could not read. Raises BadInputError naming ``where`` it stands."""
    for column, shape in SHAPES.get(table, {}).items():
        if column in row and not isinstance(row[column], shape):
            raise BadInputError("file", where, f"{'a list' if shape is list else 'an object'} as {column}")
    if table not in READERS:
        return
    read, what = READERS[table]
    try:
        read(row)
    except (BadInputError, LookupError, TypeError, ValueError, AttributeError, ArithmeticError) as error:
        raise BadInputError("file", where, f"{what} ({str(error)[:200]})") from error
