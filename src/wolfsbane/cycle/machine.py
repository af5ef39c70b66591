"""A machine: its circuit parameters (what the solver needs) and its plate (what the apprentice sees)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from wolfsbane.cycle.stages import LowStage


class Circuit(NamedTuple):
    """Physical parameters of one circuit, SI. All assumed unless docs/model.md says otherwise.

    Temperatures K, UA W/K, volumes m3, mass kg, pressures Pa, areas m2, air flows kg/s at sea level. Fields with a
    default are what faults and special machines change; their default is a plain machine with nothing wrong.
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
    # condenser; the stream is air, or water when condenser_water is 1
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
    # special machines
    volumetric_exponent: float = 1.0
    condenser_water: float = 0.0
    head_control_low_pa: float = 0.0
    head_control_high_pa: float = 0.0
    receiver_volume_m3: float = 0.0
    liquid_line_ua_w_k: float = 0.0
    outdoor_air_share: float = 0.0
    # suction line soldered to the liquid line behind the drier (or the capillary tube inside it); a stream that runs
    # against the refrigerant; a suction accumulator
    exchange_ua_w_k: float = 0.0
    counter_flow: float = 0.0
    accumulator_m3: float = 0.0
    # a regulator that floods the condenser below this head, over this span of it
    flood_below_pa: float = 0.0
    flood_span_pa: float = 1.0
    # the condenser fan cycles between these heads; liquid injected into the compressor holds this discharge temperature
    fan_off_below_pa: float = 0.0
    fan_on_above_pa: float = 0.0
    injects_above_k: float = 0.0
    injection_share: float = 1.0
    # a heat pump in heating: its suction line lies outdoors, a compensator takes liquid from so much subcooling on, and
    # the blower stands behind the condenser
    suction_line_outdoors: float = 0.0
    compensator_m3: float = 0.0
    compensator_from_k: float = 0.0
    compensator_span_k: float = 1.0
    condenser_blower_w: float = 0.0
    # what a technician does at the ports: flow into the suction line and its enthalpy, liquid service valve shut (0 to
    # 1)
    port_kg_s: float = 0.0
    port_enthalpy_j_kg: float = 0.0
    liquid_shut: float = 0.0
    # faults
    pumping_share: float = 1.0
    reversing_leak_fraction: float = 0.0
    non_condensable_mol: float = 0.0
    condenser_entering_offset_k: float = 0.0
    condenser_wet_share: float = 0.0
    liquid_valve_pa_at_ref: float = 0.0
    line_drop_pa_at_ref: float = 0.0
    suction_restriction_pa_at_ref: float = 0.0
    distributor_blocked_share: float = 0.0
    valve_swing: float = 0.0
    # warmer return air: as humid as before, and with no more water in it than before
    return_offset_k: float = 0.0
    return_dry_offset_k: float = 0.0
    stratified_k: float = 0.0

    def scaled(self, ratio: float) -> Circuit:
        """The same circuit at ``ratio`` times the size: flows, conductances, volumes, areas and charge grow alike."""
        sizes = (
            "mass_flow_ref_kg_s",
            "charge_kg",
            "displacement_m3_s",
            "shell_volume_m3",
            "oil_kg",
            "condenser_air_kg_s",
            "condenser_ua_air_w_k",
            "condenser_ua_two_phase_w_k",
            "condenser_ua_gas_w_k",
            "condenser_ua_liquid_w_k",
            "condenser_volume_m3",
            "liquid_line_volume_m3",
            "expansion_area_m2",
            "evaporator_air_kg_s",
            "evaporator_ua_air_w_k",
            "evaporator_ua_two_phase_w_k",
            "evaporator_ua_gas_w_k",
            "evaporator_volume_m3",
            "blower_w",
            "suction_line_volume_m3",
            "suction_line_ua_w_k",
            "exchange_ua_w_k",
            "accumulator_m3",
        )
        return self._replace(**{name: getattr(self, name) * ratio for name in sizes})


_PLACE = {name: i for i, name in enumerate(Circuit._fields)}


def _replaced(circuit: Circuit, **changes: float) -> Circuit:
    """As a named tuple's own way, in a fifth of its time: a proof plants faults a thousand times. Raises ValueError for
    a field there is not.
    """
    values = list(circuit)
    try:
        for name, value in changes.items():
            values[_PLACE[name]] = value
    except KeyError as error:
        raise ValueError(f"a circuit has no field {error}") from None
    return tuple.__new__(Circuit, values)


Circuit._replace = _replaced  # type: ignore[assignment, method-assign]


