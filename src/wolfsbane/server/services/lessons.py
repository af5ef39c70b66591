"""Lessons: a call on the projector that a class plays together, step by step, by vote. The call is drawn for the lesson
and is nobody's paper. The token of the class's screen opens what the class has seen and nothing else.
"""

from __future__ import annotations

import hashlib
import secrets
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.screen import lesson
from wolfsbane.exercise.screen.issue import require_playable
from wolfsbane.exercise.screen.lesson import NAME, NEXT, READ_OFF, WORK
from wolfsbane.exercise.screen.marks import RUBRIC, RUBRIC_VERSION
from wolfsbane.exercise.screen.run import Run, fold
from wolfsbane.exercise.screen.steps import MACHINE, checked
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services import screen, screen_views, sheets

if TYPE_CHECKING:
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.exercise.screen.live import Live
    from wolfsbane.server.core.db.database import Connection

TOKEN_HEADER = "X-Wolfsbane-Lesson"
#: a class has fewer people than this: variants from here on are nobody's
_NOBODY = 5000
#: steps of a lesson, hands counted for one choice
_LONGEST, HANDS_AT_ONCE = 300, 400
#: parts of the rubric that a class earns together
CLASS_PARTS = ("fault", "evidence", "economy", "work", "proof")


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def to_draw(
    connection: Connection, user: dict[str, Any], sheet: dict[str, Any], position: int
) -> tuple[dict[str, Any], int, int, str, int]:
    """What a lesson's call is drawn from: a call of a ready sheet, as a variant that nobody has on paper. Raises
    BadInputError, ApiError 409.
    """
    if sheet["status"] != "ready":
        raise ApiError(409, "not_now", "the sheet is not ready yet")
    items = sheets.full_items(connection, sheet["id"])
    if not 1 <= position <= len(items):
        raise BadInputError("position", position, f"a call of this sheet, 1 to {len(items)}")
    before = queries.lesson_count(connection, school_id=user["school_id"], sheet_id=sheet["id"])["n"]
    return items[position - 1], position, _NOBODY + before, sheet["units"], sheet["seed"]


def drawn(given: tuple[dict[str, Any], int, int, str, int]) -> Call:
    """The call drawn from it; this takes its time and needs no connection. Raises BadInputError, ApiError 409."""
    try:
        body = items_of.draw(*given)
    except sheets.REFUSED as error:
        raise ApiError(409, "not_now", str(error)) from None
    if not isinstance(body, Call):
        raise BadInputError("position", given[1], "a call that can be played: drills and situations are for paper")
    return require_playable(body)


def begin(connection: Connection, user: dict[str, Any], sheet_id: int, position: int, call: Call) -> tuple[int, str]:
    """Begin a lesson with a call drawn for it; returns it and the token of the class's screen."""
    token = secrets.token_urlsafe(24)
    row = queries.lesson_add(
        connection,
        school_id=user["school_id"],
        sheet_id=sheet_id,
        position=position,
        body=jsonb(call.to_json()),
        rubric=RUBRIC_VERSION,
        points=jsonb(RUBRIC),
        solver_version=SOLVER_VERSION,
        user_id=user["id"],
        token_hash=_digest(token),
    )
    return int(row["id"]), token


def new_link(connection: Connection, user: dict[str, Any], lesson_id: int) -> str:
    """Another link for the class's screen in place of the one before. Raises ApiError 404."""
    held(connection, user, lesson_id)
    token = secrets.token_urlsafe(24)
    queries.lesson_token(connection, school_id=user["school_id"], id=lesson_id, token_hash=_digest(token))
    return token


def held(connection: Connection, user: dict[str, Any], lesson_id: int, *, going: bool = False) -> dict[str, Any]:
    """A lesson of the school, held while it changes; ``going`` for one that has not ended. Raises ApiError 404, 409."""
    queries.lesson_hold(connection, school_id=user["school_id"], id=lesson_id)
    row: dict[str, Any] | None = queries.lesson_row(connection, school_id=user["school_id"], id=lesson_id)
    if row is None:
        raise not_found(f"lesson {lesson_id}")
    if going and row["ended_at"] is not None:
        raise ApiError(409, "finished", "this lesson is over")
    return row


