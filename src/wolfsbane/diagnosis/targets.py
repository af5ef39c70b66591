"""Targets: the band each figure should lie in, for this machine, in this weather, under one practice."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import c_to_k, k_to_f
from wolfsbane.diagnosis.practices import PRACTICES, Practice, practice_by_id

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine

__all__ = [
    "FIGURES",
    "GLASS",
    "HIGH",
    "LOW",
    "NORMAL",
    "PRACTICES",
    "Band",
    "Practice",
    "bands",
    "charged_by",
    "formula_target",
    "judged",
    "met_outdoors_k",
    "practice_by_id",
    "total_superheat_target_df",
]

#: subcooling of a heat pump in heating at its rating point, either way, and for one degree more outdoors, degrees F (as
#: solved; assumed)
_HEATING_SUBCOOLING_DF, _EITHER_WAY_DF, _PER_OUTDOORS = 4.2, 2.8, -0.1
FIGURES = ("superheat", "subcooling", "evaporator_td", "ctoa")
#: what tells the charge of a machine with a receiver, in place of subcooling: low where it shows bubbles
GLASS = "sight_glass"
#: what is judged on such a machine, in the order of FIGURES
FIGURES_BY_GLASS = ("evaporator_superheat", GLASS, "evaporator_td", "ctoa")
#: superheat at the coil of a box where the plate says nothing, and what the pressure lost on the way to the gauge at
#: the compressor adds to it, degrees F (common practice, no source)
_BOX_SUPERHEAT_DF, _SUCTION_LINE_DF = (6.0, 14.0), 2.0
#: subcooling of a small sealed circuit with a capillary tube, degrees F (as solved; assumed)
_SEALED_SUBCOOLING_DF = (3.0, 13.0)
LOW, NORMAL, HIGH = "low", "normal", "high"


@dataclass(frozen=True, kw_only=True)
class Band:
    """Where a figure should lie, in the sheet's unit of difference.

    ``target`` is the single value asked for, or None.
    """

    low: float
    high: float
    target: float | None = None

    def verdict(self, value: float) -> str:
        """low, normal or high."""
        return LOW if value < self.low else HIGH if value > self.high else NORMAL

    def verdicts_within(self, value: float, margin: float) -> set[str]:
        """Every verdict an examiner would accept when ``value`` may be off by ``margin``."""
        return {self.verdict(value - margin), self.verdict(value), self.verdict(value + margin)}

    def moved_to(self, target: float) -> Band:
        """The same width around another target: what follows from a student's own target."""
        if self.target is None:
            return self
        shift = target - self.target
        return Band(low=self.low + shift, high=self.high + shift, target=target)


def total_superheat_target_df(return_wet_bulb_f: float, outdoor_db_f: float, by: str = "formula") -> float:
    """Target total superheat of a fixed orifice, degrees F. Common practice, no source.

    "formula": (3 WB - 80 - OD) / 2, for 55 to 115 F outdoors. "chart": what manufacturers' charts show, 0 to 1.5 F
    below it; here 1.5 F below at a target of 5 F, running out at 25 F (assumed shape).
    """
    target = (3.0 * return_wet_bulb_f - 80.0 - outdoor_db_f) / 2.0
    if by == "chart":
        target -= 1.5 * min(max((25.0 - target) / 20.0, 0.0), 1.0)
    return target


def formula_target(system: str, return_wb: float, outdoor_db: float) -> float:
    """The formula's target superheat of a fixed orifice in the sheet's unit, from temperatures in that unit."""
    if system == "us":
        return total_superheat_target_df(return_wb, outdoor_db)
    return total_superheat_target_df(return_wb * 1.8 + 32.0, outdoor_db * 1.8 + 32.0) / 1.8


def judged(machine: Machine) -> tuple[str, str, str, str]:
    """What is judged on this machine beside the drop across the drier, in the order of :data:`FIGURES`.

    A box with a receiver is judged by superheat at its coil and by its sight glass. What has no band is not judged.
    """
    return FIGURES_BY_GLASS if machine.receiver else FIGURES


def charged_by(machine: Machine) -> str | None:
    """The figure the machine is charged by, which has one target: superheat on a fixed orifice, subcooling on a valve.

    None where the scale decides: on a sealed circuit or one with a capillary tube, in heating, and with a receiver.
    """
    if machine.metering == "fixed_orifice":
        return "superheat"
    by_weight = machine.in_heating or machine.receiver or machine.sealed or machine.metering == "capillary"
    return None if by_weight else "subcooling"


