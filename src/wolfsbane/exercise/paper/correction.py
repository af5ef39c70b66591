"""The correction key: the right plan with its amounts and proof, and what the usual wrong plans would have led to,
solved.

Every figure is the steady balance of the machine as that plan leaves it; playing the plan through time ends there.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from wolfsbane.acting.actions import action_kind
from wolfsbane.acting.actions.repairs import BY_ID, repaired_by
from wolfsbane.acting.plan import NOTHING_TO_REPAIR, Plan, in_order, judged_by, plan
from wolfsbane.acting.settling import arrive, steady_state
from wolfsbane.acting.site import on_site
from wolfsbane.acting.words import CUTOUTS, weight
from wolfsbane.cycle.errors import NoConvergenceError
from wolfsbane.cycle.faults import fault_kind
from wolfsbane.cycle.instrument_faults import of_machine
from wolfsbane.cycle.instruments import read
from wolfsbane.cycle.quantities import QUANTITIES
from wolfsbane.cycle.units import SYSTEMS, from_display, to_display
from wolfsbane.diagnosis.targets import bands, met_outdoors_k
from wolfsbane.exercise.paper.key import AfterRepair, CorrectionKey, RepairStep, Shown, WrongPlan
from wolfsbane.exercise.paper.wording import fitted

if TYPE_CHECKING:
    from wolfsbane.acting.actions.kind import ActionKind
    from wolfsbane.acting.plan import Step
    from wolfsbane.acting.site import Site
    from wolfsbane.cycle.conditions import Conditions
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.cycle.state import CircuitState
    from wolfsbane.diagnosis.practices import Practice

#: what somebody who reaches for the cylinder adds or takes, share of the right charge
_REACHED_FOR = 0.10
#: parts that are condemned unproven
_CONDEMNED = ("replace_compressor", "replace_valve", "replace_drier")
#: first step somebody chose on paper, by the fault it is for -> the wrong plan it stands for
WRONG_PLANS = {
    "undercharge": "add_refrigerant",
    "overcharge": "take_refrigerant",
    "leaking_compressor_valves": "replace_compressor",
    "valve_overfeeding": "replace_valve",
    "valve_underfeeding": "replace_valve",
    "liquid_line_restriction": "replace_drier",
}
#: steps that only let time pass or switch
_PASSING = ("stop", "start", "settle", "wait")
#: search for the charge that brings the judged figure to its target: shares of the right charge, steps at most, how
#: near to an end of what is left one is taken, and where it ends, K: at once, and after all steps
_LEAST, _MAX, _HALVINGS, _WITHIN = 0.55, 1.6, 14, 0.05
_ON_TARGET_DK, _NEAR_TARGET_DK = 0.003, 0.6
#: figures a consequence is told by
_TOLD = ("head_pressure", "suction_pressure", "superheat", "subcooling", "ctoa")


def correction(
    machine: Machine,
    conditions: Conditions,
    faults: tuple[Fault, ...],
    practice: Practice,
    kit: str = "digital",
    system: str = "us",
    *,
    as_given: bool = False,
) -> CorrectionKey:
    """The correction key, or one with ``refusal`` alone where the machine has no balance to correct from.

    Faults are repaired in the usual order, airflow and coils first and charge last, or ``as_given``.

    Weights and readings are in the units of ``system``.
    """
    faults = of_machine(tuple(faults))
    faults = faults if as_given else in_order(faults)
    try:
        site = arrive(on_site(machine, conditions, faults))
        right = _after(site, faults, len(faults))
        end = steady_state(right)
    except NoConvergenceError as error:
        return CorrectionKey(refusal=str(error))
    target = _target(machine, conditions, practice)
    made = plan(site, faults, None if target is None else target[1])
    steps = tuple(_step_row(site, step, machine, system) for step in made.steps)
    nothing = RepairStep(action="none", text=_nothing(faults))
    return CorrectionKey(
        by=made.by,
        repairs=tuple(f.id for f in made.faults),
        first=next((step for step in steps if step.action not in _PASSING), nothing),
        steps=steps,
        minutes=round(sum(step.minutes or 0.0 for step in steps)),
        between=_between(site, made, kit, system),
        proof=_shown(end, machine, kit, system),
        wrong=tuple(row for row in _wrong(site, made, target, system) if row is not None),
    )


def _nothing(faults: tuple[Fault, ...]) -> str:
    return "Nothing on the machine needs repair: say so and show the figures" + (
        "." if not faults else f": {fault_kind(faults[0].id).name.lower()}."
    )


def half_band(machine: Machine, conditions: Conditions, practice: Practice) -> float | None:
    """Half the band's width of the figure the charge is judged by, K; None where weight or glass decides."""
    target = _target(machine, conditions, practice)
    return None if target is None else target[1]


