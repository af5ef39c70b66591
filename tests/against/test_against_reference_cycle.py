"""Whole solved cycles against the same equations on a general property library with a general root finder.

Sources: CoolProp's equations of state for every property call, ``scipy.optimize.root`` for the search. What differs
from the product is the property route and the solver; agreement shows that neither tables nor solver bend the answer.
"""

import pytest

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.solver import solve
from wolfsbane.devtools.reference import solve_on_library

CASES = [
    ("split-3t-r22-txv", None),
    ("split-3t-r22-orifice", ("undercharge", 85)),
    ("split-2t-r32-txv", ("dirty_condenser", 60)),
    ("reachin-r290-capillary", None),
    ("reachin-r134a-capillary", ("overcharge", 110)),
    ("split-3t-r410a-txv", ("liquid_line_restriction", 150)),
    ("split-3t-r410a-orifice", ("low_airflow", 60)),
]


@pytest.mark.parametrize(("machine_id", "fault"), CASES)
def test_a_solved_machine_is_the_same_on_a_general_library(machine_id, fault):
    m = machine(machine_id)
    planted = (Fault(id=fault[0], severity=fault[1]),) if fault else ()
    weather = rating_conditions(m)
    ours = solve(m, weather, planted)
    start = (ours.solution[0] + 0.02, ours.solution[1] - 0.02, ours.solution[2] + 800)
    _, theirs, converged = solve_on_library(m, weather, planted, start=start)
    assert converged
    assert theirs.suction_pa == pytest.approx(ours.suction_pa, rel=5e-4)
    assert theirs.discharge_pa == pytest.approx(ours.head_pa, rel=5e-4)
    assert theirs.evaporator_heat_w == pytest.approx(ours.capacity_w, rel=2e-3)
    for key, value in (
        ("suction_line_k", ours.suction_line_k),
        ("liquid_line_k", ours.liquid_line_k),
        ("discharge_k", ours.discharge_line_k),
        ("after_drier_k", ours.after_drier_k),
    ):
        assert getattr(theirs, key) == pytest.approx(value, abs=0.1), key


def test_the_reference_is_not_the_product_in_disguise():
    """Its property calls go to the library: a changed refrigerant there changes the answer."""
    from wolfsbane.devtools.reference import Library

    m = machine("split-3t-r22-txv")
    weather = rating_conditions(m)
    start = solve(m, weather).solution
    _, right, _ = solve_on_library(m, weather, start=start)
    _, wrong, _ = solve_on_library(m, weather, start=start, library=Library("R-290"))
    assert wrong.evaporator_heat_w != pytest.approx(right.evaporator_heat_w, rel=1e-3)
