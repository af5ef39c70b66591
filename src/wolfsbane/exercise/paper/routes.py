"""How each fault is really put right on paper: the steps a sheet offers, and every legal route through them.

The same steps stand on every sheet of a kind of machine, so that the list tells nothing. A route says which steps are
needed and which must come before which; what it does not say may stand anywhere. Common practice, no source; the
manufacturer's instructions and local codes come first.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations, product
from typing import TYPE_CHECKING

from wolfsbane.acting.actions.repairs import BY_ID, repaired_by
from wolfsbane.acting.plan import NOTHING_TO_REPAIR
from wolfsbane.cycle.faults import fault_kind
from wolfsbane.cycle.instrument_faults import INSTRUMENT_FAULTS
from wolfsbane.exercise.paper.key import Route
from wolfsbane.exercise.paper.wording import fitted
from wolfsbane.exercise.plan.call_kind import kind_of

if TYPE_CHECKING:
    from wolfsbane.cycle.faults.kind import Fault
    from wolfsbane.cycle.machine import Machine

CHARGE_FAULTS = ("undercharge", "overcharge", "long_liquid_line")
ANEW = ("non_condensables", "wrong_refrigerant")
#: id -> wording, in the order in which a key lists them
STEPS = {
    "leave": "Leave the system alone and explain the readings",
    "instrument": "Zero, reseat or exchange the instrument you named, then read again",
    "airflow": "Restore the indoor airflow: filter, coil, blower, ducts",
    "wash": "Wash the condenser from the inside out",
    "dry": "Run it until the condenser is dry",
    "outside": "Correct what you named outside the sealed system: fan, air path, service valve, bulb strap",
    "prove": "Prove the part: pump-down, bulb test, drop across the drier, standing pressure",
    "lock_out": "Stop the unit, lock out, discharge capacitors",
    "recover": "Recover the whole charge into a weighed cylinder",
    "leak": "Find and repair the leak",
    "part": "Repair or replace the part you named, with a new liquid-line drier",
    "pressure_test": "Pressure test with dry nitrogen, soap the joints",
    "evacuate": "Evacuate to 500 microns and watch it hold",
    "weigh_in": "Weigh in the charge by nameplate and line length",
    "remove": "Recover part of the charge into a cylinder on the scale",
    "add": "Add liquid by the scale, in short bursts",
    "settle": "Run 10 to 15 minutes, then read again",
    "close": "Disconnect, caps on, leak check, log the weights",
    "vent": "Crack a hose and let the extra gas out",
    "slug": "Pour liquid into the suction port with the valve wide open",
    "read_charging": "Take the final readings while refrigerant is going in",
}
#: steps that are never right
NEVER = {
    "vent": "Refrigerant is recovered, never vented.",
    "slug": "Liquid fast into the suction slugs the compressor.",
    "read_charging": "Readings taken while refrigerant goes in mean nothing: let it stabilize first.",
}
#: steps that do no harm and cost nothing wherever they stand among others
HARMLESS = ("settle", "prove", "lock_out", "close", "instrument")
#: steps that are work for nothing where they are not needed, and do no harm
NEEDLESS = ("airflow", "wash", "dry", "outside", "leak", "pressure_test", "evacuate")
_MEND = {"dirty_condenser": "wash", "water_condenser_fouled": "wash", "low_airflow": "airflow"}
#: parts that are proved before the circuit is opened for them
PROVED = (
    "leaking_compressor_valves",
    "compressor_not_pumping",
    "valve_overfeeding",
    "valve_underfeeding",
    "reversing_valve_leak",
    "non_condensables",
)


def step_text(step: str, machine: Machine) -> str:
    """Wording of a step on paper for this machine."""
    return fitted(kind_of(machine).steps.get(step, STEPS[step]), machine.metering)


def offered_steps(machine: Machine) -> tuple[str, ...]:
    """Ids of the steps a sheet offers for ``machine``: the same for every machine of a kind."""
    return tuple(step for step in STEPS if step not in kind_of(machine).no_steps)


def _chain(*steps: str) -> tuple[tuple[str, str], ...]:
    """Every step before all that come after it, so that one left out breaks nothing."""
    return tuple(combinations(steps, 2))


def _route(needed: tuple[str, ...], before: tuple[tuple[str, str], ...], allowed: tuple[str, ...] = ()) -> Route:
    return Route(needed=needed, before=before, allowed=allowed)


def _opened(part: str | None, proved: bool, evacuated: bool = True) -> Route:
    """The circuit is opened: everything comes out, is made tight and dry, and goes back in by weight.

    Nitrogen before the vacuum is needed only where something was unbrazed.
    """
    work = (part, "pressure_test") if part else ()
    vacuum = ("evacuate",) if evacuated else ()
    steps = (*(("prove",) if proved else ()), "recover", *work, *vacuum, "weigh_in", "settle", "close")
    order = ("prove", "recover", *(work or ("pressure_test",)), "evacuate", "weigh_in", "settle", "close")
    before = (*_chain(*order), *(() if part is None else (("lock_out", part),)))
    return _route(steps, before, tuple(s for s in ("lock_out", "prove", "pressure_test", "evacuate") if s not in steps))


def _one(fault: Fault, tested: bool, sealed: bool) -> tuple[Route, ...]:
    """Every legal route for one fault, the plainest first; ``tested`` where its test is given with the call, ``sealed``
    where the charge can only be weighed in whole.
    """
    if fault.id in INSTRUMENT_FAULTS:
        return (_route(("instrument",), _chain("instrument", "settle", "close"), ("settle", "close")),)
    if fault.id in NOTHING_TO_REPAIR:
        return (_route(("leave",), ()),)
    if fault.id == "undercharge":
        leaks = fault_kind(fault.id).cause(fault.cause).id == "leak"
        order = _chain("leak", "add", "settle", "close")
        top_up = _route(
            ("leak", "add", "settle", "close") if leaks else ("add", "settle", "close"),
            order,
            ("leak", "lock_out", "prove", "pressure_test"),
        )
        whole = _opened("leak" if leaks else None, proved=False, evacuated=leaks)
        whole = whole if leaks else replace(whole, allowed=(*whole.allowed, "leak"))
        return (whole,) if sealed else (top_up, whole)
    if fault.id == "overcharge":
        partly = _route(("remove", "settle", "close"), _chain("remove", "settle", "close"), ("prove",))
        whole = _opened(None, proved=False, evacuated=False)
        return (whole,) if sealed else (partly, whole)
    if fault.id == "long_liquid_line":
        return (_route(("add", "settle", "close"), _chain("add", "settle", "close"), ("prove", "leak")),)
    if fault.id in ANEW:
        return (_opened(None, proved=fault.id in PROVED and not tested),)
    if fault.id == "wet_condenser":
        return (_route(("dry", "settle"), _chain("dry", "settle"), ("close",)),)
    causes = fault_kind(fault.id).causes
    kinds = [BY_ID[r] for c in causes for r in repaired_by(replace(fault, cause=c.id))]
    found = []
    if any(not k.opens for k in kinds):
        step = _MEND.get(fault.id, "outside")
        extra = ("dry",) if step == "wash" else ()
        found.append(
            _route(
                (step, "settle"),
                ((step, "settle"), (step, "dry"), ("lock_out", step)),
                ("lock_out", "prove", "close", *extra),
            )
        )
    if any(k.opens for k in kinds):
        opened = _opened("part", proved=fault.id in PROVED and not tested)
        if found:  # a bulb is strapped before a valve is condemned: who does both has done nothing wrong
            opened = replace(
                opened, before=(*opened.before, ("outside", "recover")), allowed=(*opened.allowed, "outside")
            )
        found.append(opened)
    return tuple(found)


#: what changes the machine, in a sequence of two repairs; the rest frames it
_FRAME = ("prove", "lock_out", "recover", "pressure_test", "evacuate", "settle", "close")


def _together(first: Route, then: Route) -> Route:
    """Two repairs on one machine, the first done before the second; one charge goes in where it is opened at all."""
    needed = set(first.needed) | set(then.needed)
    before = set(first.before) | set(then.before)
    if "weigh_in" in needed:
        needed -= {"add", "remove"}
        before |= {(s, "weigh_in") for s in needed - {"weigh_in", "settle", "close"}}
    work = [s for s in first.needed if s in needed and s not in (*_FRAME, "weigh_in")]
    before |= {(a, b) for a in work for b in then.needed if b in needed and b not in (*_FRAME, *first.needed)}
    before |= {(s, "settle") for s in needed if s not in _FRAME}
    before = {(a, b) for a, b in before if a != b and (b, a) not in before or (a, b) in first.before}
    allowed = tuple(a for a in dict.fromkeys((*first.allowed, *then.allowed)) if a not in needed)
    return Route(needed=tuple(s for s in STEPS if s in needed), before=tuple(sorted(before)), allowed=allowed)


def _tested(fault: Fault, tests: tuple[str, ...]) -> bool:
    """Whether a test that proves a fault is given with the call."""
    return fault.id not in INSTRUMENT_FAULTS and bool(set(tests) & set(fault_kind(fault.id).tests))


def routes(faults: tuple[Fault, ...], tests: tuple[str, ...] = (), sealed: bool = False) -> tuple[Route, ...]:
    """Every legal route for ``faults`` in the order they are repaired, the plainest first; ``tests`` are looks and
    tests given with the call, which need not be made again. A ``sealed`` circuit is never topped off or trimmed: what
    is in it cannot be judged, so it comes out and is weighed in (common practice, no source).
    """
    if not faults:
        return (_route(("leave",), ()),)
    each = [_one(fault, _tested(fault, tests), sealed) for fault in faults]
    if len(each) == 1:
        return each[0]
    found = []
    for combination in product(*each):
        made = combination[0]
        for more in combination[1:]:
            made = _together(made, more)
        found.append(made)
    return tuple(dict.fromkeys(found))


def listed(route: Route) -> tuple[str, ...]:
    """One sequence of a route's needed steps that keeps its order."""
    left, done = [s for s in STEPS if s in route.needed], []
    while left:
        free = [s for s in left if not any(b == s and a in left for a, b in route.before)]
        done.append((free or left)[0])
        left.remove(done[-1])
    return tuple(done)
