"""Machines that cool rooms: splits, a heat pump, a rooftop unit with two circuits, one cooled by water."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from wolfsbane.cycle.machine import Circuit, Expectations, Machine
from wolfsbane.cycle.profiles.plates import oz_per_ft, plate
from wolfsbane.cycle.profiles.tuned import TUNED
from wolfsbane.cycle.stages import LowStage, in_low_stage
from wolfsbane.cycle.units import PA_PER_PSI, STANDARD_ATMOSPHERE_PA, f_to_k

_LITRE = 1e-3

#: the three-ton R-410A machine everything else is scaled from
THREE_TON = Circuit(
    mass_flow_ref_kg_s=0.064,
    charge_kg=3.375,
    displacement_m3_s=1.84e-3,
    volumetric_a=0.98,
    volumetric_b=0.015,
    isentropic_peak=0.72,
    isentropic_fall=0.25,
    isentropic_best_ratio=2.6,
    shell_loss=0.06,
    leak_fraction=0.0,
    leak_reference_pa=1.7e6,
    shell_volume_m3=4.0 * _LITRE,
    oil_kg=1.0,
    oil_solubility_per_mpa=0.12,
    condenser_air_kg_s=1.55,
    condenser_air_fraction=1.0,
    condenser_ua_air_w_k=4000.0,
    condenser_ua_two_phase_w_k=9000.0,
    condenser_ua_gas_w_k=1500.0,
    condenser_ua_liquid_w_k=2500.0,
    condenser_volume_m3=6.0 * _LITRE,
    liquid_line_volume_m3=0.23 * _LITRE,
    restriction_pa_at_ref=0.0,
    expansion_area_m2=1.547e-6,
    throat_ratio=0.5,
    valve_fixed_opening=-1.0,
    valve_static_superheat_k=2.5,
    valve_superheat_range_k=4.5,
    evaporator_air_kg_s=0.65,
    evaporator_air_fraction=1.0,
    evaporator_ua_air_w_k=1150.0,
    evaporator_ua_two_phase_w_k=2600.0,
    evaporator_ua_gas_w_k=450.0,
    evaporator_volume_m3=5.0 * _LITRE,
    blower_w=400.0,
    suction_line_volume_m3=1.1 * _LITRE,
    suction_line_ua_w_k=5.0,
    suction_line_ambient_k=f_to_k(85.0),
    suction_drop_pa_at_ref=30e3,
    suction_drop_density_kg_m3=35.0,
)
_R22 = THREE_TON._replace(
    charge_kg=3.07,
    displacement_m3_s=2.77e-3,
    expansion_area_m2=1.83e-6,
    suction_drop_pa_at_ref=20e3,
    suction_drop_density_kg_m3=24.0,
)
_R32 = THREE_TON._replace(
    mass_flow_ref_kg_s=0.045,
    charge_kg=2.83,
    displacement_m3_s=1.65e-3,
    expansion_area_m2=1.06e-6,
    suction_drop_density_kg_m3=26.0,
    leak_reference_pa=1.7e6,
)
_R454B = THREE_TON._replace(
    mass_flow_ref_kg_s=0.052,
    charge_kg=3.0,
    displacement_m3_s=1.88e-3,
    expansion_area_m2=1.34e-6,
    suction_drop_density_kg_m3=30.0,
)
_R407C = THREE_TON._replace(
    mass_flow_ref_kg_s=0.064,
    charge_kg=3.2,
    displacement_m3_s=2.8e-3,
    expansion_area_m2=1.8e-6,
    suction_drop_pa_at_ref=20e3,
    suction_drop_density_kg_m3=23.0,
)
_MODERN = Expectations(evaporator_td_dk=(30 / 1.8, 40 / 1.8), ctoa_dk=(13 / 1.8, 22 / 1.8))
#: a coil that is large for what low stage pumps (as solved; assumed)
_LOW_STAGE = Expectations(evaporator_td_dk=(25 / 1.8, 36 / 1.8), ctoa_dk=(9 / 1.8, 19 / 1.8))
_OLD = Expectations(evaporator_td_dk=(30 / 1.8, 40 / 1.8), ctoa_dk=(23 / 1.8, 32 / 1.8))
#: a room unit with a capillary tube is charged by superheat, 8 to 15 °F, and stands about 30 °F over outdoors (common
#: practice, no source)
_ROOM_UNIT = Expectations(
    evaporator_td_dk=(28 / 1.8, 40 / 1.8), ctoa_dk=(24 / 1.8, 34 / 1.8), total_superheat_dk=(8 / 1.8, 15 / 1.8)
)
#: a regulating valve holds the head whatever the water: condensing over water falls as the water warms (as solved;
#: assumed)
_CITY_WATER = Expectations(evaporator_td_dk=(29 / 1.8, 41 / 1.8), ctoa_dk=(21 / 1.8, 31 / 1.8), ctoa_slope=-0.7)
#: a rooftop has no suction line to speak of: what its plate asks at the coil, and a little less
_ROOFTOP = Expectations(
    evaporator_td_dk=(28 / 1.8, 40 / 1.8), ctoa_dk=(13 / 1.8, 22 / 1.8), total_superheat_dk=(8 / 1.8, 18 / 1.8)
)
_WATER = Expectations(evaporator_td_dk=(25 / 1.8, 36 / 1.8), ctoa_dk=(12 / 1.8, 22 / 1.8))
RATING = (f_to_k(95.0), f_to_k(80.0), f_to_k(67.0), None)
_SUBSTITUTES = {"R-410A": "R-32", "R-22": "R-407C", "R-32": "R-410A", "R-454B": "R-410A", "R-407C": "R-22"}


def _machine(
    id_: Any,
    name: str,
    refrigerant: Any,
    metering: Any,
    circuit: Circuit,
    tons: Any,
    model: Any,
    *,
    subcooling_df: Any = None,
    superheat_df: Any = None,
    amps: float = 14.1,
    application: str = "air_conditioner",
    condenser: str = "tube_and_fin",
    expectations: Any = _MODERN,
    rating: Any = RATING,
    circuits: int = 1,
    notes: str = "",
    fan_w: float = 230.0,
    low_stage: LowStage | None = None,
    **plate_more: Any,
) -> Any:
    """A machine from its parts; sizes of the plate follow ``tons``."""
    if metering in ("fixed_orifice", "capillary"):
        circuit = circuit._replace(valve_fixed_opening=1.0)
    circuit = circuit._replace(**TUNED.get(id_, {}))
    return Machine(
        id=id_,
        name=name,
        refrigerant=refrigerant,
        metering=metering,
        application=application,
        condenser=condenser,
        receiver=False,
        volts=230.0,
        power_factor=0.97,
        magnetizing_amps=2.5 * amps / 14.1,
        outdoor_fan_w=fan_w,
        substitute=_SUBSTITUTES[refrigerant],
        rating=rating,
        expectations=expectations,
        circuit=circuit,
        circuits=circuits,
        notes=notes,
        low_stage=low_stage,
        stage="high" if low_stage is not None else "",
        plate=plate(
            model=model,
            tons=tons,
            charge_kg=circuit.charge_kg,
            refrigerant=refrigerant,
            subcooling_df=subcooling_df,
            superheat_df=superheat_df,
            amps=amps,
            cfm=plate_more.pop("cfm", round(1150 * tons / 3, -1)),
            static_inwc=plate_more.pop("static_inwc", 0.5),
            oz_per_ft=oz_per_ft(circuit.mass_flow_ref_kg_s, refrigerant),
            **plate_more,
        ),
    )


def _eev(circuit: Circuit) -> Any:
    """A controller holds 8 to 9 K of superheat at the coil's outlet."""
    return circuit._replace(valve_static_superheat_k=4.2, valve_superheat_range_k=0.9)


