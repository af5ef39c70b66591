"""Compile the solver, or load it from the compiler's cache, before anybody waits for it."""

from __future__ import annotations

from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.diagnosis.solved_cases import solved_cases
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.exercise.show.bench import bench, faults_of, proved


def warm() -> None:
    """Answer the bench, prove once and let a machine run a little: this touches every compiled function."""
    machine, weather = next(iter(MACHINES.values())), conditions(outdoor_db_f=95, return_db_f=80, return_wb_f=67)
    faults = faults_of([{"id": "undercharge"}], machine)
    bench(machine, weather, faults, practice_by_id("plate_and_formula"), "analogue", "us")
    proved(solved_cases(machine, weather), faults, (), None)
    advance(arrive(on_site(machine, weather, faults)), 10.0)


if __name__ == "__main__":
    warm()
