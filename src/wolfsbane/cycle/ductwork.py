"""Airflow and static pressure as a technician measures them. Assumed curves, see docs/model.md."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import Fault

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: blower's static pressure at shut-off against that at the design point, and the air's density at 70 degF, kg/m3
_SHUT_OFF, _DENSITY = 2.0, 1.20
#: causes that slow the blower instead of blocking the way
_SLOW = ("belt", "speed_tap", "blower_wheel")


def airflow_m3_s(machine: Machine, state: CircuitState) -> float:
    """Supply airflow, m3/s: the plate's design airflow at the share the solved machine moves. In heating the indoor air
    goes over the condenser.
    """
    if machine.in_heating:
        return machine.plate.design_airflow_m3_s * state.condenser_stream_share
    fault_free = machine.circuit.evaporator_air_kg_s * machine.circuits * state.barometer_pa / 101_325.0
    return machine.plate.design_airflow_m3_s * state.airflow_kg_s / fault_free


def static_pa(machine: Machine, state: CircuitState, faults: tuple[Fault, ...]) -> float | None:
    """Total external static pressure, Pa, or None without ducts.

    At design airflow the plate's limit times 0.8 (assumed). Blocked, the blower climbs its curve; slowed, the pressure
    falls with the square of the flow.
    """
    if machine.plate.max_static_pa is None:
        return None
    share = airflow_m3_s(machine, state) / machine.plate.design_airflow_m3_s
    design = 0.8 * machine.plate.max_static_pa
    slow = any(f.id == "low_airflow" and f.cause in _SLOW for f in faults)
    return design * share**2 if slow else design * (_SHUT_OFF - (_SHUT_OFF - 1.0) * share**2)
