"""Judging a charge off the usual way: a mild day, by pressure alone, and ounce by ounce."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import AIRS, GAUGES, ROUNDED_DF, Follows, NotProvedError, Page
from wolfsbane.exercise.paper.call import bands_for

if TYPE_CHECKING:
    from wolfsbane.cycle.instruments import Reading


def mild_day(page: Page) -> None:
    """A mild day: part of the condenser face covered so that the charge can be judged."""
    rng, case = page.rng, page.pick(("right", "short", "overfull"))
    page.conditions = page.weather(rng.uniform(58, 67), rng.uniform(71, 75), rng.uniform(59, 62))
    severity = {"right": None, "short": rng.uniform(70, 80), "overfull": rng.uniform(124, 136)}[case]
    fault_id = "undercharge" if case == "short" else "overcharge"
    faults = () if severity is None else (Fault(id=fault_id, severity=round(severity, 1)),)
    open_ = solved(page.machine, page.conditions, faults)
    cover, covered = None, None
    for share in range(75, 24, -5):
        tried = solved(
            page.machine,
            page.conditions,
            (*faults, Fault(id="dirty_condenser", severity=float(share), cause="face_blocked")),
        )
        if tried is not None and tried.liquid_saturation_k >= 313.0:
            cover, covered = share, tried
            break
    if open_ is None or covered is None or cover is None:
        raise NotProvedError(f"{case}: the head does not come up")
    keys = (*GAUGES, "outdoor_db", "return_db")
    before, now = page.readings(open_, keys), page.readings(covered, keys)
    sound = solved(
        page.machine, page.conditions, (Fault(id="dirty_condenser", severity=float(cover), cause="face_blocked"),)
    )
    if sound is None:
        raise NotProvedError("no log")
    target = round(page.figures(page.readings(sound, keys))["subcooling"] / page.k) * page.k
    logged = f"{target:.0f} {page.unit('difference')}"
    page.complaint = rng.choice(
        ("Start-up of a new machine on a cool day.", "Cooled poorly last August; today it is cool out.")
    )
    page.looks = [
        f"Cardboard covers about {100 - cover} % of the condenser face in the second column; the head stands still.",
        "Filter new, coils clean.",
        f"Log of its start-up on such a day, the face covered as much: subcooling {logged}.",
    ]
    page.table(
        "Before and with the face covered",
        ("Reading", "Face open", "Face covered"),
        [(page.label(key), before[key].text, now[key].text) for key in now],
    )
    figures, first = page.figures(now), page.figures(before)
    page.number(
        "open_condensing", "Condensing temperature with the face open", "temperature", first["liquid_saturation"]
    )
    high = page.number(
        "liquid_saturation", "Condensing temperature with the face covered", "temperature", figures["liquid_saturation"]
    )
    subcooling = page.number(
        "subcooling",
        "Subcooling with the face covered",
        "difference",
        high - now["liquid_line"].value,
        per={"liquid_saturation": 1.0},
        slips={"read the open column": first["subcooling"], "subtracted backward": now["liquid_line"].value - high},
    )
    off = page.number("off", "That minus the log's", "difference", subcooling - target, per={"subcooling": 1.0})
    limit = 3.0 * page.k
    if (case == "right") is not (abs(off) <= limit - 0.8 * page.k) or abs(abs(off) - limit) < 0.8 * page.k:
        raise NotProvedError(f"subcooling on the edge {off:.0f}")
    names = {
        "right": "The charge is right",
        "short": "Short of refrigerant",
        "overfull": "Too much refrigerant",
        "mild": "Nothing can be said on such a day, covered or not",
    }
    page.choose(
        "what",
        "What the covered column says",
        names,
        case,
        because=("liquid_saturation", "subcooling", "off"),
        follows=(
            Follows(question="off", choice="right", low=-limit, high=limit),
            Follows(question="off", choice="short", high=-limit),
            Follows(question="off", choice="overfull", low=limit),
        ),
        why={
            "mild": "That is what the cover is for: with the head up the subcooling can be judged.",
            "right": "Put the covered column's subcooling beside the log's.",
            "short": "Subcooling is not below the log's.",
            "overfull": "Subcooling is not above the log's.",
        },
    )
    page.choose(
        "do",
        "What to do",
        {
            "leave": "Take the cover off, write both columns down, leave the charge",
            "leak": "Take the cover off; find the leak, then charge with the face covered again",
            "recover": "Recover into a weighed cylinder until it is as logged; take the cover off",
            "forget": "Leave the cover on for the cool season",
            "suction": "Charge until the suction is as on a hot day",
        },
        {"right": "leave", "short": "leak", "overfull": "recover"}[case],
        after="what",
        plan={"right": "leave", "short": "leak", "overfull": "recover"},
        why={
            "forget": "What is temporary is undone before one leaves: the first warm day would trip it.",
            "suction": "Suction follows load and weather; charged so, it is overfull in summer.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "A covered face drives the head up within seconds: stay with it, and uncover at once if it runs away."
    page.apart(
        "Subcooling is as logged, or off it beyond a reading's doubt.",
        {"other": abs(abs(off) - limit) / (ROUNDED_DF * page.k)},
    )


def by_pressure(page: Page) -> None:
    """An orifice machine that somebody charges by suction pressure alone, which is less sure than total superheat."""
    rng, case = page.rng, page.pick(("right", "short", "overfull"))
    page.conditions = page.weather(rng.uniform(78, 95), rng.uniform(70, 80), rng.uniform(60, 66))
    severity = {"right": None, "short": rng.uniform(72, 84), "overfull": rng.uniform(116, 130)}[case]
    fault_id = "undercharge" if case == "short" else "overcharge"
    faults = () if severity is None else (Fault(id=fault_id, severity=round(severity, 1)),)
    state = solved(page.machine, page.conditions, faults)
    if state is None:
        raise NotProvedError(f"{case}: it trips")
    keys = (*GAUGES, *AIRS)
    shown = page.readings(state, keys)
    rated = solved(page.machine, page.weather(95, 80, 67), ())
    assert rated is not None, "a healthy machine runs"
    rule: Reading = page.readings(rated, ("suction_pressure", "head_pressure"))["suction_pressure"]
    figures = page.figures(shown)
    band = bands_for(page.machine, practice_by_id("plate_and_formula"), page.system, shown)["superheat"]
    target = band.target
    if target is None or target < 6.0 * page.k:
        raise NotProvedError("no target in this weather")
    page.complaint = rng.choice(
        (
            f"A sticker in the panel says: “{rule.text} on the suction, no less.”",
            f"The owner was told that the suction belongs at {rule.text} on any day.",
        )
    )
    page.looks = ["Filter new, coils clean, piston matches the plate.", "Settled for a quarter of an hour."]
    page.show("Settled readings", shown)
    off_rule = page.number(
        "off_rule",
        "Suction pressure minus what the sticker says",
        "pressure",
        shown["suction_pressure"].value - rule.value,
        tolerance=2 * rule.resolution,
    )
    low = page.number(
        "suction_saturation", "Suction saturation temperature", "temperature", figures["suction_saturation"]
    )
    wants = page.number("target", "Target total superheat today", "difference", target)
    has = page.number(
        "superheat",
        "Total superheat",
        "difference",
        shown["suction_line"].value - low,
        per={"suction_saturation": -1.0},
        slips={"subtracted backward": low - shown["suction_line"].value},
    )
    off = page.number(
        "off", "Superheat minus its target", "difference", has - wants, per={"superheat": 1.0, "target": -1.0}
    )
    limit = 2.0 * page.k
    if (case == "right") is not (abs(off) < limit - 0.5 * page.k) or abs(abs(off) - limit) < 0.6 * page.k:
        raise NotProvedError(f"superheat on the edge {off:.0f}")
    names = {
        "right": "The charge is right, whatever the sticker says: pressure follows load and weather",
        "short": "It is short of refrigerant",
        "overfull": "It holds too much refrigerant",
    }
    page.choose(
        "what",
        "What total superheat says about the charge",
        names,
        case,
        because=("target", "superheat", "off"),
        follows=(
            Follows(question="off", choice="right", low=-limit, high=limit),
            Follows(question="off", choice="short", low=limit),
            Follows(question="off", choice="overfull", high=-limit),
        ),
        why={
            "right": "Put superheat beside its target for today.",
            "short": "Superheat is not above its target.",
            "overfull": "Superheat is not below its target.",
        },
        shuffled=False,
    )
    page.choose(
        "do",
        "What to do",
        {
            "leave": "Leave the charge; take the sticker out, or date it with its weather",
            "leak": "Find and repair the leak, then charge by total superheat",
            "recover": "Recover a little at a time by total superheat",
            "sticker": "Bring the suction to what the sticker says",
        },
        {"right": "leave", "short": "leak", "overfull": "recover"}[case],
        after="what",
        plan={"right": "leave", "short": "leak", "overfull": "recover"},
        why={"sticker": "Some charge by pressure alone; it is less sure than superheat, and off on any other day."},
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Liquid fast into the suction breaks valves: throttle, in bursts, and wait."
    page.apart(
        "Superheat lies on its target or off it beyond a reading's doubt.",
        {"other": abs(abs(off) - limit) / (ROUNDED_DF * page.k)},
    )
    page.tell(f"By the sticker it is {'low' if off_rule < 0 else 'high'} by {abs(off_rule):g} {page.unit('pressure')}.")


_KEYS = ("suction_pressure", "head_pressure", "suction_line", "liquid_line")
#: refrigerants of one substance, or so near one that vapor may go in
_AS_VAPOR = ("R-22", "R-134a", "R-290", "R-600a", "R-32")


def by_the_ounce(page: Page) -> None:
    """Weighed in a few ounces at a time, settled in between: how much more, and in what state."""
    rng = page.rng
    case = page.pick(("more", "stop", "past"))
    machine = page.machine
    plate = machine.plate.target_subcooling_dk
    assert plate is not None, "a valve machine has a target on its plate"
    unit = page.unit("mass")
    factory = machine.circuit.charge_kg
    step_kg = round(page.shown("mass", factory * rng.uniform(0.035, 0.05))) / page.shown("mass", 1.0)
    target = page.shown("difference", plate)
    start = {"more": rng.uniform(0.74, 0.80), "stop": rng.uniform(0.84, 0.88), "past": rng.uniform(0.95, 0.99)}[case]
    rows = []
    for i in range(4):
        pct = 100.0 * (start + i * step_kg / factory)
        fault = Fault(id="undercharge" if pct < 100.0 else "overcharge", severity=round(pct, 2))
        state = solved(machine, page.conditions, () if abs(pct - 100.0) < 0.2 else (fault,))
        if state is None:
            raise NotProvedError("it trips")
        shown = page.readings(state, _KEYS)
        rows.append((i * step_kg, shown, page.figures(shown)))
    subs = [figures["subcooling"] for _, _, figures in rows]
    slope = (subs[3] - subs[2]) / page.shown("mass", step_kg)
    if slope * page.shown("mass", step_kg) < 1.2 * page.k:
        raise NotProvedError("subcooling does not answer yet")
    off = subs[3] - target
    limit = 3.0 * page.k
    if {
        "more": off > -limit - 0.6 * page.k,
        "stop": abs(off) > limit - 0.8 * page.k,
        "past": off < limit + 0.6 * page.k,
    }[case]:
        raise NotProvedError(f"{case}: not there")
    vapor = machine.refrigerant in _AS_VAPOR
    page.complaint = (
        "The leak is found and repaired; the circuit was not opened otherwise. It is being brought back to its charge."
    )
    page.looks = [
        f"Target subcooling on the nameplate {target:.0f} {page.unit('difference')}.",
        "Each row was read a quarter of an hour after the valve was closed. Filter new, coils clean and dry.",
        f"Outdoor air {page.degrees(page.conditions.outdoor_k)}, return air {page.degrees(page.conditions.return_k)}.",
    ]
    page.table(
        "By the scale",
        (f"Put in, {unit}", *[page.label(k) for k in _KEYS]),
        [(f"{page.shown('mass', kg):.0f}", *[shown[k].text for k in _KEYS]) for kg, shown, _ in rows],
    )
    third = page.number("third", "Subcooling in the third row", "difference", subs[2])
    fourth = page.number(
        "fourth", "Subcooling in the last row", "difference", subs[3], slips={"subtracted backward": -subs[3]}
    )
    step = page.shown("mass", step_kg)
    per = page.number(
        "per",
        f"{unit} for one {page.unit('difference')} of subcooling, by the last two rows",
        "number",
        step / (fourth - third),
        unit=unit,
        tolerance=0.35 * step / (fourth - third),
    )
    want = (target - fourth) * per
    charge = start + (3 * step_kg + want / page.shown("mass", 1.0)) / factory
    there = Fault(id="undercharge" if charge < 1.0 else "overcharge", severity=round(100.0 * charge, 2))
    then = solved(machine, page.conditions, () if abs(charge - 1.0) < 0.002 else (there,))
    if then is None or abs(page.shown("difference", then.subcooling_dk) - target) > 2.5 * page.k:
        raise NotProvedError("the last two rows do not say how much")
    page.number(
        "to_go",
        "Still to go in (out is −) for the middle of the target",
        "mass",
        want,
        per={"fourth": -per, "per": target - fourth},
        tolerance=max(0.3 * abs(want), 1.0 * (1.0 if page.system == "us" else 28.0)),
        slips={"took one ounce a degree": target - fourth} if abs(per - 1.0) > 0.5 and page.system == "us" else {},
    )
    names = {
        "more": "Not there yet: some more goes in",
        "stop": "There: within the nameplate's subcooling; stop",
        "past": "Past it: some has to come out again",
    }
    page.choose(
        "what",
        "Where it stands",
        names,
        case,
        because=("fourth", "to_go"),
        why={
            "more": "Subcooling is not below the nameplate's window any more.",
            "stop": "Subcooling is outside the nameplate's window.",
            "past": "Subcooling is not above the nameplate's window.",
        },
        shuffled=False,
    )
    page.choose(
        "how",
        f"How {machine.refrigerant} goes into a running machine",
        {
            "vapor": "As vapor from the top of the cylinder, into the suction, by the ounce",
            "liquid": "As liquid from the cylinder, throttled or through a vaporizer, so that it boils on its way",
            "inverted": "As liquid straight into the suction, as fast as it goes",
            "high": "As vapor into the discharge port while it runs",
        },
        "vapor" if vapor else "liquid",
        also=("liquid",) if vapor else (),
        because=("fourth",),
        why={
            "inverted": "Liquid as fast as it goes slugs the compressor.",
            "high": "Against the head pressure nothing goes in; it comes back into the cylinder.",
            "vapor": "This is a blend: vapor off the top is another mixture than what is left.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Liquid freezes skin: gloves and glasses. Cylinder on the scale, hoses loose, never past 80 %."
    page.apart(
        "The last row lies inside the nameplate's window or outside it beyond a reading's doubt.",
        {"other": abs(abs(off) - limit) / (ROUNDED_DF * page.k)},
    )


KINDS = {"mild_day": mild_day, "by_pressure": by_pressure, "by_the_ounce": by_the_ounce}
