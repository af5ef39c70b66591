"""Bookkeeping: scale, cylinder and log of a job that was played on a solved machine. They must agree; where they do
not, why.

The weights are the site's own, rounded as a scale shows them; the entry that disagrees is planted and named in the key.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.settling import arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.units import KG_PER_OZ, SYSTEMS, to_display
from wolfsbane.exercise.draw.weather import drawn_weather

if TYPE_CHECKING:
    import random

    from wolfsbane.acting.cylinders import Cylinder
    from wolfsbane.acting.site import Site
    from wolfsbane.exercise.plan.brief import Brief

#: what a charging scale shows, in display units, and how far an answer may be off
_STEP, _TOLERANCE = {"us": 0.1, "si": 1.0}, {"us": 0.2, "si": 4.0}
#: entry that disagrees -> (what the log leaves out or gets wrong, why)
DISAGREEMENTS = {
    "hoses_forgotten": (
        "The liquid left in the hoses was vented instead of cleared into the low side: it is in no cylinder and no"
        " machine."
    ),
    "hose_on_scale": (
        "A hose was pulling on the cylinder when the scale was read; the "
        "second weighing, without the hose, is the true one."
    ),
    "entered_twice": "One burst is in the log twice.",
    "gross_for_net": "The tare was not subtracted: gross was logged as net.",
}
_KINDS = ("went_in", "hoses", "disagree", "room")


def bookkeeping(brief: Brief, rng: random.Random, index: int) -> Any:
    """One item as plain data: prompt, log lines, unit, answer, tolerance, mistakes, and ``reason`` where entries
    disagree.

    ``brief`` gives machines, weather and units; ``rng`` is a random.Random.
    """
    kind = _KINDS[index % len(_KINDS)]
    site, added, purged = _job(brief, rng, release=kind != "hoses")

    def shown(kg: Any) -> Any:
        return round(to_display("mass", kg, brief.units) / _STEP[brief.units]) * _STEP[brief.units]

    unit = SYSTEMS[brief.units]["mass"][0]

    def text(v: Any) -> Any:
        return f"{v + 0.0:.{1 if brief.units == 'us' else 0}f} {unit}"

    new = site.cylinder("new")
    before, after, purge, hoses = shown(new.gross_kg + added), shown(new.gross_kg), shown(purged), shown(site.hoses_kg)
    lines = [
        f"{site.machine.name}, {site.machine.refrigerant}",
        f"Cylinder on the scale before: {text(before)} gross",
        f"Cylinder on the scale after: {text(after)} gross",
        f"Hose purge: {text(purge)}",
    ]
    row = {"lines": lines, "unit": unit, "tolerance": _TOLERANCE[brief.units], "reason": None, "mistakes": []}
    gone = before - after
    if kind == "room":
        return row | _room(site, rng, shown, text)
    if kind == "disagree":
        return row | _disagree(rng, gone, purge, text, lines, new, shown)
    if kind == "hoses":
        lines.append(f"Left in the hoses, and vented: {text(hoses)}")
        return row | {
            "prompt": "How much did the machine gain?",
            "answer": round(gone - purge - hoses, 1),
            "mistakes": [
                {"mistake": "hoses_forgotten", "value": round(gone - purge, 1)},
                {"mistake": "purge_forgotten", "value": round(gone, 1)},
            ],
        }
    lines.append("The hoses were cleared into the low side.")
    return row | {
        "prompt": "How much went into the machine?",
        "answer": round(gone - purge, 1),
        "mistakes": [{"mistake": "purge_forgotten", "value": round(gone, 1)}],
    }


def _job(brief: Brief, rng: random.Random, *, release: Any) -> tuple[Site, float, float]:
    """(site after a charge by the scale, kg off the cylinder, kg purged) on a machine short of charge."""
    for _ in range(40):
        machine = brief.machine(rng.choice(brief.machines))
        if machine.sealed:
            continue
        kind = fault_kind("undercharge")
        fault = Fault(id=kind.id, severity=rng.uniform(kind.severe, kind.mild), cause="undercharged_at_start")
        try:
            site = arrive(on_site(machine, drawn_weather(brief, machine, rng), (fault,), units=brief.units))
        except NoConvergenceError:
            continue
        if not site.running:
            continue
        full = site.cylinder("new").kg
        done = act(site, action_kind("add_liquid"), {"oz": round((site.right_kg - site.circuit_kg) / KG_PER_OZ, 1)})
        added, purged = full - done.site.cylinder("new").kg, done.site.lost_kg
        site = act(done.site, action_kind("release_hoses"), {}).site if release else done.site
        return site, added, purged
    raise ValueError("no machine to charge in forty draws")


def _disagree(
    rng: random.Random,
    gone: float,
    purge: float,
    text: Callable[..., Any],
    lines: list[str],
    cylinder: Cylinder,
    shown: Callable[..., Any],
) -> dict[str, Any]:
    """A log that does not agree with the scale: by how much, and why."""
    why = rng.choice(sorted(set(DISAGREEMENTS) - {"hoses_forgotten"}))
    true = gone - purge
    burst = round(true / rng.choice((3, 4, 5)), 1)
    logged = {"hose_on_scale": true + burst, "entered_twice": true + burst, "gross_for_net": shown(cylinder.gross_kg)}[
        why
    ]
    lines.append(
        {
            "hose_on_scale": f"Weighed again with the hose off: {text(gone)} went out of the cylinder",
            "entered_twice": f"Bursts in the log: … {text(burst)}, {text(burst)} at the same minute …",
            "gross_for_net": f"Tare stamped on the cylinder: {text(shown(cylinder.tare_kg))}",
        }[why]
    )
    lines.append("The hoses were cleared into the low side.")
    if why == "gross_for_net":
        lines.append(f"Log: left in the cylinder, net: {text(logged)}")
        return {
            "prompt": "What should the log say is left in the cylinder, net? Say why the entry is wrong.",
            "answer": round(shown(cylinder.kg), 1),
            "reason": {"code": why, "text": DISAGREEMENTS[why]},
            "mistakes": [{"mistake": why, "value": round(logged, 1)}],
        }
    lines.append(f"Log: charged {text(logged)}")
    return {
        "prompt": "Scale and log do not agree. How much went into the machine? Say why the log is wrong.",
        "answer": round(true, 1),
        "reason": {"code": why, "text": DISAGREEMENTS[why]},
        "mistakes": [{"mistake": why, "value": round(logged, 1)}],
    }


def _room(site: Site, rng: random.Random, shown: Callable[..., Any], text: Callable[..., Any]) -> dict[str, Any]:
    """How much more a recovery cylinder may take."""
    cylinder = site.cylinder("recovery")
    held = shown(cylinder.most_kg * rng.uniform(0.15, 0.7))
    most, tare = shown(cylinder.most_kg), shown(cylinder.tare_kg)
    lines = [
        f"Recovery cylinder, {site.machine.refrigerant}: {text(tare + held)} gross on the scale",
        f"Tare {text(tare)}",
        f"Full, at 80 % of its volume in liquid, it holds {text(most)} net",
        f"The machine holds {text(shown(site.circuit_kg))}",
    ]
    return {
        "lines": lines,
        "prompt": "How much more can go into this cylinder?",
        "answer": round(most - held, 1),
        "mistakes": [
            {"mistake": "gross_for_net", "value": round(most - held - tare, 1)},
            {"mistake": "filled_to_the_brim", "value": round(most / 0.8 - held, 1)},
        ],
    }
