"""A room unit with a capillary tube, charged by superheat with condensing over outdoors as a check."""

from __future__ import annotations

from wolfsbane.cycle.faults import Fault
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import AIRS, GAUGES, Follows, NotProvedError, Page

#: superheat it is charged to, and condensing over outdoors that goes with it, degrees F (common practice, no source)
_SUPERHEAT_DF, _OVER_DF = (8.0, 15.0), (25.0, 35.0)
_CASES = ("right", "short", "overfull", "condenser")
_FAULTS = {
    "short": ("undercharge", (72.0, 84.0)),
    "overfull": ("overcharge", (118.0, 132.0)),
    "condenser": ("dirty_condenser", (48.0, 60.0)),
}


def by_superheat(page: Page) -> None:
    """Superheat in its window and condensing about 30 over outdoors: charge, or air over the condenser."""
    rng, case = page.rng, page.pick(_CASES)
    page.conditions = page.weather(rng.uniform(82, 92), rng.uniform(74.5, 77.5), rng.uniform(62.5, 65))
    faults: tuple[Fault, ...] = ()
    if case in _FAULTS:
        fault_id, (low, high) = _FAULTS[case]
        faults = (Fault(id=fault_id, severity=round(rng.uniform(low, high), 1)),)
    state = solved(page.machine, page.conditions, faults)
    if state is None:
        raise NotProvedError(f"{case}: it trips")
    shown = page.readings(state, (*GAUGES, *AIRS))
    figures = page.figures(shown)
    page.complaint = rng.choice(
        (
            "An old room unit from the shop floor; it was charged by feel.",
            "Cools, but not as it did; gas was put in last year.",
        )
    )
    window, over = (
        f"{low * page.k:.0f} to {high * page.k:.0f} {page.unit('difference')}"
        for low, high in (_SUPERHEAT_DF, _OVER_DF)
    )
    page.looks = [
        "Capillary tube, no receiver; service ports were added once. Filter new, fan blows well.",
        f"Charged by superheat in ordinary weather: {window}. Check: condensing {over} over outdoors.",
    ]
    page.show("Settled readings", shown)
    low_k = page.number(
        "suction_saturation", "Suction saturation temperature", "temperature", figures["suction_saturation"]
    )
    high_k = page.number("liquid_saturation", "Condensing temperature", "temperature", figures["liquid_saturation"])
    superheat = page.number(
        "superheat",
        "Superheat",
        "difference",
        shown["suction_line"].value - low_k,
        per={"suction_saturation": -1.0},
        slips={"subtracted backward": low_k - shown["suction_line"].value},
    )
    ctoa = page.number(
        "ctoa",
        "Condensing temperature − outdoor air",
        "difference",
        high_k - shown["outdoor_db"].value,
        per={"liquid_saturation": 1.0},
    )
    page.number(
        "subcooling", "Subcooling", "difference", high_k - shown["liquid_line"].value, per={"liquid_saturation": 1.0}
    )
    (least, most), (below, above) = ((low * page.k, high * page.k) for low, high in (_SUPERHEAT_DF, _OVER_DF))
    edge = 1.2 * page.k
    fits = {
        "right": least + edge < superheat < most - edge and below + edge < ctoa < above - edge,
        "short": superheat > most + edge and ctoa < above - edge,
        "overfull": superheat < least - edge and ctoa < above + 3.0 * page.k,
        "condenser": ctoa > above + edge + 3.0 * page.k,
    }
    if not fits[case]:
        raise NotProvedError(f"{case}: superheat {superheat:g}, over outdoors {ctoa:g}")
    names = {
        "right": "The charge is right",
        "short": "Short of refrigerant",
        "overfull": "Too much refrigerant",
        "condenser": "The condenser does not get its air: clean first, judge the charge after",
    }
    page.choose(
        "what",
        "What superheat and condensing say",
        names,
        case,
        because=("superheat", "ctoa", "subcooling"),
        follows=(
            Follows(question="superheat", choice="short", low=most),
            Follows(question="ctoa", choice="condenser", low=above + 3.0 * page.k),
        ),
        why={
            "right": "One of the two stands outside its window.",
            "short": "Superheat is not above its window.",
            "overfull": "Low superheat with a head this far over outdoors is first a question of condenser air; "
            "or superheat is not low at all.",
            "condenser": "Condensing is not that far over outdoors.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "leave": "Leave the charge; write both figures down",
            "leak": "Find and repair the leak, then weigh it in, or charge to the window in small steps",
            "recover": "Recover a little at a time into a weighed cylinder until superheat is in its window",
            "wash": "Wash the condenser, let it dry, run it, read again",
            "longer": "Cut a length off the capillary tube",
        },
        {"right": "leave", "short": "leak", "overfull": "recover", "condenser": "wash"}[case],
        after="what",
        plan={"right": "leave", "short": "leak", "overfull": "recover", "condenser": "wash"},
        why={"longer": "The tube is as long as it was made; a charge is no reason to cut it."},
        points=3,
    )
    page.case, page.title = case, names[case]
    page.hazard = (
        "Small systems overshoot with half an ounce: throttle, wait, read. Liquid to the compressor breaks it."
    )
    healthy = solved(page.machine, page.conditions, ())
    assert healthy is not None, "a healthy room unit runs"
    distances: dict[str, float] = {}
    if case != "right":
        distances["right"] = page.away(shown, page.readings(healthy, (*GAUGES, *AIRS)))
    for other, (fault_id, (mild, severe)) in _FAULTS.items():
        if other == case:
            continue
        away = [
            page.away(shown, page.readings(rival, (*GAUGES, *AIRS)))
            for severity in (mild, (mild + severe) / 2, severe)
            if (rival := solved(page.machine, page.conditions, (Fault(id=fault_id, severity=severity),))) is not None
        ]
        distances[other] = min(away, default=9.0)
    page.apart("No other of these shows these readings, by the solved machine.", distances)


KINDS = {"by_superheat": by_superheat}
