"""Sheets: draft, preview, issue, follow, cancel, print; results, rules and what was done."""

import io
from collections.abc import Iterator
from typing import Any

from flask import Response, g, send_file
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.marking.gaming import guessing
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.server.api.sheet_models import (
    AheadReply,
    AuditReply,
    CsvBody,
    CsvReply,
    DocumentPath,
    MeasureBody,
    MeasurementReply,
    MeasureReply,
    MorePaperBody,
    MovesReply,
    PagePath,
    PagesReply,
    PaperCode,
    PositionPath,
    PrintBody,
    ReleaseBody,
    ResultReply,
    RotationQuery,
    RulesBody,
    SheetBody,
    SheetChange,
    SheetList,
    SheetPath,
    SheetRow,
)
from wolfsbane.server.core.current import database, for_account
from wolfsbane.server.core.db.database import Connection, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import ASSISTANT, INSTRUCTOR, roles
from wolfsbane.server.jobs.queue import queue_ahead, queue_print, queue_sheet
from wolfsbane.server.printing.merge import page_count
from wolfsbane.server.services import ahead, documents, remarking, results, sheets
from wolfsbane.server.services import marking as marking_of
from wolfsbane.server.services.item_names import item_name

api = APIBlueprint("sheets", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="sheets")])
_KEPT = tuple(SheetRow.model_fields)


def _row(row: dict[str, Any], items: Iterator[Any] | tuple[Any, ...] = ()) -> dict[str, Any]:
    kept = {key: row[key] for key in _KEPT if key in row}
    return {"papers": 0, "marked": 0, **kept, "created_at": row["created_at"].isoformat(), "items": list(items)}


def _get(connection: Connection, sheet_id: int) -> dict[str, Any]:
    row = queries.sheet_get(connection, school_id=g.user["school_id"], id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}")
    return row


def _items(connection: Connection, sheet_id: int) -> Iterator[dict[str, Any]]:
    """The items of a sheet as the builder lists them."""
    for row in queries.sheet_call_list(connection, sheet_id=sheet_id):
        data, body = row["data"], row["body"]
        level = data["rung"]["level"] if data["kind"] == "rung" else row["level"]
        level = SITUATIONS[data["situation"]].level if data["kind"] == "situation" else level
        yield {
            "position": row["position"],
            "kind": data["kind"],
            "title": body["title"] if body else item_name(data),
            "scenario_id": row["scenario_id"],
            "level": level,
            "minutes": items_of.minutes(data, level),
            "points": None,
            "data": data,
            "rules": row["rules"],
        }


def _full(connection: Connection, sheet_id: int) -> dict[str, Any]:
    row = _get(connection, sheet_id)
    worth = {r["position"]: r["points"] for r in queries.sheet_points(connection, sheet_id=sheet_id)}
    items = ({**one, "points": worth.get(one["position"])} for one in _items(connection, sheet_id))
    return _row({**row, "at_hand": documents.at_hand(row)}, items)


@api.get("/sheets", responses={200: SheetList})
@roles(INSTRUCTOR, ASSISTANT)
def sheet_list() -> dict[str, list[dict[str, Any]]]:
    """Every sheet of the school, newest first."""
    with database().transaction() as connection:
        return {"sheets": [_row(r) for r in queries.sheet_list(connection, school_id=g.user["school_id"])]}


@api.post("/sheets", responses={201: SheetRow})
@roles(INSTRUCTOR)
def sheet_add(body: SheetBody) -> tuple[dict[str, Any], int]:
    """Add a sheet: kept as a draft, or issued at once and built in the background."""
    items = (
        [i.model_dump(exclude_none=True) for i in body.items]
        if body.items is not None
        else [{"kind": "scenario", "scenario_id": i} for i in body.scenario_ids or ()]
    )
    with database().transaction() as connection:
        sheet_id = sheets.draft(
            connection,
            g.user,
            title=body.title,
            class_id=body.class_id,
            units=body.units,
            items=items,
            paper=body.paper,
            large=body.large,
            seed=body.seed,
        )
        if body.draft:
            queue_ahead(connection, g.user["school_id"], sheet_id)
        else:
            sheets.issue(connection, g.user, sheet_id)
            queue_sheet(connection, g.user["school_id"], sheet_id)
        return _full(connection, sheet_id), 201


@api.get("/sheets/<int:sheet_id>", responses={200: SheetRow})
@roles(INSTRUCTOR, ASSISTANT)
def sheet_read(path: SheetPath) -> dict[str, Any]:
    """One sheet with its items and how far it is."""
    with database().transaction() as connection:
        return _full(connection, path.sheet_id)


