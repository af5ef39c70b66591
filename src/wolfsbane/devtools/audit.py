"""Four tables about what is issued: is the answer the only one, can it be reached, is it as hard as said, can it be had
without reading?

Each is drawn from fresh seeds and judged by something that the generator does not use: a brute-force search, a
technician by the book with a shop's round numbers, apprentices who misread, a reader of looks, and copyists.
"""

from __future__ import annotations

import os
import random
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import numpy as np
from scipy.stats import spearmanr

from wolfsbane.cycle.conditions import Conditions
from wolfsbane.cycle.faults import NONE, Fault, fault_kind, faults_for
from wolfsbane.cycle.instruments import points_for, read
from wolfsbane.cycle.profiles import machine as machine_by_id
from wolfsbane.cycle.units import f_to_k
from wolfsbane.devtools.counterexamples import COMPANY, PAIR, SINGLE, Page, search
from wolfsbane.devtools.technician import reads_right, share, share_by_patterns
from wolfsbane.diagnosis.candidates import NOT_ON_PAPER
from wolfsbane.diagnosis.pages import page_of
from wolfsbane.diagnosis.proof import STATED, prove
from wolfsbane.diagnosis.solved_cases import given_readings, solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import faulted_vector, solved
from wolfsbane.diagnosis.words import words
from wolfsbane.exercise.draw.generator import class_set
from wolfsbane.exercise.draw.ladder import PAIRS
from wolfsbane.exercise.draw.rung import Drawn
from wolfsbane.exercise.draw.seeds import rng_of
from wolfsbane.exercise.draw.tries import tries
from wolfsbane.exercise.marking.gaming import TextReader, copied, told_by_name
from wolfsbane.exercise.paper.call import call_from_json
from wolfsbane.exercise.plan.brief import Brief, brief

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.solved_cases import SolvedCases
    from wolfsbane.exercise.paper.call import Call

#: groups of machines that are drawn from
MACHINES = (
    ("split-3t-r410a-txv", "split-3t-r22-txv", "split-3t-r454b-txv"),
    ("split-3t-r410a-orifice", "split-3t-r22-orifice"),
    ("split-3t-r410a-microchannel",),
    ("heatpump-3t-r410a-txv",),
    ("split-3t-r32-eev", "split-5t-r410a-txv"),
)
#: the other kinds of calls, searched by ``audit proof`` as well
OTHER_MACHINES = (
    ("walkin-cooler-r448a-txv", "walkin-freezer-r404a-txv"),
    ("reachin-r134a-capillary", "reachin-r290-capillary"),
    ("heatpump-3t-r410a-heating",),
    ("water-cooled-5t-r407c-txv",),
    ("package-10t-r410a-two-circuits",),
)
_RUNS = 120

Each = Callable[..., Iterable[Any]]


def drawn(
    seed: int, skill: tuple[str, ...] | None = None, among: tuple[tuple[str, ...], ...] = MACHINES
) -> tuple[Brief, Drawn] | None:
    """A fair call of one seed: any machine ``among`` some groups, any skill; None where the skill makes none in a few
    settings.
    """
    rng = random.Random(f"audit/{seed}")
    machines = among[seed % len(among)]
    made = brief({"title": "Audit", "machines": machines, "calls": 4, "two_faults": 1, "apprentices": 1, "seed": seed})
    if skill is None:
        pairs = [p for p in PAIRS if set(p) <= set(made.faults)]
        skill = rng.choice([(), *((f,) for f in made.faults), *pairs])
    for one in tries(made, skill, None, rng_of(made, "audit"), 12):
        return made, one
    return None


def _page(cases: SolvedCases, faults: tuple[Fault, ...], readings: tuple[str, ...], tests: tuple[str, ...]) -> Page:
    """What is printed, for the search."""
    state = _state(cases, faults)
    can = points_for(cases.machine)
    keys = tuple(k for k in (*readings, "return_db", "return_wb", "outdoor_db", "water_in") if k in can)
    shown = read(state, cases.kit, "us", machine=cases.machine, keys=keys)
    hidden = {f.id for f in faults}
    return Page(
        machine=cases.machine,
        conditions=cases.conditions,
        kit=cases.kit,
        hidden=faults,
        readings={key: r.value for key, r in shown.items()},
        tests={t: min(words(cases, t, _first_causes(faults)), key=str) for t in tests},
        ruled_out=tuple(s for s in STATED if s not in hidden),
    )


