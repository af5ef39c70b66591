"""Scenarios and their versions."""

from flask import current_app, g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.exercise.questions import fault_name
from wolfsbane.exercise.scenario import SCHEMA, require_paper, scenario
from wolfsbane.server.api.models import ScenarioBody, ScenarioList, ScenarioPath, ScenarioRow
from wolfsbane.server.db.database import jsonb, queries
from wolfsbane.server.errors import not_found
from wolfsbane.server.own_machines import own_machine
from wolfsbane.server.security import INSTRUCTOR, roles

api = APIBlueprint("scenarios", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="scenarios")])


def _row(row):
    planned = scenario(row["body"])
    body = planned.to_json()
    return {
        "id": row["id"], "version": row["version"], "title": body["title"],
        "machine_name": planned.profile.name,
        "fault_name": " and ".join(fault_name(f.id) for f in planned.faults) or fault_name("none"),
        "severity_text": "; ".join(f"{f.severity:g}\u00a0{FAULTS[f.id].unit}, {FAULTS[f.id].parameter}" for f in planned.faults
                                   if f.id in FAULTS),
        "created_at": row["created_at"].isoformat(), "body": body}


def _planned(body):
    """The checked scenario of a request, which may name one fault as older files do."""
    own = {"own": own_machine(body.machine)}
    if body.faults is not None:
        return require_paper(scenario({**body.model_dump(exclude={"fault", "severity"}), **own}))
    return require_paper(scenario({"schema": 1, **body.model_dump(exclude={"faults"}), **own}))


def add_version(connection, user, scenario_id, made):
    """Write the next version of a scenario."""
    queries.scenario_version_add(connection, school_id=user["school_id"], scenario_id=scenario_id,
                                 schema_version=SCHEMA, body=jsonb(made.to_json()), sha256=made.content_hash(),
                                 user_id=user["id"])


def add_scenario(connection, user, made):
    """A new scenario with its first version; returns its id."""
    scenario_id = queries.scenario_add(connection, school_id=user["school_id"], user_id=user["id"])["id"]
    add_version(connection, user, scenario_id, made)
    return scenario_id


def _found(connection, scenario_id):
    row = queries.scenario_get(connection, school_id=g.user["school_id"], id=scenario_id)
    if row is None:
        raise not_found(f"scenario {scenario_id}")
    return _row(row)


@api.get("/scenarios", responses={200: ScenarioList})
@roles(INSTRUCTOR)
def scenario_list():
    """Every scenario of the school that is not archived."""
    with current_app.db.transaction() as connection:
        return {"scenarios": [_row(r) for r in queries.scenario_list(connection, school_id=g.user["school_id"])]}


@api.post("/scenarios", responses={201: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_add(body: ScenarioBody):
    """Save a new scenario."""
    made = _planned(body)
    with current_app.db.transaction() as connection:
        return _found(connection, add_scenario(connection, g.user, made)), 201


@api.get("/scenarios/<int:scenario_id>", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_read(path: ScenarioPath):
    """One scenario in its newest version."""
    with current_app.db.transaction() as connection:
        return _found(connection, path.scenario_id)


@api.put("/scenarios/<int:scenario_id>", responses={200: ScenarioRow})
@roles(INSTRUCTOR)
def scenario_change(path: ScenarioPath, body: ScenarioBody):
    """Save a changed scenario as its next version; issued sheets keep theirs."""
    made = _planned(body)
    with current_app.db.transaction() as connection:
        if queries.scenario_lock(connection, school_id=g.user["school_id"], id=path.scenario_id) is None:
            raise not_found(f"scenario {path.scenario_id}")
        add_version(connection, g.user, path.scenario_id, made)
        return _found(connection, path.scenario_id)


@api.delete("/scenarios/<int:scenario_id>", responses={200: ScenarioList})
@roles(INSTRUCTOR)
def scenario_archive(path: ScenarioPath):
    """Archive a scenario."""
    with current_app.db.transaction() as connection:
        if not queries.scenario_archive(connection, school_id=g.user["school_id"], id=path.scenario_id):
            raise not_found(f"scenario {path.scenario_id}")
        return {"scenarios": [_row(r) for r in queries.scenario_list(connection, school_id=g.user["school_id"])]}