def issue_of(row: dict[str, Any]) -> Issue:
    """The issue behind a lesson's row."""
    return screen.issue_of(row | {"mode": "lesson", "minutes": None})


def _run(connection: Connection, row: dict[str, Any]) -> tuple[list[dict[str, Any]], Run]:
    rows = list(queries.lesson_steps(connection, lesson_id=row["id"]))
    return rows, fold(screen.as_steps(rows))


# --- votes ------------------------------------------------------------------------------------------------------------


def ask(connection: Connection, user: dict[str, Any], lesson_id: int, kind: str) -> None:
    """Open a vote; one that was open is dropped. Raises BadInputError for one that has no place now."""
    row = held(connection, user, lesson_id, going=True)
    _, run = _run(connection, row)
    lesson.choices(issue_of(row), run, kind)
    before = (row["vote"] or {}).get("round", 0)
    vote = {"round": before + 1, "kind": kind, "open": True, "hands": {}, "counted": []}
    queries.lesson_turn(connection, school_id=user["school_id"], id=lesson_id, vote=jsonb(vote))


def _open(row: dict[str, Any]) -> dict[str, Any]:
    vote: dict[str, Any] | None = row["vote"]
    if vote is None or not vote["open"]:
        raise ApiError(409, "not_now", "no vote is open")
    return vote


def count_hands(connection: Connection, user: dict[str, Any], lesson_id: int, choice: str, count: int) -> None:
    """Hands counted in the room for a choice. Raises BadInputError, ApiError 409."""
    row = held(connection, user, lesson_id, going=True)
    vote = _open(row)
    _, run = _run(connection, row)
    choice = lesson.require_choice(issue_of(row), run, vote["kind"], choice)
    vote["hands"] = {k: n for k, n in {**vote["hands"], choice: count}.items() if n}
    queries.lesson_turn(connection, school_id=user["school_id"], id=lesson_id, vote=jsonb(vote))


def _counted(connection: Connection, row: dict[str, Any], vote: dict[str, Any]) -> list[tuple[str, int]]:
    votes = queries.vote_list(connection, lesson_id=row["id"], round=vote["round"])
    return lesson.tally((v["choice"] for v in votes), vote["hands"])


def close(connection: Connection, user: dict[str, Any], lesson_id: int) -> None:
    """Count the vote and show the class how it came out. Raises ApiError 409 where none is open."""
    row = held(connection, user, lesson_id, going=True)
    vote = _open(row)
    vote |= {"open": False, "counted": _counted(connection, row, vote)}
    queries.lesson_turn(connection, school_id=user["school_id"], id=lesson_id, vote=jsonb(vote))


def mine(connection: Connection, user: dict[str, Any]) -> dict[str, Any] | None:
    """The lesson that is on for a student, as their device shows it: the vote, its choices, and their own."""
    row = queries.lesson_of_mine(connection, school_id=user["school_id"], user_id=user["id"])
    if row is None:
        return None
    vote = row["vote"]
    found: dict[str, Any] = {"id": row["id"], "title": row["title"], "revision": row["revision"], "vote": None}
    if vote is None:
        return found
    votes = list(queries.vote_list(connection, lesson_id=row["id"], round=vote["round"]))
    own = next((v["choice"] for v in votes if v["user_id"] == user["id"]), None)
    _, run = _run(connection, row)
    return found | {"vote": _vote(issue_of(row), run, vote, len(votes)) | {"own": own}}


def cast(connection: Connection, user: dict[str, Any], lesson_id: int, round_: int, choice: str) -> None:
    """A student's vote. Raises BadInputError, ApiError 404 for somebody else's lesson, 409 once it was counted."""
    row = queries.lesson_of_mine(connection, school_id=user["school_id"], user_id=user["id"])
    if row is None or row["id"] != lesson_id:
        raise not_found(f"lesson {lesson_id}")
    vote = _open(row)
    if vote["round"] != round_:
        raise ApiError(409, "not_now", "the class went on to another vote")
    _, run = _run(connection, row)
    queries.vote_put(
        connection,
        school_id=user["school_id"],
        lesson_id=lesson_id,
        round=round_,
        user_id=user["id"],
        choice=lesson.require_choice(issue_of(row), run, vote["kind"], choice),
    )
    queries.vote_seen(connection, id=lesson_id)


