"""The space readings are compared in: temperatures of one machine in degrees F, and which of them a reading shows.

Pressures are compared as saturation temperatures, so that a machine of another refrigerant can stand in for one we do
not know. Every reading is a straight sum of the entries of :data:`Y`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import M_PER_FT, barometer_at_altitude_pa, from_display, k_to_f

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.properties import Refrigerant
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.observed import Observed

#: entries of a machine's vector; ``seen_low`` and ``seen_high`` are saturations as the technician's own PT scale or
#: display shows them, ``airflow`` is in per cent of the design flow, ``amps`` in per cent of the rated amps,
#: ``flash`` is the vapor at the sight glass in per cent of the mass, ``level`` how full the receiver is in per cent
Y = (
    "suction_saturation",
    "liquid_saturation",
    "suction_line",
    "liquid_line",
    "drier_drop",
    "discharge",
    "supply",
    "evaporator_outlet",
    "coil_saturation",
    "evaporator_inlet",
    "stream_out",
    "seen_low",
    "seen_high",
    "airflow",
    "amps",
    "flash",
    "level",
    "condenser_bend",
)
AT = {name: i for i, name in enumerate(Y)}
N = len(Y)

_LOW, _HIGH, _SEEN_LOW, _SEEN_HIGH = (
    AT[name] for name in ("suction_saturation", "liquid_saturation", "seen_low", "seen_high")
)
_STREAM_OUT, _DRIER_DROP, _COIL = AT["stream_out"], AT["drier_drop"], AT["coil_saturation"]
_AIRFLOW, _AMPS, _FLASH, _LEVEL = AT["airflow"], AT["amps"], AT["flash"], AT["level"]
#: entries that are the temperature of a reading
_TEMPERATURES = tuple(
    (AT[entry], key)
    for entry, key in (
        ("suction_line", "suction_line"),
        ("liquid_line", "liquid_line"),
        ("discharge", "discharge_line"),
        ("supply", "supply_db"),
        ("evaporator_outlet", "evaporator_outlet"),
        ("evaporator_inlet", "evaporator_inlet"),
        ("condenser_bend", "condenser_bend"),
    )
)

#: reading -> {entry: factor}; air readings are compared as they are, against a machine solved in the same weather
ROWS = {
    "suction": {"suction_saturation": 1},
    "head": {"liquid_saturation": 1},
    "suction_line": {"suction_line": 1},
    "liquid_line": {"liquid_line": 1},
    "discharge_line": {"discharge": 1},
    "condenser_inlet": {"discharge": 1},
    "supply_db": {"supply": 1},
    "drier_out": {"liquid_line": 1, "drier_drop": -1},
    "superheat": {"suction_line": 1, "seen_low": -1},
    "subcooling": {"seen_high": 1, "liquid_line": -1},
    "evaporator_outlet": {"evaporator_outlet": 1},
    "evaporator_superheat": {"evaporator_outlet": 1, "coil_saturation": -1},
    "evaporator_inlet": {"evaporator_inlet": 1},
    "condenser_leaving_air": {"stream_out": 1},
    "water_out": {"stream_out": 1},
    "drier_drop": {"drier_drop": 1},
    "airflow": {"airflow": 1},
    "compressor": {"amps": 1},
}
#: standard deviation of one honest reading in degrees F (per cent for the last two), rounded by eye (assumed)
NOISE = {
    "suction_line": 1.2,
    "liquid_line": 1.1,
    "discharge_line": 2.5,
    "condenser_inlet": 2.5,
    "supply_db": 1.2,
    "drier_out": 1.1,
    "superheat": 1.6,
    "subcooling": 1.5,
    "evaporator_outlet": 1.3,
    "evaporator_superheat": 2.0,
    "evaporator_inlet": 2.0,
    "condenser_leaving_air": 2.0,
    "water_out": 1.0,
    "drier_drop": 0.9,
    "airflow": 8.0,
    "compressor": 6.0,
}
#: a superheat or subcooling that is this far from its own readings contradicts them, degrees F; it then counts for
#: little
DISAGREE_DF, _DOUBTED = 2.5, 8.0
#: standard deviation of a pressure in psi: (low side, high side)
NOISE_PSI = (1.2, 3.0)


def saturation_f(name: str, psig: float, point: str, altitude_ft: float = 0.0) -> float:
    """Saturation temperature in degrees F on the PT scale of refrigerant ``name``, held at the ends of its table."""
    fluid = refrigerant(name)
    pressure = from_display("pressure", psig, "us", barometer_at_altitude_pa(altitude_ft * M_PER_FT))
    return k_to_f(fluid.saturation_k(min(max(pressure, fluid.min_pa * 1.001), fluid.max_pa * 0.999), point))


def slope_f_per_psi(name: str, psig: float, point: str, altitude_ft: float = 0.0) -> float:
    """Degrees F of saturation for one psi."""
    return 0.5 * (
        saturation_f(name, psig + 1.0, point, altitude_ft) - saturation_f(name, psig - 1.0, point, altitude_ft)
    )


def vector_of(
    machine: Machine, state: CircuitState, taken: dict[str, float] | None = None, pt_scale: str | None = None
) -> np.ndarray:
    """The vector of a solved state, (N,). ``taken`` are disturbed SI readings,
    ``pt_scale`` the refrigerant whose scale is read.
    """
    taken = values(machine, state) if taken is None else taken
    level = 0.0 if state.receiver is None else state.receiver.level
    return _vector(machine, taken, state.evaporating_pa, state.sight_glass_quality, level, pt_scale)


def _vector(
    machine: Machine,
    taken: dict[str, float],
    evaporating_pa: float,
    flash: float,
    level: float,
    pt_scale: str | None,
) -> np.ndarray:
    """The vector (N,) of SI readings ``taken``; vapor at the glass and level of the receiver as shares."""
    own = refrigerant(machine.refrigerant)
    read = refrigerant(pt_scale) if pt_scale else own

    def at(fluid: Refrigerant, pa: float, point: str) -> float:
        return k_to_f(fluid.saturation_k(min(max(pa, fluid.min_pa * 1.001), fluid.max_pa * 0.999), point))

    y = np.empty(N)
    low, high = taken["suction_pressure"], taken["head_pressure"]
    y[_LOW], y[_HIGH] = at(own, low, "dew"), at(own, high, "bubble")
    y[_SEEN_LOW] = y[_LOW] if read is own else at(read, low, "dew")
    y[_SEEN_HIGH] = y[_HIGH] if read is own else at(read, high, "bubble")
    for i, key in _TEMPERATURES:
        y[i] = k_to_f(taken[key])
    y[_STREAM_OUT] = k_to_f(taken["water_out"] if "water_out" in taken else taken["condenser_leaving_air"])
    y[_DRIER_DROP] = (taken["liquid_line"] - taken["drier_out"]) * 1.8
    y[_COIL] = at(own, evaporating_pa, "dew")
    design = machine.plate.design_airflow_m3_s
    y[_AIRFLOW] = 100.0 * taken["airflow"] / design if "airflow" in taken and design else 100.0
    y[_AMPS] = 100.0 * taken["compressor_amps"] / machine.plate.rated_amps
    y[_FLASH], y[_LEVEL] = 100.0 * flash, 100.0 * level
    return y


def differences_of(seen: Observed) -> dict[str, float]:
    """Saturations, superheat and subcooling worked out from an :class:`Observed`'s own readings, degrees F: dict with
    what there is.

    Without gauges the evaporator's inlet pipe is taken for the suction saturation, as on a sealed circuit.
    """
    plate, found, r = seen.plate, {}, seen.readings
    altitude = seen.conditions.get("altitude", 0.0)
    if "suction" in r:
        found["suction_saturation"] = saturation_f(plate.refrigerant, r["suction"].value, "dew", altitude)
    elif "evaporator_inlet" in r:
        found["suction_saturation"] = r["evaporator_inlet"].value
    if "head" in r:
        found["liquid_saturation"] = saturation_f(plate.refrigerant, r["head"].value, "bubble", altitude)
    if "evaporator_outlet" in r and "suction" not in r and "evaporator_inlet" in r:
        found["evaporator_superheat"] = r["evaporator_outlet"].value - r["evaporator_inlet"].value
    if "suction_saturation" in found and "suction_line" in r:
        found["superheat"] = r["suction_line"].value - found["suction_saturation"]
    if "liquid_saturation" in found and "liquid_line" in r:
        found["subcooling"] = found["liquid_saturation"] - r["liquid_line"].value
    return found


def measurements(seen: Observed, *, amps_known: bool = False) -> tuple[list[str], np.ndarray, np.ndarray, np.ndarray]:
    """What was measured as (names, values (n,), rows (n, N), sigmas (n,)), redundant readings left out.

    A superheat or subcooling given beside the two readings it comes from only counts where it disagrees with them.
    """
    r, altitude = seen.readings, seen.conditions.get("altitude", 0.0)
    worked, names, found, rows, sigmas = differences_of(seen), [], [], [], []
    for name, entry in ROWS.items():
        if name in ("compressor", "airflow", "drier_drop") or name not in r:
            continue
        value, sigma = r[name].value, NOISE.get(name, 0.0)
        if name in ("suction", "head"):
            point, psi = ("dew", NOISE_PSI[0]) if name == "suction" else ("bubble", NOISE_PSI[1])
            slope = slope_f_per_psi(seen.plate.refrigerant, value, point, altitude)
            value, sigma = saturation_f(seen.plate.refrigerant, value, point, altitude), max(psi * slope, 0.6)
            flutter = r[name].flutter * slope
        else:
            flutter = r[name].flutter
        if name in ("superheat", "subcooling") and name in worked:
            if abs(worked[name] - value) < DISAGREE_DF:
                continue
            sigma = _DOUBTED
        if name == "drier_out" and "drier_in" in r:
            continue
        names.append(name)
        found.append(value)
        sigmas.append((sigma**2 + flutter**2 / 3.0) ** 0.5)
        rows.append(entry)
    if "drier_in" in r and "drier_out" in r:
        _more(names, found, sigmas, rows, "drier_drop", r["drier_in"].value - r["drier_out"].value)
    if "airflow" in r and seen.plate.capacity_tons and not seen.plate.refrigeration:
        _more(names, found, sigmas, rows, "airflow", 100.0 * r["airflow"].value / (383.0 * seen.plate.capacity_tons))
    if "compressor" in r and amps_known:
        _more(names, found, sigmas, rows, "compressor", r["compressor"].value)
    grid = np.zeros((len(rows), N))
    for i, entry in enumerate(rows):
        for key, factor in entry.items():
            grid[i, AT[key]] = factor
    return names, np.array(found), grid, np.array(sigmas)


def _more(
    names: list[str], found: list[float], sigmas: list[float], rows: list[dict[str, int]], name: str, value: float
) -> None:
    names.append(name)
    found.append(value)
    sigmas.append(NOISE[name])
    rows.append(ROWS[name])
