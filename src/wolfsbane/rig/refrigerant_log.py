"""Cylinders of a shop and the log of every ounce: what a cylinder may take, and whether scale, cylinder and log agree.

Weights are kg; a cylinder is weighed gross. Limits and causes are common practice, no source, but where one is named:
never fuller than 80 % with liquid, the nameplate's water capacity (WC) in kg of water being the volume in liters.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from wolfsbane.acting.cylinders import FULL_SHARE, HOSE_M3, liquid_density, vapor_density
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import KG_PER_OZ

NEW, RECOVERY = "new", "recovery"
#: kind of move -> (what it does to the cylinder's weight, whether a rig takes part, how it is said)
MOVES: dict[str, tuple[int, bool, str]] = {
    "charge": (-1, True, "charged into"),
    "recover": (+1, True, "recovered from"),
    "transfer": (-1, False, "moved to"),
    "received": (+1, False, "received"),
    "returned": (-1, False, "returned for reclaim"),
    "lost": (-1, False, "lost"),
}
#: water weighs so much at 15 degC, kg/m3
_WATER = 999.1
#: the limit is worked out no cooler than so (77 °F), and a van in the sun is so warm (130 °F, the usual design case)
USUAL_K, HOT_K = 298.15, 327.59
#: a shop scale shows half an ounce, and a weighing may be off by two of those (assumed)
RESOLUTION_KG = 0.5 * KG_PER_OZ
_TOLERANCE = 2.0
#: what is slipped where units are mixed up: how many of the one go into the other
_UNIT_SLIPS = (
    (16.0, "pounds written for ounces, or ounces for pounds"),
    (28.35, "grams written for ounces, or ounces for grams"),
    (2.2046, "pounds written for kilograms, or kilograms for pounds"),
    (35.27, "ounces written for kilograms, or kilograms for ounces"),
    (453.6, "grams written for pounds, or pounds for grams"),
)
_HOSES = 3
_PURGE_PA = 8e5


@dataclass(frozen=True, kw_only=True)
class StockCylinder:
    """A cylinder of the shop. ``refrigerant`` is "" in a recovery cylinder that never held any; ``gross_kg`` is what it
    weighed last, by the book; ``retest_on`` the ISO date by which it must be tested again, or "".
    """

    name: str
    kind: str
    refrigerant: str
    tare_kg: float
    water_kg: float
    gross_kg: float
    retest_on: str = ""

    @property
    def net_kg(self) -> float:
        """Refrigerant in it, by the book."""
        return max(self.gross_kg - self.tare_kg, 0.0)

    def limit_kg(self, name: str = "", t_k: float = USUAL_K) -> float:
        """Net refrigerant it may hold: liquid to 80 % of its volume at ``t_k``, 77 °F at least. 0 while nobody knows of
        what.
        """
        name = name or self.refrigerant
        return FULL_SHARE * self.water_kg / _WATER * liquid_density(name, max(t_k, USUAL_K)) if name else 0.0


@dataclass(frozen=True, kw_only=True)
class Move:
    """Refrigerant that went somewhere: ``log_kg`` as written down, the cylinder's gross weight ``before_kg`` and
    ``after_kg``, and what the rig's own scale saw (``scale_kg``), None where it has none. ``t_k`` is where the cylinder
    stands.
    """

    kind: str
    log_kg: float
    before_kg: float
    after_kg: float
    scale_kg: float | None = None
    t_k: float = USUAL_K

    @property
    def weighed_kg(self) -> float:
        """What the cylinder says has moved."""
        return MOVES[self.kind][0] * (self.after_kg - self.before_kg)


@dataclass(frozen=True, kw_only=True)
class Difference:
    """Two of scale, cylinder and log that do not agree: by how much (kg), in words, and what usually causes it."""

    between: str
    kg: float
    causes: tuple[str, ...]

    def to_json(self) -> dict[str, Any]:
        """Plain data."""
        return {"between": self.between, "kg": self.kg, "causes": list(self.causes)}


def both(kg: float) -> str:
    """A weight in pounds and in kilograms: a caution is for everybody."""
    return f"{kg / (16.0 * KG_PER_OZ):.1f} lb ({kg:.2f} kg)"


def check(
    move: Move, cylinder: StockCylinder, holds: str = "", into: StockCylinder | None = None, day: str = ""
) -> None:
    """Refuse what must not be done. ``holds`` is the refrigerant of the rig that takes part, ``into`` the cylinder that
    a transfer goes to, ``day`` the ISO date. Raises BadInputError, its caution in what is allowed.
    """
    if move.kind not in MOVES:
        raise BadInputError("kind", move.kind, ", ".join(MOVES))
    for field in ("log_kg", "before_kg", "after_kg"):
        value = getattr(move, field)
        if not math.isfinite(value) or not 0.0 <= value <= 1000.0:
            raise BadInputError(field.removesuffix("_kg"), value, "a weight from 0 to 1000 kg")
    rig = MOVES[move.kind][1]
    if rig and not holds:
        raise BadInputError("rig_id", None, "the rig it goes to or comes from")
    filled = cylinder if move.kind in ("recover", "received") else into if move.kind == "transfer" else None
    if move.kind == "transfer" and into is None:
        raise BadInputError("other_id", None, "the cylinder it goes to")
    comes = holds if rig else cylinder.refrigerant
    if move.kind == "charge" and cylinder.refrigerant != holds:
        raise BadInputError(
            "cylinder_id",
            f"{cylinder.name} with {cylinder.refrigerant or 'nothing known'}",
            f"a cylinder of {holds}, as in this rig. Never mix refrigerants: no chart fits the pressures any more, and "
            "a mixed charge can only be destroyed",
        )
    if MOVES[move.kind][0] < 0 and move.log_kg > cylinder.net_kg + _TOLERANCE * RESOLUTION_KG:
        raise BadInputError(
            "log", round(move.log_kg, 3), f"at most the {both(cylinder.net_kg)} that are in {cylinder.name}"
        )
    if filled is not None and move.kind != "received":
        _may_be_filled(move, filled, comes, day)
    elif filled is not None:
        _not_past(move, filled, comes)


def _may_be_filled(move: Move, filled: StockCylinder, comes: str, day: str) -> None:
    field = "other_id" if move.kind == "transfer" else "cylinder_id"
    if filled.kind != RECOVERY:
        raise BadInputError(
            field,
            filled.name,
            "a recovery cylinder. A cylinder that new refrigerant came in is never filled again: it can burst",
        )
    if filled.refrigerant and filled.refrigerant != comes:
        raise BadInputError(
            field,
            f"{filled.name} with {filled.refrigerant}",
            f"a cylinder of {comes} or an empty one. Never mix refrigerants: a mixed cylinder can only be destroyed",
        )
    if filled.retest_on and day and day > filled.retest_on:
        raise BadInputError(
            field,
            f"{filled.name}, due for its test on {filled.retest_on}",
            "a cylinder within its test date. One past it must not be filled",
        )
    _not_past(move, filled, comes)


def _not_past(move: Move, filled: StockCylinder, comes: str) -> None:
    limit = filled.limit_kg(comes, move.t_k)
    over = max(filled.net_kg + move.log_kg, move.after_kg - filled.tare_kg if move.kind != "transfer" else 0.0) - limit
    if over > _TOLERANCE * RESOLUTION_KG:
        raise BadInputError(
            "log",
            round(move.log_kg, 3),
            f"what leaves {filled.name} at most 80 % full: {both(limit)} of {comes} in all at "
            f"{max(move.t_k, USUAL_K) * 1.8 - 459.67:.0f} °F, {both(max(limit - filled.net_kg, 0.0))} more. A cylinder "
            "that is too full bursts when it warms: stop, and use another one",
        )


def differences(
    move: Move, cylinder: StockCylinder, others: Iterable[StockCylinder] = (), resolution_kg: float = RESOLUTION_KG
) -> tuple[Difference, ...]:
    """Where book, cylinder, scale and log do not agree, each with its likely causes, the likeliest first."""
    found = []
    least = _TOLERANCE * resolution_kg + 1e-9
    start = move.before_kg - cylinder.gross_kg
    if abs(start) > least:
        found.append(
            Difference(
                between="cylinder and book at the start", kg=start, causes=_start_causes(move, cylinder, others, least)
            )
        )
    by_log = move.weighed_kg - move.log_kg
    if abs(by_log) > least:
        found.append(
            Difference(
                between="cylinder and log",
                kg=by_log,
                causes=_moved_causes(move, move.weighed_kg, move.log_kg, cylinder.refrigerant, least),
            )
        )
    if move.scale_kg is not None:
        by_scale = move.scale_kg - move.weighed_kg
        if abs(by_scale) > least:
            found.append(
                Difference(
                    between="scale of the rig and cylinder",
                    kg=by_scale,
                    causes=_moved_causes(move, move.scale_kg, move.weighed_kg, cylinder.refrigerant, least),
                )
            )
    return tuple(found)


def _start_causes(
    move: Move, cylinder: StockCylinder, others: Iterable[StockCylinder], least: float
) -> tuple[str, ...]:
    off = move.before_kg - cylinder.gross_kg
    causes = [
        f"cylinders swapped: {o.name} is the one that weighs this"
        for o in others
        if o.name != cylinder.name and abs(o.gross_kg - move.before_kg) <= least
    ]
    if abs(move.before_kg - cylinder.net_kg) <= least and cylinder.tare_kg > least:
        causes.append("net written for gross: the tare was already taken off")
    causes += _units(move.before_kg, cylinder.gross_kg)
    if not causes:
        if off < 0.0:
            causes.append("used without being written down")
        if abs(off) <= 0.25:
            causes.append("scale drifted or not zeroed: put a known weight on it")
            causes.append("a hose or a hand rested on the cylinder")
        if off > 0.0:
            causes.append("filled without being written down")
    return tuple(causes)


def _units(one: float, other: float) -> list[str]:
    if min(abs(one), abs(other)) < 1e-6:
        return []
    ratio = max(one / other, other / one)
    return [f"wrong unit: {told}" for size, told in _UNIT_SLIPS if abs(ratio / size - 1.0) < 0.03]


def _moved_causes(move: Move, one: float, other: float, name: str, least: float) -> tuple[str, ...]:
    off = one - other
    if abs(one + other) <= least and abs(one) > least:
        return ("before and after were exchanged, or it went the other way",)
    causes = _units(one, other) if one > 0.0 and other > 0.0 else []
    if causes:
        return tuple(causes)
    if name:
        liquid = _HOSES * HOSE_M3 * liquid_density(name, USUAL_K)
        vapor = _HOSES * HOSE_M3 * vapor_density(name, max(refrigerant(name).min_pa, _PURGE_PA))
        lost = off > 0.0 if MOVES[move.kind][0] < 0 else off < 0.0
        if lost and abs(off) <= 2.0 * vapor + least:
            causes.append("purged from the hoses")
        if lost and abs(off) <= liquid + least:
            causes.append("left in the hoses as liquid: let the low side draw it in before they come off")
        if lost:
            causes.append("a leak at a fitting, or vented: say how much was lost")
    if abs(off) <= 0.25:
        causes.append("scale drifted or a hose pulled on the cylinder")
    causes.append("misread or mistyped: weigh it again")
    return tuple(causes)


def balance(moves: Sequence[Move]) -> dict[str, float]:
    """Kind of move -> kg by the cylinders' own weights; what changed between moves is in none of them."""
    found = dict.fromkeys(MOVES, 0.0)
    for move in moves:
        found[move.kind] += move.weighed_kg
    return {kind: round(kg, 4) for kind, kg in found.items()}
