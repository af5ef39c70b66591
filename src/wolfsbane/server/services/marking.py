"""Marking papers: a paper by its code, answers typed by one or two at once, overrides, answers read from a CSV."""

from __future__ import annotations

import csv
import io
import re
from collections import defaultdict
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import in_order
from wolfsbane.exercise.draw import seeds as papers_of
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.rules import rules
from wolfsbane.exercise.paper.call import Call
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.wording import reason_text
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.server.core.errors import ApiError, not_found
from wolfsbane.server.services.offered import choices_of
from wolfsbane.server.services.sheets import audit

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.marking.rules import Rules
    from wolfsbane.server.core.db.database import Connection


def paper_by_code(connection: Connection, school_id: int, typed: str) -> dict[str, Any]:
    """The paper row behind a typed or scanned code; BadInputError for an impossible code, 404 for an unknown one."""
    code = papers_of.normal_code(re.sub(r"^.*[/:#]", "", str(typed).strip()))
    if code is None:
        raise BadInputError("code", typed, "the six characters printed at the top right of the paper")
    paper = queries.paper_by_code(connection, school_id=school_id, code=code)
    if paper is None:
        raise not_found(f"a paper with the code {code}")
    return paper


class MarkingBasis:
    """What a sheet's calls are marked by: the rules of each position and what its rig read; looked up once."""

    def __init__(self, connection: Connection, school_id: int, sheet_id: int) -> None:
        self._measured: dict[int, Body | None] = {}
        self._timed: dict[int, dict[int, Body]] = {}
        self._connection, self._school_id, self._sheet_id = connection, school_id, sheet_id
        self.rules = {
            row["position"]: rules(row["rules"]) for row in queries.sheet_call_list(connection, sheet_id=sheet_id)
        }

    def body(self, position: int, stored: dict[str, Any], paper_id: int) -> Body:
        """The body to mark a paper against, as stored: of a rig the one with what it read while the paper's apprentice
        was there, else the one with what it really read, once somebody entered it.
        """
        body = frozen_body.body_from_json(stored)
        if not frozen_body.on_rig(body):
            return body
        timed = self.timed(position, paper_id)
        if timed is not None:
            return timed
        if position not in self._measured:
            row = queries.measurement_newest(
                self._connection, school_id=self._school_id, sheet_id=self._sheet_id, position=position
            )
            self._measured[position] = None if row is None else frozen_body.body_from_json(row["body"])
        return self._measured[position] or body

    def timed(self, position: int, paper_id: int) -> Body | None:
        """The body with what the rig read while the paper's apprentice was there; None where nobody said when."""
        if position not in self._timed:
            rows = queries.measurements_of_papers(
                self._connection, school_id=self._school_id, sheet_id=self._sheet_id, position=position
            )
            self._timed[position] = {row["paper_id"]: frozen_body.body_from_json(row["body"]) for row in rows}
        return self._timed[position].get(paper_id)


def paper_view(connection: Connection, paper: dict[str, Any], school_id: int) -> dict[str, Any]:
    """Everything the marking page shows of one paper. For markers."""
    basis = MarkingBasis(connection, school_id, paper["sheet_id"])
    answers: defaultdict[int, dict[str, dict[str, Any]]] = defaultdict(dict)
    marks: defaultdict[int, list[dict[str, Any]]] = defaultdict(list)
    for row in queries.answer_list(connection, paper_id=paper["id"]):
        answers[row["paper_call_id"]][row["question_id"]] = row
    for row in queries.mark_list(connection, paper_id=paper["id"]):
        marks[row["paper_call_id"]].append(row)
    calls = [
        _call_view(row, basis.body(row["position"], row["body"], paper["id"]), answers[row["id"]], marks[row["id"]])
        for row in queries.paper_call_list(connection, paper_id=paper["id"])
    ]
    return {
        "code": paper["code"],
        "name": paper["name"],
        "attempt": paper["attempt"],
        "sheet_id": paper["sheet_id"],
        "apprentice_id": paper["apprentice_id"],
        "sheet_title": paper["sheet_title"],
        "calls": calls,
        "earned": sum(c["earned"] for c in calls),
        "possible": sum(c["possible"] for c in calls),
    }


