"""``wolfsbane bench``: how long things take, as ratios to one warm solve in the same run."""

import random
import statistics
import time

from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.faults import Fault, faults_for
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.lookalike import surroundings
from wolfsbane.diagnosis.targets import school
from wolfsbane.exercise.bench import bench
from wolfsbane.exercise.scenario import scenario
from wolfsbane.exercise.variant import vary


def _timed(work, repeat):
    """Median and 95th percentile of ``work(i)`` in ms."""
    times = []
    for i in range(repeat):
        start = time.perf_counter()
        work(i)
        times.append(1000 * (time.perf_counter() - start))
    times.sort()
    return statistics.median(times), times[min(len(times) - 1, int(0.95 * len(times)))]


def run(repeat=200):
    """Rows of {what, median_ms, p95_ms, ratio}; ``ratio`` is the median against one solve of a sound machine."""
    machine = next(iter(MACHINES.values()))
    rng = random.Random(1)
    weather = [conditions(outdoor_db_f=rng.uniform(75, 110), return_db_f=rng.uniform(74, 84),
                          return_wb_f=rng.uniform(60, 70)) for _ in range(repeat)]
    faults = [(Fault(id=k.id, severity=k.severe),) for k in faults_for(machine)]
    planned = scenario({"title": "bench", "machine": machine.id, "fault": "undercharge", "severity": 80,
                        "outdoor_db_f": 93, "return_db_f": 78, "return_wb_f": 65.5})
    practice = school("plate_and_formula")
    solve(machine, weather[0])
    work = {
        "solve, sound machine": (lambda i: solve(machine, weather[i]), repeat),
        "solve, severe fault": (lambda i: solve(machine, weather[i], faults[i % len(faults)]), repeat),
        "every fault around one weather": (lambda i: surroundings(machine, weather[i]), max(5, repeat // 10)),
        "bench answer": (lambda i: bench(machine, weather[i], faults[i % len(faults)][0], practice, "analogue", "us"),
                         max(5, repeat // 10)),
        "one fair variant": (lambda i: vary(planned, "us", i), max(5, repeat // 10)),
    }
    rows, unit = [], None
    for name, (call, times) in work.items():
        median, p95 = _timed(call, times)
        unit = unit or median
        rows.append({"what": name, "median_ms": round(median, 2), "p95_ms": round(p95, 2),
                     "ratio": round(median / unit, 1)})
    return rows
