"""Lab sessions: begun at a rig, carried on by events, signed off, weighed, judged; and what of them each may see."""

from __future__ import annotations

import random
from dataclasses import replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.units import KG_PER_OZ, k_to_f
from wolfsbane.exercise.draw.rig import rig_call
from wolfsbane.exercise.lab.events import OWN, Session, checked
from wolfsbane.exercise.lab.forecast import faults_now, forecast
from wolfsbane.exercise.lab.judging import weighed
from wolfsbane.exercise.lab.marks import RUBRIC
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.frozen_body import choices_of
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.rig.baseline import conditions_of
from wolfsbane.rig.rig import RIG
from wolfsbane.rig.weights import moved_kg, weight
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services import lab_judging, refrigerant, rig_rows, rigs
from wolfsbane.server.services.own_machines import own_machine

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults import Fault
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.server.core.db.database import Connection

#: weather of a rig whose logger shows none, °F: a fair day
_OUTDOOR_F, _RETURN_F, _WET_F = 88.0, 76.0, 63.0
#: after these a session is judged again, and after every one once it is finished
_JUDGED = ("plan", "go", "done", "weigh", "finish", "end", "observe", "skill", "countersign")
#: sessions that ended within so many days are listed
DAYS = 14
_TITLE = 120


def begin(connection: Connection, user: dict[str, Any], asked: dict[str, Any]) -> int:
    """Begin a session at a rig; returns its number. Raises BadInputError, and ApiError 409 where the rig is held or
    somebody works at it.
    """
    school_id = user["school_id"]
    row = rigs.rig_row(connection, asked["rig_id"])
    rig = rigs.read_rig(row)
    profile = rigs.profile_of(rig)
    if queries.lab_session_of_rig(connection, school_id=school_id, rig_id=row["id"]) is not None:
        raise ApiError(409, "rig_busy", f"somebody works at {rig.name}: end that session first")
    standing = row["standing"] or []
    if why := rig_rows.held(row, standing):
        raise ApiError(
            409, "rig_held", f"{rig.name} was undone and is not back at its baseline: {why}. Have it released first."
        )
    _require_undone(connection, school_id, row["id"], rig.name)
    people = list(queries.lab_people(connection, school_id=school_id, ids=asked["people"]))
    if len(people) != len(set(asked["people"])) or not people:
        raise BadInputError("people", len(asked["people"]), "students of this school, one or more")
    if len({p["class_id"] for p in people}) > 1:
        raise BadInputError("people", len(people), "students of one class")
    baseline = rigs.newest_baseline(connection, row["id"])
    weather = _weather(rig, profile, row)
    planted = rigs.planted_on(connection, row["id"], rig, profile)
    unknown = [s for s in standing if s["device"] not in rigs.planted_by(connection, row["id"], rig, profile)]
    if unknown and not asked["scenario_id"]:
        names = ", ".join(rig.device(s["device"]).name for s in unknown)
        raise BadInputError(
            "rig_id", rig.name, f"a rig whose settings were measured: nobody knows how deep {names} plants. Measure it "
            "on the rig's page, or choose a call from the library"
        )  # fmt: skip
    call, planted, title = _call(connection, user, asked, rig.machine, planted, weather, baseline)
    kept = {"rig": RIG.write(rig), "individual": None}
    if baseline is not None:
        kept["individual"] = {
            "factors": dict(baseline.individual.factors),
            "superheat_dk": baseline.individual.superheat_dk,
            "offsets": dict(baseline.individual.offsets),
        }
    made = queries.lab_session_add(
        connection,
        school_id=school_id,
        rig_id=row["id"],
        rig_name=rig.name,
        class_id=people[0]["class_id"],
        title=title,
        people=[p["id"] for p in people],
        body=jsonb(call.to_json()),
        planted=jsonb([{"id": f.id, "severity": f.severity} for f in planted]),
        machine=jsonb(kept),
        rubric=jsonb(RUBRIC),
        asks=jsonb({"countersign": rig.countersign}),
        user_id=user["id"],
    )
    return int(made["id"])


def _require_undone(connection: Connection, school_id: int, rig_id: int, name: str) -> None:
    """Raises ApiError 409 where the last pair worked on what is planted and nobody has put the rig back since."""
    before = queries.lab_session_before(connection, school_id=school_id, rig_id=rig_id)
    worked = before is not None and before["planted"] and (before["judged"] or {}).get("outcome") is not None
    if worked and (before["moved_at"] is None or before["moved_at"] < before["ended_at"]):
        raise ApiError(
            409,
            "rig_not_undone",
            f"{name} was worked on in the last session and was not put back: undo it on its page, then set it again",
        )


