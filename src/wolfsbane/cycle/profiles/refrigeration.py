"""Machines that cool boxes: walk-ins with a receiver and head-pressure control; what they share with sealed ones."""

from __future__ import annotations

from typing import Any

from wolfsbane.cycle.machine import Circuit, Expectations, Machine
from wolfsbane.cycle.profiles.plates import plate
from wolfsbane.cycle.profiles.tuned import TUNED
from wolfsbane.cycle.units import PA_PER_PSI, STANDARD_ATMOSPHERE_PA, f_to_k

_LITRE = 1e-3

WALK_IN = Circuit(
    mass_flow_ref_kg_s=0.032,
    charge_kg=4.5,
    displacement_m3_s=1.7e-3,
    volumetric_a=0.94,
    volumetric_b=0.06,
    volumetric_exponent=1 / 1.12,
    isentropic_peak=0.66,
    isentropic_fall=0.2,
    isentropic_best_ratio=3.2,
    shell_loss=0.10,
    leak_fraction=0.0,
    leak_reference_pa=1.2e6,
    shell_volume_m3=3.0 * _LITRE,
    oil_kg=0.8,
    oil_solubility_per_mpa=0.10,
    condenser_air_kg_s=0.62,
    condenser_air_fraction=1.0,
    condenser_ua_air_w_k=1100.0,
    condenser_ua_two_phase_w_k=2600.0,
    condenser_ua_gas_w_k=350.0,
    condenser_ua_liquid_w_k=500.0,
    condenser_volume_m3=2.2 * _LITRE,
    liquid_line_volume_m3=0.35 * _LITRE,
    restriction_pa_at_ref=0.0,
    liquid_line_ua_w_k=10.0,
    expansion_area_m2=1.037e-6,
    throat_ratio=0.5,
    valve_fixed_opening=-1.0,
    valve_static_superheat_k=2.5,
    valve_superheat_range_k=4.5,
    evaporator_air_kg_s=1.0,
    evaporator_air_fraction=1.0,
    evaporator_ua_air_w_k=900.0,
    evaporator_ua_two_phase_w_k=1300.0,
    evaporator_ua_gas_w_k=220.0,
    evaporator_volume_m3=3.5 * _LITRE,
    blower_w=250.0,
    suction_line_volume_m3=1.5 * _LITRE,
    suction_line_ua_w_k=4.0,
    suction_line_ambient_k=f_to_k(80.0),
    suction_drop_pa_at_ref=15e3,
    suction_drop_density_kg_m3=25.0,
    receiver_volume_m3=4.5 * _LITRE,
)
_FREEZER = WALK_IN._replace(
    mass_flow_ref_kg_s=0.022,
    displacement_m3_s=2.6e-3,
    expansion_area_m2=7e-7,
    suction_drop_pa_at_ref=7e3,
    suction_drop_density_kg_m3=10.0,
    suction_line_ambient_k=f_to_k(60.0),
    suction_line_ua_w_k=3.0,
    isentropic_best_ratio=5.0,
    volumetric_b=0.045,
    condenser_air_kg_s=0.5,
)
_TD_BANDS = {
    "walk_in_cooler": (8 / 1.8, 20 / 1.8),
    "walk_in_freezer": (8 / 1.8, 20 / 1.8),
    "reach_in": (22 / 1.8, 32 / 1.8),
}
_CTOA = {
    "walk_in_cooler": (15 / 1.8, 25 / 1.8),
    "walk_in_freezer": (10 / 1.8, 22 / 1.8),
    "reach_in": (24 / 1.8, 34 / 1.8),
}
#: TD for one degree more in the room: a capillary tube feeds more at a higher head (as solved; assumed)
_TD_SLOPES = {"reach_in": -0.33}
_SUPERHEAT = {
    "walk_in_cooler": (12 / 1.8, 26 / 1.8),
    "walk_in_freezer": (14 / 1.8, 32 / 1.8),
    "reach_in": (55 / 1.8, 76 / 1.8),
}
_SUBSTITUTES = {
    "R-404A": "R-448A",
    "R-448A": "R-404A",
    "R-449A": "R-404A",
    "R-134a": "R-404A",
    "R-290": "R-134a",
    "R-600a": "R-134a",
}


