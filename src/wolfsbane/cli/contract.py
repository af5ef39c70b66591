"""The answers of the command line as plain data, in the units and under the keys that other programs may rely on."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import units
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import FAULTS, NONE, Fault, fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, disturb, scale_of
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.profiles import MACHINES, machine
from wolfsbane.cycle.properties import refrigerant

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine


def _gauge_psi(pressure_pa: float, barometer_pa: float = units.STANDARD_ATMOSPHERE_PA) -> float:
    return units.to_display("pressure", pressure_pa, "us", barometer_pa)


def _df(value_dk: Any) -> Any:
    return None if value_dk is None else round(value_dk * 1.8, 1)


def machine_rows() -> Any:
    """Every profile with its plate; a superheat window is [low, high]."""
    rows = []
    for m in MACHINES.values():
        plate, window = m.plate, m.plate.target_superheat_dk
        rows.append(
            {
                "id": m.id,
                "name": m.name,
                "refrigerant": m.refrigerant,
                "metering": m.metering,
                "application": m.application,
                "condenser": m.condenser,
                "receiver": m.receiver,
                "circuits": m.circuits,
                "capacity_btuh": round(plate.capacity_w / units.W_PER_BTUH),
                "factory_charge_oz": round(plate.factory_charge_kg / units.KG_PER_OZ, 1),
                "charge_oz_per_ft": round(plate.charge_per_line_kg_m * units.M_PER_FT / units.KG_PER_OZ, 2),
                "standard_line_ft": round(plate.standard_line_m / units.M_PER_FT, 1),
                "plate_subcooling_df": _df(plate.target_subcooling_dk),
                "plate_superheat_df": None if window is None else [_df(v) for v in window],
                "rated_a": plate.rated_amps,
                "overload_a": plate.overload_amps,
                "high_cutout_psig": round(plate.high_cutout_gauge_pa / units.PA_PER_PSI, 1),
                "low_cutout_psig": round(plate.low_cutout_gauge_pa / units.PA_PER_PSI, 1),
                "discharge_cutout_f": round(units.k_to_f(plate.discharge_cutout_k), 1),
                "design_airflow_cfm": round(plate.design_airflow_m3_s / units.M3_S_PER_CFM),
                "max_static_inwc": (
                    None if plate.max_static_pa is None else round(plate.max_static_pa / units.PA_PER_INWC, 2)
                ),
                "safety_class": refrigerant(m.refrigerant).safety_class,
                "notes": m.notes,
            }
        )
    return rows


def fault_rows() -> Any:
    """Every fault with its parameter, unit, named levels and causes; ``none`` first, instrument faults last."""
    rows: list[dict[str, Any]] = [
        {
            "id": NONE,
            "parameter": None,
            "unit": None,
            "mild": None,
            "moderate": None,
            "severe": None,
            "causes": [],
            "acts_on": None,
        }
    ]
    for acts_on, kinds in (("machine", FAULTS), ("reading", INSTRUMENT_FAULTS)):
        for k in kinds.values():
            rows.append(
                {
                    "id": k.id,
                    "parameter": k.parameter,
                    "unit": k.unit,
                    "mild": k.mild,
                    "moderate": k.moderate,
                    "severe": k.severe,
                    "causes": [c.id for c in k.causes],
                    "acts_on": acts_on,
                }
            )
    return rows


def fault_card(fault_id: str) -> Any:
    """All the catalog says of one fault: effect, causes with what a look shows, tests that tell it apart, remedy,
    hazard, rig.

    Raises BadInputError for an unknown one.
    """
    if fault_id in INSTRUMENT_FAULTS:
        k = INSTRUMENT_FAULTS[fault_id]
        more: dict[str, Any] = {"acts_on": "reading", "seen": k.seen, "remedy": k.remedy, "rig": k.rig}
    else:
        k = _machine_fault(fault_id)
        more = {
            "acts_on": k.part,
            "stands_on": k.suits_text,
            "effect": k.effect,
            "tests": list(k.tests),
            "looks_like_on_gauges": k.stands_for or None,
            "remedy": k.remedy,
            "hazard": k.hazard,
            "rig": {
                "plant": k.rig.plant or None,
                "undo": k.rig.undo or None,
                "settle_min": k.rig.settle_min,
                "limits": k.rig.limits,
            },
        }
    return {
        "id": k.id,
        "name": k.name,
        "parameter": k.parameter,
        "unit": k.unit,
        "fault_free": k.fault_free,
        "limit": k.limit,
        "mild": k.mild,
        "moderate": k.moderate,
        "severe": k.severe,
        "causes": {c.id: c.look for c in k.causes},
        **more,
    }


def pressure_temperature(name: str, *, psig: Any = None, f: Any = None, c: Any = None) -> dict[str, float]:
    """Dew and bubble temperature at a gauge pressure, or the gauge pressures at a temperature. Sea level."""
    fluid = refrigerant(name)
    if psig is not None:
        pressure = units.from_display("pressure", psig, "us")
        low, high = (_gauge_psi(p) for p in (fluid.min_pa, fluid.max_pa))
        if not low <= psig <= high:
            raise BadInputError("psig", psig, f"{low:.1f} to {high:.1f} psig for {name}")
        dew, bubble = fluid.saturation_k(pressure, "dew"), fluid.saturation_k(pressure, "bubble")
        return {
            "dew_f": round(units.k_to_f(dew), 2),
            "bubble_f": round(units.k_to_f(bubble), 2),
            "dew_c": round(units.k_to_c(dew), 2),
            "bubble_c": round(units.k_to_c(bubble), 2),
        }
    temperature = units.f_to_k(f) if f is not None else units.c_to_k(c)
    low = max(fluid.saturation_k(fluid.min_pa * 1.0001, p) for p in ("dew", "bubble"))
    high = min(fluid.saturation_k(fluid.max_pa * 0.9999, p) for p in ("dew", "bubble"))
    if not low <= temperature <= high:
        field, value, show = ("f", f, units.k_to_f) if f is not None else ("c", c, units.k_to_c)
        raise BadInputError(field, value, f"{show(low):.1f} to {show(high):.1f} °{field.upper()} for {name}")
    dew, bubble = fluid.saturation_pa(temperature, "dew"), fluid.saturation_pa(temperature, "bubble")
    return {
        "dew_psig": round(_gauge_psi(dew), 2),
        "bubble_psig": round(_gauge_psi(bubble), 2),
        "dew_kpa_gauge": round(units.to_display("pressure", dew, "si"), 1),
        "bubble_kpa_gauge": round(units.to_display("pressure", bubble, "si"), 1),
    }


def parse_fault(text: str, on: Machine | None = None) -> Any:
    """``ID``, ``ID:LEVEL`` or ``ID:LEVEL:CAUSE`` to a checked :class:`Fault`, or None for ``none``. Levels are those of
    the machine ``on`` (None: of most machines).

    Raises BadInputError.
    """
    fault_id, _, rest = text.partition(":")
    level, _, cause = rest.partition(":")
    if fault_id == NONE:
        return None
    if fault_id in INSTRUMENT_FAULTS:
        kind: Any = INSTRUMENT_FAULTS[fault_id]
    else:
        kind = _machine_fault(fault_id)
        kind = kind if on is None else kind.on(on)
    fault = Fault(id=fault_id, severity=kind.level(level or "moderate"), cause=cause or None)
    kind.cause(fault.cause)
    return fault


def _machine_fault(fault_id: str) -> Any:
    if fault_id not in FAULTS:
        raise BadInputError("fault", fault_id, ", ".join((NONE, *FAULTS, *INSTRUMENT_FAULTS)))
    return fault_kind(fault_id)


def parted(faults: tuple[Fault, ...]) -> Any:
    """(machine faults, instrument faults) of a mixed tuple."""
    return (
        tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS),
        tuple(f for f in faults if f.id in INSTRUMENT_FAULTS),
    )


#: contract key -> point of measurement, in degrees F
_TEMPERATURES = {
    "suction_line_f": "suction_line",
    "evaporator_outlet_f": "evaporator_outlet",
    "liquid_line_f": "liquid_line",
    "discharge_line_f": "discharge_line",
    "drier_out_f": "drier_out",
    "supply_db_f": "supply_db",
    "evaporator_inlet_f": "evaporator_inlet",
    "condenser_inlet_f": "condenser_inlet",
    "condenser_bend_f": "condenser_bend",
    "condenser_outlet_f": "condenser_outlet",
    "condenser_leaving_air_f": "condenser_leaving_air",
    "condenser_entering_air_f": "condenser_entering_air",
    "suction_before_valve_f": "suction_before_valve",
    "mixed_air_f": "mixed_air",
    "supply_high_f": "supply_high",
    "supply_low_f": "supply_low",
    "water_in_f": "water_in",
    "water_out_f": "water_out",
}


def measured(m: Any, state: Any, faults: tuple[Fault, ...] = (), instrument_faults: Any = ()) -> Any:
    """Unrounded readings and what a technician works out from them, in contract units, under instrument faults."""
    taken = disturb(values(m, state, faults), m, state, instrument_faults)
    pt_scale = refrigerant(scale_of(m, instrument_faults))

    def held(p: Any) -> Any:
        return min(max(p, pt_scale.min_pa), pt_scale.max_pa)

    suction_k = pt_scale.saturation_k(held(taken["suction_pressure"]), "dew")
    liquid_k = pt_scale.saturation_k(held(taken["head_pressure"]), "bubble")
    coil_k = pt_scale.saturation_k(held(state.evaporating_pa), "dew")
    from_k = taken.get("water_in", state.outdoor_k)
    blower_w = m.circuit.blower_w * m.circuits
    row = {
        "suction_psig": _gauge_psi(taken["suction_pressure"], state.barometer_pa),
        "head_psig": _gauge_psi(taken["head_pressure"], state.barometer_pa),
        "suction_saturation_f": units.k_to_f(suction_k),
        "liquid_saturation_f": units.k_to_f(liquid_k),
    }
    row |= {key: units.k_to_f(taken[point]) for key, point in _TEMPERATURES.items() if point in taken}
    row |= {
        "superheat_df": (taken["suction_line"] - suction_k) * 1.8,
        "evaporator_superheat_df": (taken["evaporator_outlet"] - coil_k) * 1.8,
        "subcooling_df": (liquid_k - taken["liquid_line"]) * 1.8,
        "evaporator_td_df": (taken["return_db"] - suction_k) * 1.8,
        "ctoa_df": (liquid_k - from_k) * 1.8,
        "air_delta_t_df": (taken["return_db"] - taken["supply_db"]) * 1.8,
        "drier_drop_df": (taken["liquid_line"] - taken["drier_out"]) * 1.8,
        "condenser_air_rise_df": state.condenser_rise_dk * 1.8,
        "capacity_btuh": state.capacity_w / units.W_PER_BTUH,
        "net_capacity_btuh": (state.capacity_w - blower_w) / units.W_PER_BTUH,
        "power_w": state.power_w,
        "total_power_w": state.power_w + blower_w,
        "compressor_a": taken["compressor_amps"],
    }
    if "airflow" in taken:
        row["airflow_cfm"] = taken["airflow"] / units.M3_S_PER_CFM
    if "static" in taken:
        row["static_inwc"] = taken["static"] / units.PA_PER_INWC
    return row


def solved_row(state: Any, m: Any = None, faults: tuple[Fault, ...] = (), instrument_faults: Any = ()) -> Any:
    """The solved state in contract units; readings are null when the machine cut out,
    ``ranges`` holds what flutters.
    """
    m = m or machine(state.machine_id)
    row = measured(m, state, faults, instrument_faults)
    row = {key: None if state.trip else round(value, 2) + 0.0 for key, value in row.items()}
    if state.swing and not state.trip:
        ends = [measured(m, end, faults, instrument_faults) for end in state.swing]
        row["ranges"] = {
            key: sorted((round(ends[0][key], 2), round(ends[1][key], 2)))
            for key in ends[0]
            if abs(ends[0][key] - ends[1][key]) >= 0.05
        }
    running = not state.trip
    row |= {
        "charge_oz": round(state.charge_kg / units.KG_PER_OZ, 1),
        "frosting": state.frosting and running,
        "flood_back": state.flood_back and running,
        "slugging": state.slugging and running,
        "equal_pressures": state.equalized,
        "converged": abs(state.mass_residual) < 1e-3,
        "sight_glass": None if not running else "bubbles" if state.sight_glass_quality > 1e-3 else "clear",
        "receiver_level_pct": None if state.receiver is None or not running else round(100 * state.receiver.level, 1),
        "condenser_liquid_pct": round(100 * state.condenser_liquid_share, 1) if running else None,
        "evaporator_boiling_pct": round(100 * state.evaporator_boiling_share, 1) if running else None,
        "flash_pct": round(100 * state.valve_inlet_quality, 2) if running else None,
        "energy_residual": state.energy_residual,
        "mass_residual": state.mass_residual,
    }
    if state.trip:
        row["tripped"] = {"cutout": state.trip.cutout, "after_s": round(state.trip.after_s)}
    if state.twin is not None:
        twin = state.twin
        row["second_circuit"] = (
            "off"
            if twin.equalized or twin.trip
            else {
                "suction_psig": round(_gauge_psi(twin.suction_pa, twin.barometer_pa), 2),
                "head_psig": round(_gauge_psi(twin.head_pa, twin.barometer_pa), 2),
            }
        )
    return row


def heating_row(state: Any, m: Any, faults: tuple[Fault, ...] = (), instrument_faults: Any = ()) -> Any:
    """:func:`solved_row` of a machine that heats: its coils have changed places, the readings stand where a technician
    takes them.

    ``capacity_btuh`` is the heat given to the room, ``ctoa_df`` condensing over the room's air, ``evaporator_td_df``
    outdoor air over evaporating, ``air_delta_t_df`` supply over return; ``frost_note`` is set where the outdoor coil
    frosts.
    """
    from wolfsbane.cycle.heating import indoors

    row = solved_row(state, m, faults, instrument_faults)
    if state.trip is None:
        inside = indoors(m, faults, state)
        row |= {
            "supply_db_f": round(units.k_to_f(inside.supply_k), 2),
            "air_delta_t_df": round(1.8 * inside.rise_dk, 2),
            "capacity_btuh": round(inside.heat_w / units.W_PER_BTUH),
            "net_capacity_btuh": round(inside.heat_w / units.W_PER_BTUH),
            "total_power_w": round(state.power_w + m.circuit.condenser_blower_w),
        }
    row["heating"] = True
    row["frost_note"] = "The outdoor coil frosts; its defrost is left out." if row["frosting"] else None
    return row


def read_sentence(sentence: str) -> dict[str, Any]:
    """A request in words, read into a brief: ``brief`` (plain data for ``generate``), ``understood`` (words, field,
    value, text), ``not_understood`` (words), ``nearest`` (words -> what may stand there), ``impossible`` and ``notes``.

    Raises BadInputError for an empty sentence.
    """
    from wolfsbane.exercise.plan.request.read import read_request

    if not sentence.strip():
        raise BadInputError("sentence", sentence, 'words, such as "six calls on walk-ins, level 2 to 4"')
    read = read_request(sentence)
    return {
        "brief": {"title": "A request", **read.brief},
        "understood": [{"words": u.words, "field": u.field, "value": u.value, "text": u.text} for u in read.understood],
        "not_understood": [row.words for row in read.not_understood],
        "nearest": {row.words: row.nearest for row in read.not_understood if row.nearest},
        "impossible": [{"words": row.words, "why": row.why, "nearest": row.nearest} for row in read.impossible],
        "notes": list(read.notes),
    }
