"""Results: of a sheet, of a class over the term, of one apprentice; the gradebook and the CSV of marks."""

from __future__ import annotations

import csv
import io
import re
from collections import defaultdict
from typing import TYPE_CHECKING, Any

import xlsxwriter

from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking import results as picture
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.drill_marks import title
from wolfsbane.exercise.marking.feedback import feedback
from wolfsbane.exercise.paper.questions import EVIDENCE, fault_name, wording
from wolfsbane.exercise.paper.wording import reason_text
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.server.core.db.database import queries
from wolfsbane.server.services.marking import MarkingBasis

if TYPE_CHECKING:
    from wolfsbane.server.core.db.database import Connection


def sheet_results(connection: Connection, school_id: int, sheet_id: int) -> dict[str, list[dict[str, Any]]]:
    """Class table of one sheet: one row per paper, and the questions missed most."""
    people: dict[Any, Any] = {}
    flat: list[Any] = []
    items = queries.sheet_call_list(connection, sheet_id=sheet_id)
    excluded = {item["position"] for item in items if item["rules"].get("excluded")}
    for row in queries.sheet_results(connection, school_id=school_id, sheet_id=sheet_id):
        person = people.setdefault(
            row["code"],
            {
                "code": row["code"],
                "name": row["name"],
                "apprentice_id": row["apprentice_id"],
                "attempt": row["attempt"],
                "marked": False,
                "to_confirm": 0,
                "earned": 0,
                "possible": 0,
                "cells": {},
            },
        )
        cell = person["cells"].setdefault(
            row["position"],
            {
                "position": row["position"],
                "earned": 0,
                "possible": 0,
                "marked": False,
                "worth": 0 if row["position"] in excluded else row["possible"],
            },
        )
        if row["points"] is None:
            continue
        person["marked"] = cell["marked"] = True
        person["to_confirm"] += row["reason"] == "to_confirm"
        cell["earned"] += row["earned"]
        cell["possible"] += row["points"]
        flat.append(
            {
                "position": row["position"],
                "question": row["question_id"],
                "points": row["points"],
                "earned": row["earned"],
            }
        )
    for person in people.values():
        person["cells"] = [
            {key: cell[key] for key in ("position", "earned", "marked")}
            | {"possible": cell["possible"] if cell["marked"] else cell["worth"]}
            for cell in person["cells"].values()
        ]
        person["earned"] = sum(c["earned"] for c in person["cells"])
        person["possible"] = sum(c["possible"] for c in person["cells"])
    misses = [{**row, "text": question_text(row["question"])} for row in picture.missed(flat)]
    return {"rows": list(people.values()), "misses": misses}


#: questions of situations, whose full wording differs from kind to kind
#: what a spreadsheet reads as a number and not as a formula
_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?")
_SITUATIONS = {"what": "What it is", "do": "What to do", "how": "How to do it", "limit": "Which limit stopped it"}


def question_text(question: str) -> str:
    """Wording of a question, also of a drill's and a rig's."""
    if question.endswith("_verdict"):
        return f"{EVIDENCE[question.removesuffix('_verdict')]}: low, normal or high"
    if question.startswith("read_"):
        return f"Read: {question.removeprefix('read_').replace('_', ' ')}"
    if question in _SITUATIONS:
        return _SITUATIONS[question]
    try:
        return wording(question)
    except KeyError:
        if not question.startswith("d"):
            return question.replace("_", " ").capitalize()
        return f"Drill item {question.removeprefix('d').split('_')[0]}"


