"""The library: scenarios, their versions, sharing, files in and out."""

import json
import re
from dataclasses import replace
from typing import Any

from flask import Response, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.plan.scenario import Scenario, scenario
from wolfsbane.server.api.acting_models import UnitsQuery
from wolfsbane.server.api.library_models import (
    FilesQuery,
    ImportBody,
    ImportReply,
    LibraryQuery,
    ScenarioBody,
    ScenarioList,
    ScenarioRow,
    ShareBody,
    VersionList,
    VersionPath,
)
from wolfsbane.server.api.models import ScenarioPath
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services import library
from wolfsbane.server.services.own_machines import own_machine
from wolfsbane.server.services.own_practices import own_practice

api = APIBlueprint("scenarios", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="scenarios")])


def _planned(body: ScenarioBody) -> Scenario:
    """The checked scenario of a request, which may name one fault as older files do."""
    own = {"own": own_machine(body.machine), "own_practice": own_practice(body.practice)}
    if body.faults is not None:
        return scenario({**body.model_dump(exclude={"fault", "severity"}), **own})
    return scenario({"schema": 1, **body.model_dump(exclude={"faults"}), **own})


@api.get("/scenarios", responses={200: ScenarioList})
@roles(INSTRUCTOR)
def scenario_list(query: LibraryQuery) -> dict[str, list[dict[str, Any]]]:
    """Every scenario one may see: one's own and what colleagues share."""
    with database().transaction() as connection:
        return {"scenarios": library.listed(connection, g.user, archived=query.archived, system=query.units)}


@api.post("/scenarios", responses={201: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_add(body: ScenarioBody) -> tuple[dict[str, Any], int]:
    """Save a new scenario."""
    made = _planned(body)
    with database().transaction() as connection:
        return library.found(connection, library.add_scenario(connection, g.user, made)), 201


@api.get("/scenarios/<int:scenario_id>", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_read(path: ScenarioPath) -> dict[str, Any]:
    """One scenario in its newest version."""
    with database().transaction() as connection:
        return library.found(connection, path.scenario_id)


@api.put("/scenarios/<int:scenario_id>", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_change(path: ScenarioPath, body: ScenarioBody) -> dict[str, Any]:
    """Save a changed scenario as its next version; issued sheets keep theirs. Where nothing changed, no version is
    made.
    """
    made = _planned(body)
    with database().transaction() as connection:
        library.held(connection, g.user, path.scenario_id)
        newest = library.found(connection, path.scenario_id)["body"]
        if scenario(newest).content_hash() != made.content_hash():
            library.add_version(connection, g.user, path.scenario_id, made)
        return library.found(connection, path.scenario_id)


@api.delete("/scenarios/<int:scenario_id>", responses={200: ScenarioList})
@roles(INSTRUCTOR)
def scenario_archive(path: ScenarioPath) -> dict[str, list[dict[str, Any]]]:
    """Archive a scenario."""
    with database().transaction() as connection:
        if library.held(connection, g.user, path.scenario_id)["archived_at"] is not None:
            raise not_found(f"scenario {path.scenario_id}")
        queries.scenario_archive(connection, school_id=g.user["school_id"], id=path.scenario_id)
        return {"scenarios": library.listed(connection, g.user)}


@api.post("/scenarios/<int:scenario_id>/restore", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_restore(path: ScenarioPath) -> dict[str, Any]:
    """Bring an archived scenario back."""
    with database().transaction() as connection:
        library.held(connection, g.user, path.scenario_id)
        queries.scenario_restore(connection, school_id=g.user["school_id"], id=path.scenario_id)
        return library.found(connection, path.scenario_id)


@api.put("/scenarios/<int:scenario_id>/sharing", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_share(path: ScenarioPath, body: ShareBody) -> dict[str, Any]:
    """Let the whole school see, copy and issue a scenario, or only its maker."""
    with database().transaction() as connection:
        library.held(connection, g.user, path.scenario_id)
        queries.scenario_share(connection, school_id=g.user["school_id"], id=path.scenario_id, shared=body.shared)
        return library.found(connection, path.scenario_id)


@api.post("/scenarios/<int:scenario_id>/copy", responses={201: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_copy(path: ScenarioPath) -> tuple[dict[str, Any], int]:
    """Duplicate a scenario, one's own or a colleague's; the copy is one's own."""
    with database().transaction() as connection:
        made = scenario(library.found(connection, path.scenario_id)["body"])
        copy = replace(made, title=f"{made.title[:112]} (copy)")
        return library.found(connection, library.add_scenario(connection, g.user, copy)), 201


@api.put("/scenarios/<int:scenario_id>/proof", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_prove(path: ScenarioPath) -> dict[str, Any]:
    """Prove the newest version, where that was left for later."""
    with database().transaction() as connection:
        library.prove_newest(connection, g.user, path.scenario_id)
        return library.found(connection, path.scenario_id)


@api.get("/scenarios/<int:scenario_id>/versions", responses={200: VersionList})
@roles(INSTRUCTOR)
def scenario_versions(path: ScenarioPath, query: UnitsQuery) -> dict[str, list[dict[str, Any]]]:
    """Every version with what changed, newest first."""
    with database().transaction() as connection:
        return {"versions": library.versions(connection, g.user, path.scenario_id, query.units)}


@api.post("/scenarios/<int:scenario_id>/versions/<int:version>/again", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_again(path: VersionPath) -> dict[str, Any]:
    """Make an older version the newest one again; nothing in between is lost."""
    with database().transaction() as connection:
        library.held(connection, g.user, path.scenario_id)
        rows = library.versions(connection, g.user, path.scenario_id)
        body = next((r["body"] for r in rows if r["version"] == path.version), None)
        if body is None:
            raise not_found(f"version {path.version}")
        library.add_version(connection, g.user, path.scenario_id, scenario(body))
        return library.found(connection, path.scenario_id)


@api.get("/scenarios/files")
@roles(INSTRUCTOR)
def scenario_files(query: FilesQuery) -> Response:
    """Scenarios as a file: one alone in the scenario format, several as {"scenarios": [...]}."""
    with database().transaction() as connection:
        bodies = [library.found(connection, int(part))["body"] for part in query.ids.split(",")]
    name = (
        re.sub(r"[^a-z0-9]+", "-", bodies[0]["title"].lower()).strip("-")
        if len(bodies) == 1
        else f"{len(bodies)}-scenarios"
    )
    text = json.dumps(bodies[0] if len(bodies) == 1 else {"scenarios": bodies}, indent=2, ensure_ascii=False)
    return Response(
        text,
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name or "scenario"}.scenario.json"'},
    )


@api.post("/scenarios/import", responses={200: ImportReply})
@roles(INSTRUCTOR)
def scenario_import(body: ImportBody) -> dict[str, list[dict[str, Any]]]:
    """Read scenarios from files, of any schema. What cannot be read is named and the rest comes in,
    to be proved one by one.
    """
    added, refused = [], []
    with database().transaction() as connection:
        for position, data in enumerate(body.scenarios, 1):
            try:
                made = scenario(data)
                library.keep_what_it_carries(connection, g.user, made)
            except BadInputError as error:
                refused.append(
                    {
                        "position": position,
                        "title": str(data.get("title", ""))[:120],
                        "message": str(error),
                        "field": error.field,
                    }
                )
                continue
            added.append(library.found(connection, library.add_scenario(connection, g.user, made, proved_now=False)))
    return {"added": added, "refused": refused}
