"""A heat pump read in both modes on one day: which valve, or which check valve, is in play and at fault?

In heating the outdoor valve meters and the check around the indoor one is open; in cooling it is the other way round.
What shows in one mode only is therefore at the valve that meters in it, or at the check that should be open in it
(common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.cycle.faults import Fault, fault_kind
from wolfsbane.cycle.instruments import read
from wolfsbane.cycle.profiles import machine
from wolfsbane.cycle.profiles.heating import HEATING_OF
from wolfsbane.diagnosis.figures import work_out
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.draw.situations.page import NotProvedError, Page
from wolfsbane.exercise.draw.weather import weather_for

if TYPE_CHECKING:
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.instruments import Reading
    from wolfsbane.cycle.machine import Machine

HEAT, COOL = "heating", "cooling"
_KEYS = ("suction_pressure", "head_pressure", "suction_line", "liquid_line", "drier_out")
#: case -> (fault, modes in which it acts)
_CASES: dict[str, tuple[str, tuple[str, ...]]] = {
    "outdoor_open": ("valve_overfeeding", (HEAT,)),
    "indoor_open": ("valve_overfeeding", (COOL,)),
    "outdoor_shut": ("valve_underfeeding", (HEAT,)),
    "indoor_shut": ("valve_underfeeding", (COOL,)),
    "indoor_check": ("liquid_line_restriction", (HEAT,)),
    "outdoor_check": ("liquid_line_restriction", (COOL,)),
    "short": ("undercharge", (HEAT, COOL)),
    "reversing": ("reversing_valve_leak", (HEAT, COOL)),
}
_NAMES = {
    "nothing": "Nothing: both modes read normal for this machine today",
    "outdoor_open": "Outdoor TXV overfeeding, or its check valve leaking by",
    "indoor_open": "Indoor TXV overfeeding, or its check valve leaking by",
    "outdoor_shut": "Outdoor TXV underfeeding",
    "indoor_shut": "Indoor TXV underfeeding",
    "indoor_check": "Check valve at the indoor TXV stuck closed",
    "outdoor_check": "Check valve at the outdoor TXV stuck closed",
    "short": "Low charge",
    "reversing": "Reversing valve leaking internally",
}
_STEPS = {
    "nothing": "Leave the circuit alone; look at thermostat, ducts and defrost",
    "outdoor_open": "Check the outdoor TXV's bulb, strap and insulation; then TXV or check valve",
    "indoor_open": "Check the indoor TXV's bulb, strap and insulation; then TXV or check valve",
    "outdoor_shut": "Warm the outdoor TXV's bulb, it should open; then screen, then TXV",
    "indoor_shut": "Warm the indoor TXV's bulb, it should open; then screen, then TXV",
    "indoor_check": "Feel for a cold spot at the indoor check valve; recover, replace it",
    "outdoor_check": "Feel for a cold spot at the outdoor check valve; recover, replace it",
    "short": "Find the leak, then recover, repair, evacuate, weigh the charge in",
    "reversing": "Prove it by the temperatures of its pipes; recover, replace it",
    "add": "Add refrigerant in the mode that looks short, until it looks right",
}
#: answers offered, the right one and a machine with nothing wrong among them
_OFFERED = 7
_MODES = {"neither": "In neither mode", HEAT: "In heating only", COOL: "In cooling only", "both": "In both modes"}


@dataclass(frozen=True, kw_only=True)
class _Mode:
    """The heat pump in one mode, and its weather."""

    machine: Machine
    conditions: Conditions

    def shown(self, page: Page, faults: tuple[Fault, ...]) -> dict[str, Reading] | None:
        """What gauges and clamps show; None where it does not stay on."""
        state = solved(self.machine, self.conditions, faults)
        return None if state is None else read(state, page.kit, page.system, machine=self.machine, keys=_KEYS)

    def figures(self, page: Page, shown: dict[str, Reading]) -> dict[str, float]:
        values = {key: r.value for key, r in shown.items()}
        return work_out(self.machine.refrigerant, values, page.system, self.conditions.barometer_pa)


def _modes(page: Page) -> dict[str, _Mode]:
    """One heat pump on one mild day, in heating and in cooling."""
    rng = page.rng
    cooling = next((c for c, h in HEATING_OF.items() if page.machine.id in (c, h)), None)
    if cooling is None:
        raise NotProvedError("it has one mode only")
    outdoor = float(rng.randint(57, 64))
    met = {
        HEAT: {"outdoor_db_f": outdoor, "return_db_f": float(rng.randint(66, 71))},
        COOL: {"outdoor_db_f": outdoor, "return_db_f": float(rng.randint(72, 77)), "return_wb_f": rng.uniform(59, 63)},
    }
    found = {}
    for mode, id_ in ((HEAT, HEATING_OF[cooling]), (COOL, cooling)):
        one = machine(id_)
        found[mode] = _Mode(machine=one, conditions=weather_for(one, met[mode], 0.0, page.system))
    return found


def _faults(case: str, mode: str, on: Machine, share: float) -> tuple[Fault, ...]:
    """The fault of a case in a mode; ``share`` of the way from mild to severe."""
    fault_id, acts = _CASES.get(case, ("", ()))
    if mode not in acts:
        return ()
    kind = fault_kind(fault_id).on(on)
    return (Fault(id=fault_id, severity=round(kind.mild + share * (kind.severe - kind.mild), 1)),)


def _both(page: Page, modes: dict[str, _Mode], case: str, share: float) -> dict[str, dict[str, Reading]] | None:
    found = {}
    for mode, one in modes.items():
        shown = one.shown(page, _faults(case, mode, one.machine, share))
        if shown is None:
            return None
        found[mode] = shown
    return found


def which_valve(page: Page) -> None:
    """Readings in heating and in cooling, on one day."""
    rng, case = page.rng, page.pick(tuple(_NAMES))
    modes = _modes(page)
    page.machine, page.conditions = modes[HEAT].machine, modes[HEAT].conditions
    share = round(rng.uniform(0.25, 1.0), 2)
    shown, usual = _both(page, modes, case, share), _both(page, modes, "nothing", 0.0)
    if shown is None or usual is None:
        raise NotProvedError(f"{case}: it trips")
    page.complaint = rng.choice(
        (
            "Since the change of season it is not what it was.",
            "It is fine half the year.",
            "Maintenance visit between the seasons: both modes are run.",
            "The last technician changed a valve and wrote “heats, cools”.",
        )
    )
    heat, cool = modes[HEAT].conditions, modes[COOL].conditions
    page.looks = [
        f"Outdoor air {page.degrees(heat.return_k)}, dry and still. Coils, fans and filter are clean.",
        "Two expansion valves, each with a check valve around it: outdoors and indoors.",
        f"Heating: 15 minutes at {page.degrees(heat.outdoor_k)} in the house. Then switched over at the thermostat.",
        f"Cooling: 15 minutes, with the electric heat on to bring the return to {page.degrees(cool.return_k)}.",
    ]
    names = {key: page.label(key) for key in _KEYS} | {
        "liquid_line": "Liquid line, leaving the unit that condenses",
        "drier_out": "Liquid line, entering the other unit",
        "suction_line": page.label("suction_line"),
    }
    page.table(
        "The same machine in both modes",
        ("Reading", "Heating", "Cooling"),
        [(names[key], shown[HEAT][key].text, shown[COOL][key].text) for key in _KEYS],
    )
    figures = {mode: modes[mode].figures(page, shown[mode]) for mode in modes}
    healthy = {mode: modes[mode].figures(page, usual[mode]) for mode in modes}
    page.table(
        "Normal for this machine on a day like this",
        ("Figure", "Heating", "Cooling"),
        [
            ("Superheat at the compressor", *(page.band(healthy[m]["superheat"], 4.0) for m in modes)),
            (
                "Subcooling leaving the unit that condenses",
                *(page.band(max(healthy[m]["subcooling"], 3.0 * page.k), 3.0) for m in modes),
            ),
            ("Drop along the liquid line", *(page.band(page.k, 1.0) for _ in modes)),
        ],
    )
    _numbers(page, shown, figures)
    offered = _offered(page, case)
    page.choose(
        "mode",
        "In which mode is something wrong",
        _MODES,
        _mode_of(case),
        because=("superheat_heating", "superheat_cooling", "subcooling_heating", "subcooling_cooling"),
        why={key: "Compare each figure with the normal ones for this machine." for key in _MODES},
        points=2,
        shuffled=False,
    )
    page.choose(
        "what",
        "What is at fault",
        {key: _NAMES[key] for key in offered},
        case,
        because=("superheat_heating", "superheat_cooling", "drop_heating", "drop_cooling"),
        why={
            "nothing": "One figure at least is off.",
            "outdoor_open": "The outdoor valve meters in heating: low superheat there, and a usual cooling mode.",
            "indoor_open": "The indoor valve meters in cooling: low superheat there, and a usual heating mode.",
            "outdoor_shut": "The outdoor valve meters in heating: high superheat there, with no drop before it.",
            "indoor_shut": "The indoor valve meters in cooling: high superheat there, with no drop before it.",
            "indoor_check": "The indoor check has to be open in heating: shut, the liquid line drops behind it.",
            "outdoor_check": "The outdoor check has to be open in cooling: shut, the liquid line drops behind it.",
            "short": "Refrigerant that is missing is missing in both modes: no subcooling in either.",
            "reversing": "A reversing valve that leaks by warms the suction gas in both modes; subcooling stays.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {key: _STEPS[key] for key in (*offered, "add")},
        case,
        after="what",
        plan={key: key for key in offered},
        why={"add": "One mode that looks short on a charge that is right in the other is no leak."},
        points=3,
    )
    page.case, page.title = case, _NAMES[case]
    page.hazard = (
        "The line that is cold in one mode is hot enough to burn in the other: discharge gas changes pipes when the"
        " valve shifts. Keep hands and hoses clear."
    )
    _prove(page, modes, case, shown, usual)
    acts = _faults(case, _CASES[case][1][0], page.machine, share) if case in _CASES else ()
    for fault in acts:
        kind = fault_kind(fault.id)
        page.tell(f"{_NAMES[case]}: {kind.parameter} {fault.severity:.3g} {kind.unit}.")


def _offered(page: Page, case: str) -> tuple[str, ...]:
    """The right answer, nothing wrong, and as many others: what shows in the other mode the same way among them."""
    mirror = {"outdoor": "indoor", "indoor": "outdoor"}
    side, _, what = case.partition("_")
    others = [key for key in _CASES if key != case]
    page.rng.shuffle(others)
    twin = f"{mirror.get(side, side)}_{what}"
    others.sort(key=lambda key: key != twin)
    return tuple(dict.fromkeys(("nothing", case, *others)))[:_OFFERED]


def _numbers(page: Page, shown: dict[str, dict[str, Reading]], figures: dict[str, dict[str, float]]) -> None:
    for mode in (HEAT, COOL):
        low = page.number(
            f"saturation_{mode}",
            f"Suction saturation in {mode}",
            "temperature",
            figures[mode]["suction_saturation"],
        )
        line = shown[mode]["suction_line"].value
        page.number(
            f"superheat_{mode}",
            f"Superheat in {mode}",
            "difference",
            line - low,
            per={f"saturation_{mode}": -1.0},
            slips={"subtracted backward": low - line},
        )
    for mode in (HEAT, COOL):
        page.number(
            f"subcooling_{mode}",
            f"Subcooling in {mode}",
            "difference",
            figures[mode]["subcooling"],
            slips={"subtracted backward": -figures[mode]["subcooling"]},
        )
    for mode in (HEAT, COOL):
        page.number(
            f"drop_{mode}",
            f"Drop along the liquid line in {mode}",
            "difference",
            shown[mode]["liquid_line"].value - shown[mode]["drier_out"].value,
            points=1,
        )


def _mode_of(case: str) -> str:
    acts = _CASES.get(case, ("", ()))[1]
    return "neither" if not acts else acts[0] if len(acts) == 1 else "both"


def _prove(
    page: Page,
    modes: dict[str, _Mode],
    case: str,
    shown: dict[str, dict[str, Reading]],
    usual: dict[str, dict[str, Reading]],
) -> None:
    distances = {}
    for other in _NAMES:
        if other == case:
            continue
        rivals = [usual] if other == "nothing" else [_both(page, modes, other, s) for s in (0.0, 0.25, 0.5, 0.75, 1.0)]
        distances[other] = min(
            (max(page.away(shown[m], rival[m]) for m in modes) for rival in rivals if rival is not None), default=9.0
        )
    page.apart("No other valve, check or charge shows these readings in both modes, by the solved machine.", distances)


KINDS = {"which_valve": which_valve}