@api.put("/sheets/<int:sheet_id>", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_change(path: SheetPath, body: SheetChange) -> dict[str, Any]:
    """Change a draft."""
    with database().transaction() as connection:
        sheets.change(
            connection,
            g.user,
            path.sheet_id,
            title=body.title,
            class_id=body.class_id,
            units=body.units,
            paper=body.paper,
            large=body.large,
            items=[i.model_dump(exclude_none=True) for i in body.items],
        )
        queue_ahead(connection, g.user["school_id"], path.sheet_id)
        return _full(connection, path.sheet_id)


@api.delete("/sheets/<int:sheet_id>", responses={200: SheetList})
@roles(INSTRUCTOR)
def sheet_delete(path: SheetPath) -> Any:
    """Forget a draft."""
    with database().transaction() as connection:
        sheets.held(connection, g.user, path.sheet_id, "draft")
        queries.sheet_delete(connection, school_id=g.user["school_id"], id=path.sheet_id)
        return {"sheets": [_row(r) for r in queries.sheet_list(connection, school_id=g.user["school_id"])]}


@api.get("/sheets/<int:sheet_id>/ahead", responses={200: AheadReply})
@roles(INSTRUCTOR)
def sheet_ahead(path: SheetPath) -> dict[str, Any]:
    """How much of a draft is drawn before it is issued, and what cannot be drawn."""
    with database().transaction() as connection:
        return ahead.how_far(connection, g.user["school_id"], path.sheet_id)


@api.post("/sheets/<int:sheet_id>/ahead", responses={200: AheadReply})
@roles(INSTRUCTOR)
def sheet_draw_ahead(path: SheetPath) -> dict[str, Any]:
    """Draw in the background what a draft still lacks, as saving it does."""
    with database().transaction() as connection:
        queue_ahead(connection, g.user["school_id"], path.sheet_id)
        return ahead.how_far(connection, g.user["school_id"], path.sheet_id)


@api.post("/sheets/<int:sheet_id>/issue", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_issue(path: SheetPath) -> dict[str, Any]:
    """Issue a draft, or one that was cancelled or could not be made: built in the background."""
    with database().transaction() as connection:
        sheets.issue(connection, g.user, path.sheet_id)
        queue_sheet(connection, g.user["school_id"], path.sheet_id)
        return _full(connection, path.sheet_id)


@api.post("/sheets/<int:sheet_id>/draft", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_back_to_draft(path: SheetPath) -> dict[str, Any]:
    """Take an issued sheet back to a draft, while no answer is on it; its papers are void."""
    with database().transaction() as connection:
        sheets.back_to_draft(connection, g.user, path.sheet_id)
        queue_ahead(connection, g.user["school_id"], path.sheet_id)
        return _full(connection, path.sheet_id)


@api.post("/sheets/<int:sheet_id>/cancel", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_cancel(path: SheetPath) -> dict[str, Any]:
    """Stop building a sheet; it can be issued again."""
    with database().transaction() as connection:
        row = sheets.held(connection, g.user, path.sheet_id, "queued", "building", "cancelling")
        queries.sheet_status(
            connection, id=path.sheet_id, status="cancelled" if row["status"] == "queued" else "cancelling", total=None
        )
        return _full(connection, path.sheet_id)


@api.get("/sheets/<int:sheet_id>/preview", responses={200: PagesReply})
@roles(INSTRUCTOR)
def sheet_preview(path: SheetPath) -> dict[str, Any]:
    """How many pages the first paper of a sheet takes and what guessing would earn on it; of a draft it is drawn now,
    as it will be issued.
    """
    pdf, played, count = documents.draw_preview(database(), g.user, path.sheet_id, for_account)
    return {
        "pages": page_count(pdf),
        "starts": documents.starts(pdf, count),
        "guessing": guessing(played) if played else None,
        "over": [row.text for row in played if row.over],
    }


@api.get("/sheets/<int:sheet_id>/preview/<int:page>.png")
@roles(INSTRUCTOR)
def sheet_preview_page(path: PagePath) -> Response:
    """One page of the first paper, exactly as it prints."""
    try:
        picture = documents.preview_page(database(), g.user, path.sheet_id, path.page)
    except IndexError as error:
        raise not_found(f"page {path.page}") from error
    return send_file(io.BytesIO(picture), mimetype="image/png")


def _pdf(data: bytes, name: str) -> Response:
    return Response(
        bytes(data), mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
    )


@api.get("/sheets/<int:sheet_id>/documents/<kind>")
@roles(INSTRUCTOR)
def sheet_document(path: DocumentPath) -> Response:
    """A document as PDF: packet, key, sealed slips, marking guide, PT charts, plant cards, feedback."""
    return _pdf(documents.document(database(), g.user, path.sheet_id, path.kind), f"{path.kind}-{path.sheet_id}")


@api.post("/sheets/<int:sheet_id>/print", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_print(path: SheetPath, body: PrintBody) -> dict[str, Any]:
    """Print packet, key or feedback of a whole class in the background, from what is stored."""
    with database().transaction() as connection:
        if sheets.held(connection, g.user, path.sheet_id, "ready")["printing"] is not None:
            raise ApiError(409, "not_now", "this sheet is being printed; wait until it is done, or stop it")
        queue_print(connection, g.user["school_id"], path.sheet_id, sorted(set(body.kinds)))
        return _full(connection, path.sheet_id)


@api.post("/sheets/<int:sheet_id>/print/stop", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_print_stop(path: SheetPath) -> dict[str, Any]:
    """Stop printing in the background; what is printed already stays."""
    with database().transaction() as connection:
        sheets.held(connection, g.user, path.sheet_id, "ready")
        queries.sheet_stop_printing(connection, id=path.sheet_id)
        return _full(connection, path.sheet_id)


@api.get("/sheets/<int:sheet_id>/rotation")
@roles(INSTRUCTOR)
def sheet_rotation(path: SheetPath, query: RotationQuery) -> Any:
    """The station rotation as PDF."""
    return _pdf(
        documents.rotation(database(), g.user, path.sheet_id, query.minutes, query.rigs),
        f"rotation-{path.sheet_id}",
    )


@api.post("/sheets/<int:sheet_id>/papers", responses={201: PaperCode})
@roles(INSTRUCTOR)
def sheet_one_more(path: SheetPath, body: MorePaperBody) -> tuple[dict[str, str], int]:
    """A paper for a late joiner, or a retake with other numbers."""
    with database().transaction() as connection:
        return {"code": sheets.one_more_paper(connection, g.user, path.sheet_id, body.apprentice_id)}, 201


@api.get("/sheets/<int:sheet_id>/results", responses={200: ResultReply})
@roles(INSTRUCTOR, ASSISTANT)
def sheet_results(path: SheetPath) -> dict[str, list[dict[str, Any]]]:
    """The class table and the questions missed most."""
    with database().transaction() as connection:
        _get(connection, path.sheet_id)
        return results.sheet_results(connection, g.user["school_id"], path.sheet_id)


@api.get("/sheets/<int:sheet_id>/marks.csv")
@roles(INSTRUCTOR)
def sheet_csv(path: SheetPath) -> Response:
    """Every answer, mark and reason as CSV."""
    with database().transaction() as connection:
        _get(connection, path.sheet_id)
        text = results.marks_csv(connection, g.user["school_id"], path.sheet_id)
    return Response(
        text,
        mimetype="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="marks-{path.sheet_id}.csv"'},
    )


@api.post("/sheets/<int:sheet_id>/answers", responses={200: CsvReply})
@roles(INSTRUCTOR, ASSISTANT)
def sheet_answers(path: SheetPath, body: CsvBody) -> dict[str, Any]:
    """Read answers from a CSV of code, call, question, answer: all of them, or none and the line that is wrong."""
    with database().transaction() as connection:
        _get(connection, path.sheet_id)
        papers, answers, asked_back = marking_of.enter_csv(connection, g.user, path.sheet_id, body.text)
    return {"papers": papers, "answers": answers, "not_understood": asked_back}


@api.put("/sheets/<int:sheet_id>/rules", responses={200: MovesReply})
@roles(INSTRUCTOR)
def sheet_rules(path: SheetPath, body: RulesBody) -> dict[str, Any]:
    """Who moves under other rules for one call; with ``confirmed`` they are applied and written down."""
    with database().transaction() as connection:
        moves = remarking.change_rules(
            connection, g.user, path.sheet_id, body.position, body.rules, body.reason, confirmed=body.confirmed
        )
    return {"moves": moves, "confirmed": body.confirmed}


@api.get("/sheets/<int:sheet_id>/measurements/<int:position>", responses={200: MeasurementReply})
@roles(INSTRUCTOR)
def measurement_read(path: PositionPath) -> dict[str, Any]:
    """What a rig call asks to be read, and what was read so far."""
    with database().transaction() as connection:
        _get(connection, path.sheet_id)
        return remarking.measurement(connection, g.user, path.sheet_id, path.position)


@api.put("/sheets/<int:sheet_id>/measurements/<int:position>", responses={200: MeasureReply})
@roles(INSTRUCTOR)
def measurement_put(path: PositionPath, body: MeasureBody) -> dict[str, Any]:
    """What the rig really read: contradictions and who moves; with ``confirmed`` the class is marked against it."""
    with database().transaction() as connection:
        made = remarking.measure(
            connection, g.user, path.sheet_id, path.position, body.readings, confirmed=body.confirmed
        )
    return {**made, "confirmed": body.confirmed}


@api.put("/sheets/<int:sheet_id>/release", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_release(path: SheetPath, body: ReleaseBody) -> dict[str, Any]:
    """Let apprentices see their own feedback, or take it back."""
    with database().transaction() as connection:
        sheets.held(connection, g.user, path.sheet_id, "ready")
        queries.sheet_release(connection, school_id=g.user["school_id"], id=path.sheet_id, released=body.released)
        sheets.audit(connection, g.user, path.sheet_id, "feedback released" if body.released else "feedback taken back")
        return _full(connection, path.sheet_id)


@api.get("/sheets/<int:sheet_id>/audit", responses={200: AuditReply})
@roles(INSTRUCTOR)
def sheet_audit(path: SheetPath) -> dict[str, list[dict[str, Any]]]:
    """Who did what on a sheet, newest first."""
    with database().transaction() as connection:
        _get(connection, path.sheet_id)
        rows = queries.audit_list(connection, school_id=g.user["school_id"], sheet_id=path.sheet_id)
        return {"entries": [{**r, "at": r["at"].isoformat()} for r in rows]}
