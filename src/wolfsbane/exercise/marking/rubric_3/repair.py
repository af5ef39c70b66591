"""Marking the repair: how much, in which order, and what the readings become; each follows the fault named."""

from __future__ import annotations

from typing import TYPE_CHECKING

from wolfsbane.diagnosis.targets import HIGH, LOW, NORMAL
from wolfsbane.exercise.marking.credit import Credit, exactly, full, none, slip
from wolfsbane.exercise.marking.rubric_3.work import shown
from wolfsbane.exercise.paper.correction import consequence

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.rubric_3.work import Work
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.paper.key import RepairKey

#: steps that do no harm wherever they stand
_HARMLESS = ("settle",)
#: which way a figure goes back to normal
_BACK = {LOW: "up", NORMAL: "same", HIGH: "down"}


def _key(work: Work) -> RepairKey:
    assert work.key.repair is not None, "a call that asks for the repair has its key"
    return work.key.repair


def _other_plan(work: Work) -> tuple[str, ...] | None:
    """Essential steps for the fault that was named, or None where it is the hidden one."""
    if work.chosen is None or work.chosen in work.key.named:
        return None
    return _key(work).plans.get(work.chosen)


def _estimate(work: Work) -> float | None:
    """Weight that the apprentice's own figure asks for by the slope printed on the call, or None."""
    slope, key = _key(work).slope, work.key
    if slope is None:
        return None
    own = work.meant.get(slope.figure, work.own.get(slope.figure, key.figures.get(slope.figure)))
    target = work.own.get("target", key.target) if slope.figure == key.target_of else None
    if own is None or target is None:
        return None
    return (target - own) * slope.per * (1.0 if slope.figure == "subcooling" else -1.0)


def amount(work: Work, question: str) -> Credit:
    """Weight moved: within tolerance of the solved machine, or of the slope given with the apprentice's own figures."""
    key, given = _key(work).amount, work.answers[question].value
    true, tolerance = key.value, key.tolerance * work.rules.widened("amount")
    estimate = _estimate(work) if true and "weigh_in" not in _key(work).steps else None
    ends = [true] if estimate is None or estimate * true <= 0 else [true, estimate]
    said = {"given": shown(given), "expected": shown(true), "unit": key.unit, "tolerance": shown(tolerance)}
    if min(abs(given - a) for a in (true, *key.also)) <= tolerance:
        return full("amount_right", **said)
    if min(ends) - tolerance <= given <= max(ends) + tolerance:
        return full("amount_by_slope", **said)
    other = _other_plan(work)
    if other is not None and _fits(other, given, tolerance):
        return full("amount_follows", **said)
    if true == 0:
        then = consequence(work.key.correction, "add_refrigerant" if given > 0 else "take_refrigerant")
        return none("amount_none_wanted", consequence=then or "", **said)
    if given * true < 0:
        return slip("amount_sign", **said)
    if abs(given) > abs(true):
        return slip("amount_over", consequence=consequence(work.key.correction, "overshoot") or "", **said)
    return slip("amount_under", **said)


def _fits(plan: tuple[str, ...], given: float, tolerance: float) -> bool:
    """Whether a weight has the sign that a plan asks for; how much it would be nobody can know, since nothing is
    missing here.
    """
    if "add" in plan or "weigh_in" in plan:
        return given > 0
    return given < 0 if "remove" in plan else abs(given) <= tolerance


def order(work: Work, question: str) -> Credit:
    """Half for the steps, half for their order; the plan of the fault named counts where that is another one."""
    rows = {row.number: row for row in work.call.choices.order}
    given, points = work.answers[question].value, work.questions[question].points
    unknown = [number for number in given if number not in rows]
    if unknown:
        return none("unknown_step", given=unknown[0], allowed=len(rows))
    named = [rows[number].id for number in given]
    true, other = _key(work).steps, _other_plan(work)
    best = max(
        ((_worth(named, plan), plan is true) for plan in (true, other) if plan is not None),
        key=lambda found: (sum(found[0]), found[1]),
    )
    (complete, ordered), of_true = best
    texts = {row.id: row.text for row in rows.values()}
    said = {"plan": ", then ".join(texts.get(step, step) for step in true)}
    if complete and ordered:
        return full("order_right" if of_true else "order_follows", **said)
    if complete or ordered:
        half = (points + 1) // 2 if points > 1 else 0
        return exactly(half, "order_not_in_order" if complete else "order_not_complete", **said)
    return none("order_wrong", **said)


def _worth(named: list[str], plan: tuple[str, ...]) -> tuple[bool, bool]:
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


def change(work: Work, question: str) -> Credit:
    """Which way a reading goes: as solved, or as it follows from the fault named or the apprentice's own verdict."""
    accepted, given = _key(work).changes[question], work.answers[question].value
    if given in accepted:
        return full("change_right" if given == accepted[0] else "change_edge", expected=accepted[0])
    if given in _followed(work, question):
        return full("change_follows", expected=accepted[0])
    return none("change_wrong", expected=accepted[0])


def _followed(work: Work, question: str) -> set[str]:
    """Changes that follow from another fault named, or from a verdict the apprentice has otherwise than the key."""
    found = set()
    if work.chosen is not None and _other_plan(work) is not None:
        found |= {way for name, way in _key(work).changes_of.get(work.chosen, {}).items() if name == question}
    name = question.removeprefix("after_")
    own = work.answers.get(f"{name}_verdict")
    if own is not None and own.value and own.value != work.key.verdicts.get(name):
        found.add(_BACK[own.value])
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