def _head_control(circuit: Circuit, low_psig: Any, high_psig: Any) -> Any:
    """A fan-speed controller that lets the fan run from ``low_psig`` and gives it full speed at ``high_psig``."""
    return circuit._replace(head_control_low_pa=_absolute(low_psig), head_control_high_pa=_absolute(high_psig))


def _fan_cycling(circuit: Circuit, off_psig: float, on_psig: float) -> Circuit:
    """A pressure switch that stops the fan below ``off_psig`` and starts it above ``on_psig``."""
    return circuit._replace(fan_off_below_pa=_absolute(off_psig), fan_on_above_pa=_absolute(on_psig))


def _flooded(circuit: Circuit, psig: float, span_psi: float) -> Circuit:
    """A regulator that floods the condenser below ``psig``, altogether ``span_psi`` under it."""
    return circuit._replace(flood_below_pa=_absolute(psig), flood_span_pa=span_psi * PA_PER_PSI)


def _absolute(psig: float) -> float:
    return psig * PA_PER_PSI + STANDARD_ATMOSPHERE_PA


def cooling_a_box(
    id_: Any,
    name: str,
    refrigerant: Any,
    metering: Any,
    application: Any,
    circuit: Circuit,
    btuh: Any,
    model: Any,
    *,
    amps: Any,
    rating_f: Any,
    cutouts_psig: Any,
    superheat_df: Any = None,
    subcooling_df: Any = None,
    volts: float = 230.0,
    notes: str = "",
    fan_w: float = 70.0,
    defrost: str = "",
    td_df: tuple[float, float] | None = None,
    total_superheat_df: tuple[float, float] | None = None,
) -> Any:
    """A machine that cools a box; ``rating_f`` is the air around it, the box, its wet bulb, degrees F."""
    circuit = circuit._replace(**TUNED.get(id_, {}))
    outdoor, box, wet_bulb = (f_to_k(v) for v in rating_f)
    return Machine(
        id=id_,
        name=name,
        refrigerant=refrigerant,
        metering=metering,
        application=application,
        condenser="tube_and_fin",
        receiver=circuit.receiver_volume_m3 > 0.0,
        volts=volts,
        power_factor=0.9,
        magnetizing_amps=0.25 * amps,
        outdoor_fan_w=fan_w,
        substitute=_SUBSTITUTES[refrigerant],
        rating=(outdoor, box, wet_bulb, None),
        expectations=Expectations(
            evaporator_td_dk=_TD_BANDS[application] if td_df is None else (td_df[0] / 1.8, td_df[1] / 1.8),
            ctoa_dk=_CTOA[application],
            evaporator_td_slope=_TD_SLOPES.get(application, 0.0),
            total_superheat_dk=(
                _SUPERHEAT[application]
                if total_superheat_df is None
                else (total_superheat_df[0] / 1.8, total_superheat_df[1] / 1.8)
            ),
        ),
        circuit=circuit,
        sealed=metering == "capillary",
        notes=notes,
        defrost=defrost,
        plate=plate(
            model=model,
            btuh=btuh,
            charge_kg=circuit.charge_kg,
            refrigerant=refrigerant,
            superheat_df=superheat_df,
            subcooling_df=subcooling_df,
            amps=amps,
            cfm=round(circuit.evaporator_air_kg_s / 1.2 / 0.3048**3 * 60, -1),
            oz_per_ft=0.0 if metering == "capillary" else 0.5,
            cutouts_psig=cutouts_psig,
        ),
    )


