"""Machines of the school's own: a plate in, what the tuner makes of it out; kept where the instructor wants it."""

from typing import Any

from flask import g
from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.show.machine_page import charge_chart, teaches
from wolfsbane.server.api.acting_models import MachinePage, OwnList, OwnPath, PlateBody, TunedReply, UnitsQuery
from wolfsbane.server.core.current import database
from wolfsbane.server.core.db.database import Connection, jsonb, queries
from wolfsbane.server.core.errors import not_found
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services.own_machines import machine_called
from wolfsbane.server.services.typed import in_units, typed_plate
from wolfsbane.tuning import tune
from wolfsbane.tuning.plate import known_plate, to_si
from wolfsbane.tuning.tuner import Tuned

api = APIBlueprint("machines", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="machines")])


def _tuned(body: PlateBody) -> Tuned:
    given = {k: v for k, v in body.model_dump(exclude={"units"}).items() if v is not None}
    try:
        plate = known_plate(typed_plate(given, body.units))
    except BadInputError as error:
        raise in_units(error, body.units) from None
    try:
        return tune(plate)
    except NoConvergenceError as error:
        raise BadInputError(
            "capacity_btuh", plate.capacity_btuh, f"ratings that one machine of this type can meet ({error})"
        ) from None


def _shown(data: dict[str, Any], units: str) -> dict[str, Any]:
    """A report as it is sent, in the units named; the circuit stays here."""
    found = {k: v for k, v in data.items() if k != "circuit"}
    size, unit = found["plate"]["capacity_btuh"], "Btu/h"
    words = "text_si" if units == "si" else "text"
    found["contradictions"] = [{"between": c["between"], "text": c[words]} for c in found["contradictions"]]
    if units == "si":
        found["report"] = [_si_row(row) for row in found["report"]]
        size, unit = to_si("capacity_btuh", unit, size)
    return {**found, "size": f"{size:,.0f} {unit}" if units == "us" else f"{size:.1f} {unit}"}


def _si_row(row: dict[str, Any]) -> dict[str, Any]:
    def turned(v: Any) -> Any:
        return None if v is None else round(to_si(row["id"], row["unit"], v)[0], 2)

    numbers = {k: turned(row[k]) for k in ("asked", "taken", "met", "difference", "band")}
    return {**row, **numbers, "unit": to_si(row["id"], row["unit"], 0)[1]}


def _list(connection: Connection, units: str = "us") -> dict[str, list[dict[str, Any]]]:
    rows = queries.own_machine_list(connection, school_id=g.user["school_id"])
    return {
        "machines": [
            {
                "id": r["machine_id"],
                "name": r["name"],
                "created_at": r["created_at"].isoformat(),
                "tuned": _shown(r["tuned"], units),
            }
            for r in rows
        ]
    }


@api.post("/tune", responses={200: TunedReply})
@roles(INSTRUCTOR)
def tune_plate(body: PlateBody) -> dict[str, Any]:
    """What the tuner makes of a plate; nothing is kept."""
    return _shown(_tuned(body).to_json(), body.units)


@api.get("/machines", responses={200: OwnList})
@roles(INSTRUCTOR)
def machine_list(query: UnitsQuery) -> dict[str, list[dict[str, Any]]]:
    """The school's own machines with the tuner's report on each."""
    with database().transaction() as connection:
        return _list(connection, query.units)


@api.post("/machines", responses={201: OwnList})
@roles(INSTRUCTOR)
def machine_add(body: PlateBody) -> tuple[dict[str, list[dict[str, Any]]], int]:
    """Tune a plate and keep the machine."""
    made = _tuned(body)
    if made.machine.id in MACHINES:
        raise BadInputError("name", body.name, "a name that no profile has")
    with database().transaction() as connection:
        _add(connection, made)
        return _list(connection, body.units), 201


def _add(connection: Connection, made: Tuned) -> None:
    queries.own_machine_add(
        connection,
        school_id=g.user["school_id"],
        machine_id=made.machine.id,
        name=made.machine.name,
        tuned=jsonb(made.to_json()),
        user_id=g.user["id"],
    )


@api.get("/machines/<string:machine_id>/page", responses={200: MachinePage})
@roles(INSTRUCTOR)
def machine_page(path: OwnPath, query: UnitsQuery) -> dict[str, Any]:
    """What a machine teaches, and its superheat and subcooling over the charge at its rating point."""
    found = machine_called(path.machine_id)
    return {"teaches": teaches(found), "chart": charge_chart(found, query.units)}


@api.put("/machines/<string:machine_id>", responses={200: OwnList})
@roles(INSTRUCTOR)
def machine_change(path: OwnPath, body: PlateBody) -> dict[str, list[dict[str, Any]]]:
    """Tune a changed plate and keep the machine in place of what it was; scenarios that use it keep their copy."""
    made = _tuned(body)
    if made.machine.id in MACHINES:
        raise BadInputError("name", body.name, "a name that no profile has")
    with database().transaction() as connection:
        if not queries.own_machine_remove(connection, school_id=g.user["school_id"], machine_id=path.machine_id):
            raise not_found(f"machine {path.machine_id}")
        _add(connection, made)
        return _list(connection, body.units)


@api.delete("/machines/<string:machine_id>", responses={200: OwnList})
@roles(INSTRUCTOR)
def machine_remove(path: OwnPath, query: UnitsQuery) -> dict[str, list[Any]]:
    """Forget a machine; scenarios that use it keep their copy."""
    with database().transaction() as connection:
        if not queries.own_machine_remove(connection, school_id=g.user["school_id"], machine_id=path.machine_id):
            raise not_found(f"machine {path.machine_id}")
        return _list(connection, query.units)