# --- the machine ------------------------------------------------------------------------------------------------------


def do(
    connection: Connection, user: dict[str, Any], lesson_id: int, choice: str, arguments: dict[str, Any] | None
) -> None:
    """Do what the class decided, or what the instructor chooses; ``arguments`` of an action stand over its usual
    amounts. Raises BadInputError, ApiError 404 and 409.
    """
    row = held(connection, user, lesson_id, going=True)
    vote = row["vote"]
    if vote is not None and vote["open"]:
        raise ApiError(409, "not_now", "count the vote first")
    rows, run = _run(connection, row)
    issue = issue_of(row)
    told = {"kind": vote["kind"], "counted": vote["counted"]} if vote is not None else None
    live: Live | None = None
    coming: list[tuple[str, dict[str, Any]]] = []
    if choice.startswith("number:"):
        coming = [_read_off(issue, run, choice.removeprefix("number:"))]
    elif choice.startswith("name:"):
        lesson.require_choice(issue, run, NAME, choice)
        coming = lesson.board(issue, screen.as_steps(rows))
        coming += [("answer", {"question": "fault", "text": choice.removeprefix("name:")}), ("name", {})]
    elif choice != lesson.ENOUGH:
        lesson.require_choice(issue, run, WORK if run.named else NEXT, choice)
        live = screen.standing(("lesson", lesson_id), issue, rows)
        coming = [
            (kind, data | {"arguments": arguments} if kind == "act" and arguments else data)
            for kind, data in lesson.follow(live, choice)
        ]
    for n, (kind, data) in enumerate(coming):
        _one_more(connection, row, rows, live, kind, data, told if n == len(coming) - 1 else None)
        if kind == "read" and (digits := (rows[-1]["shown"]["reading"] or {}).get("text")):
            # digits need nobody to read them off
            _one_more(connection, row, rows, None, *_written(run, data["point"], digits), None)
    screen.keep(("lesson", lesson_id), rows, live)
    queries.lesson_turn(
        connection,
        school_id=user["school_id"],
        id=lesson_id,
        vote=jsonb({"round": vote["round"], "kind": vote["kind"], "open": False, "hands": {}, "counted": []})
        if vote is not None
        else None,
    )


def _one_more(
    connection: Connection,
    row: dict[str, Any],
    rows: list[dict[str, Any]],
    live: Live | None,
    kind: str,
    data: dict[str, Any],
    told: dict[str, Any] | None,
) -> None:
    if len(rows) >= _LONGEST:
        raise ApiError(409, "not_now", f"a lesson has at most {_LONGEST} steps")
    data = checked(kind, data)
    shown = None
    if kind in MACHINE:
        assert live is not None, "a step of the machine's"
        shown = screen.done(live, kind, data).to_json()
    rows.append({"number": len(rows) + 1, "kind": kind, "data": data, "shown": shown, "vote": told})
    queries.lesson_step_add(
        connection,
        school_id=row["school_id"],
        lesson_id=row["id"],
        number=len(rows),
        kind=kind,
        data=jsonb(data),
        shown=None if shown is None else jsonb(shown),
        vote=None if told is None else jsonb(told),
    )


def _read_off(issue: Issue, run: Run, text: str) -> tuple[str, dict[str, Any]]:
    """What the class read off an instrument, as it is written down."""
    text = lesson.require_choice(issue, run, READ_OFF, text)
    point = lesson.on_dial(run.shown)
    if point is None:
        raise ApiError(409, "not_now", "nothing was read yet")
    return _written(run, point, text)


def _written(run: Run, point: str, text: str) -> tuple[str, dict[str, Any]]:
    if run.named:
        return "proof", {"point": point, "text": text}
    return "answer", {"question": f"read_{point}", "text": text}


