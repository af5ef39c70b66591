"""A rung of the ladder: one call that every apprentice gets, each with another machine, weather and severity."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import NONE, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.exercise.draw.judgement import Judgement

#: minutes an apprentice is given for a call: to start with, and for each level (assumed)
MINUTES = (3, 2)
#: how far the predicted success of an apprentice's call may lie from its rung's
BAND = 0.07
#: what a rung can be: a first visit with good instruments, a visit after a repair, an instrument that reads wrong
USUAL_WAY, SECOND_VISIT, INSTRUMENT = "usual", "second_visit", "instrument"
WAYS = (USUAL_WAY, SECOND_VISIT, INSTRUMENT)
#: by how much looks that part pairs may raise the predicted success of two faults (found by drawing some)
_EASED_TWO = 0.25


@dataclass(frozen=True, kw_only=True)
class Rung:
    """One call of the ladder: its number, the stated level and the skill (fault ids in the order they are repaired).

    ``forms`` are the skills of every form of the paper, the first one ``skill``: apprentices get them in turn.
    ``success`` is the share of simulated apprentices who name what is wrong, None where it does not matter;
    ``look_decides`` says whether a look or test on the page shows the fault by itself, None where it may.
    ``way`` is one of :data:`WAYS`; on a second visit the first fault of a skill is repaired, and only the others are
    left to be found.
    """

    number: int
    level: int
    skill: tuple[str, ...]
    forms: tuple[tuple[str, ...], ...] = ()
    success: float | None = None
    look_decides: bool | None = None
    way: str = USUAL_WAY

    @property
    def minutes(self) -> int:
        """Time an apprentice is given."""
        return MINUTES[0] + MINUTES[1] * self.level

    def skill_of(self, apprentice: int) -> tuple[str, ...]:
        """The skill of an apprentice (from 1)."""
        forms = self.forms or (self.skill,)
        return forms[(apprentice - 1) % len(forms)]

    def takes(self, drawn: Drawn, hard_to_find: bool = False) -> bool:
        """Whether a drawn call is as hard as this rung says, and as its look is; half as near where little is found."""
        return (
            drawn.hard.level == self.level
            and (self.success is None or abs(drawn.hard.success - self.success) <= BAND * (2 if hard_to_find else 1))
            and (hard_to_find or self.look_decides in (None, drawn.look_decides))
        )

    def may_take(self, early: Difficulty, number: int) -> bool:
        """Whether a call of ``number`` faults is to be proved whole once single faults alone are weighed: looks that
        part pairs hardly change how hard a single fault is, and make two faults easier by much.
        """
        eased, levels = (_EASED_TWO, 5) if number > 1 else (0.0, 0)
        return self.level <= early.level <= self.level + levels and (
            self.success is None or -BAND - eased <= early.success - self.success <= BAND
        )

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "rung": self.number,
            "level": self.level,
            "skill": skill_id(self.skill),
            "minutes": self.minutes,
            "skills": [skill_id(one) for one in self.forms or (self.skill,)],
            "success": None if self.success is None else round(self.success, 3),
            "look_decides": self.look_decides,
            "way": self.way,
        }


def left_to_find(way: str, skill: tuple[str, ...]) -> tuple[str, ...]:
    """What of a skill a call of this way hides."""
    return skill[1:] if way == SECOND_VISIT else skill


def with_trouble(skill: tuple[str, ...]) -> bool:
    """Whether an instrument is among the faults of a skill."""
    return any(f in INSTRUMENT_FAULTS for f in skill)


def in_words(skill: tuple[str, ...]) -> str:
    """A skill as it is said in a sentence."""
    return (
        " with ".join((INSTRUMENT_FAULTS.get(f) or fault_kind(f)).name.lower() for f in skill)
        or "a machine with nothing wrong"
    )


def skill_from_id(text: str) -> tuple[str, ...]:
    """A skill from its one word."""
    return () if text == NONE else tuple(text.split("+"))


def rung_from_json(row: dict[str, Any]) -> Rung:
    """A rung from :meth:`Rung.to_json`, or from an item of a sheet, which calls its number so."""
    return Rung(
        number=row["number"] if "number" in row else row["rung"],
        level=row["level"],
        skill=skill_from_id(row["skill"]),
        forms=tuple(skill_from_id(one) for one in row.get("skills") or [row["skill"]]),
        success=row.get("success"),
        look_decides=row.get("look_decides"),
        way=row.get("way") or USUAL_WAY,
    )


def skill_id(skill: tuple[str, ...]) -> str:
    """A skill as one word: fault ids joined, or none."""
    return "+".join(skill) or NONE


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """A fair call that was drawn: its judgement, faults, difficulty, and whether a look or test on the page shows a
    fault by itself.
    """

    judged: Judgement
    faults: tuple[Fault, ...]
    hard: Difficulty
    look_decides: bool


#: levels and looks that a skill reached, with the predicted successes: (level, look decides) -> shares
Reached = dict[tuple[int, bool], list[float]]

#: what scouting learned of each skill
Known = dict[tuple[str, ...], Reached]
