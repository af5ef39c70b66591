"""Comfort cooling that is judged without gauges, or is no fault at all."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.quantities import name_of
from wolfsbane.diagnosis.targets import practice_by_id
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import AIRS, GAUGES, NotProvedError, Page
from wolfsbane.exercise.paper.call import bands_for

if TYPE_CHECKING:
    pass

#: under this outdoor air a cooling machine is not judged by its pipes, degrees F (common practice, no source)
_MILD_F = 70.0


def no_gauges(page: Page) -> None:
    """A known machine by delta-T and two pipes: enough, or not."""
    rng, case = page.rng, page.pick(("fine", "weak", "air", "mild"))
    outdoor_f = rng.uniform(58, 66) if case == "mild" else rng.uniform(80, 100)
    page.conditions = page.weather(outdoor_f, rng.uniform(73, 79), rng.uniform(60, 65))
    faults = {
        "weak": lambda: (Fault(id="undercharge", severity=round(rng.uniform(62, 72), 1)),),
        "air": lambda: (Fault(id="low_airflow", severity=round(rng.uniform(40, 50), 1)),),
    }.get(case, lambda: ())()
    state = solved(page.machine, page.conditions, faults)
    healthy = solved(page.machine, page.conditions, ())
    if state is None or healthy is None:
        raise NotProvedError(f"{case}: it trips")
    keys = ("suction_line", "liquid_line", *AIRS)
    shown, usual = page.readings(state, keys), page.readings(healthy, keys)
    card = usual["return_db"].value - usual["supply_db"].value
    over = usual["liquid_line"].value - usual["outdoor_db"].value
    wet = (
        "The big line is cold and wet all the way to the unit."
        if state.superheat_dk * 1.8 < 18
        else "The big line is hardly cold and dry at the unit."
    )
    page.complaint = rng.choice(
        (
            "Spring check.",
            "The owner wants to know whether it is all right.",
            "It was charged last year and has not been touched.",
        )
    )
    page.looks = [
        "No gauges were put on: each time they go on, a little is lost.",
        wet,
        "Filter new." if case != "air" else "The filter was changed last week, the owner says.",
    ]
    page.show("Pipes and airs", shown)
    page.table(
        "This machine in this weather, from the log of its start-up",
        ("Figure", "Value"),
        [
            (name_of("air_delta_t"), f"{card - 2 * page.k:.0f} to {card + 2 * page.k:.0f} {page.unit('difference')}"),
            (
                "Liquid line over outdoor air",
                f"{over - 3 * page.k:.0f} to {over + 3 * page.k:.0f} {page.unit('difference')}",
            ),
        ],
    )
    split = page.number(
        "delta_t",
        name_of("air_delta_t"),
        "difference",
        shown["return_db"].value - shown["supply_db"].value,
        slips={"subtracted backward": shown["supply_db"].value - shown["return_db"].value},
    )
    page.number(
        "liquid_over", "Liquid line − outdoor air", "difference", shown["liquid_line"].value - shown["outdoor_db"].value
    )
    limit = round(page.shown("temperature", 294.26), 0)
    page.number(
        "outdoors",
        f"How far outdoor air is above {limit:g} {page.unit('temperature')}",
        "difference",
        shown["outdoor_db"].value - limit,
    )
    names = {
        "fine": "Enough: it does what it did at start-up; no gauges needed",
        "weak": "Not enough: delta-T is low, the charge may be; now gauges are worth it",
        "air": "Enough: delta-T is high, so the air is short; that comes first, without gauges",
        "mild": "Not enough: in weather this mild pipes and delta-T prove nothing",
    }
    page.choose(
        "what",
        "Is this enough to judge it by",
        names,
        case,
        because=("delta_t", "liquid_over", "outdoors"),
        why={
            "fine": "Put delta-T and liquid line beside the log, and look at the weather.",
            "weak": "Delta-T is not below what the log says.",
            "air": "Delta-T is not above what the log says.",
            "mild": f"It is warm enough outdoors (over {limit:g} {page.unit('temperature')}).",
        },
    )
    page.choose(
        "do",
        "What to do",
        {
            "leave": "Write it in the log and leave the ports closed",
            "gauges": "Look round first, then put gauges on and read it in full",
            "airflow": "Restore the airflow, run it, and check delta-T again",
            "later": "Come back in warmer weather, or cover part of the condenser and read it with gauges",
            "add": "Add a little refrigerant to be safe",
        },
        {"fine": "leave", "weak": "gauges", "air": "airflow", "mild": "later"}[case],
        after="what",
        plan={"fine": "leave", "weak": "gauges", "air": "airflow", "mild": "later"},
        why={"add": "Nothing here says that any is missing, and what is added without readings is a guess."},
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "For the experienced, on a machine whose log is known. Live parts behind the panel; the discharge line burns."
    )
    if case == "mild":
        page.apart(
            "Under this outdoor air the check is not made.",
            {"warm": -(shown["outdoor_db"].value - limit) / (2.0 * page.k)},
        )
        return
    distances = {}
    for other, (fault_id, severities) in {
        "weak": ("undercharge", (72, 66, 60)),
        "air": ("low_airflow", (50, 45, 40)),
    }.items():
        if other == case:
            continue
        rivals = [solved(page.machine, page.conditions, (Fault(id=fault_id, severity=float(s)),)) for s in severities]
        away = [page.away(shown, page.readings(r, keys)) for r in rivals if r is not None]
        distances[other] = min(away, default=9.0)
    if case != "fine":
        distances["fine"] = abs(split - card) / (1.7 * page.k)
    page.apart("Delta-T and the two pipes tell these apart on this machine.", distances)


def customer_wish(page: Page) -> None:
    """Nothing wrong, or something: a wish, a heat wave, one hot room, a cold dry house."""
    rng, case = page.rng, page.pick(("wish", "one_room", "dry", "fault"))
    if case == "dry":
        page.conditions = page.weather(rng.uniform(72, 80), rng.uniform(66, 69), rng.uniform(52, 54))
    elif case == "one_room":
        page.conditions = page.weather(rng.uniform(86, 94), rng.uniform(73, 76), rng.uniform(61, 64))
    else:
        page.conditions = page.weather(rng.uniform(103, 112), rng.uniform(79, 83), rng.uniform(64, 67))
    faults = (Fault(id="dirty_condenser", severity=round(rng.uniform(45, 58), 1)),) if case == "fault" else ()
    state, healthy = solved(page.machine, page.conditions, faults), solved(page.machine, page.conditions, ())
    if state is None or healthy is None:
        raise NotProvedError(f"{case}: it trips")
    keys = (*GAUGES, *AIRS)
    shown = page.readings(state, keys)
    figures = page.figures(shown)
    inside = shown["return_db"].value
    wish = page.degrees(page.conditions.return_k - rng.uniform(6.5, 8.5))
    page.complaint = {
        "wish": f"The thermostat is set to {wish} and never gets there in this heat.",
        "fault": f"The thermostat is set to {wish} and never gets there in this heat.",
        "one_room": "The room over the garage is always hot; the rest is fine.",
        "dry": "The suction is low, said the last man; should some be added?",
    }[case]
    rooms = {
        "one_room": [
            ("Living room", inside - 1),
            ("Kitchen", inside),
            ("Over the garage", inside + rng.uniform(7, 10) * page.k),
        ],
    }.get(case, [("Living room", inside - 1), ("Kitchen", inside + 1), ("Bedroom", inside)])
    unit = page.unit("temperature")
    page.looks = [
        "Filter new, coils look clean from outside, both fans run.",
        "Thermostat in the hall, out of the sun.",
        "Rooms: " + ", ".join(f"{name.lower()} {value:.0f} {unit}" for name, value in rooms) + ".",
    ]
    page.show("Settled readings", shown)
    bands = bands_for(page.machine, practice_by_id("plate_and_formula"), page.system, shown)
    page.table(
        "Targets for this machine today",
        ("Figure", "Target"),
        [
            (name, f"{bands[key].low:.0f} to {bands[key].high:.0f} {page.unit('difference')}".replace("-", "−"))
            for name, key in (("CTOA", "ctoa"), (name_of("evaporator_td"), "evaporator_td"))
        ],
    )
    high = page.number("liquid_saturation", "Condensing temperature", "temperature", figures["liquid_saturation"])
    low = page.number(
        "suction_saturation", "Suction saturation temperature", "temperature", figures["suction_saturation"]
    )
    page.number("ctoa", "CTOA", "difference", high - shown["outdoor_db"].value, per={"liquid_saturation": 1.0})
    page.number("evaporator_td", name_of("evaporator_td"), "difference", inside - low, per={"suction_saturation": -1.0})
    page.number("held", "How far the house is held below outdoor air", "difference", shown["outdoor_db"].value - inside)
    names = {
        "wish": "Nothing: no machine holds much more below outdoors than this in such heat",
        "one_room": "Nothing in the circuit: one hot room is a question of ducts",
        "dry": "Nothing: a cool, dry house gives a low suction with a right charge",
        "fault": "Something: the condenser does not get rid of its heat",
        "short": "Something: it is short of refrigerant",
    }
    page.choose(
        "what",
        "Is anything wrong",
        names,
        case,
        because=("ctoa", "evaporator_td", "held"),
        why={
            "wish": "Look at CTOA first: is the machine itself on its targets?",
            "one_room": "The other rooms are no cooler.",
            "dry": "The house is not cool and dry.",
            "fault": "CTOA is on its target.",
            "short": "TD and CTOA are on their targets: pressures follow load and weather.",
        },
    )
    page.choose(
        "do",
        "What to do",
        {
            "explain": "Explain what a machine can hold in such heat; leave the circuit alone",
            "duct": "Check damper, duct and return of that room; leave the circuit alone",
            "leave": "Leave the circuit alone; write load and readings down",
            "wash": "Wash the condenser from the inside out, let it dry, read again",
            "add": "Add refrigerant until the suction is up",
            "bigger": "Sell a bigger unit",
        },
        {"wish": "explain", "one_room": "duct", "dry": "leave", "fault": "wash"}[case],
        after="what",
        plan={"wish": "explain", "one_room": "duct", "dry": "leave", "fault": "wash", "short": "add"},
        why={
            "add": "The figures do not call for any.",
            "bigger": "Neither a heat wave nor one hot room calls for a bigger unit.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Each time gauges go on, a little refrigerant is lost. Heat waves: look after people first."
    ctoa = figures["ctoa"]
    inside_band = bands["ctoa"].low <= ctoa <= bands["ctoa"].high
    if inside_band is (case == "fault"):
        raise NotProvedError("CTOA on the wrong side of its band")
    edge = min(abs(ctoa - bands["ctoa"].low), abs(ctoa - bands["ctoa"].high)) / (0.8 * page.k)
    short = solved(page.machine, page.conditions, (Fault(id="undercharge", severity=75.0),))
    distances = {"fault" if case != "fault" else "nothing": edge}
    if short is not None:
        distances["short"] = page.away(shown, page.readings(short, keys))
    page.apart(
        "CTOA is on its target or off it beyond a reading's doubt, and a short machine reads otherwise.", distances
    )


KINDS = {"no_gauges": no_gauges, "customer_wish": customer_wish}
