"""What the solver answers: a solved circuit, or a machine that cuts out."""

from dataclasses import dataclass

from wolfsbane.cycle.air import MoistAir


@dataclass(frozen=True, kw_only=True)
class Trip:
    """The machine does not stay on: ``cutout`` is high_pressure, low_pressure or discharge_temperature.

    ``after_s`` is an estimate from the assumed settling time (docs/model.md).
    """

    cutout: str
    after_s: float


@dataclass(frozen=True, kw_only=True)
class CircuitState:
    """One settled circuit. SI absolute: Pa, K, W, kg; shares are fractions of the coil's area.

    ``trip`` is set when a cut-out would open before this state is reached: then no reading may be shown.
    """

    machine_id: str
    refrigerant: str
    barometer_pa: float
    outdoor_k: float
    return_air: MoistAir
    supply_air: MoistAir

    suction_pa: float
    head_pa: float
    evaporating_pa: float
    suction_saturation_k: float
    liquid_saturation_k: float
    suction_line_k: float
    evaporator_outlet_k: float
    liquid_line_k: float
    after_drier_k: float
    discharge_line_k: float
    condenser_air_out_k: float
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

    condenser_gas_share: float
    condenser_two_phase_share: float
    evaporator_boiling_share: float
    valve_inlet_quality: float
    suction_quality: float
    surface_k: float
    frosting: bool
    flood_back: bool

    energy_residual: float
    mass_residual: float
    evaluations: int
    trip: Trip | None = None

    @property
    def condenser_liquid_share(self):
        """Share of the condenser that stands full of liquid."""
        return 1.0 - self.condenser_gas_share - self.condenser_two_phase_share

    @property
    def drier_drop_dk(self):
        """Temperature drop across the liquid-line drier, K."""
        return self.liquid_line_k - self.after_drier_k

    @property
    def evaporator_td_dk(self):
        """Return air minus suction saturation (dew point), K."""
        return self.return_air.dry_bulb_k - self.suction_saturation_k

    @property
    def ctoa_dk(self):
        """Condensing saturation (bubble point) minus outdoor air, K."""
        return self.liquid_saturation_k - self.outdoor_k

    @property
    def air_delta_t_dk(self):
        """Return minus supply dry bulb, K."""
        return self.return_air.dry_bulb_k - self.supply_air.dry_bulb_k
