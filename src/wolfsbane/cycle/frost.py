"""Ice on the evaporator: how it grows while the surface stays under freezing, and where that ends."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.state import CircuitState

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

FREEZING_K = 273.15
#: ice that closes the face of a coil altogether, kg for each kg/s of rated airflow (assumed); growth is followed in
#: steps
_ICE_TO_CLOSE_S = 7.0
_STEP, _CLOSED = 0.08, 0.88
#: part of the air-side conductance that a closed face loses (assumed)
_INSULATES = 0.6


@dataclass(frozen=True, kw_only=True)
class Stage:
    """One stage: after ``hours`` the share ``blocked`` of the face is iced and the machine stands at ``state``."""

    hours: float
    blocked: float
    state: CircuitState


@dataclass(frozen=True, kw_only=True)
class FrostGrowth:
    """Stages of growing ice. ``end``: no_frost, balance (surface thaws or air brings no more water), closed,
    cut_out or growing.
    """

    stages: tuple[Stage, ...]
    end: str


def grow(machine: Machine, conditions: Conditions, faults: tuple[Fault, ...] = (), hours: float = 6.0) -> FrostGrowth:
    """Let ice grow for up to ``hours`` of running. Needs a state that has not cut out.

    Each step freezes the water that leaves the air at the stage before; ice narrows the way of the air and insulates.
    """
    state = solve(machine, conditions, faults)
    stages, elapsed, blocked = [Stage(hours=0.0, blocked=0.0, state=state)], 0.0, 0.0
    if state.trip or state.equalized or state.surface_k >= FREEZING_K:
        return FrostGrowth(stages=tuple(stages), end="cut_out" if state.trip else "no_frost")
    closing_kg = to_close_kg(machine)
    while True:
        rate = state.airflow_kg_s * max(state.coil_air.humidity_ratio - state.supply_air.humidity_ratio, 0.0)
        if rate < 1e-6 * closing_kg:
            return FrostGrowth(stages=tuple(stages), end="balance")
        step_hours = _STEP * closing_kg / rate / 3600.0
        if elapsed + step_hours > hours:
            return FrostGrowth(stages=tuple(stages), end="growing")
        elapsed, blocked = elapsed + step_hours, blocked + _STEP
        try:
            state = solve(iced(machine, blocked), conditions, faults, start=state.solution)
        except NoConvergenceError:
            return FrostGrowth(stages=tuple(stages), end="closed")
        stages.append(Stage(hours=elapsed, blocked=blocked, state=state))
        if state.trip:
            return FrostGrowth(stages=tuple(stages), end="cut_out")
        if state.surface_k >= FREEZING_K:
            return FrostGrowth(stages=tuple(stages), end="balance")
        if blocked >= _CLOSED:
            return FrostGrowth(stages=tuple(stages), end="closed")


def to_close_kg(machine: Machine) -> float:
    """Ice that closes the whole face of the coil, kg (assumed)."""
    return _ICE_TO_CLOSE_S * machine.circuit.evaporator_air_kg_s * machine.circuits


def iced(machine: Machine, blocked: float) -> Machine:
    """The machine with the share ``blocked`` of its coil's face under ice."""
    circuit = machine.circuit
    return replace(
        machine,
        circuit=circuit._replace(
            evaporator_air_fraction=circuit.evaporator_air_fraction * (1.0 - blocked),
            evaporator_ua_air_w_k=circuit.evaporator_ua_air_w_k * (1.0 - _INSULATES * blocked),
        ),
    )
