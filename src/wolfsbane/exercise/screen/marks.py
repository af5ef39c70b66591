"""Marks of a run by its path: what was read and worked out, what spoke for the answer when it was named, what the way
to it cost, the work, the harm, the proof. Own readings carry on, as on paper.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wolfsbane.acting.actions import action_kind
from wolfsbane.acting.plan import NOTHING_TO_REPAIR
from wolfsbane.cycle.errors import BadInputError
from wolfsbane.cycle.faults import NONE
from wolfsbane.cycle.instrument_faults import of_machine
from wolfsbane.cycle.instruments import label, tool_for
from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.exercise.draw.rig import measured_call
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.marking.grade import grade, perfect_answers
from wolfsbane.exercise.marking.work import ASKED
from wolfsbane.exercise.screen.evidence import seen, weighed, weight_of
from wolfsbane.exercise.screen.expert import essential, proofs
from wolfsbane.exercise.screen.live import faults_now

if TYPE_CHECKING:
    from wolfsbane.exercise.marking.credit import Mark
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.exercise.screen.issue import Issue
    from wolfsbane.exercise.screen.live import Live
    from wolfsbane.exercise.screen.run import Run, Typed
    from wolfsbane.exercise.screen.shown import Shown

RUBRIC_VERSION = "1"
RUBRIC = {"readings": 14, "figures": 20, "fault": 18, "evidence": 14, "economy": 14, "work": 10, "proof": 10}
PART_NAMES = {
    "readings": "Readings",
    "figures": "Figures, low or high",
    "fault": "What is wrong",
    "evidence": "Proved before it was named",
    "economy": "No needless minutes and tests",
    "work": "Put right",
    "proof": "Proved, closed up, written down",
}
#: what the rubric says, part by part
LINES = (
    ("Readings 14", "Each reading that counts here, typed as the instrument showed it: gauges zeroed and on the right "
     "ports, clamp on clean pipe, machine settled."),
    ("Figures 20", "Superheat, subcooling and the rest from your own readings, and low, normal or high: as on paper."),
    ("What is wrong 18", "The fault named; a quarter where nothing you saw by then speaks for it."),
    ("Proved 14", "How far what you had seen when you named it leaves one answer."),
    ("Minutes 14", "In full up to 1.25 times the expert's minutes to that point, nothing from 2.5 times on; a test "
     "that is dangerous and told nothing costs 2. Only where the answer was proved."),
    ("Put right 10", "The machine as it should be, nothing temporary left; a part nobody proved bad costs half."),
    ("Proof 10", "Settled, read again and typed 6, hoses off 2, a ticket that says what was done 2."),
    ("Harm", "A step that harms people, machine or air: nothing for work and proof, and 10 off."),
    ("Hints", "The first costs 3, the second 4, each further one 6."),
)  # fmt: skip
_HINTS, _MORE_HINT = (3, 4), 6
_HARM = 10
#: belief in the right answer: below the first nothing was proved, from the second on all
_UNPROVED, _PROVED = 0.35, 0.85
#: minutes over the expert's: full up to the first, nothing from the second on
_QUICK, _SLOW = 1.25, 2.5
#: dangerous tests: one that told nothing costs
_DANGEROUS, _NEEDLESS = ("pump_down", "bulb_chilled", "orifice"), 2
_TOLD = 0.02
_UNITS = {"us": {"pressure": "psig", "temperature": "°F"}, "si": {"pressure": "kPa", "temperature": "°C"}}
_TICKET_WORDS = 3


@dataclass(frozen=True, kw_only=True)
class PathMark:
    """Marks of one part: ``earned`` of ``points``, with each reason in words."""

    part: str
    points: int
    earned: int
    reasons: tuple[str, ...]

    @property
    def name(self) -> str:
        """What the part is called."""
        return PART_NAMES[self.part]


@dataclass(frozen=True, kw_only=True)
class Marked:
    """A run marked: the parts, what was taken off for harm and hints, and the marks of the questions behind it.
    ``belief`` is how much spoke for the right answer when it was named.
    """

    parts: tuple[PathMark, ...]
    off: int
    off_for: tuple[str, ...]
    questions: tuple[Mark, ...]
    belief: float

    @property
    def possible(self) -> int:
        """Points to be had."""
        return sum(p.points for p in self.parts)

    @property
    def earned(self) -> int:
        """Points earned, never below nothing."""
        return max(sum(p.earned for p in self.parts) - self.off, 0)


def marked(
    issue: Issue, run: Run, live: Live, expert_minutes: float, rubric: Mapping[str, int] | None = None
) -> Marked:
    """Mark a run as far as it went; ``live`` is the machine as it stands at its end, ``expert_minutes`` those an expert
    needs until the fault is named.
    """
    worth = dict(RUBRIC if rubric is None else rubric)
    setup, practice = issue.setup, issue.practice
    found = weighed(seen(setup.machine, run.before, setup.system), practice)
    belief = weight_of(found, issue.accepted) if _enough(issue, run) else 0.0
    questions = tuple(_questions(issue, run))
    fault = next((m for m in questions if m.question == "fault"), None)
    named_right = fault is not None and fault.points > 0 and fault.earned == fault.points
    proved = min(max((belief - _UNPROVED) / (_PROVED - _UNPROVED), 0.0), 1.0)
    harm = list(dict.fromkeys(h for s in run.shown for h in s.harm))
    rows = {
        "readings": _readings(issue, run),
        "figures": _figures(questions),
        "fault": _fault(fault, proved),
        "evidence": _evidence(run, proved, belief, right=named_right),
        "economy": _economy(issue, run, expert_minutes, proved if named_right else 0.0),
        "work": _work(issue, run, live, named_right and proved > 0.0, harm),
        "proof": _proof(issue, run, live, named_right and proved > 0.0, harm),
    }
    parts = tuple(
        PathMark(
            part=part, points=worth[part], earned=round(share * worth[part]), reasons=tuple(dict.fromkeys(reasons))
        )
        for part, (share, reasons) in rows.items()
    )
    costs = [*_HINTS, *[_MORE_HINT] * run.hints][: run.hints]
    off_for = [f"{h} −{_HARM}" if n == 0 else h for n, h in enumerate(harm)]
    off_for += [f"{run.hints} hint{'s' if run.hints > 1 else ''} −{sum(costs)}"] if costs else []
    return Marked(
        parts=parts,
        off=(_HARM if harm else 0) + sum(costs),
        off_for=tuple(off_for),
        questions=questions,
        belief=belief,
    )


def _enough(issue: Issue, run: Run) -> bool:
    """Whether at least half of the readings that count were taken: a look alone proves nothing."""
    there = essential(issue.setup)
    taken = {s.data["point"] for s in run.before if s.kind == "read" and not s.refused}
    return not there or len(taken & set(there)) >= 0.5 * len(there)


def number_of(text: str, point: str, kit: str, system: str) -> float | None:
    """A typed reading as a number in the call's units, None where it is none."""
    kind = tool_for(point, kit).kind
    value = parse(kind, text, _UNITS[system].get(kind)).value
    return float(value) if isinstance(value, (int, float)) else None


