"""Write the measured part of docs/validation.md: ``make validate``. Needs the development environment.

Runs the sweep of 20,000 random cases, solves cycles again on a general library, compares the tables with the equations
at random points, and puts the numbers between the two marks in the page.
"""

import random
from pathlib import Path

import CoolProp.CoolProp as CP
import numpy as np
from build_tables import FLUIDS

from wolfsbane.cycle.conditions import rating_conditions
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.properties import H_F, H_G, liquid_at, refrigerant, saturation_at, temperature_density_entropy
from wolfsbane.cycle.solver import SOLVER_VERSION, solve
from wolfsbane.cycle.units import PA_PER_PSI
from wolfsbane.devtools.audit import audit
from wolfsbane.devtools.reference import solve_on_library
from wolfsbane.devtools.signs import run as signs
from wolfsbane.devtools.sweep import run
from wolfsbane.tables import combined_hash

PAGE = Path(__file__).resolve().parents[1] / "docs" / "validation.md"
BEGIN, END = "<!-- measured: begin -->\n", "<!-- measured: end -->\n"
#: calls whose claims are searched for counterexamples
SEARCHED = 24
CYCLES = (
    ("split-3t-r410a-txv", None),
    ("split-3t-r410a-orifice", ("low_airflow", 60)),
    ("split-3t-r22-txv", ("undercharge", 80)),
    ("split-2t-r32-txv", ("dirty_condenser", 60)),
    ("split-1.5t-r32-orifice", ("overcharge", 115)),
    ("reachin-r134a-capillary", None),
    ("reachin-r290-capillary", ("liquid_line_restriction", 100)),
    ("reachin-r600a-capillary", None),
)


def table_errors(name, points=400):
    """Largest error of dew/bubble (K), vapor temperature (K), liquid enthalpy as K, liquid density (%)."""
    rng, fluid = random.Random(7), refrigerant(name)
    tab, worst = fluid.arrays, [0.0] * 4
    library = CP.AbstractState("HEOS", FLUIDS[name]["coolprop"])
    for _ in range(points):
        ln_p, u = rng.uniform(np.log(fluid.min_pa * 1.5), np.log(fluid.max_pa * 0.9)), rng.random()
        p = float(np.exp(ln_p))
        library.unspecify_phase()
        for quality, point in ((0, "bubble"), (1, "dew")):
            t = fluid.saturation_k(p, point)
            try:
                library.update(CP.QT_INPUTS, quality, t)
            except ValueError:
                continue
            slope = (fluid.saturation_pa(t + 0.05, point) - fluid.saturation_pa(t - 0.05, point)) / 0.1
            worst[0] = max(worst[0], abs(library.p() - p) / slope)
        h = saturation_at(tab, H_G, ln_p) + 500 + u * 0.55 * tab.h_span
        library.specify_phase(CP.iphase_gas)
        library.update(CP.PT_INPUTS, p, temperature_density_entropy(tab, ln_p, h)[0])
        worst[1] = max(worst[1], abs(library.hmass() - h) / library.cpmass())
        subcooling = 0.1 + 25 * u
        if fluid.saturation_k(p, "bubble") - subcooling > 235:
            library.specify_phase(CP.iphase_liquid)
            library.update(CP.PT_INPUTS, p, fluid.saturation_k(p, "bubble") - subcooling)
            found = saturation_at(tab, H_F, ln_p) + liquid_at(tab, 0, ln_p, subcooling)
            worst[2] = max(worst[2], abs(library.hmass() - found) / library.cpmass())
            worst[3] = max(worst[3], 100 * abs(liquid_at(tab, 1, ln_p, subcooling) / library.rhomass() - 1))
    return worst


def cycle_row(machine_id, fault):
    """One line: the same case solved by us and on the library."""
    m = machine(machine_id)
    planted = (Fault(id=fault[0], severity=fault[1]),) if fault else ()
    ours = solve(m, rating_conditions(m), planted)
    x = (ours.solution[0] + 0.02, ours.solution[1] - 0.02, ours.solution[2] + 800)
    _, theirs, found = solve_on_library(m, rating_conditions(m), planted, start=x)
    assert found, machine_id

    def psi(ours_pa, key):
        return f"{ours_pa / PA_PER_PSI:.2f} / {getattr(theirs, key) / PA_PER_PSI:.2f}"

    worst = max(
        abs(getattr(theirs, key) - value)
        for key, value in (
            ("suction_line_k", ours.suction_line_k),
            ("liquid_line_k", ours.liquid_line_k),
            ("discharge_k", ours.discharge_line_k),
        )
    )
    return (
        f"| {machine_id} | {':'.join(map(str, fault)) if fault else 'sound'} | {psi(ours.suction_pa, 'suction_pa')} | "
        f"{psi(ours.head_pa, 'discharge_pa')} | {worst * 1.8:.3f} | "
        f"{100 * (theirs.evaporator_heat_w / ours.capacity_w - 1):+.3f} |"
    )


