"""A defrost by hot gas: what the compressor puts in is what the coil gets."""

import numpy as np
import pytest

from wolfsbane.cycle.hot_gas import hot_gas
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.properties import H_G, refrigerant, saturation_at
from wolfsbane.cycle.units import f_to_k

FREEZER = machine("walkin-freezer-r404a-txv")
FLUID = refrigerant(FREEZER.refrigerant)
COILS_F = (-10, 10, 32, 45, 55)


@pytest.fixture(scope="module")
def clearing():
    return [hot_gas(FREEZER.circuit, FLUID, f_to_k(f)) for f in COILS_F]


def test_the_coil_gets_what_the_compressor_puts_into_the_gas(clearing):
    """With one evaporator a hot-gas defrost has no other heat (conservation of energy)."""
    for gas in clearing:
        back = float(saturation_at(FLUID.arrays, H_G, np.log(gas.low_pa)))
        out = back + gas.heat_w / gas.flow_kg_s
        assert gas.heat_w == pytest.approx((1.0 - FREEZER.circuit.shell_loss) * gas.work_w)
        assert FLUID.saturation_k(gas.low_pa, "dew") == pytest.approx(gas.suction_k)
        assert out > back and gas.discharge_k > FLUID.saturation_k(gas.high_pa, "dew") - 1.0


def test_gas_is_warmer_than_the_coil_it_warms_and_everything_rises_with_it(clearing):
    for coil_f, gas in zip(COILS_F, clearing, strict=True):
        assert gas.high_pa > gas.low_pa and gas.discharge_k > f_to_k(coil_f)
    for name in ("low_pa", "high_pa", "heat_w", "discharge_k"):
        found = [getattr(gas, name) for gas in clearing]
        assert found == sorted(found), name


def test_suction_stands_near_what_melting_ice_makes_of_it(clearing):
    """About 70 psig of R-404A over ice (saturation at 32 degF is 72 psig, a handbook's table, from memory)."""
    melting = clearing[COILS_F.index(32)]
    assert 60 < melting.low_pa / 6894.76 - 14.7 < 85