def _target(machine: Machine, conditions: Conditions, practice: Practice) -> tuple[float, float] | None:
    """(target, half the band's width) of the figure the charge is judged by, K; None where weight or glass decides."""
    by = judged_by(machine)
    if by in ("weight", "glass"):
        return None
    outdoor = to_display("temperature", met_outdoors_k(machine, conditions), "us")
    wet = to_display("temperature", conditions.return_wet_bulb_k, "us")
    band = bands(machine, practice, "us", outdoor, wet)[by]
    middle = band.target if band.target is not None else 0.5 * (band.low + band.high)
    return middle / 1.8, 0.5 * (band.high - band.low) / 1.8


def _step_row(site: Site, step: Step, machine: Machine, system: str) -> RepairStep:
    kind = action_kind(step.action)
    needs = (
        ("certification", kind.certification),
        ("recovery gear", kind.recovery),
        ("machine off", kind.machine == "off"),
    )
    return RepairStep(
        action=kind.id,
        fault=step.fault,
        arguments=step.arguments,
        text=_step_text(site, step, machine, system),
        minutes=kind.minutes,
        money=kind.money,
        caution=kind.risk,
        amount=None if step.amount_kg is None else round(to_display("mass", step.amount_kg, system), 1),
        tolerance=None if step.tolerance_kg is None else round(to_display("mass", step.tolerance_kg, system), 1),
        unit=SYSTEMS[system]["mass"][0],
        needs=tuple(word for word, wanted in needs if wanted),
    )


def _step_text(site: Site, step: Step, machine: Machine, system: str) -> str:
    kind = action_kind(step.action)
    if step.amount_kg is None or step.tolerance_kg is None:
        return fitted(kind.name, machine.metering)
    sure = f" (± {weight(step.tolerance_kg, system)})"
    if step.action == "weigh_in":
        return f"Weigh in {weight(step.amount_kg, system)}{sure} by nameplate and line length"
    if step.amount_kg < 0.0:
        return f"Take out {weight(-step.amount_kg, system)}{sure} into a cylinder on the scale"
    judged = {
        "subcooling": "; subcooling responds first, let superheat follow",
        "superheat": "; superheat lags, do not chase it",
        "glass": "; until the sight glass clears",
        "weight": "",
    }[judged_by(machine)]
    return f"Add {weight(step.amount_kg, system)}{sure} as liquid in short bursts{judged}"


def repaired_site(
    machine: Machine, conditions: Conditions, faults: tuple[Fault, ...], repaired: int | None = None
) -> Site:
    """The machine with the first ``repaired`` of its faults put right (None: all); what stays, such as a long line,
    stays. Trouble of an instrument is corrected first and changes nothing on the machine.
    """
    own = of_machine(faults)
    done = len(own) if repaired is None else max(repaired - (len(faults) - len(own)), 0)
    return _after(on_site(machine, conditions, own), own, done)


def _after(site: Site, faults: tuple[Fault, ...], repaired: int) -> Site:
    """The site with the first ``repaired`` of its faults repaired, settled; the charge as that leaves it."""
    for fault in faults[:repaired]:
        site = _without(site, fault)
    return replace(site, moving=None, shown=None)


def _without(site: Site, fault: Fault) -> Site:
    if fault.id in ("undercharge", "overcharge"):
        return replace(site, circuit_kg=site.right_kg, leaking=False)
    if fault.id == "long_liquid_line":
        return replace(site, circuit_kg=site.right_kg)
    if fault.id == "wet_condenser":
        return replace(site, wet_share=0.0)
    if fault.id in NOTHING_TO_REPAIR:
        return site
    kept = replace(site, faults=tuple(f for f in site.faults if f.id != fault.id))
    if fault.id in ("non_condensables", "wrong_refrigerant"):
        return replace(kept, refrigerant=site.machine.refrigerant, circuit_kg=site.right_kg)
    repairs = repaired_by(fault)
    return replace(kept, circuit_kg=site.right_kg) if repairs and BY_ID[repairs[0]].opens else kept


