"""What two faults do to one another, known beforehand for our own machines in ordinary weather.

A page is compared with every pair of faults, and where to solve a pair is told by what adding up the effects of its two
faults misses. On a machine of ours that is always the same: ``make chart`` solves it once (``crossings.npz`` beside
this file). It holds for the solver and the tables it was made with; any other machine solves its own.
"""

from __future__ import annotations

from functools import cache
from importlib import resources
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.solver import SOLVER_VERSION
from wolfsbane.cycle.units import k_to_f
from wolfsbane.tables import combined_hash

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine

FILE = "crossings.npz"
#: machine, outdoor air in degrees F, and the two families in the order of the catalog
Key = tuple[str, int, str, str]


def made_with() -> str:
    """What the file depends on."""
    return f"solver {SOLVER_VERSION}, tables {combined_hash()}"


def key_of(machine: Machine, conditions: Conditions, a: str, b: str) -> Key:
    """Where a pair stands in the file."""
    return machine.id, round(k_to_f(conditions.outdoor_k)), a, b


def known(machine: Machine, conditions: Conditions, a: str, b: str) -> np.ndarray | None:
    """What adding up two families misses at the crossings of two depths of each, (2, 2, N), or None where it is not
    known: ``conditions`` have to be the machine's ordinary weather.
    """
    if MACHINES.get(machine.id) is not machine:  # one of somebody's own, or as a rig was calibrated
        return None
    return _rows().get(key_of(machine, conditions, a, b))


@cache
def _rows() -> dict[Key, np.ndarray]:
    with resources.as_file(resources.files(__package__) / FILE) as path, np.load(path) as data:
        if str(data["made_with"]) != made_with():
            return {}
        keys, missed = data["keys"], data["missed"].astype(float)
    found = {}
    for key, row in zip(keys, missed, strict=True):
        name, outdoor, a, b = str(key).split("/")
        found[(name, int(outdoor), a, b)] = row
    return found


def packed(rows: dict[Key, np.ndarray]) -> dict[str, np.ndarray]:
    """Arrays of the file, from what was solved."""
    return {
        "made_with": np.array(made_with()),
        "keys": np.array(["/".join(map(str, key)) for key in rows]),
        "missed": np.array(list(rows.values()), dtype=np.float32),
    }
