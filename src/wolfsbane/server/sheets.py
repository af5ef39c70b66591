"""Issuing a sheet, building its papers, marking them, and the results. Between the API, the job and the core."""

import csv
import io
import secrets
from collections import defaultdict

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import in_order
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise import sheet as papers_of
from wolfsbane.exercise.call import call_from_json
from wolfsbane.exercise.grading import RUBRIC_VERSION, grade
from wolfsbane.exercise.questions import wording
from wolfsbane.exercise.scenario import require_paper, scenario
from wolfsbane.exercise.variant import NoVariantError
from wolfsbane.exercise.wording import reason_text
from wolfsbane.server.db.database import jsonb, queries
from wolfsbane.server.errors import not_found
from wolfsbane.tables import combined_hash

_BROKEN = "Something broke on our side while this sheet was made. It is tried again by itself; if it stays so, issue it anew."


def issue(connection, user, *, title, class_id, scenario_ids, units, seed=None):
    """Write a queued sheet with its scenario versions; returns its id. The job is queued by the caller."""
    school_id = user["school_id"]
    if queries.class_get(connection, school_id=school_id, id=class_id) is None:
        raise BadInputError("class_id", class_id, "a class of this school")
    size = len(list(queries.apprentice_list(connection, school_id=school_id, class_id=class_id)))
    versions = []
    for scenario_id in scenario_ids:
        row = queries.scenario_get(connection, school_id=school_id, user_id=user["id"], id=scenario_id)
        if row is None:
            raise BadInputError("scenario_ids", scenario_id, "scenarios of this school that are not archived")
        require_paper(scenario(row["body"]))
        versions.append(row["version_id"])
    sheet_id = queries.sheet_add(
        connection, school_id=school_id, class_id=class_id, title=title, units=units,
        seed=secrets.randbelow(2**40) if seed is None else seed, total=size * (len(versions) + 2),
        solver_version=SOLVER_VERSION, table_hash=combined_hash(), rubric_version=RUBRIC_VERSION,
        user_id=user["id"])["id"]
    for position, version_id in enumerate(versions, 1):
        queries.sheet_call_add(connection, school_id=school_id, sheet_id=sheet_id, position=position,
                               version_id=version_id)
    return sheet_id


def build(db, school_id, sheet_id, printers):
    """Build a sheet, and say so on the sheet when something unforeseen breaks it; the job then tries again."""
    try:
        _build(db, school_id, sheet_id, printers)
    except Exception:
        with db.transaction() as connection:
            queries.sheet_progress(connection, id=sheet_id, status="failed", done=0, problem=_BROKEN)
        raise


def _build(db, school_id, sheet_id, printers):
    """Draw every call, freeze the papers and print packet and key. Safe to run again after a crash.

    ``printers`` maps packet and key to functions (sheet, papers, progress) -> PDF bytes. A scenario without a fair
    variant marks the sheet failed with the reason.
    """
    with db.transaction() as connection:
        sheet = queries.sheet_get(connection, school_id=school_id, id=sheet_id)
        if sheet is None or sheet["status"] == "ready":
            return
        queries.sheet_clear(connection, sheet_id=sheet_id)
        calls = list(queries.sheet_call_list(connection, sheet_id=sheet_id))
        people = list(queries.apprentice_list(connection, school_id=school_id, class_id=sheet["class_id"]))
    done = 0

    def progress(status="building", problem=None):
        with db.transaction() as connection:
            queries.sheet_progress(connection, id=sheet_id, status=status, done=done, problem=problem)

    progress()
    drawn = defaultdict(list)
    try:
        for row in calls:
            planned = scenario(row["body"])
            for index, call in enumerate(papers_of.draw_calls(
                    planned, row["position"], len(people), sheet["units"], sheet["seed"])):
                drawn[index].append(call.to_json())
                done += 1
                if done % 4 == 0:
                    progress()
    except (NoVariantError, BadInputError) as error:
        progress("failed", str(error))
        return
    papers = _freeze(db, sheet, people, drawn)

    def one_more():
        nonlocal done
        done += 1
        progress()

    for kind, print_papers in printers.items():
        pdf = print_papers(sheet, papers, one_more)
        with db.transaction() as connection:
            queries.document_put(connection, school_id=school_id, sheet_id=sheet_id, kind=kind, pdf=pdf)
    with db.transaction() as connection:
        queries.sheet_ready(connection, id=sheet_id)


def _freeze(db, sheet, people, drawn):
    papers = []
    with db.transaction() as connection:
        for index, person in enumerate(people):
            code = _free_code(connection, sheet, index)
            paper_id = queries.paper_add(connection, school_id=sheet["school_id"], sheet_id=sheet["id"],
                                         apprentice_id=person["id"], code=code)["id"]
            for position, body in enumerate(drawn[index], 1):
                queries.paper_call_add(connection, school_id=sheet["school_id"], paper_id=paper_id,
                                       position=position, body=jsonb(body))
            papers.append({"name": person["name"], "code": code, "calls": drawn[index]})
    return papers


def _free_code(connection, sheet, index):
    for attempt in range(100):
        code = papers_of.code_for(sheet["seed"], f"{sheet['id']}/{attempt}", index)
        if not queries.code_taken(connection, school_id=sheet["school_id"], code=code)["taken"]:
            return code
    raise RuntimeError("no free paper code in a hundred draws")


