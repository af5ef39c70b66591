"""Tests with a valve shut or the machine off: pump-down and standing pressure."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import plant
from wolfsbane.cycle.field_tests.kind import FieldTest
from wolfsbane.cycle.properties import (
    RHO_F,
    refrigerant,
)
from wolfsbane.cycle.standing import standing_pa
from wolfsbane.cycle.units import PA_PER_PSI

if TYPE_CHECKING:
    from wolfsbane.cycle.field_tests.kind import Asked
    from wolfsbane.cycle.machine import Circuit
    from wolfsbane.cycle.properties import Refrigerant

#: a normal machine of this kind is at its cutout within this time; after the stop a tight one rises less than this
#: (assumed)
_LONGEST_S, _TIGHT_PSI_MIN = 240.0, 12.0
#: most of a condenser that may fill with liquid before the head runs away (assumed)
_ROOM = 0.8


def _suction_density(fluid: Refrigerant, pressure_pa: float, t_k: float) -> float:
    ln_p = math.log(max(pressure_pa, fluid.min_pa))
    return fluid.vapor_density(ln_p, t_k)


def _pull(a: Asked, circuit: Circuit, fluid: Refrigerant, floor_pa: float) -> tuple[float | None, float, float]:
    """(seconds to reach ``floor_pa`` or None, pressure reached, kg/s blown back): shut the liquid valve and pump.

    The low side empties while its pressure falls in step with what is left; blown-back gas is a fixed flow, which at a
    thin suction is all the compressor can move.
    """
    state = a.state
    loss = (circuit.leak_fraction + circuit.reversing_leak_fraction) * math.sqrt(
        max(state.head_pa - state.suction_pa, 0.0) / circuit.leak_reference_pa
    )
    loss = min(loss, 0.9)
    back = state.mass_flow_kg_s * loss / (1.0 - loss)
    t_k = state.suction_line_k
    low_side_m3 = circuit.evaporator_volume_m3 + circuit.suction_line_volume_m3 + circuit.shell_volume_m3
    gas_end = low_side_m3 * _suction_density(fluid, floor_pa, t_k)
    kg = state.evaporator_kg + (circuit.suction_line_volume_m3 + circuit.shell_volume_m3) * _suction_density(
        fluid, state.suction_pa, t_k
    )
    start_kg, seconds, pressure = kg, 0.0, state.suction_pa
    while pressure > floor_pa * 1.001:
        ratio = max(state.head_pa / pressure, 1.0)
        eta = max(circuit.volumetric_a - circuit.volumetric_b * (ratio**circuit.volumetric_exponent - 1.0), 0.05)
        moved = eta * circuit.displacement_m3_s * circuit.pumping_share * _suction_density(fluid, pressure, t_k) - back
        if moved <= 0.01 * state.mass_flow_kg_s or seconds > _LONGEST_S:
            return None, pressure, back
        kg -= moved * 2.0
        seconds += 2.0
        left = max((kg - gas_end) / max(start_kg - gas_end, 1e-9), 0.0)
        pressure = floor_pa + (state.suction_pa - floor_pa) * left
    return seconds, floor_pa, back


def pump_down(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Close the liquid service valve: a good compressor pulls the suction down to its cutout and the low side stays
    there.
    """
    faulted = plant(a.machine, a.faults)
    circuit, fluid = faulted.circuit, refrigerant(faulted.refrigerant)
    if a.state.equalized:
        return "suction_holds", "Not pumping: suction does not move.", {}
    room = (
        _ROOM * circuit.condenser_volume_m3 + circuit.receiver_volume_m3 + circuit.liquid_line_volume_m3
    ) * fluid.saturated(RHO_F, math.log(min(a.state.condensing_pa, fluid.max_pa)))
    if circuit.charge_kg > room:
        return (
            "not_possible",
            "Stopped: this condenser cannot hold the whole charge and head pressure ran up toward the cutout.",
            {},
        )
    plate = a.machine.plate
    floor = max(plate.low_cutout_gauge_pa + a.conditions.barometer_pa, 1.05 * fluid.min_pa)
    seconds, reached, back = _pull(a, circuit, fluid, floor)
    psig = (reached - a.conditions.barometer_pa) / PA_PER_PSI
    if seconds is None:
        return (
            "suction_holds",
            f"Suction stops falling at about {a.gauge(reached)} and stays.",
            {"suction_psig": round(psig, 1)},
        )
    pulled = f"Pulled down to {a.gauge(reached)} in about {seconds:.0f} s"
    low_side_m3 = circuit.evaporator_volume_m3 + circuit.suction_line_volume_m3 + circuit.shell_volume_m3
    density_per_pa = _suction_density(fluid, reached, a.state.suction_line_k) / reached
    rise = back * math.sqrt(0.5) * 60.0 / (low_side_m3 * density_per_pa) / PA_PER_PSI
    if rise > _TIGHT_PSI_MIN:
        return (
            "suction_rises",
            f"{pulled}, but it climbs again right after shutdown.",
            {"suction_psig": round(psig, 1)},
        )
    return "suction_falls", f"{pulled} and holds there after shutdown.", {"suction_psig": round(psig, 1)}


def standing_pressure(a: Asked) -> tuple[str, str, dict[str, float]]:
    """Off until everything is at outdoor temperature, then the gauge against the chart of the plate's refrigerant."""
    faulted = plant(a.machine, a.faults)
    rest_k = a.conditions.outdoor_k
    pressure = standing_pa(faulted.circuit, faulted.refrigerant, rest_k)
    pt_scale = refrigerant(a.machine.refrigerant)
    low, high = pt_scale.saturation_pa(rest_k, "dew"), pt_scale.saturation_pa(rest_k, "bubble")
    margin = max(0.02 * high, 3.0 * PA_PER_PSI)
    word = "above_chart" if pressure > high + margin else "below_chart" if pressure < low - margin else "matches_chart"
    psig = (pressure - a.conditions.barometer_pa) / PA_PER_PSI
    chart = (high - a.conditions.barometer_pa) / PA_PER_PSI
    return (
        word,
        f"{a.gauge(pressure)} at {a.temperature(rest_k, 0)} all over; the chart says {a.gauge(high)}.",
        {"standing_psig": round(psig, 1), "chart_psig": round(chart, 1)},
    )


TESTS = (
    FieldTest(
        id="pump_down",
        name="Pump-down",
        minutes=10,
        answer=pump_down,
        suits=lambda m: not m.sealed and not m.in_heating,
        caution=(
            "Stop at the low-pressure cutout; never on an overcharged or "
            "microchannel system; never run the compressor in a vacuum."
        ),
    ),
    FieldTest(
        id="standing_pressure",
        name="Standing pressure after cooling to ambient",
        minutes=40,
        running=False,
        answer=standing_pressure,
        caution="Condenser fan on, compressor locked out.",
    ),
)
