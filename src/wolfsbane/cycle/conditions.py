"""The weather, the house or the box, and the water: what the machine works against."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import air, units
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.psychrometrics import psychrolib

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: assumed humidity of outdoor air and of boxes where nothing is said (share of saturation)
OUTDOOR_HUMIDITY, COOLER_HUMIDITY, FREEZER_HUMIDITY, REACH_IN_HUMIDITY = 0.40, 0.85, 0.75, 0.60
#: application -> (lowest, highest) box temperature in degrees F
BOX_RANGES_F = {"walk_in_cooler": (28.0, 65.0), "walk_in_freezer": (-25.0, 40.0), "reach_in": (-10.0, 75.0)}
_UNIT_SLIP = "; is it in degrees C?"


@lru_cache(maxsize=1024)
def _outdoor_wet_bulb_k(outdoor_k: float, barometer_pa: float) -> float:
    """The library searches for it, and every wet condenser in one weather asks for the same."""
    return psychrolib.GetTWetBulbFromRelHum(outdoor_k - 273.15, OUTDOOR_HUMIDITY, barometer_pa) + 273.15


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """Outdoor dry bulb, air to the indoor coil (dry and wet bulb) in K, barometer Pa, water in K. Build with
    :func:`conditions`.

    For a refrigerated box ``return_k`` is the box air; ``outdoor_k`` is the air around the condensing unit.
    """

    outdoor_k: float
    return_k: float
    return_wet_bulb_k: float
    barometer_pa: float = units.STANDARD_ATMOSPHERE_PA
    water_in_k: float | None = None

    @property
    def return_air(self) -> Any:
        """The return air as :class:`wolfsbane.cycle.air.MoistAir`."""
        return air.from_wet_bulb(self.return_k, self.return_wet_bulb_k, self.barometer_pa)

    @property
    def outdoor_wet_bulb_k(self) -> float:
        """Outdoor wet bulb at the assumed humidity, K."""
        return _outdoor_wet_bulb_k(self.outdoor_k, self.barometer_pa)

    @property
    def air_density_ratio(self) -> float:
        """Air density against sea level; fans move volume, so air mass follows it."""
        return self.barometer_pa / units.STANDARD_ATMOSPHERE_PA


def _hinted(name: str, value: float, low: int, high: int) -> float:
    """A temperature in range, with a hint where the number would do in degrees C."""
    try:
        return require_range(name, value, low, high, "°F")
    except BadInputError as error:
        slip = isinstance(value, (int, float)) and not isinstance(value, bool) and low <= value * 1.8 + 32 <= high
        if slip:
            raise BadInputError(
                name, value, error.allowed + f" ({value:g} °C would be {value * 1.8 + 32:.0f} °F" + _UNIT_SLIP + ")"
            ) from None
        raise


def conditions(
    *, outdoor_db_f: Any, return_db_f: Any, return_wb_f: Any, altitude_ft: float = 0.0, water_in_f: Any = None
) -> Conditions:
    """Checked conditions of a machine that cools rooms, from degrees F and feet.

    Outdoor 55-125 F, return 60-100 F, wet bulb 45 F to the dry bulb, altitude -500 to 10,000 ft, water 45-110 F; raises
    BadInputError.
    """
    outdoor_db_f = _hinted("outdoor_db_f", outdoor_db_f, 55, 125)
    return_db_f = _hinted("return_db_f", return_db_f, 60, 100)
    return_wb_f = _hinted("return_wb_f", return_wb_f, 45, 85)
    barometer_pa = _barometer_pa(altitude_ft)
    if return_wb_f > return_db_f:
        raise BadInputError("return_wb_f", return_wb_f, f"at most the return dry bulb, {return_db_f:g} °F")
    return Conditions(
        outdoor_k=units.f_to_k(outdoor_db_f),
        return_k=units.f_to_k(return_db_f),
        return_wet_bulb_k=units.f_to_k(return_wb_f),
        barometer_pa=barometer_pa,
        water_in_k=_water_k(water_in_f),
    )


def box_conditions(*, application: Any, outdoor_db_f: Any, box_f: Any, altitude_ft: float = 0.0) -> Conditions:
    """Checked conditions of a refrigerated box: air round the condensing unit -10 to 125 F (reach-in 60-110 F), box air
    in the range of :data:`BOX_RANGES_F`, at an assumed humidity. Raises BadInputError.
    """
    low, high = (60, 110) if application == "reach_in" else (-10, 125)
    outdoor_db_f = _hinted("outdoor_db_f", outdoor_db_f, low, high)
    box_f = require_range("box_f", box_f, *BOX_RANGES_F[application], "°F")
    barometer_pa = _barometer_pa(altitude_ft)
    box_k = units.f_to_k(box_f)
    return Conditions(
        outdoor_k=units.f_to_k(outdoor_db_f),
        return_k=box_k,
        barometer_pa=barometer_pa,
        return_wet_bulb_k=box_wet_bulb_k(application, box_k, barometer_pa),
    )


def box_wet_bulb_k(application: str, box_k: float, barometer_pa: float) -> float:
    """Wet bulb of the air in a box at its assumed humidity, K."""
    humidity = {"walk_in_cooler": COOLER_HUMIDITY, "walk_in_freezer": FREEZER_HUMIDITY}.get(
        application, REACH_IN_HUMIDITY
    )
    return psychrolib.GetTWetBulbFromRelHum(box_k - 273.15, humidity, barometer_pa) + 273.15


def for_machine(
    machine: Machine,
    *,
    outdoor_db_f: Any,
    return_db_f: Any = None,
    return_wb_f: Any = None,
    box_f: Any = None,
    water_in_f: Any = None,
    altitude_ft: float = 0.0,
) -> Conditions:
    """Checked conditions for one machine: asks for what this machine needs and refuses what it has no use for.

    Raises BadInputError naming the field.
    """
    if machine.in_heating:
        from wolfsbane.cycle.heating import heating_conditions  # which solves, and few processes heat

        for name, value in (("box_f", box_f), ("water_in_f", water_in_f)):
            if value is not None:
                raise BadInputError(name, value, "nothing in heating")
        if return_db_f is None:
            raise BadInputError("return_db_f", return_db_f, "a number from 55 to 85 °F in heating")
        return heating_conditions(
            outdoor_db_f=outdoor_db_f, return_db_f=return_db_f, return_wb_f=return_wb_f, altitude_ft=altitude_ft
        )
    if machine.condenser == "water_cooled":
        if water_in_f is None:
            raise BadInputError(
                "water_in_f", water_in_f, f"a number from 45 to 110 °F: {machine.id} is cooled by water"
            )
    elif water_in_f is not None:
        raise BadInputError("water_in_f", water_in_f, f"nothing: {machine.id} is cooled by air")
    if machine.refrigeration:
        if box_f is None:
            low, high = BOX_RANGES_F[machine.application]
            raise BadInputError("box_f", box_f, f"a number from {low:g} to {high:g} °F: {machine.id} cools a box")
        for name, value in (("return_db_f", return_db_f), ("return_wb_f", return_wb_f)):
            if value is not None:
                raise BadInputError(name, value, f"nothing: {machine.id} cools a box; give box_f instead")
        return box_conditions(
            application=machine.application, outdoor_db_f=outdoor_db_f, box_f=box_f, altitude_ft=altitude_ft
        )
    if box_f is not None:
        raise BadInputError("box_f", box_f, f"nothing: {machine.id} cools rooms; give return_db_f and return_wb_f")
    for name, value in (("return_db_f", return_db_f), ("return_wb_f", return_wb_f)):
        if value is None:
            raise BadInputError(name, value, "a number in °F: this machine cools rooms")
    return conditions(
        outdoor_db_f=outdoor_db_f,
        return_db_f=return_db_f,
        return_wb_f=return_wb_f,
        altitude_ft=altitude_ft,
        water_in_f=water_in_f,
    )


def _barometer_pa(altitude_ft: float) -> float:
    altitude_ft = require_range("altitude_ft", altitude_ft, -500, 10_000, "ft")
    return units.barometer_at_altitude_pa(altitude_ft * units.M_PER_FT)


def _water_k(water_in_f: float | None) -> float | None:
    return None if water_in_f is None else units.f_to_k(_hinted("water_in_f", water_in_f, 45, 110))


def rating_conditions(machine: Machine) -> Any:
    """The :class:`Conditions` of the machine's rating point."""
    outdoor_k, return_k, wet_bulb_k, water_k = machine.rating
    return Conditions(outdoor_k=outdoor_k, return_k=return_k, return_wet_bulb_k=wet_bulb_k, water_in_k=water_k)
