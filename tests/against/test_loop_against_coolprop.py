"""The pressure-enthalpy loop against CoolProp: the same corners from pressures and temperatures alone,
on its own zero.
"""

import pytest
from CoolProp.CoolProp import PropsSI

from wolfsbane.cycle import loop
from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.solver import solve
from wolfsbane.exercise.show import pictures

CASES = [
    ("split-2t-r32-txv", "R32", ()),
    ("split-3t-r22-txv", "R22", ()),
    ("reachin-r134a-capillary", "R134a", ()),
    ("reachin-r290-capillary", "R290", ()),
    ("split-2t-r32-txv", "R32", (Fault(id="overcharge", severity=120),)),
    ("split-3t-r22-txv", "R22", (Fault(id="low_airflow", severity=60),)),
]


@pytest.mark.parametrize(("machine_id", "fluid", "faults"), CASES)
def test_corner_enthalpies_against_coolprop(machine_id, fluid, faults):
    """Suction gas over liquid, and discharge gas over suction gas, from the clamps' own temperatures:
    1 % of the evaporator's span.
    """
    m = machine(machine_id)
    state = solve(m, rating_conditions(m), faults)
    corner = {c.id: c for c in loop.corners(state)}
    if state.subcooling_dk < 1.0 or state.superheat_dk < 1.0:
        pytest.skip("two-phase at a clamp: temperature and pressure do not fix the enthalpy")

    def outside(pressure_pa, kelvin):
        return PropsSI("H", "P", pressure_pa, "T", kelvin, fluid)

    suction = outside(corner["compressor_in"].pressure_pa, state.suction_before_valve_k)
    discharge = outside(state.condensing_pa, state.discharge_line_k)
    liquid = outside(corner["liquid_line"].pressure_pa, state.liquid_line_k)
    span = suction - liquid
    assert corner["compressor_in"].enthalpy_j_kg - corner["liquid_line"].enthalpy_j_kg == pytest.approx(span, rel=0.01)
    assert corner["discharge"].enthalpy_j_kg - corner["compressor_in"].enthalpy_j_kg == pytest.approx(
        discharge - suction, abs=0.01 * span
    )


@pytest.mark.parametrize(
    ("name", "fluid"), [("R-32", "R32"), ("R-22", "R22"), ("R-134a", "R134a"), ("R-290", "R290"), ("R-600a", "R600a")]
)
def test_dome_width_against_coolprop(name, fluid):
    """Latent heat along the dome, 0.6 % or 400 J/kg; the last points next to the critical one are left out."""
    bubble, dew = loop.dome(name)
    for (p, h_f), (_, h_g) in list(zip(bubble, dew, strict=True))[2:-6:6]:
        latent = PropsSI("H", "P", p, "Q", 1, fluid) - PropsSI("H", "P", p, "Q", 0, fluid)
        assert h_g - h_f == pytest.approx(latent, rel=6e-3, abs=400), p


def test_the_drawn_dome_is_the_dome_in_its_units():
    drawn, (bubble, _) = pictures.dome("R-22", "us"), loop.dome("R-22")
    assert drawn["bubble"][10][1] * 6894.757 == pytest.approx(bubble[10][0], rel=1e-3)
    assert drawn["bubble"][10][0] * 2326 == pytest.approx(bubble[10][1], abs=15)