@dataclass(frozen=True, kw_only=True)
class Plate:
    """What stands on the machine's plate. Temperature differences in K, mass in kg, cutouts in Pa gauge / K.

    ``charge_per_line_kg_m`` is added for each meter of line beyond ``standard_line_m``; superheat and subcooling
    windows are (low, high) or None; ``max_static_pa`` is the largest total external static pressure, None without
    ducts.
    """

    model: str
    capacity_w: float
    factory_charge_kg: float
    charge_per_line_kg_m: float
    standard_line_m: float
    target_subcooling_dk: float | None
    target_superheat_dk: tuple[float, float] | None
    rated_amps: float
    overload_amps: float
    high_cutout_gauge_pa: float
    low_cutout_gauge_pa: float
    discharge_cutout_k: float
    design_airflow_m3_s: float
    max_static_pa: float | None


@dataclass(frozen=True, kw_only=True)
class Expectations:
    """What a normal machine of this kind shows, as (low, high) in K: evaporator TD, CTOA and total superheat.

    ``total_superheat_dk`` is None where the practice decides. The slopes say by how much TD and CTOA rise with each
    degree of outdoor air above the rating point; nought except in heating.
    """

    evaporator_td_dk: tuple[float, float]
    ctoa_dk: tuple[float, float]
    total_superheat_dk: tuple[float, float] | None = None
    evaporator_td_slope: float = 0.0
    ctoa_slope: float = 0.0


#: where a machine keeps its hash
_HASH = "_hash"


@dataclass(frozen=True, kw_only=True)
class Machine:
    """A machine profile. The words are those of the contract.

    ``metering``: txv, eev, fixed_orifice or capillary. ``application``: air_conditioner, heat_pump_cooling,
    heat_pump_heating (made by :func:`wolfsbane.cycle.heating.heating`), package_unit,
    walk_in_cooler, walk_in_freezer or reach_in. ``condenser``: tube_and_fin, microchannel or water_cooled.
    ``substitute`` is the refrigerant a careless visitor most likely put in. ``rating`` is (outdoor, return dry bulb,
    return wet bulb, water in) in K, the last two None where they do not apply. ``circuits`` is 1 or 2 equal ones.
    ``notes`` is what a technician sees on walking up to it. ``low_stage`` is what a two-stage compressor leaves of high
    stage; ``stage`` is the one that is locked in here, high or low, empty where there is one only.
    ``defrost`` is how a freezer's coil is cleared: hot_gas, or empty for electric heaters.
    """

    id: str
    name: str
    refrigerant: str
    metering: str
    application: str
    condenser: str
    receiver: bool
    volts: float
    power_factor: float
    magnetizing_amps: float
    outdoor_fan_w: float
    substitute: str
    rating: tuple[float, float, float, float | None]
    plate: Plate
    expectations: Expectations
    circuit: Circuit
    circuits: int = 1
    sealed: bool = False
    notes: str = ""
    low_stage: LowStage | None = None
    stage: str = ""
    defrost: str = ""

    def __hash__(self) -> int:
        """Worked out once: what is solved on a machine is looked up by it again and again."""
        own = self.__dict__
        if _HASH not in own:
            own[_HASH] = hash((self.id, self.refrigerant, self.stage, self.circuit))
        return own[_HASH]

    def __getstate__(self) -> dict[str, Any]:
        """What goes to another process, where strings have another hash."""
        return {name: value for name, value in self.__dict__.items() if name != _HASH}

    def with_circuit(self, circuit: Circuit, refrigerant: str | None = None) -> Machine:
        """The same machine with another circuit, and another refrigerant in it where one is named. Faster than
        ``dataclasses.replace``, for the solver asks thousands of times.
        """
        made = object.__new__(Machine)
        made.__dict__.update(self.__dict__)
        made.__dict__.pop(_HASH, None)
        made.__dict__["circuit"] = circuit
        if refrigerant is not None:
            made.__dict__["refrigerant"] = refrigerant
        return made

    @property
    def comfort(self) -> bool:
        """True for machines that cool rooms, False for refrigerated boxes."""
        return self.application in ("air_conditioner", "heat_pump_cooling", "heat_pump_heating", "package_unit")

    @property
    def in_heating(self) -> bool:
        """True for a heat pump in heating: its evaporator stands outdoors, and its condenser heats the house."""
        return self.application == "heat_pump_heating"

    @property
    def refrigeration(self) -> bool:
        """True for machines that cool a box."""
        return not self.comfort