def _right(issue: Issue, point: str, typed: Typed) -> str:
    """ "" where a typed reading is what the instrument showed, where it should sit and stand still; else why not."""
    setup = issue.setup
    name, kit = label(point, setup.machine), setup.kit
    if typed.shown is None or typed.shown.reading is None:
        return f"{name}: typed before the instrument was read."
    value = number_of(typed.text, point, kit, setup.system)
    shown, tool = typed.shown.reading["value"], tool_for(point, kit)
    near = max(tool.resolution[setup.system], tool.tolerance_us * (1.0 if setup.system == "us" else 0.6))
    if tool.kind == "pressure" and setup.system == "si":
        near = max(tool.resolution["si"], tool.tolerance_us * 6.9)
    if value is None:
        return f"{name}: no number."
    if abs(value - shown) > near:
        return f"{name}: you typed {value:g}, it showed {shown:g}."
    if not typed.shown.fair:
        return f"{name}: the hose or clamp does not sit where it should."
    return "" if typed.shown.still else f"{name}: read before the machine had settled."


def _readings(issue: Issue, run: Run) -> tuple[float, list[str]]:
    wanted = essential(issue.setup)
    why = []
    for point in wanted:
        typed = run.typed.get(point)
        said = f"{label(point, issue.machine)}: not read." if typed is None else _right(issue, point, typed)
        why += [said] if said else []
    zeroed = any(s.kind == "zero" and not s.refused for s in run.before)
    gauges = any(s.kind == "gauges" and not s.refused for s in run.before)
    share = (len(wanted) - len(why)) / len(wanted) if wanted else 0.0
    if gauges and not zeroed:
        return 0.75 * share, [*why, "The gauges were not zeroed."]
    return share, why


