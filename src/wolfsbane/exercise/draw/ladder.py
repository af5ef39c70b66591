"""The ladder of a brief: what each call trains, at which level, in how many forms."""

from __future__ import annotations

import random
from dataclasses import replace

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.instruments import PIPES
from wolfsbane.diagnosis.candidates import instruments_on_paper
from wolfsbane.exercise.draw.rung import (
    BAND,
    INSTRUMENT,
    MINUTES,
    SECOND_VISIT,
    USUAL_WAY,
    Known,
    Reached,
    Rung,
    in_words,
    left_to_find,
)
from wolfsbane.exercise.draw.seeds import rng_of
from wolfsbane.exercise.draw.tries import SEVERITIES, NoClassSetError, tries
from wolfsbane.exercise.plan.brief import Brief

#: two faults that a machine may well have at once, the one to be repaired first named first: airflow and coils, then
#: parts, then charge
PAIRS = (
    ("dirty_condenser", "undercharge"),
    ("low_airflow", "undercharge"),
    ("dirty_condenser", "overcharge"),
    ("low_airflow", "overcharge"),
    ("low_airflow", "dirty_condenser"),
    ("valve_overfeeding", "undercharge"),
    ("liquid_line_restriction", "undercharge"),
)

#: faults of the machine that stand beside an instrument that reads wrong
_BESIDE_TROUBLE = ("undercharge", "overcharge", "dirty_condenser", "low_airflow")
#: what may have been repaired on a first visit though nothing else was wrong
_REPAIRED_ALONE = ("dirty_condenser", "low_airflow")

_DRILL_MINUTES = 1.5

#: settings spent on finding out what a rung can be
_SCOUTS = 4

#: skills tried for a rung before one level beside the wanted one is good enough
_SKILLS = 5

#: papers that differ in what is wrong at each place: neighbors never have the same one
FORMS = 3

#: skills scouted for one place of a further form, beside those that are known already
_SCOUTED_AGAIN = 2


def shortfall(brief: Brief, ladder: list[Rung]) -> str:
    """A sentence where ``ladder`` does not reach the hardest level of the brief, or an empty one."""
    top, wanted = max((r.level for r in ladder), default=brief.levels[1]), brief.levels[1]
    if top >= wanted:
        missing = sorted(set(wanted_levels(brief)) - {r.level for r in ladder})
        if not missing:
            return ""
        levels = " and ".join(map(str, missing))
        return f"No fault in this request turned out at level {levels} on these machines."
    if brief.minutes is not None and ladder_minutes(brief, [*(r.level for r in ladder[:-1]), wanted]) > brief.minutes:
        return (
            f"Level {wanted} does not fit into {brief.minutes} minutes beside the others; fewer calls or more time"
            " would reach it."
        )
    return f"No fault in this request turned out as hard as level {wanted} on these machines."


def ladder_minutes(brief: Brief, levels: list[int]) -> int:
    """Minutes that calls of these levels and the drills take."""
    return sum(MINUTES[0] + MINUTES[1] * level for level in levels) + round(
        _DRILL_MINUTES * sum(n for _, n in brief.drills)
    )


