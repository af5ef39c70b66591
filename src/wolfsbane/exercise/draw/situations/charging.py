"""Charging, read step by step: an older valve machine by vapor and ounces."""

from __future__ import annotations

from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis.solved_cases import solved
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page

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
        "The leak is found and mended; the circuit was not opened otherwise. It is being brought back to its charge."
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
        {"other": 3.0 if case == "stop" else (abs(off) - limit + 2.2 * page.k) / (1.0 * page.k)},
    )


KINDS = {"by_the_ounce": by_the_ounce}
