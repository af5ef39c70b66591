"""The committed tables against the library they were built from, at random points, and built again.

Source: CoolProp (named with its version in each table's provenance).
"""

import random
import sys
from pathlib import Path

import CoolProp.CoolProp as CP
import numpy as np
import pytest

from wolfsbane import tables
from wolfsbane.cycle import air
from wolfsbane.cycle.properties import (
    H_F,
    H_G,
    S_G,
    enthalpy_at_entropy,
    liquid_at,
    refrigerant,
    saturation_at,
    subcooling_of,
    temperature_density_entropy,
)

sys.path.insert(0, str(Path(__file__).parents[2] / "tools"))
from build_tables import FLUIDS, build


def library(name, phase):
    """The library's fluid with the phase imposed, since its own search fails for some blends."""
    fluid = CP.AbstractState("HEOS", FLUIDS[name]["coolprop"])
    fluid.specify_phase(phase)
    return fluid


def points(name, n, seed):
    rng, fluid = random.Random(seed), refrigerant(name)
    return [(rng.uniform(np.log(fluid.min_pa * 1.5), np.log(fluid.max_pa * 0.9)), rng.random()) for _ in range(n)]


@pytest.mark.parametrize("name", FLUIDS)
def test_dew_and_bubble_are_within_three_thousandths_of_a_kelvin(name):
    fluid = CP.AbstractState("HEOS", FLUIDS[name]["coolprop"])
    for ln_p, _ in points(name, 60, 3):
        for quality, point in ((0, "bubble"), (1, "dew")):
            t = refrigerant(name).saturation_k(np.exp(ln_p), point)
            try:
                fluid.update(CP.QT_INPUTS, quality, t)
            except ValueError:
                continue  # the library's flash fails here and there near the critical point
            slope = refrigerant(name).saturation_pa(t + 0.05, point) - refrigerant(name).saturation_pa(t - 0.05, point)
            assert (fluid.p() - np.exp(ln_p)) / (slope / 0.1) == pytest.approx(0, abs=0.003)


@pytest.mark.parametrize("name", FLUIDS)
def test_superheated_vapour_is_within_six_hundredths_of_a_kelvin(name):
    tab, fluid = refrigerant(name).arrays, library(name, CP.iphase_gas)
    for ln_p, u in points(name, 120, 1):
        h = saturation_at(tab, H_G, ln_p) + 500 + u * 0.55 * tab.h_span
        t, rho, s = temperature_density_entropy(tab, ln_p, h)
        fluid.update(CP.PT_INPUTS, np.exp(ln_p), t)
        cp = fluid.cpmass()
        assert fluid.hmass() == pytest.approx(h, abs=0.06 * cp)
        assert rho == pytest.approx(fluid.rhomass(), rel=3e-3)
        assert s == pytest.approx(fluid.smass(), abs=0.5)
        assert enthalpy_at_entropy(tab, ln_p, s) == pytest.approx(h, abs=0.06 * cp)


@pytest.mark.parametrize("name", FLUIDS)
def test_subcooled_liquid_is_right_down_to_a_tenth_of_a_kelvin(name):
    tab, fluid = refrigerant(name).arrays, library(name, CP.iphase_liquid)
    for ln_p, u in points(name, 120, 2):
        subcooling = 0.1 + 25 * u
        t_bubble = refrigerant(name).saturation_k(np.exp(ln_p), "bubble")
        if t_bubble - subcooling < 235:
            continue  # colder than any liquid line
        fluid.update(CP.PT_INPUTS, np.exp(ln_p), t_bubble - subcooling)
        h = saturation_at(tab, H_F, ln_p) + liquid_at(tab, 0, ln_p, subcooling)
        assert h == pytest.approx(fluid.hmass(), abs=0.1 * fluid.cpmass()), "a tenth of a kelvin in enthalpy"
        assert subcooling_of(tab, ln_p, h) == pytest.approx(subcooling, abs=1e-6)
        assert liquid_at(tab, 1, ln_p, subcooling) == pytest.approx(fluid.rhomass(), rel=2e-3)


@pytest.mark.parametrize("name", ["R-22", "R-454B", "R-600a"])
def test_a_rebuilt_table_equals_the_committed_one(name):
    committed = tables.load(name)[0]
    for key, array in build(name).items():
        np.testing.assert_allclose(array, committed[key], rtol=2e-6, atol=1e-5, err_msg=key)


def test_a_changed_table_is_refused(monkeypatch):
    data, provenance = tables.load("R-22")
    changed = {key: array.copy() for key, array in data.items()}
    changed["saturation"][S_G, 3] += 1e-9
    assert tables.content_hash(changed) != provenance["sha256"] == tables.content_hash(data)


@pytest.mark.parametrize(("db_c", "wb_c", "pa"), [(26.7, 19.4, 101325), (24, 17, 84000), (32, 22, 95000)])
def test_moist_air_agrees_with_the_ashrae_rp1485_equations_of_coolprop(db_c, wb_c, pa):
    found = air.from_wet_bulb(db_c + 273.15, wb_c + 273.15, pa)
    ratio = CP.HAPropsSI("W", "T", db_c + 273.15, "B", wb_c + 273.15, "P", pa)
    assert found.humidity_ratio == pytest.approx(ratio, rel=0.01)
    assert found.wet_bulb_k == pytest.approx(wb_c + 273.15, abs=0.01)
