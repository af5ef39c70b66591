"""solve(machine, conditions, faults) -> CircuitState."""

import math

import numpy as np

from wolfsbane.cycle import air
from wolfsbane.cycle.balance import FIGURES
from wolfsbane.cycle.components import CP_AIR
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.newton import CONVERGED, search
from wolfsbane.cycle.properties import H_F, H_G, refrigerant, saturation_at
from wolfsbane.cycle.state import CircuitState, Trip

#: stored with every issued sheet; raise it when any reading could change
SOLVER_VERSION = "1"

_HEAD_TIME_S = 60.0
_SUCTION_TIME_S = 30.0
_DISCHARGE_TIME_S = 240.0
_OUTDOOR_FAN_W = 230.0


def solve(machine, conditions, faults=()):
    """Solve one machine in one weather with any faults.

    ``faults`` is a tuple of :class:`wolfsbane.cycle.faults.Fault`. Returns a :class:`CircuitState`, whose ``trip`` is
    set when a cut-out opens. Raises BadInputError for a fault the machine cannot have and NoConvergenceError, with a
    report, when no balance is found inside the property tables.
    """
    circuit = plant(machine, faults).circuit
    fluid = refrigerant(machine.refrigerant)
    return_air = conditions.return_air
    w = (conditions.outdoor_k, conditions.return_k, return_air.enthalpy_j_kg, conditions.air_density_ratio)
    h_sat = air.saturated_enthalpy(round(conditions.barometer_pa, 1))
    starts = _starts(fluid, conditions)
    x, figures, norm, attempts, evaluations = search(starts, circuit, fluid.arrays, w, h_sat)
    found = dict(zip(FIGURES, figures.tolist(), strict=True))
    if norm >= CONVERGED:
        if x[1] >= fluid.arrays.ln_p_max - 2e-2:
            found["discharge_pa"] = fluid.max_pa
        else:
            raise NoConvergenceError({"machine": machine.id, "attempts": attempts, "best_residual": norm,
                                      "conditions": conditions, "faults": tuple(faults), "x": x.tolist()})
    state = _state(machine, circuit, conditions, return_air, fluid, found, evaluations)
    trip = _trip(machine.plate, state, conditions, fluid, settled=norm < CONVERGED)
    return state if trip is None else _with_trip(state, trip)


def _with_trip(state, trip):
    return CircuitState(**{**state.__dict__, "trip": trip})


def _starts(fluid, conditions):
    """Six guesses (6, 3) around what the weather suggests; pressures from saturation temperatures."""
    rows = []
    for td, ctoa, superheat in ((18.5, 10.0, 6e3), (22.0, 14.0, 1e3), (28.0, 6.0, 2e4), (14.0, 25.0, -1.5e4),
                                (35.0, 4.0, 3e4), (16.0, 8.0, -5e3)):
        pe = fluid.saturation_pa(conditions.return_k - td, "dew")
        pc = fluid.saturation_pa(min(conditions.outdoor_k + ctoa, 337.0), "bubble")
        rows.append((math.log(pe), math.log(pc), saturation_at(fluid.arrays, H_G, math.log(pe)) + superheat))
    return np.array(rows)


def _supply(found, return_air, conditions, blower_w):
    """Mix the two zone airs by area, add the blower, and return (supply MoistAir, sensible W)."""
    boil = found["evaporator_boiling_share"]
    m_air = found["supply_air_kg_s"]
    enthalpy = return_air.enthalpy_j_kg - found["evaporator_heat_w"] / m_air
    mixed_k = boil * found["air_boiling_k"] + (1.0 - boil) * found["air_superheat_k"]
    sensible_w = m_air * CP_AIR * (return_air.dry_bulb_k - mixed_k)
    rise_k = blower_w / (m_air * CP_AIR)
    coil_air = air.from_enthalpy(mixed_k, enthalpy, return_air.humidity_ratio, conditions.barometer_pa)
    return air.from_humidity_ratio(mixed_k + rise_k, coil_air.humidity_ratio, conditions.barometer_pa), sensible_w