def _between(site: Site, made: Plan, kit: str, system: str) -> tuple[AfterRepair, ...]:
    """Readings after each repair but the last, in order."""
    rows = []
    for count in range(1, len(made.faults)):
        state = steady(_after(site, made.faults, count))
        shown = None if state is None else _shown(state, site.machine, kit, system)
        rows.append(AfterRepair(repaired=made.faults[count - 1].id, shown=shown))
    return tuple(rows)


def _shown(state: CircuitState, machine: Machine, kit: str, system: str) -> Shown:
    """Readings and figures of a state as texts; of one that trips, the cutout."""
    if state.trip is not None:
        return Shown(trips=CUTOUTS[state.trip.cutout], readings={}, figures={})
    readings = read(state, kit, system, machine=machine)
    return Shown(trips=None, readings={k: r.text for k, r in readings.items()}, figures=_figures(state, system))


def _figures(state: CircuitState, system: str) -> dict[str, str]:
    told = (QUANTITIES[name] for name in _TOLD)
    return {q.id: _text(q.kind, getattr(state, str(q.attribute)), system, state.barometer_pa) for q in told}


def _text(kind: str, value: float, system: str, barometer_pa: float) -> str:
    shown = to_display(kind, value, system, barometer_pa)
    return f"{round(shown) + 0:d} {SYSTEMS[system][kind][0]}".replace("-", "−")


def steady(site: Site) -> CircuitState | None:
    """The steady state of a site, or None where there is none."""
    try:
        return steady_state(replace(site, moving=None))
    except NoConvergenceError:
        return None


def told(state: CircuitState | None, system: str) -> str:
    """A state as half a sentence: "put subcooling at 19 °F and the head at 470 psig", or what trips."""
    if state is None:
        return "stopped the machine: there is no steady operating point any more"
    if state.trip is not None:
        return f"tripped it on {CUTOUTS[state.trip.cutout]}"
    figures = _figures(state, system)
    return (
        f"put subcooling at {figures['subcooling']}, superheat at {figures['superheat']} and the head at"
        f" {figures['head_pressure']}"
    )


def _wrong(site: Site, made: Plan, target: tuple[float, float] | None, system: str) -> Iterator[WrongPlan | None]:
    """The usual wrong plans for this machine, each with what it would have led to."""
    ids = {f.id for f in made.faults}
    right = {s.action for s in made.steps}
    share = _round_kg(_REACHED_FOR * site.right_kg, system)
    if "valve_overfeeding" in ids:
        flooded = steady(replace(site, circuit_kg=site.circuit_kg + share))
        yield _row(
            "charge_to_raise_subcooling",
            f"Adding {weight(share, system)} to raise the subcooling takes the rest of the superheat: "
            f"it would have {told(flooded, system)}.",
            flooded,
            system,
        )
    elif ids & {"undercharge", "long_liquid_line"}:
        missing = max(site.right_kg - site.circuit_kg, share)
        twice = steady(replace(site, circuit_kg=site.right_kg + missing, leaking=False))
        yield _row("overshoot", f"Twice as much as is missing would have {told(twice, system)}.", twice, system)
    else:
        more = steady(replace(site, circuit_kg=site.circuit_kg + share))
        yield _row(
            "add_refrigerant", f"Adding {weight(share, system)} here would have {told(more, system)}.", more, system
        )
    if "overcharge" not in ids:
        less = steady(replace(site, circuit_kg=site.circuit_kg - share))
        yield _row(
            "take_refrigerant",
            f"Taking {weight(share, system)} out here would have {told(less, system)}.",
            less,
            system,
        )
    yield _charged_first(site, made, target, system)
    if len(made.faults) > 1:
        yield _second_first(site, made, system)
    for action in _CONDEMNED:
        kind = action_kind(action)
        if action in right or not kind.suits(site.machine) or not ids - set(NOTHING_TO_REPAIR):
            continue
        yield _condemned(site, kind, system)


def _round_kg(kg: float, system: str) -> float:
    """A weight somebody would reach for: whole ounces or tens of grams, on small machines tenths and grams."""
    shown = to_display("mass", kg, system)
    step = {"us": 1.0 if shown > 5.0 else 0.1, "si": 10.0 if shown > 150.0 else 1.0}[system]
    return from_display("mass", round(shown / step) * step, system)