def _weather(rig: Any, profile: Any, row: Mapping[str, Any]) -> Conditions | None:
    """What the rig's channels say of the air now, None where they do not."""
    if row["state"] != "answers":
        return None
    shown = {k: v for k, v in rig_rows.by_point(row["shown"]).items() if v is not None}
    try:
        return conditions_of(rig, profile, shown)
    except BadInputError:
        return None


def _call(
    connection: Connection,
    user: dict[str, Any],
    asked: dict[str, Any],
    machine_id: str,
    planted: tuple[Fault, ...],
    weather: Conditions | None,
    baseline: Any,
) -> tuple[Call, tuple[Fault, ...], str]:
    """(frozen call, what is planted, title): of a scenario of the library, or of what stands on the rig now."""
    if asked["scenario_id"]:
        found = queries.scenario_get(
            connection, school_id=user["school_id"], id=asked["scenario_id"], user_id=user["id"]
        )
        if found is None:
            raise BadInputError("scenario_id", asked["scenario_id"], "a call of the library")
        body = {**found["body"]}
        if body["machine"] != machine_id:
            raise BadInputError("scenario_id", body["title"], f"a call on the machine of this rig, {machine_id}")
    else:
        body = {
            "schema": 3,
            "title": "Lab session",
            "machine": machine_id,
            "faults": [{"id": f.id, "severity": f.severity} for f in planted],
            "outdoor_db_f": _OUTDOOR_F,
        }
        if (own := own_machine(machine_id)) is not None:
            body["own"] = own
    body["instruments"] = asked["instruments"]
    if asked["complaint"]:
        body["complaint"] = asked["complaint"]
    if weather is not None:
        body["outdoor_db_f"] = round(k_to_f(weather.outdoor_k), 1)
    made = scenario(_in_weather(body, weather))
    machine = None if baseline is None else baseline.individual.machine(made.profile)
    try:
        call = rig_call(
            made, asked["units"], random.Random(f"{asked['rig_id']}{user['id']}{made.title}"), None, machine
        )
    except NoConvergenceError as error:
        raise BadInputError(
            "rig_id", asked["rig_id"], "a rig that runs in this weather with what is planted"
        ) from error
    # On a rig one looks for oneself: nothing is written there that was not written for this call.
    call = replace(call, look_round=made.look_round)
    title = asked["title"] or (call.complaint.split(".")[0] if not asked["scenario_id"] else made.title)
    return call, made.faults, (title or "Lab session")[:_TITLE]


def _in_weather(body: dict[str, Any], weather: Conditions | None) -> dict[str, Any]:
    """The scenario's plain data in the weather the rig has, as far as its machine asks for it."""
    from wolfsbane.cycle.profiles import MACHINES
    from wolfsbane.tuning.first_guess import restored

    profile = restored(body["own"]) if body.get("own") else MACHINES[body["machine"]]
    if profile.refrigeration:
        if weather is not None:
            body["box_f"] = round(k_to_f(weather.return_k), 1)
        return body
    if body.get("return_db_f") is None or weather is not None:
        body["return_db_f"] = round(k_to_f(weather.return_k) if weather else _RETURN_F, 1)
        body["return_wb_f"] = round(k_to_f(weather.return_wet_bulb_k) if weather else _WET_F, 1)
    if weather is not None and weather.water_in_k is not None:
        body["water_in_f"] = round(k_to_f(weather.water_in_k), 1)
    return body


def row_for(connection: Connection, user: dict[str, Any], session_id: int, *, hold: bool = False) -> dict[str, Any]:
    """One session: any of the school for those who run the lab, one's own for a student. Raises 404."""
    school_id = user["school_id"]
    if user["role"] == "apprentice":
        row = queries.lab_session_of_user(connection, school_id=school_id, id=session_id, user_id=user["id"])
    else:
        row = queries.lab_session_get(connection, school_id=school_id, id=session_id)
    if row is None:
        raise not_found("the lab session")
    if hold:
        row = queries.lab_session_hold(connection, school_id=school_id, id=session_id)
    return dict(row)


