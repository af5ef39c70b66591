"""The correcting half of a key: how much, in which order, and which way the readings go; all of it from the solved
machine.

Worked out once, when a call is made, for the hidden faults and for every other answer the sheet offers, so that
marking can follow an apprentice who named another one. What stays on the machine after the repair, such as a long line,
stays in every one of these solves.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from types import SimpleNamespace
from typing import TYPE_CHECKING, Any

from wolfsbane.acting.actions.repairs import BY_ID, repaired_by
from wolfsbane.acting.plan import NOTHING_TO_REPAIR, judged_by
from wolfsbane.cycle.faults import NONE, Fault, fault_kind
from wolfsbane.cycle.field_tests.running import BUBBLES, RECEIVER_FULL
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS, disturb, of_instruments, of_machine
from wolfsbane.cycle.instruments import values
from wolfsbane.cycle.properties import refrigerant
from wolfsbane.cycle.units import PA_PER_PSI, SYSTEMS, to_display
from wolfsbane.diagnosis.targets import Band, charged_by
from wolfsbane.diagnosis.vectors import solved
from wolfsbane.exercise.paper.correction import repaired_site, steady
from wolfsbane.exercise.paper.key import Amount, ChargeChart, ChargePoint, RepairKey
from wolfsbane.exercise.paper.questions import NumberedStep
from wolfsbane.exercise.paper.routes import ANEW, CHARGE_FAULTS, listed, offered_steps, routes, step_text
from wolfsbane.exercise.plan.call_kind import left_out

if TYPE_CHECKING:
    import random

    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.solved_cases import SolvedCases

_GAUGES = ("suction_pressure", "head_pressure")
DOWN, SAME, UP = "down", "same", "up"
#: quantity -> (attribute of the state, what counts as moved in SI); about one honest reading (common practice, no
#: source)
#: by the glass the weight may be off by this share of the charge, as long as the glass is clear and the receiver is not
#: too full (common practice, no source)
_GLASS_SHARE = 0.15
MOVES = {
    "after_suction": ("suction_pa", 3.0 * PA_PER_PSI),
    "after_head": ("head_pa", 8.0 * PA_PER_PSI),
    "after_superheat": ("superheat_dk", 2.0 / 1.8),
    "after_subcooling": ("subcooling_dk", 2.0 / 1.8),
}
#: between these shares of that an examiner takes either answer
_EDGE = (0.5, 1.6)
#: shares of the right charge at which the machine is solved for the charge curve, closer where it matters
_SHARES = (0.5, 0.6, 0.7, 0.75, 0.8, 0.85, 0.9, 0.925, 0.95, 0.975, 1.0, 1.025, 1.05, 1.075, 1.1, 1.15, 1.2, 1.3, 1.4)
#: less superheat than this at the outdoor unit is liquid on its way to the compressor, K (common practice, no source)
_FLOODING_DK = 3.0 / 1.8
_HALVINGS = 20


def _plain(fault_id: str, machine: Machine) -> tuple[Fault, ...]:
    if fault_id in INSTRUMENT_FAULTS:
        return (Fault(id=fault_id, severity=INSTRUMENT_FAULTS[fault_id].moderate),)
    return () if fault_id == NONE else (Fault(id=fault_id, severity=fault_kind(fault_id).on(machine).moderate),)


def repairing(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    state: CircuitState,
    offered: tuple[str, ...],
    system: str,
    rng: random.Random,
    bands: dict[str, Band],
    tests: tuple[str, ...] = (),
) -> tuple[RepairKey, tuple[NumberedStep, ...]]:
    """The repair as it is asked on paper, and the numbered steps to choose from in an order drawn from ``rng``.

    ``state`` is the machine as found, ``offered`` the fault ids among the answers, ``bands`` the targets in the
    sheet's unit by figure, ``tests`` the looks and tests given with the call.
    """
    machine = cases.machine
    site = repaired_site(machine, cases.conditions, faults)
    end = steady(site) or cases.fault_free
    legal = routes(faults, tests, machine.sealed)
    others = {fault_id: routes(_plain(fault_id, machine), tests, machine.sealed) for fault_id in offered} | {
        f.id: routes((f,), tests, machine.sealed) for f in faults
    }
    steps = list(offered_steps(machine))
    rng.shuffle(steps)
    changes_of = {}
    for fault_id in offered:
        found = solved(machine, cases.conditions, _plain(fault_id, machine)) if fault_id != NONE else cases.fault_free
        if found is not None:
            read = _as_read(machine, found, _plain(fault_id, machine))
            changes_of[fault_id] = {name: ways[0] for name, ways in ways_back(machine, read, cases.fault_free).items()}
    states = _charge_states(site)
    curve = charge_curve(site, system, states)
    key = RepairKey(
        steps=listed(legal[0]),
        plans={fault_id: listed(ways[0]) for fault_id, ways in others.items()},
        changes={
            question: tuple(ways)
            for question, ways in ways_back(machine, _as_read(machine, state, faults), end).items()
        },
        changes_of=changes_of,
        amount=_amount(cases, faults, system, curve, bands),
        slope=None,
        routes=legal,
        routes_of=others,
        chart=charge_chart(cases, system, site, states),
    )
    return key, tuple(NumberedStep(number=i, id=s, text=step_text(s, machine)) for i, s in enumerate(steps, start=1))


def _as_read(machine: Machine, state: CircuitState, faults: tuple[Fault, ...]) -> Any:
    """A state as instruments with trouble of their own show it: what :data:`MOVES` looks at."""
    off = of_instruments(faults)
    if not off:
        return state
    seen, fluid = disturb(values(machine, state), machine, state, off), refrigerant(state.refrigerant)
    low, high = (min(max(seen[k], fluid.min_pa * 1.001), fluid.max_pa * 0.999) for k in _GAUGES)
    dew, bubble = fluid.saturation_k(low, "dew"), fluid.saturation_k(high, "bubble")
    return SimpleNamespace(
        suction_pa=seen["suction_pressure"],
        head_pa=seen["head_pressure"],
        superheat_dk=seen["suction_line"] - dew,
        evaporator_superheat_dk=seen["evaporator_outlet"] - dew,
        subcooling_dk=bubble - seen["liquid_line"],
    )


def ways_back(machine: Machine, found: CircuitState | Any, fault_free: CircuitState) -> dict[str, list[str]]:
    """Which way each quantity goes when the machine is repaired: question id -> accepted answers, the plain one first.

    Superheat is meant where it is judged on this machine.
    """
    answers, absent = {}, left_out(machine)
    for name, (attribute, size) in MOVES.items():
        if name in absent:
            continue
        if name == "after_superheat" and machine.receiver:
            attribute = "evaporator_superheat_dk"
        moved = (getattr(fault_free, attribute) - getattr(found, attribute)) / size
        way, far = (UP if moved > 0 else DOWN), abs(moved)
        plain = way if far >= 1.0 else SAME
        answers[name] = [plain, *({way, SAME} - {plain} if _EDGE[0] <= far <= _EDGE[1] else ())]
    return answers


def _charge_states(site: Site) -> list[tuple[float, CircuitState]]:
    """(kg in the circuit, steady state) over the charge, everything else as on ``site``; what has none left out."""
    found = []
    for share in _SHARES:
        kg = share * site.right_kg
        state = steady(replace(site, circuit_kg=kg, moving=None))
        if state is not None:
            found.append((kg, state))
    return found


def charge_curve(site: Site, system: str, states: list[tuple[float, CircuitState]]) -> tuple[ChargePoint, ...]:
    """What the repaired machine shows over the charge, in the sheet's units; ``moved`` counts from the right charge."""
    k, points = 1.8 if system == "us" else 1.0, []
    for kg, state in states:
        points.append(
            ChargePoint(
                moved=round(to_display("mass", kg - site.right_kg, system), 2),
                superheat=round(state.superheat_dk * k, 2),
                subcooling=round(state.subcooling_dk * k, 2),
                trips=state.trip is not None,
                flash=round(100.0 * state.sight_glass_quality, 2),
                level=0.0 if state.receiver is None else round(state.receiver.level, 3),
            )
        )
    return tuple(points)


