"""The machine profiles that ship with Wolfsbane. Parameters are assumed (tuned to plausible ratings, not to tests)."""

from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.machine import Circuit, Machine, Plate
from wolfsbane.cycle.units import KG_PER_OZ, PA_PER_PSI, W_PER_BTUH, f_to_k

_LITRE = 1e-3

_THREE_TON = Circuit(
    mass_flow_ref_kg_s=0.064, charge_kg=3.375,
    displacement_m3_s=1.84e-3, volumetric_a=0.98, volumetric_b=0.015,
    isentropic_peak=0.72, isentropic_fall=0.25, isentropic_best_ratio=2.6, shell_loss=0.06,
    leak_fraction=0.0, leak_reference_pa=1.7e6, shell_volume_m3=4.0 * _LITRE, oil_kg=1.0, oil_solubility_per_mpa=0.12,
    condenser_air_kg_s=1.55, condenser_air_fraction=1.0, condenser_ua_air_w_k=4000.0,
    condenser_ua_two_phase_w_k=9000.0, condenser_ua_gas_w_k=1500.0, condenser_ua_liquid_w_k=2500.0,
    condenser_volume_m3=6.0 * _LITRE,
    liquid_line_volume_m3=0.23 * _LITRE, restriction_pa_at_ref=0.0,
    expansion_area_m2=1.547e-6, throat_ratio=0.5, valve_fixed_opening=-1.0,
    valve_static_superheat_k=2.5, valve_superheat_range_k=4.5,
    evaporator_air_kg_s=0.65, evaporator_air_fraction=1.0, evaporator_ua_air_w_k=1150.0,
    evaporator_ua_two_phase_w_k=2600.0, evaporator_ua_gas_w_k=450.0, evaporator_volume_m3=5.0 * _LITRE, blower_w=400.0,
    suction_line_volume_m3=1.1 * _LITRE, suction_line_ua_w_k=5.0, suction_line_ambient_k=f_to_k(85.0),
    suction_drop_pa_at_ref=30e3, suction_drop_density_kg_m3=35.0,
)


def _plate(model, charge_kg, subcooling_df, high_psig, low_psig):
    return Plate(
        model=model, capacity_w=36_000 * W_PER_BTUH, factory_charge_kg=round(charge_kg / KG_PER_OZ) * KG_PER_OZ,
        target_subcooling_dk=None if subcooling_df is None else subcooling_df / 1.8, rated_amps=14.1,
        high_cutout_gauge_pa=high_psig * PA_PER_PSI, low_cutout_gauge_pa=low_psig * PA_PER_PSI,
        discharge_cutout_k=f_to_k(275.0), design_airflow_m3_s=1150 * 0.3048**3 / 60)


def _split(id_, name, refrigerant, metering, plate, circuit):
    return Machine(
        id=id_, name=name, refrigerant=refrigerant, metering=metering, application="air_conditioner",
        condenser="tube_and_fin", receiver=False, volts=230.0, power_factor=0.97, magnetising_amps=2.5,
        plate=plate, circuit=circuit)


_R22 = _THREE_TON._replace(
    charge_kg=3.07, displacement_m3_s=2.77e-3, expansion_area_m2=1.83e-6, suction_drop_pa_at_ref=20e3,
    suction_drop_density_kg_m3=24.0)

_ALL = (
    _split("split-3t-r410a-txv", "Larkspur 36 with valve", "R-410A", "txv",
           _plate("LKS-36T", 3.375, 10.0, 610.0, 50.0), _THREE_TON),
    _split("split-3t-r410a-orifice", "Larkspur 36 with orifice", "R-410A", "fixed_orifice",
           _plate("LKS-36P", 3.375, None, 610.0, 50.0),
           _THREE_TON._replace(expansion_area_m2=1.160e-6, valve_fixed_opening=1.0)),
    _split("split-3t-r22-txv", "Teasel 36 with valve", "R-22", "txv",
           _plate("TSL-36T", 3.07, 10.0, 400.0, 25.0), _R22),
)
MACHINES = {machine.id: machine for machine in _ALL}


def machine(machine_id):
    """The profile called ``machine_id``; raises BadInputError for an unknown one."""
    if machine_id not in MACHINES:
        raise BadInputError("machine", machine_id, ", ".join(MACHINES))
    return MACHINES[machine_id]
