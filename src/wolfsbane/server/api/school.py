"""The school as open files: export of everything, import into an empty one; a sheet as a QTI package."""

from typing import Any

from flask import Response, g, request
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.server.api.sheet_models import SchoolImported, SheetPath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import INSTRUCTOR, roles, takes
from wolfsbane.server.exchange import qti, school
from wolfsbane.server.services import trail

api = APIBlueprint("school", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="school")])


def _zip(data: bytes, name: str) -> Response:
    return Response(
        data, mimetype="application/zip", headers={"Content-Disposition": f'attachment; filename="{name}.zip"'}
    )


@api.get("/school/export.zip")
@roles(INSTRUCTOR)
def school_export() -> Response:
    """Everything the school holds, as JSON lines in a ZIP; passwords stay here."""
    with database().transaction() as connection:
        trail.note(connection, g.user, "exported the whole school")
        return _zip(school.exported(connection, g.user["school_id"]), "school")


@api.post("/school/import", responses={200: SchoolImported})
@roles(INSTRUCTOR)
@takes("application/zip", school.MAX_BYTES)
def school_import() -> dict[str, dict[str, int]]:
    """Read an exported school into this one, which has to be empty: all of it, or nothing."""
    with database().transaction() as connection:
        rows = school.imported(connection, g.user, request.get_data())
        trail.note(connection, g.user, f"imported a school: {sum(rows.values())} rows")
        return {"rows": rows}


@api.get("/sheets/<int:sheet_id>/qti.zip")
@roles(INSTRUCTOR)
def sheet_qti(path: SheetPath) -> Response:
    """The papers of a sheet as an IMS QTI 2.1 package, by code, without names."""
    with database().transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=g.user["school_id"], id=path.sheet_id)
        if sheet is None:
            raise not_found(f"sheet {path.sheet_id}")
        if sheet["status"] != "ready":
            raise ApiError(409, "not_ready", "this sheet has no papers yet; issue it first")
        papers: dict[Any, Any] = {}
        for row in queries.sheet_bodies(connection, school_id=g.user["school_id"], sheet_id=path.sheet_id):
            papers.setdefault(row["code"], {"code": row["code"], "calls": []})["calls"].append(
                body_from_json(row["body"])
            )
    return _zip(qti.package(sheet, list(papers.values())), f"qti-{path.sheet_id}")
