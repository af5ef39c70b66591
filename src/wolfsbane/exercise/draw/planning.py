"""The plan of a ladder, a piece at a time: whoever asks sees the first rungs while the others are looked for, and may
stop.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.exercise.draw.charted import known_of, usual
from wolfsbane.exercise.draw.ladder import (
    FORMS,
    eased,
    ladder_minutes,
    next_rung,
    on_ladder,
    wanted_levels,
    with_form,
)
from wolfsbane.exercise.draw.rung import MINUTES, Rung, rung_from_json, skill_from_id, skill_id, with_trouble

if TYPE_CHECKING:
    from wolfsbane.exercise.draw.rung import Known
    from wolfsbane.exercise.plan.brief import Brief

#: ladders tried where the levels that are found take longer than the time there is
_PLANS = 3


@dataclass(frozen=True, kw_only=True)
class Planning:
    """How far a plan has come: the levels ``wanted``, how many ladders were begun, the rungs ``found`` so far, in how
    many forms (0 while rungs are missing), and what scouting learned; ``charted`` where it is all known beforehand.
    ``done`` when nothing is left to do.
    """

    wanted: tuple[int, ...]
    begun: int
    found: tuple[Rung, ...]
    known: Known
    forms: int = 0
    charted: bool = False
    done: bool = False

    def to_json(self) -> dict[str, Any]:
        """Plain data that :func:`planning_from_json` reads."""
        return {
            "wanted": list(self.wanted),
            "begun": self.begun,
            "found": [r.to_json() for r in self.found],
            "known": [
                [skill_id(skill), [[level, decides, shares] for (level, decides), shares in reached.items()]]
                for skill, reached in self.known.items()
                if not self.charted or with_trouble(skill)
            ],
            "forms": self.forms,
            "charted": self.charted,
        }


def planning_from_json(brief: Brief, data: dict[str, Any]) -> Planning:
    """A plan of a brief under way from :meth:`Planning.to_json`; raises BadInputError for anything else."""
    try:
        read = Planning(
            wanted=tuple(int(level) for level in data["wanted"]),
            begun=int(data["begun"]),
            found=tuple(rung_from_json(row) for row in data["found"]),
            known={
                skill_from_id(skill): {
                    (int(lv), bool(decides)): [float(s) for s in shares] for lv, decides, shares in rows
                }
                for skill, rows in data["known"]
            },
            forms=int(data["forms"]),
            charted=bool(data["charted"]) and usual(brief),
        )
        return replace(read, known=known_of(brief) | read.known) if read.charted else read
    except (KeyError, TypeError, ValueError, AttributeError):
        raise BadInputError("so_far", "this", "what the step before answered") from None


def begin(brief: Brief, *, scouted: bool = False) -> Planning:
    """The plan of a brief before anything is looked for: from the chart where that holds, ``scouted`` where it does not
    or is not wanted.
    """
    charted = not scouted and usual(brief)
    known = known_of(brief) if charted else {}
    return Planning(wanted=tuple(wanted_levels(brief)), begun=1, found=(), known=known, charted=charted)


def step(brief: Brief, so_far: Planning) -> Planning:
    """One piece more: a rung, or another form of all of them. Raises NoClassSetError, BadInputError for too little
    time.
    """
    known = {skill: {key: list(shares) for key, shares in reached.items()} for skill, reached in so_far.known.items()}
    if len(so_far.found) < len(so_far.wanted):
        rung = next_rung(brief, list(so_far.wanted), list(so_far.found), known, so_far.charted)
        so_far = replace(so_far, found=(*so_far.found, rung), known=known)
        return so_far if len(so_far.found) < len(so_far.wanted) else _timed(brief, so_far)
    last = min(FORMS, brief.apprentices)
    if so_far.forms < last:
        found = with_form(brief, list(so_far.found), so_far.forms, known, so_far.charted)
        so_far = replace(so_far, found=tuple(found), known=known, forms=so_far.forms + 1)
    return replace(so_far, done=so_far.forms >= last)


def _timed(brief: Brief, so_far: Planning) -> Planning:
    """A whole ladder in order, or an easier one begun where it takes longer than the time there is."""
    found, wanted = on_ladder(list(so_far.found)), list(so_far.wanted)
    needed = ladder_minutes(brief, [r.level for r in found])
    if brief.minutes is None or needed <= brief.minutes:
        return replace(so_far, found=tuple(found), forms=1, done=min(FORMS, brief.apprentices) < 2)
    lower = eased(wanted, brief.levels[0], -(-(needed - brief.minutes) // MINUTES[1]))
    if lower == wanted or so_far.begun >= _PLANS:
        raise BadInputError(
            "minutes", brief.minutes, f"at least {needed} for these calls and drills, or fewer or easier ones"
        )
    known = so_far.known if so_far.charted else {}
    return replace(so_far, wanted=tuple(lower), begun=so_far.begun + 1, found=(), known=known)


def plan(brief: Brief, *, scouted: bool = False) -> list[Rung]:
    """The ladder of a brief, easiest first: list of :class:`Rung`, chosen from the chart or ``scouted``. Where time is
    short the middle rungs come down first.

    Raises NoClassSetError, BadInputError for too little time.
    """
    so_far = begin(brief, scouted=scouted)
    while not so_far.done:
        so_far = step(brief, so_far)
    return list(so_far.found)