def end(connection: Connection, user: dict[str, Any], lesson_id: int) -> None:
    """End a lesson: both ways are worked out and shown. Raises ApiError 404 and 409."""
    row = held(connection, user, lesson_id, going=True)
    rows, _ = _run(connection, row)
    issue = issue_of(row)
    found = screen.judged(issue, screen.as_steps(rows), row["points"])
    kept = [p for p in found["marks"]["parts"] if p["part"] in CLASS_PARTS]
    found["marks"] |= {
        "parts": kept,
        "earned": max(sum(p["earned"] for p in kept) - found["marks"]["off"], 0),
        "possible": sum(p["points"] for p in kept),
    }
    queries.lesson_end(connection, school_id=user["school_id"], id=lesson_id, judged=jsonb(found))
    screen.drop(("lesson", lesson_id))


# --- views ------------------------------------------------------------------------------------------------------------


def _vote(issue: Issue, run: Run, vote: dict[str, Any], voted: int) -> dict[str, Any]:
    offered = []
    if vote["open"]:
        offered = [c.to_json() for c in lesson.choices(issue, run, vote["kind"])]
    counted = [(str(c), int(n)) for c, n in vote["counted"]]
    return {
        "round": vote["round"],
        "kind": vote["kind"],
        "asks": lesson.ASKS[vote["kind"]],
        "open": vote["open"],
        "voted": voted + sum(vote["hands"].values()),
        "choices": offered,
        "counted": [{"id": c, "text": _called(issue, c), "votes": n} for c, n in counted],
        "middle": lesson.middle(counted) if vote["kind"] == READ_OFF else None,
    }


def _at_once(issue: Issue, run: Run) -> list[dict[str, Any]]:
    """What an instructor can have done without a vote: actions have a panel of their own."""
    kinds = (WORK,) if run.named else (NEXT, NAME)
    found = [c for kind in kinds for c in lesson.choices(issue, run, kind)]
    return [c.to_json() for c in found if c.id != lesson.ENOUGH and not c.id.startswith("act:")]


def _called(issue: Issue, choice: str) -> str:
    """What a choice is called."""
    offered = [c for kind in (NEXT, NAME) for c in lesson.choices(issue, Run(), kind)]
    offered += lesson.choices(issue, Run(named=True), WORK)
    found = next((c for c in offered if c.id == choice), None)
    if found is None:
        return choice
    return f"Read: {found.text}" if found.group == "Read" else found.text


def shown(connection: Connection, row: dict[str, Any]) -> dict[str, Any]:
    """What the class sees: the machine as far as it was looked at, the vote, and at the end both ways."""
    issue = issue_of(row)
    rows, run = _run(connection, row)
    vote = row["vote"]
    votes = [] if vote is None else list(queries.vote_list(connection, lesson_id=row["id"], round=vote["round"]))
    return screen_views.scene(issue, rows) | {
        "id": row["id"],
        "title": row["title"],
        "position": row["position"],
        "revision": row["revision"],
        "vote": None if vote is None else _vote(issue, run, vote, len(votes)),
        "at_once": _at_once(issue, run),
        "read_off": {p: t.text for p, t in (run.typed | run.proofs).items()},
        "figures": [
            {"text": q.text, "answer": run.answers[q.id]}
            for q in issue.call.questions
            if q.id in run.answers and q.id != "fault"
        ],
        "named_as": next((c.text for c in issue.call.choices.fault if c.letter == run.answers.get("fault")), ""),
        "ended": row["ended_at"] is not None,
        "judged": row["judged"],
    }


def opened(connection: Connection, token: str, since: int) -> tuple[int, dict[str, Any] | None]:
    """What a token opens: (revision, what the class sees, None where nothing changed). Raises ApiError 404."""
    row = queries.lesson_by_token(connection, token_hash=_digest(token)) if token else None
    if row is None:
        raise ApiError(404, "not_shown", "no lesson is on under this link; ask your instructor for a new one")
    if row["revision"] == since:
        return row["revision"], None
    return row["revision"], shown(connection, row)


def of_sheet(connection: Connection, school_id: int, sheet_id: int) -> list[dict[str, Any]]:
    """The lessons of a sheet, the newest first."""
    return [
        {
            "id": r["id"],
            "position": r["position"],
            "began_at": r["began_at"].isoformat(),
            "ended": r["ended_at"] is not None,
            "minutes": r["judged"] and r["judged"]["minutes"],
            "expert_minutes": r["judged"] and r["judged"]["expert"]["minutes"],
        }
        for r in queries.lesson_list(connection, school_id=school_id, sheet_id=sheet_id)
    ]
