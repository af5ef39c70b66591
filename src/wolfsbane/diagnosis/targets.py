"""Targets: the band each figure should lie in, for this machine, in this weather, under one practice."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import c_to_k, k_to_f
from wolfsbane.diagnosis.practices import PRACTICES, Practice, practice_by_id

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

__all__ = [
    "FIGURES",
    "HIGH",
    "LOW",
    "NORMAL",
    "PRACTICES",
    "Band",
    "Practice",
    "bands",
    "formula_target",
    "practice_by_id",
    "target_question",
    "total_superheat_target_df",
]

#: subcooling of a heat pump in heating, from a warm day to a cold one, degrees F (as solved; assumed)
_HEATING_SUBCOOLING_DF = (0.5, 12.0)
FIGURES = ("superheat", "subcooling", "evaporator_td", "ctoa")
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


def target_question(metering: str) -> str:
    """Which figure the machine is charged by: superheat on an orifice, subcooling on a valve."""
    return "superheat" if metering == "fixed_orifice" else "subcooling"


def _subcooling_band(machine: Machine, practice: Practice) -> tuple[float, float, float | None]:
    """(low, high, target) in degrees F. In heating nobody charges by it: the charge is weighed in (common practice, no
    source).
    """
    if machine.in_heating:
        return (*_HEATING_SUBCOOLING_DF, None)
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


def bands(
    machine: Machine, practice: Practice, system: str, outdoor_db: float, return_wb: float | None
) -> dict[str, Band]:
    """Band for each figure that judges this machine, in the display unit of ``system`` (us or si): dict name -> Band.

    ``outdoor_db`` and ``return_wb`` are as printed on the sheet, in its unit; ``return_wb`` is only used by an orifice.
    A machine with a receiver has no subcooling band: its glass tells the charge.
    """
    k = 1.0 if system == "us" else 1.0 / 1.8

    def as_f(t: float) -> float:
        return t if system == "us" else k_to_f(c_to_k(t))

    def in_df(window_dk: tuple[float, float]) -> tuple[float, float]:
        return window_dk[0] * 1.8, window_dk[1] * 1.8

    expected = machine.expectations
    td, ctoa = in_df(expected.evaporator_td_dk), in_df(expected.ctoa_dk)
    if machine.in_heating:
        above = as_f(outdoor_db) - k_to_f(machine.rating[1])
        td = (td[0] + expected.evaporator_td_slope * above, td[1] + expected.evaporator_td_slope * above)
        ctoa = (ctoa[0] + expected.ctoa_slope * above, ctoa[1] + expected.ctoa_slope * above)
    elif machine.comfort and not practice.td_from_machine:
        td = practice.evaporator_td_df
    if not practice.ctoa_from_machine and not machine.in_heating:
        ctoa = practice.ctoa_df
    wet = as_f(return_wb) if machine.metering == "fixed_orifice" and return_wb is not None else 0.0
    rows: dict[str, tuple[float, float, float | None]] = {
        "superheat": _superheat_band(machine, practice, wet, as_f(outdoor_db)),
        "evaporator_td": (*td, None),
        "ctoa": (*ctoa, None),
    }
    if not machine.receiver:
        rows["subcooling"] = _subcooling_band(machine, practice)
    return {
        name: Band(low=low * k, high=high * k, target=None if target is None else target * k)
        for name, (low, high, target) in rows.items()
    }
