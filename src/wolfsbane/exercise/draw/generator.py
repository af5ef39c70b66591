"""From a brief to a class set: a ladder of calls from easy to hard, and for every apprentice an equal variant of each.

Equal means the same stated level, the same share of simulated apprentices who name what is wrong, and the same kind of
look, with another machine, weather and other numbers; neighbors have another fault at the same place.
Every call is proved. Each variant depends on the brief, its rung and its apprentice alone, so that variants can be made
anywhere and in any order.
"""

from __future__ import annotations

import hashlib
import json
import random
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.instruments import PIPES
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.diagnosis.candidates import instruments_on_paper
from wolfsbane.diagnosis.solved_cases import given_readings
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.exercise.draw.charted import likely
from wolfsbane.exercise.draw.drills import drill
from wolfsbane.exercise.draw.ladder import shortfall
from wolfsbane.exercise.draw.planning import plan
from wolfsbane.exercise.draw.rung import INSTRUMENT, SECOND_VISIT, Rung, in_words, left_to_find, skill_id
from wolfsbane.exercise.draw.seeds import rng_of
from wolfsbane.exercise.draw.tries import NoClassSetError, faulted, tries
from wolfsbane.exercise.draw.variant import VARIANT_VERSION, by_line_temperatures, fingerprint, finished, told
from wolfsbane.exercise.draw.weather import met_of
from wolfsbane.exercise.paper.asked import Asked
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.paper.pipes import by_pipes, with_pipes
from wolfsbane.exercise.paper.visits import second_visit
from wolfsbane.exercise.plan.call_kind import reads_pipes
from wolfsbane.exercise.plan.scenario import Scenario
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.exercise.draw.judgement import Judgement
    from wolfsbane.exercise.draw.rung import Drawn
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.plan.brief import Brief


#: settings drawn for one variant at most: a level that one setting in 20 reaches is then missed by one apprentice in
#: 200,000
MAX_SETTINGS = 240

#: depths tried of the fault that was repaired before a second visit, and reading tolerances by which it showed
_FIRST_VISITS, _SEEN = 8, 2.0


def _made(
    brief: Brief,
    judged: Judgement,
    faults: tuple[Fault, ...],
    practice: Practice,
    rng: random.Random,
    asked: Asked | None = None,
) -> Call:
    """The call of a fair judgement."""
    cases, proof, _ = judged.proved()
    met = met_of(cases.machine, cases.conditions)
    planned = Scenario(
        title=brief.title,
        machine=cases.machine.id,
        faults=faults,
        outdoor_db_f=met["outdoor_db_f"],
        return_db_f=met.get("return_db_f"),
        return_wb_f=met.get("return_wb_f"),
        box_f=met.get("box_f"),
        water_in_f=met.get("water_in_f"),
        altitude_ft=brief.altitude_ft,
        instruments=brief.kit,
        practice_id=brief.practice_id,
        given_readings=brief.given_readings,
        given_tests=proof.tests,
        own=brief.own_of(cases.machine.id),
    )
    if by_line_temperatures(planned, asked):
        planned = with_pipes(planned)
    return finished(judged, told(planned, judged, rng), faults, practice, brief.units, rng.randrange(2**31), asked)


def _after_repair(call: Call, drawn: Drawn, repaired: str, rng: random.Random) -> Call | None:
    """The call with what the machine showed before a fault was repaired; None where it did not run with it, or where
    the repair moved no reading by more than readers differ.
    """
    cases, _, state = drawn.judged.proved()
    after = faulted_vector(cases.machine, state, drawn.faults)
    for _ in range(_FIRST_VISITS):
        fault = faulted(repaired, cases.machine, rng)
        both = (fault, *drawn.faults)
        found = solved(cases.machine, cases.conditions, both)
        if found is None:
            continue
        before = faulted_vector(cases.machine, found, both)
        if float(cases.apart(before[None], after, given_readings(cases.machine))[0]) > _SEEN:
            return second_visit(call, cases.machine, found, fault)
    return None


