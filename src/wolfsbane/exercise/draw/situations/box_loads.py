"""Warm boxes and cold receivers: the machine or the load, and how much a receiver should hold in winter."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.living import living
from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.field_tests.running import glass_text, glass_word
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import f_to_k, k_to_f
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import Follows, NotProvedError, Page

if TYPE_CHECKING:
    from wolfsbane.cycle.state import CircuitState
from wolfsbane.exercise.draw.situations.boxes import met_in, set_point_f

_BOX_KEYS = ("suction_pressure", "head_pressure", "liquid_line", "evaporator_outlet", "return_db", "outdoor_db")
_LOADS = ("product", "door", "air", "short", "compressor")


_LOAD_FAULTS = {
    "air": ("low_airflow", (46.0, 38.0)),
    "short": ("undercharge", (46.0, 38.0)),
    "compressor": ("leaking_compressor_valves", (44.0, 54.0)),
}


def machine_or_load(page: Page) -> None:
    """A warm box: is the machine at fault, or the load put upon it?"""
    rng, case = page.rng, page.pick(_LOADS)
    set_f = set_point_f(page)
    outdoor_f = rng.uniform(72, 92)
    warm_f = set_f + rng.uniform(9, 14)
    met_in(page, set_f, outdoor_f)
    fault = _LOAD_FAULTS.get(case)
    faults = () if fault is None else (Fault(id=fault[0], severity=round(rng.uniform(*sorted(fault[1])), 1)),)
    site = arrive(on_site(page.machine, for_machine(page.machine, outdoor_db_f=round(outdoor_f), box_f=warm_f), faults))
    if not site.running:
        raise NotProvedError(f"{case}: it trips")
    door = rng.uniform(9.0, 12.0) if case == "door" else 1.0
    # The goods are as warm as the air: that is what makes a load.
    site = living(site, air_k=f_to_k(warm_f), door=door, set_k=f_to_k(set_f))
    if case != "product":
        held = site.room
        assert held is not None, "lives"
        site = replace(site, room=replace(held, mass_k=f_to_k(warm_f - 1.0)))
    site, moments = advance(site, 2405.0, every_s=600.0)
    rooms = [m.room.air_k for m in moments[:4] if m.room is not None]
    kept = site.keeper
    if len(rooms) < 4 or kept is None or kept.on_s < kept.all_s - 1.0:
        raise NotProvedError("it cycled off")
    now = for_machine(page.machine, outdoor_db_f=round(outdoor_f), box_f=k_to_f(rooms[-1]))
    state = solved(page.machine, now, faults)
    if state is None:
        raise NotProvedError("it trips in the end")
    page.conditions = now
    shown = page.readings(state, _BOX_KEYS)
    figures = page.figures(shown)
    glass = glass_text(state)
    page.complaint = rng.choice(
        (
            "The product is soft and the box is warm.",
            "The box does not come down; it was fine last week.",
            "The alarm went off: box too warm.",
        )
    )
    seen = {
        "product": "Pallets delivered this morning stand in front of the coil's air; they feel warm.",
        "door": "Staff walk in and out; the strip curtain is tied up and the door closer is broken.",
    }
    page.looks = [
        seen.get(
            case, rng.choice(tuple(seen.values())) if rng.random() < 0.3 else "Shelves half full; the door shuts well."
        ),
        f"Thermostat set to {page.degrees(f_to_k(set_f))}; the compressor has run without a stop since this morning.",
        glass,
    ]
    if case in _LOAD_FAULTS and page.looks[0] in seen.values():
        page.looks[0] = "Shelves half full; the door shuts well."
    page.table(
        "Box air over the last 40 minutes",
        ("Minutes ago", "Box air"),
        [(str(30 - 10 * i), page.degrees(k)) for i, k in enumerate(rooms)],
    )
    page.show("Now, after an hour of running", shown)
    healthy = solved(page.machine, now, ())
    assert healthy is not None, "a healthy walk-in runs"
    usual = page.figures(page.readings(healthy, _BOX_KEYS))["evaporator_td"]
    page.table(
        "This box when nothing is wrong, as warm as it is now",
        ("Figure", "Value"),
        [
            ("Coil TD", f"{usual:.0f} {page.unit('difference')}"),
            (name_of("evaporator_superheat"), _window(page)),
        ],
    )
    saturation = page.number(
        "suction_saturation", "Suction saturation temperature", "temperature", figures["suction_saturation"]
    )
    page.number(
        "coil_td",
        "Coil TD: box air − suction saturation",
        "difference",
        shown["return_db"].value - saturation,
        per={"suction_saturation": -1.0},
        slips={"subtracted backward": saturation - shown["return_db"].value},
    )
    page.number(
        "coil_superheat",
        name_of("evaporator_superheat"),
        "difference",
        shown["evaporator_outlet"].value - saturation,
        per={"suction_saturation": -1.0},
    )
    fell = page.shown("difference", rooms[0] - rooms[-1])
    page.number(
        "fell", "How far the box came down in these 30 minutes", "difference", round(fell), tolerance=1.6 * page.k
    )
    names = {
        "product": "The load: warm product; the machine does what it can",
        "door": "The load: warm air through the door; the machine does what it can",
        "air": "The machine: not enough air over the coil",
        "short": "The machine: short of refrigerant",
        "compressor": "The machine: the compressor does not pump enough",
    }
    page.choose(
        "what",
        "Is it the machine or the load",
        names,
        case,
        because=("coil_td", "coil_superheat", "fell"),
        why={
            "product": "With a good machine the coil TD is what it should be.",
            "door": "With a good machine the coil TD is what it should be.",
            "air": "Without air the coil runs far colder than the box: coil TD high, superheat normal or low.",
            "short": "Short of refrigerant: coil TD and superheat high, bubbles in the glass, receiver empty.",
            "compressor": "A weak compressor lets the suction come up: coil TD small, box not coming down.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "stack": "Have the product moved off the air path and let it pull down; touch nothing on the circuit",
            "curtain": "Repair door closer and strip curtain, and let it pull down; touch nothing on the circuit",
            "fans": "Look at fans, ice and coil face, and restore the air",
            "leak": "Find the leak before anything goes in",
            "pump": "Prove it by a pump-down before condemning the compressor",
            "add": "Add refrigerant until the box comes down",
            "set": "Set the thermostat lower",
        },
        {"product": "stack", "door": "curtain", "air": "fans", "short": "leak", "compressor": "pump"}[case],
        after="what",
        plan={"product": "stack", "door": "curtain", "air": "fans", "short": "leak", "compressor": "pump"},
        why={
            "add": "Refrigerant does not cure a load, and feeds a leak.",
            "set": "It runs without a stop already: a lower setting changes nothing.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "Product that was too warm too long is the owner's decision and the health code's, not a technician's."
    )
    distances: dict[str, float] = {}
    if case in _LOAD_FAULTS:
        distances["nothing wrong"] = page.away(shown, page.readings(healthy, _BOX_KEYS))
    for other, (fault_id, (mild, severe)) in _LOAD_FAULTS.items():
        if other == case:
            continue
        best = 9.9
        for severity in (mild, (mild + severe) / 2, severe):
            rival = solved(page.machine, now, (Fault(id=fault_id, severity=severity),))
            if rival is None:
                continue
            best = min(best, page.away(shown, page.readings(rival, _BOX_KEYS)) + _glass_apart(state, rival))
        distances[other] = best
    page.apart(
        "It reads as it would with nothing wrong or this fault alone; door and product tell the loads apart.",
        distances,
    )


def _glass_apart(a: CircuitState, b: CircuitState) -> float:
    """How far glass and receiver part two states: bubbles or not, and the level by what an eye can tell apart."""
    if (glass_word(a) == "bubbles") is not (glass_word(b) == "bubbles"):
        return 3.0
    return abs(level_of(a) - level_of(b)) / 8.0


def _window(page: Page) -> str:
    low, high = page.machine.plate.target_superheat_dk or (0.0, 0.0)
    return f"{page.shown('difference', low):.0f} to {page.shown('difference', high):.0f} {page.unit('difference')}"


def winter_receiver(page: Page) -> None:
    """Flooded head control in the cold: a low receiver that is right, or one that is short."""
    rng, case = page.rng, page.pick(("normal", "short", "overfull"))
    set_f = set_point_f(page)
    outdoor_f = float(round(rng.uniform(10, 42)))
    met_in(page, set_f, outdoor_f)
    charge = {"normal": rng.uniform(97, 101), "short": rng.uniform(66, 80), "overfull": rng.uniform(124, 140)}[case]
    faults = (
        ()
        if case == "normal"
        else (Fault(id="undercharge" if case == "short" else "overcharge", severity=round(charge, 1)),)
    )
    state = solved(page.machine, page.conditions, faults)
    if state is None:
        raise NotProvedError("it trips")
    level = level_of(state)
    card = []
    for at in (90.0, 60.0, 40.0, 20.0, 0.0):
        there = solved(page.machine, for_machine(page.machine, outdoor_db_f=at, box_f=set_f), ())
        assert there is not None, "a healthy walk-in runs"
        card.append((at, level_of(there)))
    page.table(
        "Receiver of this machine when the charge is right (card in the lid)",
        ("Air at the unit", "Receiver level"),
        [(page.degrees(f_to_k(at)), f"{full:.0f} %") for at, full in card],
    )
    keys = ("suction_pressure", "head_pressure", "liquid_line", "return_db", "outdoor_db")
    shown = page.readings(state, keys)
    page.show("Now", shown)
    page.complaint = rng.choice(
        (
            "Checked before the holidays.",
            "The helper says the receiver is nearly empty.",
            "It was serviced in summer; now it is cold out.",
        )
    )
    page.looks = [
        glass_text(state),
        f"Head control floods the condenser in cold weather. The box is at {page.degrees(f_to_k(set_f))}.",
    ]
    figures = page.figures(shown)
    page.number("liquid_saturation", "Condensing temperature", "temperature", figures["liquid_saturation"])
    page.number(
        "ctoa",
        "Condensing temperature − air at the unit",
        "difference",
        figures["liquid_saturation"] - shown["outdoor_db"].value,
        per={"liquid_saturation": 1.0},
    )
    below = next(i for i, (at, _) in enumerate(card) if at <= outdoor_f)
    (high_f, high), (low_f, low) = card[max(below - 1, 0)], card[below]
    share = 0.0 if high_f == low_f else (outdoor_f - low_f) / (high_f - low_f)
    should = low + share * (high - low)
    expected = page.number(
        "should",
        "Receiver level that would be right today, between the lines of the card",
        "number",
        should,
        unit="%",
        tolerance=3.0,
    )
    page.number(
        "off", "Level now minus that", "number", level - expected, unit="%", per={"should": -1.0}, tolerance=3.0
    )
    names = {
        "normal": "Right: the liquid lies in the condenser and holds the head",
        "short": "Short of refrigerant, even for this weather",
        "overfull": "Too much: it was filled up to the summer mark in the cold",
        "stuck": "Head control stuck: the head is not held",
    }
    page.choose(
        "what",
        "What the receiver says",
        names,
        case,
        because=("should", "off"),
        follows=(
            Follows(question="off", choice="normal", low=-7.0, high=7.0),
            Follows(question="off", choice="short", high=-7.0),
            Follows(question="off", choice="overfull", low=7.0),
        ),
        why={
            "normal": "Compare with the level that would be right in today's air.",
            "short": "The level is what today's air calls for: flooding takes the rest.",
            "overfull": "The level is not above what today's air calls for.",
            "stuck": "The condensing temperature stands far above the air: the head is held.",
        },
    )
    page.choose(
        "do",
        "What to do",
        {
            "leave": "Leave it, and note level and air temperature in the log",
            "leak": "Find the leak; then weigh in up to today's mark",
            "recover": "Recover down to today's mark by the scale",
            "fill": "Fill up to the summer mark",
            "valve": "Replace the head control",
        },
        {"normal": "leave", "short": "leak", "overfull": "recover"}[case],
        after="what",
        plan={"normal": "leave", "short": "leak", "overfull": "recover", "stuck": "valve"},
        why={"fill": "What is filled up in winter is too much in summer: the head then trips it."},
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "A receiver filled to the top bursts when it warms: never past 80 % in the warmest weather."
    if (case == "normal") is not (abs(level - should) < 3.5) or abs(abs(level - should) - 7.0) < 2.0:
        raise NotProvedError("level on the edge")
    distances = {other: abs(level - should - at) / 3.5 for other, at in (("normal", 0.0),) if other != case}
    if case == "normal":
        distances = {"short": (level - should + 10.0) / 3.5, "overfull": (10.0 - (level - should)) / 3.5}
    page.apart("In today's air the right charge stands at one level, by the solved machine.", distances)


def level_of(state: CircuitState) -> float:
    assert state.receiver is not None, "a walk-in has a receiver"
    return float(round(100.0 * state.receiver.level))


KINDS = {"machine_or_load": machine_or_load, "winter_receiver": winter_receiver}
