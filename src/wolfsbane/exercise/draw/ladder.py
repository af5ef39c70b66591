"""The ladder of a brief: what each call trains, at which level; and the settings tried to get there."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.pages import page_of, said_of
from wolfsbane.diagnosis.solved_cases import faulted_vector, solved, solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.technician import success
from wolfsbane.exercise.draw.judgement import hardness, judge_on
from wolfsbane.exercise.draw.looks import with_idle_looks
from wolfsbane.exercise.draw.weather import drawn_weather

if TYPE_CHECKING:
    from random import Random

    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.difficulty import Difficulty
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.draw.judgement import Judgement
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

#: minutes an apprentice is given for a call: to start with, and for each level (assumed)
_MINUTES = (3, 2)

_DRILL_MINUTES = 1.5

#: settings drawn for one variant at most: a level that one setting in 20 reaches is then missed by one apprentice in
#: 200,000
MAX_SETTINGS = 240

#: after this many settings a figure may lie on the edge of its target
_EDGES_AFTER = 12

#: after this many settings a variant may lie twice as far from its rung, with another kind of look
_WIDER_AFTER = 120

#: severities drawn in a setting, those of them that are proved, and settings spent on finding out what a rung can be
_DRAWN, _SEVERITIES, _SCOUTS = 10, 3, 4

#: predicted success in the middle of each level
_USUAL_SUCCESS = {1: 0.95, 2: 0.875, 3: 0.8, 4: 0.725, 5: 0.6}

#: looks on a page raise the predicted success by about so much; a severity farther from the aim is not proved
_BY_LOOKS, _HOPELESS = 0.03, 0.16

#: ladders tried where the levels that are found take longer than the time there is
_PLANS = 3

#: skills tried for a rung before one level beside the wanted one is good enough
_SKILLS = 5

#: papers that differ in what is wrong at each place: neighbors never have the same one
FORMS = 3

#: skills scouted for one place of a further form, beside those that are known already
_SCOUTED_AGAIN = 2

#: how far the predicted success of an apprentice's call may lie from its rung's
BAND = 0.07


class NoClassSetError(ValueError):
    """The brief cannot be met; the message names the rung and what stood in the way."""


@dataclass(frozen=True, kw_only=True)
class Rung:
    """One call of the ladder: its number, the stated level and the skill (fault ids in the order they are repaired).

    ``forms`` are the skills of every form of the paper, the first one ``skill``: apprentices get them in turn.
    ``success`` is the share of simulated apprentices who name what is wrong, None where it does not matter;
    ``look_decides`` says whether a look or test on the page shows the fault by itself, None where it may.
    """

    number: int
    level: int
    skill: tuple[str, ...]
    forms: tuple[tuple[str, ...], ...] = ()
    success: float | None = None
    look_decides: bool | None = None

    @property
    def minutes(self) -> int:
        """Time an apprentice is given."""
        return _MINUTES[0] + _MINUTES[1] * self.level

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
        }


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


def rng_of(brief: Brief, *parts: Any) -> Random:
    return random.Random("/".join(map(str, (brief.seed, brief.title, *parts))))


def plan(brief: Brief) -> list[Rung]:
    """The ladder of a brief, easiest first: list of :class:`Rung`. Where time is short the middle rungs come down
    first.

    Raises NoClassSetError, BadInputError for too little time.
    """
    wanted, needed = _wanted(brief), None
    for _ in range(_PLANS):
        ladder = _ladder(brief, wanted)
        needed = _time(brief, [r.level for r in ladder])
        if brief.minutes is None or needed <= brief.minutes:
            return ladder
        lower = _eased(wanted, brief.levels[0], -(-(needed - brief.minutes) // _MINUTES[1]))
        if lower == wanted:
            break
        wanted = lower
    raise BadInputError(
        "minutes", brief.minutes, f"at least {needed} for these calls and drills, or fewer or easier ones"
    )


def shortfall(brief: Brief, ladder: list[Rung]) -> str:
    """A sentence where ``ladder`` does not reach the hardest level of the brief, or an empty one."""
    top, wanted = max((r.level for r in ladder), default=brief.levels[1]), brief.levels[1]
    if top >= wanted:
        missing = sorted(set(_wanted(brief)) - {r.level for r in ladder})
        if not missing:
            return ""
        levels = " and ".join(map(str, missing))
        return f"No fault in this request turned out at level {levels} on these machines; the others stand closer."
    if brief.minutes is not None and _time(brief, [*(r.level for r in ladder[:-1]), wanted]) > brief.minutes:
        return (
            f"Level {wanted} does not fit into {brief.minutes} minutes beside the others; fewer calls or more time"
            " would reach it."
        )
    return f"No fault in this request turned out as hard as level {wanted} on these machines."


def _time(brief: Brief, levels: list[int]) -> int:
    """Minutes that calls of these levels and the drills take."""
    return sum(_MINUTES[0] + _MINUTES[1] * level for level in levels) + round(
        _DRILL_MINUTES * sum(n for _, n in brief.drills)
    )


def _wanted(brief: Brief) -> list[int]:
    """Levels of the rungs, spread over the brief's span and eased where they would take too long."""
    low, wanted = brief.levels[0], _spread(brief)
    over = 0 if brief.minutes is None else _time(brief, wanted) - brief.minutes
    return _eased(wanted, low, -(-over // _MINUTES[1])) if over > 0 else wanted


def _spread(brief: Brief) -> list[int]:
    """Levels from easiest to hardest, evenly over the calls."""
    low, high = brief.levels
    return [low + round((high - low) * i / max(brief.calls - 1, 1)) for i in range(brief.calls)]


def _eased(wanted: list[int], low: int, steps: int) -> list[int]:
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


def _ladder(brief: Brief, wanted: list[int]) -> list[Rung]:
    rng = rng_of(brief, "plan")
    skills = _skills(brief, rng)
    found: list[Rung] = []
    known: dict[tuple[str, ...], Reached] = {}
    for number, level in enumerate(wanted, start=1):
        found.append(_rung(brief, number, level, skills[number - 1], [r.skill for r in found], known))
    found.sort(key=lambda r: (r.level, r.number))
    ladder = [replace(r, number=i) for i, r in enumerate(found, start=1)]
    return _with_forms(brief, ladder, known)


def _with_forms(brief: Brief, ladder: list[Rung], known: dict[tuple[str, ...], Reached]) -> list[Rung]:
    """The ladder with further forms: at every place another skill of the same level, look and predicted success.

    Every form has as many machines with nothing wrong, each at another place where their level allows it. A place for
    which nothing else is found keeps its skill.
    """
    forms = [[r.skill] for r in ladder]
    singles: list[tuple[str, ...]] = [(f,) for f in brief.faults]
    pairs: list[tuple[str, ...]] = [p for p in PAIRS if set(p) <= set(brief.faults)]
    for form in range(1, min(FORMS, brief.apprentices)):
        rng = rng_of(brief, "form", form)
        taken: list[tuple[str, ...]] = []
        fault_free = sum(r.skill == () for r in ladder)
        places = [i for i, r in enumerate(ladder) if len(r.skill) < 2]
        moved = [i for i in places if () not in forms[i] and fault_free and _equal(known, (), ladder[i])]
        rng.shuffle(moved)
        sound = set(moved[:fault_free])
        sound |= set([i for i in places if ladder[i].skill == ()][: fault_free - len(sound)])
        for i, rung in enumerate(ladder):
            if i in sound:
                forms[i].append(())
                continue
            options = list(pairs if len(rung.skill) > 1 else singles)
            rng.shuffle(options)
            skill = _other(brief, rung, options, forms[i], taken, known)
            forms[i].append(skill)
            taken.append(skill)
    return [replace(r, forms=tuple(f)) for r, f in zip(ladder, forms, strict=True)]


def _equal(known: dict[tuple[str, ...], Reached], skill: tuple[str, ...], rung: Rung) -> bool:
    """Whether a skill is known to reach the level and look of a rung within the band of its predicted success."""
    got = known.get(skill, {}).get((rung.level, bool(rung.look_decides)), [])
    return sum(rung.success is None or abs(p - rung.success) <= BAND for p in got) >= 2


def _other(
    brief: Brief,
    rung: Rung,
    options: list[tuple[str, ...]],
    here: list[tuple[str, ...]],
    taken: list[tuple[str, ...]],
    known: dict[tuple[str, ...], Reached],
) -> tuple[str, ...]:
    """A skill for this place of a further form: not one of another form here, nor one that the form has already."""
    fresh = [s for s in options if s not in here and s not in taken]
    for skill in fresh:
        if _equal(known, skill, rung):
            return skill
    for skill in fresh[:_SCOUTED_AGAIN]:
        _scout(brief, skill, rung.level, rung.number, 1, known, again=True)
        if _equal(known, skill, rung):
            return skill
    # nothing else is as hard here: the first form's own, or what stood there before
    return next((s for s in here if s != () and s not in taken), next((s for s in here if s != ()), options[0]))


def _skills(brief: Brief, rng: random.Random) -> list[list[tuple[str, ...]]]:
    """For every rung the skills to be tried, best first: machines with nothing wrong in the middle,
    two faults on top.
    """
    calls = brief.calls
    pairs: list[tuple[str, ...]] = [p for p in PAIRS if set(p) <= set(brief.faults)]
    if brief.two_faults and not pairs:
        raise BadInputError("two_faults", brief.two_faults, "0: none of the usual pairs can be made from these faults")
    fault_free = min(round(brief.fault_free_share * calls), calls - brief.two_faults)
    singles: list[tuple[str, ...]] = [(f,) for f in brief.faults]
    rows: list[list[tuple[str, ...]]] = []
    for i in range(calls):
        rng.shuffle(singles)
        rng.shuffle(pairs)
        rows.append(list(pairs) if i >= calls - brief.two_faults else list(singles))
    middle = sorted(range(calls - brief.two_faults), key=lambda i: (abs(i - (calls - 1) / 2), i))[:fault_free]
    for i in middle:
        rows[i] = [()]
    return rows


def _rung(
    brief: Brief,
    number: int,
    level: int,
    skills: list[tuple[str, ...]],
    used: list[tuple[str, ...]],
    known: dict[tuple[str, ...], Reached],
) -> Rung:
    """The first skill that reaches the level; failing that the one that comes nearest, at its own level."""
    fresh = [s for s in skills if s not in used] or skills
    best: Rung | None = None
    for tried, (skill, effort) in enumerate([(s, 1) for s in fresh] + [(s, 4) for s in fresh]):
        if best is not None and tried >= _SKILLS and abs(best.level - level) <= 1:
            break
        if effort > 1 and best is not None:
            break
        reached = _scout(brief, skill, level, number, effort, known)
        for (other, decides), shares in sorted(reached.items(), key=lambda row: (-len(row[1]), row[0])):
            if len(shares) < 2:
                continue
            made = Rung(number=number, level=other, skill=skill, success=_middle(shares), look_decides=decides)
            if other == level:
                return made
            allowed = brief.levels[0] <= other <= brief.levels[1] or skill == ()
            if allowed and (best is None or abs(other - level) < abs(best.level - level)):
                best = made
    if best is None:
        raise NoClassSetError(
            f"call {number}: none of {', '.join(skill_id(s) for s in skills)} makes a fair call of level "
            f"{brief.levels[0]} to {brief.levels[1]} on these machines in this weather. "
            "Widen the weather, the machines, the faults or the levels."
        )
    return best


def _middle(shares: list[float]) -> float:
    """The share with the most others within the band, nearest to the middle of them."""
    ordered = sorted(shares)
    middle = ordered[len(ordered) // 2]
    return max(ordered, key=lambda p: (sum(abs(p - q) <= BAND for q in ordered), -abs(p - middle)))


def _scout(
    brief: Brief,
    skill: tuple[str, ...],
    level: int,
    number: int,
    effort: int,
    known: dict[tuple[str, ...], Reached],
    again: bool = False,
) -> Reached:
    """Levels that a few tries of a skill reach, ``effort`` times as many as usual; stops at the third of the wanted
    level with the same look. What is found is kept in ``known`` as well.

    A level has to be reached twice with the same look, since a class needs one for everybody. A machine with nothing
    wrong has no severity to turn, so it is tried in more weathers.
    """
    reached: Reached = {}
    settings_tried = _SCOUTS * effort * (1 if skill else _SEVERITIES)
    rng = rng_of(brief, "scout", *(("again",) if again else ()), number, skill, effort)
    for drawn in tries(brief, skill, None, rng, settings_tried, wanted=level, edges_after=settings_tried // 2):
        key = (drawn.hard.level, drawn.look_decides)
        reached.setdefault(key, []).append(drawn.hard.success)
        known.setdefault(skill, {}).setdefault(key, []).append(drawn.hard.success)
        if key[0] == level and len(reached[key]) >= 3:
            break
    return reached


def _machines(brief: Brief, skill: tuple[str, ...]) -> list[str]:
    fit = [m for m in brief.machines if all(fault_kind(f).suits(machine_by_id(m)) for f in skill)]
    if not fit:
        raise NoClassSetError(f"{'+'.join(skill)} can stand on none of {', '.join(brief.machines)}")
    return fit


def _severity(fault_id: str, rng: random.Random) -> float:
    """A severity from beside mild to beyond severe."""
    kind = fault_kind(fault_id)
    value = kind.mild + (kind.severe - kind.mild) * rng.uniform(-0.3, 1.3)
    low, high = sorted((kind.fault_free, kind.limit))
    return round(min(max(value, low), high), 1)


def _likely(
    cases: SolvedCases, skill: tuple[str, ...], practice: Practice, rng: random.Random, aim: float | None, only: bool
) -> list[tuple[Fault, ...]]:
    """Severities of a skill that are worth proving: those whose predicted success, before any look, comes nearest to
    ``aim`` (None: any), ``only`` those near it.
    """
    drawn = [tuple(Fault(id=f, severity=_severity(f, rng)) for f in skill) for _ in range(_DRAWN if skill else 1)]
    if aim is None:
        return drawn[:_SEVERITIES]
    offered, ranked = tuple(kind.id for kind in candidates(cases.machine, skill)), []
    for i, faults in enumerate(drawn):
        try:
            state = solved(cases.machine, cases.conditions, faults)
        except NoConvergenceError:
            continue
        if state is None:
            continue
        page = page_of(cases, faults, faulted_vector(cases.machine, state, faults), practice, offered)
        away = abs(success(page, skill) - aim + _BY_LOOKS)
        if away <= _HOPELESS or not only:
            ranked.append((away, i, faults))
    return [faults for _, _, faults in sorted(ranked)[:_SEVERITIES]]


def tries(
    brief: Brief,
    skill: tuple[str, ...],
    rung: Rung | None,
    rng: random.Random,
    settings_tried: int,
    wanted: int | None = None,
    pipes: bool = False,
    edges_after: int = _EDGES_AFTER,
) -> Iterator[Drawn]:
    """Fair calls of a skill, :class:`Drawn` one after the other; only those that ``rung`` takes unless it is None.
    ``wanted`` is the level that severities lean to where there is no rung.
    """
    machines, practice = _machines(brief, skill), practice_by_id(brief.practice_id)
    aim = _USUAL_SUCCESS.get(wanted or 0) if rung is None else rung.success or _USUAL_SUCCESS[rung.level]

    for attempt in range(settings_tried):
        machine = machine_by_id(rng.choice(machines))
        weather = drawn_weather(brief, rng)
        cases = solved_cases(machine, weather, brief.instruments)
        for faults in _likely(cases, skill, practice, rng, aim, rung is not None):
            judged = _judged(
                brief,
                cases,
                faults,
                practice,
                rng.randrange(2**31),
                allow_edges=attempt > edges_after,
                pipes=pipes,
                looks_decide=rung is None or rung.look_decides is not False or attempt > _WIDER_AFTER,
                aim=None if rung is None else rung.success,
            )
            if judged is None:
                continue
            _, proof, _ = judged.proved()
            said = said_of(cases, faults, proof.tests, skill)
            drawn = Drawn(
                judged=judged,
                faults=faults,
                hard=hardness(judged, faults, practice),
                look_decides=any(v > 0 for v in said.values()),
            )
            if rung is None or rung.takes(drawn, attempt > _WIDER_AFTER):
                yield drawn


def _judged(
    brief: Brief,
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    practice: Practice,
    seed: int,
    *,
    allow_edges: Any,
    pipes: bool = False,
    looks_decide: bool = True,
    aim: float | None = None,
) -> Judgement | None:
    """A fair judgement with a unique proof, or None. Looks and tests that split the equals are given with the call, and
    so are others like them, so that what was looked at does not say what is wrong. ``looks_decide`` says whether a look
    may show what no figure does; what is predicted far from ``aim`` is given up before pairs are weighed.
    """
    tests = tuple(t for t in brief.given_tests if FIELD_TESTS[t].suits(cases.machine))

    def judge(given: tuple[str, ...], splits: bool, pairs: bool) -> tuple[Judgement, tuple[str, ...]]:
        """A judgement, and the tests that its proof adds to those given."""
        found = judge_on(
            cases,
            faults,
            practice,
            brief.units,
            tests=given,
            readings=brief.given_readings,
            allow_edges=allow_edges,
            wants_splits=splits,
            pipes=pipes,
            named=brief.faults,
            by_book=True,
            looks_decide=looks_decide,
            pairs=pairs,
            seed=seed,
        )
        more, proof = found.needs, found.proof
        if splits and proof is not None and proof.refusal is None and proof.equals and not proof.left:
            more += tuple(s.id for s in proof.splits)
        return found, tuple(dict.fromkeys((*given, *more)))

    try:
        judged, tests = judge(tests, True, False)
        if judged.needs or not _fair(judged):
            judged, _ = judge(tests, False, False)
        if not _fair(judged) and not (looks_decide and len(faults) > 1 and judged.proof is not None):
            return None
        if aim is not None and _fair(judged) and abs(hardness(judged, faults, practice).success - aim) > 2.0 * BAND:
            return None
        judged, more = judge(tests, True, True)
        if more != tests:
            judged, _ = judge(more, False, True)
        if _fair(judged):
            judged, _ = judge(with_idle_looks(cases, faults, more, random.Random(seed)), False, True)
    except NoConvergenceError:
        return None
    return judged if _fair(judged) else None


def _fair(judged: Judgement) -> bool:
    return judged.refusal is None and judged.proof is not None and judged.proof.unique
