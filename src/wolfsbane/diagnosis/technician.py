"""A technician by the book: names the fault from verdicts, a shop card and the looks on the page. No model behind it.

The card says which way each fault moves each figure, as shops teach it (common practice, no source). Simulated
apprentices of several skills misread and slip before they go by the same card, or by a list of rules
(:mod:`wolfsbane.diagnosis.rules`): how many of them name the fault is how hard a call is.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations
from math import log
from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.faults import NONE
from wolfsbane.diagnosis.hypotheses import EXCLUSIVE, PRIORS
from wolfsbane.diagnosis.rules import named_by_rules

if TYPE_CHECKING:
    from wolfsbane.diagnosis.targets import Band

#: what is judged, in the order of the card
JUDGED = ("superheat", "subcooling", "evaporator_td", "ctoa", "drier_drop")
#: what is read for it: noise goes in here
READ = (
    "suction_saturation",
    "liquid_saturation",
    "suction_line",
    "liquid_line",
    "return_db",
    "outdoor_db",
    "drier_out",
)
#: figure -> (minuend, subtrahend)
_WORKED = np.array(
    [
        [-1, 0, 1, 0, 0, 0, 0],
        [0, 1, 0, -1, 0, 0, 0],
        [-1, 0, 0, 0, 1, 0, 0],
        [0, 1, 0, 0, 0, -1, 0],
        [0, 0, 0, 1, 0, 0, -1],
    ],
    dtype=float,
)

#: fault -> superheat, subcooling, TD, CTOA, drier drop: each a string of the verdicts that fit, most usual first; on a
#: machine with a valve
_VALVE: dict[str, tuple[str, ...]] = {
    NONE: ("0", "0", "0", "0", "0"),
    "undercharge": ("0+", "-", "0+", "0-", "0"),
    "long_liquid_line": ("0+", "-", "0+", "0-", "0"),
    "overcharge": ("0", "+", "0", "+0", "0"),
    "non_condensables": ("0", "+", "0", "+", "0"),
    "dirty_condenser": ("0", "0", "0-", "+", "0"),
    "condenser_fan_weak": ("0", "0", "0-", "+", "0"),
    "condenser_recirculation": ("0", "0", "0-", "+", "0"),
    "wet_condenser": ("0", "0", "0", "-", "0"),
    "water_condenser_fouled": ("0", "0", "0", "+", "0"),
    "low_water_flow": ("0", "0", "0", "+", "0"),
    "low_airflow": ("0-", "0", "+", "0-", "0"),
    "mismatched_coil": ("0-", "0", "+", "0-", "0"),
    "liquid_line_restriction": ("+0", "+0", "+0", "-0", "+"),
    "service_valve_part_closed": ("+", "-0", "+", "-0", "0"),
    "suction_line_restriction": ("0+", "0", "+", "-0", "0"),
    "valve_underfeeding": ("+", "+0", "+", "-0", "0"),
    "valve_overfeeding": ("-", "0-", "-0", "0+", "0"),
    "distributor_blocked": ("0", "0", "+", "0-", "0"),
    "leaking_compressor_valves": ("0", "0", "-", "-", "0"),
    "reversing_valve_leak": ("0", "0", "-", "-", "0"),
}
#: the same on a machine with a fixed orifice
_ORIFICE: dict[str, tuple[str, ...]] = {
    **_VALVE,
    "undercharge": ("+", "-", "+0", "-0", "0"),
    "long_liquid_line": ("+", "-", "+0", "-0", "0"),
    "overcharge": ("-", "+", "0-", "+0", "0"),
    "non_condensables": ("-0", "+", "0-", "+", "0"),
    "dirty_condenser": ("-", "0-", "0-", "+", "0"),
    "condenser_fan_weak": ("-", "0-", "0-", "+", "0"),
    "condenser_recirculation": ("-", "0-", "0-", "+", "0"),
    "low_airflow": ("-", "0+", "+", "0-", "0"),
    "mismatched_coil": ("-", "0+", "+", "0-", "0"),
    "liquid_line_restriction": ("+", "+", "+0", "-0", "+"),
    "service_valve_part_closed": ("+", "0+", "+0", "-0", "0"),
    "suction_line_restriction": ("0-", "0+", "+", "-0", "0"),
    "orifice_oversized": ("-", "-", "-0", "0+", "0"),
    "orifice_undersized": ("+", "+0", "+0", "-0", "0"),
    "distributor_blocked": ("-", "0+", "+", "0-", "0"),
    "leaking_compressor_valves": ("-0", "0+", "-", "-", "0"),
    "reversing_valve_leak": ("-0", "0+", "-", "-", "0"),
}
#: the same on a machine with a receiver, whose sight glass stands in the place of subcooling: - is bubbles or an
#: empty receiver, + a full one
_RECEIVER: dict[str, tuple[str, ...]] = {
    **_VALVE,
    "overcharge": ("0", "+", "0", "0+", "0"),
    "non_condensables": ("0", "0", "0-", "+", "0"),
    "liquid_line_restriction": ("+0", "-", "+0", "-0", "+"),
    "service_valve_part_closed": ("+0", "-", "+0", "-0", "0"),
    "valve_underfeeding": ("+", "0", "+", "-0", "0"),
    "valve_overfeeding": ("-", "0", "-0", "0+", "0"),
    "leaking_compressor_valves": ("0-", "0", "-0", "-0", "0"),
}
#: the same on a heat pump in heating: the condenser stands indoors, the evaporator outdoors, and low airflow is indoors
_HEATING: dict[str, tuple[str, ...]] = {
    **_VALVE,
    "undercharge": ("0+", "-", "0+", "0-", "0"),
    "dirty_condenser": ("0", "0", "+", "0-", "0"),
    "condenser_fan_weak": ("0", "0", "+", "0-", "0"),
    "condenser_recirculation": ("0", "0", "0", "-", "0"),
    "low_airflow": ("0", "0+", "0-", "+", "0"),
    "mismatched_coil": ("0", "0+", "0-", "+", "0"),
    "non_condensables": ("0", "+", "0-", "+", "0"),
    "distributor_blocked": ("0", "0+", "+", "0-", "0"),
    "suction_line_restriction": ("0+", "0", "+", "-0", "0"),
    "reversing_valve_leak": ("+", "0", "-", "-", "0"),
}
#: the same on a small sealed circuit with a capillary tube
_SEALED: dict[str, tuple[str, ...]] = {
    **_ORIFICE,
    "undercharge": ("+0", "-", "+0", "-0", "0"),
    "overcharge": ("-0", "+", "0", "+0", "0"),
    "dirty_condenser": ("0-", "0-", "0-", "+", "0"),
    "condenser_fan_weak": ("0-", "0-", "0-", "+", "0"),
    "condenser_recirculation": ("0-", "0-", "0-", "+", "0"),
    "low_airflow": ("-", "0-", "+0", "0-", "0"),
    "liquid_line_restriction": ("+", "+", "+", "0-", "+"),
    "orifice_undersized": ("+", "0+", "+", "0-", "0"),
    "leaking_compressor_valves": ("-", "-0", "-", "0-", "0"),
}
VALVE, ORIFICE, RECEIVER, HEATING, SEALED = "valve", "orifice", "receiver", "heating", "sealed"
_CARDS = {VALVE: _VALVE, ORIFICE: _ORIFICE, RECEIVER: _RECEIVER, HEATING: _HEATING, SEALED: _SEALED}
#: log weights: the usual verdict, another that fits, on target where it should be off or the other way round, opposite
_USUAL, _FITS, _BESIDE, _OPPOSITE = 0.0, -0.3, -2.2, -5.0
#: log weights of a look or test that shows the fault, and of one that rules it out
_SHOWN, _RULED_OUT = 4.0, -6.0
#: how much of the logarithm of how common a fault is breaks a tie
_COMMON = 0.25


@dataclass(frozen=True, kw_only=True)
class Skill:
    """How an apprentice reads: misreadings are uniform within ``misread_f`` of each reading, a share ``slip`` of the
    figures comes out of a slip, and a share ``overlooks`` passes over what was looked at or tested.
    """

    misread_f: float
    slip: float
    overlooks: float


#: apprentices that are simulated, in equal parts (assumed)
SKILLS = (
    Skill(misread_f=1.0, slip=0.02, overlooks=0.05),
    Skill(misread_f=2.0, slip=0.05, overlooks=0.15),
    Skill(misread_f=3.0, slip=0.10, overlooks=0.30),
)
#: simulated apprentices of each skill; all calls meet the same ones
RUNS = 80
#: the place of each verdict where all are written as one number
_PLACES = 3.0 ** np.arange(len(JUDGED))
#: how far a slip throws a figure, degrees F, where it does not turn its sign
_THROWN_F = 10.0


@dataclass(frozen=True, kw_only=True)
class Read:
    """What stands on a page for somebody who knows no model: readings and saturations in degrees F by :data:`READ`
    (None where withheld), target bands in degrees F by :data:`JUDGED`, the shop card for this kind of machine, the
    answers offered, how many faults are asked for, and what the looks and tests given say of each family (1 shows it,
    -1 rules it out). ``glass`` is the verdict on a sight glass that stands in the place of subcooling, None elsewhere.
    """

    values: Mapping[str, float | None]
    bands: Mapping[str, Band]
    card: str
    offered: tuple[str, ...]
    number: int
    told: Mapping[str, int]
    drier_limit_f: float = 3.0
    glass: int | None = None


def card(kind: str) -> dict[str, tuple[str, ...]]:
    """A shop card (valve, orifice, receiver, heating or sealed): fault -> verdicts that fit, figure by figure in the
    order of :data:`JUDGED`.
    """
    return _CARDS[kind]


def answers(page: Read) -> list[tuple[str, ...]]:
    """The answers that may be given: each a tuple of fault ids; () is that nothing is wrong."""
    known = [f for f in page.offered if f in card(page.card)]
    if page.number < 2:
        return [(), *((f,) for f in known)]
    return [p for p in combinations(known, page.number) if set(p) not in EXCLUSIVE]


def by_the_book(page: Read) -> tuple[str, ...]:
    """What a technician who reads everything right names by the card: fault ids, () for nothing wrong."""
    found = answers(page)
    return found[int(np.argmax(_scores(page, found, _judged(page, _worked(_exact(page)[None])), np.ones(1))[0]))]


def by_the_rules(page: Read) -> tuple[str, ...]:
    """What a technician who reads everything right names by the list of rules: fault ids, () for nothing wrong."""
    return _ruled(page, _judged(page, _worked(_exact(page)[None]))[0], heeded=True)


def _ruled(page: Read, verdicts: np.ndarray, heeded: bool) -> tuple[str, ...]:
    told = page.told if heeded else {}
    return named_by_rules(
        tuple(int(v) for v in verdicts),
        page.card,
        page.offered,
        tuple(f for f in page.offered if told.get(f, 0) > 0),
        tuple(f for f in page.offered if told.get(f, 0) < 0),
        page.number,
    )


def success(
    page: Read, hidden: Sequence[str], skills: Sequence[Skill] = SKILLS, runs: int = RUNS, first: int = 0
) -> float:
    """Share of simulated apprentices who name ``hidden``, all of it where it is two: half go by the card, half by the
    rules. ``first`` numbers them: others misread otherwise.
    """
    found = answers(page)
    right = np.array([float(set(one) == set(hidden)) for one in found])
    shares = []
    for i, skill in enumerate(skills):
        noise = _noise(first + i, runs)
        figures = _worked(_exact(page)[None] + skill.misread_f * noise["read"])
        slipped = noise["slip"] < skill.slip
        figures = np.where(slipped, np.where(noise["turned"] < 0.5, -figures, figures + noise["thrown"]), figures)
        looks = (noise["looks"] >= skill.overlooks).astype(float)
        verdicts = _judged(page, figures)
        scores = _scores(page, found, verdicts, looks) + 0.3 * noise["taste"][:, : len(found)]
        by_card = float(right[np.argmax(scores, axis=1)].mean())
        packed = (verdicts + 1.0) @ _PLACES + looks * _PLACES[-1] * 3.0
        _, first_of, often = np.unique(packed, return_index=True, return_counts=True)
        by_rules = [set(_ruled(page, verdicts[i], looks[i] > 0)) == set(hidden) for i in first_of]
        shares.append(0.5 * (by_card + float(often @ by_rules) / runs))
    return sum(shares) / len(shares)


@cache
def _noise(number: int, runs: int) -> dict[str, np.ndarray]:
    """The same apprentices for every call."""
    rng = random.Random(f"apprentices/{number}")

    def table(columns: int, draw: Callable[[], float]) -> np.ndarray:
        return np.array([[draw() for _ in range(columns)] for _ in range(runs)])

    return {
        "read": table(len(READ), lambda: rng.uniform(-1.0, 1.0)),
        "slip": table(len(JUDGED), rng.random),
        "turned": table(len(JUDGED), rng.random),
        "thrown": table(len(JUDGED), lambda: _THROWN_F * rng.choice((-1.0, 1.0))),
        "looks": table(1, rng.random)[:, 0],
        "taste": table(60, lambda: -log(-log(rng.uniform(1e-9, 1.0 - 1e-9)))),
    }


def _exact(page: Read) -> np.ndarray:
    """What is read, (len(READ),); nan where it is withheld."""
    got = [page.values.get(key) for key in READ]
    return np.array([np.nan if v is None else v for v in got], dtype=float)


def _worked(read: np.ndarray) -> np.ndarray:
    """Figures (n, 5) of readings (n, len(READ)); nan where one that is needed is withheld."""
    lost = np.isnan(read).astype(float) @ np.abs(_WORKED.T)
    return np.where(lost > 0, np.nan, np.nan_to_num(read) @ _WORKED.T)


def _judged(page: Read, figures: np.ndarray) -> np.ndarray:
    """Verdicts -1, 0, 1 of figures (n, 5); 0 for what is not judged."""
    found = np.zeros(figures.shape)
    for i, name in enumerate(JUDGED):
        if name == "drier_drop":
            found[:, i] = np.nan_to_num(figures[:, i], nan=0.0) > page.drier_limit_f
        elif name == "subcooling" and page.glass is not None:
            found[:, i] = page.glass
        elif name in page.bands:
            band, values = page.bands[name], figures[:, i]
            found[:, i] = (values > band.high).astype(float) - (values < band.low)
    return found


def _scores(page: Read, found: list[tuple[str, ...]], verdicts: np.ndarray, looks: np.ndarray) -> np.ndarray:
    """Log weights (n, answers) of verdicts (n, 5); ``looks`` (n,) is 1 where looks and tests are heeded."""
    rows = np.array([[_weights(_fitting(page.card, one, i)) for i in range(len(JUDGED))] for one in found])
    picked = (verdicts + 1.0).astype(int)
    score = np.zeros((len(verdicts), len(found)))
    for i, name in enumerate(JUDGED):
        if name in page.bands or name == "drier_drop" or (name == "subcooling" and page.glass is not None):
            score += rows[:, i, :][:, picked[:, i]].T
    told = np.array([_heard(page, one) for one in found])
    common = np.array([_COMMON * sum(np.log(PRIORS.get(f, 0.01)) for f in one or (NONE,)) for one in found])
    return score + looks[:, None] * told + common


def _heard(page: Read, one: tuple[str, ...]) -> float:
    """What looks and tests say of an answer."""
    said = [page.told.get(f, 0) for f in one or (NONE,)]
    return sum(_SHOWN if s > 0 else _RULED_OUT if s < 0 else 0.0 for s in said)


@cache
def _fitting(kind: str, one: tuple[str, ...], figure: int) -> str:
    """Verdicts of a figure that fit an answer, most usual first; two faults that pull apart leave it open."""
    rows = [card(kind)[f][figure] for f in one or (NONE,)]
    if len(rows) == 1:
        return rows[0]
    off = [r for r in rows if not r.startswith("0")]
    if not off:
        return "0" + "".join(sorted({c for r in rows for c in r} - {"0"}))
    signs = {r[0] for r in off}
    if len(signs) > 1:
        return "0+-"
    return off[0][0] + ("0" if all("0" in r for r in rows) else "")


@cache
def _weights(fitting: str) -> tuple[float, float, float]:
    """Log weights of the verdicts -1, 0, 1."""
    found = []
    for verdict in "-0+":
        if verdict in fitting:
            found.append(_USUAL if fitting[0] == verdict else _FITS)
        elif verdict == "0" or fitting == "0" or "0" in fitting:
            found.append(_BESIDE)
        else:
            found.append(_OPPOSITE)
    return found[0], found[1], found[2]
