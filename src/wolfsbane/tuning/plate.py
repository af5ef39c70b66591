"""A plate and known ratings as somebody types them: checked, with what was not given left out."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Annotated, Any

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.fields import Accept, Format, flag, number, optional, text, usual, word
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import KG_PER_OZ, M3_S_PER_CFM, M_PER_FT, PA_PER_PSI, W_PER_BTUH
from wolfsbane.tables import NAMES

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine

APPLICATIONS = ("air_conditioner", "heat_pump_cooling", "package_unit", "walk_in_cooler", "walk_in_freezer", "reach_in")
METERING = ("txv", "eev", "fixed_orifice", "capillary")
CONDENSERS = ("tube_and_fin", "microchannel", "water_cooled")
#: number -> (lowest, highest, unit); what a plate, a data sheet or a commissioning record tells
NUMBERS = {
    "capacity_btuh": (500, 240_000, "Btu/h"),
    "factory_charge_oz": (0.5, 1600, "oz"),
    "rated_amps": (0.5, 200, "A"),
    "volts": (100, 600, "V"),
    "plate_subcooling_df": (0, 30, "°F"),
    "outdoor_db_f": (55, 115, "°F"),
    "return_db_f": (60, 95, "°F"),
    "return_wb_f": (45, 85, "°F"),
    "box_f": (-20, 60, "°F"),
    "water_in_f": (50, 100, "°F"),
    "subcooling_df": (0, 30, "°F"),
    "superheat_df": (0, 50, "°F"),
    "evaporator_td_df": (4, 60, "°F"),
    "ctoa_df": (3, 50, "°F"),
    "air_delta_t_df": (3, 40, "°F"),
    "suction_psig": (-15, 250, "psig"),
    "head_psig": (20, 620, "psig"),
    "power_w": (50, 60_000, "W"),
    "airflow_cfm": (20, 12_000, "cfm"),
    "oz_per_ft": (0, 2, "oz/ft"),
    "line_ft": (0, 100, "ft"),
    "high_cutout_psig": (50, 700, "psig"),
    "low_cutout_psig": (-20, 150, "psig"),
}
#: the weather ratings are stated in where nothing is said, degrees F (AHRI 210/240 cooling test A, from memory;
#: refrigeration usual)
USUAL = {
    "room": {"outdoor_db_f": 95.0, "return_db_f": 80.0, "return_wb_f": 67.0},
    "walk_in_cooler": {"outdoor_db_f": 95.0, "box_f": 38.0},
    "walk_in_freezer": {"outdoor_db_f": 95.0, "box_f": 0.0},
    "reach_in": {"outdoor_db_f": 85.0, "box_f": 38.0},
}


def _stated(name: str) -> Accept:
    """The number called ``name``, or null where nobody knows it."""
    return optional(number(*NUMBERS[name]))


@dataclass(frozen=True, kw_only=True)
class KnownPlate:
    """What is known of a machine. Numbers in the unit of their name; None where it is not known."""

    name: Annotated[str, text(1, 80, strip=True)]
    refrigerant: Annotated[str, word(NAMES)]
    metering: Annotated[str, word(METERING)]
    capacity_btuh: Annotated[float, number(*NUMBERS["capacity_btuh"])]
    model: Annotated[str, usual(text(0, 200), "")] = ""
    application: Annotated[str, word(APPLICATIONS)] = "air_conditioner"
    condenser: Annotated[str, word(CONDENSERS)] = "tube_and_fin"
    receiver: Annotated[bool | None, optional(flag())] = None
    factory_charge_oz: Annotated[float | None, _stated("factory_charge_oz")] = None
    rated_amps: Annotated[float | None, _stated("rated_amps")] = None
    volts: Annotated[float | None, _stated("volts")] = None
    plate_subcooling_df: Annotated[float | None, _stated("plate_subcooling_df")] = None
    outdoor_db_f: Annotated[float | None, _stated("outdoor_db_f")] = None
    return_db_f: Annotated[float | None, _stated("return_db_f")] = None
    return_wb_f: Annotated[float | None, _stated("return_wb_f")] = None
    box_f: Annotated[float | None, _stated("box_f")] = None
    water_in_f: Annotated[float | None, _stated("water_in_f")] = None
    subcooling_df: Annotated[float | None, _stated("subcooling_df")] = None
    superheat_df: Annotated[float | None, _stated("superheat_df")] = None
    evaporator_td_df: Annotated[float | None, _stated("evaporator_td_df")] = None
    ctoa_df: Annotated[float | None, _stated("ctoa_df")] = None
    air_delta_t_df: Annotated[float | None, _stated("air_delta_t_df")] = None
    suction_psig: Annotated[float | None, _stated("suction_psig")] = None
    head_psig: Annotated[float | None, _stated("head_psig")] = None
    power_w: Annotated[float | None, _stated("power_w")] = None
    airflow_cfm: Annotated[float | None, _stated("airflow_cfm")] = None
    oz_per_ft: Annotated[float | None, _stated("oz_per_ft")] = None
    line_ft: Annotated[float | None, _stated("line_ft")] = None
    high_cutout_psig: Annotated[float | None, _stated("high_cutout_psig")] = None
    low_cutout_psig: Annotated[float | None, _stated("low_cutout_psig")] = None

    @property
    def refrigeration(self) -> bool:
        """True for machines that cool a box."""
        return self.application in ("walk_in_cooler", "walk_in_freezer", "reach_in")

    def conditions(self, like: Machine) -> Conditions:
        """The weather the ratings are stated in, as :class:`Conditions` of a machine of the kind of ``like``."""
        given: dict[str, Any] = {
            k: getattr(self, k) for k in ("outdoor_db_f", "return_db_f", "return_wb_f", "box_f", "water_in_f")
        }
        usual: dict[str, float] = USUAL[self.application] if self.refrigeration else USUAL["room"]
        if self.condenser == "water_cooled":
            usual = usual | {"water_in_f": 85.0}
        given = {k: v if v is not None else usual.get(k) for k, v in given.items()}
        return for_machine(like, outdoor_db_f=given.pop("outdoor_db_f"), **given)

    def to_json(self) -> dict[str, Any]:
        """Plain data, what is not known left out."""
        return {name: value for name, value in PLATE.write(self).items() if value is not None}


PLATE = Format(KnownPlate, "plate", "A nameplate and what ratings are known of the machine", version=1)


#: unit here -> (unit in SI, size of one unit here in it, offset added before)
_SI = {
    "Btu/h": ("kW", W_PER_BTUH / 1000.0, 0.0),
    "oz": ("g", 1000.0 * KG_PER_OZ, 0.0),
    "psig": ("kPa", PA_PER_PSI / 1000.0, 0.0),
    "cfm": ("L/s", 1000.0 * M3_S_PER_CFM, 0.0),
    "oz/ft": ("g/m", 1000.0 * KG_PER_OZ / M_PER_FT, 0.0),
    "ft": ("m", M_PER_FT, 0.0),
}


def _si_unit(name: str, unit: str) -> tuple[str, float, float]:
    """(unit, size, offset) of a number in SI; a temperature has an offset, a difference has none."""
    if unit != "°F":
        return _SI.get(unit, (unit, 1.0, 0.0))
    return ("K", 1.0 / 1.8, 0.0) if name.endswith("_df") else ("°C", 1.0 / 1.8, -32.0)


def to_si(name: str, unit: str, value: float) -> tuple[float, str]:
    """(value, unit) of one of the plate's numbers in SI."""
    shown, size, offset = _si_unit(name, unit)
    return (value + offset) * size, shown


