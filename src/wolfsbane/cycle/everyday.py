"""What a shop calls what is wrong: everyday names of faults and of groups of faults, in one list.

Requests, pickers, searches and answers by name all read this list. A name is written in small letters with single
spaces; ``(a|b)`` stands for either, ``[a]`` for with and without. Common practice, no source.
"""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import FAULTS, NONE
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS

if TYPE_CHECKING:
    from collections.abc import Iterator

_DIRTY = "(dirty|plugged|clogged|blocked|fouled|matted|restricted|stopped up)"
_OUTDOOR_COIL = "(condenser [coil]|outdoor coil|outside coil|coil outside|outdoor unit|condensing unit|condenser face)"
_INDOOR_COIL = "(evaporator [coil]|evap [coil]|indoor coil|a coil)"
_PISTON = "(piston|orifice|fixed orifice|metering piston)"
_TXV = "(txv|tev|txvalve|tx valve|expansion valve|thermostatic expansion valve|thermostatic valve|metering device)"
_COMPRESSOR = "(compressor|pump|scroll)"
_GAS = "(refrigerant|charge|gas)"

#: fault id -> everyday names, beside its own name and id
FAULT_NAMES: dict[str, tuple[str, ...]] = {
    "undercharge": (
        f"low [on] {_GAS}",
        f"(short [(of|on)]|lost|losing|missing|leaked|out of) {_GAS}",
        "(under charge|undercharged|undercharging|under charged|short charge|shortage|short of it|leaker|leak|leaking"
        "|leaky system|refrigerant leak|slow leak|undercharged system|not enough refrigerant|not enough charge)",
    ),
    "overcharge": (
        f"(too much|excess|extra) {_GAS}",
        "(over charge|overcharged|overcharging|over charged|overfilled|overfull|over full|high charge|fat charge)",
    ),
    "non_condensables": (
        "(non condensables|non condensable|noncondensables|noncondensable|non condensable gas|ncg|nitrogen in it"
        "|air in the system|air in the circuit|air in the refrigerant|air in it|air)",
    ),
    "wrong_refrigerant": ("(wrong refrigerant|mixed refrigerant|mixed gas|wrong gas|refrigerant mix up)",),
    "dirty_condenser": (
        f"{_DIRTY} {_OUTDOOR_COIL}",
        "(cottonwood on the condenser|lint on the condenser|condenser needs washing|dirty outside)",
    ),
    "condenser_fan_weak": (
        "(weak|slow|bad|failing|failed) (condenser fan [motor]|outdoor fan [motor]|cond fan)",
        "(condenser fan slow|condenser fan problem|condenser fan|outdoor fan|condenser fan weak|bad fan motor)",
    ),
    "condenser_recirculation": (
        "(recirculation|recirculating|condenser recirculation|recirculating condenser air|condenser air recirculation"
        "|unit under a deck|hot air recirculating|recirculated air|condenser breathing its own air)",
    ),
    "wet_condenser": ("(wet condenser|wet coil outside|wet outdoor coil|just washed condenser)",),
    "water_condenser_fouled": (
        "(fouled|scaled|limed [up]|dirty) (water condenser|water cooled condenser|condenser tubes|tubes)",
        "(scale in the condenser|condenser fouling|scaled condenser|scale)",
    ),
    "low_water_flow": (
        "(low water flow|low condenser water [flow]|not enough water|plugged strainer on the water|poor water flow"
        "|clogged water strainer|low gpm|water flow)",
    ),
    "low_airflow": (
        f"{_DIRTY} ([air] filter|{_INDOOR_COIL}|blower [wheel]|return)",
        "(low|poor|bad|weak|reduced|restricted|not enough|insufficient|lack of) (airflow|air flow|indoor airflow"
        "|evaporator airflow|indoor air|air over the coil|supply air|return air)",
        "(low cfm|blower motor|blower|slipping belt|loose belt|belt slipping|bad blower|slow blower|weak blower"
        "|blower problem"
        "|closed dampers"
        "|crushed duct|duct problem|undersized duct|blower too slow|wrong speed tap|evaporator fan [motor]|bad evap fan"
        "|dirty coil inside|iced coil|iced evaporator|frozen coil|airflow|air flow)",
    ),
    "mismatched_coil": ("(mismatched coil|coil mismatch|mismatch|undersized coil|indoor coil too small|wrong coil)",),
    "liquid_line_restriction": (
        f"{_DIRTY} ([filter] drier|[filter] dryer|liquid line [drier]|strainer|screen)",
        "([liquid line] restriction|kinked [liquid] line|kink|kinked liquid line|bad drier|bad filter drier"
        "|pinched line|line restriction|liquid restriction|drier restriction|restricted line|drier)",
    ),
    "service_valve_part_closed": (
        "(king valve not open|service valve partly closed|half closed service valve|service valve|closed service valve"
        "|service valve not open|service valve half open)",
    ),
    "suction_line_restriction": (
        "(suction restriction|suction line restriction|restricted suction [line]|kinked suction line"
        "|plugged suction (drier|filter)|clogged suction (drier|filter))",
    ),
    "long_liquid_line": ("(long line set|long lineset|long line|long lines|line set too long|long liquid line)",),
    "valve_overfeeding": (
        f"(overfeeding|flooding|open|leaking) {_TXV}",
        f"{_TXV} (overfeeding|stuck open|flooding|wide open|too far open)",
        "(over feeding|overfeeding|flooding|flood back|floodback|flooded evaporator|loose bulb|bulb loose|bulb off"
        "|loose sensing bulb|bulb not strapped|overfeed|overfeeding valve|stuck open valve|valve stuck open)",
    ),
    "valve_underfeeding": (
        f"(underfeeding|starving|sticking|stuck) {_TXV}",
        f"{_TXV} (underfeeding|stuck shut|stuck closed|starving|stuck|failed closed)",
        "(under feeding|underfeeding|starving|starved coil|starved evaporator|lost bulb charge|dead bulb|bad bulb"
        "|lost power head|bad power head|power head|underfeed|starving valve|valve stuck shut|valve stuck closed"
        "|bad (txv|tev|expansion valve))",
    ),
    "valve_hunting": (f"{_TXV} hunting", "(hunting|hunting valve|hunting txv|swinging valve|oversized txv)"),
    "orifice_oversized": (
        f"(oversized|too large|too big|wrong|missing) {_PISTON}",
        f"{_PISTON} (too large|too big|oversized|not seated|missing)",
        "(wrong size piston|piston size|orifice overfeeding)",
    ),
    "orifice_undersized": (
        f"(undersized|too small|small|plugged|clogged|restricted) {_PISTON}",
        f"{_PISTON} (too small|undersized|plugged|clogged)",
        "(plugged cap tube|restricted cap tube|plugged capillary [tube]|kinked cap tube|restricted capillary [tube])",
    ),
    "distributor_blocked": (
        f"{_DIRTY} distributor [tube]",
        "(distributor|distributor problem|blocked feeder|plugged feeder|bad distribution|half the coil frosted)",
    ),
    "leaking_compressor_valves": (
        f"(weak|bad|worn|worn out|inefficient|failing|tired) {_COMPRESSOR}",
        "(bad|worn|leaking|broken|weak) ([compressor] valve|reed|reed valve|discharge valve|suction valve)",
        f"{_COMPRESSOR} (valves|with bad valves|not pumping well|inefficient|weak)",
        "(low compression|compressor valve problem)",
    ),
    "compressor_not_pumping": (
        f"{_COMPRESSOR} not pumping",
        "(dead compressor|broken shaft|equal pressures|not pumping|no compression|running backward|runs backward)",
    ),
    "reversing_valve_leak": (
        "(leaking|stuck|bad) (reversing valve|four way valve|4 way valve)",
        "(reversing valve|reversing valve leak|reversing valve leaking|four way valve|reversing valve bypassing)",
    ),
    "high_load": ("(high load|heavy load|hot load|warm product load|pull down)",),
    "low_load": ("(low load|light load)",),
    "undersized_unit": ("(undersized unit|unit too small|undersized system|unit undersized)",),
    "economizer_stuck_open": ("(economizer stuck [open]|stuck economizer|stuck damper|outside air damper stuck)",),
    "stratified_air": ("(stratified air|stratification|layered air)",),
    "one_circuit_off": ("(one circuit off|second circuit off|dead circuit|one stage off)",),
    "gauge_not_zeroed": (
        "(gauge off zero|gauge not zeroed|unzeroed gauge|gauge needs zeroing|gauge out of calibration)",
    ),
    "absolute_pressure_read": ("(absolute pressure|gauge in absolute|psia|reading absolute)",),
    "core_not_depressed": ("(core not depressed|schrader not depressed|schrader core|valve core|core depressor)",),
    "clamp_loose": ("(loose clamp|bad clamp|loose temperature clamp|clamp loose|clamp in the sun|bad clamp contact)",),
    "clamp_wrong_line": ("(clamp on the wrong line|wrong line clamped|clamp on the discharge line)",),
    "hoses_swapped": ("(swapped hoses|hoses swapped|hoses reversed|reversed hoses|hoses backward|crossed hoses)",),
    "wrong_refrigerant_scale": ("(wrong scale|wrong pt scale|wrong refrigerant selected|wrong refrigerant scale)",),
    "thermometers_disagree": ("(thermometers disagree|bad thermometer|two thermometers|uncalibrated thermometer)",),
    NONE: (
        "(ok|okay|nothing|nothing wrong|no fault|no problem|normal|healthy|fine|good|sound|works fine|nothing is wrong"
        "|running right|running fine)",
    ),
}

