"""The school as open files: export of everything, import into an empty one; a sheet as a QTI package."""

import shutil
import tempfile
from typing import Any

from flask import Response, g, request, send_file
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.server.api.sheet_models import ImportQuery, OneRosterTaken, SchoolImported, SheetPath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.core.security import INSTRUCTOR, roles, takes
from wolfsbane.server.exchange import oneroster, qti, school
from wolfsbane.server.services import one_roster, trail

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
        connection.execute("set transaction isolation level repeatable read")
        file = school.exported(connection, g.user["school_id"])
        trail.note(connection, g.user, "exported the whole school")
    reply = send_file(file, mimetype="application/zip", as_attachment=True, download_name="school.zip", max_age=0)
    reply.call_on_close(file.close)
    return reply


@api.post("/school/import", responses={200: SchoolImported})
@roles(INSTRUCTOR)
@takes("application/zip", school.MAX_BYTES)
def school_import(query: ImportQuery) -> dict[str, Any]:
    """Read an exported school into this one, which has to be empty: all of it, or nothing. With ``dry`` it is read and
    checked all the same, and nothing is kept.
    """
    with tempfile.TemporaryFile() as file:
        shutil.copyfileobj(request.stream, file, 1 << 20)
        file.seek(0)
        with database().transaction() as connection:
            rows = school.imported(connection, g.user, file)
            if query.dry:
                connection.rollback()
            else:
                trail.note(connection, g.user, f"imported a school: {sum(rows.values())} rows")
    return {"rows": rows, "kept": not query.dry}


@api.get("/school/oneroster.zip")
@roles(INSTRUCTOR)
def oneroster_out() -> Response:
    """Classes, who is in them and the points of each sheet, as OneRoster CSV files."""
    with database().transaction() as connection:
        data = one_roster.given_out(connection, g.user["school_id"], g.user["school"])
        trail.note(connection, g.user, "took classes and results out as OneRoster files")
    return _zip(data, "oneroster")


@api.post("/school/oneroster", responses={200: OneRosterTaken})
@roles(INSTRUCTOR)
@takes("application/zip", oneroster.MAX_BYTES)
def oneroster_in(query: ImportQuery) -> dict[str, Any]:
    """Add classes and people of a OneRoster ZIP that are not there yet. With ``dry`` nothing is kept."""
    with tempfile.TemporaryFile() as file:
        shutil.copyfileobj(request.stream, file, 1 << 20)
        file.seek(0)
        coming = oneroster.read(file)
    with database().transaction() as connection:
        done = one_roster.taken_in(connection, g.user["school_id"], coming)
        if query.dry:
            connection.rollback()
        else:
            added = sum(one["added"] for one in done)
            trail.note(connection, g.user, f"took {len(done)} classes in from OneRoster files, {added} people added")
    return {"classes": done, "kept": not query.dry}


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
