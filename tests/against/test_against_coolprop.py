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

FLUIDS = {"R-410A": "R410A", "R-22": "R22"}


def points(n, seed):
    rng = random.Random(seed)
    return [(rng.uniform(np.log(250e3), np.log(4.2e6)), rng.random()) for _ in range(n)]


@pytest.mark.parametrize("name", FLUIDS)
def test_superheated_vapour_is_within_five_hundredths_of_a_kelvin(name):
    tab, fluid = refrigerant(name).arrays, CP.AbstractState("HEOS", FLUIDS[name])
    for ln_p, u in points(150, 1):
        dh = 500 + u * 90e3
        h = saturation_at(tab, H_G, ln_p) + dh
        fluid.update(CP.HmassP_INPUTS, h, np.exp(ln_p))
        t, rho, s = temperature_density_entropy(tab, ln_p, h)
        assert t == pytest.approx(fluid.T(), abs=0.05)
        assert rho == pytest.approx(fluid.rhomass(), rel=2e-3)
        assert enthalpy_at_entropy(tab, ln_p, s) == pytest.approx(h, abs=60)


@pytest.mark.parametrize("name", FLUIDS)
def test_subcooled_liquid_is_right_down_to_a_tenth_of_a_kelvin(name):
    tab, fluid = refrigerant(name).arrays, CP.AbstractState("HEOS", FLUIDS[name])
    for ln_p, u in points(150, 2):
        subcooling = 0.1 + 25 * u
        t_bubble = refrigerant(name).saturation_k(np.exp(ln_p), "bubble")
        fluid.update(CP.PT_INPUTS, np.exp(ln_p), t_bubble - subcooling)
        h = saturation_at(tab, H_F, ln_p) + liquid_at(tab, 0, ln_p, subcooling)
        assert h == pytest.approx(fluid.hmass(), abs=120)
        assert subcooling_of(tab, ln_p, h) == pytest.approx(subcooling, abs=1e-6)
        assert liquid_at(tab, 1, ln_p, subcooling) == pytest.approx(fluid.rhomass(), rel=1e-3)


@pytest.mark.parametrize("name", FLUIDS)
def test_a_rebuilt_table_equals_the_committed_one(name):
    sys.path.insert(0, str(Path(__file__).parents[2] / "tools"))
    from build_tables import build

    committed = tables.load(name)[0]
    for key, array in build(name).items():
        np.testing.assert_allclose(array, committed[key], rtol=1e-7, atol=1e-6, err_msg=key)


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