def _row(plan_id: str, text: str, state: CircuitState | None, system: str) -> WrongPlan:
    figures = {} if state is None or state.trip is not None else _figures(state, system)
    trips = None if state is None or state.trip is None else CUTOUTS[state.trip.cutout]
    return WrongPlan(plan=plan_id, text=text, figures=figures, trips=trips)


def _condemned(site: Site, kind: ActionKind, system: str) -> WrongPlan:
    """A part exchanged unproven: the charge is weighed in by the plate, what it does not repair stays."""
    kept = tuple(f for f in site.faults if kind.id not in repaired_by(f) and f.id != "non_condensables")
    state = steady(replace(site, circuit_kg=site.right_kg, faults=kept))
    cost = {"large": "the most expensive part on the machine", "part": "a part"}[kind.money]
    hidden = "; the new charge hides the leak, which is still open" if site.leaking else ""
    text = f"“{kind.name}” would have cost {kind.minutes:.0f} min and {cost}, and {told(state, system)}{hidden}."
    return _row(kind.id, text, state, system)


def _second_first(site: Site, made: Plan, system: str) -> WrongPlan:
    first, second = made.faults[0], made.faults[1]
    state = steady(_without(site, second))
    return _row(
        "second_first",
        f"Repairing “{fault_kind(second.id).name}” before “{fault_kind(first.id).name}” would have "
        f"{told(state, system)}, and those figures still mislead.",
        state,
        system,
    )


def _charged_first(site: Site, made: Plan, target: tuple[float, float] | None, system: str) -> WrongPlan | None:
    """Charging to the target before the rest is repaired, and what repairing the rest then uncovers."""
    others = [
        f for f in made.faults if f.id not in ("undercharge", "overcharge", "long_liquid_line", *NOTHING_TO_REPAIR)
    ]
    if target is None or not others:
        return None
    kg = charge_to_target(site, target[0])
    if kg is None or abs(kg - site.right_kg) < 0.02 * site.right_kg:
        return None
    done = replace(site, circuit_kg=kg)
    for fault in others:
        if any(BY_ID[r].opens for r in repaired_by(fault)[:1]) or fault.id in ("non_condensables", "wrong_refrigerant"):
            return None
        done = _without(done, fault)
    state, off = steady(done), kg - site.right_kg
    word = "too much" if off > 0.0 else "too little"
    text = (
        f"Charging to the target {judged_by(site.machine)} first would have left {weight(abs(off), system)} {word}; "
        f"repairing the rest would then have {told(state, system)}."
    )
    return _row("charged_first", text, state, system)


def charge_to_target(site: Site, target_dk: float) -> float | None:
    """Charge, kg, that brings the judged figure to ``target_dk`` with every fault still there; None where none does."""
    by = judged_by(site.machine)
    rising = by == "subcooling"

    def off(share: float) -> float | None:
        """How far the figure lies beyond its target at a share of the right charge, K; None where nothing runs."""
        state = steady(replace(site, circuit_kg=share * site.right_kg))
        if state is None or state.trip is not None:
            return None
        return state.subcooling_dk - target_dk if rising else target_dk - state.superheat_dk

    low, high = _LEAST, _MAX
    below: float | None = None
    above: float | None = None
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        if below is not None and above is not None:  # nearly straight between them
            middle = low + (high - low) * min(max(below / (below - above), _WITHIN), 1.0 - _WITHIN)
        now = off(middle)
        if now is not None and abs(now) < _ON_TARGET_DK:
            return middle * site.right_kg
        if now > 0.0 if now is not None else middle > 1.0:
            high, above = middle, now
        else:
            low, below = middle, now
    last = 0.5 * (low + high)
    found = off(last)
    return None if found is None or abs(found) > _NEAR_TARGET_DK else last * site.right_kg


def consequence(key: CorrectionKey | None, plan_id: str | None) -> str | None:
    """The sentence of a correction key for a wrong plan, or None; adding to a flooding valve stands for adding."""
    same = ("add_refrigerant", "charge_to_raise_subcooling") if plan_id == "add_refrigerant" else (plan_id,)
    return next((row.text for row in (() if key is None else key.wrong) if row.plan in same), None)


def plan_line(key: CorrectionKey) -> str:
    """The steps of a correction key in one line, what only lets time pass left out."""
    first = "" if key.first is None else key.first.text
    return "; ".join(step.text for step in key.steps if step.action not in _PASSING) or first
