"""Calls on screen: opened from a sheet, played step by step, marked by their path.

What a machine showed is kept with the step that asked for it, so that nothing already seen changes with a later solver.
The machine itself is in the memory of whichever process played it last, and played again from its steps elsewhere.
"""

from __future__ import annotations

from collections import OrderedDict
from contextlib import suppress
from dataclasses import replace
from threading import Lock
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.marking.frozen_body import body_from_json
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.screen import expert, hints
from wolfsbane.exercise.screen.issue import EXAM, LONGEST_MIN, MODES, PRACTICE, SHORTEST_MIN, Issue, require_playable
from wolfsbane.exercise.screen.live import Live, begun, retold, step
from wolfsbane.exercise.screen.marks import PART_NAMES, RUBRIC, RUBRIC_VERSION, Marked, marked
from wolfsbane.exercise.screen.run import Step, fold
from wolfsbane.exercise.screen.shown import shown_from
from wolfsbane.exercise.screen.steps import MACHINE, checked
from wolfsbane.server.core.db.database import ConflictError, jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.own_machines import machine_called

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.shown import Shown
    from wolfsbane.server.core.db.database import Connection

#: what a machine is played for: a run, or a lesson
Key = tuple[str, int]
#: machines kept in the memory of a process, the newest
_MOST = 200
#: steps of one call, and of one request
_LONGEST, AT_ONCE = 600, 60
#: seconds after the end of an exam in which what was typed before it still arrives
_GRACE_S = 20.0
#: by what is played: how many steps it stands after, which was the last, and the machine
_kept: OrderedDict[Key, tuple[int, object, Live]] = OrderedDict()
_one = Lock()


def playable(body: dict[str, Any]) -> bool:
    """Whether a frozen body of a sheet can be played."""
    try:
        call = body_from_json(body)
        return isinstance(call, Call) and bool(require_playable(call))
    except BadInputError:
        return False


def issue_of(row: dict[str, Any]) -> Issue:
    """The issue behind a run's row, with the machine as it was frozen."""
    call = body_from_json(row["body"])
    assert isinstance(call, Call), "only calls are opened"
    machine = machine_called(call.machine.id)
    # where a release with other fields froze it, today's circuit stands in
    with suppress(TypeError):
        machine = replace(machine, circuit=Circuit(**call.machine.circuit))
    return Issue(call=call, machine=machine, mode=row["mode"], minutes=row["minutes"], rubric=row["rubric"])


def steps_of(connection: Connection, run_id: int) -> list[Step]:
    """The steps of a run, in order."""
    return as_steps(list(queries.screen_steps(connection, run_id=run_id)))


# --- the instructor's side --------------------------------------------------------------------------------------------


def open_sheet(
    connection: Connection, user: dict[str, Any], sheet: dict[str, Any], mode: str, minutes: float | None
) -> int:
    """Open the calls of a ready sheet on screen; returns the opening. Raises BadInputError, ApiError 409."""
    if mode not in MODES:
        raise BadInputError("mode", mode, ", ".join(MODES))
    if minutes is not None and not SHORTEST_MIN <= minutes <= LONGEST_MIN:
        raise BadInputError("minutes", minutes, f"{SHORTEST_MIN} to {LONGEST_MIN} minutes, or nothing")
    if mode == PRACTICE and minutes is not None:
        raise BadInputError("minutes", minutes, "nothing: only an exam has a limit")
    if sheet["status"] != "ready":
        raise ApiError(409, "not_now", "the sheet is not ready yet")
    bodies = queries.sheet_bodies(connection, school_id=user["school_id"], sheet_id=sheet["id"])
    if not any(playable(row["body"]) for row in bodies):
        raise ApiError(409, "not_now", "no call of this sheet can be played: drills, situations and rigs are for paper")
    try:
        return int(
            queries.screen_open(
                connection,
                school_id=user["school_id"],
                sheet_id=sheet["id"],
                mode=mode,
                minutes=minutes,
                rubric=RUBRIC_VERSION,
                points=jsonb(RUBRIC),
                opened_by=user["id"],
            )["id"]
        )
    except ConflictError:
        raise ApiError(409, "not_now", "this sheet is open on screen already") from None