def sign_lines(found):
    """What the claims about every fault came to, and what no machine may show."""
    wrong = sum(row["wrong"] for row in found["wrong"])
    return [
        f"{found['claims']} claims, each on one machine over its weather grid at three levels, in cooling, heating",
        f"and boxes: {found['cases']} comparisons, {found['right']} the right way, {found['nothing']} within what an",
        f"instrument may be off, {wrong} the wrong way, {found['excepted']} excepted:",
        "",
        *(f"- {row['family']}, {row['figure']}: {row['why']}." for row in found["exceptions"]),
        "",
        f"Physical impossibilities in {found['random']} random cases: {len(found['impossible']) or 'none'}.",
        *(f"- {text}: cases {numbers}" for text, numbers in found["impossible"].items()),
    ]


def main():
    found = run(20_000)
    lines = [
        f"Solver version {SOLVER_VERSION}, tables {combined_hash()[:12]}.",
        "",
        "### Twenty thousand random cases (`wolfsbane sweep`)",
        "",
        (
            f"{found['cases']} machine × weather × up to three faults at any severity, seed {found['seed']}:"
            f" {found['settled']} settled ({found['at_rest']} of them with equal pressures),"
            f" {sum(found['cut_out'].values())} cut out ({', '.join(f'{k} {n}' for k, n in found['cut_out'].items())}),"
            f" {len(found['failed'])} without an answer. Worst closure: energy {found['worst_energy']:.1e}, mass"
            f" {found['worst_mass']:.1e}; {found['over_limit']} above 1e-3. {found['seconds']} s."
        ),
        "",
        "| machine | cases | settled | cut out | no answer | worst closure |",
        "|---|---|---|---|---|---|",
    ]
    lines += [
        f"| {r['machine']} | {r['cases']} | {r['settled']} | {r['cut_out']} | {r['failed']} |"
        f" {r['worst_closure']:.0e} |"
        for r in found["per_machine"]
    ]
    lines += [
        "",
        "### Which way faults move the gauges (`wolfsbane sweep --signs`)",
        "",
        *sign_lines(signs(20_000)),
        "",
        "### Cycles solved again on a general library",
        "",
        (
            "The same equations with CoolProp's equations of state for every property and scipy's root finder"
            " (`wolfsbane.devtools.reference`). Ours / theirs, psi absolute; largest difference of suction, liquid and"
            " discharge line."
        ),
        "",
        "| machine | case | suction | head | lines, °F | capacity, % |",
        "|---|---|---|---|---|---|",
    ]
    lines += [cycle_row(*c) for c in CYCLES]
    lines += [
        "",
        "### Tables against their equations, 400 random points each",
        "",
        "| refrigerant | dew and bubble, K | vapor, K | subcooled liquid, K | liquid density, % |",
        "|---|---|---|---|---|",
    ]
    lines += [
        f"| {name} | {e[0]:.4f} | {e[1]:.3f} | {e[2]:.3f} | {e[3]:.2f} |"
        for name in FLUIDS
        for e in [table_errors(name)]
    ]
    found = audit("proof", 1, SEARCHED)
    lines += [
        "",
        f"### Claims of proofs against a brute-force search, {SEARCHED} calls and a third as many scenarios",
        "",
        "`wolfsbane.devtools.counterexamples`; docs/fairness.md has more of it, and the other tables.",
        "",
        "| | claim | stated | counterexamples |",
        "|---|---|---|---|",
    ]
    lines += [
        f"| {name} | {claim} | {row.get('stated', 0)} | {row.get('counterexamples', 0)} |"
        for name, part in found.items()
        for claim, row in part["claims"].items()
    ]
    page = PAGE.read_text()
    head, rest = page.split(BEGIN)
    PAGE.write_text(head + BEGIN + "\n".join(lines) + "\n" + END + rest.split(END)[1])
    print(*lines[:8], sep="\n")


if __name__ == "__main__":
    main()
