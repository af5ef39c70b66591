"""Tune the machine profiles to their ratings and write ``src/wolfsbane/cycle/profiles/tuned.py``.

``python tools/tune_profiles.py`` tunes what has no numbers yet, ``python tools/tune_profiles.py MACHINE...`` the
machines named again; every other one keeps its numbers. Displacement is turned until the capacity fits, condenser
conductance until CTOA fits, the metering area until the valve stands three quarters open (an orifice: until the
superheat fits) and the charge until the subcooling fits (a receiver: until it is 40 % full). On a machine with an
orifice the evaporator's conductance to gas is turned as well, until total superheat follows the charging formula over
the weather. The two machines of the first profiles with a valve keep the numbers they were published with.
"""

import math
import sys
from dataclasses import replace
from pathlib import Path

from scipy.optimize import least_squares

from wolfsbane.cycle.conditions import for_machine, rating_conditions
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.heating import metered
from wolfsbane.cycle.profiles import HEATING_OF, MACHINES
from wolfsbane.cycle.profiles.tuned import TUNED
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import total_superheat_target_df

OUT = Path(__file__).resolve().parents[1] / "src" / "wolfsbane" / "cycle" / "profiles" / "tuned.py"
KEPT = ("split-3t-r410a-txv", "split-3t-r22-txv")
#: machine id -> (CTOA, total superheat of an orifice or that at the coil of a capillary, subcooling), degrees F
TARGETS = {
    "split-3t-r410a-orifice": (18.0, 13.0, 10.0),
    "split-3t-r22-orifice": (18.0, 13.0, 10.0),
    "split-2.5t-r22-orifice-old": (27.5, 13.0, 11.0),
    "room-1t-r22-capillary": (29.0, 5.0, 8.0),
    "split-1.5t-r32-orifice": (17.5, 13.0, 10.0),
    "split-2t-r32-txv": (17.0, None, 9.0),
    "split-3t-r32-eev": (17.0, None, 8.0),
    "split-3t-r454b-txv": (17.5, None, 10.0),
    "split-4t-r454b-orifice": (18.0, 13.0, 10.0),
    "split-5t-r410a-txv": (18.5, None, 11.0),
    "split-3t-r410a-microchannel": (17.5, None, 10.0),
    "heatpump-3t-r410a-txv": (16.5, None, 4.0),
    "package-10t-r410a-two-circuits": (18.5, None, 10.0),
    "water-cooled-5t-r407c-txv": (18.0, None, 9.0),
    "walkin-cooler-r404a-txv": (19.0, None, None),
    "walkin-cooler-r448a-txv": (20.0, None, None),
    "walkin-freezer-r449a-txv": (17.0, None, None),
    "walkin-freezer-r404a-txv": (18.0, None, None),
    "walkin-cooler-r448a-flooded": (20.0, None, None),
    "walkin-cooler-r134a-fan-cycling": (20.0, None, None),
    "water-cooled-3t-r410a-regulated": (26.0, None, 10.0),
    "reachin-r134a-capillary": (30.0, 8.0, 7.0),
    "reachin-r290-capillary": (28.0, 8.0, 7.0),
    "reachin-r600a-capillary": (27.0, 8.0, 7.0),
    "reachin-freezer-r404a-capillary": (29.0, 8.0, 6.0),
    "coldrail-r134a-capillary": (29.0, 8.0, 7.0),
}
_CONDENSER = ("condenser_ua_air_w_k", "condenser_ua_two_phase_w_k", "condenser_ua_gas_w_k", "condenser_ua_liquid_w_k")
_LEVEL = 0.40
#: weather in which an orifice is held to the formula: outdoors, return dry and wet bulb, degrees F
_WEATHER = [
    (outdoor, dry, wet)
    for outdoor in (75, 85, 95, 105)
    for dry, wet in ((72, 58), (75, 63), (78, 65), (80, 64), (80, 67), (82, 70))
    if total_superheat_target_df(wet, outdoor) >= 5.0
]
#: what a figure that cannot be solved misses by, and how much leaving a field's first number counts
_LOST, _PULL = 20.0, 0.3
#: what a heat pump in heating has of its own
_METERED = ("expansion_area_m2", "charge_kg", "compensator_m3", "compensator_from_k", "compensator_span_k")


def _changed(circuit, logs):
    displacement, condenser, area, charge, *gas = (math.exp(v) for v in logs)
    return circuit._replace(
        displacement_m3_s=circuit.displacement_m3_s * displacement,
        expansion_area_m2=circuit.expansion_area_m2 * area,
        charge_kg=circuit.charge_kg * charge,
        evaporator_ua_gas_w_k=circuit.evaporator_ua_gas_w_k * (gas[0] if gas else 1.0),
        **{name: getattr(circuit, name) * condenser for name in _CONDENSER},
    )


