"""Readings that swing: a hunting valve, head control at work, or a steady machine."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.acting.settling import advance, arrive, steady_state
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.faults import Fault
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page

if TYPE_CHECKING:
    pass


def hunting(page: Page) -> None:
    """Readings that swing: a hunting valve, or only a machine that is steady."""
    rng, machine = page.rng, page.machine
    walk_in = machine.receiver
    case = page.pick(("fan", "steady") if walk_in else ("hunts", "steady", "floods"))
    if walk_in:
        met = {
            "outdoor_db_f": rng.uniform(28, 45) if case == "fan" else rng.uniform(80, 95),
            "box_f": rng.uniform(35, 39),
        }
        page.conditions = for_machine(machine, **met)
    faults = {
        "hunts": lambda: (Fault(id="valve_hunting", severity=round(rng.uniform(14, 24), 1)),),
        "floods": lambda: (Fault(id="valve_overfeeding", severity=round(rng.uniform(97, 108), 1)),),
    }.get(case, lambda: ())()
    site = arrive(on_site(machine, page.conditions, faults, units=page.system))
    if not site.running:
        raise NotProvedError("it trips")
    site, _ = advance(site, 300.0, every_s=300.0)
    site, fine = advance(site, 485.0, every_s=10.0)
    moments = fine[5::6]
    keys = ("suction_pressure", "suction_line", "head_pressure", "liquid_line")
    keys = ("suction_pressure", "evaporator_outlet", "head_pressure", "liquid_line") if walk_in else keys
    rows = [(f"{i + 1} min", page.of_moment(m, keys)) for i, m in enumerate(moments[:8])]
    line = "evaporator_outlet" if walk_in else "suction_line"
    page.complaint = rng.choice(
        ("It cools, but the sound goes up and down.", "Cools unevenly.", "Somebody adjusted something last week.")
    )
    page.looks = [f"Running for half an hour. Air at the unit {page.degrees(page.conditions.outdoor_k)}."]
    page.table(
        "A reading every minute",
        ("After", *[page.label(k) for k in keys]),
        [(w, *[r.text for r in s.values()]) for w, s in rows],
    )
    page.strip_of_pressures("Recorder on both gauges over the same minutes", fine)
    each = []
    for _, shown in rows:
        saturation = page.figures(
            {"suction_pressure": shown["suction_pressure"], "head_pressure": shown["head_pressure"]}
        )
        each.append(shown[line].value - saturation["suction_saturation"])
    heads = [s["head_pressure"].value for _, s in rows]
    lowest = page.number(
        "lowest", "Lowest superheat of the eight rows", "difference", min(each), tolerance=1.5 * page.k
    )
    highest = page.number(
        "highest", "Highest superheat of the eight rows", "difference", max(each), tolerance=1.5 * page.k
    )
    swing = page.number(
        "swing",
        "How far superheat swings",
        "difference",
        highest - lowest,
        per={"highest": 1.0, "lowest": -1.0},
        tolerance=1.5 * page.k,
    )
    head = page.number(
        "head_swing",
        "How far the head pressure swings",
        "pressure",
        max(heads) - min(heads),
        tolerance=2 * rows[0][1]["head_pressure"].resolution,
    )
    names = {
        "hunts": "The TXV hunts: the evaporator swings, the head follows a little",
        "fan": "A pressure switch cycles the condenser fan: head control in cold weather, and normal",
        "steady": "Steady, and where it should be",
        "floods": "Steady, and flooding: the TXV feeds too much",
        "short": "Short of refrigerant",
    }
    page.choose(
        "what",
        "What the eight rows say",
        names,
        case,
        because=("lowest", "highest", "swing", "head_swing"),
        why={
            "hunts": "A hunting valve swings superheat by many degrees within minutes.",
            "fan": "With fan cycling the head goes far up and down, and all else follows it.",
            "steady": "Look at how far superheat swings, and where it stands.",
            "floods": "A flooding valve stands still near zero superheat; this does not.",
            "short": "Short of refrigerant superheat stays high.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "bulb": "Check bulb strap, place and insulation and the equalizer, then the valve's size",
            "leave": "Leave it; judge it by the middle of its readings",
            "raise": "Check the bulb's strap and insulation; then a stem can be closed a turn, waiting between",
            "add": "Add refrigerant until it stands still",
            "switch": "Replace the fan's pressure switch",
        },
        {"hunts": "bulb", "fan": "leave", "steady": "leave", "floods": "raise"}[case],
        after="what",
        plan={"hunts": "bulb", "fan": "leave", "steady": "leave", "floods": "raise"},
        why={
            "add": "A swing is no shortage: the middle of the readings says where the charge is.",
            "switch": "The switch does what it is there for.",
            "bulb": "Nothing swings, or it swings for another reason.",
        },
        points=2,
    )
    page.case, page.title = case, names[case]
    page.hazard = "A valve that swings to zero superheat sends liquid to the compressor: do not leave it so."
    k = page.k
    if case == "hunts":
        page.apart("A steady valve does not swing like this.", {"steady": swing / (2.5 * k)})
    elif case == "fan":
        psi = 1.0 if page.system == "us" else 6.9
        page.apart("A head that no switch cycles stands still.", {"steady": head / (8.0 * psi)})
    else:
        if swing > 2.0 * k:
            raise NotProvedError("it swings")
        middle = 0.5 * (highest + lowest)
        if case == "floods":
            healthy = steady_state(arrive(on_site(machine, page.conditions)))
            page.apart(
                "A good valve holds more superheat.",
                {"steady": (page.shown("difference", healthy.superheat_dk) - middle) / (2.0 * k)},
            )
        else:
            page.apart(
                "A hunting valve swings, and a flooding one stands lower.",
                {"hunts": (5.0 * k - swing) / (1.5 * k), "floods": middle / (2.0 * k)},
            )


KINDS = {"hunting": hunting}
