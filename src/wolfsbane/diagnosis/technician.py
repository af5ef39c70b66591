"""A technician by the book: names the fault from verdicts, a shop card and the looks on the page. No model behind it.

The card says which way each fault moves each figure, as shops teach it (common practice, no source). Simulated
apprentices of several skills misread and slip before they go by the same card, or by a list of rules
(:mod:`wolfsbane.diagnosis.rules`): how many of them name the fault is how hard a call is.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from itertools import combinations
from math import log
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.faults import NONE
from wolfsbane.diagnosis.apprentices import KINDS, NO_GLASS, counted, gone_through
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
#: nobody has asked the rules yet
_UNKNOWN = -1
#: how much everybody's own taste weighs beside the card
_TASTED = 0.3
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
    return list(_card_on(page).found)


class _OnCard(NamedTuple):
    """Answers with what a card says of each: log weights (answers, figures, 3) of the verdicts -1, 0 and 1, how common
    each is, (answers,), and the ``members`` (answers, faults) of each, as places among the answers offered and, last,
    nothing wrong.
    """

    found: tuple[tuple[str, ...], ...]
    weights: np.ndarray
    common: np.ndarray
    members: np.ndarray


def _card_on(page: Read) -> _OnCard:
    return _on_card(page.card, page.offered, page.number)


@lru_cache(maxsize=2000)
def _on_card(kind: str, offered: tuple[str, ...], number: int) -> _OnCard:
    known = [f for f in offered if f in card(kind)]
    found: list[tuple[str, ...]] = [(), *((f,) for f in known)]
    if number > 1:
        found = [p for p in combinations(known, number) if set(p) not in EXCLUSIVE]
    place = {fault: i for i, fault in enumerate((*offered, NONE))}
    return _OnCard(
        tuple(found),
        np.array([[_weights(_fitting(kind, one, i)) for i in range(len(JUDGED))] for one in found]),
        np.array([_COMMON * sum(np.log(PRIORS.get(f, 0.01)) for f in one or (NONE,)) for one in found]),
        np.array([[place[f] for f in one or (NONE,)] for one in found]),
    )


def by_the_book(page: Read) -> tuple[str, ...]:
    """What a technician who reads everything right names by the card: fault ids, () for nothing wrong."""
    on_card = _card_on(page)
    return on_card.found[int(_Taken(page, on_card).picked(0.0, 0.0, 0.0, _exactly(len(on_card.found)))[0][0])]


def by_the_rules(page: Read) -> tuple[str, ...]:
    """What a technician who reads everything right names by the list of rules: fault ids, () for nothing wrong."""
    on_card = _card_on(page)
    signs = _Taken(page, on_card).picked(0.0, 0.0, 0.0, _exactly(len(on_card.found)))[1][0]
    return named_by_rules(tuple(signs.tolist()), page.card, page.offered, *_said(page, heeded=True), page.number)


def _said(page: Read, *, heeded: bool) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """(answers that a look or test shows, those that one rules out), none where they are not ``heeded``."""
    told = page.told if heeded else {}
    return tuple(f for f in page.offered if told.get(f, 0) > 0), tuple(f for f in page.offered if told.get(f, 0) < 0)


def success(
    page: Read, hidden: Sequence[str], skills: Sequence[Skill] = SKILLS, runs: int = RUNS, first: int = 0
) -> float:
    """Share of simulated apprentices who name ``hidden``, all of it where it is two: half go by the card, half by the
    rules. ``first`` numbers them: others misread otherwise.
    """
    on_card, wanted = _card_on(page), frozenset(hidden)
    right = np.array([set(one) == wanted for one in on_card.found])
    named, often = _Taken(page, on_card).counted(tuple(skills), _noises(first, len(skills), runs), right)
    by_rules = np.zeros(len(skills))
    for heeded in (False, True):
        kinds = often[:, int(heeded)]
        by_rules += kinds @ _right_by_rules(page, heeded, wanted, np.flatnonzero(kinds.any(axis=0)))
    shares = 0.5 * (named / runs + by_rules / runs)
    return float(sum(shares.tolist())) / len(shares)


def _right_by_rules(page: Read, heeded: bool, wanted: frozenset[str], asked: np.ndarray) -> np.ndarray:
    """Which verdicts, by their one number, (:data:`KINDS`,), the rules name ``wanted`` from: 1 where they do, of those
    ``asked`` for.
    """
    shown, out = _said(page, heeded=heeded)
    known = _known_by_rules(page.card, page.offered, shown, out, page.number, wanted)
    for kind in asked[known[asked] == _UNKNOWN].tolist():
        known[kind] = set(named_by_rules(_signs_of(kind), page.card, page.offered, shown, out, page.number)) == wanted
    return known


@lru_cache(maxsize=2000)
def _known_by_rules(
    kind: str,
    offered: tuple[str, ...],
    shown: tuple[str, ...],
    out: tuple[str, ...],
    number: int,
    wanted: frozenset[str],
) -> np.ndarray:
    """What is known by now for :func:`_right_by_rules`."""
    return np.full(KINDS, _UNKNOWN)


@cache
def _signs_of(kind: int) -> tuple[int, ...]:
    """Verdicts from their one number."""
    return tuple(kind // 3**place % 3 - 1 for place in range(len(JUDGED)))


class _Noise(NamedTuple):
    """How n apprentices misread (n, readings), slip, turn a sign or throw a figure (n, figures), heed looks (n,), and
    what each likes best (n, answers or more).
    """

    read: np.ndarray
    slip: np.ndarray
    turned: np.ndarray
    thrown: np.ndarray
    looks: np.ndarray
    taste: np.ndarray


@cache
def _exactly(answers_: int) -> _Noise:
    """One who reads everything right and heeds every look."""
    none = np.zeros((1, len(JUDGED)))
    return _Noise(np.zeros((1, len(READ))), none, none, none, np.ones(1), np.zeros((1, answers_)))


class _Taken:
    """A page as compiled code takes it."""

    def __init__(self, page: Read, on_card: _OnCard) -> None:
        got = [page.values.get(key) for key in READ]
        bands = [page.bands.get(name) for name in JUDGED]
        told = [page.told.get(f, 0) for f in (*page.offered, NONE)]
        heard = np.array([_SHOWN if s > 0 else _RULED_OUT if s < 0 else 0.0 for s in told])
        self._exact = np.array([np.nan if v is None else v for v in got], dtype=float)
        self._page = (
            np.array([-np.inf if band is None else band.low for band in bands]),
            np.array([np.inf if band is None else band.high for band in bands]),
            np.array(
                [
                    band is not None or name == "drier_drop" or (name == "subcooling" and page.glass is not None)
                    for name, band in zip(JUDGED, bands, strict=True)
                ]
            ),
            page.drier_limit_f,
            NO_GLASS if page.glass is None else page.glass,
            on_card.weights,
            heard[on_card.members].sum(axis=1),
            on_card.common,
        )

    def picked(self, misread_f: float, slip: float, overlooks: float, noise: _Noise) -> tuple[np.ndarray, np.ndarray]:
        """(answers picked by the card, as places in ``found``, (n,); verdicts (n, figures))."""
        return gone_through(
            self._exact,
            misread_f,
            noise.read,
            noise.slip < slip,
            noise.turned < 0.5,
            noise.thrown,
            noise.looks >= overlooks,
            noise.taste,
            self._page,
            _TASTED,
        )

    def counted(self, skills: tuple[Skill, ...], noise: _Noise, right: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(how many of each skill name by the card what is ``right``, (s,); how many come to each number of verdicts
        who overlook what was looked at and who heed it, (s, 2, :data:`KINDS`)).
        """
        return counted(self._exact, _as_numbers(skills), *noise, self._page, right, _TASTED)