_CHARGE = ("undercharge", "overcharge", "non_condensables", "long_liquid_line")
_INDOOR_AIR = ("low_airflow", "mismatched_coil", "distributor_blocked")
_OUTDOOR_AIR = ("dirty_condenser", "condenser_fan_weak", "condenser_recirculation")
_METERING = (
    "valve_overfeeding",
    "valve_underfeeding",
    "orifice_oversized",
    "orifice_undersized",
)
_RESTRICTIONS = ("liquid_line_restriction", "service_valve_part_closed", "suction_line_restriction")
_PROBLEM = (
    "(problem|fault|issue|trouble|failure|stuff|related [(problem|fault|issue|call)]|side problem|side fault"
    "|side issue|side)"
)
#: everyday names of a whole group -> fault ids
GROUP_NAMES: dict[str, tuple[str, ...]] = {
    f"([refrigerant] charge|charging|refrigerant) {_PROBLEM}": _CHARGE,
    "wrong charge": _CHARGE,
    f"(airflow|air flow|air side|air) {_PROBLEM}": ("low_airflow", *_OUTDOOR_AIR),
    f"(indoor air|indoor airflow|evaporator|evaporator air|indoor) {_PROBLEM}": _INDOOR_AIR,
    f"(condenser|outdoor air|outdoor airflow|outdoor unit|outdoor|condenser air|head pressure)"
    f" {_PROBLEM}": _OUTDOOR_AIR,
    f"(metering [device]|expansion device) {_PROBLEM}": _METERING,
    f"(txv|tev|valve|[thermostatic] expansion valve) {_PROBLEM}": _METERING[:2],
    f"([fixed] orifice|piston) {_PROBLEM}": _METERING[2:],
    "(charge|charging)": _CHARGE,
    "metering": _METERING,
    "compressor": ("leaking_compressor_valves", "reversing_valve_leak"),
    f"(restriction|restricted flow|flow) {_PROBLEM}": _RESTRICTIONS,
    f"(compressor|reversing valve) {_PROBLEM}": ("leaking_compressor_valves", "reversing_valve_leak"),
    f"(water|water side|condenser water) {_PROBLEM}": ("water_condenser_fouled", "low_water_flow"),
    "(dirt|dirty coil|dirty stuff)": ("dirty_condenser", "low_airflow"),
    "(restrictions|liquid and suction restrictions)": _RESTRICTIONS,
}


