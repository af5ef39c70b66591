"""Saturation pressures against the vapor-pressure correlations in the ``chemicals`` library.

R-22 and R-32: the VDI-PPDS table (VDI Heat Atlas, as shipped with chemicals). R-410A is half R-32 by mass and lies a
little below it, since R-125 boils at a lower pressure.
"""

import pytest
from chemicals.vapor_pressure import Psat_data_VDI_PPDS_3, Wagner

from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import f_to_k


def vdi_pa(cas, t_k):
    row = Psat_data_VDI_PPDS_3.loc[cas]
    return Wagner(t_k, row.Tc, row.Pc, row.A, row.B, row.C, row.D)


@pytest.mark.parametrize("t_f", [0, 20, 40, 70, 100, 130, 160])
def test_r22_saturation_pressure_is_within_one_per_cent_of_the_vdi_correlation(t_f):
    assert refrigerant("R-22").saturation_pa(f_to_k(t_f), "bubble") == pytest.approx(
        vdi_pa("75-45-6", f_to_k(t_f)), rel=0.01
    )


@pytest.mark.parametrize("t_f", [20, 45, 80, 105, 130])
def test_r410a_saturation_pressure_lies_a_little_below_that_of_its_r32(t_f):
    ratio = refrigerant("R-410A").saturation_pa(f_to_k(t_f), "bubble") / vdi_pa("75-10-5", f_to_k(t_f))
    assert 0.94 < ratio < 1.0
