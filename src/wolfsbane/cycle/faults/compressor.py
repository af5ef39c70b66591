"""Faults of the compressor and the reversing valve."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults.kind import Cause, FaultKind, Rig

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Circuit, Machine


def _any(machine: Machine) -> bool:
    return True


def _leak(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(leak_fraction=circuit.leak_fraction + pct / 100.0)


def _reversing(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(reversing_leak_fraction=circuit.reversing_leak_fraction + pct / 100.0)


def _pumping(circuit: Circuit, pct: float) -> Circuit:
    return circuit._replace(pumping_share=circuit.pumping_share * pct / 100.0)


_SHELL = "The shell and the discharge line burn. Capacitors hold their charge."
KINDS = (
    FaultKind(
        id="leaking_compressor_valves",
        name="Weak compressor (valves)",
        parameter="discharge gas leaking back at 250 psi difference",
        unit="%",
        fault_free=0,
        limit=75,
        mild=28,
        moderate=36,
        severe=45,
        part="compressor",
        suits=_any,
        suits_text="any machine",
        apply=_leak,
        causes=(
            Cause(id="worn_valves", look="Old, hot shell, noisy.", checks={"compressor_sound": "noisy"}),
            Cause(id="broken_reed", look="Clatters since a flooded start.", checks={"compressor_sound": "noisy"}),
            Cause(id="scroll_worn", look="Quiet but hot."),
        ),
        effect="Discharge gas leaks back to suction inside the compressor: suction up, head down, little cooling.",
        tests=("pump_down", "compressor_sound", "amps", "airflow"),
        remedy="Confirm with a pump-down before condemning the compressor",
        hazard="Do not pump down past the low-pressure cutout. The discharge line can burn you.",
        rig=Rig(
            plant="Crack the bypass valve from discharge to suction.",
            undo="Close it and replace the cap.",
            settle_min=12,
            limits="Keep discharge temperature below 220 °F.",
        ),
    ),
    FaultKind(
        id="compressor_not_pumping",
        name="Compressor not pumping",
        parameter="pumping capacity remaining",
        unit="%",
        fault_free=100,
        limit=0,
        mild=30,
        moderate=12,
        severe=0,
        part="compressor",
        suits=_any,
        suits_text="any machine",
        apply=_pumping,
        causes=(
            Cause(id="broken_shaft", look="Hums, draws little."),
            Cause(
                id="scroll_backwards",
                look="Three-phase unit; loud since the electrician worked on the service.",
                checks={"compressor_sound": "noisy"},
            ),
            Cause(id="internal_relief_open", look="Very hot shell."),
        ),
        effect="Suction and head stay nearly equal with the compressor running.",
        tests=("pump_down", "amps", "compressor_sound"),
        remedy="Check phase rotation and the internal relief before condemning the compressor",
        hazard=_SHELL,
        rig=Rig(
            plant="Leave the compressor disconnected with the fans running (instructor only).",
            undo="Reconnect it.",
            settle_min=5,
            limits="Lockout/tagout on the disconnect.",
        ),
    ),
    FaultKind(
        id="reversing_valve_leak",
        name="Reversing valve leaking",
        parameter="discharge gas leaking to suction at 250 psi difference",
        unit="%",
        fault_free=0,
        limit=75,
        mild=24,
        moderate=32,
        severe=42,
        part="reversing valve",
        suits=lambda m: m.application.startswith("heat_pump"),
        suits_text="a heat pump",
        apply=_reversing,
        stands_for="leaking_compressor_valves",
        causes=(Cause(id="slide_worn", look="Valve body warm all over."), Cause(id="stuck_midway", look="Hisses.")),
        effect="Hot gas leaks into the suction line at the valve; otherwise it reads like a weak compressor.",
        tests=("reversing_valve_step", "pump_down"),
        remedy="Measure the suction temperature rise across the valve, then replace the valve",
        hazard="Brazing next to a valve: recover first, wet rag on the valve, nitrogen flowing.",
        rig=Rig(
            plant="Crack the bypass valve at the reversing valve.",
            undo="Close it and replace the cap.",
            settle_min=12,
            limits="Keep discharge temperature below 220 °F.",
        ),
    ),
)