def _questions(issue: Issue, run: Run) -> list[Mark]:
    """The call's own questions marked against what the student's own instruments showed them."""
    return [m for m in grade(_own_call(issue, run), run.answers) if on_screen(m.question)]


def _own_call(issue: Issue, run: Run) -> Call:
    """The call as its readings were typed."""
    call, setup = issue.call, issue.setup
    values = {}
    for point, printed in call.readings.items():
        typed = run.typed.get(point)
        own = None if typed is None else number_of(typed.text, point, setup.kit, setup.system)
        values[point] = printed.value if own is None else own
    try:
        return measured_call(call, issue.machine, issue.practice, values)
    except BadInputError:
        # a typed number lies off the chart: what was printed stands in
        return measured_call(call, issue.machine, issue.practice, {p: r.value for p, r in call.readings.items()})


def worked_out(issue: Issue, run: Run) -> dict[str, str]:
    """Every question asked on screen, answered from the readings that were typed as the key would answer it."""
    found = perfect_answers(_own_call(issue, run))
    return {question: text for question, text in found.items() if on_screen(question)}


def on_screen(question: str) -> bool:
    """Whether a question of a call is asked on screen: what is done about it is done, not asked."""
    return question in (*SATURATIONS, *ASKED, "target", "fault", "evidence") or question.endswith("_verdict")


def _figures(questions: tuple[Mark, ...]) -> tuple[float, list[str]]:
    own = [m for m in questions if m.question != "fault" and m.points]
    if not own:
        return 0.0, ["Nothing was worked out."]
    share = sum(m.earned for m in own) / sum(m.points for m in own)
    return share, [m.text for m in own if m.earned < m.points]


def _fault(mark: Mark | None, proved: float) -> tuple[float, list[str]]:
    if mark is None or not mark.points:
        return 0.0, ["Nothing was named."]
    share = mark.earned / mark.points
    if share < 1.0:
        return share * (0.25 if proved <= 0.0 else 1.0), [mark.text]
    return (1.0, []) if proved > 0.0 else (0.25, ["Nothing you had seen by then speaks for it."])


def _evidence(run: Run, proved: float, belief: float, *, right: bool) -> tuple[float, list[str]]:
    if not run.named:
        return 0.0, ["Nothing was named."]
    said = [] if proved >= 1.0 else [f"What you had seen leaves it at {100.0 * belief:.0f} %."]
    return (proved if right else 0.5 * proved), said


def _economy(issue: Issue, run: Run, expert_minutes: float, counts: float) -> tuple[float, list[str]]:
    minutes = sum(s.minutes for s in run.before)
    if counts <= 0.0:
        return 0.0, ["Counts only where the answer was proved."]
    ratio = minutes / max(expert_minutes, 1.0)
    share = min(max((_SLOW - ratio) / (_SLOW - _QUICK), 0.0), 1.0) * counts
    reasons = (
        [] if ratio <= _QUICK else [f"{minutes:.0f} min until you named it; an expert takes {expert_minutes:.0f}."]
    )
    for n, one in enumerate(run.before):
        if one.kind == "test" and one.data["test"] in _DANGEROUS and not _tells(issue, run.before, n):
            share -= _NEEDLESS / RUBRIC["economy"]
            reasons.append(f"Needless: {one.data['test'].replace('_', ' ')}.")
    return max(share, 0.0), reasons


