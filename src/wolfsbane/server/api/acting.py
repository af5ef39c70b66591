"""Acting on the bench's machine: the actions, their trace, and the correction key.

For instructors: it shows the answer.
"""

from typing import Any, TypeVar

from flask_openapi3 import APIBlueprint, Tag

from wolfsbane.acting.actions import action_rows
from wolfsbane.acting.actions.kind import IN_GRAMS
from wolfsbane.acting.rooms import DOORS, humidity
from wolfsbane.acting.script import SCRIPT, Played, script
from wolfsbane.acting.settings import setting_rows
from wolfsbane.acting.trace import Moment, room_span_k
from wolfsbane.acting.words import CUTOUTS
from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.controls import TROUBLES, controls_of
from wolfsbane.cycle.dials import needle_deg
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults.kind import Fault
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.instruments import KITS, points_for, read
from wolfsbane.cycle.machine import Machine
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import KG_PER_OZ, SYSTEMS, from_display, k_to_f, to_display
from wolfsbane.diagnosis.targets import bands, met_outdoors_k
from wolfsbane.exercise.paper.correction import correction
from wolfsbane.exercise.paper.key import plain
from wolfsbane.exercise.show.bench import fill
from wolfsbane.server.api.acting_models import ActBody, ActionList, ActReply, OwnPath, PlanReply, UnitsQuery
from wolfsbane.server.api.bench import situation
from wolfsbane.server.api.bench_models import BenchBody
from wolfsbane.server.core.security import INSTRUCTOR, roles
from wolfsbane.server.services.own_machines import machine_called
from wolfsbane.server.services.own_practices import practice_called
from wolfsbane.server.services.played import played

api = APIBlueprint("acting", __name__, url_prefix="/api/v1", abp_tags=[Tag(name="acting")])
#: most rows of a trace that are sent; a long one is thinned evenly, ends kept
_MAX_ROWS = 600
#: most pictures of the circuit that are sent with it
_MAX_FRAMES = 60
_Row = TypeVar("_Row")


@api.get("/actions/<string:machine_id>", responses={200: ActionList})
@roles(INSTRUCTOR)
def action_list(path: OwnPath, query: UnitsQuery) -> dict[str, Any]:
    """The actions a machine allows: what each costs, needs and risks; weights asked for in the units named."""
    m = machine_called(path.machine_id)
    rows = action_rows(m)
    if query.units == "si":
        rows = [{**row, "parameters": [_in_grams(p) for p in row["parameters"]]} for row in rows]
    settings = controls_of(m, m.rating[0] if m.in_heating else m.rating[1])
    troubles = [t for t in TROUBLES.values() if t.suits(settings)]
    return {
        "actions": rows,
        "doors": list(DOORS),
        "troubles": [{"id": t.id, "name": t.name, "shows": t.shows} for t in troubles],
    }


def _in_grams(parameter: dict[str, Any]) -> dict[str, Any]:
    grams = {ounces: g for g, ounces in IN_GRAMS.items()}.get(parameter["name"])
    if grams is None:
        return parameter
    to_g = 1000.0 * KG_PER_OZ
    return {
        **parameter,
        "name": grams,
        "unit": parameter["unit"].replace("oz", "g"),
        "low": round(parameter["low"] * to_g, 1),
        "high": round(parameter["high"] * to_g),
    }


def _own_faults(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    return tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)


@api.post("/act", responses={200: ActReply})
@roles(INSTRUCTOR)
def act_out(body: ActBody) -> dict[str, Any]:
    """Play steps on the machine as it is planted: what each said, and the figures over time."""
    m, weather, faults = situation(body)
    practice, unit = practice_called(body.practice), SYSTEMS[body.units]
    degree = from_display("difference", 1.8, body.units)
    written = script(
        {
            "schema": SCRIPT.version,
            "actions": (
                [{"do": s.do, **{k: v for k, v in s.arguments.items() if v is not None}} for s in body.steps]
                or [{"do": "wait", "minutes": 1}]
            ),
            "weather": {"outdoor_df_per_h": body.outdoor_per_h * degree, "return_df_per_h": body.return_per_h * degree},
            **({} if body.room is None else {"room": _room(body)}),
        }
    )
    met_k = (met_outdoors_k(m, weather), weather.return_wet_bulb_k)
    outdoor, wet = (to_display("temperature", k, body.units) for k in met_k)
    found = {
        "units": {k: unit[k][0] for k in ("pressure", "temperature", "difference", "mass")},
        "bands": {k: {"low": b.low, "high": b.high} for k, b in bands(m, practice, body.units, outdoor, wet).items()},
    }
    try:
        done = played(m, weather, _own_faults(faults), written, body.units)
    except NoConvergenceError as error:
        return found | {
            "refusal": str(error),
            "steps": [],
            "trace": [],
            "weights": None,
            "running": False,
            "tripped": None,
            "minutes": 0,
            "left": [],
            "frames": [],
        }
    data, names = done.to_json(), {row["id"]: row["name"] for row in action_rows()}
    site = done.site
    return found | {
        "refusal": None,
        "steps": [_step(row, names[row["do"]]) for row in data["steps"]] if body.steps else [],
        "trace": _thinned([_row(m, body.units) for m in done.moments]),
        "running": site.running,
        "tripped": None if site.trip is None else CUTOUTS[site.trip.cutout],
        "minutes": data["end"]["minutes"],
        "frames": _frames(m, weather, done.moments, body) if body.frames else [],
        "left": data["end"]["left_temporary"] + (["the leak is still open"] if site.leaking else []),
        "controls": None if site.keeper is None else _controls(done, data["controls"], body.units),
        "weights": {**data["weights"], "cylinders": [{"id": k, **v} for k, v in data["weights"]["cylinders"].items()]},
    }