@cache
def _as_numbers(skills: tuple[Skill, ...]) -> np.ndarray:
    """Skills (s, 3) as compiled code takes them."""
    return np.array([(skill.misread_f, skill.slip, skill.overlooks) for skill in skills])


@cache
def _noises(first: int, number: int, runs: int) -> _Noise:
    """The apprentices of a ``number`` of skills, the first of them numbered ``first``, as arrays of all of them."""
    return _Noise(*(np.stack(rows) for rows in zip(*(_noise(first + i, runs) for i in range(number)), strict=True)))


@cache
def _noise(number: int, runs: int) -> _Noise:
    """The same apprentices for every call."""
    rng = random.Random(f"apprentices/{number}")

    def table(columns: int, draw: Callable[[], float]) -> np.ndarray:
        return np.array([[draw() for _ in range(columns)] for _ in range(runs)])

    return _Noise(
        read=table(len(READ), lambda: rng.uniform(-1.0, 1.0)),
        slip=table(len(JUDGED), rng.random),
        turned=table(len(JUDGED), rng.random),
        thrown=table(len(JUDGED), lambda: _THROWN_F * rng.choice((-1.0, 1.0))),
        looks=table(1, rng.random)[:, 0],
        taste=table(60, lambda: -log(-log(rng.uniform(1e-9, 1.0 - 1e-9)))),
    )


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