def marks_csv(connection: Connection, school_id: int, sheet_id: int) -> str:
    """CSV text: one line per question of every paper, with raw answer, mark and reason."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["code", "name", "attempt", "call", "question", "answer", "points", "earned", "reason"])
    marked: defaultdict[int, dict[str, dict[str, Any]]] = defaultdict(dict)
    for row in queries.sheet_results(connection, school_id=school_id, sheet_id=sheet_id):
        marked[row["paper_call_id"]][row["question_id"]] = row
    for frozen in queries.sheet_bodies(connection, school_id=school_id, sheet_id=sheet_id):
        for question in frozen_body.questions_of(frozen_body.body_from_json(frozen["body"])):
            row = marked[frozen["id"]].get(question.id)
            shown = (
                ["", "", "", ""]
                if row is None
                else [plain(row["raw"] or ""), row["points"], row["earned"], reason_text(row["reason"], row["params"])]
            )
            writer.writerow(
                [frozen["code"], plain(frozen["name"]), frozen["attempt"], frozen["position"], question.id, *shown]
            )
    return out.getvalue()


def plain(text: str) -> str:
    """Text a spreadsheet will not run as a formula; what is a number as a whole, such as -3, stays one."""
    return "'" + text if text[:1] in tuple("=+-@\t\r") and not _NUMBER.fullmatch(text) else text


def skill_name(skill: str) -> str:
    """Words for a skill: a fault, several, a drill, or a situation."""
    if skill.startswith("drill:"):
        return title(skill.removeprefix("drill:"))
    if skill.startswith("situation:"):
        return SITUATIONS[skill.removeprefix("situation:")].name
    return " and ".join(fault_name(f) for f in skill.split("+"))


def class_rows(connection: Connection, school_id: int, class_id: int) -> list[dict[str, Any]]:
    """Every mark of a class as plain rows of :mod:`wolfsbane.exercise.marking.results`."""
    orders: dict[Any, Any] = {}
    rows: list[Any] = []
    for row in queries.class_marks(connection, school_id=school_id, class_id=class_id):
        order = orders.setdefault(row["sheet_id"], len(orders) + 1)
        skill = f"drill:{row['drill']}" if row["drill"] else "+".join(row["faults"] or []) or "none"
        skill = f"situation:{row['situation']}" if row["situation"] else skill
        rows.append(
            {
                "apprentice": row["apprentice_id"],
                "sheet": row["title"],
                "sheet_id": row["sheet_id"],
                "order": order,
                "position": row["position"],
                "level": None if row["level"] is None else int(row["level"]),
                "skill": skill,
                "question": row["question_id"],
                "points": row["points"],
                "earned": row["earned"],
                "code": row["code"],
                "success": row["success"],
                "named": _named(row),
            }
        )
    return rows


def _named(row: dict[str, Any]) -> str | None:
    """Id of the fault somebody named, or None."""
    if row["question_id"] != "fault" or not row["choices"]:
        return None
    letter = parse("letter", row["raw"]).value
    return next((c["id"] for c in row["choices"] if c["letter"] == letter), None)


def on_record(connection: Connection, school_id: int, class_id: int) -> list[dict[str, Any]]:
    """Everybody on the record of a class: its apprentices in order, then those who have papers here and are in another
    class now.
    """
    here = list(queries.apprentice_list(connection, school_id=school_id, class_id=class_id))
    moved = queries.class_movers(connection, school_id=school_id, class_id=class_id)
    return here + [{**p, "name": f"{p['name']} (now in {p['class_name']})"} for p in moved]


def class_picture(connection: Connection, school_id: int, class_id: int) -> Any:
    """What a class shows over the term, as plain data."""
    rows = class_rows(connection, school_id, class_id)
    people = on_record(connection, school_id, class_id)
    present = {r["apprentice"] for r in rows}
    shown = [p for p in people if not p["gone"] or p["id"] in present]
    names = {p["id"]: p["name"] for p in shown}
    return {
        "sheets": sheets_of(rows),
        "confusion": picture.confusion(rows, fault_name),
        "steps": picture.steps(rows),
        "calls": picture.calls(rows),
        "people": [{**row, "name": names[row["apprentice"]]} for row in picture.people(rows, list(names))],
        "skills": picture.skills(rows, skill_name),
    }


def sheets_of(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The sheets of a class in order with the share the class earned."""
    found = defaultdict(list)
    for row in rows:
        found[(row["order"], row["sheet_id"], row["sheet"])].append(row)
    return [
        {
            "order": order,
            "sheet_id": sheet_id,
            "title": title_,
            "papers": len({r["apprentice"] for r in some}),
            "share": round(sum(r["earned"] for r in some) / max(sum(r["points"] for r in some), 1), 3),
        }
        for (order, sheet_id, title_), some in sorted(found.items())
    ]


