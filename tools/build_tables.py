"""Build the refrigerant property tables that ship with Wolfsbane.

Run with the development environment: ``python tools/build_tables.py [NAME ...]``. Needs CoolProp and scipy; the product
needs neither. Writes one ``.npz`` (the arrays) and one ``.json`` (provenance and content hash) per refrigerant.

Blends are computed at constant composition from their components' equations and mixing rules. Flashes at pressure and
quality fail for some of them, so the dome is traced at temperature and quality and splined over ln P; single-phase
states are computed at temperature and pressure with the phase imposed and splined over enthalpy and entropy.
"""

import json
import sys
from pathlib import Path

import CoolProp.CoolProp as CP
import numpy as np
from scipy.interpolate import CubicSpline

from wolfsbane.tables import content_hash

OUT = Path(__file__).resolve().parents[1] / "src" / "wolfsbane" / "tables"
SATURATION_NODES, PRESSURE_NODES, VAPOUR_NODES, LIQUID_NODES = 500, 150, 60, 41
SUBCOOLING_SPAN_K = 60.0
#: below this the density search of a blend's liquid fails; far colder than any liquid line
BLEND_LIQUID_MIN_K = 195.0
ENTROPY_PER_ENTHALPY = 420.0 / 170e3
_BELL = "mixing rules of Bell (2023) where fitted, otherwise of Lemmon and Jacobsen (2004) or estimated by the library"

#: ``glide`` names the mixture file; vapor_span J/kg; t_min K is where the table begins
FLUIDS = {
    "R-410A": {
        "coolprop": "R410A",
        "safety_class": "A1",
        "t_min": 205.0,
        "vapour_span": 200e3,
        "equation": "Lemmon (2003), pseudo-pure equation of state",
    },
    "R-22": {
        "coolprop": "R22",
        "safety_class": "A1",
        "t_min": 215.0,
        "vapour_span": 170e3,
        "equation": "Kamei, Beyerlein and Jacobsen (1995)",
    },
    "R-32": {
        "coolprop": "R32",
        "safety_class": "A2L",
        "t_min": 205.0,
        "vapour_span": 300e3,
        "equation": "Tillner-Roth and Yokozeki (1997)",
    },
    "R-454B": {
        "coolprop": "R454B.mix",
        "safety_class": "A2L",
        "t_min": 205.0,
        "vapour_span": 250e3,
        "equation": "R-32/R-1234yf 68.9/31.1 by mass; Tillner-Roth and Yokozeki (1997), Lemmon and Akasaka (2022); "
        + _BELL,
    },
    "R-134a": {
        "coolprop": "R134a",
        "safety_class": "A1",
        "t_min": 212.0,
        "vapour_span": 170e3,
        "equation": "Tillner-Roth and Baehr (1994)",
    },
    "R-404A": {
        "coolprop": "R404A.mix",
        "safety_class": "A1",
        "t_min": 205.0,
        "vapour_span": 170e3,
        "equation": "R-125/R-143a/R-134a 44/52/4 by mass; " + _BELL,
    },
    "R-407C": {
        "coolprop": "R407C.mix",
        "safety_class": "A1",
        "t_min": 212.0,
        "vapour_span": 200e3,
        "equation": "R-32/R-125/R-134a 23/25/52 by mass; " + _BELL,
    },
    "R-448A": {
        "coolprop": "R448A.mix",
        "safety_class": "A1",
        "t_min": 205.0,
        "vapour_span": 200e3,
        "equation": "R-32/R-125/R-1234yf/R-134a/R-1234ze(E) 26/26/20/21/7 by mass; " + _BELL,
    },
    "R-449A": {
        "coolprop": "R449A.mix",
        "safety_class": "A1",
        "t_min": 205.0,
        "vapour_span": 200e3,
        "equation": "R-32/R-125/R-1234yf/R-134a 24.3/24.7/25.3/25.7 by mass; " + _BELL,
    },
    "R-290": {
        "coolprop": "R290",
        "safety_class": "A3",
        "t_min": 195.0,
        "vapour_span": 350e3,
        "equation": "Lemmon, McLinden and Wagner (2009)",
    },
    "R-600a": {
        "coolprop": "R600a",
        "safety_class": "A3",
        "t_min": 215.0,
        "vapour_span": 350e3,
        "equation": "Buecker and Wagner (2006)",
    },
}
_KEYS = (CP.iT, CP.iHmass, CP.iSmass, CP.iDmass)