def wanted_levels(brief: Brief) -> list[int]:
    """Levels of the rungs, spread over the brief's span and eased where they would take too long."""
    low, wanted = brief.levels[0], _spread(brief)
    over = 0 if brief.minutes is None else ladder_minutes(brief, wanted) - brief.minutes
    return eased(wanted, low, -(-over // MINUTES[1])) if over > 0 else wanted


def _spread(brief: Brief) -> list[int]:
    """Levels from easiest to hardest, evenly over the calls."""
    low, high = brief.levels
    return [low + round((high - low) * i / max(brief.calls - 1, 1)) for i in range(brief.calls)]


def eased(wanted: list[int], low: int, steps: int) -> list[int]:
    """``wanted`` with ``steps`` levels taken off, never below ``low``;
    the hardest rung keeps its level as long as another can give.
    """
    wanted = list(wanted)
    for _ in range(steps):
        giving = [i for i in range(len(wanted) - 1) if wanted[i] > low] or [
            i for i in range(len(wanted)) if wanted[i] > low
        ]
        if not giving:
            break
        most = max(wanted[i] for i in giving)
        wanted[next(i for i in giving if wanted[i] == most)] -= 1
    return sorted(wanted)


def next_rung(brief: Brief, wanted: list[int], found: list[Rung], known: Known, charted: bool = False) -> Rung:
    """The rung after those ``found``, for the levels ``wanted``; what is learned on the way goes into ``known``, unless
    all is ``charted`` there already.
    """
    skills, at = _skills(brief, rng_of(brief, "plan")), len(found)
    way = ways(brief)[at]
    return rung_for(brief, at + 1, wanted[at], way, skills[at], [r.skill for r in found], known, charted)


def ways(brief: Brief) -> list[str]:
    """The way of every rung: two faults at once on top of the ladder, second visits below, trouble of an instrument
    below them.
    """
    others = [INSTRUMENT] * brief.instrument_faults + [SECOND_VISIT] * brief.second_visits
    others += [USUAL_WAY] * brief.two_faults
    return [USUAL_WAY] * (brief.calls - len(others)) + others


def on_ladder(found: list[Rung]) -> list[Rung]:
    """Rungs in order, easiest first, numbered, each with its first form."""
    ordered = sorted(found, key=lambda r: (r.level, r.number))
    return [replace(r, number=i, forms=(r.skill,)) for i, r in enumerate(ordered, start=1)]


def with_form(brief: Brief, ladder: list[Rung], form: int, known: Known, charted: bool = False) -> list[Rung]:
    """The ladder with one form more (numbered from 1 after the first): at every place another skill of the same level,
    look and predicted success.

    Every form has as many machines with nothing wrong, each at another place where their level allows it. A place for
    which nothing else is found keeps its skill.
    """
    forms = [list(r.forms) for r in ladder]
    rng = rng_of(brief, "form", form)
    taken: list[tuple[str, ...]] = []
    fault_free = sum(r.skill == () for r in ladder)
    places = [i for i, r in enumerate(ladder) if len(r.skill) < 2 and r.way == USUAL_WAY]
    moved = [i for i in places if () not in forms[i] and fault_free and _equal(known, (), ladder[i])]
    rng.shuffle(moved)
    sound = set(moved[:fault_free])
    sound |= set([i for i in places if ladder[i].skill == ()][: fault_free - len(sound)])
    for i, rung in enumerate(ladder):
        if i in sound:
            forms[i].append(())
            continue
        options = options_of(brief, rung.way, len(rung.skill) > 1)
        if rung.way == SECOND_VISIT:  # every form has as many visits on which nothing is left
            options = [o for o in options if len(o) == len(rung.skill)]
        rng.shuffle(options)
        skill = _other(brief, rung, options, forms[i], taken, known, charted)
        forms[i].append(skill)
        taken.append(skill)
    return [replace(r, forms=tuple(f)) for r, f in zip(ladder, forms, strict=True)]


def options_of(brief: Brief, way: str, two: bool = False) -> list[tuple[str, ...]]:
    """Skills that a rung of a way can train; ``two`` for two faults at once."""
    pairs: list[tuple[str, ...]] = [p for p in PAIRS if set(p) <= set(brief.faults)]
    if way == SECOND_VISIT:
        return [*pairs, *((f,) for f in _REPAIRED_ALONE if f in brief.faults)]
    if way == INSTRUMENT:
        beside: list[tuple[str, ...]] = [(), *((f,) for f in _BESIDE_TROUBLE if f in brief.faults)]
        return [(trouble, *one) for trouble in instruments_on_paper(brief.kit) for one in beside]
    return pairs if two else [(f,) for f in brief.faults]


def _equal(known: Known, skill: tuple[str, ...], rung: Rung) -> bool:
    """Whether a skill is known to reach the level and look of a rung within the band of its predicted success."""
    if rung.way == INSTRUMENT:
        return sum(len(shares) for (level, _), shares in known.get(skill, {}).items() if level == rung.level) >= 2
    got = known.get(left_to_find(rung.way, skill), {}).get((rung.level, bool(rung.look_decides)), [])
    return sum(rung.success is None or abs(p - rung.success) <= BAND for p in got) >= 2


def _other(
    brief: Brief,
    rung: Rung,
    options: list[tuple[str, ...]],
    here: list[tuple[str, ...]],
    taken: list[tuple[str, ...]],
    known: Known,
    charted: bool,
) -> tuple[str, ...]:
    """A skill for this place of a further form: not one of another form here, nor one that the form has already."""
    fresh = [s for s in options if s not in here and s not in taken]
    for skill in fresh:
        if _equal(known, skill, rung):
            return skill
    for skill in [] if charted and rung.way != INSTRUMENT else fresh[:_SCOUTED_AGAIN]:
        _scout(brief, rung.way, skill, rung.level, rung.number, 1, known, again=True)
        if _equal(known, skill, rung):
            return skill
    # nothing else is as hard here: the first form's own, or what stood there before
    return next((s for s in here if s != () and s not in taken), next((s for s in here if s != ()), options[0]))


def _skills(brief: Brief, rng: random.Random) -> list[list[tuple[str, ...]]]:
    """For every rung the skills to be tried, best first: machines with nothing wrong in the middle,
    two faults on top.
    """
    calls = brief.calls
    pairs, singles = options_of(brief, USUAL_WAY, two=True), options_of(brief, USUAL_WAY)
    if brief.two_faults and not pairs:
        raise BadInputError("two_faults", brief.two_faults, "0: none of the usual pairs can be made from these faults")
    if brief.second_visits and not options_of(brief, SECOND_VISIT):
        raise BadInputError(
            "second_visits", brief.second_visits, "0: none of these faults hides another, or is repaired by itself"
        )
    plain = calls - brief.two_faults - brief.second_visits - brief.instrument_faults
    fault_free = min(round(brief.fault_free_share * calls), plain)
    rows: list[list[tuple[str, ...]]] = []
    for i, way in enumerate(ways(brief)):
        rng.shuffle(singles)
        rng.shuffle(pairs)
        options = list(pairs if i >= calls - brief.two_faults else singles)
        if way != USUAL_WAY:
            options = options_of(brief, way)
            if way == SECOND_VISIT and (brief.second_visits < 2 or i > plain + brief.instrument_faults):
                options = [o for o in options if len(o) > 1] or options
            rng.shuffle(options)
        rows.append(options)
    middle = sorted(range(plain), key=lambda i: (abs(i - (calls - 1) / 2), i))[:fault_free]
    for i in middle:
        rows[i] = [()]
    return rows


def rung_for(
    brief: Brief,
    number: int,
    level: int,
    way: str,
    skills: list[tuple[str, ...]],
    used: list[tuple[str, ...]],
    known: Known,
    charted: bool,
) -> Rung:
    """The first skill that reaches the level, those seldom ``used`` first; failing that the one that comes nearest, at
    its own level.
    """
    turns = sorted({used.count(s) for s in skills})
    rounds = [[s for s in skills if used.count(s) == turn] for turn in turns]
    charted = charted and way != INSTRUMENT
    best: Rung | None = None
    nearest: tuple[int, int, tuple[str, ...]] | None = None
    for tried, (skill, effort) in enumerate([(s, n) for some in rounds for n in (1, 4) for s in some]):
        if best is not None and tried >= _SKILLS and abs(best.level - level) <= 1 and not charted:
            break
        if effort > 1 and best is not None:
            break
        if effort > 1 and charted:
            continue
        hidden = left_to_find(way, skill)
        reached = known.get(hidden, {}) if charted else _scout(brief, way, skill, level, number, effort, known)
        if way == INSTRUMENT:
            reached = _by_level(reached)
        for (other, decides), shares in sorted(reached.items(), key=lambda row: (-len(row[1]), row[0])):
            if len(shares) < 2:
                continue
            made = Rung(
                number=number,
                level=other,
                skill=skill,
                success=None if way == INSTRUMENT else round(_middle(shares), 3),
                look_decides=None if way == INSTRUMENT else decides,
                way=way,
            )
            if other == level:
                return made
            here = (abs(other - level), other, skill)
            nearest = here if nearest is None else min(nearest, here)
            allowed = brief.levels[0] <= other <= brief.levels[1] or hidden == ()
            if allowed and (best is None or abs(other - level) < abs(best.level - level)):
                best = made
    if best is None:
        raise NoClassSetError(
            f"call {number}: none of these makes a fair call of level {_span(brief.levels)} on these machines in this "
            f"weather: {', '.join(in_words(s) for s in skills)}. "
            + (
                "Widen the weather, the machines, the faults or the levels."
                if nearest is None
                else f"The closest that works is level {nearest[1]}: {in_words(nearest[2])}."
            )
        )
    return best


def _span(levels: tuple[int, int]) -> str:
    low, high = levels
    return str(low) if low == high else f"{low} to {high}"


def _middle(shares: list[float]) -> float:
    """The share with the most others within the band, nearest to the middle of them."""
    ordered = sorted(shares)
    middle = ordered[len(ordered) // 2]
    return max(ordered, key=lambda p: (sum(abs(p - q) <= BAND for q in ordered), -abs(p - middle)))


def _by_level(reached: Reached) -> Reached:
    """What was reached, whatever the look: it is the reading that cannot be which tells of an instrument."""
    found: Reached = {}
    for (level, _), shares in reached.items():
        found.setdefault((level, False), []).extend(shares)
    return found


def _scout(
    brief: Brief,
    way: str,
    skill: tuple[str, ...],
    level: int,
    number: int,
    effort: int,
    known: Known,
    again: bool = False,
) -> Reached:
    """Levels that a few tries of a skill reach, ``effort`` times as many as usual; stops at the third of the wanted
    level with the same look. What is found is kept in ``known`` as well.

    A level has to be reached twice with the same look, since a class needs one for everybody. A machine with nothing
    wrong has no severity to turn, so it is tried in more weathers.
    """
    reached: Reached = {}
    hidden = left_to_find(way, skill)
    settings_tried = _SCOUTS * effort * (1 if hidden else SEVERITIES)
    rng = rng_of(brief, "scout", *(("again",) if again else ()), number, skill, effort)
    for drawn in tries(
        brief,
        hidden,
        None,
        rng,
        settings_tried,
        wanted=level,
        pipes=brief.instruments == PIPES,
        edges_after=settings_tried // 2,
        beside=skill[: len(skill) - len(hidden)],
    ):
        key = (drawn.hard.level, drawn.look_decides)
        reached.setdefault(key, []).append(drawn.hard.success)
        known.setdefault(hidden, {}).setdefault(key, []).append(drawn.hard.success)
        if key[0] == level and len(reached[key]) >= 3:
            break
    return reached