def variant(brief: Brief, rung: Rung, apprentice: int, again: int = 0, asked: Asked | None = None) -> Call:
    """The :class:`~wolfsbane.exercise.paper.call.Call` of one rung for one apprentice (from 1). ``again`` asks for
    another one.

    ``asked`` (:class:`~wolfsbane.exercise.paper.asked.Asked`) may change instruments and school, and says what is
    asked.

    Raises NoClassSetError where none is found.
    """
    if brief.instruments == PIPES and (asked is None or asked.instruments is None):
        asked = replace(asked or Asked(), instruments=PIPES)
    pipes = asked is not None and asked.instruments == PIPES
    if asked is not None:
        kit = "digital" if pipes else asked.instruments
        brief = replace(brief, instruments=kit or brief.kit, practice_id=asked.practice_id or brief.practice_id)
    rng = rng_of(brief, "variant", rung.number, apprentice, again)
    skill = rung.skill_of(apprentice)
    # a form whose skill turns out too rare on these machines gives way to the rung's others
    read_with = (*brief.faults, *instruments_on_paper(brief.kit))
    for one in dict.fromkeys((skill, *rung.forms)):
        if rung.way == INSTRUMENT and not set(one) <= set(read_with):  # no such trouble with these instruments
            continue
        left = left_to_find(rung.way, one)
        repaired = one[: len(one) - len(left)]
        known = likely(brief, left, rung)
        for drawn in tries(brief, left, rung, rng, MAX_SETTINGS, pipes=pipes, beside=repaired, likely=known):
            made = _made(brief, drawn.judged, drawn.faults, practice_by_id(brief.practice_id), rng, asked)
            if rung.way == SECOND_VISIT:
                visited = _after_repair(made, drawn, repaired[0], rng)
                if visited is None:
                    continue
                made = visited
            found = by_pipes(made) if pipes or reads_pipes(drawn.judged.proved()[0].machine) else made
            if found is not None:
                return found
    raise NoClassSetError(
        f"call {rung.number} ({in_words(skill)}, level {rung.level}): no fair variant for apprentice "
        f"{apprentice} in {MAX_SETTINGS} tries. Widen the weather, the machines or the levels."
    )


def sheet(brief: Brief, ladder: list[Rung], apprentice: int, again: Iterable[tuple[int, int]] = ()) -> dict[str, Any]:
    """Calls and drills of one apprentice as plain data.

    ``again`` is a list of (rung number, times) to be drawn again.
    """
    anew = dict(again)
    calls = [(rung, variant(brief, rung, apprentice, anew.get(rung.number, 0))) for rung in ladder]
    order = rng_of(brief, "order", apprentice)
    calls.sort(key=lambda item: (item[0].level, order.random()))
    return {
        "apprentice": apprentice,
        "calls": [
            {
                "rung": rung.number,
                "level": rung.level,
                "skill": skill_id(call.key.faults),
                "fingerprint": list(fingerprint(call)),
                "call": call.to_json(),
            }
            for rung, call in calls
        ],
        "drills": [drill(kind, items, brief, rng_of(brief, "drill", kind, apprentice)) for kind, items in brief.drills],
    }


def repeats(sheets: list[dict[str, Any]]) -> dict[Any, Any]:
    """Calls that two apprentices would share: apprentice -> list of rung numbers to be drawn again."""
    seen: set[Any] = set()
    found: dict[Any, Any] = {}
    for made in sheets:
        for row in made["calls"]:
            key = (row["rung"], *row["fingerprint"])
            if key in seen:
                found.setdefault(made["apprentice"], []).append(row["rung"])
            seen.add(key)
    return found


def class_set(
    brief: Brief, each: type | Callable[..., Any] = map, pays: Callable[[list[Call]], bool] | None = None
) -> dict[str, Any]:
    """The whole set as plain data. ``each(work, items)`` may spread the sheets over processes; the answer is the same.

    ``work`` is a :class:`SheetWork`. A sheet that ``pays`` guessing is drawn again. Raises NoClassSetError,
    BadInputError.
    """
    ladder = plan(brief)
    work = SheetWork(brief=brief, ladder=ladder, pays=pays)
    sheets = list(each(work, [(a, ()) for a in range(1, brief.apprentices + 1)]))
    for again in range(1, 6):
        twice = repeats(sheets)
        if not twice:
            break
        for apprentice, rungs in twice.items():
            sheets[apprentice - 1] = sheet(brief, ladder, apprentice, [(r, again) for r in rungs])
    text = json.dumps(brief.to_json(), sort_keys=True)
    calls = [row["call"]["key"] for made in sheets for row in made["calls"]]
    return {
        "schema": 1,
        "brief": brief.to_json(),
        "brief_sha256": hashlib.sha256(text.encode()).hexdigest(),
        "solver_version": SOLVER_VERSION,
        "variant_version": VARIANT_VERSION,
        "table_hash": combined_hash(),
        "ladder": [r.to_json() for r in ladder],
        "shortfall": shortfall(brief, ladder),
        "calls": len(calls),
        "unique": sum(k["unique"] for k in calls),
        "shared_readings": sum(map(len, repeats(sheets).values())),
        "sheets": sheets,
    }


#: a sheet that pays guessing is drawn again so often, by these further draws
_REDRAWN = (11, 12)


@dataclass(frozen=True, kw_only=True)
class SheetWork:
    """One sheet, as work that can be sent to another process."""

    brief: Brief
    ladder: list[Rung]
    pays: Callable[[list[Call]], bool] | None = None

    def __call__(self, item: tuple[int, tuple[Any, ...]]) -> dict[str, Any]:
        """The sheet of (apprentice, rungs to be drawn again)."""
        apprentice, again = item
        made = sheet(self.brief, self.ladder, apprentice, again)
        for more in _REDRAWN:
            if self.pays is None or not self.pays([call_from_json(row["call"]) for row in made["calls"]]):
                break
            made = sheet(self.brief, self.ladder, apprentice, [(rung.number, more) for rung in self.ladder])
        return made