def _point(fluid, inputs, a, b):
    fluid.update(inputs, a, b)
    return [fluid.keyed_output(k) for k in _KEYS]


def _side(fluid, quality, temperatures):
    """Rows of p, T, h, s, rho along one side of the dome. A flash that fails or leaps off the line is left out, and the
    line ends where none has been good for 6 K."""
    rows = []
    for t in temperatures:
        if rows and t - rows[-1][1] > 6.0:
            break
        try:
            row = _point(fluid, CP.QT_INPUTS, quality, t)
        except ValueError:
            continue
        row = [fluid.p(), *row]
        if len(rows) > 1:
            (p0, t0, *_), (p1, t1, *_) = rows[-2], rows[-1]
            expected = p1 * (p1 / p0) ** ((t - t1) / (t1 - t0))
            if abs(row[0] / expected - 1.0) > 0.004 or abs(row[4] / rows[-1][4] - 1.0) > 0.12:
                continue
        rows.append(row)
    return rows


def dome(fluid, t_min):
    """Splines over ln P of T, h, s, rho for bubble and dew: (ln_p_low, ln_p_high, bubble, dew)."""
    temperatures = np.concatenate(
        (
            np.arange(t_min, 330.0, 0.5),
            np.arange(
                330.0, fluid.trivial_keyed_output(CP.iT_critical) if len(fluid.fluid_names()) == 1 else 400.0, 0.25
            ),
        )
    )
    sides = [np.array(_side(fluid, quality, temperatures)) for quality in (0, 1)]
    critical = max(s[-1, 0] for s in sides)
    low = max(s[0, 0] for s in sides)
    high = min(0.97 * critical if len(fluid.fluid_names()) == 1 else critical, *(s[-1, 0] for s in sides))
    splines = [CubicSpline(np.log(s[:, 0]), s[:, 1:]) for s in sides]
    return np.log(low), np.log(high), *splines


def saturation(ln_p, bubble, dew):
    """Rows T_bubble, T_dew, h_f, h_g, s_g, rho_f, rho_g over ``ln_p`` (K, J/kg, J/(kg K), kg/m3)."""
    b, d = bubble(ln_p).T, dew(ln_p).T
    return np.array([b[0], d[0], b[1], d[1], d[2], b[3], d[3]])


def vapor(fluid, ln_p, rows, span):
    """T, rho, s over (ln P, h - h_g) and h - h_g over (ln P, s - s_g)."""
    by_h, by_s = np.empty((3, ln_p.size, VAPOUR_NODES)), np.empty((ln_p.size, VAPOUR_NODES))
    grid = np.linspace(0.0, 1.0, VAPOUR_NODES)
    fluid.specify_phase(CP.iphase_gas)
    for i, p in enumerate(np.exp(ln_p)):
        t_dew, h_g, s_g, rho_g = rows[1, i], rows[3, i], rows[4, i], rows[6, i]
        nodes = [[t_dew, h_g, s_g, rho_g]]
        step = 0.4
        while nodes[-1][1] < h_g + span or nodes[-1][2] < s_g + span * ENTROPY_PER_ENTHALPY:
            nodes.append(_point(fluid, CP.PT_INPUTS, p, nodes[-1][0] + step))
            step = min(step * 1.15, 4.0)
        t, h, s, rho = np.array(nodes).T
        over_h, over_s = CubicSpline(h - h_g, np.column_stack((t, 1.0 / rho, s))), CubicSpline(s - s_g, h - h_g)
        by_h[:, i] = over_h(grid * span).T
        by_h[1, i] = 1.0 / by_h[1, i]
        by_s[i] = over_s(grid * span * ENTROPY_PER_ENTHALPY)
    fluid.unspecify_phase()
    return by_h, by_s


