"""What the solver answers: a solved circuit, a machine at rest, or a machine that cuts out."""

from __future__ import annotations

from dataclasses import dataclass

from wolfsbane.cycle.air import MoistAir


@dataclass(frozen=True, kw_only=True)
class Trip:
    """The machine does not stay on: ``cutout`` is high_pressure, low_pressure, discharge_temperature or overload.

    ``after_s`` is an estimate from the assumed settling time (docs/model.md).
    """

    cutout: str
    after_s: float


@dataclass(frozen=True, kw_only=True)
class Receiver:
    """What the sight glass and the level show: ``holds`` is "liquid", "empty" or "full"; ``level`` 0 to 1."""

    holds: str
    level: float


@dataclass(frozen=True, kw_only=True)
class CircuitState:
    """One settled circuit. SI absolute: Pa, K, W, kg; shares are fractions of the coil's area.

    ``refrigerant`` is what is really in it, ``ring`` what the plate names and every dial is read on; saturation
    temperatures, superheat and subcooling are those of the PT scale, as a technician works them out. The suction line
    is clamped at the outdoor unit; on a heat pump at the compressor's own suction port, behind the reversing valve,
    since that is where its gauge hangs in cooling and in heating. ``trip`` is set when a cutout would open before this
    state is reached: then no reading may be shown. ``equalized`` is a machine under power whose compressor moves
    nothing. ``path`` is the loop the refrigerant runs, as (Pa, J/kg) at compressor inlet, discharge, condenser outlet,
    liquid line, valve inlet, evaporator inlet and outlet (see :mod:`wolfsbane.cycle.loop`); None at rest.
    """

    machine_id: str
    refrigerant: str
    pt_scale: str
    barometer_pa: float
    outdoor_k: float
    condenser_entering_k: float
    ctoa_from_k: float
    return_air: MoistAir
    coil_air: MoistAir
    supply_air: MoistAir
    supply_high_air: MoistAir
    supply_low_air: MoistAir

    suction_pa: float
    head_pa: float
    evaporating_pa: float
    condensing_pa: float
    suction_saturation_k: float
    liquid_saturation_k: float
    suction_line_k: float
    suction_before_valve_k: float
    evaporator_outlet_k: float
    evaporator_inlet_k: float
    condenser_outlet_k: float
    condenser_bend_k: float
    liquid_line_k: float
    after_drier_k: float
    discharge_line_k: float
    condenser_air_out_k: float
    blocked_air_k: float
    superheat_dk: float
    evaporator_superheat_dk: float
    subcooling_dk: float

    mass_flow_kg_s: float
    capacity_w: float
    sensible_w: float
    work_w: float
    power_w: float
    compressor_amps: float
    charge_kg: float
    evaporator_kg: float
    airflow_kg_s: float

    condenser_gas_share: float
    condenser_two_phase_share: float
    condenser_stream_share: float
    evaporator_boiling_share: float
    valve_inlet_quality: float
    sight_glass_quality: float
    valve_opening: float
    suction_quality: float
    surface_k: float
    frosting: bool
    flood_back: bool
    slugging: bool
    receiver: Receiver | None

    energy_residual: float
    mass_residual: float
    evaluations: int
    solution: tuple[float, ...] | None
    condenser_heat_w: float = 0.0
    equalized: bool = False
    trip: Trip | None = None
    twin: CircuitState | None = None
    path: tuple[tuple[float, float], ...] | None = None
    swing: tuple[CircuitState, ...] | None = None

    @property
    def condenser_liquid_share(self) -> float:
        """Share of the condenser that stands full of liquid."""
        return max(0.0, 1.0 - self.condenser_gas_share - self.condenser_two_phase_share)

    @property
    def drier_drop_dk(self) -> float:
        """Temperature drop across the liquid-line drier, K."""
        return self.liquid_line_k - self.after_drier_k

    @property
    def evaporator_td_dk(self) -> float:
        """Return air minus suction saturation (dew point), K."""
        return self.return_air.dry_bulb_k - self.suction_saturation_k

    @property
    def ctoa_dk(self) -> float:
        """Condensing saturation (bubble point) minus outdoor air (minus entering water where water cools), K."""
        return self.liquid_saturation_k - self.ctoa_from_k

    @property
    def air_delta_t_dk(self) -> float:
        """Return minus supply dry bulb, K."""
        return self.return_air.dry_bulb_k - self.supply_air.dry_bulb_k

    @property
    def condenser_rise_dk(self) -> float:
        """Leaving minus entering air or water of the condenser, K."""
        return self.condenser_air_out_k - self.condenser_entering_k

    @property
    def reversing_step_dk(self) -> float:
        """Suction gas after the reversing valve minus before it, K."""
        return self.suction_line_k - self.suction_before_valve_k
