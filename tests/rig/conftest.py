"""A rig with the usual channels and devices, simulated: its numbers are its own and told to nobody."""

from functools import cache

import pytest

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.rig.baseline import fitted
from wolfsbane.rig.rig import RIG
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.rig.steady import stretches

CHANNELS = (
    ("suction_pressure", "psig"),
    ("head_pressure", "psig"),
    ("suction_line", "°F"),
    ("liquid_line", "°F"),
    ("discharge_line", "°F"),
    ("return_db", "°F"),
    ("return_rh", "%"),
    ("supply_db", "°F"),
    ("outdoor_db", "°F"),
    ("compressor_amps", "A"),
    ("weight", "oz"),
)
DEVICES = ("liquid_valve", "bypass", "indoor_fan", "condenser_board", "charge", "switch", "solenoid")
SPLIT = "split-3t-r410a-txv"


def rig_of(machine=SPLIT, **more):
    return RIG.read(
        {
            "schema": 1,
            "name": "Rig A",
            "machine": machine,
            "channels": [{"point": p, "register": 2 * i, "unit": u} for i, (p, u) in enumerate(CHANNELS)],
            "devices": [{"kind": k, "register": 100 + 2 * i} for i, k in enumerate(DEVICES)],
            **more,
        }
    )


def watched(simulated, seconds, every_s=6.0):
    """Samples of the next ``seconds``."""
    rows = []
    for _ in range(round(seconds / every_s)):
        simulated.step(every_s)
        rows.append((simulated.seconds, simulated.readings()))
    return rows


@cache
def run_healthy(machine, seed, hours=2.5):
    simulated = SimulatedRig(rig=rig_of(machine), profile=MACHINES[machine], seed=seed)
    return tuple(watched(simulated, 3600 * hours))


@cache
def calibrated(machine=SPLIT, seed=1):
    """(rig, profile, baseline from every other settled stretch, the stretches held back)."""
    rows = stretches(run_healthy(machine, seed))
    rig, profile = rig_of(machine), MACHINES[machine]
    return rig, profile, fitted(rig, profile, rows[::2]), rows[1::2]


@pytest.fixture
def simulated():
    def made(machine=SPLIT, seed=1, **more):
        return SimulatedRig(rig=rig_of(machine), profile=MACHINES[machine], seed=seed, **more)

    return made
