"""The live machine of a run: what each step shows of it, how long it takes and what it costs. The same steps give the
same answers; nothing here knows what is right.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions import act, action_kind
from wolfsbane.acting.actions.refrigerant import left_after_recovery_kg
from wolfsbane.acting.settling import advance, arrive, moment, settled
from wolfsbane.acting.site import CHARGE_FAULTS, on_site
from wolfsbane.acting.stepping import weather_at
from wolfsbane.cycle.dials import BOX_SCALES, SCALES, needle_deg, needle_in_words
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import Fault
from wolfsbane.cycle.field_tests import FIELD_TESTS, Answer, ask
from wolfsbane.cycle.instrument_faults import disturb, of_instruments, of_machine
from wolfsbane.cycle.instruments import ALL_POINTS, points_for, reading, tool_for, values
from wolfsbane.cycle.units import KG_PER_OZ, PA_PER_PSI, SYSTEMS
from wolfsbane.exercise.screen.shown import Setup, Shown
from wolfsbane.exercise.screen.steps import PIPES

if TYPE_CHECKING:
    from collections.abc import Sequence

    from wolfsbane.acting.site import Site
    from wolfsbane.acting.trace import Moment
    from wolfsbane.cycle.instruments import Reading
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState

#: minutes of what no catalog of tests or actions names (common practice, no source)
MINUTES = {"plate": 1.0, "zero": 1.0, "gauges": 5.0, "gauges_off": 4.0, "clamp": 2.0, "read": 0.5, "air": 2.0}
#: what an hour and the bands of parts cost, and an ounce from a cylinder, in a money of our own (assumed)
HOUR, PARTS, OUNCE = 96.0, {"none": 0.0, "small": 12.0, "part": 140.0, "large": 780.0}, 1.1
#: a clamp in the sun reads so much warmer, K; one on paint stands so far off, as a share of the way to the air about it
#: (both assumed)
SUN_K, PAINT = 3.0, 0.15
#: gauges that were not zeroed stand off by so much in every second run, psi (assumed)
OFF_PSI = 3.0
#: what moves less than this in a minute stands still: gauges in Pa, pipes in K
_STILL_PA, _STILL_K = 7_000.0, 0.4
#: what goes into the air with hoses and caps, kg (assumed)
_VENTED_KG = 2.0 * KG_PER_OZ
#: superheat below this is liquid on its way to the compressor, K
_WET_K = 0.5
_PORT_OF = {"suction": "suction_pressure", "liquid": "head_pressure"}
_SIDE_OF = {"suction_pressure": "low", "head_pressure": "high"}
#: a charge this close to the right one is called neither low nor high, share
_CHARGED = 0.005


@dataclass
class Live:
    """A machine with somebody at it. ``low`` and ``high`` are the ports of the hoses, ``clamps`` where each sits."""

    setup: Setup
    site: Site
    off_psi: float
    zeroed: bool = False
    low: str = "off"
    high: str = "off"
    clamps: dict[str, str] = field(default_factory=dict)
    still: bool = True
    shown: list[Shown] = field(default_factory=list)

    @property
    def minutes(self) -> float:
        """Minutes on site."""
        return sum(s.minutes for s in self.shown)

    @property
    def bill(self) -> float:
        """What it has cost so far."""
        return self.minutes / 60.0 * HOUR + sum(s.cost for s in self.shown)


def begun(setup: Setup) -> Live:
    """The machine as somebody walks up to it. Raises NoConvergenceError."""
    site = arrive(on_site(setup.machine, setup.conditions, of_machine(setup.faults), units=setup.system))
    rng = random.Random(setup.seed)
    return Live(setup=setup, site=site, off_psi=rng.choice((0.0, 1.0)) * rng.choice((-1.0, 1.0)) * OFF_PSI)


def retold(live: Live, shown: Sequence[Shown]) -> Live:
    """The machine after steps that were shown already: what was asked of it is not worked out again, its time passes.
    Raises NoConvergenceError.
    """
    for one in shown:
        if one.kind not in _ASKS:
            _DO[one.kind](live, one.data)
        elif not one.refused:
            _wait(live, one.minutes)
        # what was shown then stays as it was shown, whatever solver shows it today
        live.shown.append(one)
    return live


def step(live: Live, kind: str, data: dict[str, Any]) -> Shown:
    """Do one checked step that the machine answers; ``live`` stands after it. Returns what it showed."""
    before, at_s = live.site, live.site.time_s
    shown = replace(_DO[kind](live, data), kind=kind, data=data, at_s=at_s)
    harm = (*shown.harm, *_harm(before, live.site, data.get("action", "")))
    shown = replace(shown, harm=harm, still=shown.still and live.still)
    live.shown.append(shown)
    return shown


def _shown(minutes: float, *said: str, **more: Any) -> Shown:
    return Shown(kind="", data={}, at_s=0.0, minutes=minutes, said=tuple(said), **more)


def _wait(live: Live, minutes: float) -> list[Moment]:
    """Time passes on the machine; whether it stands still is seen in the last minute of it."""
    if minutes <= 0.0:
        return []
    head = max(minutes - 1.0, 0.0)
    site, found = advance(live.site, 60.0 * head, every_s=60.0) if head else (live.site, [])
    earlier = site.shown
    site, more = advance(site, 60.0 * (minutes - head), every_s=30.0)
    live.site = site
    if earlier is not None and site.shown is not None:
        live.still = _near(earlier, site.shown, min(minutes, 1.0))
    return [*found, *more]


def _near(a: Any, b: Any, minutes: float) -> bool:
    pressures = ("suction_pa", "liquid_port_pa")
    pipes = ("suction_line_k", "liquid_line_k", "discharge_k")
    return all(abs(getattr(a, n) - getattr(b, n)) < _STILL_PA * minutes for n in pressures) and all(
        abs(getattr(a, n) - getattr(b, n)) < _STILL_K * minutes for n in pipes
    )


def _harm(before: Site, after: Site, action: str) -> list[str]:
    """What must not happen on a machine, as far as two moments of it show; ``action`` is what was done between them, if
    anything. The vapor that recovery gear leaves is not venting.
    """
    found = []
    if after.trip is not None and before.trip is None and before.running:
        found.append(f"The machine went out on its {after.trip.cutout.replace('_', ' ')} cutout.")
    vented = after.lost_kg - before.lost_kg
    left = 0.0 if action == "vent" else left_after_recovery_kg(before)
    if vented > left + _VENTED_KG:
        found.append("Refrigerant went into the air: recover it, venting is against the law.")
    for cylinder in after.cylinders:
        if cylinder.kg > cylinder.most_kg * 1.001 and cylinder.kg > before.cylinder(cylinder.id).kg:
            found.append(f"Cylinder {cylinder.id} is over 80 % full: it can burst.")
        if cylinder.mixed and not before.cylinder(cylinder.id).mixed:
            found.append(f"Cylinder {cylinder.id} holds a mixture now.")
    return found


def _wet(before: Site, moments: list[Moment]) -> list[str]:
    """Liquid at the compressor that was not there before: a machine that floods when one comes is nobody's harm."""
    rows = [m for m in moments if m.running and m.state.superheat_dk < _WET_K]
    if len(rows) < 2 or (before.running and moment(before).state.superheat_dk < 2.0 * _WET_K):
        return []
    return ["Liquid refrigerant reached the compressor."]