def apprentice_picture(connection: Connection, school_id: int, person: dict[str, Any]) -> dict[str, Any]:
    """One apprentice over the term, with the level and the skill the next call should have and scenarios that fit."""
    rows = [r for r in class_rows(connection, school_id, person["class_id"]) if r["apprentice"] == person["id"]]
    level, skill = picture.next_level(rows), picture.next_skill(rows)
    return {
        "steps": picture.steps(rows),
        "skills": picture.skills(rows, skill_name),
        "calls": picture.calls(rows),
        "next": {
            "level": level,
            "skill": skill,
            "skill_name": None if skill is None else skill_name(skill),
            "reason": _why(rows, level, skill),
        },
    }


def _why(rows: list[dict[str, Any]], level: int, skill: str | None) -> str:
    if not rows:
        return "No marked paper yet: begin at level 1."
    met = max((r["level"] for r in rows if r["level"] is not None), default=None)
    word = (
        "the same level again"
        if met == level
        else "one level up"
        if met is not None and level > met
        else "a level lower"
    )
    return f"{word[0].upper()}{word[1:]}" + (
        f", with what cost most so far: {skill_name(skill)}." if skill else ", with something new."
    )


def next_calls(
    connection: Connection, user: dict[str, Any], wanted: dict[str, Any], most: int = 3
) -> list[dict[str, Any]]:
    """Scenarios of the library that fit ``wanted`` (level and skill), best first: list of {id, title, level}."""
    rows = []
    for row in queries.scenario_list(connection, school_id=user["school_id"], user_id=user["id"]):
        if row["archived_at"] is not None or row["level"] is None or not row["one_answer"]:
            continue
        skill = "+".join(f["id"] for f in row["body"].get("faults", ())) or row["body"].get("fault") or "none"
        away = abs(row["level"] - wanted["level"]) + (0 if skill == wanted["skill"] else 1.5)
        rows.append((away, row["id"], {"id": row["id"], "title": row["body"]["title"], "level": row["level"]}))
    return [made for _, _, made in sorted(rows, key=lambda r: r[:2])[:most]]


def paper_feedback(connection: Connection, school_id: int, paper: dict[str, Any]) -> dict[str, Any]:
    """Feedback on every marked call of a paper, as plain data."""
    basis = MarkingBasis(connection, school_id, paper["sheet_id"])
    answers: defaultdict[int, dict[str, str]] = defaultdict(dict)
    marks: defaultdict[int, list[dict[str, Any]]] = defaultdict(list)
    for row in queries.answer_list(connection, paper_id=paper["id"]):
        answers[row["paper_call_id"]][row["question_id"]] = row["raw"]
    for row in queries.mark_list(connection, paper_id=paper["id"]):
        marks[row["paper_call_id"]].append({**row, "question": row["question_id"]})
    calls = []
    for row in queries.paper_call_list(connection, paper_id=paper["id"]):
        if marks[row["id"]]:
            body = basis.body(row["position"], row["body"], paper["id"])
            calls.append({"position": row["position"], **feedback(body, answers[row["id"]], marks[row["id"]])})
    return {
        "code": paper["code"],
        "name": paper["name"],
        "sheet_title": paper["sheet_title"],
        "calls": calls,
        "earned": sum(c["earned"] for c in calls),
        "possible": sum(c["possible"] for c in calls),
    }


