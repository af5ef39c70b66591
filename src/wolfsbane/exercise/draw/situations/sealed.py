"""Small sealed refrigeration: is it worth opening this circuit?"""

from __future__ import annotations

from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.units import from_display
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page

_KEYS = (
    "evaporator_inlet",
    "evaporator_outlet",
    "condenser_bend",
    "liquid_line",
    "drier_out",
    "suction_line",
    "return_db",
    "outdoor_db",
    "compressor_amps",
)
#: case -> (fault, severities that may be met)
_CASES = {
    "condenser": ("dirty_condenser", (62.0, 52.0, 44.0)),
    "box_air": ("low_airflow", (56.0, 48.0, 42.0)),
    "short": ("undercharge", (80.0, 72.0, 64.0)),
    "plugged": ("liquid_line_restriction", (120.0, 170.0, 240.0)),
    "pump": ("leaking_compressor_valves", (32.0, 40.0, 48.0)),
}
_NAMES = {
    "nothing": "Leave it closed: nothing is wrong with the circuit",
    "condenser": "Leave it closed: the condenser lacks air",
    "box_air": "Leave it closed: the evaporator lacks air",
    "short": "Open it: it has lost refrigerant",
    "plugged": "Open it: drier or tube is restricted",
    "pump": "Open it: the compressor does not pump",
}
_STEPS = {
    "nothing": "Leave it closed; look at door, load, setting and defrost",
    "condenser": "Clean the condenser and free its fan, let it settle, read the pipes again",
    "box_air": "Free the coil's air: fan, ice, product in the way; let it settle, read again",
    "short": "Find the leak, then recover, repair, new drier, evacuate, weigh the charge in by the gram",
    "plugged": "Recover, new drier and tube, evacuate, weigh the charge in by the gram",
    "pump": "Prove it by amps and pipe temperatures, quote the compressor against a new cabinet",
    "top": "Tap the line and add a little until the evaporator is cold to its outlet",
}


def worth_opening(page: Page) -> None:
    """Pipe temperatures first: leave a critically charged circuit closed, or open it for a reason."""
    rng, case = page.rng, page.pick(tuple(_NAMES))
    faults: tuple[Fault, ...] = ()
    if case in _CASES:
        fault_id, severities = _CASES[case]
        faults = (Fault(id=fault_id, severity=round(rng.uniform(min(severities), max(severities)), 1)),)
    state = solved(page.machine, page.conditions, faults)
    if state is None:
        raise NotProvedError(f"{case}: it trips")
    shown = page.readings(state, _KEYS)
    healthy = solved(page.machine, page.conditions, ())
    assert healthy is not None, "a healthy reach-in runs"
    usual = page.readings(healthy, _KEYS)
    page.complaint = rng.choice(
        (
            "The milk is at the edge.",
            "It runs all day and the box is not what it was.",
            "Checked because the bill went up.",
            "The cook says it is warmer than last summer.",
        )
    )
    page.looks = [
        "Running for half an hour with the door shut; thermostat calls.",
        "Sealed: two process stubs, no service ports.",
        f"Refrigerant {page.machine.refrigerant}, charge on the nameplate by weight only.",
    ]
    page.show("Pipes, airs and amps", shown)
    page.table(
        "What this cabinet shows when nothing is wrong",
        ("Figure", "Value"),
        [
            (
                "Condenser bend over the room",
                page.band(usual["condenser_bend"].value - usual["outdoor_db"].value, 4.0),
            ),
            (
                "Box air over the evaporator inlet",
                page.band(usual["return_db"].value - usual["evaporator_inlet"].value, 4.0),
            ),
            ("Bend over the liquid line", page.band(usual["condenser_bend"].value - usual["liquid_line"].value, 3.0)),
            (name_of("compressor_amps"), f"{usual['compressor_amps'].value:.1f} A"),
        ],
    )
    bend, inlet = shown["condenser_bend"].value, shown["evaporator_inlet"].value
    fluid, barometer = refrigerant(page.machine.refrigerant), page.conditions.barometer_pa
    gauge = page.shown("pressure", fluid.saturation_pa(from_display("temperature", bend, page.system), "bubble"))
    near = page.shown("pressure", fluid.saturation_pa(from_display("temperature", bend, page.system) + 1.0, "bubble"))
    page.number(
        "head",
        "Head pressure that goes with the condenser bend, by the chart",
        "pressure",
        gauge,
        tolerance=abs(near - gauge) + 1.0,
        slips={"took absolute for gauge": gauge + page.shown("pressure", 2 * barometer)},
    )
    page.number("over_room", "Condenser bend − air of the room", "difference", bend - shown["outdoor_db"].value)
    page.number("coil_td", "Box air − evaporator inlet", "difference", shown["return_db"].value - inlet)
    page.number("bend_liquid", "Condenser bend − liquid line", "difference", bend - shown["liquid_line"].value)
    page.choose(
        "what",
        "Is it worth opening this circuit",
        _NAMES,
        case,
        because=("over_room", "coil_td", "bend_liquid"),
        why={
            "nothing": "Not every figure is where this cabinet has it.",
            "condenser": "Without condenser air the bend stands far above the room.",
            "box_air": "Without evaporator air the coil runs far colder than the box, its outlet too.",
            "short": "Short of refrigerant the bend comes down to the liquid line and the coil starves at its outlet.",
            "plugged": "A restriction is cold behind the drier, with liquid backed up before it.",
            "pump": "A worn compressor: condenser cool, evaporator warm, amps low.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        _STEPS,
        case,
        after="what",
        plan={key: key for key in _NAMES},
        why={"top": "A critically charged circuit is never topped off; each tap is one more leak."},
        points=3,
    )
    page.case, page.title = case, _NAMES[case]
    page.hazard = "Flammable refrigerants (A3): rated tools, ventilation, no ignition source, local codes."
    distances = {}
    if case != "nothing":
        distances["nothing"] = page.away(shown, usual)
    for other, (fault_id, severities) in _CASES.items():
        if other == case:
            continue
        away = [
            page.away(shown, page.readings(rival, _KEYS))
            for s in severities
            if (rival := solved(page.machine, page.conditions, (Fault(id=fault_id, severity=s),))) is not None
        ]
        distances[other] = min(away, default=9.0)
    page.apart("No other of these reasons shows these pipes, by the solved machine.", distances)


KINDS = {"worth_opening": worth_opening}
