"""A plate and known ratings as somebody types them: checked, with what was not given left out."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.errors import BadInputError, require_range
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.units import KG_PER_OZ, M3_S_PER_CFM, M_PER_FT, PA_PER_PSI, W_PER_BTUH
from wolfsbane.tables import NAMES

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.machine import Machine

SCHEMA = 1
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
_WORDS: dict[str, tuple[str, ...] | None] = {
    "refrigerant": None,
    "metering": METERING,
    "application": APPLICATIONS,
    "condenser": CONDENSERS,
}


@dataclass(frozen=True, kw_only=True)
class KnownPlate:
    """What is known of a machine. Numbers in the unit of their name; None where it is not known."""

    name: str
    model: str
    refrigerant: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    capacity_btuh: float
    factory_charge_oz: float | None = None
    rated_amps: float | None = None
    volts: float | None = None
    plate_subcooling_df: float | None = None
    outdoor_db_f: float | None = None
    return_db_f: float | None = None
    return_wb_f: float | None = None
    box_f: float | None = None
    water_in_f: float | None = None
    subcooling_df: float | None = None
    superheat_df: float | None = None
    evaporator_td_df: float | None = None
    ctoa_df: float | None = None
    air_delta_t_df: float | None = None
    suction_psig: float | None = None
    head_psig: float | None = None
    power_w: float | None = None
    airflow_cfm: float | None = None
    oz_per_ft: float | None = None
    line_ft: float | None = None
    high_cutout_psig: float | None = None
    low_cutout_psig: float | None = None

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
        return {"schema": SCHEMA} | {
            f.name: getattr(self, f.name) for f in fields(self) if getattr(self, f.name) is not None
        }


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
    if not isinstance(data, dict):
        raise BadInputError("plate", type(data).__name__, "a JSON object")
    data = dict(data)
    if data.pop("schema", SCHEMA) != SCHEMA:
        raise BadInputError("schema", "other", str(SCHEMA))
    known = {f.name for f in fields(KnownPlate)}
    for key in data:
        if key not in known:
            raise BadInputError(key, data[key], "one of " + ", ".join(sorted(known)))
    name = str(data.get("name") or "").strip()
    if not 1 <= len(name) <= 80:
        raise BadInputError("name", data.get("name"), "1 to 80 characters")
    made: dict[str, Any] = {"name": name, "model": str(data.get("model") or name)[:40]}
    for key, words in _WORDS.items():
        allowed = tuple(NAMES) if words is None else words
        value = data.get(key, {"application": "air_conditioner", "condenser": "tube_and_fin"}.get(key))
        if value not in allowed:
            raise BadInputError(key, value, ", ".join(allowed))
        made[key] = value
    made["receiver"] = data.get("receiver", made["application"].startswith("walk_in"))
    if not isinstance(made["receiver"], bool):
        raise BadInputError("receiver", made["receiver"], "true or false")
    for key, (low, high, unit) in NUMBERS.items():
        if data.get(key) is not None:
            made[key] = require_range(key, data[key], low, high, unit)
    if "capacity_btuh" not in made:
        raise BadInputError("capacity_btuh", None, "a number from 500 to 240000 Btu/h: without it there is no size")
    _fitting(made)
    return KnownPlate(**made)


def _fitting(made: dict[str, Any]) -> None:
    """Words that do not go together, and weather a machine has no use for."""
    refrigeration = made["application"] in ("walk_in_cooler", "walk_in_freezer", "reach_in")
    if made["metering"] == "capillary" and made["application"] != "reach_in":
        raise BadInputError(
            "metering",
            "capillary",
            "txv, eev or fixed_orifice on this kind of machine: a capillary belongs to a reach_in",
        )
    if made["receiver"] and made["metering"] not in ("txv", "eev"):
        raise BadInputError("receiver", True, "false: a receiver wants a valve")
    if made["condenser"] == "water_cooled" and refrigeration:
        raise BadInputError("condenser", "water_cooled", "tube_and_fin or microchannel on a refrigerated box")
    for key in ("return_db_f", "return_wb_f") if refrigeration else ("box_f",):
        if key in made:
            raise BadInputError(
                key, made[key], "nothing: this machine cools " + ("a box" if refrigeration else "rooms")
            )
    if "water_in_f" in made and made["condenser"] != "water_cooled":
        raise BadInputError("water_in_f", made["water_in_f"], "nothing: this machine is cooled by air")


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

    return min(MACHINES.values(), key=far)
