"""What a machine that runs as any other does shows, as a vector, in compiled code: for searches that ask a thousand
times.

Same equations, same balance, same depth as :func:`wolfsbane.cycle.solver.solve`, and none of what a state tells beside;
what cannot be had from one start is left to it.
"""

from __future__ import annotations

from functools import cached_property, lru_cache
from math import hypot, log
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from wolfsbane.cycle.balance import HOLDS, Boundary, figures_at
from wolfsbane.cycle.compiling import njit
from wolfsbane.cycle.faults import planted
from wolfsbane.cycle.faults.straight import Straight, straight
from wolfsbane.cycle.idling import MOST, hardly_pumps
from wolfsbane.cycle.machine import Circuit
from wolfsbane.cycle.moist import off_the_coil_k
from wolfsbane.cycle.newton import CONVERGED, from_one_start
from wolfsbane.cycle.packed import writable
from wolfsbane.cycle.parts.evaporator import moist_cp
from wolfsbane.cycle.properties import RHO_F, RHO_G, T_BUBBLE, T_DEW, refrigerant, saturation_at
from wolfsbane.cycle.starts import first_start, receiver_mode
from wolfsbane.cycle.surroundings import saturated_air, surroundings_of
from wolfsbane.cycle.trips import Limits, limits_of
from wolfsbane.diagnosis.space import AT, N

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.properties import PropertyArrays
    from wolfsbane.cycle.surroundings import Surroundings

#: a balance so near the end of the property table, ln Pa, is left to the whole solve
_TABLE_END = 2e-2
#: pressures are held so far inside the table for a saturation temperature, ln Pa
_ABOVE, _BELOW = log(1.001), log(0.999)
#: what a search comes to
SHOWN, CUT_OUT, UNUSUAL = range(3)
#: the slopes of a search that begins without any
NO_SLOPES = np.zeros((3, 3))
NO_SLOPES.flags.writeable = False

_LOW, _HIGH, _SEEN_LOW, _SEEN_HIGH = (
    AT[name] for name in ("suction_saturation", "liquid_saturation", "seen_low", "seen_high")
)
_SUCTION_LINE, _LIQUID_LINE, _DRIER_DROP = AT["suction_line"], AT["liquid_line"], AT["drier_drop"]
_DISCHARGE, _SUPPLY, _COIL = AT["discharge"], AT["supply"], AT["coil_saturation"]
_OUTLET, _INLET = AT["evaporator_outlet"], AT["evaporator_inlet"]
_STREAM_OUT, _BEND = AT["stream_out"], AT["condenser_bend"]
_AIRFLOW, _AMPS, _FLASH, _LEVEL = AT["airflow"], AT["amps"], AT["flash"], AT["level"]
#: figures of a circuit that change what it meets, the first two only what enters the condenser; and what tells
#: that a circuit is not of the usual kind
_ENTERING_OFFSET, _WET_SHARE, *_COIL_AIR = (
    Circuit._fields.index(name)
    for name in (
        "condenser_entering_offset_k",
        "condenser_wet_share",
        "return_offset_k",
        "return_dry_offset_k",
        "outdoor_air_share",
        "receiver_volume_m3",
    )
)
_PUMPING, _SWING = Circuit._fields.index("pumping_share"), Circuit._fields.index("valve_swing")
_ENTERING = Boundary._fields.index("entering_k")


class UnusualError(ArithmeticError):
    """Only the whole solve can tell how this machine stands."""


class Start(NamedTuple):
    """Where the search of a neighbor may begin: ``x`` (ln Pe, ln Pc, h1) and the slopes (3, 3) carried there, all
    zero where there are none.
    """

    x: np.ndarray
    slopes: np.ndarray


class Facts(NamedTuple):
    """What a vector needs of a machine besides its circuit: limits of its cutouts, what makes amps of shaft power, what
    is called all of its airflow (kg/s, zero where it is not read), whether it is a heat pump; the barometer, Pa, and
    the outdoor air, K (zero where water cools the condenser).
    """

    high_pa: float
    low_pa: float
    discharge_k: float
    overload_amps: float
    least_w: float
    works_amps: float
    volt_amps_per_amp: float
    magnetizing_amps: float
    rated_amps: float
    usual_air_kg_s: float
    heat_pump: float
    barometer_pa: float
    outdoor_k: float


