"""Schools of practice: the band each figure should lie in, for this machine in this weather."""

from dataclasses import dataclass

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.units import c_to_k, k_to_f

FIGURES = ("superheat", "subcooling", "evaporator_td", "ctoa")
LOW, RIGHT, HIGH = "low", "right", "high"


@dataclass(frozen=True, kw_only=True)
class School:
    """Target bands of one school of practice; temperature differences in degrees F (``_df``)."""

    id: str
    name: str
    subcooling_tolerance_df: float
    subcooling_without_plate_df: tuple[float, float]
    orifice_superheat_tolerance_df: float
    valve_superheat_df: tuple[float, float]
    orifice_subcooling_df: tuple[float, float]
    evaporator_td_df: tuple[float, float]
    ctoa_df: tuple[float, float]
    drier_limit_df: float


#: common practice, no source. CTOA is the usual 15-20 with 2 degrees of reading allowance; the subcooling band of an
#: orifice machine is assumed from what the model gives over the weather.
SCHOOLS = {
    "plate_and_formula": School(
        id="plate_and_formula", name="Plate for subcooling, formula for total superheat", subcooling_tolerance_df=3.0,
        subcooling_without_plate_df=(8.0, 12.0), orifice_superheat_tolerance_df=2.0, valve_superheat_df=(10.0, 20.0),
        orifice_subcooling_df=(5.0, 14.0), evaporator_td_df=(30.0, 40.0), ctoa_df=(13.0, 22.0), drier_limit_df=3.0),
}


def school(school_id):
    """The school called ``school_id``; raises BadInputError for an unknown one."""
    if school_id not in SCHOOLS:
        raise BadInputError("school", school_id, ", ".join(SCHOOLS))
    return SCHOOLS[school_id]


@dataclass(frozen=True, kw_only=True)
class Band:
    """Where a figure should lie, in the sheet's unit of difference. ``target`` is the single value asked for, or None."""

    low: float
    high: float
    target: float | None = None

    def verdict(self, value):
        """low, right or high."""
        return LOW if value < self.low else HIGH if value > self.high else RIGHT

    def verdicts_within(self, value, margin):
        """Every verdict an examiner would accept when ``value`` may be off by ``margin``."""
        return {self.verdict(value - margin), self.verdict(value), self.verdict(value + margin)}

    def around(self, target):
        """The same width around another target: what follows from a student's own target."""
        if self.target is None:
            return self
        shift = target - self.target
        return Band(low=self.low + shift, high=self.high + shift, target=target)


def total_superheat_target_df(return_wet_bulb_f, outdoor_db_f):
    """Target total superheat of a fixed orifice, degrees F: (3 WB - 80 - OD) / 2. Common practice, no source."""
    return (3.0 * return_wet_bulb_f - 80.0 - outdoor_db_f) / 2.0


def target_question(metering):
    """Which figure the machine is charged by: subcooling on a valve, superheat on an orifice."""
    return "superheat" if metering == "fixed_orifice" else "subcooling"


def bands(metering, plate_subcooling_df, practice, system, outdoor_db, return_wb):
    """Band for each figure in FIGURES, in the display unit of ``system`` (us or si).

    ``outdoor_db`` and ``return_wb`` are as printed on the sheet, in its unit.
    """
    k = 1.0 if system == "us" else 1.0 / 1.8
    as_f = (lambda t: t) if system == "us" else (lambda t: k_to_f(c_to_k(t)))
    pair = lambda limits: Band(low=limits[0] * k, high=limits[1] * k)  # noqa: E731
    found = {"evaporator_td": pair(practice.evaporator_td_df), "ctoa": pair(practice.ctoa_df)}
    if metering == "fixed_orifice":
        target = total_superheat_target_df(as_f(return_wb), as_f(outdoor_db))
        tolerance = practice.orifice_superheat_tolerance_df
        found["superheat"] = Band(low=(target - tolerance) * k, high=(target + tolerance) * k, target=target * k)
        found["subcooling"] = pair(practice.orifice_subcooling_df)
    else:
        found["superheat"] = pair(practice.valve_superheat_df)
        if plate_subcooling_df is None:
            low, high = practice.subcooling_without_plate_df
            target, tolerance = 0.5 * (low + high), 0.5 * (high - low)
        else:
            target, tolerance = plate_subcooling_df, practice.subcooling_tolerance_df
        found["subcooling"] = Band(low=(target - tolerance) * k, high=(target + tolerance) * k, target=target * k)
    return found
