"""The ways of a class through one call as one picture: where they part, and what each branch was worth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

#: what only prepares a reading parts nobody
_PREPARES = ("zero", "gauges", "clamp")
#: columns of the picture: what comes later is one's own
MOST = 10


@dataclass(frozen=True, kw_only=True)
class Way:
    """One way up to the naming: ``who`` took it, its steps as (kind, words), how it ended and what it earned."""

    who: str
    steps: tuple[tuple[str, str], ...]
    right: bool | None
    earned: int


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One step that some took together: its column, where its rows begin and how many ways run through it. ``earned``
    is their mean; ``expert`` whether the expert's way runs through it too.
    """

    column: int
    top: int
    kind: str
    text: str
    what: tuple[str, ...]
    who: tuple[str, ...]
    earned: float
    expert: bool


def way_of(who: str, judged: dict[str, Any]) -> Way:
    """The way of a judged run."""
    fault = next((p for p in judged["marks"]["parts"] if p["part"] == "fault"), None)
    right = None if fault is None or not judged["named_after"] else fault["earned"] == fault["points"]
    return Way(who=who, steps=_steps(judged), right=right, earned=judged["marks"]["earned"])


def _steps(way: dict[str, Any]) -> tuple[tuple[str, str], ...]:
    taken = [t for t in way["way"][: way["named_after"]] if t["kind"] not in _PREPARES]
    return tuple((t["kind"], t["text"]) for t in taken)


def experts_way(judged: dict[str, Any]) -> tuple[tuple[str, str], ...]:
    """The expert's steps through the call of a judged run."""
    return _steps(judged["expert"])


def _grouped(steps: Sequence[tuple[str, str]]) -> list[tuple[str, tuple[str, ...]]]:
    """Steps with readings in a row as one: their order parts nobody."""
    out: list[tuple[str, tuple[str, ...]]] = []
    for kind, text in steps:
        if kind == "read" and out and out[-1][0] == "read":
            out[-1] = ("read", tuple(sorted({*out[-1][1], text})))
        else:
            out.append((kind, (text,)))
    return out


_ENDS = {True: "Named it right", False: "Named it wrong", None: "Did not name it"}


def picture(ways: Sequence[Way], expert: Sequence[tuple[str, str]]) -> list[Cell]:
    """Cells of the picture, by column and from the top: the most-taken branch first, an end after the last step."""
    rows = [([*_grouped(w.steps)][: MOST - 1], w) for w in ways]
    best = [*_grouped(expert)][: MOST - 1]
    cells: list[Cell] = []

    def branch(some: list[tuple[list[tuple[str, tuple[str, ...]]], Way]], column: int, top: int, led: bool) -> None:
        found: dict[tuple[str, tuple[str, ...]], list[Any]] = {}
        for steps, way in some:
            key = steps[column] if column < len(steps) else ("end", (_ENDS[way.right],))
            found.setdefault(key, []).append((steps, way))
        for key, group in sorted(found.items(), key=lambda row: (-len(row[1]), row[0])):
            kind, what = key
            here = led and column < len(best) and best[column] == key
            members = [w for _, w in group]
            cells.append(
                Cell(
                    column=column,
                    top=top,
                    kind=kind,
                    text=what[0] if len(what) == 1 else f"{len(what)} readings",
                    what=what,
                    who=tuple(w.who for w in members),
                    earned=sum(w.earned for w in members) / len(members),
                    expert=here or (kind == "end" and led and column == len(best) and what[0] == _ENDS[True]),
                )
            )
            if kind != "end":
                branch(group, column + 1, top, here)
            top += len(group)

    branch(rows, 0, 0, True)
    return sorted(cells, key=lambda c: (c.column, c.top))