# --- what stands on site now ------------------------------------------------------------------------------------------


def faults_now(live: Live) -> tuple[Fault, ...]:
    """What is wrong with the machine as it stands: what is left of the faults, and the charge as it is."""
    site, planted = live.site, {f.id: f for f in live.setup.faults}
    share = site.circuit_kg / max(site.right_kg, 1e-9)
    found = [*site.faults]
    if share < 1.0 - _CHARGED:
        cause = planted["undercharge"].cause if site.leaking and "undercharge" in planted else "undercharged_at_start"
        found.append(Fault(id="undercharge", severity=max(100.0 * share, 5.0), cause=cause))
    elif share > 1.0 + _CHARGED:
        found.append(Fault(id="overcharge", severity=100.0 * share, cause=None))
    if site.wet_share > 0.05:
        found.append(Fault(id="wet_condenser", severity=100.0 * site.wet_share))
    return tuple(found)


def _state(live: Live) -> CircuitState:
    return replace(moment(live.site).state, trip=None)


def _asked(live: Live, test: str) -> Shown:
    """A look or test on the machine as it stands; it takes its time."""
    kind = FIELD_TESTS[test]
    if kind.running and not live.site.running:
        return _shown(0.0, "The machine is off: this needs it running.", refused=True, caution=kind.caution)
    faults = tuple(f for f in faults_now(live) if f.id not in CHARGE_FAULTS or test != "line_length")
    setup = live.setup
    try:
        found = ask(setup.machine, weather_at(live.site), faults, test, setup.system)
    except NoConvergenceError:
        found = Answer(test=test, word="cut_out", text="It does not stay on long enough to tell.", values={})
    _wait(live, kind.minutes)
    told = {name: float(v) for name, v in found.values.items() if isinstance(v, (int, float))}
    return _shown(kind.minutes, found.text, word=found.word, caution=kind.caution, told=told)


