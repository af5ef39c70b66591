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