def from_si(data: dict[str, Any]) -> dict[str, Any]:
    """Plain data whose numbers are in SI (kW, g, kPa gauge, degC, K, L/s, m), in the units of their names."""
    found = dict(data)
    for name, (_, _, unit) in NUMBERS.items():
        if isinstance(found.get(name), (int, float)):
            _, size, offset = _si_unit(name, unit)
            found[name] = found[name] / size - offset
    return found


def known_plate(data: dict[str, Any]) -> KnownPlate:
    """A checked :class:`KnownPlate` from plain data. Raises BadInputError naming the field."""
    read = PLATE.read(data)
    plate = replace(
        read,
        model=(read.model or read.name)[:40],
        receiver=read.application.startswith("walk_in") if read.receiver is None else read.receiver,
    )
    _fitting(plate)
    return plate


def _fitting(plate: KnownPlate) -> None:
    """Words that do not go together, and weather a machine has no use for."""
    if plate.metering == "capillary" and plate.application != "reach_in":
        raise BadInputError(
            "metering",
            "capillary",
            "txv, eev or fixed_orifice on this kind of machine: a capillary belongs to a reach_in",
        )
    if plate.receiver and plate.metering not in ("txv", "eev"):
        raise BadInputError("receiver", True, "false: a receiver needs a TXV or an EEV")
    if plate.condenser == "water_cooled" and plate.refrigeration:
        raise BadInputError("condenser", "water_cooled", "tube_and_fin or microchannel on a refrigerated box")
    for key in ("return_db_f", "return_wb_f") if plate.refrigeration else ("box_f",):
        if getattr(plate, key) is not None:
            cools = "a box" if plate.refrigeration else "rooms"
            raise BadInputError(key, getattr(plate, key), f"nothing: this machine cools {cools}")
    if plate.water_in_f is not None and plate.condenser != "water_cooled":
        raise BadInputError("water_in_f", plate.water_in_f, "nothing: this machine is cooled by air")


def template(plate: KnownPlate) -> Machine:
    """The profile a machine of this plate is grown from: device, kind and condenser first,
    then refrigerant and size.
    """

    def far(m: Any) -> Any:
        score = 0.0 if m.metering == plate.metering else 3.0 if {m.metering, plate.metering} == {"txv", "eev"} else 12.0
        score += 0.0 if m.application == plate.application else 40.0 if m.refrigeration != plate.refrigeration else 4.0
        score += 0.0 if m.condenser == plate.condenser else 20.0
        score += 8.0 if m.receiver != plate.receiver else 0.0
        score += 0.0 if m.refrigerant == plate.refrigerant else 2.0
        score += 30.0 if m.circuits == 2 else 0.0
        return (
            score
            + abs(m.plate.capacity_w / W_PER_BTUH / plate.capacity_btuh - 1.0) * 0.2
            + (1.0 if "old" in m.id else 0.0)
        )

    return min((m for m in MACHINES.values() if not m.in_heating), key=far)
