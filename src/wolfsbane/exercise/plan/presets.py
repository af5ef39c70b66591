"""Presets of the bench: weathers worth teaching, and sets of faults worth showing. Common practice, no source."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.faults import FAULTS
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.exercise.plan.handles import weather_of

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import FaultKind
    from wolfsbane.cycle.instrument_faults import InstrumentFault
    from wolfsbane.cycle.machine import Machine

#: id, name, what it teaches, handles in degrees F; only handles the machine has are taken, held to their ranges
_WEATHERS: tuple[Any, ...] = (
    ("rated", "Rated day", "Where the nameplate was rated.", {}),
    (
        "design",
        "Hot afternoon",
        "High head, little capacity to spare: faults show early.",
        {"outdoor_db_f": 105, "return_db_f": 80, "return_wb_f": 67, "water_in_f": 90},
    ),
    (
        "mild",
        "Mild morning",
        "Low head: an orifice feeds less and a TXV loses control.",
        {"outdoor_db_f": 70, "return_db_f": 74, "return_wb_f": 62, "water_in_f": 70},
    ),
    (
        "dry",
        "Cold dry house",
        "Low pressures with nothing wrong.",
        {"outdoor_db_f": 85, "return_db_f": 70, "return_wb_f": 54},
    ),
    (
        "humid",
        "Humid house",
        "Latent load: suction up, delta-T down.",
        {"outdoor_db_f": 92, "return_db_f": 80, "return_wb_f": 73},
    ),
    (
        "pull_down",
        "Pull-down",
        "Warm start: everything is high until it has cooled.",
        {"outdoor_db_f": 98, "return_db_f": 90, "return_wb_f": 74, "box_f": 60},
    ),
    ("winter", "Cold outdoors", "Low head on a box that runs all year.", {"outdoor_db_f": 45}),
)
#: the same for a heat pump in heating
_HEATING_WEATHERS: tuple[Any, ...] = (
    ("rated", "Rated day", "Where the nameplate was rated.", {}),
    ("damp", "Just above freezing", "Where the outdoor coil frosts most.", {"outdoor_db_f": 35}),
    ("cold", "Cold morning", "Little heat left to pump: low suction with nothing wrong.", {"outdoor_db_f": 17}),
    ("mild", "Mild day", "Head runs up: more heat than the house wants.", {"outdoor_db_f": 60}),
    (
        "cold_house",
        "House gone cold",
        "Low head until the house has warmed up.",
        {"outdoor_db_f": 30, "return_db_f": 58},
    ),
)
#: weathers that only make sense for rooms, and only for boxes
_ROOMS_ONLY, _BOXES_ONLY = ("dry", "humid"), ("winter",)
#: id, name, what it teaches, (fault, level) in the order they are repaired
_FAULTS = (
    (
        "hidden_charge",
        "Low charge behind a dirty condenser",
        "The dirt holds head pressure up and hides the low charge.",
        (("dirty_condenser", "moderate"), ("undercharge", "moderate")),
    ),
    (
        "topped_up",
        "Topped off for low airflow",
        "Somebody added refrigerant to a system that was short of airflow.",
        (("low_airflow", "mild"), ("overcharge", "moderate")),
    ),
    (
        "reaches_for_gas",
        "Looks like low charge, it's the drier",
        "High superheat alone says add refrigerant; subcooling says no.",
        (("liquid_line_restriction", "moderate"),),
    ),
    (
        "floods",
        "Valve floods",
        "Superheat and subcooling call for opposite corrections.",
        (("valve_overfeeding", "moderate"),),
    ),
    ("worn", "Worn compressor", "Suction up, head down: not the charge.", (("leaking_compressor_valves", "moderate"),)),
    (
        "liar",
        "The gauge is off",
        "Nothing wrong, but read with a gauge that was never zeroed.",
        (("gauge_not_zeroed", "severe"),),
    ),
    (
        "bad_clamp",
        "Low charge and a loose clamp",
        "Check two thermometers before one conclusion.",
        (("undercharge", "moderate"), ("clamp_loose", "moderate")),
    ),
)


def _kind(fault_id: str) -> FaultKind | InstrumentFault:
    return FAULTS.get(fault_id) or INSTRUMENT_FAULTS[fault_id]


def presets(machine: Machine) -> dict[str, list[dict[str, Any]]]:
    """Presets that fit ``machine``: {"weather": [{id, name, why, values}], "faults": [{id, name, why, faults}]}.

    ``values`` has every handle of the machine in degrees F; ``faults`` rows are {id, severity} in each fault's own
    unit.
    """
    weathers = []
    for id_, name, why, wanted in _HEATING_WEATHERS if machine.in_heating else _WEATHERS:
        if id_ in (_ROOMS_ONLY if machine.refrigeration else _BOXES_ONLY) or (
            id_ == "winter" and machine.application == "reach_in"
        ):
            continue
        values = {
            row["field"]: min(max(wanted.get(row["field"], row["rated"]), row["low"]), row["high"])
            for row in weather_of(machine)
        }
        weathers.append({"id": id_, "name": name, "why": why, "values": values})

    def fits(fault_id: str) -> Any:
        if machine.in_heating and fault_id == "dirty_condenser":
            return False  # outdoors it evaporates: it hides nothing there
        return fault_id in INSTRUMENT_FAULTS or FAULTS[fault_id].suits(machine)

    sets = [
        {
            "id": id_,
            "name": name,
            "why": why,
            "faults": [{"id": f, "severity": getattr(_kind(f), level)} for f, level in rows],
        }
        for id_, name, why, rows in _FAULTS
        if all(fits(f) for f, _ in rows)
    ]
    return {"weather": weathers, "faults": sets}
