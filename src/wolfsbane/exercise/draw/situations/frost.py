"""A heat pump in frost: does it defrost when it should, too often, or not at all?"""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.living import living
from wolfsbane.acting.settings import setting_rows
from wolfsbane.acting.settling import advance, arrive
from wolfsbane.acting.site import on_site
from wolfsbane.cycle.conditions import for_machine
from wolfsbane.cycle.controls import controls_of
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import f_to_k
from wolfsbane.exercise.draw.situations.boxes import mode_of
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page

if TYPE_CHECKING:
    from wolfsbane.acting.trace import Moment

_CASES = ("normal", "defrost_by_clock", "defrost_never_starts")
#: ice as a share of what closes the coil, and what is seen of it (assumed)
_SEEN = ((0.03, "clear"), (0.18, "thin frost"), (0.30, "white all over"), (0.55, "thick frost"), (9.9, "closing up"))
#: a demand defrost begins with a coil that is at least so far closed; a clock's with less
_DUE = 0.30


def _look(ice: float) -> str:
    return next(said for most, said in _SEEN if ice < most)


def frost(page: Page) -> None:
    """The log of a heat pump on a raw day: ice, suction and defrosts."""
    rng, case = page.rng, page.pick(_CASES)
    outdoor_f, room_f = round(rng.uniform(58, 70)) / 2.0, float(round(rng.uniform(66, 72)))
    page.conditions = for_machine(page.machine, outdoor_db_f=outdoor_f, return_db_f=room_f)
    troubles = () if case == "normal" else (case,)
    site = living(arrive(on_site(page.machine, page.conditions)), troubles=troubles)
    start = {"normal": (0.10, 0.20), "defrost_by_clock": (0.0, 0.02), "defrost_never_starts": (0.30, 0.40)}[case]
    site = replace(site, ice_share=round(rng.uniform(*start), 2))
    site, moments = advance(site, 6600.0, every_s=60.0)
    begins = [i for i in range(1, len(moments)) if mode_of(moments[i]) == "defrost" != mode_of(moments[i - 1])]
    running = [i for i, m in enumerate(moments) if mode_of(m) == "on" and m.running]
    if len(running) < 20:
        raise NotProvedError("it hardly runs")
    before = {max((j for j in running if j < i), default=0) for i in begins}
    picked = sorted({running[2], *running[:: max(len(running) // 7, 1)], *before, *begins, running[-1]})
    shown = {i: page.of_moment(moments[i], ("suction_pressure",))["suction_pressure"] for i in picked}
    page.table(
        "Log of the unit, while it ran or cleared itself",
        ("Minute", "Unit", name_of("suction_pressure"), "Outdoor coil", "House"),
        [
            (
                f"{moments[i].time_s / 60.0:.0f}",
                "defrost" if mode_of(moments[i]) == "defrost" else "heating",
                "" if mode_of(moments[i]) == "defrost" else shown[i].text,
                _look(moments[max(i - 1, 0)].ice_share if mode_of(moments[i]) == "defrost" else moments[i].ice_share),
                _house(page, moments[i]),
            )
            for i in picked
        ],
    )
    page.strip_of_pressures("Recorder on the suction", moments, ("low",))
    rows = setting_rows(controls_of(page.machine, f_to_k(room_f)), page.system)
    page.complaint = rng.choice(
        (
            "It blows cool now and then.",
            "There is ice on the unit outside.",
            "The house is not as warm as it was, on raw days.",
        )
    )
    page.looks = [
        f"Outdoor air {page.degrees(page.conditions.return_k)}, damp and still. Fan and filter are good.",
        *(f"Board, {r['name'].lower()}: {r['text']}." for r in rows),
    ]
    first, last = shown[picked[0]], shown[max(set(picked) & set(running))]
    saturations = [
        page.figures({"suction_pressure": one, "head_pressure": one})["suction_saturation"] for one in (first, last)
    ]
    air = page.shown("temperature", page.conditions.return_k)
    low = page.number("first_saturation", "Suction saturation in the first heating row", "temperature", saturations[0])
    then = page.number("last_saturation", "Suction saturation in the last heating row", "temperature", saturations[1])
    page.number(
        "first_td",
        "Outdoor coil TD then: air − saturation, first row",
        "difference",
        air - low,
        per={"first_saturation": -1.0},
    )
    page.number("last_td", "Outdoor coil TD, last heating row", "difference", air - then, per={"last_saturation": -1.0})
    page.number("defrosts", "How many defrosts the log holds", "number", float(len(begins)), unit="", tolerance=0.4)
    names = {
        "normal": "Nothing: it lets frost build, and clears it when the coil is closing",
        "defrost_by_clock": "It defrosts by the clock: too often, with hardly any frost on the coil",
        "defrost_never_starts": "It never defrosts: the coil closes with ice",
        "short": "It is short of refrigerant",
    }
    page.choose(
        "what",
        "What the log says",
        names,
        case,
        because=("first_td", "last_td", "defrosts"),
        why={
            "normal": "Look at what the coil looks like when a defrost begins, or whether one comes at all.",
            "defrost_by_clock": "When it begins, the coil is white all over or thicker.",
            "defrost_never_starts": "There is a defrost in the log.",
            "short": "With a clear coil the TD is where it belongs.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave it; explain the cool minutes",
            "board": "Set the board to demand, or check its coil and air sensors: clean, clamped, in place",
            "force": "Force a defrost by the manual, then find why none started: sensor, board, reversing valve",
            "add": "Add refrigerant until the suction stays up",
            "hammer": "Knock the ice off and start it again",
        },
        {"normal": "leave", "defrost_by_clock": "board", "defrost_never_starts": "force"}[case],
        after="what",
        plan={"normal": "leave", "defrost_by_clock": "board", "defrost_never_starts": "force", "short": "add"},
        why={
            "add": "A suction that falls as frost grows is no shortage.",
            "hammer": "Ice is thawed, never knocked off: fins and tubes go with it.",
        },
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "A forced board starts fan and valve without warning: hands out. Ice falls; water freezes on the walk."
    )
    at_start = [moments[i - 1].ice_share for i in begins]
    if case == "defrost_never_starts":
        page.apart(
            "No defrost comes although the coil closes.", {"normal": (moments[-1].ice_share - 0.35) / 0.08 + 1.0}
        )
        if begins:
            raise NotProvedError("a defrost came")
        return
    if not begins:
        raise NotProvedError("no defrost came")
    if case == "normal":
        page.apart(
            "When a defrost begins, the coil is closed too far for a clock's.",
            {"defrost_by_clock": (min(at_start) - 0.16) / 0.07},
        )
    else:
        page.apart("When a defrost begins, the coil is hardly frosted.", {"normal": (_DUE - max(at_start)) / 0.05})


def _house(page: Page, m: Moment) -> str:
    assert m.room is not None, "lives"
    return page.degrees(m.room.air_k)


KINDS = {"frost": frost}
