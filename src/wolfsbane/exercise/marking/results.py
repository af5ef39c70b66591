"""What a class shows: which fault is taken for which, where marks are lost, difficulty found against stated, movement.

Works on plain rows, one for each marked question of each paper: {apprentice, sheet, order, position, level, skill,
question, kind, points, earned, code, named} where ``order`` counts sheets through the term and ``named`` is the fault
somebody named, or None.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable
from typing import Any

from wolfsbane.exercise.marking.work import ASKED
from wolfsbane.exercise.paper.questions import CORRECT

#: the steps of the work, as a class sees them: id -> (name, question ids)
STEPS = {
    "measure": (
        "Measure",
        tuple(
            f"read_{k}"
            for k in (
                "suction_pressure",
                "head_pressure",
                "suction_line",
                "liquid_line",
                "return_db",
                "return_wb",
                "outdoor_db",
            )
        ),
    ),
    "convert": ("Convert to saturation", ("suction_saturation", "liquid_saturation")),
    "subtract": ("Work out the figures", ASKED),
    "target": ("Find the target", ("target",)),
    "compare": (
        "Call low, normal, high",
        tuple(f"{name}_verdict" for name in ASKED),
    ),
    "conclude": ("Name the fault", ("fault", "limit", "what")),
    "evidence": ("Evidence", ("evidence", "because")),
    "act": ("Act: first step, weight, order", ("action", "amount", "order", "do", "how")),
    "expect": ("Predict the readings after the repair", tuple(q for q in CORRECT if q.startswith("after_"))),
    "figures": ("Other figures", ()),
    "drill": ("Drills", ()),
}
_DRILL = re.compile(r"d\d+(_|$)")
_STEP_OF = {q: step for step, (_, questions) in STEPS.items() for q in questions}
#: share lost that goes with a level: below each number the level is one more (assumed)
_LOST_AT = (0.10, 0.20, 0.32, 0.48)


def step_of(question: str) -> str:
    """Id of the step a question belongs to."""
    return _STEP_OF.get(question) or ("drill" if _DRILL.match(question) else "figures")


def _share(rows: list[dict[str, Any]]) -> float | None:
    points = sum(r["points"] for r in rows)
    return None if not points else round(sum(r["earned"] for r in rows) / points, 3)


def _by(rows: list[dict[str, Any]], key: Callable[..., Any] | str) -> dict[Any, list[dict[str, Any]]]:
    found = defaultdict(list)
    for row in rows:
        found[row[key] if isinstance(key, str) else key(row)].append(row)
    return found


def confusion(rows: list[dict[str, Any]], names: Callable[[str], str]) -> dict[str, Any]:
    """Which fault was taken for which: {planted, named, cells: [{planted, named, count}], right, wrong};
    ``names(id)`` words one.
    """
    counts: defaultdict[Any, int] = defaultdict(int)
    planted_ids: list[Any] = []
    named_ids: list[Any] = []
    for row in rows:
        if row["question"] != "fault" or not row["named"] or "+" in row["skill"]:
            continue
        counts[(row["skill"], row["named"])] += 1
        for ids, one in ((planted_ids, row["skill"]), (named_ids, row["named"])):
            if one not in ids:
                ids.append(one)
    ids = [i for i in dict.fromkeys((*planted_ids, *named_ids))]
    return {
        "faults": [{"id": i, "name": names(i)} for i in ids],
        "planted": planted_ids,
        "cells": [{"planted": p, "named": n, "count": c} for (p, n), c in sorted(counts.items())],
        "right": sum(c for (p, n), c in counts.items() if p == n),
        "wrong": sum(c for (p, n), c in counts.items() if p != n),
    }


def steps(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Share of the points earned at each step of the work, in the order of the work:
    list of {step, name, share, lost, points}.
    """
    found = _by(rows, lambda r: step_of(r["question"]))
    return [
        {
            "step": step,
            "name": name,
            "share": _share(found[step]),
            "points": sum(r["points"] for r in found[step]),
            "lost": sum(r["points"] - r["earned"] for r in found[step]),
        }
        for step, (name, _) in STEPS.items()
        if found.get(step)
    ]


