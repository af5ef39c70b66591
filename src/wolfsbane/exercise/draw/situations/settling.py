"""Readings that are not settled: just started, just charged, wet, iced, or fit to be believed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.settling import advance, arrive, started, steady_state, stopped
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import GAUGES, NotProvedError, Page
from wolfsbane.exercise.paper.call import bands_for

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.instruments import Reading

_WAITS = ("early", "charging", "wet", "iced", "sound", "short")
#: superheat that moves more than this between two rows is still on its way, degrees F
_STILL_DF = 1.5


def _sequence(page: Page, case: str) -> tuple[list[tuple[str, Moment]], list[str], str]:
    """(when, moment) rows, what is to be seen, and how it came about, of one case."""
    rng = page.rng
    faults: tuple[Fault, ...] = ()
    if case == "short":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(68, 80), 1), cause="leak"),)
    if case == "charging":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(75, 85), 1), cause="undercharged_at_start"),)
    if case == "early":
        faults = (Fault(id="undercharge", severity=round(rng.uniform(85, 100), 1)),) if rng.random() < 0.5 else ()
    if case == "iced":
        faults = (Fault(id="low_airflow", severity=round(rng.uniform(40, 55), 1)),)
    site = arrive(on_site(page.machine, page.conditions, faults, units=page.system))
    if not site.running:
        raise NotProvedError(f"{case}: it trips")
    if case == "early":
        rested, _ = advance(stopped(site), 2400.0, every_s=2400.0)
        site, moments = advance(started(rested), 95.0, every_s=30.0)
        return (
            [(f"{30 * (i + 1)} s", m) for i, m in enumerate(moments[:3])],
            ["Coils clean and dry."],
            "Switched on after it had stood",
        )
    if case == "wet":
        site = replace(site, wet_share=round(rng.uniform(0.7, 1.0), 2))
        site, moments = advance(site, 365.0, every_s=120.0)
        return (
            [(f"{2 * (i + 1)} min", m) for i, m in enumerate(moments[:3])],
            ["The condenser was washed a quarter of an hour ago; water still drips from it."],
            "Running since it was washed",
        )
    if case == "iced":
        site = replace(site, ice_share=round(rng.uniform(0.4, 0.6), 2))
        site, moments = advance(site, 185.0, every_s=60.0)
        return (
            [(f"{i + 1} min", m) for i, m in enumerate(moments[:3])],
            ["Condenser clean and dry. Frost on the suction line; the coil cannot be seen behind its panel."],
            "Running, gauges just put on",
        )
    if case == "charging":
        kg = page.machine.circuit.charge_kg * rng.uniform(0.08, 0.12)
        fed = act(site, action_kind("add_liquid"), {"cylinder": site.cylinders[0].id, "oz": kg / KG_PER_OZ})
        end = max((i for i, m in enumerate(fed.moments) if m.running), default=0)
        if fed.refused or end < 4:
            raise NotProvedError("nothing goes in")
        at = [fed.moments[i] for i in (0, end // 2, end)]
        return (
            [(f"{m.time_s - site.time_s:.0f} s", m) for m in at],
            ["Coils clean and dry. The cylinder stands on the scale, its valve opened a little."],
            "Since the valve was opened",
        )
    site, moments = advance(site, 905.0, every_s=300.0)
    return [(f"{12 + 5 * i} min", m) for i, m in enumerate(moments[:3])], ["Coils clean and dry."], "Running"


def wait_or_read(page: Page) -> None:
    """Three rows of readings: believe them, or wait, dry, thaw?"""
    rng = page.rng
    case = page.pick(_WAITS)
    rows, looks, how = _sequence(page, case)
    keys = (*GAUGES, "outdoor_db")
    shown = [(when, page.of_moment(m, keys)) for when, m in rows]
    page.complaint = rng.choice(
        ("Does not cool enough.", "It ran short of cold last week.", "The owner wants it checked before summer.")
    )
    page.looks = [*looks, f"Return air {page.degrees(page.conditions.return_k)}; filter new, blower right."]
    page.table(
        how, ("After", *[page.label(k) for k in shown[-1][1]]), [(w, *[r.text for r in s.values()]) for w, s in shown]
    )
    before, last = page.figures(shown[-2][1]), page.figures(shown[-1][1])
    own = {k: r for k, r in shown[-1][1].items()}
    low = page.number(
        "suction_saturation", "Suction saturation temperature, last row", "temperature", last["suction_saturation"]
    )
    high = page.number(
        "liquid_saturation", "Condensing temperature, last row", "temperature", last["liquid_saturation"]
    )
    superheat = page.number(
        "superheat",
        "Superheat, last row",
        "difference",
        own["suction_line"].value - low,
        per={"suction_saturation": -1.0},
        slips={"subtracted backward": low - own["suction_line"].value},
    )
    page.number(
        "subcooling",
        "Subcooling, last row",
        "difference",
        high - own["liquid_line"].value,
        per={"liquid_saturation": 1.0},
        slips={"subtracted backward": own["liquid_line"].value - high},
    )
    moved = superheat - before["superheat"]
    page.number(
        "moved",
        "How far superheat has moved since the row before",
        "difference",
        moved,
        per={"superheat": 1.0},
        tolerance=1.6 * page.k,
    )
    names = {
        "early": "Not yet: it has not run long enough",
        "charging": "Not yet: refrigerant only just went in",
        "wet": "Not yet: the condenser is wet",
        "iced": "No: the evaporator is iced",
        "sound": "Yes, and nothing is wrong",
        "short": "Yes: it is short of refrigerant",
        "overfull": "Yes: it holds too much refrigerant",
    }
    because = ("superheat", "subcooling", "moved")
    page.choose(
        "what",
        "Can the last row be believed",
        names,
        case,
        because=because,
        why={
            "overfull": "High subcooling means too much only on a machine that is dry, settled and clean.",
            "short": "Before it is settled, a low subcooling or a high superheat says nothing about the charge.",
            "sound": "Put the figures beside the target, and look whether they still move.",
            "early": "Look at how far superheat still moves between the rows.",
            "charging": "Nothing went in here.",
            "wet": "No water on this one.",
            "iced": "Ice shows as a suction far below freezing and a low superheat.",
        },
    )
    page.choose(
        "do",
        "What to do now",
        {
            "wait": "Let it run and read again every few minutes until nothing moves",
            "dry": "Let the condenser run dry, then read again",
            "thaw": "Outdoor unit off, blower on until the coil is clear and dry; then run and read",
            "leave": "Leave the charge alone; write the readings down",
            "leak": "Find and repair the leak, then charge by the target",
            "add": "Add refrigerant by the target now",
            "recover": "Recover some by the target now",
        },
        {"early": "wait", "charging": "wait", "wet": "dry", "iced": "thaw", "sound": "leave", "short": "leak"}[case],
        after="what",
        plan={"early": "wait", "charging": "wait", "wet": "dry", "iced": "thaw", "sound": "leave", "short": "leak"},
        why={
            "add": "Charging by readings that still move overshoots; a leak wants to be found first.",
            "recover": "Refrigerant taken out now is missing once the machine has settled.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "Never knock ice off a coil; liquid fast into the suction breaks valves: throttle, in bursts, and wait."
    )
    _settled_or_not(page, case, rows, abs(moved), own)
    page.tell("Superheat lags by minutes; subcooling answers first.")


def _settled_or_not(
    page: Page, case: str, rows: list[tuple[str, Moment]], moved: float, last: dict[str, Reading]
) -> None:
    """The claim that carries the answer: still moving, wet, iced, or settled and on or off its target."""
    still = _STILL_DF * page.k
    wet, ice = rows[-1][1].wet_share, rows[-1][1].ice_share
    figures = page.figures(last)
    if case in ("early", "charging"):
        ends = [r.superheat_dk for _, m in rows if (r := m.state)]
        truly = abs(page.shown("difference", ends[-1]) - page.shown("difference", ends[-2]))
        page.apart(
            "Superheat still moves between the rows by more than two readings may differ.",
            {"settled": min(moved, truly) / still},
        )
        return
    dry_healthy = steady_state(arrive(on_site(page.machine, page.conditions)))
    healthy = page.readings(dry_healthy, GAUGES)
    if case == "wet":
        if wet < 0.15:
            raise NotProvedError("dry already")
        page.apart("A dry condenser in this weather reads otherwise.", {"dry": page.away(last, healthy) / 1.2})
        return
    if case == "iced":
        if ice < 0.2:
            raise NotProvedError("clear already")
        boils = figures["suction_saturation"] - (32.0 if page.system == "us" else 0.0)
        page.apart(
            "The suction is far below freezing, and a dry, clear coil reads otherwise.",
            {"clear": -boils / (3.0 * page.k)},
        )
        short = solved(page.machine, page.conditions, (Fault(id="undercharge", severity=65.0),))
        page.apart(
            "A machine short of refrigerant has no such superheat.",
            {} if short is None else {"short": page.away(last, page.readings(short, GAUGES))},
        )
        return
    if moved > 0.6 * still:
        raise NotProvedError("it still moves")
    band = bands_for(
        page.machine,
        practice_by_id("plate_and_formula"),
        page.system,
        page.readings(dry_healthy, (*GAUGES, "return_db", "return_wb", "outdoor_db")),
    )
    name = "subcooling" if page.machine.metering in ("txv", "eev") else "superheat"
    inside = band[name].low <= figures[name] <= band[name].high
    if case == "sound" and not inside:
        raise NotProvedError("off its target")
    if case == "short" and inside:
        raise NotProvedError("on its target")
    other = "nothing wrong" if case == "short" else "short"
    rival = dry_healthy
    if case == "sound":
        rival = steady_state(arrive(on_site(page.machine, page.conditions, (Fault(id="undercharge", severity=75.0),))))
    page.apart(
        "Nothing moves any more, and the other answer reads otherwise.",
        {other: page.away(last, page.readings(rival, GAUGES))},
    )


KINDS = {"wait_or_read": wait_or_read}
