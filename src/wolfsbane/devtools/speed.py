"""``wolfsbane bench``: how long things take, as ratios in one run on one core."""

from __future__ import annotations

import contextlib
import os
import random
import statistics
import subprocess
import sys
import time
from typing import Any

from wolfsbane.acting.script import play_on
from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import conditions, rating_conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.sweep import random_conditions, random_faults
from wolfsbane.devtools.trials import cases as trial_cases
from wolfsbane.diagnosis.diagnose import diagnose
from wolfsbane.diagnosis.proof import prove
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.draw.generator import sheet
from wolfsbane.exercise.draw.planning import plan
from wolfsbane.exercise.draw.situations.drawing import situation
from wolfsbane.exercise.draw.tries import NoClassSetError
from wolfsbane.exercise.draw.variant import vary
from wolfsbane.exercise.paper.correction import correction
from wolfsbane.exercise.plan.brief import brief
from wolfsbane.exercise.plan.call_kind import kind_of
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.plan.situations import SITUATIONS
from wolfsbane.exercise.plan.starter_library import ready_scenarios
from wolfsbane.exercise.show.bench import bench
from wolfsbane.tuning import tune
from wolfsbane.tuning.plate import known_plate

#: one machine of every class
CLASSES = (
    "split-3t-r410a-txv",
    "split-3t-r410a-orifice",
    "split-3t-r454b-txv",
    "split-3t-r410a-microchannel",
    "split-3t-r32-eev",
    "package-10t-r410a-two-circuits",
    "water-cooled-5t-r407c-txv",
    "walkin-cooler-r404a-txv",
    "reachin-r134a-capillary",
)
_ON_LIBRARY = ("split-3t-r22-txv", "reachin-r290-capillary")


def _times_ms(work: Any, repeat: Any) -> Any:
    """Sorted times of ``work(i)`` in ms; a case without a balance counts as well."""
    times = []
    for i in range(repeat):
        start = time.perf_counter()
        with contextlib.suppress(NoConvergenceError):
            work(i)
        times.append(1000 * (time.perf_counter() - start))
    return sorted(times)


def _row(what: Any, times: Any, unit: float | None = None) -> Any:
    median = statistics.median(times)

    def at(share: Any) -> Any:
        return times[min(len(times) - 1, int(share * len(times)))]

    return {
        "what": what,
        "n": len(times),
        "median_ms": round(median, 3),
        "p95_ms": round(at(0.95), 2),
        "p999_ms": round(at(0.999), 2),
        "p999_over_median": round(at(0.999) / median, 1),
        "per_second": round(1000 / statistics.fmean(times)),
        "ratio": None if unit is None else round(median / unit, 1),
    }


def class_rows(repeat: Any) -> Any:
    """Cold solves (random weather and up to three faults) and warm ones (begun from a neighboring state) per class."""
    rows = []
    for machine_id in CLASSES:
        machine, rng = MACHINES[machine_id], random.Random(machine_id)
        cases = [(random_conditions(machine, rng), random_faults(machine, rng)) for _ in range(repeat)]
        solve(machine, *cases[0])
        rows.append(_row(f"cold, {machine_id}", _times_ms(lambda i, m=machine, c=cases: solve(m, *c[i]), repeat)))
        weather = rating_conditions(machine)
        near = [(Fault(id="undercharge", severity=97.0 - 4.0 * rng.random()),) for _ in range(repeat)]
        start = solve(machine, weather, near[0]).solution
        rows.append(
            _row(
                f"warm, {machine_id}",
                _times_ms(lambda i, m=machine, w=weather, f=near, s=start: solve(m, w, f[i], start=s), repeat),
            )
        )
    return rows


