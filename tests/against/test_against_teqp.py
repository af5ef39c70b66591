"""Property tables against teqp, a second implementation of the published Helmholtz equations of state.

The equations' coefficients (each named in its table's provenance) come from the fluid files that teqp ships; the code
that evaluates them is its own.
"""

import numpy as np
import pytest
import teqp

from wolfsbane import tables
from wolfsbane.cycle.properties import RHO_F, RHO_G, T_BUBBLE, T_DEW

FLUIDS = {
    "R-22": "R22",
    "R-410A": "R410A",
    "R-32": "R32",
    "R-134a": "R134a",
    "R-290": "n-Propane",
    "R-600a": "IsoButane",
}


def model(name):
    return teqp.build_multifluid_model([FLUIDS[name]], teqp.get_datapath())


def pressure_pa(eos, name, t_k, rho_kg_m3):
    molar = tables.load(name)[1]["molar_mass_kg_mol"]
    z, rho = np.array([1.0]), rho_kg_m3 / molar
    return rho * eos.get_R(z) * t_k * (1 + eos.get_Ar01(t_k, rho, z))


@pytest.mark.parametrize("name", FLUIDS)
def test_saturated_vapour_of_the_table_lies_on_the_published_equation(name):
    data, eos = tables.load(name)[0], model(name)
    ln_p = np.linspace(*data["ln_p_range"], data["saturation"].shape[1])
    for i in range(5, ln_p.size - 60, 25):
        found = pressure_pa(eos, name, data["saturation"][T_DEW, i], data["saturation"][RHO_G, i])
        assert found == pytest.approx(np.exp(ln_p[i]), rel=2e-4)


@pytest.mark.parametrize("name", ["R-22", "R-32", "R-134a", "R-290", "R-600a"])
def test_a_pure_refrigerant_boils_where_the_second_library_says(name):
    data, eos, molar = tables.load(name)[0], model(name), tables.load(name)[1]["molar_mass_kg_mol"]
    ln_p = np.linspace(*data["ln_p_range"], data["saturation"].shape[1])
    for i in range(40, ln_p.size - 60, 60):
        t = data["saturation"][T_BUBBLE, i]
        rho_l, rho_v = eos.pure_VLE_T(t, data["saturation"][RHO_F, i] / molar, data["saturation"][RHO_G, i] / molar, 20)
        assert pressure_pa(eos, name, t, rho_v * molar) == pytest.approx(np.exp(ln_p[i]), rel=5e-4)
        assert rho_l * molar == pytest.approx(data["saturation"][RHO_F, i], rel=5e-4)


@pytest.mark.parametrize("name", FLUIDS)
def test_superheated_density_of_the_table_lies_on_the_published_equation(name):
    data, eos = tables.load(name)[0], model(name)
    t, rho, _ = data["vapour"]
    ln_p = np.linspace(*data["ln_p_range"], t.shape[0])
    for i in range(4, t.shape[0] - 20, 12):
        for j in (5, 20, 45):
            assert pressure_pa(eos, name, t[i, j], rho[i, j]) == pytest.approx(np.exp(ln_p[i]), rel=2e-4)
