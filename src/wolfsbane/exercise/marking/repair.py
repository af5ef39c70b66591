"""Marking the repair: how much, in which order, and what the readings become.

A plan follows a right conclusion, or one that follows from an apprentice's own wrong figures. Every legal route is a
full answer; what harms the machine or somebody costs the plan and is told with what it would have led to.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import TYPE_CHECKING

from wolfsbane.cycle.field_tests.running import BUBBLES
from wolfsbane.diagnosis.targets import GLASS, HIGH, LOW, NORMAL
from wolfsbane.exercise.marking.conclusion import no_plan
from wolfsbane.exercise.marking.credit import Credit, exactly, full, none, slip
from wolfsbane.exercise.marking.work import EPSILON, Conclusion, near, shown
from wolfsbane.exercise.paper.correction import consequence
from wolfsbane.exercise.paper.routes import HARMLESS, NEEDLESS, NEVER

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.work import Work
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.paper.key import ChargeChart, ChargePoint, RepairKey, Route

#: which way a figure goes back to normal
_BACK = {LOW: "up", NORMAL: "same", HIGH: "down"}
#: faults that hide what the charge really is: nothing is taken out or added before they are put right
_DIRTY = ("dirty_condenser", "low_airflow", "condenser_fan_weak", "condenser_recirculation", "wet_condenser")
_COMPRESSORS = ("leaking_compressor_valves", "compressor_not_pumping")
#: with less superheat than this nobody charges on: liquid is on its way to the compressor (common practice, no source)
_FLOODING = {"us": 5.0, "si": 5.0 / 1.8}


def _key(work: Work) -> RepairKey:
    assert work.key.repair is not None, "a call that asks for the repair has its key"
    return work.key.repair


def _follows(work: Work) -> str | None:
    """The fault whose plan counts because it follows from the apprentice's own figures, or None: the machine's own."""
    if work.chosen is None or work.chosen in work.key.named:
        return None
    open_to = work.conclusion is Conclusion.FOLLOWS or (
        work.conclusion is Conclusion.RIGHT and work.chosen in (*work.key.also_open, *work.rules.accepted("fault"))
    )
    return work.chosen if open_to and work.chosen in _key(work).routes_of else None


def _ends(work: Work) -> tuple[float, float]:
    """The least and the most weight that leave the repaired machine on its target."""
    key = _key(work).amount
    low = key.value - key.tolerance if key.low is None else key.low
    high = key.value + key.tolerance if key.high is None else key.high
    wide = (work.rules.widened("amount") - 1.0) * 0.5 * (high - low)
    return low - wide, high + wide


def _own_amounts(work: Work) -> list[float]:
    """Weights that the apprentice's own wrong figures ask for by the charge chart on the page; none where they are the
    machine's.
    """
    chart, found = _key(work).chart, list[float]()
    if chart is None or _key(work).amount.value == 0.0:
        return found
    for name in ("superheat", "subcooling"):
        own = work.meant.get(name, work.behind(name))
        if own is None or near(own, work.key.figures[name], work.tolerance("sum")):
            continue
        now = _charge_at(chart, name, own)
        if now is not None:
            found.append(_key(work).amount.charge - now)
    own_target, target, figure = work.target(), work.key.target, work.key.target_of
    if own_target is None or target is None or figure is None:
        return found
    if not near(own_target, target, work.tolerance("sum")):
        aimed, now = (_charge_at(chart, figure, v) for v in (own_target, work.key.figures[figure]))
        if aimed is not None and now is not None:
            found.append(aimed - now)
    return found


def _charge_at(chart: ChargeChart, figure: str, value: float) -> float | None:
    """The charge at which the chart shows ``value`` of a figure, or None where it shows it nowhere."""
    column = 1 if figure == "superheat" else 2
    for a, b in pairwise(chart.points):
        low, high = sorted((a[column], b[column]))
        if low - EPSILON <= value <= high + EPSILON and high - low > EPSILON:
            return a[0] + (value - a[column]) / (b[column] - a[column]) * (b[0] - a[0])
    return None


def _at(curve: tuple[ChargePoint, ...], moved: float) -> ChargePoint | None:
    """The point of the solved curve at a weight, or None where it lies off the curve."""
    for a, b in pairwise(curve):
        if a.moved <= moved <= b.moved:
            share = (moved - a.moved) / max(b.moved - a.moved, EPSILON)
            return replace(
                a,
                moved=moved,
                superheat=a.superheat + share * (b.superheat - a.superheat),
                subcooling=a.subcooling + share * (b.subcooling - a.subcooling),
                flash=a.flash + share * (b.flash - a.flash),
                trips=a.trips or b.trips,
            )
    return None


def _leads_to(work: Work, given: float) -> str:
    """What the repaired machine would show with this weight, from the solved curve in the key."""
    point, unit = _at(_key(work).amount.curve, given), "°F" if work.call.units == "us" else "K"
    if point is None:
        return "That is far off the charge this machine runs on."
    if point.trips:
        return "It would not stay on with that much."
    superheat = f"{shown(point.superheat)} {unit} superheat"
    if "subcooling" in work.key.bands:
        return f"It would stand at about {shown(point.subcooling)} {unit} subcooling and {superheat}."
    glass = (
        ""
        if GLASS not in work.key.verdicts
        else " with bubbles"
        if point.flash > 100.0 * BUBBLES
        else " with a clear glass"
    )
    return f"It would stand at about {superheat}{glass}."


def _floods(work: Work, given: float) -> bool:
    """Whether the repaired machine floods or trips with this weight, by the solved curve in the key."""
    point = _at(_key(work).amount.curve, given)
    return point is None or point.trips or point.superheat < _FLOODING[work.call.units]


def _overfull(work: Work) -> bool:
    """Whether the machine as found is overfull or floods, so that more refrigerant harms it; who concludes from their
    own wrong figures cannot see it.
    """
    if _follows(work) is not None:
        return False
    floods = work.key.figures["superheat"] < _FLOODING[work.call.units]
    return "overcharge" in work.key.faults or (floods and "undercharge" not in work.key.faults)


def amount(work: Work, question: str) -> Credit:
    """Weight moved: right where it leaves the repaired machine on its target without flooding."""
    key, given = _key(work).amount, work.answers[question].value
    true, (low, high) = key.value, _ends(work)
    right = low - EPSILON <= given <= high + EPSILON
    whole = any(near(given, one, key.tolerance) for one in key.also) and "weigh_in" in _named(work)
    stopped = no_plan(work, question, right or whole)
    if given > high and not whole and _overfull(work):
        work.unsafe.append("adding to a machine that is overfull or floods")
        stopped = none("amount_harms", consequence=consequence(work.key.correction, "add_refrigerant") or "")
    if stopped is not None:
        return stopped
    said = {"given": shown(given), "expected": shown(true), "unit": key.unit, "low": shown(low), "high": shown(high)}
    if right or whole:
        return full("amount_right" if right else "amount_whole", **said)
    other = _follows(work)
    if other is not None and any(_fits(route, given, key.tolerance) for route in _key(work).routes_of[other]):
        return full("amount_follows", **said)
    if any(near(given, own, 0.5 * (high - low)) for own in _own_amounts(work)):
        return full("amount_by_own", **said)
    if low <= 0.0 <= high:
        then = consequence(work.key.correction, "add_refrigerant" if given > 0 else "take_refrigerant")
        return none("amount_none_wanted", consequence=then or _leads_to(work, given), **said)
    said["consequence"] = _leads_to(work, given)
    if given * true < 0:
        return slip("amount_sign", **said)
    if given > high and _floods(work, given):
        return none("amount_floods", **said)
    return slip("amount_over" if abs(given) > abs(true) else "amount_short", **said)


def _fits(route: Route, given: float, tolerance: float) -> bool:
    """Whether a weight has the sign that a route asks for; how much it would be nobody can know, since nothing is
    missing here.
    """
    if "add" in route.needed:
        return given > 0
    if "remove" in route.needed:
        return given < 0
    return "weigh_in" in route.needed or near(given, 0.0, tolerance)


def _named(work: Work) -> list[str]:
    """Ids of the steps written, in the order written; what is no step left out."""
    rows = {row.number: row.id for row in work.call.choices.order}
    return [rows[number] for number in work.answers["order"].value or () if number in rows]


def _harm(work: Work, named: list[str]) -> list[str]:
    """What the steps written would do to the machine or to somebody, as sentences."""
    key, found = work.key, [NEVER[step] for step in named if step in NEVER]
    first = {step: named.index(step) for step in dict.fromkeys(named)}
    opened = min((first[s] for s in ("part", "evacuate") if s in first), default=None)
    if opened is not None and first.get("recover", 99) > opened:
        found.append("The circuit is opened with its charge still in it: recover first.")
    charged = min((first[s] for s in ("add", "weigh_in") if s in first), default=None)
    leaks = _follows(work) is None and any("leak" in route.needed for route in _key(work).routes)
    if charged is not None and leaks and first.get("leak", 99) > charged:
        found.append("The leak is still open: what goes in comes out again.")
    told = consequence(key.correction, "add_refrigerant") or ""
    if "add" in first and _overfull(work):
        found.append(f"More refrigerant goes into a machine that is overfull or floods. {told}".strip())
    dirty = [f for f in key.faults if f in _DIRTY]
    if "remove" in first and dirty and "overcharge" not in key.faults and _follows(work) is None:
        told = consequence(key.correction, "take_refrigerant") or ""
        found.append(f"Refrigerant is taken out to lower a head that dirt or air raises. {told}".strip())
    unproven = work.chosen in _COMPRESSORS and "part" in first and first.get("prove", 99) > first["part"]
    if unproven and any("prove" in route.needed for route in _key(work).routes_of.get(str(work.chosen), ())):
        found.append("A compressor is condemned without the test that proves it.")
    return list(dict.fromkeys(found))


def order(work: Work, question: str) -> Credit:
    """Every legal route in an order that works; half for the steps out of order, or with one needless, harmless one."""
    rows = {row.number: row for row in work.call.choices.order}
    given, points = work.answers[question].value, work.questions[question].points
    unknown = [number for number in given if number not in rows]
    if unknown:
        return none("unknown_step", given=unknown[0], allowed=len(rows))
    named = _named(work)
    harm = _harm(work, named)
    work.unsafe += harm
    own, other = _key(work).routes, _follows(work)
    ways = [(route, True) for route in own]
    ways += [(route, False) for route in (() if other is None else _key(work).routes_of[other])]
    texts = {row.id: row.text for row in rows.values()}
    said = {"plan": ", then ".join(texts.get(step, step) for step in _key(work).steps)}
    best, of_true = max(((_worth(named, route), true) for route, true in ways), key=lambda found: (found[0], found[1]))
    if harm:
        return none("order_harms", harm=" ".join(harm), **said)
    stopped = no_plan(work, question, best == _ALL)
    if stopped is not None:
        return stopped
    if best == _ALL:
        return full("order_right" if of_true else "order_follows", **said)
    if best > 0:
        code = {_NEEDLESS: "order_needless", _UNORDERED: "order_not_in_order"}.get(best, "order_not_complete")
        return exactly(points // 2, code, **said)
    return none("order_wrong", **said)


#: how well a sequence does against a route; each of the middle three earns half
_ALL, _NEEDLESS, _UNORDERED, _PART = 4, 3, 2, 1


def _worth(named: list[str], route: Route) -> int:
    """How well the steps named do: all; one needless step too many; all, not in order; most, in order; or nothing."""
    needed, known = set(route.needed), {*route.needed, *route.allowed, *HARMLESS}
    needless = [s for s in dict.fromkeys(named) if s not in known]
    complete, ordered = needed <= set(named), _in_order(named, route)
    if complete and not needless:
        return _ALL if ordered else _UNORDERED
    if complete and ordered and len(needless) == 1 and needless[0] in NEEDLESS:
        return _NEEDLESS
    real = [s for s in route.needed if s not in HARMLESS]
    kept = [s for s in real if s in named]
    return _PART if ordered and not needless and real and kept and 2 * len(kept) >= len(real) else 0


def _in_order(named: list[str], route: Route) -> bool:
    """Whether every pair that must stand in order does; a step written twice may do it either time."""
    first = {step: named.index(step) for step in named}
    last = {step: len(named) - 1 - named[::-1].index(step) for step in named}
    return all(first[a] < last[b] for a, b in route.before if a in first and b in last)


def change(work: Work, question: str) -> Credit:
    """Which way a reading goes: as solved, or as it follows from the fault named or the apprentice's own figure."""
    accepted, given = _key(work).changes[question], work.answers[question].value
    stopped = no_plan(work, question, given in accepted)
    if stopped is not None:
        return stopped
    if given in accepted:
        return full("change_right" if given == accepted[0] else "change_edge", expected=accepted[0])
    if given in _followed(work, question):
        return full("change_follows", expected=accepted[0])
    return none("change_wrong", expected=accepted[0])


def _followed(work: Work, question: str) -> set[str]:
    """Changes that follow from another fault named, or from a figure the apprentice has otherwise than the key."""
    found, other = set(), _follows(work)
    if other is not None:
        found |= {way for name, way in _key(work).changes_of.get(other, {}).items() if name == question}
    name = question.removeprefix("after_")
    if name in work.key.verdicts and work.key.verdicts[name] not in work.accepted(name):
        found |= {_BACK[verdict] for verdict in work.accepted(name)}
    return found


def repair_answers(call: Call) -> dict[str, str]:
    """The key of the repair as an apprentice would write it."""
    if call.key.repair is None:
        return {}
    key, value = call.key.repair, call.key.repair.amount.value
    return {
        "amount": f"{value:+g}" if value else "0",
        "order": " ".join(str(call.choices.number(step)) for step in key.steps),
        **{question: ways[0] for question, ways in key.changes.items()},
    }
