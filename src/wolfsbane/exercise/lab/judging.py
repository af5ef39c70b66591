"""A lab session judged as a whole: what was typed against what the logger showed then, the work by the rig, the marks.

Pure: what the logger kept comes as rows, times are seconds of one clock.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import takewhile
from typing import TYPE_CHECKING

from wolfsbane.cycle.errors import BadInputError, NoConvergenceError
from wolfsbane.cycle.instruments import tool_for
from wolfsbane.cycle.units import from_display
from wolfsbane.diagnosis.own_practice import kept_practice
from wolfsbane.exercise.draw.rig import measured_call
from wolfsbane.exercise.lab import outcome as by_rig
from wolfsbane.exercise.lab.compare import Compared, Minute, compared
from wolfsbane.exercise.lab.marks import LabMark, Seen, call_marks, lab_marks
from wolfsbane.exercise.lab.skills import Shown, shown_in
from wolfsbane.exercise.lab.steps import PROOF
from wolfsbane.exercise.marking.answers import parse
from wolfsbane.exercise.paper.questions import MEASURED
from wolfsbane.rig.reading import as_read
from wolfsbane.rig.steady import settled
from wolfsbane.rig.weights import moved_kg

if TYPE_CHECKING:
    from wolfsbane.cycle.faults import Fault
    from wolfsbane.cycle.machine import Machine
    from wolfsbane.exercise.lab.events import Session
    from wolfsbane.exercise.lab.outcome import Outcome
    from wolfsbane.exercise.marking.credit import Mark
    from wolfsbane.exercise.paper.call import Call
    from wolfsbane.rig.individual import Individual
    from wolfsbane.rig.rig import Rig
    from wolfsbane.rig.steady import Sample

#: a reading is what the rig showed in the minute it was typed; so many minutes before it are looked at too
_MINUTE_S, _BACK = 60.0, 10
#: a logger that showed nothing within so many seconds before a moment saw nothing of it
_FRESH_S = 15.0
_LEAST = 3
#: what moved within a minute is told from its first and last so many seconds
_END_S = 12.0
#: a weight is the mean of what the scale showed just after a moment, or just before it where nothing came after, s
_SCALE_S = 4.0
#: further from the first of them than this, the next weighing has begun, kg
_MOVES_KG = 0.012
#: so many samples of it at most
_NEAR = 3
_WEATHER = ("return_db", "return_wb", "outdoor_db", "water_in")
_UNITS = {"us": {"pressure": "psig", "temperature": "°F"}, "si": {"pressure": "kPa", "temperature": "°C"}}


class Logged:
    """What a rig's logger kept: rows of (moment, (rig's clock, reading by point)) in the order of time."""

    def __init__(self, rows: Sequence[tuple[float, Sample]] = ()) -> None:
        self.rows = list(rows)
        self._times = [t for t, _ in self.rows]

    def before(self, at: float, span_s: float) -> list[Sample]:
        """Samples of the last ``span_s`` of the rig's clock up to a moment; from where its clock last went back."""
        end = bisect_right(self._times, at + 1.0)
        found: list[Sample] = []
        for _, sample in reversed(self.rows[:end]):
            if found and (sample[0] > found[-1][0] or sample[0] <= found[0][0] - span_s):
                break
            found.append(sample)
        return found[::-1]

    def fresh(self, at: float) -> bool:
        """Whether anything was logged shortly before a moment."""
        return bisect_left(self._times, at - _FRESH_S) < bisect_right(self._times, at + 1.0)

    def between(self, begin: float, end: float) -> list[Sample]:
        """Samples between two moments, from where the rig's clock last went back."""
        found: list[Sample] = []
        for _, sample in self.rows[bisect_left(self._times, begin) : bisect_right(self._times, end)]:
            if found and sample[0] < found[-1][0]:
                found = []
            found.append(sample)
        return found

    def scale_kg(self, at: float, *, after: bool) -> float | None:
        """What the scale showed when a weight was read off it, kg: ``after`` it had come to rest, or before it began to
        move. None where nothing was logged then.
        """
        here = bisect_right(self._times, at)
        later, sooner = self.rows[here : here + _NEAR], self.rows[max(here - _NEAR, 0) : here][::-1]
        for rows in (later, sooner) if after else (sooner, later):
            near = [(t, v) for t, (_, s) in rows if abs(t - at) <= _FRESH_S and (v := s.get("weight")) is not None]
            shown = _at_rest([v for t, v in near if abs(t - near[0][0]) <= _SCALE_S])
            if shown:
                return sum(shown) / len(shown)
        return None