# --- steps ------------------------------------------------------------------------------------------------------------


def _plate(live: Live, data: dict[str, Any]) -> Shown:
    _wait(live, MINUTES["plate"])
    return _shown(MINUTES["plate"], "Nameplate read.")


def _look(live: Live, data: dict[str, Any]) -> Shown:
    test = FIELD_TESTS[data["check"]]
    if not test.suits(live.setup.machine):
        return _shown(0.0, "There is none on this machine.", refused=True)
    return _asked(live, test.id)


def _test(live: Live, data: dict[str, Any]) -> Shown:
    test = FIELD_TESTS[data["test"]]
    if not test.suits(live.setup.machine):
        return _shown(0.0, "That cannot be done on this machine.", refused=True)
    return _asked(live, test.id)


def _zero(live: Live, data: dict[str, Any]) -> Shown:
    if "off" not in (live.low, live.high) or live.low != live.high:
        return _shown(0.0, "Hoses are on: gauges are zeroed in open air, before they go on.", refused=True)
    setup = live.setup
    off = {f.cause or "low_gauge": f.severity for f in setup.faults if f.id == "gauge_not_zeroed"}
    stood = {"low": off.get("low_gauge", 0.0) + live.off_psi, "high": off.get("high_gauge", 0.0)}
    us = setup.system == "us"
    unit = SYSTEMS[setup.system]["pressure"][0]
    words = [f"{v if us else v * PA_PER_PSI / 1000.0:+.0f} {unit}".replace("-", "−") for v in stood.values()]
    live.zeroed = True
    _wait(live, MINUTES["zero"])
    return _shown(
        MINUTES["zero"], f"In open air the low needle stood at {words[0]}, the high at {words[1]}. Both on zero now."
    )


def _gauges(live: Live, data: dict[str, Any]) -> Shown:
    low, high = data["low"], data["high"]
    if live.setup.machine.sealed:
        return _shown(0.0, "A sealed circuit: there are no service ports.", refused=True)
    off = low == high == "off"
    minutes = MINUTES["gauges_off" if off else "gauges"]
    said = "Hoses off, caps on."
    harm: tuple[str, ...] = ()
    if not off:
        names = {"suction": "the suction port", "liquid": "the liquid port", "off": "nothing"}
        said = f"Hoses purged; low side on {names[low]}, high side on {names[high]}."
        if low == "liquid" and live.site.running:
            harm = ("Head pressure on the low-side gauge: it can burst. Blue goes on suction, red on liquid.",)
    live.low, live.high = low, high
    _wait(live, minutes)
    return _shown(minutes, said, harm=harm)


def _clamp(live: Live, data: dict[str, Any]) -> Shown:
    pipe, spot = data["pipe"], data["spot"]
    if pipe not in points_for(live.setup.machine):
        return _shown(0.0, "That pipe cannot be reached on this machine.", refused=True)
    if spot == "off":
        live.clamps.pop(pipe, None)
        return _shown(0.5, "Clamp off.")
    live.clamps[pipe] = spot
    _wait(live, MINUTES["clamp"])
    where = {"clean": "on bare copper, wiped and wrapped", "painted": "on painted pipe", "sun": "bare, in the sun"}
    return _shown(MINUTES["clamp"], f"Clamp {where[spot]}.")


def _read(live: Live, data: dict[str, Any]) -> Shown:
    point, setup = data["point"], live.setup
    if point not in points_for(setup.machine):
        return _shown(0.0, "There is nothing of that kind to read on this machine.", refused=True)
    if point in _SIDE_OF and (live.low if point == "suction_pressure" else live.high) == "off":
        return _shown(0.0, "That gauge is not on.", refused=True)
    if point in PIPES and point not in live.clamps:
        return _shown(0.0, "There is no clamp on that pipe.", refused=True)
    held = point in _SIDE_OF or point in PIPES
    minutes = MINUTES["read" if held else "air"]
    _wait(live, minutes)
    found, fair = _instrument(live, point)
    return _shown(minutes, reading=_drawn(setup, point, found), fair=fair)


