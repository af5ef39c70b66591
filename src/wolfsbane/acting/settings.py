"""The settings of a machine's controls as a technician reads them off."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import SYSTEMS, to_display

if TYPE_CHECKING:
    from wolfsbane.cycle.controls import Controls, Defrost

_KINDS = {
    "off_cycle": "off cycle, fans on",
    "electric": "electric heaters",
    "hot_gas": "hot gas",
    "reverse": "in reverse, outdoor fan off",
}
#: a defrost that would start after more than this never does, s
_NEVER_S = 1e8


def setting_rows(controls: Controls, system: str) -> list[dict[str, str]]:
    """Rows {id, name, text} in the units of ``system``, those that the machine has."""
    unit = SYSTEMS[system]

    def degrees(k: float) -> str:
        return f"{to_display('temperature', k, system):.0f} {unit['temperature'][0]}"

    def pressure(gauge_pa: float) -> str:
        shown = to_display("pressure", gauge_pa + 101_325.0, system, 101_325.0)
        return f"{shown:.0f} {unit['pressure'][0]}"

    cold, warm = (degrees(controls.set_k + sign * controls.differential_k) for sign in (-1.0, 1.0))
    first, then = (cold, warm) if controls.heats else (warm, cold)
    rows = [("thermostat", "Thermostat", f"calls at {first}, satisfied at {then}")]
    if controls.second_stage is not None:
        more = to_display("difference", controls.second_stage.beyond_k, system)
        after = controls.second_stage.after_s / 60.0
        rows.append(
            ("high_stage", "High stage", f"{more:.1f} {unit['difference'][0]} beyond, or after {after:.0f} min")
        )
    if controls.pump_down:
        rows.append(("solenoid", "Liquid solenoid", "shuts when satisfied: pumps down"))
    if controls.opens_pa is not None and controls.closes_pa is not None:
        text = f"cuts out at {pressure(controls.opens_pa)}, in at {pressure(controls.closes_pa)}"
        rows.append(("low_pressure", "Low-pressure control", text))
    if controls.defrost is not None:
        rows += _defrost_rows(controls.defrost, degrees)
    return [{"id": row[0], "name": row[1], "text": row[2]} for row in rows]


def _defrost_rows(defrost: Defrost, degrees: Callable[[float], str]) -> list[tuple[str, str, str]]:
    every = "by demand" if defrost.demand else f"every {defrost.every_s / 3600.0:g} h"
    if defrost.every_s > _NEVER_S and not defrost.demand:
        every = "never"
    ends = f"ends at {degrees(defrost.ends_at_k)} or" if defrost.ends_at_k < 400.0 else "ends"
    rows = [
        ("defrost", "Defrost", f"{_KINDS[defrost.kind]}, {every}; {ends} after {defrost.longest_s / 60.0:.0f} min"),
    ]
    if defrost.drip_s > 0.0:
        rows.append(("drip", "Drip", f"{defrost.drip_s / 60.0:.0f} min"))
        waits = "at once" if defrost.fans_at_k is None else f"at {degrees(defrost.fans_at_k)} coil"
        rows.append(("fans", "Fans start", waits))
    return rows