def mark_row(mark: dict[str, Any]) -> dict[str, Any]:
    """A stored mark with its sentence."""
    return {
        "question": mark["question_id"],
        "points": mark["points"],
        "earned": mark["earned"],
        "code": mark["code"],
        "text": reason_text(mark["code"], mark["params"]),
        "suggested": mark["suggested"],
        "overridden": mark["overridden"],
    }


def _call_view(
    row: dict[str, Any], body: Body, answers: dict[str, dict[str, Any]], marks: list[dict[str, Any]]
) -> dict[str, Any]:
    questions = frozen_body.questions_of(body)
    order = {q.id: i for i, q in enumerate(questions)}
    shown = [mark_row(m) for m in sorted(marks, key=lambda m: order.get(m["question_id"], 99))]
    key, call = frozen_body.key_answers(body), body if isinstance(body, Call) else None
    return {
        "position": row["position"],
        "title": frozen_body.title_of(body),
        "complaint": body.drill["instruction"] if isinstance(body, DrillBody) else body.complaint,
        "readings": (
            [] if call is None else [{"label": r.label, "text": r.text} for r in in_order(call.readings).values()]
        ),
        "questions": [
            {
                **asdict(q),
                "raw": answers[q.id]["raw"] if q.id in answers else "",
                "key": key.get(q.id, ""),
                "revision": answers[q.id]["revision"] if q.id in answers else 0,
                "writer": answers[q.id]["writer"] if q.id in answers else None,
            }
            for q in questions
        ],
        "choices": choices_of(body),
        "marks": shown,
        "earned": sum(m["earned"] for m in shown),
        "waits": frozen_body.waits(body),
        "answered": bool(answers),
        "possible": sum(m["points"] for m in shown) if shown else row["possible"],
        "rig": frozen_body.on_rig(body),
        "measured": call is not None and call.key.measured,
    }


def enter_answers(
    connection: Connection,
    user: dict[str, Any],
    paper: dict[str, Any],
    position: int,
    answers: dict[str, str],
    base: dict[str, int] | None = None,
    source: str = "paper",
) -> None:
    """Keep raw answers of one call and mark it with all that is known of it. Raises BadInputError, ApiError 409.

    ``answers`` may be some of the questions; the others stay as they are. ``base`` holds the revisions the marker saw:
    where somebody else changed one of ``answers`` to something else since, nothing is kept and the error names both.
    Two markers on one call therefore never undo each other's work without being asked. A rule that changes meanwhile
    waits for the marks.
    """
    queries.sheet_share(connection, id=paper["sheet_id"])
    row = queries.paper_call_hold(connection, paper_id=paper["id"], position=position)
    if row is None:
        calls = list(queries.paper_call_list(connection, paper_id=paper["id"]))
        raise BadInputError("call", position, f"1 to {len(calls)}")
    basis = MarkingBasis(connection, user["school_id"], paper["sheet_id"])
    body = basis.body(position, row["body"], paper["id"])
    units = {q.id: q.unit for q in frozen_body.questions_of(body)}
    for question_id in answers:
        if question_id not in units:
            raise BadInputError("answers", question_id, ", ".join(units))
    there = {a["question_id"]: a for a in queries.call_answers(connection, paper_call_id=row["id"])}
    _refuse_lost(answers, base, there)
    changed = {q: raw for q, raw in answers.items() if q not in there or there[q]["raw"] != raw}
    for question_id, raw in changed.items():
        queries.answer_put(
            connection,
            school_id=user["school_id"],
            paper_call_id=row["id"],
            question_id=question_id,
            raw=raw,
            unit=units[question_id],
            source=source,
            user_id=user["id"],
        )
    if changed:
        audit(
            connection,
            user,
            paper["sheet_id"],
            "answers",
            paper_id=paper["id"],
            position=position,
            before={q: there[q]["raw"] for q in changed if q in there} or None,
            after=changed,
        )
    whole = {q: a["raw"] for q, a in there.items()} | answers
    remark(connection, user["school_id"], row["id"], body, whole, basis.rules[position])