#: no place to begin at
NOWHERE = Start(np.zeros(3), NO_SLOPES)


@njit(cache=True, error_model="numpy")
def _f(kelvin: float) -> float:
    return (kelvin - 273.15) * 1.8 + 32.0


@njit(cache=True, error_model="numpy")
def _saturation_f(tab: PropertyArrays, row: int, pa: float) -> float:
    """Saturation temperature, degrees F, held a thousandth inside the table's pressures."""
    return _f(saturation_at(tab, row, min(max(log(pa), tab.ln_p_min + _ABOVE), tab.ln_p_max + _BELOW)))


@njit(cache=True, error_model="numpy")
def vector_into(
    y: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    circuits: np.ndarray,
    boundaries: np.ndarray,
    humidity: float,
    tables: np.ndarray,
    own_tables: np.ndarray,
    h_sat: np.ndarray,
    facts_of: np.ndarray,
) -> int:
    """Solve from ``x`` (3,), with ``slopes`` (3, 3) unless they are zero, and fill the vector ``y`` (N,); both are
    left where the search ended. ``humidity`` is that of the air on the coil, kg/kg. Returns what it came to.
    """
    c, tab, own, b, facts = circuits[0], tables[0], own_tables[0], boundaries[0], facts_of[0]
    norm = from_one_start(x, slopes, slopes[0, 0] != 0.0, c, tab, b, h_sat)
    if not norm < CONVERGED or x[1] >= tab.ln_p_max - _TABLE_END:
        return UNUSUAL
    f = figures_at(x, c, tab, b, h_sat)
    y[_LEVEL] = 0.0
    if b.receiver == HOLDS:
        held = f.receiver_kg / c.receiver_volume_m3
        empty, full = saturation_at(tab, RHO_G, x[1]), saturation_at(tab, RHO_F, x[1])
        if not empty <= held <= full:
            return UNUSUAL
        y[_LEVEL] = 100.0 * (held - empty) / (full - empty)
    drawn = hypot(f.work_w / facts.volt_amps_per_amp, facts.magnetizing_amps)
    if (
        f.discharge_pa > facts.high_pa
        or f.suction_pa < facts.low_pa
        or f.discharge_k > facts.discharge_k
        or drawn > facts.overload_amps
        or (f.evaporator_heat_w < facts.least_w and drawn > facts.works_amps)
    ):
        return CUT_OUT
    y[_LOW], y[_HIGH] = _saturation_f(own, T_DEW, f.suction_pa), _saturation_f(own, T_BUBBLE, f.liquid_port_pa)
    y[_SEEN_LOW], y[_SEEN_HIGH] = y[_LOW], y[_HIGH]
    y[_SUCTION_LINE] = _f(f.compressor_in_k if facts.heat_pump > 0.5 else f.suction_line_k)
    y[_LIQUID_LINE], y[_DISCHARGE] = _f(f.liquid_line_k), _f(f.discharge_k)
    y[_DRIER_DROP] = (f.liquid_line_k - f.after_drier_k) * 1.8
    y[_OUTLET], y[_INLET] = _f(f.evaporator_outlet_k), _f(f.evaporator_inlet_k)
    y[_COIL], y[_STREAM_OUT] = _saturation_f(own, T_DEW, f.evaporating_pa), _f(f.stream_out_k)
    y[_BEND] = _f(0.5 * (saturation_at(tab, T_BUBBLE, x[1]) + saturation_at(tab, T_DEW, x[1])))
    y[_AIRFLOW] = 100.0
    if facts.usual_air_kg_s > 0.0:
        y[_AIRFLOW] = 100.0 * f.supply_air_kg_s / facts.usual_air_kg_s
    y[_AMPS], y[_FLASH] = 100.0 * drawn / facts.rated_amps, 100.0 * f.drier_quality
    boil, blocked = f.evaporator_boiling_share, c.distributor_blocked_share
    mixed = (1.0 - blocked) * (boil * f.air_boiling_k + (1.0 - boil) * f.air_superheat_k) + blocked * f.blocked_air_k
    enthalpy = b.coil_air_j_kg - f.evaporator_heat_w / f.supply_air_kg_s
    rise = c.blower_w / (f.supply_air_kg_s * moist_cp(b.coil_air_j_kg, b.coil_air_k))
    y[_SUPPLY] = _f(off_the_coil_k(mixed, enthalpy, humidity, facts.barometer_pa) + rise)
    return SHOWN


