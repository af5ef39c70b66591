"""A lab session judged by what the database holds of it: events, the logger's samples, the rig as it was."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import Fault
from wolfsbane.exercise.lab.events import Event, Session, fold
from wolfsbane.exercise.lab.judging import Bench, Logged, judge
from wolfsbane.exercise.lab.marks import reason_of, total_of
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.rig.individual import Individual
from wolfsbane.rig.points import ORDER
from wolfsbane.rig.rig import RIG
from wolfsbane.rig.weights import weight
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.services import rigs

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.exercise.lab.judging import Judged
    from wolfsbane.exercise.lab.outcome import Outcome
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.server.core.db.database import Connection

#: samples of so much time before a session and after its last step are looked at, s
_BEFORE_S, _AFTER_S = 900.0, 8.0


def session_of(connection: Connection, row: Mapping[str, Any]) -> Session:
    """The session that a row's events add up to."""
    rows = queries.lab_event_list(connection, session_id=row["id"])
    events = [Event(kind=e["kind"], at=e["at"].timestamp(), data=e["data"], desk=e["desk"]) for e in rows]
    return fold(events, row["began_at"].timestamp())


def call_of(row: Mapping[str, Any]) -> Call:
    """The frozen call of a session."""
    return call_from_json(row["body"])


def bench_of(row: Mapping[str, Any]) -> Bench:
    """The rig as it was when the session began."""
    rig = RIG.read(row["machine"]["rig"])
    kept = row["machine"].get("individual")
    return Bench(
        rig=rig,
        profile=rigs.profile_of(rig),
        individual=Individual(**kept) if kept else Individual(),
        planted=tuple(Fault(id=f["id"], severity=f["severity"]) for f in row["planted"]),
        countersigns=bool(row["asks"].get("countersign")),
    )


def logged_of(connection: Connection, row: Mapping[str, Any], until: float) -> Logged:
    """What the rig's logger kept of a session up to a moment."""
    if row["rig_id"] is None:
        return Logged()
    begin = row["began_at"] - timedelta(seconds=_BEFORE_S)
    end = datetime.fromtimestamp(until + _AFTER_S, UTC)
    rows = queries.rig_samples_between(connection, rig_id=row["rig_id"], from_at=begin, to_at=end)
    return Logged([(r["at"].timestamp(), (r["clock_s"], dict(zip(ORDER, r["shown"], strict=False)))) for r in rows])


def judged(connection: Connection, row: Mapping[str, Any], session: Session) -> dict[str, Any]:
    """Everything that is known about a session so far, as plain data: readings compared, the outcome, marks, skills."""
    call = call_of(row)
    found = judge(call, session, bench_of(row), logged_of(connection, row, session.last_at), row["rubric"])
    return as_kept(found, call, session)


def as_kept(found: Judged, call: Call, session: Session) -> dict[str, Any]:
    """A judged session as plain data."""
    earned, possible = total_of(list(found.parts))
    return {
        "earned": earned,
        "possible": possible,
        "parts": [{**asdict(p), "name": p.name, "reasons": list(p.reasons)} for p in found.parts],
        "questions": [
            {
                "question": m.question,
                "points": m.points,
                "earned": m.earned,
                "raw": m.raw,
                "reason": reason_of(m),
                "suggested": m.suggested,
            }
            for m in found.questions
        ],
        "readings": {k: {"code": c.code, "right": c.right, "off": round(c.off, 2)} for k, c in found.compared.items()},
        "outcome": None if found.outcome is None else _outcome(found.outcome, call.units, session),
        "logged": found.logged,
        "skills": [asdict(s) for s in found.skills],
        "finished": session.finished_at is not None,
        "at": session.last_at,
    }


def _outcome(out: Outcome, system: str, session: Session) -> dict[str, Any]:
    def kg(value: float | None) -> str:
        return "" if value is None else weight(value, system)

    return {
        "proved": out.proved,
        "settled": out.settled,
        "why": list(out.why),
        "figures": [{"text": f.text(system), "ok": f.ok} for f in out.figures],
        "limits": list(out.limits),
        "planned": session.planned.get("amount", ""),
        "moved": kg(out.moved_kg),
        "missing": kg(out.missing_kg),
        "most": kg(out.most_kg),
        "overshot": out.overshot,
        "recovered": out.recovered,
        "weight_ok": out.weight_ok,
        "wet_min": round(out.wet_s / 60.0, 1),
        "by": out.by,
        "notes": list(out.notes),
    }
