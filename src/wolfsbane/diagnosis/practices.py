"""Practices: where practitioners differ, each choice named with its reason. Common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from wolfsbane.cycle.errors import BadInputError

#: how weight is given to charging by pressure alone, and to topping up a leak
WEIGHTS = ("right", "less_reliable", "wrong")


@dataclass(frozen=True, kw_only=True)
class Practice:
    """Choices of one school; temperature differences in degrees F (``_df``).

        ``orifice_superheat`` is "formula" or "chart". ``td_point`` and ``ctoa_point`` name the saturation a temperature
        difference uses with glide. ``receiver_by`` is what judges the charge of a machine with a receiver.
        ``pressure_only`` and ``topping_up`` say how charging by suction pressure and topping up a leaking machine are
        marked, in words of :data:`WEIGHTS`. ``td_from_machine`` and ``ctoa_from_machine`` take the band from the
    machine's own expectations. ``unsafe_fails`` lets an unsafe step fail a whole call. ``reasons`` has one sentence for
    each choice.
    """

    id: str
    name: str
    subcooling_tolerance_df: float
    subcooling_shift_df: float
    subcooling_without_plate_df: tuple[float, float]
    orifice_superheat: str
    orifice_superheat_tolerance_df: float
    valve_superheat_df: tuple[float, float]
    orifice_subcooling_df: tuple[float, float]
    evaporator_td_df: tuple[float, float]
    td_from_machine: bool
    ctoa_df: tuple[float, float]
    ctoa_from_machine: bool
    drier_limit_df: float
    td_point: str
    ctoa_point: str
    receiver_by: str
    pressure_only: str
    topping_up: str
    reasons: dict[str, str]
    unsafe_fails: bool = False


_REASONS = {
    "subcooling": (
        "Nameplate subcooling is what the manufacturer charges this unit to; 3 °F covers the clamp and the gauge."
    ),
    "orifice_superheat": (
        "A fixed orifice feeds whatever load and weather push through it, so target superheat follows both."
    ),
    "valve_superheat": ("A TXV holds superheat at the coil; the suction line adds a few degrees by the outdoor unit."),
    "evaporator_td": "A coil is sized for about 35 °F between return air and suction saturation.",
    "ctoa": "A modern condenser runs 15 to 20 °F above entering air; 2 °F more either way is reading error.",
    "glide": (
        "Superheat and evaporator TD use the dew point; subcooling and CTOA use the bubble point: the same everywhere."
    ),
    "receiver": (
        "A receiver holds the spare liquid, so sight glass and receiver level show the charge and subcooling does not."
    ),
    "pressure_only": (
        "Suction pressure follows load and weather; it only tells the charge together with superheat and subcooling."
    ),
    "topping_up": "A system that leaks will be low again: find and repair the leak, then weigh in the charge.",
    "unsafe_fails": "Some schools fail a whole call for one unsafe step; where this is on, the sheet says so.",
    "drier": "Liquid that loses no pressure loses no temperature; more than 3 °F across a drier means a restriction.",
}
_BASE = dict(
    subcooling_tolerance_df=3.0,
    subcooling_shift_df=0.0,
    subcooling_without_plate_df=(8.0, 12.0),
    orifice_superheat="formula",
    orifice_superheat_tolerance_df=2.0,
    valve_superheat_df=(10.0, 20.0),
    orifice_subcooling_df=(5.0, 14.0),
    evaporator_td_df=(30.0, 40.0),
    td_from_machine=True,
    ctoa_df=(13.0, 22.0),
    ctoa_from_machine=True,
    drier_limit_df=3.0,
    td_point="dew",
    ctoa_point="bubble",
    receiver_by="sight_glass",
    pressure_only="wrong",
    topping_up="wrong",
    reasons=_REASONS,
)


def _practice(id_: Any, name: str, reasons: Any, **changes: Any) -> Any:
    return Practice(**{**_BASE, **changes, "id": id_, "name": name, "reasons": {**_REASONS, **reasons}})


PRACTICES = {
    made.id: made
    for made in (
        _practice("plate_and_formula", "Nameplate subcooling, formula for total superheat", {}),
        _practice(
            "tight_plate",
            "Nameplate subcooling plus one, tight tolerance",
            {
                "subcooling": (
                    "One degree above the plate keeps the liquid line full on a cool day; good instruments allow ±2 °F."
                )
            },
            subcooling_tolerance_df=2.0,
            subcooling_shift_df=1.0,
        ),
        _practice(
            "chart",
            "Manufacturer's chart for total superheat",
            {
                "orifice_superheat": (
                    "Manufacturers' charts run up to 1.5 °F below the formula, most where the target is small."
                )
            },
            orifice_superheat="chart",
        ),
        _practice(
            "large_coil",
            "Large coils and humid regions",
            {
                "evaporator_td": "A large coil or a humid house runs a warmer coil: about 30 °F below return air.",
                "valve_superheat": (
                    "Long line sets and large coils: up to about 22 °F at the outdoor unit is still a good TXV."
                ),
            },
            evaporator_td_df=(25.0, 36.0),
            td_from_machine=False,
            valve_superheat_df=(10.0, 22.0),
        ),
        _practice(
            "pressure_on_orifice",
            "Fixed orifice by suction pressure",
            {
                "pressure_only": (
                    "Some places teach charging a fixed orifice by suction pressure: less reliable than superheat, not"
                    " forbidden."
                )
            },
            pressure_only="less_reliable",
        ),
    )
}


def practice_by_id(practice_id: str) -> Practice:
    """The practice called ``practice_id``; raises BadInputError for an unknown one."""
    if practice_id not in PRACTICES:
        raise BadInputError("practice", practice_id, ", ".join(PRACTICES))
    return PRACTICES[practice_id]