def take(
    connection: Connection, user: dict[str, Any], session_id: int, events: list[dict[str, Any]], now: float
) -> list[dict[str, Any]]:
    """Keep events as they come, in whatever order and how often; returns what each got: id, and why where it was
    refused. ``now`` is the sender's clock as the events were sent, so that what was typed offline stands at its time.
    """
    row = row_for(connection, user, session_id, hold=True)
    # weights are typed in the units of the card, whatever the screen shows elsewhere
    system = row["body"]["units"]
    desk = user["role"] != "apprentice"
    server = datetime.now(UTC).timestamp()
    began = row["began_at"].timestamp()
    told, ended = [], row["ended_at"]
    changed = again = False
    for event in events:
        said: dict[str, Any] = {"id": event["id"], "refused": "", "field": None}
        told.append(said)
        at = min(max(server - max(now - event["at"], 0.0), began), server)
        if ended is not None and not desk and at > ended.timestamp():
            said["refused"] = "This session has ended. Tell your instructor what is missing."
            continue
        try:
            data = checked(event["kind"], event["data"], desk)
        except BadInputError as error:
            said |= {"refused": str(error), "field": error.field}
            continue
        if event["kind"] == "weigh":
            data["began_at"] = min(max(server - max(now - data["began_at"], 0.0), began), at)
        if not _keep(connection, user, session_id, event["id"], at, event["kind"], data, desk=desk):
            continue
        changed, again = True, again or event["kind"] in _JUDGED
        if event["kind"] == "weigh":
            _weigh(connection, user, row, session_id, event["id"], at, data, system)
        elif event["kind"] == "plan":
            _foresee(connection, user, row)
        elif event["kind"] == "end":
            ended = datetime.fromtimestamp(at, UTC)
            queries.lab_session_ended(connection, school_id=user["school_id"], id=session_id, at=ended)
    if again or (changed and (ended is not None or _finished(row))):
        judged_again(connection, user, session_id)
    return told


def _finished(row: Mapping[str, Any]) -> bool:
    return bool(row["judged"] and row["judged"].get("finished"))


def _keep(
    connection: Connection,
    user: dict[str, Any],
    session_id: int,
    client_id: str,
    at: float,
    kind: str,
    data: dict[str, Any],
    *,
    desk: bool,
) -> bool:
    made = queries.lab_event_add(
        connection,
        school_id=user["school_id"],
        session_id=session_id,
        client_id=client_id,
        at=datetime.fromtimestamp(at, UTC),
        kind=kind,
        data=jsonb(data),
        desk=desk,
        user_id=user["id"],
    )
    return made is not None


def _weigh(
    connection: Connection,
    user: dict[str, Any],
    row: Mapping[str, Any],
    session_id: int,
    client_id: str,
    at: float,
    data: dict[str, Any],
    system: str,
) -> None:
    """Refrigerant that a student moved goes into the log, with what the rig's scale saw; what must not be done is not
    logged, and its caution is kept with the session.
    """
    logged = lab_judging.logged_of(connection, row, at)
    before, after = logged.scale_kg(data["began_at"], after=False), logged.scale_kg(at, after=True)
    move_id, said = 0, ""
    try:
        kg = moved_kg(data["log"], system)
        asked = {
            "units": system,
            "kind": data["kind"],
            "cylinder_id": data["cylinder_id"],
            "other_id": None,
            "rig_id": row["rig_id"],
            "refrigerant": "",
            "temperature": "",
            "before": data["before"],
            "after": data["after"],
            "log": f"{kg / KG_PER_OZ:.4f} oz",
            "scale": "" if before is None or after is None else f"{abs(after - before) * 1000.0:.1f} g",
            "person": ", ".join(names_of(connection, row)),
            "why": f"Lab session {session_id}",
            "happened": False,
        }
        with connection.transaction():
            move_id = refrigerant.write_down(connection, user, asked)
        move = queries.refrigerant_move_get(connection, school_id=user["school_id"], id=move_id)
        said = "; ".join(_difference(d, system) for d in move["differences"])
    except (BadInputError, ApiError) as error:
        said = f"Not in the log: {error}"
    kept = {"move_id": move_id, "said": said[:900]}
    _keep(connection, user, session_id, f"{client_id}-{OWN[0]}", at + 1e-3, OWN[0], kept, desk=True)


