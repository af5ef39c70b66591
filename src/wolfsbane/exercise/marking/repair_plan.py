"""Marking the correction: how much, in which order, and what the readings become;
each follows the fault an apprentice named.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.exercise.paper.correction import consequence

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.grading import _Marker
    from wolfsbane.exercise.paper.call import Call

_MOVED = ("add", "remove", "weigh_in")
#: steps that do no harm wherever they stand
_HARMLESS = ("settle",)


def _n(value: float) -> str:
    return f"{value:.1f}".removesuffix(".0").replace("-", "−")


def _plan_for(marker: _Marker, chosen: str | None) -> tuple[list[str], list[str] | None]:
    """(essential steps of the planted faults, of the fault named or None where it is the planted one)."""
    key = marker.key
    other = key["plans"].get(chosen) if chosen and chosen not in (key["faults"] or [key["fault"]]) else None
    return key["steps"], other


def _estimate(marker: _Marker) -> float | None:
    """Weight that the apprentice's own figure asks for by the slope printed on the call, or None."""
    slope, key = marker.key["slope"], marker.key
    if not slope:
        return None
    own = marker.meant.get(slope["figure"], marker.own.get(slope["figure"], key["figures"].get(slope["figure"])))
    target = marker.own.get("target", key["target"]) if slope["figure"] == key["target_of"] else None
    if own is None or target is None:
        return None
    return (target - own) * slope["per"] * (1.0 if slope["figure"] == "subcooling" else -1.0)


def amount(marker: _Marker, chosen: str | None) -> None:
    """Weight moved: within tolerance of the solved machine, or of the slope given with the apprentice's own figures."""
    if not marker.readable("amount"):
        return
    key, given = marker.key["amount"], marker.answers["amount"].value
    true, tolerance = key["value"], key["tolerance"] * marker.rules.widened("amount")
    estimate = _estimate(marker) if true and "weigh_in" not in marker.key["steps"] else None
    ends = [true] if estimate is None or estimate * true <= 0 else [true, estimate]
    said = {"given": _n(given), "expected": _n(true), "unit": key["unit"], "tolerance": _n(tolerance)}
    if min(abs(given - a) for a in (true, *key["also"])) <= tolerance:
        marker.give("amount", True, "amount_right", **said)
        return
    if min(ends) - tolerance <= given <= max(ends) + tolerance:
        marker.give("amount", True, "amount_by_slope", **said)
        return
    _, other = _plan_for(marker, chosen)
    if other is not None and _fits(other, given, tolerance):
        marker.give("amount", True, "amount_follows", **said)
        return
    if true == 0:
        then = consequence(marker.key.get("correction"), "add_refrigerant" if given > 0 else "take_refrigerant")
        marker.give("amount", False, "amount_none_wanted", consequence=then or "", **said)
    elif given * true < 0:
        marker.give("amount", None, "amount_sign", **said)
    elif abs(given) > abs(true):
        then = consequence(marker.key.get("correction"), "overshoot")
        marker.give("amount", None, "amount_over", consequence=then or "", **said)
    else:
        marker.give("amount", None, "amount_under", **said)


def _fits(plan: list[str], given: float, tolerance: float) -> bool:
    """Whether a weight has the sign that a plan asks for; how much it would be nobody can know,
    since nothing is missing here.
    """
    if "add" in plan or "weigh_in" in plan:
        return given > 0
    return given < 0 if "remove" in plan else abs(given) <= tolerance


def order(marker: _Marker, chosen: str | None) -> None:
    """Half for the steps, half for their order; the plan of the fault named counts where that is another one."""
    if not marker.readable("order"):
        return
    rows = {row["number"]: row["id"] for row in marker.call.choices["order"]}
    given, points = marker.answers["order"].value, marker.questions["order"]["points"]
    unknown = [number for number in given if number not in rows]
    if unknown:
        marker.give("order", False, "unknown_step", given=unknown[0], allowed=len(rows))
        return
    named = [rows[number] for number in given]
    true, other = _plan_for(marker, chosen)
    best = max(
        ((_worth(named, plan), plan is true) for plan in (true, other) if plan is not None),
        key=lambda r: (sum(r[0]), r[1]),
    )
    (complete, ordered), of_true = best
    text = ", then ".join(_text(marker, step) for step in true)
    if complete and ordered:
        marker.give("order", True, "order_right" if of_true else "order_follows", plan=text)
    elif complete or ordered:
        marker.give(
            "order",
            (points + 1) // 2 if points > 1 else 0,
            "order_not_in_order" if complete else "order_not_complete",
            plan=text,
        )
    else:
        marker.give("order", False, "order_wrong", plan=text)


def _worth(named: list[str], plan: list[str]) -> tuple[bool, bool]:
    """(all needed and nothing harmful, at least half of them in the right order) of named steps against a plan."""
    needed = [s for s in plan if s not in _HARMLESS]
    harmful = [s for s in named if s not in plan and s not in _HARMLESS]
    kept = [s for s in named if s in needed]
    complete = set(kept) == set(needed) and not harmful and ("settle" not in plan or "settle" in named)
    wanted = [s for s in needed if s in kept]
    ordered = bool(kept) and kept == wanted and 2 * len(kept) >= len(needed) and not harmful
    if complete and "settle" in plan:
        ordered = ordered and named.index("settle") > named.index(needed[0])
    return complete, ordered


def _text(marker: _Marker, step_id: str) -> str:
    return next((row["text"] for row in marker.call.choices["order"] if row["id"] == step_id), step_id)


def changes(marker: _Marker, chosen: str | None) -> None:
    """Which way suction, head, superheat and subcooling go:
    as solved, or as it follows from the fault named or the own verdict.
    """
    key = marker.key
    _, other = _plan_for(marker, chosen)
    for question, accepted in key["changes"].items():
        if not marker.readable(question):
            continue
        given = marker.answers[question].value
        if given in accepted:
            marker.give(question, True, "change_right" if given == accepted[0] else "change_edge", expected=accepted[0])
        elif given in _followed(marker, question, chosen if other is not None else None):
            marker.give(question, True, "change_follows", expected=accepted[0])
        else:
            marker.give(question, False, "change_wrong", expected=accepted[0])


def _followed(marker: _Marker, question: str, chosen: str | None) -> set[str]:
    """Changes that follow from another fault named, or from a verdict the apprentice has otherwise than the key."""
    found = set()
    if chosen and question in marker.key["changes_of"].get(chosen, {}):
        found.add(marker.key["changes_of"][chosen][question])
    name = question.removeprefix("after_")
    own = marker.answers.get(f"{name}_verdict")
    if own is not None and own.value and own.value != marker.key["verdicts"].get(name):
        found.add({"low": "up", "right": "same", "high": "down"}[own.value])
    return found


def plan_answers(call: Call) -> dict[str, str]:
    """The key of the correction as an apprentice would write it."""
    key, number = call.key, {row["id"]: row["number"] for row in call.choices["order"]}
    value = key["amount"]["value"]
    return {
        "amount": f"{value:+g}" if value else "0",
        "order": " ".join(str(number[s]) for s in key["steps"]),
        **{question: ways[0] for question, ways in key["changes"].items()},
    }
