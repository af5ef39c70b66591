"""Ice on the evaporator: how it grows while the surface stays under freezing, and where that ends."""

from __future__ import annotations

import math
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
#: ice that closes the face of a coil altogether, kg for each kg/s of rated airflow, and how many times that between the
#: wide fins of a box's coil; of an outdoor coil, a row or two deep with much air, so much less (assumed: some 4 kg on
#: three tons); growth is followed in steps
_ICE_TO_CLOSE_S, _WIDE_FINS, _THIN_COIL = 7.0, 2.5, 0.37
_STEP, _CLOSED = 0.08, 0.88
#: part of the air-side conductance that a closed face loses, and ice that does no harm, as a share of what closes it
#: (both assumed)
_INSULATES, _LIGHT = 0.6, 0.10
#: a box's clock starts a defrost this often, h (four a day: common practice, no source); it clears the coil
DEFROST_EVERY_H = 6.0


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

    Each step freezes the water that leaves the air at the stage before; ice narrows the way of the air and insulates. A
    box's clock defrosts on the way.
    """
    state = solve(machine, conditions, faults)
    stages = [Stage(hours=0.0, blocked=0.0, state=state)]
    if state.trip or state.equalized or state.surface_k >= FREEZING_K:
        return FrostGrowth(stages=tuple(stages), end="cut_out" if state.trip else "no_frost")
    closing_kg, elapsed, ice = to_close_kg(machine), 0.0, 0.0
    clock = DEFROST_EVERY_H if machine.refrigeration else math.inf
    while True:
        rate = freezing_kg_s(state)
        if rate < 1e-6 * closing_kg:
            return FrostGrowth(stages=tuple(stages), end="balance")
        step_hours = _STEP * closing_kg / rate / 3600.0
        due = clock - elapsed % clock if clock < math.inf else math.inf
        defrosts = due <= step_hours
        if elapsed + due >= hours if defrosts else elapsed + step_hours > hours:
            return FrostGrowth(stages=tuple(stages), end="growing")
        elapsed, ice = (elapsed + due, 0.0) if defrosts else (elapsed + step_hours, ice + _STEP)
        blocked = blocked_share(ice)
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


def freezing_kg_s(state: CircuitState) -> float:
    """Water that freezes on the coil, kg/s: all that leaves the air while the surface is below freezing."""
    if state.surface_k >= FREEZING_K:
        return 0.0
    return state.airflow_kg_s * max(state.coil_air.humidity_ratio - state.supply_air.humidity_ratio, 0.0)


def to_close_kg(machine: Machine) -> float:
    """Ice that closes the whole face of the coil, kg (assumed)."""
    wide = _WIDE_FINS if machine.refrigeration else _THIN_COIL if machine.in_heating else 1.0
    return wide * _ICE_TO_CLOSE_S * machine.circuit.evaporator_air_kg_s * machine.circuits


def blocked_share(ice: float) -> float:
    """Share of the face that is shut by ``ice``, a share of what closes it: a light frost shuts nothing."""
    return min(max((ice - _LIGHT) / (1.0 - _LIGHT), 0.0), 1.0)


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
