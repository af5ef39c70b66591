"""Practices: copy one, change it, keep it."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.diagnosis.own_practice import changed
from wolfsbane.exercise.show.catalog import practice_catalog
from wolfsbane.server.api.acting_models import UnitsQuery
from wolfsbane.server.api.catalog_models import PracticeList
from wolfsbane.server.api.library_models import PracticeBody, PracticePath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services.own_practices import keep_practice, own_practices, practice_called

api = APIBlueprint("practices", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="practices")])


@api.get("/practices", responses={200: PracticeList})
@roles(INSTRUCTOR)
def practice_list(query: UnitsQuery) -> dict[str, list[dict[str, Any]]]:
    """Every practice with its choices and reasons, ours first."""
    return {"practices": practice_catalog(own_practices(), query.units)}


@api.post("/practices", responses={201: PracticeList})
@roles(INSTRUCTOR)
def practice_keep(body: PracticeBody) -> tuple[dict[str, list[dict[str, Any]]], int]:
    """Copy a school under a name of one's own, with changes; the same name again changes that copy."""
    made = changed(practice_called(body.base), body.name, body.changes, body.reason, body.units)
    with database().transaction() as connection:
        keep_practice(connection, g.user, made)
    return {"practices": practice_catalog(own_practices(), body.units)}, 201


@api.delete("/practices/<string:practice_id>", responses={200: PracticeList})
@roles(INSTRUCTOR)
def practice_remove(path: PracticePath, query: UnitsQuery) -> dict[str, list[dict[str, Any]]]:
    """Forget one's own copy; scenarios and sheets that use it keep theirs."""
    with database().transaction() as connection:
        if not queries.practice_remove(connection, school_id=g.user["school_id"], practice_id=path.practice_id):
            raise not_found(f"practice {path.practice_id}")
    return {"practices": practice_catalog(own_practices(), query.units)}