def met_outdoors_k(machine: Machine, conditions: Conditions) -> float:
    """What a machine's targets follow outdoors: the air there, or the water where that cools the condenser, K."""
    return conditions.return_k if machine.in_heating else conditions.water_in_k or conditions.outdoor_k


def _subcooling_band(machine: Machine, practice: Practice, above: float) -> tuple[float, float, float | None]:
    """(low, high, target) in degrees F, ``above`` the rating point by so much.

    In heating nobody charges by it: the charge is weighed in (common practice, no source).
    """
    if machine.in_heating:
        middle = _HEATING_SUBCOOLING_DF + _PER_OUTDOORS * above
        return max(middle - _EITHER_WAY_DF, 0.5), middle + _EITHER_WAY_DF, None
    if machine.sealed:
        return (*_SEALED_SUBCOOLING_DF, None)
    if machine.metering in ("fixed_orifice", "capillary"):
        return (*practice.orifice_subcooling_df, None)
    plate = machine.plate.target_subcooling_dk
    if plate is None:
        low, high = practice.subcooling_without_plate_df
        return low, high, 0.5 * (low + high)
    target, tolerance = plate * 1.8 + practice.subcooling_shift_df, practice.subcooling_tolerance_df
    return target - tolerance, target + tolerance, target


def _superheat_band(
    machine: Machine, practice: Practice, return_wb_f: float, outdoor_f: float
) -> tuple[float, float, float | None]:
    """(low, high, target) in degrees F, at the outdoor unit."""
    if machine.metering == "fixed_orifice":
        target = total_superheat_target_df(return_wb_f, outdoor_f, practice.orifice_superheat)
        tolerance = practice.orifice_superheat_tolerance_df
        return target - tolerance, target + tolerance, target
    own = machine.expectations.total_superheat_dk
    low, high = practice.valve_superheat_df if own is None else (own[0] * 1.8, own[1] * 1.8)
    return low, high, None


def _coil_superheat_band(machine: Machine) -> tuple[float, float, None]:
    """(low, high, None) in degrees F of superheat at the coil, by the gauge at the compressor."""
    own = machine.plate.target_superheat_dk
    low, high = _BOX_SUPERHEAT_DF if own is None else (own[0] * 1.8, own[1] * 1.8)
    return low, high + _SUCTION_LINE_DF, None


def bands(
    machine: Machine, practice: Practice, system: str, outdoors: float, return_wb: float | None
) -> dict[str, Band]:
    """Band for each figure that judges this machine, in the display unit of ``system`` (us or si): dict name -> Band.

    ``outdoors`` (the air outdoors, or the water where that cools the condenser) and ``return_wb`` are as printed on the
    sheet, in its unit; ``return_wb`` is only used by an orifice.
    A machine with a receiver has no subcooling band: its glass tells the charge.
    """
    k = 1.0 if system == "us" else 1.0 / 1.8

    def as_f(t: float) -> float:
        return t if system == "us" else k_to_f(c_to_k(t))

    def in_df(window_dk: tuple[float, float]) -> tuple[float, float]:
        return window_dk[0] * 1.8, window_dk[1] * 1.8

    expected = machine.expectations
    td, ctoa = in_df(expected.evaporator_td_dk), in_df(expected.ctoa_dk)
    rated_k = machine.rating[1] if machine.in_heating else machine.rating[3] or machine.rating[0]
    above = as_f(outdoors) - k_to_f(rated_k)
    if machine.comfort and not machine.in_heating and not practice.td_from_machine:
        td = practice.evaporator_td_df
    td = (td[0] + expected.evaporator_td_slope * above, td[1] + expected.evaporator_td_slope * above)
    if not practice.ctoa_from_machine and not machine.in_heating:
        ctoa = practice.ctoa_df
    ctoa = (ctoa[0] + expected.ctoa_slope * above, ctoa[1] + expected.ctoa_slope * above)
    wet = as_f(return_wb) if machine.metering == "fixed_orifice" and return_wb is not None else 0.0
    rows: dict[str, tuple[float, float, float | None]] = {
        "superheat": _superheat_band(machine, practice, wet, as_f(outdoors)),
        "evaporator_td": (*td, None),
        "ctoa": (*ctoa, None),
    }
    if machine.receiver:
        rows["evaporator_superheat"] = _coil_superheat_band(machine)
    else:
        rows["subcooling"] = _subcooling_band(machine, practice, above)
    return {
        name: Band(low=low * k, high=high * k, target=None if target is None else target * k)
        for name, (low, high, target) in rows.items()
    }
