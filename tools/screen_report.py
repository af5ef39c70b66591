"""Robots play calls on screen; their marks go into docs/marking.md. Fails where their order comes out wrong."""

import argparse
import re
import statistics
from pathlib import Path

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.exercise.draw.variant import NoVariantError, vary
from wolfsbane.exercise.plan.scenario import scenario
from wolfsbane.exercise.screen.issue import Issue
from wolfsbane.exercise.screen.marks import RUBRIC, RUBRIC_VERSION
from wolfsbane.exercise.screen.robots import ROBOTS, play

DOC = Path(__file__).parents[1] / "docs" / "marking.md"
BEGIN, END = "<!-- screen robots -->", "<!-- /screen robots -->"
MACHINE_IDS = (
    "split-3t-r410a-txv",
    "split-3t-r22-orifice",
    "package-10t-r410a-two-circuits",
    "walkin-cooler-r448a-txv",
    "split-5t-r410a-txv",
)
FAULTS = (
    ("undercharge", 76, "leak"),
    ("dirty_condenser", 50, None),
    ("overcharge", 120, None),
    ("low_airflow", 58, "dirty_filter"),
    ("none", 0, None),
    ("non_condensables", 60, None),
    ("liquid_line_restriction", 70, None),
    ("leaking_compressor_valves", 60, None),
)


def issues(calls: int) -> list[Issue]:
    """So many fair calls, machines and faults in turn; what cannot be drawn fairly is passed over."""
    found: list[Issue] = []
    for seed in range(20 * calls):
        machine = MACHINES[MACHINE_IDS[seed % len(MACHINE_IDS)]]
        fault, severity, cause = FAULTS[(seed // len(MACHINE_IDS)) % len(FAULTS)]
        rows = [] if fault == "none" else [{"id": fault, "severity": severity, **({"cause": cause} if cause else {})}]
        air = {"box_f": 38} if machine.refrigeration else {"return_db_f": 78, "return_wb_f": 65.5}
        body = {"schema": 3, "title": "Robots", "machine": machine.id, "faults": rows, "outdoor_db_f": 84 + seed % 12}
        try:
            made = scenario(body | air)
            call = vary(made, "us", seed)
        except (NoVariantError, BadInputError, NoConvergenceError):
            continue
        found.append(Issue(call=call, machine=made.profile, mode="practice", minutes=None, rubric=RUBRIC_VERSION))
        if len(found) == calls:
            break
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--calls", type=int, default=200)
    parser.add_argument("--write", action="store_true", help="write the table into docs/marking.md")
    args = parser.parse_args()
    calls = issues(args.calls)
    lines = [
        f"{len(calls)} calls on {len({i.machine.id for i in calls})} machines, "
        f"{len({i.call.key.fault for i in calls})} faults; mean points of 100, and of each part.",
        "",
        f"| robot | all | lowest | highest | {' | '.join(RUBRIC)} |",
        f"|---|---|---|---|{'---|' * len(RUBRIC)}",
    ]
    means = []
    for name in ROBOTS:
        marks = [play(name, issue, 7 + n)[0] for n, issue in enumerate(calls)]
        earned = [m.earned for m in marks]
        means.append(statistics.mean(earned))
        parts = [statistics.mean(next(p.earned for p in m.parts if p.part == part) for m in marks) for part in RUBRIC]
        cells = " | ".join(f"{p:.1f}" for p in parts)
        lines.append(f"| {name} | **{means[-1]:.1f}** | {min(earned)} | {max(earned)} | {cells} |")
        print(lines[-1], flush=True)
    if means != sorted(means, reverse=True) or means[0] - means[1] < 8.0:
        raise SystemExit("the robots do not come out in their order")
    if args.write:
        text = DOC.read_text()
        table = "\n".join(lines)
        DOC.write_text(re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}\n{table}\n{END}", text, flags=re.S))


if __name__ == "__main__":
    main()
