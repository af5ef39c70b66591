"""Lab sessions of the demo school that are over: three pairs at rig 1, played on the stepped machine and judged."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime, timedelta
from typing import TYPE_CHECKING, Any

from wolfsbane.exercise.lab import worked
from wolfsbane.exercise.lab.marks import RUBRIC
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.services import lab_judging

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wolfsbane.server.core.db.database import Connection

_RIG, _TITLE = "Rig 1", "Cools, but not enough"
#: how each pair went about it, and how many days ago
_PAIRS = (("Overshot and recovered", 9), ("Clamp on the wrong line", 8), ("Safe and right", 8))


def add_labs(connection: Connection, school_id: int, user_id: int, names: Sequence[str]) -> None:
    """Add them where the school has none: ``names`` are the students, two for each."""
    if list(queries.lab_session_list(connection, school_id=school_id, days=10_000)):
        return
    rig = next(r for r in queries.rig_list(connection, school_id=school_id) if r["name"] == _RIG)
    for pair, (story, days) in enumerate(_PAIRS):
        found = connection.execute(
            "select id, class_id from apprentices where school_id = %s and name = any(%s) order by position",
            (school_id, list(names[2 * pair : 2 * pair + 2])),
        ).fetchall()
        _add(connection, school_id, user_id, rig, [dict(f) for f in found], worked.WORKED[story](), days, pair)


def _add(
    connection: Connection,
    school_id: int,
    user_id: int,
    rig: Any,
    people: list[dict[str, Any]],
    lab: worked.Lab,
    days: int,
    pair: int,
) -> None:
    began = datetime.now(UTC).replace(minute=10, second=0, microsecond=0) - timedelta(days=days, hours=pair)

    def moment(seconds: float) -> datetime:
        return began + timedelta(seconds=seconds - lab.began)

    lab.say("end", desk=True)
    session = lab.session()
    made = queries.lab_session_add(
        connection,
        school_id=school_id,
        rig_id=rig["id"],
        rig_name=_RIG,
        class_id=people[0]["class_id"],
        title=_TITLE,
        people=[p["id"] for p in people],
        body=jsonb(lab.call.to_json()),
        planted=jsonb([{"id": f.id, "severity": f.severity} for f in lab.planted]),
        machine=jsonb({"rig": rig["body"], "individual": asdict(lab.bench.individual)}),
        rubric=jsonb(RUBRIC),
        asks=jsonb({"countersign": True}),
        user_id=user_id,
    )["id"]
    for number, event in enumerate(lab.events):
        data = dict(event.data)
        if "began_at" in data:
            data["began_at"] = moment(data["began_at"]).timestamp()
        queries.lab_event_add(
            connection,
            school_id=school_id,
            session_id=made,
            client_id=f"demo-{number:04d}",
            at=moment(event.at),
            kind=event.kind,
            data=jsonb(data),
            desk=event.desk,
            user_id=user_id if event.desk else None,
        )
    kept = lab_judging.as_kept(lab.judged(), lab.call, session) | {"at": moment(session.last_at).timestamp()}
    queries.lab_session_judged(connection, school_id=school_id, id=made, judged=jsonb(kept))
    ended = moment(session.last_at + 60.0)
    connection.execute("update lab_sessions set began_at = %s, ended_at = %s where id = %s", (began, ended, made))