def _tells(issue: Issue, shown: list[Shown], n: int) -> bool:
    """Whether a step moved the belief in anything."""
    setup = issue.setup
    before, after = (weighed(seen(setup.machine, shown[: n + k], setup.system), issue.practice).ranked for k in (0, 1))
    old = {a.fault: a.weight for a in before}
    return any(abs(a.weight - old.get(a.fault, 0.0)) > _TOLD for a in after[:8])


def _work(issue: Issue, run: Run, live: Live, counts: bool, harm: list[str]) -> tuple[float, list[str]]:
    acts = [s for s in run.after if s.kind == "act" and not s.refused]
    parts = [a for a in acts if action_kind(a.data["action"]).money in ("part", "large")]
    if harm:
        return 0.0, ["A step that harms: the work does not count."]
    if not counts:
        return 0.0, ["Counts only where the right fault was named and something spoke for it."]
    planted = of_machine(issue.setup.faults)
    mendable = [f for f in planted if f.id not in NOTHING_TO_REPAIR]
    if not mendable:
        return (0.0, ["There was nothing to put right, and parts were spent."]) if parts else (1.0, [])
    left = [f for f in faults_now(live) if f.id not in NOTHING_TO_REPAIR and not _close(f.id, f.severity)]
    reasons = [f"Still there: {f.id.replace('_', ' ')}." for f in left]
    if live.site.temporary.left:
        reasons.append(f"Left behind: {', '.join(live.site.temporary.left)}.")
    if not live.site.running:
        reasons.append("The machine is off.")
    share = 0.0 if reasons else 1.0
    needless = [a for a in parts if not _called_for(a.data["action"], [f.id for f in mendable])]
    if needless:
        share *= 0.5
        reasons.append(f"Not proved bad: {', '.join(action_kind(a.data['action']).name.lower() for a in needless)}.")
    return share, reasons


#: the charge within this share of the right one is right, per cent
_CHARGE_PCT = 4.0


def _close(fault: str, severity: float) -> bool:
    return fault in ("undercharge", "overcharge") and abs(severity - 100.0) <= _CHARGE_PCT


def _called_for(action: str, faults: list[str]) -> bool:
    from wolfsbane.acting.actions.repairs import BY_ID

    repair = BY_ID.get(action)
    return repair is None or not repair.repairs or any(f in repair.repairs for f in faults)


def _proof(issue: Issue, run: Run, live: Live, counts: bool, harm: list[str]) -> tuple[float, list[str]]:
    if harm:
        return 0.0, ["A step that harms: the proof does not count."]
    wanted, reasons, points = proofs(issue.setup), [], 0.0
    nothing = issue.call.key.fault == NONE or all(f.id in NOTHING_TO_REPAIR for f in of_machine(issue.setup.faults))
    if not counts:
        return 0.0, ["Counts only where the right fault was named and something spoke for it."]
    if nothing:
        points += 6.0
    else:
        good = [p for p in wanted if p in run.proofs and not _right(issue, p, run.proofs[p])]
        points += 6.0 * len(good) / len(wanted) if wanted else 6.0
        reasons += [
            (_right(issue, p, run.proofs[p]) if p in run.proofs else f"{label(p, issue.machine)}: not read again.")
            for p in wanted
            if p not in good
        ]
    if live.low == live.high == "off":
        points += 2.0
    else:
        reasons.append("The hoses are still on.")
    if len(run.ticket.split()) >= _TICKET_WORDS:
        points += 2.0
    else:
        reasons.append("The ticket does not say what was done.")
    return points / 10.0, reasons
