"""Write the tables of docs/rigs.md: twenty simulated rigs, each calibrated on some of its runs and held against others.

``make rigs``. Every number comes from running the simulated rigs; the same seeds give the same page.
"""

import sys
from dataclasses import dataclass, field
from pathlib import Path

from wolfsbane.cycle.profiles import MACHINES
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.rig.baseline import WEATHER, conditions_of, fitted, predicted
from wolfsbane.rig.individual import Individual
from wolfsbane.rig.planting import depth_of
from wolfsbane.rig.points import kind_of
from wolfsbane.rig.simulated import SimulatedRig
from wolfsbane.rig.steady import stretches
from wolfsbane.server.rigs.simulated import usual_rig

PAGE = Path(__file__).resolve().parents[1] / "docs" / "rigs.md"
BEGIN, END = "<!-- measured: begin -->\n", "<!-- measured: end -->\n"
MODELS = ("split-3t-r410a-txv", "split-3t-r410a-orifice", "heatpump-3t-r410a-txv", "split-5t-r410a-txv")
#: device, position: none of them is in the baseline
FAULTS = (
    ("liquid_valve", 3.2),
    ("bypass", 1.4),
    ("indoor_fan", 36.0),
    ("outdoor_fan", 40.0),
    ("condenser_board", 40.0),
    ("charge", 16.0),
)
GROUPS = {
    "suction, psi": ("suction_pressure",),
    "head, psi": ("head_pressure",),
    "lines and air, °F": ("suction_line", "liquid_line", "supply_db"),
    "superheat, °F": ("superheat",),
    "subcooling, °F": ("subcooling",),
}


@dataclass
class Errors:
    """Worst misses by group, before and after."""

    before: dict = field(default_factory=dict)
    after: dict = field(default_factory=dict)

    def add(self, which, misses):
        """The worse of what was and what is."""
        kept = getattr(self, which)
        for group, points in GROUPS.items():
            worst = max((abs(misses[p]) for p in points if p in misses), default=0.0)
            kept[group] = max(kept.get(group, 0.0), worst)


def run(rig, seconds):
    """Samples of the next seconds."""
    rows = []
    for _ in range(round(seconds / 6)):
        rig.step(6.0)
        rows.append((rig.seconds, rig.readings()))
    return rows


def figures(machine, shown, air):
    """Superheat and subcooling of readings, K."""
    scale = refrigerant(machine.refrigerant)
    return {
        "superheat": shown["suction_line"] - scale.saturation_k(shown["suction_pressure"] + air, "dew"),
        "subcooling": scale.saturation_k(shown["head_pressure"] + air, "bubble") - shown["liquid_line"],
    }


def misses(rig, profile, individual, stretch, faults=()):
    """Point or figure -> reading over prediction, in psi and degrees F."""
    weather = conditions_of(rig, profile, stretch.mean)
    shown = predicted(rig, profile, individual, weather, faults)
    if shown is None:
        return {}
    found = {}
    for point, value in shown.items():
        if point in stretch.mean and point not in WEATHER and kind_of(point) in ("pressure", "temperature"):
            size = 6894.757 if kind_of(point) == "pressure" else 1 / 1.8
            found[point] = (stretch.mean[point] - value) / size
    read, said = (figures(profile, s, weather.barometer_pa) for s in (stretch.mean, shown))
    return found | {name: (read[name] - said[name]) * 1.8 for name in read}


def one(number):
    """(model, healthy errors, fault errors, misses of severities as shares of their depth) of one rig."""
    model = MODELS[number % len(MODELS)]
    rig, profile = usual_rig(f"Rig {number}", model, 5020), MACHINES[model]
    running = SimulatedRig(rig=rig, profile=profile, seed=100 + number)
    rows = stretches(run(running, 9000))
    baseline = fitted(rig, profile, rows[::2])
    healthy, faulty, depths = Errors(), Errors(), []
    for stretch in rows[1::2]:
        healthy.add("before", misses(rig, profile, Individual(), stretch))
        healthy.add("after", misses(rig, profile, baseline.individual, stretch))
    for device, position in FAULTS:
        running.set(device, position)
        run(running, 1500)
        found = stretches(run(running, 900))
        if found and running.running:
            planted = running.faults()
            family = planted[0].id if planted else "undercharge"
            if planted:
                faulty.add("before", misses(rig, profile, Individual(), found[-1], planted))
                faulty.add("after", misses(rig, profile, baseline.individual, found[-1], planted))
            truth = (
                planted[0].severity if planted else 100.0 * running.site.circuit_kg / running.machine.circuit.charge_kg
            )
            fault_free = 0.0 if family in ("liquid_line_restriction", "leaking_compressor_valves") else 100.0
            depth = depth_of(rig, profile, baseline.individual, found[-1], family)
            if depth.shows:
                depths.append(abs(depth.severity - truth) / abs(truth - fault_free))
        running.set(device, 0.0)
        run(running, 2400)
    return model, healthy, faulty, depths


def line(*cells):
    """A row of a table."""
    return "| " + " | ".join(str(c) for c in cells) + " |\n"


def pair(errors, group):
    """ "before → after"."""
    return f"{errors.before.get(group, 0.0):.1f} → {errors.after.get(group, 0.0):.1f}"


def measured(many=20):
    """The tables as text."""
    rows = []
    for number in range(many):
        rows.append(one(number))
        print(number, rows[-1][0], rows[-1][2].after, file=sys.stderr)
    text = "Worst miss of any held-back healthy run, bare profile → calibrated:\n\n"
    text += line("rig", "machine", *GROUPS) + line(*["---"] * (2 + len(GROUPS)))
    for number, (model, healthy, _, _) in enumerate(rows):
        text += line(number + 1, model, *(pair(healthy, g) for g in GROUPS))
    text += (
        "\nWorst miss with one of six faults planted, none of which was calibrated on, at the depth it really had:\n\n"
    )
    text += line("rig", *GROUPS, "severity found, worst miss of its depth") + line(*["---"] * (2 + len(GROUPS)))
    for number, (_, _, faulty, depths) in enumerate(rows):
        found = f"{100 * max(depths):.0f} % of {len(depths)}" if depths else "–"
        text += line(number + 1, *(pair(faulty, g) for g in GROUPS), found)
    every = sorted(d for *_, depths in rows for d in depths)
    within = sum(d <= 0.10 for d in every)
    median = 100 * every[len(every) // 2]
    text += f"\n{within} of {len(every)} severities within 10 % of their depth; median {median:.1f} %.\n"
    return text


if __name__ == "__main__":
    text = PAGE.read_text(encoding="utf-8")
    begin, end = text.index(BEGIN) + len(BEGIN), text.index(END)
    PAGE.write_text(text[:begin] + measured() + text[end:], encoding="utf-8")
