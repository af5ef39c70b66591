"""What switches a box: a freezer's defrost and a cooler's low-pressure control, as a recorder shows them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.living import living
from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.controls import controls_of, troubled
from wolfsbane.cycle.instruments import reading
from wolfsbane.cycle.units import f_to_k
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment
from wolfsbane.exercise.draw.situations.boxes import met_in, mode_of, set_point_f, settings_card

_DEFROSTS = ("normal", "defrost_never_ends", "defrost_ends_early", "fan_delay_failed")


def defrost(page: Page) -> None:
    """A freezer's defrost, minute by minute: does it end right, and do the fans wait?"""
    rng, case = page.rng, page.pick(_DEFROSTS)
    set_f = set_point_f(page)
    met_in(page, set_f, rng.uniform(72, 92))
    troubles = () if case == "normal" else (case,)
    site = living(arrive(on_site(page.machine, page.conditions)), troubles=troubles, set_k=f_to_k(set_f))
    assert site.keeper is not None, "lives"
    site = replace(site, ice_share=round(rng.uniform(0.05, 0.10), 2), keeper=replace(site.keeper, defrosts_in_s=240.0))
    site, moments = advance(site, 3900.0, every_s=10.0)
    begin = next((i for i, m in enumerate(moments) if mode_of(m) == "defrost"), None)
    if begin is None:
        raise NotProvedError("no defrost came")
    ends = next(i for i, m in enumerate(moments) if i > begin and mode_of(m) != "defrost")
    fans = next(
        (i for i, m in enumerate(moments) if i >= ends and mode_of(m) in ("on", "satisfied", "waiting")),
        len(moments) - 1,
    )
    last = min(fans + 30, len(moments) - 1)
    start_s = moments[begin].time_s
    step = 24 if ends - begin < 150 else 36
    picked = sorted({*range(begin, ends - 1, step), ends - 1, ends, fans - 1, fans, last})
    coil = {i: _coil_k(moments[i]) for i in picked}
    page.table(
        "Defrost log",
        ("Minute", "Box air", "Coil", "Heat", "Compressor", "Fans"),
        [
            (
                f"{(moments[i].time_s - start_s) / 60.0:.1f}",
                page.degrees(moments[i].room.air_k),
                page.degrees(coil[i]),
                "on" if mode_of(moments[i]) == "defrost" else "",
                "on" if moments[i].running and mode_of(moments[i]) != "defrost" else "",
                "on" if moments[i].keeper.fans else "",
            )
            for i in picked
        ],
    )
    strip = moments[begin : last + 1]
    airs = [m.room.air_k for m in strip if m.room is not None]
    page.trace(
        "Recorder, from when the heat came on",
        "temperature",
        strip,
        {"Box air": ("air", airs), "Coil": ("low", [_coil_k(m) for m in strip])},
    )
    settings = settings_card(page, set_f, ("thermostat", "defrost", "drip", "fans"))
    page.table("Settings on the controller's card", ("Control", "Setting"), settings)
    page.complaint = rng.choice(
        (
            "Snow on the boxes, and the product is soft by noon.",
            "Frost on everything near the coil.",
            "The box swings and the bill went up.",
            "It ices up, somebody said.",
        )
    )
    left = moments[ends].ice_share
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
    page.number("rose", "How far the box rose", "difference", page.shown("difference", rose), tolerance=2.0 * page.k)
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
    short_of_end = page.shown("difference", card.ends_at_k - coil[ends - 1]) / (3.0 * page.k)
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
        "Length, coil at the end and coil as the fans start tell the troubles apart, and from a good defrost.",
        distances,
    )


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
    set_f = set_point_f(page)
    met_in(page, set_f, rng.uniform(72, 92))
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
                "off" if mode_of(m) in ("satisfied", "pumping_down") else "on",
            )
            for m, starts in shown
        ],
    )
    page.strip_of_pressures("Recorder on the suction", moments, ("low",))
    page.table(
        "Settings on the controller's card",
        ("Control", "Setting"),
        settings_card(page, set_f, ("thermostat", "solenoid", "low_pressure")),
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
    unasked = any(up and mode_of(m) in ("satisfied", "pumping_down") for m, up in shown)
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
    page.apart("Cutout, differential and starts nobody called for tell the troubles apart.", distances)


KINDS = {"defrost": defrost, "low_pressure": low_pressure}
