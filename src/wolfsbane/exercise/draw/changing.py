"""One call of a planned ladder changed by itself: another fault, level, machine or weather, or a swap for one that is
as hard.
"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.exercise.draw.charted import known_of, usual
from wolfsbane.exercise.draw.ladder import PAIRS, options_of, rung_for
from wolfsbane.exercise.draw.rung import INSTRUMENT, SECOND_VISIT, USUAL_WAY, in_words, rung_from_json, skill_from_id
from wolfsbane.exercise.draw.seeds import rng_of
from wolfsbane.exercise.plan.brief import brief as checked_brief

if TYPE_CHECKING:
    from wolfsbane.exercise.draw.rung import Rung
    from wolfsbane.exercise.plan.brief import Brief

Skill = tuple[str, ...]


def one_call(
    data: dict[str, Any],
    row: dict[str, Any],
    *,
    skill: str | None = None,
    level: int | None = None,
    machines: list[str] | None = None,
    weather: dict[str, list[float]] | None = None,
    swap: bool = False,
) -> tuple[Brief, Rung]:
    """The request and rung of one call after a change; what is None stays as it was.

    ``data`` is the plain request the call was planned from, ``row`` its rung as a sheet keeps it; ``skill`` fault ids
    joined by ``+``, or ``none``; ``weather`` name -> [low, high] in °F. With ``swap`` another fault as hard takes its
    place. The changed rung hides the same skill on every paper unless only machine, weather or level changed and its
    forms still reach the level. Raises BadInputError, and NoClassSetError with the nearest level that can be had.
    """
    old = rung_from_json(row)
    wanted = old.level if level is None else level
    plain = {k: v for k, v in data.items() if k not in ("two_faults", "second_visits", "instrument_faults", "minutes")}
    plain |= {"calls": 1, "drills": [], "levels": [wanted, wanted]}
    if machines is not None:
        plain |= {"machines": machines}
    if weather is not None:
        plain |= {"weather": data.get("weather", {}) | weather}
    skills = [old.skill] if skill is None else [skill_from_id(skill)]
    own = sorted({f for one in (*skills, *old.forms) for f in one if f not in INSTRUMENT_FAULTS})
    brief = _able(plain, own)
    if swap:
        skills = _others(brief, old)
    way = old.way if skill is None else _way(skills[0], old.way)
    charted = way != INSTRUMENT and usual(brief)
    known = known_of(brief) if charted else {}
    made = rung_for(brief, old.number, wanted, way, skills, [], known, charted)
    same = skill is None and not swap and made.level == old.level and machines is None and weather is None
    return brief, replace(made, forms=old.forms if same else (made.skill,))


def skills_on(data: dict[str, Any], machines: list[str] | None, way: str = USUAL_WAY) -> list[Skill]:
    """Skills that one call on these machines can hide, the machine with nothing wrong first."""
    brief = _able(data | ({} if machines is None else {"machines": machines}), [])
    usable = _possible(brief)
    if way != USUAL_WAY:
        return options_of(replace(brief, faults=tuple(sorted(usable))), way)
    return [(), *((f,) for f in sorted(usable)), *(p for p in PAIRS if set(p) <= usable)]


def _possible(brief: Brief) -> set[str]:
    return {k.id for m in brief.machines for k in faults_for(brief.machine(m)) if k.id not in NOT_ON_PAPER}


def _able(plain: dict[str, Any], faults: list[str]) -> Brief:
    """The request with those faults among its own, as far as its machines can have any of them."""
    usual_ones = checked_brief({k: v for k, v in plain.items() if k != "faults"})
    possible = _possible(usual_ones)
    asked_for = [f for f in (*(plain.get("faults") or usual_ones.faults), *faults) if f in possible]
    lost = [f for f in faults if f not in possible]
    if lost:
        raise BadInputError("skill", in_words((lost[0],)), "a fault that one of these machines can have")
    return replace(usual_ones, faults=tuple(dict.fromkeys(asked_for)))


def _way(skill: Skill, way: str) -> str:
    """The way of a call that hides ``skill`` after a change: an instrument call stays one as long as it has one."""
    trouble = any(f in INSTRUMENT_FAULTS for f in skill)
    if trouble:
        return INSTRUMENT
    return SECOND_VISIT if way == SECOND_VISIT and skill else USUAL_WAY


def _others(brief: Brief, old: Rung) -> list[Skill]:
    """Skills to swap for, in a drawn order: as many faults, none that the call hides now."""
    options = options_of(brief, old.way, len(old.skill) > 1)
    options = [o for o in options if o not in (*old.forms, old.skill) and len(o) == max(len(old.skill), 1)]
    if not options:
        raise BadInputError("swap", "another fault", "a request with more than one fault in it")
    rng_of(brief, "swap", old.number, old.forms).shuffle(options)
    return options