def charge_chart(
    cases: SolvedCases, system: str, site: Site, states: list[tuple[float, CircuitState]]
) -> ChargeChart | None:
    """The chart that is drawn on the page: superheat and subcooling over the charge of this machine today with nothing
    else wrong, whatever is wrong with it; None where no figure tells the charge.

    ``states`` are those of the repaired machine, which is the same one unless something stays that is no long line.
    """
    by = judged_by(cases.machine)
    if by not in ("superheat", "subcooling"):
        return None
    lines = tuple(f for f in site.faults if f.id == "long_liquid_line")
    if len(lines) < len(site.faults):
        states = _charge_states(replace(site, faults=lines))
    k = 1.8 if system == "us" else 1.0
    rows = [
        (
            round(to_display("mass", kg, system), 1),
            round(state.superheat_dk * k, 1),
            round(state.subcooling_dk * k, 1),
        )
        for kg, state in states
        if state.trip is None
    ]
    return ChargeChart(
        figure=by,
        mass_unit=SYSTEMS[system]["mass"][0],
        unit=SYSTEMS[system]["difference"][0],
        points=tuple(rows),
    )


def _on_target(
    curve: tuple[ChargePoint, ...], figure: str | None, bands: dict[str, Band], flooding: float
) -> tuple[float, float] | None:
    """The ends of the weights around the right one with which the machine stands in its band and does not flood; with
    no ``figure`` to charge by, between a clear glass and a full receiver.
    """
    band = None if figure is None else bands[figure]

    def at(moved: float) -> bool:
        low, high = next(((a, b) for a, b in pairwise(curve) if a.moved <= moved <= b.moved), (None, None))
        if low is None or high is None or low.trips or high.trips:
            return False
        share = (moved - low.moved) / max(high.moved - low.moved, 1e-9)

        def value(name: str) -> float:
            return (1.0 - share) * float(getattr(low, name)) + share * float(getattr(high, name))

        if band is None or figure is None:
            return value("flash") <= 100.0 * BUBBLES and value("level") <= RECEIVER_FULL
        return band.low - 1e-9 <= value(figure) <= band.high + 1e-9 and value("superheat") >= flooding

    if not curve or not at(0.0):
        return None
    ends = []
    for far in (curve[0].moved, curve[-1].moved):
        good, bad = 0.0, far
        for _ in range(_HALVINGS):
            middle = 0.5 * (good + bad)
            good, bad = (middle, bad) if at(middle) else (good, middle)
        ends.append(good)
    return ends[0], ends[1]


