"""A machine: its circuit parameters (what the solver needs) and its plate (what the apprentice sees)."""

from dataclasses import dataclass
from typing import NamedTuple


class Circuit(NamedTuple):
    """Physical parameters of one circuit, SI. All assumed unless docs/model.md says otherwise.

    Temperatures K, UA W/K, volumes m3, mass kg, pressures Pa, areas m2, air flows kg/s at sea level.
    """

    mass_flow_ref_kg_s: float
    charge_kg: float
    # compressor
    displacement_m3_s: float
    volumetric_a: float
    volumetric_b: float
    isentropic_peak: float
    isentropic_fall: float
    isentropic_best_ratio: float
    shell_loss: float
    leak_fraction: float
    leak_reference_pa: float
    shell_volume_m3: float
    oil_kg: float
    oil_solubility_per_mpa: float
    # condenser
    condenser_air_kg_s: float
    condenser_air_fraction: float
    condenser_ua_air_w_k: float
    condenser_ua_two_phase_w_k: float
    condenser_ua_gas_w_k: float
    condenser_ua_liquid_w_k: float
    condenser_volume_m3: float
    # liquid line
    liquid_line_volume_m3: float
    restriction_pa_at_ref: float
    # expansion: a valve has valve_fixed_opening < 0, otherwise the opening is fixed
    expansion_area_m2: float
    throat_ratio: float
    valve_fixed_opening: float
    valve_static_superheat_k: float
    valve_superheat_range_k: float
    # evaporator
    evaporator_air_kg_s: float
    evaporator_air_fraction: float
    evaporator_ua_air_w_k: float
    evaporator_ua_two_phase_w_k: float
    evaporator_ua_gas_w_k: float
    evaporator_volume_m3: float
    blower_w: float
    # suction line
    suction_line_volume_m3: float
    suction_line_ua_w_k: float
    suction_line_ambient_k: float
    suction_drop_pa_at_ref: float
    suction_drop_density_kg_m3: float


@dataclass(frozen=True, kw_only=True)
class Plate:
    """What stands on the machine's plate. Temperature differences in K, mass in kg, cut-outs in Pa gauge / K."""

    model: str
    capacity_w: float
    factory_charge_kg: float
    target_subcooling_dk: float | None
    rated_amps: float
    high_cutout_gauge_pa: float
    low_cutout_gauge_pa: float
    discharge_cutout_k: float
    design_airflow_m3_s: float


@dataclass(frozen=True, kw_only=True)
class Machine:
    """A machine profile: ``metering`` is txv or fixed_orifice, ``condenser`` tube_and_fin."""

    id: str
    name: str
    refrigerant: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    volts: float
    power_factor: float
    magnetising_amps: float
    plate: Plate
    circuit: Circuit
