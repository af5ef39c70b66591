"""Classes and their apprentices."""

from flask import current_app, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.server.api.models import ClassBody, ClassList, ClassPath, ClassRow
from wolfsbane.server.db.database import queries
from wolfsbane.server.errors import not_found
from wolfsbane.server.security import INSTRUCTOR, roles

api = APIBlueprint("classes", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="classes")])


def add_class(connection, school_id, name, apprentices):
    """A new class with its list; returns its id. Raises ConflictError for a taken name."""
    class_id = queries.class_add(connection, school_id=school_id, name=name)["id"]
    for person in apprentices:
        queries.apprentice_add(connection, school_id=school_id, class_id=class_id, name=person)
    return class_id


def _read(connection, class_id):
    row = queries.class_get(connection, school_id=g.user["school_id"], id=class_id)
    if row is None:
        raise not_found(f"class {class_id}")
    people = [p["name"] for p in queries.apprentice_list(connection, school_id=g.user["school_id"], class_id=class_id)]
    return {**row, "size": len(people), "apprentices": people}


@api.get("/classes", responses={200: ClassList})
@roles(INSTRUCTOR)
def class_list():
    """Classes of the school with their size."""
    with current_app.db.transaction() as connection:
        return {"classes": [{**c, "apprentices": []}
                            for c in queries.class_list(connection, school_id=g.user["school_id"])]}


@api.post("/classes", responses={201: ClassRow})
@roles(INSTRUCTOR)
def class_add(body: ClassBody):
    """Add a class with its list."""
    with current_app.db.transaction() as connection:
        return _read(connection, add_class(connection, g.user["school_id"], body.name, body.apprentices)), 201


@api.get("/classes/<int:class_id>", responses={200: ClassRow})
@roles(INSTRUCTOR)
def class_read(path: ClassPath):
    """One class with its apprentices."""
    with current_app.db.transaction() as connection:
        return _read(connection, path.class_id)
