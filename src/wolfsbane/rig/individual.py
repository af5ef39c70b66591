"""What makes one machine of a profile differ from the next: coils, air, compressor, charge, metering and lines."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Mapping

    from wolfsbane.cycle.machine import Machine


@dataclass(frozen=True, kw_only=True)
class Parameter:
    """One number in which machines of a kind differ: a factor on some fields of the circuit. ``spread`` is how far
    machines usually are apart, as a share (assumed); ``words`` names it.
    """

    id: str
    words: str
    fields: tuple[str, ...]
    spread: float = 0.08


PARAMETERS = {
    p.id: p
    for p in (
        Parameter(
            id="condenser",
            words="outdoor coil",
            fields=(
                "condenser_ua_air_w_k",
                "condenser_ua_two_phase_w_k",
                "condenser_ua_gas_w_k",
                "condenser_ua_liquid_w_k",
            ),
        ),
        Parameter(id="condenser_air", words="air over the outdoor coil", fields=("condenser_air_kg_s",)),
        Parameter(
            id="evaporator",
            words="indoor coil",
            fields=("evaporator_ua_air_w_k", "evaporator_ua_two_phase_w_k", "evaporator_ua_gas_w_k"),
        ),
        Parameter(id="evaporator_air", words="indoor airflow", fields=("evaporator_air_kg_s",)),
        Parameter(id="compressor", words="what the compressor moves", fields=("displacement_m3_s",), spread=0.05),
        Parameter(id="efficiency", words="how well it compresses", fields=("isentropic_peak",), spread=0.05),
        Parameter(id="charge", words="charge", fields=("charge_kg",)),
        Parameter(id="metering", words="metering device", fields=("expansion_area_m2",), spread=0.05),
        Parameter(
            id="line", words="drop in the lines", fields=("suction_drop_pa_at_ref", "restriction_pa_at_ref"), spread=0.2
        ),
    )
}


@dataclass(frozen=True, kw_only=True)
class Individual:
    """One machine of a profile: ``factors`` of :data:`PARAMETERS` (1 where none stands), ``superheat_dk`` its valve is
    set higher than the profile's, K, and ``offsets`` its channels show too much, SI, by point.
    """

    factors: Mapping[str, float] = field(default_factory=dict)
    superheat_dk: float = 0.0
    offsets: Mapping[str, float] = field(default_factory=dict)

    def machine(self, profile: Machine) -> Machine:
        """The profile as this one is."""
        circuit = profile.circuit
        for name, factor in self.factors.items():
            circuit = circuit._replace(**{f: getattr(circuit, f) * factor for f in PARAMETERS[name].fields})
        circuit = circuit._replace(valve_static_superheat_k=circuit.valve_static_superheat_k + self.superheat_dk)
        return replace(profile, circuit=circuit)