def _state(machine, circuit, conditions, return_air, fluid, f, evaluations):
    supply, sensible_w = _supply(f, return_air, conditions, circuit.blower_w)
    suction_saturation_k = fluid.saturation_k(f["suction_pa"], "dew")
    liquid_saturation_k = fluid.saturation_k(min(f["discharge_pa"], fluid.max_pa), "bubble")
    evaporating_k = fluid.saturation_k(f["evaporating_pa"], "dew")
    h_g = float(saturation_at(fluid.arrays, H_G, math.log(f["suction_pa"])))
    h_f = float(saturation_at(fluid.arrays, H_F, math.log(f["suction_pa"])))
    heat_w = f["evaporator_heat_w"]
    closure = heat_w + f["suction_line_gain_w"] + f["work_w"] - f["shell_loss_w"] - f["condenser_air_heat_w"]
    real_w = f["work_w"]
    amps = math.hypot(real_w / (machine.volts * machine.power_factor), machine.magnetising_amps)
    return CircuitState(
        machine_id=machine.id, refrigerant=machine.refrigerant, barometer_pa=conditions.barometer_pa,
        outdoor_k=conditions.outdoor_k, return_air=return_air, supply_air=supply,
        suction_pa=f["suction_pa"], head_pa=f["discharge_pa"], evaporating_pa=f["evaporating_pa"],
        suction_saturation_k=suction_saturation_k, liquid_saturation_k=liquid_saturation_k,
        suction_line_k=f["suction_line_k"], evaporator_outlet_k=f["evaporator_outlet_k"],
        liquid_line_k=f["liquid_line_k"], after_drier_k=f["after_drier_k"], discharge_line_k=f["discharge_k"],
        condenser_air_out_k=f["condenser_air_out_k"],
        superheat_dk=f["suction_line_k"] - suction_saturation_k,
        evaporator_superheat_dk=f["evaporator_outlet_k"] - evaporating_k,
        subcooling_dk=liquid_saturation_k - f["liquid_line_k"],
        mass_flow_kg_s=f["mass_flow_kg_s"], capacity_w=heat_w, sensible_w=min(sensible_w, heat_w), work_w=real_w,
        power_w=real_w + _OUTDOOR_FAN_W, compressor_amps=amps, charge_kg=f["charge_found_kg"],
        condenser_gas_share=f["condenser_gas_share"], condenser_two_phase_share=f["condenser_two_phase_share"],
        evaporator_boiling_share=f["evaporator_boiling_share"], valve_inlet_quality=f["valve_inlet_quality"],
        suction_quality=min(1.0, (f["h_suction"] - h_f) / (h_g - h_f)),
        surface_k=f["surface_k"], frosting=f["surface_k"] < 273.15, flood_back=f["h_suction"] < h_g,
        energy_residual=closure / heat_w, mass_residual=f["charge_found_kg"] / circuit.charge_kg - 1.0,
        evaluations=int(evaluations))


def _rise_time_s(start, end, limit, time_constant_s):
    """Seconds until a first-order approach from ``start`` to ``end`` passes ``limit``."""
    if (end - limit) * (end - start) <= 0:
        return 5.0
    fraction = min(max((limit - start) / (end - start), 0.02), 0.999)
    return max(5.0, 5.0 * round(-time_constant_s * math.log(1.0 - fraction) / 5.0))


def _trip(plate, state, conditions, fluid, *, settled):
    """The first cut-out that opens on the way to ``state``, or None."""
    standing = fluid.saturation_pa(conditions.outdoor_k, "bubble")
    trips = []
    high = plate.high_cutout_gauge_pa + conditions.barometer_pa
    if state.head_pa > high or not settled:
        trips.append(Trip(cutout="high_pressure",
                          after_s=_rise_time_s(standing, state.head_pa, high, _HEAD_TIME_S)))
    low = plate.low_cutout_gauge_pa + conditions.barometer_pa
    if settled and state.suction_pa < low:
        trips.append(Trip(cutout="low_pressure",
                          after_s=_rise_time_s(standing, state.suction_pa, low, _SUCTION_TIME_S)))
    if settled and state.discharge_line_k > plate.discharge_cutout_k:
        trips.append(Trip(cutout="discharge_temperature", after_s=_rise_time_s(
            conditions.outdoor_k, state.discharge_line_k, plate.discharge_cutout_k, _DISCHARGE_TIME_S)))
    return min(trips, key=lambda t: t.after_s, default=None)