def _first_causes(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    return tuple(replace(f, cause=f.cause or fault_kind(f.id).causes[0].id) for f in faults)


def _state(cases: SolvedCases, faults: tuple[Fault, ...]) -> Any:
    state = solved(cases.machine, cases.conditions, faults)
    if state is None:
        raise ValueError("the machine does not run")
    return state


def searched_call(seed: int) -> dict[str, Any] | None:
    """One generated call, and what a brute-force search finds against each of its claims."""
    got = drawn(seed, among=(*MACHINES, *OTHER_MACHINES))
    if got is None:
        return None
    _, one = got
    cases, proof, _ = one.judged.proved()
    proof = one.judged.with_weather(one.faults)
    return _against(seed, cases, one.faults, proof)


def searched_scenario(seed: int) -> dict[str, Any] | None:
    """One scenario of any kind, proved as the bench proves it, and what the search finds against its claims."""
    rng = random.Random(f"scenario/{seed}")
    m: Machine = machine_by_id(rng.choice([name for group in MACHINES for name in group]))
    dry = rng.uniform(72.0, 82.0)
    weather = Conditions(
        outdoor_k=f_to_k(rng.uniform(78.0, 105.0)),
        return_k=f_to_k(dry),
        return_wet_bulb_k=f_to_k(dry - rng.uniform(8.0, 16.0)),
        barometer_pa=101_325.0,
    )
    cases = solved_cases(m, weather)
    kinds = [k for k in faults_for(m) if k.id not in NOT_ON_PAPER and k.id not in STATED]
    faults = tuple(
        Fault(id=k.id, severity=round(k.mild + (k.severe - k.mild) * rng.uniform(-0.2, 1.2), 1))
        for k in rng.sample(kinds, rng.choice((1, 1, 2)))
    )
    try:
        proof = prove(cases, faults, wants_splits=True, wants_weather=True)
        if proof.refusal is None and proof.equals and not proof.left:
            tests = tuple(s.id for s in proof.splits if s.kind != "reading")
            readings = (*given_readings(m), *(s.id for s in proof.splits if s.kind == "reading"))
            proof = prove(cases, faults, readings=readings, tests=tests, wants_splits=False, wants_weather=True)
    except ValueError:
        return None
    return None if proof.refusal else _against(seed, cases, faults, proof)


def _against(seed: int, cases: SolvedCases, faults: tuple[Fault, ...], proof: Any) -> dict[str, Any]:
    claims = {c.id: c.holds for c in proof.claims}
    rng, page = random.Random(f"search/{seed}"), _page(cases, faults, proof.readings, proof.tests)
    steady = tuple(k.id for k in faults_for(cases.machine) if k.id in NOT_ON_PAPER and k.id != "compressor_not_pumping")
    page = replace(page, ruled_out=(*page.ruled_out, *steady))
    found = search(page, rng)
    row: dict[str, Any] = {"seed": seed, "claims": claims, "hidden": [f.id for f in faults], "against": {}}
    for claim, kinds in (("singles", ("nothing", SINGLE)), ("pairs", (PAIR,)), ("company", (COMPANY,))):
        row["against"][claim] = [_told(r) for r in found if r.kind in kinds]
    if claims.get("weather"):
        off = search(page, rng, kinds=("nothing", SINGLE, PAIR), weather=True, effort=0.6)
        row["against"]["weather"] = [_told(r) for r in off]
    return row


def _told(rival: Any) -> str:
    severities = ", ".join(f"{f.id} {f.severity:.1f}" for f in rival.faults)
    return f"{severities or NONE} at {rival.distance:.2f}" + (
        f", air moved by {', '.join(f'{f:.2f}' for f in rival.moved_f)} °F" if any(rival.moved_f) else ""
    )


def proof_table(rows: Iterable[dict[str, Any] | None]) -> dict[str, Any]:
    """Counterexamples to each claim that is stated: claim -> {stated, not stated, counterexamples}."""
    counted: dict[str, Counter[str]] = defaultdict(Counter)
    bad: list[dict[str, Any]] = []
    for row in rows:
        if row is None:
            continue
        for claim, holds in row["claims"].items():
            against = row["against"].get(claim, [])
            counted[claim]["stated" if holds else "not_stated"] += 1
            if holds and against:
                counted[claim]["counterexamples"] += 1
                bad.append({"seed": row["seed"], "claim": claim, "hidden": row["hidden"], "against": against[:2]})
    return {"claims": {c: dict(n) for c, n in counted.items()}, "counterexamples": bad}


def technician_row(seed: int) -> dict[str, Any] | None:
    """One generated call: its level, kind and forecast, whether a technician by the book names its key, and the share
    of other apprentices who do.
    """
    got = drawn(seed)
    if got is None:
        return None
    made, one = got
    cases, proof, state = one.judged.proved()
    practice, hidden = practice_by_id(made.practice_id), tuple(f.id for f in one.faults)
    vector = faulted_vector(cases.machine, state, one.faults)
    page = page_of(cases, one.faults, vector, practice, one.judged.offered, proof.readings, proof.tests)
    return {
        "seed": seed,
        "level": one.hard.level,
        "faults": len(hidden),
        "success": one.hard.success,
        "book": reads_right(page, hidden),
        "others": share(page, hidden, _RUNS, f"apprentices/{seed}"),
        "by_patterns": share_by_patterns(page, one.judged.patterns or {}, hidden, _RUNS, f"patterns/{seed}"),
        "without_looks": share(replace(page, told={}), hidden, _RUNS, f"apprentices/{seed}"),
    }


def technician_table(rows: Iterable[dict[str, Any] | None]) -> dict[str, Any]:
    """Share of keys that a technician by the book names, by level."""
    by: dict[int, list[bool]] = defaultdict(list)
    for row in rows:
        if row is not None:
            by[row["level"]].append(row["book"])
    total = [ok for some in by.values() for ok in some]
    return {
        "levels": {level: {"calls": len(by[level]), "named": _share(by[level])} for level in sorted(by)},
        "calls": len(total),
        "named": _share(total),
    }


def level_table(rows: Iterable[dict[str, Any] | None]) -> dict[str, Any]:
    """Success of other apprentices by stated level, and rank correlations of level and of the forecast with it."""
    kept = [row for row in rows if row is not None]
    by: dict[int, list[dict[str, Any]]] = defaultdict(list)
    for row in kept:
        by[row["level"]].append(row)

    def rank(some: list[dict[str, Any]], name: str, found: str = "others") -> float:
        return -float(spearmanr([r[name] for r in some], [r[found] for r in some]).statistic)

    single = [r for r in kept if r["faults"] == 1]
    return {
        "calls": len(kept),
        "levels": {
            level: {
                "calls": len(some),
                "predicted": float(np.mean([r["success"] for r in some])),
                "found": float(np.mean([r["others"] for r in some])),
                "found_without_looks": float(np.mean([r["without_looks"] for r in some])),
            }
            for level, some in sorted(by.items())
        },
        "rank_all": rank(kept, "level"),
        "rank_single": rank(single, "level"),
        "rank_forecast": -rank(kept, "success"),
        "rank_single_by_patterns": rank([r for r in kept if r["faults"] < 2], "level", "by_patterns"),
    }


def class_of(seed: int, apprentices: int = 6, calls: int = 5) -> dict[str, Any]:
    """A class set of one seed, as plain data."""
    made = brief(
        {
            "title": "Audit class",
            "machines": list(MACHINES[0] + MACHINES[1]),
            "calls": calls,
            "two_faults": 1,
            "levels": [1, 5],
            "apprentices": apprentices,
            "seed": seed,
        }
    )
    return class_set(made)


def equal_table(sets: Iterable[dict[str, Any]]) -> dict[str, Any]:
    """Spread of the predicted success within a rung beside that between rungs, over class sets."""
    rungs = []
    for made in sets:
        by: dict[int, list[float]] = defaultdict(list)
        for sheet in made["sheets"]:
            for row in sheet["calls"]:
                by[row["rung"]].append(row["call"]["key"]["difficulty"]["success"])
        rungs += list(by.values())
    within = float(np.mean([np.var(some) for some in rungs]))
    between = float(np.var([np.mean(some) for some in rungs]))
    widest = max((max(some) - min(some) for some in rungs), default=0.0)
    return {
        "rungs": len(rungs),
        "variance_within": within,
        "variance_between": between,
        "share": within / between if between else None,
        "widest_rung": widest,
    }


def copying_table(sets: Iterable[dict[str, Any]]) -> dict[str, Any]:
    """What a neighbor's paper, a name told, and the words on a page are worth."""
    same = places = 0
    copied_points: Counter[str] = Counter()
    told_points: Counter[str] = Counter()
    calls: list[Call] = []
    for made in sets:
        papers = [{row["rung"]: call_from_json(row["call"]) for row in sheet["calls"]} for sheet in made["sheets"]]
        for left, right in zip(papers, papers[1:], strict=False):
            for rung, call in left.items():
                places += 1
                same += call.key.fault == right[rung].key.fault
                got, of = copied(call, right[rung])
                copied_points.update(earned=got, possible=of)
        for paper in papers:
            for call in paper.values():
                calls.append(call)
                got, of = told_by_name(call)
                told_points.update(earned=got, possible=of)
    by_words = _by_words(calls)
    return {
        "calls": len(calls),
        "same_fault_beside": same / max(places, 1),
        "neighbor_verbatim": copied_points["earned"] / max(copied_points["possible"], 1),
        "told_by_name": told_points["earned"] / max(told_points["possible"], 1),
        "named_by_words": by_words,
    }


def _by_words(calls: list[Call]) -> float:
    """Share of faults named from complaint, history and looks alone, by a reader who learned from all other calls."""
    texts = [" ".join((c.complaint, c.history, *c.look_round)) for c in calls]
    right = 0
    for i, call in enumerate(calls):
        reader = TextReader(
            [(c.key.fault, text) for j, (c, text) in enumerate(zip(calls, texts, strict=True)) if j != i]
        )
        right += reader.names(texts[i], [c.id for c in call.choices.fault]) in call.key.named
    return right / max(len(calls), 1)


def _share(some: list[bool]) -> float:
    return sum(some) / len(some) if some else 0.0


def run(
    table: str, seed: int, count: int, each: Each = map, told: Callable[[Any], None] = lambda row: None
) -> dict[str, Any]:
    """One of the tables as plain data: ``proof`` (``count`` calls and a third as many scenarios), ``technician`` or
    ``levels`` (``count`` calls), ``copying`` (``count`` class sets). ``each`` may spread the work over processes,
    ``told`` hears of every row of ``proof`` as it comes.
    """

    def heard(rows: Iterable[Any]) -> Iterable[Any]:
        for row in rows:
            told(row)
            yield row

    seeds = range(1000 * seed, 1000 * seed + count)
    if table == "proof":
        scenarios = range(1000 * seed, 1000 * seed + count // 3)
        return {
            "generated": proof_table(heard(each(searched_call, seeds))),
            "proved": proof_table(heard(each(searched_scenario, scenarios))),
        }
    if table == "copying":
        sets = list(each(class_of, seeds))
        return {"copying": copying_table(sets), "equal": equal_table(sets)}
    rows = list(each(technician_row, seeds))
    return technician_table(rows) if table == "technician" else level_table(rows)


def audit(
    table: str,
    seed: int,
    count: int,
    workers: int | None = None,
    told: Callable[[Any], None] = lambda row: None,
) -> dict[str, Any]:
    """:func:`run`, spread over ``workers`` processes (None: one for each core)."""
    workers = workers or os.cpu_count() or 1
    if workers == 1:
        return run(table, seed, count, told=told)
    with ProcessPoolExecutor(workers) as pool:
        return run(table, seed, count, pool.map, told)
