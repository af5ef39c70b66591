"""Compile the solver, or load it from the compiler's cache, before anybody waits for it."""

from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve


def warm():
    """Solve one sound machine."""
    solve(next(iter(MACHINES.values())), conditions(outdoor_db_f=95, return_db_f=80, return_wb_f=67))


if __name__ == "__main__":
    warm()
