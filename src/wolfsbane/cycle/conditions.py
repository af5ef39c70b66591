"""The weather and the house: what the machine works against."""

from dataclasses import dataclass

from wolfsbane.cycle import air, units
from wolfsbane.cycle.errors import BadInputError, require_range


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """Outdoor dry bulb, return dry and wet bulb in K, barometer in Pa. Build with :func:`conditions`."""

    outdoor_k: float
    return_k: float
    return_wet_bulb_k: float
    barometer_pa: float = units.STANDARD_ATMOSPHERE_PA

    @property
    def return_air(self):
        """The return air as :class:`wolfsbane.cycle.air.MoistAir`."""
        return air.from_wet_bulb(self.return_k, self.return_wet_bulb_k, self.barometer_pa)

    @property
    def air_density_ratio(self):
        """Air density against sea level; fans move volume, so air mass follows it."""
        return self.barometer_pa / units.STANDARD_ATMOSPHERE_PA


def conditions(*, outdoor_db_f, return_db_f, return_wb_f, altitude_ft=0.0):
    """Checked conditions from degrees F and feet.

    Outdoor 55-125 F, return 60-100 F, wet bulb 45 F to the dry bulb, altitude -500 to 10,000 ft; raises BadInputError.
    """
    outdoor_db_f = require_range("outdoor_db_f", outdoor_db_f, 55, 125, "°F")
    return_db_f = require_range("return_db_f", return_db_f, 60, 100, "°F")
    return_wb_f = require_range("return_wb_f", return_wb_f, 45, 85, "°F")
    altitude_ft = require_range("altitude_ft", altitude_ft, -500, 10_000, "ft")
    if return_wb_f > return_db_f:
        raise BadInputError("return_wb_f", return_wb_f, f"at most the return dry bulb, {return_db_f:g} °F")
    return Conditions(
        outdoor_k=units.f_to_k(outdoor_db_f), return_k=units.f_to_k(return_db_f),
        return_wet_bulb_k=units.f_to_k(return_wb_f),
        barometer_pa=units.barometer_at_altitude_pa(altitude_ft * units.M_PER_FT))
