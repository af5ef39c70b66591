"""What looks and tests can show, in fixed words, and how likely each word is with each fault.

The shares are assumed, from how the trade speaks of these checks (common practice, no source): they are what a careful
technician would bet, not counts of service calls.
"""

from __future__ import annotations

#: look -> words, the word of a machine with nothing wrong first
LOOKS = {
    "filter": ("clean", "dirty"),
    "condenser_coil": ("clean", "dirty"),
    "evaporator_coil": ("clean", "dirty"),
    "blower_wheel": ("clean", "dirty"),
    "bulb": ("tight", "loose", "bare"),
    "evaporator_ice": (False, True),
    "oil_traces": (False, True),
    "condenser_wet": (False, True),
    "blower": ("right", "slow"),
    "duct": ("open", "blocked"),
    "condenser_fan": ("right", "slow", "wrong blade", "backwards"),
    "condenser_place": ("free", "closed in", "in hot exhaust"),
    "service_valve": ("open", "part closed"),
    "liquid_line": ("straight", "kinked"),
    "suction_line": ("even", "kinked", "cold step"),
    "line_length": ("standard", "longer than standard"),
    "orifice": ("right", "too large", "too small", "not seated", "plugged", "bent"),
    "coil_match": ("matched", "too small"),
    "house": ("as designed", "grew"),
    "economizer": ("at minimum", "open"),
}
#: test -> words, the word of a machine with nothing wrong first
TESTS = {
    "pump_down": ("suction_falls", "suction_holds", "suction_rises"),
    "bulb_warmed": ("responds", "no_response"),
    "bulb_chilled": ("responds", "no_response"),
    "standing_pressure": ("matches_chart", "above_chart", "below_chart"),
    "coil_face": ("even", "part_cold"),
    "sight_glass": ("clear", "bubbles", "low", "full"),
    "compressor_sound": ("normal", "noisy"),
}
CHECKS = LOOKS | TESTS