def _refuse_lost(answers: dict[str, str], base: dict[str, int] | None, there: dict[str, dict[str, Any]]) -> None:
    for question_id, raw in answers.items():
        seen = None if base is None else base.get(question_id, 0)
        now = there.get(question_id)
        if seen is not None and now is not None and now["revision"] != seen and now["raw"] != raw:
            raise ApiError(
                409,
                "marked_meanwhile",
                f"somebody else just typed “{now['raw']}” where you typed “{raw}” "
                "(nothing is lost: reload, look at the paper and type what it says)",
                question_id,
            )


def remark(
    connection: Connection, school_id: int, paper_call_id: int, body: Body, answers: dict[str, str], by: Rules
) -> dict[str, dict[str, Any]]:
    """Mark one call again; what an instructor overrode stays. Returns the marks as they were before, by question."""
    before = {m["question_id"]: m for m in queries.call_marks(connection, paper_call_id=paper_call_id)}
    for mark in frozen_body.grade_body(body, answers, by):
        old = before.get(mark.question)
        if old is not None and old["overridden"] and mark.code != "void":
            continue
        queries.mark_put(
            connection,
            school_id=school_id,
            paper_call_id=paper_call_id,
            question_id=mark.question,
            points=mark.points,
            earned=mark.earned,
            code=mark.code,
            params=jsonb(mark.params),
            suggested=mark.suggested,
            overridden=False,
            rubric_version=frozen_body.rubric_of(body),
        )
    return before


def override(
    connection: Connection,
    user: dict[str, Any],
    paper: dict[str, Any],
    position: int,
    question: str,
    earned: int | None,
    reason: str,
) -> None:
    """An instructor's own mark, with a reason; also how a suggestion for free text is confirmed.

    Raises BadInputError.
    """
    queries.sheet_share(connection, id=paper["sheet_id"])
    row = queries.paper_call_hold(connection, paper_id=paper["id"], position=position)
    marks = (
        {} if row is None else {m["question_id"]: m for m in queries.call_marks(connection, paper_call_id=row["id"])}
    )
    if question not in marks:
        raise BadInputError("question", question, "a question of this call that is marked: " + ", ".join(marks))
    old = marks[question]
    if earned is None:
        _back_to_the_rubric(connection, user, paper, row, question)
    else:
        if not 0 <= earned <= old["points"]:
            raise BadInputError("earned", earned, f"0 to {old['points']}")
        confirmed = old["code"] == "to_confirm" and earned == old["suggested"] and not reason.strip()
        if not confirmed and not reason.strip():
            raise BadInputError("reason", reason, "a few words: why this mark differs from the rubric")
        queries.mark_put(
            connection,
            school_id=user["school_id"],
            paper_call_id=row["id"],
            question_id=question,
            points=old["points"],
            earned=earned,
            code="confirmed" if confirmed else "overridden",
            params=jsonb({} if confirmed else {"reason": reason.strip()}),
            suggested=old["suggested"],
            overridden=True,
            rubric_version=old["rubric_version"],
        )
    new = {m["question_id"]: m for m in queries.call_marks(connection, paper_call_id=row["id"])}[question]
    audit(
        connection,
        user,
        paper["sheet_id"],
        "override" if earned is not None else "override taken back",
        paper_id=paper["id"],
        position=position,
        question_id=question,
        before={"earned": old["earned"]},
        after={"earned": new["earned"]},
        reason=reason.strip(),
    )