def _room(body: ActBody) -> dict[str, Any]:
    """The room of a script, in degrees F."""
    room = body.room
    assert room is not None, "asked for"
    asked = {"start_f": room.start, "set_f": room.set}
    in_f = {k: k_to_f(from_display("temperature", v, body.units)) for k, v in asked.items() if v is not None}
    return {**in_f, "door": room.door, "troubles": room.troubles}


def _controls(done: Played, counted: dict[str, Any], units: str) -> dict[str, Any]:
    """What the controls did and how they are set, in the units named."""
    site = done.site
    keeper, room = site.keeper, site.room
    assert keeper is not None and room is not None, "a room has its controls"
    c = keeper.controls
    ends = (c.set_k - c.differential_k, c.set_k + c.differential_k)
    low, high = (round(to_display("temperature", k, units), 1) for k in ends)
    names = ("room", "room_low", "room_mean", "room_high", "goods")
    kelvins = (room.air_k, *room_span_k(done.moments), room.mass_k)
    return {
        **{k: counted[k] for k in ("mode", "starts", "ran_pct", "low_stage_pct", "defrost_minutes")},
        "said": keeper.said,
        **{name: round(to_display("temperature", k, units), 1) + 0.0 for name, k in zip(names, kelvins, strict=True)},
        "humidity_pct": round(100.0 * humidity(room, site.conditions.barometer_pa)),
        "cut_in": low if c.heats else high,
        "cut_out": high if c.heats else low,
        "settings": setting_rows(c, units),
    }


def _step(row: dict[str, Any], name: str) -> dict[str, Any]:
    kept = ("do", "at_s", "minutes", "money", "refused", "said", "moved", "cylinder")
    return {"name": name, **{key: row[key] for key in kept}}


def _row(moment: Moment, system: str) -> dict[str, float | None]:
    """A trace row with keys that do not change with the units."""
    row = moment.row(system)
    short = {"suction_pressure": "suction", "head_pressure": "head", "outdoor_db": "outdoor"}
    found: dict[str, float | None] = dict.fromkeys(("room", "goods", "room_humidity_pct", "mode"))
    for key, value in row.items():
        stem = key
        for suffix in ("_psig", "_kpa_gauge", "_f", "_c", "_df", "_dc", "_oz", "_g"):
            if key.endswith(suffix):
                stem = key[: -len(suffix)]
                break
        found[short.get(stem, stem)] = value
    return found


def _frames(m: Machine, weather: Conditions, moments: tuple[Moment, ...], body: ActBody) -> list[dict[str, Any]]:
    """Pictures of the circuit on the way: fill and the readings on it, at most :data:`_MAX_FRAMES`."""
    keys, fault_free = points_for(m), solve(m, weather)
    frames = []
    for row in _thinned(list(moments), _MAX_FRAMES):
        shown = read(row.state, body.instruments, body.units, machine=m, keys=keys)
        needles = {
            side: needle_deg(side, body.units, shown[key].value, refrigeration=m.refrigeration)
            for side, key in (("low", "suction_pressure"), ("high", "head_pressure"))
        }
        frames.append(
            {
                "time_s": row.time_s,
                "running": row.running,
                "needles": needles,
                "fill": fill(row.state, None if fault_free.trip else fault_free),
                "readings": [{"id": k, "text": r.text} for k, r in shown.items()],
            }
        )
    return frames


def _thinned(rows: list[_Row], most: int = _MAX_ROWS) -> list[_Row]:
    step = max(1, -(-len(rows) // most))
    return rows[::step] if (len(rows) - 1) % step == 0 else [*rows[::step], rows[-1]]


@api.post("/plan", responses={200: PlanReply})
@roles(INSTRUCTOR)
def plan_out(body: BenchBody) -> dict[str, Any]:
    """The correction key of the machine as it is planted: right plan, proof, and what wrong plans lead to."""
    if body.instruments not in KITS:
        raise BadInputError("instruments", body.instruments, ", ".join(KITS))
    m, weather, faults = situation(body)
    found = correction(m, weather, _own_faults(faults), practice_called(body.practice), body.instruments, body.units)
    if found.first is None or found.proof is None:
        return {
            "refusal": found.refusal,
            "first": "",
            "minutes": 0,
            "steps": [],
            "proof": {},
            "proof_trips": None,
            "wrong": [],
        }
    made = plain(found)
    return {
        **{key: made[key] for key in ("refusal", "minutes", "steps", "wrong")},
        "first": found.first.text,
        "proof": found.proof.figures,
        "proof_trips": found.proof.trips,
    }