def _amount(
    cases: SolvedCases,
    faults: tuple[Fault, ...],
    system: str,
    curve: tuple[ChargePoint, ...],
    bands: dict[str, Band],
) -> Amount:
    """Weight to be moved compared with what is in it now, what else counts, and between which weights the machine
    stands on its target, in the sheet's unit of mass.
    """
    site = repaired_site(cases.machine, cases.conditions, faults)
    in_it = repaired_site(cases.machine, cases.conditions, faults, 0).circuit_kg
    charge, value = (to_display("mass", kg, system) for kg in (site.right_kg, site.circuit_kg - in_it))
    value = round(value, 1) + 0.0
    least = round(max(0.02 * charge, 0.1 if system == "us" else 3.0), 1)
    machine, figure = cases.machine, charged_by(cases.machine)
    flooding = _FLOODING_DK * (1.8 if system == "us" else 1.0)
    ends = _on_target(curve, figure, bands, flooding) if figure in bands or machine.receiver else None
    if ends is not None and machine.receiver:
        widest = _GLASS_SHARE * charge
        ends = (max(ends[0], -widest), min(ends[1], widest))
    low, high = (-least, least) if ends is None else (min(ends[0], -least), max(ends[1], least))
    opened = [f for f in of_machine(faults) if f.id not in (*CHARGE_FAULTS, *NOTHING_TO_REPAIR)]
    anew = any(f.id in ANEW for f in faults) or any(BY_ID[r].opens for f in opened for r in repaired_by(f))
    charged = any(f.id in CHARGE_FAULTS for f in faults)
    return Amount(
        value=value,
        tolerance=round(0.5 * (high - low), 1),
        also=(round(charge, 1),) if anew or charged else (),
        unit=SYSTEMS[system]["mass"][0],
        charge=round(charge, 1),
        low=round(value + low, 2),
        high=round(value + high, 2),
        curve=tuple(replace(point, moved=round(point.moved + value, 2)) for point in curve),
    )


def slope_line(key: RepairKey | None) -> str:
    """The sentence under the question how much, or an empty one."""
    if key is None or key.slope is None:
        return ""
    found = key.slope
    return (
        f"Near its target this machine moves about 1 {found.unit} of {found.figure} for "
        f"{found.per:g} {found.mass_unit} of refrigerant."
    )