def _back_to_the_rubric(
    connection: Connection, user: dict[str, Any], paper: dict[str, Any], row: dict[str, Any], question: str
) -> None:
    basis = MarkingBasis(connection, user["school_id"], paper["sheet_id"])
    answers = {a["question_id"]: a["raw"] for a in queries.call_answers(connection, paper_call_id=row["id"])}
    body = basis.body(row["position"], row["body"], paper["id"])
    for mark in frozen_body.grade_body(body, answers, basis.rules[row["position"]]):
        if mark.question == question:
            queries.mark_put(
                connection,
                school_id=user["school_id"],
                paper_call_id=row["id"],
                question_id=question,
                points=mark.points,
                earned=mark.earned,
                code=mark.code,
                params=jsonb(mark.params),
                suggested=mark.suggested,
                overridden=False,
                rubric_version=frozen_body.rubric_of(body),
            )


def answers_csv_rows(text: str) -> list[dict[str, Any]]:
    """Rows of a CSV of answers: code, call, question, answer. Raises BadInputError naming the line."""
    if "\x00" in text:
        raise BadInputError("csv", "a zero byte", "text without zero bytes; save it as CSV in UTF-8")
    try:
        return _csv_rows(text)
    except csv.Error as error:
        raise BadInputError("csv", str(error), "lines a spreadsheet writes, with closed quotes") from error


def _csv_rows(text: str) -> list[dict[str, Any]]:
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=None), skipinitialspace=True)
    wanted = {"code", "call", "question", "answer"}
    names = {(n or "").strip().lower(): n for n in reader.fieldnames or ()}
    if not wanted <= set(names):
        raise BadInputError("csv", ", ".join(names), "a first line that names code, call, question, answer")
    rows = []
    for number, line in enumerate(reader, 2):
        row = {key: (line[names[key]] or "").strip() for key in wanted}
        if not any(row.values()):
            continue
        if not re.fullmatch(r"[0-9]{1,3}", row["call"]):
            raise BadInputError(f"csv line {number}", row["call"], "a call by its number")
        raw = row["answer"]
        rows.append(
            {
                **row,
                "call": int(row["call"]),
                "line": number,
                "answer": raw[1:] if raw[:2] in ("'-", "'+", "'=") else raw,
            }
        )
    if not rows:
        raise BadInputError("csv", "", "at least one line of answers")
    return rows


def enter_csv(
    connection: Connection, user: dict[str, Any], sheet_id: int, text: str
) -> tuple[int, int, list[dict[str, Any]]]:
    """Keep and mark all answers of a CSV, or none of them; returns (papers, answers, what was not understood).

    What was not understood are rows {code, call, question, said}: kept as written, marked as unreadable, and said at
    once. Raises BadInputError naming the line.
    """
    asked_back: list[dict[str, Any]] = []
    grouped: defaultdict[tuple[str, int], dict[str, str]] = defaultdict(dict)
    lines: dict[Any, Any] = {}
    for row in answers_csv_rows(text):
        grouped[(row["code"], row["call"])][row["question"]] = row["answer"]
        lines.setdefault((row["code"], row["call"]), row["line"])
    papers: dict[Any, Any] = {}
    for (code, position), answers in grouped.items():
        try:
            paper = papers.setdefault(code, None) or paper_by_code(connection, user["school_id"], code)
            if paper["sheet_id"] != sheet_id:
                raise BadInputError("code", code, "a paper of this sheet")
            papers[code] = paper
            enter_answers(connection, user, paper, position, answers, source="csv")
            asked_back += _not_understood(connection, paper, position, code, answers)
        except (BadInputError, ApiError) as error:
            raise BadInputError(f"csv line {lines[(code, position)]}", code, str(error)) from error
    return len(papers), sum(map(len, grouped.values())), asked_back


def _not_understood(
    connection: Connection, paper: dict[str, Any], position: int, code: str, answers: dict[str, str]
) -> list[dict[str, Any]]:
    """Answers just kept that could not be read as one answer, each with the sentence that says so."""
    row = queries.paper_call_hold(connection, paper_id=paper["id"], position=position)
    return [
        {
            "code": code,
            "call": position,
            "question": mark["question_id"],
            "said": reason_text(mark["code"], mark["params"]),
        }
        for mark in queries.call_marks(connection, paper_call_id=row["id"])
        if mark["question_id"] in answers and mark["code"] in ("unreadable", "asked_back", "unknown_letter")
    ]