def _low(high: Machine, id_: str, name: str) -> Machine:
    """A two-stage machine that is held in low stage."""
    assert high.low_stage is not None, "two stages"
    return replace(
        high,
        id=id_,
        name=name,
        circuit=in_low_stage(high.circuit, high.low_stage),
        expectations=_LOW_STAGE,
        stage="low",
        notes="Two-stage compressor held in low stage: less pumped, both fans slower.",
    )


_TWO_STAGE = _machine(
    "split-4t-r410a-two-stage",
    "Larkspur 48 two-stage, high stage",
    "R-410A",
    "txv",
    THREE_TON.scaled(4 / 3),
    4,
    "LKS-48S",
    subcooling_df=10.0,
    amps=18.8,
    low_stage=LowStage(displacement=0.67, indoor_air=0.75, outdoor_air=0.85),
    notes="Two-stage compressor, variable-speed blower. Readings are in high stage, in which it is charged.",
)

COMFORT = (
    _machine(
        "split-3t-r410a-txv", "Larkspur 36 with valve", "R-410A", "txv", THREE_TON, 3, "LKS-36T", subcooling_df=10.0
    ),
    _machine(
        "split-3t-r410a-orifice",
        "Larkspur 36 with orifice",
        "R-410A",
        "fixed_orifice",
        THREE_TON._replace(expansion_area_m2=1.160e-6),
        3,
        "LKS-36P",
    ),
    _machine("split-3t-r22-txv", "Teasel 36 with valve", "R-22", "txv", _R22, 3, "TSL-36T", subcooling_df=10.0),
    _machine("split-3t-r22-orifice", "Teasel 36 with orifice", "R-22", "fixed_orifice", _R22, 3, "TSL-36P"),
    _machine(
        "split-2.5t-r22-orifice-old",
        "Teasel 30 of the old kind",
        "R-22",
        "fixed_orifice",
        _R22.scaled(2.5 / 3)._replace(condenser_air_kg_s=0.85, isentropic_peak=0.62),
        2.5,
        "TSL-30",
        expectations=_OLD,
        amps=15.5,
        notes="Thirty years old, small outdoor coil of few rows.",
    ),
    _machine(
        "room-1t-r22-capillary",
        "Teasel 12 room unit, capillary",
        "R-22",
        "capillary",
        _R22.scaled(1 / 3)._replace(condenser_air_kg_s=0.28, isentropic_peak=0.60),
        1,
        "TSL-12C",
        expectations=_ROOM_UNIT,
        rating=(f_to_k(90.0), f_to_k(76.0), f_to_k(63.5), None),
        amps=5.4,
        notes="Old room unit with service ports and a capillary tube; charged by superheat, 8 to 15 °F.",
        fan_w=90.0,
    ),
    _machine(
        "split-1.5t-r32-orifice",
        "Sorrel 18 with orifice",
        "R-32",
        "fixed_orifice",
        _R32.scaled(0.5),
        1.5,
        "SRL-18P",
        amps=7.2,
    ),
    _machine(
        "split-2t-r32-txv",
        "Sorrel 24 with valve",
        "R-32",
        "txv",
        _R32.scaled(2 / 3),
        2,
        "SRL-24T",
        subcooling_df=9.0,
        amps=9.2,
    ),
    _machine(
        "split-3t-r32-eev",
        "Sorrel 36 with electronic valve",
        "R-32",
        "eev",
        _eev(_R32),
        3,
        "SRL-36E",
        subcooling_df=8.0,
        superheat_df=(8.0, 15.0),
        amps=13.4,
        notes="Electronic valve with its own coil sensor; no bulb.",
    ),
    _machine(
        "split-3t-r454b-txv",
        "Yarrow 36 with valve",
        "R-454B",
        "txv",
        _R454B,
        3,
        "YRW-36T",
        subcooling_df=10.0,
        amps=13.8,
    ),
    _machine(
        "split-4t-r454b-orifice",
        "Yarrow 48 with orifice",
        "R-454B",
        "fixed_orifice",
        _R454B.scaled(4 / 3),
        4,
        "YRW-48P",
        amps=18.2,
    ),
    _machine(
        "split-5t-r410a-txv",
        "Larkspur 60 with valve",
        "R-410A",
        "txv",
        THREE_TON.scaled(5 / 3),
        5,
        "LKS-60T",
        subcooling_df=11.0,
        amps=23.5,
    ),
    _TWO_STAGE,
    _low(_TWO_STAGE, "split-4t-r410a-low-stage", "Larkspur 48 two-stage, low stage"),
    _machine(
        "split-3t-r410a-microchannel",
        "Larkspur 36 M, microchannel",
        "R-410A",
        "txv",
        THREE_TON._replace(condenser_volume_m3=2.0 * _LITRE, charge_kg=1.86),
        3,
        "LKS-36M",
        subcooling_df=10.0,
        condenser="microchannel",
        notes="Outdoor coil of flat aluminium tubes; it does not hold the charge on a pump-down.",
    ),
    _machine(
        "heatpump-3t-r410a-txv",
        "Burdock 36 heat pump, cooling",
        "R-410A",
        "txv",
        THREE_TON._replace(accumulator_m3=3.0 * _LITRE),
        3,
        "BDK-36H",
        subcooling_df=4.0,
        application="heat_pump_cooling",
        notes="Reversing valve and accumulator; the plate asks for little subcooling in cooling.",
    ),
    _machine(
        "package-10t-r410a-two-circuits",
        "Mullein 120 rooftop, two circuits",
        "R-410A",
        "txv",
        THREE_TON.scaled(5 / 3)._replace(outdoor_air_share=0.10, suction_line_ua_w_k=4.0),
        10,
        "MLN-120",
        subcooling_df=10.0,
        superheat_df=(10.0, 18.0),
        amps=23.5,
        application="package_unit",
        circuits=2,
        expectations=_ROOFTOP,
        fan_w=900.0,
        static_inwc=1.2,
        notes="Economizer at its minimum of 10 % outdoor air. The gauges are on circuit 1, upper half of the coil.",
    ),
    _machine(
        "water-cooled-5t-r407c-txv",
        "Comfrey 60, water-cooled",
        "R-407C",
        "txv",
        _R407C.scaled(5 / 3)._replace(
            condenser_water=1.0,
            counter_flow=1.0,
            condenser_air_kg_s=1.0,
            condenser_ua_air_w_k=9000.0,
            condenser_volume_m3=5.0 * _LITRE,
            condenser_ua_two_phase_w_k=9000.0,
            condenser_ua_gas_w_k=900.0,
            condenser_ua_liquid_w_k=1500.0,
        ),
        5,
        "CFY-60W",
        subcooling_df=9.0,
        amps=24.0,
        condenser="water_cooled",
        expectations=_WATER,
        fan_w=0.0,
        cutouts_psig=(350.0, 22.0),
        rating=(f_to_k(95.0), f_to_k(80.0), f_to_k(67.0), f_to_k(85.0)),
        notes="Tube-in-tube condenser on a tower loop, about 3 gpm a ton.",
    ),
    _machine(
        "water-cooled-3t-r410a-regulated",
        "Comfrey 36, city water",
        "R-410A",
        "txv",
        THREE_TON._replace(
            condenser_water=1.0,
            counter_flow=1.0,
            condenser_air_kg_s=0.34,
            condenser_ua_air_w_k=5400.0,
            condenser_volume_m3=3.0 * _LITRE,
            condenser_ua_two_phase_w_k=5400.0,
            condenser_ua_gas_w_k=540.0,
            condenser_ua_liquid_w_k=900.0,
            head_control_low_pa=255.0 * PA_PER_PSI + STANDARD_ATMOSPHERE_PA,
            head_control_high_pa=355.0 * PA_PER_PSI + STANDARD_ATMOSPHERE_PA,
        ),
        3,
        "CFY-36W",
        subcooling_df=10.0,
        amps=14.0,
        condenser="water_cooled",
        expectations=_CITY_WATER,
        fan_w=0.0,
        rating=(f_to_k(95.0), f_to_k(80.0), f_to_k(67.0), f_to_k(75.0)),
        notes="Tube-in-tube condenser on city water. A water regulating valve holds the head.",
    ),
)
