"""The calls of a sheet, drawn for everybody in its class and kept as they come.

A call depends on its item, the sheet's seed and the apprentice's number alone, so it may be drawn at any time: while
the sheet is a draft (:mod:`wolfsbane.server.services.ahead`), or when it is issued. Each is kept with a stamp of what
it was drawn from; one with another stamp is drawn again.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.exercise.draw import item as items_of
from wolfsbane.exercise.draw.variant import VARIANT_VERSION
from wolfsbane.exercise.marking import frozen_body
from wolfsbane.exercise.marking.gaming import pays
from wolfsbane.exercise.marking.grade import RUBRIC_VERSION
from wolfsbane.exercise.paper.call import Call
from wolfsbane.server.core.db.database import jsonb, queries
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.frozen_body import Body
    from wolfsbane.server.core.db.database import Connection

#: a paper that pays guessing is drawn again this often
_REDRAWN = 2


class Work(NamedTuple):
    """One call to be drawn: item, position on the sheet (from 1), apprentice (from 0), units and seed of the sheet."""

    item: dict[str, Any]
    position: int
    person: int
    units: str
    seed: int

    @property
    def place(self) -> tuple[int, int]:
        """Position and apprentice."""
        return self.position, self.person


def work_of(items: Sequence[dict[str, Any]], people: int, units: str, seed: int) -> list[Work]:
    """Every call of a sheet for so many apprentices, paper by paper."""
    return [
        Work(one, position, person, units, seed) for person in range(people) for position, one in enumerate(items, 1)
    ]


def stamps(items: Sequence[dict[str, Any]], units: str, seed: int) -> dict[int, str]:
    """Position -> stamp of all that its calls are drawn from, and of the release that draws them."""
    release = (SOLVER_VERSION, VARIANT_VERSION, RUBRIC_VERSION, combined_hash())
    return {position: _digest([one, position, units, seed, *release]) for position, one in enumerate(items, 1)}


def stamp_of_all(of_items: Mapping[int, str], people: int) -> str:
    """Stamp of a whole sheet for so many apprentices."""
    return _digest([sorted(of_items.items()), people])


def _digest(data: Any) -> str:
    return hashlib.sha256(json.dumps(data, sort_keys=True).encode()).hexdigest()


def kept_calls(
    connection: Connection, sheet_id: int, of_items: Mapping[int, str], of_all: str, person: int | None = None
) -> dict[tuple[int, int], Body]:
    """(position, person) -> body of the calls that are drawn already, from what the sheet is made of now; of one
    apprentice alone where ``person`` is given. A call of a paper that was drawn again as a whole carries the stamp of
    the whole sheet ``of_all``: on another sheet that paper might not have paid.
    """
    return {
        (row["position"], row["person"]): frozen_body.body_from_json(row["body"])
        for row in queries.drawn_list(connection, sheet_id=sheet_id, person=person)
        if row["drawn_from"] in (of_items.get(row["position"]), of_all)
    }


def row_of(place: tuple[int, int], body: Body, drawn_from: str) -> dict[str, Any]:
    """A drawn call as it is kept, with the stamp of what it was drawn from."""
    position, person = place
    return {
        "position": position,
        "person": person,
        "body": jsonb(body.to_json()),
        "drawn_from": drawn_from,
    }


def draw(work: Work, again: int = 0) -> Body:
    """The body of one call. Raises what :func:`wolfsbane.exercise.draw.item.draw` raises."""
    return items_of.draw(*work, again=again)


def drawn(
    work: Sequence[Work],
    each: Callable[..., Iterable[Any]],
    kept: Mapping[tuple[int, int], Body],
    keep: Callable[[tuple[int, int], Body], None],
) -> dict[tuple[int, int], Body]:
    """Bodies by place, no two of a position with the same readings; ``keep`` is given each that is not in ``kept``.

    Those in ``kept`` were drawn before, the same way: the set comes out as if nothing had happened.
    """
    found, seen = {}, set()
    coming: Iterator[Body] = iter(each(draw, [one for one in work if one.place not in kept]))
    for one in work:
        if (before := kept.get(one.place)) is not None:
            seen.add((one.position, frozen_body.mark_of_copy(before)))
            found[one.place] = before
            continue
        body = next(coming)
        for again in range(1, items_of.TRIES):
            mark = frozen_body.mark_of_copy(body)
            if mark is None or (one.position, mark) not in seen:
                break
            body = draw(one, again)
        seen.add((one.position, frozen_body.mark_of_copy(body)))
        found[one.place] = body
        keep(one.place, body)
    return found


def without_paying(
    work: Sequence[Work], found: Mapping[tuple[int, int], Body], each: Callable[..., Iterable[Any]]
) -> dict[tuple[int, int], Body]:
    """Bodies by place of the papers that had to be drawn again, since they would pay somebody who guesses."""
    found = dict(found)
    again_drawn: dict[tuple[int, int], Body] = {}
    papers: dict[int, list[Work]] = {}
    for row in work:
        papers.setdefault(row.person, []).append(row)
    paying = list(papers.values())
    for again in range(1, _REDRAWN + 1):
        calls = [[body for row in rows if isinstance(body := found[row.place], Call)] for rows in paying]
        paying = [rows for rows, over in zip(paying, each(pays, calls), strict=True) if over]
        marked = [row for rows in paying for row in rows if frozen_body.mark_of_copy(found[row.place]) is not None]
        bodies = each(draw, marked, [items_of.TRIES + again] * len(marked))
        again_drawn |= {row.place: body for row, body in zip(marked, bodies, strict=True)}
        found |= again_drawn
    return again_drawn
