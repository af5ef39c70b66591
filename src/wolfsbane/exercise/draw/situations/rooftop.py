"""A rooftop's air: an economizer that does not do what it is told, and a probe in layers of air."""

from __future__ import annotations

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.units import f_to_k
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import Follows, NotProvedError, Page
from wolfsbane.exercise.draw.weather import weather_for

#: outdoor air at the damper's minimum, per cent
_MINIMUM = 10.0


def economizer(page: Page) -> None:
    """Mixed air worked out from the share it is told, against mixed air as measured."""
    rng, case = page.rng, page.pick(("right", "open", "layers"))
    return_f, outdoor_f = rng.uniform(73, 77), rng.uniform(92, 108)
    page.conditions = weather_for(
        page.machine,
        {"outdoor_db_f": outdoor_f, "return_db_f": return_f, "return_wb_f": rng.uniform(61, 64)},
        0.0,
        page.system,
    )
    share = {"right": _MINIMUM, "open": rng.uniform(42, 80), "layers": _MINIMUM}[case]
    layers = rng.uniform(13, 22) if case == "layers" else 0.0
    faults = []
    if case == "open":
        faults.append(Fault(id="economizer_stuck_open", severity=round(share, 0), cause="linkage"))
    if layers:
        faults.append(Fault(id="stratified_air", severity=round(layers, 1), cause="probe_high"))
    state = solved(page.machine, page.conditions, tuple(faults))
    if state is None:
        raise NotProvedError(f"{case}: it trips")
    k = page.k
    # Circuit 1, which the state is that of, meets the upper half of the layers.
    mixed = page.shown("temperature", state.coil_air.dry_bulb_k) - layers / 2.0 * k
    inside, outside = (page.shown("temperature", v) for v in (page.conditions.return_k, page.conditions.outdoor_k))
    half = layers / 2.0 * k
    spots = [
        round((mixed + half * at) / (0.5 if page.system == "us" else 0.2)) * (0.5 if page.system == "us" else 0.2)
        for at in (1.0, 0.0, -1.0)
    ]
    probe = spots[0] if case == "layers" else spots[1]
    unit = page.unit("temperature")
    page.complaint = rng.choice(
        (
            "The far offices are warm in the afternoon.",
            "The bill is high and the roof unit never stops.",
            "The controller logs mixed air too warm.",
        )
    )
    page.looks = [
        f"The controller asks for {_MINIMUM:.0f} % outdoor air (its minimum in this weather).",
        "The actuator's pointer cannot be seen behind the hood; the linkage is inside.",
        f"The controller's mixed-air probe shows {probe:.1f} {unit}; it is fixed near the top.",
    ]
    page.table(
        "Airs, with one psychrometer carried along",
        ("Where", "Dry bulb"),
        [
            ("Return air", f"{inside:.1f} {unit}"),
            ("Outdoor air at the hood", f"{outside:.1f} {unit}"),
            ("Mixed air, top of the section", f"{spots[0]:.1f} {unit}"),
            ("Mixed air, middle", f"{spots[1]:.1f} {unit}"),
            ("Mixed air, bottom", f"{spots[2]:.1f} {unit}"),
        ],
    )
    told = page.number(
        "should",
        f"Mixed air that {_MINIMUM:.0f} % outdoor air should give",
        "temperature",
        inside + _MINIMUM / 100.0 * (outside - inside),
        slips={"took the share of outdoor air for that of return air": outside + _MINIMUM / 100.0 * (inside - outside)},
    )
    mean = page.number("mean", "Mean of the three mixed-air readings", "temperature", sum(spots) / 3.0)
    real = 100.0 * (mean - inside) / (outside - inside)
    per = 100.0 / (outside - inside)
    page.number(
        "share",
        "Outdoor air that really comes in, by the mean",
        "number",
        real,
        unit="%",
        per={"mean": per},
        tolerance=4.0,
        slips={"took the return air's share": 100.0 - real},
    )
    page.number("layers", "Top minus bottom of the mixed air", "difference", spots[0] - spots[2])
    names = {
        "right": "Nothing: damper and probe do what they should",
        "open": "The damper stands further open than it is told",
        "layers": "The damper is right; the air lies in layers and the probe reads one of them",
        "closed": "The damper is shut",
    }
    page.choose(
        "what",
        "What the airs say",
        names,
        case,
        because=("should", "mean", "share", "layers"),
        follows=(
            Follows(question="share", choice="open", low=25.0),
            Follows(question="share", choice="closed", high=4.0),
        ),
        why={
            "right": "Compare the mean with what the damper is told, and top with bottom.",
            "open": "By the mean of the readings no more outdoor air comes in than it is told.",
            "layers": "Top and bottom are the same here.",
            "closed": "Outdoor air does come in.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave it; look for the complaint elsewhere",
            "linkage": "Lock out, work the damper through by hand, fix linkage or actuator, set the minimum again",
            "probe": "Mix the air with baffles, or move to an averaging probe across the section",
            "charge": "Check the charge of both circuits first",
            "block": "Tape the outdoor air hood shut",
        },
        {"right": "leave", "open": "linkage", "layers": "probe"}[case],
        after="what",
        plan={"right": "leave", "open": "linkage", "layers": "probe", "closed": "linkage"},
        why={
            "charge": "Air first, charge last: nothing here speaks of the charge.",
            "block": "The building needs its outdoor air by code; what is taped shut stays so.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Dampers and blowers start by themselves: lock out first. On a roof: heat, edges, a second person."
    off, step = abs(mean - told), 1.5 * k
    top = abs(spots[0] - spots[2])
    distances = {
        "right": max(off / step, top / (2.5 * k)),
        "open": abs(real - 40.0) / 8.0 if real < 40.0 else 0.0,
        "layers": abs(top - 12.0 * k) / (4.0 * k) if top < 12.0 * k else 0.0,
    }
    distances.pop(case)
    page.apart("Mean and spread tell the damper from the layers, and both from a good one.", distances)


def supply_probe(page: Page) -> None:
    """Two circuits in layers of supply air: what the controller is told, and what it does with it."""
    rng, case = page.rng, page.pick(("high", "low", "right"))
    page.conditions = weather_for(
        page.machine,
        {"outdoor_db_f": rng.uniform(84, 98), "return_db_f": rng.uniform(74, 79), "return_wb_f": rng.uniform(61, 65)},
        0.0,
        page.system,
    )
    faults: list[Fault] = []
    if case != "right":
        faults = [
            Fault(id="stratified_air", severity=round(rng.uniform(12, 22), 1), cause=f"probe_{case}"),
            Fault(id="one_circuit_off", severity=0.0, cause="tripped"),
        ]
        if case == "low":
            faults = faults[:1]
    state = solved(page.machine, page.conditions, tuple(faults))
    if state is None:
        raise NotProvedError(f"{case}: it trips")
    top, bottom = (page.shown("temperature", air.dry_bulb_k) for air in (state.supply_high_air, state.supply_low_air))
    mean = page.shown("temperature", state.supply_air.dry_bulb_k)
    step = 0.5 if page.system == "us" else 0.2
    top, bottom, mean = (round(v / step) * step for v in (top, bottom, mean))
    at_top = case == "high" or (case == "right" and rng.random() < 0.5)
    probe = top if at_top else bottom
    unit = page.unit("temperature")
    goal = round(page.shown("temperature", f_to_k(55.0)))
    page.complaint = rng.choice(
        (
            "It stages up and down all day.",
            "Half the building is cold, half is warm.",
            "The controller says the supply is right; the rooms say not.",
        )
    )
    page.looks = [
        f"The controller brings stages on above {goal:g} {unit} supply air and takes them off below it.",
        f"Its probe, near the {'top' if at_top else 'bottom'} of the duct after the coil, shows {probe:.1f} {unit}.",
        "Both condenser fans run.",
    ]
    page.table(
        "Traverse of the supply duct",
        ("Where", "Dry bulb"),
        [
            ("Top", f"{top:.1f} {unit}"),
            ("Bottom", f"{bottom:.1f} {unit}"),
            ("Far down the duct, mixed", f"{mean:.1f} {unit}"),
        ],
    )
    page.table(
        "Return air",
        ("Where", "Dry bulb"),
        [("Return", f"{page.shown('temperature', page.conditions.return_k):.1f} {unit}")],
    )
    page.number("middle", "Mean of top and bottom", "temperature", (top + bottom) / 2.0)
    page.number("spread", "Top minus bottom", "difference", top - bottom)
    off = page.number("off", "What the controller is told, minus the mixed air", "difference", probe - mean)
    limit = 3.0 * page.k
    if case != "right" and abs(off) < 2.0 * limit / 1.5 or case == "right" and abs(off) > 0.5 * limit:
        raise NotProvedError("the probe lies on the edge")
    truth = "right" if case == "right" else ("cold" if off < 0 else "warm")
    names = {
        "right": "The probe tells the truth; staging is right",
        "cold": "The probe reads too cold: stages are taken off too soon",
        "warm": "The probe reads too warm: more stages are brought on than are needed",
    }
    page.choose(
        "what",
        "What the probe makes the controller do",
        names,
        truth,
        because=("middle", "spread", "off"),
        follows=(
            Follows(question="off", choice="right", low=-limit, high=limit),
            Follows(question="off", choice="cold", high=-limit),
            Follows(question="off", choice="warm", low=limit),
        ),
        why={
            "right": "The probe stands far from the mixed air.",
            "cold": "A probe that reads colder than the mixed air lets stages go too soon; this one does not.",
            "warm": "A probe that reads warmer than the mixed air calls for more; this one does not.",
        },
        shuffled=False,
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave the probe; look for the complaint elsewhere",
            "move": "Move the probe far down the duct, or fit an averaging one; then judge the circuits",
            "setpoint": "Shift the set point by what the probe is off",
            "charge": "Trim the charge of both circuits",
        },
        "leave" if truth == "right" else "move",
        after="what",
        plan={"right": "leave", "cold": "move", "warm": "move"},
        why={
            "setpoint": "What the probe is off changes with every stage; a shifted set point does not.",
            "charge": "Air and controls first; the charge comes last.",
        },
        points=3,
    )
    page.case, page.title = case, names[truth]
    page.hazard = "A roof in summer: heat, edges, water, a second person. Lock out before the panel comes off."
    page.apart(
        "Probe and mixed air are further apart than two probes may differ, or nearer.",
        {"other": abs(off) / (1.2 * page.k) if case != "right" else (limit - abs(off)) / (0.6 * page.k)},
    )


KINDS = {"economizer": economizer, "supply_probe": supply_probe}