def _superheat(machine, state):
    """The superheat an orifice is held to is the total one; a capillary is held to that of its coil."""
    return state.superheat_dk if machine.metering == "fixed_orifice" else state.evaporator_superheat_dk


def _superheat_misses(machine):
    """By how much total superheat misses the formula over the weather, in quarters of a degree F."""
    found = []
    for outdoor, dry, wet in _WEATHER:
        weather = for_machine(machine, outdoor_db_f=outdoor, return_db_f=dry, return_wb_f=wet)
        try:
            found.append(0.25 * (solve(machine, weather).superheat_dk * 1.8 - total_superheat_target_df(wet, outdoor)))
        except NoConvergenceError:
            found.append(_LOST)
    return found


def _misses(machine, logs, target):
    ctoa_df, superheat_df, subcooling_df = target
    changed = replace(machine, circuit=_changed(machine.circuit, logs))
    over_weather = machine.metering == "fixed_orifice"
    try:
        state = solve(changed, rating_conditions(machine))
    except NoConvergenceError:
        return [_LOST] * (4 + (len(_WEATHER) + 1) * over_weather)
    weight = 3.0 if over_weather else 1.0
    found = [
        weight * 10.0 * math.log(state.capacity_w / machine.plate.capacity_w),
        weight * 0.4 * (state.ctoa_dk * 1.8 - ctoa_df),
    ]
    found.append(
        10.0 * (state.valve_opening - 0.75)
        if superheat_df is None
        else weight * 0.4 * (_superheat(machine, state) * 1.8 - superheat_df)
    )
    if subcooling_df is None:
        found.append(5.0 * (state.receiver.level - _LEVEL))
    else:
        found.append(weight * 0.4 * (state.subcooling_dk * 1.8 - subcooling_df))
    return [*found, *_superheat_misses(changed), _PULL * logs[4]] if over_weather else found


def _gas(machine):
    return ("evaporator_ua_gas_w_k",) if machine.metering == "fixed_orifice" else ()


def _first(machine):
    """Where the search begins: a capillary starves its coil, for a flooded one has no superheat to go by."""
    if machine.metering == "capillary":
        return [0.0, 0.0, -0.7, 0.0]
    return [0.0] * (5 if machine.metering == "fixed_orifice" else 4)


def _digits(value, digits=5):
    return float(f"{value:.{digits}g}")


def _rows(machine_id, fields):
    return [f'    "{machine_id}": {{', *(f'        "{name}": {value!r},' for name, value in fields.items()), "    },"]


def main():
    lines = [
        (
            '"""Written by tools/tune_profiles.py: the numbers that make each profile meet its rating. Do not edit by'
            ' hand."""'
        ),
        "",
        "#: machine id -> circuit fields",
        "TUNED = {",
    ]
    new = [m for m in MACHINES.values() if m.id not in (*KEPT, *TUNED)]
    wanted = sys.argv[1:] or [m.id for m in new if not m.in_heating and not m.stage]
    unknown = [machine_id for machine_id in wanted if machine_id not in TARGETS]
    if unknown:
        sys.exit(f"no targets for {', '.join(unknown)}: add a row to TARGETS in this file")
    for machine in MACHINES.values():
        if machine.id in KEPT or machine.in_heating or machine.stage:
            continue
        if machine.id not in wanted:
            lines += _rows(machine.id, TUNED[machine.id])
            continue
        fit = least_squares(
            lambda v, m=machine: _misses(m, v, TARGETS[m.id]),
            _first(machine),
            diff_step=2e-3,
            bounds=(-1.6, 1.6),
        )
        circuit = _changed(machine.circuit, fit.x)
        flow = solve(replace(machine, circuit=circuit), rating_conditions(machine)).mass_flow_kg_s
        fields = {
            name: getattr(circuit, name)
            for name in ("displacement_m3_s", "expansion_area_m2", "charge_kg", *_CONDENSER, *_gas(machine))
        }
        print(
            machine.id, [round(v, 3) for v in fit.fun[:4]], [round(math.exp(v), 3) for v in fit.x], f"flow {flow:.4f}"
        )
        lines += _rows(machine.id, {name: _digits(value) for name, value in fields.items()})
    lines += [
        "}",
        "",
        "#: machine id of a heat pump in heating -> circuit fields, and where its low-pressure switch opens",
    ]
    lines.append("METERED = {")
    for cooling, in_heating in HEATING_OF.items():
        found = metered(MACHINES[cooling])
        fields = {name: _digits(getattr(found.circuit, name), 7) for name in _METERED}
        fields["low_cutout_gauge_pa"] = _digits(found.plate.low_cutout_gauge_pa, 7)
        lines += _rows(in_heating, fields)
    OUT.write_text("\n".join([*lines, "}", ""]))


if __name__ == "__main__":
    main()
