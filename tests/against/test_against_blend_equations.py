"""Dew and bubble of the blends against other published equations than the tables were built from.

R-454B: Akasaka (2013) for R-32/R-1234yf as teqp ships it, solved here from equal chemical potentials (tables: Bell
2023). R-404A, R-407C: Lemmon's pseudo-pure equations (2003), as CoolProp ships them (tables: mixing rules over the
components). R-448A, R-449A: no second source could be opened here; their normal boiling and dew points are from memory,
unverified.
"""

import CoolProp.CoolProp as CP
import numpy as np
import pytest
import teqp
from scipy.optimize import root

from wolfsbane.cycle.properties import refrigerant

BLENDS = {"R-454B": "R454B.mix"}


def composition(name):
    fluid = CP.AbstractState("HEOS", BLENDS[name])
    return fluid, fluid.fluid_names(), np.array(fluid.get_mole_fractions())


def side_pa(name, t_k, quality):
    """Bubble (0) or dew (1) pressure at ``t_k`` by teqp, begun from the library's densities."""
    fluid, names, z = composition(name)
    model = teqp.build_multifluid_model(names, teqp.get_datapath())
    fluid.update(CP.QT_INPUTS, quality, t_k)
    own, other = (
        fluid.rhomolar(),
        np.array(fluid.mole_fractions_vapor() if quality == 0 else fluid.mole_fractions_liquid()),
    )
    other = other * (fluid.p() / 8.314 / t_k * 1.15 if quality == 0 else own * 30)

    def pressure(rho):
        return rho.sum() * model.get_R(z) * t_k + model.get_pr(t_k, rho)

    def unequal(u):
        a, b = np.exp(u[0]) * z, np.exp(u[1:])
        potential = np.array(model.get_chempotVLE_autodiff(t_k, a)) - np.array(model.get_chempotVLE_autodiff(t_k, b))
        return [(pressure(a) - pressure(b)) / 1e5, *(potential / 1e3)]

    if quality == 1:
        fluid.update(CP.QT_INPUTS, 0, t_k)
        other = np.array(composition(name)[2]) * fluid.rhomolar()
    found = root(unequal, [np.log(own), *np.log(other)])
    assert found.success, found.message
    return pressure(np.exp(found.x[0]) * z)


@pytest.mark.parametrize("t_k", [253.15, 283.15, 313.15])
def test_r454b_agrees_with_another_published_mixture_model_within_a_percent_or_so(t_k):
    fluid = refrigerant("R-454B")
    for quality, point in ((0, "bubble"), (1, "dew")):
        assert fluid.saturation_pa(t_k, point) == pytest.approx(side_pa("R-454B", t_k, quality), rel=0.012)


@pytest.mark.parametrize(("name", "pseudo_pure"), [("R-404A", "R404A"), ("R-407C", "R407C")])
@pytest.mark.parametrize("t_k", [233.15, 253.15, 273.15, 293.15, 313.15, 328.15])
def test_hfc_blends_agree_with_lemmons_pseudo_pure_equations(name, pseudo_pure, t_k):
    for quality, point in ((0, "bubble"), (1, "dew")):
        listed = CP.PropsSI("P", "T", t_k, "Q", quality, pseudo_pure)
        assert refrigerant(name).saturation_pa(t_k, point) == pytest.approx(listed, rel=1e-3)


def test_the_glide_of_r454b_is_settled_between_two_mixture_models():
    """Ours 1.2 to 1.5 K, Akasaka's 1.0 to 1.3 K: a quarter of a kelvin apart, half of what a PT scale is read to."""
    fluid = refrigerant("R-454B")
    for t_k in (253.15, 283.15, 313.15):
        slope = fluid.saturation_pa(t_k + 0.5, "dew") - fluid.saturation_pa(t_k - 0.5, "dew")
        theirs = (side_pa("R-454B", t_k, 0) - side_pa("R-454B", t_k, 1)) / slope
        ours = (fluid.saturation_pa(t_k, "bubble") - fluid.saturation_pa(t_k, "dew")) / slope
        assert 1.0 < theirs < 1.6 and 1.1 < ours < 1.8
        assert 0.0 < ours - theirs < 0.3


#: normal boiling and dew point in degrees C, as listed by ASHRAE 34: from memory, unverified
NORMAL = {
    "R-404A": (-46.2, -45.5),
    "R-407C": (-43.6, -36.6),
    "R-448A": (-45.9, -39.8),
    "R-449A": (-46.0, -39.9),
    "R-454B": (-50.9, -50.0),
    "R-134a": (-26.1, -26.1),
    "R-290": (-42.1, -42.1),
    "R-600a": (-11.7, -11.7),
    "R-32": (-51.7, -51.7),
    "R-22": (-40.8, -40.8),
}


@pytest.mark.parametrize("name", NORMAL)
def test_normal_boiling_and_dew_point_are_where_the_standard_is_remembered_to_list_them(name):
    found = refrigerant(name)
    for point, listed in zip(("bubble", "dew"), NORMAL[name], strict=True):
        assert found.saturation_k(101_325, point) - 273.15 == pytest.approx(listed, abs=0.6)
