"""What of a lab session a student may see, and what whoever runs the lab sees; the skills record over the term."""

from __future__ import annotations

import csv
import io
from collections import OrderedDict
from dataclasses import asdict
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any
from zoneinfo import ZoneInfo

from wolfsbane.exercise.lab.skills import LEVEL_WORDS, SKILLS, over_term
from wolfsbane.exercise.lab.steps import PHASES, PROOF, phase_of_question, ticks_of
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.rig.devices import device_kind
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.printing.paper_items import band_text
from wolfsbane.server.services import lab_judging
from wolfsbane.server.services.lab_sessions import conditions_text, names_of
from wolfsbane.server.services.results import plain

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.exercise.lab.events import Session
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.server.core.db.database import Connection

#: what every student may touch, and what nobody does
_TOUCH = ("Service ports, hoses and caps", "Clamps, thermometers, psychrometer", "Access panels without live parts")
_NEVER = "Leave alone: the electrical box, anything sealed or locked, fans that turn."


def iso(seconds: float | None) -> str | None:
    """A moment as ISO time."""
    return None if seconds is None else datetime.fromtimestamp(seconds, UTC).isoformat()


def for_student(connection: Connection, row: Mapping[str, Any]) -> dict[str, Any]:
    """A session as its student sees it: the card, what is asked, what they typed. No reading of the logger, no answer
    before it has ended.
    """
    session = lab_judging.session_of(connection, row)
    call = lab_judging.call_of(row)
    return {
        **_head(connection, row, session),
        "card": _card(row, call),
        "ticks": [asdict(t) for t in ticks_of(call.machine.refrigerant)],
        "phases": [{"id": i, "name": n} for i, n in PHASES.items()],
        "questions": _questions(call),
        "proofs": [{"reading": p, "label": _label(call, p), "unit": _unit(call, p)} for p in PROOF],
        "cylinders": [
            {"id": c["id"], "name": c["name"], "kind": c["kind"], "refrigerant": c["refrigerant"]}
            for c in queries.cylinder_list(connection, school_id=row["school_id"])
        ],
        "state": _state(session),
        "result": None if row["ended_at"] is None or not row["judged"] else _result(row["judged"]),
    }


def for_desk(connection: Connection, row: Mapping[str, Any]) -> dict[str, Any]:
    """The same for whoever runs the lab, with what is hidden: what is planted, what the plan would do, the marks so
    far, each step with its time.
    """
    found = for_student(connection, row)
    call = lab_judging.call_of(row)
    session = lab_judging.session_of(connection, row)
    now = datetime.now(UTC).timestamp()
    judged = _judged(connection, row, session, now)
    events = queries.lab_event_list(connection, session_id=row["id"])
    return found | {
        "result": _result(judged),
        "planted": call.key.fault_name,
        "key": {q["question"]: q["reason"] for q in judged["questions"]},
        "forecast": row["forecast"],
        "minutes": [{"phase": p, "name": PHASES[p], "minutes": round(m, 1)} for p, m in session.minutes(now).items()],
        "skills": [{"id": i, "name": n} for i, n in SKILLS.items()],
        "observed": session.observed,
        "events": [
            {"at": e["at"].isoformat(), "text": _event_text(call, e), "who": e["who"] or ""}
            for e in events
            if e["kind"] != "weighed"
        ],
    }


#: sessions judged lately, by number and last step: a page that asks every three seconds is no reason to judge again
_LATELY: OrderedDict[tuple[int, float], dict[str, Any]] = OrderedDict()
_MOST_LATELY, _COMES_IN_S = 64, 15.0


def _judged(connection: Connection, row: Mapping[str, Any], session: Session, now: float) -> dict[str, Any]:
    """A session judged as far as it went; by what was kept where nothing has happened since."""
    kept = row["judged"]
    if kept is not None and kept["at"] >= session.last_at:
        return dict(kept)
    key = (row["id"], session.last_at)
    found = _LATELY.get(key)
    if found is None:
        found = lab_judging.judged(connection, row, session)
        # the logger's last samples of a step come in a little after it
        if now - session.last_at > _COMES_IN_S:
            _LATELY[key] = found
            while len(_LATELY) > _MOST_LATELY:
                _LATELY.popitem(last=False)
    return found


def rows(connection: Connection, school_id: int, days: int) -> list[dict[str, Any]]:
    """The sessions of the lab, those that run first: where each stands, who waits for what."""
    found = []
    for row in queries.lab_session_list(connection, school_id=school_id, days=days):
        session = lab_judging.session_of(connection, row)
        judged = row["judged"] or {}
        found.append(
            {
                **_head(connection, {**row, "school_id": school_id}, session),
                "fault": "",
                "plan": row["forecast"] if session.signed == "asked" else None,
                "earned": judged.get("earned"),
                "possible": judged.get("possible"),
            }
        )
    return found


def _head(connection: Connection, row: Mapping[str, Any], session: Session) -> dict[str, Any]:
    safety = [t for t in session.ticks if t in ("glasses", "disconnect", "clear", "cylinder", "no_flame")]
    return {
        "id": row["id"],
        "rig_id": row["rig_id"],
        "rig": row["rig_name"],
        "class_id": row["class_id"],
        "title": row["title"],
        "people": names_of(connection, row),
        "began_at": row["began_at"].isoformat(),
        "ended_at": None if row["ended_at"] is None else row["ended_at"].isoformat(),
        "phase": session.phase,
        "phase_name": PHASES[session.phase],
        "phase_since": iso(session.entered[-1][1]),
        "status": conditions_text(session),
        "wants_help": session.wants_help,
        "countersign": bool(row["asks"].get("countersign")),
        "countersigned": session.countersigned_at is not None,
        "safety_ticked": len(safety),
        "signed": session.signed,
        "why": session.why,
    }


