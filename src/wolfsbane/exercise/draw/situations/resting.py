"""Machines that stand: what the standing pressure says, and a compressor that moves nothing."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault, fault_kind, plant
from wolfsbane.cycle.instruments import reading
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.quantities import name_of
from wolfsbane.cycle.solver import solve
from wolfsbane.cycle.standing import standing_pa
from wolfsbane.cycle.units import from_display
from wolfsbane.diagnosis.figures import saturation
from wolfsbane.exercise.draw.situations.page import Follows, NotProvedError, Page
from wolfsbane.exercise.draw.weather import snapped

if TYPE_CHECKING:
    from wolfsbane.cycle.machine import Machine

#: saturation this far from the air says that more than refrigerant, or no liquid, is in it; degrees F (common practice,
#: no source)
_OFF_DF = 3.0
#: charge left, per cent, in a circuit that is nearly empty; air in one that was opened
_EMPTY = (4.0, 14.0)
_AIR = (3.4, 5.0)


def _rest_pa(machine: Machine, air_k: float, fault: Fault | None) -> float:
    """Standing pressure, Pa absolute, with everything at ``air_k``."""
    circuit = plant(machine, (fault,)).circuit if fault and fault.id != "undercharge" else machine.circuit
    if fault and fault.id == "undercharge":
        circuit = circuit._replace(charge_kg=circuit.charge_kg * fault.severity / 100.0)
    return standing_pa(circuit, machine.refrigerant, air_k)


def standing_pressure(page: Page) -> None:
    """At rest in one air: refrigerant only, air beside it, or no liquid left."""
    rng, machine = page.rng, page.machine
    air_f = rng.uniform(62.0, 96.0)
    shown_air = snapped(air_f, page.system)
    air_k = from_display("temperature", shown_air, page.system)
    case = page.pick(("air", "clean", "empty"))
    fault = {
        "air": lambda: Fault(id="non_condensables", severity=round(rng.uniform(*_AIR), 2)),
        "empty": lambda: Fault(id="undercharge", severity=round(rng.uniform(*_EMPTY), 1)),
        "clean": lambda: Fault(id="undercharge", severity=round(rng.uniform(70.0, 100.0), 1)),
    }[case]()
    pressure = _rest_pa(machine, air_k, fault)
    barometer = page.conditions.barometer_pa
    gauge = reading("head_pressure", pressure, page.kit, page.system, barometer)
    low = reading("suction_pressure", pressure, page.kit, page.system, barometer)
    page.complaint = rng.choice(
        (
            "It was opened last spring and has cooled poorly since. Somebody put gauges on and left no note.",
            "No cooling since yesterday. The unit has been off at the disconnect overnight.",
            "It was bought used and set in place; nobody knows what is in it.",
        )
    )
    page.looks = [
        "Off at the disconnect since last night; suction and discharge valves open.",
        "Both coils and the lines feel like the air around them.",
        f"Refrigerant on the nameplate: {machine.refrigerant}. Gauges zeroed before they went on.",
    ]
    air = page.degrees(air_k)
    page.table(
        "Standing, off overnight",
        ("Reading", "Value"),
        [("Low side gauge", low.text), ("High side gauge", gauge.text), ("Air at both coils", air)],
    )
    sat = saturation(machine.refrigerant, gauge.value, "bubble", page.system, barometer)
    named = page.number(
        "saturation",
        "Saturation temperature at the high side gauge (bubble point)",
        "temperature",
        sat,
        slips={"took gauge for absolute": _absolute_slip(page, gauge.value)},
    )
    over = page.number(
        "over_air",
        "How far saturation is above the air (below it is −)",
        "difference",
        named - shown_air,
        per={"saturation": 1.0},
        slips={"subtracted backward": shown_air - named},
    )
    off = _OFF_DF * page.k
    if (case == "clean") is (abs(over) >= off) or abs(abs(over) - off) < 1.0 * page.k:
        raise NotProvedError(f"{case}: {over:g} lies on the edge")
    page.choose(
        "what",
        "What the standing pressure says",
        {
            "clean": "Refrigerant with liquid left in it; how much, or a trace of air, it cannot say",
            "air": "Air or another gas is in it beside the refrigerant",
            "empty": "No liquid is left: nearly empty",
            "overfull": "It holds too much refrigerant",
            "right": "The charge is right",
        },
        case,
        because=("saturation", "over_air"),
        follows=(
            Follows(question="over_air", choice="air", low=off),
            Follows(question="over_air", choice="clean", low=-off, high=off),
            Follows(question="over_air", choice="empty", high=-off),
        ),
        why={
            "overfull": "Liquid and vapor together follow the temperature alone; too much does not show at rest.",
            "right": "Standing pressure is the same with a half and with a whole charge.",
            "clean": "Refrigerant alone stands at the saturation temperature of the air around it.",
            "air": "Air adds its own pressure: saturation then stands above the air temperature.",
            "empty": "Only without liquid does the pressure fall below saturation at the air temperature.",
        },
    )
    page.choose(
        "do",
        "What to do next",
        {
            "run": "Run it 15 minutes and read it; the charge is judged running",
            "recover": "Recover the whole charge, evacuate to 500 microns, weigh in the nameplate charge",
            "leak": "Search for the leak with dry nitrogen before any refrigerant goes in",
            "bleed": "Let some off at the top until the pressure fits",
            "add": "Add refrigerant until the standing pressure fits",
        },
        {"clean": "run", "air": "recover", "empty": "leak"}[case],
        after="what",
        plan={"clean": "run", "air": "recover", "empty": "leak"},
        why={
            "bleed": "Venting is not allowed, and what comes out is mostly refrigerant.",
            "add": "It does not change a standing pressure while there is liquid, and feeds a leak where "
            "there is none.",
        },
        points=2,
    )
    page.case = case
    page.title = {
        "air": f"Air in the system ({fault.severity:g} condenser volumes)",
        "clean": "Nothing to be seen at rest",
        "empty": f"Nearly empty ({fault.severity:g} % left)",
    }[case]
    page.hazard = "A standing system is still under full pressure: gloves, glasses, and no valve opened to the air."
    _nothing_else(page, air_k, case, gauge.value, off)
    page.tell(
        f"Within {off:.0f} {page.unit('difference')} of the air the standing pressure says nothing about the charge."
    )


def _absolute_slip(page: Page, gauge: float) -> float:
    shift = page.shown("pressure", 2 * page.conditions.barometer_pa)
    return saturation(
        page.machine.refrigerant, max(gauge - shift, 1.0), "bubble", page.system, page.conditions.barometer_pa
    )


def _nothing_else(page: Page, air_k: float, case: str, gauge: float, off: float) -> None:
    """No other case of any size stands at this pressure, within what a gauge and a thermometer may be off."""
    per: dict[str, list[Fault | None]] = {
        "air": [Fault(id="non_condensables", severity=s / 10) for s in range(34, 51)],
        "clean": [None],
        "empty": [Fault(id="undercharge", severity=float(s)) for s in range(2, 16)],
    }
    barometer, fluid = page.conditions.barometer_pa, refrigerant(page.machine.refrigerant)
    slope = abs(
        saturation(page.machine.refrigerant, gauge * 1.02, "bubble", page.system, barometer)
        - saturation(page.machine.refrigerant, gauge, "bubble", page.system, barometer)
    ) / (0.02 * gauge)
    honest = 2.0 * slope * (1.0 if page.system == "us" else 6.9) + 0.5 * page.k
    distances = {}
    for other, faults in per.items():
        if other == case:
            continue
        best = 9.9
        for fault in faults:
            rival = page.shown("pressure", _rest_pa(page.machine, air_k, fault))
            if from_display("pressure", rival, page.system, barometer) < fluid.min_pa * 1.1:
                continue
            best = min(best, abs(rival - gauge) * slope / honest)
        distances[other] = best
    page.apart(
        "Neither air that shows, nor liquid alone, nor an empty circuit stands at this pressure otherwise.", distances
    )


def equal_pressures(page: Page) -> None:
    """Power is on, the gauges stay equal: the motor is off, it turns backward, or it does not pump."""
    rng, machine = page.rng, page.machine
    three_phase = machine.circuits == 2 or machine.condenser == "water_cooled"
    case = page.pick(("motor", "pump", "backward") if three_phase else ("motor", "pump"))
    cause = {"pump": "broken_shaft", "backward": "scroll_backwards"}.get(case)
    pa = standing_pa(machine.circuit, machine.refrigerant, min(page.conditions.outdoor_k, page.conditions.return_k))
    barometer = page.conditions.barometer_pa

    def gauges(low: float, high: float) -> tuple[str, str]:
        return (
            reading("suction_pressure", low, page.kit, page.system, barometer).text,
            reading("head_pressure", high, page.kit, page.system, barometer).text,
        )

    before = gauges(pa, pa)
    if case == "motor":
        low_pa, high_pa, amps = pa, pa, 0.0
    else:
        share = 0.0 if case == "pump" else round(rng.uniform(0.0, 1.0), 1)
        try:
            state = solve(machine, page.conditions, (Fault(id="compressor_not_pumping", severity=share, cause=cause),))
        except NoConvergenceError as error:
            raise NotProvedError(str(error)) from None
        low_pa, high_pa, amps = state.suction_pa, state.head_pa, state.compressor_amps
    now = gauges(low_pa, high_pa)
    high = reading("head_pressure", high_pa, page.kit, page.system, barometer)
    low = reading("suction_pressure", low_pa, page.kit, page.system, barometer)
    drawn = reading("compressor_amps", amps, page.kit, page.system, barometer)
    rated = machine.plate.rated_amps / machine.circuits
    page.complaint = rng.choice(
        (
            "Blows, but not cold, since this morning.",
            "The fans run; the air comes out as it goes in.",
            "No cooling since the power was worked on.",
        )
    )
    voltage = "three phases" if three_phase else "one phase"
    page.looks = [
        "Both fans run. The thermostat calls for cooling.",
        f"Line voltage is right at the contactor, which is pulled in ({voltage}).",
        {
            "motor": "The compressor is silent.",
            "pump": "The compressor hums evenly.",
            "backward": "The compressor runs, and is loud.",
        }[case],
    ]
    if three_phase:
        page.looks.append("Phase-sequence meter at the contactor: " + ("B-A-C." if case == "backward" else "A-B-C."))
    page.table(
        "Before and after power was switched on",
        ("Reading", "Off", "On for 5 minutes"),
        [
            ("Low side gauge", before[0], now[0]),
            ("High side gauge", before[1], now[1]),
            ("Compressor amps, per leg" if three_phase else name_of("compressor_amps"), "0.0 A", drawn.text),
            ("Rated compressor amps on the nameplate", "", f"{rated:.1f} A"),
        ],
    )
    page.number(
        "spread",
        "Head minus suction with power on",
        "pressure",
        high.value - low.value,
        tolerance=2 * high.resolution,
    )
    page.number(
        "share",
        "Compressor amps in per cent of rated",
        "number",
        100.0 * drawn.value / rated,
        unit="%",
        tolerance=4.0,
        slips={"divided the wrong way around": 100.0 * rated / drawn.value} if drawn.value > 0.2 else {},
    )
    names = {
        "motor": "The motor does not run: an electrical question",
        "pump": "The motor runs and the compressor does not pump",
        "backward": "The motor turns backward",
        "empty": "The system is empty",
        "worn": "The compressor valves leak a little",
    }
    if not three_phase:
        names.pop("backward")
        names["metering"] = "The metering device is stuck shut"
    page.choose(
        "what",
        "What the two gauges and the amps say",
        names,
        case,
        because=("spread", "share"),
        follows=(
            Follows(question="share", choice="motor", high=5.0),
            Follows(question="share", choice="pump", low=5.0),
        ),
        why={
            "empty": "An empty system has no standing pressure; here liquid stands in it.",
            "worn": "Worn valves still hold a good part of the pressure difference.",
            "metering": "With a shut device the suction goes into a vacuum; it does not stay equal.",
            "motor": "A motor that is off draws nothing.",
            "pump": "A motor that runs draws current; and look at what else the page says about how it turns.",
            "backward": "The phase-sequence meter shows which way it turns.",
        },
    )
    page.choose(
        "do",
        "What to do first",
        {
            "electric": "Lock out, discharge the capacitor, check overload, windings and start parts",
            "phases": "Lock out and swap two of the three legs, then check the rotation again",
            "condemn": "Lock out; let it cool, check the relief, prove it does not pump, then replace it",
            "charge": "Add refrigerant until the suction drops",
            "device": "Replace the metering device",
        },
        {"motor": "electric", "pump": "condemn", "backward": "phases"}[case],
        after="what",
        plan={"motor": "electric", "pump": "condemn", "backward": "phases"},
        why={
            "charge": "Refrigerant does not make a standing compressor pump.",
            "device": "Nothing here speaks of the metering device.",
            "condemn": "A compressor is the last thing to be condemned: first what turns it, and which way.",
        },
        points=2,
    )
    page.case = case
    page.title = {
        "motor": "Compressor motor does not run",
        "pump": "Compressor runs and does not pump",
        "backward": "Compressor turns backward",
    }[case]
    page.hazard = (
        "Live parts and charged capacitors: open the disconnect, lock it out, test for zero voltage, discharge."
    )
    if case != "motor":
        _pumps_not(page, low.value, high.value)
    page.apart(
        "Amps tell a motor that is off from one that runs; the phase-sequence meter shows which way it turns.",
        {"motor" if case != "motor" else "pump": _amps_apart(page, drawn.value)},
    )
    page.tell(f"{fault_kind('compressor_not_pumping').remedy}.")


def _amps_apart(page: Page, amps: float) -> float:
    """How far these amps lie from those of the other case, in what an amp clamp may be off."""
    if amps > 0.0:
        return amps / 0.6
    state = solve(page.machine, page.conditions, (Fault(id="compressor_not_pumping", severity=0.0),))
    return state.compressor_amps / 0.6


def _pumps_not(page: Page, low: float, high: float) -> None:
    """A compressor with worn valves would hold the sides apart by more."""
    state = solve(page.machine, page.conditions, (Fault(id="compressor_not_pumping", severity=30.0),))
    held = page.shown("pressure", state.head_pa) - page.shown("pressure", state.suction_pa)
    allowed = 5.0 * (1.0 if page.system == "us" else 6.9)
    page.apart(
        "A compressor that still pumps a third holds the two sides further apart.",
        {"worn": (held - (high - low)) / allowed},
    )


KINDS = {"standing_pressure": standing_pressure, "equal_pressures": equal_pressures}
