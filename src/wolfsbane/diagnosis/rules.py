"""A list of rules, gone through from the top, as shops teach them: the other way to name a fault from verdicts.

Common practice, no source. Beside the shop card it is the second mind that simulated apprentices have, since classes
are taught both ways.
"""

from __future__ import annotations

from functools import cache

_CONDENSER = ("dirty_condenser", "condenser_fan_weak", "condenser_recirculation", "non_condensables")
_AIR = ("low_airflow", "mismatched_coil", "distributor_blocked")
#: what an outdoor and an indoor coil suffer from where the outdoor one evaporates
_OUTDOORS = ("dirty_condenser", "condenser_fan_weak", "distributor_blocked")
_INDOORS = ("low_airflow", "mismatched_coil")
_SHORT = ("undercharge", "long_liquid_line")
_PUMP = ("leaking_compressor_valves", "reversing_valve_leak")
_STARVED = (
    "valve_underfeeding",
    "orifice_undersized",
    "service_valve_part_closed",
    "liquid_line_restriction",
    "suction_line_restriction",
    "undercharge",
)


@cache
def named_by_rules(
    signs: tuple[int, ...],
    card: str,
    offered: tuple[str, ...],
    shown: tuple[str, ...],
    out: tuple[str, ...],
    number: int,
) -> tuple[str, ...]:
    """Fault ids the rules name, () for nothing wrong.

    ``signs`` are -1, 0, 1 of superheat, subcooling, TD, CTOA and the drier drop; ``card`` is the kind of machine
    (valve, orifice, receiver or heating); ``offered`` the answers, ``shown`` those that a look or test shows, ``out``
    those that one rules out, ``number`` how many faults are asked for.
    """
    sh, sc, td, ctoa, drier = signs
    groups: list[tuple[str, ...]] = [shown] if shown else []
    if drier > 0:
        groups.append(("liquid_line_restriction", "service_valve_part_closed"))
    if td < 0 and ctoa < 0:
        groups.append(_PUMP)
    groups += _BY[card](sh, sc, td, ctoa)
    groups = [tuple(f for f in group if f in offered and f not in out) for group in groups]
    named: list[str] = []
    for group in groups:
        named += [f for f in group if f not in named][:1]
    if number > 1:  # two are asked for: what the first rules leave over comes after
        named += [f for group in groups for f in group if f not in named]
    return tuple(named[:number])


def _by_valve(sh: int, sc: int, td: int, ctoa: int) -> list[tuple[str, ...]]:
    rules = (
        (sh < 0 and td <= 0, ("valve_overfeeding", "leaking_compressor_valves")),
        (ctoa > 0 and sc > 0, ("overcharge", "non_condensables", *_CONDENSER)),
        (ctoa > 0 and sc <= 0, _CONDENSER),
        (sc < 0, (*_SHORT, "service_valve_part_closed")),
        (sh > 0 and sc >= 0, _STARVED),
        (sc > 0 and ctoa <= 0 and sh <= 0, ("overcharge", "non_condensables")),
        (td > 0 and sh <= 0, (*_AIR, "suction_line_restriction")),
        (sh > 0 and sc < 0, _SHORT),
        (td < 0, (*_PUMP, "valve_overfeeding")),
        (ctoa < 0, (*_PUMP, *_SHORT, *_AIR, "wet_condenser")),
        (sh < 0, (*_AIR, "valve_overfeeding")),
    )
    return [group for fires, group in rules if fires]


def _by_orifice(sh: int, sc: int, td: int, ctoa: int) -> list[tuple[str, ...]]:
    rules = (
        (sh < 0 and td > 0, _AIR),
        (sh > 0 and sc < 0, _SHORT),
        (sh < 0 and sc > 0, ("overcharge", "non_condensables", *_AIR)),
        (ctoa > 0 and sc <= 0, _CONDENSER),
        (sh > 0 and sc >= 0, ("liquid_line_restriction", *_STARVED)),
        (sh < 0 and sc < 0, ("orifice_oversized", *_PUMP)),
        (sc > 0, ("overcharge", "non_condensables")),
        (ctoa > 0, ("overcharge", *_CONDENSER)),
        (sc < 0, (*_SHORT, "orifice_oversized")),
        (sh < 0, ("orifice_oversized", "overcharge", *_AIR, *_CONDENSER)),
        (td > 0, _AIR),
        (td < 0, (*_PUMP, "orifice_oversized")),
        (ctoa < 0, (*_PUMP, *_SHORT)),
    )
    return [group for fires, group in rules if fires]


def _by_receiver(glass: int, sh: int, td: int, ctoa: int) -> list[tuple[str, ...]]:
    """By a sight glass in place of subcooling: bubbles or an empty receiver are -1, a full one is 1."""
    rules = (
        (glass < 0 and sh > 0, ("liquid_line_restriction", "service_valve_part_closed", "undercharge")),
        (glass < 0, _SHORT),
        (glass > 0, ("overcharge",)),
        (sh < 0 and td <= 0, ("valve_overfeeding", "leaking_compressor_valves")),
        (ctoa > 0, (*_CONDENSER, "overcharge")),
        (sh > 0, _STARVED),
        (td > 0, (*_AIR, "suction_line_restriction")),
        (td < 0, (*_PUMP, "valve_overfeeding")),
        (ctoa < 0, (*_PUMP, "wet_condenser", *_AIR)),
        (sh < 0, ("valve_overfeeding", *_AIR)),
    )
    return [group for fires, group in rules if fires]


def _in_heating(sh: int, sc: int, td: int, ctoa: int) -> list[tuple[str, ...]]:
    """On a heat pump in heating: the outdoor coil evaporates, indoor airflow shows on the condensing side."""
    rules = (
        (sh < 0 and td <= 0, ("valve_overfeeding",)),
        (ctoa > 0 and sc > 0, ("non_condensables", "overcharge", *_INDOORS)),
        (ctoa > 0, _INDOORS),
        (sc < 0, (*_SHORT, "service_valve_part_closed")),
        (sc > 0 and sh <= 0, ("overcharge", "non_condensables")),
        (sh > 0 and td > 0, _STARVED),
        (sh > 0 and td < 0, ("reversing_valve_leak",)),
        (sh > 0, _STARVED),
        (td > 0, (*_OUTDOORS, "suction_line_restriction")),
        (td < 0, _PUMP),
        (ctoa < 0, (*_PUMP, *_OUTDOORS)),
    )
    return [group for fires, group in rules if fires]


_BY = {
    "valve": _by_valve,
    "orifice": _by_orifice,
    "receiver": lambda sh, sc, td, ctoa: _by_receiver(sc, sh, td, ctoa),
    "heating": _in_heating,
    "sealed": _by_orifice,
}