def end_due(connection: Connection, school_id: int, opening_id: int) -> None:
    """Mark what was left under way when the time was over."""
    for row in list(queries.screen_due(connection, school_id=school_id, opening_id=opening_id)):
        finish(connection, run_row(connection, school_id, row["id"]))


def run_row(connection: Connection, school_id: int, run_id: int) -> dict[str, Any]:
    """A run with all it stands on. Raises ApiError 404."""
    row: dict[str, Any] | None = queries.screen_run(connection, school_id=school_id, id=run_id)
    if row is None:
        raise not_found(f"run {run_id}")
    return row


# --- playing ----------------------------------------------------------------------------------------------------------


def own_run(connection: Connection, user: dict[str, Any], run_id: int) -> dict[str, Any]:
    """A run of whoever asks. Raises ApiError 404 for anybody else's."""
    row = run_row(connection, user["school_id"], run_id)
    if row["user_id"] != user["id"]:
        raise not_found(f"run {run_id}")
    return row


def begin(connection: Connection, user: dict[str, Any], paper_call_id: int) -> int:
    """Begin a call of one's own, or go on with it; returns the run. Raises ApiError 404."""
    row = queries.screen_call(connection, school_id=user["school_id"], user_id=user["id"], paper_call_id=paper_call_id)
    if row is None or not playable(row["body"]):
        raise not_found("this call, open on screen for you,")
    return int(
        queries.screen_begin(
            connection,
            school_id=user["school_id"],
            opening_id=row["opening_id"],
            paper_call_id=paper_call_id,
            solver_version=SOLVER_VERSION,
        )["id"]
    )


def left_s(row: dict[str, Any]) -> float | None:
    """Seconds left of an exam, with the allowance of whoever sits it; None without a limit."""
    if row["minutes"] is None:
        return None
    return 60.0 * float(row["minutes"]) * float(row["factor"]) - float(row["since_s"])


def take(
    connection: Connection, user: dict[str, Any], run_id: int, after: int, coming: list[dict[str, Any]]
) -> dict[str, Any]:
    """Do the steps that a device sends, each once; ``after`` is how many steps it knows of. Returns the run's row.

    What is written down is taken from wherever it comes. A step that the machine answers is refused where the machine
    has gone on meanwhile from another device: ApiError 409 ``moved_on``. Raises BadInputError, ApiError 404 and 409.
    """
    own_run(connection, user, run_id)
    queries.screen_hold(connection, school_id=user["school_id"], id=run_id)
    row = own_run(connection, user, run_id)
    kept = list(queries.screen_steps(connection, run_id=run_id))
    known = {k["uid"] for k in kept}
    fresh = [c for c in coming if c["uid"] not in known]
    if not fresh:
        return row
    _require_open(row)
    unknown = [k for k in kept[after:] if k["kind"] in MACHINE and k["uid"] not in {c["uid"] for c in coming}]
    live: Live | None = None
    for one in fresh:
        kind, data = one["kind"], checked(one["kind"], one["data"])
        if len(kept) >= _LONGEST:
            raise ApiError(409, "not_now", f"a call has at most {_LONGEST} steps")
        shown: dict[str, Any] | None = None
        if kind in MACHINE:
            if unknown:
                raise ApiError(409, "moved_on", "this call went on at another place; look at where it stands first")
            live = live or standing(("run", run_id), issue_of(row), kept)
            shown = done(live, kind, data).to_json()
        elif kind == "hint":
            if row["mode"] == EXAM:
                raise ApiError(409, "not_now", "there are no hints in an exam")
            shown = {"said": hints.hint(issue_of(row), fold(as_steps(kept)))}
        elif kind == "name" and any(k["kind"] == "name" for k in kept):
            raise ApiError(409, "not_now", "the fault was named already")
        kept.append({"number": len(kept) + 1, "uid": one["uid"], "kind": kind, "data": data, "shown": shown, "at": 0.0})
        queries.screen_step_add(
            connection,
            school_id=user["school_id"],
            run_id=run_id,
            number=len(kept),
            uid=one["uid"],
            kind=kind,
            data=jsonb(data),
            shown=None if shown is None else jsonb(shown),
        )
        if kind == "finish":
            keep(("run", run_id), kept, live)
            finish(connection, row)
            return own_run(connection, user, run_id)
    keep(("run", run_id), kept, live)
    return row