@njit(cache=True, error_model="numpy")
def _plant(circuit: np.ndarray, severity: float, places: np.ndarray, lines: np.ndarray) -> None:
    """Plant a severity on the figures of a circuit (77,) by its lines (:mod:`wolfsbane.cycle.faults.straight`)."""
    for i in range(len(places)):
        at = places[i]
        circuit[at] = circuit[at] * (lines[i, 0] + lines[i, 1] * severity) + lines[i, 2] + lines[i, 3] * severity


#: how two faults are planted: places and lines of each (:class:`wolfsbane.cycle.faults.straight.Straight`)
Lines = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]
#: a ground as compiled code takes it: the figures of the machine's circuit (77,); room for those of a circuit with
#: faults, and the same memory as a record (1,); the same three of what it meets; the humidity of the air on the coil,
#: kg/kg; tables of what is in the circuit and of its own refrigerant, as records; saturated air; :class:`Facts`
Parts = tuple[
    np.ndarray,
    np.ndarray,
    np.ndarray,
    np.ndarray,
    np.ndarray,
    np.ndarray,
    float,
    np.ndarray,
    np.ndarray,
    np.ndarray,
    np.ndarray,
]


@njit(cache=True, error_model="numpy")
def vector_planted(
    y: np.ndarray,
    x: np.ndarray,
    slopes: np.ndarray,
    number: int,
    severity_a: float,
    severity_b: float,
    lines: Lines,
    ground: Parts,
) -> int:
    """:func:`vector_into` with a ``number`` of faults, up to two, by their severities and lines."""
    places_a, lines_a, places_b, lines_b = lines
    base, circuit, circuits, met, boundary, boundaries, humidity, tables, own_tables, h_sat, facts_of = ground
    facts = facts_of[0]
    circuit[:] = base
    if number > 0:
        _plant(circuit, severity_a, places_a, lines_a)
    if number > 1:
        _plant(circuit, severity_b, places_b, lines_b)
    if circuit[_PUMPING] < MOST or circuit[_SWING] > 0.0:
        return UNUSUAL
    boundary[:] = met
    if facts.outdoor_k > 0.0:
        boundary[_ENTERING] = facts.outdoor_k + circuit[_ENTERING_OFFSET]
    return vector_into(y, x, slopes, circuits, boundaries, humidity, tables, own_tables, h_sat, facts_of)


#: what cutouts open at where there are none
_NO_LIMITS = Limits(
    high_pa=np.inf, low_pa=0.0, discharge_k=np.inf, overload_amps=np.inf, least_w=-np.inf, works_amps=np.inf
)