def _card(row: Mapping[str, Any], call: Call) -> dict[str, Any]:
    rig = row["machine"]["rig"]
    hands = [device_kind(d["kind"]) for d in rig.get("devices", [])]
    touch = [*_TOUCH, *(["The cylinder on the scale"] if any(d.id == "charge" for d in hands) else [])]
    return {
        "machine": call.machine.name,
        "refrigerant": call.machine.refrigerant,
        "metering": call.machine.metering,
        "plate": [{"label": line.label, "text": line.text} for line in call.machine.plate],
        "complaint": call.complaint,
        "history": call.history,
        "look_round": list(call.look_round),
        "touch": touch,
        "never": _NEVER,
        "units": call.units,
        "instruments": call.instruments,
    }


def _unit(call: Call, reading: str) -> str:
    return call.readings[reading].unit if reading in call.readings else ""


def _label(call: Call, reading: str) -> str:
    return call.readings[reading].label if reading in call.readings else reading.replace("_", " ").capitalize()


def _questions(call: Call) -> list[dict[str, Any]]:
    found = []
    for q in call.questions:
        found.append(
            {
                "id": q.id,
                "text": q.text.removeprefix("Read: ") if q.id in MEASURED else q.text,
                "kind": q.kind,
                "unit": q.unit or "",
                "points": q.points,
                "phase": phase_of_question(q.id),
                "band": band_text(call, q.id) if q.id.endswith("_verdict") and q.id != "glass_verdict" else "",
                "choices": [{"letter": c.letter, "text": c.text} for c in call.choices.lettered(q.id)]
                or ([{"letter": str(s.number), "text": s.text} for s in call.choices.order] if q.id == "order" else []),
            }
        )
    return found


def _state(session: Session) -> dict[str, Any]:
    return {
        "ticks": {k: iso(v) for k, v in session.ticks.items()},
        "answers": {k: a.text for k, a in session.answers.items()},
        "note": session.note,
        "stops": session.stops,
        "planned": session.planned_at is not None and session.signed != "stop",
        "weighs": [
            {k: w[k] for k in ("cylinder_id", "kind", "before", "after", "log", "said")}
            | {"kept": w["move_id"] is not None}
            for w in session.weighs
        ],
        "done": session.done_at is not None,
        "proofs": {k: a.text for k, a in session.proofs.items()},
        "record": session.record,
        "finished": session.finished_at is not None,
    }


def _result(judged: Mapping[str, Any]) -> dict[str, Any]:
    return {k: judged[k] for k in ("earned", "possible", "parts", "questions", "outcome", "logged")} | {
        "skills": [{**s, "name": SKILLS[s["skill"]], "level_text": LEVEL_WORDS[s["level"]]} for s in judged["skills"]]
    }


_SAID = {
    "phase": "On to {to}.",
    "tick": "{on} {step}",
    "note": "Looked it over: {text}",
    "help": "Asked for help.",
    "plan": "Handed in the plan.",
    "done": "Work done.",
    "record": "Record: {text}",
    "finish": "Finished.",
    "countersign": "Safety countersigned.",
    "go": "Go ahead. {why}",
    "stop": "Stop: {why}",
    "helped": "Helped. {why}",
    "observe": "{points:+d} for {part}: {why}",
    "skill": "{skill}: {level}. {why}",
    "end": "Ended. {why}",
}


def _event_text(call: Call, event: Mapping[str, Any]) -> str:
    data = {"why": "", **event["data"]}
    kind = event["kind"]
    if kind == "phase":
        data["to"] = PHASES[data["to"]].lower()
    elif kind == "tick":
        step = next((t.text for t in ticks_of(call.machine.refrigerant) if t.id == data["step"]), data["step"])
        data |= {"on": "Ticked:" if data["on"] else "Taken back:", "step": step}
    elif kind == "answer":
        text = next((q.text for q in call.questions if q.id == data["question"]), data["question"])
        return f"{text}: {data['text'] or 'blank'}"
    elif kind == "proof":
        return f"Proof, {_label(call, data['reading']).lower()}: {data['text'] or 'blank'}"
    elif kind == "weigh":
        way = "in" if data["kind"] == "charge" else "out"
        return f"Weighed {data['log']} {way}: cylinder {data['before']} before, {data['after']} after"
    elif kind == "skill":
        data |= {"skill": SKILLS[data["skill"]], "level": LEVEL_WORDS[data["level"]].lower()}
    return _SAID[kind].format(**data).strip()


def skills_of(connection: Connection, school_id: int, apprentice_id: int) -> list[dict[str, Any]]:
    """The skills record of one student: every skill with its level and what it was shown by."""
    found = []
    for row in queries.lab_sessions_of_person(connection, school_id=school_id, apprentice_id=apprentice_id):
        for shown in row["judged"]["skills"]:
            found.append({**shown, "session_id": row["id"], "at": row["began_at"].isoformat(), "rig": row["rig_name"]})
    return over_term(found)


def skills_csv(found: Mapping[str, Any], zone: str) -> str:
    """CSV text of a skills record, a line for each piece of evidence; a skill without any has one, empty."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["name", "skill", "level", "date", "time", "rig", "session", "evidence"])
    for row in found["rows"]:
        for one in row["evidence"] or [None]:
            cells = ["", "", "", "", "", ""]
            if one is not None:
                at = datetime.fromisoformat(one["at"]).astimezone(ZoneInfo(zone))
                cells = [one["level"], f"{at:%Y-%m-%d}", f"{at:%H:%M}", plain(one["rig"]), one["session_id"]]
                cells.append(plain(one["evidence"]))
            writer.writerow([plain(found["name"]), row["name"], *cells])
    return out.getvalue()
