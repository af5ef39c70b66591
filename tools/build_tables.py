"""Build the refrigerant property tables that ship with Wolfsbane.

Run with the development environment: ``python tools/build_tables.py``. Needs CoolProp; the product does not.
Writes one ``.npz`` (the arrays) and one ``.json`` (provenance and content hash) per refrigerant.
"""

import json
from pathlib import Path

import CoolProp.CoolProp as CP
import numpy as np

from wolfsbane.tables import content_hash

OUT = Path(__file__).resolve().parents[1] / "src" / "wolfsbane" / "tables"
SATURATION_NODES, PRESSURE_NODES, VAPOUR_NODES, LIQUID_NODES = 500, 140, 60, 41
VAPOUR_SPAN_J_KG, ENTROPY_SPAN_J_KGK, SUBCOOLING_SPAN_K = 170e3, 420.0, 60.0

FLUIDS = {
    "R-410A": {"coolprop": "R410A", "min_pa": 120e3, "max_pa": 4.75e6, "safety_class": "A1",
               "equation": "Lemmon (2003), pseudo-pure equation of state, as implemented in CoolProp"},
    "R-22": {"coolprop": "R22", "min_pa": 80e3, "max_pa": 4.80e6, "safety_class": "A1",
             "equation": "Kamei, Beyerlein and Jacobsen (1995), as implemented in CoolProp"},
}


def saturation(fluid, ln_p):
    """Rows T_bubble, T_dew, h_f, h_g, s_g, rho_f, rho_g over ``ln_p`` (K, J/kg, J/(kg K), kg/m3)."""
    rows = np.empty((7, ln_p.size))
    for i, p in enumerate(np.exp(ln_p)):
        fluid.update(CP.PQ_INPUTS, p, 0.0)
        rows[0, i], rows[2, i], rows[5, i] = fluid.T(), fluid.hmass(), fluid.rhomass()
        fluid.update(CP.PQ_INPUTS, p, 1.0)
        rows[1, i], rows[3, i], rows[4, i], rows[6, i] = fluid.T(), fluid.hmass(), fluid.smass(), fluid.rhomass()
    return rows


def vapour(fluid, ln_p, rows):
    """T, rho, s over (ln P, h - h_g) and h - h_g over (ln P, s - s_g)."""
    by_h = np.empty((3, ln_p.size, VAPOUR_NODES))
    by_s = np.empty((ln_p.size, VAPOUR_NODES))
    for i, p in enumerate(np.exp(ln_p)):
        t_dew, h_g, s_g, rho_g = rows[1, i], rows[3, i], rows[4, i], rows[6, i]
        by_h[:, i, 0], by_s[i, 0] = (t_dew, rho_g, s_g), 0.0
        for j in range(1, VAPOUR_NODES):
            fluid.update(CP.HmassP_INPUTS, h_g + VAPOUR_SPAN_J_KG * j / (VAPOUR_NODES - 1), p)
            by_h[:, i, j] = fluid.T(), fluid.rhomass(), fluid.smass()
            fluid.update(CP.PSmass_INPUTS, p, s_g + ENTROPY_SPAN_J_KGK * j / (VAPOUR_NODES - 1))
            by_s[i, j] = fluid.hmass() - h_g
    return by_h, by_s


def liquid(fluid, ln_p, rows, t_min):
    """h - h_f and rho over (ln P, subcooling). Below the equation's range the last slope is carried on."""
    out = np.empty((2, ln_p.size, LIQUID_NODES))
    for i, p in enumerate(np.exp(ln_p)):
        t_bubble, h_f, rho_f = rows[0, i], rows[2, i], rows[5, i]
        out[:, i, 0] = 0.0, rho_f
        for j in range(1, LIQUID_NODES):
            t = t_bubble - SUBCOOLING_SPAN_K * j / (LIQUID_NODES - 1)
            if t > t_min:
                fluid.update(CP.PT_INPUTS, p, t)
                out[:, i, j] = fluid.hmass() - h_f, fluid.rhomass()
            else:
                out[:, i, j] = 2 * out[:, i, j - 1] - out[:, i, j - 2]
    return out


def build(name):
    """Return the arrays of refrigerant ``name`` by table name."""
    spec = FLUIDS[name]
    fluid = CP.AbstractState("HEOS", spec["coolprop"])
    fine = np.linspace(np.log(spec["min_pa"]), np.log(spec["max_pa"]), SATURATION_NODES)
    coarse = np.linspace(fine[0], fine[-1], PRESSURE_NODES)
    rows = saturation(fluid, coarse)
    by_h, by_s = vapour(fluid, coarse, rows)
    return {
        "ln_p_range": np.array([fine[0], fine[-1]]),
        "spans": np.array([VAPOUR_SPAN_J_KG, ENTROPY_SPAN_J_KGK, SUBCOOLING_SPAN_K]),
        "saturation": saturation(fluid, fine),
        "vapour": by_h,
        "vapour_h_by_s": by_s,
        "liquid": liquid(fluid, coarse, rows, fluid.Tmin() + 0.5),
    }


def main():
    for name, spec in FLUIDS.items():
        arrays = build(name)
        np.savez_compressed(OUT / f"{name}.npz", **arrays)
        record = {"refrigerant": name, "version": 1, "sha256": content_hash(arrays),
                  "library": f"CoolProp {CP.get_global_param_string('version')}", "equation": spec["equation"],
                  "safety_class": spec["safety_class"], "min_pa": spec["min_pa"], "max_pa": spec["max_pa"],
                  "built_by": "tools/build_tables.py"}
        (OUT / f"{name}.json").write_text(json.dumps(record, indent=2) + "\n")
        print(name, record["sha256"][:12])


if __name__ == "__main__":
    main()