def _require_open(row: dict[str, Any]) -> None:
    if row["finished_at"] is not None:
        raise ApiError(409, "finished", "this call is finished")
    left = left_s(row)
    if row["closed_at"] is not None or (left is not None and left < -_GRACE_S):
        raise ApiError(409, "finished", "the time is over: what you had is marked")


def as_steps(kept: list[dict[str, Any]]) -> list[Step]:
    """Steps as they were kept."""
    return [
        Step(kind=k["kind"], data=k["data"], shown=shown_from(k["shown"]) if k["kind"] in MACHINE else None)
        for k in kept
    ]


def standing(key: Key, issue: Issue, kept: list[dict[str, Any]]) -> Live:
    """The machine as it stands after the steps that were kept; :func:`keep` gives it back. One that other processes
    played on meanwhile only catches up.
    """
    with _one:
        number, last, live = _kept.pop(key, (0, None, None))
    if live is None or number > len(kept) or _told_apart(kept[number - 1]) != last:
        number, live = 0, begun(issue.setup)
    return retold(live, [shown_from(k["shown"]) for k in kept[number:] if k["kind"] in MACHINE])


def _told_apart(row: dict[str, Any]) -> object:
    """What tells a step from another that may have come in its place where it was not kept in the end."""
    return row.get("uid") or (row["kind"], row["data"])


def done(live: Live, kind: str, data: dict[str, Any]) -> Shown:
    """Do a step on the machine. Raises ApiError 409 where it cannot be followed."""
    try:
        return step(live, kind, data)
    except NoConvergenceError:
        raise ApiError(409, "not_now", "the machine cannot be followed there; do something else") from None


def keep(key: Key, kept: list[dict[str, Any]], live: Live | None) -> None:
    """Keep the machine for the next step, which most likely comes here."""
    if live is None or not kept:
        return
    with _one:
        _kept[key] = (len(kept), _told_apart(kept[-1]), live)
        _kept.move_to_end(key)
        while len(_kept) > _MOST:
            _kept.popitem(last=False)


def drop(key: Key) -> None:
    """Nobody plays it any more."""
    with _one:
        _kept.pop(key, None)


def finish(connection: Connection, row: dict[str, Any]) -> None:
    """End a run and mark it as it stands."""
    found = judged(issue_of(row), steps_of(connection, row["id"]), row["points"])
    queries.screen_finish(connection, school_id=row["school_id"], id=row["id"], judged=jsonb(found))
    drop(("run", row["id"]))


# --- marks and ways ---------------------------------------------------------------------------------------------------


def judged(issue: Issue, steps: list[Step], points: dict[str, int]) -> dict[str, Any]:
    """Marks of a run and both ways, the student's and the expert's, as plain data; ``points`` are of its rubric."""
    run = fold(steps)
    live = retold(begun(issue.setup), run.shown)
    looked = expert.looked(issue.setup, issue.practice, issue.accepted)
    minutes, named_after = looked.minutes, len(looked.shown)
    found = marked(issue, run, live, minutes, points)
    best = expert.worked(looked, issue.practice)
    return {
        "marks": marks_json(found),
        "minutes": round(sum(s.minutes for s in run.shown), 1),
        "bill": round(live.bill),
        "named_after": len(run.before),
        "way": [t.to_json() for t in expert.told(issue.setup, issue.practice, issue.accepted, run.shown)],
        "expert": {
            "minutes": round(best.minutes, 1),
            "bill": round(best.bill),
            "named_after": named_after,
            "way": [t.to_json() for t in expert.told(issue.setup, issue.practice, issue.accepted, best.shown)],
        },
        "answer": issue.call.key.fault_name,
        "solver": SOLVER_VERSION,
    }


def marks_json(found: Marked) -> dict[str, Any]:
    """Marks as plain data."""
    return {
        "earned": found.earned,
        "possible": found.possible,
        "off": found.off,
        "off_for": list(found.off_for),
        "belief": round(found.belief, 3),
        "parts": [
            {
                "part": p.part,
                "name": PART_NAMES[p.part],
                "points": p.points,
                "earned": p.earned,
                "reasons": list(p.reasons),
            }
            for p in found.parts
        ],
    }