_WALK_IN_NOTES = "Receiver with sight glass; charge shows there and not on the gauges."
_HEAD_NOTES = _WALK_IN_NOTES + " Fan-speed head control for cold weather."
REFRIGERATION = (
    cooling_a_box(
        "walkin-cooler-r404a-txv",
        "Sedge 11 walk-in cooler",
        "R-404A",
        "txv",
        "walk_in_cooler",
        _head_control(WALK_IN, 150.0, 200.0),
        10_900,
        "SDG-11C",
        amps=8.6,
        rating_f=(95, 38, 36.2),
        cutouts_psig=(420.0, 15.0),
        superheat_df=(6.0, 14.0),
        notes=_HEAD_NOTES,
    ),
    cooling_a_box(
        "walkin-cooler-r448a-txv",
        "Sedge 12 walk-in cooler",
        "R-448A",
        "txv",
        "walk_in_cooler",
        _head_control(WALK_IN, 150.0, 200.0),
        11_500,
        "SDG-12C",
        amps=9.4,
        rating_f=(95, 38, 36.2),
        cutouts_psig=(420.0, 10.0),
        superheat_df=(6.0, 14.0),
        notes=_HEAD_NOTES,
    ),
    cooling_a_box(
        "walkin-cooler-r448a-flooded",
        "Sedge 14 walk-in cooler, flooded head",
        "R-448A",
        "txv",
        "walk_in_cooler",
        _flooded(WALK_IN._replace(receiver_volume_m3=5.0 * _LITRE, charge_kg=4.9), 195.0, 25.0),
        11_500,
        "SDG-14F",
        amps=9.4,
        rating_f=(95, 38, 36.2),
        cutouts_psig=(420.0, 10.0),
        superheat_df=(6.0, 14.0),
        notes=_WALK_IN_NOTES
        + " A regulator floods the condenser in cold weather; the charge includes the extra for winter.",
    ),
    cooling_a_box(
        "walkin-cooler-r134a-fan-cycling",
        "Sedge 8 walk-in cooler, fan cycling",
        "R-134a",
        "txv",
        "walk_in_cooler",
        _fan_cycling(
            WALK_IN._replace(
                mass_flow_ref_kg_s=0.022,
                displacement_m3_s=2.3e-3,
                expansion_area_m2=8e-7,
                suction_drop_pa_at_ref=9e3,
                suction_drop_density_kg_m3=13.0,
                receiver_volume_m3=2.2 * _LITRE,
                charge_kg=3.4,
            ),
            95.0,
            135.0,
        ),
        8_600,
        "SDG-8A",
        amps=7.2,
        rating_f=(95, 38, 36.2),
        cutouts_psig=(300.0, 3.0),
        superheat_df=(6.0, 14.0),
        notes=_WALK_IN_NOTES + " A pressure switch cycles the condenser fan in cold weather.",
    ),
    cooling_a_box(
        "walkin-freezer-r449a-txv",
        "Sedge 6 walk-in freezer",
        "R-449A",
        "txv",
        "walk_in_freezer",
        _head_control(_FREEZER, 140.0, 190.0)._replace(injects_above_k=f_to_k(225.0)),
        6_200,
        "SDG-6F",
        amps=8.6,
        rating_f=(95, 0, -1.2),
        cutouts_psig=(420.0, -3.0),
        superheat_df=(5.0, 13.0),
        notes=_HEAD_NOTES + " Electric defrost. A valve injects liquid into the compressor above 225 °F discharge.",
    ),
    cooling_a_box(
        "walkin-freezer-r404a-txv",
        "Sedge 7 walk-in freezer",
        "R-404A",
        "txv",
        "walk_in_freezer",
        _head_control(_FREEZER, 150.0, 200.0),
        6_800,
        "SDG-7F",
        amps=9.2,
        rating_f=(95, 0, -1.2),
        cutouts_psig=(430.0, -2.0),
        superheat_df=(5.0, 13.0),
        notes=_HEAD_NOTES + " Hot-gas defrost.",
        defrost="hot_gas",
    ),
)
