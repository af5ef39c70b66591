"""The machine a fit begins with: a profile of the kind, at the plate's size and with its refrigerant."""

from __future__ import annotations

import json
import math
import re
from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import require_range
from wolfsbane.cycle.fields import Accept, refuse
from wolfsbane.cycle.machine import Expectations, Machine
from wolfsbane.cycle.profiles.plates import plate as made_plate
from wolfsbane.cycle.properties import H_F, H_G, RHO_F, RHO_G, refrigerant, saturation_at
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.units import (
    KG_PER_OZ,
    M3_S_PER_CFM,
    M_PER_FT,
    PA_PER_INWC,
    PA_PER_PSI,
    STANDARD_ATMOSPHERE_PA,
    W_PER_BTUH,
)
from wolfsbane.tuning.figures import PLATE_FIGURES
from wolfsbane.tuning.plate import PLATE, KnownPlate, known_plate, template

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit


#: a valve stands this far open at the rating point
OPENING = 0.75

AIR_DENSITY = 1.2


def base_machine(plate: KnownPlate, like: Machine) -> Machine:
    """The template at the plate's size and with its refrigerant:
    the start of the fit, as a Machine with the plate filled in.
    """
    ratio = plate.capacity_btuh * W_PER_BTUH / like.plate.capacity_w
    circuit = like.circuit.scaled(ratio)
    circuit = circuit._replace(
        receiver_volume_m3=circuit.receiver_volume_m3 * ratio, liquid_line_ua_w_k=circuit.liquid_line_ua_w_k * ratio
    )
    if plate.refrigerant != like.refrigerant:
        circuit = _refilled(circuit, like.refrigerant, plate.refrigerant, 258.0 if plate.refrigeration else 280.0)
    if plate.metering == "fixed_orifice" or plate.metering == "capillary":
        circuit = circuit._replace(valve_fixed_opening=1.0)
    elif like.metering in ("fixed_orifice", "capillary"):
        circuit = circuit._replace(valve_fixed_opening=-1.0, expansion_area_m2=circuit.expansion_area_m2 / OPENING)
    elif like.metering != plate.metering:
        circuit = circuit._replace(
            **(
                {"valve_static_superheat_k": 4.2, "valve_superheat_range_k": 0.9}
                if plate.metering == "eev"
                else {"valve_static_superheat_k": 2.5, "valve_superheat_range_k": 4.5}
            )
        )
    if plate.airflow_cfm is not None:
        circuit = circuit._replace(evaporator_air_kg_s=plate.airflow_cfm * M3_S_PER_CFM * AIR_DENSITY)
    if plate.factory_charge_oz is not None:
        circuit = circuit._replace(charge_kg=plate.factory_charge_oz * KG_PER_OZ)
    amps = plate.rated_amps or like.plate.rated_amps * ratio * (like.volts / (plate.volts or like.volts))
    own = like.plate
    cutouts = (
        (plate.high_cutout_psig if plate.high_cutout_psig is not None else own.high_cutout_gauge_pa / PA_PER_PSI),
        (plate.low_cutout_psig if plate.low_cutout_psig is not None else own.low_cutout_gauge_pa / PA_PER_PSI),
    )
    if plate.refrigerant != like.refrigerant:
        cutouts = _cutouts(plate, like, cutouts)
    written = made_plate(
        model=plate.model,
        btuh=plate.capacity_btuh,
        charge_kg=circuit.charge_kg,
        refrigerant=plate.refrigerant,
        subcooling_df=plate.plate_subcooling_df,
        superheat_df=None if own.target_superheat_dk is None else tuple(v * 1.8 for v in own.target_superheat_dk),
        amps=amps,
        cfm=plate.airflow_cfm or round(circuit.evaporator_air_kg_s / AIR_DENSITY / M3_S_PER_CFM, -1),
        oz_per_ft=plate.oz_per_ft if plate.oz_per_ft is not None else own.charge_per_line_kg_m * M_PER_FT / KG_PER_OZ,
        line_ft=plate.line_ft if plate.line_ft is not None else own.standard_line_m / M_PER_FT,
        cutouts_psig=cutouts,
        static_inwc=None if own.max_static_pa is None else own.max_static_pa / PA_PER_INWC,
    )
    weather = plate.conditions(like)
    slug = re.sub(r"[^a-z0-9]+", "-", plate.name.lower()).strip("-") or "machine"
    return replace(
        like,
        id=f"own-{slug}"[:60],
        name=plate.name,
        refrigerant=plate.refrigerant,
        metering=plate.metering,
        application=plate.application,
        condenser=plate.condenser,
        receiver=bool(plate.receiver),
        volts=plate.volts or like.volts,
        magnetizing_amps=like.magnetizing_amps * amps / own.rated_amps,
        outdoor_fan_w=like.outdoor_fan_w * ratio,
        substitute=_other(plate.refrigerant, like),
        sealed=plate.metering == "capillary",
        circuit=circuit,
        plate=written,
        rating=(weather.outdoor_k, weather.return_k, weather.return_wet_bulb_k, weather.water_in_k),
        notes="Entered from its nameplate; parameters fitted.",
    )