def paper_by_code(connection, school_id, typed):
    """The paper row behind a typed code; BadInputError for an impossible code, 404 for an unknown one."""
    code = papers_of.normal_code(typed)
    if code is None:
        raise BadInputError("code", typed, "the six characters printed at the top right of the paper")
    paper = queries.paper_by_code(connection, school_id=school_id, code=code)
    if paper is None:
        raise not_found(f"a paper with the code {code}")
    return paper


def paper_view(connection, paper):
    """Everything the marking page shows of one paper. For instructors."""
    answers, marks = defaultdict(dict), defaultdict(list)
    for row in queries.answer_list(connection, paper_id=paper["id"]):
        answers[row["paper_call_id"]][row["question_id"]] = row["raw"]
    for row in queries.mark_list(connection, paper_id=paper["id"]):
        marks[row["paper_call_id"]].append(row)
    calls = [_call_view(row, answers[row["id"]], marks[row["id"]])
             for row in queries.paper_call_list(connection, paper_id=paper["id"])]
    return {"code": paper["code"], "name": paper["name"], "sheet_id": paper["sheet_id"],
            "sheet_title": paper["sheet_title"], "calls": calls,
            "earned": sum(c["earned"] for c in calls), "possible": sum(c["possible"] for c in calls)}


def _call_view(row, answers, marks):
    body = row["body"]
    order = {q["id"]: i for i, q in enumerate(body["questions"])}
    shown = [{"question": m["question_id"], "points": m["points"], "earned": m["earned"], "code": m["code"],
              "text": reason_text(m["code"], m["params"])}
             for m in sorted(marks, key=lambda m: order[m["question_id"]])]
    return {
        "position": row["position"], "title": body["key"]["fault_name"], "complaint": body["complaint"],
        "readings": [{"label": r["label"], "text": r["text"]} for r in in_order(body["readings"]).values()],
        "questions": [{**q, "raw": answers.get(q["id"], "")} for q in body["questions"]],
        "choices": body["choices"], "marks": shown, "earned": sum(m["earned"] for m in shown),
        "possible": sum(q["points"] for q in body["questions"]),
    }


def enter_answers(connection, user, paper, position, answers):
    """Keep the raw answers of one call and mark it. Raises BadInputError for an unknown call or question."""
    rows = {r["position"]: r for r in queries.paper_call_list(connection, paper_id=paper["id"])}
    if position not in rows:
        raise BadInputError("call", position, f"1 to {len(rows)}")
    row = rows[position]
    call = call_from_json(row["body"])
    units = {q["id"]: q["unit"] for q in call.questions}
    for question_id in answers:
        if question_id not in units:
            raise BadInputError("answers", question_id, ", ".join(units))
    for question_id, raw in answers.items():
        queries.answer_put(connection, school_id=user["school_id"], paper_call_id=row["id"], question_id=question_id,
                           raw=raw, unit=units[question_id], user_id=user["id"])
    for mark in grade(call, answers):
        queries.mark_put(connection, school_id=user["school_id"], paper_call_id=row["id"], question_id=mark.question,
                         points=mark.points, earned=mark.earned, code=mark.code, params=jsonb(mark.params),
                         rubric_version=RUBRIC_VERSION)


def results(connection, school_id, sheet_id):
    """Class table: one row per paper, and the questions missed most."""
    people, misses = {}, defaultdict(lambda: [0, 0])
    for row in queries.sheet_results(connection, school_id=school_id, sheet_id=sheet_id):
        person = people.setdefault(row["code"], {"code": row["code"], "name": row["name"], "marked": False,
                                                 "earned": 0, "possible": 0, "cells": {}})
        cell = person["cells"].setdefault(row["position"], {"position": row["position"], "earned": 0, "possible": 0})
        cell["possible"] += 1 if row["points"] is None else row["points"]
        person["possible"] += 1 if row["points"] is None else row["points"]
        if row["points"] is not None:
            person["marked"] = True
            person["earned"] += row["earned"]
            cell["earned"] += row["earned"]
            tally = misses[(row["position"], row["question_id"])]
            tally[0] += row["earned"] < row["points"]
            tally[1] += 1
    rows = [{**p, "cells": list(p["cells"].values())} for p in people.values()]
    worst = sorted(((missed, of, key) for key, (missed, of) in misses.items() if missed),
                   key=lambda item: (-item[0] / item[1], item[2]))[:8]
    return {"rows": rows, "misses": [
        {"position": key[0], "question": key[1], "text": wording(key[1], ""), "missed": missed, "of": of}
        for missed, of, key in worst]}


def marks_csv(connection, school_id, sheet_id):
    """CSV text: one line per question of every paper, with raw answer, mark and reason."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["code", "name", "call", "question", "answer", "points", "earned", "reason"])
    for row in queries.sheet_results(connection, school_id=school_id, sheet_id=sheet_id):
        reason = reason_text(row["reason"], row["params"]) if row["reason"] else ""
        writer.writerow([row["code"], _plain(row["name"]), row["position"], row["question_id"], _plain(row["raw"] or ""),
                         "" if row["points"] is None else row["points"],
                         "" if row["earned"] is None else row["earned"], reason])
    return out.getvalue()


def _plain(text):
    """Text a spreadsheet will not run as a formula; numbers such as -3 stay numbers."""
    return "'" + text if text[:1] in "=+@\t\r" or (text[:1] == "-" and not text[1:2].isdigit()) else text