def _instrument(live: Live, point: str) -> tuple[Reading, bool]:
    """(what the instrument shows now, whether it sits where it should)."""
    setup, state = live.setup, _state(live)
    troubles = tuple(f for f in of_instruments(setup.faults) if not (live.zeroed and f.id == "gauge_not_zeroed"))

    def taken(at: CircuitState) -> dict[str, float]:
        shown = disturb(values(setup.machine, at, faults_now(live)), setup.machine, at, troubles)
        if not live.zeroed:
            shown["suction_pressure"] += live.off_psi * PA_PER_PSI
        return shown

    fair, key, offset = True, point, 0.0
    if point in _SIDE_OF:
        port = live.low if point == "suction_pressure" else live.high
        key = _PORT_OF[port]
        fair = key == point
    spot = live.clamps.get(point) if point in PIPES else "clean"
    here = taken(state)
    if spot == "sun":
        offset, fair = SUN_K, False
    elif spot == "painted":
        offset, fair = PAINT * (state.outdoor_k - here[key]), False
    ends = [replace(end, trip=None) for end in state.swing or ()]
    span = [taken(end)[key] + offset for end in ends] or None
    return reading(point, here[key] + offset, setup.kit, setup.system, state.barometer_pa, span=span), fair


def _drawn(setup: Setup, point: str, found: Reading) -> dict[str, Any]:
    """A reading as the screen draws it: a needle on a dial, or digits."""
    base = {"point": point, "kind": found.kind, "unit": found.unit}
    analog = tool_for(point, setup.kit).id.startswith("analogue") and point in _SIDE_OF
    if not analog:
        return base | {"text": found.text, "value": found.value}
    side, box = _SIDE_OF[point], setup.machine.refrigeration

    def needle(value: float) -> float:
        return needle_deg(side, setup.system, value, refrigeration=box)

    ends = None if found.low is None or found.high is None else [needle(found.low), needle(found.high)]
    scale = (BOX_SCALES if box else SCALES)[(side, setup.system)]
    return base | {
        "side": side,
        "needle_deg": needle(found.value),
        "between_deg": ends,
        "value": found.value,
        "spoken": needle_in_words(scale, found.value),
    }


def _wait_step(live: Live, data: dict[str, Any]) -> Shown:
    before = live.site
    moments = _wait(live, data["minutes"])
    return _shown(data["minutes"], f"{data['minutes']:g} minutes later.", harm=tuple(_wet(before, moments)))


def _settle(live: Live, data: dict[str, Any]) -> Shown:
    if not live.site.running:
        return _shown(0.0, "The machine is off.", refused=True)
    site, minutes = settled(live.site)
    live.site, live.still = site, True
    if not site.running:
        return _shown(minutes, "It went out before it had settled.")
    return _shown(minutes, f"Settled after {minutes:.0f} minutes.")


def _act(live: Live, data: dict[str, Any]) -> Shown:
    kind = action_kind(data["action"])
    if not kind.suits(live.setup.machine):
        return _shown(0.0, "That cannot be done on this machine.", refused=True)
    before = live.site
    done = act(live.site, kind, data.get("arguments") or {})
    live.site = done.site
    minutes = (done.site.time_s - before.time_s) / 60.0
    stock = {c.id: c.kg for c in before.cylinders}
    fresh_kg = sum(max(stock[c.id] - c.kg, 0.0) for c in done.site.cylinders if not c.id.startswith("recovery"))
    cost = 0.0 if done.refused else PARTS[kind.money] + fresh_kg / KG_PER_OZ * OUNCE
    if not done.refused:
        live.still = kind.id == "settle" or minutes <= 0.0
    harm = [f"Hands in a machine that runs. {kind.risk}".strip()] if done.refused and kind.machine == "off" else []
    return _shown(
        minutes,
        *done.said,
        cost=cost,
        refused=done.refused,
        harm=tuple([*harm, *_wet(before, list(done.moments))]),
        caution=kind.risk,
    )


_DO = {
    "plate": _plate,
    "look": _look,
    "zero": _zero,
    "gauges": _gauges,
    "clamp": _clamp,
    "read": _read,
    "test": _test,
    "wait": _wait_step,
    "settle": _settle,
    "act": _act,
}
#: steps that leave the machine as it is, but for the time they take
_ASKS = ("plate", "look", "test", "read")


def readable(machine: Machine) -> list[dict[str, str]]:
    """What can be read on this machine: point, its words, and what it takes (gauges, clamp, or nothing)."""
    from wolfsbane.cycle.instruments import label

    takes = {p: "gauges" for p in _SIDE_OF} | {p: "clamp" for p in PIPES}
    return [
        {"point": p, "label": label(p, machine), "takes": takes.get(p, "hand")}
        for p in points_for(machine)
        if p in ALL_POINTS and not (machine.sealed and p in _SIDE_OF)
    ]