def _at_rest(shown: Sequence[float]) -> list[float]:
    """What a scale showed, kg, from the first on until it began to move."""
    return list(takewhile(lambda kg: abs(kg - shown[0]) <= _MOVES_KG, shown))


@dataclass(frozen=True, kw_only=True)
class Bench:
    """The rig of a session: as it was entered, its profile, what was calibrated of it, what was planted, and whether it
    asks for countersigning.
    """

    rig: Rig
    profile: Machine
    individual: Individual
    planted: tuple[Fault, ...]
    countersigns: bool = False


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What is known about a session: each typed reading compared, the outcome, marks of the call's questions and of the
    parts, skills; ``logged`` where a logger saw it.
    """

    compared: Mapping[str, Compared]
    outcome: Outcome | None
    questions: tuple[Mark, ...]
    parts: tuple[LabMark, ...]
    skills: tuple[Shown, ...]
    logged: bool
    settled_at: Mapping[str, bool] = field(default_factory=dict)


def minute_of(bench: Bench, logged: Logged, at: float, system: str) -> Minute | None:
    """The minute up to a moment as good instruments would have read it, None where the logger saw nothing. What the
    rig's channels are known to show too much is taken off.
    """
    if not logged.fresh(at):
        return None
    rows = logged.before(at, (_BACK + 1) * _MINUTE_S)
    last = rows[-1][0]
    offsets = bench.individual.offsets

    def read(some: Sequence[Sample], least: int) -> dict[str, float]:
        sums: dict[str, list[float]] = {}
        for _, sample in some:
            for point, value in sample.items():
                if value is not None:
                    sums.setdefault(point, []).append(value)
        mean = {p: sum(v) / len(v) - offsets.get(p, 0.0) for p, v in sums.items() if len(v) >= least}
        try:
            return as_read(bench.rig, bench.profile, mean, system) if mean else {}
        except BadInputError:
            return {}

    minutes: list[list[Sample]] = [[] for _ in range(_BACK + 1)]
    for sample in rows:
        minutes[min(int((last - sample[0]) / _MINUTE_S), _BACK)].append(sample)
    shown = read(minutes[0], _LEAST)
    if not shown:
        return None
    ends = [
        read([s for s in minutes[0] if low <= last - s[0] < high], 1)
        for low, high in ((0.0, _END_S), (_MINUTE_S - _END_S, _MINUTE_S))
    ]
    spread = {k: abs(ends[0][k] - ends[1][k]) for k in shown if all(k in e for e in ends)}
    earlier = [e for some in minutes[1:] if (e := read(some, _LEAST))]
    return Minute(shown=shown, spread=spread, earlier=earlier)


def typed_readings(call: Call, session: Session) -> dict[str, tuple[float, float]]:
    """Reading -> (number in the call's units, when it was typed), of what can be read as a number."""
    found = {}
    for q in call.questions:
        answer = session.answers.get(q.id)
        if q.id in MEASURED and answer is not None:
            value = parse(q.kind, answer.text, q.unit).value
            if isinstance(value, (int, float)):
                found[MEASURED[q.id]] = (float(value), answer.at)
    return found


def judge(call: Call, session: Session, bench: Bench, logged: Logged, rubric: Mapping[str, int]) -> Judged:
    """Judge a session as far as it went."""
    read = typed_readings(call, session)
    minutes = {key: m for key, (_, at) in read.items() if (m := minute_of(bench, logged, at, call.units)) is not None}
    stands = compared(call, {k: v for k, (v, _) in read.items()}, minutes)
    measured = _measured(call, bench, read, minutes)
    moments = [(f"read_{k}", at) for k, (_, at) in read.items()]
    moments += [(f"proof_{k}", a.at) for k, a in session.proofs.items() if a.text.strip()]
    settled_at = {q: settled(logged.before(at, 600.0)).ok for q, at in moments if logged.fresh(at)}
    outcome = _outcome(call, session, bench, logged)
    agreed = tuple((w["said"], not w["said"]) for w in session.weighs)
    seen = Seen(outcome=outcome, settled_at=settled_at, agreed=agreed, countersigns=bench.countersigns)
    marks = call_marks(measured, session, stands)
    parts = lab_marks(call, session, seen, marks, rubric)
    moved: dict[str, bool] = {}
    for w in session.weighs:
        moved[w["kind"]] = moved.get(w["kind"], True) and not w["said"]
    return Judged(
        compared=stands,
        outcome=outcome,
        questions=tuple(marks),
        parts=tuple(parts),
        skills=shown_in(session, marks, moved, outcome is not None and outcome.proved),
        logged=bool(minutes) or (outcome is not None and outcome.by == "logger"),
        settled_at=settled_at,
    )


def _measured(call: Call, bench: Bench, read: Mapping[str, tuple[float, float]], minutes: Mapping[str, Minute]) -> Call:
    """The call with what the rig showed when each reading was typed; what no logger saw stays as it was predicted."""
    machine, practice = bench.individual.machine(bench.profile), kept_practice(call.practice)
    asked = {MEASURED[q.id] for q in call.questions if q.id in MEASURED}
    predicted = {name: call.readings[name].value for name in asked if name in call.readings}
    values = dict(predicted)
    if minutes:
        latest = minutes[max(minutes, key=lambda k: read[k][1])].shown
        values |= {k: v for k, v in latest.items() if k in values}
        values |= {k: m.shown[k] for k, m in minutes.items() if k in values and k in m.shown}
    try:
        return measured_call(call, machine, practice, values)
    except BadInputError:
        # what the logger shows lies off the chart
        return measured_call(call, machine, practice, predicted)


def _outcome(call: Call, session: Session, bench: Bench, logged: Logged) -> Outcome | None:
    """What came of the work; None before there was any."""
    if session.done_at is None and not session.weighs and not session.proofs:
        return None
    begins = [session.go_at, session.done_at, *(w["began_at"] for w in session.weighs)]
    begin = min((t for t in begins if t is not None), default=session.began_at)
    end = max([a.at for a in session.proofs.values()] or [session.finished_at or session.last_at])
    samples = logged.between(begin - 5.0, end + 1.0)
    try:
        if len(samples) >= _LEAST:
            return by_rig.judged(bench.rig, bench.profile, bench.individual, samples, bench.planted)
        return _typed_outcome(call, session, bench)
    except (BadInputError, NoConvergenceError):
        return None


def _typed_outcome(call: Call, session: Session, bench: Bench) -> Outcome | None:
    """The same without a logger: typed proof readings in the weather that was typed, and typed weights."""
    if not session.proofs:
        return None
    numbers = {k: v for k, (v, _) in typed_readings(call, session).items()}
    for name, answer in session.proofs.items():
        kind = tool_for(name, call.instruments).kind
        value = parse(kind, answer.text, _UNITS[call.units][kind]).value
        if isinstance(value, (int, float)):
            numbers[name] = float(value)
    barometer = call.conditions.barometer_pa
    shown: dict[str, float] = {}
    for name in (*PROOF, *_WEATHER):
        if name in numbers:
            kind = tool_for(name, call.instruments).kind
            si = from_display(kind, numbers[name], call.units, barometer)
            shown[name] = si - barometer if kind == "pressure" else si
    return by_rig.typed(bench.rig, bench.profile, bench.individual, shown, weighed(session, call.units), bench.planted)


def weighed(session: Session, system: str) -> float | None:
    """Into the machine, by what was written down, kg; None where nothing was weighed or it cannot be read."""
    if not session.weighs:
        return None
    try:
        return sum((1.0 if w["kind"] == "charge" else -1.0) * moved_kg(w["log"], system) for w in session.weighs)
    except BadInputError:
        return None