def expand(template: str) -> Iterator[str]:
    """Every name a template stands for, single spaces between words."""
    match = re.search(r"\[([^\[\]()]*|[^\[\]]*)\]", template)
    if match is not None and _balanced(match[1]):
        for part in ("", match[1]):
            yield from expand(template[: match.start()] + part + template[match.end() :])
        return
    match = re.search(r"\(([^()\[\]]*)\)", template)
    if match is None:
        yield " ".join(template.split())
        return
    for part in match[1].split("|"):
        yield from expand(template[: match.start()] + part + template[match.end() :])


def _balanced(text: str) -> bool:
    return text.count("(") == text.count(")")


def names_in(templates: tuple[str, ...]) -> dict[str, None]:
    return dict.fromkeys(name for template in templates for name in expand(template))


@cache
def fault_names() -> dict[str, tuple[str, ...]]:
    """Everyday name -> ids of the faults it stands for, single ones and groups."""
    found: dict[str, tuple[str, ...]] = {}
    called = {k.id: k.name for k in FAULTS.values()} | {k.id: k.name for k in INSTRUMENT_FAULTS.values()}
    for fault_id, said in called.items():
        for name in (said, re.sub(r"\([^)]*\)", " ", said), fault_id):
            found.setdefault(" ".join(re.sub(r"[^a-z0-9]+", " ", name.lower()).split()), (fault_id,))
    for fault_id, templates in FAULT_NAMES.items():
        for name in names_in(templates):
            found.setdefault(name, (fault_id,))
    for template, ids in GROUP_NAMES.items():
        for name in expand(template):
            found.setdefault(name, ids)
    return found


@cache
def names_of_fault(fault_id: str) -> tuple[str, ...]:
    """Everyday names of one fault, for pickers and searches."""
    return tuple(name for name, ids in fault_names().items() if ids == (fault_id,))
