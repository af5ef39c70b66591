"""Marks of a lab session: safety, method, the call's own questions, the result on the rig, the record. What a student
read carries on into what they worked out, as on paper; a harmful step fails what it touches.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from wolfsbane.cycle.units import KG_PER_OZ
from wolfsbane.diagnosis.figures import SATURATIONS
from wolfsbane.exercise.lab.compare import LAB_REASONS
from wolfsbane.exercise.lab.steps import ticks_of
from wolfsbane.exercise.marking.grade import grade
from wolfsbane.exercise.marking.work import ASKED
from wolfsbane.exercise.paper.questions import MEASURED

if TYPE_CHECKING:
    from wolfsbane.exercise.lab.compare import Compared
    from wolfsbane.exercise.lab.events import Session
    from wolfsbane.exercise.lab.outcome import Outcome
    from wolfsbane.exercise.marking.credit import Mark
    from wolfsbane.exercise.paper.call import Call

#: what a session is worth beside the call's own points, by part; kept with each session, so that it stays as it was
RUBRIC = {"safety": 10, "method": 10, "result": 15, "record": 10}
LAB_RUBRIC_VERSION = "1"
PART_NAMES = {
    "safety": "Safety",
    "method": "Method",
    "readings": "Readings",
    "diagnosis": "Figures and diagnosis",
    "plan": "Plan",
    "result": "Result on the rig",
    "record": "Record",
}
#: what the rubric says, part by part
LINES = (
    ("Safety", "Every safety step before gauges go on 5; countersigned where the rig asks 2; nothing done before the "
     "go-ahead 3. Nothing at all where a limit was passed or liquid reached the compressor for more than a minute."),
    ("Method", "Visual inspection before gauges went on 1; gauges zeroed 1; 2 each: read on a settled machine; "
     "named the fault before touching it; plan not stopped at the sign-off; proof read on a settled machine."),
    ("Readings", "Each reading against what the rig showed in that minute. A dial misread or a clamp on the wrong pipe "
     "earns nothing; an instrument that is off by the same on all counts. Your own readings carry on."),
    ("Figures, diagnosis, plan", "As on paper, by your own numbers."),
    ("Result on the rig", "Every figure in its band for this weather, settled 8; the weight that was missing 4; never "
     "beyond it 3, overshot and recovered 1. Nothing where work began before the go-ahead or passed a limit; a quarter "
     "at most where no reading and no figure of yours stand behind it."),
    ("Record", "Cylinder, scale and log agree 5; hoses off, caps, leak check 3; what was done in words 2."),
)  # fmt: skip
#: share of readings and figures that have to have come about before the result counts in full, and what it earns else
_WORK, _NO_WORK = 0.5, 0.25
_SETTLE_S = 600.0
_FIGURED = (*SATURATIONS, *ASKED)
#: said also where it cost nothing
TOLD = ("lab_gauges_off", "lab_clamps_off")


@dataclass(frozen=True, kw_only=True)
class LabMark:
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
class Seen:
    """What is known of a session beside its events: ``outcome`` None where nothing was judged yet; ``settled_at`` a
    reading or proof -> whether the rig stood still then (missing where nobody knows); ``agreed`` each weighing ->
    whether cylinder, scale and log agree; ``countersigns`` where the rig asks for it.
    """

    outcome: Outcome | None = None
    settled_at: Mapping[str, bool] = field(default_factory=dict)
    agreed: tuple[tuple[str, bool], ...] = ()
    countersigns: bool = False


def call_marks(call: Call, session: Session, compared: Mapping[str, Compared]) -> list[Mark]:
    """Marks of the call's own questions. ``call`` is measured: its readings are what the rig showed in the minute each
    was typed; ``compared`` says why a reading stands as it does.
    """
    answers = {q: a.text for q, a in session.answers.items()}
    if session.planned:
        # what was changed after the plan was handed in does not count for what came before the work
        answers |= {q: t for q, t in session.planned.items() if not q.startswith("read_")}
    found = []
    for mark in grade(call, answers):
        seen = compared.get(mark.question.removeprefix("read_")) if mark.question.startswith("read_") else None
        if seen is not None and mark.points and mark.code not in ("blank", "unreadable", "asked_back"):
            mark = replace(mark, earned=mark.points if seen.right else 0, code=seen.code, params=seen.params)
        elif mark.question.startswith("read_") and mark.code == "measured_off":
            # no logger saw it: the last calibration stands in, and says so
            said = {"given": mark.params["given"], "shown": mark.params["expected"]}
            mark = replace(mark, code="lab_predicted", params=said)
        found.append(mark)
    return found


def reason_of(mark: Mark) -> str:
    """Why a mark of a call in a session stands as it does."""
    return LAB_REASONS[mark.code].format(**mark.params) if mark.code in LAB_REASONS else mark.text


def part_of(question: str) -> str:
    """The part of the marks that a question of the call belongs to."""
    if question.startswith("read_"):
        return "readings"
    return "plan" if question in ("action", "amount", "order") or question.startswith("after_") else "diagnosis"


def lab_marks(
    call: Call, session: Session, seen: Seen, marks: list[Mark], rubric: Mapping[str, int] | None = None
) -> list[LabMark]:
    """Marks of a session, part by part. ``marks`` are those of :func:`call_marks`; ``rubric`` the points of the other
    parts as they were when the session began. What an instructor observed is added or taken within each part.
    """
    worth = dict(RUBRIC if rubric is None else rubric)
    rows = {
        "safety": _safety(call, session, seen),
        "method": _method(session, seen, marks),
        "result": _counted(_result(seen.outcome, call.units), session, seen, marks),
        "record": _record(session, seen),
    }
    found = []
    for part in PART_NAMES:
        if part in rows:
            most = worth[part]
            earned, reasons = rows[part]
            # the parts are written for their usual worth and scaled to the one that was kept
            earned = round(earned * most / RUBRIC[part])
            for said in session.observed:
                if said["part"] == part:
                    earned += said["points"]
                    reasons = [*reasons, f"{said['points']:+d} by the instructor: {said['why']}".replace("-", "−", 1)]
            found.append(LabMark(part=part, points=most, earned=max(0, min(most, earned)), reasons=tuple(reasons)))
        else:
            own = [m for m in marks if part_of(m.question) == part]
            found.append(
                LabMark(
                    part=part,
                    points=sum(m.points for m in own),
                    earned=sum(m.earned for m in own),
                    reasons=tuple(reason_of(m) for m in own if m.earned < m.points or m.code in TOLD),
                )
            )
    return [m for m in found if m.points]


def total_of(marks: list[LabMark]) -> tuple[int, int]:
    """(earned, possible)."""
    return sum(m.earned for m in marks), sum(m.points for m in marks)


def _harmed(session: Session, seen: Seen) -> bool:
    """Whether a step was taken that harms: a limit passed, liquid at the compressor, work before the go-ahead."""
    out, worked, go = seen.outcome, _worked(session), session.go_at
    early = worked is not None and (go is None or go > worked)
    return early or (out is not None and bool(out.limits or out.wet_s))


def _worked_out(marks: list[Mark]) -> bool:
    """Whether at least half of the readings and figures came about."""
    own = [m for m in marks if m.points and (m.question in MEASURED or m.question in _FIGURED)]
    return not own or sum(m.earned > 0 for m in own) >= _WORK * len(own)


def _counted(row: tuple[int, list[str]], session: Session, seen: Seen, marks: list[Mark]) -> tuple[int, list[str]]:
    """The result as far as it counts: nothing after harm, little with no work behind it."""
    earned, reasons = row
    if earned and _harmed(session, seen):
        return 0, [*reasons, "A step that harms: the result does not count."]
    if earned and not _worked_out(marks):
        return int(_NO_WORK * earned), [*reasons, "No readings and figures of yours stand behind it."]
    return earned, reasons


def _entered(session: Session, phase: str) -> float | None:
    return next((t for p, t in session.entered if p == phase), None)


def _before(session: Session, ticks: list[str], limit: float | None) -> list[str]:
    """Ticks that were not there by then."""
    return [t for t in ticks if t not in session.ticks or (limit is not None and session.ticks[t] > limit)]


def _gauges_on(session: Session) -> float | None:
    """When gauges went on: the first tick of that step, or the first reading."""
    times = [t for step, t in session.ticks.items() if step in ("ports", "purged", "clamps")]
    times += [a.at for q, a in session.answers.items() if q.startswith("read_") and a.text]
    return min(times, default=None)


def _worked(session: Session) -> float | None:
    """When the first work on the rig was written down."""
    times = [w["began_at"] for w in session.weighs]
    times += [t for t in (_entered(session, "act"), session.done_at) if t is not None]
    return min(times, default=None)


def _safety(call: Call, session: Session, seen: Seen) -> tuple[int, list[str]]:
    reasons, earned = [], 0
    asked = [t for t in ticks_of(call.machine.refrigerant) if t.phase == "safety"]
    late = _before(session, [t.id for t in asked], _gauges_on(session))
    if late:
        said = " ".join(t.text for t in asked if t.id in late)
        reasons.append(f"Not before gauges went on: {said}")
    else:
        earned += 5
    on = _gauges_on(session)
    signed = session.countersigned_at
    if not seen.countersigns or (signed is not None and (on is None or signed <= on)):
        earned += 2
    else:
        reasons.append("Safety steps were not countersigned before gauges went on.")
    worked, go = _worked(session), session.go_at
    if worked is None or (go is not None and go <= worked):
        earned += 3
    else:
        reasons.append("Work began before the go-ahead.")
    out = seen.outcome
    if out is not None and (out.limits or out.wet_s):
        reasons += list(out.limits)
        if out.wet_s:
            reasons.append(f"Liquid at the compressor for {out.wet_s / 60.0:.0f} min.")
        earned = 0
    return earned, reasons


def _method(session: Session, seen: Seen, marks: list[Mark]) -> tuple[int, list[str]]:
    settled = seen.settled_at
    gauges = _gauges_on(session)
    looked = not _before(session, ["look_air", "look_lines"], gauges)
    read = [a.at for q, a in session.answers.items() if q.startswith("read_") and a.text]
    unsettled = [q for q, ok in settled.items() if q.startswith("read_") and not ok]
    worked = _worked(session)
    fault = session.answers.get("fault")
    named = fault is not None and bool(fault.text.strip()) and (worked is None or session.planned_at is not None)
    named = named and (worked is None or (session.planned_at or 0.0) <= worked) and _worked_out(marks)
    zeroed = "zeroed" in session.ticks and not any(m.code == "lab_gauges_off" for m in marks)
    proofs = {q: ok for q, ok in settled.items() if q.startswith("proof_")}
    waited = session.done_at is not None and any(a.at - session.done_at >= _SETTLE_S for a in session.proofs.values())
    rows = (
        (1, looked, "The visual inspection came after gauges went on, or not at all."),
        (1, zeroed, "The gauges were not zeroed."),
        (2, bool(read) and not unsettled, "Read before the machine had settled." if read else "Nothing was read."),
        (2, named, "No fault was named from your own figures before the work began."),
        (2, session.go_at is not None and not session.stops, "The plan was stopped at the sign-off."),
        (
            2,
            bool(session.proofs) and (all(proofs.values()) if proofs else waited),
            "Proof read before it had settled." if session.proofs else "No proof was read.",
        ),
    )
    return sum(n for n, ok, _ in rows if ok), [why for _, ok, why in rows if not ok]


def _weight(kg: float, system: str, sign: str = "+") -> str:
    """A weight in the units of the call."""
    size, digits = (kg / KG_PER_OZ, ".1f") if system == "us" else (1000.0 * kg, ".0f")
    return f"{size:{sign}{digits}} {'oz' if system == 'us' else 'g'}".replace("-", "−")


def _result(out: Outcome | None, system: str) -> tuple[int, list[str]]:
    if out is None:
        return 0, ["Nothing was done on the rig."]
    reasons = list(out.notes)
    if not out.settled:
        return 0, [*reasons, "The rig had not settled: " + "; ".join(out.why) + "."]
    good = [f for f in out.figures if f.ok]
    earned = 8 * len(good) // len(out.figures) if out.figures else 0
    reasons += [f"{f.text(system)}." for f in out.figures if not f.ok]
    if out.missing_kg is None:
        wrong = out.moved_kg is not None and abs(out.moved_kg) > out.margin_kg
        if wrong:
            assert out.moved_kg is not None
            reasons.append(f"{_weight(abs(out.moved_kg), system, '')} moved on a machine whose charge was right.")
        return (earned + (7 if out.proved and not wrong else 0)), reasons
    if out.weight_ok or (out.weight_ok is None and out.proved):
        earned += 4
    elif out.moved_kg is not None:
        moved, missing = (_weight(kg, system) for kg in (out.moved_kg, out.missing_kg))
        reasons.append(f"{moved} by the scale, {missing} were missing.")
    if not out.overshot:
        earned += 3 if good else 0
    else:
        assert out.most_kg is not None
        reasons.append(f"Overshot: {_weight(abs(out.most_kg), system, '')} at the most.")
        earned += 1 if out.recovered else 0
    return earned, reasons


def _record(session: Session, seen: Seen) -> tuple[int, list[str]]:
    reasons, earned = [], 0
    off = [words for words, ok in seen.agreed if not ok]
    moved = seen.outcome is not None and seen.outcome.moved_kg is not None and abs(seen.outcome.moved_kg) > 0.0
    if off:
        reasons += off
    elif moved and not seen.agreed:
        reasons.append("Refrigerant moved and no weight was written down.")
    elif session.weighs or (seen.outcome is not None):
        earned += 5
    missing = _before(session, ["hoses_off", "caps", "leak_checked"], None)
    earned += 3 - len(missing)
    if missing:
        said = {"hoses_off": "hoses off", "caps": "caps on", "leak_checked": "leak check"}
        reasons.append("Not written down: " + ", ".join(said[t] for t in missing) + ".")
    if len(session.record.split()) >= 3:
        earned += 2
    else:
        reasons.append("The record does not say what was done.")
    return earned, reasons
