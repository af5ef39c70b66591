"""A heat pump that clears its coil in reverse: energy, flow, and what the gauges then show."""

import pytest

from wolfsbane.cycle.idling import pumped
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.reverse_defrost import clearing
from wolfsbane.cycle.units import PA_PER_PSI, f_to_k, k_to_f

HEATING = MACHINES["heatpump-3t-r410a-heating"]
FLUID = refrigerant(HEATING.refrigerant)
COILS_F = (15, 25, 32, 45, 57, 70)


def psig(pa):
    return (pa - 101_325.0) / PA_PER_PSI


@pytest.fixture(scope="module")
def found():
    return [clearing(HEATING.circuit, FLUID, f_to_k(f), f_to_k(70)) for f in COILS_F]


def test_the_coil_gets_what_the_house_gives_and_the_compressor_adds(found):
    for one in found:
        kept = (1.0 - HEATING.circuit.shell_loss) * one.work_w
        assert one.heat_w == pytest.approx(one.taken_w + kept, rel=1e-9)
        assert one.flow_kg_s == pytest.approx(pumped(HEATING.circuit, FLUID, one.low_pa, one.high_pa), rel=1e-6)


def test_pressures_follow_the_coil_and_stay_between_coil_and_house(found):
    """Suction of some 50 to 90 psig with R-410A and a head far below the heating one (common practice, no source)."""
    heads, suctions = [psig(x.high_pa) for x in found], [psig(x.low_pa) for x in found]
    assert heads == sorted(heads) and suctions == sorted(suctions)
    assert 40.0 < suctions[1] < 70.0 and 80.0 < heads[1] < 140.0 and heads[-1] < 260.0
    for one, coil in zip(found, COILS_F, strict=True):
        assert one.discharge_k > FLUID.saturation_k(one.high_pa, "dew") - 0.5
        assert coil - 0.1 < k_to_f(one.liquid_k) < k_to_f(FLUID.saturation_k(one.high_pa, "bubble")) + 0.1
        assert k_to_f(FLUID.saturation_k(one.low_pa, "dew")) < k_to_f(one.suction_k) < 70.0


def test_a_cold_house_and_a_weak_indoor_coil_send_liquid_back():
    starved = HEATING.circuit._replace(condenser_ua_air_w_k=0.1 * HEATING.circuit.condenser_ua_air_w_k)
    wet = clearing(starved, FLUID, f_to_k(50), f_to_k(70))
    assert wet.floods and wet.suction_k == pytest.approx(FLUID.saturation_k(wet.low_pa, "dew"))
