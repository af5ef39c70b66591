"""What the bench draws beside the gauges: the pressure-enthalpy loop, and any figure against severity or weather."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle import loop, units
from wolfsbane.cycle.conditions import box_wet_bulb_k
from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.faults import fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import QUANTITIES
from wolfsbane.cycle.solver import solve
from wolfsbane.diagnosis.targets import FIGURES, NORMAL, bands, met_outdoors_k
from wolfsbane.exercise.plan import severity
from wolfsbane.exercise.plan.handles import weather_of

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.practices import Practice
    from wolfsbane.diagnosis.targets import Band

#: unit system -> (pressure unit, Pa of it, enthalpy unit, J/kg of it); 1 Btu/lb is 2326 J/kg (definition of the IT Btu)
_LOOP_UNITS = {"us": ("psia", units.PA_PER_PSI, "Btu/lb", 2326.0), "si": ("kPa abs", 1000.0, "kJ/kg", 1000.0)}
#: field of a machine's weather -> attribute of its conditions
_HANDLES = {
    "outdoor_db_f": "outdoor_k",
    "return_db_f": "return_k",
    "return_wb_f": "return_wet_bulb_k",
    "box_f": "return_k",
    "water_in_f": "water_in_k",
}
#: what can be drawn against a fault or the weather
_DRAWN = tuple(
    QUANTITIES[name]
    for name in (
        "superheat",
        "subcooling",
        "evaporator_td",
        "ctoa",
        "suction_pressure",
        "head_pressure",
        "suction_line",
        "liquid_line",
        "discharge_line",
        "air_delta_t",
        "drier_drop",
        "compressor_amps",
    )
)
_STEPS = 33
#: steps of bisection towards the severity at which a verdict turns
_HALVINGS = 12


def pressure_enthalpy(state: CircuitState, fault_free: CircuitState, system: str) -> dict[str, Any] | None:
    """Loops of a state and of the same machine with nothing wrong as plain data, in the system's units; None at rest.

    {pressure_unit, enthalpy_unit, refrigerant, now: [corner], sound: [corner]}; corner {id, label, reading, pressure,
    enthalpy}.
    """
    pressure_unit, pa, enthalpy_unit, j_kg = _LOOP_UNITS[system]

    def rows(s: Any) -> Any:
        return [
            {
                "id": c.id,
                "label": c.label,
                "reading": c.reading,
                "pressure": round(c.pressure_pa / pa, 2),
                "enthalpy": round(c.enthalpy_j_kg / j_kg, 2),
            }
            for c in loop.corners(s)
        ]

    now = rows(state)
    if not now:
        return None
    return {
        "pressure_unit": pressure_unit,
        "enthalpy_unit": enthalpy_unit,
        "refrigerant": state.refrigerant,
        "now": now,
        "fault_free": rows(fault_free) if fault_free.refrigerant == state.refrigerant else [],
    }


def dome(name: str, system: str) -> dict[str, Any]:
    """The dome of a refrigerant as plain data: {refrigerant, pressure_unit, enthalpy_unit, bubble, dew},
    lines of [enthalpy, pressure].
    """
    pressure_unit, pa, enthalpy_unit, j_kg = _LOOP_UNITS[system]
    bubble, dew = ([[round(h / j_kg, 2), round(p / pa, 3)] for p, h in line] for line in loop.dome(name))
    return {
        "refrigerant": refrigerant(name).name,
        "pressure_unit": pressure_unit,
        "enthalpy_unit": enthalpy_unit,
        "bubble": bubble,
        "dew": dew,
    }


def trend(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], practice: Practice, system: str, over: str
) -> dict[str, Any]:
    """Every drawn quantity of a machine against one handle, as plain data. Readings are those of perfect instruments.

    ``over`` is the id of a planted fault of the machine (its severity runs from normal to the worst accepted) or a
    field of the machine's weather. Answers {over, label, unit, xs, now, marks, series, trips, shows}: ``series`` rows
    have {id, label, unit, values, sound, band_low, band_high} with None where the machine cuts out; ``shows`` says
    where each figure first leaves what it was on the sound side ({id, verdict, at}). Raises BadInputError for an
    unknown handle.
    """
    planted = tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)
    ids = [f.id for f in planted]
    weather = {row["field"]: row for row in weather_of(machine)}
    if over in ids:
        handle: _Severity | _Weather = _Severity(machine, conditions, planted, over, system)
    elif over in weather:
        handle = _Weather(machine, conditions, planted, weather[over], system)
    else:
        raise BadInputError("over", over, ", ".join([*ids, *weather]))
    states = [(x, *handle.at(x)) for x in handle.xs]
    series = [_series(drawn.id, machine, states, practice, system) for drawn in _DRAWN]
    by_id = {row["id"]: row for row in series}
    return {
        "over": over,
        "label": handle.label,
        "unit": handle.unit,
        "xs": [handle.shown(x) for x in handle.xs],
        "now": handle.shown(handle.now),
        "marks": handle.marks,
        "trips": _trips(handle, states),
        "series": series,
        "shows": _shows(handle, machine, practice, by_id) if over in ids else [],
    }


class _Severity:
    """The severity of one planted fault as the handle: x in the fault's own unit."""

    def __init__(
        self, machine: Machine, conditions: Conditions, planted: tuple[Fault, ...], fault_id: str, system: str
    ) -> None:
        self.machine, self.conditions, self.planted, self.id = machine, conditions, planted, fault_id
        kind = fault_kind(fault_id).on(machine)
        self.own_unit, self.system = kind.unit, system
        self.label, self.unit = f"{kind.name}: {kind.parameter}", severity.shown(kind.unit, 0.0, system)[1]
        self.now = next(f.severity for f in planted if f.id == fault_id)
        even = [kind.fault_free + (kind.limit - kind.fault_free) * i / (_STEPS - 1) for i in range(_STEPS)]
        levels = {kind.mild, kind.moderate, kind.severe}
        self.xs = sorted({*even, *levels}, reverse=kind.limit < kind.fault_free)
        self.decimals = 1 if abs(kind.limit - kind.fault_free) > 20 else 2
        self.marks = [
            {"x": self.shown(getattr(kind, level)), "text": level} for level in ("mild", "moderate", "severe")
        ]
        self.fault_free = _solved(machine, conditions, tuple(f for f in planted if f.id != fault_id))

    def shown(self, x: float) -> float:
        return round(severity.shown(self.own_unit, x, self.system)[0], self.decimals)

    def at(self, x: float) -> tuple[CircuitState | None, CircuitState | None, Conditions]:
        """(state or None, sound state or None, conditions) at one severity."""
        if x == self.xs[0]:
            return self.fault_free, self.fault_free, self.conditions
        faults = tuple(replace(f, severity=x) if f.id == self.id else f for f in self.planted)
        return _solved(self.machine, self.conditions, faults), self.fault_free, self.conditions