def found_level(share: float | None) -> int | None:
    """Difficulty that a share of points earned speaks for, 1 to 5, or None."""
    return None if share is None else 1 + sum(1 - share >= edge for edge in _LOST_AT)


def calls(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Each call of each sheet: share earned, stated level and the level that the class found, and the share that was
    expected to name what is wrong beside the share that did.
    """
    table = []
    for (order, position), some in sorted(_by(rows, lambda r: (r["order"], r["position"])).items()):
        stated = [r["level"] for r in some if r["level"] is not None]
        share = _share(some)
        said = [r for r in some if r["question"] == "fault"]
        expected = [r["success"] for r in said if r.get("success") is not None]
        table.append(
            {
                "order": order,
                "sheet": some[0]["sheet"],
                "position": position,
                "share": share,
                "papers": len({r["apprentice"] for r in some}),
                "stated": round(sum(stated) / len(stated), 1) if stated else None,
                "found": found_level(share),
                "expected": sum(expected) / len(expected) if expected else None,
                "named": sum(r["earned"] == r["points"] for r in said) / len(said) if said else None,
                "skill": some[0]["skill"] if len({r["skill"] for r in some}) == 1 else None,
            }
        )
    return table


def people(rows: list[dict[str, Any]], names_in_order: list[int]) -> list[dict[str, Any]]:
    """Each apprentice over the term: share for each sheet and in all, and the two weakest steps."""
    table = []
    by_person = _by(rows, "apprentice")
    for person in names_in_order:
        mine = by_person.get(person, [])
        weak = sorted(
            (s for s in steps(mine) if s["share"] is not None and s["share"] < 0.85), key=lambda s: s["share"]
        )
        table.append(
            {
                "apprentice": person,
                "share": _share(mine),
                "sheets": [{"order": o, "share": _share(some)} for o, some in sorted(_by(mine, "order").items())],
                "weak": [s["name"] for s in weak[:2]],
            }
        )
    return table


def skills(rows: list[dict[str, Any]], names: Callable[[str], str]) -> list[dict[str, Any]]:
    """Share earned on each skill, weakest first: list of {skill, name, share, papers}."""
    found = [
        {
            "skill": skill,
            "name": names(skill),
            "share": _share(some),
            "papers": len({(r["apprentice"], r["order"]) for r in some}),
        }
        for skill, some in _by(rows, "skill").items()
    ]
    return sorted(found, key=lambda r: (r["share"] is None, r["share"]))


def missed(rows: list[dict[str, Any]], most: int = 8) -> list[dict[str, Any]]:
    """Questions missed most: list of {position, question, missed, of}."""
    found = [
        {"position": p, "question": q, "missed": sum(r["earned"] < r["points"] for r in some), "of": len(some)}
        for (p, q), some in _by(rows, lambda r: (r["position"], r["question"])).items()
    ]
    found = [r for r in found if r["missed"]]
    return sorted(found, key=lambda r: (-r["missed"] / r["of"], r["position"], r["question"]))[:most]


def next_level(rows: list[dict[str, Any]]) -> int:
    """Level for the next call of one apprentice: one up where four fifths were earned at their last level,
    one down below half.
    """
    levelled = [r for r in rows if r["level"] is not None]
    if not levelled:
        return 1
    last = max(r["order"] for r in levelled)
    recent = [r for r in levelled if r["order"] == last]
    level = max(r["level"] for r in recent)
    share = _share([r for r in recent if r["level"] == level])
    step = 0 if share is None else 1 if share >= 0.8 else -1 if share < 0.5 else 0
    return min(max(level + step, 1), 5)


def next_skill(rows: list[dict[str, Any]]) -> str | None:
    """Skill somebody should meet next: the one with the smallest share of points, or None where nothing was lost."""
    real = [
        (share, skill)
        for skill, some in _by(rows, "skill").items()
        if not skill.startswith(("drill:", "situation:")) and (share := _share(some)) is not None
    ]
    weakest = min(real, default=(1.0, None))
    return weakest[1] if weakest[0] < 1.0 else None