class Ground:
    """One machine in one weather, as a search asks for it again and again. Without ``cutouts`` it runs on beyond them,
    as far as there is a balance.
    """

    def __init__(self, machine: Machine, conditions: Conditions, *, cutouts: bool = True) -> None:
        self.machine, self.conditions, self.cutouts = machine, conditions, cutouts
        self.h_sat = saturated_air(conditions)
        self.own = refrigerant(machine.refrigerant)
        self._facts: dict[str, np.ndarray] = {}
        self._lines: dict[str, Straight | None] = {}
        self._met: dict[tuple[float, ...], tuple[Boundary, float, Surroundings]] = {}

    @property
    def unusual(self) -> bool:
        """Whether this machine is always left to the whole solve."""
        return self.machine.circuits > 1 or self.machine.in_heating or self.machine.circuit.fan_on_above_pa > 0.0

    @cached_property
    def fault_free_start(self) -> Start | None:
        """Where a neighbor of the machine with nothing wrong may begin; None where it is not of the usual kind."""
        try:
            return self.vector(())[1]
        except UnusualError:
            return None

    def facts(self, name: str) -> np.ndarray:
        """The packed :class:`Facts` with refrigerant ``name`` in the machine."""
        if name not in self._facts:
            machine, c, weather = self.machine, self.machine.circuit, self.conditions
            shown = not machine.refrigeration and machine.plate.design_airflow_m3_s
            air_kg_s = c.evaporator_air_kg_s * weather.air_density_ratio
            self._facts[name] = writable(
                Facts(
                    **(limits_of(machine, name, weather) if self.cutouts else _NO_LIMITS)._asdict(),
                    volt_amps_per_amp=machine.volts * machine.power_factor,
                    magnetizing_amps=machine.magnetizing_amps,
                    rated_amps=machine.plate.rated_amps,
                    usual_air_kg_s=air_kg_s if shown else 0.0,
                    heat_pump=float(machine.application.startswith("heat_pump")),
                    barometer_pa=weather.barometer_pa,
                    outdoor_k=weather.outdoor_k if weather.water_in_k is None else 0.0,
                )
            )[1]
        return self._facts[name]

    def met(self, circuit: Circuit) -> tuple[Boundary, float, Surroundings]:
        """(boundary of a steady solve, humidity of the air on the coil, the surroundings) of a circuit."""
        key = tuple(circuit[i] for i in (_ENTERING_OFFSET, _WET_SHARE, *_COIL_AIR))
        if key not in self._met:
            met = surroundings_of(circuit, self.conditions)
            boundary = met.boundary(self.conditions, receiver_mode(circuit))
            self._met[key] = boundary, met.coil_air.humidity_ratio, met
        return self._met[key]

    def lines_of(self, fault_id: str) -> Straight | None:
        """The lines a family is planted by in compiled code; None where it is not, because of the machine or because it
        changes the air on the coil or wets the condenser.
        """
        if fault_id not in self._lines:
            lines = None if self.unusual else straight(self.machine, fault_id)
            here = lines is not None and not set(lines.places.tolist()) & {_WET_SHARE, *_COIL_AIR}
            self._lines[fault_id] = lines if here else None
        return self._lines[fault_id]

    def parts(self, name: str | None = None) -> Parts:
        """What :func:`vector_planted` needs of the ground with refrigerant ``name`` in the machine (None: its own), in
        the order it takes it.
        """
        met, humidity, _ = self.met(self.machine.circuit)
        boundary, boundaries = writable(met)
        circuit, circuits = writable(self.machine.circuit)
        return (
            circuit.copy(),
            circuit,
            circuits,
            boundary.copy(),
            boundary,
            boundaries,
            humidity,
            (refrigerant(name) if name else self.own).packed,
            self.own.packed,
            self.h_sat,
            self.facts(name or self.machine.refrigerant),
        )

    def vector(self, faults: tuple[Fault, ...], start: Start | None = None) -> tuple[np.ndarray | None, Start | None]:
        """(vector (N,) of the machine with its own ``faults``, where a neighbor may begin); (None, None) where a cutout
        opens.

        Raises BadInputError for a fault the machine cannot have, UnusualError where the machine is not of the usual
        kind or the start does not lead to a balance.
        """
        if self.unusual:
            raise UnusualError
        circuit, name = planted(self.machine, faults)
        if circuit.fan_on_above_pa > 0.0 or circuit.valve_swing > 0.0 or hardly_pumps(circuit):
            raise UnusualError
        fluid = self.own if name == self.machine.refrigerant else refrigerant(name)
        boundary, humidity, met = self.met(circuit)
        if start is None:
            begin = first_start(self.machine, name, fluid, met, None)
            if begin is None:
                raise UnusualError
            start = Start(begin[0], NO_SLOPES)
        x, slopes, y = start.x.copy(), start.slopes.copy(), np.empty(N)
        came_to = vector_into(
            y,
            x,
            slopes,
            writable(circuit)[1],
            writable(boundary)[1],
            humidity,
            fluid.packed,
            self.own.packed,
            self.h_sat,
            self.facts(name),
        )
        if came_to == UNUSUAL:
            raise UnusualError
        return (None, None) if came_to == CUT_OUT else (y, Start(x, slopes))


@lru_cache(maxsize=64)
def ground_of(machine: Machine, conditions: Conditions, *, cutouts: bool = True) -> Ground:
    """The :class:`Ground` of a machine in a weather; the last few are kept."""
    return Ground(machine, conditions, cutouts=cutouts)