def library_rows() -> Any:
    """The same equations and unknowns with scipy on a general library, against our cold solve of the same cases."""
    try:
        from wolfsbane.devtools.reference import HIGH_LEVEL, Library, solve_on_library
    except ImportError:
        return []
    rows = []
    for machine_id in _ON_LIBRARY:
        machine, rng = MACHINES[machine_id], random.Random(5)
        cases = [(random_conditions(machine, rng), ()) for _ in range(30)]
        weather = [c for c, f in cases if solve(machine, c, f).trip is None]
        rated = solve(machine, rating_conditions(machine)).solution
        ours = _times_ms(lambda i, m=machine, w=weather: solve(m, w[i]), len(weather))
        unit = statistics.median(ours)
        rows.append(_row(f"these cases, ours, {machine_id}", ours, unit))
        for backend, name, many in (
            (HIGH_LEVEL, "high-level property calls", 6),
            ("HEOS", "low-level property calls", 12),
            ("BICUBIC&HEOS", "bicubic property backend", 24),
        ):
            try:
                library = Library(machine.refrigerant, backend)
                solve_on_library(machine, weather[0], start=rated, library=library)
            except (ImportError, ValueError) as error:
                rows.append({"what": f"scipy on {name}: {str(error)[:60]}"})
                continue
            times = _times_ms(
                lambda i, m=machine, w=weather, lib=library, s=rated: _tried(
                    solve_on_library, m, w[i], start=s, library=lib
                ),
                min(many, len(weather)),
            )
            rows.append(_row(f"scipy on {name}, {machine_id}", times, unit))
    return rows


def _tried(work: Any, *args: Any, **named: Any) -> None:
    """A search that leaves the library's range is timed as far as it came."""
    with contextlib.suppress(ValueError):
        work(*args, **named)


def set_rows(unit: float, sheets: Any) -> Any:
    """Class sets: planning a ladder, and one apprentice's sheet of two and of four calls (linear where the second is
    twice the first).
    """
    asked = brief({"title": "bench", "calls": 4, "levels": [1, 3], "seed": 11})
    ladders = []
    rows = [_row("plan of a ladder of four calls", _times_ms(lambda i: ladders.append(plan(asked)), 1), unit)]
    for calls in (2, 4):
        times = _times_ms(lambda i, n=calls: sheet(asked, ladders[0][:n], i + 1), sheets)
        rows.append(_row(f"one sheet of {calls} calls, proved", times, unit))
    return rows


def refusal_row(unit: float) -> Any:
    """A request that cannot be met, said with the nearest that can."""
    asked = brief(
        {
            "title": "bench",
            "calls": 1,
            "levels": [5, 5],
            "fault_free_share": 0,
            "two_faults": 0,
            "faults": ["overcharge"],
            "machines": ["split-3t-r410a-txv"],
        }
    )

    def refused(_: int) -> None:
        try:
            plan(asked)
        except NoClassSetError:
            return
        raise AssertionError("this request can be met: the row needs another")

    return _row("a refusal, with the nearest that works", _times_ms(refused, 3), unit)


def stranger_row(unit: float, repeat: int) -> Any:
    """The diagnosis of readings of units that are known by their plates alone."""
    seen = [case.seen for case in trial_cases(repeat, 1, known=False)]
    practice = practice_by_id("plate_and_formula")
    diagnose(seen[0], practice)
    return _row(
        "diagnosis of readings of an unlisted unit", _times_ms(lambda i: diagnose(seen[i], practice), repeat), unit
    )


def kind_rows(unit: float, sheets: int) -> list[dict[str, Any]]:
    """One variant of the first ready scenario of every kind of call, and of one where an instrument lies."""
    ready = [r.scenario for r in ready_scenarios().values()]
    first = {
        kind_of(s.profile).name: s for s in reversed(ready) if s.faults and s.faults[0].id not in INSTRUMENT_FAULTS
    }
    first["an instrument that lies"] = next(s for s in ready if s.faults and s.faults[0].id in INSTRUMENT_FAULTS)
    return [
        _row(f"one variant, {name}", _times_ms(lambda i, made=made: vary(made, "us", i), sheets), unit)
        for name, made in sorted(first.items())
    ]


def situation_rows(unit: float, sheets: int) -> list[dict[str, Any]]:
    """One situation of every kind, drawn and proved."""
    asked = brief({"title": "bench"})
    return [
        _row(f"one situation, {kind.name}", _times_ms(lambda i, k=kind.id: situation(k, asked, 40 + i), sheets), unit)
        for kind in SITUATIONS.values()
    ]