def _other(name: str, like: Machine) -> str:
    return like.substitute if like.substitute != name else like.refrigerant


def _refilled(circuit: Circuit, old: Any, new: Any, evaporating_k: Any) -> Any:
    """First guess for another refrigerant: flow by latent heat, displacement by vapor density,
    opening by flow and pressure.
    """

    def at(name: str) -> Any:
        fluid = refrigerant(name)
        ln_e = math.log(fluid.saturation_pa(evaporating_k, "dew"))
        ln_c = math.log(fluid.saturation_pa(317.0, "bubble"))
        tab = fluid.arrays
        latent = saturation_at(tab, H_G, ln_e) - saturation_at(tab, H_F, ln_c)
        return latent, saturation_at(tab, RHO_G, ln_e), saturation_at(tab, RHO_F, ln_c), math.exp(ln_c)

    (l0, g0, f0, p0), (l1, g1, f1, p1) = at(old), at(new)
    flow = l0 / l1
    return circuit._replace(
        mass_flow_ref_kg_s=circuit.mass_flow_ref_kg_s * flow,
        displacement_m3_s=circuit.displacement_m3_s * flow * g0 / g1,
        expansion_area_m2=circuit.expansion_area_m2 * flow * math.sqrt(f0 * p0 / (f1 * p1)),
        charge_kg=circuit.charge_kg * f1 / f0,
        suction_drop_density_kg_m3=circuit.suction_drop_density_kg_m3 * g1 / g0,
    )


def _cutouts(plate: Any, like: Any, given: Any) -> Any:
    """Cutouts at the saturation temperatures of the template's, for another refrigerant, psig."""
    old, new, found = refrigerant(like.refrigerant), refrigerant(plate.refrigerant), []
    for value, own, field in zip(
        given,
        (like.plate.high_cutout_gauge_pa, like.plate.low_cutout_gauge_pa),
        (plate.high_cutout_psig, plate.low_cutout_psig),
        strict=True,
    ):
        if field is not None:
            found.append(value)
            continue
        t_k = old.saturation_k(min(max(own + STANDARD_ATMOSPHERE_PA, old.min_pa), old.max_pa), "dew")
        low, high = new.saturation_k(new.min_pa * 1.001, "dew"), new.saturation_k(new.max_pa * 0.995, "dew")
        found.append((new.saturation_pa(min(max(t_k, low), high), "dew") - STANDARD_ATMOSPHERE_PA) / PA_PER_PSI)
    return tuple(round(v) for v in found)


def expecting(machine: Machine, found: dict[str, Any]) -> Machine:
    """What one with nothing wrong shows: the template's windows,
    moved where the tuned rating point lies outside them.
    """
    own = machine.expectations

    def window_around(window: Any, value_df: Any) -> Any:
        low, high = window
        value = value_df / 1.8
        return window if low + 0.5 <= value <= high - 0.5 else (value - 0.5 * (high - low), value + 0.5 * (high - low))

    total = own.total_superheat_dk
    return replace(
        machine,
        expectations=Expectations(
            evaporator_td_dk=window_around(own.evaporator_td_dk, found["evaporator_td_df"]),
            ctoa_dk=window_around(own.ctoa_dk, found["ctoa_df"]),
            total_superheat_dk=None if total is None else window_around(total, found["superheat_df"]),
        ),
    )


def _own_machine(data: Any) -> dict[str, Any]:
    if not isinstance(data, dict) or not {"plate", "circuit"} <= set(data):
        raise refuse(type(data).__name__, "plate and circuit as `wolfsbane tune --json` writes them")
    return {"plate": data["plate"], "circuit": data["circuit"]}


#: a machine of the instructor's own as a scenario carries it
OWN_MACHINE = Accept(
    _own_machine,
    {
        "type": "object",
        "required": ["plate", "circuit"],
        "properties": {
            "plate": PLATE.json_schema(),
            "circuit": {"type": "object", "additionalProperties": {"type": "number"}},
        },
    },
)


def restored(data: dict[str, dict[str, Any]]) -> Machine:
    """A machine again from what :meth:`Tuned.to_json` holds, without another fit; its circuit is taken as stored."""
    return _restored(json.dumps([data["plate"], data["circuit"]], sort_keys=True))


@lru_cache(maxsize=256)
def _restored(text: str) -> Machine:
    told, parameters = json.loads(text)
    plate = known_plate(told)
    base = base_machine(plate, template(plate))
    for name, value in parameters.items():
        require_range(f"circuit.{name}", value, -1e9, 1e9, "")
    machine = replace(base, circuit=type(base.circuit)(**parameters))
    state = solve(machine, plate.conditions(machine))
    return expecting(machine, {k: f.of(state, machine) for k, f in PLATE_FIGURES.items()})
