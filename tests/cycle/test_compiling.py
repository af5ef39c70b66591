"""What a start leaves out, and that nothing is missing afterwards."""

import subprocess
import sys

SOLVES = """
import sys
from wolfsbane.cycle.conditions import conditions
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import solve
state = solve(MACHINES["split-3t-r410a-txv"], conditions(outdoor_db_f=95, return_db_f=80, return_wb_f=67))
print(round(state.subcooling_dk, 1))
print([m for m in ("scipy", "scipy.linalg", "yaml", "cffi", "coverage") if m in sys.modules])
"""
AFTERWARDS = """
import scipy.linalg, cffi
print(scipy.linalg.solve([[2.0]], [4.0])[0], cffi.FFI is not None)
"""


def said(code):
    return subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout.splitlines()


def test_a_solve_imports_nothing_it_does_not_need():
    subcooling, imported = said(SOLVES)
    assert 4.0 < float(subcooling) < 9.0
    assert imported == "[]"


def test_what_was_out_of_sight_is_there_for_whoever_wants_it():
    assert said(SOLVES + AFTERWARDS)[-1] == "2.0 True"


def test_whoever_came_first_is_left_alone():
    assert said("import cffi\n" + SOLVES + "print(sys.modules['cffi'] is cffi)")[-2:] == ["['cffi']", "True"]


PREPARED = "print('numba.np.polynomial.polynomial_core' in sys.modules)"
COMPILES = """
import numpy as np
from wolfsbane.cycle.compiling import njit
@njit
def middle(values):
    return np.median(np.array([v for v in values if v > 0.0])), len({1: 2.0, 3: 4.0})
print(middle(np.array([3.0, -1.0, 9.0, 5.0])))
"""


def test_code_that_was_compiled_earlier_is_taken_up_without_preparing_to_compile():
    said(SOLVES)  # compiled at the latest here
    assert said(SOLVES + PREPARED)[-1] == "False"


def test_what_has_to_be_compiled_after_all_is():
    assert said(SOLVES + COMPILES + PREPARED)[-2:] == ["(5.0, 2)", "True"]
    assert said(COMPILES)[-1] == "(5.0, 2)"
