"""Walk-in boxes: the machine or the load, defrost, the low-pressure control, a receiver in winter."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.living import living
from wolfsbane.acting.settings import setting_rows
from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.controls import controls_of, troubled
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.field_tests.running import glass_text, glass_word
from wolfsbane.cycle.instruments import reading
from wolfsbane.cycle.units import f_to_k, k_to_f
from wolfsbane.diagnosis.solved_cases import solved
from wolfsbane.exercise.draw.situations.page import Follows, NotProvedError, Page

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.state import CircuitState

_FREEZER_F, _COOLER_F = (-6.0, 0.0), (35.0, 38.0)


def _freezer(page: Page) -> bool:
    return page.machine.application == "walk_in_freezer"


def _around(page: Page, set_f: float, outdoor_f: float) -> None:
    page.conditions = for_machine(page.machine, outdoor_db_f=round(outdoor_f), box_f=set_f)


def _set_f(page: Page) -> float:
    return float(round(page.rng.uniform(*(_FREEZER_F if _freezer(page) else _COOLER_F))))


def _rows_of_settings(page: Page, set_f: float, ids: tuple[str, ...]) -> list[tuple[str, str]]:
    rows = setting_rows(controls_of(page.machine, f_to_k(set_f)), page.system)
    return [(row["name"], row["text"]) for row in rows if row["id"] in ids]


def _span(page: Page, kelvin: float) -> float:
    """A difference in K as the page shows it."""
    return page.shown("difference", kelvin)


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
    set_f = _set_f(page)
    outdoor_f = rng.uniform(72, 92)
    warm_f = set_f + rng.uniform(9, 14)
    _around(page, set_f, outdoor_f)
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
            ("Superheat at the coil", _window(page)),
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
        "Superheat at the coil",
        "difference",
        shown["evaporator_outlet"].value - saturation,
        per={"suction_saturation": -1.0},
    )
    fell = _span(page, rooms[0] - rooms[-1])
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
            "curtain": "Mend door closer and strip curtain, and let it pull down; touch nothing on the circuit",
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
        "The machine reads as it would healthy or with this fault alone; the look at door and goods parts the loads.",
        distances,
    )


def _glass_apart(a: CircuitState, b: CircuitState) -> float:
    """How far glass and receiver part two states: bubbles or not, and the level by what an eye can tell apart."""
    if (glass_word(a) == "bubbles") is not (glass_word(b) == "bubbles"):
        return 3.0
    return abs(_level(a) - _level(b)) / 8.0


def _window(page: Page) -> str:
    low, high = page.machine.plate.target_superheat_dk or (0.0, 0.0)
    return f"{page.shown('difference', low):.0f} to {page.shown('difference', high):.0f} {page.unit('difference')}"


_DEFROSTS = ("normal", "defrost_never_ends", "defrost_ends_early", "fan_delay_failed")


def defrost(page: Page) -> None:
    """A freezer's defrost, minute by minute: does it end right, and do the fans wait?"""
    rng, case = page.rng, page.pick(_DEFROSTS)
    set_f = _set_f(page)
    _around(page, set_f, rng.uniform(72, 92))
    troubles = () if case == "normal" else (case,)
    site = living(arrive(on_site(page.machine, page.conditions)), troubles=troubles, set_k=f_to_k(set_f))
    assert site.keeper is not None, "lives"
    site = replace(site, ice_share=round(rng.uniform(0.05, 0.10), 2), keeper=replace(site.keeper, defrosts_in_s=240.0))
    site, moments = advance(site, 3900.0, every_s=10.0)
    begin = next((i for i, m in enumerate(moments) if _mode(m) == "defrost"), None)
    if begin is None:
        raise NotProvedError("no defrost came")
    ends = next(i for i, m in enumerate(moments) if i > begin and _mode(m) != "defrost")
    fans = next(
        (i for i, m in enumerate(moments) if i >= ends and _mode(m) in ("on", "satisfied", "waiting")), len(moments) - 1
    )
    last = min(fans + 30, len(moments) - 1)
    start_s = moments[begin].time_s
    step = 18 if ends - begin < 150 else 30
    picked = sorted({begin - 1, *range(begin, ends - 1, step), ends - 1, ends, fans - 1, fans, last})
    coil = {i: _coil_k(moments[i]) for i in picked}
    page.table(
        "Defrost log",
        ("Minute", "Box air", "Coil", "Heat", "Compressor", "Fans"),
        [
            (
                f"{(moments[i].time_s - start_s) / 60.0:.1f}",
                page.degrees(moments[i].room.air_k),
                page.degrees(coil[i]),
                "on" if _mode(moments[i]) == "defrost" else "",
                "on" if moments[i].running and _mode(moments[i]) != "defrost" else "",
                "on" if moments[i].keeper.fans else "",
            )
            for i in picked
        ],
    )
    settings = _rows_of_settings(page, set_f, ("thermostat", "defrost", "drip", "fans"))
    page.table("Settings on the controller's card", ("Control", "Setting"), settings)
    page.complaint = rng.choice(
        (
            "Snow on the boxes, and the product is soft by noon.",
            "Frost on everything near the coil.",
            "The box swings and the bill went up.",
            "It ices up, somebody said.",
        )
    )
    icy = site.ice_share
    left = moments[ends].ice_share if ends < len(moments) else icy
    page.looks = [
        "The log was taken during a forced defrost, with a probe on the coil where it clears last.",
        "After the defrost the coil is clear and dripping."
        if left < 0.02
        else "After the defrost ice is left between the fins.",
    ]
    took = (moments[ends].time_s - start_s) / 60.0
    page.number("took", "How long the heat was on", "number", took, unit="min", tolerance=2.1)
    page.number(
        "ended_at",
        "How warm the coil was as the heat went off",
        "temperature",
        page.shown("temperature", coil[ends - 1]),
        tolerance=3.0 * page.k,
    )
    rose = max(m.room.air_k for m in moments[begin:last] if m.room is not None) - moments[begin].room.air_k  # type: ignore[union-attr]
    page.number("rose", "How far the box rose", "difference", _span(page, rose), tolerance=2.0 * page.k)
    at_fans = coil[fans - 1]
    page.number(
        "at_fans",
        "How warm the coil was just before the fans came on",
        "temperature",
        page.shown("temperature", at_fans),
        tolerance=3.0 * page.k,
    )
    names = {
        "normal": "Nothing: it ends by temperature, drips, and the fans wait for a cold coil",
        "defrost_never_ends": "It is not ended by temperature: it runs to its time limit",
        "defrost_ends_early": "It ends too early, with ice left",
        "fan_delay_failed": "The fans start at once and blow the heat into the box",
        "heaters": "The heat does not come on",
    }
    page.choose(
        "what",
        "What is wrong with this defrost",
        names,
        case,
        because=("took", "ended_at", "at_fans"),
        why={
            "normal": "Compare each step of the log with its setting on the card.",
            "defrost_never_ends": "It ended well before its time limit.",
            "defrost_ends_early": "The coil had come to its setting, and is clear.",
            "fan_delay_failed": "The fans waited until the coil was cold.",
            "heaters": "The coil warmed: the heat was on.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave it; look for the complaint elsewhere: door, product, load",
            "thermostat": "Check the termination thermostat: fixed on clean tube, closes and opens at its temperature",
            "longer": "Thaw the coil by hand, then set the time limit so that it can end by temperature",
            "delay": "Check the fan delay thermostat and its wiring",
            "element": "Measure the heaters, lock out first",
            "more": "Set twice as many defrosts a day",
        },
        {
            "normal": "leave",
            "defrost_never_ends": "thermostat",
            "defrost_ends_early": "longer",
            "fan_delay_failed": "delay",
        }[case],
        after="what",
        plan={
            "normal": "leave",
            "defrost_never_ends": "thermostat",
            "defrost_ends_early": "longer",
            "fan_delay_failed": "delay",
            "heaters": "element",
        },
        why={"more": "More defrosts put more heat into the box; first make the one there is end right."},
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Heaters are live and hot; never chip ice off a coil. Lock out before a hand goes near a fan."
    card = controls_of(page.machine, f_to_k(set_f)).defrost
    assert card is not None, "a freezer defrosts"
    fans_k = card.fans_at_k if card.fans_at_k is not None else card.ends_at_k
    short_of_end = _span(page, card.ends_at_k - coil[ends - 1]) / (3.0 * page.k)
    distances = {
        "normal": {
            "defrost_never_ends": (card.longest_s / 60.0 - took) / 3.0,
            "defrost_ends_early": short_of_end,
            "fan_delay_failed": (at_fans - fans_k) / 3.0,
        }.get(case, 9.0),
        "defrost_never_ends": (card.longest_s / 60.0 - took) / 3.0,
        "defrost_ends_early": (took - 4.0) / 1.5,
        "fan_delay_failed": (fans_k + 7.0 - at_fans) / 2.0 if case == "normal" else 9.0,
    }
    if case == "defrost_never_ends":
        distances["normal"] = (coil[ends - 1] - card.ends_at_k) / 3.0
    distances.pop(case)
    page.apart(
        "Length, coil at the end and coil as the fans start part the troubles from one another and a good defrost.",
        distances,
    )


def _mode(m: Moment) -> str:
    assert m.keeper is not None, "lives"
    return m.keeper.mode


def _coil_k(m: Moment) -> float:
    """What a probe on the coil shows: its own temperature in a defrost, else its surface's."""
    assert m.keeper is not None and m.room is not None, "lives"
    if m.keeper.coil_k > 1.0:
        return m.keeper.coil_k
    return min(m.state.surface_k, m.room.air_k) if m.running else m.room.air_k


_LOW_PRESSURE = ("normal", "low_pressure_control_high", "low_pressure_control_close", "solenoid_leaks")


def low_pressure(page: Page) -> None:
    """Starts and stops on the low-pressure control: its setting, its differential, a leaking solenoid, or as it should
    be.
    """
    rng, case = page.rng, page.pick(_LOW_PRESSURE)
    set_f = _set_f(page)
    _around(page, set_f, rng.uniform(72, 92))
    troubles = () if case == "normal" else (case,)
    site = living(arrive(on_site(page.machine, page.conditions)), troubles=troubles, set_k=f_to_k(set_f))
    site, _ = advance(site, 600.0, every_s=600.0)
    site, moments = advance(site, 2400.0, every_s=2.0)
    events: list[tuple[Moment, bool]] = []
    for before, after, then in zip(moments, moments[1:], moments[2:], strict=False):
        if before.running != after.running:
            # The gauge as the control moved: just before a start, and once it has followed just after a stop.
            events.append((before, True) if after.running else (then, False))
    if len(events) < 4 or len(events) > 60:
        raise NotProvedError(f"{case}: {len(events)} starts and stops")
    shown = events[:10]
    barometer = page.conditions.barometer_pa

    def gauge(m: Moment) -> float:
        return reading("suction_pressure", m.state.suction_pa, page.kit, page.system, barometer).value

    unit = page.unit("pressure")
    page.table(
        "Starts and stops, from a recorder on the suction",
        ("min:s", "Compressor", "Suction just then", "Box air", "Solenoid coil"),
        [
            (
                f"{int((m.time_s - moments[0].time_s) // 60)}:{int((m.time_s - moments[0].time_s) % 60):02d}",
                "starts" if starts else "stops",
                f"{gauge(m):.0f} {unit}",
                page.degrees(m.room.air_k),  # type: ignore[union-attr]
                "off" if _mode(m) in ("satisfied", "pumping_down") else "on",
            )
            for m, starts in shown
        ],
    )
    page.table(
        "Settings on the controller's card",
        ("Control", "Setting"),
        _rows_of_settings(page, set_f, ("thermostat", "solenoid", "low_pressure")),
    )
    page.complaint = rng.choice(
        (
            "It goes on and off all day.",
            "The compressor clicks in and out; the box is all right, mostly.",
            "Somebody turned a screw on the control.",
        )
    )
    span = (moments[-1].time_s - moments[0].time_s) / 60.0
    starts = sum(1 for _, up in events if up)
    page.looks = [
        f"The recorder ran {span:.0f} minutes; in them the compressor started {starts} times.",
        "Glass clear, receiver holds liquid, coil clear, fans run.",
    ]
    outs = [gauge(m) for m, up in shown if not up]
    ins = [gauge(m) for m, up in shown if up]
    if not outs or not ins:
        raise NotProvedError("no stop or no start")
    resolution = 2.0 if page.system == "us" else 14.0
    out = page.number("cut_out", "Lowest suction at which it stops", "pressure", min(outs), tolerance=resolution)
    into = page.number("cut_in", "Lowest suction at which it starts", "pressure", min(ins), tolerance=resolution)
    page.number(
        "differential",
        "Differential: cut-in minus cutout",
        "pressure",
        into - out,
        per={"cut_in": 1.0, "cut_out": -1.0},
        tolerance=resolution,
    )
    page.number("starts_h", "Starts in an hour", "number", starts * 60.0 / span, unit="", tolerance=2.0)
    names = {
        "normal": "Nothing: it pumps down when the box is satisfied and stays off until it calls",
        "low_pressure_control_high": "The control is set too high: it stops with the box still calling",
        "low_pressure_control_close": "Cut-in and cutout are too close together",
        "solenoid_leaks": "The solenoid does not shut tight: the suction creeps back up after each pump-down",
        "short": "Short of refrigerant",
    }
    page.choose(
        "what",
        "What the starts and stops say",
        names,
        case,
        because=("cut_out", "cut_in", "differential"),
        why={
            "normal": "Look at how often it starts, and whether the box calls then.",
            "low_pressure_control_high": "It stops at its setting, and only once the solenoid is shut.",
            "low_pressure_control_close": "The differential is what the card says.",
            "solenoid_leaks": "Between a pump-down and the next call the suction stays down.",
            "short": "Glass clear and receiver full enough: not short.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave it, and write the settings down",
            "lower": "Set cutout and cut-in to the card's values with a gauge on",
            "widen": "Set the differential to the card's value with a gauge on",
            "valve": "Check the solenoid: coil off, both sides' temperature; clean or replace its seat",
            "add": "Add refrigerant",
            "jumper": "Bridge the control so that it stays on",
        },
        {
            "normal": "leave",
            "low_pressure_control_high": "lower",
            "low_pressure_control_close": "widen",
            "solenoid_leaks": "valve",
        }[case],
        after="what",
        plan={
            "normal": "leave",
            "low_pressure_control_high": "lower",
            "low_pressure_control_close": "widen",
            "solenoid_leaks": "valve",
        },
        why={
            "add": "A clear glass and a receiver that holds liquid want no more.",
            "jumper": "Without its control the compressor pulls a vacuum on the low side and burns.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = "Never bridge a safety control. A compressor that starts by itself starts without warning: lock out."
    card = controls_of(page.machine, f_to_k(set_f))
    assert card.opens_pa is not None and card.closes_pa is not None, "a walk-in has such a control"
    off_by = 2.0 * (1.0 if page.system == "us" else 6.894757)
    unasked = any(up and _mode(m) in ("satisfied", "pumping_down") for m, up in shown)
    distances = {}
    for other in _LOW_PRESSURE:
        set_so = card if other == "normal" else troubled(card, (other,), page.machine)
        assert set_so.opens_pa is not None and set_so.closes_pa is not None, "as before"
        opens, closes = (page.shown("pressure", pa + barometer) for pa in (set_so.opens_pa, set_so.closes_pa))
        never = other in ("normal", "low_pressure_control_high")
        stray = 9.0 if (unasked and never) or (not unasked and other == "solenoid_leaks") else 0.0
        distances[other] = max(abs(out - opens) / off_by, abs(into - closes) / off_by, stray)
    if distances.pop(case) > 1.5:
        raise NotProvedError(f"{case}: the recorder shows {out:g} and {into:g}")
    page.apart("Cutout, differential and the number of starts part the troubles from one another.", distances)


def winter_receiver(page: Page) -> None:
    """Flooded head control in the cold: a low receiver that is right, or one that is short."""
    rng, case = page.rng, page.pick(("normal", "short", "overfull"))
    set_f = _set_f(page)
    outdoor_f = float(round(rng.uniform(10, 42)))
    _around(page, set_f, outdoor_f)
    charge = {"normal": rng.uniform(97, 101), "short": rng.uniform(66, 80), "overfull": rng.uniform(124, 140)}[case]
    faults = (
        ()
        if case == "normal"
        else (Fault(id="undercharge" if case == "short" else "overcharge", severity=round(charge, 1)),)
    )
    state = solved(page.machine, page.conditions, faults)
    if state is None:
        raise NotProvedError("it trips")
    level = _level(state)
    card = []
    for at in (90.0, 60.0, 40.0, 20.0, 0.0):
        there = solved(page.machine, for_machine(page.machine, outdoor_db_f=at, box_f=set_f), ())
        assert there is not None, "a healthy walk-in runs"
        card.append((at, _level(there)))
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


def _level(state: CircuitState) -> float:
    assert state.receiver is not None, "a walk-in has a receiver"
    return float(round(100.0 * state.receiver.level))


KINDS = {
    "machine_or_load": machine_or_load,
    "defrost": defrost,
    "low_pressure": low_pressure,
    "winter_receiver": winter_receiver,
}
