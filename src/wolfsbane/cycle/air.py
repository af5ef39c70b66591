"""Moist air, from psychrolib, with the barometer always said."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from wolfsbane.cycle.psychrometrics import psychrolib

SATURATED_MIN_K, SATURATED_MAX_K, SATURATED_STEP_K = 203.15, 333.15, 1.0
#: air found wetter than saturated is at most so much warmer than it was taken for, K
SATURATION_STEP_K = 12.0


@dataclass(frozen=True, kw_only=True)
class MoistAir:
    """A state of moist air: dry bulb K, humidity ratio kg/kg, enthalpy J/kg of dry air, barometer Pa."""

    dry_bulb_k: float
    humidity_ratio: float
    enthalpy_j_kg: float
    barometer_pa: float

    @property
    def wet_bulb_k(self) -> float:
        """Thermodynamic wet bulb, K."""
        return _wet_bulb_k(self.dry_bulb_k, self.humidity_ratio, self.barometer_pa)

    @property
    def relative_humidity(self) -> float:
        """Share of saturation, 0 to 1 (over ice below freezing); above 1 is no air."""
        saturated = psychrolib.GetSatHumRatio(self.dry_bulb_k - 273.15, self.barometer_pa)
        return self.humidity_ratio / saturated * (0.622 + saturated) / (0.622 + self.humidity_ratio)


@lru_cache(maxsize=4096)
def _wet_bulb_k(dry_bulb_k: float, humidity_ratio: float, barometer_pa: float) -> float:
    """The library searches for it, and every machine in one weather asks for the same air."""
    return psychrolib.GetTWetBulbFromHumRatio(dry_bulb_k - 273.15, humidity_ratio, barometer_pa) + 273.15


@lru_cache(maxsize=4096)
def from_wet_bulb(dry_bulb_k: float, wet_bulb_k: float, barometer_pa: float) -> MoistAir:
    """Moist air from dry and wet bulb (K) at ``barometer_pa``."""
    ratio = psychrolib.GetHumRatioFromTWetBulb(dry_bulb_k - 273.15, wet_bulb_k - 273.15, barometer_pa)
    return from_humidity_ratio(dry_bulb_k, ratio, barometer_pa)


def from_humidity_ratio(dry_bulb_k: float, humidity_ratio: float, barometer_pa: float) -> MoistAir:
    """Moist air from dry bulb (K) and humidity ratio (kg/kg)."""
    return MoistAir(
        dry_bulb_k=dry_bulb_k,
        humidity_ratio=humidity_ratio,
        barometer_pa=barometer_pa,
        enthalpy_j_kg=psychrolib.GetMoistAirEnthalpy(dry_bulb_k - 273.15, humidity_ratio),
    )


def cooled_or_warmed(moist: MoistAir, dry_bulb_k: float) -> MoistAir:
    """The air at another dry bulb (K) with the water it has, or as much of it as it can hold there."""
    saturated = psychrolib.GetSatHumRatio(dry_bulb_k - 273.15, moist.barometer_pa)
    return from_humidity_ratio(dry_bulb_k, min(moist.humidity_ratio, saturated), moist.barometer_pa)


@lru_cache(maxsize=4096)
def as_humid(moist: MoistAir, warmer_k: float) -> MoistAir:
    """The air warmer by ``warmer_k`` (K) at the same relative humidity."""
    warm_k = moist.dry_bulb_k + warmer_k
    ratio = psychrolib.GetHumRatioFromRelHum(warm_k - 273.15, min(moist.relative_humidity, 1.0), moist.barometer_pa)
    return from_humidity_ratio(warm_k, ratio, moist.barometer_pa)


def from_enthalpy(dry_bulb_k: float, enthalpy_j_kg: float, max_humidity_ratio: float, barometer_pa: float) -> MoistAir:
    """Moist air from dry bulb and enthalpy, never wetter than ``max_humidity_ratio``. Air that would be wetter than
    saturated at that dry bulb is saturated and so much warmer that its enthalpy is met.
    """
    ratio = psychrolib.GetHumRatioFromEnthalpyAndTDryBulb(enthalpy_j_kg, dry_bulb_k - 273.15)
    saturated = psychrolib.GetSatHumRatio(dry_bulb_k - 273.15, barometer_pa)
    if min(ratio, max_humidity_ratio) <= saturated:
        return from_humidity_ratio(dry_bulb_k, max(0.0, min(ratio, max_humidity_ratio)), barometer_pa)
    low, high = dry_bulb_k, dry_bulb_k + SATURATION_STEP_K
    for _ in range(30):
        middle = 0.5 * (low + high)
        under = psychrolib.GetSatAirEnthalpy(middle - 273.15, barometer_pa) < enthalpy_j_kg
        low, high = (middle, high) if under else (low, middle)
    wet = min(psychrolib.GetSatHumRatio(low - 273.15, barometer_pa), max_humidity_ratio)
    return from_humidity_ratio(low, wet, barometer_pa)


@lru_cache(maxsize=64)
def saturated_enthalpy(barometer_pa: float) -> np.ndarray:
    """Enthalpy of saturated air, J/kg, every kelvin from 203.15 to 333.15 K (ice below 0 degC)."""
    temperatures = np.arange(SATURATED_MIN_K, SATURATED_MAX_K + 0.5, SATURATED_STEP_K) - 273.15
    return np.array([psychrolib.GetSatAirEnthalpy(float(t), barometer_pa) for t in temperatures])
