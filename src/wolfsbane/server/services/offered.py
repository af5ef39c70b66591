"""What a marker sees of the choices of a body, beside the key."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING

from wolfsbane.exercise.marking.drill_marks import lettered
from wolfsbane.exercise.paper.drill import DrillBody
from wolfsbane.exercise.paper.situation import Situation

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.exercise.paper.drill import Drill
    from wolfsbane.exercise.paper.questions import Choices


def choices_of(body: Body) -> dict[str, list[dict[str, str]]]:
    """What a body offers to choose from, by what is asked: rows {letter, id, text}."""
    if isinstance(body, DrillBody):
        return _drill_choices(body.drill)
    if isinstance(body, Situation):
        return {
            f"{number} · {q.text}": [asdict(c) for c in body.choices[q.id]]
            for number, q in enumerate(body.questions, 1)
            if q.id in body.choices
        }
    return _choices(body.choices)


def _choices(offered: Choices) -> dict[str, list[dict[str, str]]]:
    rows = {kind: [asdict(c) for c in offered.lettered(kind)] for kind in ("fault", "evidence", "action")}
    steps = [{"letter": str(s.number), "id": s.id, "text": s.text} for s in offered.order]
    return rows | ({"order": steps} if steps else {})


def _drill_choices(drill: Drill) -> dict[str, list[dict[str, str]]]:
    return {
        f"item {item['number']}": [{"letter": r["letter"], "id": r["line"], "text": r["text"]} for r in lettered(item)]
        for item in drill["items"]
        if item.get("answer_line")
    }
