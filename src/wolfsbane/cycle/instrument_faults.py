"""Instrument trouble: it changes what is read and never the machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults.kind import Cause, Graded
from wolfsbane.cycle.standing import standing_pa
from wolfsbane.cycle.units import PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState


@dataclass(frozen=True, kw_only=True)
class InstrumentFault(Graded):
    """A family of instrument trouble. ``apply(values, machine, state, severity, cause)`` changes a dict of SI readings.

    ``seen`` says how a careful technician notices it, ``remedy`` what to do, ``rig`` how to plant it in a lesson.
    """

    id: str
    name: str
    parameter: str
    unit: str
    fault_free: float
    limit: float
    mild: float
    moderate: float
    severe: float
    causes: tuple[Cause, ...]
    seen: str
    remedy: str
    rig: str
    apply: Callable[..., Any]


#: the needle's lower stop, Pa absolute: no gauge shows less than nothing
_STOP_PA = 500.0


def _not_zeroed(values: dict[str, float], machine: Machine, state: CircuitState, psi: float, cause: str) -> None:
    key = "head_pressure" if cause == "high_gauge" else "suction_pressure"
    values[key] = max(values[key] + psi * PA_PER_PSI, _STOP_PA)


def _absolute(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    for key in ("suction_pressure", "head_pressure"):
        values[key] += state.barometer_pa * pct / 100.0


def _core(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    """What passed the core before the machine was started stays in the hose: the pressure of rest."""
    key = "head_pressure" if cause == "high_port" else "suction_pressure"
    rest = standing_pa(machine.circuit, state.refrigerant, min(state.outdoor_k, state.return_air.dry_bulb_k))
    values[key] += (rest - values[key]) * pct / 100.0


def _clamp_loose(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    key = "liquid_line" if cause == "liquid_clamp" else "suction_line"
    values[key] += (state.outdoor_k - values[key]) * pct / 100.0


def _wrong_line(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    values["liquid_line"] += (state.discharge_line_k - values["liquid_line"]) * pct / 100.0


def _swapped(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    values["suction_pressure"], values["head_pressure"] = values["head_pressure"], values["suction_pressure"]


def _disagree(values: dict[str, float], machine: Machine, state: CircuitState, df: float, cause: str) -> None:
    values["supply_db"] += df / 1.8


def _ring_only(values: dict[str, float], machine: Machine, state: CircuitState, pct: float, cause: str) -> None:
    """The pressures are right; only the saturation PT scale is another one (see :func:`ring_of`)."""


_ON = {"fault_free": 0, "limit": 100, "mild": 100, "moderate": 100, "severe": 100}
_ALL = (
    InstrumentFault(
        id="gauge_not_zeroed",
        name="Gauge not zeroed",
        parameter="gauge reads high by",
        unit="psi",
        fault_free=-30,
        limit=30,
        mild=4,
        moderate=8,
        severe=15,
        causes=(
            Cause(id="low_gauge", look="Needle off zero on the bench."),
            Cause(id="high_gauge", look="Needle off zero on the bench."),
        ),
        seen="Open to the air, the needle is not on zero.",
        remedy="Zero it and read again",
        rig="Turn the zero screw before class.",
        apply=_not_zeroed,
    ),
    InstrumentFault(
        id="absolute_pressure_read",
        name="Gauge set to absolute pressure",
        parameter="share of atmospheric pressure added",
        unit="%",
        **_ON,
        causes=(Cause(id="set_to_absolute", look="The display says abs."),),
        seen="Open to the air it reads about 14.7.",
        remedy="Set the manifold to gauge pressure",
        rig="Set the digital manifold to absolute.",
        apply=_absolute,
    ),
    InstrumentFault(
        id="core_not_depressed",
        name="Valve core not depressed",
        parameter="share of the pressure that does not reach the gauge",
        unit="%",
        fault_free=0,
        limit=100,
        mild=35,
        moderate=65,
        severe=100,
        causes=(
            Cause(id="low_port", look="Needle does not move at start-up."),
            Cause(id="high_port", look="Needle does not move at start-up."),
        ),
        seen="Pressure does not change when the machine starts.",
        remedy="Seat the hose so that its pin opens the core",
        rig="Fit a hose with a short depressor.",
        apply=_core,
    ),
    InstrumentFault(
        id="clamp_loose",
        name="Bad clamp contact",
        parameter="share of the way to the surrounding air",
        unit="%",
        fault_free=0,
        limit=100,
        mild=15,
        moderate=30,
        severe=50,
        causes=(
            Cause(id="suction_clamp", look="Clamp turns on the pipe."),
            Cause(id="liquid_clamp", look="Clamp turns on the pipe."),
        ),
        seen="The reading moves when the clamp is touched or shaded.",
        remedy="Clean pipe, tight clamp, insulation over it",
        rig="Clip the clamp over paint.",
        apply=_clamp_loose,
    ),
    InstrumentFault(
        id="clamp_wrong_line",
        name="Liquid clamp on the discharge line",
        parameter="clamp on the wrong line",
        unit="%",
        **_ON,
        causes=(Cause(id="discharge_line", look="The clamp is on the hot line."),),
        seen="Subcooling comes out far below zero.",
        remedy="Put the clamp on the liquid line",
        rig="Clamp it on the wrong line.",
        apply=_wrong_line,
    ),
    InstrumentFault(
        id="wrong_refrigerant_scale",
        name="Wrong refrigerant on the scale",
        parameter="scale set to another refrigerant",
        unit="%",
        **_ON,
        causes=(Cause(id="last_job", look="The display shows a different refrigerant than the nameplate."),),
        seen="Saturation and pressure do not match the PT chart.",
        remedy="Select the nameplate's refrigerant",
        rig="Set the manifold to another refrigerant.",
        apply=_ring_only,
    ),
    InstrumentFault(
        id="hoses_swapped",
        name="Hoses swapped",
        parameter="hoses swapped",
        unit="%",
        **_ON,
        causes=(Cause(id="blue_on_liquid", look="Blue hose on the small line."),),
        seen="The low-side gauge reads higher than the high-side gauge.",
        remedy="Blue to the large insulated line, red to the small one",
        rig="Swap the hoses on a machine at rest only.",
        apply=_swapped,
    ),
    InstrumentFault(
        id="thermometers_disagree",
        name="Two thermometers disagree",
        parameter="supply probe reads high by",
        unit="°F",
        fault_free=-10,
        limit=10,
        mild=2,
        moderate=4,
        severe=6,
        causes=(Cause(id="uncalibrated", look="Side by side they differ."),),
        seen="Side by side in the same airstream they read different.",
        remedy="Measure both sides with one thermometer",
        rig="Hand out two probes that do not match.",
        apply=_disagree,
    ),
)
INSTRUMENT_FAULTS = {kind.id: kind for kind in _ALL}


def of_machine(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Those of ``faults`` that are the machine's own."""
    return tuple(f for f in faults if f.id not in INSTRUMENT_FAULTS)


def of_instruments(faults: tuple[Fault, ...]) -> tuple[Fault, ...]:
    """Those of ``faults`` that are trouble of an instrument."""
    return tuple(f for f in faults if f.id in INSTRUMENT_FAULTS)


def disturb(
    values: dict[str, float], machine: Machine, state: CircuitState, faults: tuple[Fault, ...]
) -> dict[str, float]:
    """A changed copy of ``values`` (key -> SI) under instrument ``faults`` (Fault with id, severity and cause).

    Raises BadInputError for one that is unknown.
    """
    values = dict(values)
    for fault in faults:
        if fault.id not in INSTRUMENT_FAULTS:
            raise BadInputError("instrument fault", fault.id, ", ".join(INSTRUMENT_FAULTS))
        kind = INSTRUMENT_FAULTS[fault.id]
        kind.apply(values, machine, state, kind.level(fault.severity), kind.cause(fault.cause).id)
    return values


def scale_of(machine: Machine, faults: tuple[Fault, ...]) -> str:
    """The refrigerant whose saturation scale is read: the plate's, unless the scale is set wrong."""
    wrong = any(fault.id == "wrong_refrigerant_scale" for fault in faults)
    return machine.substitute if wrong and machine.substitute else machine.refrigerant