def _difference(told: Mapping[str, Any], system: str) -> str:
    return f"{told['between']} differ by {weight(abs(told['kg']), system)}: {', '.join(told['causes'])}"


def names_of(connection: Connection, row: Mapping[str, Any]) -> list[str]:
    """Who is at the rig, in order."""
    return [p["name"] for p in queries.lab_people(connection, school_id=row["school_id"], ids=row["people"])]


def _foresee(connection: Connection, user: dict[str, Any], row: Mapping[str, Any]) -> None:
    """What the plan that was handed in would do to the rig as it stands, for whoever signs it off."""
    session = lab_judging.session_of(connection, row)
    call = lab_judging.call_of(row)
    bench = lab_judging.bench_of(row)
    planned = session.planned
    amount = parse("mass", planned.get("amount", ""), "oz" if call.units == "us" else "g").value
    kg = float(amount) * (KG_PER_OZ if call.units == "us" else 1e-3) if isinstance(amount, (int, float)) else 0.0
    action = _choice(call, "action", planned.get("action", ""))
    rig_row = queries.rig_get(connection, school_id=user["school_id"], rig_id=row["rig_id"])
    weather = None if rig_row is None else _weather(bench.rig, bench.profile, rig_row)
    made: dict[str, Any] = {
        "fault": _said(call, "fault", planned.get("fault", "")),
        "action": _said(call, "action", planned.get("action", "")),
        "amount": planned.get("amount", ""),
        "by": "rig" if weather is not None else "typed",
        "warnings": [],
        "text": "",
    }
    conditions = weather or _conditions(call)
    repaired = action if action not in (None, NONE, "undercharge", "overcharge") else ""
    try:
        machine = bench.individual.machine(bench.profile)
        faults = faults_now(machine, bench.planted, weighed(session, call.units) or 0.0)
        seen = forecast(bench.rig, machine, conditions, faults, kg, repaired or "")
        made["warnings"] = list(seen.warnings)
        made["text"] = _foreseen(seen, call.units)
    except (NoConvergenceError, BadInputError):
        made["text"] = "The model cannot match this rig right now: look at the rig yourself."
    queries.lab_session_forecast(connection, school_id=user["school_id"], id=row["id"], forecast=jsonb(made))


def _conditions(call: Call) -> Conditions:
    from wolfsbane.cycle.conditions import Conditions

    c = call.conditions
    return Conditions(
        outdoor_k=c.outdoor_k,
        return_k=c.return_k,
        return_wet_bulb_k=c.return_wet_bulb_k,
        barometer_pa=c.barometer_pa,
        water_in_k=c.water_in_k,
    )


def _choice(call: Call, question: str, text: str) -> str | None:
    rows = choices_of(call, question)
    kind = next((q.kind for q in call.questions if q.id == question), "letter")
    value = parse(kind, text, None, rows).value
    letters = value if isinstance(value, tuple) else (value,)
    return next((i for letter, i, _ in rows if letter in letters), None)


def _said(call: Call, question: str, text: str) -> str:
    found = _choice(call, question, text)
    return next((words for _, i, words in choices_of(call, question) if i == found), text or "nothing")


def _foreseen(seen: Any, system: str) -> str:
    if seen.head_pa is None:
        return "The machine would not stay on."
    psi, k, p, t = (6894.757, 1.8, "psig", "°F") if system == "us" else (1000.0, 1.0, "kPa", "K")
    return (
        f"It would come to {seen.suction_pa / psi:.0f} over {seen.head_pa / psi:.0f} {p}, superheat "
        f"{seen.superheat_k * k:.0f} {t}, subcooling {seen.subcooling_k * k:.0f} {t}."
    ).replace("-", "−")


def judged_again(connection: Connection, user: dict[str, Any], session_id: int) -> None:
    """Judge a session by what is known now, and keep it."""
    row = queries.lab_session_get(connection, school_id=user["school_id"], id=session_id)
    session = lab_judging.session_of(connection, row)
    found = lab_judging.judged(connection, row, session)
    queries.lab_session_judged(connection, school_id=user["school_id"], id=session_id, judged=jsonb(found))


def conditions_text(session: Session) -> str:
    """In a word where a session stands."""
    if session.ended_at is not None:
        return "ended"
    if session.wants_help:
        return "help"
    return {"asked": "sign-off", "stop": "stopped"}.get(
        session.signed, "finished" if session.finished_at else "at work"
    )