class _Weather:
    """One temperature of the weather as the handle: x in K."""

    def __init__(
        self, machine: Machine, conditions: Conditions, planted: tuple[Any, ...], row: dict[str, Any], system: str
    ) -> None:
        self.machine, self.conditions, self.planted, self.system = machine, conditions, planted, system
        self.attribute = _HANDLES[row["field"]]
        self.label, self.unit = row["label"], units.SYSTEMS[system]["temperature"][0]
        self.now = getattr(conditions, self.attribute)
        low, high = units.f_to_k(row["low"]), units.f_to_k(row["high"])
        if self.attribute == "return_wet_bulb_k":
            high = min(high, conditions.return_k)
        elif self.attribute == "return_k" and not machine.refrigeration:
            low = max(low, conditions.return_wet_bulb_k)
        self.xs = [low + (high - low) * i / (_STEPS - 1) for i in range(_STEPS)]
        self.marks: list[dict[str, Any]] = []

    def shown(self, x: float) -> float:
        return round(units.to_display("temperature", x, self.system), 1)

    def at(self, x: float) -> tuple[CircuitState | None, CircuitState | None, Conditions]:
        """(state or None, sound state or None, conditions) at one temperature."""
        there = replace(self.conditions, **{self.attribute: x})
        if self.machine.refrigeration and self.attribute == "return_k":
            there = replace(there, return_wet_bulb_k=box_wet_bulb_k(self.machine.application, x, there.barometer_pa))
        return _solved(self.machine, there, self.planted), _solved(self.machine, there, ()), there