#: check -> family -> share of machines with this fault that show each word but the first; "*" is everybody else
_SHARES: dict[str, dict[str, tuple[float, ...]]] = {
    "filter": {"low_airflow": (0.45,), "*": (0.05,)},
    "condenser_coil": {"dirty_condenser": (0.93,), "water_condenser_fouled": (0.9,), "*": (0.05,)},
    "evaporator_coil": {"low_airflow": (0.3,), "*": (0.03,)},
    "blower_wheel": {"low_airflow": (0.25,), "*": (0.03,)},
    "blower": {"low_airflow": (0.25,), "*": (0.03,)},
    "duct": {"low_airflow": (0.2,), "*": (0.03,)},
    "bulb": {"valve_overfeeding": (0.36, 0.26), "valve_hunting": (0.25, 0.1), "*": (0.015, 0.015)},
    "evaporator_ice": {
        "low_airflow": (0.45,),
        "undercharge": (0.3,),
        "liquid_line_restriction": (0.35,),
        "valve_underfeeding": (0.5,),
        "orifice_undersized": (0.45,),
        "distributor_blocked": (0.5,),
        "suction_line_restriction": (0.2,),
        "low_load": (0.15,),
        "mismatched_coil": (0.35,),
        "long_liquid_line": (0.1,),
        "service_valve_part_closed": (0.35,),
        "*": (0.03,),
    },
    "oil_traces": {"undercharge": (0.45,), "non_condensables": (0.2,), "*": (0.03,)},
    "condenser_wet": {"wet_condenser": (0.98,), "*": (0.02,)},
    "condenser_fan": {"condenser_fan_weak": (0.4, 0.3, 0.22), "*": (0.015, 0.01, 0.005)},
    "condenser_place": {"condenser_recirculation": (0.6, 0.32), "*": (0.03, 0.01)},
    "service_valve": {"service_valve_part_closed": (0.96,), "*": (0.01,)},
    "liquid_line": {"liquid_line_restriction": (0.3,), "*": (0.01,)},
    "suction_line": {"suction_line_restriction": (0.45, 0.47), "*": (0.01, 0.01)},
    "line_length": {"long_liquid_line": (0.97,), "*": (0.05,)},
    "orifice": {
        "orifice_oversized": (0.65, 0.01, 0.28, 0.01, 0.01),
        "orifice_undersized": (0.01, 0.35, 0.01, 0.33, 0.25),
        "*": (0.01, 0.01, 0.005, 0.01, 0.005),
    },
    "coil_match": {"mismatched_coil": (0.97,), "*": (0.02,)},
    "house": {"undersized_unit": (0.55,), "*": (0.08,)},
    "economizer": {"economizer_stuck_open": (0.97,), "*": (0.02,)},
    "pump_down": {
        "leaking_compressor_valves": (0.35, 0.6),
        "compressor_not_pumping": (0.95, 0.03),
        "reversing_valve_leak": (0.4, 0.45),
        "*": (0.03, 0.03),
    },
    "bulb_warmed": {"valve_underfeeding": (0.92,), "valve_overfeeding": (0.45,), "*": (0.05,)},
    "bulb_chilled": {"valve_overfeeding": (0.4,), "valve_underfeeding": (0.5,), "*": (0.05,)},
    "standing_pressure": {
        "non_condensables": (0.94, 0.01),
        "wrong_refrigerant": (0.5, 0.35),
        "gauge_not_zeroed": (0.4, 0.3),
        "undercharge": (0.01, 0.05),
        "core_not_depressed": (0.05, 0.5),
        "absolute_pressure_read": (0.9, 0.02),
        "*": (0.03, 0.02),
    },
    "coil_face": {
        "distributor_blocked": (0.95,),
        "undercharge": (0.45,),
        "liquid_line_restriction": (0.5,),
        "valve_underfeeding": (0.5,),
        "orifice_undersized": (0.5,),
        "service_valve_part_closed": (0.5,),
        "*": (0.06,),
    },
    # with a receiver also its level: all but empty, or fuller than it may be
    "sight_glass": {
        "undercharge": (0.6, 0.33, 0.005),
        "overcharge": (0.01, 0.01, 0.5),
        "liquid_line_restriction": (0.85, 0.01, 0.03),
        "long_liquid_line": (0.5, 0.15, 0.005),
        "service_valve_part_closed": (0.88, 0.01, 0.03),
        "*": (0.04, 0.02, 0.02),
    },
    "compressor_sound": {
        "leaking_compressor_valves": (0.5,),
        "compressor_not_pumping": (0.35,),
        "valve_overfeeding": (0.3,),
        "orifice_oversized": (0.3,),
        "low_airflow": (0.1,),
        "*": (0.06,),
    },
}


def tells(check: str, box: bool) -> bool:
    """Whether a look or test tells anything on a machine that keeps a ``box`` cold, or on another: frost on the coil of
    a box is normal between defrosts, and comes and goes with the weather.
    """
    return not (box and check == "evaporator_ice")


def _family_shares(check: str, family: str) -> tuple[float, ...]:
    """Share of each word of ``check`` with one family, in the order of :data:`CHECKS`, as a tuple that sums to 1."""
    odd = _SHARES[check].get(family, _SHARES[check]["*"])
    return (1.0 - sum(odd), *odd)


def shares(check: str, families: tuple[str, ...]) -> tuple[float, ...]:
    """Share of each word with these families together: each one that can show an odd word may show it (noisy or)."""
    plain = _family_shares(check, "*")
    found = plain
    for family in families:
        own = _family_shares(check, family)
        fault_free = found[0] * own[0] / plain[0]
        odd = [max(a, b) for a, b in zip(found[1:], own[1:], strict=True)]
        k = (1.0 - fault_free) / sum(odd)
        found = (fault_free, *(k * v for v in odd))
    return found


def share(check: str, word: str | bool, families: tuple[str, ...]) -> float:
    """How likely ``word`` is for ``check`` where ``families`` (a tuple of ids,
    empty for a machine with nothing wrong) are at fault.
    """
    return shares(check, families)[CHECKS[check].index(word)]