def gradebook(connection: Connection, school_id: int, class_id: int) -> tuple[list[str], list[list[str | float]]]:
    """The gradebook as a table: (header, rows). Points of the newest attempt of every sheet, their sum and per cent."""
    rows = class_rows(connection, school_id, class_id)
    found = sheets_of(rows)
    differences = {}
    for one in found:
        for paper in sorted(sheet_results(connection, school_id, one["sheet_id"])["rows"], key=lambda p: p["attempt"]):
            if paper["marked"]:
                differences[(paper["apprentice_id"], one["order"])] = [paper["earned"], paper["possible"]]
    labs = lab_columns(connection, school_id, class_id) | exam_columns(connection, school_id, class_id)
    header = [
        "number",
        "name",
        "group",
        *(f"{t} (of)" if part else t for t in (*(s["title"] for s in found), *labs) for part in (0, 1)),
        "earned",
        "possible",
        "per cent",
    ]
    table = []
    for person in on_record(connection, school_id, class_id):
        cells = [differences.get((person["id"], s["order"])) for s in found]
        cells += [column.get(person["id"]) for column in labs.values()]
        if person["gone"] and not any(cells):
            continue
        earned, possible = (sum(c[i] for c in cells if c) for i in (0, 1))
        table.append(
            [
                person["number"],
                person["name"],
                person["group_name"],
                *(v for c in cells for v in (c or ["", ""])),
                earned,
                possible,
                round(100 * earned / possible, 1) if possible else "",
            ]
        )
    return header, table


def lab_columns(connection: Connection, school_id: int, class_id: int) -> dict[str, dict[int, list[int]]]:
    """Heading -> student -> [earned, possible] of the lab sessions of a class, by the call they were about; whoever
    had one twice keeps the later one.
    """
    found: dict[str, dict[int, list[int]]] = {}
    for row in queries.lab_sessions_of_class(connection, school_id=school_id, class_id=class_id):
        if row["judged"]:
            column = found.setdefault(f"Lab: {row['title']}", {})
            for person in row["people"]:
                column[person] = [row["judged"]["earned"], row["judged"]["possible"]]
    return found


def exam_columns(connection: Connection, school_id: int, class_id: int) -> dict[str, dict[int, list[int]]]:
    """Heading -> student -> [earned, possible] of a class's exams on screen, by sheet; practice is no grade. Whoever
    sat one twice keeps the later one.
    """
    found: dict[str, dict[int, list[int]]] = {}
    sittings: dict[tuple[str, int], int] = {}
    for row in queries.screen_exam_points(connection, school_id=school_id, class_id=class_id):
        heading, person = f"Screen: {row['title']}", row["apprentice_id"]
        column = found.setdefault(heading, {})
        if sittings.get((heading, person)) != row["opening_id"]:
            sittings[(heading, person)] = row["opening_id"]
            column[person] = [0, 0]
        column[person][0] += row["earned"]
        column[person][1] += row["possible"]
    return found


def gradebook_csv(table: tuple[list[str], list[list[str | float]]]) -> str:
    """The gradebook as CSV text."""
    header, rows = table
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([plain(h) for h in header])
    writer.writerows([[plain(v) if isinstance(v, str) else v for v in row] for row in rows])
    return out.getvalue()


def gradebook_xlsx(table: tuple[list[str], list[list[str | float]]], name: str) -> bytes:
    """The gradebook as XLSX bytes; text stays text, numbers stay numbers."""
    header, rows = table
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet("Gradebook")
    bold = book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
    for column, text in enumerate(header):
        sheet.write_string(0, column, text, bold)
    for line, row in enumerate(rows, 1):
        for column, value in enumerate(row):
            if isinstance(value, str):
                sheet.write_string(line, column, value)
            else:
                sheet.write_number(line, column, value)
    sheet.set_column(1, 1, 26)
    sheet.freeze_panes(1, 2)
    book.set_properties({"title": name})
    book.close()
    return out.getvalue()