def _solved(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...]) -> CircuitState | None:
    """The state, or None where no balance is found."""
    try:
        return solve(machine, conditions, faults)
    except NoConvergenceError:
        return None


def _value(state: CircuitState | None, attribute: str, kind: str, system: str) -> float | None:
    if state is None or state.trip is not None:
        return None
    return round(units.to_display(kind, getattr(state, attribute), system, state.barometer_pa), 2)


def _bands_at(machine: Machine, practice: Practice, conditions: Conditions, system: str) -> dict[str, Band]:
    outdoor, wet = (
        units.to_display("temperature", k, system)
        for k in (met_outdoors_k(machine, conditions), conditions.return_wet_bulb_k)
    )
    return bands(machine, practice, system, outdoor, wet)


def _series(
    key: str,
    machine: Machine,
    states: list[tuple[float, CircuitState | None, CircuitState | None, Conditions]],
    practice: Practice,
    system: str,
) -> dict[str, Any]:
    drawn = QUANTITIES[key]
    label, attribute, kind = drawn.label, str(drawn.attribute), drawn.kind
    targets = [
        _bands_at(machine, practice, there, system).get(key) if key in FIGURES else None for _, _, _, there in states
    ]
    return {
        "id": key,
        "label": label,
        "unit": units.SYSTEMS[system][kind][0],
        "values": [_value(state, attribute, kind, system) for _, state, _, _ in states],
        "fault_free": [_value(fault_free, attribute, kind, system) for _, _, fault_free, _ in states],
        "band_low": [None if b is None else round(b.low, 2) for b in targets],
        "band_high": [None if b is None else round(b.high, 2) for b in targets],
    }


def _trips(
    handle: _Severity | _Weather, states: list[tuple[float, CircuitState | None, CircuitState | None, Conditions]]
) -> list[dict[str, Any]]:
    """Runs of x over which the machine cuts out: [{from, to, cutout}]."""
    found: list[Any] = []
    for x, state, _, _ in states:
        cutout = state.trip.cutout if state is not None and state.trip is not None else None
        if cutout is None:
            found.append(None)
        elif found and found[-1] is not None and found[-1]["cutout"] == cutout:
            found[-1]["to"] = handle.shown(x)
        else:
            found.append({"from": handle.shown(x), "to": handle.shown(x), "cutout": cutout})
    return [row for row in found if row is not None]


def _shows(
    handle: _Severity | _Weather, machine: Machine, practice: Practice, series: dict[str, dict[str, Any]]
) -> list[dict[str, Any]]:
    """Where each judged figure first takes another verdict than on the sound side,
    by bisection between the drawn points.
    """
    found = []
    targets = _bands_at(machine, practice, handle.conditions, "us")
    for key in FIGURES:
        if key not in targets or series[key]["values"][0] is None:
            continue

        def verdict(x: Any, key: Any = key) -> Any:
            return _verdict(handle, x, key, targets[key])

        first = verdict(handle.xs[0])
        turn = next((i for i in range(1, len(handle.xs)) if verdict(handle.xs[i]) not in (first, None)), None)
        if turn is None:
            continue
        before, after = handle.xs[turn - 1], handle.xs[turn]
        for _ in range(_HALVINGS):
            middle = 0.5 * (before + after)
            before, after = (before, middle) if verdict(middle) not in (first, None) else (middle, after)
        found.append(
            {
                "id": key,
                "label": series[key]["label"],
                "verdict": verdict(after),
                "was": first or NORMAL,
                "at": handle.shown(after),
            }
        )
    return found


def _verdict(handle: _Severity | _Weather, x: float, key: str, band: Band) -> str | None:
    drawn = QUANTITIES[key]
    value = _value(handle.at(x)[0], str(drawn.attribute), drawn.kind, "us")
    return None if value is None else band.verdict(value)
