"""Sheets: issue, follow, download, results."""

from flask import Response, current_app, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server import sheets
from wolfsbane.server.api.models import DocumentPath, ResultReply, SheetBody, SheetList, SheetPath, SheetRow
from wolfsbane.server.db.database import queries
from wolfsbane.server.errors import ApiError, not_found
from wolfsbane.server.jobs.queue import queue_sheet
from wolfsbane.server.security import INSTRUCTOR, roles

api = APIBlueprint("sheets", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="sheets")])
_KEPT = tuple(SheetRow.model_fields)


def _row(row):
    kept = {key: row[key] for key in _KEPT if key in row}
    return {"papers": 0, "marked": 0, **kept, "created_at": row["created_at"].isoformat()}


def _get(connection, sheet_id):
    row = queries.sheet_get(connection, school_id=g.user["school_id"], id=sheet_id)
    if row is None:
        raise not_found(f"sheet {sheet_id}")
    return row


@api.get("/sheets", responses={200: SheetList})
@roles(INSTRUCTOR)
def sheet_list():
    """Every sheet of the school, newest first."""
    with current_app.db.transaction() as connection:
        return {"sheets": [_row(r) for r in queries.sheet_list(connection, school_id=g.user["school_id"])]}


@api.post("/sheets", responses={201: SheetRow})
@roles(INSTRUCTOR)
def sheet_add(body: SheetBody):
    """Issue a sheet: it is built in the background."""
    with current_app.db.transaction() as connection:
        sheet_id = sheets.issue(connection, g.user, **body.model_dump())
        queue_sheet(connection, g.user["school_id"], sheet_id)
        return _row(_get(connection, sheet_id)), 201


@api.get("/sheets/<int:sheet_id>", responses={200: SheetRow})
@roles(INSTRUCTOR)
def sheet_read(path: SheetPath):
    """One sheet and how far it is."""
    with current_app.db.transaction() as connection:
        return _row(_get(connection, path.sheet_id))


@api.get("/sheets/<int:sheet_id>/documents/<kind>")
@roles(INSTRUCTOR)
def sheet_document(path: DocumentPath):
    """The packet or the key as PDF."""
    with current_app.db.transaction() as connection:
        sheet = _get(connection, path.sheet_id)
        row = queries.document_get(connection, school_id=g.user["school_id"], sheet_id=path.sheet_id, kind=path.kind)
    if row is None:
        raise ApiError(409, "not_ready", "this sheet is not printed yet; wait until it says ready")
    name = f"{path.kind}-{sheet['id']}.pdf"
    return Response(bytes(row["pdf"]), mimetype="application/pdf",
                    headers={"Content-Disposition": f'inline; filename="{name}"'})


@api.get("/sheets/<int:sheet_id>/results", responses={200: ResultReply})
@roles(INSTRUCTOR)
def sheet_results(path: SheetPath):
    """The class table and the questions missed most."""
    with current_app.db.transaction() as connection:
        _get(connection, path.sheet_id)
        return sheets.results(connection, g.user["school_id"], path.sheet_id)


@api.get("/sheets/<int:sheet_id>/marks.csv")
@roles(INSTRUCTOR)
def sheet_csv(path: SheetPath):
    """Every answer, mark and reason as CSV."""
    with current_app.db.transaction() as connection:
        _get(connection, path.sheet_id)
        text = sheets.marks_csv(connection, g.user["school_id"], path.sheet_id)
    return Response(text, mimetype="text/csv; charset=utf-8",
                    headers={"Content-Disposition": f'attachment; filename="marks-{path.sheet_id}.csv"'})