def liquid(fluid, ln_p, rows):
    """h - h_f and rho over (ln P, subcooling). Below the equation's range the last slope is carried on."""
    out = np.empty((2, ln_p.size, LIQUID_NODES))
    lowest = max(CP.AbstractState("HEOS", name).Tmin() for name in fluid.fluid_names()) + 0.5
    if len(fluid.fluid_names()) > 1:
        lowest = max(lowest, BLEND_LIQUID_MIN_K)
    fluid.specify_phase(CP.iphase_liquid)
    for i, p in enumerate(np.exp(ln_p)):
        t_bubble, h_f, rho_f = rows[0, i], rows[2, i], rows[5, i]
        out[:, i, 0] = 0.0, rho_f
        for j in range(1, LIQUID_NODES):
            t = t_bubble - SUBCOOLING_SPAN_K * j / (LIQUID_NODES - 1)
            if t > lowest:
                fluid.update(CP.PT_INPUTS, p, t)
                out[:, i, j] = fluid.hmass() - h_f, fluid.rhomass()
            else:
                out[:, i, j] = 2 * out[:, i, j - 1] - out[:, i, j - 2]
    fluid.unspecify_phase()
    return out


def build(name):
    """Return the arrays of refrigerant ``name`` by table name; grids in single precision, the dome in double."""
    spec = FLUIDS[name]
    fluid = CP.AbstractState("HEOS", spec["coolprop"])
    low, high, bubble, dew = dome(fluid, spec["t_min"])
    fine = np.linspace(low, high, SATURATION_NODES)
    coarse = np.linspace(low, high, PRESSURE_NODES)
    rows = saturation(coarse, bubble, dew)
    by_h, by_s = vapor(fluid, coarse, rows, spec["vapour_span"])
    return {
        "ln_p_range": np.array([fine[0], fine[-1]]),
        "spans": np.array([spec["vapour_span"], spec["vapour_span"] * ENTROPY_PER_ENTHALPY, SUBCOOLING_SPAN_K]),
        "saturation": saturation(fine, bubble, dew),
        "vapour": by_h.astype(np.float32),
        "vapour_h_by_s": by_s.astype(np.float32),
        "liquid": liquid(fluid, coarse, rows).astype(np.float32),
    }


def _record(name, spec, arrays):
    fluid = CP.AbstractState("HEOS", spec["coolprop"])
    low, high = np.exp(arrays["ln_p_range"])
    return {
        "refrigerant": name,
        "version": 2,
        "sha256": content_hash(arrays),
        "library": f"CoolProp {CP.get_global_param_string('version')}",
        "equation": spec["equation"],
        "safety_class": spec["safety_class"],
        "blend": len(fluid.fluid_names()) > 1 or name == "R-410A",
        "molar_mass_kg_mol": round(fluid.molar_mass(), 9),
        "min_pa": round(float(low), 1),
        "max_pa": round(float(high), 1),
        "built_by": "tools/build_tables.py",
    }


def main(names):
    for name in names or FLUIDS:
        arrays = build(name)
        np.savez_compressed(OUT / f"{name}.npz", **arrays)
        record = _record(name, FLUIDS[name], arrays)
        (OUT / f"{name}.json").write_text(json.dumps(record, indent=2) + "\n")
        print(
            name,
            record["sha256"][:12],
            f"{record['min_pa'] / 1e3:.1f} kPa to {record['max_pa'] / 1e6:.3f} MPa",
            flush=True,
        )


if __name__ == "__main__":
    main(sys.argv[1:])
