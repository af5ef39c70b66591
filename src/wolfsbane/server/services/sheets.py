"""Sheets: drafted, issued, frozen paper by paper. Between the API, the job and the core."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw import seeds as papers_of
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.draw.variant import NoVariantError
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.grade import RUBRIC_VERSION
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.own_machines import with_own
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.server.core.db.database import Connection

#: reasons of the core for which a sheet cannot be made; what they say is shown
REFUSED = (NoVariantError, NoClassSetError, NoConvergenceError, BadInputError)


def checked_items(
    connection: Connection, user: dict[str, Any], items: list[dict[str, Any]]
) -> list[tuple[int | None, dict[str, Any], dict[str, Any]]]:
    """(version id or None, data, item with its scenario) of every item. Raises BadInputError."""
    found = []
    if len(items) > items_of.MAX_ITEMS:
        raise BadInputError("items", len(items), f"at most {items_of.MAX_ITEMS} on one sheet")
    for row in items:
        row = dict(row)
        scenario_id = row.pop("scenario_id", None)
        version = None
        if row.get("kind") in ("scenario", "rig"):
            version = queries.scenario_get(
                connection, school_id=user["school_id"], user_id=user["id"], id=scenario_id or 0
            )
            if version is None:
                raise BadInputError("scenario_ids", scenario_id, "scenarios of this school that are not archived")
            row["body"] = version["body"]
        if isinstance(row.get("brief"), dict):
            row = {**row, "brief": with_own(connection, user["school_id"], row["brief"])}
        made = items_of.item(row)
        data = {key: value for key, value in made.items() if key != "body"}
        found.append((version and version["version_id"], data, made))
    return found


def _class_size(connection: Connection, user: dict[str, Any], class_id: int) -> int:
    if queries.class_get(connection, school_id=user["school_id"], id=class_id) is None:
        raise BadInputError("class_id", class_id, "a class of this school")
    return len(people_of(connection, user["school_id"], class_id))


def people_of(connection: Connection, school_id: int, class_id: int) -> list[dict[str, Any]]:
    """Apprentices of a class who have not left and are not about to be erased, in order."""
    rows = queries.apprentice_list(connection, school_id=school_id, class_id=class_id)
    return [p for p in rows if not p["gone"] and p["erase_at"] is None]


def draft(
    connection: Connection,
    user: dict[str, Any],
    *,
    title: str,
    class_id: int,
    units: Any,
    items: Any,
    paper: Any = None,
    large: bool = False,
    seed: int | None = None,
) -> int:
    """Write a draft with its items; returns its id. Raises BadInputError."""
    size, checked = _class_size(connection, user, class_id), checked_items(connection, user, items)
    sheet_id = queries.sheet_add(
        connection,
        school_id=user["school_id"],
        class_id=class_id,
        title=title,
        units=units,
        status="draft",
        paper=paper,
        large=large,
        seed=secrets.randbelow(2**40) if seed is None else seed,
        total=max(size * (len(checked) + 2), 1),
        solver_version=SOLVER_VERSION,
        table_hash=combined_hash(),
        rubric_version=RUBRIC_VERSION,
        user_id=user["id"],
    )["id"]
    _put_items(connection, user, sheet_id, checked)
    return sheet_id


def _put_items(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    checked: list[tuple[int | None, dict[str, Any], dict[str, Any]]],
) -> None:
    queries.sheet_calls_clear(connection, sheet_id=sheet_id)
    for position, (version_id, data, _) in enumerate(checked, 1):
        queries.sheet_call_add(
            connection,
            school_id=user["school_id"],
            sheet_id=sheet_id,
            position=position,
            version_id=version_id,
            data=jsonb(data),
        )


def held(connection: Connection, user: dict[str, Any], sheet_id: int, *allowed: Any) -> dict[str, Any]:
    """Hold a sheet that stands at one of ``allowed``. Raises ApiError 404 and 409."""
    row = queries.sheet_hold(connection, school_id=user["school_id"], id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}")
    if allowed and row["status"] not in allowed:
        raise ApiError(
            409, "not_now", f"this sheet is {row['status']}: this can be done while it is {' or '.join(allowed)}"
        )
    return row


def change(
    connection: Connection,
    user: dict[str, Any],
    sheet_id: int,
    *,
    title: str,
    class_id: int,
    units: Any,
    items: Any,
    paper: Any,
    large: Any,
) -> None:
    """Change a draft. Raises BadInputError, ApiError 404 and 409."""
    held(connection, user, sheet_id, "draft")
    _class_size(connection, user, class_id)
    checked = checked_items(connection, user, items)
    queries.sheet_put(
        connection,
        school_id=user["school_id"],
        id=sheet_id,
        title=title,
        class_id=class_id,
        units=units,
        paper=paper,
        large=large,
    )
    _put_items(connection, user, sheet_id, checked)
    queries.documents_clear(connection, sheet_id=sheet_id)


def issue(connection: Connection, user: dict[str, Any], sheet_id: int) -> None:
    """Turn a draft, a cancelled or a failed sheet into a queued one; what failed is drawn again.

    The job is queued by the caller.
    """
    row = held(connection, user, sheet_id, "draft", "cancelled", "failed")
    calls = len(list(queries.sheet_call_list(connection, sheet_id=sheet_id)))
    if not calls:
        raise BadInputError("items", 0, "at least one call or drill")
    size = _class_size(connection, user, row["class_id"])
    if not size:
        raise BadInputError("class_id", row["class_id"], "a class with somebody in it")
    if row["status"] == "failed":
        queries.sheet_seed(connection, id=sheet_id, seed=secrets.randbelow(2**40))
    queries.sheet_status(connection, id=sheet_id, status="queued", total=size * (calls + 1))
    audit(connection, user, sheet_id, "issued")


def back_to_draft(connection: Connection, user: dict[str, Any], sheet_id: int) -> None:
    """Take an issued sheet back while nobody worked on it: its papers are gone, the draft can be changed again.

    Raises ApiError 404, and 409 once an answer, a mark or a rig's reading is on it.
    """
    row = held(connection, user, sheet_id, "ready", "cancelled", "failed")
    if row["printing"] is not None:
        raise ApiError(409, "not_now", "this sheet is being printed; wait until it is done, or stop it")
    if queries.sheet_worked_on(connection, sheet_id=sheet_id)["pieces"]:
        raise ApiError(409, "not_now", "this sheet has answers or readings on it: it stays as it was issued")
    queries.sheet_clear(connection, sheet_id=sheet_id)
    queries.documents_clear(connection, sheet_id=sheet_id)
    queries.sheet_release(connection, school_id=user["school_id"], id=sheet_id, released=False)
    # other numbers and other codes: no paper that was handed out can be taken for a new one
    queries.sheet_seed(connection, id=sheet_id, seed=secrets.randbelow(2**40))
    queries.sheet_status(connection, id=sheet_id, status="draft", total=None)
    audit(connection, user, sheet_id, "taken back to a draft")


def audit(connection: Connection, user: dict[str, Any], sheet_id: int, action: str, **more: Any) -> None:
    """Write down who did what; ``more`` is paper_id, position, question_id, before, after, reason."""
    row = {"paper_id": None, "position": None, "question_id": None, "before": None, "after": None, "reason": "", **more}
    for name in ("before", "after"):
        row[name] = None if row[name] is None else jsonb(row[name])
    queries.audit_add(
        connection, school_id=user["school_id"], sheet_id=sheet_id, action=action, user_id=user["id"], **row
    )


def full_items(connection: Connection, sheet_id: int) -> list[dict[str, Any]]:
    """The items of a sheet in order, each with its scenario: list of plain data."""
    return [
        row["data"]
        | ({"body": row["body"]} if row["body"] is not None else {})
        | {"asked": row["data"].get("asked") or {}}
        for row in queries.sheet_call_list(connection, sheet_id=sheet_id)
    ]


def printed_papers(connection: Connection, school_id: int, sheet_id: int) -> list[dict[str, Any]]:
    """Every paper of a sheet as the printers take it: list of {id, name, code, attempt, language, calls}."""
    found: dict[Any, Any] = {}
    for row in queries.sheet_bodies(connection, school_id=school_id, sheet_id=sheet_id):
        paper = found.setdefault(
            row["paper_id"],
            {k: row[k] for k in ("name", "code", "attempt", "language")} | {"id": row["paper_id"], "calls": []},
        )
        paper["calls"].append(frozen_body.body_from_json(row["body"]))
    return list(found.values())


def freeze(
    connection: Connection,
    sheet: dict[str, Any],
    person: dict[str, Any],
    code: str,
    number: int,
    attempt: int,
    bodies: Sequence[Body],
) -> dict[str, Any]:
    """Write one paper with its frozen calls; returns the paper as the printers take it."""
    paper_id = queries.paper_add(
        connection,
        school_id=sheet["school_id"],
        sheet_id=sheet["id"],
        apprentice_id=person["id"],
        code=code,
        person=number,
        attempt=attempt,
    )["id"]
    for position, body in enumerate(bodies, 1):
        queries.paper_call_add(
            connection,
            school_id=sheet["school_id"],
            paper_id=paper_id,
            position=position,
            body=jsonb(body.to_json()),
            possible=sum(q.points for q in frozen_body.questions_of(body)),
        )
    made = {"id": paper_id, "code": code, "attempt": attempt, "calls": bodies}
    return made | {"name": person["name"], "language": person["language"]}


def free_code(connection: Connection, sheet: dict[str, Any], index: int, attempt: int) -> str:
    """A paper code nobody in the school has."""
    for more in range(100):
        code = papers_of.code_for(sheet["seed"], f"{sheet['id']}/{attempt}/{more}", index)
        if not queries.code_taken(connection, school_id=sheet["school_id"], code=code)["taken"]:
            return code
    raise RuntimeError("no free paper code in a hundred tries")


def one_more_paper(connection: Connection, user: dict[str, Any], sheet_id: int, apprentice_id: int) -> str:
    """A paper for a late joiner, or a retake with other numbers; returns its code. Raises BadInputError, ApiError."""
    held(connection, user, sheet_id, "ready")
    sheet = queries.sheet_get(connection, school_id=user["school_id"], id=sheet_id)
    person = queries.apprentice_get(connection, school_id=user["school_id"], id=apprentice_id)
    if person is None or person["class_id"] != sheet["class_id"]:
        raise BadInputError("apprentice_id", apprentice_id, "an apprentice of this class")
    after = queries.paper_next(connection, sheet_id=sheet_id, apprentice_id=apprentice_id)
    number = after["person"] if after["own"] is None else after["own"]
    taken = {
        (r["position"], frozen_body.mark_of_copy(frozen_body.body_from_json(r["body"])))
        for r in queries.sheet_bodies(connection, school_id=user["school_id"], sheet_id=sheet_id)
    }
    bodies = []
    try:
        for position, one in enumerate(full_items(connection, sheet_id), 1):
            for again in range(items_of.TRIES):
                body = items_of.draw(one, position, number, sheet["units"], sheet["seed"], after["attempt"], again)
                mark = frozen_body.mark_of_copy(body)
                if mark is None or (position, mark) not in taken:
                    break
            bodies.append(body)
    except REFUSED as error:
        raise ApiError(422, "no_variant", str(error)) from error
    code = free_code(connection, sheet, number, after["attempt"])
    made = freeze(connection, sheet, person, code, number, after["attempt"], bodies)
    audit(connection, user, sheet_id, "retake" if after["attempt"] > 1 else "late joiner", paper_id=made["id"])
    return code
