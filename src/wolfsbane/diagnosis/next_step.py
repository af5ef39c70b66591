"""The next look, reading or test: what is expected to tell most, for its minutes and its danger."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.field_tests import FIELD_TESTS
from wolfsbane.diagnosis.likelihoods import CHECKS, TESTS, shares, tells
from wolfsbane.diagnosis.space import AT, NOISE, ROWS, N

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.observed import Observed
    from wolfsbane.diagnosis.posterior import Weighed
    from wolfsbane.diagnosis.stand_in import StandIn

#: minutes a look or reading takes where no field test of that name says so
_MINUTES = {
    "suction": 6,
    "head": 6,
    "suction_line": 2,
    "liquid_line": 2,
    "discharge_line": 2,
    "supply_db": 2,
    "outdoor_db": 1,
    "return_db": 1,
    "return_wb": 2,
    "drier_drop": 2,
}
#: what a step costs beside its minutes: danger to people or machine, in minutes' worth (assumed)
_DANGER = {
    "pump_down": 12,
    "standing_pressure": 0,
    "discharge_line": 2,
    "coil_face": 4,
    "blower_wheel": 3,
    "evaporator_coil": 4,
    "condenser_fan": 3,
    "orifice": 90,
    "suction": 3,
    "head": 3,
    "bulb_chilled": 3,
}
_READING_TEXT = {
    "suction": "Read the suction pressure",
    "head": "Read the head pressure",
    "suction_line": "Clamp the suction line: superheat",
    "liquid_line": "Clamp the liquid line: subcooling",
    "discharge_line": "Clamp the discharge line",
    "supply_db": "Read the supply air: delta-T",
    "drier_drop": "Clamp both sides of the drier",
    "outdoor_db": "Read the outdoor air: CTOA",
    "return_db": "Read the return air: evaporator TD",
    "return_wb": "Read the return wet bulb: target superheat",
}
_CONSIDERED = 10
#: what proving the likeliest fault is worth beside telling it from others, bits (assumed)
_PROOF_BITS = 0.1
#: below this expected gain, bits for each root of a minute, no step is worth naming
_WORTH = 0.004


@dataclass(frozen=True, kw_only=True)
class Step:
    """One step: its id (look, test or reading), wording, expected bits, cost in minutes' worth and caution."""

    id: str
    kind: str
    text: str
    bits: float
    cost: float
    caution: str


def _entropy(p: np.ndarray) -> float:
    p = p[p > 1e-12]
    return float(-np.sum(p * np.log2(p)))


def gain_of_words(p: np.ndarray, table: np.ndarray) -> float:
    """Expected bits of a check with word shares ``table`` (k, words) over beliefs ``p`` (k,)."""
    left = 0.0
    for column in table.T:
        joint = p * column
        seen = float(joint.sum())
        if seen > 1e-12:
            left += seen * _entropy(joint / seen)
    return float(_entropy(p) - left)


def gain_of_number(p: np.ndarray, means: np.ndarray, sigma: float) -> float:
    """Expected bits of a reading that each of ``means`` (k,) would show with noise ``sigma``."""
    left = 0.0
    for share, mean in zip(p, means, strict=True):
        joint = p * np.exp(-0.5 * ((means - mean) / sigma) ** 2)
        left += share * _entropy(joint / joint.sum())
    return float(_entropy(p) - left)


def _suits(check: str, seen: Observed, machine: Machine) -> bool:
    if check in seen.looked_at or check in seen.tests or not tells(check, seen.plate.refrigeration):
        return False
    if check in ("bulb", "bulb_warmed", "bulb_chilled") and seen.plate.metering != "txv":
        return False
    if check == "orifice" and seen.plate.metering not in ("fixed_orifice", "capillary"):
        return False
    if check == "pump_down" and seen.plate.condenser == "microchannel":
        return False
    if check == "sight_glass":
        return bool(seen.plate.receiver)
    return FIELD_TESTS[check].suits(machine)


def steps(weighed: list[Weighed], seen: Observed, stand: StandIn) -> list[Step]:
    """Every step worth naming, best first: list of :class:`Step`. ``weighed`` is the posterior, likeliest first."""
    top = weighed[:_CONSIDERED]
    p = np.array([w.weight for w in top])
    p /= p.sum()
    found = []
    for check in CHECKS:
        if not _suits(check, seen, stand.machine):
            continue
        test = FIELD_TESTS[check]
        table = np.array([shares(check, w.family.ids) for w in top])
        found.append(
            _step(
                check,
                "test" if check in TESTS else "look",
                test.name,
                gain_of_words(p, table) + _proves(check, top[0]),
                test.minutes + _DANGER.get(check, 0),
                test.caution,
            )
        )
    found += [
        _step(
            name,
            "reading",
            _READING_TEXT[name],
            gain_of_number(p, means, sigma),
            _MINUTES[name] + _DANGER.get(name, 0),
            "",
        )
        for name, means, sigma in _missing(top, seen, stand)
    ]
    worth = [s for s in found if s.bits / math.sqrt(s.cost + 1.0) > _WORTH]
    return sorted(worth, key=lambda s: (-s.bits / math.sqrt(s.cost + 1.0), s.id))


def _proves(check: str, first: Weighed) -> float:
    """A test the catalog names for the likeliest fault proves it before anything is condemned."""
    return _PROOF_BITS * first.weight if any(check in FAULTS[i].tests for i in first.family.ids if i in FAULTS) else 0.0


def _step(step_id: str, kind: str, text: str, bits: float, cost: int, caution: str) -> Step:
    return Step(id=step_id, kind=kind, text=text, bits=bits, cost=cost, caution=caution)


def _missing(top: list[Weighed], seen: Observed, stand: StandIn) -> Iterator[tuple[str, np.ndarray, float]]:
    """(name, what each explanation would show (k,), noise) of readings that were not taken."""
    vectors = np.array([w.vector for w in top])
    have = set(seen.readings)
    wanted = {
        "suction": {"suction"},
        "head": {"head"},
        "suction_line": {"suction_line", "superheat"},
        "liquid_line": {"liquid_line", "subcooling"},
        "discharge_line": {"discharge_line", "condenser_inlet"},
        "supply_db": {"supply_db"},
        "drier_drop": {"drier_out"},
    }
    for name, known in wanted.items():
        if have & known:
            continue
        row = np.zeros(N)
        for entry, factor in ROWS[name].items():
            row[AT[entry]] = factor
        doubt = math.sqrt(float(row @ stand.spread @ row) + NOISE.get(name, 1.5) ** 2)
        if name == "liquid_line" and "head" in have:
            row[AT["liquid_saturation"]] -= 1
            doubt = 2.5
        if name == "suction_line" and "suction" in have:
            row[AT["suction_saturation"]] -= 1
            doubt = 3.0
        yield name, vectors @ row, doubt
    if not stand.machine.refrigeration:
        for name, entry in (("outdoor_db", "liquid_saturation"), ("return_db", "suction_saturation")):
            measured = "head" if name == "outdoor_db" else "suction"
            if name in stand.guessed and measured in have:
                yield name, vectors[:, AT[entry]], 4.0