def acting_rows(unit: float) -> Any:
    """Ten minutes of machine time left alone, and with charging; one correction key;
    one machine tuned from its plate.
    """
    machine = MACHINES[CLASSES[0]]
    weather = rating_conditions(machine)
    planted = (Fault(id="undercharge", severity=80.0),)
    site = arrive(on_site(machine, weather, planted))
    plate = known_plate(
        {
            "name": "bench",
            "refrigerant": "R-454B",
            "metering": "txv",
            "capacity_btuh": 30_000,
            "plate_subcooling_df": 9,
            "superheat_df": 12,
            "ctoa_df": 16,
        }
    )
    play_on(site, (("add_liquid", {"oz": 1}),))
    tune(plate)
    return [
        _row("ten minutes of machine time", _times_ms(lambda i: advance(site, 600.0), 5), unit),
        _row(
            "ten minutes with an ounce a minute going in",
            _times_ms(lambda i: play_on(site, (("add_liquid", {"oz": 10, "rate_oz_min": 1, "bursts": "no"}),)), 5),
            unit,
        ),
        _row(
            "one correction key",
            _times_ms(lambda i: correction(machine, weather, planted, practice_by_id("plate_and_formula")), 5),
            unit,
        ),
        _row("one machine tuned from its plate", _times_ms(lambda i: tune(plate), 3), unit),
    ]


def start_row() -> Any:
    """A fresh process that solves once, with the compiler's cache warm."""
    command = [
        sys.executable,
        "-m",
        "wolfsbane.cli.main",
        "solve",
        CLASSES[0],
        "--outdoor-db-f",
        "95",
        "--return-db-f",
        "80",
        "--return-wb-f",
        "67",
    ]

    def run(i: Any) -> Any:
        return subprocess.run(command, check=True, capture_output=True, env=os.environ)

    run(0)
    return _row("process start to first answer", _times_ms(run, 3))


def run(repeat: int = 200) -> Any:
    """Rows of {what, n, median_ms, p95_ms, p999_ms, p999_over_median, per_second, ratio}.

    ``ratio`` is the median against one cold solve of a machine with nothing wrong, or in the library rows against ours
    on the same cases.
    """
    machine = MACHINES[CLASSES[0]]
    rng = random.Random(1)
    weather = [
        conditions(outdoor_db_f=rng.uniform(75, 110), return_db_f=rng.uniform(74, 84), return_wb_f=rng.uniform(60, 70))
        for _ in range(repeat)
    ]
    faults = [(Fault(id=k.id, severity=k.severe),) for k in faults_for(machine)]
    planned = scenario(
        {
            "title": "bench",
            "machine": machine.id,
            "fault": "undercharge",
            "severity": 80,
            "outdoor_db_f": 93,
            "return_db_f": 78,
            "return_wb_f": 65.5,
        }
    )
    practice = practice_by_id("plate_and_formula")
    solve(machine, weather[0])
    work = {
        "solve, machine with nothing wrong": (lambda i: solve(machine, weather[i]), repeat),
        "solve, severe fault": (lambda i: solve(machine, weather[i], faults[i % len(faults)]), repeat),
        "every fault around one weather": (lambda i: solved_cases(machine, weather[i]).singles, max(5, repeat // 10)),
        "one proof": (
            lambda i: prove(solved_cases(machine, weather[i]), faults[i % len(faults)]),
            max(5, repeat // 10),
        ),
        "bench answer": (
            lambda i: bench(machine, weather[i], faults[i % len(faults)], practice, "analogue", "us"),
            max(5, repeat // 10),
        ),
        "one fair variant": (lambda i: vary(planned, "us", i), max(5, repeat // 10)),
    }
    rows: list[dict[str, Any]] = []
    unit: float = 0.0
    for name, (call, times) in work.items():
        taken = _times_ms(call, times)
        unit = unit or statistics.median(taken)
        rows.append(_row(name, taken, unit))
    return [
        *rows,
        *acting_rows(unit),
        *set_rows(unit, 2 if repeat < 50 else 6),
        refusal_row(unit),
        stranger_row(unit, max(5, repeat // 10)),
        *kind_rows(unit, 2 if repeat < 50 else 6),
        *situation_rows(unit, 2 if repeat < 50 else 6),
        *class_rows(repeat),
        *library_rows(),
        start_row(),
    ]
