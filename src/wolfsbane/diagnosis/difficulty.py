"""How hard a scenario is, 1 to 5, and why: by how many simulated apprentices name what is wrong.

Apprentices of several skills misread, slip and overlook (:mod:`wolfsbane.diagnosis.technician`); the share that misses
makes most of the points, and what the figures, the look-alikes and the weather have to do with it is told as the
reason. Conversions, withheld readings, a second fault and a wrong instrument add a little each. Skills and points are
assumed; they are compared with what classes find once marks have been collected.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import NONE, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import k_to_f
from wolfsbane.diagnosis.candidates import candidates
from wolfsbane.diagnosis.pages import page_of
from wolfsbane.diagnosis.practices import practice_by_id
from wolfsbane.diagnosis.rivals import SAME
from wolfsbane.diagnosis.solved_cases import given_readings
from wolfsbane.diagnosis.technician import success
from wolfsbane.diagnosis.vectors import faulted_vector, solved

if TYPE_CHECKING:
    import numpy as np

    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.proof import Proof, Rival
    from wolfsbane.diagnosis.solved_cases import SolvedCases

#: families whose superheat and subcooling ask for opposite charges, and those where both stay right on a valve
_OPPOSITE = (
    "valve_overfeeding",
    "valve_underfeeding",
    "orifice_oversized",
    "orifice_undersized",
    "liquid_line_restriction",
    "service_valve_part_closed",
    "leaking_compressor_valves",
    "reversing_valve_leak",
    "non_condensables",
    "distributor_blocked",
)
_CHARGE_RIGHT = (
    "low_airflow",
    "dirty_condenser",
    "condenser_fan_weak",
    "condenser_recirculation",
    "mismatched_coil",
    "water_condenser_fouled",
    "low_water_flow",
    "suction_line_restriction",
)
#: points of what a simulated apprentice meets: all of it in shares of what missing adds, the last row by itself
_POINTS = {
    "mild": 1.1,
    "alike": 1.0,
    "opposite": 0.5,
    "charge_right": 0.3,
    "weather": 0.3,
    "test": 0.25,
    "sound": 0.9,
    "slips": 0.2,
}
_ADDED = {"second_fault": 0.1, "instrument": 1.0, "missing": 0.2, "analogue": 0.1, "glide": 0.05}
#: points where every simulated apprentice misses
MISSED = 6.5
#: points at which levels 2 to 5 begin
_STEPS = (1.75, 2.2, 2.65, 3.25)


@dataclass(frozen=True, kw_only=True)
class Difficulty:
    """``level`` 1 to 5 from ``points``; ``reasons`` says what adds how much, largest first:
    list of (points, sentence). ``success`` is the share of simulated apprentices who name all that is wrong.
    """

    level: int
    points: float
    reasons: list[tuple[float, str]]
    success: float

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {
            "level": self.level,
            "points": round(self.points, 2),
            "success": round(self.success, 2),
            "reasons": [{"points": round(p, 2), "text": text} for p, text in self.reasons],
        }


def _falling(value: float, full: float, none: float) -> float:
    """1 at ``full`` and below, 0 at ``none`` and above."""
    return min(max((none - value) / (none - full), 0.0), 1.0)


def weather_points(machine: Machine, conditions: Conditions) -> tuple[float, str] | None:
    """How far the weather misleads, as (points, sentence) or None: a cool or very hot day, a house far from 77 °F."""
    if machine.refrigeration:
        return None
    outdoor = k_to_f(conditions.water_in_k or conditions.outdoor_k)
    usual = 82.0 if conditions.water_in_k else 92.0
    off = _POINTS["weather"] * (
        0.6 * (1.0 - _falling(abs(outdoor - usual), 8.0, 28.0))
        + 0.4 * (1.0 - _falling(abs(k_to_f(conditions.return_k) - 77.0), 3.0, 12.0))
    )
    return (
        (off, f"misleading weather: {outdoor:.0f} °F outside, {k_to_f(conditions.return_k):.0f} °F inside")
        if off > 0.02
        else None
    )


def reading_points(machine: Machine, kit: str, readings: tuple[str, ...]) -> list[tuple[float, str]]:
    """Points for conversions and for readings that are held back: list of (points, sentence)."""
    found = []
    if kit == "analogue":
        found.append((_ADDED["analogue"], "saturation is read off a gauge or a chart"))
    if refrigerant(machine.refrigerant).glide_dk(101_325.0 * 8) > 0.5:
        found.append((_ADDED["glide"], f"{machine.refrigerant} has glide: dew and bubble point differ"))
    missing = [key for key in given_readings(machine) if key not in readings]
    if missing:
        found.append((_ADDED["missing"] * len(missing), f"{len(missing)} of the usual readings withheld"))
    return found


def _shown(cases: SolvedCases, faults: tuple[Fault, ...]) -> np.ndarray | None:
    """What a machine with its own ``faults`` shows, (N,), or None where it does not run; kept with its ground."""
    kept = cases.memory.setdefault("shown", {})
    if faults not in kept:
        state = solved(cases.machine, cases.conditions, faults)
        kept[faults] = None if state is None else faulted_vector(cases.machine, state, faults)
    return kept[faults]


def _of_one(
    cases: SolvedCases, fault: Fault, rivals: list[Rival], readings: tuple[str, ...], tests_needed: int
) -> list[tuple[float, str]]:
    """Points of a single fault by itself: list of (points, sentence)."""
    found = []
    here = _shown(cases, (fault,))
    if here is not None:
        to_fault_free = float(cases.apart(cases.fault_free_vector[None], here, readings)[0])
        found.append(
            (
                _POINTS["mild"] * _falling(to_fault_free, 1.0, 7.0),
                f"{to_fault_free:.1f} reading tolerances from a machine with nothing wrong",
            )
        )
    if rivals:
        found.append(
            (
                _POINTS["alike"] * _falling(rivals[0].distance, 1.0, 5.0),
                (
                    f"{rivals[0].id.replace('_', ' ').replace('+', ' with ')} lies {rivals[0].distance:.1f} tolerances"
                    " away"
                ),
            )
        )
    if tests_needed:
        found.append(
            (
                _POINTS["test"] * min(tests_needed, 3),
                f"{tests_needed} look-alikes are only ruled out by an inspection or a test",
            )
        )
    if fault.id in _OPPOSITE:
        found.append((_POINTS["opposite"], "superheat and subcooling do not point to the part"))
    elif fault.id in _CHARGE_RIGHT and cases.machine.metering in ("txv", "eev"):
        found.append((_POINTS["charge_right"], "superheat or subcooling stays near target"))
    return found


def difficulty(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    proof: Proof,
    *,
    practice: Practice | None = None,
    offered: tuple[str, ...] | None = None,
) -> Difficulty:
    """The :class:`Difficulty` of planted ``faults`` as given in ``proof``, under a ``practice`` (None: the usual one),
    on a sheet that offers the fault ids ``offered`` (None: what every class of this machine is taught).
    """
    practice = practice or practice_by_id("plate_and_formula")
    own = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    trouble = len(faults) - len(own)
    vector = _shown(cases, own)
    hidden = tuple(f.id for f in own)
    if offered is None:
        offered = tuple(kind.id for kind in candidates(cases.machine, hidden, proof.tests))
    named = 1.0
    if vector is not None:
        named = success(page_of(cases, own, vector, practice, offered, proof.readings, proof.tests), hidden)
    added = reading_points(cases.machine, cases.kit, proof.readings)
    if trouble:
        added.append((_ADDED["instrument"] * trouble, "an instrument is reading wrong"))
    if len(own) > 1:
        names = " and ".join(fault_kind(f.id).name.lower() for f in sorted(own, key=lambda f: f.id))
        added.append((_ADDED["second_fault"] * (len(own) - 1), f"{len(own)} faults at once: {names}"))
    weather = weather_points(cases.machine, cases.conditions)
    behind = [weather] if weather else []
    if own:
        rows = [_of_one(cases, f, _rivals(proof, f), proof.readings, _by_test(proof)) for f in own]
        behind += max(rows, key=lambda some: sum(p for p, _ in some))
    elif not trouble:
        behind.append((_POINTS["sound"], "nothing is wrong, and it takes confidence to say so"))
    missed = MISSED * (1.0 - named)
    whole = sum(p for p, _ in behind)
    if whole < 0.05:
        behind, whole = [(_POINTS["slips"], "a misread gauge or a slip of the pen leads astray")], _POINTS["slips"]
    return _made([*added, *((missed * p / whole, text) for p, text in behind)], named)


def _rivals(proof: Proof, fault: Fault) -> list[Rival]:
    """Rivals that figures alone must tell apart: neither sound nor the same family with company, nearest first."""
    found = [*proof.equals, *(r for r in proof.nearest if r.distance > SAME)]
    return [r for r in sorted(found, key=lambda r: r.distance) if r.id != NONE and fault.id not in r.id.split("+")]


def _by_test(proof: Proof) -> int:
    """How many rivals look the same on the readings and fall by a look or test that is given."""
    return sum(1 for r in proof.nearest if r.distance <= SAME)


def _made(rows: list[tuple[float, str]], named: float) -> Difficulty:
    rows = sorted((r for r in rows if r[0] >= 0.005), key=lambda r: (-r[0], r[1]))
    points = 1.0 + sum(p for p, _ in rows)
    return Difficulty(level=1 + sum(points >= step for step in _STEPS), points=points, reasons=rows, success=named)
