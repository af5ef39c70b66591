"""A lab: the class that goes round the rigs, and what each rig looks like."""

import io
from typing import Any

from flask import Response, g, request
from flask_openapi3 import APIBlueprint, Tag
from PIL import Image, ImageOps, UnidentifiedImageError

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.server.api.rig_models import AwayBody, RigFull, RigLab, RigPath, RigUnits, RotationBody, RoundBody
from wolfsbane.server.api.rigs import lab_seen, rig_full
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import ASSISTANT, INSTRUCTOR, roles, takes
from wolfsbane.server.services import lab, rigs

api = APIBlueprint("lab", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="rigs")])

#: a photo as it comes from a phone, and what is kept of it
_PHOTO_BYTES, _PHOTO_SIDE, _PHOTO_PIXELS = 16_000_000, 1200, 60_000_000


@api.post("/rigs/rotation", responses={201: RigLab})
@roles(INSTRUCTOR, ASSISTANT)
def rotation_begin(query: RigUnits, body: RotationBody) -> tuple[dict[str, Any], int]:
    """A class begins to go round the rigs: everybody to every rig, so many minutes at each."""
    with database().transaction() as connection:
        lab.begin(connection, g.user, body.model_dump())
        return lab_seen(connection, query.units), 201


@api.put("/rigs/rotation/people", responses={200: RigLab})
@roles(INSTRUCTOR, ASSISTANT)
def rotation_people(query: RigUnits, body: AwayBody) -> dict[str, Any]:
    """Who is not here; what follows is planned again, and who stands at a rig stays there until the round ends."""
    with database().transaction() as connection:
        lab.who_is_here(connection, g.user, body.away)
        return lab_seen(connection, query.units)


@api.put("/rigs/rotation/round", responses={200: RigLab})
@roles(INSTRUCTOR, ASSISTANT)
def rotation_turn(query: RigUnits, body: RoundBody) -> dict[str, Any]:
    """On to the next round; its minutes begin now."""
    with database().transaction() as connection:
        lab.turn(connection, g.user, body.number)
        return lab_seen(connection, query.units)


@api.delete("/rigs/rotation", responses={200: RigLab})
@roles(INSTRUCTOR, ASSISTANT)
def rotation_end(query: RigUnits) -> dict[str, Any]:
    """The rotation that runs is over."""
    with database().transaction() as connection:
        lab.end(connection, g.user)
        return lab_seen(connection, query.units)


@api.put("/rigs/<int:rig_id>/photo", responses={200: RigFull})
@takes("image/*", _PHOTO_BYTES)
@roles(INSTRUCTOR)
def photo_put(path: RigPath) -> dict[str, Any]:
    """A photo of the rig (JPEG or PNG), kept small and without what a phone writes into it."""
    picture = _small(request.get_data())
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        queries.rig_photo_set(connection, school_id=g.user["school_id"], rig_id=path.rig_id, picture=picture)
        return rig_full(connection, path.rig_id, "us")


def _small(data: bytes) -> bytes:
    wanted = "a photo, JPEG or PNG, of at most 60 million pixels"
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG")) as photo:
            if photo.width * photo.height > _PHOTO_PIXELS:
                raise BadInputError("photo", f"{photo.width} × {photo.height}", wanted)
            upright = ImageOps.exif_transpose(photo).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, Image.DecompressionBombError) as error:
        raise BadInputError("photo", f"{len(data)} bytes", wanted) from error
    upright.thumbnail((_PHOTO_SIDE, _PHOTO_SIDE))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=80)
    return out.getvalue()


@api.get("/rigs/<int:rig_id>/photo")
@roles(INSTRUCTOR, ASSISTANT)
def photo_get(path: RigPath) -> Response:
    """The photo of a rig as JPEG."""
    with database().transaction() as connection:
        row = queries.rig_photo(connection, school_id=g.user["school_id"], rig_id=path.rig_id)
    if row is None:
        raise not_found("a photo of this rig")
    return Response(bytes(row["picture"]), mimetype="image/jpeg")


@api.delete("/rigs/<int:rig_id>/photo", responses={200: RigFull})
@roles(INSTRUCTOR)
def photo_drop(path: RigPath) -> dict[str, Any]:
    """No photo any more."""
    with database().transaction() as connection:
        rigs.rig_row(connection, path.rig_id)
        queries.rig_photo_drop(connection, school_id=g.user["school_id"], rig_id=path.rig_id)
        return rig_full(connection, path.rig_id, "us")
